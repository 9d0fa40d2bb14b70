package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Link is a secret address: who has the token has what it opens. The token itself is kept nowhere.
type Link struct {
	ID          uuid.UUID
	TokenHash   []byte
	Kind        string
	Name        string // what it was given for
	BikeID      *uuid.UUID
	CreatedAt   time.Time
	WithdrawnAt *time.Time
}

// Link returns what a token opens, or [ErrNotFound] where it was withdrawn or never given.
func (t Tx) Link(ctx context.Context, tokenHash []byte) (Link, error) {
	l, err := gorm.G[Link](t.db).Where("token_hash = ? and withdrawn_at is null", tokenHash).First(ctx)
	return l, translate(err, "open a link")
}

// LockLink returns a link by its id; nobody else changes it until the unit of work ends.
func (t Tx) LockLink(ctx context.Context, id uuid.UUID) (Link, error) {
	l, err := gorm.G[Link](t.db, clause.Locking{Strength: "UPDATE"}).Where("id = ?", id).First(ctx)
	return l, translate(err, "load link %s", id)
}

// Links returns the live links of a bike, or of the shop where bike is nil, the newest first.
func (t Tx) Links(ctx context.Context, bike *uuid.UUID) ([]Link, error) {
	links, err := gorm.G[Link](t.db).Where("bike_id is not distinct from ? and withdrawn_at is null", bike).Order("created_at desc, id").Find(ctx)
	return links, translate(err, "list links")
}

// AddLink gives a link.
func (t Tx) AddLink(ctx context.Context, l *Link) error {
	return translate(gorm.G[Link](t.db).Create(ctx, l), "give link %s", l.Kind)
}

// SetLinkToken gives a link another token in place of one that nobody was ever shown.
func (t Tx) SetLinkToken(ctx context.Context, id uuid.UUID, tokenHash []byte) error {
	return translate(t.db.WithContext(ctx).Exec(`update links set token_hash = ? where id = ?`, tokenHash, id).Error, "give link %s", id)
}

// WithdrawLink takes a link back.
func (t Tx) WithdrawLink(ctx context.Context, id uuid.UUID, at time.Time) error {
	err := t.db.WithContext(ctx).Exec(`update links set withdrawn_at = ? where id = ? and withdrawn_at is null`, at, id).Error
	return translate(err, "withdraw link %s", id)
}

// EndLinks takes back every link of a bike: it is another's now, or nobody's.
func (t Tx) EndLinks(ctx context.Context, bike uuid.UUID, at time.Time) error {
	err := t.db.WithContext(ctx).Exec(`update links set withdrawn_at = ? where bike_id = ? and withdrawn_at is null`, at, bike).Error
	return translate(err, "withdraw the links of bike %s", bike)
}

// OwnerReport is what an owner told of a bike.
type OwnerReport struct {
	ID        uuid.UUID
	BikeID    uuid.UUID
	KM        *float64
	Event     string
	Note      string
	ToldAt    time.Time
	State     ReportState
	DecidedAt *time.Time
	DecidedBy *uuid.UUID
	Key       string // that its sender gave it, so that sent twice it is kept once; may be empty
}

// AddOwnerReport keeps what an owner told.
func (t Tx) AddOwnerReport(ctx context.Context, r *OwnerReport) error {
	return translate(gorm.G[OwnerReport](t.db).Create(ctx, r), "keep what an owner told")
}

// ReportNotes returns what customers said in their own words, by what they told.
func (t Tx) ReportNotes(ctx context.Context, ids []uuid.UUID) (map[uuid.UUID]string, error) {
	var rows []OwnerReport
	err := t.db.WithContext(ctx).Raw(`select id, note from owner_reports where id in ?`, ids).Scan(&rows).Error
	notes := map[uuid.UUID]string{}
	for _, r := range rows {
		notes[r.ID] = r.Note
	}
	return notes, translate(err, "load what customers said")
}

// ReportedWith reports whether something was told of a bike with a key; never with none.
func (t Tx) ReportedWith(ctx context.Context, bike uuid.UUID, key string) (again bool, err error) {
	err = t.db.WithContext(ctx).Raw(`select exists (select from owner_reports where bike_id = ? and key = ? and key <> '')`, bike, key).Scan(&again).Error
	return again, translate(err, "look for what was told")
}

// OpenReports returns what owners told of a bike that nobody decided on, oldest first.
func (t Tx) OpenReports(ctx context.Context, bike uuid.UUID) ([]OwnerReport, error) {
	rows, err := gorm.G[OwnerReport](t.db).Where("bike_id = ? and state = 'open'", bike).Order("told_at").Find(ctx)
	return rows, translate(err, "list what the owner of %s told", bike)
}

// WaitingReport is what a customer told of a bike that nobody decided on, with whose bike it is.
type WaitingReport struct {
	OwnerReport
	TagNumber int
	OwnerName string
	Make      string
	Model     string
	Colour    string
}

// WaitingReports returns what customers told of any bike that nobody decided on, oldest first.
func (t Tx) WaitingReports(ctx context.Context, limit int) ([]WaitingReport, error) {
	var rows []WaitingReport
	err := t.db.WithContext(ctx).Raw(`select r.*, b.tag_number, c.name as owner_name, b.make, b.model, b.colour from owner_reports r
		join bikes b on b.id = r.bike_id join customers c on c.id = b.customer_id
		where r.state = 'open' and b.archived_at is null order by r.told_at, r.id limit ?`, limit).Scan(&rows).Error
	return rows, translate(err, "list what customers told")
}

// LockReport returns what an owner told; nobody else decides on it until the unit of work ends.
func (t Tx) LockReport(ctx context.Context, id uuid.UUID) (OwnerReport, error) {
	var r OwnerReport
	err := t.db.WithContext(ctx).Raw(`select * from owner_reports where id = ? for update`, id).First(&r).Error
	return r, translate(err, "load what an owner told")
}

// DecideReport notes what became of what an owner told.
func (t Tx) DecideReport(ctx context.Context, id, by uuid.UUID, state ReportState, at time.Time) error {
	result := t.db.WithContext(ctx).Exec(`update owner_reports set state = ?, decided_by = ?, decided_at = ? where id = ? and state = 'open'`, state, by, at, id)
	return changed(result, "decide on what an owner told")
}

// Notify tells every process that listens, without an entry.
func (t Tx) Notify(ctx context.Context, notice string) error {
	return translate(t.db.WithContext(ctx).Exec(`select pg_notify(?, ?)`, Channel, notice).Error, "tell of %s", notice)
}
