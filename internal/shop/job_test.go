package shop_test

import (
	"bytes"
	"context"
	"image"
	"image/png"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// atWork is a bike in the workshop.
type atWork struct {
	*tracked
	job jobs.Job
}

var courier = record.BikeFacts{Kind: "cargo", DrivetrainKind: "derailleur", SprocketCount: ptr(11), Motor: "mid", Brakes: "disc", Lubricant: "wet-oil", ChainLinks: ptr(118)}

func takeIn(t *testing.T, facts record.BikeFacts, a jobs.Intake) *atWork {
	t.Helper()
	b := openTracked(t, facts)
	b.fit(1000)
	b.shelf(11, 1, 2)
	w := &atWork{tracked: b}
	w.open(a)
	return w
}

func (w *atWork) open(a jobs.Intake) {
	w.Helper()
	var err error
	w.job, err = w.OpenJob(context.Background(), w.mira, w.tag, a)
	require.NoError(w, err)
}

func (w *atWork) plan(o jobs.JobOrder) {
	w.Helper()
	o.Version = w.job.Version
	job, err := w.PlanJob(context.Background(), w.mira, w.job.ID, o)
	require.NoError(w, err)
	w.job = job
}

func (w *atWork) step(code string) jobs.StepView {
	w.Helper()
	i := slices.IndexFunc(w.job.StepList, func(s jobs.StepView) bool { return s.Code == code })
	require.GreaterOrEqual(w, i, 0, "no step %s", code)
	return w.job.StepList[i]
}

func (w *atWork) try(who record.Actor, code string, d jobs.StepAction) error {
	job, err := w.DoStep(context.Background(), who, w.job.ID, code, d)
	if err == nil {
		w.job = job
	}
	return err
}

func (w *atWork) do(code string, d jobs.StepAction) {
	w.Helper()
	require.NoError(w, w.try(w.mira, code, d), code)
}

// done does a step with its cautions tapped.
func (w *atWork) done(code string) {
	w.Helper()
	w.do(code, jobs.StepAction{Action: "done", Seen: w.step(code).Cautions})
}

// finish does all that is left.
func (w *atWork) finish() {
	w.Helper()
	w.until("")
}

// until does what can be done, waiting where only waiting helps, until a step is the current one, or nothing is left.
func (w *atWork) until(code string) {
	w.Helper()
	for w.job.Current != code || code == "" && w.job.HeldUntil != nil {
		next := w.job.Current
		if next == "" {
			require.NotNil(w, w.job.HeldUntil, "nothing can be done before %s: %+v", code, w.job.Holds)
			*w.now = *w.job.HeldUntil
			job, err := w.Job(context.Background(), w.mira, w.job.ID)
			require.NoError(w, err)
			w.job = job
			continue
		}
		*w.now = w.now.Add(time.Minute)
		if next == "read-wear" {
			w.read(1400, "0.2")
		}
		d := jobs.StepAction{Action: "done", Seen: w.step(next).Cautions}
		if causes := w.step(next).Causes; len(causes) > 0 {
			d.Cause = causes[0].Code
		}
		w.do(next, d)
	}
}

func problem(t *testing.T, err error) *record.Problem {
	t.Helper()
	var p *record.Problem
	require.ErrorAs(t, err, &p)
	return p
}

// From looking at the bike to handing it back: a caked cargo bike with a mid motor through a soak.
func TestJob(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, courier, jobs.Intake{Condition: jobs.Condition{FrameGrade: 3, DrivetrainGrade: 3, Heavy: true}, Complaints: []string{"gritty"}, Wants: "by four"})
	_, err := w.OpenJob(ctx, w.mira, w.tag, jobs.Intake{})
	assert.Equal(t, "job-open", problem(t, err).Code, "one job at a time for a bike")

	options, err := w.JobOptions(ctx, w.job.ID)
	require.NoError(t, err)
	assert.Equal(t, "soak", options.Route, "what the owner hears sits inside the joints")
	assert.Equal(t, "soak", options.Options[0].Route)
	for _, o := range options.Options {
		if o.Plan != nil {
			assert.Positive(t, o.Plan.HandsMin, o.Route)
			assert.GreaterOrEqual(t, o.Plan.ReadyMin, o.Plan.HandsMin, o.Route)
		}
	}
	_, err = w.PlanJob(ctx, w.mira, w.job.ID, jobs.JobOrder{Version: w.job.Version, Route: "bath"})
	assert.Equal(t, map[string]string{"reason": "missing"}, faults(t, err), "overruled with a reason")
	w.plan(jobs.JobOrder{})
	assert.Equal(t, "floor", w.job.Current)

	// A motor bike is not lifted with the motor on, and its cautions are tapped once a day.
	err = w.try(w.mira, "clamp", jobs.StepAction{Action: "done"})
	assert.Equal(t, "step-blocked", problem(t, err).Code)
	err = w.try(w.mira, "motor-off", jobs.StepAction{Action: "done"})
	assert.Equal(t, map[string]string{"seen": "electric"}, faults(t, err))
	w.done("floor")
	w.do("motor-off", jobs.StepAction{Action: "done", Seen: []string{"electric"}, GoOn: true})
	assert.Equal(t, store.StepBegun, w.step("clamp").State, "one goes on to the next")
	w.do("clamp", jobs.StepAction{Action: "done", Seen: []string{"lifting"}})
	err = w.try(w.mira, "read-wear", jobs.StepAction{Action: "done"})
	assert.Equal(t, "not-read", problem(t, err).Code)
	err = w.try(w.mira, "brakes-test", jobs.StepAction{Action: "skip", Reason: "no time"})
	assert.Equal(t, "safety-check", problem(t, err).Code)

	_, err = w.HandBackJob(ctx, w.mira, w.job.ID, jobs.HandBack{Version: w.job.Version})
	assert.Equal(t, "second-signature", problem(t, err).Code, "it carries cargo")

	// The soak starts itself; what it holds is held, and the rest goes on.
	w.until("jar")
	w.done("jar")
	assert.Equal(t, "held", w.step("chain-scrub").Standing)
	assert.Equal(t, "wheel-out", w.job.Current)
	waits, err := w.Waits(ctx)
	require.NoError(t, err)
	require.Len(t, waits.Waits, 1)
	soak := waits.Waits[0]
	assert.Equal(t, []any{"jar-soak", w.tag, 30 * time.Minute}, []any{soak.What, soak.Tag, soak.LeastAt.Sub(soak.BeganAt)})
	_, err = w.DoWait(ctx, w.mira, soak.ID, jobs.WaitAction{Action: "take"})
	assert.Equal(t, "wait-runs", problem(t, err).Code)
	_, err = w.DoWait(ctx, w.mira, soak.ID, jobs.WaitAction{Action: "extend", Minutes: 200, Reason: "very foul"})
	assert.Equal(t, "too-long", problem(t, err).Code, "alloy parts come out in two hours")
	_, err = w.DoWait(ctx, w.mira, soak.ID, jobs.WaitAction{Action: "extend", Minutes: 20, Reason: "very foul"})
	require.NoError(t, err)
	_, err = w.DoWait(ctx, w.mira, soak.ID, jobs.WaitAction{Action: "end"})
	assert.Equal(t, map[string]string{"reason": "missing"}, faults(t, err))

	// A check that fails sends it back, and counts.
	w.until("flex")
	w.do("flex", jobs.StepAction{Action: "fail", Seen: w.step("flex").Cautions})
	assert.Equal(t, []any{1, store.StepOpen, 2}, []any{w.step("flex").Fails, w.step("jar-refresh").State, w.step("jar-refresh").Round})
	assert.Equal(t, store.StepDone, w.step("chain-scrub").State, "no further back than it says")

	// What is found may hold it, whatever is said of it.
	job, err := w.AddFinding(ctx, w.mira, w.job.ID, jobs.NewFinding{Code: "pads-worn", Place: "rear", Severity: "note"})
	require.NoError(t, err)
	assert.Equal(t, "stop", job.Findings[0].Severity)

	// What stops the bike withholds what loads it, and nothing else.
	w.until("dry-check")
	w.done("dry-check")
	for w.job.Current != "" {
		w.until(w.job.Current)
		w.done(w.job.Current)
	}
	assert.Equal(t, []any{"withheld", []string{"pads-worn"}}, []any{w.step("chain-on").Standing, w.step("chain-on").Withheld})
	assert.Equal(t, "step-withheld", problem(t, w.try(w.mira, "chain-on", jobs.StepAction{Action: "done", Seen: w.step("chain-on").Cautions})).Code)
	w.job, err = w.ResolveFinding(ctx, w.mira, w.job.ID, job.Findings[0].ID, "fixed")
	require.NoError(t, err)

	w.until("oil")
	assert.Equal(t, "dry-check", w.step("oil").Holding[0], "the clock of bare steel runs until it is oiled")
	clock := slices.IndexFunc(w.job.Waits, func(v jobs.WaitView) bool { return v.What == "bare-steel" })
	require.GreaterOrEqual(t, clock, 0)
	assert.Equal(t, time.Hour, w.job.Waits[clock].MostAt.Sub(w.job.Waits[clock].BeganAt))
	w.done("oil")
	assert.False(t, slices.ContainsFunc(w.job.Waits, func(v jobs.WaitView) bool { return v.What == "bare-steel" }))
	w.finish()
	assert.Empty(t, w.job.Current)
	job, err = w.AddFinding(ctx, w.mira, w.job.ID, jobs.NewFinding{Code: "pads-worn", Place: "front", Severity: "note"})
	require.NoError(t, err)

	posy, err := w.AddPerson(ctx, "Posy Peake", "apprentice", "4669")
	require.NoError(t, err)
	tobiah, err := w.AddPerson(ctx, "Tobiah Marsh", "mechanic", "3141")
	require.NoError(t, err)
	back := func(second uuid.UUID, pin string) error {
		job, err := w.HandBackJob(ctx, w.mira, w.job.ID, jobs.HandBack{Version: w.job.Version, SecondID: &second, SecondPIN: pin})
		if err == nil {
			w.job = job
		}
		return err
	}
	assert.Equal(t, map[string]string{"second_id": "same-person"}, faults(t, back(w.mira.Person.ID, "2718")))
	assert.Equal(t, map[string]string{"second_id": "not-allowed"}, faults(t, back(posy.ID, "4669")))
	assert.Equal(t, map[string]string{"second_pin": "wrong-pin"}, faults(t, back(tobiah.ID, "3142")))
	assert.Equal(t, map[string]string{"pads-worn": "finding"}, faults(t, back(tobiah.ID, "3141")))
	_, err = w.ResolveFinding(ctx, record.Actor{Person: posy, Device: "stand"}, w.job.ID, job.Findings[1].ID, "owner-told")
	assert.Equal(t, "not-allowed", problem(t, err).Code, "a mechanic signs that")
	_, err = w.ResolveFinding(ctx, w.mira, w.job.ID, job.Findings[1].ID, "fixed")
	require.NoError(t, err)
	require.NoError(t, back(tobiah.ID, "3141"))
	assert.Equal(t, []any{store.JobHandedBack, "Tobiah Marsh", 0}, []any{w.job.State, w.job.SecondBy, len(w.job.Waits)})
	assert.Equal(t, "job-closed", problem(t, w.try(w.mira, "floor", jobs.StepAction{Action: "done"})).Code)

	// Everything is in the record; a bike that comes again is a comeback.
	ledger, err := w.Ledger(ctx, w.tag, 0, 100)
	require.NoError(t, err)
	var kinds []string
	for _, e := range ledger.Entries {
		kinds = append(kinds, e.Kind)
	}
	assert.Subset(t, kinds, []string{"job-arrived", "job-planned", "job-finding", "job-finding-resolved", "job-handed-back", "measurement"})
	assert.NotContains(t, kinds, "job-step")
	before := w.job.ID
	w.later(13)
	w.open(jobs.Intake{})
	require.NotNil(t, w.job.Comeback)
	assert.Equal(t, before, w.job.Comeback.ID)
}

// Two people at one job, a step handed over, and a chain that is off keeps the job from being cancelled.
func TestTwoAtOneJob(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}})
	person, err := w.AddPerson(ctx, "Tobiah Marsh", "mechanic", "3141")
	require.NoError(t, err)
	tobiah := record.Actor{Person: person, Device: "stand 2"}
	w.plan(jobs.JobOrder{Route: "soak", Reason: "there is time"})
	w.until("open-chain")
	w.do("open-chain", jobs.StepAction{Action: "begin"})
	assert.Equal(t, "step-taken", problem(t, w.try(tobiah, "open-chain", jobs.StepAction{Action: "begin"})).Code)
	*w.now = w.now.Add(3 * time.Minute)
	w.do("open-chain", jobs.StepAction{Action: "hand-over", PersonID: &person.ID})
	assert.Equal(t, []any{"Tobiah Marsh", 180}, []any{w.step("open-chain").By, w.step("open-chain").WorkedS})
	*w.now = w.now.Add(2 * time.Minute)
	require.NoError(t, w.try(tobiah, "open-chain", jobs.StepAction{Action: "done", Seen: w.step("open-chain").Cautions}))
	assert.Equal(t, 300, w.step("open-chain").WorkedS, "seconds of both")
	_, err = w.CancelJob(ctx, w.mira, w.job.ID, w.job.Version, "owner changed her mind")
	assert.Equal(t, "chain-is-off", problem(t, err).Code)

	// Counting the opening: a link from the shelf closes it again.
	w.until("chain-on")
	link := uuid.Nil
	items, err := w.ListStock(ctx, false)
	require.NoError(t, err)
	for _, i := range items {
		if i.Kind == "joining-link" {
			link = i.ID
		}
	}
	w.do("chain-on", jobs.StepAction{Action: "done", Seen: w.step("chain-on").Cautions, Opening: &bikes.Opening{Link: &bikes.NewLink{StockItemID: &link}}})
	assert.Equal(t, 1, w.onShelf()["Joining links"])
	assert.Contains(t, w.job.Plan.Quote.Unpriced, "joining-link")
	assert.Empty(t, w.job.Parts, "the quote has it, with no price set")
	_, err = w.CancelJob(ctx, w.mira, w.job.ID, w.job.Version, "")
	assert.Equal(t, map[string]string{"reason": "missing"}, faults(t, err))
	job, err := w.CancelJob(ctx, w.mira, w.job.ID, w.job.Version, "owner changed her mind")
	require.NoError(t, err)
	assert.Equal(t, []any{store.JobCancelled, 0}, []any{job.State, len(job.Waits)})
}

// Three times black from the bath: a soak is suggested, and planned without losing what was done.
func TestBathThatDoesNotComeClean(t *testing.T) {
	t.Parallel()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}})
	w.plan(jobs.JobOrder{Route: "bath", Reason: "no time for more"})
	assert.Equal(t, "bath", w.job.Route)
	require.NotNil(t, w.job.Plan)
	for i := range 3 {
		w.until("rag-test")
		assert.Empty(t, w.step("rag-test").Suggest, "after %d", i)
		w.do("rag-test", jobs.StepAction{Action: "fail", Seen: w.step("rag-test").Cautions})
	}
	assert.Equal(t, "soak", w.step("rag-test").Suggest)
	w.plan(jobs.JobOrder{Route: "soak", Reason: "black three times"})
	assert.Equal(t, store.StepDone, w.step("clamp").State, "what was done stays done")
	assert.Equal(t, "link-ready", w.job.Current)
}

// What is open, unknown or unsafe is refused in words, and nothing is half-saved.
func TestJobRefusals(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, courier, jobs.Intake{Condition: jobs.Condition{DrivetrainGrade: 2, Rust: "tarnished"}})
	_, err := w.OpenJob(ctx, w.mira, w.tag, jobs.Intake{Complaints: []string{"hums"}, PromisedAt: ptr(w.now.Add(-time.Hour))})
	assert.Equal(t, map[string]string{"complaints[0]": "unknown-value", "promised_at": "in-the-past"}, faults(t, err))
	_, err = w.PlanJob(ctx, w.mira, w.job.ID, jobs.JobOrder{Version: 7})
	p := problem(t, err)
	assert.Equal(t, "changed-meanwhile", p.Code)
	assert.NotNil(t, p.Theirs)
	_, err = w.PlanJob(ctx, w.mira, w.job.ID, jobs.JobOrder{Version: w.job.Version, Route: "polish", Agreed: ptr(-1)})
	assert.Equal(t, map[string]string{"route": "unknown-value"}, faults(t, err))
	_, err = w.Job(ctx, w.mira, uuid.New())
	assert.Equal(t, "job-not-found", problem(t, err).Code)
	_, err = w.AddFinding(ctx, w.mira, w.job.ID, jobs.NewFinding{Code: "other", Severity: "later"})
	assert.Equal(t, map[string]string{"severity": "unknown-value", "note": "missing"}, faults(t, err))
	_, err = w.AddJobPhoto(ctx, w.mira, w.job.ID, []byte("not a picture"))
	assert.Equal(t, "not-a-picture", problem(t, err).Code)
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 900, 600))))
	job, err := w.AddJobPhoto(ctx, w.mira, w.job.ID, picture.Bytes())
	require.NoError(t, err)
	small, err := w.JobPhoto(ctx, job.Photos[0].ID, true)
	require.NoError(t, err)
	size, _, err := image.DecodeConfig(bytes.NewReader(small))
	require.NoError(t, err)
	assert.Equal(t, []int{240, 160}, []int{size.Width, size.Height})
	_, err = w.StartWait(ctx, w.mira, jobs.NewWait{Minutes: 0})
	assert.Equal(t, map[string]string{"what": "missing", "minutes": "out-of-range"}, faults(t, err))
}

// Baths bear so much and no more; steps draw from the shelf; what is emptied is in the log.
func TestStores(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 4, LubricantOn: "oil", LubricantNext: "immersion-wax"}})
	_, err := w.AddMaterial(ctx, w.mira, stock.NewMaterialFacts{Kind: "degreaser", Facts: stock.MaterialFacts{Name: "White petrol"}})
	assert.Equal(t, map[string]string{"facts.name": "never-used"}, faults(t, err))
	_, err = w.AddMaterial(ctx, w.mira, stock.NewMaterialFacts{Kind: "degreaser", Facts: stock.MaterialFacts{Name: "Citrus degreaser", Quantity: 5000, LowMark: 4700, PackSize: ptr(1000.0), PackCost: ptr(1200)}})
	require.NoError(t, err)
	tank, err := w.AddBath(ctx, w.mira, stock.NewBath{Kind: "ultrasonic-tank", Facts: stock.BathFacts{Name: "Tank 1", Fluid: "degreaser 2:1", VolumeML: 3000}})
	require.NoError(t, err)
	pot, err := w.AddBath(ctx, w.mira, stock.NewBath{Kind: "wax-pot", Facts: stock.BathFacts{Name: "Pot", Fluid: "wax", VolumeML: 500}})
	require.NoError(t, err)
	assert.Equal(t, 40, pot.Left)
	w.plan(jobs.JobOrder{})
	assert.Equal(t, "bare", w.job.Route)
	assert.True(t, slices.ContainsFunc(w.job.Plan.Quote.Lines, func(l jobs.QuoteLine) bool { return l.Kind == "fluid" && l.Code == "degreaser" }))
	w.until("bare-look")
	w.do("bare-look", jobs.StepAction{Action: "fail", Seen: w.step("bare-look").Cautions})
	err = w.try(w.mira, "bare-two", jobs.StepAction{Action: "done", Seen: w.step("bare-two").Cautions})
	require.NoError(t, err, "three points of four: the last load is more than what is left")
	w.until("bare-look")
	w.do("bare-look", jobs.StepAction{Action: "fail"})
	err = w.try(w.mira, "bare-two", jobs.StepAction{Action: "done"})
	assert.Equal(t, "bath-refused", problem(t, err).Code)
	_, err = w.DoBath(ctx, w.mira, tank.ID, stock.BathAction{Action: "settle"})
	assert.Equal(t, "bath-refused", problem(t, err).Code)
	after, err := w.DoBath(ctx, w.mira, tank.ID, stock.BathAction{Action: "renew"})
	require.NoError(t, err)
	assert.Equal(t, 4, after.Left)
	w.until("wax-off")
	baths, err := w.Baths(ctx)
	require.NoError(t, err)
	for _, b := range baths {
		if b.Kind == "wax-pot" {
			assert.NotNil(t, b.Pot.HeatingSince, "melting put it on")
			assert.Equal(t, 39, b.Left)
			assert.InDelta(t, 493, *b.GramsLeft, 1e-9, "g")
		}
	}
	waste, err := w.WasteLog(ctx)
	require.NoError(t, err)
	require.Len(t, waste, 1)
	assert.Equal(t, []any{"oily-water", 3.0}, []any{waste[0].Kind, waste[0].Amount})
	materials, err := w.Materials(ctx)
	require.NoError(t, err)
	assert.True(t, materials[0].Low, "the steps drew from it: %v mL", materials[0].Facts.Quantity)
	job, err := w.Job(ctx, w.mira, w.job.ID)
	require.NoError(t, err)
	assert.InDelta(t, 5000-materials[0].Facts.Quantity, job.Used[0].Amount, 1e-6)
}

// Whoever goes to another job leaves the step they are at, with what they worked on it banked; a step can be paused,
// and is then anybody's. A wait that runs says for how much longer.
func TestStepsAreLeftAndPaused(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, courier, jobs.Intake{Condition: jobs.Condition{FrameGrade: 2, DrivetrainGrade: 2}, Complaints: []string{}})
	w.plan(jobs.JobOrder{})
	bike, err := w.Bike(ctx, w.tag)
	require.NoError(t, err)
	other, err := w.AddBike(ctx, w.mira, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: commuter})
	require.NoError(t, err)
	second := w.takeIn(other.Tag, nil)

	w.do("floor", jobs.StepAction{Action: "begin"})
	*w.now = w.now.Add(3 * time.Minute)
	_, err = w.DoStep(ctx, w.mira, second.ID, "floor", jobs.StepAction{Action: "begin"})
	require.NoError(t, err)
	left, err := w.Job(ctx, w.mira, w.job.ID)
	require.NoError(t, err)
	w.job = left
	assert.Equal(t, []any{store.StepOpen, 180}, []any{w.step("floor").State, w.step("floor").WorkedS})

	assert.Equal(t, "not-begun", code(t, w.try(w.mira, "floor", jobs.StepAction{Action: "pause"})))
	w.do("floor", jobs.StepAction{Action: "begin"})
	*w.now = w.now.Add(time.Minute)
	w.do("floor", jobs.StepAction{Action: "pause"})
	assert.Equal(t, []any{store.StepOpen, 240, ""}, []any{w.step("floor").State, w.step("floor").WorkedS, w.step("floor").By})

	// A step that a wait holds says for how long.
	for w.job.HeldUntil == nil {
		next := w.job.Next
		require.NotNil(t, next)
		*w.now = w.now.Add(time.Minute)
		d := jobs.StepAction{Action: "done", Seen: w.step(next.Code).Cautions}
		if next.Code == "read-wear" {
			d = jobs.StepAction{Action: "skip", Reason: "read last week"}
		}
		w.do(next.Code, d)
	}
	held := w.job.StepList[slices.IndexFunc(w.job.StepList, func(s jobs.StepView) bool { return s.Standing == "held" })]
	err = w.try(w.mira, held.Code, jobs.StepAction{Action: "done", Seen: held.Cautions})
	assert.Equal(t, "wait-runs", code(t, err))
	assert.Contains(t, err.Error(), "for")
}
