package measure

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"earnestpony/core/forecast"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

func (s *Measure) NoteOdometerTx(ctx context.Context, tx store.Tx, who record.Actor, bike store.Bike, n record.OdometerNote, at time.Time) (LedgerEntry, error) {
	if !(n.KM >= 0 && n.KM <= record.MaxOdometer) {
		return LedgerEntry{}, record.InvalidInput(record.Field{Path: "odometer_km", Code: "out-of-range", Message: fmt.Sprintf("%g km: an odometer shows 0 to %d km.", n.KM, record.MaxOdometer)})
	}
	if n.Mix != nil {
		if message := record.MixFault(*n.Mix); message != "" {
			return LedgerEntry{}, record.InvalidInput(record.Field{Path: "mix", Code: "not-whole", Message: message})
		}
	}
	facts, _, err := record.ActiveEntries(ctx, tx, bike.ID, record.KindOdometer)
	if err != nil {
		return LedgerEntry{}, err
	}
	var last *forecast.OdometerReading // before this one; an older one may be of an older computer
	for _, e := range facts {
		if e.HappenedAt.After(at) {
			break
		}
		_, r, err := OdometerOf(e, nil)
		if err != nil {
			return LedgerEntry{}, err
		}
		last = &r
	}
	if last != nil && n.KM < float64(last.KM) && !n.NewComputer {
		h, err := rules.LoadParsed(ctx, tx)
		if err != nil {
			return LedgerEntry{}, err
		}
		return LedgerEntry{}, &record.Problem{Kind: record.Conflict, Code: "lower-than-last",
			Message: fmt.Sprintf("%s is less than the %s of %s. A new computer, or a slip?", h.Distance(forecast.KM(n.KM)), h.Distance(last.KM), h.Day(last.At)),
			Fields:  []record.Field{{Path: "odometer_km", Code: "lower-than-last", Message: "Less than it showed before."}}}
	}
	return s.AppendEntry(ctx, tx, who, bike, store.Entry{BikeID: &bike.ID, Kind: record.KindOdometer, HappenedAt: at}, record.OdometerNote{KM: n.KM, NewComputer: n.NewComputer, Mix: n.Mix})
}

// AppendEntry writes an entry about a bike and returns it as it is shown.
func (s *Measure) AppendEntry(ctx context.Context, tx store.Tx, who record.Actor, bike store.Bike, e store.Entry, body any) (LedgerEntry, error) {
	if err := s.desk.Append(ctx, tx, who, &e, body, record.TagOf(bike)); err != nil {
		return LedgerEntry{}, err
	}
	written, err := tx.Entry(ctx, e.ID)
	if err != nil {
		return LedgerEntry{}, err
	}
	return NewLedgerEntry(written)
}

// OdometerOf reads an odometer as the core knows it; perKM counts how a segment was ridden that says so.
func OdometerOf(e store.EntryView, perKM func(forecast.Mix) float64) (record.OdometerNote, forecast.OdometerReading, error) {
	var n record.OdometerNote
	err := json.Unmarshal(e.Body, &n)
	r := forecast.OdometerReading{At: e.HappenedAt, KM: forecast.KM(n.KM), NewComputer: n.NewComputer}
	if n.Mix != nil && perKM != nil {
		r.PerKM = perKM(record.MixOf(n.Mix))
	}
	return n, r, err
}
