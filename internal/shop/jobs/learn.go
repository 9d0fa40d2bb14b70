package jobs

import (
	"cmp"
	"context"
	"slices"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/price"
	"earnestpony/internal/shop/rules"
)

// StepMinutes is what a step is planned with, and what it really takes.
type StepMinutes struct {
	Code      string          `json:"code"`
	Title     string          `json:"title"`
	Planned   int             `json:"planned"`
	Suggested int             `json:"suggested"`
	Of        int             `json:"of"`     // times that it was done
	People    []PersonMinutes `json:"people"` // who do it in other times than planned
}

// PersonMinutes is what a step takes somebody.
type PersonMinutes struct {
	Name    string `json:"name"`
	Minutes int    `json:"minutes"`
	Of      int    `json:"of"`
}

// shortestStep is how many seconds a step takes at least that somebody really did, and did not only tick off.
const shortestStep = 20

// LearnedMinutes suggests other minutes for steps that really take longer or shorter than planned. Nothing is
// changed by it: a person takes a suggestion over.
func (s *Jobs) LearnedMinutes(ctx context.Context) ([]StepMinutes, error) {
	tx := s.desk.Store.Read(ctx)
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return nil, err
	}
	times, err := tx.StepTimes(ctx, shortestStep)
	if err != nil {
		return nil, err
	}
	people, err := s.desk.PeopleByID(ctx, tx)
	if err != nil {
		return nil, err
	}
	all := []StepMinutes{}
	for _, step := range clean.Catalogue() {
		planned := int(step.Minutes)
		if own, set := h.Rules.Work.Minutes[step.Code]; set {
			planned = own
		}
		var took []float64
		by := map[uuid.UUID][]float64{}
		for _, t := range times {
			if t.Code == step.Code {
				took = append(took, t.Minutes)
				by[t.DoneBy] = append(by[t.DoneBy], t.Minutes)
			}
		}
		minutes, of, other := price.Suggest(planned, took)
		if !other {
			continue
		}
		v := StepMinutes{Code: step.Code, Title: step.Title, Planned: planned, Suggested: minutes, Of: of, People: []PersonMinutes{}}
		for id, took := range by {
			if m, of, other := price.Suggest(planned, took); other {
				v.People = append(v.People, PersonMinutes{people[id].Name, m, of})
			}
		}
		slices.SortFunc(v.People, func(a, b PersonMinutes) int { return cmp.Compare(a.Name, b.Name) })
		all = append(all, v)
	}
	return all, nil
}
