package measure

import (
	"encoding/json"
	"errors"
	"fmt"

	"earnestpony/core/chain"
	"earnestpony/core/wear"
	"earnestpony/internal/calc"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// What a reading can show of a chain, percent: far beyond any that still runs.
const lowestReading, highestReading = -5, 25

func checkMeasurementBody(b MeasurementBody) error {
	if _, err := wear.ParseVerdict(b.Wear.Verdict); err != nil {
		return err
	}
	if _, err := wear.ParseKind(b.Instrument.Kind); err != nil {
		return err
	}
	if len(b.Readings) == 0 || len(b.Readings) > 8 {
		return fmt.Errorf("it has %d places: 1 to 8", len(b.Readings))
	}
	switch v := b.Wear.Interval; {
	case (b.Wear.ElongationPct == nil) != (b.Wear.SigmaPct == nil):
		return errors.New("a reading without its error says nothing")
	case (b.Wear.ElongationPct == nil) == (v == nil):
		return errors.New("it has neither a value nor an interval, or both")
	case v != nil && v.HighPct != nil && *v.HighPct <= v.LowPct:
		return errors.New("its interval ends before it begins")
	case v != nil:
		if err := errors.Join(record.Within("low_pct", v.LowPct, lowestReading, highestReading), record.WithinIf("high_pct", v.HighPct, lowestReading, highestReading), record.Within("edge_pct", v.EdgePct, 0, highestReading)); err != nil {
			return err
		}
	case *b.Wear.SigmaPct <= 0:
		return errors.New("a reading without an error is none")
	}
	return errors.Join(record.WithinIf("elongation_pct", b.Wear.ElongationPct, lowestReading, highestReading), record.WithinIf("sigma_pct", b.Wear.SigmaPct, 0, highestReading),
		record.Within("limit_pct", b.Wear.LimitPct, 0, highestReading), record.Within("links", float64(b.Links), 0, record.MaxLinks), record.Within("chain_links", float64(b.ChainLinks), 0, record.MaxLinks))
}

// stateOf is the sign that a verdict kept in the database shows.
func stateOf(verdict string) string {
	v, err := wear.ParseVerdict(verdict)
	if err != nil {
		panic(fmt.Sprintf("verdict in the database: %v", err)) // a constraint forbids it
	}
	return v.State().String()
}

// Judge holds a recorded measurement against what the rules and the bike's facts say today. Where they
// do not say enough it stays as it was judged.
func Judge(h rules.ParsedRules, bike store.Bike, m *Measurement) error {
	r := h.Rule(&bike, rules.DrivetrainOf(&bike, m.Drivetrain))
	if len(r.Missing) > 0 {
		return nil
	}
	read, err := m.MeasurementBody.measurement()
	if err != nil {
		return fmt.Errorf("measurement of bike %d: %w", bike.TagNumber, err)
	}
	then := m.Wear.Verdict
	m.Wear = *calc.NewWearAnswer(read, r.Drivetrain, r.School, r.Limits)
	m.Strip = newStrip(wear.StripOf(read, r.Limits))
	m.State = stateOf(m.Wear.Verdict)
	if m.Wear.Verdict != then {
		m.RecordedVerdict = then
	}
	return nil
}

// measurement makes what the core judges of what the ledger keeps.
func (b MeasurementBody) measurement() (wear.Measurement, error) {
	kind, err := wear.ParseKind(b.Instrument.Kind)
	if err != nil {
		return wear.Measurement{}, err
	}
	links := chain.Links(b.Links)
	var newLength chain.MM
	if b.NewLengthMM != nil {
		newLength = chain.MM(*b.NewLengthMM)
	}
	readings := make([]wear.Reading, len(b.Readings))
	for i, r := range b.Readings {
		switch {
		case r.LengthMM == nil: // a percent, marks or a look: no unit of length in what was typed
			readings[i], _, err = readEntry(kind, links, 0, wear.Millimetres, r.BenchEntry)
			if err != nil {
				return wear.Measurement{}, err
			}
		case kind == wear.CaliperInside:
			readings[i] = wear.Inside(r.Place, links, chain.MM(*r.LengthMM), newLength)
		default:
			readings[i] = wear.Length(r.Place, links, chain.MM(*r.LengthMM))
		}
	}
	tool := wear.Instrument{Kind: kind, ZeroOffset: chain.Percent(b.Instrument.ZeroOffsetPct), Spreads: b.Instrument.Spreads}
	return wear.NewMeasurement(tool, readings, findingsOf(b.Findings))
}

func findingsOf(names []string) []wear.Finding {
	findings := make([]wear.Finding, len(names))
	for i, name := range names {
		findings[i] = wear.Finding(name)
	}
	return findings
}

// last is the last measurement that stands of a bike that was loaded with it, judged by today's rules;
// nil before the first. Who took it is not loaded.
func LastReading(h rules.ParsedRules, bike store.Bike) (*Measurement, error) {
	if bike.Last.EntryID == nil {
		return nil, nil
	}
	m := Measurement{EntryID: *bike.Last.EntryID, TakenAt: *bike.Last.TakenAt, Unsigned: Value(bike.Last.Unsigned)}
	if err := json.Unmarshal(bike.Last.Body, &m.MeasurementBody); err != nil {
		return nil, fmt.Errorf("measurement of bike %d: %w", bike.TagNumber, err)
	}
	m.State = stateOf(m.Wear.Verdict)
	return &m, Judge(h, bike, &m)
}

func init() {
	record.Holds(checkMeasurementBody, record.KindMeasurement)
}
