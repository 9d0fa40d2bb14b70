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

// Source says whose limits they are. A maker's limit wins over the bike's own, and that over a
// school's.
type Source uint8

// The sources of limits.
const (
	FromSchool Source = iota
	FromBike          // the shop set them for this bike, with a reason
	FromMaker         // the chain's maker states them
)

var sourceNames = [...]string{FromSchool: "school", FromBike: "bike", FromMaker: "maker"}

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
	geared := d.Kind == chain.Derailleur
	narrow := geared && d.Sprockets >= 11 // narrow chains, dear sprockets
	switch s {
	case Half:
		l.Limit, l.Together = 0.5, 0.75
		if !geared {
			l.Together = 1.0
		}
	case ThreeQuarter:
		l.Limit, l.Together = 0.75, 1.0
		if !geared {
			l.Limit, l.Together = 1.0, 1.25
		}
	case RunOut:
		l.Limit, l.Together = 1.5, 1.5
	default: // Protect
		switch {
		case narrow:
			l.Limit, l.Together = 0.5, 0.75
		case geared:
			l.Limit, l.Together = 0.75, 1.0
		default:
			l.Limit, l.Together = 0.75, 1.25
		}
	}
	return l
}
