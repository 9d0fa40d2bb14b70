package clean

import (
	"slices"

	"earnestpony/core/chain"
)

// Caution is what must be said before a step (handbook: safety). Part markings, product labels, makers'
// instructions, local codes and licensed practice come before all of them.
type Caution string

// The cautions, in the order in which they are shown.
const (
	Electric Caution = "electric"    // power off and battery as its maker says, before lifting or wetting
	Lifting  Caution = "lifting"     // two people or a lift
	Carry    Caution = "carry"       // stricter limits; a second person signs the release
	Fingers  Caution = "fingers"     // rag or brush at a moving chain
	Gloves   Caution = "gloves"      // and eye protection
	Air      Caution = "air"         // solvent or alcohol: ventilation, no flame
	Tank     Caution = "tank"        // ultrasonic or heated: water-based fluid only
	Acid     Caution = "acid"        // add acid to water, never with chlorine cleaners
	Braking  Caution = "brakes"      // nothing sprayed near; both tested before the bike leaves
	Holds    Caution = "brakes-hold" // both are tested before the bike leaves; a contaminated pad may have to go
	Spray    Caution = "pressure"    // at a distance, never at bearings, seals or skin
	HotWax   Caution = "hot-wax"     // chain bone dry, thermostat, never unattended
	Scald    Caution = "scald"       // near-boiling water, never near the wax pot
	Joint    Caution = "joint"       // seat and load-test what was joined
	Torque   Caution = "torque"      // the part's own marking wins
	Load     Caution = "load"        // a new chain on worn sprockets skips
	Waste    Caution = "waste"       // never to drain or ground
)

var inOrder = []Caution{Electric, Lifting, Carry, Fingers, Gloves, Air, Tank, Acid, Braking, Holds, Spray, HotWax, Scald, Joint, Torque, Load, Waste}

// cautions are those of a route on a bike, lubricating and handing it back included.
func cautions(b Bike, r Route) []Caution {
	opens := r.OpensChain() || b.ChainGoes
	open := b.Brakes != InHub // to what is sprayed, and cleaned with alcohol at the end
	said := map[Caution]bool{
		Electric: b.Train.Motor != chain.NoMotor,
		Lifting:  b.Heavy,
		Carry:    b.Train.Carry,
		Fingers:  true, // the white rag and the oil meet a moving chain on every route
		Gloves:   true,
		Air:      r.OpensChain() || open && !(b.Express && !b.ChainGoes && r == Wipe), // at the counter nothing is cleaned with alcohol
		Tank:     r == Bare,
		Scald:    r == Rewax || b.waxOff() && r.OpensChain() && r != Bare,
		Acid:     slices.Contains(rustCare(b), AcidBath),
		Braking:  open,
		HotWax:   r.chainOnly() && b.Next == ImmersionWax,
		Joint:    opens,
		Torque:   true,
		Load:     b.ChainGoes,
		Waste:    r >= Bath,
	}
	return ordered(said)
}

// waxOff reports whether immersion wax is lifted with hot water, for oil.
func (b Bike) waxOff() bool { return !b.ChainGoes && b.On == ImmersionWax && b.Next == Oil }

func washCautions(b Bike, w Wash) []Caution {
	return ordered(map[Caution]bool{
		Electric: b.Train.Motor != chain.NoMotor,
		Lifting:  b.Heavy,
		Braking:  b.Brakes != InHub && w.wet(),
		Spray:    w == Washer,
	})
}

// together are the cautions of everything that a choice recommends.
func together(c Choice) []Caution {
	said := map[Caution]bool{}
	for _, r := range []Route{c.Route, c.Chain, c.Parts} {
		for _, caution := range c.Options[r].Cautions {
			said[caution] = true
		}
	}
	for _, caution := range c.Washes[c.Wash].Cautions {
		said[caution] = true
	}
	return ordered(said)
}

func ordered(said map[Caution]bool) []Caution {
	var list []Caution
	for _, c := range inOrder {
		if said[c] {
			list = append(list, c)
		}
	}
	return list
}
