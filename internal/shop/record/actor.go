package record

import (
	"context"

	"github.com/google/uuid"

	"earnestpony/internal/store"
)

// Role is what somebody is in the shop.
type Role string

// The roles.
const (
	RoleOwner      Role = "owner"
	RoleMechanic   Role = "mechanic"
	RoleCounter    Role = "counter"
	RoleApprentice Role = "apprentice"
)

// Person works in the shop.
type Person struct {
	ID   uuid.UUID `json:"id"`
	Name string    `json:"name"`
	Role Role      `json:"role"`
	Way  Way       `json:"way,omitempty"` // at the stand
}

// Way is how somebody works a job at the stand.
type Way string

// The ways (handbook: stand).
const (
	InBlocks Way = "blocks"
	OneByOne Way = "one-by-one"
)

// NewPerson is a person as they are stored.
func NewPerson(p store.Person) Person {
	way := InBlocks
	if Role(p.Role) == RoleApprentice {
		way = OneByOne
	}
	if p.Way != nil {
		way = Way(*p.Way)
	}
	return Person{ID: p.ID, Name: p.Name, Role: Role(p.Role), Way: way}
}

// PeopleByID are all who work here or ever did.
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
	Ticks    Ticks          // what the shop's owner changed of who may do what
}

// Ticks are who has a permission, beside the shop's owner, by permission: where the shop's owner changed the table.
type Ticks map[string][]Role
