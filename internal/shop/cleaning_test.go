package shop_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/jobs"
)

// A bike is cleaned by what is on its card, in its record and on the shelf, and by what was seen of it.
func TestPlanCleaning(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.fit(1000)
	plan := func(q jobs.Condition) jobs.CleaningPlan {
		t.Helper()
		p, err := b.PlanCleaning(ctx, b.tag, q)
		require.NoError(t, err)
		return p
	}
	caked := jobs.Condition{FrameGrade: 4, DrivetrainGrade: 4, LubricantOn: "oil", LubricantNext: "oil"}
	p := plan(caked)
	assert.Empty(t, p.Opens)
	assert.Equal(t, "bath", p.Choice.Route, "nothing to close the chain with again")
	assert.True(t, p.Choice.OrderJoiningLink)

	seen := caked
	seen.HasLink = true
	assert.Equal(t, "strip", plan(seen).Choice.Route)
	b.shelf(11, 0, 1)
	p = plan(caked)
	assert.Equal(t, "shelf", p.Opens)
	assert.Equal(t, "strip", p.Choice.Route)

	// What is on its card: it runs on drip wax and gets it again; for the pot it must be bare.
	p = plan(jobs.Condition{DrivetrainGrade: 1})
	assert.Equal(t, "drip-wax", p.LubricantOn)
	assert.Equal(t, "drip-wax", p.Choice.LubricantNext)
	assert.Equal(t, "wipe", p.Choice.Route)
	assert.Equal(t, []string{"brakes"}, p.Unknown)
	assert.Contains(t, p.Choice.Cautions, "brakes", "what is not known is taken for the worst")
	p = plan(jobs.Condition{DrivetrainGrade: 1, LubricantNext: "immersion-wax"})
	assert.Equal(t, "bare", p.Choice.Route)
	assert.Contains(t, p.Choice.Cautions, "hot-wax")

	counter := jobs.Condition{FrameGrade: 2, DrivetrainGrade: 2, LubricantOn: "oil", LubricantNext: "oil", Express: true}
	express, err := b.PlanCleaning(ctx, b.tag, counter)
	require.NoError(t, err)
	require.NotEmpty(t, express.Express)
	assert.Equal(t, []any{"wipe", true}, []any{express.Express[0].Route, express.Express[0].Fits})
	assert.NotEmpty(t, express.Express[0].Quote.Currency, "a price that can be said on the phone")

	// A chain at its limit is not worth the work.
	b.later(60)
	b.read(2800, "0.62")
	p = plan(caked)
	assert.Equal(t, "replace", p.Verdict)
	assert.Equal(t, "wipe", p.Choice.ChainRoute)
	assert.Equal(t, "strip", p.Choice.PartsRoute)

	express, err = b.PlanCleaning(ctx, b.tag, counter)
	require.NoError(t, err)
	assert.Empty(t, express.Express, "where the chain goes nobody waits for it")
	_, err = b.PlanCleaning(ctx, b.tag, jobs.Condition{FrameGrade: 5, DrivetrainGrade: -1, LubricantOn: "butter", LubricantNext: "unknown", Rust: "red"})
	assert.Equal(t, map[string]string{"frame_grade": "out-of-range", "drivetrain_grade": "out-of-range", "lubricant_on": "unknown-value",
		"lubricant_next": "unknown-value", "rust": "unknown-value"}, faults(t, err))
	_, err = b.PlanCleaning(ctx, "B-9999-X", caked)
	require.Error(t, err)
}
