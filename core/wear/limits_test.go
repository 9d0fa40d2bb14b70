package wear_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/chain"
	"earnestpony/core/wear"
)

// The handbook's table of limits, row by row: limit and together line for one sprocket, for a
// derailleur of ten sprockets or fewer, and for one of eleven and more.
func TestLimitsOfTheSchools(t *testing.T) {
	type pair struct{ limit, together chain.Percent }
	for school, want := range map[wear.School][3]pair{
		wear.Protect:      {{0.75, 1.25}, {0.75, 1.0}, {0.5, 0.75}},
		wear.Half:         {{0.5, 1.0}, {0.5, 0.75}, {0.5, 0.75}},
		wear.ThreeQuarter: {{1.0, 1.25}, {0.75, 1.0}, {0.75, 1.0}},
		wear.RunOut:       {{1.5, 1.5}, {1.5, 1.5}, {1.5, 1.5}},
	} {
		for sprockets := 1; sprockets <= chain.MaxSprockets; sprockets++ {
			column := 1
			if sprockets >= 11 {
				column = 2
			}
			l := school.Limits(chain.Drivetrain{Kind: chain.Derailleur, Sprockets: sprockets, Motor: chain.NoMotor})
			assert.Equal(t, want[column], pair{l.Limit, l.Together}, "%v, derailleur with %d", school, sprockets)
			assert.Equal(t, school, l.School)
		}
		for _, kind := range []chain.DrivetrainKind{chain.SingleSpeed, chain.HubGear} {
			l := school.Limits(chain.Drivetrain{Kind: kind, Sprockets: 1, Motor: chain.NoMotor})
			assert.Equal(t, want[0], pair{l.Limit, l.Together}, "%v, %v", school, kind)
		}
	}
}

// Who has the last word on a bike's limits: its maker, then the bike's own, then its school, then the
// shop's lines for the class, then the shop's school.
func TestWhoseLimits(t *testing.T) {
	shop := wear.House{School: wear.ThreeQuarter, Own: map[chain.Class]wear.Limits{chain.NarrowChain: {Limit: 0.6, Together: 0.8}}}
	maker := wear.Limits{Limit: 0.4, Together: 0.7, Source: wear.FromMaker}
	own := wear.Limits{Limit: 0.3, Together: 0.3, Source: wear.FromBike}
	cargo := twelve
	cargo.Carry = true
	for _, c := range []struct {
		what   string
		house  wear.House
		d      chain.Drivetrain
		o      wear.Override
		limit  chain.Percent
		source wear.Source
		school wear.School
	}{
		{"nothing chosen", wear.House{}, twelve, wear.Override{}, 0.5, wear.FromSchool, wear.Protect},
		{"the shop's lines", shop, twelve, wear.Override{}, 0.6, wear.FromShop, wear.ThreeQuarter},
		{"no lines for this class", shop, ten, wear.Override{}, 0.75, wear.FromSchool, wear.ThreeQuarter},
		{"the bike's school", shop, twelve, wear.Override{School: wear.Half}, 0.5, wear.FromSchool, wear.Half},
		{"the bike's own", shop, twelve, wear.Override{School: wear.Half, Limits: own}, 0.3, wear.FromBike, wear.Half},
		{"the maker's", shop, twelve, wear.Override{School: wear.RunOut, Limits: maker}, 0.4, wear.FromMaker, wear.RunOut},
		{"run out, where it may be", wear.House{School: wear.RunOut}, twelve, wear.Override{}, 1.5, wear.FromSchool, wear.RunOut},
		{"run out, with cargo", wear.House{School: wear.RunOut}, cargo, wear.Override{}, 0.5, wear.FromSchool, wear.Protect},
		{"run out by a bike's own school, with cargo", shop, cargo, wear.Override{School: wear.RunOut}, 0.5, wear.FromSchool, wear.Protect},
		{"lines later than any school's, with cargo", wear.House{School: wear.Half, Own: map[chain.Class]wear.Limits{chain.NarrowChain: {Limit: 1.2, Together: 1.2}}},
			cargo, wear.Override{}, 0.5, wear.FromSchool, wear.Half},
	} {
		l, school := c.house.Limits(c.d, c.o)
		assert.Equal(t, c.limit, l.Limit, c.what)
		assert.Equal(t, c.source, l.Source, c.what)
		assert.Equal(t, c.school, school, c.what)
	}
}

// Whatever a shop sets, a chain under cargo, children or a mid motor is not held to a later limit than the
// latest school that may judge it; only a bike's own limit or its maker's says otherwise.
func TestNoHouseRunsOutAStrainedChain(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := chain.Drivetrain{Kind: chain.DrivetrainKind(rapid.IntRange(1, 3).Draw(t, "kind")), Sprockets: rapid.IntRange(1, 14).Draw(t, "sprockets"),
			Motor: chain.Motor(rapid.IntRange(1, 3).Draw(t, "motor")), Carry: rapid.Bool().Draw(t, "carry")}
		h := wear.House{School: wear.School(rapid.IntRange(0, 4).Draw(t, "school")), Own: map[chain.Class]wear.Limits{}}
		for c := range chain.Classes {
			if rapid.Bool().Draw(t, "own line") {
				limit := chain.Percent(rapid.Float64Range(0.1, 3).Draw(t, "limit"))
				h.Own[c] = wear.Limits{Limit: limit, Together: limit}
			}
		}
		l, school := h.Limits(d, wear.Override{School: wear.School(rapid.IntRange(0, 4).Draw(t, "its school"))})
		require.True(t, school.Allows(d), "%v may not judge %+v", school, d)
		require.LessOrEqual(t, l.Limit, wear.MostAllowed(d))
		require.LessOrEqual(t, l.Limit, l.Together)
	})
}

// What a tool reads on a new chain is its zero offset; what cannot be one is refused with the reason.
func TestZeroOffset(t *testing.T) {
	for _, c := range []struct {
		kind wear.Kind
		n    chain.Links
		text string
		want float64 // percent
		code string
	}{
		{wear.GaugePercent, 0, "0,12", 0.12, ""},
		{wear.Ruler, 24, "304.8", 0, ""},
		{wear.Ruler, 24, "+0.3mm", 0.0984, ""},
		{wear.CaliperInside, 10, "119.35", 0, ""},
		{wear.WholeChain, 111, "1410.4", 0.0497, ""},
		{wear.GaugePercent, 0, "1.4", 0, "not-a-new-chain"},
		{wear.GaugePercent, 0, "12", 0, "decimal-point"},
		{wear.Ruler, 24, "12", 0, "inches-for-mm"},
		{wear.Ruler, 24, "new", 0, "not-a-reading"},
	} {
		got, _, err := wear.ZeroOffset(c.kind, c.n, wear.Millimetres, c.text)
		if c.code == "" {
			require.NoError(t, err, c.text)
			assert.InDelta(t, c.want, float64(got), 1e-4, "%v %q", c.kind, c.text)
			continue
		}
		var fault wear.Fault
		require.ErrorAs(t, err, &fault, c.text)
		assert.Equal(t, c.code, fault.Code, "%v %q", c.kind, c.text)
	}
}

// The error of each tool, as the handbook states it.
func TestErrorsOfTheTools(t *testing.T) {
	sigma := func(kind wear.Kind, r wear.Reading) float64 {
		est, ok := measure(t, kind, r).Estimate()
		require.True(t, ok)
		return float64(est.Sigma)
	}
	assert.InDelta(t, 0.116, sigma(wear.Ruler, wear.Length(1, 24, 306)), 0.0005)
	assert.InDelta(t, 0.05, sigma(wear.WholeChain, wear.Length(1, 110, 1400)), 0.0002)
	assert.InDelta(t, 0.03, sigma(wear.CaliperInside, wear.Inside(1, 10, 119.8, 119.4)), 1e-12)
	assert.InDelta(t, 0.08, sigma(wear.CaliperInside, wear.Inside(1, 10, 119.8, 0)), 1e-12)
	assert.InDelta(t, 0.05, sigma(wear.GaugePercent, wear.Percent(1, 0.4)), 1e-12)
}

// Several places: the error falls with their number but never below half the tool's own, and an
// uneven chain is judged by its worst place.
func TestSeveralPlaces(t *testing.T) {
	even := make([]wear.Reading, 0, wear.MaxPlaces)
	for place := 1; place <= wear.MaxPlaces; place++ {
		even = append(even, wear.Percent(place, 0.4))
	}
	for k, want := range map[int]float64{1: 0.05, 2: 0.05 / 1.41421356, 3: 0.05 / 1.7320508, 4: 0.025, 8: 0.025} {
		est, _ := measure(t, wear.GaugePercent, even[:k]...).Estimate()
		assert.InDelta(t, want, float64(est.Sigma), 1e-8, "%d places alike", k)
	}
	uneven := measure(t, wear.GaugePercent, wear.Percent(1, 0.2), wear.Percent(2, 0.2), wear.Percent(3, 0.62))
	est, _ := uneven.Estimate()
	assert.True(t, est.Uneven)
	assert.InDelta(t, 0.34, float64(est.Mean), 1e-9, "the mean is reported all the same")
	a := wear.Judge(uneven, wear.Half.Limits(ten))
	assert.Equal(t, wear.Replace, a.Verdict, "the mean alone would say ride on")
	worst := false
	for _, r := range a.Reasons {
		worst = worst || r.Code == wear.WorstPlace
	}
	assert.True(t, worst, "and the reasons say so: %v", a.Reasons)
}

// The strip shows a length over the links it was read over, and everything else over a foot.
func TestStrip(t *testing.T) {
	l := wear.Protect.Limits(twelve)
	s := wear.StripOf(measure(t, wear.Ruler, wear.Length(1, 20, 255.2), wear.Length(2, 20, 255)), l)
	assert.Equal(t, chain.Links(20), s.Links)
	assert.InDelta(t, 254*1.005, float64(s.Limit), 1e-9)
	require.Len(t, s.Places, 2)
	assert.InDelta(t, 255.2, float64(s.Places[0].At), 1e-9)
	assert.InDelta(t, 255.1, float64(s.Mean), 1e-9)

	s = wear.StripOf(measure(t, wear.WholeChain, wear.Length(1, 111, 111*12.7*1.004)), l)
	assert.Equal(t, chain.Links(24), s.Links)
	assert.InDelta(t, 304.8*1.004, float64(s.Mean), 1e-9)

	s = wear.StripOf(measure(t, wear.GaugeDropin, wear.DropIn(1, wear.Mark{At: 0.5, DropsIn: true}, wear.Mark{At: 0.75})), l)
	assert.InDelta(t, 304.8*1.005, float64(s.Low), 1e-9)
	assert.InDelta(t, 304.8*1.0075, float64(s.High), 1e-9)
	assert.Zero(t, s.Mean, "an interval has no mean")
}

// What would settle an unsure reading is settled by it, should it read the same; and no number of
// places makes a tool better than half its own error.
func TestWhatWouldSettleIt(t *testing.T) {
	l := wear.Protect.Limits(twelve)
	ruler := measure(t, wear.Ruler, wear.Length(1, 24, 305.9))
	require.Equal(t, wear.Unsure, wear.Judge(ruler, l).Verdict)
	est, _ := ruler.Estimate()
	for _, k := range []wear.Kind{wear.CaliperInside, wear.GaugePercent, wear.WholeChain} {
		sigma, measures := wear.SigmaOf(k, 3)
		require.True(t, measures)
		require.True(t, wear.Settles(est.Mean, sigma, l), "%v", k)
	}
	fine := measure(t, wear.GaugePercent, wear.Percent(1, est.Mean), wear.Percent(2, est.Mean), wear.Percent(3, est.Mean))
	assert.NotEqual(t, wear.Unsure, wear.Judge(fine, l).Verdict)
	assert.Equal(t, 2, wear.PlacesToSettle(est.Mean, wear.Ruler, 1, l))
	assert.Zero(t, wear.PlacesToSettle(0.49, wear.Ruler, 3, l), "too near for a ruler, however often it is laid on")
	assert.Zero(t, wear.PlacesToSettle(est.Mean, wear.WholeChain, 1, l), "a whole chain has one length")
	for _, k := range []wear.Kind{wear.GaugeDropin, wear.PullOff} {
		_, measures := wear.SigmaOf(k, 3)
		assert.False(t, measures)
	}
}

// A name read back is the thing it named, and the unnamed zero value is no name.
func TestNames(t *testing.T) {
	for _, k := range wear.Kinds() {
		got, err := wear.ParseKind(k.String())
		require.NoError(t, err)
		assert.Equal(t, k, got)
	}
	for _, s := range wear.Schools() {
		got, err := wear.ParseSchool(s.String())
		require.NoError(t, err)
		assert.Equal(t, s, got)
	}
	last := wear.Fresh
	for v := wear.OK; v <= wear.ReplaceTogether; v++ {
		got, err := wear.ParseVerdict(v.String())
		require.NoError(t, err)
		assert.Equal(t, v, got)
		assert.GreaterOrEqual(t, v.State(), last, "a graver verdict is never less pressing")
		last = v.State()
	}
	for _, parse := range []func(string) error{
		func(s string) error { _, err := wear.ParseKind(s); return err },
		func(s string) error { _, err := wear.ParseSchool(s); return err },
		func(s string) error { _, err := wear.ParseVerdict(s); return err },
		func(s string) error { _, err := wear.ParseLook(s); return err },
		func(s string) error { _, err := wear.ParseUnit(s); return err },
		func(s string) error { _, err := wear.ParseSource(s); return err },
	} {
		assert.Error(t, parse(""))
		assert.Error(t, parse("Ruler"))
	}
}
