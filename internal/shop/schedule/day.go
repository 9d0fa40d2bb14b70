package schedule

import (
	"context"
	"log/slog"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/dayplan"
	"earnestpony/core/wallclock"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// floorDay is the open jobs as a day to be planned.
type floorDay struct {
	problem  dayplan.Problem
	now      time.Time
	midnight time.Time         // that minutes count from
	layouts  []*jobs.LoadedJob // of the jobs that are planned
	stints   map[[2]string]stint
	guessed  map[string]bool // jobs that came in and are not planned yet: laid out as would be recommended
	absences []store.Absence
	people   map[string]record.Person // everybody, by id
}

// stint is what somebody does in one go: steps of one phase and place that follow each other without a wait.
type stint struct {
	job     *jobs.LoadedJob
	steps   []int // of the job
	minutes int
	begun   *time.Time // somebody is at it
	by      *uuid.UUID
	over    bool // begun, and over its time
}

// unpromised is when a job is due that no time was promised for: after all that were.
const unpromised = dayplan.Minute(rules.FloorDays * 24 * 60 * 2)

// maxInOneGo is how many minutes of small steps are planned as one thing to do.
const maxInOneGo = 40

// longWait is how many minutes a bike waits before it is taken off its stand for another.
const longWait = 20

// floorDayOf lays the open jobs out as a day to be planned.
func (s *Schedule) floorDayOf(ctx context.Context, tx store.Tx, h rules.ParsedRules) (*floorDay, error) {
	everybody, err := s.desk.PeopleByID(ctx, tx)
	if err != nil {
		return nil, err
	}
	layouts, err := s.jobs.LoadOpenJobs(ctx, tx, everybody)
	if err != nil {
		return nil, err
	}
	people, err := tx.People(ctx)
	if err != nil {
		return nil, err
	}
	now := s.desk.ClockIn(h.Zone).Now()
	first := now
	for _, l := range layouts { // what is under way since yesterday counts from then
		for _, st := range l.Steps {
			if st.State == store.StepBegun && st.BegunAt.Before(first) {
				first = *st.BegunAt
			}
		}
		for _, w := range l.Waits {
			if w.EndedAt == nil && w.BeganAt.Before(first) {
				first = w.BeganAt
			}
		}
	}
	d := &floorDay{now: now, midnight: wallclock.DayStart(first, h.Zone), stints: map[[2]string]stint{}, guessed: map[string]bool{}, people: map[string]record.Person{}}
	d.problem = dayplan.Problem{Now: d.minute(now), Weights: dayplan.Weights{Switch: dayplan.Usual.Switch, Handover: dayplan.Usual.Handover, Move: movesFor}}
	for id, p := range everybody {
		d.people[id.String()] = p
	}
	d.problem.People = h.Workers(people, d.midnight, h.Rules.Recalls.ClosedOn)
	absences, err := tx.Absences(ctx, now)
	if err != nil {
		return nil, err
	}
	d.leaveOut(absences)
	for _, place := range rules.FloorPlaces {
		d.problem.Places = append(d.problem.Places, dayplan.Place{ID: string(place), Count: h.Rules.Floor.Places[string(place)]})
	}
	for _, l := range layouts {
		if l.Job.State == store.JobPlanned {
			d.add(l)
			continue
		}
		if err := s.addGuess(ctx, tx, d, l); err != nil {
			return nil, err
		}
	}
	return d, nil
}

// addGuess lays out a bike that came in and is not planned yet, as it would be recommended: it was promised too, and takes
// hands. What cannot be planned stands on no wall.
func (s *Schedule) addGuess(ctx context.Context, tx store.Tx, d *floorDay, l *jobs.LoadedJob) error {
	a, err := jobs.IntakeOf(l.Job)
	if err == nil {
		_, err = s.draftPlan(ctx, tx, l, a)
	}
	switch {
	case ctx.Err() != nil || store.IsAway(err):
		return err
	case err != nil: // the day is planned without it
		slog.Error("a bike that came in cannot be planned and is left out", "job", l.Job.ID, "err", err)
		return nil
	}
	d.guessed[l.Job.ID.String()] = true
	d.add(l)
	return nil
}

// clone is the same day with a problem that can be changed apart from this one's.
func (d *floorDay) clone() *floorDay {
	c := *d
	c.problem.Jobs = slices.Clone(d.problem.Jobs)
	for j := range c.problem.Jobs {
		steps := slices.Clone(c.problem.Jobs[j].Steps)
		for i := range steps {
			steps[i].After = slices.Clone(steps[i].After)
		}
		c.problem.Jobs[j].Steps = steps
	}
	return &c
}

// movesFor is how many minutes sooner jobs must be finished for each step that moves on the wall.
const movesFor = 3

// minute is a time in minutes from the first midnight, the one that has begun.
func (d *floorDay) minute(t time.Time) dayplan.Minute {
	return dayplan.Minute(t.Sub(d.midnight) / time.Minute)
}

func (d *floorDay) time(m dayplan.Minute) time.Time {
	return d.midnight.Add(time.Duration(m) * time.Minute)
}

// add lays a job out: what is left of it, in stints.
func (d *floorDay) add(l *jobs.LoadedJob) {
	d.layouts = append(d.layouts, l)
	j := dayJob{day: d, l: l, of: map[string]int{}, job: dayplan.Job{ID: l.Job.ID.String(), Arrives: d.problem.Now, Promised: unpromised, Weight: 1}}
	if l.Job.PromisedAt != nil {
		j.job.Promised = d.minute(*l.Job.PromisedAt)
	}
	if a, err := jobs.IntakeOf(l.Job); err == nil && a.Waiting {
		j.job.Weight = 3
	}
	j.stints()
	for i := range j.all {
		j.follow(i)
	}
	j.addStanding()
	j.addSoaking()
	for i, s := range j.all {
		d.stints[[2]string{j.job.ID, j.id(i)}] = s
	}
	d.problem.Jobs = append(d.problem.Jobs, j.job)
}

// dayJob is one job that is being laid out.
type dayJob struct {
	day *floorDay
	l   *jobs.LoadedJob
	job dayplan.Job
	all []stint
	of  map[string]int // the stint of each step that is left, by code
}

func (j *dayJob) id(i int) string { return j.job.Steps[i].ID }

// stints cuts what is left of the job into stints, in the plan's order.
func (j *dayJob) stints() {
	l, d := j.l, j.day
	for i, st := range l.Steps {
		spec := l.Specs[i]
		switch st.State {
		case store.StepOpen:
			if n := len(j.all) - 1; n >= 0 && j.joins(n, i) {
				j.all[n].steps = append(j.all[n].steps, i)
				j.all[n].minutes += spec.Minutes
				j.job.Steps[n].Attended += dayplan.Minutes(spec.Minutes)
				j.of[spec.Code] = n
				continue
			}
			keptFor := st.KeptFor
			if keptFor == nil {
				keptFor = j.atIt(i)
			}
			j.push(stint{job: l, steps: []int{i}, minutes: spec.Minutes}, spec, keptFor)
			j.pin(st.KeptAt)
		case store.StepBegun:
			since := d.minute(*st.BegunAt)
			took := int(d.problem.Now - since)
			s := stint{job: l, steps: []int{i}, minutes: planFor(spec.Minutes, took), begun: st.BegunAt, by: st.BegunBy, over: d.now.Sub(*st.BegunAt) >= time.Duration(spec.Minutes)*time.Minute}
			j.push(s, spec, nil)
			d.problem.Fixed = append(d.problem.Fixed, dayplan.Placed{Job: j.job.ID, Step: spec.Code, Person: st.BegunBy.String(), Start: since})
		case store.StepDone:
			// Only what still makes something wait is of the day.
			if w := j.runs(st.Code); w != nil {
				j.push(stint{job: l, steps: []int{i}, begun: st.DoneAt, by: st.DoneBy}, spec, nil)
				j.job.Steps[len(j.job.Steps)-1].Attended = 0
				d.problem.Fixed = append(d.problem.Fixed, dayplan.Placed{Job: j.job.ID, Step: spec.Code, Person: st.DoneBy.String(), Start: d.minute(w.BeganAt)})
			}
		case store.StepSkipped: // takes nobody's time
		}
	}
}

// atIt is who is at the steps just before one, in the same phase and place, and is here to go on with it: nobody takes a bike
// out of their hands. Nil where nobody is.
func (j *dayJob) atIt(i int) *uuid.UUID {
	n := len(j.all) - 1
	if n < 0 || j.all[n].begun == nil || j.all[n].minutes == 0 {
		return nil
	}
	last := j.all[n].steps[len(j.all[n].steps)-1]
	a, b := j.l.Specs[last], j.l.Specs[i]
	if a.Wait != nil || len(b.Holding) > 0 || a.Phase != b.Phase || a.Station != b.Station {
		return nil
	}
	now := j.day.problem.Now
	for _, p := range j.day.problem.People {
		if p.ID == j.all[n].by.String() && slices.Contains(p.Skills, rules.SkillOf(b.Phase)) && slices.ContainsFunc(p.Hours, func(h dayplan.Stretch) bool { return h.From <= now && now+dayplan.Minute(b.Minutes) < h.To }) {
			return j.all[n].by
		}
	}
	return nil
}

// overruns is by how many minutes at a time what takes longer than it was given is expected to: with one at a time the wall
// would move with each that passes.
const overruns = 5

// planFor is how long what was begun is planned for, of its minutes and those that it took so far.
func planFor(minutes, took int) int {
	if took < minutes {
		return minutes
	}
	return (took/overruns + 1) * overruns
}

func (j *dayJob) push(s stint, spec jobs.StepSpec, keptFor *uuid.UUID) {
	step := dayplan.Step{ID: spec.Code, Skill: rules.SkillOf(spec.Phase), Attended: dayplan.Minutes(s.minutes)}
	if keptFor != nil && slices.ContainsFunc(j.day.problem.People, func(p dayplan.Person) bool { return p.ID == keptFor.String() }) {
		step.By = keptFor.String()
	}
	j.of[spec.Code] = len(j.all)
	j.all = append(j.all, s)
	j.job.Steps = append(j.job.Steps, step)
}

// pin has the last stint begin at a time, unless that is over.
func (j *dayJob) pin(at *time.Time) {
	if at != nil && at.After(j.day.now) {
		j.job.Steps[len(j.job.Steps)-1].At = j.day.minute(*at)
	}
}

// joins reports whether a step is done in one go with the stint before it.
func (j *dayJob) joins(n, i int) bool {
	l, before := j.l, j.all[n]
	last := before.steps[len(before.steps)-1]
	a, b := l.Specs[last], l.Specs[i]
	same := func(x, y *uuid.UUID) bool { return x == nil && y == nil || x != nil && y != nil && *x == *y }
	return before.begun == nil && a.Wait == nil && len(b.Holding) == 0 && a.Phase == b.Phase && a.Station == b.Station &&
		same(l.Steps[last].KeptFor, l.Steps[i].KeptFor) && l.Steps[i].KeptAt == nil && before.minutes+b.Minutes <= maxInOneGo
}

// runs is the wait that a step started, while it runs.
func (j *dayJob) runs(code string) *store.WaitView {
	for i := range j.l.Waits {
		if w := &j.l.Waits[i]; w.StepCode == code && w.EndedAt == nil {
			return w
		}
	}
	return nil
}

// follow says what a stint comes after, and with what wait between.
func (j *dayJob) follow(n int) {
	lags := map[int]dayplan.Lag{}
	var order []int
	ahead := 0 // minutes of the stint before the step
	for _, i := range j.all[n].steps {
		spec := j.l.Specs[i]
		for _, code := range spec.Before {
			b, left := j.of[code]
			if !left || b == n {
				continue
			}
			lag, had := lags[b]
			if !had {
				lag = dayplan.Lag{Step: j.id(b)}
				order = append(order, b)
			}
			if slices.Contains(spec.Holding, code) {
				least, most := j.between(code, spec.Code)
				// A wait runs from the last step of its stint; what comes before the step in its own
				// stint passes the time.
				lag.Least = max(lag.Least, least-dayplan.Minutes(ahead))
				if most != nil {
					limit := max(*most-dayplan.Minutes(ahead), lag.Least)
					lag.Most = &limit
				}
			}
			lags[b] = lag
		}
		// A wait may hold a step that does not come right after.
		for _, code := range spec.Holding {
			b, left := j.of[code]
			if _, had := lags[b]; !left || b == n || had {
				continue
			}
			least, most := j.between(code, spec.Code)
			lags[b] = dayplan.Lag{Step: j.id(b), Least: max(least-dayplan.Minutes(ahead), 0), Most: most}
			order = append(order, b)
		}
		ahead += spec.Minutes
	}
	slices.Sort(order)
	for _, b := range order {
		j.job.Steps[n].After = append(j.job.Steps[n].After, lags[b])
	}
}

// between is the wait after a step until another: as it runs, or as it is planned. Its limit is for what ends it,
// which is the first in the plan's order of those that it holds. One whose limit has passed has none: the bike goes
// on as soon as somebody can, and the waits strip says that it is late.
func (j *dayJob) between(code, then string) (least dayplan.Minutes, most *dayplan.Minutes) {
	least, most = j.waits(code)
	first := slices.IndexFunc(j.l.Specs, func(s jobs.StepSpec) bool { return slices.Contains(s.Holding, code) })
	if j.l.Specs[first].Code != then {
		return least, nil
	}
	return least, most
}

func (j *dayJob) waits(code string) (least dayplan.Minutes, most *dayplan.Minutes) {
	d := j.day
	if w := j.runs(code); w != nil {
		from := d.minute(w.BeganAt)
		least = dayplan.Minutes(d.minute(w.LeastAt.Add(time.Minute-1)) - from)
		if w.MostAt != nil && w.MostAt.After(d.time(d.problem.Now+1)) {
			limit := max(dayplan.Minutes(d.minute(*w.MostAt)-from), least)
			most = &limit
		}
		return least, most
	}
	i := slices.IndexFunc(j.l.Specs, func(s jobs.StepSpec) bool { return s.Code == code })
	if w := j.l.Specs[i].Wait; w != nil && j.l.Steps[i].State != store.StepDone {
		least = dayplan.Minutes(w.Least)
		if w.Most > 0 {
			limit := dayplan.Minutes(w.Most)
			most = &limit
		}
	}
	return least, most
}

func (j *dayJob) station(n int) clean.Station {
	return clean.Station(j.l.Specs[j.all[n].steps[0]].Station)
}
