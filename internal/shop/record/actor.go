package record

import (
	"context"

	"github.com/google/uuid"

	"earnestpony/internal/store"
)

// Person works in the shop.
type Person struct {
	ID   uuid.UUID `json:"id"`
	Name string    `json:"name"`
	Role string    `json:"role"` // owner, mechanic, counter, apprentice
}

func NewPerson(p store.Person) Person { return Person{ID: p.ID, Name: p.Name, Role: p.Role} }

func (s *Desk) PeopleByID(ctx context.Context, tx store.Tx) (map[uuid.UUID]Person, error) {
	rows, err := tx.EverybodyEver(ctx)
	all := make(map[uuid.UUID]Person, len(rows))
	for _, p := range rows {
		all[p.ID] = NewPerson(p)
	}
	return all, err
}

// Actor is who does something, and on which device.
type Actor struct {
	Person   Person
	Device   string         // what the device is called
	DeviceID uuid.UUID      // Nil: signed in before devices were told apart
	Key      IdempotencyKey // of what is done now
}

// Who may set how the shop works.
func (s *Desk) CanSetRules(who Actor) error {
	if who.Person.Role == "owner" || who.Person.Role == "mechanic" {
		return nil
	}
	return &Problem{Kind: Forbidden, Code: "not-allowed", Message: "A mechanic or the shop's owner sets this."}
}
