package jobs

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/tag"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// WaitView is something that runs by itself, anywhere in the shop. Its ends are times, so that it runs on
// while nobody looks.
type WaitView struct {
	ID      uuid.UUID  `json:"id"`
	Tag     string     `json:"tag,omitempty"` // of the bike; empty for one of the shop's own
	JobID   *uuid.UUID `json:"job_id,omitempty"`
	Step    string     `json:"step,omitempty"`
	What    string     `json:"what"`
	Place   string     `json:"place,omitempty"`
	BeganAt time.Time  `json:"began_at"`
	LeastAt time.Time  `json:"least_at"`
	MostAt  *time.Time `json:"most_at,omitempty"`
	Reason  string     `json:"reason,omitempty"` // why it was made longer
}

func newWaitView(w store.WaitView) WaitView {
	v := WaitView{ID: w.ID, JobID: w.JobID, Step: w.StepCode, What: w.What, Place: w.Place, BeganAt: w.BeganAt, LeastAt: w.LeastAt, MostAt: w.MostAt, Reason: w.Reason}
	if w.TagNumber > 0 {
		v.Tag = tag.Number(w.TagNumber).String()
	}
	return v
}

// WaitList is what runs now, with the server's time, which a tablet's clock may not agree with.
type WaitList struct {
	Now   time.Time  `json:"now"`
	Waits []WaitView `json:"waits"`
}

// Waits returns what runs in the shop, the next to end first.
func (s *Jobs) Waits(ctx context.Context) (WaitList, error) {
	rows, err := s.desk.Store.Read(ctx).RunningWaits(ctx)
	list := WaitList{Now: s.desk.Now(), Waits: []WaitView{}}
	for _, w := range rows {
		list.Waits = append(list.Waits, newWaitView(w))
	}
	return list, err
}

// NewWait is a timer that belongs to no job.
type NewWait struct {
	What    string `json:"what"`
	Minutes int    `json:"minutes"`
}

// maxWait is as long as anything soaks.
const maxWait = 3 * 24 * 60

// StartWait starts a timer of the shop's own.
func (s *Jobs) StartWait(ctx context.Context, who record.Actor, n NewWait) (WaitList, error) {
	n.What = record.CleanLine(n.What)
	var wrong record.Faults
	if n.What == "" || len([]rune(n.What)) > 60 {
		wrong.Add("what", "missing", "Say in a word or two what is waited for.")
	}
	if n.Minutes < 1 || n.Minutes > maxWait {
		wrong.Add("minutes", "out-of-range", "A wait takes 1 minute to 3 days.")
	}
	if err := wrong.Err(); err != nil {
		return WaitList{}, err
	}
	_, err := record.Idempotent(ctx, s.desk, who, "start-wait", n, func(ctx context.Context, tx store.Tx) (string, error) {
		own, err := record.NewID(ctx)
		if err != nil {
			return "", err
		}
		w := store.Wait{ID: own, What: n.What, BeganAt: s.desk.Moment(ctx), BeganBy: who.Person.ID, LeastAt: s.desk.Moment(ctx).Add(time.Duration(n.Minutes) * time.Minute)}
		if err := tx.AddWait(ctx, &w); err != nil {
			return "", err
		}
		return w.ID.String(), s.waitEntry(ctx, tx, who, w, "start", n.Minutes)
	})
	if err != nil {
		return WaitList{}, err
	}
	return s.Waits(ctx)
}

// WaitAction is what somebody does about a wait.
type WaitAction struct {
	Action  string `json:"action"`            // take, extend, end, take-back
	Minutes int    `json:"minutes,omitempty"` // by which it is extended
	Reason  string `json:"reason,omitempty"`
}

type waitBody struct {
	Wait    string `json:"wait"`
	Job     string `json:"job,omitempty"`
	Step    string `json:"step,omitempty"`
	What    string `json:"what"`
	Action  string `json:"deed"`
	Minutes int    `json:"minutes,omitempty"`
	Reason  string `json:"reason,omitempty"`
}

func (s *Jobs) waitEntry(ctx context.Context, tx store.Tx, who record.Actor, w store.Wait, action string, minutes int) error {
	b := waitBody{Wait: w.ID.String(), Step: w.StepCode, What: w.What, Action: action, Minutes: minutes, Reason: w.Reason}
	if w.JobID != nil {
		b.Job = w.JobID.String()
	}
	return s.desk.Append(ctx, tx, who, &store.Entry{Kind: record.KindWait}, b, "")
}

// endWait ends a wait in a unit of work that writes its own entry or, with a reason, in one of its own.
func (s *Jobs) endWait(ctx context.Context, tx store.Tx, who record.Actor, w *store.Wait, reason string) error {
	now := s.desk.Moment(ctx)
	w.EndedAt, w.EndedBy = &now, &who.Person.ID
	if reason != "" {
		w.Reason = reason
	}
	return tx.SaveWait(ctx, w)
}

// DoWait takes a wait that is over, makes one longer, or ends it early with a reason.
func (s *Jobs) DoWait(ctx context.Context, who record.Actor, id uuid.UUID, action WaitAction) (WaitList, error) {
	action.Reason = record.CleanLine(action.Reason)
	_, err := record.Idempotent(ctx, s.desk, who, "wait "+id.String(), action, func(ctx context.Context, tx store.Tx) (string, error) {
		if action.Action == "take-back" {
			return action.Action, s.resumeWait(ctx, tx, who, id)
		}
		w, err := tx.LockWait(ctx, id)
		if record.IsNotFound(err) {
			return "", record.NotFound("wait", "wait-not-found")
		}
		if err != nil {
			return "", err
		}
		if w.EndedAt != nil {
			return "", &record.Problem{Kind: record.Conflict, Code: "wait-over", Message: "Somebody took this wait already."}
		}
		if err := s.changeWait(ctx, tx, who, &w, action); err != nil {
			return "", err
		}
		return action.Action, s.waitEntry(ctx, tx, who, w, action.Action, action.Minutes)
	})
	if err != nil {
		return WaitList{}, err
	}
	return s.Waits(ctx)
}

func (s *Jobs) changeWait(ctx context.Context, tx store.Tx, who record.Actor, w *store.Wait, action WaitAction) error {
	now := s.desk.Moment(ctx)
	early := len([]rune(action.Reason)) < 3
	reason := record.Field{Path: "reason", Code: "missing", Message: "Say in a few words why."}
	switch action.Action {
	case "take":
		if now.Before(w.LeastAt) {
			return &record.Problem{Kind: record.Conflict, Code: "wait-runs", Message: "This wait is not over. End it early with a reason, if it is done."}
		}
		return s.endWait(ctx, tx, who, w, "")
	case "end":
		if now.Before(w.LeastAt) && early {
			return record.InvalidInput(reason)
		}
		return s.endWait(ctx, tx, who, w, action.Reason)
	case "extend":
		if action.Minutes < 1 || action.Minutes > maxWait {
			return record.InvalidInput(record.Field{Path: "minutes", Code: "out-of-range", Message: "A wait is made longer by 1 minute to 3 days."})
		}
		if early {
			return record.InvalidInput(reason)
		}
		from := w.LeastAt
		if now.After(from) {
			from = now
		}
		longer := from.Add(time.Duration(action.Minutes) * time.Minute)
		if w.MostAt != nil && longer.After(*w.MostAt) {
			return &record.Problem{Kind: record.Conflict, Code: "too-long", Message: "That is longer than is safe for it: " + tooLong(w.What) + ".",
				Fields: []record.Field{{Path: "minutes", Code: "too-long", Message: fmt.Sprintf("%d min from now is the most.", max(int(w.MostAt.Sub(now).Minutes()), 0))}}}
		}
		w.LeastAt, w.Reason = longer, action.Reason
		return tx.SaveWait(ctx, w)
	}
	return record.InvalidInput(record.Field{Path: "action", Code: "unknown-value", Message: "There is no such action."})
}

// tooLong says what happens when a wait runs beyond its most.
func tooLong(what string) string {
	switch what {
	case "cleaner-on", "degreaser-on":
		return "cleaner that dries on marks paint"
	case "acid-soak":
		return "acid embrittles hardened steel"
	case "bare-steel", "dry":
		return "bare steel flash-rusts"
	case "wax-hold", "wax-skin":
		return "nobody leaves a hot pot"
	}
	return "alloy parts come out in two hours, and the rest when its label says"
}

func init() {
	record.Holds[waitBody](nil, record.KindWait)
}
