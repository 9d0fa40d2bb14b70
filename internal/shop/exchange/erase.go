package exchange

import (
	"context"
	"encoding/json"
	"errors"

	"github.com/google/uuid"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/contact"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// CustomerData gives out all that is held on an owner: the facts, the bikes with what happened to them, and
// what was told.
func (s *Exchange) CustomerData(ctx context.Context, id uuid.UUID) (json.RawMessage, error) {
	c, err := s.bikes.Customer(ctx, id)
	if err != nil {
		return nil, err
	}
	tx := s.desk.Store.Read(ctx)
	bikes := []json.RawMessage{}
	messages := []contact.Message{}
	for _, b := range c.Bikes {
		passport, err := s.Passport(ctx, b.Tag)
		if err != nil {
			return nil, err
		}
		bikes = append(bikes, passport)
		bike, err := record.BikeByTag(ctx, tx, b.Tag)
		if err != nil {
			return nil, err
		}
		told, err := tx.MessagesOf(ctx, bike.ID)
		if err != nil {
			return nil, err
		}
		for _, m := range told {
			messages = append(messages, contact.NewMessage(m))
		}
	}
	return json.Marshal(map[string]any{"made_at": s.desk.Now(), "owner": c.Customer.Facts, "bikes": bikes, "messages": messages})
}

// erasedName stands where an owner's name stood.
const erasedName = "Erased owner"

// EraseCustomer erases what is personal of an owner, in every place where it stands: name, addresses, notes,
// what they said in their own words, what was told them, and the links to their bikes. The bikes' technical
// records stay, and their pictures where photos is false.
func (s *Exchange) EraseCustomer(ctx context.Context, who record.Actor, id uuid.UUID, version int, photos bool) (bikes.Customer, error) {
	var after bikes.Customer
	err := record.IdempotentInto(ctx, s.desk, who, "erase-customer "+id.String(), record.ChangeOf{Version: version, To: photos}, &after, func(ctx context.Context, tx store.Tx) error {
		row, err := tx.Customer(ctx, id)
		if record.IsNotFound(err) {
			return record.NotFound("customer", "customer-not-found")
		}
		if err != nil {
			return err
		}
		if row.Version != version {
			return record.ChangedMeanwhile(nil, bikes.NewCustomer(row))
		}
		row.CustomerFacts, row.ConsentAt, row.ConsentBy = record.CustomerFacts{Name: erasedName}, nil, nil
		row.Folded = bikes.NormaliseCustomer(row.CustomerFacts)
		if err := tx.SaveCustomer(ctx, &row); err != nil {
			return err
		}
		if err := errors.Join(tx.EraseWords(ctx, id, s.desk.Now(), photos), tx.EraseMerged(ctx, id, erasedName)); err != nil {
			return err
		}
		after = bikes.NewCustomer(row)
		e := store.Entry{CustomerID: &id, Kind: record.KindCustomerChanged}
		return s.desk.AppendTelling(ctx, tx, who, &e, record.CustomerBody{Changed: []string{"erased"}}, record.Changed(record.TopicEverything, ""))
	})
	if errors.Is(err, store.ErrStale) {
		now, err := s.bikes.Customer(ctx, id)
		if err != nil {
			return bikes.Customer{}, err
		}
		return bikes.Customer{}, record.ChangedMeanwhile(nil, now.Customer)
	}
	return after, err
}
