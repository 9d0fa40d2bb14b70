package measure

import (
	"context"
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/chain"
	"earnestpony/core/wear"
	"earnestpony/internal/calc"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// NewMeasurement is a measurement to be recorded: the state of the bench, and a note.
type NewMeasurement struct {
	Drivetrain   *rules.Drivetrain `json:"drivetrain,omitempty"`
	InstrumentID uuid.UUID         `json:"instrument_id"`
	Links        *int              `json:"links,omitempty"`
	NewLength    string            `json:"new_length,omitempty"`
	Entries      []BenchEntry      `json:"entries"`
	Findings     []string          `json:"findings,omitempty"`
	Note         string            `json:"note,omitempty"`
	TakenAt      *time.Time        `json:"taken_at,omitempty"` // now when nil
	OdometerKM   *float64          `json:"odometer_km,omitempty"`
}

// InstrumentUsed is the tool as it was when it was used.
type InstrumentUsed struct {
	Name          string  `json:"name"`
	Kind          string  `json:"kind"`
	ZeroOffsetPct float64 `json:"zero_offset_pct"`
	Spreads       bool    `json:"spreads"`
}

// Counts reports whether its readings include the play of the rollers.
func (i InstrumentUsed) Counts() bool {
	kind, err := wear.ParseKind(i.Kind)
	return err == nil && wear.Instrument{Kind: kind, Spreads: i.Spreads}.CountsRollers()
}

// RecordedReading is one place, as typed and as understood.
type RecordedReading struct {
	BenchEntry
	LengthMM      *float64 `json:"length_mm,omitempty"`
	ElongationPct *float64 `json:"elongation_pct,omitempty"`
}

// MeasurementBody is what the ledger keeps of a measurement: all that was read, and the verdict as
// it was given then.
type MeasurementBody struct {
	Instrument InstrumentUsed `json:"instrument"`
	Links      int            `json:"links,omitempty"`
	// NewLengthMM is what inside jaws read on a new chain of the family; nil where nobody took it.
	NewLengthMM *float64          `json:"new_length_mm,omitempty"`
	Readings    []RecordedReading `json:"readings"`
	Findings    []string          `json:"findings"`
	Note        string            `json:"note,omitempty"`
	ChainLinks  int               `json:"chain_links,omitempty"`
	GrowthMM    *float64          `json:"growth_mm,omitempty"`
	Drivetrain  *rules.Drivetrain `json:"drivetrain,omitempty"`
	Wear        calc.WearAnswer   `json:"wear"`
	Strip       Strip             `json:"strip"`
	// Countersign says that it asks for another chain and an apprentice read it: it counts once a mechanic signed.
	Countersign bool `json:"countersign,omitempty"`
}

// Measurement is a recorded measurement.
type Measurement struct {
	EntryID uuid.UUID `json:"entry_id"`
	TakenAt time.Time `json:"taken_at"`
	By      string    `json:"by"`
	State   string    `json:"state"`
	// RecordedVerdict is what was said then, where the rules or the bike's facts say otherwise today.
	RecordedVerdict string `json:"recorded_verdict,omitempty"`
	Unsigned        bool   `json:"unsigned,omitempty"` // it waits for a mechanic's signature
	MeasurementBody
}

func MeasurementOf(e store.EntryView) (*Measurement, error) {
	m := Measurement{EntryID: e.ID, TakenAt: e.HappenedAt, By: e.PersonName, Unsigned: e.Unsigned}
	if err := json.Unmarshal(e.Body, &m.MeasurementBody); err != nil {
		return nil, fmt.Errorf("measurement of entry %s: %w", e.ID, err)
	}
	m.State = stateOf(m.Wear.Verdict)
	return &m, nil
}

// RecordMeasurement records what was read on a bike's chain. Readings that are not understood, or a
// drivetrain that is not known, are refused and nothing is recorded.
func (s *Measure) RecordMeasurement(ctx context.Context, who record.Actor, tagText string, n NewMeasurement) (Measurement, error) {
	n.Note = record.CleanLine(n.Note)
	return record.Idempotent(ctx, s.desk, who, "record-measurement "+tagText, n, func(ctx context.Context, tx store.Tx) (Measurement, error) {
		return s.RecordMeasurementTx(ctx, tx, who, tagText, n, s.desk.Moment(ctx))
	})
}

// RecordMeasurementTx records a measurement, taken when it says or else at now.
func (s *Measure) RecordMeasurementTx(ctx context.Context, tx store.Tx, who record.Actor, tagText string, n NewMeasurement, takenAt time.Time) (Measurement, error) {
	if n.TakenAt != nil {
		if wrong := record.CheckPast("taken_at", *n.TakenAt, takenAt); wrong != nil {
			return Measurement{}, record.InvalidInput(*wrong)
		}
		takenAt = store.Stamp(*n.TakenAt)
	}
	b, err := s.bench(ctx, tx, BenchQuestion{Tag: tagText, Drivetrain: n.Drivetrain, InstrumentID: n.InstrumentID, Links: n.Links,
		NewLength: n.NewLength, Entries: n.Entries, Findings: n.Findings})
	if err != nil {
		return Measurement{}, err
	}
	if b.bike.ArchivedAt != nil {
		return Measurement{}, &record.Problem{Kind: record.Conflict, Code: "bike-archived", Message: "This bike is archived. Take it out of the archive first."}
	}
	a := b.read()
	if !a.Recordable {
		return Measurement{}, refuseBench(a)
	}
	if n.OdometerKM != nil {
		if _, err := s.NoteOdometerTx(ctx, tx, who, *b.bike, record.OdometerNote{KM: *n.OdometerKM}, takenAt); err != nil {
			return Measurement{}, err
		}
	}
	body := measurementBody(b, a, n.Note)
	body.Countersign = needsCountersign(who, a.Wear.Verdict)
	e := store.Entry{BikeID: &b.bike.ID, Kind: record.KindMeasurement, HappenedAt: takenAt}
	if err := s.desk.Append(ctx, tx, who, &e, body, record.TagOf(*b.bike)); err != nil {
		return Measurement{}, err
	}
	row := store.Measurement{EntryID: e.ID, BikeID: b.bike.ID, InstrumentID: b.tool.ID, TakenAt: takenAt,
		ElongationPct: a.Wear.ElongationPct, SigmaPct: a.Wear.SigmaPct, LimitPct: a.Wear.LimitPct, Verdict: a.Wear.Verdict, Unsigned: body.Countersign}
	if v := a.Wear.Interval; v != nil {
		row.LowPct, row.HighPct = &v.LowPct, v.HighPct
	}
	if err := tx.AddMeasurement(ctx, &row); err != nil {
		return Measurement{}, err
	}
	return Measurement{EntryID: e.ID, TakenAt: takenAt, By: who.Person.Name, State: stateOf(a.Wear.Verdict), Unsigned: body.Countersign, MeasurementBody: body}, nil
}

func measurementBody(b bench, a BenchAnswer, note string) MeasurementBody {
	body := MeasurementBody{
		Instrument: InstrumentUsed{Name: b.tool.Name, Kind: b.tool.Kind, ZeroOffsetPct: b.tool.ZeroOffsetPct, Spreads: b.tool.Spreads},
		Links:      a.Links, Readings: []RecordedReading{}, Findings: append([]string{}, b.Findings...), Note: note,
		ChainLinks: a.ChainLinks, GrowthMM: a.GrowthMM, Drivetrain: &a.Drivetrain, Wear: *a.Wear, Strip: *a.Strip,
	}
	if newLength, _ := b.newLength(kindOf(b.tool), chain.Links(a.Links)); newLength != 0 {
		mm := float64(newLength)
		body.NewLengthMM = &mm
	}
	for i, e := range b.Entries {
		if u := a.Entries[i].Understood; u != nil {
			body.Readings = append(body.Readings, RecordedReading{BenchEntry: e, LengthMM: u.LengthMM, ElongationPct: u.ElongationPct})
		}
	}
	return body
}

// refuseBench says everything that keeps the bench from being recorded.
func refuseBench(a BenchAnswer) *record.Problem {
	var fields record.Faults
	for i, e := range a.Entries {
		if e.Fault != nil {
			f := *e.Fault
			f.Path = fmt.Sprintf("entries[%d].%s", i, f.Path)
			fields = append(fields, f)
		}
	}
	for _, f := range []*record.Field{a.NewLengthFault, a.LinksFault} {
		if f != nil {
			fields = append(fields, *f)
		}
	}
	for _, what := range a.Missing {
		path, message := "drivetrain."+what, "Without this there is no verdict: "+missingWords[what]+"."
		if what == "links" {
			path = "links"
		}
		fields.Add(path, "missing", "%s", message)
	}
	if len(fields) == 0 {
		fields = []record.Field{{Path: "entries", Code: "missing", Message: "Nothing was read yet. Read at least one place."}}
	}
	return record.InvalidInput(fields...)
}

var missingWords = map[string]string{
	"kind":      "derailleur, single-speed or hub gear",
	"sprockets": "how many speeds",
	"motor":     "whether a motor pulls the chain",
	"links":     "how many links lie between the two end pins",
}

// LedgerEntry is one fact that happened, as it is shown.
type LedgerEntry struct {
	ID          uuid.UUID    `json:"id"`
	Number      int64        `json:"number"`
	Kind        string       `json:"kind"`
	HappenedAt  time.Time    `json:"happened_at"`
	WrittenAt   time.Time    `json:"written_at"`
	By          string       `json:"by"`
	Device      string       `json:"device"`
	Changed     []string     `json:"changed,omitempty"`
	Measurement *Measurement `json:"measurement,omitempty"`
	Struck      *Struck      `json:"struck,omitempty"`
	OdometerKM  *float64     `json:"odometer_km,omitempty"`
	NewComputer bool         `json:"new_computer,omitempty"`
	Mix         *record.Mix  `json:"mix,omitempty"`
	What        string       `json:"what,omitempty"`
	Part        string       `json:"part,omitempty"`  // sprockets, rings, pulleys
	Links       int          `json:"links,omitempty"` // of a chain
	Link        *LinkUsed    `json:"joining_link,omitempty"`
	RideTest    string       `json:"ride_test,omitempty"`
	Checks      []string     `json:"checks,omitempty"`
	Parts       []string     `json:"parts,omitempty"` // that went with a chain
	Note        string       `json:"note,omitempty"`
	Why         string       `json:"why,omitempty"`
	OffsetPct   *float64     `json:"offset_pct,omitempty"`
	BeforePct   *float64     `json:"before_pct,omitempty"`
	Strikes     *uuid.UUID   `json:"strikes,omitempty"`
	Reason      string       `json:"reason,omitempty"`
	Ride        *RideSeen    `json:"ride,omitempty"`
	Job         *uuid.UUID   `json:"job,omitempty"`
	Route       string       `json:"route,omitempty"`
	Count       int          `json:"count,omitempty"` // of a part that was used
	Task        string       `json:"task,omitempty"`
	Event       string       `json:"event,omitempty"`
	ByOwner     bool         `json:"by_owner,omitempty"`
	Became      string       `json:"became,omitempty"` // of a message, a link, what an owner told
	Finding     *FindingRow  `json:"finding,omitempty"`
	Agreed      *Agreement   `json:"agreed,omitempty"` // with the customer, as of this entry
	Broken      string       `json:"broken,omitempty"` // what is wrong with an entry that counts for nothing
	report      *uuid.UUID   // what a customer told, whose words are kept apart
}

// Value is what is pointed to; nothing of its kind where nothing is.
func Value[T any](v *T) (of T) {
	if v != nil {
		of = *v
	}
	return of
}

// LinkUsed is the joining link that closed a chain.
type LinkUsed struct {
	What  string `json:"what,omitempty"`
	Again bool   `json:"again,omitempty"` // it had closed one before
}

// Struck says who struck an entry out, and why.
type Struck struct {
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Reason string    `json:"reason"`
}

// LedgerPage is a page of a ledger, newest first.
type LedgerPage struct {
	Entries []LedgerEntry `json:"entries"`
	Next    *int64        `json:"next,omitempty"` // number to go on before; nil on the last page
}

func NewLedgerEntry(e store.EntryView) (LedgerEntry, error) {
	out := LedgerEntry{ID: e.ID, Number: e.Number, Kind: e.Kind, HappenedAt: e.HappenedAt, WrittenAt: e.WrittenAt, By: e.PersonName,
		Device: e.Device, Strikes: e.Strikes}
	if e.StruckAt != nil {
		out.Struck = &Struck{At: *e.StruckAt, By: *e.StruckBy, Reason: Value(e.StruckReason)}
	}
	if err := record.Readable(e.Kind, e.Body); err != nil { // shown as what it is: something that nobody can read
		out.Broken = err.Error()
		return out, nil
	}
	if e.Kind == record.KindMeasurement {
		var err error
		out.Measurement, err = MeasurementOf(e)
		return out, err
	}
	var body struct {
		Changed     []string      `json:"changed"`
		Reason      string        `json:"reason"`
		KM          *float64      `json:"km"`
		NewComputer bool          `json:"new_computer"`
		Mix         *record.Mix   `json:"mix"`
		What        string        `json:"what"`
		Part        string        `json:"part"`
		Links       int           `json:"links"`
		Link        *LinkUsed     `json:"joining_link"`
		RideTest    string        `json:"ride_test"`
		Checks      []string      `json:"checks"`
		Parts       []string      `json:"parts"`
		Note        string        `json:"note"`
		Why         string        `json:"why"`
		OffsetPct   *float64      `json:"offset_pct"`
		BeforePct   *float64      `json:"before_pct"`
		Job         *uuid.UUID    `json:"job"`
		Used        *JobPart      `json:"used"`
		Imported    *ImportedFrom `json:"imported"`
		Shop        string        `json:"shop"`
		Task        string        `json:"task"`
		Event       string        `json:"event"`
		Owner       bool          `json:"owner"`
		Report      *uuid.UUID    `json:"report"`
		Became      string        `json:"became"`
		State       string        `json:"state"`
		Action      string        `json:"deed"`
		Name        string        `json:"name"`
		Finding     *FindingRow   `json:"finding"`
		Agreed      *int          `json:"agreed"`
		Paid        *bool         `json:"paid"`
		Plan        *struct {
			Route string `json:"route"`
		} `json:"plan"`
	}
	// These are the fields of many kinds; in an entry of another shop's one of them may stand for something else.
	if err := lenient(e.Body, &body); err != nil {
		return out, fmt.Errorf("entry %s: %w", e.ID, err)
	}
	out.Changed, out.Reason, out.OdometerKM, out.NewComputer = body.Changed, body.Reason, body.KM, body.NewComputer
	out.Part, out.Links, out.Link, out.RideTest, out.Checks, out.Parts, out.Note, out.Why = body.Part, body.Links, body.Link, body.RideTest, body.Checks, body.Parts, body.Note, body.Why
	out.Job, out.Finding = body.Job, body.Finding
	out.Task, out.Event, out.ByOwner, out.report = body.Task, body.Event, body.Owner, body.Report
	switch e.Kind {
	case record.KindRide:
		ride, err := record.BodyOf[record.RideBody](e)
		if err != nil {
			return out, err
		}
		out.Ride, out.OdometerKM = &RideSeen{ride.KM, ride.RainMM}, nil
	case record.KindMessage:
		out.Became = body.Became
	case "link":
		out.Became, body.What = body.Action, body.Name
	case record.KindCustomerReport:
		out.Became = body.State
	case record.KindJobPaid:
		if out.Became = "paid"; body.Paid != nil && !*body.Paid {
			out.Became = "unpaid"
		}
	}
	if body.Imported != nil { // its job is in the shop that it came from
		out.By, body.Job = body.Imported.By+", "+body.Imported.Shop, nil
	}
	if e.Kind == "passport" {
		body.What = body.Shop
	}
	if body.Used != nil {
		body.What, out.Count = body.Used.What, body.Used.Count
	}
	if body.Agreed != nil {
		out.Agreed = &Agreement{Price: *body.Agreed}
	}
	if body.Plan != nil {
		out.Route = body.Plan.Route
	}
	out.Mix, out.What, out.OffsetPct, out.BeforePct = body.Mix, body.What, body.OffsetPct, body.BeforePct
	return out, nil
}

// lenient reads an object into a struct, field by field: one that is of another kind is as if it were not there.
func lenient(raw json.RawMessage, into any) error {
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(raw, &fields); err != nil {
		return err
	}
	v := reflect.ValueOf(into).Elem()
	for i := range v.NumField() {
		name, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ",")
		if value, there := fields[name]; there && json.Unmarshal(value, v.Field(i).Addr().Interface()) != nil {
			v.Field(i).SetZero() // what was read until then is no answer either
		}
	}
	return nil
}

// Ledger returns what happened to a bike, newest first, from before the entry of that number.
func (s *Measure) Ledger(ctx context.Context, tagText string, before int64, limit int) (LedgerPage, error) {
	tx := s.desk.Store.Read(ctx)
	bike, err := record.BikeByTag(ctx, tx, tagText)
	if err != nil {
		return LedgerPage{}, err
	}
	rows, err := tx.LedgerOf(ctx, bike.ID, before, limit+1)
	if err != nil {
		return LedgerPage{}, err
	}
	page := LedgerPage{Entries: []LedgerEntry{}}
	if len(rows) > limit {
		rows = rows[:limit]
		page.Next = &rows[limit-1].Number
	}
	for _, row := range rows {
		e, err := NewLedgerEntry(row)
		if err != nil {
			return LedgerPage{}, err
		}
		page.Entries = append(page.Entries, e)
	}
	return page, customersWords(ctx, tx, page.Entries)
}

// customersWords puts what customers said beside what they told of; it is not in the ledger, so that it can be
// erased.
func customersWords(ctx context.Context, tx store.Tx, entries []LedgerEntry) error {
	var ids []uuid.UUID
	for _, e := range entries {
		if e.report != nil {
			ids = append(ids, *e.report)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	notes, err := tx.ReportNotes(ctx, ids)
	for i, e := range entries {
		if e.report != nil {
			entries[i].Note = notes[*e.report]
		}
	}
	return err
}

// FindingRow is something that was found.
type FindingRow struct {
	ID         uuid.UUID  `json:"id"`
	Code       string     `json:"code"`
	Place      string     `json:"place,omitempty"`
	Severity   string     `json:"severity"`
	Note       string     `json:"note,omitempty"`
	FoundAt    time.Time  `json:"found_at"`
	By         string     `json:"by"`
	Resolution string     `json:"resolution,omitempty"`
	ResolvedBy string     `json:"resolved_by,omitempty"`
	ResolvedAt *time.Time `json:"resolved_at,omitempty"`
}

// ImportedFrom is who wrote an entry in the shop that it came from.
type ImportedFrom struct {
	By   string `json:"by"`
	Shop string `json:"shop"`
}

// Imported reports whether an entry came with a passport: what it says of a shelf or a job is another shop's.
func Imported(body json.RawMessage) bool {
	var b struct {
		From *ImportedFrom `json:"imported"`
	}
	return json.Unmarshal(body, &b) == nil && b.From != nil
}

// RideSeen is a ride from a ride file, as the history shows it.
type RideSeen struct {
	KM     float64  `json:"km"`
	RainMM *float64 `json:"rain_mm,omitempty"` // of its day; nil where nobody knew
}

// JobPart is a part that was fitted or used up in a job beside chain, joining link and what the steps draw:
// pads, a cable, a bolt.
type JobPart struct {
	What  string `json:"what"`
	Count int    `json:"count"`
	Price *int   `json:"price,omitempty"` // of one, in minor units; nil where it costs the owner nothing
}

// Agreement is a price that was agreed with a customer.
type Agreement struct {
	Price int        `json:"price"`        // minor units
	At    *time.Time `json:"at,omitempty"` // when it was agreed; nobody knows of those from before it was kept
	By    string     `json:"by,omitempty"` // who agreed on it, of the shop
}
