// Package sizing tells how long a chain must be, by every method a shop knows, and computes the gear it
// runs in: where the cage of the derailleur stands, and which lengths leave it room at both ends.
//
// A chain is a closed belt round wheels. Everything here is plane geometry, seen from the drive side:
// forward to the right, y up, millimetres, the ring's centre at (0, 0) and the rear axle at (−C, 0).
//
//	g := sizing.Belt(50, 34, 410) // the largest ring and sprocket, without a derailleur
//	fmt.Printf("%.2f links", g)   // 106.81 links
//
// The cage model is an estimate, for a real derailleur moves its guide pulley as it shifts; it never
// overrules a maker or the method at the bench.
package sizing

import (
	"fmt"
	"math"

	"earnestpony/core/chain"
)

// Teeth counts the teeth of a ring, sprocket or pulley.
type Teeth int

// The fewest and most teeth that a ring or sprocket has.
const (
	FewestTeeth Teeth = 8
	MostTeeth   Teeth = 80
)

// PitchRadius returns the radius of the circle on which the pins of a chain lie on a wheel of n teeth.
func (n Teeth) PitchRadius() chain.MM {
	return chain.Pitch / chain.MM(2*math.Sin(math.Pi/float64(n)))
}

// tie is how far above a whole number a length may lie and still count as it: 90.00000000000001 links are
// 90.
const tie = 1e-9

// Belt returns how many links an open belt round a ring and a sprocket takes with their centres c apart
// (handbook: replace-and-size, By geometry): mostly no whole number. The wheels must not overlap.
func Belt(ring, sprocket Teeth, c chain.MM) float64 {
	return float64(beltLength(ring, sprocket, c) / chain.Pitch)
}

func beltLength(ring, sprocket Teeth, c chain.MM) chain.MM {
	big, small := ring.PitchRadius(), sprocket.PitchRadius()
	lean := math.Asin(float64((big - small) / c))
	return 2*c*chain.MM(math.Cos(lean)) + big*chain.MM(math.Pi+2*lean) + small*chain.MM(math.Pi-2*lean)
}

// straightRun returns how long the chain is between ring and sprocket, without touching either.
func straightRun(ring, sprocket Teeth, c chain.MM) chain.MM {
	d := ring.PitchRadius() - sprocket.PitchRadius()
	return chain.MM(math.Sqrt(float64(c*c - d*d)))
}

// upToEven returns the next even number of links.
func upToEven(links float64) chain.Links { return 2 * chain.Links(math.Ceil(links/2-tie/2)) }

// upTo rounds up to what can be closed: an even number of links, or any whole one with a half-link.
func upTo(links float64, halfLink bool) chain.Links {
	if halfLink {
		return chain.Links(math.Ceil(links - tie))
	}
	return upToEven(links)
}

// OverlapError reports wheels that would overlap: the distance or the teeth are mistyped.
type OverlapError struct {
	Ring, Sprocket Teeth
	C, Least       chain.MM // the distance given, and what the two need
}

func (e *OverlapError) Error() string {
	return fmt.Sprintf("a chainstay of %g mm: a chainring of %d and a sprocket of %d teeth would overlap, they need more than %.0f mm", float64(e.C), e.Ring, e.Sprocket, float64(e.Least))
}

// checkApart refuses wheels that overlap.
func checkApart(ring, sprocket Teeth, c chain.MM) error {
	if least := ring.PitchRadius() + sprocket.PitchRadius(); !(c > least) {
		return &OverlapError{ring, sprocket, c, least}
	}
	return nil
}
