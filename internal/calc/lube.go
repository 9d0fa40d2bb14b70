package calc

import (
	"earnestpony/core/chain"
	"earnestpony/core/clean"
	"earnestpony/core/forecast"
	"earnestpony/core/lube"
)

// LubeAnswer is what [Lube] answers: every family, best first.
type LubeAnswer struct {
	Choices []LubeChoice `json:"choices"`
}

// LubeChoice is one family beside the others.
type LubeChoice struct {
	Family        string     `json:"family"`
	Refused       bool       `json:"refused"`
	For           []string   `json:"for"`
	Against       []string   `json:"against"`
	EveryHardKM   float64    `json:"every_hard_km"`
	FirstRideMin  int        `json:"first_ride_min"`
	BetterRideMin int        `json:"better_ride_min"`
	ReadyMin      int        `json:"ready_min"` // from now, the route's own work and waits included
	Amount        LubeAmount `json:"amount"`
	CostPer1000KM float64    `json:"cost_per_1000_km"` // minor units
	CostLubricant float64    `json:"cost_lubricant"`
	CostLabour    float64    `json:"cost_labour"`
	CostWear      float64    `json:"cost_wear"`
}

// LubeAmount is how much of it goes on the chain.
type LubeAmount struct {
	Drops        int      `json:"drops,omitempty"` // a coat
	Coats        int      `json:"coats,omitempty"`
	ML           float64  `json:"ml,omitempty"`
	Grams        float64  `json:"grams,omitempty"`
	RunningTurns *float64 `json:"running_turns,omitempty"` // of the crank on each side
	RunningML    *float64 `json:"running_ml,omitempty"`
}

// Lube picks what goes on a chain; see the contract for its input.
func Lube(input []byte) (*LubeAnswer, error) {
	var f faults
	in, ok := root(input, &f)
	if !ok {
		return nil, f.refusal()
	}
	links := chain.Links(in.wholeNeeded("links", 30, 300))
	ring, _ := in.whole("ring", 8, 80)
	q := lube.Question{Mix: readMix(in), On: named(in, "lubricant_on", true, clean.ParseCoat), Damp: in.boolean("damp", false),
		CanBare: in.boolean("can_bare", false), When: named(in, "when_school", false, lube.ParseWhen), Care: named(in, "care", false, forecast.ParseCare)}
	q.HoursToRide, _ = in.number("hours_to_ride", 0, 10_000)
	topUp := in.boolean("top_up", false)
	grade := clean.Grade(1)
	if in.has("drivetrain_grade") {
		grade = clean.Grade(in.wholeNeeded("drivetrain_grade", 0, int(clean.MaxGrade)))
	} else {
		in.take("drivetrain_grade")
	}
	bike := clean.Bike{Drivetrain: grade, Train: chain.Drivetrain{Kind: chain.Derailleur, Sprockets: 11, Motor: chain.NoMotor}, Brakes: clean.Disc,
		On: q.On, CanOpen: q.CanBare, Links: links, DrivetrainOnly: true, Read: true}
	q.Ready = readyWith(bike, clean.HouseRules(), func(p clean.Plan, setting clean.Minutes) clean.Minutes {
		own := p.Own() // nothing is asked of the rest of the visit
		if p.Order.Next == clean.DripWax {
			setting = 0 // it is one of the waits
		}
		return own.Attended + own.WaitLeast + setting
	})
	if q.Factor, ok = in.number("hard_km_per_km", 0.2, 30); !ok {
		q.Factor = forecast.HouseFactors.Factor(q.Mix, chain.NoMotor)
	}
	prices := lube.Prices{Links: links, PerML: map[lube.Family]forecast.Money{}, PerGram: map[lube.Family]forecast.Money{}}
	if p, given := in.object("prices"); given {
		money := func(name string) forecast.Money {
			v, _ := p.number(name, 0, 1e9)
			return forecast.Money(v)
		}
		prices.LabourHour, prices.Wear = money("labour_hour"), money("worn_chain")
		oil := money("oil_ml")
		prices.PerML[lube.WetOil], prices.PerML[lube.DryOil], prices.PerML[lube.AllWeather] = oil, oil, oil
		prices.PerML[lube.DripWax], prices.PerGram[lube.ImmersionWax] = money("drip_wax_ml"), money("immersion_wax_g")
		p.done()
	}
	in.done()
	if err := f.refusal(); err != nil {
		return nil, err
	}
	return NewLubeAnswer(lube.Picks(q, prices), links, ring, topUp), nil
}

// ReadyWith says when a bike can be ridden with each family, by the route that it takes.
func ReadyWith(b clean.Bike, r clean.Rules) func(lube.Family) (clean.Minutes, bool) {
	return readyWith(b, r, clean.Plan.Rideable)
}

func readyWith(b clean.Bike, r clean.Rules, ready func(clean.Plan, clean.Minutes) clean.Minutes) func(lube.Family) (clean.Minutes, bool) {
	return func(f lube.Family) (clean.Minutes, bool) {
		b.Next, b.Hours, b.Express = f.Coat(), 0, false
		b.Setting, _ = f.FirstRide()
		c := clean.Choose(b, r)
		if c.Next != b.Next {
			return 0, false // put off
		}
		plan, err := clean.New(b, c.Order(), r)
		if err != nil {
			return 0, false
		}
		return ready(plan, b.Setting), true
	}
}

// NewLubeAnswer writes choices as the contract has them.
func NewLubeAnswer(choices []lube.Choice, links chain.Links, ring int, topUp bool) *LubeAnswer {
	a := &LubeAnswer{}
	for _, c := range choices {
		least, better := c.Family.FirstRide()
		on := c.Family.On(links, ring, topUp)
		amount := LubeAmount{Drops: on.Drops, Coats: on.Coats, ML: float64(on.Fluid), Grams: on.Grams}
		if on.RunningTurns > 0 {
			turns, ml := on.RunningTurns, float64(on.Running)
			amount.RunningTurns, amount.RunningML = &turns, &ml
		}
		a.Choices = append(a.Choices, LubeChoice{Family: c.Family.String(), Refused: c.Refused, For: texts(c.For), Against: texts(c.Against),
			EveryHardKM: float64(c.Every), FirstRideMin: int(least), BetterRideMin: int(better), ReadyMin: int(c.ReadyMin), Amount: amount, CostPer1000KM: float64(c.Cost.Total),
			CostLubricant: float64(c.Cost.Lubricant), CostLabour: float64(c.Cost.Labour), CostWear: float64(c.Cost.Wear)})
	}
	return a
}

// readMix reads the shares of riding; without any it is not known.
func readMix(in *object) (m forecast.Mix) {
	shares, given := in.object("mix")
	if !given {
		return m
	}
	for c := range m {
		m[c], _ = shares.number(forecast.Condition(c).String(), 0, 1)
	}
	shares.done()
	if err := m.Check(); err != nil {
		in.faults.add(in.at("mix"), "not-whole", "%v", err)
	}
	return m
}
