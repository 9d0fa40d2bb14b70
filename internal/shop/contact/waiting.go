package contact

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// WaitingItem is something that waits for a person: what customers reported, an apprentice's verdict or release to sign, entries
// that nobody can read, questions of an import, a bike that came back, a job that is not paid.
type WaitingItem struct {
	Kind     string       `json:"kind"`
	ID       uuid.UUID    `json:"id"` // of the report, the reading, the job, the ride file, or the entry
	At       time.Time    `json:"at"`
	Tag      string       `json:"tag"`
	Bike     string       `json:"bike"`
	Customer string       `json:"customer"`
	By       string       `json:"by,omitempty"`      // who left it
	Verdict  string       `json:"verdict,omitempty"` // to be signed
	Name     string       `json:"name,omitempty"`    // of a ride file
	Amount   *int         `json:"amount,omitempty"`  // that is not paid
	Before   *time.Time   `json:"before,omitempty"`  // when the job was handed back that the bike comes back from
	Why      string       `json:"why,omitempty"`     // an entry cannot be read
	Report   *OwnerReport `json:"report,omitempty"`
	// Mine says that whoever asks may settle it.
	Mine    bool `json:"mine"`
	Version int  `json:"version,omitempty"` // of a job
}

// Waiting is all that waits for a person.
type Waiting struct {
	Items []WaitingItem `json:"items"` // the oldest first
	Mine  int           `json:"mine"`  // of them that whoever asks may settle, but for what is to be paid
}

// settles is what somebody needs to settle each kind.
var settles = map[string]people.Permission{"report": people.Tell, "verdict": people.Countersign, "release": people.Countersign, "broken": people.Void,
	"import": people.Note, "comeback": people.Book, "unpaid": people.Book}

// Waiting returns what waits for a person in the shop, oldest first.
func (s *Contact) Waiting(ctx context.Context, who record.Actor) (Waiting, error) {
	w := Waiting{Items: []WaitingItem{}}
	tx := s.desk.Store.Read(ctx)
	rows, err := tx.Waiting(ctx, maxWaiting)
	if err != nil {
		return w, err
	}
	for _, r := range rows {
		w.Items = append(w.Items, WaitingItem{Kind: r.Kind, ID: r.ID, At: r.At, Tag: record.TagOf(store.Bike{TagNumber: r.TagNumber}), Customer: r.Customer,
			Bike: record.BikeWords(store.Bike{BikeFacts: record.BikeFacts{Make: r.Make, Model: r.Model, Colour: r.Colour}}), By: r.By,
			Verdict: r.Verdict, Name: r.Name, Amount: r.Amount, Before: r.Before, Version: r.Version})
	}
	reports, err := s.WaitingReports(ctx)
	if err != nil {
		return w, err
	}
	for _, r := range reports {
		w.Items = append(w.Items, WaitingItem{Kind: "report", ID: r.ID, At: r.ToldAt, Tag: r.Tag, Bike: r.Bike, Customer: r.Customer, Report: &r.OwnerReport})
	}
	broken, err := s.due.Broken(ctx)
	if err != nil {
		return w, err
	}
	for _, b := range broken {
		bike, err := record.BikeByTag(ctx, tx, b.Tag)
		if err != nil {
			return w, err
		}
		for _, e := range b.Entries {
			w.Items = append(w.Items, WaitingItem{Kind: "broken", ID: e.ID, At: e.HappenedAt, Tag: b.Tag, Bike: record.BikeWords(bike), Customer: bike.OwnerName, By: e.By, Why: e.Says})
		}
	}
	for i := range w.Items {
		item := &w.Items[i]
		item.Mine = people.Has(settles[item.Kind], who)
		if item.Kind == "broken" && who.Person.Role != record.RoleOwner && who.Person.Role != record.RoleMechanic {
			item.Mine = false // it is another's entry
		}
		if item.Mine && item.Kind != "unpaid" { // money that is to come calls nobody from the stand
			w.Mine++
		}
	}
	slices.SortStableFunc(w.Items, func(a, b WaitingItem) int { return a.At.Compare(b.At) })
	return w, nil
}
