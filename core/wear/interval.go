package wear

import (
	"fmt"
	"math"
	"slices"

	"earnestpony/core/chain"
)

// Interval says that the true elongation lies in [Low, High), each edge blurred by Edge (one
// standard deviation). High is infinite where the tool did not look further.
type Interval struct {
	Low, High, Edge chain.Percent
}

// OpenAbove reports whether the tool found no upper edge: wear may be far beyond its largest mark.
func (v Interval) OpenAbove() bool { return math.IsInf(float64(v.High), 1) }

var openEnd = chain.Percent(math.Inf(1))

// lookIntervals is what each look at a pulled-off chain means (handbook: wear, Instruments).
var lookIntervals = map[Look]Interval{
	Flush:     {0, 0.5, pullOffEdge},
	Daylight:  {0.4, 1.2, pullOffEdge},
	ClearsTip: {0.9, openEnd, pullOffEdge},
}

// dropInInterval returns the interval from the largest mark that drops in to the smallest that
// does not, or a fault code and its message.
func dropInInterval(marks []Mark) (v Interval, code, message string) {
	if len(marks) == 0 {
		return v, "missing", "no mark was tried: say for at least one whether it drops in"
	}
	v = Interval{Low: 0, High: openEnd, Edge: dropinEdge}
	seen := make([]chain.Percent, 0, len(marks))
	for _, m := range marks {
		if !(m.At > 0 && m.At <= highestElongation) {
			return v, "out-of-range", fmt.Sprintf("mark %g %%: marks lie above 0 and up to %g %%", float64(m.At), float64(highestElongation))
		}
		if slices.Contains(seen, m.At) {
			return v, "mark-twice", fmt.Sprintf("mark %g %% was given twice", float64(m.At))
		}
		seen = append(seen, m.At)
		if m.DropsIn {
			v.Low = max(v.Low, m.At)
		} else {
			v.High = min(v.High, m.At)
		}
	}
	if v.Low >= v.High {
		return v, "measure-again", fmt.Sprintf("mark %g %% drops in but the smaller %g %% does not: that cannot be. Measure again.", float64(v.Low), float64(v.High))
	}
	return v, "", ""
}

// worstInterval returns the interval with the highest lower edge; among equals the highest upper
// edge. The chain is judged by that place.
func worstInterval(spans []Interval) Interval {
	return slices.MaxFunc(spans, func(a, b Interval) int {
		if a.Low != b.Low {
			return compare(a.Low, b.Low)
		}
		return compare(a.High, b.High)
	})
}

func compare(a, b chain.Percent) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// spread is how far above its lower edge an interval that is open above is taken to reach.
const spread chain.Percent = 0.5

// body returns the stretch [a, h) over which the true value is taken as evenly spread.
func (v Interval) body() (a, h chain.Percent) {
	if v.OpenAbove() {
		return v.Low, v.Low + spread
	}
	return v.Low, v.High
}

// Middle returns the value that stands for the interval.
func (v Interval) Middle() chain.Percent {
	a, h := v.body()
	return (a + h) / 2
}

// atLeast returns the chance that the true value is t or more: an even spread over [a, h) blurred
// by the edge e, in closed form e/(h−a)·(G((h−t)/e) − G((a−t)/e)) with G(z) = z·Φ(z) + φ(z)
// (handbook: wear, The verdict).
func (v Interval) atLeast(t chain.Percent) float64 {
	a, h := v.body()
	e := float64(v.Edge)
	p := e / float64(h-a) * (smoothRamp(float64(h-t)/e) - smoothRamp(float64(a-t)/e))
	return min(max(p, 0), 1) // the difference can stray past the ends by rounding
}

// smoothRamp is z·Φ(z) + φ(z), the integral of Φ.
func smoothRamp(z float64) float64 {
	return z*phi(z) + math.Exp(-z*z/2)/math.Sqrt(2*math.Pi)
}

// phi is Φ, the standard normal distribution function, good in both tails.
func phi(z float64) float64 { return math.Erfc(-z/math.Sqrt2) / 2 }
