package shop_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/schedule"
)

// When a bike could be ridden is said for each route and lubricant; the best that fits stands first, and what will not be
// ready is not said to be.
func TestWantedBy(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, _ := staffed(t, 2)
	a := jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 2, LubricantOn: "oil", HasLink: true}, Complaints: []string{}}
	all, err := b.WantedBy(ctx, b.tag, a)
	require.NoError(t, err)
	require.NotEmpty(t, all.Choices)
	best := all.Choices[0]
	assert.True(t, best.Recommended && best.Usual && best.Fits, "%+v", best)
	require.NotNil(t, all.ClosesAt)
	find := func(w schedule.Wanted, route, lubricant string) schedule.WantedChoice {
		i := slices.IndexFunc(w.Choices, func(c schedule.WantedChoice) bool { return c.Route == route && c.Lubricant == lubricant })
		require.GreaterOrEqual(t, i, 0, "%s with %s", route, lubricant)
		return w.Choices[i]
	}
	oil, drip := find(all, "soak", "wet-oil"), find(all, "soak", "drip-wax")
	assert.True(t, drip.RiddenAt.After(oil.RiddenAt.Add(2*time.Hour)), "drip wax sets")
	for _, c := range all.Choices {
		require.NotNil(t, c.RiddenAt, "%s with %s", c.Route, c.Lubricant)
		assert.False(t, c.RiddenAt.Before(*c.DoneAt))
		assert.Zero(t, c.RiddenAt.Minute()%15)
	}

	// In an hour: only what is light fits, and what would be right for it and does not stands behind.
	soon := b.now.Add(70 * time.Minute)
	a.WantedAt = &soon
	tight, err := b.WantedBy(ctx, b.tag, a)
	require.NoError(t, err)
	fits := 0
	for i, c := range tight.Choices {
		assert.Equal(t, !c.RiddenAt.After(soon), c.Fits)
		if c.Fits {
			assert.Equal(t, fits, i, "what fits stands first")
			fits++
		}
	}
	assert.Positive(t, fits)
	assert.False(t, find(tight, "soak", "drip-wax").Fits)

	// What is promised so is planned so, and kept.
	pick := tight.Choices[0]
	a.PromisedAt, a.WantedAt, a.Route, a.Lubricant = pick.RiddenAt, nil, pick.Route, pick.Lubricant
	job, err := b.OpenJob(ctx, b.mira, b.tag, a)
	require.NoError(t, err)
	for _, j := range b.floor().Jobs {
		assert.Zero(t, j.LateMin, "%s", j.Tag)
	}
	o, err := b.JobOptions(ctx, job.ID)
	require.NoError(t, err)
	i := slices.IndexFunc(o.Options, func(x jobs.JobOption) bool { return x.Route == pick.Route })
	assert.Equal(t, pick.HandsMin, o.Options[i].Plan.HandsMin, "the minutes that were said are those of the plan")

	a.Route = "polish"
	_, err = b.OpenJob(ctx, b.mira, b.tag, a)
	assert.Equal(t, "invalid-input", code(t, err))
}
