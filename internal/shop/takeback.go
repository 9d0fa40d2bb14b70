package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

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
func (w *stepAction) takeBack(ctx context.Context, tx store.Tx, i int) error {
	st := &w.steps[i]
	if st.State != "skipped" || !recent(st.DoneAt, w.at) {
		return tooLate(fmt.Sprintf("“%s” was not left out just now", w.specs[i].Title))
	}
	for k, spec := range w.specs {
		if slices.Contains(spec.Before, st.Code) && w.steps[k].State != "open" {
			return tooLate(fmt.Sprintf("“%s” was begun since", spec.Title))
		}
	}
	st.Reason = ""
	if err := w.setState(ctx, tx, i, "open"); err != nil {
		return err
	}
	return w.note(ctx, tx, i, jobBody{})
}

// resumeWait has a wait run on that was ended a moment ago, as long as nothing that it held was begun.
func (s *Service) resumeWait(ctx context.Context, tx store.Tx, who record.Actor, id uuid.UUID) error {
	job, err := tx.JobOfWait(ctx, id)
	if record.IsNotFound(err) {
		return record.NotFound("wait", "wait-not-found")
	}
	if err != nil {
		return err
	}
	var l *loadedJob
	if job != nil { // locked before its wait, as everybody does
		if l, err = s.openJob(ctx, tx, *job); err != nil {
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
		for k, spec := range l.specs {
			if slices.Contains(spec.Holding, w.StepCode) && l.steps[k].State != "open" {
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
func (s *Service) ReopenJob(ctx context.Context, who record.Actor, id uuid.UUID, version int) (Job, error) {
	err := s.desk.Write(ctx, who, "reopen-job "+id.String(), version, func(ctx context.Context, tx store.Tx) error {
		l, err := s.loadJob(ctx, tx, id, true)
		if err != nil {
			return err
		}
		switch {
		case l.job.Version != version:
			return store.ErrStale
		case l.job.State != jobCancelled || !recent(l.job.ClosedAt, s.desk.Now()):
			return tooLate("the job was not cancelled just now")
		}
		closed := *l.job.ClosedAt
		l.job.State, l.job.ClosedAt, l.job.ClosedBy = jobArrived, nil, nil
		if planOf(l.job) != nil {
			l.job.State = jobPlanned
		}
		if err := tx.SaveJob(ctx, &l.job); err != nil {
			return err
		}
		for i := range l.waits {
			if w := &l.waits[i].Wait; w.Reason == endedWithJob && w.EndedAt != nil && !w.EndedAt.Before(closed) {
				w.EndedAt, w.EndedBy, w.Reason = nil, nil, ""
				if err := tx.SaveWait(ctx, w); err != nil {
					return err
				}
			}
		}
		return s.jobEntry(ctx, tx, who, l.bike, record.KindJobReopened, jobBody{Job: id.String()})
	})
	if errors.Is(err, store.ErrTaken) {
		return Job{}, tooLate("the bike was taken in anew since")
	}
	return s.afterJob(ctx, who, id, json.RawMessage(`{"reopen":true}`), err)
}
