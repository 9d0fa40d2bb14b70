package store

import (
	"context"
	"time"

	"github.com/google/uuid"
)

// WaitingRow is something that waits for a person in the shop.
type WaitingRow struct {
	Kind      string    // verdict, release, comeback, import, unpaid
	ID        uuid.UUID // of the reading's entry, the job, or the ride file
	At        time.Time // since when
	TagNumber int
	Customer  string
	Make      string
	Model     string
	Colour    string
	By        string // who left it
	Verdict   string // of a reading
	Name      string // of a ride file
	Amount    *int   // minor units, unpaid
	Before    *time.Time
	Version   int // of a job
}

// Waiting returns what waits for a person of the bikes in care, the oldest of each kind first: readings and releases to sign,
// bikes that came back and were not planned yet, ride files with questions, jobs that are not paid.
func (t Tx) Waiting(ctx context.Context, limit int) ([]WaitingRow, error) {
	var rows []WaitingRow
	err := t.db.WithContext(ctx).Raw(`
		select w.*, b.tag_number, c.name customer, b.make, b.model, b.colour, coalesce(p.name, '') by from (
			(select 'verdict' kind, m.entry_id id, l.happened_at at, m.bike_id, l.person_id, m.verdict, '' name, null::integer amount, null::timestamptz before, 0 version
				from measurements m join ledger l on l.id = m.entry_id where m.unsigned and m.struck_by is null`+stillOn+`order by l.happened_at limit @limit)
			union all
			(select 'release', id, sign_asked_at, bike_id, sign_asked_by, '', '', null, null, version
				from jobs j where state = 'planned' and sign_asked_at is not null
				and not exists (select from job_steps s where s.job_id = j.id and (s.state not in ('done', 'skipped') or s.done_at > j.sign_asked_at))
				and not exists (select from findings f where f.job_id = j.id and f.found_at > j.sign_asked_at) order by sign_asked_at limit @limit)
			union all
			(select 'comeback', j.id, j.created_at, j.bike_id, j.created_by, '', '', null, o.closed_at, j.version
				from jobs j join jobs o on o.id = j.comeback_of where j.state = 'arrived' order by j.created_at limit @limit)
			union all
			(select 'import', id, created_at, bike_id, person_id, '', name, null, null, 0 from ride_drafts order by created_at limit @limit)
			union all
			(select 'unpaid', id, closed_at, bike_id, closed_by, '', '', total, null, version
				from jobs where state = 'handed-back' and total > 0 and paid_at is null order by closed_at limit @limit)
		) w join bikes b on b.id = w.bike_id join customers c on c.id = b.customer_id left join people p on p.id = w.person_id
		where b.archived_at is null or w.kind = 'unpaid'
		order by w.at, w.id`, map[string]any{"limit": limit}).Scan(&rows).Error
	return rows, translate(err, "list what waits")
}
