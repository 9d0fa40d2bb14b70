package stock

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/tag"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// NewWaste is waste to be noted.
type NewWaste struct {
	Kind   string     `json:"kind"`
	Amount float64    `json:"amount"` // litres, of rags kilograms
	Note   string     `json:"note,omitempty"`
	JobID  *uuid.UUID `json:"job_id,omitempty"`
}

// WasteRow is an entry of the waste log.
type WasteRow struct {
	ID     uuid.UUID `json:"id"`
	Kind   string    `json:"kind"`
	Amount float64   `json:"amount"`
	Unit   string    `json:"unit"`
	Note   string    `json:"note,omitempty"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Tag    string    `json:"tag,omitempty"`
}

type wasteBody struct {
	Kind   string  `json:"kind"`
	Amount float64 `json:"amount"`
	Job    string  `json:"job,omitempty"`
	Note   string  `json:"note,omitempty"`
}

// wasteKept is how far back the log is shown; wasteRows how much of it.
const (
	wasteKept = 366 * 24 * time.Hour
	wasteRows = 500
)

// WasteLog returns what was thrown away in the last year, the newest first.
func (s *Stock) WasteLog(ctx context.Context) ([]WasteRow, error) {
	rows, err := s.desk.Store.Read(ctx).WasteLog(ctx, s.desk.Now().Add(-wasteKept), wasteRows)
	all := []WasteRow{}
	for _, w := range rows {
		row := WasteRow{ID: w.ID, Kind: w.Kind, Amount: w.Amount, Unit: wasteUnit(w.Kind), Note: w.Note, At: w.NotedAt, By: w.PersonName}
		if w.TagNumber > 0 {
			row.Tag = tag.Number(w.TagNumber).String()
		}
		all = append(all, row)
	}
	return all, err
}

func wasteUnit(kind string) string {
	if kind == "rags" {
		return "kg"
	}
	return "L"
}

// NoteWaste notes what went into its container.
func (s *Stock) NoteWaste(ctx context.Context, who record.Actor, n NewWaste) ([]WasteRow, error) {
	n.Note = record.CleanLine(n.Note)
	var wrong record.Faults
	if !slices.Contains([]string{"spent-solvent", "oily-water", "sludge", "rags"}, n.Kind) {
		wrong.Add("kind", "unknown-value", "There is no such kind of waste.")
	}
	if !(n.Amount > 0 && n.Amount <= 1000) {
		wrong.Add("amount", "out-of-range", "An amount is above 0 and up to 1000.")
	}
	if err := wrong.Err(); err != nil {
		return nil, err
	}
	_, err := record.Idempotent(ctx, s.desk, who, "waste", n, func(ctx context.Context, tx store.Tx) (string, error) {
		w := store.Waste{ID: uuid.New(), Kind: n.Kind, Amount: n.Amount, JobID: n.JobID, Note: n.Note, NotedAt: s.desk.Moment(ctx), NotedBy: who.Person.ID}
		if err := tx.AddWaste(ctx, &w); err != nil {
			return "", err
		}
		b := wasteBody{Kind: n.Kind, Amount: n.Amount, Note: n.Note}
		if n.JobID != nil {
			b.Job = n.JobID.String()
		}
		return w.ID.String(), s.desk.Append(ctx, tx, who, &store.Entry{Kind: record.KindWaste}, b, "")
	})
	if err != nil {
		return nil, err
	}
	return s.WasteLog(ctx)
}

func init() { record.Holds[wasteBody](nil, record.KindWaste) }
