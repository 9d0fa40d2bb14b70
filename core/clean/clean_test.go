package clean_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"earnestpony/core/chain"
	"earnestpony/core/clean"
)

var geared = chain.Drivetrain{Kind: chain.Derailleur, Sprockets: 11, Motor: chain.NoMotor}

// What the handbook's rule of choice says, one rule at a time.
func TestChoice(t *testing.T) {
	oiled := clean.Bike{Drivetrain: 2, Train: geared, On: clean.Oil, Next: clean.Oil, CanOpen: true, Brakes: clean.Disc}
	for _, c := range []struct {
		what                string
		change              func(*clean.Bike)
		route, chain, parts clean.Route
		why                 []clean.Why
	}{
		{"clean", func(b *clean.Bike) { b.Drivetrain = 0 }, clean.Wipe, clean.Wipe, clean.Wipe, nil},
		{"grey", func(b *clean.Bike) { b.Drivetrain = 1 }, clean.Wipe, clean.Wipe, clean.Wipe, nil},
		{"black", func(*clean.Bike) {}, clean.Quick, clean.Quick, clean.Quick, nil},
		{"gritty", func(b *clean.Bike) { b.Drivetrain = 3 }, clean.Soak, clean.Soak, clean.Soak, nil},
		{"gritty, and no way to open it", func(b *clean.Bike) { b.Drivetrain, b.CanOpen = 3, false }, clean.Bath, clean.Bath, clean.Bath, nil},
		{"caked", func(b *clean.Bike) { b.Drivetrain = 4 }, clean.Strip, clean.Strip, clean.Strip, nil},
		{"caked, nothing behind the crank", func(b *clean.Bike) { b.Drivetrain, b.NothingBehindCrank = 4, true }, clean.PartsOff, clean.PartsOff, clean.PartsOff, nil},
		{"caked, one sprocket", func(b *clean.Bike) { b.Drivetrain, b.NothingBehindCrank, b.Train.Kind = 4, true, chain.HubGear }, clean.Strip, clean.Strip, clean.Strip, nil},
		{"deep clean due", func(b *clean.Bike) { b.DeepCleanDue = true }, clean.Soak, clean.Soak, clean.Soak, []clean.Why{clean.DeepDue}},
		{"another family: by one", func(b *clean.Bike) { b.On = clean.DripWax }, clean.Bath, clean.Bath, clean.Bath, []clean.Why{clean.FamilyChanges}},
		{"another family, gritty", func(b *clean.Bike) { b.On, b.Drivetrain = clean.DripWax, 3 }, clean.PartsOff, clean.PartsOff, clean.PartsOff, []clean.Why{clean.FamilyChanges}},
		{"another family, gritty, one sprocket", func(b *clean.Bike) { b.On, b.Drivetrain, b.Train.Kind = clean.DripWax, 3, chain.SingleSpeed }, clean.Strip, clean.Strip, clean.Strip, []clean.Why{clean.FamilyChanges}},
		{"no route beyond the last", func(b *clean.Bike) { b.Drivetrain, b.DeepCleanDue = 4, true }, clean.Strip, clean.Strip, clean.Strip, []clean.Why{clean.DeepDue}},
		{"nobody knows what is on it", func(b *clean.Bike) { b.On = clean.Unknown }, clean.Bath, clean.Bath, clean.Bath, []clean.Why{clean.FamilyChanges, clean.NoFamilyKnown}},
		{"factory grease stays under oil", func(b *clean.Bike) { b.On = clean.FactoryGrease }, clean.Quick, clean.Quick, clean.Quick, nil},
		{"oil to immersion wax", func(b *clean.Bike) { b.Next = clean.ImmersionWax }, clean.Bare, clean.Bare, clean.Bath, []clean.Why{clean.FamilyChanges, clean.UnderWax}},
		{"oil to drip wax", func(b *clean.Bike) { b.Next = clean.DripWax }, clean.Soak, clean.Soak, clean.Soak, []clean.Why{clean.FamilyChanges, clean.OilUnderDrip}},
		{"grease to drip wax", func(b *clean.Bike) { b.On, b.Next = clean.FactoryGrease, clean.DripWax }, clean.Soak, clean.Soak, clean.Soak, []clean.Why{clean.FamilyChanges, clean.OilUnderDrip}},
		{"drip wax tops immersion wax up", func(b *clean.Bike) { b.Drivetrain, b.On, b.Next = 1, clean.ImmersionWax, clean.DripWax }, clean.Wipe, clean.Wipe, clean.Wipe, []clean.Why{clean.TopUp}},
		{"topped up, the rest black", func(b *clean.Bike) { b.On, b.Next = clean.ImmersionWax, clean.DripWax }, clean.Quick, clean.Wipe, clean.Quick, []clean.Why{clean.TopUp}},
		{"waxed again", func(b *clean.Bike) { b.On, b.Next = clean.ImmersionWax, clean.ImmersionWax }, clean.Rewax, clean.Rewax, clean.Quick, []clean.Why{clean.WaxedAgain}},
		{"waxed again, orange", func(b *clean.Bike) { b.On, b.Next, b.Rust = clean.ImmersionWax, clean.ImmersionWax, clean.Light }, clean.Rewax, clean.Rewax, clean.Quick, []clean.Why{clean.WaxedAgain, clean.WipeRustWax}},
		{"waxed, and oil got at it", func(b *clean.Bike) { b.On, b.Next, b.OilOn = clean.ImmersionWax, clean.ImmersionWax, true }, clean.Bare, clean.Bare, clean.Quick, []clean.Why{clean.UnderWax}},
		{"waxed and gritty", func(b *clean.Bike) { b.On, b.Next, b.Drivetrain = clean.ImmersionWax, clean.ImmersionWax, 3 }, clean.Bare, clean.Bare, clean.Soak, []clean.Why{clean.UnderWax}},
		{"immersion wax to oil", func(b *clean.Bike) { b.On, b.Drivetrain = clean.ImmersionWax, 1 }, clean.Soak, clean.Soak, clean.Soak, []clean.Why{clean.FamilyChanges, clean.WaxOff}},
		{"immersion wax to oil, and no way to open it", func(b *clean.Bike) { b.On, b.Drivetrain, b.CanOpen = clean.ImmersionWax, 1, false }, clean.Wipe, clean.Wipe, clean.Wipe,
			[]clean.Why{clean.ChangePutOff, clean.CannotOpen, clean.TopUp}},
		{"a film that peels", func(b *clean.Bike) { b.On = clean.Film }, clean.Bare, clean.Bare, clean.Soak, []clean.Why{clean.FamilyChanges, clean.FilmOn}},
		{"the chain comes off", func(b *clean.Bike) { b.Drivetrain, b.ChainGoes, b.CanOpen = 3, true, false }, clean.Soak, clean.Wipe, clean.Soak, []clean.Why{clean.ChainComesOff}},
		{"a new chain for wax", func(b *clean.Bike) { b.ChainGoes, b.Next = true, clean.ImmersionWax }, clean.Bare, clean.Wipe, clean.Quick, []clean.Why{clean.UnderWax, clean.ChainComesOff}},
		{"caked, and no way to open it", func(b *clean.Bike) { b.Drivetrain, b.CanOpen = 4, false }, clean.Bath, clean.Bath, clean.Bath, []clean.Why{clean.CannotOpen}},
		{"wax, and no way to open it", func(b *clean.Bike) { b.Next, b.CanOpen = clean.ImmersionWax, false }, clean.Quick, clean.Quick, clean.Quick,
			[]clean.Why{clean.UnderWax, clean.CannotOpen, clean.WaxRefused}},
		{"waxed, and no way to open it", func(b *clean.Bike) { b.On, b.Next, b.CanOpen = clean.ImmersionWax, clean.ImmersionWax, false }, clean.Quick, clean.Wipe, clean.Quick,
			[]clean.Why{clean.UnderWax, clean.CannotOpen, clean.TopUp}},
		{"orange", func(b *clean.Bike) { b.Rust = clean.Light }, clean.Quick, clean.Quick, clean.Quick, []clean.Why{clean.WipeRust}},
		{"tarnished", func(b *clean.Bike) { b.Rust = clean.Tarnished }, clean.Quick, clean.Quick, clean.Quick, []clean.Why{clean.AcidBath}},
		{"tarnished, and no way to open it", func(b *clean.Bike) { b.Rust, b.CanOpen = clean.Tarnished, false }, clean.Quick, clean.Quick, clean.Quick, []clean.Why{clean.AcidNeedsLink}},
		{"tarnished, carrying", func(b *clean.Bike) { b.Rust, b.Train.Carry = clean.Tarnished, true }, clean.Quick, clean.Quick, clean.Quick, []clean.Why{clean.AcidRefused}},
		{"pitted goes", func(b *clean.Bike) { b.Rust = clean.Pitted }, clean.Quick, clean.Wipe, clean.Quick, []clean.Why{clean.ChainComesOff, clean.NothingToSave}},
		{"mud on the frame", func(b *clean.Bike) { b.Frame = 3 }, clean.Quick, clean.Quick, clean.Quick, []clean.Why{clean.AfterPreRinse}},
		{"gritty at the counter, express", func(b *clean.Bike) { b.Drivetrain, b.Express = 3, true }, clean.Tray, clean.Tray, clean.Tray, []clean.Why{clean.TimeShort}},
		{"gritty, wanted in two hours", func(b *clean.Bike) { b.Drivetrain, b.Hours = 3, 2 }, clean.Tray, clean.Tray, clean.Tray, []clean.Why{clean.TimeShort}},
		{"gritty, wanted in a quarter of an hour", func(b *clean.Bike) { b.Drivetrain, b.Hours = 3, 0.25 }, clean.Soak, clean.Soak, clean.Soak, nil},
		{"gritty, wanted tomorrow", func(b *clean.Bike) { b.Drivetrain, b.Hours = 3, 9 }, clean.Soak, clean.Soak, clean.Soak, nil},
		{"a reading that settles nothing", func(b *clean.Bike) { b.Drivetrain, b.Unsettled = 3, true }, clean.Soak, clean.Soak, clean.Soak, []clean.Why{clean.SettleFirst}},
		{"nothing settled, nothing much to do", func(b *clean.Bike) { b.Unsettled = true }, clean.Quick, clean.Quick, clean.Quick, nil},
	} {
		b := oiled
		c.change(&b)
		got := clean.Choose(b, clean.HouseRules())
		assert.Equal(t, [3]clean.Route{c.route, c.chain, c.parts}, [3]clean.Route{got.Route, got.Chain, got.Parts}, c.what)
		assert.Equal(t, append([]clean.Why{clean.GradeCovered}, c.why...), got.Why, c.what)
		assert.Equal(t, b.Unsettled, got.IfChainGoes != nil, c.what)
	}
}

// How long a route takes is the sum of its own steps, near the handbook's figures; what is ready in time is said.
func TestTimes(t *testing.T) {
	b := clean.Bike{Drivetrain: 3, Train: geared, On: clean.Oil, Next: clean.Oil, CanOpen: true, Brakes: clean.Disc, Setting: 30}
	c := clean.Choose(b, clean.HouseRules()).Timed(b, clean.HouseRules())
	for route, near := range map[clean.Route]clean.Minutes{clean.Wipe: 5, clean.Quick: 15, clean.Tray: 30, clean.Bath: 30, clean.Soak: 60, clean.PartsOff: 75, clean.Strip: 150} {
		took := c.Options[route].Time
		assert.InDelta(t, float64(near), float64(took.Attended), max(10, 0.45*float64(near)), route.String())
		assert.LessOrEqual(t, took.WaitLeast, took.WaitMost, route.String())
		assert.Greater(t, c.Options[route].Ready, took.Attended+took.WaitLeast, route.String())
	}
	waxed := b
	waxed.Drivetrain, waxed.On, waxed.Next = 1, clean.ImmersionWax, clean.ImmersionWax
	took := clean.Choose(waxed, clean.HouseRules()).Timed(waxed, clean.HouseRules()).Options[clean.Rewax].Time
	assert.InDelta(t, 25, float64(took.Attended), 12)
	assert.InDelta(t, 90, float64(took.WaitLeast), 30)

	for hours, fit := range map[float64]clean.Route{1.2: clean.Wipe, 2.5: clean.PartsOff, 9: clean.Strip} {
		b.Hours = hours
		c := clean.Choose(b, clean.HouseRules())
		if assert.NotNil(t, c.BestFit, "%g hours", hours) {
			assert.Equal(t, fit, *c.BestFit, "%g hours", hours)
		}
		for _, o := range c.Options {
			assert.Equal(t, !o.Refused && float64(o.Ready) > hours*60, slices.Contains(o.Against, clean.NotInTime), "%s in %g hours", o.Route, hours)
		}
	}
	b.Hours = 0.2
	assert.Nil(t, clean.Choose(b, clean.HouseRules()).BestFit)
}

// What must hold of every bike there can be: no plan without its cautions, none that cannot be done, none
// that puts wax over oil or acid where it may not go, and a dirtier bike never gets less.
func TestEveryBike(t *testing.T) {
	bikes, wrong := 0, 0
	yes := []bool{false, true}
	for n, b := range trains() {
		for _, b.On = range []clean.Coat{clean.Oil, clean.DripWax, clean.ImmersionWax, clean.FactoryGrease, clean.Film, clean.Unknown} {
			for _, b.Next = range []clean.Coat{clean.Oil, clean.DripWax, clean.ImmersionWax} {
				for _, b.Rust = range []clean.Rust{clean.NoRust, clean.Light, clean.Tarnished, clean.Pitted} {
					for _, b.ChainGoes = range yes {
						for _, b.CanOpen = range yes {
							for due, deep := range yes {
								b.DeepCleanDue = deep
								if !met(7, n, int(b.On), int(b.Next), int(b.Rust), count(b.ChainGoes), count(b.CanOpen), due) {
									continue
								}
								before := clean.Wipe
								for grade := range clean.MaxGrade + 1 {
									b.Drivetrain, b.Frame = grade, clean.MaxGrade-grade
									c := clean.Choose(b, clean.HouseRules())
									bikes++
									if said := faultOf(b, c, before); said != "" {
										wrong++
										if wrong < 5 {
											t.Errorf("%s: %+v gives %+v", said, b, c)
										}
									}
									before = c.Parts
								}
							}
						}
					}
				}
			}
		}
	}
	assert.Zero(t, wrong, "of %d bikes", bikes)
	assert.Greater(t, bikes, 100_000/share(7))
}

func count(yes bool) int {
	if yes {
		return 1
	}
	return 0
}

func trains() []clean.Bike {
	var all []clean.Bike
	for _, kind := range []chain.DrivetrainKind{chain.Derailleur, chain.SingleSpeed, chain.HubGear} {
		for _, motor := range []chain.Motor{chain.NoMotor, chain.HubMotor, chain.MidMotor, chain.MotorUnknown} {
			for _, carry := range []bool{false, true} {
				for _, brakes := range []clean.Brakes{clean.Rim, clean.Disc, clean.InHub} {
					all = append(all, clean.Bike{Train: chain.Drivetrain{Kind: kind, Sprockets: 1, Motor: motor, Carry: carry}, Brakes: brakes, Heavy: carry})
				}
			}
		}
	}
	return all
}

// faultOf says what is wrong with a choice; nothing is the rule.
func faultOf(b clean.Bike, c clean.Choice, before clean.Route) string {
	warned := func(caution clean.Caution) bool { return slices.Contains(c.Cautions, caution) }
	because := func(why clean.Why) bool { return slices.Contains(c.Why, why) }
	waxed, gone := c.Next != clean.Oil, b.ChainGoes || b.Rust == clean.Pitted
	overWax := b.On == clean.DripWax || b.On == clean.ImmersionWax
	opened := c.Route.OpensChain() || c.Chain.OpensChain() || c.Parts.OpensChain()
	at := c.Options[c.Route]
	switch {
	case c.Next == clean.ImmersionWax && c.Route != clean.Bare && !(b.On == clean.ImmersionWax && c.Route == clean.Rewax):
		return "immersion wax on a chain that is not bare"
	case waxed && !overWax && !gone && !(c.Chain == clean.Bare || c.Chain.OpensChain() && c.Chain != clean.Tray):
		return "drip wax on a chain that was not soaked"
	case b.Drivetrain == 3 && c.Parts == clean.Bath && (b.CanOpen || gone):
		return "a bath for grit inside the joints, where the chain can be opened"
	case gone && c.Chain != clean.Wipe:
		return "work on a chain that goes"
	case b.Train.Kind != chain.Derailleur && c.Parts == clean.PartsOff:
		return "a cassette off where there is none"
	case at.Refused || c.Options[c.Parts].Refused || c.Washes[c.Wash].Refused:
		return "what is recommended cannot be done"
	case c.Next != b.Next && !c.OrderLink:
		return "wax put off without a word"
	case opened && !b.CanOpen && !gone:
		return "a chain taken off that cannot be joined again"
	case c.OrderLink != (because(clean.CannotOpen) || because(clean.AcidNeedsLink)):
		return "no link ordered where one is missing"
	case slices.Contains(c.Options[c.Parts].Against, clean.TooLight) && !c.OrderLink:
		return "a route too light for the grade"
	case c.Parts < before:
		return "less for a dirtier bike"
	case because(clean.AcidBath) && (b.Train.Carry || b.Train.Motor == chain.MidMotor || b.Train.Motor == chain.MotorUnknown):
		return "acid on a chain that must not break"
	case because(clean.AcidBath) != warned(clean.Acid):
		return "acid and its caution apart"
	case b.Train.Motor != chain.NoMotor && !warned(clean.Electric):
		return "a motor without its caution"
	case b.Brakes != clean.InHub && !warned(clean.Braking):
		return "brakes without their caution"
	case b.Train.Carry && !warned(clean.Carry) || b.Heavy && !warned(clean.Lifting):
		return "a load without its caution"
	case !warned(clean.Gloves) || !warned(clean.Fingers):
		return "hands without their cautions"
	case (opened || gone) && !warned(clean.Joint):
		return "a joint without its caution"
	case c.Parts >= clean.Bath && !warned(clean.Waste):
		return "a bath emptied without its caution"
	case c.Next == clean.ImmersionWax && !warned(clean.HotWax):
		return "hot wax without its caution"
	case slices.Contains(c.Washes[c.Wash].Against, clean.WashTooLight):
		return "dried mud wiped off dry"
	}
	return ""
}

// A shop that keeps pressure away from bikes is not offered the washer, and a motor speaks against it.
func TestWashes(t *testing.T) {
	rules := clean.HouseRules()
	bike := clean.Bike{Frame: 4, Train: geared, CanOpen: true}
	c := clean.Choose(bike, rules)
	assert.Equal(t, clean.Hose, c.Wash)
	assert.Equal(t, []clean.Why{clean.WashTooLight}, c.Washes[clean.DryWipe].Against)
	assert.Equal(t, []clean.Why{clean.WasherSeals}, c.Washes[clean.Washer].Against)
	sound, only := bike, bike
	sound.SealsSound, only.DrivetrainOnly = true, true
	assert.Equal(t, clean.Washer, clean.Choose(sound, rules).Wash, "caked, its seals looked at, no motor")
	assert.Equal(t, clean.NoWash, clean.Choose(only, rules).Wash)
	for wash, near := range map[clean.Wash]clean.Minutes{clean.NoWash: 0, clean.DryWipe: 8, clean.Bucket: 25, clean.Hose: 20, clean.Washer: 12} {
		assert.InDelta(t, float64(near), float64(c.Washes[wash].Attended), 3, wash.String())
	}
	assert.Contains(t, c.Washes[clean.Washer].Cautions, clean.Spray)
	bike.Train.Motor = chain.MidMotor
	rules.Pressure = clean.NeverPressure
	c = clean.Choose(bike, rules)
	assert.True(t, c.Washes[clean.Washer].Refused)
	assert.Equal(t, []clean.Why{clean.NeverWasher, clean.WasherMotor, clean.WasherSeals}, c.Washes[clean.Washer].Against)
}

// At the counter: what is named express is so by its own minutes, never with a wash or where the chain goes, and nothing that
// keeps a rider safe is left out of it.
func TestExpress(t *testing.T) {
	rules := clean.HouseRules()
	bike := clean.Bike{Drivetrain: 2, Frame: 2, Train: geared, On: clean.Oil, Next: clean.Oil, CanOpen: true, Brakes: clean.Disc, Links: 114, Express: true}
	called := map[clean.Route]bool{}
	for _, route := range clean.Routes() {
		c := clean.Choose(bike, rules)
		p, err := clean.New(bike, c.With(bike, route), rules)
		if err != nil {
			continue
		}
		called[route] = p.IsExpress()
		if !p.Order.Express {
			continue
		}
		assert.Equal(t, clean.NoWash, p.Order.Wash)
		has := func(code string) bool {
			return slices.ContainsFunc(p.Steps, func(s clean.Planned) bool { return s.Code == code })
		}
		for _, code := range []string{"read-wear", "look-teeth", "axles", "brakes-test", "final-look"} {
			assert.True(t, has(code), "%s without %s", route, code)
		}
		assert.Equal(t, p.IsExpress(), p.Hands() <= 35 && p.Ready() <= 50, "%s: %d by hand, %d from door to door", route, p.Hands(), p.Ready())
		for _, s := range p.Steps {
			assert.False(t, s.Phase == clean.Drying && s.Wait != nil && s.Wait.Least > 0, "%s waits to dry at the counter", s.Code)
		}
	}
	assert.True(t, called[clean.Wipe] && called[clean.Quick])
	assert.False(t, called[clean.Soak] || called[clean.Strip])
	bike.ChainGoes = true
	assert.False(t, clean.Choose(bike, rules).Order().Express)
}
