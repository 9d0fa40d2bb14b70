package shop_test

import (
	"context"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop"
)

// rule changes how the shop works.
func (w *atWork) rule(change func(*shop.Work)) {
	w.Helper()
	v, err := w.Rules(context.Background())
	require.NoError(w, err)
	change(&v.Rules.Work)
	_, err = w.ChangeRules(context.Background(), w.mira, v.Version, v.Rules)
	require.NoError(w, err)
}

func (w *atWork) ways() shop.JobOptions {
	w.Helper()
	o, err := w.JobOptions(context.Background(), w.job.ID)
	require.NoError(w, err)
	return o
}

func way(o shop.JobOptions, route string) shop.JobOption {
	return o.Options[slices.IndexFunc(o.Options, func(w shop.JobOption) bool { return w.Route == route })]
}

// A quote goes line by line, is a range where the lighter way may not do, and says what one visit saves;
// going beyond what was agreed asks the owner first.
func TestQuoteOfAJob(t *testing.T) {
	ctx := context.Background()
	oiled := shop.Arrival{CleaningQuestion: shop.CleaningQuestion{FrameGrade: 1, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}, Complaints: []string{"squeaks"}}
	w := takeIn(t, commuter, oiled)
	w.rule(func(r *shop.Work) {
		r.LabourHour, r.LabourStep, r.FluidsBy, r.TaxPct = 6000, 5, 2, 20
		r.WasteRoute = map[string]int{"bath": 80}
	})
	_, err := w.AddMaterial(ctx, w.mira, "", shop.NewMaterialFacts{Kind: "oil", Facts: shop.MaterialFacts{Name: "Oil", Quantity: 100, PackSize: ptr(100.0), PackCost: ptr(1000)}})
	require.NoError(t, err)
	bath := way(w.ways(), "bath").Plan
	require.NotNil(t, bath)
	lines := map[string]shop.QuoteLine{}
	for _, l := range bath.Quote.Lines {
		lines[l.Kind+l.Code] = l
	}
	charged := (bath.HandsMin + 4) / 5 * 5
	assert.InDelta(t, float64(charged), lines["labourbath"].Count, 1e-9, "minutes, rounded up to five")
	assert.InDelta(t, float64(100*charged), lines["labourbath"].Amount, 1e-9)
	assert.InDelta(t, (4.56+0.3)*10*2, lines["fluidoil"].Amount, 1e-9, "mL at 10, twice what they cost")
	assert.InDelta(t, 80, lines["wastebath"].Amount, 1e-9)
	before := lines["labourbath"].Amount + lines["fluidoil"].Amount + lines["wastebath"].Amount
	assert.InDelta(t, before*1.2, float64(bath.Quote.Total), 0.5)
	require.NotNil(t, bath.Quote.High, "it may turn into a soak")
	assert.Greater(t, *bath.Quote.High, bath.Quote.Total)
	assert.Positive(t, bath.Quote.SavedMin, "cleaned and looked into in one visit")
	assert.Nil(t, way(w.ways(), "soak").Plan.Quote.High)

	w.rule(func(r *shop.Work) { r.FixedRoute = map[string]int{"bath": 4500} })
	fixed := way(w.ways(), "bath").Plan.Quote
	assert.InDelta(t, 4500, fixed.Lines[0].Amount, 1e-9)

	// Planned at a price that was agreed, and planned again for much more.
	w.plan(shop.JobOrder{Agreed: ptr(1000)})
	w.until("final-look")
	w.done("final-look")
	_, err = w.HandBackJob(ctx, w.mira, w.job.ID, shop.HandBack{Version: w.job.Version})
	assert.Equal(t, map[string]string{"asked": "missing"}, faults(t, err))
	job, err := w.HandBackJob(ctx, w.mira, w.job.ID, shop.HandBack{Version: w.job.Version, Asked: true})
	require.NoError(t, err)
	assert.Equal(t, "handed-back", job.State)
	bike, err := w.Bike(ctx, w.tag)
	require.NoError(t, err)
	assert.Equal(t, "all-weather", bike.Facts.Lubricant, "what was put on stands on its card")
	assert.Equal(t, "check-squeaks", job.StepList[slices.IndexFunc(job.StepList, func(s shop.StepView) bool { return len(s.Causes) > 0 })].Code)
}

// The shop's schools change the plan.
func TestSchoolsChangeThePlan(t *testing.T) {
	w := takeIn(t, commuter, shop.Arrival{CleaningQuestion: shop.CleaningQuestion{FrameGrade: 3, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}})
	at := func(code string) int {
		return slices.IndexFunc(w.job.StepList, func(s shop.StepView) bool { return s.Code == code })
	}
	w.plan(shop.JobOrder{})
	assert.Less(t, at("bath-on"), at("cleaner-on"), "the drivetrain first")
	w.rule(func(r *shop.Work) {
		r.First, r.Blower, r.Minutes = "frame-first", true, map[string]int{"agitate": 25}
	})
	w.plan(shop.JobOrder{})
	assert.Less(t, at("rinse"), at("bath-on"), "grit gone first")
	assert.Equal(t, []int{25, 15}, []int{w.step("agitate").Minutes, w.step("air-dry").Wait.Least})
	assert.Equal(t, "low-pressure-washer", w.ways().Cleaning.Choice.Washes[3].Wash)
	w.rule(func(r *shop.Work) { r.Pressure = "never" })
	assert.True(t, w.ways().Cleaning.Choice.Washes[3].Refused)
	_, err := w.PlanJob(context.Background(), w.mira, w.job.ID, shop.JobOrder{Version: w.job.Version, Wash: "low-pressure-washer", Reason: "it is filthy"})
	assert.Equal(t, map[string]string{"route": "pressure-not-here"}, faults(t, err))

	v, err := w.Rules(context.Background())
	require.NoError(t, err)
	r := v.Rules
	r.Work = shop.Work{First: "tea-first", Pressure: "high", When: "never", Minutes: map[string]int{"polish": 3, "oil": -1}, LabourHour: -1, FluidsBy: -2, TaxPct: 120, AskOverPct: 101,
		FixedRoute: map[string]int{"polish": 1}, WasteRoute: map[string]int{"soak": -1}}
	_, err = w.ChangeRules(context.Background(), w.mira, v.Version, r)
	assert.Equal(t, map[string]string{"rules.work.first": "unknown-value", "rules.work.pressure": "unknown-value", "rules.work.when": "unknown-value",
		"rules.work.minutes.polish": "unknown-value", "rules.work.minutes.oil": "out-of-range", "rules.work.labour_hour": "out-of-range", "rules.work.labour_step": "out-of-range",
		"rules.work.fluids_by": "out-of-range", "rules.work.tax_pct": "out-of-range", "rules.work.ask_over_pct": "out-of-range",
		"rules.work.fixed_route.polish": "unknown-value", "rules.work.waste_route.soak": "out-of-range"}, faults(t, err))
}

// A label that says something comes before the house; wax that is in a damp place is said to be weak there.
func TestLabelsAndLubricants(t *testing.T) {
	ctx := context.Background()
	w := takeIn(t, commuter, shop.Arrival{CleaningQuestion: shop.CleaningQuestion{FrameGrade: 2, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}})
	_, err := w.PlanJob(ctx, w.mira, w.job.ID, shop.JobOrder{Version: w.job.Version, Route: "soak", Reason: "overnight", LongSoak: true})
	assert.Equal(t, map[string]string{"route": "label-allows-no-long-soak"}, faults(t, err))
	_, err = w.AddMaterial(ctx, w.mira, "", shop.NewMaterialFacts{Kind: "degreaser", Facts: shop.MaterialFacts{Name: "Degreaser",
		Card: shop.ProductCard{ProductParts: ptr(1.0), WaterParts: ptr(4.0), LongSoak: true, NoRinse: true, DwellLeast: ptr(3), DwellMost: ptr(6)}}})
	require.NoError(t, err)
	_, err = w.AddMaterial(ctx, w.mira, "", shop.NewMaterialFacts{Kind: "shampoo", Facts: shop.MaterialFacts{Name: "Shampoo", Card: shop.ProductCard{DwellLeast: ptr(9), DwellMost: ptr(3), ProductParts: ptr(1.0), TempLeast: ptr(90.0)}}})
	assert.Equal(t, map[string]string{"facts.card.dwell_most_min": "out-of-range", "facts.card.water_parts": "out-of-range", "facts.card.temp_most_c": "out-of-range"}, faults(t, err))
	w.plan(shop.JobOrder{Route: "soak", Reason: "overnight", LongSoak: true})
	jar := w.step("jar")
	assert.InDeltaSlice(t, []float64{50, 200}, []float64{jar.Amounts[0].Amount, jar.Amounts[0].WaterML}, 1e-9, "mL: one part to four")
	assert.Equal(t, 1440, jar.Wait.Most)
	assert.Equal(t, 3, w.step("sprockets-wet").Wait.Least)
	assert.False(t, slices.ContainsFunc(w.job.StepList, func(s shop.StepView) bool { return s.Code == "chain-rinse" }))

	assert.InDelta(t, 250/1.5, w.job.Plan.RelubricateKM, 1e-9, "km: all-weather oil, half of it in the wet")
	w.rule(func(r *shop.Work) { r.Damp, r.When = true, "little-and-often" })
	assert.InDelta(t, 60/1.5, way(w.ways(), "soak").Plan.RelubricateKM, 1e-9, "km, by the other school")
	for _, c := range w.ways().Lubes.Choices {
		if c.Family == "immersion-wax" {
			assert.Contains(t, c.Against, "weak-against-rust-here")
			assert.Contains(t, c.Against, "needs-bare-metal")
		}
		assert.Positive(t, c.EveryHardKM)
	}
}

// Two tablets finish one step at the same moment: it is done once, and its wait runs once. A deed sent
// twice is done once.
func TestStepsAtTheSameMoment(t *testing.T) {
	ctx := context.Background()
	w := takeIn(t, commuter, shop.Arrival{CleaningQuestion: shop.CleaningQuestion{FrameGrade: 1, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}})
	w.plan(shop.JobOrder{Route: "soak", Reason: "there is time"})
	w.until("jar")
	person, err := w.AddPerson(ctx, "Tobiah Marsh", "mechanic", "3141")
	require.NoError(t, err)
	people := []shop.Actor{w.mira, {Person: person, Device: "stand 2"}}
	deed := shop.StepDeed{Deed: "done", Seen: w.step("jar").Cautions}
	errs := make([]error, 8)
	var all sync.WaitGroup
	for i := range errs {
		all.Go(func() { _, errs[i] = w.DoStep(ctx, people[i%2], "", w.job.ID, "jar", deed) })
	}
	all.Wait()
	done := 0
	for _, err := range errs {
		if err == nil {
			done++
		} else {
			assert.Equal(t, "step-done", problem(t, err).Code)
		}
	}
	assert.Equal(t, 1, done)
	waits, err := w.Waits(ctx)
	require.NoError(t, err)
	assert.Len(t, waits.Waits, 1)

	job, err := w.Job(ctx, w.mira, w.job.ID)
	require.NoError(t, err)
	next := job.Current
	for range 3 {
		_, err = w.DoStep(ctx, w.mira, "tapped-thrice", w.job.ID, next, shop.StepDeed{Deed: "done", Seen: []string{"brakes", "gloves", "fingers", "torque"}})
		require.NoError(t, err)
	}
	_, err = w.DoStep(ctx, shop.Actor{Person: shop.Person{ID: uuid.New(), Role: "counter"}}, "", w.job.ID, next, deed)
	assert.Equal(t, "not-allowed", problem(t, err).Code)
	*w.now = w.now.Add(3 * time.Hour)
	late, err := w.Waits(ctx)
	require.NoError(t, err)
	assert.True(t, late.Now.After(*late.Waits[0].MostAt), "nobody took it: it is still there, too late")
}

// A wax pot takes several chains, is kept hot while one is in it, and is held by the card of its wax.
func TestSeveralChainsInOnePot(t *testing.T) {
	ctx := context.Background()
	w := takeIn(t, commuter, shop.Arrival{CleaningQuestion: shop.CleaningQuestion{FrameGrade: 0, DrivetrainGrade: 1, LubricantOn: "immersion-wax", LubricantNext: "immersion-wax"}})
	pot, err := w.AddBath(ctx, w.mira, "", shop.NewBath{Kind: "wax-pot", Facts: shop.BathFacts{Name: "Pot", Fluid: "wax", VolumeML: 400}})
	require.NoError(t, err)
	assert.Equal(t, []any{85.0, 110.0, 130.0}, []any{pot.Pot.LeastC, pot.Pot.MostC, pot.Pot.AlarmC}, "°C without a card")
	_, err = w.AddMaterial(ctx, w.mira, "", shop.NewMaterialFacts{Kind: "immersion-wax", Facts: shop.MaterialFacts{Name: "Wax", Quantity: 500, Card: shop.ProductCard{TempLeast: ptr(93.0), TempMost: ptr(120.0)}}})
	require.NoError(t, err)
	w.PlugInProbe(func(since *time.Time, _ time.Time) float64 {
		if since == nil {
			return 20
		}
		return 131
	})
	other := *w
	owner, err := w.AddCustomer(ctx, w.mira, "", shop.CustomerFacts{Name: "Kester"})
	require.NoError(t, err)
	second, err := w.AddBike(ctx, w.mira, "", shop.NewBike{CustomerID: owner.ID, Facts: commuter})
	require.NoError(t, err)
	w.plan(shop.JobOrder{})
	w.until("wax-off")
	track := *w.tracked
	track.tag = second.Tag
	other.tracked = &track
	other.open(shop.Arrival{CleaningQuestion: shop.CleaningQuestion{FrameGrade: 0, DrivetrainGrade: 1, LubricantOn: "immersion-wax", LubricantNext: "immersion-wax"}})
	other.plan(shop.JobOrder{})
	other.until("wax-in")
	other.done("wax-in")
	w.done("wax-off")
	see := func() shop.Bath {
		baths, err := w.Baths(ctx)
		require.NoError(t, err)
		return baths[0]
	}
	b := see()
	assert.NotNil(t, b.Pot.HeatingSince, "the other chain is still in it")
	assert.Equal(t, []any{"alarm", true, 130.0}, []any{b.Pot.State, b.Pot.Simulated, b.Pot.AlarmC}, "the card's band, its alarm ten above")
	assert.Equal(t, []any{38, 386.0}, []any{b.Left, *b.GramsLeft}, "two dips of seven grams")
	other.until("wax-off")
	other.done("wax-off")
	assert.Nil(t, see().Pot.HeatingSince)
}
