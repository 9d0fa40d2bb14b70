package bikes

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"earnestpony/core/wallclock"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// InHand is the job that a bike is in, asked by what is noted of the bike outside of it.
type InHand interface {
	// PartOfOpenJob refuses to strike a part out of a job whose bill is settled.
	PartOfOpenJob(ctx context.Context, tx store.Tx, entry store.EntryView) error
	// BillTaken puts what was taken off the shelf on the bill of the job that the bike is in, where its quote
	// does not have it already.
	BillTaken(ctx context.Context, tx store.Tx, who record.Actor, bike store.Bike, took []store.StockItem) error
}

// SetInHand says who knows of the job that a bike is in.
func (s *Bikes) SetInHand(j InHand) { s.inHand = j }

// strikeBody is what the ledger keeps of a correction.
type strikeBody struct {
	Reason string `json:"reason"`
}

// StrikeOut takes a wrong entry out of what counts. Both entries stay visible.
func (s *Bikes) StrikeOut(ctx context.Context, who record.Actor, entry uuid.UUID, reason string) (measure.LedgerEntry, error) {
	if reason = record.CleanLine(reason); len([]rune(reason)) < 3 {
		return measure.LedgerEntry{}, record.InvalidInput(record.Field{Path: "reason", Code: "missing", Message: "Say in a few words what was wrong: it stays in the ledger."})
	}
	e, err := record.Idempotent(ctx, s.desk, who, "strike-out "+entry.String(), reason, func(ctx context.Context, tx store.Tx) (measure.LedgerEntry, error) {
		wrong, err := tx.Entry(ctx, entry)
		switch {
		case record.IsNotFound(err):
			return measure.LedgerEntry{}, record.NotFound("entry", "entry-not-found")
		case err != nil:
			return measure.LedgerEntry{}, err
		case !record.MayBeVoided(wrong):
			return measure.LedgerEntry{}, &record.Problem{Kind: record.Conflict, Code: "not-struck-out", Message: "Only a reading or a fitted part can be voided. Other facts are changed on their own page."}
		case wrong.StruckAt != nil:
			return measure.LedgerEntry{}, alreadyStruck()
		}
		if err := s.mayVoid(ctx, tx, who, wrong); err != nil {
			return measure.LedgerEntry{}, err
		}
		bike, err := tx.BikeByID(ctx, *wrong.BikeID)
		if err != nil {
			return measure.LedgerEntry{}, err
		}
		tells := record.TopicBike
		if wrong.Kind == record.KindJobPart && record.Readable(wrong.Kind, wrong.Body) == nil && !measure.Imported(wrong.Body) {
			tells = record.TopicJob
			if err := s.inHand.PartOfOpenJob(ctx, tx, wrong); err != nil {
				return measure.LedgerEntry{}, err
			}
		}
		e := store.Entry{BikeID: wrong.BikeID, Kind: record.KindStrikeOut, Strikes: &entry}
		if err := s.desk.AppendTelling(ctx, tx, who, &e, strikeBody{reason}, record.Changed(tells, record.TagOf(bike))); err != nil {
			return measure.LedgerEntry{}, err
		}
		if wrong.Kind == record.KindMeasurement {
			// A reading that cannot be read was never laid out.
			if err := tx.StrikeMeasurement(ctx, entry, e.ID); err != nil && !(errors.Is(err, store.ErrStale) && record.Readable(wrong.Kind, wrong.Body) != nil) {
				return measure.LedgerEntry{}, err
			}
		}
		if err := putBack(ctx, tx, wrong); err != nil {
			return measure.LedgerEntry{}, err
		}
		written, err := tx.Entry(ctx, e.ID)
		if err != nil {
			return measure.LedgerEntry{}, err
		}
		return measure.NewLedgerEntry(written)
	})
	if errors.Is(err, store.ErrTaken) || errors.Is(err, store.ErrStale) { // somebody was quicker
		return measure.LedgerEntry{}, alreadyStruck()
	}
	return e, err
}

// mayVoid refuses who may not void an entry: the shop's owner any, everybody their own, a mechanic an apprentice's as well, and
// an apprentice only what they wrote on the same day (handbook: records).
func (s *Bikes) mayVoid(ctx context.Context, tx store.Tx, who record.Actor, wrong store.EntryView) error {
	refuse := func(words string) error {
		return &record.Problem{Kind: record.Forbidden, Code: "not-allowed", Message: words}
	}
	if who.Person.Role == record.RoleOwner {
		return nil
	}
	if wrong.PersonID != who.Person.ID {
		author, err := tx.PersonEver(ctx, wrong.PersonID)
		switch {
		case err != nil:
			return err
		case who.Person.Role != record.RoleMechanic:
			return refuse("Others' entries are voided by a mechanic or the shop's owner.")
		case record.Role(author.Role) != record.RoleApprentice:
			return refuse("This is " + author.Name + "'s: they void it themselves, or the shop's owner does.")
		}
		return nil
	}
	if who.Person.Role != record.RoleApprentice {
		return nil
	}
	clock, err := s.desk.Clock(ctx, tx)
	if err != nil {
		return err
	}
	if wrong.WrittenAt.Before(wallclock.DayStart(clock.Now(), clock.Zone())) {
		return refuse("This is not of today any more: a mechanic voids it.")
	}
	return nil
}

// putBack puts what an entry took from the shelf back on it: it was not used after all.
func putBack(ctx context.Context, tx store.Tx, wrong store.EntryView) error {
	if wrong.Kind != record.KindChainFitted && wrong.Kind != record.KindChainOpened || record.Readable(wrong.Kind, wrong.Body) != nil || measure.Imported(wrong.Body) {
		return nil
	}
	b, err := record.BodyOf[record.ChainBody](wrong)
	if err != nil {
		return err
	}
	taken := []*uuid.UUID{b.StockItemID}
	if b.Link != nil {
		taken = append(taken, b.Link.StockItemID)
	}
	for _, id := range taken {
		if id == nil {
			continue
		}
		if err := tx.TakeStock(ctx, *id, 1); err != nil {
			return err
		}
	}
	return nil
}

func alreadyStruck() *record.Problem {
	return &record.Problem{Kind: record.Conflict, Code: "already-struck", Message: "This entry is voided already."}
}

func init() {
	record.Holds[strikeBody](nil, record.KindStrikeOut)
}
