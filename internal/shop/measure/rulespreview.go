package measure

import (
	"context"

	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
)

// RulesPreview is what a draft of the rules would change.
type RulesPreview struct {
	Judged  int             `json:"judged"`  // bikes in care with a measurement that stands
	Refused int             `json:"refused"` // of them, those that the draft's school may not judge
	Changed []VerdictChange `json:"changed"` // the first of them
	Total   int             `json:"total"`   // how many verdicts would change
}

// VerdictChange is one bike whose verdict would be another.
type VerdictChange struct {
	Tag      string             `json:"tag"`
	Customer record.CustomerRef `json:"customer"`
	Make     string             `json:"make"`
	Model    string             `json:"model"`
	Colour   string             `json:"colour"`
	From     string             `json:"from"`
	To       string             `json:"to"`
	LimitPct float64            `json:"limit_pct"` // under the draft
}

// maxChanges is how many changes a preview lists; nobody reads more of them.
const maxChanges = 100

// PreviewRules says which verdicts in the shop would change under a draft of the rules. It writes
// nothing.
func (s *Measure) PreviewRules(ctx context.Context, draft rules.Rules) (RulesPreview, error) {
	if err := rules.CheckRules(&draft); err != nil {
		return RulesPreview{}, err
	}
	tx := s.desk.Store.Read(ctx)
	now, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return RulesPreview{}, err
	}
	then, err := rules.ParseRules(draft)
	if err != nil {
		return RulesPreview{}, err
	}
	bikes, err := tx.MeasuredBikes(ctx)
	if err != nil {
		return RulesPreview{}, err
	}
	p := RulesPreview{Judged: len(bikes), Changed: []VerdictChange{}}
	for _, bike := range bikes {
		from, err := LastReading(now, bike)
		if err != nil {
			return p, err
		}
		to, err := LastReading(then, bike)
		if err != nil {
			return p, err
		}
		r := then.Rule(&bike, rules.DrivetrainOf(&bike, to.Drivetrain))
		if bike.WearSchool == "" && !then.Wear.School.Allows(r.Drivetrain) {
			p.Refused++
		}
		if from.Wear.Verdict == to.Wear.Verdict {
			continue
		}
		p.Total++
		if len(p.Changed) < maxChanges {
			p.Changed = append(p.Changed, VerdictChange{Tag: record.TagOf(bike), Customer: record.CustomerRef{ID: bike.CustomerID, Name: bike.OwnerName}, Make: bike.Make,
				Model: bike.Model, Colour: bike.Colour, From: from.Wear.Verdict, To: to.Wear.Verdict, LimitPct: to.Wear.LimitPct})
		}
	}
	return p, nil
}
