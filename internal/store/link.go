package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// Link is a secret address: who has the token has what it opens.
type Link struct {
	Token       string `gorm:"primaryKey"`
	Kind        string
	BikeID      *uuid.UUID
	CreatedAt   time.Time
	WithdrawnAt *time.Time
}

// Link returns what a token opens, or [ErrNotFound] where it was withdrawn or never given.
func (t Tx) Link(ctx context.Context, token string) (Link, error) {
	var l Link
	err := t.db.WithContext(ctx).Raw(`select * from links where token = ? and withdrawn_at is null`, token).First(&l).Error
	return l, translate(err, "open a link")
}

// LinkOf returns the link of that kind which is in force; bike is nil for the shop's.
func (t Tx) LinkOf(ctx context.Context, kind string, bike *uuid.UUID) (Link, error) {
	var l Link
	err := t.db.WithContext(ctx).Raw(`select * from links where kind = ? and bike_id is not distinct from ? and withdrawn_at is null`, kind, bike).First(&l).Error
	return l, translate(err, "load link %s", kind)
}

// AddLink gives a link.
func (t Tx) AddLink(ctx context.Context, l *Link) error {
	return translate(gorm.G[Link](t.db).Create(ctx, l), "give link %s", l.Kind)
}

// WithdrawLink takes the link of that kind back, and reports whether there was one.
func (t Tx) WithdrawLink(ctx context.Context, kind string, bike *uuid.UUID, at time.Time) (bool, error) {
	result := t.db.WithContext(ctx).Exec(`update links set withdrawn_at = ? where kind = ? and bike_id is not distinct from ? and withdrawn_at is null`, at, kind, bike)
	return result.RowsAffected > 0, translate(result.Error, "withdraw link %s", kind)
}

// OwnerReport is what an owner told of a bike.
type OwnerReport struct {
	ID        uuid.UUID
	BikeID    uuid.UUID
	KM        *float64
	Event     string
	Note      string
	ToldAt    time.Time
	State     string
	DecidedAt *time.Time
	DecidedBy *uuid.UUID
}

// AddOwnerReport keeps what an owner told.
func (t Tx) AddOwnerReport(ctx context.Context, r *OwnerReport) error {
	return translate(gorm.G[OwnerReport](t.db).Create(ctx, r), "keep what an owner told")
}

// OpenReports returns what owners told of a bike that nobody decided on, oldest first.
func (t Tx) OpenReports(ctx context.Context, bike uuid.UUID) ([]OwnerReport, error) {
	rows, err := gorm.G[OwnerReport](t.db).Where("bike_id = ? and state = 'open'", bike).Order("told_at").Find(ctx)
	return rows, translate(err, "list what the owner of %s told", bike)
}

// LockReport returns what an owner told; nobody else decides on it until the unit of work ends.
func (t Tx) LockReport(ctx context.Context, id uuid.UUID) (OwnerReport, error) {
	var r OwnerReport
	err := t.db.WithContext(ctx).Raw(`select * from owner_reports where id = ? for update`, id).First(&r).Error
	return r, translate(err, "load what an owner told")
}

// DecideReport notes what became of what an owner told.
func (t Tx) DecideReport(ctx context.Context, id, by uuid.UUID, state string, at time.Time) error {
	result := t.db.WithContext(ctx).Exec(`update owner_reports set state = ?, decided_by = ?, decided_at = ? where id = ? and state = 'open'`, state, by, at, id)
	return changed(result, "decide on what an owner told")
}

// Notify tells every process that listens, without an entry.
func (t Tx) Notify(ctx context.Context, notice string) error {
	return translate(t.db.WithContext(ctx).Exec(`select pg_notify(?, ?)`, Channel, notice).Error, "tell of %s", notice)
}
