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
		{"gritty", func(b *clean.Bike) { b.Drivetrain = 3 }, clean.Bath, clean.Bath, clean.Bath, nil},
		{"caked", func(b *clean.Bike) { b.Drivetrain = 4 }, clean.Strip, clean.Strip, clean.Strip, nil},
		{"deep clean due", func(b *clean.Bike) { b.DeepCleanDue = true }, clean.Bath, clean.Bath, clean.Bath, []clean.Why{clean.DeepDue}},
		{"another family, and due: by one", func(b *clean.Bike) { b.On, b.DeepCleanDue = clean.DripWax, true }, clean.Bath, clean.Bath, clean.Bath,
			[]clean.Why{clean.FamilyChanges, clean.DeepDue}},
		{"no route beyond the last", func(b *clean.Bike) { b.Drivetrain, b.DeepCleanDue = 4, true }, clean.Strip, clean.Strip, clean.Strip, []clean.Why{clean.DeepDue}},
		{"nobody knows what is on it", func(b *clean.Bike) { b.On = clean.Unknown }, clean.Bath, clean.Bath, clean.Bath, []clean.Why{clean.FamilyChanges, clean.NoFamilyKnown}},
		{"factory grease stays under oil", func(b *clean.Bike) { b.On = clean.FactoryGrease }, clean.Quick, clean.Quick, clean.Quick, nil},
		{"oil to immersion wax", func(b *clean.Bike) { b.Next = clean.ImmersionWax }, clean.Bare, clean.Bare, clean.Bath, []clean.Why{clean.FamilyChanges, clean.UnderWax}},
		{"oil to drip wax", func(b *clean.Bike) { b.Next = clean.DripWax }, clean.Bare, clean.Bare, clean.Bath, []clean.Why{clean.FamilyChanges, clean.UnderWax}},
		{"drip wax tops immersion wax up", func(b *clean.Bike) { b.Drivetrain, b.On, b.Next = 1, clean.ImmersionWax, clean.DripWax }, clean.Wipe, clean.Wipe, clean.Wipe, nil},
		{"waxed again", func(b *clean.Bike) { b.On, b.Next = clean.ImmersionWax, clean.ImmersionWax }, clean.Bare, clean.Bare, clean.Quick, []clean.Why{clean.UnderWax}},
		{"a film that peels", func(b *clean.Bike) { b.On = clean.Film }, clean.Bare, clean.Bare, clean.Soak, []clean.Why{clean.FamilyChanges, clean.FilmOn}},
		{"the chain comes off", func(b *clean.Bike) { b.Drivetrain, b.ChainGoes, b.CanOpen = 3, true, false }, clean.Bath, clean.Wipe, clean.Bath, []clean.Why{clean.ChainComesOff}},
		{"a new chain for wax", func(b *clean.Bike) { b.ChainGoes, b.Next = true, clean.ImmersionWax }, clean.Bare, clean.Wipe, clean.Quick, []clean.Why{clean.UnderWax, clean.ChainComesOff}},
		{"caked, and no way to open it", func(b *clean.Bike) { b.Drivetrain, b.CanOpen = 4, false }, clean.Bath, clean.Bath, clean.Bath, []clean.Why{clean.CannotOpen}},
		{"wax, and no way to open it", func(b *clean.Bike) { b.Next, b.CanOpen = clean.ImmersionWax, false }, clean.Quick, clean.Quick, clean.Quick,
			[]clean.Why{clean.UnderWax, clean.CannotOpen, clean.WaxRefused}},
		{"waxed, and no way to open it", func(b *clean.Bike) { b.On, b.Next, b.CanOpen = clean.ImmersionWax, clean.ImmersionWax, false }, clean.Quick, clean.Quick, clean.Quick,
			[]clean.Why{clean.UnderWax, clean.CannotOpen}},
		{"orange", func(b *clean.Bike) { b.Rust = clean.Light }, clean.Quick, clean.Quick, clean.Quick, []clean.Why{clean.WipeRust}},
		{"tarnished", func(b *clean.Bike) { b.Rust = clean.Tarnished }, clean.Quick, clean.Quick, clean.Quick, []clean.Why{clean.AcidBath}},
		{"tarnished, carrying", func(b *clean.Bike) { b.Rust, b.Train.Carry = clean.Tarnished, true }, clean.Quick, clean.Quick, clean.Quick, []clean.Why{clean.AcidRefused}},
		{"pitted", func(b *clean.Bike) { b.Rust = clean.Pitted }, clean.Quick, clean.Quick, clean.Quick, []clean.Why{clean.NothingToSave}},
		{"mud on the frame", func(b *clean.Bike) { b.Frame = 3 }, clean.Quick, clean.Quick, clean.Quick, []clean.Why{clean.AfterPreRinse}},
	} {
		b := oiled
		c.change(&b)
		got := clean.Choose(b, clean.HouseRules())
		assert.Equal(t, [3]clean.Route{c.route, c.chain, c.parts}, [3]clean.Route{got.Route, got.Chain, got.Parts}, c.what)
		assert.Equal(t, append([]clean.Why{clean.GradeCovered}, c.why...), got.Why, c.what)
	}
	assert.Equal(t, clean.Time{Attended: 60, WaitLeast: 60, WaitMost: 1440}, clean.Choose(oiled, clean.HouseRules()).Options[clean.Soak].Time)
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
	waxed := c.Next != clean.Oil
	overWax := b.On == clean.DripWax || b.On == clean.ImmersionWax
	opened := c.Route.OpensChain() || c.Chain.OpensChain() || c.Parts.OpensChain()
	at := c.Options[c.Route]
	switch {
	case waxed && !overWax && c.Route != clean.Bare:
		return "wax on a chain that is not bare"
	case at.Refused || c.Options[c.Parts].Refused || c.Washes[c.Wash].Refused:
		return "what is recommended cannot be done"
	case c.Next != b.Next && !c.OrderLink:
		return "wax put off without a word"
	case opened && !b.CanOpen && !b.ChainGoes:
		return "a chain taken off that cannot be joined again"
	case c.OrderLink != because(clean.CannotOpen):
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
	case (opened || b.ChainGoes) && !warned(clean.Joint):
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
	assert.Empty(t, c.Washes[clean.Washer].Against)
	assert.Contains(t, c.Washes[clean.Washer].Cautions, clean.Spray)
	bike.Train.Motor = chain.MidMotor
	rules.Pressure = clean.NeverPressure
	c = clean.Choose(bike, rules)
	assert.True(t, c.Washes[clean.Washer].Refused)
	assert.Equal(t, []clean.Why{clean.NeverWasher, clean.WasherMotor}, c.Washes[clean.Washer].Against)
}
