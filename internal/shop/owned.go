package shop

import (
	"context"
	"encoding/json"
	"errors"

	"github.com/google/uuid"

	"earnestpony/internal/store"
)

// CustomerData gives out all that is held on an owner: the facts, the bikes with what happened to them, and
// what was told.
func (s *Service) CustomerData(ctx context.Context, id uuid.UUID) (json.RawMessage, error) {
	c, err := s.Customer(ctx, id)
	if err != nil {
		return nil, err
	}
	tx := s.store.Read(ctx)
	bikes := []json.RawMessage{}
	messages := []Message{}
	for _, b := range c.Bikes {
		passport, err := s.Passport(ctx, b.Tag)
		if err != nil {
			return nil, err
		}
		bikes = append(bikes, passport)
		bike, err := bikeByTag(ctx, tx, b.Tag)
		if err != nil {
			return nil, err
		}
		told, err := tx.Messages(ctx, []string{"draft", "queued", "delivered", "not-reached", "withdrawn"}, &bike.ID, messagesShown)
		if err != nil {
			return nil, err
		}
		for _, m := range told {
			messages = append(messages, newMessage(m))
		}
	}
	return json.Marshal(map[string]any{"made_at": s.now(), "owner": c.Customer.Facts, "bikes": bikes, "messages": messages})
}

// erasedName stands where an owner's name stood.
const erasedName = "Erased owner"

// EraseCustomer erases what is personal of an owner, in every place where it stands: name, addresses, notes,
// what they said in their own words, what was told them, and the links to their bikes. The bikes' technical
// records stay, and their pictures where photos is false.
func (s *Service) EraseCustomer(ctx context.Context, who Actor, id uuid.UUID, version int, photos bool) (Customer, error) {
	if who.Person.Role == "apprentice" {
		return Customer{}, &Problem{Kind: Forbidden, Code: "not-allowed", Message: "The counter or a mechanic erases an owner."}
	}
	var after Customer
	err := idempotentInto(ctx, s, who, "erase-customer "+id.String(), changeOf{version, photos}, &after, func(ctx context.Context, tx store.Tx) error {
		row, err := tx.Customer(ctx, id)
		if notFound(err) {
			return missing("customer", "customer-not-found")
		}
		if err != nil {
			return err
		}
		if row.Version != version {
			return conflict(nil, newCustomer(row))
		}
		row.CustomerFacts = CustomerFacts{Name: erasedName}
		row.Folded = normaliseCustomer(row.CustomerFacts)
		if err := tx.SaveCustomer(ctx, &row); err != nil {
			return err
		}
		if err := tx.EraseWords(ctx, id, s.now(), photos); err != nil {
			return err
		}
		after = newCustomer(row)
		e := store.Entry{CustomerID: &id, Kind: kindCustomerChanged}
		return s.appendTelling(ctx, tx, who, &e, customerBody{Changed: []string{"erased"}}, changed(topicEverything, ""))
	})
	if errors.Is(err, store.ErrStale) {
		now, err := s.Customer(ctx, id)
		if err != nil {
			return Customer{}, err
		}
		return Customer{}, conflict(nil, now.Customer)
	}
	return after, err
}
