package demo

import (
	"cmp"
	"errors"
	"fmt"
	"strings"
	"time"

	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/stock"
)

// fillStores gives the shop what cleans and lubricates, its standing baths, and what its work costs.
func (l *loader) fillStores() error {
	v, err := l.shop.CurrentRules(l.ctx)
	if err != nil {
		return err
	}
	w := &v.Rules.Work
	w.LabourHour, w.FluidsBy, w.TaxPct, w.TaxInside, w.Damp = 5400, 1.5, 20, true, true
	w.WasteRoute = map[string]int{"bath": 80, "soak": 150, "strip": 250, "bare": 200}
	if _, err := l.shop.ChangeRules(l.ctx, l.people[0], v.Version, v.Rules); err != nil {
		return err
	}
	for _, m := range []struct {
		kind, name          string
		quantity, low, pack float64
		cost                int
	}{
		{"degreaser", "Citrus degreaser", 7200, 2000, 5000, 3900},
		{"shampoo", "Bike shampoo", 2600, 1000, 1000, 1100},
		{"film-solvent", "Film solvent", 900, 500, 1000, 1850},
		{"alcohol", "Isopropyl alcohol", 700, 500, 1000, 790},
		{"oil", "All-weather oil", 180, 100, 120, 1290},
		{"oil", "Winter oil", 240, 100, 120, 1190},
		{"drip-wax", "Drip wax", 70, 100, 120, 1590},
		{"immersion-wax", "Chain wax, blocks", 1200, 500, 500, 1690},
		{"grease", "Assembly grease", 300, 100, 500, 1450},
		{"threadlocker", "Medium threadlocker", 18, 10, 50, 1990},
		{"displacing-spray", "Water-displacing spray", 900, 400, 500, 690},
		{"citric-acid", "Citric acid", 800, 250, 1000, 590},
		{"bicarbonate", "Bicarbonate", 900, 250, 1000, 280},
		{"protectant", "Frame protectant", 260, 100, 250, 1350},
		{"rags", "Washed rags", 64, 40, 100, 900},
		{"gloves", "Nitrile gloves, pairs", 38, 30, 50, 650},
	} {
		oils := map[string][2]string{"All-weather oil": {"all-weather", "shelf 2"}, "Winter oil": {"wet-oil", "shelf 2"}, "Drip wax": {"", "shelf 3"}}
		facts := stock.MaterialFacts{Family: oils[m.name][0], Place: oils[m.name][1], Name: m.name, Quantity: m.quantity, LowMark: m.low, PackSize: &m.pack, PackCost: &m.cost}
		if _, err := l.shop.AddMaterial(l.ctx, l.people[0], stock.NewMaterialFacts{Kind: m.kind, Facts: facts}); err != nil {
			return err
		}
	}
	return nil
}

// fillBaths fills the standing baths anew, some days ago.
func (l *loader) fillBaths() error {
	l.clock = l.end.AddDate(0, 0, -9)
	for _, b := range []stock.NewBath{
		{Kind: "ultrasonic-tank", Facts: stock.BathFacts{Name: "Tank A, used chains", Fluid: "citrus degreaser", Strength: ptr(66.7), VolumeML: 3000}},
		{Kind: "ultrasonic-tank", Facts: stock.BathFacts{Name: "Tank B, new chains", Fluid: "citrus degreaser", Strength: ptr(66.7), VolumeML: 2000, CleanOnly: true}},
		{Kind: "solvent-jar", Facts: stock.BathFacts{Name: "Solvent jar", Fluid: "film solvent", VolumeML: 1000}},
		{Kind: "wax-pot", Facts: stock.BathFacts{Name: "Wax pot", Fluid: "chain wax", VolumeML: 500}},
	} {
		if _, err := l.shop.AddBath(l.ctx, l.people[0], b); err != nil {
			return err
		}
	}
	return nil
}

// visit is one job of the demo's last days.
type visit struct {
	owner   string        // a part of the name
	who     int           // of the people
	began   time.Duration // before the end
	free    time.Duration // before the end until which somebody works on it
	arrival jobs.Intake
	order   *jobs.JobOrder // nil: it came in and is not planned
	end     string         // handed-back, cancelled; empty: it is still here
	finding *jobs.NewFinding
	hold    string        // the step whose wait runs now
	held    time.Duration // before the end at which it was done
	waits   bool          // planned, and nobody has begun it
	agreed  bool          // the price with its owner, as it was quoted
}

func seen(frame, drivetrain int) jobs.Condition {
	return jobs.Condition{FrameGrade: frame, DrivetrainGrade: drivetrain}
}

func (l *loader) visits() []visit {
	oiled := func(frame, drivetrain int) jobs.Condition {
		q := seen(frame, drivetrain)
		q.LubricantOn, q.LubricantNext = "oil", "oil"
		return q
	}
	recommended := &jobs.JobOrder{}
	later := func(hours int) *time.Time {
		t := l.end.Add(time.Duration(hours) * time.Hour).Truncate(15 * time.Minute) // as people promise
		return &t
	}
	// So many working days ago, at the time of day at which the demo starts, and so much earlier.
	daysAgo := func(n int, earlier time.Duration) time.Duration {
		at := l.end
		for n > 0 {
			if at = at.AddDate(0, 0, -1); at.Weekday() != time.Saturday && at.Weekday() != time.Sunday {
				n--
			}
		}
		return l.end.Sub(at) + earlier
	}
	return []visit{
		{owner: "Juniper Askwith", who: 0, began: daysAgo(2, time.Hour), free: daysAgo(2, -5*time.Hour), order: recommended, end: "handed-back",
			arrival: jobs.Intake{Condition: seen(1, 1), Wants: "Fresh wax before the weekend"}},
		{owner: "Rosamund Pike-Hollow", who: 1, began: daysAgo(1, 2*time.Hour), free: daysAgo(1, time.Hour), order: recommended, end: "cancelled", arrival: jobs.Intake{Condition: oiled(1, 2)}},
		{owner: "Bryony Tallisker", who: 2, began: 158 * time.Minute, free: 20 * time.Minute, order: &jobs.JobOrder{Route: "quick", Reason: "needs it for the evening ferry"},
			arrival: jobs.Intake{Condition: oiled(1, 2), Wants: "Back for the evening ferry", PromisedAt: later(2)}},
		{owner: "Délphine Arosteguy", who: 2, began: 130 * time.Minute, free: time.Minute, order: &jobs.JobOrder{Route: "bath", Reason: "the chain stays on, she rides it tonight"}, hold: "air-dry", held: 21 * time.Minute,
			arrival: jobs.Intake{Condition: oiled(2, 2), Wants: "Quiet again", PromisedAt: later(4)}},
		{owner: "Kester Nightingale-Obi", who: 2, began: 155 * time.Minute, free: time.Minute, order: recommended, hold: "wax-in", held: 11 * time.Minute,
			arrival: jobs.Intake{Condition: seen(1, 2), Wants: "Waxed for the winter series", PromisedAt: later(7)}},
		{owner: "Hesper Vanstone", who: 4, began: 100 * time.Minute, free: 25 * time.Minute, order: &jobs.JobOrder{}, end: "asked",
			arrival: jobs.Intake{Condition: oiled(0, 1), Wants: "A wipe and oil"}},
		// Who is at a step at the end is at it last: a person is at one step at a time.
		{owner: "Imelda Harrowgate", who: 1, began: 110 * time.Minute, free: 10 * time.Second, order: recommended, agreed: true, hold: "oil", held: 2 * time.Minute,
			arrival: jobs.Intake{Condition: oiled(2, 2), Complaints: []string{"squeaks"}, Reports: "Squeaks on the way home at night", PromisedAt: later(3)}},
		{owner: "Merrick Pasco-Lund", who: 0, began: 75 * time.Minute, free: 6 * time.Minute, order: &jobs.JobOrder{Route: "soak", Reason: "there is time until tomorrow"},
			agreed: true, hold: "jar", held: 17 * time.Minute, finding: &jobs.NewFinding{Code: "pads-worn", Place: "rear"},
			arrival: jobs.Intake{Condition: oiled(3, 3), Complaints: []string{"gritty"}, Reports: "Grinds since the beach ride", PromisedAt: later(22)}},
		{owner: "Lavinia Stoat", who: 3, began: 42 * time.Minute, free: time.Hour, order: recommended, waits: true,
			arrival: jobs.Intake{Condition: seen(2, 1), Wants: "On the way to the hill climb", PromisedAt: later(1)}},
		{owner: "Fenella Strakesby", who: 3, began: 38 * time.Minute, free: time.Hour, order: recommended, waits: true,
			arrival: jobs.Intake{Condition: oiled(3, 2), PromisedAt: later(3), Waiting: true}},
		{owner: "Gideon Larkwhistle", who: 3, began: 31 * time.Minute, free: time.Hour, order: recommended, waits: true,
			arrival: jobs.Intake{Condition: oiled(2, 3), PromisedAt: later(5)}},
		{owner: "Nerys Copperthwaite", who: 3, began: 27 * time.Minute, free: time.Hour, order: recommended, waits: true,
			arrival: jobs.Intake{Condition: seen(2, 2), PromisedAt: later(26)}},
		{owner: "Juniper Askwith", who: 3, began: 12 * time.Minute, arrival: jobs.Intake{Condition: oiled(0, 1), Complaints: []string{"squeaks"}, Reports: "It squeaks again since Sunday"}},
		{owner: "courier", who: 3, began: 25 * time.Minute, arrival: jobs.Intake{Complaints: []string{"gritty"}, Reports: "Grinding under load, dirt to the elbows", Wants: "Back by four",
			Condition: jobs.Condition{FrameGrade: 4, DrivetrainGrade: 3, Heavy: true}, PromisedAt: later(6)}},
	}
}

// work takes the last days' bikes in and works on them through the same use cases as a mechanic.
func (l *loader) work() error {
	if err := l.fillBaths(); err != nil {
		return err
	}
	for _, v := range l.visits() {
		if err := l.visit(v); err != nil {
			return fmt.Errorf("job of %s: %w", v.owner, err)
		}
	}
	return nil
}

func (l *loader) visit(v visit) error {
	found, err := l.shop.FindBikes(l.ctx, v.owner, false, "", 1)
	if err != nil || len(found.Bikes) == 0 {
		return err // that owner is not in this history
	}
	l.clock = l.end.Add(-v.began)
	who := l.people[v.who]
	if v.arrival.Complaints == nil {
		v.arrival.Complaints = []string{}
	}
	job, err := l.shop.OpenJob(l.ctx, l.counter(), found.Bikes[0].Tag, v.arrival)
	if err != nil || v.order == nil {
		return err
	}
	order := *v.order
	order.Version = job.Version
	if v.agreed {
		ways, err := l.shop.JobOptions(l.ctx, job.ID)
		if err != nil {
			return err
		}
		for _, way := range ways.Options {
			if way.Route == cmp.Or(order.Route, ways.Route) && way.Plan != nil {
				order.Agreed = &way.Plan.Quote.Total
			}
		}
	}
	if job, err = l.shop.PlanJob(l.ctx, who, job.ID, order); err != nil {
		return err
	}
	stop := l.end.Add(-v.free)
	for l.clock.Before(stop) {
		next := job.Current
		if next == "" {
			if job.HeldUntil == nil {
				break
			}
			if job.HeldUntil.After(stop) {
				break // it waits now
			}
			l.clock = *job.HeldUntil
			if job, err = l.shop.Job(l.ctx, who, job.ID); err != nil {
				return err
			}
			continue
		}
		if next == v.hold {
			l.clock = l.end.Add(-v.held)
		}
		if job, err = l.step(who, job, next); err != nil {
			return fmt.Errorf("%s: %w", next, err)
		}
		if v.finding != nil && next == "look-teeth" {
			if job, err = l.shop.AddFinding(l.ctx, who, job.ID, *v.finding); err != nil {
				return err
			}
		}
	}
	switch v.end {
	case "handed-back":
		_, err = l.shop.HandBackJob(l.ctx, who, job.ID, jobs.HandBack{Version: job.Version})
	case "asked":
		_, err = l.shop.AskSignature(l.ctx, who, job.ID, job.Version)
	case "cancelled":
		_, err = l.shop.CancelJob(l.ctx, who, job.ID, job.Version, "Customer took it home before the tide, will be back")
	default:
		if job.Current != "" && !v.waits {
			_, err = l.shop.DoStep(l.ctx, who, job.ID, job.Current, jobs.StepAction{Action: "begin"})
		}
	}
	return err
}

// step does one step of a job, taking about as long as it was planned to.
func (l *loader) step(who record.Actor, job jobs.Job, code string) (jobs.Job, error) {
	var step jobs.StepView
	for _, s := range job.StepList {
		if s.Code == code {
			step = s
		}
	}
	d := jobs.StepAction{Action: "done", Seen: step.Cautions}
	if len(step.Causes) > 0 {
		d.Cause = step.Causes[0].Code
	}
	if code == "read-wear" {
		d = jobs.StepAction{Action: "skip", Reason: "read at the last visit, a few days ago"}
	}
	if _, err := l.shop.DoStep(l.ctx, who, job.ID, code, jobs.StepAction{Action: "begin"}); err != nil {
		return job, err
	}
	l.clock = l.clock.Add(time.Duration(float64(step.Minutes)*(0.8+0.5*l.random.Float64())*60) * time.Second)
	after, err := l.shop.DoStep(l.ctx, who, job.ID, code, d)
	var p *record.Problem
	if errors.As(err, &p) && strings.HasPrefix(p.Code, "not-") { // a new chain is a job of its own
		return l.shop.DoStep(l.ctx, who, job.ID, code, jobs.StepAction{Action: "pause"})
	}
	return after, err
}
