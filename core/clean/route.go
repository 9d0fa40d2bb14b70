package clean

import (
	"slices"

	"earnestpony/core/chain"
)

// Route is one way to clean a drivetrain. Those up to [Strip] are the ladder, each reaching further; the others are not on
// it.
type Route uint8

// The routes.
const (
	Wipe     Route = iota // chain, jockey wheels and chainring wiped, dripped, wiped off
	Quick                 // on the bike: cleaner on brush and rag
	Bath                  // chain-bath device on the lower run, degreaser and then soapy water
	Soak                  // chain off into a jar, wheel out
	PartsOff              // chain, cassette and jockey wheels off; the crank stays
	Strip                 // everything off, each part by itself
	Tray                  // chain off into a tray, brushed and rinsed; the wheel stays in
	Bare                  // the chain alone, to bare metal for wax
	Rewax                 // an immersed chain again: hot water over it, and back into the pot
)

var routes = [...]string{"wipe", "quick", "bath", "soak", "parts-off", "strip", "tray", "bare", "rewax"}

func (r Route) String() string { return routes[r] }

// ParseRoute reads the name that [Route.String] writes.
func ParseRoute(s string) (Route, error) { return parse[Route](routes[:], s, "route") }

// Routes lists them all, the ladder first.
func Routes() []Route {
	all := make([]Route, len(routes))
	for i := range all {
		all[i] = Route(i)
	}
	return all
}

// OpensChain reports whether the route takes the chain off.
func (r Route) OpensChain() bool { return r >= Soak }

// chainOnly reports whether the route serves the chain and nothing else.
func (r Route) chainOnly() bool { return r == Bare || r == Rewax }

// covers is the dirtiest drivetrain that a route covers on a bike. A bath is for grit only where the chain cannot be opened.
func (r Route) covers(b Bike) Grade {
	switch r {
	case Wipe:
		return 1
	case Quick:
		return 2
	case Bath:
		if b.CanOpen || b.ChainGoes {
			return 2
		}
		return 3
	case Soak, Tray:
		return 3
	case PartsOff, Strip:
		return MaxGrade
	case Bare, Rewax:
	}
	return MaxGrade // of the chain, and nothing else
}

// ladder is the lightest route that covers a bike.
func (b Bike) ladder() Route {
	for r := Wipe; r < PartsOff; r++ {
		if b.Drivetrain <= r.covers(b) {
			return r
		}
	}
	if b.geared() && b.NothingBehindCrank {
		return PartsOff
	}
	return Strip
}

// above is the next route of the ladder, at most the last.
func (b Bike) above(r Route) Route {
	if r++; r == PartsOff && !b.geared() {
		r++
	}
	return min(r, Strip)
}

// geared reports whether there is a derailleur, and so a cassette and jockey wheels to take off.
func (b Bike) geared() bool { return b.Train.Kind == chain.Derailleur }

// Place is a part of the drivetrain that a route may leave dirty.
type Place string

// The places.
const (
	JointsInside     Place = "joints-inside"
	RollersInside    Place = "rollers-inside"
	RingBacks        Place = "ring-backs"
	BottomBracket    Place = "bottom-bracket"
	UnderGuide       Place = "under-chain-guide"
	BehindCrank      Place = "behind-crank"
	CassetteInner    Place = "cassette-inner-side"
	SprocketBack     Place = "sprocket-back"
	ClutchInside     Place = "clutch-inside"
	DerailleurInside Place = "derailleur-inside"
	PulleyBearings   Place = "pulley-bearings"
	AllButChain      Place = "all-but-the-chain"
	ComesBack        Place = "what-stays-comes-back" // onto the clean chain
)

// Misses is what the route does not reach on a bike, to be said beside its price.
func (r Route) Misses(b Bike) []Place {
	var places []Place
	switch r {
	case Wipe:
		places = []Place{JointsInside}
	case Quick:
		places = []Place{JointsInside, RingBacks}
	case Bath:
		places = []Place{RollersInside, RingBacks, BottomBracket, UnderGuide, ComesBack}
	case Tray:
		places = []Place{RingBacks, BehindCrank, CassetteInner, PulleyBearings}
	case Soak:
		places = []Place{BehindCrank, ClutchInside, PulleyBearings}
	case PartsOff:
		places = []Place{BehindCrank, DerailleurInside, ClutchInside}
	case Bare, Rewax:
		places = []Place{AllButChain}
	case Strip:
	}
	var there []Place
	for _, p := range places {
		switch p {
		case JointsInside, RollersInside, ComesBack:
			if !b.ChainGoes { // of a new one nothing stays dirty
				there = append(there, p)
			}
		case CassetteInner:
			if b.geared() {
				there = append(there, p)
			} else {
				there = append(there, SprocketBack)
			}
		case ClutchInside, DerailleurInside, PulleyBearings:
			if b.geared() {
				there = append(there, p)
			}
		default:
			there = append(there, p)
		}
	}
	return there
}

// Time is how long a route takes: by hand, and waiting at least and at most, without what every visit takes before and
// after, and without the wash of the frame. It is the sum of the route's own steps.
type Time struct {
	Attended, WaitLeast, WaitMost Minutes
}

// Rules are a shop's times and schools.
type Rules struct {
	Schools
	// StripNewGrease takes a new chain's grease off under oil too; FreehubDry leaves the freehub body
	// without a smear; Blower reports that compressed air or a blower halves the drying.
	StripNewGrease, FreehubDry, Blower bool
	// StepMinutes are the shop's own minutes by step, where it set some.
	StepMinutes map[string]Minutes
	Card        Card
}

// HouseRules are the rules of a shop that set none.
func HouseRules() Rules { return Rules{} }

// Why is one reason of a choice, or against one.
type Why string

// The reasons for a route, and for what is refused.
const (
	GradeCovered    Why = "grade"              // the lightest that covers the grade
	FamilyChanges   Why = "lubricant-changes"  // raised by one
	DeepDue         Why = "deep-clean-due"     // off the bike
	Complaint       Why = "complaint"          // what the owner reports sits deeper than the grade
	UnderWax        Why = "wax-needs-bare"     // wax holds on bare metal only
	OilUnderDrip    Why = "no-oil-under-wax"   // drip wax over oil: soaked off the bike, until a white rag stays white
	WaxOff          Why = "wax-off-in-water"   // a degreaser brush does not lift immersion wax: hot water first
	WaxedAgain      Why = "waxed-again"        // hot water lifts the old wax with its dirt
	TopUp           Why = "top-up"             // drip wax over the wax that is on
	FilmOn          Why = "film-needs-solvent" // degreaser does not lift it
	ChainComesOff   Why = "chain-is-replaced"  // it gets a wipe; the route serves what stays
	CannotOpen      Why = "no-joining-link"    // a bath is the most that can be done
	ChangePutOff    Why = "change-put-off"     // until there is a link to open the chain with
	TooLight        Why = "too-light"          // does not cover the grade
	WaxRefused      Why = "no-wax-over-oil"    // the chain cannot be bared, so wax is put off
	RewaxRefused    Why = "only-a-clean-waxed-chain"
	NoCassette      Why = "no-cassette-here"   // one sprocket: nothing to take off but all of it
	ChainOnly       Why = "serves-chain-only"  // the rest needs a route of its own
	AcidRefused     Why = "acid-refused"       // mid-motor, cargo or children: long acid soaks can embrittle steel
	AcidNeedsLink   Why = "acid-needs-link"    // acid only off the bike
	NothingToSave   Why = "rust-past-saving"   // replace it
	AcidBath        Why = "acid-off-the-bike"  // citric bath, then neutralised, rinsed, dried, lubricated at once
	WipeRust        Why = "oil-and-wipe-rust"  //
	WipeRustWax     Why = "wipe-rust-and-wax"  // never oil under wax
	NeverWasher     Why = "pressure-not-here"  // by the shop's school
	WasherMotor     Why = "no-washer-at-motor" // nothing under pressure at motor, battery, display
	WasherSeals     Why = "seals-not-looked-at"
	WashTooLight    Why = "frame-needs-more" // dried mud is not wiped off dry: it scratches
	LongSoakRefused Why = "label-allows-no-long-soak"
	OnBikeOnly      Why = "house-cleans-on-the-bike" // a bath is the most that is done
	NoFamilyKnown   Why = "coat-is-not-known"        // treated as a change
	AfterPreRinse   Why = "pre-rinse-the-frame"      // dried mud: loose grit off before anything is opened
	SettleFirst     Why = "settle-wear-first"        // whether the chain goes, before more than a quick clean
	TimeShort       Why = "time-is-short"            // a tray in place of bath or soak
	NotInTime       Why = "not-in-time"              // hands, waits and setting go past when it is wanted
)

// Option is one route as it stands beside the others.
type Option struct {
	Route   Route
	Time    Time    // by [Choice.Timed]
	Ready   Minutes // until it can be ridden, everything included; by [Choice.Timed]
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
	// BestFit is the heaviest route of the ladder, or the tray, that is ready in time; nil where hours are not said, or none is.
	BestFit *Route
	// IfChainGoes is the route where a reading that is not settled says in the end that it goes; nil where nothing is open.
	IfChainGoes *Route
	// Express reports that it is asked to be done at the counter.
	Express bool
}

// Choose recommends a route and a wash (handbook: clean, Routes for the drivetrain). In this order: the lightest route
// that covers the grade; raised by one for a change of family; off the bike when the deep clean is past due; at least what
// the complaint asks for; the ceiling of the house's school; what the chain needs for what goes on it; a wipe where it is
// replaced; and without a way to open it a bath is the most there is, and what needs more is put off. When time is short a
// tray stands in for bath and soak.
func Choose(b Bike, r Rules) Choice {
	b = b.settled()
	c := Choice{Parts: b.ladder(), Why: []Why{GradeCovered}}
	opens := b.CanOpen || b.ChainGoes // what goes for good is cut
	if !opens && b.mustOpen() {
		b.Next = c.putOff(b)
	}
	c.Next = b.Next
	c.raise(b)
	c.Chain, c.Route = c.Parts, c.Parts
	if r.Strip == OnBike && b.Least < Soak && c.Parts > Bath && (b.On != Film || b.ChainGoes) {
		c.Parts, c.Chain, c.Route = Bath, Bath, Bath
		c.Why = append(c.Why, OnBikeOnly)
	}
	c.forChain(b)
	if !opens && c.Route.OpensChain() {
		c.Parts = min(c.Parts, Bath)
		c.Chain, c.Route = c.Parts, c.Parts
		if !c.OrderLink {
			c.OrderLink = true
			c.Why = append(c.Why, CannotOpen)
		}
	}
	c.Wash, c.Washes = wash(b, r)
	c.inTime(b, r)
	rust := rustCare(b)
	c.Why = append(c.Why, rust...)
	c.OrderLink = c.OrderLink || slices.Contains(rust, AcidNeedsLink)
	if b.Unsettled && !b.ChainGoes {
		goes := b
		goes.ChainGoes, goes.Hours, goes.Express = true, 0, false
		c.IfChainGoes = &[]Route{Choose(goes, r).Route}[0]
		if c.Route > Quick {
			c.Why = append(c.Why, SettleFirst)
		}
	}
	c.Express = b.Express && !b.ChainGoes
	for _, route := range Routes() {
		c.Options = append(c.Options, c.option(b, r, route))
	}
	if b.Frame >= driedMud {
		c.Why = append(c.Why, AfterPreRinse)
	}
	c.Cautions = together(c)
	if b.Hours > 0 {
		c = c.Timed(b, r)
	}
	return c
}

// putOff says what goes on instead of what needs the chain off, where it cannot be opened.
func (c *Choice) putOff(b Bike) Coat {
	instead := b.withoutOpening()
	c.OrderLink = true
	if !b.Next.wax() {
		c.Why = append(c.Why, ChangePutOff, CannotOpen)
		return instead
	}
	c.Why = append(c.Why, UnderWax, CannotOpen)
	if instead == Oil {
		c.Why = append(c.Why, WaxRefused)
	}
	return instead
}

// raise takes the parts' route up the ladder: for a change of family, a deep clean past due, a complaint, a film.
func (c *Choice) raise(b Bike) {
	if b.changes() {
		c.Parts = b.above(c.Parts)
		c.Why = append(c.Why, FamilyChanges)
		if b.On == Unknown {
			c.Why = append(c.Why, NoFamilyKnown)
		}
	}
	if b.DeepCleanDue {
		c.Parts = max(c.Parts, Soak)
		c.Why = append(c.Why, DeepDue)
	}
	if b.Least > c.Parts && b.Least <= Strip {
		c.Parts = b.Least
		if c.Parts == PartsOff && !b.geared() {
			c.Parts = Strip
		}
		c.Why = append(c.Why, Complaint)
	}
	if b.On == Film && !b.ChainGoes {
		c.Parts = max(c.Parts, Soak)
		c.Why = append(c.Why, FilmOn)
	}
}

// forChain settles what the chain itself gets, where that is not what its parts get.
func (c *Choice) forChain(b Bike) {
	switch {
	case b.bares():
		c.Chain, c.Route = Bare, Bare
		if b.Next.wax() {
			c.Why = append(c.Why, UnderWax)
		}
	case b.rewaxes():
		c.Chain, c.Route = Rewax, Rewax
		c.Why = append(c.Why, WaxedAgain)
	case b.soaks():
		c.Parts = max(c.Parts, Soak)
		c.Chain, c.Route = c.Parts, c.Parts
		if b.Next == DripWax {
			c.Why = append(c.Why, OilUnderDrip)
		} else {
			c.Why = append(c.Why, WaxOff)
		}
	case b.topsUp():
		c.Chain = Wipe
		c.Why = append(c.Why, TopUp)
	}
	if b.ChainGoes {
		c.Chain = Wipe
		c.Why = append(c.Why, ChainComesOff)
	}
}

// inTime puts a tray in the place of bath or soak where that would not be ready in time, or nobody waits for it.
func (c *Choice) inTime(b Bike, r Rules) {
	standsIn := (c.Route == Bath || c.Route == Soak) && c.Chain == c.Route && b.CanOpen && b.trayDoes() && r.Strip != OnBike
	if !standsIn || b.Hours == 0 && !b.Express {
		return
	}
	fits := func(route Route) bool {
		ready, err := b.ready(c.With(b, route), r)
		return err == nil && b.inHours(ready)
	}
	if b.Express || !fits(c.Route) && fits(Tray) {
		c.Route, c.Chain, c.Parts = Tray, Tray, Tray
		c.Why = append(c.Why, TimeShort)
	}
}

// trayDoes reports whether a tray does for what is on the chain and what goes on it.
func (b Bike) trayDoes() bool {
	return !b.ChainGoes && !b.soaks() && !b.bares() && !b.rewaxes() && b.Drivetrain <= Tray.covers(b)
}

func (b Bike) inHours(ready Minutes) bool { return b.Hours == 0 || float64(ready) <= b.Hours*60 }

// Timed adds to each route how long it takes, derived from its steps, and which of them are ready in time.
func (c Choice) Timed(b Bike, r Rules) Choice {
	b = b.settled()
	c.Options = slices.Clone(c.Options)
	for i := range c.Options {
		o := &c.Options[i]
		o.Against = slices.Clone(o.Against)
		plan, err := New(b, c.With(b, o.Route), r)
		if err != nil {
			continue
		}
		o.Time, o.Ready = plan.Own(), plan.Rideable(b.Setting)
		switch {
		case !b.inHours(o.Ready):
			o.Against = append(o.Against, NotInTime)
		case b.Hours > 0 && !o.Refused && (o.Route <= Strip || o.Route == Tray) && (c.BestFit == nil || o.Route.depth() > c.BestFit.depth()):
			fit := o.Route
			c.BestFit = &fit
		}
	}
	return c
}

// depth orders the ladder and the tray, which reaches further than a bath and less far than a soak.
func (r Route) depth() int {
	if r == Tray {
		return 2*int(Bath) + 1
	}
	return 2 * int(r)
}

// ready is until a bike can be ridden when an order is done on it.
func (b Bike) ready(o Order, r Rules) (Minutes, error) {
	plan, err := New(b, o, r)
	if err != nil {
		return 0, err
	}
	return plan.Rideable(b.Setting), nil
}

func (c Choice) option(b Bike, r Rules, route Route) Option {
	o := Option{Route: route, Misses: route.Misses(b)}
	against := func(why Why, when bool) {
		if when {
			o.Against = append(o.Against, why)
		}
	}
	for _, why := range refusals(b, c.With(b, route), r) {
		o.Refused = true
		against(why, true)
	}
	if !o.Refused {
		against(ChainOnly, route.chainOnly())
		against(TooLight, !route.chainOnly() && route.covers(b) < b.Drivetrain)
	}
	against(OnBikeOnly, r.Strip == OnBike && route.OpensChain() && !route.chainOnly())
	o.Cautions = cautions(b, route)
	return o
}

// rustCare says what becomes of a rusty chain that stays.
func rustCare(b Bike) []Why {
	switch {
	case b.Rust == Pitted:
		return []Why{NothingToSave}
	case b.ChainGoes || b.Rust == NoRust:
		return nil
	case b.Rust == Light && b.Next.wax():
		return []Why{WipeRustWax}
	case b.Rust == Light:
		return []Why{WipeRust}
	case !AcidAllowed(b.Train):
		return []Why{AcidRefused}
	case !b.CanOpen:
		return []Why{AcidNeedsLink}
	}
	return []Why{AcidBath}
}

// AcidAllowed reports whether a chain of such a bike may be soaked in acid: not under a mid motor, and
// not where cargo or children are carried, for long acid soaks can embrittle hardened steel. A motor
// that nobody noted counts as one.
func AcidAllowed(d chain.Drivetrain) bool {
	return (d.Motor == chain.NoMotor || d.Motor == chain.HubMotor) && !d.Carry
}
