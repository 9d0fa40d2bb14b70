// Package fairtest holds the forecast against chains that are not its own: it simulates bikes with a
// growth of wear that is stepped through and not solved, asks for forecasts as a shop would, and
// counts how often they were right (handbook: forecast, A fair test of the forecast).
package fairtest

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"earnestpony/core/chain"
	"earnestpony/core/forecast"
)

// stride is how finely a simulated chain is worn, in hard km.
const stride = 4.0

// bike is a simulated chain: how it truly wears, and how it is read.
type bike struct {
	care  forecast.Care
	limit chain.Percent
	every float64   // hard km between readings
	sigma float64   // error of the tool, percent
	worn  []float64 // true elongation at each stride, to well past the limit
	life  float64   // hard km at which the limit is truly reached
}

// draw makes a bike as the prior says that bikes are.
func draw(random *rand.Rand) bike {
	b := bike{
		care:  forecast.Cares()[random.IntN(len(forecast.Cares()))],
		limit: []chain.Percent{0.5, 0.75}[random.IntN(2)],
		every: []float64{500, 800, 1200}[random.IntN(3)],
		sigma: []float64{0.03, 0.05, 0.08, 0.116}[random.IntN(4)] / math.Sqrt(3), // a tool's, at the house's three places
	}
	p := b.care.Prior()
	perKM := 0.5 / math.Exp(p.MedianLnK+p.Sigma*random.NormFloat64())
	speedup := 2 * math.Exp(0.5*random.NormFloat64())
	slope := func(e float64) float64 { return perKM * (1 + speedup*math.Max(0, e-0.5)/0.5) }
	e := 0.0
	for b.worn = append(b.worn, 0); e < float64(b.limit)+1; b.worn = append(b.worn, e) {
		half := e + stride/2*slope(e)
		e += stride * slope(half)
		if b.life == 0 && e >= float64(b.limit) {
			before := b.worn[len(b.worn)-1]
			b.life = stride * (float64(len(b.worn)-1) + (float64(b.limit)-before)/(e-before))
		}
	}
	return b
}

// at returns the true elongation after x hard km.
func (b bike) at(x float64) float64 {
	i := min(int(x/stride), len(b.worn)-2)
	return b.worn[i] + (x/stride-float64(i))*(b.worn[i+1]-b.worn[i])
}

// read returns a reading: the true wear, what the model leaves out, and the error of the tool.
func (b bike) read(x float64, random *rand.Rand) forecast.Observation {
	e := b.at(x)*(1+0.06*random.NormFloat64()) + 0.02*random.NormFloat64() + b.sigma*random.NormFloat64()
	return forecast.Read(forecast.HardKM(x), chain.Percent(e), chain.Percent(b.sigma))
}

func (b bike) look(x float64, seen []forecast.Observation) (forecast.Forecast, error) {
	return forecast.Look(forecast.Question{Prior: b.care.Prior(), Limit: b.limit, Now: forecast.HardKM(x), Observations: seen, WithoutBand: true})
}

// MostReadings is up to how many readings forecasts are told apart.
const MostReadings = 8

// Score is how forecasts after so many readings turned out.
type Score struct {
	Forecasts int
	Inside    int // the true distance left lay between the 10th and the 90th percentile
	errors    []float64
}

// Coverage returns the share of forecasts that held.
func (s Score) Coverage() float64 { return float64(s.Inside) / float64(s.Forecasts) }

// MedianError returns the median of how far the middle was off, as a part of the true distance.
func (s Score) MedianError() float64 {
	sorted := slices.Sorted(slices.Values(s.errors))
	if len(sorted) == 0 {
		return 0
	}
	return sorted[len(sorted)/2]
}

// Living is how it went to live by the rule: look when the forecast says so, replace at the first
// reading that is more likely past the limit than not.
type Living struct {
	Lives     int
	Checks    int
	Intervals int       // ridden between two looks
	Crossed   int       // of those in which the limit was crossed
	over      []float64 // true wear at replacement, past the limit, percent
}

// CrossedShare returns the share of intervals between looks in which the limit was crossed.
func (l Living) CrossedShare() float64 { return float64(l.Crossed) / float64(l.Intervals) }

// ChecksPerLife returns how often a chain was looked at.
func (l Living) ChecksPerLife() float64 { return float64(l.Checks) / float64(l.Lives) }

// OverAt returns how far past the limit the given share of chains was replaced at most, in percent.
func (l Living) OverAt(share float64) float64 {
	sorted := slices.Sorted(slices.Values(l.over))
	if len(sorted) == 0 {
		return 0
	}
	return sorted[min(int(share*float64(len(sorted))), len(sorted)-1)]
}

// Report is the outcome of a fair test.
type Report struct {
	Seed       uint64
	All        Score
	ByReadings [MostReadings + 1]Score
	Living     Living
	ByCare     map[forecast.Care]*Living
}

// Run makes at least so many forecasts and lives through so many chains, the same for the same seed.
func Run(forecasts, lives int, seed uint64) (Report, error) {
	r := Report{Seed: seed, ByCare: map[forecast.Care]*Living{}}
	for _, c := range forecast.Cares() {
		r.ByCare[c] = &Living{}
	}
	random := rand.New(rand.NewPCG(seed, 0))
	for r.All.Forecasts < forecasts {
		if err := r.forecasts(draw(random), random); err != nil {
			return r, err
		}
	}
	for range lives {
		if err := r.live(draw(random), random); err != nil {
			return r, err
		}
	}
	return r, nil
}

// forecasts asks for a forecast before each reading while the limit is not reached.
func (r *Report) forecasts(b bike, random *rand.Rand) error {
	var seen []forecast.Observation
	for n := 0; n <= MostReadings; n++ {
		x := b.every * float64(n)
		if x >= b.life {
			return nil
		}
		if n > 0 {
			seen = append(seen, b.read(x, random))
		}
		f, err := b.look(x, seen)
		if err != nil {
			return err
		}
		left := b.life - x
		for _, s := range []*Score{&r.All, &r.ByReadings[n]} {
			s.Forecasts++
			if float64(f.Left.P10) <= left && left <= float64(f.Left.P90) {
				s.Inside++
			}
			s.errors = append(s.errors, math.Abs(float64(f.Left.P50)-left)/left)
		}
	}
	return nil
}

// live keeps a chain until it is replaced, by the rule.
func (r *Report) live(b bike, random *rand.Rand) error {
	both := []*Living{&r.Living, r.ByCare[b.care]}
	for _, l := range both {
		l.Lives++
	}
	var seen []forecast.Observation
	for x := 0.0; ; {
		f, err := b.look(x, seen)
		if err != nil {
			return err
		}
		// At once, when the chance that it is past is too high; and never past where it could be ridden.
		next := min(x+float64(f.NextCheck), stride*float64(len(b.worn)-2))
		for _, l := range both {
			l.Checks++
			if next > x {
				l.Intervals++
			}
			if x < b.life && next >= b.life {
				l.Crossed++
			}
		}
		x = next
		o := b.read(x, random)
		seen = append(seen, o)
		if read, _ := o.Value(); read >= b.limit {
			for _, l := range both {
				l.over = append(l.over, b.at(x)-float64(b.limit))
			}
			return nil
		}
	}
}

// String writes the report as a page of Markdown.
func (r Report) String() string {
	var b strings.Builder
	b.WriteString("# How well the forecast is calibrated\n\nMade by `make calibration`. Simulated chains, worn and read by code apart from the model's own; see\nthe handbook's page on the forecast.\n\n")
	fmt.Fprintf(&b, "Seed %d, %d forecasts. The true distance left should lie between the 10th and the 90th percentile\nin 80 of 100.\n\n", r.Seed, r.All.Forecasts)
	b.WriteString("| readings | forecasts | inside 10–90 | median error |\n| ---: | ---: | ---: | ---: |\n")
	for n, s := range r.ByReadings {
		if s.Forecasts > 0 {
			fmt.Fprintf(&b, "| %d | %d | %.1f %% | %.3f |\n", n, s.Forecasts, 100*s.Coverage(), s.MedianError())
		}
	}
	fmt.Fprintf(&b, "| all | %d | %.1f %% | %.3f |\n\n", r.All.Forecasts, 100*r.All.Coverage(), r.All.MedianError())
	fmt.Fprintf(&b, "Living by the rule, %d chains: looked at when the forecast says so, replaced at the first reading at\nthe limit or past it. Fewer than 8 %% of the intervals between looks should cross the limit.\n\n", r.Living.Lives)
	b.WriteString("| care | chains | looks a life | intervals that cross | past the limit in 9 of 10, at most |\n| --- | ---: | ---: | ---: | ---: |\n")
	row := func(name string, l Living) {
		fmt.Fprintf(&b, "| %s | %d | %.1f | %.1f %% | %.3f %% |\n", name, l.Lives, l.ChecksPerLife(), 100*l.CrossedShare(), l.OverAt(0.9))
	}
	for _, c := range forecast.Cares() {
		row(c.String(), *r.ByCare[c])
	}
	row("all", r.Living)
	b.WriteString("\nA look is never asked for sooner than 100 hard km ahead. A neglected chain grows by a tenth of a\npercent in that distance, so there the floor and not the forecast decides how far past the limit it gets.\n")
	return b.String()
}
