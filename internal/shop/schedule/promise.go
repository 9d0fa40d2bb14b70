package schedule

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/dayplan"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// JobPromise is when a job is promised, and whether its owner waits for it.
type JobPromise struct {
	Version    int        `json:"version"`
	PromisedAt *time.Time `json:"promised_at,omitempty"`
	Waiting    bool       `json:"waiting,omitempty"`
}

// PromiseJob promises a job for another time, over the version that the sender saw.
func (s *Schedule) PromiseJob(ctx context.Context, who record.Actor, id uuid.UUID, p JobPromise) (FloorView, error) {
	err := s.desk.Write(ctx, who, "promise-job "+id.String(), p, func(ctx context.Context, tx store.Tx) error {
		l, err := s.jobs.LoadOpenJob(ctx, tx, id)
		if err != nil {
			return err
		}
		if l.Job.Version != p.Version {
			return &record.Problem{Kind: record.Conflict, Code: "changed-meanwhile", Message: "Somebody else changed this job meanwhile: look at Today again."}
		}
		a, err := jobs.IntakeOf(l.Job)
		if err != nil {
			return err
		}
		if wrong := jobs.PromiseFault(p.PromisedAt, l.Job.PromisedAt, s.desk.Now()); wrong != nil {
			return record.InvalidInput(*wrong)
		}
		a.PromisedAt, a.Waiting = p.PromisedAt, p.Waiting
		if l.Job.Intake, err = json.Marshal(a); err != nil {
			return err
		}
		s.jobs.Promise(ctx, who, &l.Job, p.PromisedAt)
		if err := tx.SaveJob(ctx, &l.Job); err != nil {
			return err
		}
		return s.jobs.JobEntry(ctx, tx, who, l.Bike, record.KindJobChanged, jobs.JobBody{Job: id.String(), Intake: jobs.ForLedger(a)})
	})
	if err != nil {
		return FloorView{}, record.SendAgain(err)
	}
	return s.Floor(ctx)
}

// Keeping is what is kept for one person: a stint of a job, named by its first step, and others of it that are done in the
// same go. With no person whoever can does them.
type Keeping struct {
	Also   []string   `json:"also,omitempty"`
	Person *uuid.UUID `json:"person,omitempty"`
	At     *time.Time `json:"at,omitempty"` // when the first of it is to begin
}

// KeepFor has stints of a job done by one person only; by whoever can, where there is no person.
func (s *Schedule) KeepFor(ctx context.Context, who record.Actor, id uuid.UUID, code string, k Keeping) (FloorView, error) {
	if now := s.desk.Now(); k.At != nil && (!k.At.After(now) || k.At.Sub(now) > rules.FloorDays*24*time.Hour) {
		return FloorView{}, record.InvalidInput(record.Field{Path: "at", Code: "out-of-range", Message: "It begins at a time that is still to come, within a week."})
	}
	err := s.desk.Write(ctx, who, "keep-for "+id.String()+" "+code, k, func(ctx context.Context, tx store.Tx) error {
		h, err := rules.LoadParsed(ctx, tx)
		if err != nil {
			return err
		}
		d, err := s.floorDayOf(ctx, tx, h)
		if err != nil {
			return err
		}
		if d.guessed[id.String()] {
			return &record.Problem{Kind: record.Conflict, Code: "not-planned", Message: "This bike is not planned yet: choose its route first."}
		}
		at := k.At
		for _, code := range append([]string{code}, k.Also...) {
			if err := d.keepOne(ctx, tx, id, code, k.Person, at); err != nil {
				return err
			}
			at = nil
		}
		return tx.Notify(ctx, record.Changed(record.TopicFloor, ""))
	})
	if err != nil {
		return FloorView{}, record.SendAgain(err)
	}
	return s.Floor(ctx)
}

// keepOne keeps one stint for somebody, and tells who looks at its bike.
func (d *floorDay) keepOne(ctx context.Context, tx store.Tx, id uuid.UUID, code string, person *uuid.UUID, at *time.Time) error {
	one, is := d.stints[[2]string{id.String(), code}]
	if !is {
		return record.NotFound("step", "step-not-found")
	}
	if one.begun != nil {
		return &record.Problem{Kind: record.Conflict, Code: "begun", Message: "Somebody is at this step already."}
	}
	if err := d.keep(id.String(), code, person); err != nil {
		return err
	}
	for _, i := range one.steps {
		if err := tx.KeepStepFor(ctx, id, one.job.Steps[i].Code, person, at); err != nil {
			return err
		}
		at = nil // the rest follows
	}
	return tx.Notify(ctx, record.Changed(record.TopicBike, record.TagOf(one.job.Bike)))
}

// beginAt has a stint of a job begin at a time; whenever it suits where none is said.
func (d *floorDay) beginAt(job int, code string, at *time.Time) {
	for i := range d.problem.Jobs[job].Steps {
		if step := &d.problem.Jobs[job].Steps[i]; step.ID == code {
			step.At = 0
			if at != nil {
				step.At = d.minute(*at)
			}
		}
	}
}

// keep has a stint done by one person only, who must be able to.
func (d *floorDay) keep(job, code string, person *uuid.UUID) error {
	for j := range d.problem.Jobs {
		for i := range d.problem.Jobs[j].Steps {
			step := &d.problem.Jobs[j].Steps[i]
			if d.problem.Jobs[j].ID != job || step.ID != code {
				continue
			}
			step.By = ""
			if person == nil {
				return nil
			}
			step.By = person.String()
			if !slices.ContainsFunc(d.problem.People, func(p dayplan.Person) bool { return p.ID == step.By && slices.Contains(p.Skills, step.Skill) }) {
				return &record.Problem{Kind: record.Conflict, Code: "no-skill", Message: "They do not do this kind of work here: the rules say who does what."}
			}
		}
	}
	return nil
}

// FloorTry is what somebody thinks of changing on the wall.
type FloorTry struct {
	Job        uuid.UUID  `json:"job"`
	PromisedAt *time.Time `json:"promised_at,omitempty"` // another promise
	Step       string     `json:"step,omitempty"`        // for one person
	Also       []string   `json:"also,omitempty"`        // of the same job, with it
	Person     *uuid.UUID `json:"person,omitempty"`
	At         *time.Time `json:"at,omitempty"` // when it is to begin
}

// FloorCost is what that would cost.
type FloorCost struct {
	Moves    int          `json:"moves"` // Steps on the wall
	Pushed   []DelayedJob `json:"pushed"`
	Saved    []DelayedJob `json:"saved"`     // promises that would be kept better
	LaterMin int          `json:"later_min"` // all jobs together; below zero is sooner
	Kept     bool         `json:"kept"`      // the new promise itself
	LateMin  int          `json:"late_min"`  // where not
}

// DelayedJob is a promise that becomes late, or later, or less so.
type DelayedJob struct {
	Tag      string `json:"tag"`
	Customer string `json:"customer"`
	ByMin    int    `json:"by_min"`
}

// TryFloor says what a change would cost. It writes nothing.
func (s *Schedule) TryFloor(ctx context.Context, t FloorTry) (FloorCost, error) {
	d, w, err := s.floorNow(ctx)
	if err != nil {
		return FloorCost{}, err
	}
	d.setPrevious(w.plan)
	before, err := solve(d.problem, s.effort(toOffer))
	if err != nil {
		return FloorCost{}, err
	}
	i := slices.IndexFunc(d.problem.Jobs, func(j dayplan.Job) bool { return j.ID == t.Job.String() })
	if i < 0 {
		return FloorCost{}, record.NotFound("job", "job-not-found")
	}
	d.problem.Jobs = slices.Clone(d.problem.Jobs)
	if t.PromisedAt != nil {
		d.problem.Jobs[i].Promised = d.minute(*t.PromisedAt)
	}
	if t.Step != "" {
		d.problem.Jobs[i].Steps = slices.Clone(d.problem.Jobs[i].Steps)
		for _, code := range append([]string{t.Step}, t.Also...) {
			if _, is := d.stints[[2]string{t.Job.String(), code}]; !is {
				return FloorCost{}, record.NotFound("step", "step-not-found")
			}
			if err := d.keep(t.Job.String(), code, t.Person); err != nil {
				return FloorCost{}, err
			}
		}
		d.beginAt(i, t.Step, t.At)
	}
	after, err := solve(d.problem, s.effort(toOffer))
	if err != nil {
		return FloorCost{}, err
	}
	c := FloorCost{Moves: after.Cost.Changes, LaterMin: int(after.Cost.FinishSum - before.Cost.FinishSum), LateMin: lateBy(after, t.Job.String())}
	c.Kept = c.LateMin == 0
	c.Pushed, c.Saved = d.pushed(before, after, t.Job.String()), d.pushed(after, before, t.Job.String())
	return c, nil
}

// lateBy is how many minutes a job is later than promised in a plan; zero where the promise is kept.
func lateBy(p dayplan.Plan, job string) int {
	for _, l := range p.Late {
		if l.Job == job {
			return int(l.By)
		}
	}
	return 0
}

// setPrevious has a plan be the one on the wall.
func (d *floorDay) setPrevious(w dayPlan) {
	d.problem.Previous = nil
	of := map[string]map[string]planStep{}
	for _, s := range w.Steps {
		if of[s.Job] == nil {
			of[s.Job] = map[string]planStep{}
		}
		of[s.Job][s.Step] = s
		d.hang(s)
	}
	for j, job := range d.problem.Jobs {
		for _, step := range job.Steps {
			if _, hangs := of[job.ID][step.ID]; !hangs {
				if rest, is := restOf(d.layouts[j], of[job.ID], step.ID); is {
					d.hang(rest)
				}
			}
		}
	}
}

func (d *floorDay) hang(s planStep) {
	d.problem.Previous = append(d.problem.Previous, dayplan.Placed{Job: s.Job, Step: s.Step, Person: s.Person, Start: d.minute(s.Start), End: d.minute(s.End)})
}

// restOf is where the rest of what was one stint on the wall hangs, once its first steps were begun: after those.
func restOf(l *jobs.LoadedJob, wall map[string]planStep, code string) (rest planStep, is bool) {
	at := slices.IndexFunc(l.Specs, func(s jobs.StepSpec) bool { return s.Code == code })
	before := 0 // minutes of what comes before it in the stint
	for i := at - 1; i >= 0; i-- {
		before += l.Specs[i].Minutes
		if was, hangs := wall[l.Specs[i].Code]; hangs {
			was.Step = code
			was.Start = was.Start.Add(time.Duration(before) * time.Minute)
			return was, was.Start.Before(was.End)
		}
	}
	return rest, false
}

// pushed are the promises that the second plan keeps worse than the first, but for one job.
func (d *floorDay) pushed(before, after dayplan.Plan, but string) []DelayedJob {
	all := []DelayedJob{}
	for _, p := range dayplan.Push(before, after) {
		if p.Job == but {
			continue
		}
		for _, l := range d.layouts {
			if l.Job.ID.String() == p.Job {
				all = append(all, DelayedJob{record.TagOf(l.Bike), l.Bike.OwnerName, int(p.By)})
			}
		}
	}
	return all
}

// Offer is the earliest time that a bike can be promised for, and what a tighter one would push.
type Offer struct {
	EarliestAt *time.Time   `json:"earliest_at,omitempty"` // none where it finds no place in the days ahead
	Route      string       `json:"route"`
	HandsMin   int          `json:"hands_min"`
	ReadyMin   int          `json:"ready_min"` // with every hand and place to itself
	Jobs       int          `json:"jobs"`      // on the wall already
	Kept       bool         `json:"kept"`      // the time that was asked about
	LateMin    int          `json:"late_min"`
	Pushed     []DelayedJob `json:"pushed"` // by it
	Until      time.Time    `json:"until"`  // from when it is worth asking again: the day goes on meanwhile
}

// offerHolds is for how long an offer may be looked at before it is asked for again.
const offerHolds = time.Minute

// promiseStep is what promises are rounded up to: nobody is told "at 14:07".
const promiseStep = 15 * time.Minute

// OfferPromise says for when a bike that comes in can be promised, done as recommended, and what the time that
// is thought of would push. It writes nothing.
func (s *Schedule) OfferPromise(ctx context.Context, tagText string, a jobs.Intake) (Offer, error) {
	if err := jobs.CheckIntake(&a, nil, s.desk.Now()); err != nil {
		return Offer{}, err
	}
	tx := s.desk.Store.Read(ctx)
	bike, err := record.BikeInCare(ctx, tx, tagText)
	if err != nil {
		return Offer{}, err
	}
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return Offer{}, err
	}
	d, err := s.floorDayOf(ctx, tx, h)
	if err != nil {
		return Offer{}, err
	}
	w, err := s.currentPlan(ctx, d)
	if err != nil {
		return Offer{}, err
	}
	d.setPrevious(w.plan)
	l := &jobs.LoadedJob{Job: store.Job{ID: uuid.New(), BikeID: bike.ID, PromisedAt: a.PromisedAt, CreatedAt: s.desk.Now()}, Bike: bike, At: s.desk.Now()}
	if l.Job.Intake, err = json.Marshal(a); err != nil {
		return Offer{}, err
	}
	summary, err := s.draftPlan(ctx, tx, l, a)
	if err != nil {
		return Offer{}, err
	}
	o := Offer{Route: summary.Route, HandsMin: summary.HandsMin, ReadyMin: summary.ReadyMin, Jobs: len(d.layouts), Kept: true, Pushed: []DelayedJob{}, Until: s.desk.Now().Add(offerHolds)}
	d.add(l)
	last := len(d.problem.Jobs) - 1
	add, without := d.problem.Jobs[last], d.problem
	without.Jobs = without.Jobs[:last:last]
	early, ever, err := dayplan.Early(without, add, 1, s.offerTries(d))
	if err != nil {
		return Offer{}, err
	}
	if ever {
		at := d.time(early).Add(promiseStep - 1).Truncate(promiseStep)
		o.EarliestAt = &at
	}
	if a.PromisedAt == nil {
		return o, nil
	}
	before, err := solve(without, s.effort(toOffer))
	if err != nil {
		return o, err
	}
	after, err := solve(d.problem, s.effort(toOffer))
	if err != nil {
		return o, err
	}
	o.LateMin = lateBy(after, add.ID)
	o.Kept = o.LateMin == 0
	o.Pushed = d.pushed(before, after, add.ID)
	return o, nil
}

// draftPlan gives a job that is not planned the steps that would be recommended for it. Nothing of it is written.
func (s *Schedule) draftPlan(ctx context.Context, tx store.Tx, l *jobs.LoadedJob, a jobs.Intake) (summary jobs.JobPlan, err error) {
	p, err := s.jobs.Planner(ctx, tx, record.TagOf(l.Bike), l.Job.CreatedAt, a)
	if err != nil {
		return summary, err
	}
	route := cmp.Or(a.Route, p.Choice.Route.String())
	if refused := p.Refused(route); refused { // what was promised cannot be done any more
		route = p.Choice.Route.String()
	}
	order, err := p.Order(route, "")
	if err != nil {
		return summary, err
	}
	plan, summary, err := p.Build(order, route)
	if err != nil {
		return summary, err
	}
	l.Job.State = store.JobPlanned
	if l.Steps, err = jobs.NewSteps(l, plan, a.Complaints, summary.Lubricant); err != nil {
		return summary, err
	}
	return summary, l.Read()
}
