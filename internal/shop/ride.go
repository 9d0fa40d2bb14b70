package shop

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	"earnestpony/core/forecast"
	"earnestpony/core/interval"
	"earnestpony/internal/formats"
	"earnestpony/internal/outside"
	"earnestpony/internal/store"
)

const kindRide = "ride"

// rideBody is what the ledger keeps of a ride; it happened when it ended.
type rideBody struct {
	KM        float64   `json:"km"`
	StartedAt time.Time `json:"started_at"`
	Jumps     int       `json:"jumps,omitempty"`
	File      string    `json:"file,omitempty"`
	Mix       *Mix      `json:"mix,omitempty"`
	RainMM    *float64  `json:"rain_mm,omitempty"` // of its day; nil where nobody knew
	Events    []string  `json:"events,omitempty"`
}

// PlugInWeather says who knows what the days were like.
func (s *Service) PlugInWeather(w outside.WeatherHistory) { s.weather = w }

// RideFile is what became of one ride file.
type RideFile struct {
	Name     string      `json:"name"`
	Kept     []RideRow   `json:"kept"`
	Repeated []RideRow   `json:"repeated"` // that were there already
	Wrong    []RideFault `json:"wrong"`
}

// RideRow is one ride.
type RideRow struct {
	StartedAt time.Time `json:"started_at"`
	KM        float64   `json:"km"`
	Jumps     int       `json:"jumps,omitempty"`
	RainMM    *float64  `json:"rain_mm,omitempty"`
	Mix       *Mix      `json:"mix,omitempty"`
}

// RideFault is what is wrong in a ride file.
type RideFault struct {
	Line    int    `json:"line,omitempty"` // 0: the whole file
	Message string `json:"message"`
}

// The rides that are one ride imported twice: the same start within a minute, the distance within a hundredth
// (handbook: intervals, Odometer).
const (
	sameStart = time.Minute
	sameShare = 0.01
)

// ImportRides reads a ride file and keeps the rides that are right and new. What is wrong is named.
func (s *Service) ImportRides(ctx context.Context, who Actor, tagText, name string, data []byte) (RideFile, error) {
	name = tidy(name)
	if len([]rune(name)) > 120 {
		name = string([]rune(name)[:120])
	}
	out := RideFile{Name: name, Kept: []RideRow{}, Repeated: []RideRow{}, Wrong: []RideFault{}}
	rides, faults := formats.ReadRides(data)
	for _, f := range faults {
		fault := RideFault{Message: f.Error()}
		if e, is := errors.AsType[*formats.FileError](f); is {
			fault = RideFault{e.Line, e.Message}
		}
		out.Wrong = append(out.Wrong, fault)
	}
	if len(rides) == 0 {
		return out, nil
	}
	now := s.now().Add(clockSlack)
	err := s.store.Write(ctx, func(tx store.Tx) error {
		bike, err := bikeInCare(ctx, tx, tagText)
		if err != nil {
			return err
		}
		had, err := s.ridesOf(ctx, tx, bike)
		if err != nil {
			return err
		}
		for i, r := range rides {
			if r.End.After(now) {
				out.Wrong = append(out.Wrong, RideFault{Message: fmt.Sprintf("Ride %d ends in the future.", i+1)})
				continue
			}
			b := rideBody{KM: r.KM, StartedAt: store.Stamp(r.Start), Jumps: r.Jumps, File: name}
			if repeated(had, b) {
				out.Repeated = append(out.Repeated, rowOf(b))
				continue
			}
			if err := s.weatherOf(ctx, &b, bike); err != nil {
				return err
			}
			e := store.Entry{BikeID: &bike.ID, Kind: kindRide, HappenedAt: store.Stamp(r.End)}
			if err := s.append(ctx, tx, who, &e, b, Change{Topic: "bike", Tag: tagOf(bike)}); err != nil {
				return err
			}
			had, out.Kept = append(had, b), append(out.Kept, rowOf(b))
		}
		return nil
	})
	return out, err
}

func rowOf(b rideBody) RideRow { return RideRow{b.StartedAt, b.KM, b.Jumps, b.RainMM, b.Mix} }

func (s *Service) ridesOf(ctx context.Context, tx store.Tx, bike store.Bike) ([]rideBody, error) {
	facts, err := tx.StandingFacts(ctx, bike.ID, kindRide)
	if err != nil {
		return nil, err
	}
	var rides []rideBody
	for _, e := range facts {
		b, err := bodyOf[rideBody](e)
		if err != nil {
			return nil, err
		}
		rides = append(rides, b)
	}
	return rides, nil
}

func repeated(had []rideBody, b rideBody) bool {
	for _, h := range had {
		if h.StartedAt.Sub(b.StartedAt).Abs() <= sameStart && math.Abs(h.KM-b.KM) <= sameShare*max(h.KM, b.KM) {
			return true
		}
	}
	return false
}

// weatherOf gives a ride the conditions of its day. Where nobody knows the weather it counts as the bike is
// usually ridden.
func (s *Service) weatherOf(ctx context.Context, b *rideBody, bike store.Bike) error {
	if s.weather == nil {
		return nil
	}
	days, err := s.weather.Days(ctx, b.StartedAt, b.StartedAt)
	if err != nil || len(days) == 0 {
		return err
	}
	offRoad := bike.Kind == "trail" || bike.Kind == "gravel"
	day := forecast.Weather{RainMM: days[0].RainMM, MinC: days[0].MinC}
	m := day.Mix(offRoad)
	b.Mix = &Mix{Fair: m[forecast.Fair], Dusty: m[forecast.Dusty], Wet: m[forecast.Wet], Mud: m[forecast.Mud], Salt: m[forecast.Salt]}
	b.RainMM = &days[0].RainMM
	if day.Soaking() {
		b.Events = append(b.Events, string(interval.SoakedRide))
		if offRoad {
			b.Events = append(b.Events, string(interval.MudRide))
		}
	}
	return nil
}

// rideWords is a ride as the ledger line says it.
func rideWords(b rideBody) string {
	words := []string{fmt.Sprintf("%.1f km", b.KM)}
	if b.RainMM != nil && *b.RainMM > 0 {
		words = append(words, fmt.Sprintf("%.1f mm of rain", *b.RainMM))
	}
	return strings.Join(words, ", ")
}

// ridden is a ride as the odometer takes it.
type ridden struct {
	from, to time.Time
	km       float64
	perKM    float64 // hard km a km
}

func (t *tracker) rides(facts []store.EntryView) ([]ridden, error) {
	var all []ridden
	for _, e := range facts {
		if e.Kind != kindRide {
			continue
		}
		b, err := bodyOf[rideBody](e)
		if err != nil {
			return nil, err
		}
		r := ridden{b.StartedAt, e.HappenedAt, b.KM, t.perKM}
		if b.Mix != nil {
			r.perKM = t.factor(mixOf(b.Mix))
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
