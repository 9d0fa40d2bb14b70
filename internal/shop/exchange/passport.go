package exchange

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"

	"earnestpony/core/tag"
	"earnestpony/internal/formats"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// Passport gives out everything about a bike, for another shop. It names no owner.
func (s *Exchange) Passport(ctx context.Context, tagText string) ([]byte, error) {
	tx := s.desk.Store.Read(ctx)
	bike, err := record.BikeByTag(ctx, tx, tagText)
	if err != nil {
		return nil, err
	}
	row, err := tx.Shop(ctx)
	if err != nil {
		return nil, err
	}
	p := formats.Passport{MadeAt: s.desk.Now(), Shop: row.Name, Bike: formats.PassportBike{ID: bike.ID, Tag: record.TagOf(bike), AddedAt: bike.CreatedAt}, Ledger: []formats.PassportEntry{}}
	facts := bike.BikeFacts
	facts.Notes = "" // may say whose it is
	if p.Bike.Facts, err = json.Marshal(facts); err != nil {
		return nil, err
	}
	if bike.PhotoAt != nil {
		if p.Bike.Photo, err = tx.Photo(ctx, bike.ID); err != nil {
			return nil, err
		}
	}
	kept, err := tx.PassportExtras(ctx, bike.ID)
	if err != nil {
		return nil, err
	}
	if err := p.SetExtras(kept); err != nil {
		return nil, err
	}
	entries, err := tx.WholeLedger(ctx, bike.ID)
	if err != nil {
		return nil, err
	}
	for _, e := range entries {
		if kind, _ := record.KindOfEntry(e.Kind); !kind.Travels {
			continue
		}
		by, body, err := givenOut(e)
		if err != nil {
			return nil, err
		}
		p.Ledger = append(p.Ledger, formats.PassportEntry{ID: e.ID, Kind: e.Kind, HappenedAt: e.HappenedAt, WrittenAt: e.WrittenAt, By: by, Strikes: e.Strikes, Body: body})
	}
	return formats.WritePassport(p)
}

const importedField = "imported"

// givenOut is an entry as it leaves the shop: what an owner said in words stays, and what came from elsewhere
// is given on under the name of who wrote it there.
func givenOut(e store.EntryView) (by string, body json.RawMessage, err error) {
	by = e.PersonName
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(e.Body, &fields); err != nil {
		return "", nil, err
	}
	for _, ours := range []string{"customer_id", "report"} {
		delete(fields, ours)
	}
	if raw, is := fields["owner"]; is && string(raw) == "true" { // what a customer said
		delete(fields, "note")
	}
	if raw, is := fields[importedField]; is {
		var from measure.ImportedFrom
		if err := json.Unmarshal(raw, &from); err != nil {
			return "", nil, err
		}
		by = from.By
		delete(fields, importedField)
	}
	if raw, is := fields["arrival"]; is {
		var arrival map[string]json.RawMessage
		if err := json.Unmarshal(raw, &arrival); err != nil {
			return "", nil, err
		}
		delete(arrival, "reports")
		delete(arrival, "wants")
		if fields["arrival"], err = json.Marshal(arrival); err != nil {
			return "", nil, err
		}
	}
	body, err = json.Marshal(fields)
	return by, body, err
}

// PassportTaken is what became of a passport.
type PassportTaken struct {
	Tag   string `json:"tag"`
	New   bool   `json:"new"`   // the bike was not here
	Added int    `json:"added"` // entries
	Known int    `json:"known"` // that were here already
	Kept  int    `json:"kept"`  // of kinds that this program does not know, kept to be given on
}

// What a passport may hold: far beyond what eighteen busy years write of a bike.
const (
	maxPassportEntries = 20_000
	maxEntryBody       = 256 << 10 // bytes of an entry's body: a plan with all its steps has about sixty thousand
	maxUnknown         = 16 << 10  // bytes of what this program does not know, of an entry or of the rest
)

// TakePassport takes a bike in by its passport: a new bike for that owner, or more of one that is here. The
// same passport taken twice adds nothing. All of it is looked at before any of it is kept.
func (s *Exchange) TakePassport(ctx context.Context, who record.Actor, customer uuid.UUID, text []byte) (PassportTaken, error) {
	p, err := formats.ReadPassport(text)
	if err != nil {
		if f, is := errors.AsType[*formats.FileError](err); is {
			return PassportTaken{}, record.InvalidInput(record.Field{Path: "passport", Code: "not-a-passport", Message: f.Message})
		}
		return PassportTaken{}, err
	}
	facts, photo, wrong := s.checkPassport(ctx, &p)
	if err := wrong.Err(); err != nil {
		return PassportTaken{}, err
	}
	var out PassportTaken
	err = record.IdempotentInto(ctx, s.desk, who, "take-passport "+customer.String(), record.FileOf(text), &out, func(ctx context.Context, tx store.Tx) error {
		out = PassportTaken{}
		bike, err := tx.BikeByID(ctx, p.Bike.ID)
		switch {
		case record.IsNotFound(err):
			out.New = true
			if bike, err = s.bikeOfPassport(ctx, tx, who, customer, p, facts, photo); err != nil {
				return err
			}
		case err != nil:
			return err
		}
		out.Tag = record.TagOf(bike)
		if err := s.takeEntries(ctx, tx, who, bike, &p, &out); err != nil {
			return err
		}
		kept, err := p.Extras()
		if err != nil {
			return err
		}
		if kept != nil {
			if err := tx.SetPassportExtras(ctx, bike.ID, kept); err != nil {
				return err
			}
		}
		if out.Added == 0 && !out.New {
			return nil
		}
		e := store.Entry{BikeID: &bike.ID, Kind: record.KindPassport}
		return s.desk.Append(ctx, tx, who, &e, passportBody{Shop: p.Shop, Added: out.Added}, out.Tag)
	})
	return out, err
}

// checkPassport holds all that a passport says against what may be: the bike's facts by the checks of every
// bike, its picture, and each entry by its kind.
func (s *Exchange) checkPassport(ctx context.Context, p *formats.Passport) (facts record.BikeFacts, photo []byte, wrong record.Faults) {
	fault := func(path, code, format string, args ...any) {
		if len(wrong) < record.MaxFaults {
			wrong.Add(path, code, format, args...)
		}
	}
	p.Shop = record.CleanLine(p.Shop)
	if len([]rune(p.Shop)) > 120 {
		fault("shop", "too-long", "The other shop's name is too long: at most 120 characters.")
	}
	if p.Bike.ID == uuid.Nil {
		fault("bike.id", "missing", "The bike has no id.")
	}
	tomorrow := s.desk.Now().AddDate(0, 0, 1)
	for path, at := range map[string]time.Time{"made_at": p.MadeAt, "bike.added_at": p.Bike.AddedAt} {
		if f := record.CheckPast(path, at, tomorrow); f != nil {
			fault(path, f.Code, "%s", f.Message)
		}
	}
	if json.Unmarshal(p.Bike.Facts, &facts) != nil {
		fault("bike.facts", "wrong-kind", "The bike's facts are not such as this program keeps.")
	} else {
		for _, f := range record.Sane(facts) {
			fault(record.Joined("bike.facts", f.Path), f.Code, "%s", f.Message)
		}
		if problem, is := errors.AsType[*record.Problem](bikes.CheckBike(&facts)); is {
			for _, f := range problem.Fields {
				fault(record.Joined("bike", f.Path), f.Code, "%s", f.Message)
			}
		}
	}
	if len(p.Bike.Photo) > 0 {
		var err error
		if photo, err = bikes.Shrink(ctx, p.Bike.Photo, bikes.MaxKeptSide); err != nil {
			fault("bike.photo", "not-a-picture", "The bike's picture cannot be read.")
		}
	}
	if extras, err := p.Extras(); err != nil || len(extras) > 4*maxUnknown || !keepable(extras) {
		fault("passport", "too-much", "There is too much in it that this program does not know.")
	}
	if len(p.Ledger) > maxPassportEntries {
		fault("ledger", "too-many", "A passport has %d entries at most.", maxPassportEntries)
		return facts, photo, wrong
	}
	checkPassportEntries(p.Ledger, tomorrow, fault)
	return facts, photo, wrong
}

// keepable reports whether JSON that is kept as it came can be kept: PostgreSQL takes no NUL.
func keepable(raw []byte) bool {
	return utf8.Valid(raw) && !bytes.Contains(raw, []byte(`\u0000`)) && !bytes.Contains(raw, []byte{0})
}

func checkPassportEntries(entries []formats.PassportEntry, tomorrow time.Time, fault func(path, code, format string, args ...any)) {
	seen, voided := map[uuid.UUID]bool{}, map[uuid.UUID]bool{}
	for i, e := range entries {
		at := fmt.Sprintf("ledger[%d]", i)
		if seen[e.ID] {
			fault(at+".id", "twice", "Two entries have the id %s.", e.ID)
		}
		// An entry voids one that comes with it, of the same bike and before it; once.
		switch {
		case (e.Kind == record.KindStrikeOut) != (e.Strikes != nil):
			fault(at+".strikes", "missing", "An entry that voids another names it, and no other does.")
		case e.Strikes == nil:
		case !seen[*e.Strikes]:
			fault(at+".strikes", "unknown-value", "It voids an entry that is not in this passport before it.")
		case voided[*e.Strikes]:
			fault(at+".strikes", "twice", "It voids an entry that another voids already.")
		default:
			voided[*e.Strikes] = true
		}
		seen[e.ID] = true
		for name, when := range map[string]time.Time{".happened_at": e.HappenedAt, ".written_at": e.WrittenAt} {
			if f := record.CheckPast(at+name, when, tomorrow); f != nil {
				fault(f.Path, f.Code, "%s", f.Message)
			}
		}
		if len([]rune(e.By)) > 120 || strings.ContainsRune(e.By, 0) {
			fault(at+".by", "too-long", "Who wrote it is no name.")
		}
		checkPassportEntry(at, e, fault)
	}
}

func checkPassportEntry(at string, e formats.PassportEntry, fault func(path, code, format string, args ...any)) {
	kind, known := record.KindOfEntry(e.Kind)
	switch {
	case len(e.Body) > maxEntryBody || !keepable(e.Body):
		fault(at+".body", "too-long", "It holds more, or other, than an entry can.")
	case !known:
		if len(e.Body) > maxUnknown || len(e.Kind) > 64 {
			fault(at+".body", "too-long", "An entry that this program does not know may have %d kB.", maxUnknown>>10)
		}
	case !kind.Travels:
		fault(at+".kind", "does-not-travel", "Entries of the kind %q are a shop's own: a passport does not bring them.", e.Kind)
	default:
		if err := record.Readable(e.Kind, e.Body); err != nil {
			fault(at+".body", "wrong-kind", "It cannot be read: %v.", err)
			return
		}
		var body any
		if json.Unmarshal(e.Body, &body) != nil {
			fault(at+".body", "wrong-kind", "It cannot be read.")
			return
		}
		for _, f := range record.Sane(body) {
			fault(record.Joined(at+".body", f.Path), f.Code, "%s", f.Message)
		}
	}
}

// passportBody is what the ledger keeps of a passport that was taken.
type passportBody struct {
	Shop  string `json:"shop"`
	Added int    `json:"added"`
}

func (s *Exchange) bikeOfPassport(ctx context.Context, tx store.Tx, who record.Actor, customer uuid.UUID, p formats.Passport, facts record.BikeFacts, photo []byte) (store.Bike, error) {
	owner, err := tx.Customer(ctx, customer)
	if record.IsNotFound(err) {
		return store.Bike{}, record.InvalidInput(record.Field{Path: "customer", Code: "unknown-value", Message: "Choose whose the bike is."})
	}
	if err != nil {
		return store.Bike{}, err
	}
	number, err := tx.NextTagNumber(ctx)
	if err != nil {
		return store.Bike{}, err
	}
	bike := store.Bike{ID: p.Bike.ID, TagNumber: number, CustomerID: owner.ID, BikeFacts: facts, Folded: bikes.NormaliseBike(tag.Number(number), nil, facts), CreatedAt: store.Stamp(p.Bike.AddedAt)}
	if err := tx.AddBike(ctx, &bike); err != nil {
		return bike, err
	}
	if photo != nil {
		if err := tx.SetPhoto(ctx, bike.ID, photo, s.desk.Now()); err != nil {
			return bike, err
		}
	}
	return bike, nil
}

func (s *Exchange) takeEntries(ctx context.Context, tx store.Tx, who record.Actor, bike store.Bike, p *formats.Passport, out *PassportTaken) error {
	ids := make([]uuid.UUID, len(p.Ledger))
	for i, e := range p.Ledger {
		ids[i] = e.ID
	}
	known, err := tx.KnownEntries(ctx, ids)
	if err != nil {
		return err
	}
	var foreign []formats.PassportEntry
	for _, e := range p.Ledger {
		of, here := known[e.ID]
		_, ours := record.KindOfEntry(e.Kind)
		switch {
		case here && of != bike.ID:
			return record.InvalidInput(record.Field{Path: "ledger", Code: "of-another-bike", Message: fmt.Sprintf("Entry %s is of another bike here.", e.ID)})
		case here:
			out.Known++
			continue
		case !ours:
			foreign = append(foreign, e)
			out.Kept++
			continue
		}
		taken, err := s.takeEntry(ctx, tx, who, bike, e, p.Shop)
		switch {
		case err != nil:
			return err
		case taken:
			out.Added++
		default:
			out.Known++
		}
	}
	if len(foreign) > 0 {
		if p.More == nil {
			p.More = map[string]json.RawMessage{}
		}
		if p.More["other_entries"], err = json.Marshal(foreign); err != nil {
			return err
		}
	}
	return nil
}

// takeEntry writes an entry of a passport, and reports whether it did: one that voids what is voided here
// already adds nothing.
func (s *Exchange) takeEntry(ctx context.Context, tx store.Tx, who record.Actor, bike store.Bike, e formats.PassportEntry, from string) (bool, error) {
	var voided store.EntryView
	if e.Strikes != nil {
		var err error
		if voided, err = tx.Entry(ctx, *e.Strikes); err != nil && !record.IsNotFound(err) {
			return false, err
		}
		// That what it voids is in the passport was looked at before; that it is of this bike is held here.
		if err != nil || voided.BikeID == nil || *voided.BikeID != bike.ID {
			return false, record.InvalidInput(record.Field{Path: "ledger", Code: "of-another-bike", Message: fmt.Sprintf("Entry %s voids one that is not of this bike.", e.ID)})
		}
		if voided.StruckAt != nil {
			return false, nil
		}
	}
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(e.Body, &fields); err != nil {
		return false, err
	}
	var err error
	if fields[importedField], err = json.Marshal(measure.ImportedFrom{By: e.By, Shop: from}); err != nil {
		return false, err
	}
	body, err := json.Marshal(fields)
	if err != nil {
		return false, err
	}
	row := store.Entry{ID: e.ID, BikeID: &bike.ID, Kind: e.Kind, HappenedAt: store.Stamp(e.HappenedAt), WrittenAt: store.Stamp(e.WrittenAt), PersonID: who.Person.ID,
		Device: who.Device, Strikes: e.Strikes, Body: body}
	if err := tx.AddEntry(ctx, &row); err != nil {
		return false, err
	}
	switch {
	case e.Kind == record.KindMeasurement:
		return true, s.takeMeasurement(ctx, tx, bike, row)
	case voided.Kind == record.KindMeasurement:
		return true, tx.StrikeMeasurement(ctx, *e.Strikes, e.ID)
	}
	return true, nil
}

// takeMeasurement lays a measurement from elsewhere out, under a tool that says so.
func (s *Exchange) takeMeasurement(ctx context.Context, tx store.Tx, bike store.Bike, row store.Entry) error {
	var b measure.MeasurementBody
	if err := json.Unmarshal(row.Body, &b); err != nil {
		return record.InvalidInput(record.Field{Path: "ledger", Code: "wrong-kind", Message: fmt.Sprintf("Reading %s is not such as this program keeps.", row.ID)})
	}
	tool, err := tx.ForeignInstrument(ctx, b.Instrument.Kind, s.desk.Now())
	if err != nil {
		return err
	}
	m := store.Measurement{EntryID: row.ID, BikeID: bike.ID, InstrumentID: tool, TakenAt: row.HappenedAt, ElongationPct: b.Wear.ElongationPct, SigmaPct: b.Wear.SigmaPct,
		LimitPct: b.Wear.LimitPct, Verdict: b.Wear.Verdict}
	if v := b.Wear.Interval; v != nil {
		m.LowPct, m.HighPct = &v.LowPct, v.HighPct
	}
	return tx.AddMeasurement(ctx, &m)
}

func init() {
	record.Holds[passportBody](nil, record.KindPassport)
}
