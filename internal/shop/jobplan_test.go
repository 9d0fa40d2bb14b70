package shop_test

import (
	"context"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// rule changes how the shop works.
func (w *atWork) rule(change func(*rules.WorkRules)) {
	w.Helper()
	v, err := w.CurrentRules(context.Background())
	require.NoError(w, err)
	change(&v.Rules.Work)
	_, err = w.ChangeRules(context.Background(), w.mira, v.Version, v.Rules)
	require.NoError(w, err)
}

func (w *atWork) ways() jobs.JobOptions {
	w.Helper()
	o, err := w.JobOptions(context.Background(), w.job.ID)
	require.NoError(w, err)
	return o
}

func way(o jobs.JobOptions, route string) jobs.JobOption {
	return o.Options[slices.IndexFunc(o.Options, func(w jobs.JobOption) bool { return w.Route == route })]
}

// A quote goes line by line, is a range where the lighter way may not do, and says what one visit saves;
// going beyond what was agreed asks the owner first.
func TestQuoteOfAJob(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	oiled := jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}, Complaints: []string{"squeaks"}}
	w := takeIn(t, commuter, oiled)
	w.rule(func(r *rules.WorkRules) {
		r.LabourHour, r.LabourStep, r.FluidsBy, r.TaxPct = 6000, 5, 2, 20
		r.WasteRoute = map[string]int{"bath": 80}
	})
	_, err := w.AddMaterial(ctx, w.mira, stock.NewMaterialFacts{Kind: "oil", Facts: stock.MaterialFacts{Name: "Oil", Quantity: 100, PackSize: ptr(100.0), PackCost: ptr(1000)}})
	require.NoError(t, err)
	bath := way(w.ways(), "bath").Plan
	require.NotNil(t, bath)
	lines := map[string]jobs.QuoteLine{}
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

	w.rule(func(r *rules.WorkRules) { r.FixedRoute = map[string]int{"bath": 4500} })
	fixed := way(w.ways(), "bath").Plan.Quote
	assert.InDelta(t, 4500, fixed.Lines[0].Amount, 1e-9)

	// Planned at a price that was agreed, and planned again, for much more and by others: what was agreed stands, with who
	// and when. So does the time that was promised.
	tobiah, err := w.AddPerson(ctx, "Tobiah Marsh", "mechanic", "3141")
	require.NoError(t, err)
	promised := w.now.Add(8 * time.Hour)
	w.plan(jobs.JobOrder{Agreed: ptr(1000), PromisedAt: &promised})
	agreed, when := *w.job.Agreed, *w.job.Promised
	assert.Equal(t, []any{1000, "Mira Oxenholt", "Mira Oxenholt"}, []any{agreed.Price, agreed.By, when.By})
	assert.WithinDuration(t, *w.now, *agreed.At, time.Second)
	*w.now = w.now.Add(time.Hour)
	for _, order := range []jobs.JobOrder{{Route: "soak", Reason: "it grinds"}, {Agreed: ptr(1000), PromisedAt: &promised}} {
		order.Version = w.job.Version
		w.job, err = w.PlanJob(ctx, record.Actor{Person: tobiah, Device: "stand 2"}, w.job.ID, order)
		require.NoError(t, err)
		assert.Equal(t, []any{agreed, when}, []any{*w.job.Agreed, *w.job.Promised}, "a new plan agrees on nothing")
	}
	w.finish()
	_, err = w.HandBackJob(ctx, w.mira, w.job.ID, jobs.HandBack{Version: w.job.Version})
	assert.Equal(t, map[string]string{"asked": "missing"}, faults(t, err))
	job, err := w.HandBackJob(ctx, w.mira, w.job.ID, jobs.HandBack{Version: w.job.Version, Asked: true})
	require.NoError(t, err)
	assert.Equal(t, store.JobHandedBack, job.State)
	assert.Equal(t, job.Bill.Total, job.Agreed.Price, "asked, the owner agreed on another")
	bike, err := w.Bike(ctx, w.tag)
	require.NoError(t, err)
	assert.Equal(t, "all-weather", bike.Facts.Lubricant, "what was put on stands on its card")
	assert.Equal(t, "check-squeaks", job.StepList[slices.IndexFunc(job.StepList, func(s jobs.StepView) bool { return len(s.Causes) > 0 })].Code)
}

// The shop's schools change the plan.
func TestSchoolsChangeThePlan(t *testing.T) {
	t.Parallel()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 3, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}})
	bath := jobs.JobOrder{Route: "bath", Reason: "wanted at noon"}
	at := func(code string) int {
		return slices.IndexFunc(w.job.StepList, func(s jobs.StepView) bool { return s.Code == code })
	}
	w.plan(bath)
	assert.Less(t, at("bath-on"), at("cleaner-on"), "the drivetrain first")
	w.rule(func(r *rules.WorkRules) {
		r.First, r.Blower, r.Minutes = "frame-first", true, map[string]int{"agitate": 25}
	})
	w.plan(bath)
	assert.Less(t, at("rinse"), at("bath-on"), "grit gone first")
	assert.Equal(t, []int{25, 15}, []int{w.step("agitate").Minutes, w.step("air-dry").Wait.Least})
	assert.Equal(t, "low-pressure-washer", w.ways().Cleaning.Choice.Washes[3].Wash)
	w.rule(func(r *rules.WorkRules) { r.Crank, r.OilBy, r.Washer = "forward", "stream", true })
	w.plan(bath)
	assert.Contains(t, w.step("bath-degrease").Do, "rear wheel off the ground")
	assert.Contains(t, w.step("oil").Do, "thin stream")
	w.rule(func(r *rules.WorkRules) { r.Pressure = "never" })
	assert.True(t, w.ways().Cleaning.Choice.Washes[3].Refused)
	_, err := w.PlanJob(context.Background(), w.mira, w.job.ID, jobs.JobOrder{Version: w.job.Version, Wash: "low-pressure-washer", Reason: "it is filthy"})
	assert.Equal(t, map[string]string{"route": "pressure-not-here"}, faults(t, err))

	v, err := w.CurrentRules(context.Background())
	require.NoError(t, err)
	r := v.Rules
	r.Work = rules.WorkRules{First: "tea-first", Pressure: "high", When: "never", Minutes: map[string]int{"polish": 3, "oil": -1}, LabourHour: -1, FluidsBy: -2, TaxPct: 120, AskOverPct: 101,
		FixedRoute: map[string]int{"polish": 1}, WasteRoute: map[string]int{"soak": -1}}
	_, err = w.ChangeRules(context.Background(), w.mira, v.Version, r)
	assert.Equal(t, map[string]string{"rules.work.first": "unknown-value", "rules.work.pressure": "unknown-value", "rules.work.when": "unknown-value",
		"rules.work.minutes.polish": "unknown-value", "rules.work.minutes.oil": "out-of-range", "rules.work.labour_hour": "out-of-range", "rules.work.labour_step": "out-of-range",
		"rules.work.fluids_by": "out-of-range", "rules.work.tax_pct": "out-of-range", "rules.work.ask_over_pct": "out-of-range",
		"rules.work.fixed_route.polish": "unknown-value", "rules.work.waste_route.soak": "out-of-range",
		"rules.work.wash_product": "unknown-value", "rules.work.crank": "unknown-value", "rules.work.cleaner": "unknown-value", "rules.work.oiling": "unknown-value",
		"rules.work.oil_by": "unknown-value", "rules.work.strip": "unknown-value"}, faults(t, err))
}

// A label that says something comes before the house; wax that is in a damp place is said to be weak there.
func TestLabelsAndLubricants(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 2, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}})
	_, err := w.PlanJob(ctx, w.mira, w.job.ID, jobs.JobOrder{Version: w.job.Version, Route: "soak", Reason: "overnight", LongSoak: true})
	assert.Equal(t, map[string]string{"route": "label-allows-no-long-soak"}, faults(t, err))
	_, err = w.AddMaterial(ctx, w.mira, stock.NewMaterialFacts{Kind: "degreaser", Facts: stock.MaterialFacts{Name: "Degreaser",
		Card: stock.ProductCard{ProductParts: ptr(1.0), WaterParts: ptr(4.0), LongSoak: true, NoRinse: true, DwellLeast: ptr(3), DwellMost: ptr(6)}}})
	require.NoError(t, err)
	_, err = w.AddMaterial(ctx, w.mira, stock.NewMaterialFacts{Kind: "shampoo", Facts: stock.MaterialFacts{Name: "Shampoo", Card: stock.ProductCard{DwellLeast: ptr(9), DwellMost: ptr(3), ProductParts: ptr(1.0), TempLeast: ptr(90.0)}}})
	assert.Equal(t, map[string]string{"facts.card.dwell_most_min": "out-of-range", "facts.card.water_parts": "out-of-range", "facts.card.temp_most_c": "out-of-range"}, faults(t, err))
	w.plan(jobs.JobOrder{Route: "soak", Reason: "overnight", LongSoak: true})
	jar := w.step("jar")
	assert.InDeltaSlice(t, []float64{50, 200}, []float64{jar.Amounts[0].Amount, jar.Amounts[0].WaterML}, 1e-9, "mL: one part to four")
	assert.Equal(t, 1440, jar.Wait.Most)
	assert.Equal(t, 3, w.step("sprockets-wet").Wait.Least)
	assert.False(t, slices.ContainsFunc(w.job.StepList, func(s jobs.StepView) bool { return s.Code == "chain-rinse" }))

	assert.InDelta(t, 250/1.5, w.job.Plan.RelubricateKM, 1e-9, "km: all-weather oil, half of it in the wet")
	w.rule(func(r *rules.WorkRules) { r.Damp, r.When = true, "little-and-often" })
	assert.InDelta(t, 60/1.5, way(w.ways(), "soak").Plan.RelubricateKM, 1e-9, "km, by the other school")
	for _, c := range w.ways().Lubes.Choices {
		if c.Family == "immersion-wax" {
			assert.Contains(t, c.Against, "weak-against-rust-here")
			assert.Contains(t, c.Against, "needs-bare-metal")
		}
		assert.Positive(t, c.EveryHardKM)
	}
}

// Two tablets finish one step at the same moment: it is done once, and its wait runs once. An action sent
// twice is done once.
func TestStepsAtTheSameMoment(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}})
	w.plan(jobs.JobOrder{Route: "soak", Reason: "there is time"})
	w.until("jar")
	person, err := w.AddPerson(ctx, "Tobiah Marsh", "mechanic", "3141")
	require.NoError(t, err)
	people := []record.Actor{w.mira, {Person: person, Device: "stand 2"}}
	action := jobs.StepAction{Action: "done", Seen: w.step("jar").Cautions}
	errs := make([]error, 8)
	var all sync.WaitGroup
	for i := range errs {
		all.Go(func() { _, errs[i] = w.DoStep(ctx, people[i%2], w.job.ID, "jar", action) })
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
	tapped := w.mira
	tapped.Key = "tapped-thrice"
	for range 3 {
		_, err = w.DoStep(ctx, tapped, w.job.ID, next, jobs.StepAction{Action: "done", Seen: []string{"brakes", "gloves", "fingers", "torque"}})
		require.NoError(t, err)
	}
	*w.now = w.now.Add(3 * time.Hour)
	late, err := w.Waits(ctx)
	require.NoError(t, err)
	assert.True(t, late.Now.After(*late.Waits[0].MostAt), "nobody took it: it is still there, too late")
}

// A wax pot takes several chains, is kept hot while one is in it, and is held by the card of its wax.
func TestSeveralChainsInOnePot(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 0, DrivetrainGrade: 1, LubricantOn: "immersion-wax", LubricantNext: "immersion-wax"}})
	pot, err := w.AddBath(ctx, w.mira, stock.NewBath{Kind: "wax-pot", Facts: stock.BathFacts{Name: "Pot", Fluid: "wax", VolumeML: 400}})
	require.NoError(t, err)
	assert.Equal(t, []any{85.0, 110.0, 130.0}, []any{pot.Pot.LeastC, pot.Pot.MostC, pot.Pot.AlarmC}, "°C without a card")
	_, err = w.AddMaterial(ctx, w.mira, stock.NewMaterialFacts{Kind: "immersion-wax", Facts: stock.MaterialFacts{Name: "Wax", Quantity: 500, Card: stock.ProductCard{TempLeast: ptr(93.0), TempMost: ptr(120.0)}}})
	require.NoError(t, err)
	w.PlugInProbe(func(since *time.Time, _ time.Time) float64 {
		if since == nil {
			return 20
		}
		return 131
	})
	other := *w
	owner, err := w.AddCustomer(ctx, w.mira, record.CustomerFacts{Name: "Kester"})
	require.NoError(t, err)
	second, err := w.AddBike(ctx, w.mira, bikes.NewBike{CustomerID: owner.ID, Facts: commuter})
	require.NoError(t, err)
	w.plan(jobs.JobOrder{})
	w.until("wax-off")
	track := *w.tracked
	track.tag = second.Tag
	other.tracked = &track
	other.open(jobs.Intake{Condition: jobs.Condition{FrameGrade: 0, DrivetrainGrade: 1, LubricantOn: "immersion-wax", LubricantNext: "immersion-wax"}})
	other.plan(jobs.JobOrder{})
	other.until("wax-in")
	other.done("wax-in")
	// The heat is not said to be off while another's chain needs it.
	err = w.try(w.mira, "wax-off", jobs.StepAction{Action: "done", Seen: w.step("wax-off").Cautions})
	assert.Equal(t, "pot-in-use", problem(t, err).Code)
	assert.Contains(t, err.Error(), second.Tag)
	see := func() stock.Bath {
		baths, err := w.Baths(ctx)
		require.NoError(t, err)
		return baths[0]
	}
	b := see()
	assert.NotNil(t, b.Pot.HeatingSince, "the other chain is still in it")
	assert.Equal(t, []any{"alarm", true, 130.0}, []any{b.Pot.State, b.Pot.Simulated, b.Pot.AlarmC}, "the card's band, its alarm ten above")
	assert.Equal(t, []any{38, 386.0}, []any{b.Left, *b.GramsLeft}, "two dips of seven grams")
	other.until("wax-off")
	w.done("wax-off")
	assert.Nil(t, see().Pot.HeatingSince, "both have had their time")
	other.done("wax-off")
	assert.Nil(t, see().Pot.HeatingSince)
}

// A plan that needs a bath of which none takes its load is refused, until one is there that does.
func TestPlansRefusedForTheirBaths(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	waxed := jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "immersion-wax"}}
	w := takeIn(t, commuter, waxed)
	kept, err := w.AddBath(ctx, w.mira, stock.NewBath{Kind: "ultrasonic-tank", Facts: stock.BathFacts{Name: "New chains", Fluid: "degreaser", VolumeML: 3000, CleanOnly: true}})
	require.NoError(t, err)
	try := func() error {
		_, err := w.PlanJob(ctx, w.mira, w.job.ID, jobs.JobOrder{Version: w.job.Version})
		return err
	}
	assert.Equal(t, map[string]string{"route": "bath-clean-only"}, faults(t, try()), "a dirty chain for a clean bath")
	assert.Equal(t, []string{"clean-only"}, []string{way(w.ways(), "bare").Baths[0].Code})
	_, err = w.DoBath(ctx, w.mira, kept.ID, stock.BathAction{Action: "retire"})
	require.NoError(t, err)

	tank, err := w.AddBath(ctx, w.mira, stock.NewBath{Kind: "ultrasonic-tank", Facts: stock.BathFacts{Name: "Tank", Fluid: "degreaser", VolumeML: 3000}})
	require.NoError(t, err)
	w.plan(jobs.JobOrder{})
	for range 2 { // grade 3 is two points of four
		w.until("bare-look")
		w.do("bare-look", jobs.StepAction{Action: "fail", Seen: w.step("bare-look").Cautions})
	}
	assert.Equal(t, map[string]string{"route": "bath-spent"}, faults(t, try()))
	_, err = w.DoBath(ctx, w.mira, tank.ID, stock.BathAction{Action: "renew"})
	require.NoError(t, err)
	require.NoError(t, try())
}

// Where the chain goes, what goes on instead is in the price, and what has no price is said.
func TestQuoteOfANewChain(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 2, LubricantOn: "oil", LubricantNext: "oil"}})
	w.read(3000, "1.1") // past the wear at which the sprockets go too
	_, err := w.AddStock(ctx, w.mira, stock.NewStock{Kind: "chain", Facts: stock.StockFacts{Name: "A dear box", Sprockets: 11, Quantity: 1, Cost: ptr(3400), HasJoiningLink: true}})
	require.NoError(t, err)
	q := way(w.ways(), "bath").Plan.Quote
	assert.Equal(t, []string{"sprockets"}, q.Unpriced, "no price was set for them")
	part := func(q jobs.Quote, kind, code string) float64 {
		i := slices.IndexFunc(q.Lines, func(l jobs.QuoteLine) bool { return l.Kind == kind && l.Code == code })
		require.GreaterOrEqual(t, i, 0, "no %s %s in %+v", kind, code, q.Lines)
		return q.Lines[i].Amount
	}
	assert.InDelta(t, 3400, part(q, "part", "chain"), 1e-9, "from the shelf")
	v, err := w.CurrentRules(ctx)
	require.NoError(t, err)
	for i := range v.Rules.Classes {
		c := &v.Rules.Classes[i]
		c.Chain, c.Sprockets, c.Rings, c.LabourChain, c.LabourSprockets, c.LabourRings = ptr(3000), ptr(9000), ptr(6000), ptr(1500), ptr(1200), ptr(1800)
	}
	_, err = w.ChangeRules(ctx, w.mira, v.Version, v.Rules)
	require.NoError(t, err)
	priced := way(w.ways(), "bath").Plan.Quote
	assert.Empty(t, priced.Unpriced)
	assert.Equal(t, []float64{9000, 1200}, []float64{part(priced, "part", "sprockets"), part(priced, "labour", "sprockets")})
	assert.Equal(t, q.Total+9000+1200, priced.Total)
}

// A part noted at the stand is on the bill, asks the owner where that goes too far, and comes off it again
// when it was noted by mistake.
func TestPartsOfAJob(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 2, LubricantOn: "oil", LubricantNext: "oil"}})
	w.rule(func(r *rules.WorkRules) { r.LabourHour, r.TaxPct, r.AskOverPct = 6000, 20, 10 })
	w.plan(jobs.JobOrder{})
	quoted := w.job.Plan.Quote.Total
	w.plan(jobs.JobOrder{Agreed: &quoted})
	// What is taken off the shelf and was not quoted is on the bill.
	w.fit(1400)
	added, err := w.AddStock(ctx, w.mira, stock.NewStock{Kind: "joining-link", Facts: stock.StockFacts{Name: "Loose links", Sprockets: 11, Quantity: 4}})
	require.NoError(t, err)
	require.NotContains(t, w.job.Plan.Quote.Unpriced, "joining-link")
	_, err = w.OpenChain(ctx, w.mira, w.tag, bikes.Opening{Why: "a stiff link", Link: &bikes.NewLink{StockItemID: &added.ID}})
	require.NoError(t, err)
	opened, err := w.Job(ctx, w.mira, w.job.ID)
	require.NoError(t, err)
	require.Len(t, opened.Parts, 1)
	assert.Equal(t, "Loose links", opened.Parts[0].What)
	_, err = w.StrikeOut(ctx, w.mira, opened.Parts[0].EntryID, "the shop's gift")
	require.NoError(t, err)
	_, err = w.AddJobPart(ctx, w.mira, w.job.ID, measure.JobPart{What: "  ", Count: 0, Price: ptr(-1)})
	assert.Equal(t, map[string]string{"what": "missing", "count": "out-of-range", "price": "out-of-range"}, faults(t, err))
	keyed := w.mira
	keyed.Key = "pads-once"
	job, err := w.AddJobPart(ctx, keyed, w.job.ID, measure.JobPart{What: "Brake pads", Count: 2, Price: ptr(1500)})
	require.NoError(t, err)
	job, err = w.AddJobPart(ctx, keyed, w.job.ID, measure.JobPart{What: "Brake pads", Count: 2, Price: ptr(1500)})
	require.NoError(t, err)
	require.Len(t, job.Parts, 1, "sent twice, noted once")
	assert.Equal(t, quoted+3600, job.Bill.Total, "two at 15.00, and a fifth")
	assert.True(t, job.AskOwner)
	w.job = job
	w.finish()
	_, err = w.HandBackJob(ctx, w.mira, w.job.ID, jobs.HandBack{Version: w.job.Version})
	assert.Equal(t, map[string]string{"asked": "missing"}, faults(t, err))
	_, err = w.StrikeOut(ctx, w.mira, job.Parts[0].EntryID, "another bike's")
	require.NoError(t, err)
	job, err = w.Job(ctx, w.mira, w.job.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{0, quoted, false}, []any{len(job.Parts), job.Bill.Total, job.AskOwner})
	cable, err := w.AddJobPart(ctx, w.mira, w.job.ID, measure.JobPart{What: "Cable end", Count: 1})
	require.NoError(t, err)
	_, err = w.HandBackJob(ctx, w.mira, w.job.ID, jobs.HandBack{Version: cable.Version})
	require.NoError(t, err)
	_, err = w.StrikeOut(ctx, w.mira, cable.Parts[0].EntryID, "not fitted")
	assert.Equal(t, "job-closed", problem(t, err).Code, "its bill is settled")
	page, err := w.Ledger(ctx, w.tag, 0, 100)
	require.NoError(t, err)
	i := slices.IndexFunc(page.Entries, func(e measure.LedgerEntry) bool { return e.Kind == "job-part" && e.Struck != nil })
	require.GreaterOrEqual(t, i, 0, "what was struck out stays to be seen")
	assert.Equal(t, []any{"Brake pads", 2}, []any{page.Entries[i].What, page.Entries[i].Count})
}

// What was seen is changed as long as the job is open. A promise that has passed meanwhile stays as it was given; it is
// not changed to another time that has passed.
func TestArrivalIsLookedAtAgain(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	look := jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 1}, Complaints: []string{}, Waiting: true}
	w := takeIn(t, commuter, look)
	soon := w.now.Add(time.Hour)
	look.PromisedAt = &soon
	change := func(version int) error {
		t.Helper()
		job, err := w.ChangeIntake(ctx, w.mira, w.job.ID, version, look)
		if err == nil {
			w.job = job
		}
		return err
	}
	require.NoError(t, change(w.job.Version))
	*w.now = soon.Add(20 * time.Minute)
	look.DrivetrainGrade, look.Heavy, look.Reports = 3, true, " grinds since the beach "
	require.NoError(t, change(w.job.Version), "it is late, and that is no reason not to say what was seen")
	assert.Equal(t, []any{3, true, "grinds since the beach"}, []any{w.job.Intake.DrivetrainGrade, w.job.Intake.Heavy, w.job.Intake.Reports})
	assert.WithinDuration(t, soon, *w.job.PromisedAt, 0)

	past := soon.Add(-10 * time.Minute)
	look.PromisedAt = &past
	assert.Equal(t, map[string]string{"promised_at": "in-the-past"}, faults(t, change(w.job.Version)))
	look.PromisedAt = nil
	look.FrameGrade = 9
	assert.NotEmpty(t, faults(t, change(w.job.Version)))
	look.FrameGrade = 2
	assert.Equal(t, "changed-meanwhile", code(t, change(w.job.Version-1)))
	require.NoError(t, change(w.job.Version))
	assert.Nil(t, w.job.PromisedAt, "no time is promised any more")
	_, err := w.CancelJob(ctx, w.mira, w.job.ID, w.job.Version, "the owner came for it")
	require.NoError(t, err)
	assert.Equal(t, "job-closed", code(t, change(w.job.Version+1)))
}
