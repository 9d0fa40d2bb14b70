package jobs

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/fault"
	"earnestpony/core/fluids"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// StepAction is what somebody does about a step of a job.
type StepAction struct {
	Action   string         `json:"action"`              // begin, done, fail, pause, skip, hand-over, take-back
	Seen     []string       `json:"seen,omitempty"`      // cautions of it that were just tapped
	Reason   string         `json:"reason,omitempty"`    // why it is left out
	Cause    string         `json:"cause,omitempty"`     // which one a check of a complaint found
	Felt     string         `json:"felt,omitempty"`      // on a test ride that failed
	PersonID *uuid.UUID     `json:"person_id,omitempty"` // who it is handed over to
	GoOn     bool           `json:"go_on,omitempty"`     // begin what can be begun next
	Opening  *bikes.Opening `json:"opening,omitempty"`   // what closed the chain again
	BathID   *uuid.UUID     `json:"bath_id,omitempty"`   // that it goes into; the first that takes it when nil
	// SecondRound says that it was done twice, where it may be; it then takes its amounts twice.
	SecondRound bool `json:"second_round,omitempty"`
	// WaitIDs are what the device calls the waits that it starts, by step, as they run there already.
	WaitIDs map[string]uuid.UUID `json:"wait_ids,omitempty"`
}

// The steps at which something beside the step itself is to be on record.
const (
	stepAgree     = "agree"
	stepReadWear  = "read-wear"
	stepNewChain  = "new-chain"
	stepNewGrease = "new-grease"
	stepPivots    = "pivots"
	stepChainOn   = "chain-on"
	stepWaxIn     = "wax-in"
	stepWaxMelt   = "wax-melt"
	stepWaxOff    = "wax-off"
)

// DoStep does something about a step. A step that something comes before, or that a wait holds, is
// refused, and so is one whose cautions were not seen today.
func (s *Jobs) DoStep(ctx context.Context, who record.Actor, id uuid.UUID, code string, action StepAction) (Job, error) {
	action.Reason = record.CleanLine(action.Reason)
	_, err := record.Idempotent(ctx, s.desk, who, "step "+id.String()+" "+code, action, func(ctx context.Context, tx store.Tx) (string, error) {
		l, err := s.LoadOpenJob(ctx, tx, id)
		if err != nil {
			return "", err
		}
		i := slices.IndexFunc(l.Steps, func(st store.JobStep) bool { return st.Code == code })
		if i < 0 {
			return "", record.NotFound("step", "step-not-found")
		}
		w := &stepRun{jobs: s, LoadedJob: l, who: who, action: action}
		return code, w.do(ctx, tx, i)
	})
	if err != nil {
		return Job{}, record.SendAgain(err)
	}
	return s.Job(ctx, who, id)
}

// stepRun is one action on a step of a job.
type stepRun struct {
	jobs *Jobs
	*LoadedJob
	who    record.Actor
	action StepAction
	filled []string // steps whose waits the block's own work fills: they hold nothing of it
}

func (w *stepRun) do(ctx context.Context, tx store.Tx, i int) error {
	switch w.action.Action {
	case "begin":
		return w.begin(ctx, tx, i)
	case "done":
		return w.finish(ctx, tx, i)
	case "fail":
		return w.fail(ctx, tx, i)
	case "pause":
		return w.pause(ctx, tx, i)
	case "skip":
		return w.skip(ctx, tx, i)
	case "hand-over":
		return w.handOver(ctx, tx, i)
	case "take-back":
		return w.takeBack(ctx, tx, i)
	}
	return record.InvalidInput(record.Field{Path: "action", Code: "unknown-value", Message: "There is no such action."})
}

// note writes the action into the ledger.
func (w *stepRun) note(ctx context.Context, tx store.Tx, i int, b JobBody) error {
	b.Job, b.Step, b.Round = w.Job.ID.String(), w.Steps[i].Code, w.Steps[i].Round
	if b.Action == "" {
		b.Action = w.action.Action
	}
	return w.jobs.JobEntry(ctx, tx, w.who, w.Bike, record.KindJobStep, b)
}

// free says why a step cannot be done now, if it cannot.
func (w *stepRun) free(i int) error {
	how, until := w.Standing(i)
	if how == clean.Held && !slices.ContainsFunc(w.Specs[i].Holding, func(code string) bool { return !slices.Contains(w.filled, code) && w.marks[code].Over.After(w.At) }) {
		how = clean.Ready
	}
	spec := w.Specs[i]
	switch how {
	case clean.Finished:
		return &record.Problem{Kind: record.Conflict, Code: "step-done", Message: fmt.Sprintf("“%s” is done already.", spec.Title)}
	case clean.Blocked:
		var open []string
		for _, code := range spec.Before {
			if m := w.marks[code]; !m.Done && !m.Skipped {
				open = append(open, w.title(code))
			}
		}
		return &record.Problem{Kind: record.Conflict, Code: "step-blocked", Message: fmt.Sprintf("Not yet: first %s.", strings.Join(open, ", "))}
	case clean.Withheld:
		var stops []string
		for _, code := range w.withheldBy(i) {
			stops = append(stops, "“"+fault.Says(code)+"”")
		}
		return &record.Problem{Kind: record.Conflict, Code: "step-withheld", Message: fmt.Sprintf("Not until %s is settled: this step loads the bike.", strings.Join(stops, " and "))}
	case clean.Held:
		return &record.Problem{Kind: record.Conflict, Code: "wait-runs", Message: fmt.Sprintf("Not yet: what it waits for runs for %s more. End the wait early with a reason if it is done.", waitLeft(until.Sub(w.At)))}
	case clean.Ready, clean.Underway:
	}
	return nil
}

func (l *LoadedJob) title(code string) string {
	for _, spec := range l.Specs {
		if spec.Code == code {
			return spec.Title
		}
	}
	return code
}

func waitLeft(d time.Duration) string {
	if d < 2*time.Minute {
		return fmt.Sprintf("%d s", int(d.Seconds())+1)
	}
	return fmt.Sprintf("%d min", int(d.Minutes())+1)
}

// see refuses a step whose cautions whoever does it has not seen today, and notes those that were tapped.
func (w *stepRun) see(ctx context.Context, tx store.Tx, i int) error {
	clock, err := w.jobs.desk.Clock(ctx, tx)
	if err != nil {
		return err
	}
	today := clock.In(w.At)
	seen, err := tx.TappedCautions(ctx, w.who.Person.ID, today)
	if err != nil {
		return err
	}
	var tapped, unseen []string
	for _, c := range w.Specs[i].Cautions {
		switch {
		case slices.Contains(seen, c):
		case slices.Contains(w.action.Seen, c):
			tapped = append(tapped, c)
		default:
			unseen = append(unseen, c)
		}
	}
	if len(unseen) > 0 {
		fields := make([]record.Field, len(unseen))
		for i, c := range unseen {
			fields[i] = record.Field{Path: "seen", Code: c, Message: "This caution was not tapped yet."}
		}
		return &record.Problem{Kind: record.Conflict, Code: "caution-not-seen", Message: "Look at the cautions first and tap each.", Fields: fields}
	}
	return tx.TapCautions(ctx, w.who.Person.ID, today, tapped)
}

// begin puts whoever asks to a step. A person is at one step at a time: what they were at is paused.
func (w *stepRun) begin(ctx context.Context, tx store.Tx, i int) error {
	if err := w.free(i); err != nil {
		return err
	}
	st := &w.Steps[i]
	if st.State == store.StepBegun {
		if *st.BegunBy == w.who.Person.ID {
			return nil
		}
		return &record.Problem{Kind: record.Conflict, Code: "step-taken", Message: fmt.Sprintf("%s is at “%s”. Have it handed over, or take another step.", w.people[*st.BegunBy].Name, w.Specs[i].Title)}
	}
	if err := w.leaveOthers(ctx, tx); err != nil {
		return err
	}
	if err := w.follow(ctx, tx, i); err != nil {
		return err
	}
	st.State, st.BegunAt, st.BegunBy = store.StepBegun, &w.At, &w.who.Person.ID
	if err := tx.SaveStep(ctx, st); err != nil {
		return err
	}
	return w.note(ctx, tx, i, JobBody{Action: "begin"})
}

// leaveOthers pauses what whoever asks is at, in this job and in any other.
func (w *stepRun) leaveOthers(ctx context.Context, tx store.Tx) error {
	begun, err := tx.StepsBegunBy(ctx, w.who.Person.ID)
	if err != nil {
		return err
	}
	for _, st := range begun {
		if k := slices.IndexFunc(w.Steps, func(own store.JobStep) bool { return own.JobID == st.JobID && own.Code == st.Code }); k >= 0 {
			if err := w.setState(ctx, tx, k, store.StepOpen); err != nil {
				return err
			}
			continue
		}
		st.WorkedS += worked(*st.BegunAt, w.At)
		st.State, st.BegunAt, st.BegunBy = store.StepOpen, nil, nil
		if err := tx.SaveStep(ctx, &st); err != nil {
			return err
		}
		job, err := tx.Job(ctx, st.JobID)
		if err != nil {
			return err
		}
		bike, err := tx.BikeByID(ctx, job.BikeID)
		if err != nil {
			return err
		}
		body := JobBody{Job: st.JobID.String(), Step: st.Code, Round: st.Round, Action: "pause", WorkedS: st.WorkedS, Reason: "went to another job"}
		if err := w.jobs.JobEntry(ctx, tx, w.who, bike, record.KindJobStep, body); err != nil {
			return err
		}
	}
	return nil
}

// setState banks the time that was worked on a step and gives it a state.
func (w *stepRun) setState(ctx context.Context, tx store.Tx, i int, state store.StepState) error {
	st := &w.Steps[i]
	if st.BegunAt != nil {
		st.WorkedS += worked(*st.BegunAt, w.At)
	}
	st.State, st.BegunAt, st.BegunBy, st.DoneAt, st.DoneBy = state, nil, nil, nil, nil
	if state.Over() {
		st.DoneAt, st.DoneBy = &w.At, &w.who.Person.ID
	}
	m := w.marks[st.Code]
	m.Begun, m.Done, m.Skipped = false, state == store.StepDone, state == store.StepSkipped
	w.marks[st.Code] = m
	return tx.SaveStep(ctx, st)
}

// worked is the seconds from one time to another; none where a clock was set back meanwhile.
func worked(from, to time.Time) int { return max(int(to.Sub(from).Seconds()), 0) }

// follow ends the waits that held a step, which is now begun.
func (w *stepRun) follow(ctx context.Context, tx store.Tx, i int) error {
	for k := range w.Waits {
		if v := &w.Waits[k]; v.EndedAt == nil && slices.Contains(w.Specs[i].Holding, v.StepCode) {
			if err := w.jobs.endWait(ctx, tx, w.who, &v.Wait, ""); err != nil {
				return err
			}
		}
	}
	return nil
}

func (w *stepRun) finish(ctx context.Context, tx store.Tx, i int) error {
	if err := w.free(i); err != nil {
		return err
	}
	if err := w.see(ctx, tx, i); err != nil {
		return err
	}
	if err := w.onRecord(ctx, tx, i); err != nil {
		return err
	}
	if err := w.follow(ctx, tx, i); err != nil {
		return err
	}
	spec, st := w.Specs[i], &w.Steps[i]
	if err := w.setState(ctx, tx, i, store.StepDone); err != nil {
		return err
	}
	twice := w.action.SecondRound && spec.SecondRound != ""
	for _, a := range spec.Amounts {
		if twice {
			a.Amount *= 2
		}
		if a.Material == string(clean.JoinLink) {
			continue // taken with the opening
		}
		var bottle *uuid.UUID
		if spec.Lubricant != nil && lubes(clean.Material(a.Material)) {
			bottle = spec.Lubricant.BottleID
		}
		if err := tx.UseMaterial(ctx, a.Material, bottle, a.Amount, w.Job.ID, spec.Code, w.At); err != nil {
			return err
		}
	}
	if spec.Wait != nil && !slices.Contains(w.filled, spec.Code) {
		if err := w.startWait(ctx, tx, spec); err != nil {
			return err
		}
	}
	if err := w.note(ctx, tx, i, JobBody{WorkedS: st.WorkedS, Reason: st.Reason, Twice: twice}); err != nil {
		return err
	}
	if !w.action.GoOn {
		return nil
	}
	code := w.current(w.who.Person.ID)
	if next := slices.IndexFunc(w.Specs, func(s StepSpec) bool { return s.Code == code }); next >= 0 {
		return w.begin(ctx, tx, next)
	}
	return nil
}

// onRecord settles what must be on record beside the step itself.
func (w *stepRun) onRecord(ctx context.Context, tx store.Tx, i int) error {
	spec, st := w.Specs[i], &w.Steps[i]
	since := w.Job.CreatedAt.Add(-readLately)
	has := func(kind string) (bool, error) {
		facts, _, err := record.ActiveEntries(ctx, tx, w.Bike.ID, kind)
		return slices.ContainsFunc(facts, func(e store.EntryView) bool { return !e.HappenedAt.Before(since) }), err
	}
	switch {
	case len(spec.Causes) > 0:
		if !slices.ContainsFunc(spec.Causes, func(c StepCause) bool { return c.Code == w.action.Cause }) {
			return record.InvalidInput(record.Field{Path: "cause", Code: "missing", Message: "Say which of the causes it is."})
		}
		st.Reason = w.action.Cause
	case spec.Code == stepReadWear:
		if read, err := has(record.KindMeasurement); err != nil || !read {
			return cmpErr(err, &record.Problem{Kind: record.Conflict, Code: "not-read", Message: "No reading of this visit is on record: measure the chain, or skip the step with a reason."})
		}
	case spec.Code == stepNewChain:
		if fitted, err := has(record.KindReplacement); err != nil || !fitted {
			return cmpErr(err, &record.Problem{Kind: record.Conflict, Code: "not-noted", Message: "The new chain is not on record yet: note it under Replace, where parts and counts are kept."})
		}
	case spec.Code == stepChainOn:
		return w.closeChain(ctx, tx)
	case spec.Code == stepWaxMelt || spec.Code == stepWaxOff:
		return w.heatPot(ctx, tx, spec.Code == stepWaxMelt)
	case spec.Bath != "":
		return w.loadBath(ctx, tx, spec)
	}
	return nil
}

// heatPot notes that the wax pot is on, or off: not while another's chain, or the wax for it, has not had its time in it.
func (w *stepRun) heatPot(ctx context.Context, tx store.Tx, on bool) error {
	if !on {
		waits, err := tx.RunningWaits(ctx)
		if err != nil {
			return err
		}
		for _, v := range waits {
			if (v.StepCode == stepWaxIn || v.StepCode == stepWaxMelt) && *v.JobID != w.Job.ID && v.LeastAt.After(w.At) {
				return &record.Problem{Kind: record.Conflict, Code: "pot-in-use", Message: fmt.Sprintf("The pot stays on: it is heated for the chain of %s for %s more. Turn it off then, for both.",
					record.TagOf(store.Bike{TagNumber: v.TagNumber}), waitLeft(v.LeastAt.Sub(w.At)))}
			}
		}
	}
	baths, err := tx.Baths(ctx)
	if err != nil {
		return err
	}
	for _, b := range baths {
		if b.Kind != string(fluids.WaxPot) || on == (b.HeatingAt != nil) {
			continue
		}
		body := stock.BathBody{Action: "cool", Job: w.Job.ID.String()}
		b.HeatingAt = nil
		if on {
			b.HeatingAt, body.Action = &w.At, "heat"
		}
		if err := tx.SaveBath(ctx, &b); err != nil {
			return err
		}
		return w.jobs.stock.BathEntry(ctx, tx, w.who, b, body)
	}
	return nil
}

func cmpErr(err error, otherwise error) error {
	if err != nil {
		return err
	}
	return otherwise
}

// closeChain counts the opening, where the chain that is on is on record.
func (w *stepRun) closeChain(ctx context.Context, tx store.Tx) error {
	if w.action.Opening == nil {
		return nil
	}
	o := *w.action.Opening
	o.Why = "cleaning"
	_, err := w.jobs.bikes.OpenChainTx(ctx, tx, w.who, w.Bike, o)
	var p *record.Problem
	if errors.As(err, &p) {
		if p.Code == bikes.CodeNoChain {
			return nil
		}
		for i := range p.Fields {
			p.Fields[i].Path = "opening." + p.Fields[i].Path
		}
	}
	return err
}

// loadBath puts what the step is about into a standing bath. Where the shop keeps none of that kind nothing is counted.
func (w *stepRun) loadBath(ctx context.Context, tx store.Tx, spec StepSpec) error {
	baths, err := tx.Baths(ctx)
	if err != nil {
		return err
	}
	a, err := IntakeOf(w.Job)
	if err != nil {
		return err
	}
	soil, isNew := loadOf(spec.Code, a.DrivetrainGrade)
	var refused error
	for _, b := range baths {
		if b.Kind != spec.Bath || w.action.BathID != nil && b.ID != *w.action.BathID {
			continue
		}
		if refused = w.jobs.stock.UseBath(ctx, tx, w.who, b.ID, &w.Job.ID, soil, isNew); refused == nil {
			return nil
		}
		var p *record.Problem
		if !errors.As(refused, &p) {
			return refused
		}
	}
	return refused
}

// startWait starts what runs by itself after a step.
func (w *stepRun) startWait(ctx context.Context, tx store.Tx, spec StepSpec) error {
	id, own := w.action.WaitIDs[spec.Code]
	if !own {
		id = uuid.New()
	}
	v := store.Wait{ID: id, JobID: &w.Job.ID, StepCode: spec.Code, What: spec.Wait.Code, Place: spec.Station, BeganAt: w.At, BeganBy: w.who.Person.ID,
		LeastAt: w.At.Add(time.Duration(spec.Wait.Least) * time.Minute)}
	if spec.Wait.Most > 0 {
		most := w.At.Add(time.Duration(spec.Wait.Most) * time.Minute)
		v.MostAt = &most
	}
	if err := tx.AddWait(ctx, &v); own && errors.Is(err, store.ErrTaken) {
		return record.NameTaken()
	} else if err != nil {
		return err
	}
	w.Waits = append(w.Waits, store.WaitView{Wait: v, TagNumber: w.Bike.TagNumber})
	m := w.marks[spec.Code]
	m.Over = v.LeastAt
	w.marks[spec.Code] = m
	return nil
}

// fail sends the job back from a check.
func (w *stepRun) fail(ctx context.Context, tx store.Tx, i int) error {
	if err := w.free(i); err != nil {
		return err
	}
	if err := w.see(ctx, tx, i); err != nil {
		return err
	}
	again, why := clean.SendBack(w.planned, w.Specs[i].Code), w.Specs[i].Fail
	if felts := clean.Felts(w.planned, w.Specs[i].Code); len(felts) > 0 {
		k := slices.IndexFunc(felts, func(f clean.Felt) bool { return f.Code == w.action.Felt })
		if k < 0 {
			return record.InvalidInput(record.Field{Path: "felt", Code: "missing", Message: "Say what was felt: it leads to the step that is done again."})
		}
		again, why = clean.SendBackFelt(w.planned, w.action.Felt), felts[k].Says
	}
	if len(again) == 0 {
		return record.InvalidInput(record.Field{Path: "action", Code: "cannot-fail", Message: "This step has no check that can fail."})
	}
	w.Steps[i].Fails++
	for k := range w.Steps {
		if !slices.Contains(again, w.Steps[k].Code) {
			continue
		}
		w.Steps[k].Round++
		if err := w.setState(ctx, tx, k, store.StepOpen); err != nil {
			return err
		}
		for n := range w.Waits {
			if v := &w.Waits[n]; v.EndedAt == nil && v.StepCode == w.Steps[k].Code {
				if err := w.jobs.endWait(ctx, tx, w.who, &v.Wait, "check failed"); err != nil {
					return err
				}
			}
		}
	}
	return w.note(ctx, tx, i, JobBody{Again: again, Reason: why})
}

func (w *stepRun) pause(ctx context.Context, tx store.Tx, i int) error {
	if w.Steps[i].State != store.StepBegun {
		return &record.Problem{Kind: record.Conflict, Code: "not-begun", Message: "Nobody is at this step."}
	}
	if err := w.setState(ctx, tx, i, store.StepOpen); err != nil {
		return err
	}
	return w.note(ctx, tx, i, JobBody{WorkedS: w.Steps[i].WorkedS})
}

func (w *stepRun) skip(ctx context.Context, tx store.Tx, i int) error {
	how, _ := w.Standing(i)
	switch {
	case how == clean.Finished:
		return w.free(i)
	case w.Specs[i].Gate:
		return &record.Problem{Kind: record.Conflict, Code: "safety-check", Message: fmt.Sprintf("“%s” is a safety check: it is not left out.", w.Specs[i].Title)}
	case len([]rune(w.action.Reason)) < 3:
		return record.InvalidInput(record.Field{Path: "reason", Code: "missing", Message: "Say in a few words why it is left out."})
	}
	w.Steps[i].Reason = w.action.Reason
	if err := w.setState(ctx, tx, i, store.StepSkipped); err != nil {
		return err
	}
	return w.note(ctx, tx, i, JobBody{Reason: w.action.Reason})
}

// handOver gives a step that is under way to a colleague.
func (w *stepRun) handOver(ctx context.Context, tx store.Tx, i int) error {
	st := &w.Steps[i]
	if st.State != store.StepBegun {
		return &record.Problem{Kind: record.Conflict, Code: "not-begun", Message: "Nobody is at this step."}
	}
	to, err := uuid.Nil, error(nil)
	if w.action.PersonID != nil {
		to = *w.action.PersonID
	}
	person, err := tx.Person(ctx, to)
	if record.IsNotFound(err) {
		return record.InvalidInput(record.Field{Path: "person_id", Code: "unknown-value", Message: "Choose who takes it over."})
	}
	if err != nil {
		return err
	}
	for k, other := range w.Steps {
		if other.State == store.StepBegun && *other.BegunBy == person.ID && k != i {
			if err := w.setState(ctx, tx, k, store.StepOpen); err != nil {
				return err
			}
		}
	}
	st.WorkedS += worked(*st.BegunAt, w.At)
	st.BegunAt, st.BegunBy = &w.At, &person.ID
	if err := tx.SaveStep(ctx, st); err != nil {
		return err
	}
	return w.note(ctx, tx, i, JobBody{What: person.Name, WorkedS: st.WorkedS})
}
