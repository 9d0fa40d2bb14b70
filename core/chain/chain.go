// Package chain holds what every other part of the core says about a bicycle chain: its pitch,
// its links, how much longer it has grown, and the drivetrain it runs on.
//
// A chain wears by growing. Its plates keep their length; at each joint the pin and its bushing
// eat into each other, and the play adds up, so the same number of links spans more millimetres.
// The growth over the nominal length, in percent, is the one number a mechanic judges by:
//
//	e, err := chain.ElongationOf(306.4, 24) // 306.4 mm pin to pin over 24 links
//	fmt.Printf("%.3f %%", e)                // 0.525 %
//
// Nothing here reads a clock, a file or a database.
package chain

import (
	"fmt"
	"math"
)

// MM is a length in millimetres.
type MM float64

// Links counts pitches, inner or outer alike, the way a box says "116 links". It never counts
// pairs: who counts pairs gets half the number.
type Links int

// Percent is elongation: growth over the nominal length. Zero is a new chain. Slightly below zero
// is measurement noise and is kept, since clamping it would bias every average upward.
type Percent float64

const (
	// Pitch is one half-inch step of the chain, pin centre to pin centre, when new.
	Pitch MM = 12.7
	// Inch is exactly 25.4 mm.
	Inch MM = 25.4
)

// Nominal returns the length of n links of a new chain.
func (n Links) Nominal() MM { return MM(n) * Pitch }

// ElongationOf returns 100·(L − n·p)/(n·p) for a length of n links measured pin centre to pin
// centre (handbook: wear, Elongation). It refuses fewer than one link and a length that is not a
// finite number above zero.
func ElongationOf(length MM, n Links) (Percent, error) {
	switch {
	case n < 1:
		return 0, fmt.Errorf("reading over %d links: at least one link must be spanned", n)
	case !(length > 0) || math.IsInf(float64(length), 0):
		return 0, fmt.Errorf("reading of %g mm over %d links: length is not a positive finite number", float64(length), n)
	}
	return Percent(100 * (length - n.Nominal()) / n.Nominal()), nil
}

// Length returns how long n links are at elongation e; the inverse of [ElongationOf].
func (e Percent) Length(n Links) MM { return n.Nominal() * MM(1+e/100) }

// Growth returns how much longer than new n links are at elongation e.
func (e Percent) Growth(n Links) MM { return n.Nominal() * MM(e/100) }

// PlayPerJoint returns the mean play that wear has added at each joint. A chain of n links has n
// joints, so this is the growth of one link.
func (e Percent) PlayPerJoint() MM { return e.Growth(1) }
