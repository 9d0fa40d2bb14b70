package calc

import (
	"context"
	"errors"
	"fmt"
	"time"

	"earnestpony/core/dayplan"
)

// DayPlanAnswer is what [DayPlan] answers. Minutes count from midnight of the first day.
type DayPlanAnswer struct {
	Steps      []DayPlanStep   `json:"steps"`
	NotPlaced  []DayPlanRefuse `json:"not_placed"`
	Late       []DayPlanLate   `json:"late"`
	Cost       DayPlanCost     `json:"cost"`
	LowerBound DayPlanBound    `json:"lower_bound"`
	Iterations int             `json:"iterations"`
}

// DayPlanStep is who does a step when.
type DayPlanStep struct {
	Job      string `json:"job"`
	Step     string `json:"step"`
	Person   string `json:"person"`
	StartMin int    `json:"start_min"`
	EndMin   int    `json:"end_min"`
}

// DayPlanRefuse is a step that found no place, and the rule that stops it.
type DayPlanRefuse struct {
	Job  string `json:"job"`
	Step string `json:"step"`
	Code string `json:"code"`
}

// DayPlanLate is a promise that is not kept, and what holds it back.
type DayPlanLate struct {
	Job     string `json:"job"`
	ByMin   int    `json:"by_min"`
	BoundBy string `json:"bound_by"`
}

// DayPlanCost is what the plan is judged by, in turn.
type DayPlanCost struct {
	WeightedLateMin int `json:"weighted_late_min"`
	FinishSumMin    int `json:"finish_sum_min"`
	Switches        int `json:"switches"`
	Handovers       int `json:"handovers"`
	Changes         int `json:"changes"`
}

// DayPlanBound is what no plan can be better than.
type DayPlanBound struct {
	WeightedLateMin int `json:"weighted_late_min"`
	FinishSumMin    int `json:"finish_sum_min"`
}

// What a question may hold: far beyond any day, and still answered in moments.
const (
	mostMinutes  = 60 * 24 * 60
	mostPlanJobs = 200
	mostSteps    = 100    // of a job
	mostAll      = 1500   // steps of all jobs
	mostBudget   = 10_000 // milliseconds
	usualBudget  = 300
)

// DayPlan lays out a day of jobs; see the contract for its input. It goes on improving for the time it is
// given, which decides how many iterations there are; the same number of them gives the same plan.
func DayPlan(ctx context.Context, input []byte) (*DayPlanAnswer, error) {
	began := time.Now()
	var f faults
	in, ok := root(input, &f)
	if !ok {
		return nil, f.refusal()
	}
	p := dayplan.Problem{Now: dayplan.Minute(in.wholeNeeded("now_min", 0, mostMinutes)), Weights: dayplan.Usual}
	seed, _ := in.whole("seed", 0, 1<<31)
	budget := usualBudget
	if in.has("budget_ms") {
		budget = in.wholeNeeded("budget_ms", 0, mostBudget)
	} else {
		in.take("budget_ms")
	}
	for _, o := range in.objects("people", 0, mostPlanJobs) {
		p.People = append(p.People, readPerson(o))
	}
	for _, o := range in.objects("places", 0, mostPlanJobs) {
		p.Places = append(p.Places, dayplan.Place{ID: named(o, "id", true, someText), Count: o.wholeNeeded("count", 0, 1000)})
		o.done()
	}
	once(&f, "people", p.People, func(p dayplan.Person) string { return p.ID })
	once(&f, "places", p.Places, func(p dayplan.Place) string { return p.ID })
	for _, o := range in.objects("jobs", 0, mostPlanJobs) {
		p.Jobs = append(p.Jobs, readJob(o, p))
	}
	once(&f, "jobs", p.Jobs, func(j dayplan.Job) string { return j.ID })
	all := 0
	for _, j := range p.Jobs {
		all += len(j.Steps)
	}
	if all > mostAll {
		f.add("jobs", "out-of-range", "%d steps in all: a day has at most %d", all, mostAll)
	}
	for _, list := range []struct {
		name string
		into *[]dayplan.Placed
	}{{"fixed", &p.Fixed}, {"previous", &p.Previous}} {
		for _, o := range in.objects(list.name, 0, mostAll) {
			s := dayplan.Placed{Job: named(o, "job", true, someText), Step: named(o, "step", true, someText), Person: named(o, "person", true, someText),
				Start: dayplan.Minute(o.wholeNeeded("start_min", -mostMinutes, mostMinutes))}
			o.take("end_min") // an answer's steps are the next question's previous
			o.done()
			*list.into = append(*list.into, s)
		}
	}
	in.done()
	if err := f.refusal(); err != nil {
		return nil, err
	}
	s, err := dayplan.New(p, uint64(seed))
	if err != nil {
		return nil, faultOf(err, p)
	}
	for !s.Done() && ctx.Err() == nil && time.Since(began) < time.Duration(budget)*time.Millisecond {
		s.Improve(1)
	}
	return newDayPlanAnswer(s.Best()), nil
}

func readPerson(o *object) dayplan.Person {
	p := dayplan.Person{ID: named(o, "id", true, someText)}
	p.Skills, _ = decode[[]string](o, "skills", "a list of skills")
	hours, _ := decode[[][]int](o, "hours", "a list of stretches, each of two whole minutes")
	last := -1
	for i, h := range hours {
		at := fmt.Sprintf("%s[%d]", o.at("hours"), i)
		switch {
		case len(h) != 2 || h[0] < 0 || h[1] > mostMinutes || h[0] >= h[1]:
			o.faults.add(at, "out-of-range", "a stretch is an earlier and a later minute, 0 to %d", mostMinutes)
		case h[0] < last:
			o.faults.add(at, "out-of-order", "a stretch begins after the one before it")
		default:
			p.Hours = append(p.Hours, dayplan.Stretch{From: dayplan.Minute(h[0]), To: dayplan.Minute(h[1])})
			last = h[1]
		}
	}
	o.done()
	return p
}

func readJob(o *object, p dayplan.Problem) dayplan.Job {
	job := dayplan.Job{ID: named(o, "id", true, someText), Arrives: dayplan.Minute(o.wholeNeeded("arrives_min", 0, mostMinutes)),
		Promised: dayplan.Minute(o.wholeNeeded("promised_min", 0, mostMinutes)), Weight: 1}
	if o.has("weight") {
		job.Weight = o.wholeNeeded("weight", 0, 1000)
	} else {
		o.take("weight")
	}
	known := map[string]bool{}
	steps := o.objects("steps", 0, mostSteps)
	for _, s := range steps {
		step := dayplan.Step{ID: named(s, "id", true, someText), Skill: named(s, "skill", true, someText), Attended: dayplan.Minutes(s.wholeNeeded("attended_min", 0, 1440))}
		for _, l := range s.objects("after", 0, mostSteps) {
			lag := dayplan.Lag{Step: named(l, "step", true, someText)}
			least, _ := l.whole("least_min", 0, mostMinutes)
			lag.Least = dayplan.Minutes(least)
			if l.has("most_min") {
				most := dayplan.Minutes(l.wholeNeeded("most_min", 0, mostMinutes))
				if most < lag.Least {
					l.faults.add(l.at("most_min"), "out-of-order", "it is less than least_min")
				}
				lag.Most = &most
			} else {
				l.take("most_min")
			}
			l.done()
			step.After = append(step.After, lag)
		}
		s.done()
		known[step.ID] = true
		job.Steps = append(job.Steps, step)
	}
	for i, step := range job.Steps {
		for k, lag := range step.After {
			if lag.Step != "" && !known[lag.Step] {
				o.faults.add(fmt.Sprintf("%s.after[%d].step", steps[i].path, k), "unknown-value", "the job has no step %q", lag.Step)
			}
		}
	}
	for _, h := range o.objects("holds", 0, mostSteps) {
		hold := dayplan.Hold{Place: named(h, "place", true, func(s string) (string, error) {
			for _, place := range p.Places {
				if place.ID == s {
					return s, nil
				}
			}
			return s, fmt.Errorf("there is no place %q", s)
		})}
		aStep := func(s string) (string, error) {
			if !known[s] {
				return s, fmt.Errorf("the job has no step %q", s)
			}
			return s, nil
		}
		hold.From, hold.To = named(h, "from_step", true, aStep), named(h, "to_step", true, aStep)
		hold.Through = named(h, "to", true, func(s string) (bool, error) {
			if s != "start" && s != "end" {
				return false, fmt.Errorf("%q is neither start nor end", s)
			}
			return s == "end", nil
		})
		h.done()
		job.Holds = append(job.Holds, hold)
	}
	o.done()
	return job
}

func someText(s string) (string, error) {
	if s == "" {
		return s, errors.New("it is empty")
	}
	return s, nil
}

// once notes what is there twice under one id.
func once[T any](f *faults, list string, all []T, id func(T) string) {
	seen := map[string]bool{}
	for i, one := range all {
		if name := id(one); name != "" && seen[name] {
			f.add(fmt.Sprintf("%s[%d].id", list, i), "twice", "there is a %q already", name)
		}
		seen[id(one)] = true
	}
}

// faultOf is what the core found wrong, at the path of the job it is about.
func faultOf(err error, p dayplan.Problem) error {
	var fault *dayplan.FaultError
	if !errors.As(err, &fault) {
		return err
	}
	path := "fixed"
	for i, job := range p.Jobs {
		if job.ID == fault.Job {
			path = fmt.Sprintf("jobs[%d]", i)
		}
	}
	return &Refusal{[]Field{{path, "makes-no-sense", fault.Error()}}}
}

func newDayPlanAnswer(p dayplan.Plan) *DayPlanAnswer {
	a := &DayPlanAnswer{Steps: []DayPlanStep{}, NotPlaced: []DayPlanRefuse{}, Late: []DayPlanLate{}, Iterations: p.Iterations,
		Cost:       DayPlanCost{int(p.Cost.WeightedLate), int(p.Cost.FinishSum), p.Cost.Switches, p.Cost.Handovers, p.Cost.Changes},
		LowerBound: DayPlanBound{int(p.Bound.WeightedLate), int(p.Bound.FinishSum)}}
	for _, s := range p.Steps {
		a.Steps = append(a.Steps, DayPlanStep{s.Job, s.Step, s.Person, int(s.Start), int(s.End)})
	}
	for _, n := range p.NotPlaced {
		a.NotPlaced = append(a.NotPlaced, DayPlanRefuse{n.Job, n.Step, string(n.Why)})
	}
	for _, l := range p.Late {
		a.Late = append(a.Late, DayPlanLate{l.Job, int(l.By), l.BoundBy})
	}
	return a
}
