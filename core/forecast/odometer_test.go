package forecast_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/forecast"
)

var spring = time.Date(2026, 3, 1, 12, 0, 0, 0, time.UTC)

func on(day int) time.Time { return spring.AddDate(0, 0, day) }

func TestOdometerCounts(t *testing.T) {
	o := forecast.NewOdometer([]forecast.OdometerReading{
		{At: on(30), KM: 1300}, // in any order
		{At: on(0), KM: 1000},
		{At: on(60), KM: 40, NewComputer: true},
		{At: on(90), KM: 340},
	}, 2, 99)
	count := func(day int) float64 { return float64(o.At(on(day))) }
	assert.InDelta(t, 0, count(0), 1e-9)
	assert.InDelta(t, 600, count(30), 1e-9)
	assert.InDelta(t, 300, count(15), 1e-9, "between two readings in a straight line")
	assert.InDelta(t, 680, count(60), 1e-9, "a new computer counts what it shows")
	assert.InDelta(t, 1280, count(90), 1e-9)
	rate := float64(o.Rate())
	assert.InDelta(t, 1280.0/90, rate, 1e-9)
	assert.InDelta(t, 1280+10*rate, count(100), 1e-9, "after the last reading by the rate")
	assert.InDelta(t, -10*rate, count(-10), 1e-9, "before the first likewise")
}

func TestRidingRate(t *testing.T) {
	rate := func(readings ...forecast.OdometerReading) float64 {
		return float64(forecast.NewOdometer(readings, 1, 14).Rate())
	}
	at := func(day int, km forecast.KM) forecast.OdometerReading {
		return forecast.OdometerReading{At: on(day), KM: km}
	}
	assert.InDelta(t, 14, rate(), 0, "the owner's word without readings")
	assert.InDelta(t, 14, rate(at(0, 500)), 0, "and with one")
	assert.InDelta(t, 14, rate(at(0, 500), at(20, 1500)), 0, "and with less than three weeks")
	assert.InDelta(t, 50, rate(at(0, 500), at(21, 1550)), 1e-9)
	assert.InDelta(t, 10, rate(at(0, 0), at(100, 5000), at(145, 5450), at(190, 5900)), 1e-9, "only the last ninety days count")
	assert.InDelta(t, 0, rate(at(0, 500), at(60, 500)), 0, "a bike that stands still")
}

// However hard each km counts, what was ridden is what the odometer showed.
func TestRidden(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var readings []forecast.OdometerReading
		km, days := forecast.KM(0), 0
		for range rapid.IntRange(2, 6).Draw(t, "readings") {
			readings = append(readings, forecast.OdometerReading{At: on(days), KM: km, PerKM: rapid.Float64Range(0.1, 9).Draw(t, "hard km a km")})
			days, km = days+rapid.IntRange(30, 90).Draw(t, "days"), km+forecast.KM(rapid.Float64Range(0, 900).Draw(t, "km"))
		}
		first, last := readings[0], readings[len(readings)-1]
		r := forecast.NewRidden(readings, 7)
		assert.InDelta(t, float64(last.KM-first.KM), float64(r.At(last.At)-r.At(first.At)), 1e-6)
	})
	assert.InDelta(t, 7, forecast.NewRidden(nil, 7).PerDay(), 0, "the owner's word without readings")
}

// Whatever is read, the count never goes backwards, and without readings distances are by the rate alone.
func TestOdometerNeverGoesBackwards(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var readings []forecast.OdometerReading
		for range rapid.IntRange(0, 8).Draw(t, "readings") {
			readings = append(readings, forecast.OdometerReading{
				At: on(rapid.IntRange(0, 400).Draw(t, "day")), KM: forecast.KM(rapid.Float64Range(0, 20000).Draw(t, "km")), NewComputer: rapid.Bool().Draw(t, "new computer"),
			})
		}
		stated := forecast.HardKMPerDay(rapid.Float64Range(0, 60).Draw(t, "stated"))
		o := forecast.NewOdometer(readings, rapid.Float64Range(1, 4.5).Draw(t, "hard per km"), stated)
		last := o.At(on(-40))
		for day := -39; day < 460; day += 7 {
			now := o.At(on(day))
			require.GreaterOrEqual(t, float64(now), float64(last)-1e-6, "on day %d", day)
			last = now
		}
		if len(readings) == 0 {
			require.InDelta(t, 30*float64(stated), float64(o.At(on(30))-o.At(on(0))), 1e-6)
		}
	})
}
