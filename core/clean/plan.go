package clean

import (
	"cmp"
	"slices"

	"earnestpony/core/chain"
)

// tags are what may hold of a job; the conditions of steps are made of them.
var tags = slices.Concat([]string{"read", "motor", "heavy", "carry", "disc", "rim", "derailleur", "hub-gear", "clutch", "guide", "fixed", "forward-only",
	"mud", "dry-wipe", "wet-wash", "hose", "washer",
	"hub-motor", "wheel-in", "tray", "top-up", "rewax", "wax-off", "parts-off", "parts-tray", "storage-grease", "wax", "solvent-rinse",
	"on-bike", "opens", "leaves", "leaves-again", "chain-goes", "chain-wipe", "chain-quick", "chain-bath", "jar", "bare", "film", "acid",
	"strip", "parts-wipe", "parts-brush", "wheel-out", "takes-apart", "long-soak", "blower", "wetted", "wastes",
	"oil", "drip-wax", "immersion-wax", "new-grease-stays", "freehub-dry", "protect", "no-rinse", "express"}, schoolTags)

// Turning says how the chain of a bike in the stand is moved.
type Turning uint8

// The ways of turning.
const (
	BackPedals  Turning = iota
	ForwardOnly         // coaster brake, some mid motors: wheel off the ground, by hand, motor off
	FixedGear           // nothing stops the chain
)

// Order is what is to be done on a bike.
type Order struct {
	Chain, Parts Route
	Wash         Wash
	Next         Coat
	// Acid asks for the citric bath; LongSoak for a soak beyond two hours, which the product's card must
	// allow; Protect for a film on the frame.
	Acid, LongSoak, Protect bool
	// Express is done at the counter: see [Plan.IsExpress].
	Express bool
}

// Order is what a choice recommends. A chain that gets the citric bath comes off for it, whatever else it
// needs.
func (c Choice) Order() Order {
	o := Order{Chain: c.Chain, Parts: c.Parts, Wash: c.Wash, Next: c.Next, Acid: slices.Contains(c.Why, AcidBath)}
	if o.Acid && !o.Chain.OpensChain() {
		o.Chain = Soak
	}
	o.Express = o.express(c.Express)
	return o
}

// With is the order when another route is picked instead.
func (c Choice) With(b Bike, r Route) Order {
	o := c.Order()
	b = b.settled()
	o.Chain = r
	if !r.chainOnly() {
		o.Parts = r
	}
	if b.ChainGoes {
		o.Chain = Wipe
	} else if !r.chainOnly() || c.Route != r {
		// What was to go on, else what tops up, else oil: the first that may go on after this route.
		for _, next := range []Coat{o.Next, b.withoutOpening(), Oil} {
			wanted := b
			if wanted.Next = next; allows(wanted, r) {
				o.Next = next
				if wanted.topsUp() && !r.chainOnly() {
					o.Chain = Wipe
				}
				break
			}
		}
	}
	o.Acid = o.Chain.OpensChain() && slices.Contains(rustCare(b), AcidBath)
	o.Express = o.express(c.Express)
	return o
}

// allows reports whether what is to go on a chain may go on after a route.
func allows(b Bike, r Route) bool {
	switch {
	case b.ChainGoes:
		return true
	case b.rewaxes():
		return r.chainOnly()
	case b.bares():
		// Where it stays on, drip wax over what is waxed does less harm than anything else.
		return r == Bare || !b.Next.wax() || b.On.wax() && b.Next == DripWax && !r.OpensChain()
	case b.soaks():
		return r.OpensChain() && r != Tray && r != Rewax
	}
	return true
}

// RefusedError is an order that is not planned, with every reason.
type RefusedError struct{ Why []Why }

func (e *RefusedError) Error() string {
	text := "not planned:"
	for _, w := range e.Why {
		text += " " + string(w)
	}
	return text
}

// refusals are the reasons for which an order is impossible or unsafe.
func refusals(b Bike, o Order, r Rules) []Why {
	var why []Why
	wanted := b
	wanted.Next = o.Next
	if !allows(wanted, o.Chain) {
		switch {
		case !o.Next.wax():
			why = append(why, ChangePutOff)
		case b.On.wax():
			why = append(why, UnderWax)
		default:
			why = append(why, WaxRefused)
		}
	}
	if o.Chain == Rewax && !wanted.rewaxes() {
		why = append(why, RewaxRefused)
	}
	if o.Parts == PartsOff && !b.geared() {
		why = append(why, NoCassette)
	}
	opens := b.CanOpen || b.ChainGoes
	if !opens && (o.Chain.OpensChain() || o.Parts.OpensChain()) {
		why = append(why, CannotOpen)
	}
	if o.Acid {
		switch {
		case !AcidAllowed(b.Train):
			why = append(why, AcidRefused)
		case !o.Chain.OpensChain() || b.ChainGoes:
			why = append(why, CannotOpen)
		}
	}
	if o.LongSoak && !r.Card.LongSoak {
		why = append(why, LongSoakRefused)
	}
	if o.Wash == Washer && r.Pressure == NeverPressure {
		why = append(why, NeverWasher)
	}
	if o.Wash == DryWipe && b.Frame >= driedMud {
		why = append(why, WashTooLight)
	}
	return why
}

// Amount is how much of a material a step of one job takes. Of a mixture Amount is the product alone and
// Water what goes with it.
type Amount struct {
	Material Material
	Amount   float64 // in the material's unit
	Water    float64 // mL
}

// Planned is a step of one job.
type Planned struct {
	Step
	Before  []string // codes of steps of this job that come first
	Waits   []string // of those whose waits must be over
	Amounts []Amount
}

// Plan is the work on one bike, in an order in which it can be done.
type Plan struct {
	Order Order
	Steps []Planned
}

// Card is what the labels of the shop's degreaser and shampoo say, where they say something: it comes
// before any house default.
type Card struct {
	Dilution           float64 // share of degreaser in a mixture, 0 to 1; zero is the house's
	NoRinse            bool    // the degreaser is not rinsed off
	LongSoak           bool    // it may soak beyond two hours
	Degreaser, Cleaner Dwell
}

// Dwell is how long a product stays on; zero is the house's.
type Dwell struct{ Least, Most Minutes }

func (c Card) dilution() float64 {
	if c.Dilution == 0 {
		return houseDilution
	}
	return c.Dilution
}

// dwell is the wait by the label.
func (c Card) dwell(w *Wait) *Wait {
	by := map[string]Dwell{"degreaser-on": c.Degreaser, "cleaner-on": c.Cleaner}[w.Code]
	if by == (Dwell{}) {
		return w
	}
	labelled := *w
	labelled.Least, labelled.Most = by.Least, max(by.Least, by.Most)
	return &labelled
}

// houseDilution is the share of product in a mixture where its card is silent: 2 parts to 1 of water
// (handbook: fluids).
const houseDilution = 2.0 / 3

// New lays out the steps of an order on a bike. A link count of zero is not known and taken as usual.
// An order that is impossible or unsafe is refused with a [*RefusedError].
func New(b Bike, o Order, r Rules) (Plan, error) {
	b = b.settled()
	if why := refusals(b, o, r); len(why) > 0 {
		return Plan{}, &RefusedError{why}
	}
	of := tagsOf(b, o, r)
	// nearest are, for each step that is not part of the job, those that stand for it to what comes after.
	nearest := map[string][]string{}
	steps := make([]Planned, 0, len(catalogue))
	for _, s := range catalogue { // what comes before stands before
		var before []string
		for _, code := range s.After {
			before = append(before, nearest[code]...)
		}
		slices.Sort(before)
		before = slices.Compact(before)
		if !holds(s.When, of) {
			nearest[s.Code] = before
			continue
		}
		nearest[s.Code] = []string{s.Code}
		s = s.on(of, r)
		steps = append(steps, Planned{Step: s, Before: before, Amounts: amounts(s.Uses, b.links(), r.Card)})
	}
	sequence(steps, r.First)
	if of["oil-off"] || of["oil-heated"] {
		oilFirst(steps)
	}
	hold(steps)
	return Plan{Order: o, Steps: inSequence(steps, r.First)}, nil
}

// hold says of each step which waits hold it.
func hold(steps []Planned) {
	for _, first := range steps {
		if first.Wait == nil {
			continue
		}
		for i := range steps {
			s := &steps[i]
			if until := first.Wait.Until; len(until) > 0 && slices.Contains(until, s.Code) || len(until) == 0 && slices.Contains(s.Before, first.Code) {
				s.Waits = append(s.Waits, first.Code)
			}
		}
	}
}

// tagsOf says what holds of a job.
func tagsOf(b Bike, o Order, r Rules) map[string]bool {
	opens := !b.ChainGoes && (o.Chain.OpensChain() || o.Parts.OpensChain())
	geared := b.Train.Kind == chain.Derailleur
	of := map[string]bool{
		"read": b.Read, "motor": b.Train.Motor != chain.NoMotor, "hub-motor": b.Train.Motor == chain.HubMotor, "heavy": b.Heavy, "carry": b.Train.Carry,
		"disc": b.Brakes == Disc, "rim": b.Brakes == Rim, "derailleur": geared, "hub-gear": b.Train.Kind == chain.HubGear,
		"clutch": b.Clutch && geared, "guide": b.Guide, "fixed": b.Turns == FixedGear, "forward-only": b.Turns == ForwardOnly,
		"mud": b.Frame >= driedMud, "dry-wipe": o.Wash == DryWipe, "wet-wash": o.Wash.wet(), "hose": o.Wash == Hose, "washer": o.Wash == Washer,
		"opens": opens, "leaves-again": opens, "leaves": opens || b.ChainGoes, "on-bike": !opens && !b.ChainGoes, "chain-goes": b.ChainGoes,
		"no-rinse": r.Card.NoRinse, "acid": o.Acid, "strip": o.Parts == Strip, "long-soak": o.LongSoak, "blower": r.Blower || o.Express, "express": o.Express, "protect": o.Protect,
		"oil": o.Next == Oil, "drip-wax": o.Next == DripWax, "immersion-wax": o.Next == ImmersionWax, "freehub-dry": r.FreehubDry,
	}
	of["wax"] = o.Next.wax()
	of["top-up"] = o.Next == DripWax && o.Chain == Wipe && !b.ChainGoes
	of["film"] = b.On == Film && opens && o.Chain.OpensChain()
	of["bare"] = opens && o.Chain == Bare || b.ChainGoes && (o.Next.wax() || r.StripNewGrease)
	of["tray"], of["rewax"] = opens && o.Chain == Tray, opens && o.Chain == Rewax
	of["jar"] = opens && o.Chain.OpensChain() && !of["bare"] && !of["tray"] && !of["rewax"]
	of["wax-off"] = b.waxOff() && o.Next == Oil && (of["jar"] || of["tray"])
	of["solvent-rinse"] = of["film"] && of["bare"] || of["bare"] && opens && r.Card.NoRinse
	onBike := of["on-bike"]
	of["storage-grease"] = onBike && b.On == FactoryGrease && o.Next == Oil && o.Chain == Wipe && !r.StripNewGrease
	of["new-grease-stays"] = b.ChainGoes && !of["bare"] || of["storage-grease"]
	of["chain-wipe"], of["chain-quick"], of["chain-bath"] = !b.ChainGoes && o.Chain == Wipe && !of["storage-grease"], onBike && o.Chain == Quick, onBike && o.Chain == Bath
	of["parts-wipe"] = o.Parts == Wipe
	of["parts-off"], of["parts-tray"] = o.Parts == PartsOff && geared, o.Parts == Tray
	of["parts-brush"] = o.Parts == Quick || o.Parts == Bath || o.Parts == Soak || o.Parts == Strip && !geared
	// A motor in the rear hub comes out only where its sprockets do; without a dummy hub the wheel stays in for a bath.
	out := o.Parts >= Bath && o.Parts <= Strip && !(o.Parts == Bath && r.WheelIn) && (!of["hub-motor"] || o.Parts >= PartsOff)
	of["wheel-out"] = geared && out || b.Turns == FixedGear && onBike
	of["wheel-in"] = geared && o.Parts == Bath && !of["wheel-out"]
	of["takes-apart"] = of["leaves"] || of["strip"] || of["parts-off"] || of["wheel-out"]
	of["wetted"] = onBike && (o.Chain != Wipe || o.Wash.wet())
	r.tags(of)
	of["wastes"] = o.Parts != Wipe || of["jar"] || of["tray"] || of["rewax"] || of["bare"] || of["chain-quick"] || of["chain-bath"]
	return of
}

// on is the step as it is on such a job: with its variant's words, and only the cautions that apply.
func (s Step) on(of map[string]bool, r Rules) Step {
	for _, v := range s.Or {
		if !holds(v.When, of) {
			continue
		}
		s.Title, s.Do, s.Why = cmp.Or(v.Title, s.Title), cmp.Or(v.Do, s.Do), cmp.Or(v.Why, s.Why)
		if v.Minutes != 0 {
			s.Minutes = v.Minutes
		}
		if v.Wait != nil {
			s.Wait = v.Wait
		}
		if v.Uses != nil {
			s.Uses = v.Uses
		}
		if v.Station != "" {
			s.Station = v.Station
		}
		if v.Tools != nil {
			s.Tools = v.Tools
		}
		s.Phase, s.Bath = cmp.Or(v.Phase, s.Phase), cmp.Or(v.Bath, s.Bath)
		if v.NoWait {
			s.Wait = nil
		}
		if v.Bath != "" {
			s.SecondRound = "" // a bath goes in by itself
		}
		s.Done = cmp.Or(v.Done, s.Done)
		s.Cautions = append(slices.Clone(s.Cautions), v.Cautions...)
	}
	if s.Wait != nil {
		s.Wait = r.Card.dwell(s.Wait)
	}
	if m, set := r.StepMinutes[s.Code]; set {
		s.Minutes = m
	}
	s.Cautions = slices.DeleteFunc(slices.Clone(s.Cautions), func(c Caution) bool {
		switch c {
		case Electric:
			return !of["motor"]
		case Lifting:
			return !of["heavy"]
		case Carry:
			return !of["carry"]
		case Spray:
			return !of["washer"]
		case Braking:
			return !of["disc"] && !of["rim"]
		default: // the others hold whatever is fitted
		}
		return false
	})
	return s
}

// sequence adds what the school of what is first asks for.
func sequence(steps []Planned, first First) {
	from, to := Degrease, Washing
	for i := range steps {
		s := &steps[i]
		switch first {
		case DrivetrainFirst:
			if s.Phase != to || s.Code != "cleaner-on" && s.Code != "frame-wipe" {
				continue
			}
			for _, other := range steps {
				if other.Phase == from {
					s.Before = append(s.Before, other.Code)
				}
			}
		case FrameFirst:
			if s.Phase != ChainOff && s.Phase != Apart && s.Phase != Degrease || s.Code == "wax-melt" || s.Code == "link-ready" || s.Code == "cover-brakes" {
				continue
			}
			for _, other := range steps {
				if other.Code == "rinse" || other.Code == "frame-wipe" {
					s.Before = append(s.Before, other.Code)
				}
			}
		}
		slices.Sort(s.Before)
		s.Before = slices.Compact(s.Before)
	}
}

// oilFirst has the chain oiled off the bike: before it goes on, not after.
func oilFirst(steps []Planned) {
	for i := range steps {
		s := &steps[i]
		switch s.Code {
		case "oil":
			s.Before = slices.DeleteFunc(s.Before, func(code string) bool { return code == "chain-on" })
		case "chain-on":
			s.Before = append(s.Before, "oil")
		case "oil-wipe":
			s.Before = append(s.Before, "chain-on")
		}
	}
}

// inSequence puts the steps in an order in which each comes after what is before it; among those that
// could be next, the one that stands first in the catalogue, with the wash moved up where the frame is first.
func inSequence(steps []Planned, first First) []Planned {
	rank := func(i int) int {
		if first == FrameFirst && steps[i].Phase == Washing {
			return i - len(catalogue)
		}
		if first == FrameFirst && steps[i].Phase == Intake {
			return i - 2*len(catalogue)
		}
		return i
	}
	placed := map[string]bool{}
	order := make([]Planned, 0, len(steps))
	for len(order) < len(steps) {
		best := -1
		for i := range steps {
			s := &steps[i]
			if placed[s.Code] || best >= 0 && rank(i) >= rank(best) {
				continue
			}
			if !slices.ContainsFunc(s.Before, func(code string) bool { return !placed[code] }) {
				best = i
			}
		}
		if best < 0 {
			panic("steps wait for each other in a circle: the catalogue was not validated")
		}
		placed[steps[best].Code] = true
		order = append(order, steps[best])
	}
	return order
}

func amounts(uses []Use, links chain.Links, card Card) []Amount {
	var all []Amount
	for _, u := range uses {
		a := Amount{Material: u.Material, Amount: u.Amount}
		switch u.Per {
		case PerLink:
			a.Amount *= float64(links)
		case Mixed:
			a.Amount = u.Amount * card.dilution()
			a.Water = u.Amount - a.Amount
		default: // as it is
		}
		all = append(all, a)
	}
	return all
}

// Hands is the time that the plan takes of people.
func (p Plan) Hands() Minutes {
	var sum Minutes
	for _, s := range p.Steps {
		sum += s.Minutes
	}
	return sum
}

// Ready is the least time from the first step to the last, for one person who starts the longest wait
// first and never stands idle; what only a wait can finish is waited for.
func (p Plan) Ready() Minutes {
	over := map[string]Minutes{} // when what follows the step may begin
	done := map[string]bool{}
	var now, last Minutes
	for range p.Steps {
		best, begins := -1, Minutes(0)
		for i, s := range p.Steps {
			if done[s.Code] || slices.ContainsFunc(s.Before, func(code string) bool { return !done[code] }) {
				continue
			}
			at := now
			for _, code := range s.Waits {
				at = max(at, over[code])
			}
			if best < 0 || at < begins {
				best, begins = i, at
			}
			if begins == now {
				break // nothing begins sooner
			}
		}
		s := p.Steps[best]
		now = begins + s.Minutes
		over[s.Code], done[s.Code] = now, true
		if s.Wait != nil {
			over[s.Code] += s.Wait.Least
		}
		last = max(last, over[s.Code])
	}
	return last
}

// Rideable is until the bike can be ridden: until the work is done and the lubricant has set, which for drip wax is one of
// its waits. Setting is from the last of an oil or of immersion wax to the first ride, at least.
func (p Plan) Rideable(setting Minutes) Minutes {
	if p.Order.Next == DripWax {
		return p.Ready()
	}
	var after Minutes // what is done while it sets
	for _, s := range p.Steps {
		if s.Phase == Finish {
			after += s.Minutes
		}
	}
	return p.Ready() + max(setting-after, 0)
}

// everyVisit are the steps that belong to every visit beside those of its first and its last phase.
var everyVisit = []string{"cover-brakes", "look-wet"}

// Own is how long what belongs to the routes of the plan alone takes: without what every visit takes before and after, and
// without the wash of the frame.
func (p Plan) Own() Time {
	own := Plan{Order: p.Order}
	longest := Plan{Order: p.Order}
	for _, s := range p.Steps {
		if s.Phase == Intake || s.Phase == Washing || s.Phase == Finish || slices.Contains(everyVisit, s.Code) {
			continue
		}
		own.Steps = append(own.Steps, s)
		if s.Wait != nil && s.Wait.Least > 0 && s.Wait.Most > s.Wait.Least {
			w := *s.Wait
			w.Least = w.Most
			s.Wait = &w
		}
		longest.Steps = append(longest.Steps, s)
	}
	for _, q := range []*Plan{&own, &longest} {
		for i := range q.Steps {
			q.Steps[i].Before = slices.DeleteFunc(slices.Clone(q.Steps[i].Before), func(code string) bool {
				return !slices.ContainsFunc(q.Steps, func(s Planned) bool { return s.Code == code })
			})
		}
	}
	hands := own.Hands()
	return Time{Attended: hands, WaitLeast: own.Ready() - hands, WaitMost: longest.Ready() - hands}
}

// Uses sums what the plan takes of each material, by name.
func (p Plan) Uses() []Amount {
	sums := map[Material]Amount{}
	for _, s := range p.Steps {
		for _, a := range s.Amounts {
			sum := sums[a.Material]
			sums[a.Material] = Amount{a.Material, sum.Amount + a.Amount, sum.Water + a.Water}
		}
	}
	var all []Amount
	for _, m := range Materials() {
		if a, used := sums[m]; used {
			all = append(all, a)
		}
	}
	return all
}

// Cautions are those of all its steps, in the order in which they are shown.
func (p Plan) Cautions() []Caution {
	said := map[Caution]bool{}
	for _, s := range p.Steps {
		for _, c := range s.Cautions {
			said[c] = true
		}
	}
	return ordered(said)
}

// Tools are those of all its steps, each once, by first use.
func (p Plan) Tools() []string {
	var all []string
	for _, s := range p.Steps {
		for _, t := range s.Tools {
			if !slices.Contains(all, t) {
				all = append(all, t)
			}
		}
	}
	return all
}
