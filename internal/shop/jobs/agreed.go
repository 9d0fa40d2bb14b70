package jobs

import (
	"context"
	"time"

	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// What was agreed with a customer, the price and the time, are facts: they stand until somebody agrees on another with
// the customer and says so. A plan, a quote or a bill never puts itself in their place; it stands beside them.

// Promised is who promised a customer the time of a job, and when.
type Promised struct {
	On *time.Time `json:"on,omitempty"` // nobody knows of those from before it was kept
	By string     `json:"by,omitempty"`
}

// agree keeps a price that somebody says was agreed, and returns it for the ledger; nil leaves what was agreed alone,
// and the same again is no other agreement.
func (s *Jobs) agree(ctx context.Context, who record.Actor, j *store.Job, price *int) *int {
	if price == nil || j.Agreed != nil && *j.Agreed == *price {
		return nil
	}
	now := s.desk.Moment(ctx)
	j.Agreed, j.AgreedAt, j.AgreedBy = price, &now, &who.Person.ID
	return price
}

// Promise keeps the time for which a job is promised, nil where it no longer is; the same again is no other promise.
func (s *Jobs) Promise(ctx context.Context, who record.Actor, j *store.Job, at *time.Time) {
	if at == nil {
		j.PromisedAt, j.PromisedOn, j.PromisedBy = nil, nil, nil
		return
	}
	stamp := store.Stamp(*at)
	if j.PromisedAt != nil && j.PromisedAt.Equal(stamp) {
		return
	}
	now := s.desk.Moment(ctx)
	j.PromisedAt, j.PromisedOn, j.PromisedBy = &stamp, &now, &who.Person.ID
}
