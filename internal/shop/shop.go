// Package shop is the front door of the shop's rooms: one service with all their use cases, each what a person in the
// shop can do. The rooms lie beneath it, and import each other only upward in this order:
//
//	record    the desk where a write is made: ledger, idempotency, notices, problems
//	people    sign-in, sessions, roles
//	rules     the shop's settings: parsed, defaulted, checked
//	stock     chains, links, fluids, baths, pots, waste
//	measure   tools, readings, judging, a bike's history
//	bikes     customers, bikes, parts, rides, the wear track, replacing, sizing
//	due       what each bike needs
//	jobs      booking in, plan, steps, waits, hand-back, quote
//	schedule  the day's plan, promises
//	contact   messages, the customer's page, the calendar
//	exchange  passports, tables, an owner's data, verifying
//
// A use case that writes does so in one transaction together with its ledger entry. Errors that a person can do
// something about are [record.Problem]s, worded for a mechanic; everything else is trouble of our own, for the log.
package shop

import (
	"context"
	"time"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/contact"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/exchange"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/schedule"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// Service does the use cases on one database.
type Service struct {
	desk *record.Desk
	*people.People
	*rules.Book
	*stock.Stock
	*measure.Measure
	*bikes.Bikes
	*due.Due
	*jobs.Jobs
	*schedule.Schedule
	*contact.Contact
	*exchange.Exchange
}

// New returns a service that asks now for the time.
func New(s *store.Store, now func() time.Time) *Service {
	desk := record.NewDesk(s, now)
	p, shelf, m := people.New(desk), stock.New(desk), measure.New(desk)
	b := bikes.New(desk, m)
	j := jobs.New(desk, p, shelf, b)
	b.SetInHand(j)
	d := due.New(desk, b)
	return &Service{
		desk: desk, People: p, Book: rules.New(desk, p), Stock: shelf, Measure: m, Bikes: b, Due: d, Jobs: j,
		Schedule: schedule.New(desk, j), Contact: contact.New(desk, m, b, d, j), Exchange: exchange.New(desk, m, b, d),
	}
}

// KeepRealTime has what guards the shop go by the world's time where the shop's own clock runs apart from it: a demo's.
func (s *Service) KeepRealTime(real func() time.Time) {
	s.desk.Real = func() time.Time { return store.Stamp(real()) }
}

// ForgetOldAnswers removes first answers that nobody will ask for again.
func (s *Service) ForgetOldAnswers(ctx context.Context) error { return s.desk.ForgetOldAnswers(ctx) }

// PlugIn plugs a measuring tool in, which the page is told of.
func (s *Service) PlugIn(t record.MeasuringTool) {
	s.Measure.PlugIn(t)
	s.SimulatedTool = t != nil
}

// TakeReplies says that messages go to a stand-in that takes replies from the page, which is told of it.
func (s *Service) TakeReplies() {
	s.Contact.TakeReplies()
	s.SimulatedGateway = true
}
