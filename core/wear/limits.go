package wear

import (
	"fmt"

	"earnestpony/core/chain"
)

// School is one way in which experienced people decide when a chain is worn. Zero is "not chosen".
type School uint8

// The schools (handbook: wear, Limits).
const (
	SchoolUnknown School = iota
	Protect              // narrow chains and dear sprockets: change early; the house default
	Half                 // change while the joints still roll: past half a percent wear speeds up
	ThreeQuarter         // the old shop rule: longest chain life, some sprocket life given up
	RunOut               // a cheap drivetrain run to its end and replaced whole
)

// DefaultSchool is the house rule of a shop that has not chosen.
const DefaultSchool = Protect

var schoolNames = [...]string{SchoolUnknown: "", Protect: "protect", Half: "half", ThreeQuarter: "three-quarter", RunOut: "run-out"}

func (s School) String() string { return schoolNames[s] }

// Schools lists every school.
func Schools() []School { return []School{Protect, Half, ThreeQuarter, RunOut} }

// ParseSchool reads the name that [School.String] writes.
func ParseSchool(name string) (School, error) {
	for _, s := range Schools() {
		if schoolNames[s] == name {
			return s, nil
		}
	}
	return SchoolUnknown, fmt.Errorf("%q is not a school: one of %v", name, schoolNames[1:])
}

// Allows reports whether the school may judge this drivetrain. Running a chain out is refused where
// it pulls a motor's load or carries cargo or children: a chain that breaks there throws the rider.
func (s School) Allows(d chain.Drivetrain) bool {
	return s != RunOut || !(d.Carry || d.Motor == chain.MidMotor)
}

// Source says whose limits they are, the weakest first.
type Source uint8

// The sources of limits.
const (
	FromSchool Source = iota
	FromShop          // the shop has lines of its own for drivetrains of this class
	FromBike          // the shop set them for this bike, with a reason
	FromMaker         // the chain's maker states them
)

var sourceNames = [...]string{FromSchool: "school", FromShop: "shop", FromBike: "bike", FromMaker: "maker"}

func (s Source) String() string { return sourceNames[s] }

// ParseSource reads the name that [Source.String] writes.
func ParseSource(name string) (Source, error) {
	for i, n := range sourceNames {
		if n == name {
			return Source(i), nil
		}
	}
	return FromSchool, fmt.Errorf("%q is not a source of limits: one of %v", name, sourceNames)
}

// Limits are the two lines a chain is held against.
type Limits struct {
	Limit    chain.Percent // at this the chain is replaced
	Together chain.Percent // past this the sprockets are expected to go with it
	Source   Source
	School   School // whose, when Source is FromSchool
}

// The bounds that limits set by hand must keep.
const (
	LowestLimit  chain.Percent = 0.1
	HighestLimit chain.Percent = 3
)

// Limits returns what the school holds a drivetrain's chain to.
func (s School) Limits(d chain.Drivetrain) Limits {
	l := Limits{School: s}
	class := d.Class()
	switch s {
	case Half:
		l.Limit, l.Together = 0.5, 0.75
		if class == chain.OneSprocket {
			l.Together = 1.0
		}
	case ThreeQuarter:
		l.Limit, l.Together = 0.75, 1.0
		if class == chain.OneSprocket {
			l.Limit, l.Together = 1.0, 1.25
		}
	case RunOut:
		l.Limit, l.Together = 1.5, 1.5
	default: // Protect
		switch class {
		case chain.NarrowChain:
			l.Limit, l.Together = 0.5, 0.75
		case chain.WideChain:
			l.Limit, l.Together = 0.75, 1.0
		default:
			l.Limit, l.Together = 0.75, 1.25
		}
	}
	return l
}

// MostAllowed returns the highest limit that a shop may set for a drivetrain: where running a chain
// out is refused, no further than the latest of the other schools.
func MostAllowed(d chain.Drivetrain) chain.Percent {
	if RunOut.Allows(d) {
		return HighestLimit
	}
	return ThreeQuarter.Limits(d).Limit
}

// House is a shop's rule of when a chain is worn: a school, and lines of its own for some classes of
// drivetrains in place of the school's. The zero House goes by [DefaultSchool].
type House struct {
	School School
	Own    map[chain.Class]Limits // their Source and School do not count
}

// Override is what one bike has in place of the house rule. The zero Override is nothing.
type Override struct {
	School School // in place of the shop's
	Limits Limits // the bike's own or its maker's, by its Source; FromSchool: none
}

// Limits returns what a bike's chain is held to, and by which school. The maker's limits win over the
// bike's own, those over the bike's school, that over the shop's lines for the class, those over the
// shop's school. Where running a chain out is refused a school that does so gives way to
// [DefaultSchool], and the shop's lines to its school where they are later than any other school's.
func (h House) Limits(d chain.Drivetrain, o Override) (Limits, School) {
	school := h.School
	if o.School != SchoolUnknown {
		school = o.School
	}
	if school == SchoolUnknown || !school.Allows(d) {
		school = DefaultSchool
	}
	own, has := h.Own[d.Class()]
	switch {
	case o.Limits.Source == FromMaker || o.Limits.Source == FromBike:
		return o.Limits, school
	case o.School == SchoolUnknown && has && own.Limit <= MostAllowed(d):
		return Limits{Limit: own.Limit, Together: own.Together, Source: FromShop}, school
	}
	return school.Limits(d), school
}
