package store

import (
	"context"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// SetUp is what guards the set-up of a new shop.
type SetUp struct {
	ID       int16
	CodeHash []byte
	Wrong    int // tries at this code
}

// TableName is set_up.
func (SetUp) TableName() string { return "set_up" }

// LockSetUp returns the code's row and keeps others from it until the unit of work ends; [ErrNotFound] where no code was made.
func (t Tx) LockSetUp(ctx context.Context) (SetUp, error) {
	row, err := gorm.G[SetUp](t.db, clause.Locking{Strength: "UPDATE"}).Where("id = 1").First(ctx)
	return row, translate(err, "load set-up")
}

// SaveSetUp writes the code's row, the first or another.
func (t Tx) SaveSetUp(ctx context.Context, row SetUp) error {
	row.ID = 1
	return translate(t.db.WithContext(ctx).Save(&row).Error, "save set-up")
}

// RemoveSetUp forgets the code.
func (t Tx) RemoveSetUp(ctx context.Context) error {
	_, err := gorm.G[SetUp](t.db).Where("id = 1").Delete(ctx)
	return translate(err, "remove set-up")
}

// AnybodyEver reports whether anybody works here or did.
func (t Tx) AnybodyEver(ctx context.Context) (bool, error) {
	var has bool
	err := t.db.WithContext(ctx).Raw(`select exists (select from people)`).Scan(&has).Error
	return has, translate(err, "look for people")
}

// SaveSettingUp keeps what of the set-up is not gone through yet. It is no change of the rules, so their version stays.
func (t Tx) SaveSettingUp(ctx context.Context, left []string) error {
	result := t.db.WithContext(ctx).Model(&Shop{}).Where("id = 1").Select("setting_up").Updates(&Shop{SettingUp: left})
	return changed(result, "save set-up")
}
