package due

import (
	"context"
	"encoding/json"

	"github.com/google/uuid"

	"earnestpony/core/interval"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// DueCounts are how many bikes in care are in which state.
type DueCounts struct {
	Overdue int `json:"overdue"`
	Due     int `json:"due"`
	Soon    int `json:"soon"`
	Fresh   int `json:"fresh"`
}

// DuePreview is what a draft of the rules would make of the due list, today.
type DuePreview struct {
	Now   DueCounts `json:"now"`
	Would DueCounts `json:"would"`
	Of    int       `json:"of"` // bikes looked at: the first in the shop by tag number
}

// maxPreviewed is how many bikes a preview looks at; of more than that the first tell how it would be.
const maxPreviewed = 2000

// PreviewDue says how many bikes would be due under a draft of the rules. It writes nothing.
func (s *Due) PreviewDue(ctx context.Context, draft rules.Rules) (DuePreview, error) {
	if err := rules.CheckRules(&draft); err != nil {
		return DuePreview{}, err
	}
	then, err := rules.ParseRules(draft)
	if err != nil {
		return DuePreview{}, err
	}
	tx := s.desk.Store.Read(ctx)
	now, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return DuePreview{}, err
	}
	bikes, err := tx.BikesAfter(ctx, 0, maxPreviewed)
	if err != nil {
		return DuePreview{}, err
	}
	kept, err := tx.DueBases(ctx, maxPreviewed)
	if err != nil {
		return DuePreview{}, err
	}
	bases := map[uuid.UUID]json.RawMessage{}
	for _, row := range kept {
		bases[row.BikeID] = row.Basis
	}
	var p DuePreview
	day := s.desk.ClockIn(now.Zone).Today()
	for _, bike := range bikes {
		text, made := bases[bike.ID]
		if bike.ArchivedAt != nil || !made {
			continue
		}
		var b dueState
		if err := json.Unmarshal(text, &b); err != nil {
			return p, err
		}
		p.Of++
		for counts, h := range map[*DueCounts]rules.ParsedRules{&p.Now: now, &p.Would: then} {
			under, err := b.under(h, bike)
			if err != nil {
				return p, err
			}
			counts.add(under.worst(day, h.Rules.Intervals.LookAhead))
		}
	}
	return p, nil
}

// under is what a bike's tasks count from by other rules, with the same done and the same happened. What a
// forecast says stays as it said, and a task that was off counts from when the bike was first seen.
func (b dueState) under(h rules.ParsedRules, bike store.Bike) (dueState, error) {
	rules, err := tasksOf(h, bike)
	if err != nil {
		return b, err
	}
	kept := map[string]stateTask{}
	first := mark{on: b.From, km: b.HardKM, ridden: b.KM}
	for _, t := range b.Tasks {
		kept[t.Code] = t
		if t.LastOn < first.on {
			first = mark{on: t.LastOn, km: t.LastHardKM, ridden: t.LastKM}
		}
	}
	b.Tasks = nil
	for _, t := range rules {
		was, had := kept[t.Code]
		if !had {
			was = stateTask{LastOn: first.on, LastHardKM: first.km, LastKM: first.ridden, Never: true}
		}
		if t.Code == interval.ReplaceChain && had || t.Code == interval.ReadWear && had && !t.Own {
			t.EveryHardKM, t.Guess = was.EveryHardKM, was.Guess
		}
		t.LastOn, t.LastHardKM, t.Never, t.Events = was.LastOn, was.LastHardKM, was.Never, was.Events
		if t.EveryHardKM == was.EveryHardKM {
			t.UsedUpOn = was.UsedUpOn
		}
		b.Tasks = append(b.Tasks, t)
	}
	return b, nil
}

// worst is the state of the most pressing task.
func (b dueState) worst(day interval.Day, lookAhead int) interval.State {
	a, _ := b.on(day, lookAhead)
	if len(a.Tasks) == 0 {
		return interval.Fresh
	}
	return a.Tasks[0].State
}

func (c *DueCounts) add(state interval.State) {
	switch state {
	case interval.Overdue:
		c.Overdue++
	case interval.Due:
		c.Due++
	case interval.Soon:
		c.Soon++
	default:
		c.Fresh++
	}
}
