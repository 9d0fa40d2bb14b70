package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"
)

// Deed is one write that its sender gave a key, with its first answer. The key belongs to its author on that
// device; a device of [uuid.Nil] is one that was not told apart from others yet.
type Deed struct {
	PersonID    uuid.UUID
	DeviceID    uuid.UUID
	Key         string
	RequestHash []byte
	Answer      json.RawMessage `gorm:"type:jsonb"`
	CreatedAt   time.Time
}

// BeginDeed claims the deed's key within the unit of work. When it was claimed before it returns
// that deed instead; a claim by another unit of work that is still running is waited for.
func (t Tx) BeginDeed(ctx context.Context, d Deed) (before *Deed, err error) {
	// A key from before devices were told apart is still its author's, wherever it comes from.
	var old []Deed
	if err := t.db.WithContext(ctx).Raw(`select * from deeds where person_id = ? and key = ? and device_id = ?`, d.PersonID, d.Key, uuid.Nil).Scan(&old).Error; err != nil {
		return nil, translate(err, "load deed")
	}
	if len(old) == 1 {
		return &old[0], nil
	}
	claimed := t.db.WithContext(ctx).Exec(`
		insert into deeds (person_id, device_id, key, request_hash, created_at) values (?, ?, ?, ?, ?) on conflict do nothing`,
		d.PersonID, d.DeviceID, d.Key, d.RequestHash, d.CreatedAt)
	if claimed.Error != nil {
		return nil, translate(claimed.Error, "begin deed")
	}
	if claimed.RowsAffected == 1 {
		return nil, nil
	}
	var done Deed
	err = t.db.WithContext(ctx).Raw(`select * from deeds where person_id = ? and key = ? and device_id = ?`, d.PersonID, d.Key, d.DeviceID).First(&done).Error
	return &done, translate(err, "load deed")
}

// FinishDeed keeps the deed's answer.
func (t Tx) FinishDeed(ctx context.Context, d Deed, answer json.RawMessage) error {
	err := t.db.WithContext(ctx).Exec(`update deeds set answer = ?::jsonb where person_id = ? and device_id = ? and key = ?`,
		string(answer), d.PersonID, d.DeviceID, d.Key).Error
	return translate(err, "finish deed")
}

// ForgetDeeds removes deeds from before the given time: nothing is sent again after so long.
func (t Tx) ForgetDeeds(ctx context.Context, before time.Time) error {
	return translate(t.db.WithContext(ctx).Exec(`delete from deeds where created_at < ?`, before).Error, "forget deeds")
}
