package due

import (
	"cmp"
	"context"
	"encoding/base64"
	"encoding/json"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/interval"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// DueFilter says which bikes are listed.
type DueFilter struct {
	State    string // least: overdue, due, soon; fresh lists all
	Within   *int   // due in so many days, whatever the state
	Upcoming bool   // falls due from today on; what is late already is not among it
	Customer *uuid.UUID
	Quiet    bool // owners who agreed to be told and were told nothing lately
	After    string
	Limit    int
}

// DueRow is a bike in the list of what is due.
type DueRow struct {
	Tag      string             `json:"tag"`
	Customer record.CustomerRef `json:"customer"`
	Bike     string             `json:"bike"`
	State    string             `json:"state"`
	DueOn    *string            `json:"due_on,omitempty"` // the earliest
	// Tasks, each a [DueTask], are those soon or worse and what else is done in the same visit: the text that was
	// kept when they were reckoned, as a page of them is read far more often than any changes.
	Tasks      json.RawMessage    `json:"tasks"`
	Visit      json.RawMessage    `json:"visit"` // codes
	SavedMin   int                `json:"saved_min"`
	MayTell    bool               `json:"may_tell"` // its owner agreed and has an address for it
	ToldAt     *time.Time         `json:"told_at,omitempty"`
	ToldState  store.MessageState `json:"told_state,omitempty"`
	InWorkshop *uuid.UUID         `json:"job,omitempty"`
}

// DuePage is a page of the list of what is due.
type DuePage struct {
	Day   string    `json:"day"`
	Until time.Time `json:"until"` // the end of that day
	Rows  []DueRow  `json:"rows"`
	Total int       `json:"total,omitempty"` // in all, on the first page; of many, one more than are counted
	Next  string    `json:"next,omitempty"`
	// Broken are bikes with entries that cannot be read; on the first page.
	Broken []BrokenBike `json:"broken,omitempty"`
}

// BrokenBike is a bike with entries in its record that cannot be read and count for nothing.
type BrokenBike struct {
	Tag     string               `json:"tag"`
	Entries []record.BrokenEntry `json:"entries"`
}

// brokenShown is how many such bikes a list names.
const brokenShown = 50

func brokenBikes(ctx context.Context, tx store.Tx) ([]BrokenBike, error) {
	rows, err := tx.BrokenBikes(ctx, brokenShown)
	var all []BrokenBike
	for _, r := range rows {
		b := BrokenBike{Tag: record.TagOf(store.Bike{TagNumber: r.TagNumber})}
		if err := json.Unmarshal(r.Broken, &b.Entries); err != nil {
			return all, err
		}
		all = append(all, b)
	}
	return all, err
}

// Broken returns the bikes with entries in their record that cannot be read.
func (s *Due) Broken(ctx context.Context) ([]BrokenBike, error) {
	return brokenBikes(ctx, s.desk.Store.Read(ctx))
}

var dueStates = []string{"fresh", "soon", "due", "overdue"}

// DueList lists bikes by urgency. What was written since is taken in first, so that it agrees with each bike's own
// page.
func (s *Due) DueList(ctx context.Context, f DueFilter) (DuePage, error) {
	if _, err := s.refreshDue(ctx, keepAtALook); err != nil {
		return DuePage{}, err
	}
	tx := s.desk.Store.Read(ctx)
	clock, err := s.desk.Clock(ctx, tx)
	if err != nil {
		return DuePage{}, err
	}
	day := clock.Today()
	q := store.DueQuery{Customer: f.Customer, Limit: f.Limit + 1}
	q.LeastState = max(record.IndexOf(dueStates, f.State), 0)
	if f.Within != nil {
		by := (day + interval.Day(*f.Within)).Time()
		q.By = &by
	}
	if f.Upcoming {
		from := day.Time()
		q.From = &from
	}
	if f.Quiet {
		h, err := rules.LoadParsed(ctx, tx)
		if err != nil {
			return DuePage{}, err
		}
		since := clock.Now().AddDate(0, 0, -h.Rules.Recalls.EveryDays)
		q.QuietSince = &since
	}
	if f.After != "" {
		text, err := base64.RawURLEncoding.DecodeString(f.After)
		q.After = &store.DueKey{}
		if err != nil || json.Unmarshal(text, q.After) != nil {
			return DuePage{}, record.InvalidInput(record.Field{Path: "after", Code: "unknown-value", Message: "There is no such place in the list."})
		}
	}
	rows, total, err := tx.DueList(ctx, q)
	if err != nil {
		return DuePage{}, err
	}
	page := DuePage{Day: day.String(), Until: clock.DayEnds(), Rows: []DueRow{}, Total: total}
	if len(rows) > f.Limit {
		rows = rows[:f.Limit]
		last := rows[f.Limit-1]
		key, err := json.Marshal(store.DueKey{State: last.State, Safety: last.Safety, Urgency: last.Urgency, BikeID: last.BikeID})
		if err != nil {
			return page, err
		}
		page.Next = base64.RawURLEncoding.EncodeToString(key)
	}
	for _, r := range rows {
		page.Rows = append(page.Rows, newDueRow(r))
	}
	if f.After == "" {
		page.Broken, err = brokenBikes(ctx, tx)
	}
	return page, err
}

func newDueRow(r store.DueRow) DueRow {
	row := DueRow{Tag: record.TagOf(store.Bike{TagNumber: r.TagNumber}), Customer: record.CustomerRef{ID: r.CustomerID, Name: r.OwnerName}, Bike: record.BikeWords(store.Bike{BikeFacts: record.BikeFacts{Make: r.Make, Model: r.Model, Colour: r.Colour}}),
		State: dueStates[r.State], Tasks: r.Listed, Visit: r.Visit, SavedMin: r.SavedMin, MayTell: r.Consent && cmp.Or(r.ContactWay, "none") != "none",
		ToldAt: r.ToldAt, ToldState: r.ToldState, InWorkshop: r.JobID}
	if r.DueOn != nil {
		on := r.DueOn.Format(time.DateOnly)
		row.DueOn = &on
	}
	return row
}

// Listed reads the tasks of a row.
func (r DueRow) Listed() ([]DueTask, error) {
	var tasks []DueTask
	return tasks, json.Unmarshal(r.Tasks, &tasks)
}
