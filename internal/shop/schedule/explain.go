package schedule

import (
	"context"
	"encoding/json"
	"time"

	"earnestpony/core/dayplan"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
)

// Explained is a day as whoever lays it out sees it, and the plan that hangs on the wall: for finding out why the day is planned
// as it is.
type Explained struct {
	Midnight time.Time        `json:"midnight"` // that minutes count from
	MadeAt   time.Time        `json:"made_at"`  // the plan on the wall
	Problem  dayplan.Problem  `json:"problem"`
	Wall     []dayplan.Placed `json:"wall"`
}

// Explain returns the day as it is to be planned now, without planning it.
func (s *Schedule) Explain(ctx context.Context) (Explained, error) {
	tx := s.desk.Store.Read(ctx)
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return Explained{}, err
	}
	d, err := s.floorDayOf(ctx, tx, h)
	if err != nil {
		return Explained{}, err
	}
	kept, err := tx.DayPlan(ctx)
	if err != nil && !record.IsNotFound(err) {
		return Explained{}, err
	}
	var hangs dayPlan
	if kept.Version > 0 {
		if err := json.Unmarshal(kept.Plan, &hangs); err != nil {
			return Explained{}, err
		}
	}
	d.setPrevious(hangs)
	d.problem.Weights.Move = d.moving()
	e := Explained{Midnight: d.midnight, MadeAt: kept.MadeAt, Problem: d.problem, Wall: []dayplan.Placed{}}
	for _, w := range hangs.Steps {
		e.Wall = append(e.Wall, dayplan.Placed{Job: w.Job, Step: w.Step, Person: w.Person, Start: d.minute(w.Start), End: d.minute(w.End)})
	}
	return e, nil
}
