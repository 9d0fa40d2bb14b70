package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"
)

// IdempotentWrite is one write that its sender gave a key, with its first answer. The key belongs to its author on that
// device; a device of [uuid.Nil] is one that was not told apart from others yet.
type IdempotentWrite struct {
	PersonID    uuid.UUID
	DeviceID    uuid.UUID
	Key         string
	RequestHash []byte
	Answer      json.RawMessage `gorm:"type:jsonb"`
	CreatedAt   time.Time
}

// BeginWrite claims a write's key within the unit of work. When it was claimed before it returns
// that write instead; a claim by another unit of work that is still running is waited for.
func (t Tx) BeginWrite(ctx context.Context, d IdempotentWrite) (before *IdempotentWrite, err error) {
	// A key from before devices were told apart is still its author's, wherever it comes from.
	var old []IdempotentWrite
	if err := t.db.WithContext(ctx).Raw(`select * from idempotent_writes where person_id = ? and key = ? and device_id = ?`, d.PersonID, d.Key, uuid.Nil).Scan(&old).Error; err != nil {
		return nil, translate(err, "load a write by its key")
	}
	if len(old) == 1 {
		return &old[0], nil
	}
	claimed := t.db.WithContext(ctx).Exec(`
		insert into idempotent_writes (person_id, device_id, key, request_hash, created_at) values (?, ?, ?, ?, ?) on conflict do nothing`,
		d.PersonID, d.DeviceID, d.Key, d.RequestHash, d.CreatedAt)
	if claimed.Error != nil {
		return nil, translate(claimed.Error, "begin a write")
	}
	if claimed.RowsAffected == 1 {
		return nil, nil
	}
	var done IdempotentWrite
	err = t.db.WithContext(ctx).Raw(`select * from idempotent_writes where person_id = ? and key = ? and device_id = ?`, d.PersonID, d.Key, d.DeviceID).First(&done).Error
	return &done, translate(err, "load a write by its key")
}

// FinishWrite keeps the write's answer, and the version with which it left what it wrote to; zero where that has none.
func (t Tx) FinishWrite(ctx context.Context, d IdempotentWrite, answer json.RawMessage, left int) error {
	err := t.db.WithContext(ctx).Exec(`update idempotent_writes set answer = ?::jsonb, left_version = nullif(?, 0) where person_id = ? and device_id = ? and key = ?`,
		string(answer), left, d.PersonID, d.DeviceID, d.Key).Error
	return translate(err, "finish a write")
}

// WriteLeft is the version with which a write of a device, by whomever, left what it wrote to; nil where that has none, and
// [ErrNotFound] where no such write was done.
func (t Tx) WriteLeft(ctx context.Context, device uuid.UUID, key string) (*int, error) {
	var left struct{ LeftVersion *int }
	err := t.db.WithContext(ctx).Raw(`select left_version from idempotent_writes where device_id = ? and key = ? and answer is not null`, device, key).First(&left).Error
	return left.LeftVersion, translate(err, "load the write before")
}

// ForgetWrites removes those from before the given time: nothing is sent again after so long.
func (t Tx) ForgetWrites(ctx context.Context, before time.Time) error {
	return translate(t.db.WithContext(ctx).Exec(`delete from idempotent_writes where created_at < ?`, before).Error, "forget writes")
}
