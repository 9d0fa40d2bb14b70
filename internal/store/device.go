package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// Device is one browser on which somebody signed in; it keeps a cookie of which we keep the hash.
type Device struct {
	ID         uuid.UUID
	TokenHash  []byte
	Name       string
	Told       string // that its browser itself gave last
	CreatedAt  time.Time
	LastSeenAt time.Time
	Forgets    bool // signed out from afar: what it keeps of the shop goes at its next contact
}

// Tries are wrong PINs in a row, and when the last was typed.
type Tries struct {
	Wrong int        `gorm:"column:wrong_tries"`
	At    *time.Time `gorm:"column:tried_at"`
}

// DeviceByToken returns the device that keeps a token, or [ErrNotFound].
func (t Tx) DeviceByToken(ctx context.Context, tokenHash []byte) (Device, error) {
	d, err := gorm.G[Device](t.db).Where("token_hash = ?", tokenHash).First(ctx)
	return d, translate(err, "find device")
}

// Devices returns those on which somebody ever signed in.
func (t Tx) Devices(ctx context.Context) ([]Device, error) {
	all, err := gorm.G[Device](t.db).Find(ctx)
	return all, translate(err, "list devices")
}

// Device returns one, or [ErrNotFound].
func (t Tx) Device(ctx context.Context, id uuid.UUID) (Device, error) {
	d, err := gorm.G[Device](t.db).Where("id = ?", id).First(ctx)
	return d, translate(err, "load device %s", id)
}

// NameDevice says what a device is called; whoever is signed in there writes under that name from then on.
func (t Tx) NameDevice(ctx context.Context, id uuid.UUID, name string) error {
	if err := t.db.WithContext(ctx).Exec(`update devices set name = ? where id = ?`, name, id).Error; err != nil {
		return translate(err, "name device")
	}
	return translate(t.db.WithContext(ctx).Exec(`update sessions set device = ? where device_id = ?`, name, id).Error, "name device")
}

// EndSessionsOn signs whoever is on a device out of it: nothing that it kept is taken from it any more, and what it keeps of
// the shop goes.
func (t Tx) EndSessionsOn(ctx context.Context, device uuid.UUID) error {
	if err := t.db.WithContext(ctx).Exec(`delete from sessions where device_id = ?`, device).Error; err != nil {
		return translate(err, "sign out device")
	}
	if err := t.EndPens(ctx, device, nil); err != nil {
		return err
	}
	return translate(t.db.WithContext(ctx).Exec(`update devices set forgets = true where id = ?`, device).Error, "sign out device")
}

// GivePen lets a device send what a person writes there, whoever is signed in when it is sent.
func (t Tx) GivePen(ctx context.Context, device, person uuid.UUID, hash []byte, at time.Time) error {
	err := t.db.WithContext(ctx).Exec(`update device_people set pen_hash = ?, pen_at = ? where device_id = ? and person_id = ?`, hash, at, device, person).Error
	return translate(err, "give a pen")
}

// PenOf returns the person and the device of a pen that was given since a time, or [ErrNotFound].
func (t Tx) PenOf(ctx context.Context, hash []byte, since time.Time) (Person, Device, error) {
	var row struct {
		Person
		DeviceID   uuid.UUID
		DeviceName string
	}
	err := t.db.WithContext(ctx).Raw(`
		select p.*, d.id device_id, d.name device_name from device_people dp join people p on p.id = dp.person_id join devices d on d.id = dp.device_id
		where dp.pen_hash = ? and dp.pen_at >= ? and p.left_at is null and p.locked_at is null`, hash, since).First(&row).Error
	return row.Person, Device{ID: row.DeviceID, Name: row.DeviceName}, translate(err, "load a pen")
}

// EndPens ends those of a device but of the people given.
func (t Tx) EndPens(ctx context.Context, device uuid.UUID, but []uuid.UUID) error {
	if len(but) == 0 {
		but = []uuid.UUID{uuid.Nil}
	}
	err := t.db.WithContext(ctx).Exec(`update device_people set pen_hash = null, pen_at = null where device_id = ? and pen_hash is not null and person_id not in ?`, device, but).Error
	return translate(err, "end pens")
}

// AddDevice begins to know a device.
func (t Tx) AddDevice(ctx context.Context, d *Device) error {
	return translate(gorm.G[Device](t.db).Create(ctx, d), "add device")
}

// SignedIn notes that a person's PIN was right on a device: what was wrong there before is forgotten.
func (t Tx) SignedIn(ctx context.Context, device, person uuid.UUID, at time.Time) error {
	err := t.db.WithContext(ctx).Exec(`
		insert into device_people (device_id, person_id, signed_in_at) values (?, ?, ?)
		on conflict (device_id, person_id) do update set signed_in_at = excluded.signed_in_at, wrong_tries = 0, tried_at = null`, device, person, at).Error
	return translate(err, "note who signed in")
}

// SeenDevice notes what a device is called, what its browser said that it is, and that it was seen.
func (t Tx) SeenDevice(ctx context.Context, id uuid.UUID, name, told string, at time.Time) error {
	return translate(t.db.WithContext(ctx).Exec(`update devices set name = ?, told = ?, last_seen_at = ?, forgets = false where id = ?`, name, told, at, id).Error, "note device seen")
}

// LockTriesHere returns the wrong PINs of a person on a device that signed them in before, or [ErrNotFound]
// where it never did; guesses sent side by side are counted one by one.
func (t Tx) LockTriesHere(ctx context.Context, device, person uuid.UUID) (Tries, error) {
	var tries Tries
	err := t.db.WithContext(ctx).Raw(`select wrong_tries, tried_at from device_people where device_id = ? and person_id = ? for update`, device, person).First(&tries).Error
	return tries, translate(err, "load tries")
}

// LockTriesFrom returns the wrong PINs from an address on devices on which nobody ever signed in.
func (t Tx) LockTriesFrom(ctx context.Context, address string, now time.Time) (Tries, error) {
	var tries Tries
	if err := t.db.WithContext(ctx).Exec(`insert into stranger_tries (address, tried_at) values (?, ?) on conflict do nothing`, address, now).Error; err != nil {
		return tries, translate(err, "begin tries")
	}
	err := t.db.WithContext(ctx).Raw(`select wrong_tries, tried_at from stranger_tries where address = ? for update`, address).First(&tries).Error
	return tries, translate(err, "load tries")
}

// SetTriesHere keeps the wrong PINs of a person on a device.
func (t Tx) SetTriesHere(ctx context.Context, device, person uuid.UUID, tries Tries) error {
	err := t.db.WithContext(ctx).Exec(`update device_people set wrong_tries = ?, tried_at = ? where device_id = ? and person_id = ?`, tries.Wrong, tries.At, device, person).Error
	return translate(err, "note tries")
}

// SetTriesFrom keeps the wrong PINs from an address.
func (t Tx) SetTriesFrom(ctx context.Context, address string, tries Tries) error {
	err := t.db.WithContext(ctx).Exec(`update stranger_tries set wrong_tries = ?, tried_at = ? where address = ?`, tries.Wrong, tries.At, address).Error
	return translate(err, "note tries")
}

// SetTriesOf keeps the wrong PINs of a person on devices new to them.
func (t Tx) SetTriesOf(ctx context.Context, person uuid.UUID, tries Tries) error {
	err := t.db.WithContext(ctx).Exec(`update people set wrong_tries = ?, tried_at = ? where id = ?`, tries.Wrong, tries.At, person).Error
	return translate(err, "note tries")
}

// ForgetSessions removes sessions not used since idle, and tries from addresses not heard of since then.
func (t Tx) ForgetSessions(ctx context.Context, idle time.Time) error {
	if err := t.db.WithContext(ctx).Exec(`delete from sessions where last_seen_at < ?`, idle).Error; err != nil {
		return translate(err, "remove sessions that ended")
	}
	return translate(t.db.WithContext(ctx).Exec(`delete from stranger_tries where tried_at < ?`, idle).Error, "forget tries")
}
