package clean_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/core/chain"
	"earnestpony/core/clean"
)

// Every step says what clean.md asks of one, in its own words.
func TestEveryStepIsWhole(t *testing.T) {
	titles := map[string]bool{}
	for _, s := range clean.Catalogue() {
		assert.False(t, titles[s.Title] && s.Code != "chain-rag", "%s: two steps are called %q", s.Code, s.Title)
		titles[s.Title] = true
		assert.Regexp(t, `[.?!]$`, s.Do, "%s", s.Code)
		assert.Regexp(t, `[.?!]$`, s.Why, "%s", s.Code)
		assert.NotRegexp(t, `[.]$`, s.Done, "%s: a button is no sentence", s.Code)
		assert.LessOrEqual(t, len(s.Done), 32, "%s: a button is read at arm's length", s.Code)
		assert.LessOrEqual(t, len(s.Title), 36, "%s", s.Code)
		assert.LessOrEqual(t, s.Minutes, clean.Minutes(15), "%s: nobody stands so long at one step", s.Code)
		for _, v := range s.Or {
			assert.True(t, v.Title+v.Do+v.Why != "" || v.Minutes != 0 || v.Wait != nil || v.Phase != "" || v.Station != "", "%s: a variant that changes nothing", s.Code)
		}
	}
}

// laid is the plan of a bike on a route, by the code of its steps.
func laid(t *testing.T, b clean.Bike, route clean.Route, r clean.Rules) (clean.Plan, map[string]clean.Planned) {
	t.Helper()
	p, err := clean.New(b, clean.Choose(b, r).With(b, route), r)
	require.NoError(t, err)
	steps := map[string]clean.Planned{}
	for _, s := range p.Steps {
		steps[s.Code] = s
	}
	return p, steps
}

var muddy = clean.Bike{Drivetrain: 3, Frame: 3, Train: geared, On: clean.Oil, Next: clean.Oil, CanOpen: true, Brakes: clean.Disc, Links: 114}

// What the handbook says of one sort of bike or another, a rule a row.
func TestStepsOfABike(t *testing.T) {
	for _, c := range []struct {
		what    string
		change  func(*clean.Bike, *clean.Rules)
		route   clean.Route
		has     []string
		hasNot  []string
		holding map[string]string // a step and the one whose wait holds it
	}{
		{"a wipe opens nothing and soaks nothing", func(*clean.Bike, *clean.Rules) {}, clean.Wipe,
			[]string{"chain-wipe", "pulleys-wipe", "oil", "brakes-test"}, []string{"open-chain", "jar", "wheel-out", "bath-on", "waste", "crank-off"}, nil},
		{"a bath runs on the bike, the wheel out", func(*clean.Bike, *clean.Rules) {}, clean.Bath,
			[]string{"gear-set", "wheel-out", "dummy-hub", "bath-on", "bath-degrease", "bath-soap", "rag-test", "air-dry", "waste"}, []string{"open-chain", "jar", "chain-on"},
			map[string]string{"oil": "dry-check"}},
		{"a soak takes the chain off and puts it on again", func(*clean.Bike, *clean.Rules) {}, clean.Soak,
			[]string{"link-ready", "open-chain", "jar", "chain-scrub", "jar-refresh", "chain-rag", "chain-rinse", "flex", "chain-hang", "chain-on"}, []string{"bath-on", "rag-test", "dummy-hub", "air-dry"},
			map[string]string{"chain-scrub": "jar", "dry-check": "chain-hang", "oil": "dry-check"}},
		{"a strip takes everything apart, pulleys before the derailleur", func(*clean.Bike, *clean.Rules) {}, clean.Strip,
			[]string{"sprockets-off", "pulleys-off", "derailleur-off", "crank-off", "sprockets-on", "crank-on", "derailleur-on", "index"}, []string{"sprockets-brush", "rings-brush", "guide-off"},
			map[string]string{"sprockets-scrub": "sprockets-off", "rings-scrub": "crank-off"}},
		{"a chain guide comes off with it", func(b *clean.Bike, _ *clean.Rules) { b.Guide = true }, clean.Strip, []string{"guide-off"}, nil, nil},
		{"one sprocket has nothing to take apart on the hub", func(b *clean.Bike, _ *clean.Rules) { b.Train.Kind = chain.SingleSpeed }, clean.Strip,
			[]string{"sprockets-brush", "crank-off"}, []string{"sprockets-off", "pulleys-off", "derailleur-off", "index", "gears-through"}, nil},
		{"a clutch is switched off before the chain opens", func(b *clean.Bike, _ *clean.Rules) { b.Clutch = true }, clean.Soak, []string{"clutch-off"}, nil, nil},
		{"a fixed chain is not wiped running: the wheel is out, the dummy hub in", func(b *clean.Bike, _ *clean.Rules) {
			b.Train.Kind, b.Turns = chain.SingleSpeed, clean.FixedGear
		}, clean.Quick, []string{"wheel-out", "dummy-hub"}, nil, nil},
		{"no motor, no electric steps", func(*clean.Bike, *clean.Rules) {}, clean.Soak, nil, []string{"motor-off", "contacts-dry", "motor-on"}, nil},
		{"a motor is off first and tried last", func(b *clean.Bike, _ *clean.Rules) { b.Train.Motor = chain.HubMotor }, clean.Soak, []string{"motor-off", "contacts-dry", "motor-on"}, nil, nil},
		{"brakes in the hub need no cover and no alcohol", func(b *clean.Bike, _ *clean.Rules) { b.Brakes = clean.InHub }, clean.Soak, []string{"brakes-test"}, []string{"cover-brakes", "brake-faces"}, nil},
		{"dust on the frame is wiped, not washed", func(b *clean.Bike, _ *clean.Rules) { b.Frame = 1 }, clean.Soak, []string{"frame-wipe"}, []string{"pre-rinse", "cleaner-on", "rinse"}, nil},
		{"what was read today is not read again", func(b *clean.Bike, _ *clean.Rules) { b.Read = true }, clean.Soak, nil, []string{"read-wear"}, nil},
		{"a worn chain goes, and the new one keeps its good grease under oil", func(b *clean.Bike, _ *clean.Rules) { b.ChainGoes = true }, clean.Bath,
			[]string{"old-chain-off", "new-chain", "grease-wipe"}, []string{"open-chain", "chain-on", "oil", "new-grease", "bath-on"}, nil},
		{"unless the house strips it always", func(b *clean.Bike, r *clean.Rules) { b.ChainGoes, r.StripNewGrease = true, true }, clean.Bath,
			[]string{"new-grease", "bare-look", "dry-check", "oil"}, []string{"grease-wipe"}, map[string]string{"bare-look": "new-grease"}},
		{"a film goes in its solvent and then to bare metal", func(b *clean.Bike, _ *clean.Rules) { b.On = clean.Film }, clean.Bare,
			[]string{"film-soak", "film-scrape", "bare-two", "bare-look"}, []string{"jar", "bare-one"}, map[string]string{"film-scrape": "film-soak"}},
		{"tarnish on a chain worth it: acid, neutralised, rinsed, dried, oiled at once", func(b *clean.Bike, _ *clean.Rules) { b.Rust = clean.Tarnished }, clean.Soak,
			[]string{"acid-bath", "neutralise", "chain-rinse", "chain-hang"}, nil, map[string]string{"neutralise": "acid-bath", "chain-rinse": "neutralise"}},
		{"no acid where cargo is carried", func(b *clean.Bike, _ *clean.Rules) { b.Rust, b.Train.Carry = clean.Tarnished, true }, clean.Soak, nil, []string{"acid-bath"}, nil},
		{"immersion wax: bare, dry, hot, skin, hung, broken free", func(b *clean.Bike, _ *clean.Rules) { b.Next = clean.ImmersionWax }, clean.Bare,
			[]string{"bare-one", "bare-two", "bare-look", "wax-melt", "wax-in", "wax-off", "wax-lift", "wax-break", "chain-on"}, []string{"oil", "drip-one"},
			map[string]string{"wax-in": "wax-melt", "wax-off": "wax-in", "wax-lift": "wax-off", "wax-break": "wax-lift"}},
		{"drip wax dries between its coats and sets before the ride", func(b *clean.Bike, _ *clean.Rules) { b.On, b.Next = clean.DripWax, clean.DripWax }, clean.Soak,
			[]string{"drip-one", "drip-two"}, []string{"oil", "wax-in"}, map[string]string{"drip-two": "drip-one", "ride": "drip-two"}},
	} {
		b, r := muddy, clean.HouseRules()
		c.change(&b, &r)
		_, steps := laid(t, b, c.route, r)
		for _, code := range c.has {
			assert.Contains(t, steps, code, c.what)
		}
		for _, code := range c.hasNot {
			assert.NotContains(t, steps, code, c.what)
		}
		for code, by := range c.holding {
			assert.Contains(t, steps[code].Waits, by, "%s: %s waits for %s", c.what, code, by)
		}
	}
}

// Bounds that the handbook fixes.
func TestWaitsOfTheHandbook(t *testing.T) {
	rusty := muddy
	rusty.Rust = clean.Tarnished
	_, soak := laid(t, rusty, clean.Soak, clean.HouseRules())
	assert.Equal(t, clean.Minutes(120), soak["jar"].Wait.Most, "alloy parts two hours at most")
	assert.Equal(t, []clean.Minutes{60, 720}, []clean.Minutes{soak["acid-bath"].Wait.Least, soak["acid-bath"].Wait.Most}, "looked at each hour, twelve at most")
	assert.Equal(t, clean.Minutes(10), soak["cleaner-on"].Wait.Most, "cleaner never dries on")
	assert.Equal(t, clean.Minutes(30), soak["chain-hang"].Wait.Least)
	assert.Equal(t, []clean.Minutes{0, 60}, []clean.Minutes{soak["dry-check"].Wait.Least, soak["dry-check"].Wait.Most}, "bare steel")
	blown := clean.HouseRules()
	blown.Blower = true
	_, fast := laid(t, muddy, clean.Soak, blown)
	assert.Equal(t, clean.Minutes(15), fast["chain-hang"].Wait.Least, "with a blower")

	waxed := muddy
	waxed.Next = clean.ImmersionWax
	_, bare := laid(t, waxed, clean.Bare, clean.HouseRules())
	assert.Equal(t, []clean.Minutes{15, 30, 20}, []clean.Minutes{bare["wax-melt"].Wait.Least, bare["wax-in"].Wait.Least, bare["wax-lift"].Wait.Least})
	assert.InDelta(t, 7, bare["wax-in"].Amounts[0].Amount, 1e-9, "g a chain")
	dripped := muddy
	dripped.On, dripped.Next = clean.DripWax, clean.DripWax
	_, drip := laid(t, dripped, clean.Soak, clean.HouseRules())
	assert.Equal(t, []clean.Minutes{30, 240}, []clean.Minutes{drip["drip-one"].Wait.Least, drip["drip-two"].Wait.Least})
	assert.InDelta(t, 5.7, drip["drip-one"].Amounts[0].Amount, 1e-9, "mL: a drop of 0.05 a joint")
}

// What a plan adds up to.
func TestPlanSums(t *testing.T) {
	p, steps := laid(t, muddy, clean.Soak, clean.HouseRules())
	hands := clean.Minutes(0)
	for _, s := range p.Steps {
		hands += s.Minutes
	}
	assert.Equal(t, hands, p.Hands())
	assert.GreaterOrEqual(t, p.Ready(), steps["jar"].Wait.Least+steps["chain-hang"].Wait.Least)
	uses := map[clean.Material]clean.Amount{}
	for _, a := range p.Uses() {
		uses[a.Material] = a
	}
	assert.InDelta(t, 2*250*2.0/3+15+10, uses[clean.Degreaser].Amount, 1e-9, "mL: two jars at two to one, and the brush")
	assert.InDelta(t, 4.56+0.3, uses[clean.ChainOil].Amount, 1e-9, "mL: a drop a joint, and the pivots")
	assert.Contains(t, p.Tools(), "chain hook")
	seen := map[string]int{}
	for _, tool := range p.Tools() {
		seen[tool]++
		assert.Equal(t, 1, seen[tool], tool)
	}

	slower := clean.HouseRules()
	slower.StepMinutes = map[string]clean.Minutes{"chain-scrub": 20}
	more, _ := laid(t, muddy, clean.Soak, slower)
	assert.Equal(t, p.Hands()+8, more.Hands(), "the shop's own minutes")
	quick, _ := laid(t, muddy, clean.Quick, clean.HouseRules())
	strip, _ := laid(t, muddy, clean.Strip, clean.HouseRules())
	assert.Less(t, quick.Hands(), p.Hands())
	assert.Less(t, p.Hands(), strip.Hands())
}

// A check that fails goes back as far as it says, on whichever route.
func TestSendBack(t *testing.T) {
	for _, c := range []struct {
		route  clean.Route
		change func(*clean.Bike)
		failed string
		again  []string
	}{
		{clean.Quick, func(*clean.Bike) {}, "rag-test", []string{"chain-brush", "chain-brush-off", "rag-test"}},
		{clean.Soak, func(*clean.Bike) {}, "jar-refresh", []string{"jar-refresh"}},
		{clean.Soak, func(*clean.Bike) {}, "chain-rag", []string{"jar-refresh", "chain-rag"}},
		{clean.Soak, func(*clean.Bike) {}, "flex", []string{"jar-refresh", "chain-rag", "chain-rinse", "flex"}},
		{clean.Soak, func(*clean.Bike) {}, "dry-check", []string{"chain-hang", "dry-check"}},
		{clean.Bare, func(b *clean.Bike) { b.Next = clean.ImmersionWax }, "bare-look", []string{"bare-two", "bare-look"}},
		{clean.Soak, func(b *clean.Bike) { b.Brakes = clean.InHub }, "brakes-test", []string{"brakes-test"}},
		{clean.Soak, func(*clean.Bike) {}, "brakes-test", []string{"brake-faces", "brakes-test"}},
	} {
		b := muddy
		c.change(&b)
		p, _ := laid(t, b, c.route, clean.HouseRules())
		assert.Equal(t, c.again, clean.SendBack(p.Steps, c.failed), "%s on %s", c.failed, c.route)
	}
	p, _ := laid(t, muddy, clean.Soak, clean.HouseRules())
	assert.Empty(t, clean.SendBack(p.Steps, "oil"), "what cannot fail")
	assert.Empty(t, clean.SendBack(p.Steps, "polish"), "what is no step of it")
	assert.False(t, slices.ContainsFunc(p.Steps, func(s clean.Planned) bool { return s.Fail != "" && len(clean.SendBack(p.Steps, s.Code)) == 0 }))
}
