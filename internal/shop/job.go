package shop

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/fault"
	"earnestpony/internal/store"
)

// The states of a job.
const (
	jobArrived    = "arrived"
	jobPlanned    = "planned"
	jobHandedBack = "handed-back"
	jobCancelled  = "cancelled"
)

// Arrival is what was seen and said when a bike came in.
type Arrival struct {
	CleaningQuestion
	Complaints []string   `json:"complaints"`
	Reports    string     `json:"reports,omitempty"` // in the owner's words
	Wants      string     `json:"wants,omitempty"`
	Guide      bool       `json:"guide,omitempty"`
	PromisedAt *time.Time `json:"promised_at,omitempty"`
}

// JobSummary is a job as it stands beside others.
type JobSummary struct {
	ID         uuid.UUID  `json:"id"`
	Tag        string     `json:"tag"`
	Owner      Owner      `json:"owner"`
	Bike       string     `json:"bike"` // make, model, colour
	State      string     `json:"state"`
	CreatedAt  time.Time  `json:"created_at"`
	PromisedAt *time.Time `json:"promised_at,omitempty"`
	Route      string     `json:"route,omitempty"`
	Done       int        `json:"done"` // steps
	Steps      int        `json:"steps"`
	Next       *StepShort `json:"next,omitempty"` // that can be begun now
	Underway   []AtStep   `json:"underway"`
	HeldUntil  *time.Time `json:"held_until,omitempty"` // where only waits hold it
	OpenChecks int        `json:"open_checks"`
	Stops      int        `json:"stops"` // findings that hold the hand-back
	LeftMin    int        `json:"left_min"`
	Ready      bool       `json:"ready"` // to hand back
}

// StepShort names a step.
type StepShort struct {
	Code    string `json:"code"`
	Title   string `json:"title"`
	Minutes int    `json:"minutes"`
}

// AtStep is somebody at a step.
type AtStep struct {
	StepShort
	Person Person    `json:"person"`
	Since  time.Time `json:"since"`
}

// Job is all of a job.
type Job struct {
	JobSummary
	Version   int          `json:"version"`
	Kind      string       `json:"kind,omitempty"` // of bike
	Arrival   Arrival      `json:"arrival"`
	Comeback  *JobRef      `json:"comeback,omitempty"`
	Plan      *JobPlan     `json:"plan,omitempty"`
	StepList  []StepView   `json:"step_list"`
	Waits     []WaitView   `json:"waits"` // that run
	Findings  []FindingRow `json:"findings"`
	Photos    []PhotoRow   `json:"photos"`
	Notes     []NoteRow    `json:"notes"`
	Used      []UsedRow    `json:"used"`
	Parts     []JobPartRow `json:"parts"`
	Bill      *Quote       `json:"bill,omitempty"` // what was quoted and the parts noted since
	AskOwner  bool         `json:"ask_owner"`      // the bill goes too far beyond what was agreed
	Agreed    *int         `json:"agreed,omitempty"`
	Seen      []string     `json:"seen"`              // cautions that whoever asks has seen today
	Current   string       `json:"current"`           // the step for whoever asks; empty when there is none
	Holds     []Hold       `json:"holds"`             // what keeps it from being handed back
	Second    bool         `json:"needs_second"`      // signature
	Suggest   string       `json:"suggest,omitempty"` // soak, where the bath does not come clean
	HandsMin  int          `json:"hands_min"`
	WorkedMin float64      `json:"worked_min"`
	ClosedAt  *time.Time   `json:"closed_at,omitempty"`
	ClosedBy  string       `json:"closed_by,omitempty"`
	SecondBy  string       `json:"second_by,omitempty"`
	Cancelled string       `json:"cancelled,omitempty"` // why
}

// JobRef is another job of the bike.
type JobRef struct {
	ID       uuid.UUID  `json:"id"`
	ClosedAt *time.Time `json:"closed_at,omitempty"`
	Route    string     `json:"route,omitempty"`
}

// StepView is a step as it is shown.
type StepView struct {
	StepSpec
	State    string     `json:"state"`    // open, begun, done, skipped
	Standing string     `json:"standing"` // blocked, held, ready, underway, finished
	Until    *time.Time `json:"until,omitempty"`
	Round    int        `json:"round"`
	Fails    int        `json:"fails,omitempty"`
	By       string     `json:"by,omitempty"` // who did it or is at it
	Since    *time.Time `json:"since,omitempty"`
	DoneAt   *time.Time `json:"done_at,omitempty"`
	WorkedS  int        `json:"worked_s,omitempty"`
	Reason   string     `json:"reason,omitempty"`
}

// StepSpec is a step as it was planned.
type StepSpec struct {
	Code     string       `json:"code"`
	Phase    string       `json:"phase"`
	Title    string       `json:"title"`
	Do       string       `json:"do"`
	Why      string       `json:"why"`
	Minutes  int          `json:"minutes"`
	Wait     *StepWait    `json:"wait,omitempty"`
	Station  string       `json:"station"`
	Tools    []string     `json:"tools"`
	Amounts  []StepAmount `json:"amounts"`
	Cautions []string     `json:"cautions"`
	Done     string       `json:"done"`
	Fail     string       `json:"fail,omitempty"`
	Back     []string     `json:"back,omitempty"`
	Gate     bool         `json:"gate,omitempty"`
	Bath     string       `json:"bath,omitempty"`
	Before   []string     `json:"before"`
	Holding  []string     `json:"holding"` // steps whose waits hold it
	Causes   []StepCause  `json:"causes,omitempty"`
}

// StepWait is a wait that runs from the end of its step.
type StepWait struct {
	Code  string `json:"code"`
	Least int    `json:"least_min"`
	Most  int    `json:"most_min,omitempty"` // 0: no limit
}

// StepAmount is how much of a material a step takes.
type StepAmount struct {
	Material string  `json:"material"`
	Amount   float64 `json:"amount"`
	Unit     string  `json:"unit"`
	WaterML  float64 `json:"water_ml,omitempty"`
}

// StepCause is one of the causes that a check tells apart.
type StepCause struct {
	Code  string `json:"code"`
	Says  string `json:"says"`
	Leads string `json:"leads"`
}

// FindingRow is something that was found.
type FindingRow struct {
	ID         uuid.UUID  `json:"id"`
	Code       string     `json:"code"`
	Place      string     `json:"place,omitempty"`
	Severity   string     `json:"severity"`
	Note       string     `json:"note,omitempty"`
	FoundAt    time.Time  `json:"found_at"`
	By         string     `json:"by"`
	Resolution string     `json:"resolution,omitempty"`
	ResolvedBy string     `json:"resolved_by,omitempty"`
	ResolvedAt *time.Time `json:"resolved_at,omitempty"`
}

// PhotoRow is a picture of a job.
type PhotoRow struct {
	ID      uuid.UUID `json:"id"`
	TakenAt time.Time `json:"taken_at"`
	By      string    `json:"by"`
}

// NoteRow is something written down.
type NoteRow struct {
	At   time.Time `json:"at"`
	By   string    `json:"by"`
	Text string    `json:"text"`
}

// UsedRow is how much of a material the job used.
type UsedRow struct {
	Kind   string  `json:"kind"`
	Name   string  `json:"name"`
	Amount float64 `json:"amount"`
	Unit   string  `json:"unit"`
}

// Hold is one thing that keeps a bike from being handed back.
type Hold struct {
	Code string `json:"code"` // check-open, step-open, finding, wait-runs
	What string `json:"what"` // a step, a finding
	Says string `json:"says"`
}

// jobBody is what the ledger keeps of what happens to a job.
type jobBody struct {
	Job        string      `json:"job"`
	Arrival    *Arrival    `json:"arrival,omitempty"`
	Plan       *JobPlan    `json:"plan,omitempty"`
	Step       string      `json:"step,omitempty"`
	Deed       string      `json:"deed,omitempty"`
	Round      int         `json:"round,omitempty"`
	Again      []string    `json:"again,omitempty"` // steps that are done again
	WorkedS    int         `json:"worked_s,omitempty"`
	Reason     string      `json:"reason,omitempty"`
	Finding    *FindingRow `json:"finding,omitempty"`
	What       string      `json:"what,omitempty"`
	Note       string      `json:"note,omitempty"`
	Photo      string      `json:"photo,omitempty"`
	Used       *JobPart    `json:"used,omitempty"`
	Second     string      `json:"second,omitempty"`
	ComebackOf string      `json:"comeback_of,omitempty"`
}

// OpenJob takes a bike in: what was seen and said. A bike that comes again within a fortnight is linked
// to the job before.
func (s *Service) OpenJob(ctx context.Context, who Actor, d Deed, tagText string, a Arrival) (Job, error) {
	if err := checkArrival(&a, s.now()); err != nil {
		return Job{}, err
	}
	if _, err := s.look(ctx, tagText, a.CleaningQuestion); err != nil {
		return Job{}, err
	}
	id, err := once(ctx, s, who, d, "open-job "+tagText, a, func(tx store.Tx) (uuid.UUID, error) {
		bike, err := bikeInCare(ctx, tx, tagText)
		if err != nil {
			return uuid.Nil, err
		}
		intake, err := json.Marshal(a)
		if err != nil {
			return uuid.Nil, err
		}
		j := store.Job{ID: uuid.New(), BikeID: bike.ID, State: jobArrived, Intake: intake, PromisedAt: a.PromisedAt, CreatedAt: s.now(), CreatedBy: who.Person.ID}
		before, err := tx.JobsOf(ctx, bike.ID, 5)
		if err != nil {
			return uuid.Nil, err
		}
		for _, b := range before {
			if b.State == jobHandedBack && j.CreatedAt.Sub(*b.ClosedAt) <= fault.ComebackDays*24*time.Hour {
				j.ComebackOf = &b.ID
				break
			}
		}
		if err := tx.AddJob(ctx, &j); err != nil {
			return uuid.Nil, err
		}
		body := jobBody{Job: j.ID.String(), Arrival: forLedger(a)}
		if j.ComebackOf != nil {
			body.ComebackOf = j.ComebackOf.String()
		}
		return j.ID, s.jobEntry(ctx, tx, who, bike, "job-arrived", body)
	})
	if errors.Is(err, store.ErrTaken) {
		return Job{}, &Problem{Kind: Conflict, Code: "job-open", Message: "This bike is in the workshop already: open its job."}
	}
	if err != nil {
		return Job{}, err
	}
	return s.Job(ctx, who, id)
}

// forLedger is an arrival without the owner's own words: those stand with the job, where they can be erased.
func forLedger(a Arrival) *Arrival {
	a.Reports, a.Wants = "", ""
	return &a
}

func checkArrival(a *Arrival, now time.Time) error {
	a.Reports, a.Wants = tidy(a.Reports), tidy(a.Wants)
	if a.Complaints == nil {
		a.Complaints = []string{}
	}
	var wrong []Field
	for i, code := range a.Complaints {
		if _, err := fault.Parse(code); err != nil {
			wrong = append(wrong, Field{Path: fmt.Sprintf("complaints[%d]", i), Code: "unknown-value", Message: err.Error()})
		}
	}
	slices.Sort(a.Complaints)
	a.Complaints = slices.Compact(a.Complaints)
	if a.PromisedAt != nil {
		at := store.Stamp(*a.PromisedAt)
		a.PromisedAt = &at
		if at.Before(now.Add(-clockSlack)) {
			wrong = append(wrong, Field{Path: "promised_at", Code: "in-the-past", Message: "The promised time has passed already."})
		}
	}
	if len(wrong) > 0 {
		return invalid(wrong...)
	}
	return nil
}

// jobEntry writes what happened to a job into the ledger of its bike and tells of it.
func (s *Service) jobEntry(ctx context.Context, tx store.Tx, who Actor, bike store.Bike, kind string, body jobBody) error {
	e := store.Entry{BikeID: &bike.ID, Kind: kind}
	return s.append(ctx, tx, who, &e, body, Change{Topic: "job", Tag: tagOf(bike)})
}

// Jobs returns the jobs that are open, by promised time.
func (s *Service) Jobs(ctx context.Context) ([]JobSummary, error) {
	tx := s.store.Read()
	rows, err := tx.OpenJobs(ctx)
	if err != nil || len(rows) == 0 {
		return []JobSummary{}, err
	}
	ids := make([]uuid.UUID, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	steps, err := tx.Steps(ctx, ids...)
	if err != nil {
		return nil, err
	}
	waits, err := tx.WaitsOf(ctx, ids...)
	if err != nil {
		return nil, err
	}
	people, err := s.peopleByID(ctx, tx)
	if err != nil {
		return nil, err
	}
	var all []JobSummary
	for _, r := range rows {
		l := layout{job: r, people: people, at: s.now()}
		for _, st := range steps {
			if st.JobID == r.ID {
				l.steps = append(l.steps, st)
			}
		}
		for _, w := range waits {
			if *w.JobID == r.ID {
				l.waits = append(l.waits, w)
			}
		}
		if l.bike, err = tx.BikeByID(ctx, r.BikeID); err != nil {
			return nil, err
		}
		if l.findings, err = tx.FindingsOf(ctx, r.ID); err != nil {
			return nil, err
		}
		if err := l.read(); err != nil {
			return nil, err
		}
		all = append(all, l.summary())
	}
	return all, nil
}

func (s *Service) peopleByID(ctx context.Context, tx store.Tx) (map[uuid.UUID]Person, error) {
	rows, err := tx.EverybodyEver(ctx)
	all := make(map[uuid.UUID]Person, len(rows))
	for _, p := range rows {
		all[p.ID] = newPerson(p)
	}
	return all, err
}

// layout is a job with everything that its steps turn on.
type layout struct {
	job      store.Job
	bike     store.Bike
	steps    []store.JobStep
	waits    []store.WaitView
	findings []store.Finding
	people   map[uuid.UUID]Person
	at       time.Time

	specs   []StepSpec
	planned []clean.Planned
	marks   map[string]clean.Mark
}

// loadLayout reads a job; locked, nobody else changes it until the unit of work ends.
func (s *Service) loadLayout(ctx context.Context, tx store.Tx, id uuid.UUID, locked bool) (*layout, error) {
	l := &layout{at: s.now()}
	load := tx.Job
	if locked {
		load = tx.LockJob
	}
	var err error
	if l.job, err = load(ctx, id); notFound(err) {
		return nil, missing("job", "job-not-found")
	} else if err != nil {
		return nil, err
	}
	if l.bike, err = tx.BikeByID(ctx, l.job.BikeID); err != nil {
		return nil, err
	}
	if l.steps, err = tx.Steps(ctx, id); err != nil {
		return nil, err
	}
	if l.waits, err = tx.WaitsOf(ctx, id); err != nil {
		return nil, err
	}
	if l.findings, err = tx.FindingsOf(ctx, id); err != nil {
		return nil, err
	}
	if l.people, err = s.peopleByID(ctx, tx); err != nil {
		return nil, err
	}
	return l, l.read()
}

// read lays the steps out as the core takes them.
func (l *layout) read() error {
	l.specs, l.planned, l.marks = nil, nil, map[string]clean.Mark{}
	for _, st := range l.steps {
		var spec StepSpec
		if err := json.Unmarshal(st.Spec, &spec); err != nil {
			return fmt.Errorf("step %s: %w", st.Code, err)
		}
		l.specs = append(l.specs, spec)
		p := clean.Planned{Step: clean.Step{Code: spec.Code, Gate: spec.Gate, Fail: spec.Fail, Back: spec.Back}, Before: spec.Before, Waits: spec.Holding}
		l.planned = append(l.planned, p)
		m := clean.Mark{Begun: st.State == "begun", Done: st.State == "done", Skipped: st.State == "skipped"}
		for _, w := range l.waits {
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

func (l *layout) standing(i int) (clean.Standing, *time.Time) {
	how, until := clean.StandingOf(l.planned[i], l.marks, l.at)
	if until.IsZero() {
		return how, nil
	}
	return how, &until
}

func (l *layout) summary() JobSummary {
	b := l.bike
	v := JobSummary{ID: l.job.ID, Tag: tagOf(b), Owner: Owner{b.CustomerID, b.OwnerName}, Bike: bikeWords(b), State: l.job.State, CreatedAt: l.job.CreatedAt,
		PromisedAt: l.job.PromisedAt, Steps: len(l.steps), Underway: []AtStep{}, OpenChecks: len(clean.OpenChecks(l.planned, l.marks))}
	if plan := planOf(l.job); plan != nil {
		v.Route = plan.Route
	}
	for i, spec := range l.specs {
		how, until := l.standing(i)
		short := StepShort{spec.Code, spec.Title, spec.Minutes}
		if how != clean.Finished {
			v.LeftMin += spec.Minutes
		}
		switch how {
		case clean.Finished:
			v.Done++
		case clean.Underway:
			v.Underway = append(v.Underway, AtStep{short, l.people[*l.steps[i].BegunBy], *l.steps[i].BegunAt})
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
	v.Ready = l.job.State == jobPlanned && len(l.holds()) == 0
	return v
}

func bikeWords(b store.Bike) string {
	text := ""
	for _, part := range []string{b.Make, b.Model, b.Colour} {
		if part == "" {
			continue
		}
		if text != "" {
			text += " "
		}
		text += part
	}
	return cmp.Or(text, "bike without a name")
}

// holds are what keeps the bike from being handed back.
func (l *layout) holds() []Hold {
	holds := []Hold{}
	for i, spec := range l.specs {
		m := l.marks[spec.Code]
		switch {
		case spec.Gate && !m.Done:
			holds = append(holds, Hold{"check-open", spec.Code, spec.Title})
		case l.steps[i].State != "done" && l.steps[i].State != "skipped":
			holds = append(holds, Hold{"step-open", spec.Code, spec.Title})
		}
	}
	for _, f := range l.findings {
		if f.Severity == string(fault.Stop) && f.ResolvedAt == nil {
			holds = append(holds, Hold{"finding", f.Code, findingWords(f.Code)})
		}
	}
	for _, w := range l.waits {
		if w.EndedAt == nil && w.LeastAt.After(l.at) {
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
func (l *layout) current(person uuid.UUID) string {
	for i, st := range l.steps {
		if st.State == "begun" && *st.BegunBy == person {
			return l.specs[i].Code
		}
	}
	for i, spec := range l.specs {
		if how, _ := l.standing(i); how == clean.Ready {
			return spec.Code
		}
	}
	return ""
}

// Job returns a job as it is for whoever asks.
func (s *Service) Job(ctx context.Context, who Actor, id uuid.UUID) (Job, error) {
	return s.jobIn(ctx, s.store.Read(), who, id)
}

func (s *Service) jobIn(ctx context.Context, tx store.Tx, who Actor, id uuid.UUID) (Job, error) {
	l, err := s.loadLayout(ctx, tx, id, false)
	if err != nil {
		return Job{}, err
	}
	j := Job{JobSummary: l.summary(), Version: l.job.Version, Kind: l.bike.Kind, StepList: []StepView{}, Waits: []WaitView{}, Findings: []FindingRow{}, Photos: []PhotoRow{},
		Notes: []NoteRow{}, Used: []UsedRow{}, Agreed: l.job.Agreed, Holds: []Hold{}, Plan: planOf(l.job), ClosedAt: l.job.ClosedAt, Second: l.needsSecond(who)}
	if err := json.Unmarshal(l.job.Intake, &j.Arrival); err != nil {
		return j, fmt.Errorf("intake of job %s: %w", id, err)
	}
	open := l.job.State == jobPlanned
	if open {
		j.Current, j.Holds = l.current(who.Person.ID), l.holds()
	}
	for i, st := range l.steps {
		j.StepList = append(j.StepList, l.stepView(i))
		j.HandsMin += l.specs[i].Minutes
		j.WorkedMin += float64(st.WorkedS) / 60
		if st.BegunAt != nil {
			j.WorkedMin += l.at.Sub(*st.BegunAt).Minutes()
		}
		if st.Code == "rag-test" && st.Fails >= clean.SuggestAfter && st.State != "done" && j.Plan != nil && j.Plan.ChainRoute == clean.Bath.String() {
			j.Suggest = clean.Soak.String()
		}
	}
	for _, w := range l.waits {
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
	j.ClosedBy, j.SecondBy = name(l.job.ClosedBy), name(l.job.SecondBy)
	for _, f := range l.findings {
		j.Findings = append(j.Findings, FindingRow{ID: f.ID, Code: f.Code, Place: f.Place, Severity: f.Severity, Note: f.Note, FoundAt: f.FoundAt, By: name(&f.FoundBy),
			Resolution: f.Resolution, ResolvedBy: name(f.ResolvedBy), ResolvedAt: f.ResolvedAt})
	}
	if err := s.fill(ctx, tx, who, l, &j); err != nil {
		return j, err
	}
	return j, nil
}

// fill adds to a job what stands in other tables.
func (s *Service) fill(ctx context.Context, tx store.Tx, who Actor, l *layout, j *Job) error {
	photos, err := tx.JobPhotos(ctx, l.job.ID)
	if err != nil {
		return err
	}
	for _, p := range photos {
		j.Photos = append(j.Photos, PhotoRow{p.ID, p.TakenAt, l.people[p.TakenBy].Name})
	}
	entries, err := tx.LedgerOfJob(ctx, l.job.ID)
	if err != nil {
		return err
	}
	for _, e := range entries {
		b, err := bodyOf[jobBody](e)
		if err != nil {
			return err
		}
		switch e.Kind {
		case "job-note":
			j.Notes = append(j.Notes, NoteRow{e.HappenedAt, e.PersonName, b.Note})
		case "job-cancelled":
			j.Cancelled = b.Reason
		}
	}
	if j.Parts, err = partsOf(entries); err != nil {
		return err
	}
	h, err := loadHouse(ctx, tx)
	if err != nil {
		return err
	}
	j.Bill = billOf(j.Plan, j.Parts)
	j.AskOwner = mustAsk(j.Agreed, j.Bill, h)
	used, err := tx.UsesOf(ctx, l.job.ID)
	if err != nil {
		return err
	}
	for _, u := range used {
		j.Used = append(j.Used, UsedRow{u.Kind, u.Name, u.Amount, clean.Material(u.Kind).Unit()})
	}
	if j.Seen, err = tx.TappedCautions(ctx, who.Person.ID, s.now()); err != nil {
		return err
	}
	if j.Seen == nil {
		j.Seen = []string{}
	}
	if l.job.ComebackOf != nil {
		before, err := tx.Job(ctx, *l.job.ComebackOf)
		if err != nil {
			return err
		}
		j.Comeback = &JobRef{ID: before.ID, ClosedAt: before.ClosedAt}
		if p := planOf(before); p != nil {
			j.Comeback.Route = p.Route
		}
	}
	return nil
}

func (l *layout) stepView(i int) StepView {
	st := l.steps[i]
	how, until := l.standing(i)
	v := StepView{StepSpec: l.specs[i], State: st.State, Standing: how.String(), Until: until, Round: st.Round, Fails: st.Fails, Since: st.BegunAt, DoneAt: st.DoneAt,
		WorkedS: st.WorkedS, Reason: st.Reason}
	for _, by := range []*uuid.UUID{st.BegunBy, st.DoneBy} {
		if by != nil {
			v.By = l.people[*by].Name
		}
	}
	return v
}

// needsSecond reports whether a second person signs the hand-back: where cargo or children are carried,
// and for what an apprentice hands back.
func (l *layout) needsSecond(who Actor) bool {
	return carries(l.bike.Kind) || who.Person.Role == "apprentice"
}

// JobsOfBike returns a bike's jobs, newest first.
func (s *Service) JobsOfBike(ctx context.Context, tagText string) ([]JobRefFull, error) {
	tx := s.store.Read()
	bike, err := bikeByTag(ctx, tx, tagText)
	if err != nil {
		return nil, err
	}
	rows, err := tx.JobsOf(ctx, bike.ID, 20)
	all := []JobRefFull{}
	for _, r := range rows {
		ref := JobRefFull{JobRef: JobRef{ID: r.ID, ClosedAt: r.ClosedAt}, State: r.State, CreatedAt: r.CreatedAt}
		if p := planOf(r); p != nil {
			ref.Route = p.Route
		}
		all = append(all, ref)
	}
	return all, err
}

// JobRefFull is a job of a bike in a list.
type JobRefFull struct {
	JobRef
	State     string    `json:"state"`
	CreatedAt time.Time `json:"created_at"`
}

// JobWords are what owners say, and what may be found.
type JobWords struct {
	Complaints []ComplaintWords `json:"complaints"`
	Findings   []FindingWords   `json:"findings"`
}

// ComplaintWords is one thing that owners say.
type ComplaintWords struct {
	Code  string `json:"code"`
	Says  string `json:"says"`
	Check string `json:"check"`
}

// FindingWords is one thing that may be found. Fixed says that nobody may take it for less than it is.
type FindingWords struct {
	Code     string `json:"code"`
	Says     string `json:"says"`
	Severity string `json:"severity"`
	Fixed    bool   `json:"fixed"`
}

// JobWords lists what owners say and what may be found.
func (s *Service) JobWords() JobWords {
	var w JobWords
	for _, c := range fault.Complaints() {
		w.Complaints = append(w.Complaints, ComplaintWords{c.Code, c.Says, c.Check})
	}
	for _, f := range fault.Findings() {
		w.Findings = append(w.Findings, FindingWords{f.Code, f.Says, string(f.Severity), f.Fixed})
	}
	return w
}
