package schedule

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"earnestpony/core/dayplan"
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
	if e != (effort{}) {
		if w.Helps, err = d.helps(plan); err != nil {
			return w, time.Time{}, err
		}
	}
	if len(before.Steps) > 0 {
		w.Moved, w.Because = d.moved(before, w), d.because(before)
	}
	return w, d.holdsUntil(w), nil
}

// helps are what would make a plan's promises less late.
func (d *floorDay) helps(plan dayplan.Plan) (all []Help, err error) {
	remedies, err := dayplan.Remedies(d.problem, plan, 1, d.helpTries())
	if err != nil {
		return nil, err
	}
	for _, r := range remedies {
		h := Help{Place: r.Place, SaveMin: int(r.Saves)}
		if r.Person != "" {
			h.Person = d.people[r.Person].Name
		}
		all = append(all, h)
	}
	return all, nil
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

func (s stint) title() string { return s.job.Specs[s.steps[0]].Title }
