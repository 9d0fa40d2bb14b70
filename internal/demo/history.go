package demo

import (
	"fmt"
	"math"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/chain"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
)

// life is the life of one bike in the shop.
type life struct {
	*loader
	plan   bike
	owner  func() uuid.UUID
	bike   bikes.Bike
	worn   float64   // true elongation of the chain now on, percent
	km     float64   // on the odometer
	last   time.Time // of its last visit
	pace   float64   // percent a week, once its last chain heads for what its last visit must show
	at0    time.Time
	at1    time.Time            // when it came into care
	served map[string]time.Time // when a task was last done, where that is remembered
}

func (h *life) add() (err error) {
	h.bike, err = h.shop.AddBike(h.ctx, h.counter(), bikes.NewBike{CustomerID: h.owner(), Facts: h.plan.facts})
	if err != nil {
		return err
	}
	h.at0, h.at1, h.km = h.clock, h.clock, float64(200+h.random.IntN(4000))
	if h.plan.facts.DrivetrainKind == "" {
		return nil // nobody knows a thing about it yet
	}
	return h.fit()
}

// fit puts a new chain on.
func (h *life) fit() error {
	h.worn = 0
	h.clock = h.clock.Add(25 * time.Minute)
	_, err := h.shop.FitChain(h.ctx, h.mechanic(), h.bike.Tag, bikes.ChainFitting{OdometerKM: h.odometer(), What: h.chain()})
	return err
}

// replace puts a new chain on as a job: joined, checked, ride-tested; with sprockets where they are due.
func (h *life) replace(verdict string) error {
	f := h.plan.facts
	if f.SprocketCount == nil || f.ChainLinks == nil {
		return h.fit() // too little is on record for more
	}
	h.worn = 0
	h.clock = h.clock.Add(40 * time.Minute)
	plan, err := h.shop.PlanReplacement(h.ctx, h.bike.Tag)
	if err != nil {
		return err
	}
	r := bikes.Replacement{OdometerKM: h.odometer(), OldChain: "scrapped", Grease: plan.Grease, Checks: plan.Checks,
		Chain: bikes.NewChain{What: h.chain(), Sprockets: *f.SprocketCount, Links: *f.ChainLinks, Joint: "joining-link"},
		Link:  &bikes.NewLink{What: "new from its card", Sprockets: *f.SprocketCount}}
	switch {
	case verdict == "replace-together" || plan.Advice.Sprockets:
		r.Sprockets = ptr(fmt.Sprintf("%d–%d", f.SprocketTeeth[0], f.SprocketTeeth[len(f.SprocketTeeth)-1]))
		if len(f.SprocketTeeth) == 1 {
			r.Sprockets = ptr(fmt.Sprintf("%d teeth", f.SprocketTeeth[0]))
		}
	default:
		r.RideTest = "no-skip"
	}
	_, err = h.shop.ReplaceChain(h.ctx, h.mechanic(), h.bike.Tag, r)
	return err
}

// chain is what the shop writes down of a new one.
func (h *life) chain() string {
	f := h.plan.facts
	switch {
	case f.SprocketCount == nil:
		return ""
	case *f.SprocketCount == 1:
		return "wide"
	case f.Lubricant == "immersion-wax":
		return fmt.Sprintf("%d-speed, waxed before fitting", *f.SprocketCount)
	}
	return fmt.Sprintf("%d-speed", *f.SprocketCount)
}

// odometer is what the bike's computer shows.
func (h *life) odometer() *float64 {
	km := math.Floor(h.km)
	return &km
}

// visits lays out when the bike is read.
func (h *life) visits(added time.Time) {
	if h.plan.end == neverRead {
		return
	}
	gone := h.plan.end == archivedNow
	last := h.end
	if gone {
		last = h.end.AddDate(0, -3, 0)
	}
	for day := added.AddDate(0, 0, 2); day.Before(last.AddDate(0, 0, -18)); day = day.AddDate(0, 0, 35+h.random.IntN(50)) {
		when := h.openHours(day)
		h.loader.at(when, func() error { return h.visit(when) })
	}
	// The last visit comes within the last fortnight and shows what the bike is in the demo for.
	when := h.openHours(last.AddDate(0, 0, -h.random.IntN(13)))
	h.last = when
	if h.plan.end == freshChain {
		fitted := h.openHours(when.AddDate(0, 0, -8))
		h.loader.at(fitted, func() error {
			h.ride(fitted)
			return h.fit()
		})
	}
	h.loader.at(when, func() error { return h.lastVisit(when) })
	if gone {
		h.loader.at(h.openHours(h.end.AddDate(0, 0, -40)), func() error {
			b, err := h.shop.Bike(h.ctx, h.bike.Tag)
			if err != nil {
				return err
			}
			_, err = h.shop.ArchiveBike(h.ctx, h.counter(), h.bike.Tag, b.Version, true)
			return err
		})
	}
}

// ride wears the chain by what was ridden since the last visit.
func (h *life) ride(until time.Time) {
	weeks := until.Sub(h.at0).Hours() / (7 * 24)
	h.at0 = until
	weekly := 40.0
	if h.plan.facts.WeeklyKM != nil {
		weekly = *h.plan.facts.WeeklyKM
	}
	ridden := weekly * weeks * (0.8 + 0.4*h.random.Float64())
	h.km += ridden
	if h.pace > 0 {
		h.worn += h.pace * weeks
		return
	}
	h.worn += 0.5 * ridden / h.plan.lasts * h.speedUp()
}

// speedUp is how much faster a chain wears once its joints slide instead of rolling.
func (h *life) speedUp() float64 { return 1 + 2*math.Max(0, h.worn-0.5) }

func (h *life) visit(when time.Time) error {
	h.ride(when)
	h.worn = math.Min(h.worn, 1.4) // by then somebody brings the bike in
	m, err := h.read(h.plan.tools[h.random.IntN(len(h.plan.tools))], h.anyone(), nil, "")
	if err != nil {
		return err
	}
	if err := h.serve(len(services)); err != nil {
		return err
	}
	switch v := m.Wear.Verdict; {
	case h.pace > 0:
		return nil // it stays on, so that its last visit can show what comes of it
	case h.heading() > 0 && h.last.Sub(when) < 200*24*time.Hour:
		if err := h.replace(v); err != nil {
			return err
		}
		h.pace = h.heading() / (h.last.Sub(when).Hours() / (7 * 24))
	case v == "replace" || v == "replace-together":
		return h.replace(v)
	}
	return nil
}

// salted reports whether a bike that is ridden every day comes in from salted roads.
func (h *life) salted() bool {
	m := h.clock.Month()
	return h.plan.facts.Mix != nil && h.plan.facts.Mix.Salt > 0 && (m == time.January || m == time.February)
}

// limit is the wear at which the bike's chain is replaced under the house rule.
func (h *life) limit() float64 {
	if own := h.plan.facts.LimitPct; own != nil {
		return *own
	}
	if n := h.plan.facts.SprocketCount; (n != nil && *n >= 11) || h.plan.facts.WearSchool == "half" {
		return 0.5
	}
	return 0.75
}

// heading is the wear that the last visit must show, 0 where it is as it comes.
func (h *life) heading() float64 {
	switch h.plan.end {
	case unsureNow:
		return h.limit() + 0.02
	case nearLimit:
		return h.limit() - 0.1
	case pastLimit:
		return h.limit() + 0.14
	case unsignedNow:
		return h.limit() + 0.3 // a ruler is sure of it
	case wornSet:
		return h.limit() + 0.55
	default: // the others end as they are
	}
	return 0
}

func (h *life) lastVisit(when time.Time) error {
	h.ride(when)
	tool, findings, note, who := h.plan.tools[0], []string(nil), "", h.mechanic()
	switch h.plan.end {
	case freshChain:
		note = "New chain run in for a week."
	case unsureNow:
		h.worn, tool, note = h.heading(), "Steel rule 300", "Calipers were out at the other stand."
	case nearLimit:
		h.worn, tool = h.heading(), "Caliper 2"
	case pastLimit:
		h.worn, tool, findings = h.heading(), "Caliper 2", []string{"noise"}
	case unsignedNow:
		h.worn, tool, who = h.heading(), "Steel rule 300", h.people[4]
	case wornSet:
		h.worn, tool, findings = h.heading(), "Dial gauge", []string{"hooked-teeth", "noise"}
	case struckOut:
		return h.slip()
	case rideOn:
		h.worn = math.Min(h.worn, h.limit()-0.3)
	case asItComes:
		h.worn = math.Min(h.worn, h.limit()-0.22)
	default: // the others end as they are
	}
	if _, err := h.read(tool, who, findings, note); err != nil {
		return err
	}
	// A bike in six was only looked in on and not serviced: it falls due.
	if h.loader.services.IntN(6) == 0 {
		return h.serve(h.loader.services.IntN(len(services)))
	}
	return h.serve(len(services))
}

// services is what is done to a bike in a visit, the most usual first, and how many days it is left alone after.
var services = []struct {
	task string
	days int
}{{"relubricate", 0}, {"clean-on-bike", 0}, {"wash", 0}, {"brakes", 0}, {"look-at-teeth", 0}, {"pivots", 0}, {"contacts", 0}, {"deep-clean", 40}, {sealant, 100}, {"strip", 240}}

// serve notes what was done to a bike in a visit: the first so many services that it can need.
func (h *life) serve(count int) error {
	who := h.people[h.loader.services.IntN(3)]
	f := h.plan.facts
	for _, s := range services[:count] {
		task := s.task
		lately := s.days > 0 && h.clock.Sub(h.lastServed(task)) < time.Duration(s.days)*24*time.Hour
		none := task == "contacts" && (f.Motor == "none" || f.Motor == "") || task == "pivots" && f.Kind == "fixed-gear" ||
			task == sealant && f.Kind != "gravel" && f.Kind != "trail"
		if lately || none {
			continue
		}
		if h.served == nil {
			h.served = map[string]time.Time{}
		}
		h.served[task] = h.clock
		h.clock = h.clock.Add(3 * time.Minute)
		if err := h.shop.TaskDone(h.ctx, who, h.bike.Tag, task, "", nil); err != nil {
			return fmt.Errorf("%s: %w", task, err)
		}
	}
	return nil
}

// slip records a reading over miscounted links and strikes it out, then reads again.
func (h *life) slip() error {
	h.worn = math.Min(h.worn, 0.35)
	wrong := h.worn
	h.worn = 1.1
	m, err := h.read("Steel rule 300", h.people[4], nil, "")
	if err != nil {
		return err
	}
	h.worn = wrong
	h.clock = h.clock.Add(4 * time.Minute)
	if _, err := h.shop.StrikeOut(h.ctx, h.mechanic(), m.EntryID, "Rule lay on the plate's edge, not on the pin. Read again."); err != nil {
		return err
	}
	h.clock = h.clock.Add(3 * time.Minute)
	_, err = h.read("Dial gauge", h.mechanic(), nil, "")
	return err
}

// read reads the chain at three places with a tool, each with the tool's own error.
func (h *life) read(name string, who record.Actor, findings []string, note string) (measure.Measurement, error) {
	tool, there := h.tools[name]
	if !there { // the caliper of that time
		tool = h.tools[oldCaliper]
	}
	n := measure.NewMeasurement{InstrumentID: tool.ID, Findings: findings, Note: note}
	switch { // not everybody looks at it each time
	case h.random.IntN(5) == 0:
	case h.salted() && findings == nil:
		winter := record.OdometerNote{KM: *h.odometer(), Mix: mix(0.2, 0, 0.45, 0, 0.35)}
		if _, err := h.shop.NoteOdometer(h.ctx, who, h.bike.Tag, winter); err != nil {
			return measure.Measurement{}, err
		}
	default:
		n.OdometerKM = h.odometer()
	}
	places := 3
	links := chain.Links(tool.DefaultLinks)
	if tool.NeedsCount {
		places = 1
		links = 111
		if h.plan.facts.ChainLinks != nil {
			links = chain.Links(*h.plan.facts.ChainLinks - 1)
		}
		n.Links = ptr(int(links))
	}
	if tool.Kind == "caliper-inside" && h.random.IntN(3) > 0 {
		n.NewLength = "119.35" // taken when the chain was new
	}
	for p := 1; p <= places; p++ {
		here := chain.Percent(math.Max(-0.02, h.worn*(1+0.06*h.random.NormFloat64())))
		e := measure.BenchEntry{Place: p}
		switch tool.Kind {
		case "gauge-dropin":
			for _, mark := range tool.MarksPct {
				e.Marks = append(e.Marks, measure.Mark{MarkPct: mark, DropsIn: float64(here)+0.04*h.random.NormFloat64() >= mark})
			}
			if len(e.Marks) == 2 && !e.Marks[0].DropsIn {
				e.Marks[1].DropsIn = false // a larger mark does not drop in where a smaller one did not
			}
		case "gauge-percent":
			e.Text = fmt.Sprintf("%.2f", float64(here)+tool.ZeroOffsetPct+0.05*h.random.NormFloat64())
		case "caliper-inside":
			e.Text = fmt.Sprintf("%.2f", float64(here.Length(links))-7.65+0.03*1.27*h.random.NormFloat64())
		case "whole-chain":
			e.Text = fmt.Sprintf("%.0f", float64(here.Length(links))+0.7*h.random.NormFloat64())
		default:
			e.Text = fmt.Sprintf("%.1f", float64(here.Length(links))+0.3*h.random.NormFloat64())
		}
		n.Entries = append(n.Entries, e)
	}
	return h.shop.RecordMeasurement(h.ctx, who, h.bike.Tag, n)
}

// lastServed is when a task was last done; the bike came into care in order.
func (h *life) lastServed(task string) time.Time {
	if at, done := h.served[task]; done {
		return at
	}
	return h.at1
}
