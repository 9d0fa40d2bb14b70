package clean_test

import (
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/chain"
	"earnestpony/core/clean"
)

func TestCatalogue(t *testing.T) {
	require.NoError(t, clean.Validate())
	assert.GreaterOrEqual(t, len(clean.Catalogue()), 60)
	assert.LessOrEqual(t, len(clean.Catalogue()), 100)
}

// dirty draws a bike that came in, and what is to be done with it.
func dirty(t *rapid.T) (clean.Bike, clean.Route, clean.Rules) {
	pick := func(name string, most int) int { return rapid.IntRange(0, most).Draw(t, name) }
	yes := func(name string) bool { return rapid.Bool().Draw(t, name) }
	b := clean.Bike{
		Frame: clean.Grade(pick("frame", 4)), Drivetrain: clean.Grade(pick("drivetrain", 4)),
		Train:  chain.Drivetrain{Kind: chain.DrivetrainKind(1 + pick("kind", 2)), Sprockets: 1, Motor: chain.Motor(pick("motor", 3)), Carry: yes("carry")},
		Brakes: clean.Brakes(pick("brakes", 2)), Heavy: yes("heavy"), On: clean.Coat(pick("on", 5)), Next: clean.Coat(pick("next", 2)),
		Rust: clean.Rust(pick("rust", 3)), ChainGoes: yes("chain goes"), CanOpen: yes("can open"), DeepCleanDue: yes("deep clean due"),
		Turns: clean.Turning(pick("turns", 2)), Clutch: yes("clutch"), Guide: yes("guide"), Read: yes("read"),
		OilOn: yes("oil got at it"), NothingBehindCrank: yes("nothing behind the crank"), SealsSound: yes("seals sound"), DrivetrainOnly: yes("drivetrain only"), Unsettled: yes("unsettled"),
		Hours: rapid.SampledFrom([]float64{0, 0.5, 2, 8}).Draw(t, "hours"), Express: yes("express"),
	}
	r := clean.HouseRules()
	r.First, r.Pressure = clean.First(pick("first", 1)), clean.Pressure(pick("pressure", 1))
	r.Product, r.Crank, r.Cleaner = clean.Product(pick("product", 1)), clean.Crank(pick("crank", 1)), clean.Cleaner(pick("cleaner", 2))
	r.Oiling, r.OilBy, r.Strip, r.PartsWasher = clean.Oiling(pick("oiling", 2)), clean.OilBy(pick("oil by", 2)), clean.Stripping(pick("strip", 1)), yes("parts washer")
	r.WheelIn, r.Card.NoRinse = yes("wheel in"), yes("no rinse")
	r.StripNewGrease, r.FreehubDry, r.Blower = yes("strip new grease"), yes("freehub dry"), yes("blower")
	return b, clean.Route(pick("route", len(clean.Routes())-1)), r
}

// What must hold of every plan there can be, recommended or picked: it can be done in its order, its
// waits are in bounds, its cautions are said, and nobody is hurt by what it leaves out.
func TestEveryPlan(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b, route, rules := dirty(t)
		choice := clean.Choose(b, rules)
		recommended, err := clean.New(b, choice.Order(), rules)
		require.NoError(t, err, "what is recommended is planned")
		assert.Subset(t, recommended.Cautions(), choice.Cautions, "no plan without its cautions")
		picked, err := clean.New(b, choice.With(b, route), rules)
		plans := []clean.Plan{recommended}
		if err == nil {
			plans = append(plans, picked)
		} else {
			assert.True(t, choice.Options[route].Refused, "%s refused by surprise: %v", route, err)
		}
		for _, p := range plans {
			checkPlan(t, b, p)
		}
	})
}

// Every grade, brake, motor, lubricant and school there is, on every route, one by one: what rapid draws
// at random above, with nothing left out of what the handbook tells apart. A school is met as the house
// has it and with each other answer it can have. Any two answers meet; all that can meet do so in the full run.
func TestEveryCombination(t *testing.T) {
	schools := map[string]func(*clean.Schools){
		"the house's": func(*clean.Schools) {}, "no pressure": func(s *clean.Schools) { s.Pressure = clean.NeverPressure },
		"frame first": func(s *clean.Schools) { s.First = clean.FrameFirst }, "dish soap": func(s *clean.Schools) { s.Product = clean.DishSoap },
		"forward": func(s *clean.Schools) { s.Crank = clean.Forward }, "sprayed": func(s *clean.Schools) { s.Cleaner = clean.Sprayed },
		"on the brush": func(s *clean.Schools) { s.Cleaner = clean.OnBrush }, "oiled off the bike": func(s *clean.Schools) { s.Oiling = clean.OffTheBike },
		"heated bath": func(s *clean.Schools) { s.Oiling = clean.HeatedBath }, "stream": func(s *clean.Schools) { s.OilBy = clean.Stream },
		"aerosol": func(s *clean.Schools) { s.OilBy = clean.SprayedOn }, "on the bike": func(s *clean.Schools) { s.Strip = clean.OnBike },
		"parts washer": func(s *clean.Schools) { s.PartsWasher = true }, "the wheel stays in": func(s *clean.Schools) { s.WheelIn = true },
	}
	for name, school := range schools {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			rules := clean.HouseRules()
			school(&rules.Schools)
			plans, deepest := 0, clean.Wipe
			b := clean.Bike{Train: geared, CanOpen: true, Links: 114}
			for grade := range clean.MaxGrade + 1 {
				b.Drivetrain, b.Frame = grade, clean.MaxGrade-grade
				for _, b.Brakes = range []clean.Brakes{clean.Rim, clean.Disc, clean.InHub} {
					for _, b.Train.Motor = range []chain.Motor{chain.NoMotor, chain.HubMotor, chain.MidMotor, chain.MotorUnknown} {
						for _, b.On = range []clean.Coat{clean.Oil, clean.DripWax, clean.ImmersionWax, clean.FactoryGrease, clean.Film, clean.Unknown} {
							for _, b.Next = range []clean.Coat{clean.Oil, clean.DripWax, clean.ImmersionWax} {
								choice := clean.Choose(b, rules)
								if b.On == clean.Oil && b.Next == clean.Oil {
									deepest = max(deepest, choice.Route)
								}
								for _, route := range clean.Routes() {
									if !met(11, int(grade), int(b.Brakes), int(b.Train.Motor), int(b.On), int(b.Next), int(route)) {
										continue
									}
									p, err := clean.New(b, choice.With(b, route), rules)
									if choice.Options[route].Refused {
										continue
									}
									require.NoError(t, err, "with a way to open the chain every route can be planned: %s %+v", route, b)
									checkPlan(t, b, p)
									plans++
								}
							}
						}
					}
				}
			}
			assert.GreaterOrEqual(t, plans, 99*5*3*4*6*3*8/share(11)/100-5, "all that can be planned")
			if rules.Strip == clean.OnBike {
				assert.LessOrEqual(t, deepest, clean.Bath, "and an oiled chain stays on")
			} else {
				assert.GreaterOrEqual(t, deepest, clean.Strip)
			}
		})
	}
}

// Each school changes its own steps, and only where it can be followed.
func TestSchoolsChangeThePlan(t *testing.T) {
	hub := clean.Bike{Train: geared, Brakes: clean.InHub, Drivetrain: 2, Frame: 2, CanOpen: true, Links: 100}
	disc := hub
	disc.Brakes = clean.Disc
	caked := disc
	caked.Drivetrain = clean.MaxGrade
	gritty := hub
	gritty.Drivetrain = 3
	words := map[string]struct {
		bike   clean.Bike
		school func(*clean.Schools)
		route  clean.Route
		step   string
		says   string
	}{
		"dish soap":                    {hub, func(s *clean.Schools) { s.Product = clean.DishSoap }, clean.Quick, "cleaner-on", "Dish soap"},
		"forward":                      {hub, func(s *clean.Schools) { s.Crank = clean.Forward }, clean.Bath, "bath-degrease", "rear wheel off the ground"},
		"sprayed, no rotor near":       {hub, func(*clean.Schools) {}, clean.Quick, "chain-brush", "sprayed along"},
		"never sprayed near a rotor":   {disc, func(s *clean.Schools) { s.Cleaner = clean.Sprayed }, clean.Quick, "chain-brush", "on the brush, never sprayed"},
		"on brush everywhere":          {hub, func(s *clean.Schools) { s.Cleaner = clean.OnBrush }, clean.Quick, "chain-brush", "on the brush, never sprayed"},
		"cleaner sprayed, rotors by":   {disc, func(s *clean.Schools) { s.Cleaner = clean.Sprayed }, clean.Quick, "cleaner-on", "away from the covered rotors"},
		"a stream of oil":              {hub, func(s *clean.Schools) { s.OilBy = clean.Stream }, clean.Quick, "oil", "thin stream"},
		"aerosol":                      {disc, func(s *clean.Schools) { s.OilBy = clean.SprayedOn }, clean.Quick, "oil", "Not near rotors"},
		"oiled off the bike":           {gritty, func(s *clean.Schools) { s.Oiling = clean.OffTheBike }, clean.Soak, "oil", "Before it goes on"},
		"a chain that stays is fitted": {hub, func(s *clean.Schools) { s.Oiling = clean.OffTheBike }, clean.Quick, "oil", "from the joining link round"},
		"heated bath":                  {gritty, func(s *clean.Schools) { s.Oiling = clean.HeatedBath }, clean.Soak, "oil", "30 °C"},
		"no dummy hub":                 {disc, func(s *clean.Schools) { s.WheelIn = true }, clean.Bath, "bath-on", "The wheel stays in"},
		"parts washer":                 {caked, func(s *clean.Schools) { s.PartsWasher = true }, clean.Strip, "sprockets-scrub", "parts washer"},
	}
	for name, c := range words {
		t.Run(name, func(t *testing.T) {
			rules := clean.HouseRules()
			c.school(&rules.Schools)
			p, err := clean.New(c.bike, clean.Choose(c.bike, rules).With(c.bike, c.route), rules)
			require.NoError(t, err)
			checkPlan(t, c.bike, p)
			i := slices.IndexFunc(p.Steps, func(s clean.Planned) bool { return s.Code == c.step })
			require.GreaterOrEqual(t, i, 0)
			assert.Contains(t, p.Steps[i].Do, c.says)
			on := slices.IndexFunc(p.Steps, func(s clean.Planned) bool { return s.Code == "chain-on" })
			switch c.says {
			case "thin stream":
				assert.InDelta(t, 100*0.04*1.6, p.Steps[i].Amounts[0].Amount, 1e-9)
			case "Before it goes on", "30 °C":
				assert.Greater(t, on, i, "oiled before it is fitted")
				assert.Contains(t, p.Steps[on].Waits, "oil")
			}
		})
	}
	rules := clean.HouseRules()
	rules.Strip = clean.OnBike
	stays := clean.Choose(caked, rules)
	assert.Equal(t, clean.Bath, stays.Route, "a house that cleans on the bike")
	assert.Contains(t, stays.Why, clean.OnBikeOnly)
	caked.Least = clean.Soak
	assert.Equal(t, clean.Strip, clean.Choose(caked, rules).Route, "what the owner reports goes deeper")
	caked.Least, caked.Next = 0, clean.ImmersionWax
	assert.Equal(t, clean.Bare, clean.Choose(caked, rules).Route, "and wax needs bare metal")
}

// checkPlan runs for nearly a hundred thousand plans: plain comparisons, no assertion until one fails.
func checkPlan(t require.TestingT, b clean.Bike, p clean.Plan) {
	must := func(holds bool, what string, of ...any) {
		if !holds {
			require.Failf(t, "not a plan to work by", what+" (%+v)", append(of, b)...)
		}
	}
	lead := map[string]steps{} // of each step, which ones lead to it
	at := map[string]int{}
	for i, s := range p.Steps { // in sequence: what comes before is known already
		var led steps
		for _, before := range s.Before {
			earlier, there := at[before]
			if !there {
				must(false, "%s before %s", before, s.Code)
			}
			led = led.with(earlier).and(lead[before])
		}
		at[s.Code], lead[s.Code] = i, led
		if w := s.Wait; w != nil {
			must(w.Least > 0 || w.Most > 0, "%s waits for nothing", s.Code)
			must(w.Most == 0 || w.Least <= w.Most, "%s waits %d to %d", s.Code, w.Least, w.Most)
		}
		must(s.Minutes >= 0, "%s takes less than no time", s.Code)
	}
	has := func(code string) bool { _, there := at[code]; return there }
	before := func(first, then string) bool {
		return !has(then) || has(first) && lead[then].has(at[first])
	}
	open := b.Brakes != clean.InHub
	for _, s := range p.Steps {
		for _, a := range s.Amounts {
			if a.Material == clean.Degreaser && s.Station == clean.AtStand && s.Phase == clean.Degrease && open {
				must(before("cover-brakes", s.Code), "degreaser near an unprotected brake: %s", s.Code)
			}
			must(a.Amount > 0, "%s uses none of what it uses", s.Code)
		}
		must(b.Train.Motor != chain.NoMotor || !slices.Contains(s.Cautions, clean.Electric), "%s warns of a motor that is not there", s.Code)
		must(s.Code != "dry-check" || s.Wait.Most == 60, "bare steel without its clock")
	}
	goes := b.ChainGoes || b.Rust == clean.Pitted
	wet := has("cleaner-on") || has("bath-soap") || has("chain-brush-off") || has("chain-rinse") || has("hot-water")
	for _, lube := range []string{"oil", "drip-one", "wax-in"} {
		if has(lube) && wet && !(goes && !has("chain-rinse")) && !(has("open-chain") && has("chain-wipe")) {
			must(before("dry-check", lube), "not dried before %s", lube)
		}
	}
	if b.Train.Motor != chain.NoMotor {
		must(before("motor-off", "clamp"), "lifted with the motor on")
		must(before("contacts-dry", "motor-on") && has("motor-on"), "power on with wet contacts")
	}
	must(has("brakes-test") && has("axles"), "not safe to ride")
	must(before("chain-on", "final-look") && before("link-ready", "open-chain") || !has("open-chain"), "chain off without a way back on")
	must(goes == has("new-chain"), "a chain that goes without one that comes, or the other way round")
	must(!goes || !has("jar") && !has("tray-scrub") && !has("bare-one") && !has("bath-on") && !has("chain-brush"), "work on a chain that goes")
	must(!has("acid-bath") || clean.AcidAllowed(b.Train) && before("neutralise", "chain-rinse") && has("chain-rinse"), "acid where none may be, or not rinsed off")
	if has("wax-in") {
		must(goes || before("bare-look", "wax-in") && has("bare-look") || b.On == clean.ImmersionWax && has("hot-water"), "waxed on what is not bare")
		must(before("wax-melt", "wax-in"), "waxed in cold wax")
	}
	if p.Order.Next != clean.Oil {
		must(!has("oil"), "oil before wax")
		must(!has("drip-one") || goes || b.On == clean.DripWax || b.On == clean.ImmersionWax || has("chain-rag") || has("bare-look"), "drip wax over oil")
		for _, s := range p.Steps {
			oily := slices.ContainsFunc(s.Amounts, func(a clean.Amount) bool {
				return a.Material == clean.Displacer || a.Material == clean.ChainOil && s.Code != "pivots"
			})
			must(!oily, "something oily on a chain that will be waxed: %s", s.Code)
		}
	}
	if has("bare-two") && has("film-scrape") {
		must(before("solvent-air", "solvent-soap") && before("solvent-soap", "bare-two") && has("solvent-air"), "solvent into a tank")
	}
	must(has("hot-water") == (slices.ContainsFunc(p.Cautions(), func(c clean.Caution) bool { return c == clean.Scald })), "hot water without its caution")
	if b.Train.Kind != chain.Derailleur {
		must(has("tension"), "no tension set where nothing takes up slack")
		for _, s := range p.Steps {
			for _, word := range []string{"derailleur", "cassette", "jockey", "freehub"} {
				said := strings.ToLower(s.Title + " " + s.Do + " " + s.Done + " " + s.Fail)
				must(!strings.Contains(said, word) || strings.Contains(said, "no "+word), "%q at %s of a bike without one: %s", word, s.Code, said)
			}
		}
	}
	must(p.Hands() <= p.Ready(), "ready before the hands are done")
	must(len(clean.Felts(p.Steps, "ride")) >= 4 || p.Order.Express, "a bad ride leads nowhere")
	must(!p.Order.Express || !goes && !has("cleaner-on") && !has("frame-wipe") && has("final-look"), "no express job")
	for _, f := range clean.Felts(p.Steps, "ride") {
		if !has("ride") {
			break
		}
		again := clean.SendBackFelt(p.Steps, f.Code)
		must(len(again) > 1 && again[len(again)-1] == "ride" && slices.Contains(f.Back, again[0]), "%s leads to %v", f.Code, again)
	}
}

// steps is a set of places in a plan, of which there are never more than 128.
type steps [2]uint64

func (s steps) has(i int) bool { return s[i/64]>>(i%64)&1 != 0 }

func (s steps) with(i int) steps {
	s[i/64] |= 1 << (i % 64)
	return s
}

func (s steps) and(others steps) steps { return steps{s[0] | others[0], s[1] | others[1]} }

// What is impossible or unsafe is not planned, and says why.
func TestRefusedPlans(t *testing.T) {
	oiled := clean.Bike{Drivetrain: 2, Frame: 2, Train: geared, On: clean.Oil, Next: clean.Oil, CanOpen: true, Brakes: clean.Disc}
	for _, c := range []struct {
		what   string
		change func(*clean.Bike, *clean.Order, *clean.Rules)
		why    clean.Why
	}{
		{"wax over oil", func(_ *clean.Bike, o *clean.Order, _ *clean.Rules) { o.Next = clean.DripWax }, clean.WaxRefused},
		{"immersion wax on a chain that was only wiped", func(b *clean.Bike, o *clean.Order, _ *clean.Rules) {
			b.On, o.Next = clean.ImmersionWax, clean.ImmersionWax
		}, clean.UnderWax},
		{"acid under a mid motor", func(b *clean.Bike, o *clean.Order, _ *clean.Rules) {
			b.Train.Motor, o.Chain, o.Acid = chain.MidMotor, clean.Soak, true
		}, clean.AcidRefused},
		{"chain off, no joining link", func(b *clean.Bike, o *clean.Order, _ *clean.Rules) { b.CanOpen, o.Chain = false, clean.Soak }, clean.CannotOpen},
		{"washer where the house has none", func(_ *clean.Bike, o *clean.Order, r *clean.Rules) {
			o.Wash, r.Pressure = clean.Washer, clean.NeverPressure
		}, clean.NeverWasher},
		{"a day in the jar, and the label does not allow it", func(_ *clean.Bike, o *clean.Order, _ *clean.Rules) { o.Chain, o.LongSoak = clean.Soak, true }, clean.LongSoakRefused},
		{"dry mud wiped off", func(b *clean.Bike, o *clean.Order, _ *clean.Rules) { b.Frame, o.Wash = 3, clean.DryWipe }, clean.WashTooLight},
	} {
		b, r := oiled, clean.HouseRules()
		o := clean.Choose(b, r).Order()
		c.change(&b, &o, &r)
		_, err := clean.New(b, o, r)
		var refused *clean.RefusedError
		if assert.ErrorAs(t, err, &refused, c.what) {
			assert.Equal(t, []clean.Why{c.why}, refused.Why, c.what)
		}
	}
}

func TestFirst(t *testing.T) {
	b := clean.Bike{Drivetrain: 3, Frame: 3, Train: geared, On: clean.Oil, Next: clean.Oil, CanOpen: true, Brakes: clean.Disc}
	at := func(first clean.First, code string) int {
		r := clean.HouseRules()
		r.First = first
		c := clean.Choose(b, r)
		p, err := clean.New(b, c.With(b, clean.Soak), r)
		require.NoError(t, err)
		return slices.IndexFunc(p.Steps, func(s clean.Planned) bool { return s.Code == code })
	}
	assert.Less(t, at(clean.DrivetrainFirst, "open-chain"), at(clean.DrivetrainFirst, "cleaner-on"))
	assert.Less(t, at(clean.FrameFirst, "rinse"), at(clean.FrameFirst, "open-chain"))
	assert.Less(t, at(clean.DrivetrainFirst, "pre-rinse"), at(clean.DrivetrainFirst, "open-chain"), "dried mud is rinsed off before anything is opened")
}

// What a label says comes before the house's word: how strong, how long, whether it is rinsed.
func TestLabel(t *testing.T) {
	b := clean.Bike{Drivetrain: 3, Frame: 2, Train: geared, On: clean.Oil, Next: clean.Oil, CanOpen: true, Brakes: clean.Disc}
	r := clean.HouseRules()
	r.Card = clean.Card{Dilution: 0.5, NoRinse: true, LongSoak: true, Cleaner: clean.Dwell{Least: 3, Most: 5}}
	o := clean.Choose(b, r).With(b, clean.Soak)
	o.LongSoak = true
	p, err := clean.New(b, o, r)
	require.NoError(t, err)
	steps := map[string]clean.Planned{}
	for _, s := range p.Steps {
		steps[s.Code] = s
	}
	assert.InDelta(t, 125, steps["jar"].Amounts[0].Amount, 1e-9, "mL of product in a jar of 250")
	assert.Equal(t, clean.Minutes(1440), steps["jar"].Wait.Most)
	assert.Equal(t, clean.Wait{Code: "cleaner-on", Least: 3, Most: 5}, *steps["cleaner-on"].Wait)
	assert.NotContains(t, steps, "chain-rinse")
	assert.Contains(t, steps, "chain-hang")
}

// A failed rag test sends the bath back to its filling, and nothing else; the wait of a step holds what follows it alone.
func TestProgress(t *testing.T) {
	b := clean.Bike{Drivetrain: 3, Frame: 1, Train: geared, On: clean.Oil, Next: clean.Oil, Brakes: clean.Disc, Links: 114}
	p, err := clean.New(b, clean.Choose(b, clean.HouseRules()).Order(), clean.HouseRules())
	require.NoError(t, err)
	assert.Equal(t, []string{"bath-on", "bath-degrease", "bath-soap", "rag-test"}, clean.SendBack(p.Steps, "rag-test"))
	assert.Empty(t, clean.SendBack(p.Steps, "floor"))

	step := func(code string) clean.Planned {
		return p.Steps[slices.IndexFunc(p.Steps, func(s clean.Planned) bool { return s.Code == code })]
	}
	noon := time.Date(2026, 3, 3, 12, 0, 0, 0, time.UTC)
	marks := map[string]clean.Mark{}
	for _, s := range p.Steps {
		if s.Code == "sprockets-brush" {
			break
		}
		marks[s.Code] = clean.Mark{Done: true}
	}
	delete(marks, "rings-brush")
	marks["sprockets-wet"] = clean.Mark{Done: true, Over: noon.Add(time.Minute), Late: noon.Add(10 * time.Minute)}
	standing := func(code string, at time.Time) clean.Standing {
		how, _ := clean.StandingOf(step(code), marks, at)
		return how
	}
	assert.Equal(t, clean.Held, standing("sprockets-brush", noon))
	assert.Equal(t, clean.Ready, standing("sprockets-brush", noon.Add(time.Minute)))
	assert.Equal(t, clean.Ready, standing("rings-brush", noon), "a wait holds only what follows it")
	assert.Equal(t, clean.Blocked, standing("rag-test", noon))
	assert.Equal(t, []string{"axles", "brakes-test"}, clean.OpenChecks(p.Steps, marks))

	oil := step("oil").Amounts
	assert.InDelta(t, 4.56, oil[0].Amount, 1e-9, "mL: 114 links, a drop each")
	bath := step("bath-on").Amounts[0]
	assert.InDeltaSlice(t, []float64{40, 20}, []float64{bath.Amount, bath.Water}, 1e-9, "mL: two parts to one, to the line")
}

// share is into how many parts what can be combined is divided, one of which is tried; all of it where PONY_TEST_FULL
// is set, as make test-full does.
func share(parts int) int {
	if os.Getenv("PONY_TEST_FULL") != "" {
		return 1
	}
	return parts
}

// met reports whether a combination is of the share that is tried: one whose answers, counted, add up to a multiple of
// the parts. Whatever two answers are fixed, the others can be chosen so that it is, as long as there are enough of
// them: any two answers meet.
func met(parts int, answers ...int) bool {
	sum := 0
	for _, a := range answers {
		sum += a
	}
	return sum%share(parts) == 0
}
