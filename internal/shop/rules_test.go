package shop_test

import (
	"context"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
)

// rules returns the house rules to be changed, and saves them changed.
func (t *tracked) rules(change func(*rules.Rules)) rules.RulesView {
	t.Helper()
	ctx := context.Background()
	v, err := t.CurrentRules(ctx)
	require.NoError(t, err)
	change(&v.Rules)
	v, err = t.ChangeRules(ctx, t.mira, v.Version, v.Rules)
	require.NoError(t, err)
	return v
}

// Another school judges what was recorded anew, wherever it is shown; the ledger keeps what was said
// then. Which verdicts would change is told before.
func TestAnotherSchoolJudgesAnew(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	m := b.read(0, "0.60")
	require.Equal(t, "replace", m.Wear.Verdict)

	v, err := b.CurrentRules(ctx)
	require.NoError(t, err)
	draft := v.Rules
	draft.WearSchool = "three-quarter"
	p, err := b.PreviewRules(ctx, draft)
	require.NoError(t, err)
	require.Len(t, p.Changed, 1)
	assert.Equal(t, []any{b.tag, "replace", "watch", 0.75, 1, 1}, []any{p.Changed[0].Tag, p.Changed[0].From, p.Changed[0].To, p.Changed[0].LimitPct, p.Judged, p.Total})
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	assert.Equal(t, "replace", bike.Last.Wear.Verdict, "a look changes nothing")

	v = b.rules(func(r *rules.Rules) { r.WearSchool = "three-quarter" })
	assert.Equal(t, "Mira Oxenholt", v.ChangedBy)
	bike, err = b.Bike(ctx, b.tag)
	require.NoError(t, err)
	assert.Equal(t, "watch", bike.Last.Wear.Verdict)
	assert.Equal(t, "replace", bike.Last.RecordedVerdict)
	page, err := b.FindBikes(ctx, "", false, "", 10)
	require.NoError(t, err)
	assert.Equal(t, "watch", page.Bikes[0].Chain.Verdict, "the list says the same as the page")
	ledger, err := b.Ledger(ctx, b.tag, 0, 10)
	require.NoError(t, err)
	assert.Equal(t, "replace", ledger.Entries[0].Measurement.Wear.Verdict, "what was said then stays in the ledger")

	// The shop's own line goes before its school; the bike's own before that; the maker's before all.
	b.rules(func(r *rules.Rules) {
		r.Classes[2].LimitPct, r.Classes[2].TogetherPct, r.Classes[2].LimitReason = ptr(0.55), ptr(0.58), "dear sprockets here"
	})
	last := func() measure.Measurement {
		bike, err = b.Bike(ctx, b.tag)
		require.NoError(t, err)
		return *bike.Last
	}
	assert.Equal(t, "unsure", last().Wear.Verdict)
	assert.Equal(t, "shop", last().Wear.Reasons[0].Source)
	change := func(alter func(*record.BikeFacts)) error {
		facts := bike.Facts
		alter(&facts)
		_, err := b.ChangeBike(ctx, b.mira, b.tag, bike.Version, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: facts})
		return err
	}
	assert.Equal(t, "invalid-input", code(t, change(func(f *record.BikeFacts) { f.WearSchool = "half" })), "why, it does not say")
	require.NoError(t, change(func(f *record.BikeFacts) { f.WearSchool, f.LimitReason = "half", "rides in salt" }))
	assert.Equal(t, "replace", last().Wear.Verdict)
	require.NoError(t, change(func(f *record.BikeFacts) { f.LimitPct, f.TogetherPct, f.LimitSource = ptr(0.9), ptr(1.1), "maker" }))
	assert.Equal(t, "ok", last().Wear.Verdict)
	w := b.track()
	assert.Equal(t, "maker", w.LimitFrom)
	assert.InDelta(t, 0.9, *w.LimitPct, 0)
}

// A chain that breaks under cargo, children or a mid motor throws the rider: nothing that a shop sets
// runs one out there.
func TestRunOutIsRefusedWhereItThrowsTheRider(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	cargo := commuter
	cargo.Kind = "cargo"
	b := openTracked(t, cargo)
	b.read(0, "0.70")
	v, err := b.CurrentRules(ctx)
	require.NoError(t, err)
	v.Rules.WearSchool = "run-out"
	p, err := b.PreviewRules(ctx, v.Rules)
	require.NoError(t, err)
	assert.Equal(t, 1, p.Refused)
	assert.Empty(t, p.Changed)
	b.rules(func(r *rules.Rules) { r.WearSchool = "run-out" })
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	assert.Equal(t, "replace", bike.Last.Wear.Verdict)

	for name, alter := range map[string]func(*record.BikeFacts){
		"by its school": func(f *record.BikeFacts) { f.WearSchool, f.LimitReason = "run-out", "cheap" },
		"by its limit": func(f *record.BikeFacts) {
			f.LimitPct, f.TogetherPct, f.LimitSource, f.LimitReason = ptr(1.4), ptr(1.5), "bike", "cheap"
		},
	} {
		facts := bike.Facts
		alter(&facts)
		_, err = b.ChangeBike(ctx, b.mira, b.tag, bike.Version, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: facts})
		var problem *record.Problem
		require.ErrorAs(t, err, &problem, name)
		assert.Equal(t, "school-refused", problem.Fields[0].Code, name)
	}
	b.fit(0)
	b.rules(priced)
	costs, err := b.Costs(ctx, b.tag)
	require.NoError(t, err)
	assert.True(t, costs.RunOutRefused)
	assert.Len(t, costs.Strategies, 2)
}

// priced gives every class of drivetrain prices.
func priced(r *rules.Rules) {
	for i := range r.Classes {
		c := &r.Classes[i]
		c.Chain, c.Sprockets, c.Rings = ptr(3500), ptr(9000), ptr(6000)
		c.LabourChain, c.LabourSprockets, c.LabourRings = ptr(1500), ptr(1200), ptr(1800)
	}
}

// Every fault of the rules is named at its field, and nothing of them is saved; who may not set them is
// told so, and the second of two who do sees both versions.
func TestRulesAreChecked(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, mira, _ := open(t)
	v, err := s.CurrentRules(ctx)
	require.NoError(t, err)
	bad := v.Rules
	bad.WearPlaces, bad.Currency, bad.SessionIdleMinutes = 9, "euro", 0
	bad.Factors.Wet, bad.ChainsPerSet.Half = 0, 2
	bad.Classes = []rules.ClassRule{{Class: "narrow-chain", LimitPct: ptr(0.5), Chain: ptr(100)}, {Class: "wide-chain", LimitPct: ptr(0.8), TogetherPct: ptr(0.7)},
		{Class: "one-sprocket", LimitPct: ptr(0.8), TogetherPct: ptr(0.9)}}
	_, err = s.ChangeRules(ctx, mira, v.Version, bad)
	var p *record.Problem
	require.ErrorAs(t, err, &p)
	var paths []string
	for _, f := range p.Fields {
		paths = append(paths, f.Path)
	}
	assert.ElementsMatch(t, []string{"rules.wear_places", "rules.currency", "rules.session_idle_minutes", "rules.factors.wet", "rules.chains_per_set",
		"rules.classes[0].limit_reason", "rules.classes[1].together_pct", "rules.classes[2].together_pct", "rules.classes[2].sprockets",
		"rules.classes[2].rings", "rules.classes[2].labour_chain", "rules.classes[2].labour_sprockets", "rules.classes[2].labour_rings"}, paths)
	now, err := s.CurrentRules(ctx)
	require.NoError(t, err)
	assert.Equal(t, v, now)

	good := v.Rules
	good.DistanceUnit = "mi"
	good.Factors.Wet = 2.2
	priced(&good)
	after, err := s.ChangeRules(ctx, mira, v.Version, good)
	require.NoError(t, err)
	assert.Equal(t, good, after.Rules, "what was set is what holds, to the last field")
	_, err = s.ChangeRules(ctx, mira, v.Version, v.Rules)
	require.ErrorAs(t, err, &p)
	assert.Equal(t, "changed-meanwhile", p.Code)
	assert.Equal(t, after, p.Theirs)
}

// What replacing early or late costs is reckoned by the road, from the bike's own forecast and prices.
func TestCostsOfABike(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	costs := func() bikes.BikeCosts {
		c, err := b.Costs(ctx, b.tag)
		require.NoError(t, err)
		return c
	}
	assert.Equal(t, []string{"chain-fitted", "prices"}, costs().Missing)
	b.fit(1000)
	b.rules(priced)
	guess := costs()
	require.Len(t, guess.Strategies, 3)
	assert.Equal(t, []any{0.5, true, false}, []any{guess.Strategies[0].LimitPct, guess.Strategies[0].InForce, guess.Strategies[0].RunOut})
	assert.Equal(t, []any{1.5, false, true}, []any{guess.Strategies[2].LimitPct, guess.Strategies[2].InForce, guess.Strategies[2].RunOut})
	// Drip wax lasts 5500 hard km to half a percent; half of this riding is wet, so a km counts 1.5.
	half := guess.Strategies[0]
	assert.InDelta(t, 5500/1.5, half.LifeKM.P50, 40)
	once := 5000.0 + 10200.0/4 + 7800.0/12
	assert.InDelta(t, once*1000/half.LifeKM.P50, half.Per1000KM.Mid, 1e-6)
	assert.InDelta(t, half.Per1000KM.Mid, half.ChainShare+half.SprocketsShare+half.RingsShare, 1e-6)
	assert.InDelta(t, half.Per1000KM.Mid*10*365.25/1000, half.PerYear.Mid, 1e-6, "ten km a day")
	for _, s := range guess.Strategies {
		assert.True(t, s.Per1000KM.Low < s.Per1000KM.Mid && s.Per1000KM.Mid < s.Per1000KM.High)
	}

	b.later(40)
	b.read(1600, "0.12")
	b.later(40)
	b.read(2200, "0.24")
	measured := costs()
	assert.Equal(t, 2, measured.Readings)
	width := func(c bikes.BikeCosts) float64 { return c.Strategies[0].Per1000KM.High / c.Strategies[0].Per1000KM.Low }
	assert.Less(t, width(measured), width(guess), "readings narrow the range")
}

// A segment of the odometer counts as it was ridden where somebody says so; chains are parts with a
// distance of their own.
func TestSegmentsAndChains(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.fit(1000)
	b.later(30)
	_, err := b.NoteOdometer(ctx, b.mira, b.tag, record.OdometerNote{KM: 1400, Mix: &record.Mix{Wet: 0.5, Salt: 0.6}})
	assert.Equal(t, "invalid-input", code(t, err), "more than the whole of it")
	_, err = b.NoteOdometer(ctx, b.mira, b.tag, record.OdometerNote{KM: 1400, Mix: &record.Mix{Wet: 0.5, Salt: 0.5}})
	require.NoError(t, err)
	b.later(10)
	_, err = b.FitChain(ctx, b.mira, b.tag, bikes.ChainFitting{OdometerKM: ptr(1500.0), What: "eleven-speed, 112 links"})
	require.NoError(t, err)
	b.later(20)
	_, err = b.NoteOdometer(ctx, b.mira, b.tag, record.OdometerNote{KM: 1700})
	require.NoError(t, err)
	w := b.track()
	require.Len(t, w.Segments, 3)
	assert.InDelta(t, 400*2.4, w.Segments[0].HardKM, 1e-9)
	assert.False(t, w.Segments[0].Usual)
	assert.InDelta(t, 100*1.5, w.Segments[1].HardKM, 1e-9)
	require.Len(t, w.Chains, 2)
	assert.InDelta(t, 960+150, w.Chains[0].HardKM, 1e-6)
	assert.InDelta(t, 300, w.Chains[1].HardKM, 1e-6)
	assert.Equal(t, []any{"eleven-speed, 112 links", 1500.0}, []any{w.Chains[1].What, *w.Chains[1].OdometerKM})

	b.rules(func(r *rules.Rules) { r.Factors.Salt = 3.8; r.DistanceUnit = "mi" })
	assert.InDelta(t, 400*2.9, b.track().Segments[0].HardKM, 1e-9, "the shop's own factor")
	_, err = b.NoteOdometer(ctx, b.mira, b.tag, record.OdometerNote{KM: 160.9344})
	assert.ErrorContains(t, err, "100 mi is less than the 1,056 mi", "told in the shop's unit")
}

// A tool's zero is taken off what it reads from its check on, and no earlier; a retired tool leaves the
// bench and stays in what it read.
func TestToolsAndTheirZero(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	before := b.read(0, "0.30")
	b.later(1)
	_, err := b.CheckZero(ctx, b.mira, b.tool, measure.ZeroReading{Text: "brand new"})
	assert.Equal(t, "invalid-input", code(t, err))
	understood, err := b.ReadZero(ctx, b.tool, measure.ZeroReading{Text: "0,12"})
	require.NoError(t, err)
	assert.InDelta(t, 0.12, understood.OffsetPct, 1e-12)
	tool, err := b.CheckZero(ctx, b.mira, b.tool, measure.ZeroReading{Text: "0,12"})
	require.NoError(t, err)
	assert.False(t, tool.ZeroCheckDue)
	assert.Equal(t, "2026-05-05", tool.ZeroCheckedOn)
	b.later(1)
	assert.InDelta(t, 0.18, *b.read(0, "0.30").Wear.ElongationPct, 1e-9)
	_, err = b.StrikeOut(ctx, b.mira, before.EntryID, "gauge was off")
	require.NoError(t, err)
	b.later(180)
	tools, err := b.Instruments(ctx, false)
	require.NoError(t, err)
	for _, tool := range tools {
		if tool.ID == b.tool {
			assert.True(t, tool.ZeroCheckDue, "half a year and two days later")
		}
	}

	retired, err := b.RetireInstrument(ctx, b.mira, b.tool, tool.Version, true)
	require.NoError(t, err)
	assert.True(t, retired.Retired)
	_, err = b.RetireInstrument(ctx, b.mira, b.tool, tool.Version, false)
	assert.Equal(t, "changed-meanwhile", code(t, err))
	_, err = b.CheckZero(ctx, b.mira, b.tool, measure.ZeroReading{Text: "0"})
	assert.Equal(t, "instrument-retired", code(t, err))
	_, err = b.RecordMeasurement(ctx, b.mira, b.tag, measure.NewMeasurement{InstrumentID: b.tool, Entries: []measure.BenchEntry{{Place: 1, Text: "0.3"}}})
	assert.ErrorContains(t, err, "no longer in use")
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	assert.Equal(t, "Percent gauge", bike.Last.Instrument.Name)

	// Its name is free for another; then it cannot come back under it.
	other, err := b.AddInstrument(ctx, b.mira, measure.NewInstrument{Kind: "gauge-percent", Facts: measure.InstrumentFacts{Name: "percent GAUGE"}})
	require.NoError(t, err)
	_, err = b.RetireInstrument(ctx, b.mira, b.tool, retired.Version, false)
	assert.ErrorContains(t, err, "has this name already")
	_, err = b.ChangeInstrument(ctx, b.mira, other.ID, other.Version, measure.InstrumentFacts{Name: "Steel rule"})
	assert.ErrorContains(t, err, "has this name already")
	_, err = b.ChangeInstrument(ctx, b.mira, other.ID, other.Version, measure.InstrumentFacts{Name: "Blue gauge", Spreads: true})
	require.NoError(t, err)
	view, err := b.Instrument(ctx, other.ID)
	require.NoError(t, err)
	require.Len(t, view.History, 2)
	assert.Equal(t, []string{"name", "spreads"}, view.History[0].Changed)
	view, err = b.Instrument(ctx, b.tool)
	require.NoError(t, err)
	assert.Equal(t, []any{"zero-checked", 0.12, 0.0}, []any{view.History[1].Kind, *view.History[1].OffsetPct, *view.History[1].BeforePct})

	for name, n := range map[string]measure.NewInstrument{
		"no name":                {Kind: "ruler"},
		"a ruler with marks":     {Kind: "ruler", Facts: measure.InstrumentFacts{Name: "R", MarksPct: []float64{0.5}}},
		"a gauge without marks":  {Kind: "gauge-dropin", Facts: measure.InstrumentFacts{Name: "D"}},
		"a mark that is none":    {Kind: "gauge-dropin", Facts: measure.InstrumentFacts{Name: "D", MarksPct: []float64{0.5, 75}}},
		"a mark that is twice":   {Kind: "gauge-dropin", Facts: measure.InstrumentFacts{Name: "D", MarksPct: []float64{0.5, 0.5}}},
		"a kind nobody knows of": {Kind: "guess", Facts: measure.InstrumentFacts{Name: "G"}},
	} {
		_, err := b.AddInstrument(ctx, b.mira, n)
		assert.Equal(t, "invalid-input", code(t, err), name)
	}
	dropin, err := b.AddInstrument(ctx, b.mira, measure.NewInstrument{Kind: "gauge-dropin", Facts: measure.InstrumentFacts{Name: "D", MarksPct: []float64{1, 0.5}}})
	require.NoError(t, err)
	assert.Equal(t, []float64{0.5, 1}, dropin.MarksPct)
	_, err = b.CheckZero(ctx, b.mira, dropin.ID, measure.ZeroReading{})
	assert.ErrorContains(t, err, "retire it", "a mark that drops into a new chain")
	_, err = b.CheckZero(ctx, b.mira, dropin.ID, measure.ZeroReading{MarksStayOut: true})
	require.NoError(t, err)
	_, err = b.Instrument(ctx, uuid.New())
	assert.Equal(t, "instrument-not-found", code(t, err))
}

// Where a chain was read by tools of both sorts the bench says which to trust, and no number changes.
func TestBenchTellsOfBothSorts(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	tools := map[string]uuid.UUID{}
	list, err := b.Instruments(ctx, false)
	require.NoError(t, err)
	for _, tool := range list {
		tools[tool.Kind] = tool.ID
	}
	ask := func(kind, text string) measure.BenchAnswer {
		a, err := b.ReadBench(ctx, measure.BenchQuestion{Tag: b.tag, InstrumentID: tools[kind], Entries: []measure.BenchEntry{{Place: 1, Text: text}}})
		require.NoError(t, err)
		return a
	}
	b.fit(0)
	b.later(10)
	b.read(200, "0.30") // the gauge spreads the rollers
	assert.Nil(t, ask("gauge-percent", "0.3").Bias, "the same sort")
	a := ask("ruler", "305.4")
	require.NotNil(t, a.Bias)
	assert.False(t, a.Bias.Spreads)
	assert.Equal(t, "Percent gauge", a.Bias.Instrument)
	assert.InDelta(t, 0.3, *a.Bias.ElongationPct, 1e-9)
	assert.False(t, b.track().BothSorts)
	_, err = b.RecordMeasurement(ctx, b.mira, b.tag, measure.NewMeasurement{InstrumentID: tools["ruler"], Entries: []measure.BenchEntry{{Place: 1, Text: "305.4"}}})
	require.NoError(t, err)
	assert.True(t, ask("caliper-inside", "119.8").Bias.Spreads, "inside jaws spread them whatever their record says")
	assert.True(t, b.track().BothSorts)
	b.later(1)
	b.fit(300)
	assert.Nil(t, ask("ruler", "304.9").Bias, "a new chain has no readings yet")
}

func TestSimulatedTool(t *testing.T) {
	t.Parallel()
	s, _, _ := open(t)
	_, err := s.SimulateReading(measure.SimulatedChain{Kind: "gauge-percent", WornPct: 0.5})
	assert.Equal(t, "no-simulated-tool", code(t, err), "a shop has none unless one is plugged in")
}
