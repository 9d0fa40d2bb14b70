package jobs

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// What is left to settle of a job whose work is done: a mechanic's signature under what an apprentice hands back, and the money.

// Signed is who did something of a job, and when.
type Signed struct {
	At time.Time `json:"at"`
	By string    `json:"by"`
}

// AskSignature has a bike that is ready wait for a mechanic's signature. It is for whoever may not sign themselves; the mechanic
// who hands it back then signs second.
func (s *Jobs) AskSignature(ctx context.Context, who record.Actor, id uuid.UUID, version int) (Job, error) {
	err := s.desk.Write(ctx, who, "ask-signature "+id.String(), version, func(ctx context.Context, tx store.Tx) error {
		l, err := s.LoadOpenJob(ctx, tx, id)
		if err != nil {
			return err
		}
		if people.Has(people.Countersign, who) && !record.Carries(l.Bike.Kind) {
			return &record.Problem{Kind: record.Conflict, Code: "signs-alone", Message: "You hand this back yourself: nobody needs to sign with you."}
		}
		if l.Job.Version != version {
			return store.ErrStale
		}
		if err := l.ready(); err != nil {
			return err
		}
		now := s.desk.Now()
		l.Job.SignAskedAt, l.Job.SignAskedBy = &now, &who.Person.ID
		if err := tx.SaveJob(ctx, &l.Job); err != nil {
			return err
		}
		return s.JobEntry(ctx, tx, who, l.Bike, record.KindJobSignatureAsked, JobBody{Job: id.String()})
	})
	return s.afterJob(ctx, who, id, map[string]any{"ask": true}, err)
}

// ready refuses a job that cannot be handed back yet, with everything that keeps it.
func (l *LoadedJob) ready() error {
	if l.Job.State != store.JobPlanned {
		return &record.Problem{Kind: record.Conflict, Code: "not-planned", Message: "This job was never planned: plan it, or cancel it."}
	}
	holds := l.holds()
	if len(holds) == 0 {
		return nil
	}
	p := &record.Problem{Kind: record.Conflict, Code: "not-ready", Message: fmt.Sprintf("Not yet: %d things are open.", len(holds))}
	if len(holds) == 1 {
		p.Message = "Not yet: “" + holds[0].Says + "” is open."
	}
	for _, hold := range holds {
		p.Fields = append(p.Fields, record.Field{Path: hold.What, Code: hold.Code, Message: hold.Says})
	}
	return p
}

// askedBy is the other person who signed already, by asking; nil where nobody did or it is who themselves. What was done or found
// since is not what they signed for.
func (l *LoadedJob) askedBy(who record.Actor) *record.Person {
	if by := l.asked(); by != nil && *by != who.Person.ID {
		p := l.people[*by]
		return &p
	}
	return nil
}

// asked is who asked for a signature under the bike as it is now.
func (l *LoadedJob) asked() *uuid.UUID {
	at := l.Job.SignAskedAt
	if at == nil {
		return nil
	}
	for _, st := range l.Steps {
		if st.State != store.StepDone && st.State != store.StepSkipped || st.DoneAt != nil && st.DoneAt.After(*at) {
			return nil
		}
	}
	for _, f := range l.findings {
		if f.FoundAt.After(*at) {
			return nil
		}
	}
	return l.Job.SignAskedBy
}

// SettlePayment notes that a job that was handed back is paid, or that it is not after all.
func (s *Jobs) SettlePayment(ctx context.Context, who record.Actor, id uuid.UUID, version int, paid bool) (Job, error) {
	err := s.desk.Write(ctx, who, "settle-payment "+id.String(), record.ChangeOf{Version: version, To: paid}, func(ctx context.Context, tx store.Tx) error {
		l, err := s.loadJob(ctx, tx, id, true)
		if err != nil {
			return err
		}
		if l.Job.State != store.JobHandedBack {
			return &record.Problem{Kind: record.Conflict, Code: "not-handed-back", Message: "A job is paid when it is handed back."}
		}
		if l.Job.Version != version {
			return store.ErrStale
		}
		if (l.Job.PaidAt != nil) == paid {
			return nil
		}
		s.pay(ctx, who, &l.Job, paid)
		if err := tx.SaveJob(ctx, &l.Job); err != nil {
			return err
		}
		return s.JobEntry(ctx, tx, who, l.Bike, record.KindJobPaid, JobBody{Job: id.String(), Paid: &paid})
	})
	return s.afterJob(ctx, who, id, map[string]any{"paid": paid}, err)
}

// OnShelf is what there is of a material that a job still takes.
type OnShelf struct {
	Material string   `json:"material"`
	Unit     string   `json:"unit"`
	Needs    float64  `json:"needs"` // by what is not done yet
	Has      float64  `json:"has"`
	Bottles  []Bottle `json:"bottles"`
}

// Bottle is one product of a material, as it is kept.
type Bottle struct {
	ID       uuid.UUID `json:"id"`
	Name     string    `json:"name"`
	Quantity float64   `json:"quantity"`
}

// onShelf says what there is of what the open steps take; of what the shop does not count nothing is said.
func (l *LoadedJob) onShelf(ctx context.Context, tx store.Tx) ([]OnShelf, error) {
	all := []OnShelf{}
	if l.Job.State != store.JobPlanned {
		return all, nil
	}
	var needs []StepAmount
	for i, st := range l.Steps {
		if st.State != store.StepDone && st.State != store.StepSkipped {
			needs = sumAmounts(needs, l.Specs[i].Amounts)
		}
	}
	kept, err := tx.Materials(ctx)
	if err != nil {
		return nil, err
	}
	for _, n := range needs {
		o := OnShelf{Material: n.Material, Unit: n.Unit, Needs: n.Amount}
		for _, m := range kept {
			if m.Kind == n.Material {
				o.Has += m.Quantity
				o.Bottles = append(o.Bottles, Bottle{m.ID, m.Name, m.Quantity})
			}
		}
		if len(o.Bottles) > 0 {
			all = append(all, o)
		}
	}
	return all, nil
}

func (s *Jobs) pay(ctx context.Context, who record.Actor, j *store.Job, paid bool) {
	j.PaidAt, j.PaidBy = nil, nil
	if paid {
		now := s.desk.Moment(ctx)
		j.PaidAt, j.PaidBy = &now, &who.Person.ID
	}
}
