package measure

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"earnestpony/core/wear"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// countersignedBody is what the ledger keeps of a mechanic's signature under an apprentice's verdict.
type countersignedBody struct {
	Entry uuid.UUID `json:"entry"` // the reading
}

func init() {
	record.Holds[countersignedBody](nil, record.KindCountersigned)
}

// needsCountersign reports whether a verdict waits for a mechanic: it asks for another chain, and an apprentice read it
// (handbook: records).
func needsCountersign(who record.Actor, verdict string) bool {
	return who.Person.Role == record.RoleApprentice && (verdict == wear.Replace.String() || verdict == wear.ReplaceTogether.String())
}

// Countersign signs for an apprentice's verdict. Whoever thinks otherwise voids the reading and takes another.
func (s *Measure) Countersign(ctx context.Context, who record.Actor, entry uuid.UUID) (Measurement, error) {
	err := s.desk.Write(ctx, who, "countersign "+entry.String(), nil, func(ctx context.Context, tx store.Tx) error {
		e, err := tx.Entry(ctx, entry)
		if record.IsNotFound(err) || err == nil && e.Kind != record.KindMeasurement {
			return record.NotFound("reading", "entry-not-found")
		}
		if err != nil {
			return err
		}
		bike, err := tx.BikeByID(ctx, *e.BikeID)
		if err != nil {
			return err
		}
		err = s.countersign(ctx, tx, who, bike, entry)
		if errors.Is(err, store.ErrStale) {
			return &record.Problem{Kind: record.Conflict, Code: "not-open", Message: "This reading waits for no signature: somebody signed or voided it meanwhile."}
		}
		return err
	})
	if err != nil {
		return Measurement{}, err
	}
	e, err := s.desk.Store.Read(ctx).Entry(ctx, entry)
	if err != nil {
		return Measurement{}, err
	}
	m, err := MeasurementOf(e)
	if err != nil {
		return Measurement{}, err
	}
	return *m, nil
}

func (s *Measure) countersign(ctx context.Context, tx store.Tx, who record.Actor, bike store.Bike, entry uuid.UUID) error {
	if err := tx.SignMeasurement(ctx, entry); err != nil {
		return err
	}
	return s.desk.Append(ctx, tx, who, &store.Entry{BikeID: &bike.ID, Kind: record.KindCountersigned}, countersignedBody{entry}, record.TagOf(bike))
}

// MayRenew refuses another chain by whoever may not sign for the verdict that asks for it.
func (s *Measure) MayRenew(ctx context.Context, tx store.Tx, who record.Actor, bike store.Bike) error {
	if people.Has(people.Countersign, who) {
		return nil
	}
	open, err := tx.UnsignedOf(ctx, bike.ID)
	if err == nil && len(open) > 0 {
		return Unsigned()
	}
	return err
}

// SettleVerdicts is asked before a chain is replaced: a mechanic who goes on signs for the verdicts that wait; whoever may
// not sign is told to ask one.
func (s *Measure) SettleVerdicts(ctx context.Context, tx store.Tx, who record.Actor, bike store.Bike) error {
	if err := s.MayRenew(ctx, tx, who, bike); err != nil {
		return err
	}
	open, err := tx.UnsignedOf(ctx, bike.ID)
	if err != nil {
		return err
	}
	for _, entry := range open {
		if err := s.countersign(ctx, tx, who, bike, entry); err != nil {
			return err
		}
	}
	return nil
}

// Unsigned refuses what a verdict is needed for that waits for a mechanic's signature.
func Unsigned() error {
	return &record.Problem{Kind: record.Conflict, Code: "countersign-first", Message: "An apprentice read this chain as worn: a mechanic looks and signs first."}
}
