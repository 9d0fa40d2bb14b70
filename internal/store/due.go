package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"time"

	"github.com/google/uuid"
)

// TaskSetting is what a shop or a bike does otherwise than the table. What is nil is as the table has it.
type TaskSetting struct {
	EveryHardKM *float64 `json:"every_hard_km,omitempty"`
	EveryDays   *int     `json:"every_days,omitempty"`
	Weight      *float64 `json:"weight,omitempty"`
	Off         bool     `json:"off,omitempty"`
	Reason      string   `json:"reason,omitempty"`
}

// OwnTask is a task that the shop made.
type OwnTask struct {
	Code        string   `json:"code"`
	Title       string   `json:"title"`
	EveryHardKM *float64 `json:"every_hard_km,omitempty"`
	EveryDays   *int     `json:"every_days,omitempty"`
	Weight      float64  `json:"weight"`
	Safety      bool     `json:"safety"`
	Kinds       []string `json:"kinds"` // of bike; none is all
}

// Intervals is how often tasks fall due in a shop.
type Intervals struct {
	School    string                 `json:"school"`
	LookAhead int                    `json:"look_ahead_days"`
	Changed   map[string]TaskSetting `json:"changed"`
	Own       []OwnTask              `json:"own"`
}

// BikeDue is what a bike needs, made for a day.
type BikeDue struct {
	BikeID       uuid.UUID `gorm:"primaryKey"`
	RequestedRev int64
	BuiltRev     int64
	Day          time.Time
	State        int
	Safety       bool
	Urgency      float64
	Code         string
	DueOn        *time.Time
	ChainOn      *time.Time      // on which its chain is to be replaced
	Basis        json.RawMessage `gorm:"type:jsonb"`
	Tasks        json.RawMessage `gorm:"type:json"`
	// What the list shows: of the tasks, those soon or worse and those of the visit, and the visit.
	Listed   json.RawMessage `gorm:"type:json"`
	Visit    json.RawMessage `gorm:"type:json"`
	SavedMin int
	// Broken are the bike's entries that nothing can be made of; nil leaves what is kept of them.
	Broken json.RawMessage `gorm:"type:jsonb"`
}

// TableName is the singular: a row for each bike.
func (BikeDue) TableName() string { return "bike_due" }

// MarkStale notes that something was written of a bike that what it needs may turn on.
func (t Tx) MarkStale(ctx context.Context, bike uuid.UUID) error {
	err := t.db.WithContext(ctx).Exec(`insert into bike_due (bike_id) values (?) on conflict (bike_id) do update set requested_rev = bike_due.requested_rev + 1`, bike).Error
	return translate(err, "ask what bike %s needs", bike)
}

// MarkAllStale notes that rules changed which what every bike needs turns on.
func (t Tx) MarkAllStale(ctx context.Context) error {
	return translate(t.db.WithContext(ctx).Exec(`update bike_due set requested_rev = requested_rev + 1`).Error, "ask what every bike needs")
}

// DueOf returns what a bike needs, as it was made last.
func (t Tx) DueOf(ctx context.Context, bike uuid.UUID) (BikeDue, error) {
	var d BikeDue
	err := t.db.WithContext(ctx).Raw(`select * from bike_due where bike_id = ?`, bike).First(&d).Error
	return d, translate(err, "load what bike %s needs", bike)
}

// NotKept reports whether something was written of a bike since what it needs was made, or that is of an
// earlier day.
func (t Tx) NotKept(ctx context.Context, today time.Time) (bool, error) {
	var is bool
	err := t.db.WithContext(ctx).Raw(`select exists (select from bike_due where requested_rev <> built_rev) or exists (select from bike_due where day < ?)`, today).Scan(&is).Error
	return is, translate(err, "see whether what bikes need is kept")
}

// StaleDue returns bikes of which something was written since what they need was made.
func (t Tx) StaleDue(ctx context.Context, limit int) ([]uuid.UUID, error) {
	var ids []uuid.UUID
	err := t.db.WithContext(ctx).Raw(`select bike_id from bike_due where requested_rev <> built_rev limit ?`, limit).Scan(&ids).Error
	return ids, translate(err, "list bikes to look at again")
}

// OldDue returns what was made for an earlier day and holds but for that.
func (t Tx) OldDue(ctx context.Context, today time.Time, limit int) ([]BikeDue, error) {
	var rows []BikeDue
	err := t.db.WithContext(ctx).Raw(`select * from bike_due where day < ? and requested_rev = built_rev limit ?`, today, limit).Scan(&rows).Error
	return rows, translate(err, "list what was made for an earlier day")
}

// SaveDue keeps what a bike needs, unless what was written later was taken in already.
func (t Tx) SaveDue(ctx context.Context, d *BikeDue) error {
	err := t.db.WithContext(ctx).Exec(`
		update bike_due set built_rev = @rev, day = @day, state = @state, safety = @safety, urgency = @urgency, code = @code, due_on = @due, chain_on = @chain, basis = @basis, tasks = @tasks,
			listed = @listed, visit = @visit, saved_min = @saved, broken = coalesce(cast(@broken as jsonb), broken)
		where bike_id = @bike and built_rev <= @rev`,
		map[string]any{"bike": d.BikeID, "rev": d.RequestedRev, "day": d.Day, "state": d.State, "safety": d.Safety, "urgency": d.Urgency, "code": d.Code,
			"due": d.DueOn, "chain": d.ChainOn, "basis": string(d.Basis), "tasks": string(d.Tasks),
			"listed": string(d.Listed), "visit": string(d.Visit), "saved": d.SavedMin, "broken": textOrNull(d.Broken)}).Error
	return translate(err, "keep what bike %s needs", d.BikeID)
}

func textOrNull(raw json.RawMessage) *string {
	if raw == nil {
		return nil
	}
	text := string(raw)
	return &text
}

// DueFailed notes that nothing can be reckoned of a bike, and why, so that it is not tried again until
// something is written of it.
func (t Tx) DueFailed(ctx context.Context, bike uuid.UUID, rev int64, day time.Time, broken json.RawMessage) error {
	err := t.db.WithContext(ctx).Exec(`update bike_due set built_rev = ?, day = ?, broken = ?::jsonb where bike_id = ? and built_rev <= ?`, rev, day, string(broken), bike, rev).Error
	return translate(err, "note what is wrong with bike %s", bike)
}

// BrokenBike is a bike with entries that cannot be read.
type BrokenBike struct {
	TagNumber int
	Broken    json.RawMessage
}

// BrokenBikes returns the bikes in care that have entries which cannot be read.
func (t Tx) BrokenBikes(ctx context.Context, limit int) ([]BrokenBike, error) {
	var rows []BrokenBike
	err := t.db.WithContext(ctx).Raw(`
		select b.tag_number, d.broken from bike_due d join bikes b on b.id = d.bike_id where d.broken <> '[]' and b.archived_at is null order by b.tag_number limit ?`, limit).Scan(&rows).Error
	return rows, translate(err, "list bikes with entries that cannot be read")
}

// LastWritten returns, by tag number, when the last thing that happened to each bike was written.
func (t Tx) LastWritten(ctx context.Context, tags []int) (map[int]time.Time, error) {
	var rows []struct {
		TagNumber int
		WrittenAt *time.Time
	}
	err := t.db.WithContext(ctx).Raw(`
		select b.tag_number, (select l.written_at from ledger l where l.bike_id = b.id order by l.happened_at desc, l.number desc limit 1) written_at
		from bikes b where b.tag_number in ?`, tags).Scan(&rows).Error
	at := map[int]time.Time{}
	for _, r := range rows {
		if r.WrittenAt != nil {
			at[r.TagNumber] = *r.WrittenAt
		}
	}
	return at, translate(err, "look when bikes were written of")
}

// DueBases returns what is kept of what the bikes' tasks count from, by tag number.
func (t Tx) DueBases(ctx context.Context, limit int) ([]BikeDue, error) {
	var rows []BikeDue
	err := t.db.WithContext(ctx).Raw(`select d.bike_id, d.basis from bike_due d join bikes b on b.id = d.bike_id where d.basis is not null order by b.tag_number limit ?`, limit).Scan(&rows).Error
	return rows, translate(err, "list what bikes' tasks count from")
}

// DueQuery asks for bikes by urgency.
type DueQuery struct {
	LeastState int
	From       *time.Time // falls due on this day or later
	By         *time.Time // due by that day, whatever the state
	Customer   *uuid.UUID
	QuietSince *time.Time // owners who agreed and were told nothing since then
	After      *DueKey
	Limit      int
}

// DueKey is where a page of [Tx.DueList] goes on.
type DueKey struct {
	State   int       `json:"s"`
	Safety  bool      `json:"f"`
	Urgency float64   `json:"u"`
	BikeID  uuid.UUID `json:"b"`
}

// DueRow is a bike in the list of what is due.
type DueRow struct {
	BikeDue
	TagNumber  int
	CustomerID uuid.UUID
	OwnerName  string
	Make       string
	Model      string
	Colour     string
	ContactWay string
	Consent    bool
	JobID      *uuid.UUID   // where it is in the workshop
	ToldAt     *time.Time   // when its owner was last told of something due, on it or on the way
	ToldState  MessageState // of that message
}

// DueList returns bikes in care by urgency: state, safety, share used by weight; and with the first page how many there are in
// all, of more than [MostCounted] one more than that.
func (t Tx) DueList(ctx context.Context, q DueQuery) ([]DueRow, int, error) {
	// The numbers stand in the statement itself: with none of them open, its plan is made once and kept.
	where, args := fmt.Sprintf(`b.archived_at is null and d.state >= %d`, q.LeastState), map[string]any{}
	if q.From != nil {
		where += ` and d.due_on >= @from`
		args["from"] = *q.From
	}
	if q.By != nil {
		where += ` and d.due_on <= @by`
		args["by"] = *q.By
	}
	if q.Customer != nil {
		where += ` and b.customer_id = @customer`
		args["customer"] = *q.Customer
	}
	if q.QuietSince != nil {
		args["since"] = *q.QuietSince
		where += ` and c.consent and c.contact_way <> 'none' and (told.at is null or told.at < @since)`
	}
	counted := where
	if a := q.After; a != nil {
		where += ` and (d.state, d.safety, d.urgency, d.bike_id) < (@state, @safety, @urgency, @bike)`
		args["state"], args["safety"], args["urgency"], args["bike"] = a.State, a.Safety, a.Urgency, a.BikeID
	}
	var rows []DueRow
	var named []any
	if len(args) > 0 {
		named = append(named, args)
	}
	err := t.db.WithContext(ctx).Raw(`
		select d.bike_id, d.state, d.safety, d.urgency, d.due_on, d.listed, d.visit, d.saved_min, b.tag_number, b.customer_id, c.name owner_name, b.make, b.model, b.colour, c.contact_way, c.consent, j.id job_id, told.at told_at, told.state told_state
		from `+dueFrom+`
		where `+where+` order by d.state desc, d.safety desc, d.urgency desc, d.bike_id desc limit `+strconv.Itoa(q.Limit), named...).Scan(&rows).Error
	if err != nil || q.After != nil {
		return rows, 0, translate(err, "list what is due")
	}
	var total int
	err = t.db.WithContext(ctx).Raw(fmt.Sprintf(`select count(*) from (select from %s where %s limit %d) counted`, dueFrom, counted, MostCounted+1), named...).Scan(&total).Error
	return rows, total, translate(err, "count what is due")
}

const dueFrom = `bike_due d join bikes b on b.id = d.bike_id join customers c on c.id = b.customer_id
		left join jobs j on j.bike_id = b.id and j.state in ('arrived', 'planned')
		left join lateral (select created_at at, state from messages m where m.bike_id = d.bike_id and m.state <> 'withdrawn' order by created_at desc limit 1) told on true`

// ChainNeed is a bike whose chain is to be replaced.
type ChainNeed struct {
	BikeID     uuid.UUID
	TagNumber  int
	CustomerID uuid.UUID
	OwnerName  string
	Sprockets  int
	ChainOn    time.Time
	ChainOrder string // that its last reading asks for; empty where it asks for none
}

// ChainNeeds returns bikes in care whose chain is to be replaced by a day, and whose width is known.
func (t Tx) ChainNeeds(ctx context.Context, by time.Time) ([]ChainNeed, error) {
	var rows []ChainNeed
	err := t.db.WithContext(ctx).Raw(`
		select d.bike_id, b.tag_number, b.customer_id, c.name owner_name, d.chain_on, coalesce(d.basis->'order'->>'soon', '') chain_order,
			case when b.drivetrain_kind in ('single-speed', 'hub-gear') then 1 else b.sprocket_count end sprockets
		from bike_due d join bikes b on b.id = d.bike_id join customers c on c.id = b.customer_id
		where d.chain_on <= ? and b.archived_at is null and (b.sprocket_count is not null or b.drivetrain_kind in ('single-speed', 'hub-gear'))
		order by d.chain_on, b.tag_number`, by).Scan(&rows).Error
	return rows, translate(err, "list chains to be replaced")
}
