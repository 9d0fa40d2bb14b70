package forecast

import (
	"math"

	"earnestpony/core/chain"
)

// knee is where wear speeds up: past it pins and bushings are out of round, and the joints slide.
const knee chain.Percent = 0.5

// Growth is how one chain wears: slowly and steadily up to half a percent, faster after
// (handbook: forecast, How wear grows).
//
//	dE/dx = r                              for E < 0.5
//	dE/dx = r · (1 + a · (E − 0.5)/0.5)    for E ≥ 0.5
type Growth struct {
	Rate    float64 // r, percent a hard km while the joints roll; above zero
	Speedup float64 // a, how much faster at 1 % than at 0.5 %; above zero
}

// largestExponent keeps the wear of a neglected chain far past its limit a number.
const largestExponent = 40

// At returns the elongation after x hard km since the chain was new.
func (g Growth) At(x HardKM) chain.Percent {
	return g.past(chain.Percent(g.Rate * float64(x)))
}

// past returns the elongation where steady growth alone would have reached u.
func (g Growth) past(u chain.Percent) chain.Percent {
	if u <= knee {
		return u
	}
	exponent := min(2*g.Speedup*float64(u-knee), largestExponent)
	return knee + knee/chain.Percent(g.Speedup)*chain.Percent(math.Exp(exponent)-1)
}

// Reaches returns the distance at which the elongation reaches t; exactly t/r up to half a percent.
func (g Growth) Reaches(t chain.Percent) HardKM {
	if t <= knee {
		return HardKM(float64(t) / g.Rate)
	}
	beyond := math.Log1p(2*g.Speedup*float64(t-knee)) / (2 * g.Speedup)
	return HardKM((float64(knee) + beyond) / g.Rate)
}
