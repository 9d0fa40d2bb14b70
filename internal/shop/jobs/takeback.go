package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// What a hand that slipped did can be taken back for a moment: a step left out, a wait ended, a job cancelled. The page
// offers ten seconds; the rest is for a slow line.
const takeBackFor = time.Minute

// tooLate refuses what can no longer be taken back.
func tooLate(why string) *record.Problem {
	return &record.Problem{Kind: record.Conflict, Code: "not-taken-back", Message: "This can no longer be taken back: " + why + "."}
}

// recent reports whether something happened so lately that it may be taken back.
func recent(at *time.Time, now time.Time) bool { return at != nil && now.Sub(*at) <= takeBackFor }

// takeBack has a step that was left out be done after all, as long as nothing that comes after it was begun.
func (w *stepRun) takeBack(ctx context.Context, tx store.Tx, i int) error {
	st := &w.Steps[i]
	if st.State != store.StepSkipped || !recent(st.DoneAt, w.At) {
		return tooLate(fmt.Sprintf("“%s” was not left out just now", w.Specs[i].Title))
	}
	for k, spec := range w.Specs {
		if slices.Contains(spec.Before, st.Code) && w.Steps[k].State != store.StepOpen {
			return tooLate(fmt.Sprintf("“%s” was begun since", spec.Title))
		}
	}
	st.Reason = ""
	if err := w.setState(ctx, tx, i, store.StepOpen); err != nil {
		return err
	}
	return w.note(ctx, tx, i, JobBody{})
}

// takeBlockBack opens again what one press just did in a block: its waits end, what it used lies on the shelf again, and whoever
// asks is at its first step as before. What a bath or the chain has on its own record is not taken back.
func (w *stepRun) takeBlockBack(ctx context.Context, tx store.Tx, b clean.Block) error {
	taken, at, err := w.lastPress(b)
	if err != nil {
		return err
	}
	if err := w.nobodyWentOn(ctx, tx, taken, at); err != nil {
		return err
	}
	for k := range w.Waits {
		if v := &w.Waits[k].Wait; v.EndedAt == nil && taken[v.StepCode] && v.BeganAt.Equal(at) {
			if err := w.jobs.endWait(ctx, tx, w.who, v, "taken back"); err != nil {
				return err
			}
		}
	}
	first := -1
	for _, i := range b.Steps {
		code := w.Steps[i].Code
		if !taken[code] {
			continue
		}
		if first < 0 {
			first = i
		}
		if err := tx.UnuseMaterials(ctx, w.Job.ID, code, at); err != nil {
			return err
		}
		if err := w.setState(ctx, tx, i, store.StepOpen); err != nil {
			return err
		}
		if err := w.note(ctx, tx, i, JobBody{}); err != nil {
			return err
		}
	}
	return w.begin(ctx, tx, first)
}

// lastPress is what whoever asks did last in a block: all of it has the same time.
func (w *stepRun) lastPress(b clean.Block) (map[string]bool, time.Time, error) {
	var at time.Time
	for _, i := range b.Steps {
		if st := w.Steps[i]; st.State == store.StepDone && *st.DoneBy == w.who.Person.ID && st.DoneAt.After(at) {
			at = *st.DoneAt
		}
	}
	if !recent(&at, w.At) {
		return nil, at, tooLate(fmt.Sprintf("nothing of “%s” was done just now", b.Title))
	}
	taken := map[string]bool{}
	for _, i := range b.Steps {
		st, spec := w.Steps[i], w.Specs[i]
		if st.State != store.StepDone || !st.DoneAt.Equal(at) {
			continue
		}
		if !spec.takesBack() {
			return nil, at, tooLate(fmt.Sprintf("“%s” has a record of its own", spec.Title))
		}
		taken[spec.Code] = true
	}
	return taken, at, nil
}

// takesBack reports whether a step can be opened again as if it had not been done: a load of a bath and a chain's opening are
// on records of their own.
func (s StepSpec) takesBack() bool {
	return s.Bath == "" && clean.OpenedBy(s.Code) != clean.OpensJoiningLink
}

// nobodyWentOn leaves what whoever asks went on with in the same press, and refuses where more was begun since.
func (w *stepRun) nobodyWentOn(ctx context.Context, tx store.Tx, taken map[string]bool, at time.Time) error {
	for k := range w.Steps {
		st := &w.Steps[k]
		if st.State == store.StepBegun && *st.BegunBy == w.who.Person.ID && st.BegunAt.Equal(at) {
			st.BegunAt = nil // no time of it is work
			if err := w.setState(ctx, tx, k, store.StepOpen); err != nil {
				return err
			}
			continue
		}
		after := slices.ContainsFunc(w.Specs[k].Before, func(code string) bool { return taken[code] })
		earlier := st.State.Over() && st.DoneAt.Before(at) // known before, as what was agreed on
		if after && !taken[st.Code] && st.State != store.StepOpen && !earlier {
			return tooLate(fmt.Sprintf("“%s” was begun since", w.Specs[k].Title))
		}
	}
	return nil
}

// resumeWait has a wait run on that was ended a moment ago, as long as nothing that it held was begun.
func (s *Jobs) resumeWait(ctx context.Context, tx store.Tx, who record.Actor, id uuid.UUID) error {
	job, err := tx.JobOfWait(ctx, id)
	if record.IsNotFound(err) {
		return record.NotFound("wait", "wait-not-found")
	}
	if err != nil {
		return err
	}
	var l *LoadedJob
	if job != nil { // locked before its wait, as everybody does
		if l, err = s.LoadOpenJob(ctx, tx, *job); err != nil {
			return err
		}
	}
	w, err := tx.LockWait(ctx, id)
	if err != nil {
		return err
	}
	if !recent(w.EndedAt, s.desk.Now()) {
		return tooLate("this wait was not ended just now")
	}
	if l != nil {
		for k, spec := range l.Specs {
			if slices.Contains(spec.Holding, w.StepCode) && l.Steps[k].State != store.StepOpen {
				return tooLate(fmt.Sprintf("“%s” was begun since", spec.Title))
			}
		}
	}
	w.EndedAt, w.EndedBy, w.Reason = nil, nil, ""
	if err := tx.SaveWait(ctx, &w); err != nil {
		return err
	}
	return s.waitEntry(ctx, tx, who, w, "take-back", 0)
}

// endedWithJob is why a wait ended that was running when its job was cancelled.
const endedWithJob = "job cancelled"

// ReopenJob takes back that a job was cancelled a moment ago: it stands where it stood, and its waits run on.
func (s *Jobs) ReopenJob(ctx context.Context, who record.Actor, id uuid.UUID, version int) (Job, error) {
	err := s.desk.Write(ctx, who, "reopen-job "+id.String(), version, func(ctx context.Context, tx store.Tx) error {
		l, err := s.loadJob(ctx, tx, id, true)
		if err != nil {
			return err
		}
		switch {
		case l.Job.Version != version:
			return store.ErrStale
		case l.Job.State != store.JobCancelled || !recent(l.Job.ClosedAt, s.desk.Now()):
			return tooLate("the job was not cancelled just now")
		}
		closed := *l.Job.ClosedAt
		l.Job.State, l.Job.ClosedAt, l.Job.ClosedBy = store.JobArrived, nil, nil
		if PlanOf(l.Job) != nil {
			l.Job.State = store.JobPlanned
		}
		if err := tx.SaveJob(ctx, &l.Job); err != nil {
			return err
		}
		for i := range l.Waits {
			if w := &l.Waits[i].Wait; w.Reason == endedWithJob && w.EndedAt != nil && !w.EndedAt.Before(closed) {
				w.EndedAt, w.EndedBy, w.Reason = nil, nil, ""
				if err := tx.SaveWait(ctx, w); err != nil {
					return err
				}
			}
		}
		return s.JobEntry(ctx, tx, who, l.Bike, record.KindJobReopened, JobBody{Job: id.String()})
	})
	if errors.Is(err, store.ErrTaken) {
		return Job{}, tooLate("the bike was booked in again since")
	}
	return s.afterJob(ctx, who, id, json.RawMessage(`{"reopen":true}`), err)
}
