package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"slices"

	"earnestpony/core/clean"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// PlanChange is another plan that a job asks for since a reading condemned its chain: what is left of the old one beside what
// would be left of the new.
type PlanChange struct {
	Why        string   `json:"why"`     // chain-goes
	Verdict    string   `json:"verdict"` // of the reading
	Route      string   `json:"route"`   // to plan it with
	Reason     string   `json:"reason"`  // to plan it with
	LeftMin    int      `json:"left_min"`
	NewLeftMin int      `json:"new_left_min"`
	Drops      []string `json:"drops"` // titles of steps that fall away
	Adds       []string `json:"adds"`  // and that come
	Total      int      `json:"total"` // the quote, in minor units
	NewTotal   int      `json:"new_total"`
	Unpriced   []string `json:"unpriced"` // parts that come on top
	Currency   string   `json:"currency"`
}

// change is what a reading changed of a job since it was planned; nil where the plan stands.
func (s *Jobs) change(ctx context.Context, tx store.Tx, l *LoadedJob) (*PlanChange, error) {
	was := PlanOf(l.Job)
	if was == nil || l.Job.ClosedAt != nil || slices.ContainsFunc(l.Specs, func(spec StepSpec) bool { return spec.Code == stepNewChain }) {
		return nil, nil
	}
	facts, _, err := record.ActiveEntries(ctx, tx, l.Bike.ID, record.KindMeasurement)
	if err != nil || len(facts) == 0 {
		return nil, err
	}
	a, err := IntakeOf(l.Job)
	if err != nil {
		return nil, err
	}
	p, err := s.Planner(ctx, tx, record.TagOf(l.Bike), l.Job.CreatedAt, a)
	if err != nil || !p.bike.ChainGoes {
		return nil, err
	}
	c := &PlanChange{Why: "chain-goes", Verdict: p.plan.Verdict, Route: was.Route, Reason: was.Reason, Total: was.Quote.Total, Drops: []string{}, Adds: []string{}}
	if was.Route == was.Recommended {
		c.Route = p.Choice.Route.String()
	}
	if c.Reason == "" && (c.Route != p.Choice.Route.String() || was.Wash != p.Choice.Wash.String()) {
		c.Reason = "The chain goes."
	}
	o, err := p.Order(c.Route, was.Wash)
	if err != nil {
		return nil, err
	}
	plan, summary, err := p.Build(o, c.Route)
	if _, refused := errors.AsType[*clean.RefusedError](err); refused {
		return nil, nil // it is planned anew by hand
	} else if err != nil {
		return nil, err
	}
	c.NewTotal, c.Unpriced, c.Currency = summary.Quote.Total, summary.Quote.Unpriced, summary.Quote.Currency
	in := func(code string) bool {
		return slices.ContainsFunc(plan.Steps, func(s clean.Planned) bool { return s.Code == code })
	}
	left := map[string]bool{}
	for i, spec := range l.Specs {
		left[spec.Code] = !l.Steps[i].State.Over()
		if !left[spec.Code] {
			continue
		}
		c.LeftMin += spec.Minutes
		if !in(spec.Code) && len(spec.Causes) == 0 {
			c.Drops = append(c.Drops, spec.Title)
		}
	}
	for _, step := range plan.Steps {
		open, had := left[step.Code]
		if !had {
			c.Adds = append(c.Adds, step.Title)
		}
		if open || !had {
			c.NewLeftMin += int(step.Minutes)
		}
	}
	return c, nil
}

// keep adds to the steps of another plan those that were worked on and that it no longer has, each behind what came before it: they
// stay with the job, with their minutes.
func (l *LoadedJob) keep(steps []store.JobStep) ([]store.JobStep, error) {
	behind := -1
	for i, st := range l.Steps {
		if k := slices.IndexFunc(steps, func(s store.JobStep) bool { return s.Code == st.Code }); k >= 0 {
			behind = k
			continue
		}
		if !st.State.Over() && st.WorkedS == 0 && st.BegunAt == nil {
			continue
		}
		if !st.State.Over() { // left in the middle
			if st.BegunAt != nil {
				st.WorkedS += worked(*st.BegunAt, l.At)
				st.DoneBy = st.BegunBy
			}
			at := l.At
			st.State, st.BegunAt, st.BegunBy, st.DoneAt, st.Reason = store.StepSkipped, nil, nil, &at, plannedOtherwise
		}
		spec := l.Specs[i]
		spec.Gate = spec.Gate && st.State == store.StepDone // what is no longer to be done holds nothing
		text, err := json.Marshal(spec)
		if err != nil {
			return nil, err
		}
		st.Spec = text
		behind++
		steps = slices.Insert(steps, behind, st)
	}
	return steps, nil
}

// plannedOtherwise is why a step was left that another plan no longer has, and why its wait ended.
const plannedOtherwise = "planned otherwise"
