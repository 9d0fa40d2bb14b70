package fluids_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/fluids"
)

// The house default, and neat.
func TestRatio(t *testing.T) {
	m := fluids.Ratio(2, 1, 500)
	assert.InDelta(t, 1000.0/3, float64(m.Product), 1e-9)
	assert.InDelta(t, 500.0/3, float64(m.Water), 1e-9)
	assert.InDelta(t, 200.0/3, float64(m.Strength), 1e-9)
	assert.Equal(t, fluids.Addition{Product: 60, Water: 0, Strength: 100}, fluids.Ratio(3, 0, 60))
}

// Whatever is added, the volumes and the product add up; and what is refused could not have been
// reached from either side.
func TestTopUpBalances(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		have := fluids.ML(rapid.Float64Range(0, 5000).Draw(t, "have"))
		want := fluids.ML(rapid.Float64Range(1, 5000).Draw(t, "want"))
		at := fluids.Percent(rapid.Float64Range(0, 100).Draw(t, "at"))
		to := fluids.Percent(rapid.Float64Range(0, 100).Draw(t, "to"))
		m, err := fluids.TopUp(have, at, want, to)
		if err == nil {
			assert.GreaterOrEqual(t, m.Product, fluids.ML(0))
			assert.GreaterOrEqual(t, m.Water, fluids.ML(0))
			assert.InDelta(t, float64(want), float64(have+m.Product+m.Water), 0.02)
			assert.InDelta(t, float64(want*fluids.ML(to)), float64(have*fluids.ML(at)+100*m.Product), 1)
			return
		}
		var reach *fluids.ReachError
		require.ErrorAs(t, err, &reach)
		if have > want {
			assert.Contains(t, err.Error(), "already")
			return
		}
		assert.True(t, to < reach.Weakest || to > reach.Strongest, "%v is between %v and %v", to, reach.Weakest, reach.Strongest)
		// At the ends of what is reachable nothing but the one or the other is added.
		weak, err := fluids.TopUp(have, at, want, reach.Weakest)
		require.NoError(t, err)
		assert.InDelta(t, 0, float64(weak.Product), 0.02)
		strong, err := fluids.TopUp(have, at, want, reach.Strongest)
		require.NoError(t, err)
		assert.InDelta(t, 0, float64(strong.Water), 0.02)
	})
}
