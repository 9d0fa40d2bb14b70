package forecast

import (
	"fmt"
	"math"
)

// Care is how a chain is looked after. Zero is not known.
type Care uint8

// The kinds of care (handbook: forecast, Prior).
const (
	CareUnknown  Care = iota
	Neglected         // dry or gritty, lubricated when it squeals
	NowAndThen        // oil on top of dirt
	Oil               // cleaned and wiped regularly
	DripWax           // kept clean
	ImmersionWax      // re-waxed on time
)

var careNames = [...]string{CareUnknown: "", Neglected: "neglected", NowAndThen: "now-and-then", Oil: "oil", DripWax: "drip-wax", ImmersionWax: "immersion-wax"}

func (c Care) String() string { return careNames[c] }

// Cares lists the kinds of care, the worst first.
func Cares() []Care { return []Care{Neglected, NowAndThen, Oil, DripWax, ImmersionWax} }

// ParseCare reads the name that [Care.String] writes.
func ParseCare(s string) (Care, error) {
	for _, c := range Cares() {
		if careNames[c] == s {
			return c, nil
		}
	}
	return CareUnknown, fmt.Errorf("%q is not a kind of care: one of %v", s, careNames[1:])
}

// halfLife is K, the hard km to half a percent to be expected of each care. Cautious on purpose: waxed
// chains have been seen with three times that, and neglected ones gone at 300. Readings correct it.
var halfLife = [...]HardKM{CareUnknown: 4000, Neglected: 500, NowAndThen: 1800, Oil: 4000, DripWax: 5500, ImmersionWax: 12000}

// Prior is what is known of a chain's wear before it is measured: ln K is normal, K the hard km to
// half a percent.
type Prior struct {
	MedianLnK float64
	Sigma     float64 // of ln K; above zero
}

// The spreads of ln K: of a chain nothing is known of but its care, and of one that follows others on
// the same bike, with the same rider and roads.
const (
	firstSigma = 0.6
	nextSigma  = 0.45
)

// How much faster a chain wears past the knee is the same guess for all: ln a is normal.
const (
	speedupMedian = 2.0
	speedupSigma  = 0.5
)

// Prior returns what is to be expected of a chain cared for in this way.
func (c Care) Prior() Prior {
	return Prior{MedianLnK: math.Log(float64(halfLife[c])), Sigma: firstSigma}
}

// After moves the prior half-way to what the chain before showed, the posterior median of its K.
func (p Prior) After(k HardKM) Prior {
	return Prior{MedianLnK: (p.MedianLnK + math.Log(float64(k))) / 2, Sigma: nextSigma}
}
