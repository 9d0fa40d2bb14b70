package jobs

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/fault"
	"earnestpony/core/price"
	"earnestpony/internal/calc"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// JobPlan is what is done in a job, as it was agreed.
type JobPlan struct {
	Route         string `json:"route"`
	ChainRoute    string `json:"chain_route"`
	PartsRoute    string `json:"parts_route"`
	Wash          string `json:"wash"`
	LubricantNext string `json:"lubricant_next"`
	// Lubricant is what goes on: the family, and the bottle.
	Lubricant   *StepLubricant `json:"lubricant,omitempty"`
	Recommended string         `json:"recommended"` // route
	// Express: it is done at the counter, and short enough to be called so.
	Express   bool         `json:"express,omitempty"`
	Reason    string       `json:"reason,omitempty"`
	Reasons   []string     `json:"reasons"` // of the recommendation, by code
	HandsMin  int          `json:"hands_min"`
	RouteMin  int          `json:"route_min,omitempty"` // of those, by hand, what the route's own steps take
	RideMin   int          `json:"ride_min,omitempty"`  // until it can be ridden, the setting of the lubricant included
	ReadyMin  int          `json:"ready_min"`
	Cautions  []string     `json:"cautions"`
	Tools     []string     `json:"tools"`
	Uses      []StepAmount `json:"uses"`
	Misses    []string     `json:"misses"`
	Quote     Quote        `json:"quote"`
	PlannedBy string       `json:"planned_by,omitempty"`
	// RelubricateKM is after how many km of this bike's riding the chain gets its lubricant again.
	RelubricateKM float64 `json:"relubricate_km"`
}

// JobOption is one way to do a job, beside the others.
type JobOption struct {
	Route    string   `json:"route"`
	Refused  []string `json:"refused"` // why it cannot be done; empty when it can
	Against  []string `json:"against"`
	Misses   []string `json:"misses"`
	Plan     *JobPlan `json:"plan,omitempty"`
	Cautions []string `json:"cautions"`
	// Baths are the kinds of standing bath that it needs and of which none takes its load.
	Baths []BathRefusal `json:"baths"`
}

// JobOptions is what a job can be.
type JobOptions struct {
	Cleaning CleaningPlan     `json:"cleaning"`
	Route    string           `json:"route"` // recommended
	Options  []JobOption      `json:"options"`
	Lubes    *calc.LubeAnswer `json:"lubricants"`
}

// JobOrder is what is picked. What is empty is as recommended.
type JobOrder struct {
	Version    int        `json:"version"`
	Route      string     `json:"route,omitempty"`
	Wash       string     `json:"wash,omitempty"`
	Reason     string     `json:"reason,omitempty"` // why not as recommended
	LongSoak   bool       `json:"long_soak,omitempty"`
	Protect    bool       `json:"protect,omitempty"`
	Agreed     *int       `json:"agreed,omitempty"`
	PromisedAt *time.Time `json:"promised_at,omitempty"`
}

func PlanOf(j store.Job) *JobPlan {
	if len(j.Plan) == 0 || string(j.Plan) == "null" {
		return nil
	}
	var p JobPlan
	if err := json.Unmarshal(j.Plan, &p); err != nil {
		return nil // Written by us alone; a job with no plan that can be read is planned again
	}
	return &p
}

// Planner is a job that is being planned.
type Planner struct {
	dirtyBike
	intake  Intake
	Choice  clean.Choice
	prices  map[string]price.Money // of a unit of each material
	bottles []store.Material       // of lubricants
}

func (s *Jobs) Planner(ctx context.Context, tx store.Tx, tagText string, since time.Time, a Intake) (Planner, error) {
	p := Planner{intake: a, prices: map[string]price.Money{}}
	var err error
	if p.dirtyBike, err = s.look(ctx, tx, tagText, a.Condition); err != nil {
		return p, err
	}
	p.bike.Guide = a.Guide
	p.bike.Least = fault.Least(a.Complaints)
	if last, err := measure.LastReading(p.house, p.row); err != nil {
		return p, err
	} else if last != nil {
		p.bike.Read = !last.TakenAt.Before(since.Add(-readLately))
	}
	materials, err := tx.Materials(ctx)
	if err != nil {
		return p, err
	}
	for _, m := range materials {
		p.label(m)
		if lubes(clean.Material(m.Kind)) {
			p.bottles = append(p.bottles, m)
		}
		if m.PackCost != nil && m.PackSize != nil {
			p.prices[m.Kind] = price.Money(float64(*m.PackCost) / *m.PackSize)
		}
	}
	p.until(s.desk.Now(), cmp.Or(a.PromisedAt, a.WantedAt))
	p.Choice = clean.Choose(p.bike, p.rules).Timed(p.bike, p.rules)
	p.plan.Choice = calc.NewRouteAnswer(p.Choice)
	return p, nil
}

// label takes over what a product's card says.
func (p *Planner) label(m store.Material) {
	c, card := m.Card, &p.rules.Card
	var dwell clean.Dwell
	if c.DwellLeast != nil && c.DwellMost != nil {
		dwell = clean.Dwell{Least: clean.Minutes(*c.DwellLeast), Most: clean.Minutes(*c.DwellMost)}
	}
	switch clean.Material(m.Kind) {
	case clean.Degreaser:
		card.NoRinse, card.LongSoak, card.Degreaser = c.NoRinse, c.LongSoak, dwell
		if c.ProductParts != nil && c.WaterParts != nil && *c.ProductParts > 0 {
			card.Dilution = *c.ProductParts / (*c.ProductParts + *c.WaterParts)
		}
	case clean.Shampoo:
		card.Cleaner = dwell
	default: // the others are measured out at the step
	}
}

// readLately is how long before a bike is taken in its wear may have been read, to count for the visit.
const readLately = 12 * time.Hour

// lubes reports whether a material goes on a chain.
func lubes(m clean.Material) bool {
	return m == clean.ChainOil || m == clean.WaxDrip || m == clean.WaxSolid
}

// putsOn reports whether a step puts a lubricant on the chain.
func putsOn(s clean.Planned) bool {
	return s.Code != stepPivots && slices.ContainsFunc(s.Amounts, func(a clean.Amount) bool { return lubes(a.Material) })
}

// lubricant is what goes on: the family that was picked, as far as it is still what goes on, and a bottle of it.
func (p Planner) lubricant(next clean.Coat) *StepLubricant {
	family := p.family
	if family.Coat() != next {
		family = familyFor(next, p.row.Lubricant)
	}
	l := &StepLubricant{Family: family.String()}
	least, better := family.FirstRide()
	l.RideMin, l.BetterMin = int(least), int(better)
	if on := p.bike.On; on != next && on != clean.Unknown {
		l.Replaces = on.String()
	}
	material := map[clean.Coat]clean.Material{clean.Oil: clean.ChainOil, clean.DripWax: clean.WaxDrip, clean.ImmersionWax: clean.WaxSolid}[next]
	best := -1
	for i, m := range p.bottles {
		fits := m.Kind == string(material) && (m.Family == "" || m.Family == family.String())
		picked := p.intake.BottleID != nil && m.ID == *p.intake.BottleID
		if fits && (best < 0 || picked || m.Family != "" && p.bottles[best].Family == "" && !(p.intake.BottleID != nil && p.bottles[best].ID == *p.intake.BottleID)) {
			best = i
		}
	}
	if best >= 0 {
		m := p.bottles[best]
		l.BottleID, l.Bottle, l.Place = &m.ID, m.Name, m.Place
	}
	return l
}

// Order is what is done when a route is picked; the recommended one where none is.
func (p Planner) Order(route string, wash string) (clean.Order, error) {
	o := p.Choice.Order()
	if route != "" && route != p.Choice.Route.String() {
		r, err := clean.ParseRoute(route)
		if err != nil {
			return o, record.InvalidInput(record.Field{Path: "route", Code: "unknown-value", Message: err.Error()})
		}
		o = p.Choice.With(p.bike, r)
	}
	if wash != "" {
		w, err := clean.ParseWash(wash)
		if err != nil {
			return o, record.InvalidInput(record.Field{Path: "wash", Code: "unknown-value", Message: err.Error()})
		}
		o.Wash = w
		o.Express = o.Express && w == clean.NoWash
	}
	return o, nil
}

// UsualLubricant is the family that goes on where nobody picks another.
func (p Planner) UsualLubricant() string {
	return familyFor(again(p.bike.On), p.row.Lubricant).String()
}

// Refused reports whether a route cannot be done on this bike as things are.
func (p Planner) Refused(route string) bool {
	i := slices.IndexFunc(p.Choice.Options, func(o clean.Option) bool { return o.Route.String() == route })
	return i < 0 || p.Choice.Options[i].Refused
}

// Build lays a job out, with its price.
func (p Planner) Build(o clean.Order, route string) (clean.Plan, JobPlan, error) {
	plan, err := clean.New(p.bike, o, p.rules)
	if err != nil {
		return plan, JobPlan{}, err
	}
	r, err := clean.ParseRoute(route)
	if err != nil {
		return plan, JobPlan{}, err
	}
	j := JobPlan{Route: route, ChainRoute: o.Chain.String(), PartsRoute: o.Parts.String(), Wash: o.Wash.String(), LubricantNext: o.Next.String(),
		Recommended: p.Choice.Route.String(), HandsMin: int(plan.Hands()), ReadyMin: int(plan.Ready()), Tools: plan.Tools(), Misses: record.CodesOf(r.Misses(p.bike)),
		Cautions: record.CodesOf(plan.Cautions()), Reasons: record.CodesOf(p.Choice.Why), Uses: []StepAmount{}}
	j.Express = plan.IsExpress()
	j.RouteMin, j.RideMin = int(p.Choice.Options[r].Time.Attended), int(plan.Rideable(p.bike.Setting))
	if slices.ContainsFunc(plan.Steps, putsOn) { // a new chain may keep its own grease
		j.Lubricant = p.lubricant(o.Next)
	}
	if j.Tools == nil {
		j.Tools = []string{}
	}
	for _, a := range plan.Uses() {
		j.Uses = append(j.Uses, newStepAmount(a))
	}
	j.RelubricateKM, j.Quote = p.relubricate(o.Next), p.quote(plan, route)
	return plan, j, nil
}

func newStepAmount(a clean.Amount) StepAmount {
	return StepAmount{Material: string(a.Material), Amount: a.Amount, Unit: a.Material.Unit(), WaterML: a.Water}
}

// JobOptions lays the ways to do a job side by side. It writes nothing.
func (s *Jobs) JobOptions(ctx context.Context, id uuid.UUID) (JobOptions, error) {
	tx := s.desk.Store.Read(ctx)
	l, err := s.loadJob(ctx, tx, id, false)
	if err != nil {
		return JobOptions{}, err
	}
	a, err := IntakeOf(l.Job)
	if err != nil {
		return JobOptions{}, err
	}
	p, err := s.Planner(ctx, tx, record.TagOf(l.Bike), l.Job.CreatedAt, a)
	if err != nil {
		return JobOptions{}, err
	}
	baths, err := tx.Baths(ctx)
	if err != nil {
		return JobOptions{}, err
	}
	o := JobOptions{Cleaning: p.plan, Route: p.Choice.Route.String(), Options: []JobOption{}}
	for _, option := range p.Choice.Options {
		name := option.Route.String()
		v := JobOption{Route: name, Refused: []string{}, Against: record.CodesOf(option.Against), Misses: record.CodesOf(option.Misses), Cautions: record.CodesOf(option.Cautions), Baths: []BathRefusal{}}
		order, err := p.Order(name, "")
		if err != nil {
			return o, err
		}
		steps, plan, err := p.Build(order, name)
		if refused, ok := errors.AsType[*clean.RefusedError](err); ok {
			v.Refused = record.CodesOf(refused.Why)
		} else if err != nil {
			return o, err
		} else {
			p.quoteRange(&plan)
			v.Plan, v.Cautions, v.Baths = &plan, plan.Cautions, bathRefusals(baths, l, steps, a.DrivetrainGrade)
		}
		o.Options = append(o.Options, v)
	}
	// The recommended stands first, the others in their order.
	slices.SortStableFunc(o.Options, func(x, y JobOption) int {
		return cmp.Compare(boolInt(y.Route == o.Route), boolInt(x.Route == o.Route))
	})
	o.Lubes = p.lubricants(p.prices)
	return o, nil
}

func boolInt(b bool) int {
	if b {
		return 1
	}
	return 0
}

func IntakeOf(j store.Job) (a Intake, err error) {
	if err = json.Unmarshal(j.Intake, &a); err != nil {
		err = fmt.Errorf("intake of job %s: %w", j.ID, err)
	}
	return a, err
}

// ChangeIntake changes what was seen and said of a bike that is not planned yet, or plans anew from it.
func (s *Jobs) ChangeIntake(ctx context.Context, who record.Actor, id uuid.UUID, version int, a Intake) (Job, error) {
	err := s.desk.Write(ctx, who, "change-intake "+id.String(), record.ChangeOf{Version: version, To: a}, func(ctx context.Context, tx store.Tx) error {
		l, err := s.LoadOpenJob(ctx, tx, id)
		if err != nil {
			return err
		}
		if l.Job.Version != version {
			return store.ErrStale
		}
		if err := CheckIntake(&a, l.Job.PromisedAt, s.desk.Now()); err != nil {
			return err
		}
		if _, err := s.look(ctx, tx, record.TagOf(l.Bike), a.Condition); err != nil {
			return err
		}
		if l.Job.Intake, err = json.Marshal(a); err != nil {
			return err
		}
		s.Promise(ctx, who, &l.Job, a.PromisedAt)
		if err := tx.SaveJob(ctx, &l.Job); err != nil {
			return err
		}
		return s.JobEntry(ctx, tx, who, l.Bike, record.KindJobChanged, JobBody{Job: id.String(), Intake: ForLedger(a)})
	})
	return s.afterJob(ctx, who, id, a, err)
}

// LoadOpenJob is a job that is worked on; locked.
func (s *Jobs) LoadOpenJob(ctx context.Context, tx store.Tx, id uuid.UUID) (*LoadedJob, error) {
	l, err := s.loadJob(ctx, tx, id, true)
	if err == nil {
		record.Leaves(ctx, l.Job.Version)
	}
	if err == nil && l.Job.ClosedAt != nil {
		return nil, jobClosed()
	}
	return l, err
}

// loadJobOpenThen is [Jobs.LoadOpenJob] for what only adds to a job: a note or a picture that was made while it was open
// comes to it even where it was closed since.
func (s *Jobs) loadJobOpenThen(ctx context.Context, tx store.Tx, id uuid.UUID) (*LoadedJob, error) {
	l, err := s.loadJob(ctx, tx, id, true)
	if err == nil && l.Job.ClosedAt != nil && !s.desk.Moment(ctx).Before(*l.Job.ClosedAt) {
		return nil, jobClosed()
	}
	return l, err
}

func jobClosed() *record.Problem {
	return &record.Problem{Kind: record.Conflict, Code: "job-closed", Message: "This job is closed: the bike was handed back, or the job was cancelled."}
}

// afterJob answers with the job as it is now, or with both versions where somebody else was first.
func (s *Jobs) afterJob(ctx context.Context, who record.Actor, id uuid.UUID, yours any, err error) (Job, error) {
	if errors.Is(err, store.ErrStale) {
		now, err := s.Job(ctx, who, id)
		if err != nil {
			return Job{}, err
		}
		return Job{}, record.ChangedMeanwhile(yours, now)
	}
	if err != nil {
		return Job{}, err
	}
	return s.Job(ctx, who, id)
}

// PlanJob plans a job: as recommended, or otherwise with a reason. Planned again while it runs, what was
// done stays done.
func (s *Jobs) PlanJob(ctx context.Context, who record.Actor, id uuid.UUID, order JobOrder) (Job, error) {
	order.Reason = record.CleanLine(order.Reason)
	err := s.desk.Write(ctx, who, "plan-job "+id.String(), order, func(ctx context.Context, tx store.Tx) error {
		l, err := s.LoadOpenJob(ctx, tx, id)
		if err != nil {
			return err
		}
		if l.Job.Version != order.Version {
			return store.ErrStale
		}
		return s.planJob(ctx, tx, who, l, order)
	})
	return s.afterJob(ctx, who, id, order, err)
}

func (s *Jobs) planJob(ctx context.Context, tx store.Tx, who record.Actor, l *LoadedJob, order JobOrder) error {
	a, err := IntakeOf(l.Job)
	if err != nil {
		return err
	}
	p, err := s.Planner(ctx, tx, record.TagOf(l.Bike), l.Job.CreatedAt, a)
	if err != nil {
		return err
	}
	route := cmp.Or(order.Route, p.Choice.Route.String())
	o, err := p.Order(route, order.Wash)
	if err != nil {
		return err
	}
	// What a customer was promised at booking in was agreed with them there.
	if route != p.Choice.Route.String() && route != a.Route {
		if err := people.Allow(people.Overrule, who); err != nil {
			return err
		}
	}
	o.LongSoak, o.Protect = order.LongSoak, order.Protect
	var wrong record.Faults
	if (route != p.Choice.Route.String() || o.Wash != p.Choice.Wash) && len([]rune(order.Reason)) < 3 {
		wrong.Add("reason", "missing", "Say in a few words why it is not done as recommended: it stays with the job.")
	}
	if order.Agreed != nil && (*order.Agreed < 0 || *order.Agreed > record.MaxPrice) {
		wrong.Add("agreed", "out-of-range", "This cannot be a price.")
	}
	if err := wrong.Err(); err != nil {
		return err
	}
	plan, summary, err := p.Build(o, route)
	if refused, ok := errors.AsType[*clean.RefusedError](err); ok {
		return refusedPlan(refused)
	} else if err != nil {
		return err
	}
	baths, err := tx.Baths(ctx)
	if err != nil {
		return err
	}
	if refused := bathRefusals(baths, l, plan, a.DrivetrainGrade); len(refused) > 0 {
		return refusedBaths(refused)
	}
	p.quoteRange(&summary)
	summary.Reason, summary.PlannedBy = order.Reason, who.Person.Name
	steps, err := NewSteps(l, plan, a.Complaints, summary.Lubricant)
	if err != nil {
		return err
	}
	if l.Job.Plan, err = json.Marshal(summary); err != nil {
		return err
	}
	agreed := s.agree(ctx, who, &l.Job, order.Agreed)
	known(steps, l.Job, s.desk.Now())
	if wrong := PromiseFault(order.PromisedAt, l.Job.PromisedAt, s.desk.Now()); wrong != nil {
		return record.InvalidInput(*wrong)
	}
	if order.PromisedAt != nil {
		s.Promise(ctx, who, &l.Job, order.PromisedAt)
	}
	l.Job.State = store.JobPlanned
	if err := tx.SetSteps(ctx, l.Job.ID, steps); err != nil {
		return err
	}
	if err := s.endLostWaits(ctx, tx, who, l, plan); err != nil {
		return err
	}
	if err := tx.SaveJob(ctx, &l.Job); err != nil {
		return err
	}
	return s.JobEntry(ctx, tx, who, l.Bike, record.KindJobPlanned, JobBody{Job: l.Job.ID.String(), Plan: &summary, Reason: order.Reason, Agreed: agreed})
}

// refusals in words; the page has its own for what it offers.
var refusalWords = map[clean.Why]string{
	clean.WaxRefused:      "wax does not go over oil: the chain must be bare first",
	clean.UnderWax:        "immersion wax needs bare metal",
	clean.CannotOpen:      "the chain cannot be taken off: there is no joining link on it and none on the shelf",
	clean.AcidRefused:     "no acid on mid-motor, cargo and child-carrying bikes",
	clean.NeverWasher:     "this shop uses no water under pressure",
	clean.LongSoakRefused: "the degreaser's label does not allow a soak beyond two hours",
	clean.WashTooLight:    "dried mud is not wiped off dry: it scratches",
	clean.ChangePutOff:    "immersion wax comes off in hot water only, the chain off the bike",
	clean.RewaxRefused:    "only a waxed chain without grit, oil or deep rust is waxed again so",
	clean.NoCassette:      "there is no cassette to take off",
}

func refusedPlan(e *clean.RefusedError) *record.Problem {
	said := make([]string, len(e.Why))
	fields := make([]record.Field, len(e.Why))
	for i, w := range e.Why {
		said[i] = refusalWords[w]
		fields[i] = record.Field{Path: "route", Code: string(w), Message: refusalWords[w]}
	}
	return &record.Problem{Kind: record.Conflict, Code: "plan-refused", Message: "This is not planned: " + strings.Join(said, "; ") + ".", Fields: fields}
}

// NewSteps lays the steps of a plan out to be kept; what was done before in the job stays done.
func NewSteps(l *LoadedJob, plan clean.Plan, complaints []string, on *StepLubricant) ([]store.JobStep, error) {
	var specs []StepSpec
	for _, p := range plan.Steps {
		spec := StepSpec{Code: p.Code, Phase: string(p.Phase), Title: p.Title, Do: p.Do, Why: p.Why, Minutes: int(p.Minutes), Station: string(p.Station),
			Tools: append([]string{}, p.Tools...), Amounts: []StepAmount{}, Cautions: record.CodesOf(p.Cautions), Done: p.Done, Fail: p.Fail, Back: p.Back, Gate: p.Gate,
			Bath: p.Bath, SecondRound: p.SecondRound, Before: append([]string{}, p.Before...), Holding: append([]string{}, p.Waits...)}
		if p.Wait != nil {
			spec.Wait = &StepWait{p.Wait.Code, int(p.Wait.Least), int(p.Wait.Most)}
		}
		for _, a := range p.Amounts {
			spec.Amounts = append(spec.Amounts, newStepAmount(a))
		}
		if putsOn(p) {
			spec.Lubricant = on
		}
		if p.Code == stepAgree { // what the owner reports is looked into before the work is agreed on
			for _, code := range complaints {
				check, err := complaintStep(code)
				if err != nil {
					return nil, err
				}
				specs = append(specs, check)
				spec.Before = append(spec.Before, check.Code)
			}
		}
		specs = append(specs, spec)
	}
	before := map[string]store.JobStep{}
	for _, st := range l.Steps {
		before[st.Code] = st
	}
	var steps []store.JobStep
	for _, spec := range specs {
		text, err := json.Marshal(spec)
		if err != nil {
			return nil, err
		}
		st := store.JobStep{JobID: l.Job.ID, Code: spec.Code, State: store.StepOpen, Round: 1}
		if was, there := before[spec.Code]; there {
			st = was
		}
		st.Spec = text
		steps = append(steps, st)
	}
	steps, err := l.keep(steps)
	for i := range steps {
		steps[i].Position = i
	}
	return steps, err
}

// known ticks off what the job knows already, so that it is not asked again: that work and price were agreed on.
func known(steps []store.JobStep, job store.Job, now time.Time) {
	for i := range steps {
		if st := &steps[i]; st.Code == stepAgree && st.State == store.StepOpen && job.Agreed != nil && job.AgreedBy != nil {
			st.State, st.DoneAt, st.DoneBy = store.StepDone, &now, job.AgreedBy
		}
	}
}

// complaintStep is the check that tells the causes of a complaint apart.
func complaintStep(code string) (StepSpec, error) {
	c, err := fault.Parse(code)
	if err != nil {
		return StepSpec{}, err
	}
	s := StepSpec{Code: "check-" + code, Phase: string(clean.Intake), Title: c.Says, Do: c.Check, Why: "It is one of these, likeliest first. Which one is remembered with the bike.",
		Minutes: 2, Station: string(clean.AtStand), Tools: []string{}, Amounts: []StepAmount{}, Cautions: []string{}, Done: "That is it", Before: []string{"clamp"}, Holding: []string{}}
	for _, cause := range c.Causes {
		s.Causes = append(s.Causes, StepCause{cause.Code, cause.Says, cause.Leads})
	}
	return s, nil
}

// endLostWaits ends waits of steps that are no longer part of the job.
func (s *Jobs) endLostWaits(ctx context.Context, tx store.Tx, who record.Actor, l *LoadedJob, plan clean.Plan) error {
	for _, w := range l.Waits {
		kept := slices.ContainsFunc(plan.Steps, func(st clean.Planned) bool { return st.Code == w.StepCode })
		if w.EndedAt != nil || kept {
			continue
		}
		if err := s.endWait(ctx, tx, who, &w.Wait, plannedOtherwise); err != nil {
			return err
		}
	}
	return nil
}
