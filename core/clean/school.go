package clean

// The schools of cleaning: questions on which good mechanics differ (handbook: clean, schools; lubricate,
// application). The first answer of each is the house's.

// Pressure is the school of water under pressure.
type Pressure uint8

// The schools of pressure.
const (
	LowPressure   Pressure = iota // low, at a distance
	NeverPressure                 // bucket and hose only
)

// First is the school of what is cleaned first.
type First uint8

// The schools of what is first.
const (
	DrivetrainFirst First = iota // what splashes onto the frame is washed off after
	FrameFirst                   // grit gone before the drivetrain is opened
)

// Product is what a frame is washed with.
type Product uint8

// The wash products.
const (
	BikeShampoo Product = iota // bike or car shampoo
	DishSoap                   // a degreaser that carries salt, dulls paint in time and strips grease
)

// Crank is which way the chain is turned in its bath.
type Crank uint8

// The ways.
const (
	Backward Crank = iota
	Forward        // rear wheel off the ground
)

// Cleaner is how cleaner and degreaser go on.
type Cleaner uint8

// The ways. Degreaser is never sprayed near a rotor or a rim, whatever the school.
const (
	ByPlace Cleaner = iota // on brush or cloth near rotors, sprayed elsewhere
	Sprayed
	OnBrush
)

// Oiling is where a chain that was off is oiled.
type Oiling uint8

// The places.
const (
	Fitted     Oiling = iota
	OffTheBike        // before fitting
	HeatedBath        // in a lubricant bath, for oils that are made for it
)

// OilBy is how oil goes onto a chain on the bike.
type OilBy uint8

// The ways.
const (
	Drops     OilBy = iota // one for each joint
	Stream                 // on the running chain
	SprayedOn              // aerosol
)

// Stripping is how far a drivetrain is taken apart for cleaning.
type Stripping uint8

// The schools.
const (
	ByGrade Stripping = iota // and by interval
	OnBike                   // always on the bike; a bath is the most that is done
)

// Schools are a shop's answers.
type Schools struct {
	Pressure    Pressure
	First       First
	Product     Product
	Crank       Crank
	Cleaner     Cleaner
	Oiling      Oiling
	OilBy       OilBy
	Strip       Stripping
	PartsWasher bool // sprockets and rings are scrubbed in one, instead of the tub
	// WheelIn leaves the rear wheel in for the chain bath, as where there is no dummy hub.
	WheelIn bool
}

var (
	pressures  = [...]string{"low", "never"}
	firsts     = [...]string{"drivetrain-first", "frame-first"}
	products   = [...]string{"shampoo", "dish-soap"}
	cranks     = [...]string{"backward", "forward"}
	cleaners   = [...]string{"by-place", "sprayed", "on-brush"}
	oilings    = [...]string{"fitted", "off-bike", "heated-bath"}
	oilBys     = [...]string{"drops", "stream", "spray"}
	strippings = [...]string{"by-grade", "on-bike"}
)

func (p Pressure) String() string  { return pressures[p] }
func (f First) String() string     { return firsts[f] }
func (p Product) String() string   { return products[p] }
func (c Crank) String() string     { return cranks[c] }
func (c Cleaner) String() string   { return cleaners[c] }
func (o Oiling) String() string    { return oilings[o] }
func (o OilBy) String() string     { return oilBys[o] }
func (s Stripping) String() string { return strippings[s] }

// ParsePressure reads the name that [Pressure.String] writes.
func ParsePressure(s string) (Pressure, error) {
	return parse[Pressure](pressures[:], s, "school of pressure")
}

// ParseFirst reads the name that [First.String] writes.
func ParseFirst(s string) (First, error) {
	return parse[First](firsts[:], s, "school of what is first")
}

// ParseProduct reads the name that [Product.String] writes.
func ParseProduct(s string) (Product, error) { return parse[Product](products[:], s, "wash product") }

// ParseCrank reads the name that [Crank.String] writes.
func ParseCrank(s string) (Crank, error) { return parse[Crank](cranks[:], s, "way to turn the crank") }

// ParseCleaner reads the name that [Cleaner.String] writes.
func ParseCleaner(s string) (Cleaner, error) {
	return parse[Cleaner](cleaners[:], s, "way to put cleaner on")
}

// ParseOiling reads the name that [Oiling.String] writes.
func ParseOiling(s string) (Oiling, error) {
	return parse[Oiling](oilings[:], s, "place to oil a chain")
}

// ParseOilBy reads the name that [OilBy.String] writes.
func ParseOilBy(s string) (OilBy, error) { return parse[OilBy](oilBys[:], s, "way to put oil on") }

// ParseStripping reads the name that [Stripping.String] writes.
func ParseStripping(s string) (Stripping, error) {
	return parse[Stripping](strippings[:], s, "school of how far to strip")
}

// schoolTags are those tags that the schools decide on.
var schoolTags = []string{"dish-soap", "turned-forward", "spray-cleaner", "spray-degreaser", "stream", "spray-oil", "oil-off", "oil-heated", "parts-washer"}

// tags adds to what holds of a job what the schools make of it.
func (s Schools) tags(of map[string]bool) {
	of["dish-soap"] = s.Product == DishSoap
	of["turned-forward"] = s.Crank == Forward && !of["fixed"] && !of["forward-only"]
	of["spray-cleaner"] = s.Cleaner == Sprayed || s.Cleaner == ByPlace && !of["disc"]
	of["spray-degreaser"] = s.Cleaner != OnBrush && !of["disc"] && !of["rim"]
	of["parts-washer"] = s.PartsWasher
	offBike := of["oil"] && of["leaves-again"]
	of["oil-off"], of["oil-heated"] = offBike && s.Oiling == OffTheBike, offBike && s.Oiling == HeatedBath
	// A fixed chain and one that is off do not run past a stream or a spray.
	runs := of["oil"] && !of["fixed"] && !of["oil-off"] && !of["oil-heated"]
	of["stream"], of["spray-oil"] = runs && s.OilBy == Stream, runs && s.OilBy == SprayedOn
}
