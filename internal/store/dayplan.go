package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Floor is when a shop is open, who works when at what, and how many of each place there are.
type Floor struct {
	Places map[string]int         `json:"places"` // by station
	Hours  map[string][]Stretch   `json:"hours"`  // of the shop, by weekday: monday
	People map[string]FloorPerson `json:"people"` // by id; who is not here works as their role does
}

// Stretch is a stretch of a day without a break.
type Stretch struct {
	From  string `json:"from"` // 08:30
	Until string `json:"until"`
}

// FloorPerson is what somebody does on the floor, and when.
type FloorPerson struct {
	Skills []string             `json:"skills"`
	Hours  map[string][]Stretch `json:"hours,omitempty"` // their own, where not the shop's
	Away   []string             `json:"away,omitempty"`  // days: 2026-12-24
}

// DayPlan is the plan of the shop's day.
type DayPlan struct {
	ID          int16
	Version     int
	MadeAt      time.Time
	Fingerprint string
	Until       time.Time
	Plan        json.RawMessage `gorm:"type:jsonb"`
}

// TableName is the singular: a shop has one.
func (DayPlan) TableName() string { return "day_plan" }

// DayPlan returns the day's plan; [ErrNotFound] before the first is made.
func (t Tx) DayPlan(ctx context.Context) (DayPlan, error) {
	w, err := gorm.G[DayPlan](t.db).Where("id = 1").First(ctx)
	return w, translate(err, "load the day's plan")
}

// SaveDayPlan puts a day's plan in place of the version that was seen, zero for none; [ErrStale] where
// another was saved meanwhile.
func (t Tx) SaveDayPlan(ctx context.Context, w *DayPlan) error {
	seen := w.Version
	w.ID, w.Version = 1, seen+1
	if seen == 0 {
		result := t.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(w)
		return changed(result, "save the first day plan")
	}
	result := t.db.WithContext(ctx).Model(&DayPlan{}).Where("id = 1 and version = ?", seen).Select("version", "made_at", "fingerprint", "until", "plan").Updates(w)
	return changed(result, "save the day's plan")
}

// KeepStepFor keeps a step of a job for a person, or for nobody.
func (t Tx) KeepStepFor(ctx context.Context, job uuid.UUID, code string, person *uuid.UUID, at *time.Time) error {
	result := t.db.WithContext(ctx).Exec(`update job_steps set kept_for = ?, kept_at = ? where job_id = ? and code = ?`, person, at, job, code)
	return changed(result, "keep step %s", code)
}
