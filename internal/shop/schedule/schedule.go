// Package schedule is the shop's day: whose hands do which step of which job when, what a time can be promised for,
// what moved and why.
//
// It promises that no plan breaks a rule of the shop or of the work, that what somebody has begun stays theirs, that a
// plan changes only as far as it must, and that a promised time is offered by what the day really has room for.
//
//	view, err := schedule.Floor(ctx)                      // the plan as it stands
//	offer, err := schedule.OfferPromise(ctx, tag, intake) // when the bike could be ready
package schedule

import (
	"golang.org/x/sync/singleflight"

	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/record"
)

// Schedule plans the shop's day.
type Schedule struct {
	desk    *record.Desk
	jobs    *jobs.Jobs
	byTries bool
	sought  singleflight.Group // plans, by what they are made of
}

// New returns the shop's schedule.
func New(desk *record.Desk, j *jobs.Jobs) *Schedule { return &Schedule{desk: desk, jobs: j} }
