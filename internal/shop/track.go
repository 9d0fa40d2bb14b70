package shop

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/chain"
	"earnestpony/core/forecast"
	"earnestpony/core/wear"
	"earnestpony/internal/calc"
	"earnestpony/internal/store"
)

// The kinds of entry that a chain's wear is told from.
const (
	kindMeasurement = "measurement"
	kindOdometer    = "odometer"
	kindChainFitted = "chain-fitted"
)

// OdometerNote is an odometer read off a bike.
type OdometerNote struct {
	KM          float64    `json:"km"`
	NewComputer bool       `json:"new_computer,omitempty"` // it began again from nothing
	ReadAt      *time.Time `json:"read_at,omitempty"`      // now when nil
}

// maxOdometer is more than any bike is ridden, km.
const maxOdometer = 500_000

// NoteOdometer notes what a bike's odometer shows. One lower than before is asked about: a new
// computer, or a slip.
func (s *Service) NoteOdometer(ctx context.Context, who Actor, d Deed, tagText string, n OdometerNote) (LedgerEntry, error) {
	at, err := s.happened(n.ReadAt)
	if err != nil {
		return LedgerEntry{}, err
	}
	return once(ctx, s, who, d, "note-odometer "+tagText, n, func(tx store.Tx) (LedgerEntry, error) {
		bike, err := bikeInCare(ctx, tx, tagText)
		if err != nil {
			return LedgerEntry{}, err
		}
		return s.noteOdometer(ctx, tx, who, bike, n, at)
	})
}

func (s *Service) noteOdometer(ctx context.Context, tx store.Tx, who Actor, bike store.Bike, n OdometerNote, at time.Time) (LedgerEntry, error) {
	if !(n.KM >= 0 && n.KM <= maxOdometer) {
		return LedgerEntry{}, invalid(Field{Path: "odometer_km", Code: "out-of-range", Message: fmt.Sprintf("%g km: an odometer shows 0 to %d km.", n.KM, maxOdometer)})
	}
	facts, err := tx.StandingFacts(ctx, bike.ID, kindOdometer)
	if err != nil {
		return LedgerEntry{}, err
	}
	var last *forecast.OdometerReading // before this one; an older one may be of an older computer
	for _, e := range facts {
		if e.HappenedAt.After(at) {
			break
		}
		r, err := odometerOf(e)
		if err != nil {
			return LedgerEntry{}, err
		}
		last = &r
	}
	if last != nil && n.KM < float64(last.KM) && !n.NewComputer {
		return LedgerEntry{}, &Problem{Kind: Conflict, Code: "lower-than-last",
			Message: fmt.Sprintf("%.0f km is less than the %.0f km of %s. A new computer, or a slip?", n.KM, float64(last.KM), last.At.Format("2 January")),
			Fields:  []Field{{Path: "odometer_km", Code: "lower-than-last", Message: "Less than it showed before."}}}
	}
	return s.appendFact(ctx, tx, who, bike, store.Entry{BikeID: &bike.ID, Kind: kindOdometer, HappenedAt: at}, OdometerNote{KM: n.KM, NewComputer: n.NewComputer})
}

// ChainFitting is a new chain put on a bike.
type ChainFitting struct {
	FittedAt   *time.Time `json:"fitted_at,omitempty"` // now when nil
	OdometerKM *float64   `json:"odometer_km,omitempty"`
}

// FitChain notes that a new chain was put on: its wear begins anew.
func (s *Service) FitChain(ctx context.Context, who Actor, d Deed, tagText string, n ChainFitting) (LedgerEntry, error) {
	at, err := s.happened(n.FittedAt)
	if err != nil {
		return LedgerEntry{}, err
	}
	return once(ctx, s, who, d, "fit-chain "+tagText, n, func(tx store.Tx) (LedgerEntry, error) {
		bike, err := bikeInCare(ctx, tx, tagText)
		if err != nil {
			return LedgerEntry{}, err
		}
		if n.OdometerKM != nil {
			if _, err := s.noteOdometer(ctx, tx, who, bike, OdometerNote{KM: *n.OdometerKM}, at); err != nil {
				return LedgerEntry{}, err
			}
		}
		return s.appendFact(ctx, tx, who, bike, store.Entry{BikeID: &bike.ID, Kind: kindChainFitted, HappenedAt: at}, struct{}{})
	})
}

// appendFact writes an entry about a bike and returns it as it is shown.
func (s *Service) appendFact(ctx context.Context, tx store.Tx, who Actor, bike store.Bike, e store.Entry, body any) (LedgerEntry, error) {
	if err := s.append(ctx, tx, who, &e, body, Change{Topic: "bike", Tag: tagOf(bike)}); err != nil {
		return LedgerEntry{}, err
	}
	written, err := tx.Entry(ctx, e.ID)
	if err != nil {
		return LedgerEntry{}, err
	}
	return newLedgerEntry(written)
}

// happened returns when something happened that a device dates itself; now when it does not.
func (s *Service) happened(at *time.Time) (time.Time, error) {
	now := s.now()
	if at == nil {
		return now, nil
	}
	if at.After(now.Add(clockSlack)) {
		return now, invalid(Field{Path: "at", Code: "in-the-future", Message: "This is dated in the future. Check the clock of this device."})
	}
	return store.Stamp(*at), nil
}

func bikeInCare(ctx context.Context, tx store.Tx, tagText string) (store.Bike, error) {
	bike, err := bikeByTag(ctx, tx, tagText)
	if err == nil && bike.ArchivedAt != nil {
		err = &Problem{Kind: Conflict, Code: "bike-archived", Message: "This bike is archived. Take it out of the archive first."}
	}
	return bike, err
}

func odometerOf(e store.EntryView) (forecast.OdometerReading, error) {
	var n OdometerNote
	err := json.Unmarshal(e.Body, &n)
	return forecast.OdometerReading{At: e.HappenedAt, KM: forecast.KM(n.KM), NewComputer: n.NewComputer}, err
}

// WearTrack is the wear of a bike's chains over the distance it was ridden. Distances are hard km from
// where the track begins.
type WearTrack struct {
	OdometerKM       *float64             `json:"odometer_km,omitempty"` // as last read
	OdometerAt       *time.Time           `json:"odometer_at,omitempty"`
	NowHardKM        float64              `json:"now_hard_km"`
	HardPerKM        float64              `json:"hard_per_km"` // of the usual mix
	RateHardKMPerDay float64              `json:"rate_hard_km_per_day"`
	Chains           []ChainSpan          `json:"chains"`
	Readings         []TrackReading       `json:"readings"`
	LimitPct         *float64             `json:"limit_pct,omitempty"`
	TogetherPct      *float64             `json:"together_pct,omitempty"`
	Forecast         *calc.ForecastAnswer `json:"forecast,omitempty"` // of the chain now on, from when it was new
	Missing          []string             `json:"missing"`            // what must be known before there can be one
}

// ChainSpan is one chain on the bike; the last is the one now on.
type ChainSpan struct {
	FittedAt   time.Time `json:"fitted_at"`
	FromHardKM float64   `json:"from_hard_km"`
}

// TrackReading is one measurement on the track: a value with its error, or an interval.
type TrackReading struct {
	EntryID       uuid.UUID `json:"entry_id"`
	TakenAt       time.Time `json:"taken_at"`
	By            string    `json:"by"`
	Instrument    string    `json:"instrument"`
	Kind          string    `json:"kind"`
	HardKM        float64   `json:"hard_km"`
	Chain         int       `json:"chain"` // index among the chains; -1 before the first that is known
	ElongationPct *float64  `json:"elongation_pct,omitempty"`
	SigmaPct      *float64  `json:"sigma_pct,omitempty"`
	LowPct        *float64  `json:"low_pct,omitempty"`
	HighPct       *float64  `json:"high_pct,omitempty"` // missing when the tool looked no further
}

// WearTrack tells a bike's wear and forecasts the chain now on.
func (s *Service) WearTrack(ctx context.Context, tagText string) (WearTrack, error) {
	tx := s.store.Read()
	bike, err := bikeByTag(ctx, tx, tagText)
	if err != nil {
		return WearTrack{}, err
	}
	settings, err := tx.Shop(ctx)
	if err != nil {
		return WearTrack{}, err
	}
	school, err := wear.ParseSchool(settings.WearSchool)
	if err != nil {
		return WearTrack{}, err
	}
	facts, err := tx.StandingFacts(ctx, bike.ID, kindMeasurement, kindOdometer, kindChainFitted)
	if err != nil {
		return WearTrack{}, err
	}
	b := bench{bike: &bike, school: school}
	dt, _, limits, missing := b.rules(b.drivetrain())
	t := tracker{bike: bike, limits: limits, now: s.now(), perKM: forecast.HouseFactors.Factor(mixOf(bike.BikeFacts), dt.Motor)}
	return t.track(facts, missing)
}

// mixOf is how a bike is usually ridden, as the core knows it.
func mixOf(f BikeFacts) forecast.Mix {
	if f.Mix == nil {
		return forecast.Mix{}
	}
	return forecast.Mix{forecast.Fair: f.Mix.Fair, forecast.Dusty: f.Mix.Dusty, forecast.Wet: f.Mix.Wet, forecast.Mud: f.Mix.Mud, forecast.Salt: f.Mix.Salt}
}

// careOf is how a chain is looked after: as noted, or as its lubricant lets one suppose.
func careOf(f BikeFacts) forecast.Care {
	if care, err := forecast.ParseCare(f.Care); err == nil {
		return care
	}
	switch f.Lubricant {
	case "drip-wax":
		return forecast.DripWax
	case "immersion-wax":
		return forecast.ImmersionWax
	}
	return forecast.Oil
}

// tracker makes a track of what is known of a bike.
type tracker struct {
	bike   store.Bike
	limits wear.Limits
	now    time.Time
	perKM  float64

	odometer forecast.Odometer
	begin    forecast.HardKM // the odometer's count where the track begins
	seen     [][]forecast.Observation
}

func (t *tracker) track(facts []store.EntryView, missing []string) (WearTrack, error) {
	w := WearTrack{HardPerKM: t.perKM, Chains: []ChainSpan{}, Readings: []TrackReading{}, Missing: append([]string{}, missing...)}
	var odometer []forecast.OdometerReading
	for _, e := range facts {
		if e.Kind == kindOdometer {
			r, err := odometerOf(e)
			if err != nil {
				return w, err
			}
			odometer = append(odometer, r)
			km := float64(r.KM)
			w.OdometerKM, w.OdometerAt = &km, &r.At
		}
	}
	stated := forecast.HardKMPerDay(0)
	if t.bike.WeeklyKM != nil {
		stated = forecast.HardKMPerDay(*t.bike.WeeklyKM / 7 * t.perKM)
	}
	t.odometer = forecast.NewOdometer(odometer, t.perKM, stated)
	first := t.bike.CreatedAt
	if len(facts) > 0 && facts[0].HappenedAt.Before(first) {
		first = facts[0].HappenedAt
	}
	t.begin = t.odometer.At(first)
	w.NowHardKM, w.RateHardKMPerDay = float64(t.at(t.now)), float64(t.odometer.Rate())
	if err := t.place(&w, facts); err != nil {
		return w, err
	}
	if len(missing) == 0 {
		limit, together := float64(t.limits.Limit), float64(t.limits.Together)
		w.LimitPct, w.TogetherPct = &limit, &together
	}
	if len(w.Chains) == 0 {
		w.Missing = append(w.Missing, kindChainFitted)
	}
	if len(odometer) == 0 && stated == 0 {
		w.Missing = append(w.Missing, "distance")
	}
	if len(w.Missing) > 0 {
		return w, nil
	}
	return w, t.look(&w)
}

// at is the distance at a time, from where the track begins.
func (t *tracker) at(when time.Time) forecast.HardKM { return t.odometer.At(when) - t.begin }

// place puts chains and readings on the track, and sorts the readings by chain.
func (t *tracker) place(w *WearTrack, facts []store.EntryView) error {
	for _, e := range facts {
		switch e.Kind {
		case kindChainFitted:
			w.Chains = append(w.Chains, ChainSpan{e.HappenedAt, float64(t.at(e.HappenedAt))})
			t.seen = append(t.seen, nil)
		case kindMeasurement:
			m, err := newMeasurement(e)
			if err != nil {
				return err
			}
			r := TrackReading{EntryID: m.EntryID, TakenAt: m.TakenAt, By: m.By, Instrument: m.Instrument.Name, Kind: m.Instrument.Kind,
				HardKM: float64(t.at(m.TakenAt)), Chain: len(w.Chains) - 1, ElongationPct: m.Wear.ElongationPct, SigmaPct: m.Wear.SigmaPct}
			if v := m.Wear.Interval; v != nil {
				r.LowPct, r.HighPct = &v.LowPct, v.HighPct
			}
			w.Readings = append(w.Readings, r)
			if r.Chain >= 0 {
				x := forecast.HardKM(max(r.HardKM-w.Chains[r.Chain].FromHardKM, 0))
				t.seen[r.Chain] = append(t.seen[r.Chain], observationOf(x, m.Wear))
			}
		}
	}
	return nil
}

func observationOf(x forecast.HardKM, w calc.WearAnswer) forecast.Observation {
	if v := w.Interval; v != nil {
		high := math.Inf(1)
		if v.HighPct != nil {
			high = *v.HighPct
		}
		return forecast.Between(x, wear.Interval{Low: chain.Percent(v.LowPct), High: chain.Percent(high), Edge: chain.Percent(v.EdgePct)})
	}
	return forecast.Read(x, chain.Percent(*w.ElongationPct), chain.Percent(*w.SigmaPct))
}

// look forecasts the chain now on. What its forerunners showed moves what is expected of it.
func (t *tracker) look(w *WearTrack) error {
	prior := careOf(t.bike.BikeFacts).Prior()
	last := len(w.Chains) - 1
	for i, span := range w.Chains[:last] {
		if len(t.seen[i]) == 0 {
			continue
		}
		ridden := forecast.HardKM(w.Chains[i+1].FromHardKM - span.FromHardKM)
		f, err := forecast.Look(forecast.Question{Prior: prior, Limit: t.limits.Limit, Now: ridden, Observations: t.seen[i], WithoutBand: true})
		if err != nil {
			return fmt.Errorf("chain %d: %w", i, err)
		}
		prior = prior.After(f.K.P50)
	}
	now := forecast.HardKM(max(w.NowHardKM-w.Chains[last].FromHardKM, 0))
	if n := len(w.Readings); n > 0 && w.Readings[n-1].Chain == last {
		// A tablet's clock may run a little ahead of ours, and its reading with it.
		now = max(now, forecast.HardKM(w.Readings[n-1].HardKM-w.Chains[last].FromHardKM))
	}
	f, err := forecast.Look(forecast.Question{Prior: prior, Limit: t.limits.Limit, Now: now, Observations: t.seen[last]})
	if err != nil {
		return fmt.Errorf("the chain now on: %w", err)
	}
	w.Forecast = calc.NewForecastAnswer(f, w.RateHardKMPerDay)
	return nil
}
