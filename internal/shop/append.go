package shop

import (
	"context"
	"earnestpony/internal/store"
	"encoding/json"

	"github.com/google/uuid"
)

// Change is what other screens are told when something was written: what it names is to be asked
// for again.
type Change struct {
	Topic string `json:"topic"` // bike, customer, instruments, rules, everything
	Tag   string `json:"tag,omitempty"`
}

// append writes a ledger entry about a bike or a customer and tells of it.
func (s *Service) append(ctx context.Context, tx store.Tx, who Actor, e *store.Entry, body any, c Change) error {
	if err := s.sign(who, e, body); err != nil {
		return err
	}
	notice, err := json.Marshal(c)
	if err != nil {
		return err
	}
	if e.BikeID != nil && affectsDue(e.Kind) {
		if err := tx.AskDue(ctx, *e.BikeID); err != nil {
			return err
		}
	}
	if e.Kind == "rules-changed" {
		if err := tx.AskDueOfAll(ctx); err != nil {
			return err
		}
	}
	return tx.Append(ctx, e, string(notice))
}

// written is an entry to be written, with its body.
type written struct {
	entry store.Entry
	body  any
}

// appendAll is [Service.append] for many entries about one bike at once: they are told of together.
func (s *Service) appendAll(ctx context.Context, tx store.Tx, who Actor, all []written, c Change) error {
	if len(all) == 0 {
		return nil
	}
	entries := make([]store.Entry, len(all))
	for i, w := range all {
		if err := s.sign(who, &w.entry, w.body); err != nil {
			return err
		}
		entries[i] = w.entry
	}
	notice, err := json.Marshal(c)
	if err != nil {
		return err
	}
	if err := tx.AskDue(ctx, *entries[0].BikeID); err != nil {
		return err
	}
	return tx.AppendAll(ctx, entries, string(notice))
}

// sign gives an entry its id, its author and its body.
func (s *Service) sign(who Actor, e *store.Entry, body any) error {
	id, err := uuid.NewV7()
	if err != nil {
		return err
	}
	e.ID, e.WrittenAt, e.PersonID, e.Device = id, s.now(), who.Person.ID, who.Device
	if e.HappenedAt.IsZero() {
		e.HappenedAt = e.WrittenAt
	}
	e.Body, err = json.Marshal(body)
	return err
}
