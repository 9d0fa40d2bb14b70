package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"github.com/google/uuid"

	"earnestpony/core/tag"
	"earnestpony/core/wear"
	"earnestpony/internal/formats"
	"earnestpony/internal/store"
)

// notGivenOut are kinds of entry that are the shop's own business, or its owner's.
var notGivenOut = []string{kindMessage, "link", "owner-report", "passport"}

// Passport gives out everything about a bike, for another shop. It names no owner.
func (s *Service) Passport(ctx context.Context, tagText string) ([]byte, error) {
	tx := s.store.Read()
	bike, err := bikeByTag(ctx, tx, tagText)
	if err != nil {
		return nil, err
	}
	row, err := tx.Shop(ctx)
	if err != nil {
		return nil, err
	}
	p := formats.Passport{MadeAt: s.now(), Shop: row.Name, Bike: formats.PassportBike{ID: bike.ID, Tag: tagOf(bike), AddedAt: bike.CreatedAt}, Ledger: []formats.PassportEntry{}}
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
		if slices.Contains(notGivenOut, e.Kind) {
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

// importedFrom is who wrote an entry in the shop that it came from.
type importedFrom struct {
	By   string `json:"by"`
	Shop string `json:"shop"`
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
	delete(fields, "customer_id")
	if raw, is := fields[importedField]; is {
		var from importedFrom
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

// TakePassport takes a bike in by its passport: a new bike for that owner, or more of one that is here. The
// same passport taken twice adds nothing.
func (s *Service) TakePassport(ctx context.Context, who Actor, customer uuid.UUID, text []byte) (PassportTaken, error) {
	p, err := formats.ReadPassport(text)
	if err != nil {
		if f, is := errors.AsType[*formats.FileError](err); is {
			return PassportTaken{}, invalid(Field{Path: "passport", Code: "not-a-passport", Message: f.Message})
		}
		return PassportTaken{}, err
	}
	var facts BikeFacts
	if err := json.Unmarshal(p.Bike.Facts, &facts); err != nil {
		return PassportTaken{}, invalid(Field{Path: "bike.facts", Code: "wrong-kind", Message: "The bike's facts are not such as this program keeps: " + err.Error() + "."})
	}
	if err := checkBike(&facts); err != nil {
		return PassportTaken{}, err
	}
	var out PassportTaken
	err = s.store.Write(ctx, func(tx store.Tx) error {
		out = PassportTaken{}
		bike, err := tx.BikeByID(ctx, p.Bike.ID)
		switch {
		case notFound(err):
			out.New = true
			if bike, err = s.bikeOfPassport(ctx, tx, who, customer, p, facts); err != nil {
				return err
			}
		case err != nil:
			return err
		}
		out.Tag = tagOf(bike)
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
		e := store.Entry{BikeID: &bike.ID, Kind: "passport"}
		return s.append(ctx, tx, who, &e, passportBody{Shop: p.Shop, Added: out.Added}, Change{Topic: "bike", Tag: out.Tag})
	})
	return out, err
}

// passportBody is what the ledger keeps of a passport that was taken.
type passportBody struct {
	Shop  string `json:"shop"`
	Added int    `json:"added"`
}

func (s *Service) bikeOfPassport(ctx context.Context, tx store.Tx, who Actor, customer uuid.UUID, p formats.Passport, facts BikeFacts) (store.Bike, error) {
	owner, err := tx.Customer(ctx, customer)
	if notFound(err) {
		return store.Bike{}, invalid(Field{Path: "customer", Code: "unknown-value", Message: "Choose whose the bike is."})
	}
	if err != nil {
		return store.Bike{}, err
	}
	number, err := tx.NextTagNumber(ctx)
	if err != nil {
		return store.Bike{}, err
	}
	bike := store.Bike{ID: p.Bike.ID, TagNumber: number, CustomerID: owner.ID, BikeFacts: facts, Folded: foldBike(tag.Number(number), facts), CreatedAt: store.Stamp(p.Bike.AddedAt)}
	if err := tx.AddBike(ctx, &bike); err != nil {
		return bike, err
	}
	if len(p.Bike.Photo) > 0 {
		small, err := shrink(p.Bike.Photo, longestSide)
		if err != nil {
			return bike, err
		}
		if err := tx.SetPhoto(ctx, bike.ID, small, s.now()); err != nil {
			return bike, err
		}
	}
	return bike, nil
}

func (s *Service) takeEntries(ctx context.Context, tx store.Tx, who Actor, bike store.Bike, p *formats.Passport, out *PassportTaken) error {
	ids := make([]uuid.UUID, len(p.Ledger))
	for i, e := range p.Ledger {
		ids[i] = e.ID
	}
	known, err := tx.KnownEntries(ctx, ids)
	if err != nil {
		return err
	}
	kinds, err := tx.EntryKinds(ctx)
	if err != nil {
		return err
	}
	var foreign []formats.PassportEntry
	for _, e := range p.Ledger {
		switch {
		case known[e.ID]:
			out.Known++
			continue
		case !slices.Contains(kinds, e.Kind):
			foreign = append(foreign, e)
			out.Kept++
			continue
		case e.HappenedAt.After(s.now().Add(clockSlack)):
			return invalid(Field{Path: "ledger", Code: "in-the-future", Message: fmt.Sprintf("Entry %s happened in the future.", e.ID)})
		}
		if err := s.takeEntry(ctx, tx, who, bike, e, p.Shop); err != nil {
			return err
		}
		out.Added++
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

func (s *Service) takeEntry(ctx context.Context, tx store.Tx, who Actor, bike store.Bike, e formats.PassportEntry, from string) error {
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(e.Body, &fields); err != nil {
		return err
	}
	var err error
	if fields[importedField], err = json.Marshal(importedFrom{e.By, from}); err != nil {
		return err
	}
	body, err := json.Marshal(fields)
	if err != nil {
		return err
	}
	row := store.Entry{ID: e.ID, BikeID: &bike.ID, Kind: e.Kind, HappenedAt: store.Stamp(e.HappenedAt), WrittenAt: store.Stamp(e.WrittenAt), PersonID: who.Person.ID,
		Device: who.Device, Strikes: e.Strikes, Body: body}
	if err := tx.AddEntry(ctx, &row); err != nil {
		return err
	}
	switch {
	case e.Kind == kindMeasurement:
		return s.takeMeasurement(ctx, tx, bike, row)
	case e.Strikes != nil:
		struck, err := tx.Entry(ctx, *e.Strikes)
		if err != nil || struck.Kind != kindMeasurement {
			return err
		}
		return tx.StrikeMeasurement(ctx, *e.Strikes, e.ID)
	}
	return nil
}

// takeMeasurement lays a measurement from elsewhere out, under a tool that says so.
func (s *Service) takeMeasurement(ctx context.Context, tx store.Tx, bike store.Bike, row store.Entry) error {
	var b MeasurementBody
	if err := json.Unmarshal(row.Body, &b); err != nil {
		return invalid(Field{Path: "ledger", Code: "wrong-kind", Message: fmt.Sprintf("Reading %s is not such as this program keeps.", row.ID)})
	}
	if _, err := wear.ParseVerdict(b.Wear.Verdict); err != nil || len(b.Readings) == 0 {
		return invalid(Field{Path: "ledger", Code: "wrong-kind", Message: fmt.Sprintf("Reading %s says nothing.", row.ID)})
	}
	tool, err := tx.ForeignInstrument(ctx, b.Instrument.Kind, s.now())
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
