package stock

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/fluids"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// BathFacts is what is written down about a standing bath.
type BathFacts = store.BathFacts

// Bath is one standing bath.
type Bath struct {
	ID          uuid.UUID  `json:"id"`
	Kind        string     `json:"kind"`
	Facts       BathFacts  `json:"facts"`
	FilledAt    time.Time  `json:"filled_at"`
	Points      int        `json:"points"` // that it bears
	Left        int        `json:"left"`
	Settled     int        `json:"settled"`
	SettlesMore bool       `json:"settles_more"`
	SettlingTo  *time.Time `json:"settling_to,omitempty"`
	Dirty       bool       `json:"dirty"`
	GramsLeft   *float64   `json:"grams_left,omitempty"` // of wax
	Pot         *PotView   `json:"pot,omitempty"`
}

// PotView is how hot a wax pot is, by its probe.
type PotView struct {
	HeatingSince *time.Time `json:"heating_since,omitempty"`
	Celsius      *float64   `json:"celsius,omitempty"` // nil without a probe
	State        string     `json:"state,omitempty"`   // cold, ready, hot, alarm
	LeastC       float64    `json:"least_c"`
	WantedC      float64    `json:"wanted_c"`
	MostC        float64    `json:"most_c"`
	AlarmC       float64    `json:"alarm_c"`
	Simulated    bool       `json:"simulated,omitempty"` // the probe is a stand-in, as all that ship are
}

func CoreBath(b store.Bath) fluids.Bath {
	return fluids.Bath{Kind: fluids.BathKind(b.Kind), Volume: fluids.ML(b.VolumeML), Used: fluids.Soil(b.Used), Settled: b.Settled, CleanOnly: b.CleanOnly, Dirty: b.Dirty}
}

// newBath shows a bath; a pot is held by the card of its wax, where one is kept that has a band.
func (s *Stock) newBath(b store.Bath, materials ...store.Material) Bath {
	rules, core := fluids.HouseBathRules(), CoreBath(b)
	v := Bath{ID: b.ID, Kind: b.Kind, Facts: b.BathFacts, FilledAt: b.FilledAt, Points: int(rules.Points[core.Kind]), Left: int(core.Left(rules)), Settled: b.Settled,
		SettlesMore: core.Kind == fluids.SolventJar && b.Settled < rules.SettleTimes, Dirty: b.Dirty}
	if b.Settling != nil && b.Settling.After(s.desk.Now()) {
		v.SettlingTo = b.Settling
	}
	if core.Kind == fluids.WaxPot {
		grams := max(b.VolumeML-b.GramsOut, 0)
		band := fluids.HousePot()
		for _, m := range materials {
			if m.Kind == string(clean.WaxSolid) && m.Card.TempLeast != nil && m.Card.TempMost != nil {
				band = fluids.CardPot(*m.Card.TempLeast, *m.Card.TempMost)
			}
		}
		v.GramsLeft = &grams
		v.Pot = &PotView{HeatingSince: b.HeatingAt, LeastC: band.Least, WantedC: band.Wanted, MostC: band.Most, AlarmC: band.Alarm}
		if s.pots != nil {
			celsius := s.pots(b.HeatingAt, s.desk.Now())
			v.Pot.Celsius, v.Pot.Simulated, v.Pot.State = &celsius, true, string(band.At(celsius))
		}
	}
	return v
}

// Baths returns the standing baths, by kind and name.
func (s *Stock) Baths(ctx context.Context) ([]Bath, error) {
	rows, err := s.desk.Store.Read(ctx).Baths(ctx)
	if err != nil {
		return nil, err
	}
	materials, err := s.desk.Store.Read(ctx).Materials(ctx)
	all := []Bath{}
	for _, b := range rows {
		all = append(all, s.newBath(b, materials...))
	}
	return all, err
}

// NewBath is a standing bath to be kept.
type NewBath struct {
	Kind  string    `json:"kind"`
	Facts BathFacts `json:"facts"`
}

type BathBody struct {
	Bath    string    `json:"bath"`
	Action  string    `json:"deed"`
	Facts   BathFacts `json:"facts"`
	Job     string    `json:"job,omitempty"`
	Soil    int       `json:"soil,omitempty"`
	WasteML float64   `json:"waste_ml,omitempty"`
}

func checkBath(kind string, f *BathFacts) error {
	f.Name, f.Fluid = record.CleanLine(f.Name), record.CleanLine(f.Fluid)
	var wrong record.Faults
	fault := wrong.Under("facts")
	if f.Name == "" {
		fault("name", "missing", "The name is missing.")
	}
	if f.Fluid == "" {
		fault("fluid", "missing", "Say what is in it.")
	}
	if err := fluids.CheckSolvent(f.Fluid); err != nil {
		fault("fluid", "never-used", "%v.", err)
	}
	if !(f.VolumeML >= 50 && f.VolumeML <= 100_000) {
		fault("volume_ml", "out-of-range", "A bath holds 50 mL to 100 L.")
	}
	if f.Strength != nil && !(*f.Strength > 0 && *f.Strength <= 100) {
		fault("strength", "out-of-range", "A strength is above 0 and up to 100 %%.")
	}
	if !slices.Contains(fluids.BathKinds(), fluids.BathKind(kind)) {
		wrong.Add("kind", "unknown-value", "There is no such kind of bath.")
	}
	if err := wrong.Err(); err != nil {
		return err
	}
	return nil
}

// AddBath starts to keep a standing bath, freshly filled.
func (s *Stock) AddBath(ctx context.Context, who record.Actor, n NewBath) (Bath, error) {
	if err := checkBath(n.Kind, &n.Facts); err != nil {
		return Bath{}, err
	}
	b, err := record.Idempotent(ctx, s.desk, who, "add-bath", n, func(ctx context.Context, tx store.Tx) (Bath, error) {
		row := store.Bath{ID: uuid.New(), Kind: n.Kind, BathFacts: n.Facts, FilledAt: s.desk.Now(), CreatedAt: s.desk.Now()}
		if err := tx.AddBath(ctx, &row); err != nil {
			return Bath{}, err
		}
		return s.newBath(row), s.BathEntry(ctx, tx, who, row, BathBody{Action: "filled"})
	})
	return b, storesNameTaken(err, n.Facts.Name)
}

func (s *Stock) BathEntry(ctx context.Context, tx store.Tx, who record.Actor, b store.Bath, body BathBody) error {
	body.Bath, body.Facts = b.ID.String(), b.BathFacts
	return s.desk.Append(ctx, tx, who, &store.Entry{Kind: record.KindBath}, body, "")
}

// UseBath puts a load into a bath, or says why it does not take it.
func (s *Stock) UseBath(ctx context.Context, tx store.Tx, who record.Actor, id uuid.UUID, job *uuid.UUID, soil fluids.Soil, isNew bool) error {
	b, err := tx.LockBath(ctx, id)
	if record.IsNotFound(err) {
		return record.NotFound("bath", "bath-not-found")
	}
	if err != nil {
		return err
	}
	if b.Settling != nil && b.Settling.After(s.desk.Moment(ctx)) {
		return &record.Problem{Kind: record.Conflict, Code: "bath-settles", Message: fmt.Sprintf("%s is settling.", b.Name)}
	}
	after, err := CoreBath(b).Take(soil, isNew, fluids.HouseBathRules())
	if err != nil {
		return &record.Problem{Kind: record.Conflict, Code: "bath-refused", Message: fmt.Sprintf("%s: %v.", b.Name, err)}
	}
	b.Used, b.Dirty, b.Settling = int(after.Used), after.Dirty, nil
	if after.Kind == fluids.WaxPot {
		b.GramsOut += waxTakeUp
	}
	if err := tx.SaveBath(ctx, &b); err != nil {
		return err
	}
	if err := tx.AddBathUse(ctx, &store.BathUse{BathID: id, JobID: job, Soil: int(soil), IsNew: isNew, UsedAt: s.desk.Moment(ctx), UsedBy: who.Person.ID}); err != nil {
		return err
	}
	body := BathBody{Action: "used", Soil: int(soil)}
	if job != nil {
		body.Job = job.String()
	}
	return s.BathEntry(ctx, tx, who, b, body)
}

// waxTakeUp is how many grams a chain carries off (handbook: lubricate, immersion wax).
const waxTakeUp = 7.0

// BathAction is what somebody does about a bath.
type BathAction struct {
	Action string `json:"action"` // settle, renew, heat, cool, retire
}

// DoBath lets a bath settle, renews it, heats a pot or lets it cool, or no longer keeps it. What was in it
// when it is emptied goes into the waste log.
func (s *Stock) DoBath(ctx context.Context, who record.Actor, id uuid.UUID, action BathAction) (Bath, error) {
	return record.Idempotent(ctx, s.desk, who, "bath "+id.String(), action, func(ctx context.Context, tx store.Tx) (Bath, error) {
		b, err := tx.LockBath(ctx, id)
		if record.IsNotFound(err) {
			return Bath{}, record.NotFound("bath", "bath-not-found")
		}
		if err != nil {
			return Bath{}, err
		}
		body, err := s.changeBath(ctx, tx, who, &b, action)
		if err != nil {
			return Bath{}, err
		}
		if err := tx.SaveBath(ctx, &b); err != nil {
			return Bath{}, err
		}
		return s.newBath(b), s.BathEntry(ctx, tx, who, b, body)
	})
}

func (s *Stock) changeBath(ctx context.Context, tx store.Tx, who record.Actor, b *store.Bath, action BathAction) (BathBody, error) {
	body := BathBody{Action: action.Action}
	now := s.desk.Now()
	pot := b.Kind == string(fluids.WaxPot)
	throw := func(kind string, ml float64) error {
		if ml <= 0 {
			return nil
		}
		body.WasteML = ml
		return tx.AddWaste(ctx, &store.Waste{ID: uuid.New(), Kind: kind, Amount: ml / 1000, Note: b.Name, NotedAt: now, NotedBy: who.Person.ID})
	}
	waste := "oily-water"
	if b.Kind == string(fluids.SolventJar) {
		waste = "spent-solvent"
	}
	switch action.Action {
	case "settle":
		after, sludge, err := CoreBath(*b).Settle(fluids.HouseBathRules())
		if err != nil {
			return body, &record.Problem{Kind: record.Conflict, Code: "bath-refused", Message: fmt.Sprintf("%s: %v.", b.Name, err)}
		}
		until := now.Add(fluids.HouseBathRules().SettleFor)
		b.VolumeML, b.Used, b.Settled, b.Settling = float64(after.Volume), int(after.Used), after.Settled, &until
		return body, throw("sludge", float64(sludge))
	case "renew":
		if !pot {
			if err := throw(waste, b.VolumeML); err != nil {
				return body, err
			}
		}
		b.FilledAt, b.Used, b.Settled, b.Settling, b.Dirty, b.GramsOut = now, 0, 0, nil, false, 0
		return body, nil
	case "heat", "cool":
		if !pot {
			return body, &record.Problem{Kind: record.Conflict, Code: "not-a-pot", Message: "Only a wax pot is heated here."}
		}
		b.HeatingAt = nil
		if action.Action == "heat" {
			b.HeatingAt = &now
		}
		return body, nil
	case "retire":
		b.RetiredAt = &now
		if pot {
			return body, nil
		}
		return body, throw(waste, b.VolumeML)
	}
	return body, record.InvalidInput(record.Field{Path: "action", Code: "unknown-value", Message: "There is no such action."})
}

// PlugInProbe gives the shop a probe for its wax pots. It is called before the service is used.
func (s *Stock) PlugInProbe(p record.PotProbe) { s.pots = p }

func init() { record.Holds[BathBody](nil, record.KindBath) }
