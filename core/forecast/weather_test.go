package forecast_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/chain"
	"earnestpony/core/forecast"
)

// A day's weather makes a whole mix, and more rain never makes a kilometre easier.
func TestWeatherMix(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := forecast.Weather{RainMM: rapid.Float64Range(0, 40).Draw(t, "rain"), MinC: rapid.Float64Range(-10, 25).Draw(t, "cold")}
		offRoad := rapid.Bool().Draw(t, "off road")
		m := w.Mix(offRoad)
		require.NoError(t, m.Check())
		wetter := w
		wetter.RainMM += rapid.Float64Range(0, 20).Draw(t, "more")
		if !offRoad {
			assert.GreaterOrEqual(t, forecast.HouseFactors.Factor(wetter.Mix(false), chain.NoMotor), forecast.HouseFactors.Factor(m, chain.NoMotor))
		}
		if w.Soaking() {
			assert.True(t, wetter.Soaking())
			assert.Zero(t, m[forecast.Fair])
		}
	})
	for _, c := range []struct {
		weather forecast.Weather
		offRoad bool
		want    forecast.Mix
	}{
		{forecast.Weather{MinC: 9}, false, forecast.Mix{forecast.Fair: 1}},
		{forecast.Weather{MinC: 9}, true, forecast.Mix{forecast.Dusty: 1}},
		{forecast.Weather{RainMM: 2, MinC: 9}, false, forecast.Mix{forecast.Fair: 0.5, forecast.Wet: 0.5}},
		{forecast.Weather{RainMM: 9, MinC: 9}, false, forecast.Mix{forecast.Wet: 1}},
		{forecast.Weather{RainMM: 9, MinC: 9}, true, forecast.Mix{forecast.Mud: 1}},
		{forecast.Weather{RainMM: 9, MinC: 0}, false, forecast.Mix{forecast.Salt: 1}},
	} {
		assert.Equal(t, c.want, c.weather.Mix(c.offRoad), "%+v", c)
	}
}
