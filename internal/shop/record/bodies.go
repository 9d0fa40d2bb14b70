package record

import (
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"

	"earnestpony/internal/store"
)

// TaskDoneBody is what the ledger keeps of a task that was done outside of a job.
type TaskDoneBody struct {
	Task string `json:"task"`
	Note string `json:"note,omitempty"`
}

// EventBody is what the ledger keeps of something that happened to a bike.
type EventBody struct {
	Event string `json:"event"`
	Note  string `json:"note,omitempty"`
	Owner bool   `json:"owner,omitempty"` // who told of it, confirmed by whoever wrote
	// Report is what the customer told, whose words stand there and can be erased.
	Report *uuid.UUID `json:"report,omitempty"`
}

// ChainBody is what the ledger keeps of a chain that was put on.
type ChainBody struct {
	PartID          *uuid.UUID `json:"part_id,omitempty"` // of the chain; that of its entry when nil
	What            string     `json:"what,omitempty"`
	Sprockets       int        `json:"sprockets,omitempty"` // that its width is for
	Links           int        `json:"links,omitempty"`
	Joint           string     `json:"joint,omitempty"`
	HalfLink        bool       `json:"half_link,omitempty"`
	Direction       string     `json:"direction,omitempty"`
	BoxLinks        int        `json:"box_links,omitempty"`
	CageMM          *float64   `json:"cage_mm,omitempty"` // that it was sized for
	LargestSprocket int        `json:"largest_sprocket,omitempty"`
	Grease          string     `json:"grease,omitempty"`
	StockItemID     *uuid.UUID `json:"stock_item_id,omitempty"`
	OldChain        string     `json:"old_chain,omitempty"` // kept, scrapped: what became of the one before
	Link            *LinkBody  `json:"joining_link,omitempty"`
}

// LinkBody is a joining link that closed a chain.
type LinkBody struct {
	PartID      uuid.UUID  `json:"part_id"`
	What        string     `json:"what,omitempty"`
	Sprockets   int        `json:"sprockets,omitempty"`
	StatedUses  int        `json:"stated_uses,omitempty"`
	StockItemID *uuid.UUID `json:"stock_item_id,omitempty"`
	Again       bool       `json:"again,omitempty"` // it had closed a chain before
}

// OpenedBody is what the ledger keeps of a chain that was opened and closed again.
type OpenedBody struct {
	Why  string    `json:"why,omitempty"`
	Link *LinkBody `json:"joining_link,omitempty"` // that closed it again; nil for a pin
}

// PartBody is what the ledger keeps of another part.
type PartBody struct {
	PartID uuid.UUID `json:"part_id"`
	Part   string    `json:"part"` // sprockets, rings, pulleys
	What   string    `json:"what,omitempty"`
}

func BodyOf[T any](e store.EntryView) (b T, err error) {
	if err := json.Unmarshal(e.Body, &b); err != nil {
		return b, fmt.Errorf("entry %s: %w", e.ID, err)
	}
	return b, nil
}

// RideBody is what the ledger keeps of a ride; it happened when it ended.
type RideBody struct {
	KM        float64   `json:"km"`
	StartedAt time.Time `json:"started_at"`
	Jumps     int       `json:"jumps,omitempty"`
	File      string    `json:"file,omitempty"`
	Mix       *Mix      `json:"mix,omitempty"`
	RainMM    *float64  `json:"rain_mm,omitempty"` // of its day; nil where nobody knew
	Events    []string  `json:"events,omitempty"`
}

// OdometerNote is an odometer read off a bike.
type OdometerNote struct {
	KM          float64    `json:"km"`
	NewComputer bool       `json:"new_computer,omitempty"` // it began again from nothing
	Mix         *Mix       `json:"mix,omitempty"`          // how it was ridden since the last reading; nil: as usual
	ReadAt      *time.Time `json:"read_at,omitempty"`      // now when nil
}
