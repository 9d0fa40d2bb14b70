package schedule

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"maps"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/dayplan"
	"earnestpony/core/lube"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// Wanted is when a bike could be ridden by each route and lubricant, beside when it is wanted.
type Wanted struct {
	Choices []WantedChoice `json:"choices"` // those that fit first, the best of them before the others
	// ClosesAt is when the last of today's hands goes home, or of the next day on which somebody works.
	ClosesAt *time.Time `json:"closes_at,omitempty"`
	Until    time.Time  `json:"until"` // from when it is worth asking again
}

// WantedChoice is one way to do it.
type WantedChoice struct {
	Route       string     `json:"route"`
	Lubricant   string     `json:"lubricant"`           // family
	RiddenAt    *time.Time `json:"ridden_at,omitempty"` // dried and set; none where the days ahead have no room
	DoneAt      *time.Time `json:"done_at,omitempty"`   // hands are off it
	HandsMin    int        `json:"hands_min"`
	Fits        bool       `json:"fits"` // it can be ridden by when it is wanted, or nobody said when
	Recommended bool       `json:"recommended"`
	Usual       bool       `json:"usual"`   // the lubricant that was picked, or that the bike has
	Misses      []string   `json:"misses"`  // what it does not reach
	Against     []string   `json:"against"` // what speaks against it
	Quote       jobs.Quote `json:"quote"`
}

// wantedTries is how often each way is tried to be fitted in: there are many of them, and somebody is on the phone.
const wantedTries = 40

// WantedBy says by which routes and lubricants a bike that comes in could be ridden when. It writes nothing.
func (s *Schedule) WantedBy(ctx context.Context, tagText string, a jobs.Intake) (Wanted, error) {
	wanted := a.WantedAt
	a.WantedAt, a.PromisedAt, a.Route = nil, nil, "" // which route is right for the bike is not asked by when it is wanted
	if err := jobs.CheckIntake(&a, nil, s.desk.Now()); err != nil {
		return Wanted{}, err
	}
	tx := s.desk.Store.Read(ctx)
	bike, err := record.BikeInCare(ctx, tx, tagText)
	if err != nil {
		return Wanted{}, err
	}
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return Wanted{}, err
	}
	d, err := s.floorDayOf(ctx, tx, h)
	if err != nil {
		return Wanted{}, err
	}
	hangs, err := s.currentPlan(ctx, d)
	if err != nil {
		return Wanted{}, err
	}
	d.setPrevious(hangs.plan)
	offers, err := dayplan.NewOffers(d.problem, 1, s.offerTries(d))
	if err != nil {
		return Wanted{}, err
	}
	w := Wanted{Choices: []WantedChoice{}, ClosesAt: d.closes(), Until: s.desk.Now().Add(offerHolds)}
	ways := waysToday{day: d, bike: bike, offers: offers, wanted: wanted, done: map[string]*time.Time{}}
	usual := a.Lubricant
	for _, family := range lube.Families() {
		if ctx.Err() != nil {
			return Wanted{}, ctx.Err()
		}
		of := a
		if family.String() != a.Lubricant {
			of.Lubricant, of.BottleID = family.String(), nil
		}
		p, err := s.jobs.Planner(ctx, tx, tagText, s.desk.Now(), of)
		if err != nil {
			return Wanted{}, err
		}
		usual = cmp.Or(usual, p.UsualLubricant())
		for _, option := range p.Choice.Options {
			c, can, err := ways.by(p, option, of, family)
			if err != nil {
				return Wanted{}, err
			}
			if can {
				w.Choices = append(w.Choices, c)
			}
		}
	}
	for i := range w.Choices {
		w.Choices[i].Usual = w.Choices[i].Lubricant == usual
	}
	slices.SortStableFunc(w.Choices, betterChoice)
	return w, nil
}

// waysToday are the ways to do a bike as the day has room for them.
type waysToday struct {
	day    *floorDay
	bike   store.Bike
	offers *dayplan.Offers
	wanted *time.Time
	done   map[string]*time.Time // by route and what goes on: its families are put on by the same steps
}

// by is one way: a route, with a lubricant that goes on after it; can is false where that cannot be.
func (x waysToday) by(p jobs.Planner, option clean.Option, a jobs.Intake, family lube.Family) (c WantedChoice, can bool, err error) {
	route := option.Route.String()
	order, err := p.Order(route, "")
	if err != nil || option.Refused || order.Next != family.Coat() {
		return c, false, err
	}
	plan, summary, err := p.Build(order, route)
	if _, refused := errors.AsType[*clean.RefusedError](err); refused {
		return c, false, nil
	} else if err != nil {
		return c, false, err
	}
	key := route + " " + order.Next.String()
	at, known := x.done[key]
	if !known {
		if at, err = x.day.couldBeDone(x.bike, a, plan, summary, x.offers); err != nil {
			return c, false, err
		}
		x.done[key] = at
	}
	c = WantedChoice{Route: route, Lubricant: family.String(), HandsMin: summary.HandsMin, Recommended: route == p.Choice.Route.String(), DoneAt: at,
		Misses: record.CodesOf(option.Misses), Against: record.CodesOf(option.Against), Quote: summary.Quote}
	if at != nil {
		ridden := at.Add(time.Duration(max(summary.RideMin-summary.ReadyMin, 0)) * time.Minute).Add(promiseStep - 1).Truncate(promiseStep)
		c.RiddenAt = &ridden
		c.Fits = x.wanted == nil || !ridden.After(*x.wanted)
	}
	return c, true, nil
}

// betterChoice puts first what fits; of that what would be done with time enough, then what leaves the least, then what is
// ridden sooner.
func betterChoice(x, y WantedChoice) int {
	no := func(is bool) int {
		if is {
			return 0
		}
		return 1
	}
	sooner := func(a, b *time.Time) int {
		switch {
		case a == nil || b == nil:
			return cmp.Compare(no(a != nil), no(b != nil))
		}
		return a.Compare(*b)
	}
	if x.Fits != y.Fits || !x.Fits {
		return cmp.Or(cmp.Compare(no(x.Fits), no(y.Fits)), sooner(x.RiddenAt, y.RiddenAt))
	}
	return cmp.Or(cmp.Compare(no(x.Recommended), no(y.Recommended)), cmp.Compare(no(x.Usual), no(y.Usual)), cmp.Compare(len(x.Against), len(y.Against)),
		cmp.Compare(len(x.Misses), len(y.Misses)), sooner(x.RiddenAt, y.RiddenAt))
}

// couldBeDone is when a bike would be done by a plan with no other promise kept later; nil where there is no room for it.
func (d *floorDay) couldBeDone(bike store.Bike, a jobs.Intake, plan clean.Plan, summary jobs.JobPlan, offers *dayplan.Offers) (*time.Time, error) {
	l := &jobs.LoadedJob{Job: store.Job{ID: uuid.New(), BikeID: bike.ID, CreatedAt: d.now, State: store.JobPlanned}, Bike: bike, At: d.now}
	var err error
	if l.Job.Intake, err = json.Marshal(a); err != nil {
		return nil, err
	}
	if l.Steps, err = jobs.NewSteps(l, plan, a.Complaints, summary.Lubricant); err != nil {
		return nil, err
	}
	if err := l.Read(); err != nil {
		return nil, err
	}
	with := d.clone()
	with.stints = maps.Clone(d.stints)
	with.add(l)
	early, ever, err := offers.Early(with.problem.Jobs[len(with.problem.Jobs)-1], wantedTries, with.problem.Places[len(d.problem.Places):]...)
	if err != nil || !ever {
		return nil, err
	}
	at := d.time(early)
	return &at, nil
}

// closes is when the last of today's hands goes home, or of the next day on which somebody works.
func (d *floorDay) closes() *time.Time {
	var last *time.Time
	for _, p := range d.problem.People {
		for _, h := range p.Hours {
			ends := d.time(h.To)
			if !ends.After(d.now) {
				continue
			}
			first := last == nil || ends.Before(*last) && ends.YearDay() != last.YearDay()
			if first || ends.YearDay() == last.YearDay() && ends.After(*last) {
				last = &ends
			}
		}
	}
	return last
}
