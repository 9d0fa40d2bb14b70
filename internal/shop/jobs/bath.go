package jobs

import (
	"errors"
	"slices"
	"strings"

	"earnestpony/core/clean"
	"earnestpony/core/fluids"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// BathRefusal is a kind of standing bath of which none takes the load of a job.
type BathRefusal struct {
	Kind    string `json:"kind"`
	Code    string `json:"code"` // spent, clean-only, dirtied
	Message string `json:"message"`
}

// loadOf is what a step puts into a bath: how much of its life it takes, and whether it is a clean chain.
func loadOf(step string, grade int) (s fluids.Soil, isNew bool) {
	if step == stepNewGrease || step == stepWaxIn {
		return fluids.NewChain, true
	}
	return fluids.SoilOf(grade), false
}

// bathRefusals are the kinds of bath that steps still put a load into and of which the shop keeps some but
// none takes it.
func bathRefusals(rows []store.Bath, l *LoadedJob, plan clean.Plan, grade int) []BathRefusal {
	refused := []BathRefusal{}
	for _, s := range plan.Steps {
		if m := l.marks[s.Code]; s.Bath == "" || m.Done || m.Skipped || slices.ContainsFunc(refused, func(r BathRefusal) bool { return r.Kind == s.Bath }) {
			continue
		}
		var baths []fluids.Bath
		var names []string
		for _, row := range rows {
			if row.Kind == s.Bath {
				baths, names = append(baths, stock.CoreBath(row)), append(names, row.Name)
			}
		}
		soil, isNew := loadOf(s.Code, grade)
		if err := fluids.Take(baths, soil, isNew, fluids.HouseBathRules()); err != nil {
			refused = append(refused, BathRefusal{s.Bath, bathCode(err), strings.Join(names, ", ") + ": " + err.Error()})
		}
	}
	return refused
}

func bathCode(err error) string {
	switch {
	case errors.Is(err, fluids.ErrCleanOnly):
		return "clean-only"
	case errors.Is(err, fluids.ErrDirtied):
		return "dirtied"
	}
	return "spent"
}

func refusedBaths(refused []BathRefusal) *record.Problem {
	p := &record.Problem{Kind: record.Conflict, Code: "plan-refused"}
	said := make([]string, len(refused))
	for i, r := range refused {
		said[i] = r.Message
		p.Fields = append(p.Fields, record.Field{Path: "route", Code: "bath-" + r.Code, Message: r.Message})
	}
	p.Message = "This is not planned: " + strings.Join(said, "; ") + "."
	return p
}
