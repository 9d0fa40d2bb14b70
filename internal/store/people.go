package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Person works in the shop.
type Person struct {
	ID         uuid.UUID
	Name       string
	Role       string
	SecretHash string
	Way        *string    // at the stand: blocks, one-by-one; nil as their role does
	WrongTries int        // in a row, on devices new to them
	TriedAt    *time.Time // the last of these
	LeftAt     *time.Time
	LockedAt   *time.Time // kept out since then
	Version    int        `gorm:"default:1"`
	CreatedAt  time.Time
}

// TableName is people, not persons.
func (Person) TableName() string { return "people" }

// Session is one device signed in by one person.
type Session struct {
	TokenHash  []byte `gorm:"primaryKey"`
	PersonID   uuid.UUID
	DeviceID   *uuid.UUID // nil: since before devices were told apart
	Device     string
	CreatedAt  time.Time
	LastSeenAt time.Time
}

// letIn are the people who work here and are not kept out.
const letIn = "left_at is null and locked_at is null"

// People returns everyone who works here and is let in, by name.
func (t Tx) People(ctx context.Context) ([]Person, error) {
	people, err := gorm.G[Person](t.db).Where(letIn).Order("name").Find(ctx)
	return people, translate(err, "list people")
}

// LockPeople is [Tx.People], and keeps others from changing them until the unit of work ends.
func (t Tx) LockPeople(ctx context.Context) ([]Person, error) {
	people, err := gorm.G[Person](t.db, clause.Locking{Strength: "UPDATE"}).Where(letIn).Order("id").Find(ctx)
	return people, translate(err, "list people")
}

// Person returns one person who works here and is let in.
func (t Tx) Person(ctx context.Context, id uuid.UUID) (Person, error) {
	p, err := gorm.G[Person](t.db).Where("id = ? and "+letIn, id).First(ctx)
	return p, translate(err, "load person %s", id)
}

// PersonEver returns one person who works here or did.
func (t Tx) PersonEver(ctx context.Context, id uuid.UUID) (Person, error) {
	p, err := gorm.G[Person](t.db).Where("id = ?", id).First(ctx)
	return p, translate(err, "load person %s", id)
}

// SavePerson writes p over the version that was seen of it: [ErrStale] where somebody else did meanwhile, [ErrTaken] where the
// name is in use.
func (t Tx) SavePerson(ctx context.Context, p *Person) error {
	return saveVersioned(ctx, t, p, p.ID, &p.Version, []string{"id", "created_at"}, "save person %s", p.ID)
}

// Sessions returns who is signed in where, the one used last first.
func (t Tx) Sessions(ctx context.Context) ([]Session, error) {
	all, err := gorm.G[Session](t.db).Order("last_seen_at desc").Find(ctx)
	return all, translate(err, "list sessions")
}

// EndSessions signs a person out everywhere but where the session with a token is; nil for everywhere. What they wrote on
// devices that could not send it is sent when they sign in there again.
func (t Tx) EndSessions(ctx context.Context, person uuid.UUID, but []byte) error {
	ended := t.db.WithContext(ctx).Exec(`
		update device_people set pen_hash = null, pen_at = null where person_id = ? and pen_hash is not null
		and device_id is distinct from (select device_id from sessions where token_hash = ?)`, person, but).Error
	if ended != nil {
		return translate(ended, "end pens of %s", person)
	}
	err := t.db.WithContext(ctx).Exec(`delete from sessions where person_id = ? and token_hash is distinct from ?`, person, but).Error
	return translate(err, "end sessions of %s", person)
}

// SetWay keeps how a person works at the stand.
func (t Tx) SetWay(ctx context.Context, id uuid.UUID, way string) error {
	_, err := gorm.G[Person](t.db).Where("id = ?", id).Update(ctx, "way", way)
	return translate(err, "set the way of %s", id)
}

// LockPerson is [Tx.Person], and keeps others from trying the same person's PIN until the unit of
// work ends: guesses sent side by side are counted one by one.
func (t Tx) LockPerson(ctx context.Context, id uuid.UUID) (Person, error) {
	p, err := gorm.G[Person](t.db, clause.Locking{Strength: "UPDATE"}).Where("id = ? and "+letIn, id).First(ctx)
	return p, translate(err, "load person %s", id)
}

// AddPerson adds a person; [ErrTaken] when the name is in use.
func (t Tx) AddPerson(ctx context.Context, p *Person) error {
	return translate(gorm.G[Person](t.db).Create(ctx, p), "add person %q", p.Name)
}

// AddSession signs a device in.
func (t Tx) AddSession(ctx context.Context, s *Session) error {
	return translate(gorm.G[Session](t.db).Create(ctx, s), "add session")
}

// UseSession returns the person and device of a session seen since idleSince, and notes that it
// was seen now. Sessions idle for longer are [ErrNotFound].
func (t Tx) UseSession(ctx context.Context, tokenHash []byte, idleSince, now time.Time) (Person, Session, error) {
	var row struct {
		Person
		DeviceID   *uuid.UUID
		Device     string
		LastSeenAt time.Time
	}
	err := t.db.WithContext(ctx).Raw(`
		select p.*, s.device_id, s.device, s.last_seen_at from sessions s join people p on p.id = s.person_id
		where s.token_hash = ? and s.last_seen_at >= ? and p.left_at is null and p.locked_at is null`, tokenHash, idleSince).First(&row).Error
	if err != nil {
		return Person{}, Session{}, translate(err, "load session")
	}
	// Once a minute is exact enough for an idle time of hours, and spares a write on every request.
	if now.Sub(row.LastSeenAt) > time.Minute {
		err = t.db.WithContext(ctx).Exec(`update sessions set last_seen_at = ? where token_hash = ?`, now, tokenHash).Error
	}
	return row.Person, Session{PersonID: row.ID, DeviceID: row.DeviceID, Device: row.Device, LastSeenAt: row.LastSeenAt}, translate(err, "note session seen")
}

// RemoveSession signs a device out. It is no error when it was not signed in.
func (t Tx) RemoveSession(ctx context.Context, tokenHash []byte) error {
	_, err := gorm.G[Session](t.db).Where("token_hash = ?", tokenHash).Delete(ctx)
	return translate(err, "remove session")
}

// EverybodyEver returns everyone who works here or did.
func (t Tx) EverybodyEver(ctx context.Context) ([]Person, error) {
	people, err := gorm.G[Person](t.db).Find(ctx)
	return people, translate(err, "list everybody")
}

// Permissions is what the shop's owner changed of who may do what.
type Permissions struct {
	ID      int16
	Ticks   json.RawMessage
	Version int
}

// Permissions returns it, or [ErrNotFound] where nothing was ever changed.
func (t Tx) Permissions(ctx context.Context) (Permissions, error) {
	p, err := gorm.G[Permissions](t.db).Where("id = 1").First(ctx)
	return p, translate(err, "load permissions")
}

// SavePermissions writes p if its version is still the one in the database, 0 for none, else [ErrStale].
func (t Tx) SavePermissions(ctx context.Context, p *Permissions) error {
	seen := p.Version
	p.Version++
	result := t.db.WithContext(ctx).Exec(`
		insert into permissions (id, ticks, version) values (1, ?, ?)
		on conflict (id) do update set ticks = excluded.ticks, version = excluded.version where permissions.version = ?`, p.Ticks, p.Version, seen)
	return changed(result, "save permissions")
}
