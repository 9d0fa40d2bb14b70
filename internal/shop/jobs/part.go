package jobs

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/price"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// JobPartRow is a part that was noted.
type JobPartRow struct {
	measure.JobPart
	EntryID uuid.UUID `json:"entry_id"` // struck out when it was noted by mistake
	At      time.Time `json:"at"`
	By      string    `json:"by"`
}

// maxOfPart is how many pieces of a part one entry takes.
const maxOfPart = 99

// AddJobPart notes a part in a job. Its price is on the bill from then on.
func (s *Jobs) AddJobPart(ctx context.Context, who record.Actor, id uuid.UUID, p measure.JobPart) (Job, error) {
	p.What = record.CleanLine(p.What)
	var wrong record.Faults
	if n := len([]rune(p.What)); n == 0 || n > 200 {
		wrong.Add("what", "missing", "Say which part, in 200 characters at most.")
	}
	if p.Count < 1 || p.Count > maxOfPart {
		wrong.Add("count", "out-of-range", "1 to 99 pieces.")
	}
	if p.Price != nil && (*p.Price < 0 || *p.Price > record.MaxPrice) {
		wrong.Add("price", "out-of-range", "This cannot be a price.")
	}
	if err := wrong.Err(); err != nil {
		return Job{}, err
	}
	_, err := record.Idempotent(ctx, s.desk, who, "job-part "+id.String(), p, func(ctx context.Context, tx store.Tx) (string, error) {
		l, err := s.LoadOpenJob(ctx, tx, id)
		if err != nil {
			return "", err
		}
		return "", s.JobEntry(ctx, tx, who, l.Bike, record.KindJobPart, JobBody{Job: id.String(), Used: &p})
	})
	if err != nil {
		return Job{}, err
	}
	return s.Job(ctx, who, id)
}

// PartsOf are the parts among the entries of a job that stand.
func PartsOf(entries []store.EntryView) ([]JobPartRow, error) {
	rows := []JobPartRow{}
	entries, _ = record.Sound(entries)
	for _, e := range entries {
		if e.Kind != record.KindJobPart || e.StruckAt != nil {
			continue
		}
		b, err := record.BodyOf[JobBody](e)
		if err != nil {
			return nil, err
		}
		if b.Used != nil {
			rows = append(rows, JobPartRow{*b.Used, e.ID, e.HappenedAt, e.PersonName})
		}
	}
	return rows, nil
}

// billOf is what a job comes to: what was quoted, and the parts noted since.
func billOf(plan *JobPlan, rows []JobPartRow) *Quote {
	if plan == nil {
		return nil
	}
	parts := make([]measure.JobPart, len(rows))
	for i, r := range rows {
		parts[i] = r.JobPart
	}
	bill := plan.Quote.with(parts)
	return &bill
}

// mustAsk reports whether a bill goes so far beyond what was agreed that the owner is asked first.
func mustAsk(agreed *int, bill *Quote, h rules.ParsedRules) bool {
	return agreed != nil && bill != nil && price.Over(*agreed, bill.Total, h.Rules.Work.AskOverPct)
}

// PartOfOpenJob refuses to strike a part out of a job whose bill is settled.
func (s *Jobs) PartOfOpenJob(ctx context.Context, tx store.Tx, entry store.EntryView) error {
	b, err := record.BodyOf[JobBody](entry)
	if err != nil {
		return err
	}
	id, err := uuid.Parse(b.Job)
	if err != nil {
		return err
	}
	_, err = s.LoadOpenJob(ctx, tx, id)
	return err
}

// BillTaken puts what was taken off the shelf on the bill of the job that the bike is in, where its quote does not have
// it already.
func (s *Jobs) BillTaken(ctx context.Context, tx store.Tx, who record.Actor, bike store.Bike, took []store.StockItem) error {
	if len(took) == 0 {
		return nil
	}
	jobs, err := tx.JobsOf(ctx, bike.ID, 1)
	if err != nil || len(jobs) == 0 || jobs[0].State != store.JobPlanned {
		return err
	}
	plan := PlanOf(jobs[0])
	if plan == nil {
		return nil
	}
	for _, item := range took {
		code := map[string]string{stock.StockChain: partChain, stock.StockLink: partLink}[item.Kind]
		quoted := slices.ContainsFunc(plan.Quote.Lines, func(l QuoteLine) bool { return l.Kind == "part" && l.Code == code })
		if quoted || slices.Contains(plan.Quote.Unpriced, code) {
			continue
		}
		body := JobBody{Job: jobs[0].ID.String(), Used: &measure.JobPart{What: item.Name, Count: 1, Price: item.Cost}}
		if err := s.JobEntry(ctx, tx, who, bike, record.KindJobPart, body); err != nil {
			return err
		}
	}
	return nil
}
