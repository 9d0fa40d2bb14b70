// Package due is what each bike needs and when: replayed from its ledger to a state, kept as rows that are made anew
// when something of the bike was written or a day began, listed by urgency, and previewed for other rules.
//
// It promises that what is due follows from the ledger and the rules alone, so that it can be made again at any time,
// and that a list never waits for it: a row that is being made anew is shown as it was.
//
//	page, err := due.DueList(ctx, due.DueFilter{State: "due"})
//	made, err := due.RefreshDue(ctx) // in the background, until nothing is stale
package due

import (
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/record"
)

// Due knows what each bike needs.
type Due struct {
	desk  *record.Desk
	bikes *bikes.Bikes
}

// New returns what bikes need.
func New(desk *record.Desk, b *bikes.Bikes) *Due { return &Due{desk, b} }
