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
	"earnestpony/core/fault"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// Intake is what was seen and said when a bike came in.
type Intake struct {
	Condition
	Complaints []string   `json:"complaints"`
	Reports    string     `json:"reports,omitempty"` // in the owner's words
	Wants      string     `json:"wants,omitempty"`
	Guide      bool       `json:"guide,omitempty"`
	PromisedAt *time.Time `json:"promised_at,omitempty"`
	Waiting    bool       `json:"waiting,omitempty"` // the owner waits for it: its lateness counts three times
	Route      string     `json:"route,omitempty"`   // that was promised; empty leaves it to what is recommended
}

// Job is all of a job.
type Job struct {
	JobSummary
	Version   int                  `json:"version"`
	Kind      string               `json:"kind,omitempty"` // of bike
	Intake    Intake               `json:"intake"`
	Comeback  *JobRef              `json:"comeback,omitempty"`
	Plan      *JobPlan             `json:"plan,omitempty"`
	StepList  []StepView           `json:"step_list"`
	Waits     []WaitView           `json:"waits"` // that run
	Findings  []measure.FindingRow `json:"findings"`
	Photos    []PhotoRow           `json:"photos"`
	Notes     []NoteRow            `json:"notes"`
	Used      []UsedRow            `json:"used"`
	Shelf     []OnShelf            `json:"shelf"` // what there is of what it still takes
	Parts     []JobPartRow         `json:"parts"`
	Bill      *Quote               `json:"bill,omitempty"` // what was quoted and the parts noted since
	AskOwner  bool                 `json:"ask_owner"`      // the bill goes too far beyond what was agreed
	Agreed    *measure.Agreement   `json:"agreed,omitempty"`
	Promised  *Promised            `json:"promised,omitempty"`        // who promised the time, and when
	May       []string             `json:"may"`                       // what whoever asks may do about it: work, hand-back, release
	Seen      []string             `json:"seen"`                      // cautions that whoever asks has seen today
	Current   string               `json:"current"`                   // the step for whoever asks; empty when there is none
	Holds     []Hold               `json:"holds"`                     // what keeps it from being handed back
	Second    bool                 `json:"needs_second"`              // signature
	Asked     *Signed              `json:"signature_asked,omitempty"` // who asked a mechanic to sign
	Paid      *Signed              `json:"paid,omitempty"`
	Unpaid    bool                 `json:"unpaid,omitempty"`      // handed back, and not paid yet
	Blocks    []BlockView          `json:"blocks"`                // its steps as they are done in one go
	Block     string               `json:"block,omitempty"`       // that whoever asks is at, or that can be begun
	NextBlock string               `json:"next_block,omitempty"`  // that can be begun once that is done; empty where only a wait follows
	Change    *PlanChange          `json:"change,omitempty"`      // the plan that a reading asks for instead
	Told      []string             `json:"told"`                  // what was done, in the customer's words
	Looked    bool                 `json:"looked_over,omitempty"` // somebody looked the bike over, so that it can be said that nothing was found
	HandsMin  int                  `json:"hands_min"`
	WorkedMin float64              `json:"worked_min"`
	ClosedAt  *time.Time           `json:"closed_at,omitempty"`
	ClosedBy  string               `json:"closed_by,omitempty"`
	SecondBy  string               `json:"second_by,omitempty"`
	Cancelled string               `json:"cancelled,omitempty"` // why
}

// JobBody is what the ledger keeps of what happens to a job.
type JobBody struct {
	Job        string              `json:"job"`
	Intake     *Intake             `json:"arrival,omitempty"`
	Plan       *JobPlan            `json:"plan,omitempty"`
	Step       string              `json:"step,omitempty"`
	Action     string              `json:"deed,omitempty"`
	Round      int                 `json:"round,omitempty"`
	Again      []string            `json:"again,omitempty"` // Steps that are done again
	WorkedS    int                 `json:"worked_s,omitempty"`
	Reason     string              `json:"reason,omitempty"`
	Finding    *measure.FindingRow `json:"finding,omitempty"`
	What       string              `json:"what,omitempty"`
	Note       string              `json:"note,omitempty"`
	Photo      string              `json:"photo,omitempty"`
	Used       *measure.JobPart    `json:"used,omitempty"`
	Agreed     *int                `json:"agreed,omitempty"` // minor units, where a price was agreed on
	Second     string              `json:"second,omitempty"`
	Twice      bool                `json:"twice,omitempty"` // with a second round
	ComebackOf string              `json:"comeback_of,omitempty"`
	Total      *int                `json:"total,omitempty"` // minor units, that it came to
	Paid       *bool               `json:"paid,omitempty"`
}

// OpenJob takes a bike in: what was seen and said. A bike that comes again within a fortnight is linked
// to the job before.
func (s *Jobs) OpenJob(ctx context.Context, who record.Actor, tagText string, a Intake) (Job, error) {
	if err := CheckIntake(&a, nil, s.desk.Moment(ctx)); err != nil {
		return Job{}, err
	}
	id, err := record.Idempotent(ctx, s.desk, who, "open-job "+tagText, a, func(ctx context.Context, tx store.Tx) (uuid.UUID, error) {
		if _, err := s.look(ctx, tx, tagText, a.Condition); err != nil {
			return uuid.Nil, err
		}
		bike, err := record.BikeInCare(ctx, tx, tagText)
		if err != nil {
			return uuid.Nil, err
		}
		intake, err := json.Marshal(a)
		if err != nil {
			return uuid.Nil, err
		}
		own, err := record.NewID(ctx)
		if err != nil {
			return uuid.Nil, err
		}
		j := store.Job{ID: own, BikeID: bike.ID, State: store.JobArrived, Intake: intake, CreatedAt: s.desk.Moment(ctx), CreatedBy: who.Person.ID}
		s.Promise(ctx, who, &j, a.PromisedAt)
		before, err := tx.JobsOf(ctx, bike.ID, 5)
		if err != nil {
			return uuid.Nil, err
		}
		if slices.ContainsFunc(before, func(b store.Job) bool { return b.ID == own }) {
			return uuid.Nil, record.NameTaken()
		}
		for _, b := range before {
			if b.State == store.JobHandedBack && j.CreatedAt.Sub(*b.ClosedAt) <= fault.ComebackDays*24*time.Hour {
				j.ComebackOf = &b.ID
				break
			}
		}
		err = tx.AddJob(ctx, &j)
		if errors.Is(err, store.ErrTaken) {
			return uuid.Nil, &record.Problem{Kind: record.Conflict, Code: "job-open", Message: "This bike is in the workshop already: open its job."}
		}
		if err != nil {
			return uuid.Nil, err
		}
		record.Leaves(ctx, j.Version)
		body := JobBody{Job: j.ID.String(), Intake: ForLedger(a)}
		if j.ComebackOf != nil {
			body.ComebackOf = j.ComebackOf.String()
		}
		return j.ID, s.JobEntry(ctx, tx, who, bike, record.KindJobArrived, body)
	})
	if err != nil {
		return Job{}, err
	}
	return s.Job(ctx, who, id)
}

// ForLedger is an arrival without the owner's own words: those stand with the job, where they can be erased.
func ForLedger(a Intake) *Intake {
	a.Reports, a.Wants = "", ""
	return &a
}

// CheckIntake holds what was seen and said against what makes sense; promised is the time that was promised before.
func CheckIntake(a *Intake, promised *time.Time, now time.Time) error {
	a.Reports, a.Wants = record.CleanLine(a.Reports), record.CleanLine(a.Wants)
	if a.Complaints == nil {
		a.Complaints = []string{}
	}
	var wrong record.Faults
	for i, code := range a.Complaints {
		if _, err := fault.Parse(code); err != nil {
			wrong.Add(fmt.Sprintf("complaints[%d]", i), "unknown-value", "%s", err.Error())
		}
	}
	slices.Sort(a.Complaints)
	a.Complaints = slices.Compact(a.Complaints)
	if a.Route != "" {
		if _, err := clean.ParseRoute(a.Route); err != nil {
			wrong.Add("route", "unknown-value", "%s", err.Error())
		}
	}
	if a.PromisedAt != nil {
		at := store.Stamp(*a.PromisedAt)
		a.PromisedAt = &at
		if f := PromiseFault(&at, promised, now); f != nil {
			wrong = append(wrong, *f)
		}
	}
	if err := wrong.Err(); err != nil {
		return err
	}
	return nil
}

// JobEntry writes what happened to a job into the ledger of its bike and tells of it.
func (s *Jobs) JobEntry(ctx context.Context, tx store.Tx, who record.Actor, bike store.Bike, kind string, body JobBody) error {
	e := store.Entry{BikeID: &bike.ID, Kind: kind}
	return s.desk.Append(ctx, tx, who, &e, body, record.TagOf(bike))
}

// ListJobs returns the jobs that are open, by promised time.
func (s *Jobs) ListJobs(ctx context.Context) ([]JobSummary, error) {
	tx := s.desk.Store.Read(ctx)
	people, err := s.desk.PeopleByID(ctx, tx)
	if err != nil {
		return nil, err
	}
	layouts, err := s.LoadOpenJobs(ctx, tx, people)
	all := make([]JobSummary, 0, len(layouts))
	for _, l := range layouts {
		all = append(all, l.summary())
	}
	return all, err
}

// Job returns a job as it is for whoever asks.
func (s *Jobs) Job(ctx context.Context, who record.Actor, id uuid.UUID) (Job, error) {
	return s.jobIn(ctx, s.desk.Store.Read(ctx), who, id)
}

func (s *Jobs) jobIn(ctx context.Context, tx store.Tx, who record.Actor, id uuid.UUID) (Job, error) {
	l, err := s.loadJob(ctx, tx, id, false)
	if err != nil {
		return Job{}, err
	}
	j := Job{JobSummary: l.summary(), Version: l.Job.Version, Kind: l.Bike.Kind, StepList: []StepView{}, Waits: []WaitView{}, Findings: []measure.FindingRow{}, Photos: []PhotoRow{},
		Notes: []NoteRow{}, Used: []UsedRow{}, May: mayDo(who), Holds: []Hold{}, Plan: PlanOf(l.Job), ClosedAt: l.Job.ClosedAt, Second: l.needsSecond(who)}
	if err := json.Unmarshal(l.Job.Intake, &j.Intake); err != nil {
		return j, fmt.Errorf("intake of job %s: %w", id, err)
	}
	open := l.Job.State == store.JobPlanned
	if open {
		if b := l.currentBlock(who.Person.ID); b != nil {
			j.Block = b.Code
			if next := l.nextBlock(*b, who.Person.ID); next != nil {
				j.NextBlock = next.Code
			}
		}
		j.Current, j.Holds = l.current(who.Person.ID), l.holds()
	}
	for i, st := range l.Steps {
		j.StepList = append(j.StepList, l.stepView(i, who.Person.ID))
		j.HandsMin += l.Specs[i].Minutes
		j.WorkedMin += float64(st.WorkedS) / 60
		if st.BegunAt != nil {
			j.WorkedMin += l.At.Sub(*st.BegunAt).Minutes()
		}
		if st.Code == "rag-test" && st.Fails >= clean.SuggestAfter && st.State != store.StepDone && j.Plan != nil && j.Plan.ChainRoute == clean.Bath.String() {
			j.StepList[i].Suggest = clean.Soak.String()
		}
	}
	j.Blocks = l.blocks()
	j.Told, j.Looked = clean.Told(l.isDone), clean.LookedOver(l.isDone)
	for _, w := range l.Waits {
		if w.EndedAt == nil {
			j.Waits = append(j.Waits, newWaitView(w))
		}
	}
	name := func(id *uuid.UUID) string {
		if id == nil {
			return ""
		}
		return l.people[*id].Name
	}
	if l.Job.Agreed != nil {
		j.Agreed = &measure.Agreement{Price: *l.Job.Agreed, At: l.Job.AgreedAt, By: name(l.Job.AgreedBy)}
	}
	if l.Job.PromisedAt != nil {
		j.Promised = &Promised{On: l.Job.PromisedOn, By: name(l.Job.PromisedBy)}
	}
	j.ClosedBy, j.SecondBy = name(l.Job.ClosedBy), name(l.Job.SecondBy)
	if by := l.asked(); by != nil && open {
		j.Asked = &Signed{*l.Job.SignAskedAt, name(by)}
	}
	if at := l.Job.PaidAt; at != nil {
		j.Paid = &Signed{*at, name(l.Job.PaidBy)}
	}
	j.Unpaid = l.Job.State == store.JobHandedBack && l.Job.PaidAt == nil && l.Job.Total != nil && *l.Job.Total > 0
	if j.Asked != nil && l.askedBy(who) != nil && people.Has(people.Countersign, who) {
		j.Second = false // whoever hands it back signs second
	}
	for _, f := range l.findings {
		j.Findings = append(j.Findings, measure.FindingRow{ID: f.ID, Code: f.Code, Place: f.Place, Severity: f.Severity, Note: f.Note, FoundAt: f.FoundAt, By: name(&f.FoundBy),
			Resolution: f.Resolution, ResolvedBy: name(f.ResolvedBy), ResolvedAt: f.ResolvedAt})
	}
	if err := s.fill(ctx, tx, who, l, &j); err != nil {
		return j, err
	}
	return j, nil
}

// fill adds to a job what stands in other tables.
func (s *Jobs) fill(ctx context.Context, tx store.Tx, who record.Actor, l *LoadedJob, j *Job) error {
	photos, err := tx.JobPhotos(ctx, l.Job.ID)
	if err != nil {
		return err
	}
	for _, p := range photos {
		j.Photos = append(j.Photos, PhotoRow{p.ID, p.TakenAt, l.people[p.TakenBy].Name})
	}
	entries, err := tx.LedgerOfJob(ctx, l.Job.ID)
	if err != nil {
		return err
	}
	entries, _ = record.Sound(entries)
	for _, e := range entries {
		b, err := record.BodyOf[JobBody](e)
		if err != nil {
			return err
		}
		switch e.Kind {
		case record.KindJobNote:
			j.Notes = append(j.Notes, NoteRow{e.HappenedAt, e.PersonName, b.Note})
		case record.KindJobCancelled:
			j.Cancelled = b.Reason
		case record.KindJobReopened:
			j.Cancelled = ""
		}
	}
	if j.Parts, err = PartsOf(entries); err != nil {
		return err
	}
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return err
	}
	if j.Change, err = s.change(ctx, tx, l); err != nil {
		return err
	}
	j.Bill = billOf(j.Plan, j.Parts)
	j.AskOwner = mustAsk(l.Job.Agreed, j.Bill, h)
	used, err := tx.UsesOf(ctx, l.Job.ID)
	if err != nil {
		return err
	}
	for _, u := range used {
		j.Used = append(j.Used, UsedRow{u.Kind, u.Name, u.Amount, clean.Material(u.Kind).Unit()})
	}
	if j.Shelf, err = l.onShelf(ctx, tx); err != nil {
		return err
	}
	clock, err := s.desk.Clock(ctx, tx)
	if err != nil {
		return err
	}
	if j.Seen, err = tx.TappedCautions(ctx, who.Person.ID, clock.Now()); err != nil {
		return err
	}
	if j.Seen == nil {
		j.Seen = []string{}
	}
	if l.Job.ComebackOf != nil {
		before, err := tx.Job(ctx, *l.Job.ComebackOf)
		if err != nil {
			return err
		}
		j.Comeback = &JobRef{ID: before.ID, ClosedAt: before.ClosedAt}
		if p := PlanOf(before); p != nil {
			j.Comeback.Route = p.Route
		}
	}
	return nil
}

// mayDo is what somebody may do about a job: see [Job.May].
func mayDo(who record.Actor) []string {
	may := []string{}
	for _, d := range []struct {
		name string
		of   people.Permission
	}{{"work", people.Record}, {"hand-back", people.HandBack}, {"release", people.Release}} {
		if people.Has(d.of, who) {
			may = append(may, d.name)
		}
	}
	return may
}

// JobsOfBike returns a bike's jobs, newest first.
func (s *Jobs) JobsOfBike(ctx context.Context, tagText string) ([]JobListItem, error) {
	tx := s.desk.Store.Read(ctx)
	bike, err := record.BikeByTag(ctx, tx, tagText)
	if err != nil {
		return nil, err
	}
	rows, err := tx.JobsOf(ctx, bike.ID, 20)
	all := []JobListItem{}
	for _, r := range rows {
		ref := JobListItem{JobRef: JobRef{ID: r.ID, ClosedAt: r.ClosedAt}, State: r.State, CreatedAt: r.CreatedAt}
		if p := PlanOf(r); p != nil {
			ref.Route = p.Route
		}
		all = append(all, ref)
	}
	return all, err
}

func checkJobBody(b JobBody) error {
	if a := b.Intake; a != nil {
		if err := errors.Join(record.Within("frame_grade", float64(a.FrameGrade), 0, 4), record.Within("drivetrain_grade", float64(a.DrivetrainGrade), 0, 4)); err != nil {
			return err
		}
	}
	if b.Agreed != nil {
		if err := record.Within("agreed", float64(*b.Agreed), 0, record.MaxPrice); err != nil {
			return err
		}
	}
	if u := b.Used; u != nil {
		if err := record.Within("count", float64(u.Count), 0, 10_000); err != nil {
			return err
		}
	}
	return errors.Join(record.Within("worked_s", float64(b.WorkedS), 0, 1e8), record.Within("round", float64(b.Round), 0, 1e6))
}

// PromiseFault is what is wrong with a time that a bike is promised for, if it is another than it was; nil where nothing is.
func PromiseFault(at, was *time.Time, now time.Time) *record.Field {
	switch {
	case at == nil || was != nil && store.Stamp(*at).Equal(*was):
		return nil
	case at.Before(now.Add(-record.ClockSlack)):
		return &record.Field{Path: "promised_at", Code: "in-the-past", Message: "The promised time has passed already."}
	case at.After(now.AddDate(1, 0, 0)):
		return &record.Field{Path: "promised_at", Code: "out-of-range", Message: "A bike is promised within a year."}
	}
	return nil
}

func init() {
	record.Holds(checkJobBody, record.KindJobArrived, record.KindJobChanged, record.KindJobPlanned, record.KindJobStep, record.KindJobFinding, record.KindJobFindingResolved,
		record.KindJobNote, record.KindJobPhoto, record.KindJobPart, record.KindJobHandedBack, record.KindJobCancelled, record.KindJobReopened,
		record.KindJobSignatureAsked, record.KindJobPaid)
}
