package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Job is a bike that came in, until it is handed back. Intake and Plan are the shop's to read.
type Job struct {
	ID         uuid.UUID
	BikeID     uuid.UUID
	State      JobState
	Intake     json.RawMessage `gorm:"type:jsonb"`
	Plan       json.RawMessage `gorm:"type:jsonb"` // nil until it is planned
	PromisedAt *time.Time
	PromisedOn *time.Time // when and by whom it was; of those that are older than these columns, nobody knows
	PromisedBy *uuid.UUID
	Agreed     *int // minor units
	AgreedAt   *time.Time
	AgreedBy   *uuid.UUID
	ComebackOf *uuid.UUID
	ClosedAt   *time.Time
	ClosedBy   *uuid.UUID
	SecondBy   *uuid.UUID
	// SignAskedBy is the apprentice who asked a mechanic to sign that the bike may go.
	SignAskedAt *time.Time
	SignAskedBy *uuid.UUID
	Total       *int // minor units, that it came to at hand-back; nil of older jobs
	PaidAt      *time.Time
	PaidBy      *uuid.UUID
	Version     int
	CreatedAt   time.Time
	CreatedBy   uuid.UUID
}

// JobStep is one step of a job, as it was planned and how far it is.
type JobStep struct {
	JobID    uuid.UUID `gorm:"primaryKey"`
	Code     string    `gorm:"primaryKey"`
	Position int
	Spec     json.RawMessage `gorm:"type:jsonb"`
	State    StepState
	Round    int
	Fails    int
	BegunAt  *time.Time
	BegunBy  *uuid.UUID
	DoneAt   *time.Time
	DoneBy   *uuid.UUID
	WorkedS  int
	Reason   string
	KeptFor  *uuid.UUID // the only person for it on the wall
	KeptAt   *time.Time // when it is to begin there
}

// Wait is something that runs by itself.
type Wait struct {
	ID       uuid.UUID
	JobID    *uuid.UUID
	StepCode string
	What     string
	Place    string
	BeganAt  time.Time
	BeganBy  uuid.UUID
	LeastAt  time.Time
	MostAt   *time.Time
	EndedAt  *time.Time
	EndedBy  *uuid.UUID
	Reason   string
}

// WaitView is a wait with the tag of the bike it is of; zero for one of the shop's own.
type WaitView struct {
	Wait
	TagNumber int
}

// Finding is something that was found in a job.
type Finding struct {
	ID         uuid.UUID
	JobID      uuid.UUID
	Code       string
	Place      string
	Severity   string
	Note       string
	FoundAt    time.Time
	FoundBy    uuid.UUID
	ResolvedAt *time.Time
	ResolvedBy *uuid.UUID
	Resolution string
}

// JobPhoto is a picture of a job; lists of them carry no pictures.
type JobPhoto struct {
	ID        uuid.UUID
	JobID     uuid.UUID
	JPEG      []byte `gorm:"column:jpeg"`
	Thumbnail []byte
	TakenAt   time.Time
	TakenBy   uuid.UUID
}

// AddJob adds a job; [ErrTaken] when the bike has an open one.
func (t Tx) AddJob(ctx context.Context, j *Job) error {
	j.Version = 1
	return translate(gorm.G[Job](t.db).Omit("Plan").Create(ctx, j), "add job")
}

// Job returns one job.
func (t Tx) Job(ctx context.Context, id uuid.UUID) (Job, error) {
	j, err := gorm.G[Job](t.db).Where("id = ?", id).First(ctx)
	return j, translate(err, "load job %s", id)
}

// LockJob returns a job that nobody else changes until the unit of work ends.
func (t Tx) LockJob(ctx context.Context, id uuid.UUID) (Job, error) {
	var j Job
	err := t.db.WithContext(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ?", id).First(&j).Error
	return j, translate(err, "lock job %s", id)
}

// OpenJobs returns the jobs that are not closed, by promised time, those without one last.
func (t Tx) OpenJobs(ctx context.Context) ([]Job, error) {
	jobs, err := gorm.G[Job](t.db).Where("state in ('arrived', 'planned')").Order("promised_at nulls last, created_at").Find(ctx)
	return jobs, translate(err, "list open jobs")
}

// JobsOf returns a bike's jobs, newest first.
func (t Tx) JobsOf(ctx context.Context, bike uuid.UUID, limit int) ([]Job, error) {
	jobs, err := gorm.G[Job](t.db).Where("bike_id = ?", bike).Order("created_at desc").Limit(limit).Find(ctx)
	return jobs, translate(err, "list jobs of bike %s", bike)
}

// TaggedJob is a job with the tag of its bike.
type TaggedJob struct {
	Job
	TagNumber int
}

// JobsOfCustomer returns the jobs of all bikes of a customer, newest first.
func (t Tx) JobsOfCustomer(ctx context.Context, customer uuid.UUID, limit int) ([]TaggedJob, error) {
	var rows []TaggedJob
	err := t.db.WithContext(ctx).Raw(`select j.*, b.tag_number from jobs j join bikes b on b.id = j.bike_id where b.customer_id = ? order by j.created_at desc, j.id limit ?`, customer, limit).Scan(&rows).Error
	return rows, translate(err, "list jobs of customer %s", customer)
}

// SaveJob writes j if its version is still the one in the database, else [ErrStale].
func (t Tx) SaveJob(ctx context.Context, j *Job) error {
	return saveVersioned(ctx, t, j, j.ID, &j.Version, []string{"id", "bike_id", "created_at", "created_by"}, "save job %s", j.ID)
}

// SetSteps writes the steps of a job in place of those there were.
func (t Tx) SetSteps(ctx context.Context, job uuid.UUID, steps []JobStep) error {
	if err := t.db.WithContext(ctx).Exec(`delete from job_steps where job_id = ?`, job).Error; err != nil {
		return translate(err, "clear steps of job %s", job)
	}
	if len(steps) == 0 {
		return nil
	}
	return translate(t.db.WithContext(ctx).Create(&steps).Error, "add steps of job %s", job)
}

// Steps returns the steps of jobs, each job's in the order of its plan.
func (t Tx) Steps(ctx context.Context, jobs ...uuid.UUID) ([]JobStep, error) {
	steps, err := gorm.G[JobStep](t.db).Where("job_id in ?", jobs).Order("job_id, position").Find(ctx)
	return steps, translate(err, "list steps")
}

// OpenStepsOf returns the codes of the steps that are still to be done in the open job of a bike, if it has one.
func (t Tx) OpenStepsOf(ctx context.Context, bike uuid.UUID) ([]string, error) {
	var codes []string
	err := t.db.WithContext(ctx).Raw(`select s.code from job_steps s join jobs j on j.id = s.job_id
		where j.bike_id = ? and j.closed_at is null and s.state in ('open', 'begun') order by s.position`, bike).Scan(&codes).Error
	return codes, translate(err, "list open steps of bike %s", bike)
}

// StepsBegunBy returns the steps that a person is at, in whatever job.
func (t Tx) StepsBegunBy(ctx context.Context, person uuid.UUID) ([]JobStep, error) {
	steps, err := gorm.G[JobStep](t.db).Where("begun_by = ? and state = 'begun'", person).Order("job_id, position").Find(ctx)
	return steps, translate(err, "list steps of %s", person)
}

// SaveStep writes a step.
func (t Tx) SaveStep(ctx context.Context, s *JobStep) error {
	result := t.db.WithContext(ctx).Model(&JobStep{}).Where("job_id = ? and code = ?", s.JobID, s.Code).
		Select("state", "round", "fails", "begun_at", "begun_by", "done_at", "done_by", "worked_s", "reason").Updates(s)
	return changed(result, "save step %s", s.Code)
}

// AddWait starts a wait.
func (t Tx) AddWait(ctx context.Context, w *Wait) error {
	return translate(gorm.G[Wait](t.db).Create(ctx, w), "add wait")
}

// SaveWait writes a wait.
func (t Tx) SaveWait(ctx context.Context, w *Wait) error {
	result := t.db.WithContext(ctx).Model(&Wait{}).Where("id = ?", w.ID).Select("least_at", "most_at", "ended_at", "ended_by", "reason").Updates(w)
	return changed(result, "save wait %s", w.ID)
}

const selectWaits = `select w.*, coalesce(b.tag_number, 0) tag_number from waits w left join jobs j on j.id = w.job_id left join bikes b on b.id = j.bike_id `

// RunningWaits returns what runs in the shop, the next to end first.
func (t Tx) RunningWaits(ctx context.Context) ([]WaitView, error) {
	var waits []WaitView
	err := t.db.WithContext(ctx).Raw(selectWaits + `where w.ended_at is null order by w.least_at, w.began_at, w.id`).Scan(&waits).Error
	return waits, translate(err, "list waits")
}

// WaitsOf returns the waits of jobs, ended ones too, the oldest first.
func (t Tx) WaitsOf(ctx context.Context, jobs ...uuid.UUID) ([]WaitView, error) {
	var waits []WaitView
	err := t.db.WithContext(ctx).Raw(selectWaits+`where w.job_id in ? order by w.began_at, w.id`, jobs).Scan(&waits).Error
	return waits, translate(err, "list waits of jobs")
}

// LockWait returns a wait that nobody else changes until the unit of work ends.
func (t Tx) LockWait(ctx context.Context, id uuid.UUID) (Wait, error) {
	var w Wait
	err := t.db.WithContext(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ?", id).First(&w).Error
	return w, translate(err, "lock wait %s", id)
}

// JobOfWait is the job that a wait belongs to; nil for one of the shop's own.
func (t Tx) JobOfWait(ctx context.Context, id uuid.UUID) (*uuid.UUID, error) {
	w, err := gorm.G[Wait](t.db).Select("job_id").Where("id = ?", id).First(ctx)
	return w.JobID, translate(err, "look whose wait %s is", id)
}

// AddFinding adds a finding.
func (t Tx) AddFinding(ctx context.Context, f *Finding) error {
	return translate(gorm.G[Finding](t.db).Create(ctx, f), "add finding")
}

// Finding returns one finding.
func (t Tx) Finding(ctx context.Context, id uuid.UUID) (Finding, error) {
	f, err := gorm.G[Finding](t.db).Where("id = ?", id).First(ctx)
	return f, translate(err, "load finding %s", id)
}

// FindingsOf returns a job's findings, the oldest first.
func (t Tx) FindingsOf(ctx context.Context, jobs ...uuid.UUID) ([]Finding, error) {
	found, err := gorm.G[Finding](t.db).Where("job_id in ?", jobs).Order("found_at, id").Find(ctx)
	return found, translate(err, "list findings of jobs")
}

// ResolveFinding settles a finding that is open, else [ErrStale].
func (t Tx) ResolveFinding(ctx context.Context, id, by uuid.UUID, resolution string, at time.Time) error {
	result := t.db.WithContext(ctx).Exec(`update findings set resolved_at = ?, resolved_by = ?, resolution = ? where id = ? and resolved_at is null`, at, by, resolution, id)
	return changed(result, "resolve finding %s", id)
}

// AddJobPhoto keeps a picture of a job.
func (t Tx) AddJobPhoto(ctx context.Context, p *JobPhoto) error {
	return translate(gorm.G[JobPhoto](t.db).Create(ctx, p), "add photo of job %s", p.JobID)
}

// JobPhotos returns a job's pictures without the pictures, the oldest first.
func (t Tx) JobPhotos(ctx context.Context, job uuid.UUID) ([]JobPhoto, error) {
	photos, err := gorm.G[JobPhoto](t.db).Select("id", "job_id", "taken_at", "taken_by").Where("job_id = ?", job).Order("taken_at, id").Find(ctx)
	return photos, translate(err, "list photos of job %s", job)
}

// JobPhoto returns a picture.
func (t Tx) JobPhoto(ctx context.Context, id uuid.UUID) (JobPhoto, error) {
	p, err := gorm.G[JobPhoto](t.db).Where("id = ?", id).First(ctx)
	return p, translate(err, "load photo %s", id)
}

// TapCautions notes that a person saw cautions on a day.
func (t Tx) TapCautions(ctx context.Context, person uuid.UUID, day time.Time, cautions []string) error {
	for _, c := range cautions {
		err := t.db.WithContext(ctx).Exec(`insert into caution_taps (person_id, day, caution) values (?, ?, ?) on conflict do nothing`, person, day.Format(time.DateOnly), c).Error
		if err != nil {
			return translate(err, "tap caution %s", c)
		}
	}
	return nil
}

// TappedCautions are those that a person saw on a day.
func (t Tx) TappedCautions(ctx context.Context, person uuid.UUID, day time.Time) ([]string, error) {
	var seen []string
	err := t.db.WithContext(ctx).Raw(`select caution from caution_taps where person_id = ? and day = ? order by caution`, person, day.Format(time.DateOnly)).Scan(&seen).Error
	return seen, translate(err, "list cautions seen")
}

// LedgerOfJob returns what the ledger has of a job, the oldest first.
func (t Tx) LedgerOfJob(ctx context.Context, job uuid.UUID) ([]EntryView, error) {
	var entries []EntryView
	err := t.db.WithContext(ctx).Raw(selectEntries+`where l.body->>'job' = @job and l.bike_id = (select bike_id from jobs where id::text = @job)
		and not jsonb_exists(l.body, 'imported') order by l.number`, map[string]any{"job": job.String()}).Scan(&entries).Error
	return entries, translate(err, "list ledger of job %s", job)
}

// StepTime is how long a step of a job took somebody, each time it was done.
type StepTime struct {
	Code    string
	DoneBy  uuid.UUID
	Minutes float64
}

// StepTimes returns how long steps took that were worked on for some seconds at least, the newest first: the last
// hundred of each.
func (t Tx) StepTimes(ctx context.Context, seconds int) ([]StepTime, error) {
	var rows []StepTime
	err := t.db.WithContext(ctx).Raw(`
		select code, done_by, worked_s / 60.0 / round minutes from (
			select *, row_number() over (partition by code order by done_at desc) n from job_steps where state = 'done' and worked_s >= ?) s
		where n <= 100 order by done_at desc`, seconds).Scan(&rows).Error
	return rows, translate(err, "list how long steps took")
}
