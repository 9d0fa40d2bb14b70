package forecast_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/chain"
	"earnestpony/core/forecast"
	"earnestpony/core/wear"
)

func look(t require.TestingT, q forecast.Question) forecast.Forecast {
	f, err := forecast.Look(q)
	require.NoError(t, err)
	return f
}

func TestFactors(t *testing.T) {
	f := forecast.HouseFactors
	wet := forecast.Mix{forecast.Fair: 0.6, forecast.Wet: 0.3, forecast.Salt: 0.1}
	assert.InDelta(t, 0.6+0.6+0.28, f.Factor(wet, chain.NoMotor), 1e-12)
	assert.InDelta(t, 1.48, f.Factor(wet, chain.HubMotor), 1e-12, "a hub motor does not pull the chain")
	assert.InDelta(t, 1.48*1.6, f.Factor(wet, chain.MidMotor), 1e-12)
	assert.InDelta(t, 1, f.Factor(forecast.Mix{}, chain.NoMotor), 0, "a mix that is not known counts as fair")
	assert.NoError(t, forecast.Mix{}.Check())
	assert.NoError(t, wet.Check())
	assert.ErrorContains(t, forecast.Mix{0.5, 0.6}.Check(), "add up to 1.1")
	assert.ErrorContains(t, forecast.Mix{1.2, -0.2}.Check(), "dusty")
	assert.ErrorContains(t, forecast.Mix{math.NaN()}.Check(), "between 0 and 1")
}

// The closed forms agree with growing in small steps, and are each other's inverse.
func TestGrowth(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := forecast.Growth{Rate: 0.5 / rapid.Float64Range(300, 15000).Draw(t, "K"), Speedup: rapid.Float64Range(0.4, 9).Draw(t, "speed-up")}
		limit := chain.Percent(rapid.Float64Range(0.05, 2).Draw(t, "limit"))
		x := g.Reaches(limit)
		require.InDelta(t, float64(limit), float64(g.At(x)), 1e-9, "at %v", x)
		require.Greater(t, float64(g.At(x+1)), float64(g.At(x)), "wear only grows")

		e, steps := 0.0, 4000
		dx := float64(x) / float64(steps)
		for range steps { // Heun's method, which does not know the closed form
			slope := func(e float64) float64 {
				return g.Rate * (1 + g.Speedup*max(0, e-0.5)/0.5)
			}
			first := slope(e)
			e += dx * (first + slope(e+dx*first)) / 2
		}
		require.InDelta(t, e, float64(limit), 2e-3)
	})
	far := forecast.Growth{Rate: 0.01, Speedup: 20}.At(1e6)
	assert.False(t, math.IsInf(float64(far), 0) || math.IsNaN(float64(far)), "a chain ridden far past its end is still a number")
}

func TestBeforeAndAfterMeasuring(t *testing.T) {
	prior := forecast.Oil.Prior()
	guess := look(t, forecast.Question{Prior: prior, Limit: 0.5, Now: 0})
	assert.False(t, guess.Measured)
	assert.InDelta(t, 4000, float64(guess.Left.P50), 1, "the median of what such chains last")
	assert.InDelta(t, 4000*math.Exp(-0.6*1.2816), float64(guess.Left.P10), 20)
	assert.InDelta(t, 1500, float64(guess.NextCheck), 0, "cut to 1500")
	require.Len(t, guess.Band, 49)
	assert.Zero(t, float64(guess.Band[0].P90))

	measured := look(t, forecast.Question{Prior: prior, Limit: 0.5, Now: 2000, Observations: []forecast.Observation{forecast.Read(2000, 0.4, 0.05)}})
	assert.True(t, measured.Measured)
	assert.InDelta(t, 2500, float64(measured.K.P50), 150, "it wears faster than was thought")
	assert.Less(t, float64(measured.NextCheck), 600.0)

	// At its limit: look now. A little before: the floor of 100 overrides one in ten, and says so.
	worn := look(t, forecast.Question{Prior: prior, Limit: 0.5, Now: 2000, Observations: []forecast.Observation{forecast.Read(2000, 0.52, 0.03)}})
	assert.Greater(t, worn.Past, 0.5)
	assert.Zero(t, float64(worn.NextCheck))
	near := look(t, forecast.Question{Prior: prior, Limit: 0.5, Now: 2000, Observations: []forecast.Observation{forecast.Read(2000, 0.44, 0.02)}})
	assert.InDelta(t, 100, float64(near.NextCheck), 0)
	assert.Contains(t, near.Warnings, forecast.FloorOverrides)

	_, err := forecast.Look(forecast.Question{Prior: prior, Limit: 0.5, Now: 100, Observations: []forecast.Observation{forecast.Read(90, 0, 0.1), forecast.Read(200, 0, 0.1)}})
	var beyond *forecast.BeyondNowError
	require.ErrorAs(t, err, &beyond)
	assert.Equal(t, 1, beyond.Index)
}

// Readings that no chain of this care could give say so.
func TestReadingsThatDoNotFit(t *testing.T) {
	q := forecast.Question{Prior: forecast.ImmersionWax.Prior(), Limit: 0.5, Now: 300, Observations: []forecast.Observation{
		forecast.Read(100, 0.9, 0.03), forecast.Read(300, 2.4, 0.03)}}
	f := look(t, q)
	assert.Contains(t, f.Warnings, forecast.ReadingsDoNotFit)
	for _, p := range f.Band {
		assert.False(t, math.IsNaN(float64(p.P50)) || math.IsInf(float64(p.P90), 0))
	}
}

// What one chain showed moves what is expected of the next half-way, and makes it surer.
func TestNextChain(t *testing.T) {
	first := forecast.Oil.Prior()
	next := first.After(1000)
	f := look(t, forecast.Question{Prior: next, Limit: 0.5})
	assert.InDelta(t, 2000, float64(f.K.P50), 1, "half-way between 4000 and 1000, on the scale of times")
	assert.Less(t, next.Sigma, first.Sigma)
}

// Intervals teach as much as they say: a mark that does not drop in is good news, one that does is not.
func TestIntervals(t *testing.T) {
	q := forecast.Question{Prior: forecast.Oil.Prior(), Limit: 0.5, Now: 3000}
	without := look(t, q)
	q.Observations = []forecast.Observation{forecast.Between(3000, wear.Interval{Low: 0, High: 0.5, Edge: 0.04})}
	good := look(t, q)
	q.Observations = []forecast.Observation{forecast.Between(3000, wear.Interval{Low: 0.75, High: chain.Percent(math.Inf(1)), Edge: 0.04})}
	bad := look(t, q)
	assert.Greater(t, float64(good.K.P50), float64(without.K.P50))
	assert.Less(t, float64(bad.K.P50), float64(without.K.P50))
	assert.Greater(t, bad.Past, 0.99)
	assert.Less(t, good.Past, 0.12)
}

// Far past the end the points of the grid lie far apart, and change places.
func TestWearOnlyGrowsFarPastTheEnd(t *testing.T) {
	for _, care := range forecast.Cares() {
		for read := chain.Percent(0.1); read < 1.5; read += 0.1 {
			onlyGrows(t, look(t, forecast.Question{Prior: care.Prior(), Limit: 0.5, Now: 9000, Observations: []forecast.Observation{forecast.Read(1500, read, 0.05)}}))
		}
	}
}

func onlyGrows(t require.TestingT, f forecast.Forecast) {
	last := forecast.BandPoint{}
	for _, p := range f.Band {
		require.True(t, p.P10 <= p.P50 && p.P50 <= p.P90)
		require.True(t, p.P10 >= last.P10 && p.P50 >= last.P50 && p.P90 >= last.P90, "wear only grows")
		last = p
	}
}

func TestLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		care := rapid.SampledFrom(forecast.Cares()).Draw(t, "care")
		now := forecast.HardKM(rapid.Float64Range(1, 9000).Draw(t, "now"))
		var seen []forecast.Observation
		for i := range rapid.IntRange(0, 6).Draw(t, "readings") {
			at := min(now*forecast.HardKM(i+1)/6, now)
			e := chain.Percent(rapid.Float64Range(-0.1, 1.2).Draw(t, "read"))
			if rapid.Bool().Draw(t, "by a gauge that compares") {
				seen = append(seen, forecast.Between(at, wear.Interval{Low: 0, High: max(e, 0.25), Edge: 0.04}))
			} else {
				seen = append(seen, forecast.Read(at, e, 0.05))
			}
		}
		ask := func(limit chain.Percent) forecast.Forecast {
			return look(t, forecast.Question{Prior: care.Prior(), Limit: limit, Now: now, Observations: seen})
		}
		f := ask(0.5)
		require.Equal(t, f, ask(0.5), "the same question gives the same answer, to the last bit")
		require.True(t, f.Left.P10 <= f.Left.P50 && f.Left.P50 <= f.Left.P90, "%v", f.Left)
		require.True(t, f.Past >= 0 && f.Past <= 1+1e-9)
		require.True(t, f.NextCheck == 0 || (f.NextCheck >= 100 && f.NextCheck <= 1500), "%v", f.NextCheck)
		later := ask(0.75)
		require.GreaterOrEqual(t, float64(later.Left.P50), float64(f.Left.P50), "a higher limit is reached later")
		require.LessOrEqual(t, later.Past, f.Past+1e-9)
		onlyGrows(t, f)
	})
}

func TestCost(t *testing.T) {
	p := forecast.Prices{Chain: 3500, Sprockets: 9000, Rings: 6000, LabourChain: 1500, LabourSprockets: 1200, LabourRings: 1800}
	life := forecast.Percentiles[forecast.HardKM]{P10: 4200, P50: 6000, P90: 9000}
	last := 99.0
	for _, limit := range []chain.Percent{0.3, 0.5, 0.6, 0.75, 0.9, 1, 1.5} {
		c := p.Cost(forecast.Strategy{Limit: limit, Life: life}, forecast.HouseChainsPerSet)
		assert.True(t, c.Low < c.Mid && c.Mid < c.High, "a chain that lasts long costs less")
		assert.InDelta(t, float64(c.Mid), float64(c.Chain+c.Sprockets+c.Rings), 1e-9, "the shares are the whole")
		assert.LessOrEqual(t, c.ChainsPerSet, last, "a later change spares the sprockets less")
		last = c.ChainsPerSet
	}
	at := func(limit chain.Percent, sets forecast.ChainsPerSet) float64 {
		return p.Cost(forecast.Strategy{Limit: limit, Life: life}, sets).ChainsPerSet
	}
	assert.InDelta(t, 3.4, at(0.6, forecast.HouseChainsPerSet), 1e-9)
	assert.InDelta(t, 2.5, at(0.875, forecast.ChainsPerSet{Half: 5, ThreeQuarter: 3, One: 2}), 1e-9, "a shop's own numbers, half-way between two")

	twelve := chain.Drivetrain{Kind: chain.Derailleur, Sprockets: 12, Motor: chain.NoMotor}
	assert.Equal(t, []chain.Percent{0.5, 0.75, 1.5}, forecast.StrategyLimits(twelve, 0.5))
	twelve.Carry = true
	assert.Equal(t, []chain.Percent{0.5, 0.6, 0.75}, forecast.StrategyLimits(twelve, 0.6), "cargo is never run out, and a limit of its own is compared too")
}

func ExampleLook() {
	f, _ := forecast.Look(forecast.Question{
		Prior: forecast.Oil.Prior(), Limit: 0.5, Now: 1800,
		Observations: []forecast.Observation{forecast.Read(900, 0.15, 0.05), forecast.Read(1800, 0.31, 0.05)},
	})
	fmt.Printf("about %.0f hard km left, could be as few as %.0f; look again after %.0f\n", float64(f.Left.P50), float64(f.Left.P10), float64(f.NextCheck))
	// Output: about 1265 hard km left, could be as few as 713; look again after 713
}

func BenchmarkLook(b *testing.B) {
	for _, n := range []int{0, 1, 5, 12} {
		q := forecast.Question{Prior: forecast.Oil.Prior(), Limit: 0.5, Now: 3600}
		for i := range n {
			at := forecast.HardKM(300 * (i + 1))
			q.Observations = append(q.Observations, forecast.Read(at, chain.Percent(float64(at)*0.5/4200), 0.05))
		}
		b.Run(fmt.Sprintf("observations=%d", n), func(b *testing.B) {
			for b.Loop() {
				if _, err := forecast.Look(q); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
