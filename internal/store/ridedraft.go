package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// RideDraft is a ride file that waits for somebody's answers.
type RideDraft struct {
	ID        uuid.UUID
	BikeID    uuid.UUID
	PersonID  uuid.UUID
	Name      string
	Content   []byte
	Answers   json.RawMessage `gorm:"type:jsonb"`
	CreatedAt time.Time
}

// AddRideDraft keeps a ride file until it is answered.
func (t Tx) AddRideDraft(ctx context.Context, d *RideDraft) error {
	return translate(gorm.G[RideDraft](t.db).Create(ctx, d), "keep a ride file")
}

// RideDrafts returns the ride files of a bike that wait, without their content, the newest first.
func (t Tx) RideDrafts(ctx context.Context, bike uuid.UUID) ([]RideDraft, error) {
	rows, err := gorm.G[RideDraft](t.db).Select("id", "bike_id", "person_id", "name", "created_at").Where("bike_id = ?", bike).Order("created_at desc").Limit(20).Find(ctx)
	return rows, translate(err, "list ride files")
}

// LockRideDraft returns a ride file that waits; nobody else answers it until the unit of work ends.
func (t Tx) LockRideDraft(ctx context.Context, id uuid.UUID) (RideDraft, error) {
	d, err := gorm.G[RideDraft](t.db, clause.Locking{Strength: "UPDATE"}).Where("id = ?", id).First(ctx)
	return d, translate(err, "load ride file %s", id)
}

// SaveRideAnswers keeps what was answered.
func (t Tx) SaveRideAnswers(ctx context.Context, id uuid.UUID, answers json.RawMessage) error {
	return translate(t.db.WithContext(ctx).Exec(`update ride_drafts set answers = cast(? as jsonb) where id = ?`, string(answers), id).Error, "keep answers")
}

// RemoveRideDraft throws a ride file away. It is no error when there is none.
func (t Tx) RemoveRideDraft(ctx context.Context, id uuid.UUID) error {
	return translate(t.db.WithContext(ctx).Exec(`delete from ride_drafts where id = ?`, id).Error, "remove ride file %s", id)
}

// ForgetRideDrafts removes ride files that wait since before the given time.
func (t Tx) ForgetRideDrafts(ctx context.Context, before time.Time) error {
	return translate(t.db.WithContext(ctx).Exec(`delete from ride_drafts where created_at < ?`, before).Error, "forget ride files")
}
