package schedule

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"earnestpony/core/dayplan"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// dayPlan is what is kept of the plan on the wall, in times of the clock.
type dayPlan struct {
	Steps     []planStep `json:"steps"`
	NotPlaced []unplaced `json:"not_placed,omitempty"`
	Strained  []unplaced `json:"strained,omitempty"` // placed, and later than a wait that runs allows
	Late      []latePlan `json:"late,omitempty"`
	Moved     []Moved    `json:"moved,omitempty"`   // since the plan before
	Because   []Because  `json:"because,omitempty"` // what moved them
	Helps     []Help     `json:"helps,omitempty"`
	Cost      planCost   `json:"cost"`
	Tries     int        `json:"tries"`          // to improve on it
	Away      []string   `json:"away,omitempty"` // absences that it reckons with, by id
}

type planCost struct {
	NotPlaced int `json:"not_placed"`
	LateMin   int `json:"weighted_late_min"`
	FinishMin int `json:"finish_sum_min"` // from the first midnight
	Switches  int `json:"switches"`
	Handovers int `json:"handovers"`
}

type planStep struct {
	Job    string    `json:"job"`
	Step   string    `json:"step"`
	Person string    `json:"person"`
	Start  time.Time `json:"start"`
	End    time.Time `json:"end"`
}

type unplaced struct {
	Job  string `json:"job"`
	Step string `json:"step"`
	Why  string `json:"why"`
}

type latePlan struct {
	Job     string `json:"job"`
	ByMin   int    `json:"by_min"`
	BoundBy string `json:"bound_by"`
}

// Moved is a step that stands elsewhere on the wall than it did.
type Moved struct {
	Tag      string    `json:"tag"`
	Title    string    `json:"title"`
	From     time.Time `json:"from"`
	To       time.Time `json:"to"`
	ByBefore string    `json:"by_before,omitempty"` // where somebody else does it
	By       string    `json:"by,omitempty"`
}

// Because is something that happened since the wall was made, by which it moved.
type Because struct {
	What  string `json:"what"` // away, came, left, took-longer, sooner-done, began-late, not-begun, changed
	Tag   string `json:"tag,omitempty"`
	Title string `json:"title,omitempty"`
	Min   int    `json:"min,omitempty"`
}

// Help is what would make promises less late.
type Help struct {
	Place   string `json:"place,omitempty"`
	Person  string `json:"person,omitempty"` // by name: an hour more of them
	SaveMin int    `json:"save_min"`         // weighted
}

// effort is how long is thought about a plan: so many tries, and no longer than a budget of time; zero for no bound.
type effort struct {
	tries  int
	budget time.Duration
}

// A first plan is there in a few milliseconds; whoever looks waits a moment for a good one, and while nobody waits it
// is improved on.
var (
	toShow     = effort{1500, 300 * time.Millisecond}
	toOffer    = effort{600, 150 * time.Millisecond}
	toImprove  = effort{6000, 600 * time.Millisecond}
	triesAlone = 400 // of each, where plans are made by tries alone
)

// settled is for how long a plan stood before it is worth more thought.
const settled = 10 * time.Second

// helpTries is how often each remedy is tried: less often on a day of many steps, for which each takes longer.
func (d *floorDay) helpTries() int { return min(max(2000/d.steps(), 3), 25) }

// offerTries is how often is tried to fit another bike in.
func (s *Schedule) offerTries(d *floorDay) int { return min(s.effort(toOffer).tries, 60_000/d.steps()) }

// steps is how many the day has, and one.
func (d *floorDay) steps() int {
	sum := 1
	for _, j := range d.problem.Jobs {
		sum += len(j.Steps)
	}
	return sum
}

// PlanByTries has plans made by a number of tries and not by time: the same day on any machine, however busy it is.
// It is called before the schedule is used.
func (s *Schedule) PlanByTries() { s.byTries = true }

func (s *Schedule) effort(e effort) effort {
	if s.byTries {
		return effort{tries: triesAlone}
	}
	return e
}

// grace is for how long a step may stand on the wall that was to begin: nobody begins on the minute, and each that passes
// would move all that follows.
const grace = 5 * time.Minute

// fingerprint tells problems apart that call for another plan, whatever minute it is.
func (d *floorDay) fingerprint() (string, error) {
	p := d.problem
	p.Now, p.Previous = 0, nil
	p.Jobs = slices.Clone(p.Jobs)
	for i := range p.Jobs { // what is under way grows by the minute; that it is over its time is told by the clock
		p.Jobs[i].Arrives = 0
		p.Jobs[i].Steps = slices.Clone(p.Jobs[i].Steps)
		for k := range p.Jobs[i].Steps {
			if s := d.stints[[2]string{p.Jobs[i].ID, p.Jobs[i].Steps[k].ID}]; s.begun != nil {
				p.Jobs[i].Steps[k].Attended = 0
			}
		}
	}
	text, err := json.Marshal(struct {
		Midnight time.Time
		Problem  dayplan.Problem
	}{d.midnight, p})
	return fmt.Sprintf("%x", sha256.Sum256(text)), err
}

// wall is the plan that hangs there.
type wall struct {
	plan    dayPlan
	madeAt  time.Time
	seeking bool // something happened since, and a plan that reckons with it is being sought
}

// currentPlan returns the plan on the wall, made again where something happened or time passed that it did not reckon
// with. Where that takes more than a moment the last one is returned, and whoever looks hears of the new one.
func (s *Schedule) currentPlan(ctx context.Context, d *floorDay) (wall, error) {
	kept, err := s.desk.Store.Read(ctx).DayPlan(ctx)
	if err != nil && !record.IsNotFound(err) {
		return wall{}, err
	}
	of, err := d.fingerprint()
	if err != nil {
		return wall{}, err
	}
	var before dayPlan
	if kept.Version > 0 {
		if err := json.Unmarshal(kept.Plan, &before); err != nil {
			return wall{}, err
		}
		if kept.Fingerprint == of && s.desk.Now().Before(kept.Until) {
			return wall{plan: before, madeAt: kept.MadeAt}, nil
		}
	}
	// It is sought on though whoever asked goes: others look at the same wall.
	apart := d.clone()
	found := s.sought.DoChan(of, func() (any, error) {
		ctx, done := context.WithTimeout(context.WithoutCancel(ctx), seeksFor)
		defer done()
		return s.seek(ctx, apart, of)
	})
	var late <-chan time.Time
	if kept.Version > 0 && !s.byTries {
		timer := time.NewTimer(patience)
		defer timer.Stop()
		late = timer.C
	}
	select {
	case r := <-found:
		if r.Err != nil {
			return wall{}, r.Err
		}
		return r.Val.(wall), nil
	case <-late:
		return wall{before, kept.MadeAt, true}, nil
	case <-ctx.Done():
		return wall{}, ctx.Err()
	}
}

// How long whoever looks waits for a new plan before they see the last one, and how long one is sought at most.
const (
	patience = 60 * time.Millisecond
	seeksFor = 20 * time.Second
)

// seek makes the plan anew and puts it up.
func (s *Schedule) seek(ctx context.Context, d *floorDay, of string) (wall, error) {
	for range 3 {
		kept, err := s.desk.Store.Read(ctx).DayPlan(ctx)
		if err != nil && !record.IsNotFound(err) {
			return wall{}, err
		}
		var before dayPlan
		if kept.Version > 0 {
			if err := json.Unmarshal(kept.Plan, &before); err != nil {
				return wall{}, err
			}
			if kept.Fingerprint == of && s.desk.Now().Before(kept.Until) { // put up meanwhile
				return wall{plan: before, madeAt: kept.MadeAt}, nil
			}
		}
		after, until, err := d.replan(before, s.effort(toShow))
		if err != nil {
			return wall{}, err
		}
		if len(after.Moved) == 0 && kept.Version > 0 { // what moved last is still worth reading
			after.Moved, after.Because = before.Moved, before.Because
		}
		w := store.DayPlan{Version: kept.Version, MadeAt: s.desk.Now(), Fingerprint: of, Until: until}
		err = s.savePlan(ctx, w, after, true)
		if errors.Is(err, store.ErrStale) { // another process was quicker
			continue
		}
		return wall{plan: after, madeAt: w.MadeAt}, err
	}
	return wall{}, &record.Problem{Kind: record.Conflict, Code: "changed-meanwhile", Message: "The day changes faster than it is planned: try again."}
}

// savePlan puts a plan on the wall in place of the version that is there, and tells who looks of it where they are to;
// [store.ErrStale] says that another hangs there by now.
func (s *Schedule) savePlan(ctx context.Context, w store.DayPlan, plan dayPlan, tell bool) (err error) {
	if w.Plan, err = json.Marshal(plan); err != nil {
		return err
	}
	return s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		if err := tx.SaveDayPlan(ctx, &w); err != nil || !tell {
			return err
		}
		return tx.Notify(ctx, record.Changed(record.TopicFloor, ""))
	})
}

// RefreshDayPlan plans the floor again where that is called for though nobody looks, and thinks longer about a plan that was made
// in a moment.
func (s *Schedule) RefreshDayPlan(ctx context.Context) error {
	tx := s.desk.Store.Read(ctx)
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		if record.IsNotFound(err) {
			return nil // there is no shop yet
		}
		return err
	}
	d, err := s.floorDayOf(ctx, tx, h)
	if err != nil || len(d.layouts) == 0 {
		return err
	}
	hangs, err := s.currentPlan(ctx, d)
	before, madeAt := hangs.plan, hangs.madeAt
	if err != nil || hangs.seeking || before.Tries >= toImprove.tries || s.desk.Now().Sub(madeAt) < settled {
		return err
	}
	kept, err := tx.DayPlan(ctx)
	if err != nil || !kept.MadeAt.Equal(madeAt) { // another was put up since
		return err
	}
	if d, err = s.floorDayOf(ctx, tx, h); err != nil {
		return err
	}
	after, until, err := d.replan(before, s.effort(toImprove))
	if err != nil {
		return err
	}
	was, is := before.Cost.core(0), after.Cost.core(len(after.Moved))
	better := is.Less(was, d.problem.Weights)
	if !better {
		after, until = before, kept.Until
	} else {
		after.Because = append(slices.Clone(before.Because[:min(len(before.Because), maxBecause-1)]), Because{What: "better"})
		after.Moved = together(before.Moved, after.Moved)
	}
	after.Tries = toImprove.tries
	err = s.savePlan(ctx, store.DayPlan{Version: kept.Version, MadeAt: kept.MadeAt, Fingerprint: kept.Fingerprint, Until: until}, after, better)
	if errors.Is(err, store.ErrStale) { // something happened meanwhile: that plan is thought about next
		return nil
	}
	return err
}

// moving is how many minutes sooner jobs must be finished for each step that moves: once somebody went to work by the plan
// people have it in their heads.
func (d *floorDay) moving() dayplan.Minutes {
	for _, s := range d.stints {
		if s.begun != nil {
			return 4 * movesFor
		}
	}
	return movesFor
}

// together is what moved in two plans, one after the other.
func together(first, then []Moved) []Moved {
	all := slices.Clone(then)
	for _, m := range first {
		i := slices.IndexFunc(all, func(x Moved) bool { return x.Tag == m.Tag && x.Title == m.Title && x.From.Equal(m.To) })
		if i < 0 {
			all = append(all, m)
			continue
		}
		all[i].From = m.From
		if m.ByBefore != "" {
			all[i].ByBefore = m.ByBefore
		}
	}
	slices.SortStableFunc(all, func(a, b Moved) int { return a.To.Compare(b.To) })
	return all
}

func (c planCost) core(moved int) dayplan.Cost {
	return dayplan.Cost{NotPlaced: c.NotPlaced, WeightedLate: dayplan.Minutes(c.LateMin), FinishSum: dayplan.Minutes(c.FinishMin), Switches: c.Switches, Handovers: c.Handovers, Changes: moved}
}

// replan makes the plan again, with as little moved from the one before as can be.
func (d *floorDay) replan(before dayPlan, e effort) (dayPlan, time.Time, error) {
	d.setPrevious(before)
	d.problem.Weights.Move = d.moving()
	plan, strained, err := d.planned(e)
	if err != nil {
		return dayPlan{}, time.Time{}, err
	}
	w := dayPlan{Strained: strained}
	w.Tries = plan.Iterations
	for _, a := range d.absences {
		w.Away = append(w.Away, a.ID.String())
	}
	w.Cost = planCost{plan.Cost.NotPlaced, int(plan.Cost.WeightedLate), int(plan.Cost.FinishSum), plan.Cost.Switches, plan.Cost.Handovers}
	for _, s := range plan.Steps {
		w.Steps = append(w.Steps, planStep{s.Job, s.Step, s.Person, d.time(s.Start), d.time(s.End)})
	}
	for _, n := range plan.NotPlaced {
		w.NotPlaced = append(w.NotPlaced, unplaced{n.Job, n.Step, string(n.Why)})
	}
	for _, l := range plan.Late {
		w.Late = append(w.Late, latePlan{l.Job, int(l.By), l.BoundBy})
	}
	helps, err := dayplan.Remedies(d.problem, plan, 1, d.helpTries())
	if err != nil {
		return w, time.Time{}, err
	}
	for _, r := range helps {
		h := Help{Place: r.Place, SaveMin: int(r.Saves)}
		if r.Person != "" {
			h.Person = d.people[r.Person].Name
		}
		w.Helps = append(w.Helps, h)
	}
	if len(before.Steps) > 0 {
		w.Moved, w.Because = d.moved(before, w), d.because(before)
	}
	return w, d.holdsUntil(w), nil
}

// planned is the best plan that is found. A wait that runs may end when nobody is here, or all are at other things that
// cannot wait: what ends it is done as soon as somebody can, and said to be late; a bike is not left out of the plan for it.
func (d *floorDay) planned(e effort) (plan dayplan.Plan, strained []unplaced, err error) {
	for {
		if plan, err = solve(d.problem, e); err != nil {
			return plan, strained, err
		}
		more := d.strain(plan)
		if len(more) == 0 {
			return plan, strained, nil
		}
		strained = append(strained, more...)
	}
}

// strain takes the limits off the waits that run and that a plan could not keep.
func (d *floorDay) strain(plan dayplan.Plan) []unplaced {
	fixed := map[[2]string]bool{}
	for _, f := range d.problem.Fixed {
		fixed[[2]string{f.Job, f.Step}] = true
	}
	var all []unplaced
	for _, n := range plan.NotPlaced {
		if n.Why != dayplan.Window {
			continue
		}
		for j := range d.problem.Jobs {
			for i := range d.problem.Jobs[j].Steps {
				step := &d.problem.Jobs[j].Steps[i]
				if d.problem.Jobs[j].ID != n.Job || step.ID != n.Step {
					continue
				}
				for k := range step.After {
					if lag := &step.After[k]; lag.Most != nil && fixed[[2]string{n.Job, lag.Step}] {
						lag.Most = nil
						all = append(all, unplaced{n.Job, n.Step, "strained"})
					}
				}
			}
		}
	}
	return all
}

// solve improves on a plan so many times, and stops early where that takes too long or nothing can be better.
func solve(p dayplan.Problem, e effort) (dayplan.Plan, error) {
	began := time.Now()
	s, err := dayplan.New(p, 1)
	if err != nil {
		return dayplan.Plan{}, err
	}
	const round = 20
	for n := 0; n < e.tries && !s.Done() && (e.budget == 0 || time.Since(began) < e.budget); n += round {
		s.Improve(round)
	}
	return s.Best(), nil
}

// holdsUntil is when the clock alone makes a plan untrue: a step was to begin and did not, or one that was begun
// takes longer than it was given.
func (d *floorDay) holdsUntil(w dayPlan) time.Time {
	until := d.midnight.AddDate(0, 0, 1)
	if now := d.time(d.problem.Now); !now.Before(until) {
		until = now.AddDate(0, 0, 1)
	}
	for _, s := range w.Steps {
		st, is := d.stints[[2]string{s.Job, s.Step}]
		at := s.Start.Add(grace)
		if is && st.begun != nil {
			if st.minutes == 0 {
				continue
			}
			at = s.End
		}
		if at.Before(until) {
			until = at
		}
	}
	return until
}

// moved are the steps that stand elsewhere than they did, but for those that were begun.
func (d *floorDay) moved(before, after dayPlan) []Moved {
	was := map[[2]string]planStep{}
	for _, s := range before.Steps {
		was[[2]string{s.Job, s.Step}] = s
	}
	var all []Moved
	for _, s := range after.Steps {
		key := [2]string{s.Job, s.Step}
		b, there := was[key]
		st, is := d.stints[key]
		if !there || !is || st.begun != nil || b.Start.Equal(s.Start) && b.Person == s.Person {
			continue
		}
		m := Moved{Tag: record.TagOf(st.job.Bike), Title: st.title(), From: b.Start, To: s.Start}
		if b.Person != s.Person {
			m.ByBefore, m.By = d.people[b.Person].Name, d.people[s.Person].Name
		}
		all = append(all, m)
	}
	slices.SortStableFunc(all, func(a, b Moved) int { return a.To.Compare(b.To) })
	return all
}

func (s stint) title() string { return s.job.Specs[s.steps[0]].Title }

// because says what happened since the wall was made.
func (d *floorDay) because(before dayPlan) []Because {
	var all []Because
	known, here := map[string]bool{}, map[string]bool{}
	now := d.time(d.problem.Now)
	for _, l := range d.layouts {
		here[l.Job.ID.String()] = true
	}
	gone := 0
	for _, s := range before.Steps {
		if !here[s.Job] && !known[s.Job] {
			gone++
		}
		known[s.Job] = true
		st, is := d.stints[[2]string{s.Job, s.Step}]
		if !is {
			continue
		}
		tag, late := record.TagOf(st.job.Bike), func(t time.Time) int { return int(t.Sub(s.Start) / time.Minute) }
		switch {
		case st.begun != nil && st.minutes > 0 && now.After(s.End):
			all = append(all, Because{"took-longer", tag, st.title(), int(now.Sub(s.End)/time.Minute) + 1})
		case st.begun != nil && st.minutes > 0 && late(*st.begun) > 1:
			all = append(all, Because{"began-late", tag, st.title(), late(*st.begun)})
		case st.begun == nil && late(now) >= 1:
			all = append(all, Because{"not-begun", tag, st.title(), late(now)})
		}
	}
	toDo := map[string]bool{}
	for key := range d.stints {
		toDo[key[0]] = true
	}
	for _, l := range d.layouts {
		if id := l.Job.ID.String(); toDo[id] && !known[id] { // with nothing left to do it is on no wall
			all = append(all, Because{What: "came", Tag: record.TagOf(l.Bike)})
		}
	}
	for _, a := range d.absences {
		if !slices.Contains(before.Away, a.ID.String()) {
			all = append(all, Because{What: "away", Title: d.people[a.PersonID.String()].Name})
		}
	}
	if gone > 0 {
		all = append(all, Because{What: "left", Min: gone})
	}
	if len(all) == 0 {
		all = append(all, Because{What: "changed"})
	}
	// What somebody did comes before what nobody did: that follows from it more often than not.
	slices.SortStableFunc(all, func(a, b Because) int {
		return cmp.Compare(slices.Index(becauses, a.What), slices.Index(becauses, b.What))
	})
	return all[:min(len(all), maxBecause)]
}

var becauses = []string{"away", "took-longer", "came", "left", "began-late", "not-begun", "changed"}

// maxBecause is how many reasons are named; nobody reads more.
const maxBecause = 4
