package bikes

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// Merging is two customers who are one, each as the sender saw them.
type Merging struct {
	Version     int       `json:"version"`
	From        uuid.UUID `json:"from"` // who is entered twice, and goes
	FromVersion int       `json:"from_version"`
}

// mergedBody is what the ledger keeps of two customers who are one: never what they are called.
type mergedBody struct {
	From    uuid.UUID `json:"from"`
	Bikes   []string  `json:"bikes"`             // that went over, by tag
	Changed []string  `json:"changed,omitempty"` // what the one who stays got of the other
}

func init() {
	record.Holds[mergedBody](nil, record.KindCustomerMerged)
}

// MergeCustomers makes one of two customers: bikes, jobs and messages of the one go over to the other, who keeps what is known of
// them and gets what is not. How they may be contacted stays as it was: nobody agreed to more by being entered twice.
func (s *Bikes) MergeCustomers(ctx context.Context, who record.Actor, id uuid.UUID, m Merging) (Customer, error) {
	if m.From == id {
		return Customer{}, record.InvalidInput(record.Field{Path: "from", Code: "same-customer", Message: "This is the same customer."})
	}
	merged, err := record.Idempotent(ctx, s.desk, who, "merge-customers "+id.String(), m, func(ctx context.Context, tx store.Tx) (Customer, error) {
		var both [2]store.Customer
		for i, of := range []struct {
			id      uuid.UUID
			version int
		}{{id, m.Version}, {m.From, m.FromVersion}} {
			row, err := tx.Customer(ctx, of.id)
			switch {
			case record.IsNotFound(err):
				return Customer{}, record.NotFound("customer", "customer-not-found")
			case err != nil:
				return Customer{}, err
			case row.Version != of.version:
				return Customer{}, record.ChangedMeanwhile(nil, NewCustomer(row))
			case row.MergedInto != nil:
				return Customer{}, &record.Problem{Kind: record.Conflict, Code: "merged", Message: fmt.Sprintf("%s was merged with somebody already.", row.Name)}
			case row.ArchivedAt != nil && i == 0:
				return Customer{}, &record.Problem{Kind: record.Conflict, Code: "archived", Message: fmt.Sprintf("%s is archived: take them out of the archive first.", row.Name)}
			}
			both[i] = row
		}
		into, from := both[0], both[1]
		facts := together(into.CustomerFacts, from.CustomerFacts)
		if err := CheckCustomer(&facts); err != nil {
			return Customer{}, err
		}
		changed, err := record.ChangedFields(into.CustomerFacts, facts)
		if err != nil {
			return Customer{}, err
		}
		moved, err := tx.MergeCustomers(ctx, into.ID, from.ID)
		if err != nil {
			return Customer{}, err
		}
		into.CustomerFacts, into.Folded = facts, NormaliseCustomer(facts)
		now := s.desk.Now()
		from.CustomerFacts, from.Folded = record.CustomerFacts{Name: from.Name}, record.Normalise(from.Name)
		from.ConsentAt, from.ConsentBy, from.MergedInto = nil, nil, &into.ID
		if from.ArchivedAt == nil {
			from.ArchivedAt = &now
		}
		if err := errors.Join(tx.SaveCustomer(ctx, &into), tx.SaveCustomer(ctx, &from)); err != nil {
			return Customer{}, err
		}
		body := mergedBody{From: from.ID, Bikes: []string{}, Changed: changed}
		for _, b := range moved {
			body.Bikes = append(body.Bikes, record.TagOf(b))
			e := store.Entry{BikeID: &b.ID, Kind: record.KindBikeChanged}
			if err := s.desk.Append(ctx, tx, who, &e, record.BikeBody{Facts: record.LedgerFacts(b.BikeFacts), CustomerID: &into.ID, Changed: []string{"owner"}}, record.TagOf(b)); err != nil {
				return Customer{}, err
			}
		}
		e := store.Entry{CustomerID: &into.ID, Kind: record.KindCustomerMerged}
		if err := s.desk.AppendTelling(ctx, tx, who, &e, body, record.Changed(record.TopicEverything, "")); err != nil {
			return Customer{}, err
		}
		row, err := tx.Customer(ctx, into.ID)
		return NewCustomer(row), err
	})
	if errors.Is(err, store.ErrStale) {
		now, err := s.Customer(ctx, id)
		if err != nil {
			return Customer{}, err
		}
		return Customer{}, record.ChangedMeanwhile(nil, now.Customer)
	}
	return merged, err
}

// together is what is known of a customer, filled up with what only the other entry knows.
func together(stays, goes record.CustomerFacts) record.CustomerFacts {
	all := stays
	if all.Phone == "" {
		all.Phone = goes.Phone
	}
	if all.Email == "" {
		all.Email = goes.Email
	}
	if goes.Notes != "" && !strings.Contains(all.Notes, goes.Notes) {
		all.Notes = strings.TrimSpace(all.Notes + "\n" + goes.Notes)
	}
	return all
}
