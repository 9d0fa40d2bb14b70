package jobs

import (
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// JobSummary is a job as it stands beside others.
type JobSummary struct {
	ID         uuid.UUID          `json:"id"`
	Tag        string             `json:"tag"`
	Customer   record.CustomerRef `json:"customer"`
	Bike       string             `json:"bike"` // make, model, colour
	State      store.JobState     `json:"state"`
	CreatedAt  time.Time          `json:"created_at"`
	PromisedAt *time.Time         `json:"promised_at,omitempty"`
	Route      string             `json:"route,omitempty"`
	Done       int                `json:"done"` // Steps
	Steps      int                `json:"steps"`
	Next       *rules.StepShort   `json:"next,omitempty"` // that can be begun now, as the block that it is part of
	Underway   []AtStep           `json:"underway"`
	HeldUntil  *time.Time         `json:"held_until,omitempty"` // where only waits hold it
	OpenChecks int                `json:"open_checks"`
	Stops      int                `json:"stops"` // findings that hold the hand-back
	LeftMin    int                `json:"left_min"`
	Ready      bool               `json:"ready"` // to hand back
}

// AtStep is somebody at a step, told as the block that it is part of.
type AtStep struct {
	rules.StepShort
	Person record.Person `json:"person"`
	Since  time.Time     `json:"since"`
}

// JobRef is another job of the bike.
type JobRef struct {
	ID       uuid.UUID  `json:"id"`
	ClosedAt *time.Time `json:"closed_at,omitempty"`
	Route    string     `json:"route,omitempty"`
}

// StepView is a step as it is shown.
type StepView struct {
	StepSpec
	State    store.StepState `json:"state"`    // open, begun, done, skipped
	Standing string          `json:"standing"` // blocked, held, ready, underway, finished
	Until    *time.Time      `json:"until,omitempty"`
	Round    int             `json:"round"`
	Fails    int             `json:"fails,omitempty"`
	By       string          `json:"by,omitempty"` // who did it or is at it
	Since    *time.Time      `json:"since,omitempty"`
	DoneAt   *time.Time      `json:"done_at,omitempty"`
	WorkedS  int             `json:"worked_s,omitempty"`
	Reason   string          `json:"reason,omitempty"`
	Mine     bool            `json:"mine,omitempty"`     // whoever asks is at it
	Again    []string        `json:"again,omitempty"`    // the steps that are done again when its check fails
	Opens    clean.Opens     `json:"opens,omitempty"`    // what it is recorded on beside its own button
	Withheld []string        `json:"withheld,omitempty"` // the findings that withhold it
	// TakesBack: it was done just now and can be opened again through its block.
	TakesBack bool       `json:"takes_back,omitempty"`
	Felt      []StepFelt `json:"felt,omitempty"`    // what a test ride that failed may have felt like
	Suggest   string     `json:"suggest,omitempty"` // the route that would serve better: soak, where the bath does not come clean
}

// StepFelt is what may be felt on a test ride, and the step that it leads to.
type StepFelt struct {
	Code  string   `json:"code"`
	Says  string   `json:"says"`
	Leads string   `json:"leads"` // the title of a step
	Again []string `json:"again"` // the steps that are then done again
}

// StepSpec is a step as it was planned.
type StepSpec struct {
	Code     string       `json:"code"`
	Phase    string       `json:"phase"`
	Title    string       `json:"title"`
	Do       string       `json:"do"`
	Why      string       `json:"why"`
	Minutes  int          `json:"minutes"`
	Wait     *StepWait    `json:"wait,omitempty"`
	Station  string       `json:"station"`
	Tools    []string     `json:"tools"`
	Amounts  []StepAmount `json:"amounts"`
	Cautions []string     `json:"cautions"`
	Done     string       `json:"done"`
	Fail     string       `json:"fail,omitempty"`
	Back     []string     `json:"back,omitempty"`
	Gate     bool         `json:"gate,omitempty"`
	Bath     string       `json:"bath,omitempty"`
	Before   []string     `json:"before"`
	Holding  []string     `json:"holding"` // Steps whose waits hold it
	Causes   []StepCause  `json:"causes,omitempty"`
	// SecondRound is when it may be done once more; it then takes its amounts again.
	SecondRound string `json:"second_round,omitempty"`
	// Lubricant is what goes on at this step.
	Lubricant *StepLubricant `json:"lubricant,omitempty"`
}

// StepLubricant is what goes on the chain: the family, and the bottle from the shelf where one was picked or there is one.
type StepLubricant struct {
	Family    string     `json:"family"`
	BottleID  *uuid.UUID `json:"bottle_id,omitempty"`
	Bottle    string     `json:"bottle,omitempty"`
	Place     string     `json:"place,omitempty"`    // where it stands
	Replaces  string     `json:"replaces,omitempty"` // what was on it, where that is another
	RideMin   int        `json:"ride_min"`           // from the last of it to the first ride, at least
	BetterMin int        `json:"better_min"`
}

// StepWait is a wait that runs from the end of its step.
type StepWait struct {
	Code  string `json:"code"`
	Least int    `json:"least_min"`
	Most  int    `json:"most_min,omitempty"` // 0: no limit
}

// StepAmount is how much of a material a step takes.
type StepAmount struct {
	Material string  `json:"material"`
	Amount   float64 `json:"amount"`
	Unit     string  `json:"unit"`
	WaterML  float64 `json:"water_ml,omitempty"`
}

// StepCause is one of the causes that a check tells apart.
type StepCause struct {
	Code  string `json:"code"`
	Says  string `json:"says"`
	Leads string `json:"leads"`
}

// PhotoRow is a picture of a job.
type PhotoRow struct {
	ID      uuid.UUID `json:"id"`
	TakenAt time.Time `json:"taken_at"`
	By      string    `json:"by"`
}

// NoteRow is something written down.
type NoteRow struct {
	At   time.Time `json:"at"`
	By   string    `json:"by"`
	Text string    `json:"text"`
}

// UsedRow is how much of a material the job used.
type UsedRow struct {
	Kind   string  `json:"kind"`
	Name   string  `json:"name"`
	Amount float64 `json:"amount"`
	Unit   string  `json:"unit"`
}

// Hold is one thing that keeps a bike from being handed back.
type Hold struct {
	Code string `json:"code"` // check-open, step-open, finding, wait-runs
	What string `json:"what"` // a step, a finding
	Says string `json:"says"`
}

// JobListItem is a job of a bike in a list.
type JobListItem struct {
	JobRef
	State     store.JobState `json:"state"`
	CreatedAt time.Time      `json:"created_at"`
}
