package measure

import (
	"context"
	"errors"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/chain"
	"earnestpony/core/wear"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// Instrument is a measuring tool of the shop.
type Instrument struct {
	ID            uuid.UUID `json:"id"`
	Name          string    `json:"name"`
	Kind          string    `json:"kind"`
	ZeroOffsetPct float64   `json:"zero_offset_pct"`
	ZeroCheckedOn string    `json:"zero_checked_on,omitempty"` // a day; empty before the first check
	ZeroCheckDue  bool      `json:"zero_check_due"`
	Spreads       bool      `json:"spreads"`
	Compares      bool      `json:"compares"`
	DefaultLinks  int       `json:"default_links,omitempty"`
	NeedsCount    bool      `json:"needs_count"`
	MarksPct      []float64 `json:"marks_pct,omitempty"`
	Retired       bool      `json:"retired"`
	Version       int       `json:"version"`
}

// InstrumentFacts is what is written down about a tool besides its kind.
type InstrumentFacts struct {
	Name     string    `json:"name"`
	Spreads  bool      `json:"spreads"`
	MarksPct []float64 `json:"marks_pct,omitempty"` // of a drop-in gauge
}

// InstrumentView is a tool with what happened to it, newest first.
type InstrumentView struct {
	Instrument Instrument    `json:"instrument"`
	History    []LedgerEntry `json:"history"`
}

func (s *Measure) newInstrument(row store.Instrument) Instrument {
	kind := kindOf(row)
	tool := Instrument{ID: row.ID, Name: row.Name, Kind: row.Kind, ZeroOffsetPct: row.ZeroOffsetPct, Spreads: row.Spreads,
		Compares: kind.Compares(), DefaultLinks: int(kind.DefaultLinks()), NeedsCount: kind == wear.WholeChain, MarksPct: row.Marks,
		Retired: row.RetiredAt != nil, Version: row.Version}
	if row.ZeroCheckedOn != nil {
		tool.ZeroCheckedOn = row.ZeroCheckedOn.Format(time.DateOnly)
	}
	// The look has no zero to check.
	tool.ZeroCheckDue = kind != wear.PullOff && (row.ZeroCheckedOn == nil || s.desk.Now().Sub(*row.ZeroCheckedOn) > wear.ZeroCheckDays*24*time.Hour)
	return tool
}

func kindOf(row store.Instrument) wear.Kind {
	k, err := wear.ParseKind(row.Kind)
	if err != nil {
		panic("instrument in the database: " + err.Error()) // a constraint forbids it
	}
	return k
}

// Instruments returns the tools in use, or those retired, in the order of the bench.
func (s *Measure) Instruments(ctx context.Context, retired bool) ([]Instrument, error) {
	rows, err := s.desk.Store.Read(ctx).Instruments(ctx, retired)
	if err != nil {
		return nil, err
	}
	tools := make([]Instrument, 0, len(rows))
	for _, row := range rows {
		tools = append(tools, s.newInstrument(row))
	}
	return tools, nil
}

// historyShown is how much of a tool's history is shown: many years of checks.
const historyShown = 60

// Instrument returns a tool, in use or retired, with its history.
func (s *Measure) Instrument(ctx context.Context, id uuid.UUID) (InstrumentView, error) {
	tx := s.desk.Store.Read(ctx)
	row, err := instrumentByID(ctx, tx, id)
	if err != nil {
		return InstrumentView{}, err
	}
	entries, err := tx.LedgerOfInstrument(ctx, id, historyShown)
	if err != nil {
		return InstrumentView{}, err
	}
	v := InstrumentView{Instrument: s.newInstrument(row), History: make([]LedgerEntry, 0, len(entries))}
	for _, e := range entries {
		shown, err := NewLedgerEntry(e)
		if err != nil {
			return v, err
		}
		v.History = append(v.History, shown)
	}
	return v, nil
}

func instrumentByID(ctx context.Context, tx store.Tx, id uuid.UUID) (store.Instrument, error) {
	row, err := tx.Instrument(ctx, id)
	if record.IsNotFound(err) {
		return row, record.NotFound("tool", "instrument-not-found")
	}
	return row, err
}

// The marks that a drop-in gauge may have.
const maxMarks = 8

// checkInstrument tidies facts in place and says what is wrong with them.
func checkInstrument(kind wear.Kind, f *InstrumentFacts) error {
	f.Name = record.CleanLine(f.Name)
	slices.Sort(f.MarksPct)
	var fields record.Faults
	fault := fields.Under("facts")
	if f.Name == "" {
		fault("name", "missing", "The tool needs a name, as the shop calls it.")
	}
	switch {
	case kind != wear.GaugeDropin && len(f.MarksPct) > 0:
		fault("marks_pct", "not-for-this-kind", "Only a drop-in gauge has marks.")
	case kind == wear.GaugeDropin && len(f.MarksPct) == 0:
		fault("marks_pct", "missing", "Say which marks the gauge has, such as 0.5, 0.75.")
	case len(f.MarksPct) > maxMarks:
		fault("marks_pct", "out-of-range", "%d marks: a gauge has at most %d.", len(f.MarksPct), maxMarks)
	case len(slices.Compact(slices.Clone(f.MarksPct))) != len(f.MarksPct):
		fault("marks_pct", "mark-twice", "A mark stands there twice.")
	}
	for _, m := range f.MarksPct {
		if chain.Percent(m) < wear.LowestLimit || chain.Percent(m) > wear.HighestLimit {
			fault("marks_pct", "out-of-range", "%g %% is no mark of a gauge: %g to %g.", m, float64(wear.LowestLimit), float64(wear.HighestLimit))
			break
		}
	}
	switch kind {
	case wear.CaliperInside:
		f.Spreads = true // its jaws push the rollers apart, whatever was said
	case wear.Ruler, wear.WholeChain, wear.PullOff:
		f.Spreads = false // these touch no roller
	default: // a gauge may, as it was said
	}
	if err := fields.Err(); err != nil {
		return err
	}
	return nil
}

// instrumentBody is what the ledger keeps of a tool.
type instrumentBody struct {
	Facts   *InstrumentFacts `json:"facts,omitempty"`
	Kind    string           `json:"instrument_kind,omitempty"`
	Changed []string         `json:"changed,omitempty"`
}

// NewInstrument is a tool to be added.
type NewInstrument struct {
	Kind  string          `json:"kind"`
	Facts InstrumentFacts `json:"facts"`
}

// AddInstrument adds a tool to the bench; its zero is not checked yet.
func (s *Measure) AddInstrument(ctx context.Context, who record.Actor, n NewInstrument) (Instrument, error) {
	kind, err := wear.ParseKind(n.Kind)
	if err != nil {
		return Instrument{}, record.InvalidInput(record.Field{Path: "kind", Code: "unknown-value", Message: "Say what kind of tool it is."})
	}
	if err := checkInstrument(kind, &n.Facts); err != nil {
		return Instrument{}, err
	}
	tool, err := record.Idempotent(ctx, s.desk, who, "add-instrument", n, func(ctx context.Context, tx store.Tx) (Instrument, error) {
		row := store.Instrument{ID: uuid.New(), Name: n.Facts.Name, Kind: n.Kind, Spreads: n.Facts.Spreads, Marks: append([]float64{}, n.Facts.MarksPct...), CreatedAt: s.desk.Now()}
		if err := tx.AddInstrument(ctx, &row); err != nil {
			return Instrument{}, err
		}
		err := s.desk.Append(ctx, tx, who, &store.Entry{InstrumentID: &row.ID, Kind: record.KindInstrumentAdded}, instrumentBody{Facts: &n.Facts, Kind: n.Kind}, "")
		return s.newInstrument(row), err
	})
	return tool, nameTaken(err)
}

func nameTaken(err error) error {
	if errors.Is(err, store.ErrTaken) {
		return record.InvalidInput(record.Field{Path: "facts.name", Code: "name-taken", Message: "A tool in use has this name already: each needs its own name."})
	}
	return err
}

// ChangeInstrument writes new facts over the version that the sender saw.
func (s *Measure) ChangeInstrument(ctx context.Context, who record.Actor, id uuid.UUID, version int, f InstrumentFacts) (Instrument, error) {
	return s.updateInstrument(ctx, who, id, version, f, func(row *store.Instrument) (string, instrumentBody, error) {
		if err := checkInstrument(kindOf(*row), &f); err != nil {
			return "", instrumentBody{}, err
		}
		before := InstrumentFacts{Name: row.Name, Spreads: row.Spreads, MarksPct: row.Marks}
		changed, err := record.ChangedFields(before, f)
		row.Name, row.Spreads, row.Marks = f.Name, f.Spreads, append([]float64{}, f.MarksPct...)
		return record.KindInstrumentChanged, instrumentBody{Facts: &f, Changed: changed}, err
	})
}

// RetireInstrument takes a tool off the bench, or puts it back. What was read with it stays.
func (s *Measure) RetireInstrument(ctx context.Context, who record.Actor, id uuid.UUID, version int, retired bool) (Instrument, error) {
	return s.updateInstrument(ctx, who, id, version, nil, func(row *store.Instrument) (string, instrumentBody, error) {
		body := instrumentBody{Changed: []string{"retired"}}
		switch {
		case retired == (row.RetiredAt != nil):
			return "", instrumentBody{}, nil
		case retired:
			now := s.desk.Now()
			row.RetiredAt = &now
			return record.KindInstrumentRetired, body, nil
		}
		row.RetiredAt = nil
		return record.KindInstrumentRestored, body, nil
	})
}

// updateInstrument lets change alter the row and writes it if nobody else did meanwhile. A body that
// names nothing changed means there is nothing to do.
func (s *Measure) updateInstrument(ctx context.Context, who record.Actor, id uuid.UUID, version int, yours any,
	change func(*store.Instrument) (kind string, body instrumentBody, err error),
) (Instrument, error) {
	after, err := record.Revise(ctx, s.desk, who, record.Revision[store.Instrument, Instrument]{
		Operation: "change-instrument " + id.String(), Version: version, Yours: yours,
		Load: func(ctx context.Context, tx store.Tx) (store.Instrument, error) { return instrumentByID(ctx, tx, id) },
		Seen: func(row store.Instrument) int { return row.Version },
		Change: func(_ context.Context, _ store.Tx, row *store.Instrument) (*store.Entry, any, error) {
			kind, body, err := change(row)
			if err != nil || len(body.Changed) == 0 {
				return nil, nil, err
			}
			return &store.Entry{InstrumentID: &id, Kind: kind}, body, nil
		},
		Save: func(ctx context.Context, tx store.Tx, row *store.Instrument) error {
			return tx.SaveInstrument(ctx, row)
		},
		View: func(_ context.Context, _ store.Tx, row store.Instrument) (Instrument, error) {
			return s.newInstrument(row), nil
		},
	})
	return after, nameTaken(err)
}

// ZeroReading is what a tool said of a new chain: as typed, or that none of a drop-in gauge's marks
// dropped in.
type ZeroReading struct {
	Text         string     `json:"text,omitempty"`
	Links        *int       `json:"links,omitempty"`
	MarksStayOut bool       `json:"marks_stay_out,omitempty"`
	CheckedAt    *time.Time `json:"checked_at,omitempty"` // now when nil
}

// ZeroUnderstood is what was made of a reading of a new chain.
type ZeroUnderstood struct {
	OffsetPct float64  `json:"offset_pct"`
	LengthMM  *float64 `json:"length_mm,omitempty"`
	Links     int      `json:"links,omitempty"`
}

// ReadZero says what a reading of a new chain means for a tool. It writes nothing.
func (s *Measure) ReadZero(ctx context.Context, id uuid.UUID, r ZeroReading) (ZeroUnderstood, error) {
	tx := s.desk.Store.Read(ctx)
	row, err := instrumentByID(ctx, tx, id)
	if err != nil {
		return ZeroUnderstood{}, err
	}
	return readZero(ctx, tx, row, r)
}

func readZero(ctx context.Context, tx store.Tx, row store.Instrument, r ZeroReading) (ZeroUnderstood, error) {
	kind := kindOf(row)
	fault := func(path, code, message string) (ZeroUnderstood, error) {
		return ZeroUnderstood{}, record.InvalidInput(record.Field{Path: path, Code: code, Message: message})
	}
	switch {
	case kind == wear.PullOff:
		return fault("text", "no-zero", "A look has no zero to check.")
	case kind == wear.GaugeDropin && !r.MarksStayOut:
		return fault("marks_stay_out", "not-true", "A gauge whose mark drops into a new chain tells nothing: retire it.")
	case kind == wear.GaugeDropin:
		return ZeroUnderstood{}, nil
	}
	links := kind.DefaultLinks()
	if r.Links != nil && kind != wear.GaugePercent {
		links = chain.Links(*r.Links)
	}
	if kind == wear.WholeChain && links == 0 {
		return fault("links", "missing", "Count the links between the two end pins.")
	}
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return ZeroUnderstood{}, err
	}
	offset, entry, err := wear.ZeroOffset(kind, links, h.Unit, r.Text)
	if err != nil {
		f := faultOf(err)
		if f.Path != "links" {
			f.Path = "text"
		}
		return ZeroUnderstood{}, record.InvalidInput(f)
	}
	u := ZeroUnderstood{OffsetPct: float64(offset)}
	if kind != wear.GaugePercent {
		length := float64(entry.Length)
		u.LengthMM, u.Links = &length, int(links)
	}
	return u, nil
}

// zeroBody is what the ledger keeps of a zero check.
type zeroBody struct {
	Reading   ZeroReading `json:"reading"`
	OffsetPct float64     `json:"offset_pct"`
	LengthMM  *float64    `json:"length_mm,omitempty"`
	BeforePct float64     `json:"before_pct"` // the offset until then
}

// CheckZero notes what a tool said of a new chain: from then on that is taken off what it reads.
func (s *Measure) CheckZero(ctx context.Context, who record.Actor, id uuid.UUID, r ZeroReading) (Instrument, error) {
	r.Text = record.CleanLine(r.Text)
	at, err := s.desk.Happened(ctx, r.CheckedAt)
	if err != nil {
		return Instrument{}, err
	}
	tool, err := record.Idempotent(ctx, s.desk, who, "check-zero "+id.String(), r, func(ctx context.Context, tx store.Tx) (Instrument, error) {
		row, err := instrumentByID(ctx, tx, id)
		if err != nil {
			return Instrument{}, err
		}
		clock, err := s.desk.Clock(ctx, tx)
		if err != nil {
			return Instrument{}, err
		}
		day := clock.DayOf(at).Time()
		switch {
		case row.RetiredAt != nil:
			return Instrument{}, &record.Problem{Kind: record.Conflict, Code: "instrument-retired", Message: "This tool is retired. Put it in use again first."}
		case row.ZeroCheckedOn != nil && day.Before(*row.ZeroCheckedOn):
			return Instrument{}, record.InvalidInput(record.Field{Path: "checked_at", Code: "before-last-check", Message: "Its zero was checked after that day already."})
		}
		u, err := readZero(ctx, tx, row, r)
		if err != nil {
			return Instrument{}, err
		}
		body := zeroBody{Reading: r, OffsetPct: u.OffsetPct, LengthMM: u.LengthMM, BeforePct: row.ZeroOffsetPct}
		row.ZeroOffsetPct, row.ZeroCheckedOn = u.OffsetPct, &day
		if err := tx.SaveInstrument(ctx, &row); err != nil {
			return Instrument{}, err
		}
		err = s.desk.Append(ctx, tx, who, &store.Entry{InstrumentID: &id, Kind: record.KindZeroChecked, HappenedAt: at}, body, "")
		return s.newInstrument(row), err
	})
	return tool, record.SendAgain(err)
}

func init() {
	record.Holds[instrumentBody](nil, record.KindInstrumentAdded, record.KindInstrumentChanged, record.KindInstrumentRetired, record.KindInstrumentRestored)
	record.Holds[zeroBody](nil, record.KindZeroChecked)
}
