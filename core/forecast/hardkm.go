package forecast

import (
	"fmt"
	"math"

	"earnestpony/core/chain"
)

// HardKM is a distance weighted by how hard it was on the chain.
type HardKM float64

// KM is a distance ridden.
type KM float64

// Mile is exactly 1.609344 km.
const Mile KM = 1.609344

// Condition is what a kilometre was ridden in. Zero is fair.
type Condition uint8

// The conditions.
const (
	Fair  Condition = iota // dry, clean roads
	Dusty                  // dry trails, dust
	Wet                    // wet roads, rain
	Mud                    // mud, grit, crossings
	Salt                   // salted winter roads
	conditions
)

var conditionNames = [conditions]string{"fair", "dusty", "wet", "mud", "salt"}

func (c Condition) String() string { return conditionNames[c] }

// Factors says how much harder a kilometre of each condition, and one behind a mid motor, is than a
// fair one without. A shop may set its own.
type Factors struct {
	Conditions [conditions]float64
	MidMotor   float64 // a hub motor does not pull the chain, so it counts for nothing
}

// HouseFactors are the factors of a shop that set none (handbook: forecast, Hard kilometres).
var HouseFactors = Factors{Conditions: [conditions]float64{Fair: 1, Dusty: 1.4, Wet: 2, Mud: 2.8, Salt: 2.8}, MidMotor: 1.6}

// The bounds that factors of a shop's own must keep: no kilometre counts for nothing.
const (
	LowestFactor  = 0.2
	HighestFactor = 10
)

// Mix is how riding is shared between the conditions. The shares add to 1; the zero Mix is not known,
// and counts as fair.
type Mix [conditions]float64

// mixSlack is how far from 1 the shares of a mix may add up, for shares typed as whole percents.
const mixSlack = 0.005

// Check refuses shares that are negative or do not add to 1.
func (m Mix) Check() error {
	if m == (Mix{}) {
		return nil
	}
	sum := 0.0
	for c, share := range m {
		if !(share >= 0) {
			return fmt.Errorf("a share of %g of %s riding: shares lie between 0 and 1", share, Condition(c))
		}
		sum += share
	}
	if math.Abs(sum-1) > mixSlack {
		return fmt.Errorf("the shares add up to %g: they must add up to 1", sum)
	}
	return nil
}

// Factor returns how many hard kilometres a kilometre of this mix is.
func (f Factors) Factor(m Mix, motor chain.Motor) float64 {
	factor := 0.0
	for c, share := range m {
		factor += share * f.Conditions[c]
	}
	if m == (Mix{}) {
		factor = f.Conditions[Fair]
	}
	if motor == chain.MidMotor {
		factor *= f.MidMotor
	}
	return factor
}
