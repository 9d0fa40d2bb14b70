package wear_test

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/chain"
	"earnestpony/core/wear"
)

var (
	twelve = chain.Drivetrain{Kind: chain.Derailleur, Sprockets: 12, Motor: chain.NoMotor}
	ten    = chain.Drivetrain{Kind: chain.Derailleur, Sprockets: 10, Motor: chain.NoMotor}
)

func measure(t require.TestingT, k wear.Kind, readings ...wear.Reading) wear.Measurement {
	m, err := wear.NewMeasurement(wear.Instrument{Kind: k}, readings, nil)
	require.NoError(t, err)
	return m
}

// The handbook's own worked examples, to its printed digits.
func TestWorkedExamples(t *testing.T) {
	ruler := measure(t, wear.Ruler, wear.Length(1, 24, 306.4))
	a := wear.Judge(ruler, wear.Protect.Limits(twelve))
	assert.Equal(t, wear.Unsure, a.Verdict)
	assert.InDelta(t, 0.585, a.PastLim, 0.0005)
	a = wear.Judge(ruler, wear.Protect.Limits(ten))
	assert.Equal(t, wear.OK, a.Verdict)
	assert.InDelta(t, 0.026, a.PastLim, 0.0005)

	gauge, err := wear.NewMeasurement(wear.Instrument{Kind: wear.GaugePercent, ZeroOffset: 0.05}, []wear.Reading{wear.Percent(1, 0.82)}, nil)
	require.NoError(t, err)
	a = wear.Judge(gauge, wear.Protect.Limits(twelve))
	assert.Equal(t, wear.Replace, a.Verdict)
	assert.InDelta(t, 0.655, a.PastBoth, 0.0005)
	assert.Contains(t, codes(a), wear.SetInStock)

	dropin := measure(t, wear.GaugeDropin, wear.DropIn(1, wear.Mark{At: 0.5, DropsIn: true}, wear.Mark{At: 0.75}))
	a = wear.Judge(dropin, wear.Protect.Limits(twelve))
	assert.Equal(t, wear.Replace, a.Verdict)
	assert.InDelta(t, 0.936, a.PastLim, 0.0005)
	assert.InDelta(t, 0.064, a.PastBoth, 0.0005)
	a = wear.Judge(measure(t, wear.GaugeDropin, wear.DropIn(1, wear.Mark{At: 0.75})), wear.Protect.Limits(twelve))
	assert.Equal(t, []any{wear.Unsure, wear.LeanRide, wear.NextOrder}, []any{a.Verdict, a.Lean, a.Order})
	assert.InDelta(t, 0.333, a.PastLim, 0.0005)
}

func codes(a wear.Answer) (codes []wear.ReasonCode) {
	for _, r := range a.Reasons {
		codes = append(codes, r.Code)
	}
	return codes
}

// What a reading wants beside its verdict: where a doubt leans, how soon a chain is ordered, and which readings are looked at
// again before anything is fitted.
func TestWhatIsSaidBesideAVerdict(t *testing.T) {
	percent := func(spreads bool, values ...chain.Percent) wear.Measurement {
		var rs []wear.Reading
		for i, v := range values {
			rs = append(rs, wear.Percent(i+1, v))
		}
		m, err := wear.NewMeasurement(wear.Instrument{Kind: wear.GaugePercent, Spreads: spreads}, rs, nil)
		require.NoError(t, err)
		return m
	}
	dropin := func(marks ...wear.Mark) wear.Measurement {
		return measure(t, wear.GaugeDropin, wear.DropIn(1, marks...))
	}
	asked := []wear.ReasonCode{wear.BoundedOnly, wear.RecheckPlace, wear.BelowNew, wear.ReadsHigh, wear.SetInStock}
	for name, c := range map[string]struct {
		m       wear.Measurement
		verdict wear.Verdict
		lean    wear.Lean
		order   wear.Order
		also    []wear.ReasonCode
	}{
		"well below":                      {percent(false, 0.2, 0.22, 0.21), wear.OK, wear.NoLean, wear.NoOrder, nil},
		"near the limit":                  {percent(false, 0.4, 0.41, 0.42), wear.Watch, wear.NoLean, wear.NextOrder, nil},
		"in doubt, rather under it":       {percent(false, 0.47), wear.Unsure, wear.LeanRide, wear.NextOrder, nil},
		"in doubt, rather past it":        {percent(false, 0.53), wear.Unsure, wear.LeanReplace, wear.OrderNow, nil},
		"past it by rollers alone":        {percent(true, 0.58, 0.59, 0.57), wear.Replace, wear.NoLean, wear.OrderNow, []wear.ReasonCode{wear.ReadsHigh}},
		"the cassette may go too":         {percent(false, 0.74), wear.Replace, wear.NoLean, wear.OrderNow, []wear.ReasonCode{wear.SetInStock}},
		"one place unlike its fellows":    {percent(false, 0.05, 0.06, 0.25), wear.OK, wear.NoLean, wear.NoOrder, []wear.ReasonCode{wear.RecheckPlace}},
		"two that differ":                 {percent(false, 0.1, 0.3), wear.OK, wear.NoLean, wear.NoOrder, []wear.ReasonCode{wear.RecheckPlace, wear.RecheckPlace}},
		"shorter than new":                {percent(false, -0.12, 0.02, 0.0), wear.OK, wear.NoLean, wear.NoOrder, []wear.ReasonCode{wear.BelowNew}},
		"a mark that stays out":           {dropin(wear.Mark{At: 0.25}), wear.OK, wear.NoLean, wear.NoOrder, []wear.ReasonCode{wear.BoundedOnly}},
		"a gauge with a coarse mark only": {dropin(wear.Mark{At: 1}), wear.Unsure, wear.LeanRide, wear.NextOrder, nil},
		"a look":                          {measure(t, wear.PullOff, wear.Looked(1, wear.Daylight)), wear.Unsure, wear.LeanReplace, wear.NoOrder, nil},
	} {
		a := wear.Judge(c.m, wear.Protect.Limits(twelve))
		var also []wear.ReasonCode
		for _, code := range codes(a) {
			if slices.Contains(asked, code) {
				also = append(also, code)
			}
		}
		assert.Equal(t, []any{c.verdict, c.lean, c.order, c.also}, []any{a.Verdict, a.Lean, a.Order, also}, name)
		if c.also != nil {
			assert.NotContains(t, codes(a), map[bool]wear.ReasonCode{true: wear.WellBelow}[c.also[0] == wear.BoundedOnly], name)
		}
	}
}

func TestTiesDoNotTurnOnTheLastBit(t *testing.T) {
	// The mean 0.2 is exactly the limit less the margin: not below it, so near the limit.
	a := wear.Judge(measure(t, wear.GaugePercent, wear.Percent(1, 0.15), wear.Percent(2, 0.2), wear.Percent(3, 0.25)),
		wear.Limits{Limit: 0.35, Together: 1})
	assert.Equal(t, wear.Watch, a.Verdict)

	// Places 0.15 apart are not more than 0.15 apart, though 0.85 − 0.7 says so in the last bit.
	est, ok := measure(t, wear.GaugePercent, wear.Percent(1, 0.7), wear.Percent(2, 0.85)).Estimate()
	require.True(t, ok)
	assert.False(t, est.Uneven)
}

func TestFindingsForceAVerdict(t *testing.T) {
	for _, f := range wear.Findings() {
		m, err := wear.NewMeasurement(wear.Instrument{Kind: wear.GaugePercent}, []wear.Reading{wear.Percent(1, 0.1)}, []wear.Finding{f})
		require.NoError(t, err)
		a := wear.Judge(m, wear.Protect.Limits(twelve))
		assert.Equal(t, max(wear.OK, f.Forces()), a.Verdict, "%s on a chain hardly worn", f)
	}
	assert.Equal(t, wear.NoVerdict, wear.Finding("smells-of-fish").Forces(), "the list of findings is open")
}

// A tool that did not look further may neither clear nor wholly condemn a chain, and a look alone
// settles nothing.
func TestWhatComparingToolsMayNotSay(t *testing.T) {
	open := func(marks ...wear.Mark) wear.Measurement {
		return measure(t, wear.GaugeDropin, wear.DropIn(1, marks...))
	}
	allIn := open(wear.Mark{At: 0.5, DropsIn: true})
	assert.Equal(t, wear.Unsure, wear.Judge(allIn, wear.RunOut.Limits(twelve)).Verdict, "all in, far below the limit")
	assert.Equal(t, wear.Replace, wear.Judge(allIn, wear.Limits{Limit: 0.3, Together: 0.51}).Verdict, "all in, almost surely past both lines")
	assert.Equal(t, wear.ReplaceTogether, wear.Judge(allIn, wear.Limits{Limit: 0.3, Together: 0.5}).Verdict, "the mark itself is past both lines")
	assert.Equal(t, wear.Unsure, wear.Judge(measure(t, wear.PullOff, wear.Looked(1, wear.Flush)), wear.ThreeQuarter.Limits(ten)).Verdict)
	assert.Equal(t, wear.Unsure, wear.Judge(measure(t, wear.PullOff, wear.Looked(1, wear.ClearsTip)), wear.Half.Limits(ten)).Verdict)
}

func TestRunOutIsRefusedWhereAChainCarriesMore(t *testing.T) {
	cargo, motor := ten, ten
	cargo.Carry, motor.Motor = true, chain.MidMotor
	m := measure(t, wear.Ruler, wear.Length(1, 24, 306))
	for _, d := range []chain.Drivetrain{cargo, motor} {
		assert.False(t, wear.RunOut.Allows(d))
		for _, o := range wear.OtherSchools(m, d, wear.Protect) {
			assert.NotEqual(t, wear.RunOut, o.School)
		}
	}
	assert.Len(t, wear.OtherSchools(m, ten, wear.Protect), 3)
}

func TestParseEntry(t *testing.T) {
	type want struct {
		mm, past, pct float64
		code          string
	}
	for _, c := range []struct {
		kind  wear.Kind
		plain wear.Unit
		typed string
		want  want
	}{
		// a length, in the shop's unit or its own
		{wear.Ruler, wear.Millimetres, "306.9", want{mm: 306.9, past: 2.1}},
		{wear.Ruler, wear.Millimetres, " 306,9 MM ", want{mm: 306.9, past: 2.1}},
		{wear.Ruler, wear.Inches, "12.0625", want{mm: 306.3875, past: 1.5875}},
		{wear.Ruler, wear.Inches, "306.9mm", want{mm: 306.9, past: 2.1}},
		// inches and fractions, whatever the shop's unit
		{wear.Ruler, wear.Millimetres, "12 1/16 in", want{mm: 306.3875, past: 1.5875}},
		{wear.Ruler, wear.Millimetres, `12-1/16"`, want{mm: 306.3875, past: 1.5875}},
		{wear.Ruler, wear.Millimetres, "12 1/8", want{mm: 307.975, past: 3.175}},
		// past the mark
		{wear.Ruler, wear.Millimetres, "+1.6mm", want{mm: 306.4, past: 1.6}},
		{wear.Ruler, wear.Millimetres, "-,2", want{mm: 304.6, past: -0.2}},
		{wear.Ruler, wear.Millimetres, "+1/16", want{mm: 306.3875, past: 1.5875}},
		{wear.CaliperInside, wear.Millimetres, "+0.5", want{mm: 297.65, past: 0.5}},
		// percent
		{wear.GaugePercent, wear.Inches, ".62", want{pct: 0.62}},
		{wear.GaugePercent, wear.Millimetres, "0,62 %", want{pct: 0.62}},
		{wear.GaugePercent, wear.Millimetres, "-0.05", want{pct: -0.05}},
		// each slip has its own answer
		{wear.Ruler, wear.Millimetres, "abc", want{code: "not-a-reading"}},
		{wear.Ruler, wear.Millimetres, "1.2.3", want{code: "not-a-reading"}},
		{wear.Ruler, wear.Millimetres, "   ", want{code: "missing"}},
		{wear.Ruler, wear.Millimetres, "12 1/0 in", want{code: "fraction-zero"}},
		{wear.Ruler, wear.Millimetres, "12 17/16 in", want{code: "fraction-too-large"}},
		{wear.Ruler, wear.Millimetres, "12 1/16 mm", want{code: "wrong-unit"}},
		{wear.Ruler, wear.Millimetres, "0.62 %", want{code: "wrong-unit"}},
		{wear.GaugePercent, wear.Millimetres, "306.9mm", want{code: "wrong-unit"}},
		{wear.GaugePercent, wear.Millimetres, "5/8", want{code: "wrong-unit"}},
	} {
		got, err := wear.ParseEntry(c.kind, 24, 0, c.plain, c.typed)
		var fault wear.Fault
		if c.want.code != "" {
			require.ErrorAs(t, err, &fault, "%q", c.typed)
			assert.Equal(t, c.want.code, fault.Code, "%q: %s", c.typed, fault.Message)
			continue
		}
		require.NoError(t, err, "%q", c.typed)
		assert.InDelta(t, c.want.mm, float64(got.Length), 1e-9, "mm of %q", c.typed)
		assert.InDelta(t, c.want.past, float64(got.Past), 1e-9, "mm past the mark of %q", c.typed)
		assert.InDelta(t, c.want.pct, float64(got.Pct), 1e-12, "percent of %q", c.typed)
	}
}

// What cannot be is refused with its likely cause.
func TestImpossibleReadings(t *testing.T) {
	mark := func(at chain.Percent, in bool) wear.Mark { return wear.Mark{At: at, DropsIn: in} }
	for code, c := range map[string]struct {
		kind     wear.Kind
		readings []wear.Reading
	}{
		"inches-for-mm":       {wear.Ruler, []wear.Reading{wear.Length(1, 24, 12.0625)}},
		"mm-for-inches":       {wear.Ruler, []wear.Reading{wear.Length(1, 24, 306.4*25.4)}},
		"links-miscounted":    {wear.Ruler, []wear.Reading{wear.Length(1, 24, 293.5)}},
		"past-the-mark":       {wear.Ruler, []wear.Reading{wear.Length(1, 24, 1.6)}},
		"out-of-range":        {wear.Ruler, []wear.Reading{wear.Length(1, 24, 9999)}},
		"decimal-point":       {wear.GaugePercent, []wear.Reading{wear.Percent(1, 62)}},
		"place-twice":         {wear.GaugePercent, []wear.Reading{wear.Percent(1, 0.2), wear.Percent(1, 0.3)}},
		"links-differ":        {wear.Ruler, []wear.Reading{wear.Length(1, 24, 306), wear.Length(2, 20, 255)}},
		"new-reading-missing": {wear.CaliperInside, []wear.Reading{wear.Inside(1, 10, 119.8, 119.3), wear.Inside(2, 10, 119.8, 0)}},
		"wrong-kind":          {wear.Ruler, []wear.Reading{wear.Percent(1, 0.5)}},
		"measure-again":       {wear.GaugeDropin, []wear.Reading{wear.DropIn(1, mark(0.75, true), mark(0.5, false))}},
		"mark-twice":          {wear.GaugeDropin, []wear.Reading{wear.DropIn(1, mark(0.5, true), mark(0.5, true))}},
		"missing":             {wear.GaugeDropin, []wear.Reading{wear.DropIn(1)}},
		"places":              {wear.GaugePercent, nil},
	} {
		_, err := wear.NewMeasurement(wear.Instrument{Kind: c.kind}, c.readings, nil)
		var faults wear.Faults
		require.True(t, errors.As(err, &faults), code)
		require.Len(t, faults, 1, code)
		assert.Equal(t, code, faults[0].Code, faults[0].Message)
	}
	_, err := wear.NewMeasurement(wear.Instrument{Kind: wear.Ruler}, []wear.Reading{wear.Length(1, 24, 9999), wear.Length(2, 24, 293.5)}, nil)
	var faults wear.Faults
	require.True(t, errors.As(err, &faults))
	assert.Len(t, faults, 2, "every fault is listed, not the first alone")
	assert.Equal(t, "293.5 mm over 24 links cannot be: it fits 23 links. Count the links again.", faults[1].Message)
}

// The laws a verdict keeps whatever is read.
func TestLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := chain.Links(rapid.IntRange(8, 60).Draw(t, "links"))
		d := chain.Drivetrain{Kind: chain.Derailleur, Sprockets: rapid.IntRange(1, 14).Draw(t, "sprockets"), Motor: chain.NoMotor}
		limits := rapid.SampledFrom(wear.Schools()).Draw(t, "school").Limits(d)
		pcts := rapid.SliceOfN(rapid.Float64Range(-0.25, 2.5), 1, wear.MaxPlaces).Draw(t, "places")
		more := rapid.Float64Range(0, 0.4).Draw(t, "more wear")
		at := func(add float64) wear.Measurement {
			var rs []wear.Reading
			for i, p := range pcts {
				rs = append(rs, wear.Length(i+1, n, chain.Percent(p+add).Length(n)))
			}
			return measure(t, wear.Ruler, rs...)
		}
		m := at(0)
		est, _ := m.Estimate()
		a := wear.Judge(m, limits)
		require.True(t, est.Sigma > 0 && a.PastLim >= 0 && a.PastLim <= 1 && a.PastBoth <= a.PastLim+1e-12, "chances %g and %g", a.PastLim, a.PastBoth)
		require.LessOrEqual(t, est.Mean, est.Worst+1e-12)

		// The same chain worn further never gets a milder verdict.
		worn := wear.Judge(at(more), limits)
		require.GreaterOrEqual(t, worn.Verdict, a.Verdict, "%.3f %% more wear", more)

		// Typed back in, a length is understood as itself.
		typed := fmt.Sprintf("%.3f", float64(est.Mean.Length(n)))
		e, err := wear.ParseEntry(wear.Ruler, n, 0, wear.Millimetres, typed)
		require.NoError(t, err)
		require.InDelta(t, float64(est.Mean.Growth(n)), float64(e.Past), 0.001)
	})
}

// The closed form for an interval agrees with adding up a blurred even spread in small steps.
func TestIntervalAgreesWithSlowSum(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		low := rapid.SampledFrom([]float64{0.25, 0.5, 0.75, 1}).Draw(t, "drops in")
		high := low + rapid.SampledFrom([]float64{0.25, 0.5, 1}).Draw(t, "to the next mark")
		limit := rapid.Float64Range(0.1, 2).Draw(t, "limit")
		m := measure(t, wear.GaugeDropin, wear.DropIn(1, wear.Mark{At: chain.Percent(low), DropsIn: true}, wear.Mark{At: chain.Percent(high)}))
		got := wear.Judge(m, wear.Limits{Limit: chain.Percent(limit), Together: 3}).PastLim
		v, _ := m.Interval()
		end, want, steps := high, 0.0, 4000
		for i := range steps {
			x := low + (end-low)*(float64(i)+0.5)/float64(steps)
			want += math.Erfc((limit-x)/float64(v.Edge)/math.Sqrt2) / 2 / float64(steps)
		}
		require.InDelta(t, want, got, 1e-5)
	})
}

func FuzzParseEntry(f *testing.F) {
	for _, s := range []string{"306.4", "12 1/16 in", "+1.6mm", "0,62", "1/0", "\x00", "9e999", "−.5”"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, typed string) {
		e, err := wear.ParseEntry(wear.Ruler, 24, 0, wear.Inches, typed)
		if err == nil && (math.IsNaN(float64(e.Length)) || math.IsInf(float64(e.Length), 0)) {
			t.Fatalf("%q was understood as %v", typed, e)
		}
	})
}

func ExampleJudge() {
	m, _ := wear.NewMeasurement(wear.Instrument{Kind: wear.Ruler}, []wear.Reading{wear.Length(1, 24, 306.4)}, nil)
	for _, s := range wear.Schools() {
		a := wear.Judge(m, s.Limits(chain.Drivetrain{Kind: chain.Derailleur, Sprockets: 12, Motor: chain.NoMotor}))
		fmt.Printf("%-13s limit %.2f %%  %s\n", s, float64(a.Limits.Limit), a.Verdict)
	}
	// Output:
	// protect       limit 0.50 %  unsure
	// half          limit 0.50 %  unsure
	// three-quarter limit 0.75 %  ok
	// run-out       limit 1.50 %  ok
}

func BenchmarkJudge(b *testing.B) {
	m := measure(b, wear.Ruler, wear.Length(1, 24, 306.4), wear.Length(2, 24, 306.2), wear.Length(3, 24, 306.5))
	limits := wear.Protect.Limits(twelve)
	for b.Loop() {
		wear.Judge(m, limits)
	}
}
