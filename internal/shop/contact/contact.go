// Package contact is what goes between the shop and its customers: reminders drafted, sent, tried again and taken back;
// the page that a customer opens with a secret link, and what they report there; the calendar feed.
//
// It promises that no message is sent twice, none at a quiet hour or against a customer's wish, that a draft says what
// is due when it is sent, and that whoever has a link sees one bike or one feed and nothing else.
//
//	n, err := contact.DraftRecalls(ctx) // in the background
//	err = contact.Report(ctx, token, key, report)
package contact

import (
	"earnestpony/internal/outside"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
)

// Contact keeps the shop and its customers in touch.
type Contact struct {
	desk    *record.Desk
	measure *measure.Measure
	bikes   *bikes.Bikes
	due     *due.Due
	jobs    *jobs.Jobs
	gateway outside.Gateway // nil: nothing is sent
	replies bool            // the gateway is a stand-in that takes replies from the page
	base    string          // where browsers find the server
}

// New returns the shop's contact with its customers.
func New(desk *record.Desk, m *measure.Measure, b *bikes.Bikes, d *due.Due, j *jobs.Jobs) *Contact {
	return &Contact{desk: desk, measure: m, bikes: b, due: d, jobs: j}
}
