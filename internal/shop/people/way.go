package people

import (
	"context"

	"github.com/google/uuid"

	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// SetWay keeps how a person works a job at the stand: in blocks or step by step. Everybody chooses for themselves, but a
// mechanic or the shop's owner for an apprentice.
func (s *People) SetWay(ctx context.Context, who record.Actor, person uuid.UUID, way record.Way) (record.Person, error) {
	if way != record.InBlocks && way != record.OneByOne {
		return record.Person{}, record.InvalidInput(record.Field{Path: "way", Code: "unknown-value", Message: "It is blocks or one by one."})
	}
	return record.Idempotent(ctx, s.desk, who, "way "+person.String(), way, func(ctx context.Context, tx store.Tx) (record.Person, error) {
		p, err := tx.LockPerson(ctx, person)
		if record.IsNotFound(err) {
			return record.Person{}, record.NotFound("person", "person-not-found")
		}
		if err != nil {
			return record.Person{}, err
		}
		trusted := who.Person.Role == record.RoleOwner || who.Person.Role == record.RoleMechanic
		learns := record.Role(p.Role) == record.RoleApprentice
		if own := p.ID == who.Person.ID; learns && !trusted || !learns && !own {
			return record.Person{}, &record.Problem{Kind: record.Forbidden, Code: "not-allowed", Message: "Everybody chooses for themselves; for an apprentice a mechanic does."}
		}
		if err := tx.SetWay(ctx, p.ID, string(way)); err != nil {
			return record.Person{}, err
		}
		set := string(way)
		p.Way = &set
		return record.NewPerson(p), nil
	})
}
