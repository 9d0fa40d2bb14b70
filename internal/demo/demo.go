// Package demo makes the demo shop: Tidewrack Lane Cycle Workshop, by the tidal harbour of Saltern
// Mouth, with eighteen months of history that ends on the day it is made.
//
// Everything is written through the same use cases as real work, by a clock that walks through the
// history, so the demo holds nothing that a shop could not have done. The same seed and day give
// the same history. All of it is invented.
package demo

import (
	"cmp"
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/wear"
	"earnestpony/internal/outside"
	"earnestpony/internal/shop"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// ShopName is the demo shop.
const ShopName = "Tidewrack Lane Cycle Workshop"

// TimeZone is where the demo shop's harbour would lie.
const TimeZone = "Europe/Dublin"

// Person is somebody who works in the demo shop, with the PIN to sign in.
type Person struct {
	Name, Role, PIN string
}

// People returns who works in the demo shop.
func People() []Person {
	return []Person{
		{"Mira Oxenholt", "mechanic", "2718"},
		{"Tobiah Marsh", "mechanic", "3141"},
		{"Maud Kestle", "mechanic", "1618"},
		{"Odalys Finch", "counter", "5772"},
		{"Posy Peake", "apprentice", "4669"},
		{"Wenna Sallow", "owner", "slack water at noon"}, // the shop is hers; she is in the office
	}
}

// oldCaliper was dropped on the floor one day and retired; newCaliper came in its place.
const (
	oldCaliper = "Caliper 1"
	newCaliper = "Caliper 2"
)

// history is how long the shop has kept its records.
const history = 18 * 30 * 24 * time.Hour

// seed makes the history; another one makes another, just as believable.
const seed = 20

// Make makes the demo shop in an empty database, as it stands on the morning on which its clock starts.
func Make(ctx context.Context, s *store.Store) error {
	zone, err := time.LoadLocation(TimeZone)
	if err != nil {
		return err
	}
	at := time.Now()
	start := Start(at, zone)
	if err := Load(ctx, s, start); err != nil {
		return err
	}
	return s.Write(ctx, func(ctx context.Context, tx store.Tx) error { return tx.SetClockAhead(ctx, start.Sub(at)) })
}

// Load makes the demo shop in an empty database, with a history that ends now.
func Load(ctx context.Context, s *store.Store, now time.Time) error {
	zone, err := time.LoadLocation(TimeZone)
	if err != nil {
		return err
	}
	now = now.In(zone)
	l := &loader{ctx: ctx, clock: now.Add(-history), end: now, random: rand.New(rand.NewPCG(seed, seed)), services: rand.New(rand.NewPCG(seed, seed+1)), tools: map[string]measure.Instrument{}}
	l.shop = shop.New(s, func() time.Time { return l.clock })
	l.shop.PlanByTries() // the same demo on any machine
	l.shop.PlugInWeather(outside.OfTheTown)
	if err := l.setUp(); err != nil {
		return err
	}
	for _, o := range owners() {
		l.plan(o)
	}
	// Things happen in the order of their time, whoever's bike they are about.
	slices.SortStableFunc(l.events, func(a, b event) int { return cmp.Compare(a.at.Unix(), b.at.Unix()) })
	for _, e := range l.events {
		l.clock = e.at
		if err := e.do(); err != nil {
			return fmt.Errorf("on %s: %w", e.at.Format(time.DateOnly), err)
		}
	}
	if err := l.work(); err != nil {
		return err
	}
	return l.tellOwners()
}

type event struct {
	at time.Time
	do func() error
}

// loader walks through the history.
type loader struct {
	ctx    context.Context
	shop   *shop.Service
	clock  time.Time
	end    time.Time
	random *rand.Rand
	// services draws what was done in visits, apart from all else, so that one more changes nothing but itself.
	services *rand.Rand
	people   []record.Actor
	tools    map[string]measure.Instrument // by name
	events   []event
}

func (l *loader) setUp() error {
	err := l.shop.SetUp(l.ctx, rules.NewShop{Name: ShopName, TimeZone: TimeZone, Tools: []rules.Tool{
		{Name: "Steel rule 300", Kind: wear.Ruler},
		{Name: oldCaliper, Kind: wear.CaliperInside, Spreads: true},
		{Name: "Dial gauge", Kind: wear.GaugePercent, Spreads: true},
		{Name: "Drop-in pair", Kind: wear.GaugeDropin, Spreads: true, Marks: []float64{0.5, 0.75}},
		{Name: "Whole chain", Kind: wear.WholeChain},
		{Name: "Pull-off look", Kind: wear.PullOff},
	}})
	if err != nil {
		return err
	}
	for i, p := range People() {
		person, err := l.shop.AddPerson(l.ctx, p.Name, p.Role, p.PIN)
		if err != nil {
			return err
		}
		device := [...]string{"stand 1 tablet", "stand 2 tablet", "stand 3 tablet", "counter", "wash bay phone", "office"}[i]
		who, err := l.shop.Actor(l.ctx, person, device)
		if err != nil {
			return err
		}
		l.people = append(l.people, who)
	}
	if err := l.learnTools(); err != nil {
		return err
	}
	l.planTools()
	return l.setRules()
}

func (l *loader) learnTools() error {
	tools, err := l.shop.Instruments(l.ctx, false)
	for _, t := range tools {
		l.tools[t.Name] = t
	}
	return err
}

// The people by what they do in the history.
func (l *loader) counter() record.Actor  { return l.people[3] }
func (l *loader) mechanic() record.Actor { return l.people[l.random.IntN(3)] }
func (l *loader) anyone() record.Actor {
	return l.people[[...]int{0, 0, 1, 1, 2, 2, 4}[l.random.IntN(7)]]
}

func (l *loader) at(t time.Time, do func() error) { l.events = append(l.events, event{t, do}) }

// openHours moves a day into the shop's hours of a day on which it is open.
func (l *loader) openHours(day time.Time) time.Time {
	day = day.In(l.end.Location())
	t := time.Date(day.Year(), day.Month(), day.Day(), 9+l.random.IntN(8), l.random.IntN(60), l.random.IntN(60), 0, day.Location())
	if t.Weekday() == time.Sunday {
		t = t.AddDate(0, 0, -1)
	}
	if t.After(l.end) {
		t = l.end.Add(-time.Duration(5+l.random.IntN(50)) * time.Minute)
	}
	return t
}

// plan lays out the history of an owner and the bikes.
func (l *loader) plan(o owner) {
	var customer bikes.Customer
	first := l.openHours(l.end.Add(-history + time.Duration(l.random.IntN(60*24))*time.Hour))
	if len(o.bikes) > 0 && o.bikes[0].since > 0 {
		first = l.openHours(l.end.AddDate(0, 0, -o.bikes[0].since))
	}
	l.at(first, func() (err error) {
		customer, err = l.shop.AddCustomer(l.ctx, l.counter(), o.facts)
		return err
	})
	for i := range o.bikes {
		b := &life{loader: l, plan: o.bikes[i], owner: func() uuid.UUID { return customer.ID }}
		added := first.Add(time.Duration(10+20*i) * time.Minute)
		l.at(added, b.add)
		b.visits(added)
	}
	if o.left {
		l.at(l.openHours(l.end.AddDate(0, 0, -30)), func() error {
			_, err := l.shop.ArchiveCustomer(l.ctx, l.counter(), customer.ID, customer.Version, true)
			return err
		})
	}
}
