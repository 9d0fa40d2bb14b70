package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/fault"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// LoadedJob is a job with everything that its steps turn on.
type LoadedJob struct {
	Job      store.Job
	Bike     store.Bike
	Steps    []store.JobStep
	Waits    []store.WaitView
	findings []store.Finding
	people   map[uuid.UUID]record.Person
	At       time.Time

	Specs   []StepSpec
	planned []clean.Planned
	marks   map[string]clean.Mark
}

// loadJob reads a job; locked, nobody else changes it until the unit of work ends.
func (s *Jobs) loadJob(ctx context.Context, tx store.Tx, id uuid.UUID, locked bool) (*LoadedJob, error) {
	l := &LoadedJob{At: s.desk.Now()}
	load := tx.Job
	if locked { // to write to it
		l.At, load = s.desk.Moment(ctx), tx.LockJob
	}
	var err error
	if l.Job, err = load(ctx, id); record.IsNotFound(err) {
		return nil, record.NotFound("job", "job-not-found")
	} else if err != nil {
		return nil, err
	}
	if l.Bike, err = tx.BikeByID(ctx, l.Job.BikeID); err != nil {
		return nil, err
	}
	if l.Steps, err = tx.Steps(ctx, id); err != nil {
		return nil, err
	}
	if l.Waits, err = tx.WaitsOf(ctx, id); err != nil {
		return nil, err
	}
	if l.findings, err = tx.FindingsOf(ctx, id); err != nil {
		return nil, err
	}
	if l.people, err = s.desk.PeopleByID(ctx, tx); err != nil {
		return nil, err
	}
	return l, l.Read()
}

// Read lays the steps out as the core takes them.
func (l *LoadedJob) Read() error {
	l.Specs, l.planned, l.marks = nil, nil, map[string]clean.Mark{}
	for _, st := range l.Steps {
		var spec StepSpec
		if err := json.Unmarshal(st.Spec, &spec); err != nil {
			return fmt.Errorf("step %s: %w", st.Code, err)
		}
		l.Specs = append(l.Specs, spec)
		p := clean.Planned{Step: clean.Step{Code: spec.Code, Phase: clean.Phase(spec.Phase), Title: spec.Title, Minutes: clean.Minutes(spec.Minutes), Station: clean.Station(spec.Station),
			Gate: spec.Gate, Fail: spec.Fail, Back: spec.Back}, Before: spec.Before, Waits: spec.Holding}
		for _, c := range spec.Cautions {
			p.Cautions = append(p.Cautions, clean.Caution(c))
		}
		if spec.Wait != nil {
			p.Wait = &clean.Wait{Code: spec.Wait.Code, Least: clean.Minutes(spec.Wait.Least), Most: clean.Minutes(spec.Wait.Most)}
		}
		l.planned = append(l.planned, p)
		m := clean.Mark{Begun: st.State == store.StepBegun, Done: st.State == store.StepDone, Skipped: st.State == store.StepSkipped}
		for _, w := range l.Waits {
			if w.StepCode == st.Code && w.EndedAt == nil {
				m.Over = w.LeastAt
				if w.MostAt != nil {
					m.Late = *w.MostAt
				}
			}
		}
		l.marks[st.Code] = m
	}
	return nil
}

func (l *LoadedJob) Standing(i int) (clean.Standing, *time.Time) {
	how, until := clean.StandingOf(l.planned[i], l.marks, l.At)
	if (how == clean.Ready || how == clean.Held) && len(l.withheldBy(i)) > 0 {
		return clean.Withheld, nil
	}
	if until.IsZero() {
		return how, nil
	}
	return how, &until
}

func (l *LoadedJob) summary() JobSummary {
	b := l.Bike
	v := JobSummary{ID: l.Job.ID, Tag: record.TagOf(b), Customer: record.CustomerRef{ID: b.CustomerID, Name: b.OwnerName}, Bike: record.BikeWords(b), State: l.Job.State, CreatedAt: l.Job.CreatedAt,
		PromisedAt: l.Job.PromisedAt, Steps: len(l.Steps), Underway: []AtStep{}, OpenChecks: len(clean.OpenChecks(l.planned, l.marks))}
	if plan := PlanOf(l.Job); plan != nil {
		v.Route = plan.Route
	}
	in := l.InBlock()
	for i, spec := range l.Specs {
		how, until := l.Standing(i)
		short := rules.StepShort{Code: spec.Code, Title: in[i].Title, Minutes: int(in[i].Minutes)}
		if how != clean.Finished {
			v.LeftMin += spec.Minutes
		}
		switch how {
		case clean.Finished:
			v.Done++
		case clean.Underway:
			v.Underway = append(v.Underway, AtStep{short, l.people[*l.Steps[i].BegunBy], *l.Steps[i].BegunAt})
		case clean.Ready:
			if v.Next == nil {
				v.Next = &short
			}
		case clean.Held:
			if v.HeldUntil == nil || until.Before(*v.HeldUntil) {
				v.HeldUntil = until
			}
		case clean.Blocked:
		}
	}
	if v.Next != nil || len(v.Underway) > 0 {
		v.HeldUntil = nil
	}
	for _, f := range l.findings {
		if f.Severity == string(fault.Stop) && f.ResolvedAt == nil {
			v.Stops++
		}
	}
	v.Ready = l.Job.State == store.JobPlanned && len(l.holds()) == 0
	return v
}

// InBlock is, for each step, the block that it is part of: what comes next is told in blocks.
func (l *LoadedJob) InBlock() []clean.Block {
	in := make([]clean.Block, len(l.planned))
	for _, b := range clean.Blocks(l.planned) {
		for _, i := range b.Steps {
			in[i] = b
		}
	}
	return in
}

// Holds are what keeps the bike from being handed back.
func (l *LoadedJob) holds() []Hold {
	holds := []Hold{}
	for i, spec := range l.Specs {
		m := l.marks[spec.Code]
		switch {
		case spec.Gate && !m.Done:
			holds = append(holds, Hold{"check-open", spec.Code, spec.Title})
		case !l.Steps[i].State.Over():
			holds = append(holds, Hold{"step-open", spec.Code, spec.Title})
		}
	}
	for _, f := range l.findings {
		if f.Severity == string(fault.Stop) && f.ResolvedAt == nil {
			holds = append(holds, Hold{"finding", f.Code, findingWords(f.Code)})
		}
	}
	for _, w := range l.Waits {
		if w.EndedAt == nil && w.LeastAt.After(l.At) {
			holds = append(holds, Hold{"wait-runs", w.StepCode, w.What})
		}
	}
	return holds
}

func findingWords(code string) string {
	for _, f := range fault.Findings() {
		if f.Code == code {
			return f.Says
		}
	}
	return code
}

// current is the step for a person: the one that is under way by them, or the first that can be begun
// and nobody is at.
func (l *LoadedJob) current(person uuid.UUID) string {
	for i, st := range l.Steps {
		if st.State == store.StepBegun && *st.BegunBy == person {
			return l.Specs[i].Code
		}
	}
	for i, spec := range l.Specs {
		if how, _ := l.Standing(i); how == clean.Ready {
			return spec.Code
		}
	}
	return ""
}

// withheldBy are the open findings that withhold a step: nothing loads the bike until what stops it is settled.
func (l *LoadedJob) withheldBy(i int) []string {
	var codes []string
	for _, f := range l.findings {
		if f.Resolution == "" && f.Severity == string(fault.Stop) && fault.Withholds(f.Code, l.Steps[i].Code) && !slices.Contains(codes, f.Code) {
			codes = append(codes, f.Code)
		}
	}
	return codes
}

// stepView is a step for whoever asks.
func (l *LoadedJob) stepView(i int, who uuid.UUID) StepView {
	st := l.Steps[i]
	how, until := l.Standing(i)
	v := StepView{StepSpec: l.Specs[i], State: st.State, Standing: how.String(), Until: until, Round: st.Round, Fails: st.Fails, Since: st.BegunAt, DoneAt: st.DoneAt,
		WorkedS: st.WorkedS, Reason: st.Reason, Opens: clean.OpenedBy(st.Code), Withheld: l.withheldBy(i), Again: clean.SendBack(l.planned, st.Code)}
	v.TakesBack = st.State == store.StepDone && recent(st.DoneAt, l.At) && l.Specs[i].takesBack()
	for _, f := range clean.Felts(l.planned, st.Code) {
		again := clean.SendBackFelt(l.planned, f.Code)
		v.Felt = append(v.Felt, StepFelt{f.Code, f.Says, l.title(again[0]), again})
	}
	v.Mine = st.State == store.StepBegun && st.BegunBy != nil && *st.BegunBy == who
	for _, by := range []*uuid.UUID{st.BegunBy, st.DoneBy} {
		if by != nil {
			v.By = l.people[*by].Name
		}
	}
	return v
}

// isDone reports whether the step of that code is part of the job and was done.
func (l *LoadedJob) isDone(code string) bool {
	return slices.ContainsFunc(l.Steps, func(st store.JobStep) bool { return st.Code == code && st.State == store.StepDone })
}

// needsSecond reports whether a second person signs the hand-back: where cargo or children are carried,
// and for what an apprentice hands back.
func (l *LoadedJob) needsSecond(who record.Actor) bool {
	return record.Carries(l.Bike.Kind) || who.Person.Role == record.RoleApprentice
}

// LoadOpenJobs reads every open job, for people by their ids.
func (s *Jobs) LoadOpenJobs(ctx context.Context, tx store.Tx, people map[uuid.UUID]record.Person) ([]*LoadedJob, error) {
	rows, err := tx.OpenJobs(ctx)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	jobs, bikes := make([]uuid.UUID, len(rows)), make([]uuid.UUID, len(rows))
	for i, r := range rows {
		jobs[i], bikes[i] = r.ID, r.BikeID
	}
	steps, err := tx.Steps(ctx, jobs...)
	if err != nil {
		return nil, err
	}
	waits, err := tx.WaitsOf(ctx, jobs...)
	if err != nil {
		return nil, err
	}
	findings, err := tx.FindingsOf(ctx, jobs...)
	if err != nil {
		return nil, err
	}
	kept, err := tx.BikesByID(ctx, bikes)
	if err != nil {
		return nil, err
	}
	var all []*LoadedJob
	for _, r := range rows {
		l := &LoadedJob{Job: r, Bike: kept[r.BikeID], people: people, At: s.desk.Now()}
		for _, st := range steps {
			if st.JobID == r.ID {
				l.Steps = append(l.Steps, st)
			}
		}
		for _, w := range waits {
			if *w.JobID == r.ID {
				l.Waits = append(l.Waits, w)
			}
		}
		for _, f := range findings {
			if f.JobID == r.ID {
				l.findings = append(l.findings, f)
			}
		}
		if err := l.Read(); err != nil { // that is this job's trouble, which its own page says, and no other's
			slog.Error("a job cannot be read and is left out", "job", r.ID, "err", err)
			continue
		}
		all = append(all, l)
	}
	return all, nil
}
