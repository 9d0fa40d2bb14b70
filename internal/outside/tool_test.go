package outside_test

import (
	"math"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/core/wear"
	"earnestpony/internal/outside"
)

// The stand-in types what a tool of its kind would: right on average, off by that kind's own error.
func TestToolTypesWithItsNoise(t *testing.T) {
	tool := outside.NewTool(7)
	for kind, want := range map[wear.Kind]struct{ mean, sigma float64 }{
		wear.GaugePercent:  {0.62, 0.05},
		wear.CaliperInside: {127*1.0062 - 7.65, 0.03 * 1.27},
	} {
		const n = 4000
		var sum, squares float64
		for range n {
			text, err := tool.Read(kind, 10, 0.62)
			require.NoError(t, err)
			v, err := strconv.ParseFloat(text, 64)
			require.NoError(t, err, "it types a number and nothing else")
			sum += v
			squares += (v - want.mean) * (v - want.mean)
		}
		assert.InDelta(t, want.mean, sum/n, 4*want.sigma/math.Sqrt(n)+0.001, "%v", kind)
		assert.InDelta(t, want.sigma, math.Sqrt(squares/n), 0.1*want.sigma, "%v", kind)
	}
	_, err := tool.Read(wear.Ruler, 24, 0.5)
	assert.ErrorContains(t, err, "does not type for itself")
}
