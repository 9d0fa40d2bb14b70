package contact

import (
	"context"
	"time"

	"github.com/google/uuid"

	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// CustomerJob is a visit of one of a customer's bikes.
type CustomerJob struct {
	ID        uuid.UUID      `json:"id"`
	Tag       string         `json:"tag"`
	State     store.JobState `json:"state"`
	CreatedAt time.Time      `json:"created_at"`
	ClosedAt  *time.Time     `json:"closed_at,omitempty"`
	Route     string         `json:"route,omitempty"`
	Total     *int           `json:"total,omitempty"` // minor units, that it came to
	Unpaid    bool           `json:"unpaid,omitempty"`
}

// CustomerHistory is what the shop did for a customer, and what it told them.
type CustomerHistory struct {
	Jobs     []CustomerJob `json:"jobs"`     // newest first
	Messages []Message     `json:"messages"` // newest first
}

// historyShown is how many of each are shown.
const historyShown = 50

// CustomerHistory returns the jobs of a customer's bikes and the messages to the customer.
func (s *Contact) CustomerHistory(ctx context.Context, id uuid.UUID) (CustomerHistory, error) {
	h := CustomerHistory{Jobs: []CustomerJob{}, Messages: []Message{}}
	tx := s.desk.Store.Read(ctx)
	if _, err := tx.Customer(ctx, id); record.IsNotFound(err) {
		return h, record.NotFound("customer", "customer-not-found")
	} else if err != nil {
		return h, err
	}
	rows, err := tx.JobsOfCustomer(ctx, id, historyShown)
	if err != nil {
		return h, err
	}
	for _, r := range rows {
		j := CustomerJob{ID: r.ID, Tag: record.TagOf(store.Bike{TagNumber: r.TagNumber}), State: r.State, CreatedAt: r.CreatedAt, ClosedAt: r.ClosedAt, Total: r.Total}
		j.Unpaid = r.State == store.JobHandedBack && r.Total != nil && *r.Total > 0 && r.PaidAt == nil
		if p := jobs.PlanOf(r.Job); p != nil {
			j.Route = p.Route
		}
		h.Jobs = append(h.Jobs, j)
	}
	told, err := tx.MessagesTo(ctx, id, historyShown)
	for _, m := range told {
		h.Messages = append(h.Messages, NewMessage(m))
	}
	return h, err
}
