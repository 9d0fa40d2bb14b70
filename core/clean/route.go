package clean

import "earnestpony/core/chain"

// Route is one way to clean a drivetrain. Those up to [Strip] stand in order, each reaching further.
type Route uint8

// The routes.
const (
	Wipe  Route = iota // chain, pulleys and ring wiped, dripped, wiped off
	Quick              // on the bike: cleaner on brush and rag
	Bath               // chain-bath device on the lower run, degreaser and then soapy water
	Soak               // chain off into a jar or tray, wheel out
	Strip              // everything off, each part by itself
	Bare               // the chain alone, to bare metal for wax
)

var routes = [...]string{"wipe", "quick", "bath", "soak", "strip", "bare"}

func (r Route) String() string { return routes[r] }

// ParseRoute reads the name that [Route.String] writes.
func ParseRoute(s string) (Route, error) { return parse[Route](routes[:], s, "route") }

// Routes lists them all, in order.
func Routes() []Route { return []Route{Wipe, Quick, Bath, Soak, Strip, Bare} }

// OpensChain reports whether the route takes the chain off.
func (r Route) OpensChain() bool { return r >= Soak }

// reaches is the dirtiest drivetrain that a route covers.
var reaches = [...]Grade{Wipe: 1, Quick: 2, Bath: 3, Soak: 3, Strip: 4}

// Place is a part of the drivetrain that a route may leave dirty.
type Place string

// The places.
const (
	JointsInside   Place = "joints-inside"
	RollersInside  Place = "rollers-inside"
	RingBacks      Place = "ring-backs"
	BottomBracket  Place = "bottom-bracket"
	UnderGuide     Place = "under-chain-guide"
	BehindCrank    Place = "behind-crank"
	ClutchInside   Place = "clutch-inside"
	PulleyBearings Place = "pulley-bearings"
	AllButChain    Place = "all-but-the-chain"
)

// Misses is what the route does not reach, to be said beside its price.
func (r Route) Misses() []Place {
	switch r {
	case Wipe:
		return []Place{JointsInside}
	case Quick:
		return []Place{JointsInside, RingBacks}
	case Bath:
		return []Place{RollersInside, RingBacks, BottomBracket, UnderGuide}
	case Soak:
		return []Place{BehindCrank, ClutchInside, PulleyBearings}
	case Bare:
		return []Place{AllButChain}
	case Strip:
	}
	return nil
}

// Time is how long a route takes: by hand, and waiting at least and at most.
type Time struct {
	Attended, WaitLeast, WaitMost Minutes
}

// Rules are a shop's times and schools.
type Rules struct {
	Times     [len(routes)]Time
	WashTimes [len(washes)]Minutes
	Schools
	// StripNewGrease takes a new chain's grease off under oil too; FreehubDry leaves the freehub body
	// without a smear; Blower reports that compressed air or a blower halves the drying.
	StripNewGrease, FreehubDry, Blower bool
	// StepMinutes are the shop's own minutes by step, where it set some.
	StepMinutes map[string]Minutes
	Card        Card
}

// HouseRules are the times of the handbook (clean, routes and minutes by hand).
func HouseRules() Rules {
	return Rules{
		Times: [...]Time{
			Wipe: {5, 5, 5}, Quick: {15, 10, 10}, Bath: {30, 30, 30},
			Soak: {60, 60, 1440}, Strip: {150, 60, 1440}, Bare: {35, 120, 120},
		},
		WashTimes: [...]Minutes{DryWipe: 8, Bucket: 25, Hose: 20, Washer: 12},
	}
}

// Why is one reason of a choice, or against one.
type Why string

// The reasons for a route, and for what is refused.
const (
	GradeCovered    Why = "grade"              // the lightest that covers the grade
	FamilyChanges   Why = "lubricant-changes"  // raised by one
	DeepDue         Why = "deep-clean-due"     // raised by one
	Complaint       Why = "complaint"          // what the owner reports sits deeper than the grade
	UnderWax        Why = "wax-needs-bare"     // wax holds on bare metal only
	FilmOn          Why = "film-needs-solvent" // degreaser does not lift it
	ChainComesOff   Why = "chain-is-replaced"  // it gets a wipe; the route serves what stays
	CannotOpen      Why = "no-joining-link"    // a bath is the most that can be done
	TooLight        Why = "too-light"          // does not cover the grade
	WaxRefused      Why = "no-wax-over-oil"    // the chain cannot be bared, so wax is put off
	ChainOnly       Why = "serves-chain-only"  // the rest needs a route of its own
	AcidRefused     Why = "acid-refused"       // mid-motor, cargo or children: long acid soaks can embrittle steel
	NothingToSave   Why = "rust-past-saving"   // replace it
	AcidBath        Why = "acid-off-the-bike"  // citric bath, then neutralised, rinsed, dried, lubricated at once
	WipeRust        Why = "oil-and-wipe-rust"  //
	NeverWasher     Why = "pressure-not-here"  // by the shop's school
	WasherMotor     Why = "no-washer-at-motor" // nothing under pressure at motor, battery, display
	WashTooLight    Why = "frame-needs-more"   // dried mud is not wiped off dry: it scratches
	LongSoakRefused Why = "label-allows-no-long-soak"
	OnBikeOnly      Why = "house-cleans-on-the-bike" // a bath is the most that is done
	NoFamilyKnown   Why = "coat-is-not-known"        // treated as a change
	AfterPreRinse   Why = "pre-rinse-the-frame"      // dried mud: loose grit off before anything is opened
)

// Option is one route as it stands beside the others.
type Option struct {
	Route   Route
	Time    Time
	Misses  []Place
	Against []Why // why it is not for this bike; none when it would do
	Refused bool  // it cannot be done at all
	// Cautions are those of this route on this bike, whoever chose it.
	Cautions []Caution
}

// Choice is what is recommended for a bike, and everything it was chosen from.
type Choice struct {
	// Route is the one to name. Chain is what the chain itself gets, Parts what stays on the bike.
	Route, Chain, Parts Route
	// OrderLink reports that a joining link must come before the chain can be taken off.
	OrderLink bool
	// Next is what goes on after all: wax that was asked for is put off where the chain cannot be bared.
	Next     Coat
	Why      []Why
	Options  []Option
	Wash     Wash
	Washes   []WashOption
	Cautions []Caution
}

// Choose recommends a route and a wash. The lightest route that covers the grade is raised by one when
// the lubricant family changes or the deep clean is past due; wax asks for bare metal; a chain that is
// replaced gets a wipe; and without a way to open the chain a bath is the most there is, and wax is
// put off.
func Choose(b Bike, r Rules) Choice {
	c := Choice{Parts: lightest(b.Drivetrain), Why: []Why{GradeCovered}}
	opens := b.CanOpen || b.ChainGoes // what goes for good is cut
	if !opens && b.Next.wax() && b.bares() {
		b.Next = b.withoutOpening()
		c.OrderLink = true
		c.Why = append(c.Why, UnderWax, CannotOpen)
		if b.Next == Oil {
			c.Why = append(c.Why, WaxRefused)
		}
	}
	c.Next = b.Next
	if b.changes() {
		c.Why = append(c.Why, FamilyChanges)
		if b.On == Unknown {
			c.Why = append(c.Why, NoFamilyKnown)
		}
	}
	if b.DeepCleanDue {
		c.Why = append(c.Why, DeepDue)
	}
	if b.changes() || b.DeepCleanDue {
		c.Parts = min(c.Parts+1, Strip)
	}
	if b.Least > c.Parts && b.Least <= Strip {
		c.Parts = b.Least
		c.Why = append(c.Why, Complaint)
	}
	if b.On == Film && !b.ChainGoes {
		c.Parts = max(c.Parts, Soak)
		c.Why = append(c.Why, FilmOn)
	}
	c.Chain, c.Route = c.Parts, c.Parts
	if r.Strip == OnBike && b.Least < Soak && c.Parts > Bath && (b.On != Film || b.ChainGoes) {
		c.Parts = Bath
		c.Chain, c.Route = Bath, Bath
		c.Why = append(c.Why, OnBikeOnly)
	}
	if b.bares() {
		c.Chain, c.Route = Bare, Bare
		if b.Next.wax() {
			c.Why = append(c.Why, UnderWax)
		}
	}
	if b.ChainGoes {
		c.Chain = Wipe
		c.Why = append(c.Why, ChainComesOff)
	}
	if !opens && c.Route.OpensChain() {
		c.Parts = min(c.Parts, Bath)
		c.Chain, c.Route = c.Parts, c.Parts
		if !c.OrderLink {
			c.OrderLink = true
			c.Why = append(c.Why, CannotOpen)
		}
	}
	c.Why = append(c.Why, rustCare(b)...)
	for _, route := range Routes() {
		c.Options = append(c.Options, option(b, r, route, opens))
	}
	c.Wash, c.Washes = wash(b, r)
	if b.Frame >= driedMud {
		c.Why = append(c.Why, AfterPreRinse)
	}
	c.Cautions = together(c)
	return c
}

func lightest(g Grade) Route {
	for route, most := range reaches {
		if g <= most {
			return Route(route)
		}
	}
	return Strip
}

func option(b Bike, r Rules, route Route, opens bool) Option {
	o := Option{Route: route, Time: r.Times[route], Misses: route.Misses()}
	switch {
	case route.OpensChain() && !opens:
		o.Refused = true
		o.Against = append(o.Against, CannotOpen)
	case route == Bare:
		o.Against = append(o.Against, ChainOnly)
	case reaches[route] < b.Drivetrain:
		o.Against = append(o.Against, TooLight)
	}
	if r.Strip == OnBike && (route == Soak || route == Strip) {
		o.Against = append(o.Against, OnBikeOnly)
	}
	o.Cautions = cautions(b, route)
	return o
}

// rustCare says what becomes of a rusty chain that stays.
func rustCare(b Bike) []Why {
	switch {
	case b.ChainGoes || b.Rust == NoRust:
		return nil
	case b.Rust == Light:
		return []Why{WipeRust}
	case b.Rust == Pitted:
		return []Why{NothingToSave}
	case !AcidAllowed(b.Train):
		return []Why{AcidRefused}
	case !b.CanOpen:
		return nil // it is soaked off the bike only
	}
	return []Why{AcidBath}
}

// AcidAllowed reports whether a chain of such a bike may be soaked in acid: not under a mid motor, and
// not where cargo or children are carried, for long acid soaks can embrittle hardened steel. A motor
// that nobody noted counts as one.
func AcidAllowed(d chain.Drivetrain) bool {
	return (d.Motor == chain.NoMotor || d.Motor == chain.HubMotor) && !d.Carry
}
