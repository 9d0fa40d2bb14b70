package shop

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
	"earnestpony/internal/store"
)

// wallPlan is what is kept of the plan on the wall, in times of the clock.
type wallPlan struct {
	Steps     []wallStep `json:"steps"`
	NotPlaced []wallMiss `json:"not_placed,omitempty"`
	Strained  []wallMiss `json:"strained,omitempty"` // placed, and later than a wait that runs allows
	Late      []wallLate `json:"late,omitempty"`
	Moved     []Moved    `json:"moved,omitempty"`   // since the plan before
	Because   []Because  `json:"because,omitempty"` // what moved them
	Helps     []Help     `json:"helps,omitempty"`
}

type wallStep struct {
	Job    string    `json:"job"`
	Step   string    `json:"step"`
	Person string    `json:"person"`
	Start  time.Time `json:"start"`
	End    time.Time `json:"end"`
}

type wallMiss struct {
	Job  string `json:"job"`
	Step string `json:"step"`
	Why  string `json:"why"`
}

type wallLate struct {
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
	What  string `json:"what"` // came, left, took-longer, sooner-done, began-late, not-begun, changed
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

// How long is thought about the wall: a first plan is there in a few milliseconds, and this makes it good.
const (
	wallTries  = 1500
	helpTries  = 150
	offerTries = 600
)

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

// wall returns the plan on the wall, made again where something happened or time passed that it did not
// reckon with.
func (s *Service) wall(ctx context.Context, d *floorDay) (wallPlan, time.Time, error) {
	for range 3 {
		kept, err := s.store.Read().Wall(ctx)
		if err != nil && !notFound(err) {
			return wallPlan{}, time.Time{}, err
		}
		of, err := d.fingerprint()
		if err != nil {
			return wallPlan{}, time.Time{}, err
		}
		var before wallPlan
		if kept.Version > 0 {
			if err := json.Unmarshal(kept.Plan, &before); err != nil {
				return wallPlan{}, time.Time{}, err
			}
			if kept.Of == of && s.now().Before(kept.Until) {
				return before, kept.MadeAt, nil
			}
		}
		after, until, err := d.replan(before)
		if err != nil {
			return wallPlan{}, time.Time{}, err
		}
		if len(after.Moved) == 0 && kept.Version > 0 { // what moved last is still worth reading
			after.Moved, after.Because = before.Moved, before.Because
		}
		text, err := json.Marshal(after)
		if err != nil {
			return wallPlan{}, time.Time{}, err
		}
		w := store.Wall{Version: kept.Version, MadeAt: s.now(), Of: of, Until: until, Plan: text}
		err = s.store.Write(ctx, func(tx store.Tx) error {
			if err := tx.SaveWall(ctx, &w); err != nil {
				return err
			}
			return tx.Notify(ctx, `{"topic":"floor"}`)
		})
		if errors.Is(err, store.ErrStale) { // another process was quicker
			continue
		}
		return after, w.MadeAt, err
	}
	return wallPlan{}, time.Time{}, &Problem{Kind: Conflict, Code: "changed-meanwhile", Message: "The floor changes faster than it is planned: look again."}
}

// replan makes the plan again, with as little moved from the one before as can be.
func (d *floorDay) replan(before wallPlan) (wallPlan, time.Time, error) {
	for _, s := range before.Steps {
		d.problem.Previous = append(d.problem.Previous, dayplan.Placed{Job: s.Job, Step: s.Step, Person: s.Person, Start: d.minute(s.Start), End: d.minute(s.End)})
	}
	plan, err := solve(d.problem, wallTries)
	if err != nil {
		return wallPlan{}, time.Time{}, err
	}
	w := wallPlan{}
	// A wait that runs may end when nobody is here. What ends it is done as soon as somebody is, and said to be late:
	// a bike is not left out of the plan for it.
	if w.Strained = d.strain(plan); len(w.Strained) > 0 {
		if plan, err = solve(d.problem, wallTries); err != nil {
			return wallPlan{}, time.Time{}, err
		}
	}
	for _, s := range plan.Steps {
		w.Steps = append(w.Steps, wallStep{s.Job, s.Step, s.Person, d.time(s.Start), d.time(s.End)})
	}
	for _, n := range plan.NotPlaced {
		w.NotPlaced = append(w.NotPlaced, wallMiss{n.Job, n.Step, string(n.Why)})
	}
	for _, l := range plan.Late {
		w.Late = append(w.Late, wallLate{l.Job, int(l.By), l.BoundBy})
	}
	helps, err := dayplan.Remedies(d.problem, plan, 1, helpTries)
	if err != nil {
		return w, time.Time{}, err
	}
	for _, r := range helps {
		h := Help{Place: r.Place, SaveMin: int(r.Saves)}
		if r.Person != "" {
			h.Person = d.name(r.Person)
		}
		w.Helps = append(w.Helps, h)
	}
	if len(before.Steps) > 0 {
		w.Moved, w.Because = d.moved(before, w), d.because(before)
	}
	return w, d.holdsUntil(w), nil
}

// strain takes the limits off the waits that run and that a plan could not keep.
func (d *floorDay) strain(plan dayplan.Plan) []wallMiss {
	fixed := map[[2]string]bool{}
	for _, f := range d.problem.Fixed {
		fixed[[2]string{f.Job, f.Step}] = true
	}
	var all []wallMiss
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
						all = append(all, wallMiss{n.Job, n.Step, "strained"})
					}
				}
			}
		}
	}
	return all
}

func solve(p dayplan.Problem, tries int) (dayplan.Plan, error) {
	s, err := dayplan.New(p, 1)
	if err != nil {
		return dayplan.Plan{}, err
	}
	s.Improve(tries)
	return s.Best(), nil
}

// holdsUntil is when the clock alone makes a plan untrue: a step was to begin and did not, or one that was begun
// takes longer than it was given.
func (d *floorDay) holdsUntil(w wallPlan) time.Time {
	until := d.midnight.AddDate(0, 0, 1)
	if now := d.time(d.problem.Now); !now.Before(until) {
		until = now.AddDate(0, 0, 1)
	}
	for _, s := range w.Steps {
		st, is := d.stints[[2]string{s.Job, s.Step}]
		at := s.Start.Add(time.Minute) // nobody begins on the second
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

func (d *floorDay) name(person string) string {
	for _, l := range d.layouts {
		for id, p := range l.people {
			if id.String() == person {
				return p.Name
			}
		}
	}
	return person
}

// moved are the steps that stand elsewhere than they did, but for those that were begun.
func (d *floorDay) moved(before, after wallPlan) []Moved {
	was := map[[2]string]wallStep{}
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
		m := Moved{Tag: tagOf(st.job.bike), Title: st.title(), From: b.Start, To: s.Start}
		if b.Person != s.Person {
			m.ByBefore, m.By = d.name(b.Person), d.name(s.Person)
		}
		all = append(all, m)
	}
	slices.SortStableFunc(all, func(a, b Moved) int { return a.To.Compare(b.To) })
	return all
}

func (s stint) title() string { return s.job.specs[s.steps[0]].Title }

// because says what happened since the wall was made.
func (d *floorDay) because(before wallPlan) []Because {
	var all []Because
	known, here := map[string]bool{}, map[string]bool{}
	now := d.time(d.problem.Now)
	for _, l := range d.layouts {
		here[l.job.ID.String()] = true
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
		tag, late := tagOf(st.job.bike), func(t time.Time) int { return int(t.Sub(s.Start) / time.Minute) }
		switch {
		case st.begun != nil && st.minutes > 0 && now.After(s.End):
			all = append(all, Because{"took-longer", tag, st.title(), int(now.Sub(s.End)/time.Minute) + 1})
		case st.begun != nil && st.minutes > 0 && late(*st.begun) > 1:
			all = append(all, Because{"began-late", tag, st.title(), late(*st.begun)})
		case st.begun == nil && late(now) >= 1:
			all = append(all, Because{"not-begun", tag, st.title(), late(now)})
		}
	}
	for _, l := range d.layouts {
		if !known[l.job.ID.String()] {
			all = append(all, Because{What: "came", Tag: tagOf(l.bike)})
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
	return all[:min(len(all), mostBecause)]
}

var becauses = []string{"took-longer", "came", "left", "began-late", "not-begun", "changed"}

// mostBecause is how many reasons are named; nobody reads more.
const mostBecause = 4
