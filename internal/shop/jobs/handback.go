package jobs

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/fault"
	"earnestpony/core/lube"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// NewFinding is something that somebody found.
type NewFinding struct {
	Code     string `json:"code"`
	Place    string `json:"place,omitempty"`
	Severity string `json:"severity,omitempty"` // what is usual for it when empty
	Note     string `json:"note,omitempty"`
}

// AddFinding notes a finding. What must hold a bike holds it, whatever was said of it.
func (s *Jobs) AddFinding(ctx context.Context, who record.Actor, id uuid.UUID, n NewFinding) (Job, error) {
	n.Place, n.Note = record.CleanLine(n.Place), record.CleanLine(n.Note)
	var wrong record.Faults
	if n.Severity != "" {
		if _, err := fault.ParseSeverity(n.Severity); err != nil {
			wrong.Add("severity", "unknown-value", "%s", err.Error())
		}
	}
	severity, err := fault.Take(n.Code, fault.Severity(n.Severity))
	if n.Code == "" {
		wrong.Add("code", "missing", "Choose what was found.")
	} else if err != nil {
		wrong.Add("code", "unknown-value", "%s", err.Error())
	}
	if n.Code == "other" && n.Note == "" {
		wrong.Add("note", "missing", "Say what was found.")
	}
	if err := wrong.Err(); err != nil {
		return Job{}, err
	}
	_, err = record.Idempotent(ctx, s.desk, who, "finding "+id.String(), n, func(ctx context.Context, tx store.Tx) (string, error) {
		l, err := s.LoadOpenJob(ctx, tx, id)
		if err != nil {
			return "", err
		}
		own, err := record.NewID(ctx)
		if err != nil {
			return "", err
		}
		f := store.Finding{ID: own, JobID: id, Code: n.Code, Place: n.Place, Severity: string(severity), Note: n.Note, FoundAt: s.desk.Moment(ctx), FoundBy: who.Person.ID}
		if err := tx.AddFinding(ctx, &f); err != nil {
			return "", err
		}
		row := measure.FindingRow{ID: f.ID, Code: f.Code, Place: f.Place, Severity: f.Severity, Note: f.Note, FoundAt: f.FoundAt, By: who.Person.Name}
		return f.ID.String(), s.JobEntry(ctx, tx, who, l.Bike, record.KindJobFinding, JobBody{Job: id.String(), Finding: &row})
	})
	if err != nil {
		return Job{}, err
	}
	return s.Job(ctx, who, id)
}

// ResolveFinding settles a finding: it was fixed, or the owner was told and the bike leaves unridden,
// which a mechanic signs.
func (s *Jobs) ResolveFinding(ctx context.Context, who record.Actor, id, finding uuid.UUID, resolution string) (Job, error) {
	if resolution != "fixed" && resolution != "owner-told" {
		return Job{}, record.InvalidInput(record.Field{Path: "resolution", Code: "unknown-value", Message: "It is fixed, or the customer was told."})
	}
	if resolution == "owner-told" {
		if err := people.Allow(people.Release, who); err != nil {
			return Job{}, err
		}
	}
	err := s.desk.Write(ctx, who, "resolve-finding "+finding.String(), resolution, func(ctx context.Context, tx store.Tx) error {
		l, err := s.LoadOpenJob(ctx, tx, id)
		if err != nil {
			return err
		}
		f, err := tx.Finding(ctx, finding)
		if record.IsNotFound(err) || err == nil && f.JobID != id {
			return record.NotFound("finding", "finding-not-found")
		}
		if err != nil {
			return err
		}
		if err := tx.ResolveFinding(ctx, finding, who.Person.ID, resolution, s.desk.Moment(ctx)); err != nil {
			return err
		}
		return s.JobEntry(ctx, tx, who, l.Bike, record.KindJobFindingResolved, JobBody{Job: id.String(), What: f.Code, Reason: resolution})
	})
	if err != nil {
		return Job{}, record.SendAgain(err)
	}
	return s.Job(ctx, who, id)
}

// AddNote writes something down about a job.
func (s *Jobs) AddNote(ctx context.Context, who record.Actor, id uuid.UUID, text string) (Job, error) {
	if text = record.CleanLine(text); text == "" {
		return Job{}, record.InvalidInput(record.Field{Path: "text", Code: "missing", Message: "There is nothing to write down."})
	}
	_, err := record.Idempotent(ctx, s.desk, who, "note "+id.String(), text, func(ctx context.Context, tx store.Tx) (string, error) {
		l, err := s.loadJobOpenThen(ctx, tx, id)
		if err != nil {
			return "", err
		}
		return "", s.JobEntry(ctx, tx, who, l.Bike, record.KindJobNote, JobBody{Job: id.String(), Note: text})
	})
	if err != nil {
		return Job{}, err
	}
	return s.Job(ctx, who, id)
}

const (
	thumbnailSide  = 240
	maxPhotosOfJob = 40
)

// AddJobPhoto keeps a picture of a job.
func (s *Jobs) AddJobPhoto(ctx context.Context, who record.Actor, id uuid.UUID, picture []byte) (Job, error) {
	sizes, err := bikes.ShrinkAll(ctx, picture, bikes.MaxKeptSide, thumbnailSide)
	if err != nil {
		return Job{}, err
	}
	err = s.desk.Write(ctx, who, "job-photo "+id.String(), record.FileOf(picture), func(ctx context.Context, tx store.Tx) error {
		l, err := s.loadJobOpenThen(ctx, tx, id)
		if err != nil {
			return err
		}
		had, err := tx.JobPhotos(ctx, id)
		if err != nil {
			return err
		}
		if len(had) >= maxPhotosOfJob {
			return &record.Problem{Kind: record.Conflict, Code: "too-many-photos", Message: fmt.Sprintf("A job keeps %d photos at most.", maxPhotosOfJob)}
		}
		own, err := record.NewID(ctx)
		if err != nil {
			return err
		}
		p := store.JobPhoto{ID: own, JobID: id, JPEG: sizes[0], Thumbnail: sizes[1], TakenAt: s.desk.Moment(ctx), TakenBy: who.Person.ID}
		if err := tx.AddJobPhoto(ctx, &p); err != nil {
			return err
		}
		return s.JobEntry(ctx, tx, who, l.Bike, record.KindJobPhoto, JobBody{Job: id.String(), Photo: p.ID.String()})
	})
	if err != nil {
		return Job{}, err
	}
	return s.Job(ctx, who, id)
}

// JobPhoto returns a picture of a job as JPEG, or its thumbnail.
func (s *Jobs) JobPhoto(ctx context.Context, id uuid.UUID, thumbnail bool) ([]byte, error) {
	p, err := s.desk.Store.Read(ctx).JobPhoto(ctx, id)
	if record.IsNotFound(err) {
		return nil, record.NotFound("photo", "photo-not-found")
	}
	if thumbnail {
		return p.Thumbnail, err
	}
	return p.JPEG, err
}

// HandBack is a bike that goes back to its owner.
type HandBack struct {
	// Version is the one that was seen; zero on a device that made the job itself and follows a write about it.
	Version   int        `json:"version"`
	SecondID  *uuid.UUID `json:"second_id,omitempty"`
	SecondPIN string     `json:"second_pin,omitempty"`
	// Asked says that the owner agreed to a price beyond the one that was agreed.
	Asked bool `json:"asked,omitempty"`
	Paid  bool `json:"paid,omitempty"` // already; else it is settled later
}

// said tells one hand-back from another; one that says nothing of money is the same as it was before that was asked.
func (h HandBack) said() any {
	if !h.Paid {
		return h.Asked
	}
	return []bool{h.Asked, h.Paid}
}

// HandBackJob closes a job: every safety check made, nothing found that holds the bike, and a second
// person's signature where cargo or children are carried or an apprentice hands it back. Otherwise it
// says all that is open.
func (s *Jobs) HandBackJob(ctx context.Context, who record.Actor, id uuid.UUID, h HandBack) (Job, error) {
	l, err := s.loadJob(ctx, s.desk.Store.Read(ctx), id, false)
	if err != nil {
		return Job{}, err
	}
	var second *store.Person
	if l.needsSecond(who) && (l.askedBy(who) == nil || !people.Has(people.Countersign, who)) {
		if second, err = s.secondSignature(ctx, who, h); err != nil {
			return Job{}, err
		}
	}
	err = s.desk.Write(ctx, who, "hand-back "+id.String(), record.ChangeOf{Version: h.Version, To: h.said()}, func(ctx context.Context, tx store.Tx) error {
		l, err := s.LoadOpenJob(ctx, tx, id)
		if err != nil {
			return err
		}
		if l.Job.Version != cmp.Or(h.Version, record.Followed(ctx)) {
			return store.ErrStale
		}
		return s.closeJob(ctx, tx, who, l, h, second)
	})
	return s.afterJob(ctx, who, id, map[string]any{"hand_back": true}, err)
}

// secondSignature is the other person who signs.
func (s *Jobs) secondSignature(ctx context.Context, who record.Actor, h HandBack) (*store.Person, error) {
	refuse := func(path, code, message string) error {
		return &record.Problem{Kind: record.Conflict, Code: "second-signature", Message: message, Fields: []record.Field{{Path: path, Code: code, Message: message}}}
	}
	switch {
	case h.SecondID == nil:
		return nil, refuse("second_id", "missing", "A second person signs this hand-back: choose who.")
	case *h.SecondID == who.Person.ID:
		return nil, refuse("second_id", "same-person", "The second signature is somebody else's.")
	}
	p, err := s.people.CheckPIN(ctx, *h.SecondID, h.SecondPIN, people.Attempt{Device: who.DeviceID, Address: "device " + who.DeviceID.String()})
	if err != nil {
		if problem, ok := errors.AsType[*record.Problem](err); ok && problem.Kind == record.NotSignedIn { // whoever asks stays signed in
			return nil, refuse("second_pin", "wrong-pin", problem.Message)
		}
		return nil, err
	}
	if !people.Has(people.Countersign, record.Actor{Person: record.NewPerson(p)}) {
		return nil, refuse("second_id", "not-allowed", "A mechanic or the shop's owner signs second.")
	}
	return &p, nil
}

func (s *Jobs) closeJob(ctx context.Context, tx store.Tx, who record.Actor, l *LoadedJob, h HandBack, second *store.Person) error {
	if err := l.ready(); err != nil {
		return err
	}
	plan := PlanOf(l.Job)
	house, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return err
	}
	entries, err := tx.LedgerOfJob(ctx, l.Job.ID)
	if err != nil {
		return err
	}
	parts, err := PartsOf(entries)
	if err != nil {
		return err
	}
	bill := billOf(plan, parts)
	more := mustAsk(l.Job.Agreed, bill, house)
	if more && !h.Asked {
		return &record.Problem{Kind: record.Conflict, Code: "ask-owner", Message: "The price is more than was agreed: ask the customer first.",
			Fields: []record.Field{{Path: "asked", Code: "missing", Message: "Ask the customer first, then say so here."}}}
	}
	now := s.desk.Moment(ctx)
	l.Job.State, l.Job.ClosedAt, l.Job.ClosedBy = store.JobHandedBack, &now, &who.Person.ID
	body := JobBody{Job: l.Job.ID.String(), Plan: plan}
	if more {
		body.Agreed = s.agree(ctx, who, &l.Job, &bill.Total)
	}
	switch first := l.askedBy(who); {
	case second != nil:
		l.Job.SecondBy, body.Second = &second.ID, second.Name
	case first != nil && people.Has(people.Countersign, who): // it was handed over by whoever asked, and is signed for now
		l.Job.ClosedBy, l.Job.SecondBy, body.Second = &first.ID, &who.Person.ID, who.Person.Name
	}
	if bill != nil {
		l.Job.Total, body.Total = &bill.Total, &bill.Total
	}
	if h.Paid {
		s.pay(ctx, who, &l.Job, true)
		body.Paid = &h.Paid
	}
	for i := range l.Waits {
		if w := &l.Waits[i].Wait; w.EndedAt == nil {
			if err := s.endWait(ctx, tx, who, w, ""); err != nil {
				return err
			}
		}
	}
	if err := tx.SaveJob(ctx, &l.Job); err != nil {
		return err
	}
	if err := s.keepLubricant(ctx, tx, who, l, plan); err != nil {
		return err
	}
	return s.JobEntry(ctx, tx, who, l.Bike, record.KindJobHandedBack, body)
}

// keepLubricant writes what was put on onto the bike's card, where it is of another family than it says.
func (s *Jobs) keepLubricant(ctx context.Context, tx store.Tx, who record.Actor, l *LoadedJob, plan *JobPlan) error {
	if plan == nil {
		return nil
	}
	on := plan.LubricantNext
	switch {
	case plan.Lubricant != nil:
		on = plan.Lubricant.Family
	case familyOf(l.Bike.Lubricant) == plan.LubricantNext: // planned before the family was said
		on = l.Bike.Lubricant
	case on == clean.Oil.String():
		on = lube.AllWeather.String()
	}
	if l.Bike.Lubricant == on {
		return nil
	}
	l.Bike.Lubricant = on
	if err := tx.SaveBike(ctx, &l.Bike); err != nil {
		return err
	}
	e := store.Entry{BikeID: &l.Bike.ID, Kind: record.KindBikeChanged}
	return s.desk.Append(ctx, tx, who, &e, record.BikeBody{Facts: record.LedgerFacts(l.Bike.BikeFacts), Changed: []string{"lubricant"}}, record.TagOf(l.Bike))
}

// CancelJob ends a job that is not done, with the reason.
func (s *Jobs) CancelJob(ctx context.Context, who record.Actor, id uuid.UUID, version int, reason string) (Job, error) {
	if reason = record.CleanLine(reason); len([]rune(reason)) < 3 {
		return Job{}, record.InvalidInput(record.Field{Path: "reason", Code: "missing", Message: "Say in a few words why the job is cancelled."})
	}
	err := s.desk.Write(ctx, who, "cancel-job "+id.String(), record.ChangeOf{Version: version, To: reason}, func(ctx context.Context, tx store.Tx) error {
		l, err := s.LoadOpenJob(ctx, tx, id)
		if err != nil {
			return err
		}
		if l.Job.Version != version {
			return store.ErrStale
		}
		for i, st := range l.Steps {
			if st.Code == "open-chain" && st.State == store.StepDone && !l.marks[stepChainOn].Done || st.Code == "old-chain-off" && st.State == store.StepDone && !l.marks[stepNewChain].Done {
				return &record.Problem{Kind: record.Conflict, Code: "chain-is-off", Message: fmt.Sprintf("The chain is off (“%s”): put it on before the job is cancelled.", l.Specs[i].Title)}
			}
		}
		now := s.desk.Moment(ctx)
		l.Job.State, l.Job.ClosedAt, l.Job.ClosedBy = store.JobCancelled, &now, &who.Person.ID
		for i := range l.Waits {
			if w := &l.Waits[i].Wait; w.EndedAt == nil {
				if err := s.endWait(ctx, tx, who, w, endedWithJob); err != nil {
					return err
				}
			}
		}
		if err := tx.SaveJob(ctx, &l.Job); err != nil {
			return err
		}
		return s.JobEntry(ctx, tx, who, l.Bike, record.KindJobCancelled, JobBody{Job: id.String(), Reason: reason})
	})
	return s.afterJob(ctx, who, id, json.RawMessage(`{"cancel":true}`), err)
}
