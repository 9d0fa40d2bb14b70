package lube_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"earnestpony/core/chain"
	"earnestpony/core/clean"
	"earnestpony/core/forecast"
	"earnestpony/core/lube"
)

func mix(fair, dusty, wet, mud, salt float64) forecast.Mix {
	return forecast.Mix{fair, dusty, wet, mud, salt}
}

func TestPicks(t *testing.T) {
	for _, c := range []struct {
		what          string
		q             lube.Question
		first, second lube.Family
	}{
		{"rain and salt", lube.Question{Mix: mix(0.3, 0, 0.5, 0, 0.2), Damp: true, On: clean.Oil, CanBare: true}, lube.WetOil, lube.AllWeather},
		{"fair, well kept, nobody in a hurry", lube.Question{Mix: mix(0.9, 0.1, 0, 0, 0), Care: forecast.ImmersionWax, On: clean.ImmersionWax, CanBare: true}, lube.ImmersionWax, lube.DripWax},
		{"fair, but the owner never wipes it", lube.Question{Mix: mix(0.8, 0, 0.2, 0, 0), Care: forecast.Neglected, On: clean.Oil, CanBare: true}, lube.AllWeather, lube.WetOil},
		{"fair, ridden in an hour", lube.Question{Mix: mix(0.8, 0, 0.2, 0, 0), On: clean.DripWax, HoursToRide: 0.6}, lube.AllWeather, lube.WetOil},
	} {
		got := lube.Picks(c.q, lube.Prices{})
		assert.Equal(t, []string{c.first.String(), c.second.String()}, []string{got[0].Family.String(), got[1].Family.String()}, "%s: %+v", c.what, got)
	}
}

func TestAmounts(t *testing.T) {
	oil := lube.WetOil.On(114, 34, false)
	assert.Equal(t, 114, oil.Drops)
	assert.InDelta(t, 4.56, float64(oil.Fluid), 1e-9, "mL: a drop of 0.04 a joint")
	assert.InDelta(t, 3.3529, oil.RunningTurns, 1e-4, "turns of the crank")
	assert.InDelta(t, 7.296, float64(oil.Running), 1e-9, "mL: a stream takes 1.6 times as much")
	assert.InDelta(t, 11.4, float64(lube.DripWax.On(114, 34, false).Fluid), 1e-9, "mL: two coats of 0.05")
	assert.InDelta(t, 5.7, float64(lube.DripWax.On(114, 34, true).Fluid), 1e-9, "mL: one coat over wax that is on")
	assert.InDelta(t, 7, lube.ImmersionWax.On(114, 34, false).Grams, 1e-9, "g")
}

func TestCost(t *testing.T) {
	p := lube.Prices{LabourHour: 4800, Wear: 6000, Links: 114, PerML: map[lube.Family]forecast.Money{lube.WetOil: 10}}
	c := p.CostOf(lube.WetOil, lube.ByLubricant, 1.5)
	// 1500 hard km: five times 4.56 mL at 10 and nine minutes at 80; 1500/4000 of a worn chain.
	assert.InDelta(t, 228, float64(c.Lubricant), 1e-6)
	assert.InDelta(t, 3600, float64(c.Labour), 1e-6)
	assert.InDelta(t, 2250, float64(c.Wear), 1e-6)
	assert.InDelta(t, 6078, float64(c.Total), 1e-6)
	assert.Greater(t, c.Wear, p.CostOf(lube.ImmersionWax, lube.ByLubricant, 1.5).Wear, "wax spares the chain")
}

// Whatever is asked, every family is there once, what is first can be used if anything can, wax is never
// put where the chain cannot be bared, and more rain never lifts dry oil over wet.
func TestEveryPick(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		wet := rapid.Float64Range(0, 1).Draw(t, "wet")
		q := lube.Question{Mix: mix(1-wet, 0, wet, 0, 0), Damp: rapid.Bool().Draw(t, "damp"), CanBare: rapid.Bool().Draw(t, "can bare"),
			Care: forecast.Care(rapid.IntRange(0, 5).Draw(t, "care")), On: clean.Coat(rapid.IntRange(0, 5).Draw(t, "on")),
			HoursToRide: rapid.Float64Range(0.2, 48).Draw(t, "hours"), When: lube.When(rapid.IntRange(0, 2).Draw(t, "school"))}
		p := lube.Prices{LabourHour: 5000, Wear: 5000, Links: chain.Links(rapid.IntRange(30, 300).Draw(t, "links"))}
		got := lube.Picks(q, p)
		assert.Len(t, got, len(lube.Families()))
		assert.True(t, !got[0].Refused || q.On == clean.ImmersionWax && !q.CanBare, "wet oil is ready in ten minutes, and goes over all but wax that cannot be taken off")
		at := func(f lube.Family) int {
			return slices.IndexFunc(got, func(c lube.Choice) bool { return c.Family == f })
		}
		if !q.CanBare {
			assert.True(t, got[at(lube.ImmersionWax)].Refused)
		}
		if wet > 0.5 {
			assert.Less(t, at(lube.WetOil), at(lube.DryOil))
		}
		for _, c := range got {
			assert.Positive(t, c.Every)
			assert.InDelta(t, float64(c.Cost.Total), float64(c.Cost.Labour+c.Cost.Wear+c.Cost.Lubricant), 1e-6)
		}
	})
}
