package forecast

import (
	"fmt"
	"math"
	"slices"

	"earnestpony/core/chain"
	"earnestpony/core/wear"
)

// Observation is one measurement of the chain: a value with its error, or an interval with the blur
// of its edges. Make one with [Read] or [Between].
type Observation struct {
	at       HardKM
	value    chain.Percent
	sigma    chain.Percent // above zero for a value
	interval wear.Interval
}

// At is how far the chain had run.
func (o Observation) At() HardKM { return o.at }

// Read is an elongation read at x hard km since the chain was new.
func Read(x HardKM, e, sigma chain.Percent) Observation {
	return Observation{at: x, value: e, sigma: sigma}
}

// Between is an interval read at x hard km since the chain was new.
func Between(x HardKM, v wear.Interval) Observation { return Observation{at: x, interval: v} }

// Value returns the elongation read and its error; the error is zero for an interval.
func (o Observation) Value() (e, sigma chain.Percent) { return o.value, o.sigma }

// The model is not exact: wear that it says is e may be off by a part of e, and a little more.
const (
	modelPart           = 0.06
	modelFloor          = 0.02
	smallestProbability = 1e-300 // before its logarithm is taken
)

// logLikelihood returns how well wear e agrees with the observation (handbook: forecast, Learning from
// measurements), up to a constant.
func (o Observation) logLikelihood(e chain.Percent) float64 {
	off := modelPart * float64(e)
	model := off*off + modelFloor*modelFloor
	if o.sigma > 0 {
		variance := float64(o.sigma*o.sigma) + model
		d := float64(o.value - e)
		return -d*d/(2*variance) - math.Log(variance)/2
	}
	blur := math.Sqrt(float64(o.interval.Edge*o.interval.Edge) + model)
	low, high := math.Inf(-1), float64(o.interval.High-e)/blur
	if o.interval.Low != 0 { // the lower edge 0 is no edge: noise may lie below it
		low = float64(o.interval.Low-e) / blur
	}
	return math.Log(max(between(low, high), smallestProbability))
}

// between is Φ(high) − Φ(low), taken on the smaller tail so that it keeps its digits.
func between(low, high float64) float64 {
	if low > 0 {
		return phi(-low) - phi(-high)
	}
	return phi(high) - phi(low)
}

func phi(z float64) float64 { return math.Erfc(-z/math.Sqrt2) / 2 }

// Question is what is known of a chain, and the limit it is asked about.
type Question struct {
	Prior        Prior
	Limit        chain.Percent
	Now          HardKM // since the chain was new
	Observations []Observation
	WithoutBand  bool // leaves the band out, which takes most of the time
}

// Percentiles are the 10th, 50th and 90th of something.
type Percentiles[T ~float64] struct {
	P10, P50, P90 T
}

// BandPoint is the elongation to be expected at a distance.
type BandPoint struct {
	At HardKM
	Percentiles[chain.Percent]
}

// Warning is something the answer should be read with.
type Warning string

// The warnings.
const (
	// ReadingsDoNotFit says that the readings lie at the edge of what the model can be: a reading is
	// wrong, or the chain is another than the one thought of.
	ReadingsDoNotFit Warning = "readings-do-not-fit"
	// FloorOverrides says that one chance in ten of crossing the limit comes sooner than the next
	// check, which is never put nearer than 100 hard km.
	FloorOverrides Warning = "floor-overrides"
)

// Forecast is what is to be expected of a chain.
type Forecast struct {
	Left      Percentiles[HardKM] // to the limit, from now; zero when it may be reached already
	Life      Percentiles[HardKM] // to the limit, from new
	Past      float64             // chance that it is past its limit already
	NextCheck HardKM              // from now; zero when it should be looked at now
	Measured  bool                // false: a guess from how the chain is kept
	K         Percentiles[HardKM] // hard km to half a percent, as now known
	Band      []BandPoint         // from new to well past the limit
	Warnings  []Warning
}

// The grid: ln r over so many standard deviations to each side of its prior mean, ln a likewise.
const (
	rateSteps, rateSigmas       = 241, 4.0
	speedupSteps, speedupSigmas = 41, 3.0
	edgeRows                    = 2    // outermost rows on each side
	edgeWeight                  = 0.05 // more weight than this out there means that nothing fits
)

// The next check (handbook: forecast, What it answers).
const (
	checkChance         = 0.10
	soonestCheck HardKM = 100
	latestCheck  HardKM = 1500
)

// bandPoints is how many points the band has, from new to the farther of one and a half times the
// median life and a little past now.
const bandPoints = 49

// Weights below which a point of the grid cannot move a percentile by anything that is shown: in the
// numbers, and in the band, which is drawn.
const (
	negligible        = 1e-12
	negligibleInDrawn = 1e-8
)

// BeyondNowError reports an observation from further on than the chain has been ridden.
type BeyondNowError struct {
	Index   int // of the observation
	At, Now HardKM
}

func (e *BeyondNowError) Error() string {
	return fmt.Sprintf("a reading at %.0f hard km, but the chain has %.0f: the odometer or the reading is wrong", float64(e.At), float64(e.Now))
}

// Look answers a question. Its error is a [*BeyondNowError].
func Look(q Question) (Forecast, error) {
	for i, o := range q.Observations {
		if o.at > q.Now {
			return Forecast{}, &BeyondNowError{Index: i, At: o.at, Now: q.Now}
		}
	}
	g := newGrid(q)
	f := Forecast{Measured: len(q.Observations) > 0}
	lives := g.spread(func(p point) float64 { return float64(p.growth.Reaches(q.Limit)) })
	for _, s := range lives {
		if s.value <= float64(q.Now) {
			f.Past += s.weight
		}
	}
	life := percentilesOf[HardKM](lives)
	left := func(x HardKM) HardKM { return max(x-q.Now, 0) }
	f.Life, f.Left = life, Percentiles[HardKM]{left(life.P10), left(life.P50), left(life.P90)}
	f.K = percentilesOf[HardKM](g.spread(func(p point) float64 { return float64(knee) / p.growth.Rate }))
	f.NextCheck = min(max(f.Left.P10, soonestCheck), latestCheck)
	switch {
	case f.Past > checkChance:
		f.NextCheck = 0
	case f.Left.P10 < soonestCheck:
		f.Warnings = append(f.Warnings, FloorOverrides)
	}
	if g.atEdge > edgeWeight {
		f.Warnings = append(f.Warnings, ReadingsDoNotFit)
	}
	if q.WithoutBand {
		return f, nil
	}
	end := max(1.5*life.P50, 1.1*q.Now)
	var last Percentiles[chain.Percent]
	for i := range bandPoints {
		x := end * HardKM(i) / (bandPoints - 1)
		last = notBelow(last, percentilesOf[chain.Percent](g.at(x)))
		f.Band = append(f.Band, BandPoint{x, last})
	}
	return f, nil
}

// notBelow holds percentiles at what they were. Every point of the grid only grows, so their percentiles
// do; but the straight lines between the points can step back where two of different weight change
// places, and far past the end of a chain, where they lie far apart, such a step is seen.
func notBelow(was, now Percentiles[chain.Percent]) Percentiles[chain.Percent] {
	return Percentiles[chain.Percent]{max(was.P10, now.P10), max(was.P50, now.P50), max(was.P90, now.P90)}
}

// point is one point of the grid that has weight.
type point struct {
	row    int
	growth Growth
	weight float64
}

// grid is the posterior: every pair of rate and speed-up with its weight.
type grid struct {
	points []point   // by row
	begins []int     // where each row's points begin
	rows   []float64 // weight of each row of one rate
	rates  []float64
	atEdge float64 // weight in the outermost rows
}

// newGrid weighs every point by the prior and the observations. Sums run in a fixed order, so that the
// same question gives the same answer to the last bit.
func newGrid(q Question) grid {
	g := grid{points: make([]point, 0, rateSteps*speedupSteps), begins: make([]int, rateSteps), rows: make([]float64, rateSteps), rates: make([]float64, rateSteps)}
	logs := make([]float64, rateSteps*speedupSteps)
	speedups := make([]float64, speedupSteps)
	for j := range speedups {
		speedups[j] = speedupMedian * math.Exp(speedupSigma*step(j, speedupSteps, speedupSigmas))
	}
	most := math.Inf(-1)
	for i := range rateSteps {
		zr := step(i, rateSteps, rateSigmas)
		rate := float64(knee) * math.Exp(q.Prior.Sigma*zr-q.Prior.MedianLnK)
		g.rates[i] = rate
		// While the joints roll, wear does not depend on the speed-up: those readings count once a row.
		rolling := -zr * zr / 2
		var sliding []Observation
		for _, o := range q.Observations {
			if u := chain.Percent(rate * float64(o.at)); u <= knee {
				rolling += o.logLikelihood(u)
			} else {
				sliding = append(sliding, o)
			}
		}
		for j, a := range speedups {
			za := step(j, speedupSteps, speedupSigmas)
			log := rolling - za*za/2
			growth := Growth{Rate: rate, Speedup: a}
			for _, o := range sliding {
				if log < most-hopeless {
					break
				}
				log += o.logLikelihood(growth.At(o.at))
			}
			logs[i*speedupSteps+j] = log
			most = max(most, log)
		}
	}
	total := 0.0
	for i, log := range logs {
		logs[i] = math.Exp(log - most)
		total += logs[i]
	}
	for i := range rateSteps {
		g.begins[i] = len(g.points)
		for j, a := range speedups {
			w := logs[i*speedupSteps+j] / total
			g.rows[i] += w
			if w > negligible {
				g.points = append(g.points, point{i, Growth{g.rates[i], a}, w})
			}
		}
		if i < edgeRows || i >= rateSteps-edgeRows {
			g.atEdge += g.rows[i]
		}
	}
	return g
}

// hopeless is how far below the best a point's logarithm may fall before the rest of its readings are
// not looked at: no single reading can lift it by more than ln(1/modelFloor), about 4.
const hopeless = 200

// step returns the i-th of n steps from −sigmas to +sigmas.
func step(i, n int, sigmas float64) float64 {
	return sigmas * (2*float64(i)/float64(n-1) - 1)
}

// weighted is a value with its weight.
type weighted struct {
	value, weight float64
}

// spread returns what each point says, sorted, with equal values merged.
func (g grid) spread(of func(point) float64) []weighted {
	values := make([]weighted, 0, len(g.points))
	for _, p := range g.points {
		values = append(values, weighted{of(p), p.weight})
	}
	return merged(values)
}

// at returns the elongations at a distance, sorted, as far as a 90th percentile needs them. Where the
// joints still roll a row says one thing, and says it in order; only what slides must be sorted, and
// only when it reaches that far down.
func (g grid) at(x HardKM) []weighted {
	values := make([]weighted, 0, len(g.points))
	rolling, row := 0.0, 0
	for ; row < rateSteps && g.rates[row]*float64(x) <= float64(knee); row++ {
		values = append(values, weighted{g.rates[row] * float64(x), g.rows[row]})
		rolling += g.rows[row]
	}
	if rolling > farEnough || row == rateSteps {
		return values
	}
	for _, p := range g.points[g.begins[row]:] {
		if p.weight > negligibleInDrawn {
			values = append(values, weighted{float64(p.growth.At(x)), p.weight})
		}
	}
	slices.SortFunc(values[row:], byValue)
	return values
}

// farEnough is how much weight must be sorted for a 90th percentile and its neighbour.
const farEnough = 0.97

func byValue(a, b weighted) int {
	switch { // none of them is NaN
	case a.value < b.value:
		return -1
	case a.value > b.value:
		return 1
	}
	return 0
}

// merged sorts by value and adds the weights of values that are exactly equal.
func merged(values []weighted) []weighted {
	slices.SortFunc(values, byValue)
	out := values[:0]
	for _, v := range values {
		if n := len(out); n > 0 && out[n-1].value == v.value {
			out[n-1].weight += v.weight
			continue
		}
		out = append(out, v)
	}
	return out
}

// percentilesOf puts each value at the weight before it and half its own, and reads between them in
// straight lines; beyond the ends it holds the end values.
// The weights are of a whole of 1, of which the heaviest end may be missing.
func percentilesOf[T ~float64](sorted []weighted) Percentiles[T] {
	var found [3]T
	want := [3]float64{0.1, 0.5, 0.9}
	next, before := 0, 0.0
	var last weighted // with its weight replaced by its place
	for i, v := range sorted {
		place := before + v.weight/2
		for next < 3 && place >= want[next] {
			found[next] = T(v.value)
			if i > 0 {
				part := (want[next] - last.weight) / (place - last.weight)
				found[next] = T(last.value + part*(v.value-last.value))
			}
			next++
		}
		before += v.weight
		last = weighted{v.value, place}
	}
	for ; next < 3; next++ {
		found[next] = T(last.value)
	}
	return Percentiles[T]{found[0], found[1], found[2]}
}
