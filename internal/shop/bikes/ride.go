package bikes

import (
	"time"

	"earnestpony/core/forecast"
	"earnestpony/internal/outside"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// PlugInWeather says who knows what the days were like.
func (s *Bikes) PlugInWeather(w outside.WeatherHistory) { s.weather = w }

// RideRow is one ride.
type RideRow struct {
	StartedAt time.Time   `json:"started_at"`
	KM        float64     `json:"km"`
	Jumps     int         `json:"jumps,omitempty"`
	RainMM    *float64    `json:"rain_mm,omitempty"`
	Mix       *record.Mix `json:"mix,omitempty"`
}

// Ridden is a ride as the odometer takes it.
type ridden struct {
	from, to time.Time
	km       float64
	perKM    float64 // hard km a km
}

func (t *Tracker) rides(facts []store.EntryView) ([]ridden, error) {
	var all []ridden
	for _, e := range facts {
		if e.Kind != record.KindRide {
			continue
		}
		b, err := record.BodyOf[record.RideBody](e)
		if err != nil {
			return nil, err
		}
		r := ridden{b.StartedAt, e.HappenedAt, b.KM, t.PerKM}
		if b.Mix != nil {
			r.perKM = t.Factor(record.MixOf(b.Mix))
		}
		all = append(all, r)
	}
	return all, nil
}

func between(rides []ridden, from, to time.Time) []ridden {
	var within []ridden
	for _, r := range rides {
		if r.to.After(from) && !r.to.After(to) {
			within = append(within, r)
		}
	}
	return within
}

// blend is how many hard km a km of a segment counts for of which some rides are known: those by their own
// weather, the rest by rest. The odometer says how far; rides that add up to more only say how hard.
func blend(rides []ridden, km, rest float64) float64 {
	var known, hard float64
	for _, r := range rides {
		known += r.km
		hard += r.km * r.perKM
	}
	if known >= km {
		return hard / known
	}
	return (hard + (km-known)*rest) / km
}

// withRides adds what was ridden since the last reading; where nobody read the odometer the rides are all
// that is known.
func withRides(readings []forecast.OdometerReading, rides []ridden) []forecast.OdometerReading {
	last := forecast.OdometerReading{}
	if n := len(readings); n > 0 {
		last = readings[n-1]
	}
	for _, r := range rides {
		if len(readings) == 0 {
			last.At = r.from
			readings = append(readings, last)
		}
		if !r.to.After(last.At) {
			continue
		}
		last = forecast.OdometerReading{At: r.to, KM: last.KM + forecast.KM(r.km), PerKM: r.perKM}
		readings = append(readings, last)
	}
	return readings
}
