package record

import (
	"context"
	"encoding/json"
	"fmt"

	"github.com/google/uuid"

	"earnestpony/internal/store"
)

// topic is what other screens ask again for when they are told of it.
type topic string

// The topics of live notices, as the contract names them.
const (
	TopicBike        topic = "bike"
	topicCustomer    topic = "customer"
	topicInstruments topic = "instruments"
	topicStock       topic = "stock"
	TopicRules       topic = "rules"
	TopicJob         topic = "job"
	topicStores      topic = "stores"
	TopicFloor       topic = "floor"
	TopicMessage     topic = "message"
	TopicEverything  topic = "everything"
)

// Changed is the notice that something of a topic was written; of one bike where a tag is given.
func Changed(t topic, tag string) string {
	notice, err := json.Marshal(struct {
		Topic topic  `json:"topic"`
		Tag   string `json:"tag,omitempty"`
	}{t, tag})
	if err != nil {
		panic(err) // two texts
	}
	return string(notice)
}

// Append writes a ledger entry and tells of it: the only way into the ledger, with [Service.AppendAll]. The tag is
// that of the bike which it is about, empty where it is about none. A body that could not be read again is refused.
func (s *Desk) Append(ctx context.Context, tx store.Tx, who Actor, e *store.Entry, body any, tag string) error {
	return s.AppendTelling(ctx, tx, who, e, body, Changed(entryKinds[e.Kind].topic, tag))
}

// AppendTelling is [Service.Append] with another notice than its kind has.
func (s *Desk) AppendTelling(ctx context.Context, tx store.Tx, who Actor, e *store.Entry, body any, notice string) error {
	if err := s.sign(ctx, who, e, body); err != nil {
		return err
	}
	if err := markStale(ctx, tx, e); err != nil {
		return err
	}
	return tx.Append(ctx, e, notice)
}

func markStale(ctx context.Context, tx store.Tx, e *store.Entry) error {
	switch {
	case !entryKinds[e.Kind].affectsDue:
		return nil
	case e.Kind == KindRulesChanged:
		return tx.MarkAllStale(ctx)
	case e.BikeID == nil:
		return nil
	}
	return tx.MarkStale(ctx, *e.BikeID)
}

// Written is an entry to be written, with its body.
type Written struct {
	Entry store.Entry
	Body  any
}

// AppendAll is [Service.Append] for many entries about one bike at once: they are told of together.
func (s *Desk) AppendAll(ctx context.Context, tx store.Tx, who Actor, all []Written, tag string) error {
	if len(all) == 0 {
		return nil
	}
	entries := make([]store.Entry, len(all))
	for i, w := range all {
		if err := s.sign(ctx, who, &w.Entry, w.Body); err != nil {
			return err
		}
		entries[i] = w.Entry
	}
	if err := markStale(ctx, tx, &entries[0]); err != nil {
		return err
	}
	return tx.AppendAll(ctx, entries, Changed(TopicBike, tag))
}

// sign gives an entry its id, its author and its body.
func (s *Desk) sign(ctx context.Context, who Actor, e *store.Entry, body any) error {
	id, err := uuid.NewV7()
	if err != nil {
		return err
	}
	e.ID, e.WrittenAt, e.PersonID, e.Device = id, s.Now(), who.Person.ID, who.Device
	if e.HappenedAt.IsZero() {
		e.HappenedAt = s.Moment(ctx)
	}
	if e.Body, err = json.Marshal(body); err != nil {
		return err
	}
	if err := Readable(e.Kind, e.Body); err != nil {
		return fmt.Errorf("write a %s that nobody could read: %w", e.Kind, err)
	}
	return nil
}
