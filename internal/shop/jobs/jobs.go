// Package jobs is the work on a bike from booking in to hand-back: what was seen, the options and the plan of steps,
// each step as it is done, waits, faults found, parts used, what was agreed and quoted, and minutes learned.
//
// It promises that a step is done in the plan's order and once, that nothing recorded is lost when a plan is made
// anew, that a bike with an open safety check or a fault that holds it is not handed back, and that what was agreed
// with a customer is replaced by nobody but whoever agrees on something else.
//
//	job, err := jobs.OpenJob(ctx, who, tag, intake)
//	job, err = jobs.PlanJob(ctx, who, job.ID, order)
//	job, err = jobs.DoStep(ctx, who, job.ID, "wipe", jobs.StepAction{Action: "done"})
package jobs

import (
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/stock"
)

// Jobs knows the work on bikes.
type Jobs struct {
	desk   *record.Desk
	people *people.People
	stock  *stock.Stock
	bikes  *bikes.Bikes
}

// New returns the shop's jobs.
func New(desk *record.Desk, p *people.People, s *stock.Stock, b *bikes.Bikes) *Jobs {
	return &Jobs{desk, p, s, b}
}
