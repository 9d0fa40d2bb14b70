package shop_test

import (
	"context"
	"encoding/json"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/rules"
)

func (t *tracked) due() due.BikeDue {
	t.Helper()
	d, err := t.BikeDue(context.Background(), t.tag)
	require.NoError(t, err)
	return d
}

func (t *tracked) task(code string) due.DueTask {
	t.Helper()
	d := t.due()
	i := slices.IndexFunc(d.Tasks, func(x due.DueTask) bool { return x.Code == code })
	require.GreaterOrEqual(t, i, 0, "no task %s", code)
	return d.Tasks[i]
}

func (t *tracked) list(f due.DueFilter) []due.DueRow {
	t.Helper()
	f.Limit = 50
	page, err := t.DueList(context.Background(), f)
	require.NoError(t, err)
	return page.Rows
}

// A bike's tasks count from when it was first seen, fall due by days and distance, follow the forecast, and
// start afresh when they are done; the list says the same as the bike's page.
func TestWhatABikeNeeds(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.fit(0)
	assert.Equal(t, "fresh", b.task("relubricate").State)
	assert.NotNil(t, b.task("replace-chain").EveryHardKM, "by a guess from how it is kept")
	assert.True(t, b.task("replace-chain").Guess)
	b.later(22)
	lube := b.task("relubricate")
	assert.Equal(t, []any{"due", "distance", 22}, []any{lube.State, lube.Binds, lube.SinceDays}, "70 km a week, half of it wet: 330 hard km of 300")
	b.read(700, "0.3")
	read := b.task("read-wear")
	assert.Equal(t, []any{"fresh", 0}, []any{read.State, read.SinceDays})
	assert.False(t, read.Guess, "measured now")
	assert.Greater(t, b.task("replace-chain").Used, 0.3)

	err := b.TaskDone(ctx, b.mira, b.tag, "relubricate", "", nil)
	require.NoError(t, err)
	assert.Equal(t, "fresh", b.task("relubricate").State)
	b.later(1)
	err = b.ReportEvent(ctx, b.mira, b.tag, "soaked-ride", "through the flood", nil)
	require.NoError(t, err)
	soaked := b.task("relubricate")
	assert.Equal(t, []any{"due", "event", "soaked-ride", "Mira Oxenholt"}, []any{soaked.State, soaked.Binds, soaked.Event, soaked.EventBy})
	rows := b.list(due.DueFilter{State: "due"})
	require.Len(t, rows, 1)
	week := 7
	for _, r := range b.list(due.DueFilter{Within: &week, Upcoming: true}) {
		assert.GreaterOrEqual(t, *r.DueOn, b.now.Format(time.DateOnly), "what is late falls due in no week")
	}
	var visit []string
	require.NoError(t, json.Unmarshal(rows[0].Visit, &visit))
	assert.Equal(t, b.due().Visit, visit)
	listed, err := rows[0].Listed()
	require.NoError(t, err)
	shown := slices.DeleteFunc(b.due().Tasks, func(x due.DueTask) bool { return x.State == "fresh" && !slices.Contains(visit, x.Code) })
	assert.Equal(t, shown, listed, "the list and the bike agree")
	assert.Positive(t, rows[0].SavedMin)

	// The verdict makes the chain due; a new one starts it afresh.
	b.read(1500, "0.9")
	gone := b.task("replace-chain")
	assert.Equal(t, []string{"verdict-replace"}, []string{gone.Event})
	assert.Contains(t, []string{"due", "overdue"}, gone.State)
	b.later(1)
	b.fit(1510)
	assert.Equal(t, "fresh", b.task("replace-chain").State)
	assert.Equal(t, "new-chain", b.task("look-at-teeth").Event)

	err = b.TaskDone(ctx, b.mira, b.tag, "replace-chain", "", nil)
	assert.Equal(t, "not-noted-here", code(t, err))
	err = b.TaskDone(ctx, b.mira, b.tag, "polish", "", nil)
	assert.Equal(t, "task-not-found", code(t, err))
	err = b.ReportEvent(ctx, b.mira, b.tag, "wash", "", nil)
	assert.Equal(t, map[string]string{"event": "unknown-value"}, faults(t, err))

	// What was struck out counts no more, and the ledger alone gives the same answer.
	odd, err := b.Verify(ctx)
	require.NoError(t, err)
	assert.Empty(t, odd)
}

// The shop's intervals, its own tasks and a bike's own come in the place of the table's; a day on which it is
// needed pulls forward.
func TestIntervalsOfShopAndBike(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.fit(0)
	v, err := b.CurrentRules(ctx)
	require.NoError(t, err)
	r := v.Rules
	r.Intervals.School = "keen"
	r.Intervals.Changed = map[string]rules.TaskSetting{"wash": {EveryDays: ptr(7)}}
	r.Intervals.Own = append(r.Intervals.Own, ownTask("sealant", "Sealant and rim tape", 180))
	v, err = b.ChangeRules(ctx, b.mira, v.Version, r)
	require.NoError(t, err)
	assert.Equal(t, 300.0, *b.task("clean-on-bike").EveryHardKM)
	assert.Equal(t, 7, *b.task("wash").EveryDays)
	assert.Equal(t, []any{"Sealant and rim tape", 180, true}, []any{b.task("sealant").Title, *b.task("sealant").EveryDays, b.task("sealant").Own})

	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	facts := bike.Facts
	facts.Tasks = map[string]rules.TaskSetting{"wash": {Off: true, Reason: "hosed at the harbour"}, "brakes": {EveryDays: ptr(30), Reason: "steep lanes"}}
	facts.NeededOn, facts.NeededFor = "2026-05-20", "the island crossing"
	_, err = b.ChangeBike(ctx, b.mira, b.tag, bike.Version, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: facts})
	require.NoError(t, err)
	d := b.due()
	assert.False(t, slices.ContainsFunc(d.Tasks, func(x due.DueTask) bool { return x.Code == "wash" }))
	assert.Equal(t, "steep lanes", b.task("brakes").Reason)
	assert.Equal(t, "2026-05-20", d.NeededOn)
	lube := b.task("relubricate") // due in 20 days by distance, on the 24th
	assert.True(t, lube.Pulled)
	assert.Equal(t, "2026-05-19", *lube.DueOn)

	r.Intervals.School, r.Intervals.LookAhead = "never", 400
	r.Intervals.Changed = map[string]rules.TaskSetting{"polish": {}, "wash": {EveryDays: ptr(-1)}}
	r.Intervals.Own = append(r.Intervals.Own, ownTask("sealant", "", 0))
	_, err = b.ChangeRules(ctx, b.mira, v.Version, r)
	assert.Equal(t, map[string]string{"rules.intervals.school": "unknown-value", "rules.intervals.look_ahead_days": "out-of-range", "rules.intervals.changed.polish": "unknown-value",
		"rules.intervals.changed.wash.every_days": "out-of-range", "rules.intervals.own[1].title": "missing", "rules.intervals.own[1].code": "unknown-value"}, faults(t, err))
	facts.Tasks = map[string]rules.TaskSetting{"brakes": {EveryDays: ptr(9999)}}
	facts.NeededOn = "tomorrow"
	_, err = b.ChangeBike(ctx, b.mira, b.tag, bike.Version+1, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: facts})
	assert.Equal(t, map[string]string{"facts.needed_on": "not-a-date", "facts.tasks.brakes.every_days": "out-of-range", "facts.tasks.brakes.reason": "missing"}, faults(t, err))
}

func ownTask(code, title string, days int) rules.OwnTask {
	return rules.OwnTask{Code: code, Title: title, EveryDays: &days, Weight: 1}
}

// A job does its tasks, step by step.
func TestAJobDoesItsTasks(t *testing.T) {
	t.Parallel()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 3, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}, Complaints: []string{"gritty"}})
	assert.Equal(t, "grit-heard", w.task("clean-on-bike").Event)
	assert.Equal(t, "dirty-frame", w.task("wash").Event)
	w.plan(jobs.JobOrder{Route: "soak", Reason: "it sounds gritty"})
	w.finish()
	for _, code := range []string{"clean-on-bike", "deep-clean", "wash", "read-wear", "relubricate", "pivots", "brakes", "look-at-teeth"} {
		assert.Equal(t, []any{"fresh", false}, []any{w.task(code).State, w.task(code).Never}, code)
	}
	assert.True(t, w.task("strip").Never)
}
