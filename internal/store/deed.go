package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"
)

// Deed is one write that its sender gave a key, with its first answer.
type Deed struct {
	PersonID    uuid.UUID
	Key         string
	RequestHash []byte
	Answer      json.RawMessage `gorm:"type:jsonb"`
	CreatedAt   time.Time
}

// BeginDeed claims the deed's key within the unit of work. When it was claimed before it returns
// that deed instead; a claim by another unit of work that is still running is waited for.
func (t Tx) BeginDeed(ctx context.Context, d Deed) (before *Deed, err error) {
	claimed := t.db.WithContext(ctx).Exec(`
		insert into deeds (person_id, key, request_hash, created_at) values (?, ?, ?, ?) on conflict do nothing`,
		d.PersonID, d.Key, d.RequestHash, d.CreatedAt)
	if claimed.Error != nil {
		return nil, translate(claimed.Error, "begin deed")
	}
	if claimed.RowsAffected == 1 {
		return nil, nil
	}
	var done Deed
	err = t.db.WithContext(ctx).Raw(`select * from deeds where person_id = ? and key = ?`, d.PersonID, d.Key).First(&done).Error
	return &done, translate(err, "load deed")
}

// FinishDeed keeps the deed's answer.
func (t Tx) FinishDeed(ctx context.Context, person uuid.UUID, key string, answer json.RawMessage) error {
	err := t.db.WithContext(ctx).Exec(`update deeds set answer = ?::jsonb where person_id = ? and key = ?`, string(answer), person, key).Error
	return translate(err, "finish deed")
}

// ForgetDeeds removes deeds from before the given time: nothing is sent again after so long.
func (t Tx) ForgetDeeds(ctx context.Context, before time.Time) error {
	return translate(t.db.WithContext(ctx).Exec(`delete from deeds where created_at < ?`, before).Error, "forget deeds")
}
