package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// Absence is when somebody is not here though their hours say so.
type Absence struct {
	ID       uuid.UUID
	PersonID uuid.UUID
	FromAt   time.Time
	UntilAt  time.Time
	NotedAt  time.Time
	NotedBy  uuid.UUID
}

// Absences returns those that are not over at a time, the first to begin first.
func (t Tx) Absences(ctx context.Context, at time.Time) ([]Absence, error) {
	found, err := gorm.G[Absence](t.db).Where("until_at > ?", at).Order("from_at, id").Find(ctx)
	return found, translate(err, "list absences")
}

// AddAbsence notes one.
func (t Tx) AddAbsence(ctx context.Context, a *Absence) error {
	return translate(gorm.G[Absence](t.db).Create(ctx, a), "note absence")
}

// DropAbsence takes one back; [ErrNotFound] where there is none.
func (t Tx) DropAbsence(ctx context.Context, id uuid.UUID) error {
	n, err := gorm.G[Absence](t.db).Where("id = ?", id).Delete(ctx)
	if err == nil && n == 0 {
		return ErrNotFound
	}
	return translate(err, "drop absence")
}
