package calc

import (
	"earnestpony/core/clean"
	"earnestpony/core/fault"
	"earnestpony/core/lube"
	"earnestpony/core/wear"
)

// RouteAnswer is what [Route] answers.
type RouteAnswer struct {
	Route            string        `json:"route"`
	ChainRoute       string        `json:"chain_route"` // what the chain that is on it gets
	PartsRoute       string        `json:"parts_route"` // what stays on the bike gets
	OrderJoiningLink bool          `json:"order_joining_link"`
	LubricantNext    string        `json:"lubricant_next"` // after all: wax is put off where the chain cannot be bared
	Reasons          []RouteReason `json:"reasons"`
	Cautions         []string      `json:"cautions"`
	Routes           []RouteOption `json:"routes"`
	Wash             string        `json:"wash"`
	Washes           []WashOption  `json:"washes"`
	BestFit          *string       `json:"best_fit"`      // null where hours are not said, or nothing fits
	IfChainGoes      *string       `json:"if_chain_goes"` // where the reading is not settled: the route should it go
	ReadyMin         int           `json:"ready_min"`     // of the recommended
}

// RouteReason is one reason of a choice.
type RouteReason struct {
	Code string `json:"code"`
}

// RouteOption is one route beside the others. Against is empty when it would do.
type RouteOption struct {
	Route        string   `json:"route"`
	AttendedMin  int      `json:"attended_min"`
	WaitLeastMin int      `json:"wait_least_min"`
	WaitMostMin  int      `json:"wait_most_min"`
	ReadyMin     int      `json:"ready_min"` // until it can be ridden, everything included
	Misses       []string `json:"misses"`
	Against      []string `json:"against"`
	Refused      bool     `json:"refused"`
	Cautions     []string `json:"cautions"`
}

// WashOption is one wash beside the others.
type WashOption struct {
	Wash        string   `json:"wash"`
	AttendedMin int      `json:"attended_min"`
	Against     []string `json:"against"`
	Refused     bool     `json:"refused"`
	Cautions    []string `json:"cautions"`
}

// Route says how a bike is cleaned; see the contract for its input.
func Route(input []byte) (*RouteAnswer, error) {
	var f faults
	in, ok := root(input, &f)
	if !ok {
		return nil, f.refusal()
	}
	grade := func(name string) clean.Grade {
		return clean.Grade(in.wholeNeeded(name, 0, int(clean.MaxGrade)))
	}
	b := clean.Bike{Frame: grade("frame_grade"), Drivetrain: grade("drivetrain_grade"), Train: readDrivetrain(in)}
	b.Brakes = named(in, "brakes", true, clean.ParseBrakes)
	b.On = named(in, "lubricant_on", true, clean.ParseCoat)
	b.Next = named(in, "lubricant_next", true, clean.ParseLubricant)
	b.Rust = named(in, "rust", false, clean.ParseRust)
	verdict := named(in, "verdict", false, wear.ParseVerdict)
	b.ChainGoes, b.Unsettled = verdict >= wear.Replace, verdict == wear.Unsure
	b.OilOn, b.NothingBehindCrank = in.boolean("oil_on", false), in.has("behind_crank") && !in.boolean("behind_crank", false)
	if !in.has("behind_crank") {
		in.take("behind_crank")
	}
	b.SealsSound, b.DrivetrainOnly, b.Express = in.boolean("seals_sound", false), in.boolean("drivetrain_only", false), in.boolean("express", false)
	b.Hours, _ = in.number("hours", 0, 10_000)
	b.Read = true
	family := named(in, "lubricant", false, lube.ParseFamily)
	if b.Setting, _ = lube.AllWeather.FirstRide(); in.has("lubricant") {
		b.Setting, _ = family.FirstRide()
	}
	b.CanOpen, b.DeepCleanDue = in.boolean("can_open", false), in.boolean("deep_clean_due", false)
	b.Heavy = in.boolean("heavy", false)
	if codes, ok := decode[[]string](in, "complaints", "a list of texts"); ok {
		for _, code := range codes {
			if _, err := fault.Parse(code); err != nil {
				f.add("complaints", "unknown-value", "%v", err)
			}
		}
		b.Least = fault.Least(codes)
	}
	rules := clean.HouseRules()
	rules.Strip, rules.WheelIn = named(in, "strip_school", false, clean.ParseStripping), in.boolean("wheel_in", false)
	rules.Pressure = named(in, "pressure_school", false, clean.ParsePressure)
	in.done()
	if err := f.refusal(); err != nil {
		return nil, err
	}
	return NewRouteAnswer(clean.Choose(b, rules).Timed(b, rules)), nil
}

// NewRouteAnswer writes a choice as the contract has it.
func NewRouteAnswer(c clean.Choice) *RouteAnswer {
	a := &RouteAnswer{Route: c.Route.String(), ChainRoute: c.Chain.String(), PartsRoute: c.Parts.String(), OrderJoiningLink: c.OrderLink,
		LubricantNext: c.Next.String(), Cautions: texts(c.Cautions), Wash: c.Wash.String()}
	if c.BestFit != nil {
		fit := c.BestFit.String()
		a.BestFit = &fit
	}
	if c.IfChainGoes != nil {
		goes := c.IfChainGoes.String()
		a.IfChainGoes = &goes
	}
	a.ReadyMin = int(c.Options[c.Route].Ready)
	for _, why := range c.Why {
		a.Reasons = append(a.Reasons, RouteReason{string(why)})
	}
	for _, o := range c.Options {
		a.Routes = append(a.Routes, RouteOption{o.Route.String(), int(o.Time.Attended), int(o.Time.WaitLeast), int(o.Time.WaitMost), int(o.Ready),
			texts(o.Misses), texts(o.Against), o.Refused, texts(o.Cautions)})
	}
	for _, o := range c.Washes {
		a.Washes = append(a.Washes, WashOption{o.Wash.String(), int(o.Attended), texts(o.Against), o.Refused, texts(o.Cautions)})
	}
	return a
}

// texts writes codes as a list that is never null.
func texts[T ~string](codes []T) []string {
	list := make([]string, len(codes))
	for i, c := range codes {
		list[i] = string(c)
	}
	return list
}
