package fairtest_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/core/forecast"
	"earnestpony/core/forecast/fairtest"
)

// The bounds that the handbook asks for, on a smaller run; make calibration does the long one.
func TestTheForecastIsFair(t *testing.T) {
	r, err := fairtest.Run(1600, 250, 7)
	require.NoError(t, err)
	assert.InDelta(t, 0.80, r.All.Coverage(), 0.03, "true distance inside the 10–90 band")
	for n, s := range r.ByReadings {
		if s.Forecasts >= 150 {
			assert.InDelta(t, 0.80, s.Coverage(), 0.06, "after %d readings, %d forecasts", n, s.Forecasts)
		}
	}
	assert.InDelta(t, 0.37, r.ByReadings[0].MedianError(), 0.06, "with no reading")
	assert.LessOrEqual(t, r.ByReadings[5].MedianError(), 0.25, "with five")

	assert.Less(t, r.Living.CrossedShare(), 0.08, "looks between which the limit was crossed")
	assert.InDelta(t, 6, r.Living.ChecksPerLife(), 2, "looks in the life of a chain")
	// A neglected chain wears by more than that within the 100 hard km that a look is never nearer than.
	for _, care := range []forecast.Care{forecast.Oil, forecast.DripWax, forecast.ImmersionWax} {
		assert.Less(t, r.ByCare[care].OverAt(0.9), 0.08, "true wear past the limit at replacement in 9 of 10, %v", care)
	}

	first, err := fairtest.Run(60, 5, 3)
	require.NoError(t, err)
	again, err := fairtest.Run(60, 5, 3)
	require.NoError(t, err)
	assert.Equal(t, first.String(), again.String(), "the same seed gives the same report")
}
