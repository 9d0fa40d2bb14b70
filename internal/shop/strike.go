package shop

import (
	"context"
	"earnestpony/internal/store"
	"errors"

	"github.com/google/uuid"
)

// InHand is the job that a bike is in, asked by what is noted of the bike outside of it.
type InHand interface {
	// PartOfOpenJob refuses to strike a part out of a job whose bill is settled.
	PartOfOpenJob(ctx context.Context, tx store.Tx, entry store.EntryView) error
	// BillTaken puts what was taken off the shelf on the bill of the job that the bike is in, where its quote
	// does not have it already.
	BillTaken(ctx context.Context, tx store.Tx, who Actor, bike store.Bike, took []store.StockItem) error
}

// SetInHand says who knows of the job that a bike is in.
func (s *Service) SetInHand(j InHand) { s.inHand = j }

// strikeBody is what the ledger keeps of a correction.
type strikeBody struct {
	Reason string `json:"reason"`
}

// StrikeOut takes a wrong entry out of what counts. Both entries stay visible.
func (s *Service) StrikeOut(ctx context.Context, who Actor, entry uuid.UUID, reason string) (LedgerEntry, error) {
	if reason = cleanLine(reason); len([]rune(reason)) < 3 {
		return LedgerEntry{}, invalid(Field{Path: "reason", Code: "missing", Message: "Say in a few words what was wrong: it stays in the ledger."})
	}
	e, err := idempotent(ctx, s, who, "strike-out "+entry.String(), reason, func(ctx context.Context, tx store.Tx) (LedgerEntry, error) {
		wrong, err := tx.Entry(ctx, entry)
		switch {
		case notFound(err):
			return LedgerEntry{}, missing("entry", "entry-not-found")
		case err != nil:
			return LedgerEntry{}, err
		case !mayBeVoided(wrong):
			return LedgerEntry{}, &Problem{Kind: Conflict, Code: "not-struck-out", Message: "Only what was read or fitted can be struck out. Other facts are changed where they stand."}
		case wrong.StruckAt != nil:
			return LedgerEntry{}, alreadyStruck()
		}
		bike, err := tx.BikeByID(ctx, *wrong.BikeID)
		if err != nil {
			return LedgerEntry{}, err
		}
		tells := topicBike
		if wrong.Kind == kindJobPart && readable(wrong.Kind, wrong.Body) == nil && !imported(wrong.Body) {
			tells = topicJob
			if err := s.inHand.PartOfOpenJob(ctx, tx, wrong); err != nil {
				return LedgerEntry{}, err
			}
		}
		e := store.Entry{BikeID: wrong.BikeID, Kind: kindStrikeOut, Strikes: &entry}
		if err := s.appendTelling(ctx, tx, who, &e, strikeBody{reason}, changed(tells, tagOf(bike))); err != nil {
			return LedgerEntry{}, err
		}
		if wrong.Kind == kindMeasurement {
			// A reading that cannot be read was never laid out.
			if err := tx.StrikeMeasurement(ctx, entry, e.ID); err != nil && !(errors.Is(err, store.ErrStale) && readable(wrong.Kind, wrong.Body) != nil) {
				return LedgerEntry{}, err
			}
		}
		if err := putBack(ctx, tx, wrong); err != nil {
			return LedgerEntry{}, err
		}
		written, err := tx.Entry(ctx, e.ID)
		if err != nil {
			return LedgerEntry{}, err
		}
		return newLedgerEntry(written)
	})
	if errors.Is(err, store.ErrTaken) || errors.Is(err, store.ErrStale) { // somebody was quicker
		return LedgerEntry{}, alreadyStruck()
	}
	return e, err
}

// putBack puts what an entry took from the shelf back on it: it was not used after all.
func putBack(ctx context.Context, tx store.Tx, wrong store.EntryView) error {
	if wrong.Kind != kindChainFitted && wrong.Kind != kindChainOpened || readable(wrong.Kind, wrong.Body) != nil || imported(wrong.Body) {
		return nil
	}
	b, err := bodyOf[chainBody](wrong)
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

func alreadyStruck() *Problem {
	return &Problem{Kind: Conflict, Code: "already-struck", Message: "This entry is struck out already."}
}

func init() {
	holds[strikeBody](nil, kindStrikeOut)
}
