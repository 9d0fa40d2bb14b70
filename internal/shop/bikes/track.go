package bikes

import (
	"context"
	"fmt"
	"math"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/chain"
	"earnestpony/core/forecast"
	"earnestpony/core/wear"
	"earnestpony/internal/calc"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// NoteOdometer notes what a bike's odometer shows. One lower than before is asked about: a new
// computer, or a slip.
func (s *Bikes) NoteOdometer(ctx context.Context, who record.Actor, tagText string, n record.OdometerNote) (measure.LedgerEntry, error) {
	at, err := s.desk.Happened(ctx, n.ReadAt)
	if err != nil {
		return measure.LedgerEntry{}, err
	}
	return record.Idempotent(ctx, s.desk, who, "note-odometer "+tagText, n, func(ctx context.Context, tx store.Tx) (measure.LedgerEntry, error) {
		bike, err := lockedBike(ctx, tx, tagText)
		if err != nil {
			return measure.LedgerEntry{}, err
		}
		return s.measure.NoteOdometerTx(ctx, tx, who, bike, n, at)
	})
}

// ChainFitting is a new chain put on a bike.
type ChainFitting struct {
	FittedAt   *time.Time `json:"fitted_at,omitempty"` // Now when nil
	OdometerKM *float64   `json:"odometer_km,omitempty"`
	What       string     `json:"what,omitempty"` // which chain, in the shop's words
}

// FitChain notes that a new chain was put on: its wear begins anew.
func (s *Bikes) FitChain(ctx context.Context, who record.Actor, tagText string, n ChainFitting) (measure.LedgerEntry, error) {
	n.What = record.CleanLine(n.What)
	at, err := s.desk.Happened(ctx, n.FittedAt)
	if err != nil {
		return measure.LedgerEntry{}, err
	}
	return record.Idempotent(ctx, s.desk, who, "fit-chain "+tagText, n, func(ctx context.Context, tx store.Tx) (measure.LedgerEntry, error) {
		bike, err := lockedBike(ctx, tx, tagText)
		if err != nil {
			return measure.LedgerEntry{}, err
		}
		if err := s.measure.MayRenew(ctx, tx, who, bike); err != nil {
			return measure.LedgerEntry{}, err
		}
		if n.OdometerKM != nil {
			if _, err := s.measure.NoteOdometerTx(ctx, tx, who, bike, record.OdometerNote{KM: *n.OdometerKM}, at); err != nil {
				return measure.LedgerEntry{}, err
			}
		}
		return s.measure.AppendEntry(ctx, tx, who, bike, store.Entry{BikeID: &bike.ID, Kind: record.KindChainFitted, HappenedAt: at}, record.ChainBody{What: n.What})
	})
}

// lockedBike is [BikeInCare], and keeps others who lock it too from writing of it until the unit of work ends:
// what is written turns on what was written before.
func lockedBike(ctx context.Context, tx store.Tx, tagText string) (store.Bike, error) {
	bike, err := record.BikeInCare(ctx, tx, tagText)
	if err != nil {
		return bike, err
	}
	if err := tx.LockBike(ctx, bike.ID); err != nil {
		return bike, err
	}
	return record.BikeInCare(ctx, tx, tagText) // as it is now that it is ours
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
	Parts            Parts                `json:"parts"`
	Segments         []Segment            `json:"segments"`
	Readings         []TrackReading       `json:"readings"`
	LimitFrom        string               `json:"limit_from,omitempty"` // School, shop, bike or maker
	BothSorts        bool                 `json:"both_sorts"`           // tools that spread the rollers and others read the chain now on
	LimitPct         *float64             `json:"limit_pct,omitempty"`
	TogetherPct      *float64             `json:"together_pct,omitempty"`
	Forecast         *calc.ForecastAnswer `json:"forecast,omitempty"` // of the chain now on, from when it was new
	Missing          []string             `json:"missing"`            // what must be known before there can be one
}

// ChainSpan is one chain on the bike, a part with a distance of its own; the last is the one now on.
type ChainSpan struct {
	EntryID    uuid.UUID `json:"entry_id"` // of its fitting
	PartID     uuid.UUID `json:"part_id"`
	FittedAt   time.Time `json:"fitted_at"`
	FittedBy   string    `json:"fitted_by"`
	What       string    `json:"what,omitempty"`
	OdometerKM *float64  `json:"odometer_km,omitempty"` // when it was fitted, where somebody looked
	FromHardKM float64   `json:"from_hard_km"`
	// BeforeHardKM is what the same chain had run before it came on this time.
	BeforeHardKM float64 `json:"before_hard_km"`
	HardKM       float64 `json:"hard_km"` // its own this time, until the next or today
}

// Segment is what was ridden between two readings of the odometer.
type Segment struct {
	From   time.Time `json:"from"`
	To     time.Time `json:"to"`
	KM     float64   `json:"km"`
	Factor float64   `json:"factor"` // hard km a km
	HardKM float64   `json:"hard_km"`
	Usual  bool      `json:"usual"` // counted as the bike is usually ridden
}

// TrackReading is one measurement on the track: a value with its error, or an interval.
type TrackReading struct {
	EntryID       uuid.UUID `json:"entry_id"`
	TakenAt       time.Time `json:"taken_at"`
	By            string    `json:"by"`
	Instrument    string    `json:"instrument"`
	Kind          string    `json:"kind"`
	HardKM        float64   `json:"hard_km"`
	Spreads       bool      `json:"spreads"` // its tool counts the play of the rollers in
	Chain         int       `json:"chain"`   // index among the chains; -1 before the first that is known
	ElongationPct *float64  `json:"elongation_pct,omitempty"`
	SigmaPct      *float64  `json:"sigma_pct,omitempty"`
	LowPct        *float64  `json:"low_pct,omitempty"`
	HighPct       *float64  `json:"high_pct,omitempty"` // NotFound when the tool looked no further
}

// WearTrack tells a bike's wear and forecasts the chain now on.
func (s *Bikes) WearTrack(ctx context.Context, tagText string) (WearTrack, error) {
	t, facts, err := s.tracker(ctx, s.desk.Store.Read(ctx), tagText)
	if err != nil {
		return WearTrack{}, err
	}
	w, err := t.Track(facts)
	if err != nil || len(w.Missing) > 0 {
		return w, err
	}
	q, err := t.Question(&w)
	if err != nil {
		return w, err
	}
	f, err := forecast.Look(q)
	if err != nil {
		return w, fmt.Errorf("the chain now on: %w", err)
	}
	w.Forecast = calc.NewForecastAnswer(f, w.RateHardKMPerDay)
	return w, nil
}

// Tracker loads what a bike's track is made of.
func (s *Bikes) tracker(ctx context.Context, tx store.Tx, tagText string) (*Tracker, []store.EntryView, error) {
	bike, err := record.BikeByTag(ctx, tx, tagText)
	if err != nil {
		return nil, nil, err
	}
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return nil, nil, err
	}
	return s.TrackerOf(ctx, tx, h, bike)
}

func (s *Bikes) TrackerOf(ctx context.Context, tx store.Tx, h rules.ParsedRules, bike store.Bike) (*Tracker, []store.EntryView, error) {
	facts, _, err := record.ActiveEntries(ctx, tx, bike.ID, record.TrackKinds...)
	if err != nil {
		return nil, nil, err
	}
	t := &Tracker{Bike: bike, House: h, Ruling: h.Rule(&bike, rules.DrivetrainOf(&bike, nil)), Now: s.desk.Now(), Fitted: NewFitted()}
	t.PerKM = t.Factor(record.MixOf(bike.Mix))
	return t, facts, nil
}

// Factor counts how hard a mix is on this bike.
func (t *Tracker) Factor(m forecast.Mix) float64 {
	return t.House.Factors.Factor(m, t.Ruling.Drivetrain.Motor)
}

// CareOf is how a chain is looked after: as noted, or as its lubricant lets one suppose.
func CareOf(f record.BikeFacts) forecast.Care {
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

// Tracker makes a track of what is known of a bike.
type Tracker struct {
	Bike   store.Bike
	House  rules.ParsedRules
	Ruling rules.Ruling
	Now    time.Time
	PerKM  float64 // hard km a km, as the bike is usually ridden

	Odometer forecast.Odometer
	Ridden   forecast.Ridden
	begin    forecast.HardKM // the odometer's count where the track begins
	Fitted   *fitted
	seen     [][]forecast.Observation // by chain, as a part
}

// Track lays out what is known; what is missing for a forecast it says.
func (t *Tracker) Track(facts []store.EntryView) (WearTrack, error) {
	w := WearTrack{HardPerKM: t.PerKM, Chains: []ChainSpan{}, Segments: []Segment{}, Readings: []TrackReading{}, Missing: append([]string{}, t.Ruling.Missing...)}
	odometer, err := t.readOdometer(&w, facts)
	if err != nil {
		return w, err
	}
	first := t.Bike.CreatedAt
	if len(facts) > 0 && facts[0].HappenedAt.Before(first) {
		first = facts[0].HappenedAt
	}
	t.begin = t.Odometer.At(first)
	w.NowHardKM, w.RateHardKMPerDay = float64(t.At(t.Now)), float64(t.Odometer.Rate())
	if err := t.place(&w, facts); err != nil {
		return w, err
	}
	if len(t.Ruling.Missing) == 0 {
		limit, together := float64(t.Ruling.Limits.Limit), float64(t.Ruling.Limits.Together)
		w.LimitPct, w.TogetherPct, w.LimitFrom = &limit, &together, t.Ruling.Limits.Source.String()
	}
	if len(w.Chains) == 0 {
		w.Missing = append(w.Missing, record.KindChainFitted)
	}
	if odometer == 0 && t.stated() == 0 {
		w.Missing = append(w.Missing, "distance")
	}
	return w, nil
}

// stated is the riding rate by the owner's word.
func (t *Tracker) stated() forecast.HardKMPerDay {
	if t.Bike.WeeklyKM == nil {
		return 0
	}
	return forecast.HardKMPerDay(*t.Bike.WeeklyKM / 7 * t.PerKM)
}

// readOdometer counts the distance from the odometer's readings, and returns how many there are.
func (t *Tracker) readOdometer(w *WearTrack, facts []store.EntryView) (int, error) {
	var readings []forecast.OdometerReading
	rides, err := t.rides(facts)
	if err != nil {
		return 0, err
	}
	for _, e := range facts {
		if e.Kind != record.KindOdometer {
			continue
		}
		n, r, err := measure.OdometerOf(e, t.Factor)
		if err != nil {
			return 0, err
		}
		if w.OdometerAt != nil {
			km := n.KM - *w.OdometerKM
			if n.NewComputer {
				km = n.KM
			}
			s := Segment{From: *w.OdometerAt, To: r.At, KM: max(km, 0), Factor: r.PerKM, Usual: n.Mix == nil}
			if s.Usual {
				s.Factor = t.PerKM
			}
			if within := between(rides, s.From, s.To); len(within) > 0 && s.KM > 0 {
				s.Factor, s.Usual = blend(within, s.KM, s.Factor), false
				r.PerKM = s.Factor
			}
			s.HardKM = s.KM * s.Factor
			if s.KM > 0 { // looked at twice in one visit
				w.Segments = append(w.Segments, s)
			}
		}
		readings = append(readings, r)
		w.OdometerKM, w.OdometerAt = &n.KM, &r.At
	}
	readings = withRides(readings, rides)
	t.Odometer = forecast.NewOdometer(readings, t.PerKM, t.stated())
	t.Ridden = forecast.NewRidden(readings, measure.Value(t.Bike.WeeklyKM)/7)
	return len(readings), nil
}

// At is the distance at a time, from where the track begins.
func (t *Tracker) At(when time.Time) forecast.HardKM { return t.Odometer.At(when) - t.begin }

// place puts chains and readings on the track, and sorts the readings by chain.
func (t *Tracker) place(w *WearTrack, facts []store.EntryView) error {
	shown := map[time.Time]float64{} // what the odometer showed when a chain was fitted
	for _, e := range facts {
		switch e.Kind {
		case record.KindOdometer:
			n, _, err := measure.OdometerOf(e, nil)
			if err != nil {
				return err
			}
			shown[e.HappenedAt] = n.KM
		case record.KindChainFitted:
			if err := t.placeChain(w, e, shown); err != nil {
				return err
			}
		case record.KindChainOpened:
			b, err := record.BodyOf[record.OpenedBody](e)
			if err != nil {
				return err
			}
			t.Fitted.open(b)
		case record.KindPartFitted:
			b, err := record.BodyOf[record.PartBody](e)
			if err != nil {
				return err
			}
			t.Fitted.fitSet(e, b, float64(t.At(e.HappenedAt)))
		case record.KindMeasurement:
			m, err := measure.MeasurementOf(e)
			if err != nil {
				return err
			}
			r := TrackReading{EntryID: m.EntryID, TakenAt: m.TakenAt, By: m.By, Instrument: m.Instrument.Name, Kind: m.Instrument.Kind,
				HardKM: float64(t.At(m.TakenAt)), Spreads: m.Instrument.Counts(), Chain: len(w.Chains) - 1, ElongationPct: m.Wear.ElongationPct, SigmaPct: m.Wear.SigmaPct}
			if v := m.Wear.Interval; v != nil {
				r.LowPct, r.HighPct = &v.LowPct, v.HighPct
			}
			w.Readings = append(w.Readings, r)
			if r.Chain >= 0 {
				span, part := w.Chains[r.Chain], t.Fitted.spans[r.Chain]
				x := forecast.HardKM(span.BeforeHardKM + max(r.HardKM-span.FromHardKM, 0))
				t.seen[part] = append(t.seen[part], observationOf(x, m.Wear))
			}
		}
	}
	t.endSpan(w, w.NowHardKM)
	w.Parts = t.Fitted.view(t.Bike, w.NowHardKM, t.House.Link)
	w.BothSorts = bothSorts(w.Readings, len(w.Chains)-1)
	return nil
}

func (t *Tracker) placeChain(w *WearTrack, e store.EntryView, shown map[time.Time]float64) error {
	body, err := record.BodyOf[record.ChainBody](e)
	if err != nil {
		return err
	}
	from := float64(t.At(e.HappenedAt))
	t.endSpan(w, from)
	part := t.Fitted.putOn(e, body)
	if part == len(t.seen) {
		t.seen = append(t.seen, nil)
	}
	c := t.Fitted.chains[part]
	span := ChainSpan{EntryID: e.ID, PartID: c.PartID, FittedAt: e.HappenedAt, FittedBy: e.PersonName, What: c.What, FromHardKM: from, BeforeHardKM: c.HardKM}
	if km, looked := shown[e.HappenedAt]; looked {
		span.OdometerKM = &km
	}
	w.Chains = append(w.Chains, span)
	return nil
}

// endSpan ends the span of the chain that was on until then.
func (t *Tracker) endSpan(w *WearTrack, at float64) {
	n := len(w.Chains)
	if n == 0 {
		return
	}
	w.Chains[n-1].HardKM = max(at-w.Chains[n-1].FromHardKM, 0)
	t.Fitted.chains[t.Fitted.spans[n-1]].HardKM += w.Chains[n-1].HardKM
}

// bothSorts reports whether a chain was read by tools that spread the rollers and by others.
func bothSorts(readings []TrackReading, chain int) bool {
	var spread, other bool
	for _, r := range readings {
		if r.Chain == chain && r.Kind != wear.PullOff.String() {
			spread, other = spread || r.Spreads, other || !r.Spreads
		}
	}
	return spread && other
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

// Question asks about the chain now on of a track from which nothing is missing. What the bike's other
// chains showed moves what is expected of it.
func (t *Tracker) Question(w *WearTrack) (forecast.Question, error) {
	limit := t.Ruling.Limits.Limit
	prior := CareOf(t.Bike.BikeFacts).Prior()
	last := len(w.Chains) - 1
	on := t.Fitted.spans[last]
	for i, c := range t.Fitted.chains {
		if i == on || len(t.seen[i]) == 0 {
			continue
		}
		f, err := forecast.Look(forecast.Question{Prior: prior, Limit: limit, Now: forecast.HardKM(c.HardKM), Observations: t.seen[i], WithoutBand: true})
		if err != nil {
			return forecast.Question{}, fmt.Errorf("chain %d: %w", i, err)
		}
		prior = prior.After(f.K.P50)
	}
	span := w.Chains[last]
	now := forecast.HardKM(t.Fitted.chains[on].HardKM)
	if n := len(w.Readings); n > 0 && w.Readings[n-1].Chain == last {
		// A tablet's clock may run a little ahead of ours, and its reading with it.
		now = max(now, forecast.HardKM(span.BeforeHardKM+w.Readings[n-1].HardKM-span.FromHardKM))
	}
	return forecast.Question{Prior: prior, Limit: limit, Now: now, Observations: t.seen[on]}, nil
}
