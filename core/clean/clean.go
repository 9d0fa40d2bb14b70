// Package clean decides how a dirty bike is cleaned: which route for its drivetrain, which wash for its
// frame, what either will not reach, and the cautions that go with it (handbook: clean, safety).
//
//	c := clean.Choose(clean.Bike{Drivetrain: 3, On: clean.Oil, Next: clean.Oil, CanOpen: true}, clean.HouseRules())
//	// c.Route is clean.Bath
package clean

import (
	"fmt"
	"slices"

	"earnestpony/core/chain"
)

// Grade is how dirty something is, 0 to 4.
//
// A frame is clean, dusty, filmed and splashed, has mud dried on, or is caked everywhere. Of a
// drivetrain the finger on the chain comes off clean, grey, or black; then grit is heard when the chain
// is flexed; then sprocket teeth are hidden, or the chain is coated in a peeling film.
type Grade uint8

// MaxGrade is caked, or long stored.
const MaxGrade Grade = 4

// Minutes of work or of waiting.
type Minutes int

// Coat is what is on a chain.
type Coat uint8

// The coats. Only the first three are put on again.
const (
	Oil           Coat = iota // any of the oils
	DripWax                   //
	ImmersionWax              //
	FactoryGrease             // what a new chain comes with
	Film                      // a polymer film, dried and peeling
	Unknown                   // nobody can say; treated as the worst it may be
)

var coats = [...]string{"oil", "drip-wax", "immersion-wax", "factory-grease", "polymer-film", "unknown"}

func (c Coat) String() string { return coats[c] }

// ParseCoat reads the name that [Coat.String] writes.
func ParseCoat(s string) (Coat, error) { return parse[Coat](coats[:], s, "coat of a chain") }

// ParseLubricant reads the name of a coat that is put on.
func ParseLubricant(s string) (Coat, error) {
	return parse[Coat](coats[:FactoryGrease], s, "lubricant to put on")
}

func (c Coat) wax() bool { return c == DripWax || c == ImmersionWax }

// Rust is what water left on a chain.
type Rust uint8

// From none to past saving.
const (
	NoRust    Rust = iota
	Light          // orange that wipes off
	Tarnished      // does not wipe off, joints still free
	Pitted         // pitted or stiff
)

var rusts = [...]string{"none", "light", "tarnished", "pitted"}

func (r Rust) String() string { return rusts[r] }

// ParseRust reads the name that [Rust.String] writes.
func ParseRust(s string) (Rust, error) { return parse[Rust](rusts[:], s, "rust") }

// Brakes are what must be kept from oil and cleaner.
type Brakes uint8

// The brakes.
const (
	Rim Brakes = iota
	Disc
	InHub // nothing in the open
)

var brakes = [...]string{"rim", "disc", "in-hub"}

func (b Brakes) String() string { return brakes[b] }

// ParseBrakes reads the name that [Brakes.String] writes.
func ParseBrakes(s string) (Brakes, error) { return parse[Brakes](brakes[:], s, "brakes") }

// Bike is what was seen of a bike before it is cleaned.
type Bike struct {
	Frame, Drivetrain Grade
	Train             chain.Drivetrain
	Brakes            Brakes
	Heavy             bool // over 20 kg

	On, Next Coat
	Rust     Rust
	// OilOn reports that oil or grease got onto a waxed chain.
	OilOn bool
	// ChainGoes reports that the chain is replaced in this visit, so that work on it would be wasted. A pitted one goes too.
	ChainGoes bool
	// Unsettled reports that the last reading left it open whether the chain goes.
	Unsettled bool
	// CanOpen reports that the chain has a joining link, or that a new one is in stock.
	CanOpen bool
	// DeepCleanDue reports that the deep clean is past its interval.
	DeepCleanDue bool

	// Least is the lightest route that what the owner reports asks for.
	Least Route
	// NothingBehindCrank reports that somebody looked and found no dirt there.
	NothingBehindCrank bool
	// SealsSound reports that the seals of hubs and suspension were looked at.
	SealsSound bool
	// DrivetrainOnly is asked for: the frame is not washed.
	DrivetrainOnly bool

	// Hours is until it is wanted, in hours in which people work; zero is not said. Express is a job that is done at once.
	Hours   float64
	Express bool
	// Setting is from the last of the lubricant to the first ride, at least.
	Setting Minutes

	// What the steps need to know beyond the choice of a route.
	Turns  Turning
	Clutch bool        // at the rear derailleur
	Guide  bool        // a chain guide or guard
	Links  chain.Links // of the chain; 0 is not known
	Read   bool        // its wear was read in this visit
}

// usualLinks is what the amounts are counted by where nobody counted the chain.
const usualLinks chain.Links = 114

func (b Bike) links() chain.Links {
	if b.Links == 0 {
		return usualLinks
	}
	return b.Links
}

// settled is the bike with what follows from what was seen: a pitted chain goes.
func (b Bike) settled() Bike {
	b.ChainGoes = b.ChainGoes || b.Rust == Pitted
	return b
}

// changes reports whether what goes on is of another family than what is on.
func (b Bike) changes() bool {
	switch {
	case b.ChainGoes:
		return false // the new chain starts afresh
	case b.On == FactoryGrease:
		return b.Next != Oil
	case b.On.wax() && b.Next.wax():
		return false // drip wax tops immersion wax up
	}
	return b.On != b.Next
}

// fouled reports whether an immersed chain is past washing its wax off with hot water: oil, more than light rust, or grit
// got at it.
func (b Bike) fouled() bool { return b.OilOn || b.Rust > Light || b.Drivetrain >= 3 }

// bares reports whether the chain must be stripped to metal: a new one for wax, of its grease; for immersion wax, but where
// hot water will do; under a film; and an immersed chain that is past a top-up.
func (b Bike) bares() bool {
	switch {
	case b.ChainGoes:
		return b.Next.wax()
	case b.On == Film:
		return true
	case b.On == ImmersionWax:
		return b.Next.wax() && b.fouled()
	}
	return b.Next == ImmersionWax
}

// rewaxes reports whether an immersed chain is waxed again without being stripped.
func (b Bike) rewaxes() bool {
	return !b.ChainGoes && b.On == ImmersionWax && b.Next == ImmersionWax && !b.fouled()
}

// topsUp reports whether drip wax goes over the wax of an immersed chain.
func (b Bike) topsUp() bool {
	return !b.ChainGoes && b.On == ImmersionWax && b.Next == DripWax && !b.fouled()
}

// soaks reports whether the chain must be soaked off the bike, whatever its grade: drip wax goes over no oil, and a
// degreaser brush does not lift immersion wax.
func (b Bike) soaks() bool {
	return !b.ChainGoes && (b.Next == DripWax && !b.On.wax() && b.On != Film || b.On == ImmersionWax && b.Next == Oil)
}

// mustOpen reports whether what is to go on can go on only after the chain was off.
func (b Bike) mustOpen() bool { return b.soaks() || b.rewaxes() || b.Next.wax() && b.bares() }

// withoutOpening is what a chain gets that was to change and cannot be opened: drip wax tops up what is waxed, and anything
// else stays with oil.
func (b Bike) withoutOpening() Coat {
	if b.On.wax() {
		return DripWax
	}
	return Oil
}

func parse[T ~uint8](names []string, s, what string) (T, error) {
	if i := slices.Index(names, s); i >= 0 {
		return T(i), nil
	}
	return 0, fmt.Errorf("%q is no %s: one of %q", s, what, names)
}
