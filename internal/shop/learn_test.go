package shop_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
)

// What steps really take is suggested once it was seen often enough, of everybody and of each; nothing changes
// until somebody takes it over, and what was ticked off without being begun tells nothing.
func TestLearnedMinutes(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, list := staffed(t, 6)
	suggested := func() []jobs.StepMinutes {
		steps, err := b.LearnedMinutes(ctx)
		require.NoError(t, err)
		return steps
	}
	people, err := b.ListPeople(ctx)
	require.NoError(t, err)
	tobiah := people[slices.IndexFunc(people, func(p record.Person) bool { return p.Name == "Tobiah Marsh" })]
	assert.Empty(t, suggested())
	for i, j := range list {
		_, err := b.DoStep(ctx, record.Actor{Person: tobiah, Device: "stand 2"}, j.ID, "floor", jobs.StepAction{Action: "begin"})
		require.NoError(t, err)
		*b.now = b.now.Add(7 * time.Minute)
		_, err = b.DoStep(ctx, record.Actor{Person: tobiah, Device: "stand 2"}, j.ID, "floor", jobs.StepAction{Action: "done"})
		require.NoError(t, err)
		if i == 3 {
			assert.Empty(t, suggested(), "four times are too few")
		}
	}
	steps := suggested()
	require.Len(t, steps, 1)
	assert.Equal(t, []any{"floor", 7, 6}, []any{steps[0].Code, steps[0].Suggested, steps[0].Of})
	assert.Equal(t, []jobs.PersonMinutes{{Name: "Tobiah Marsh", Minutes: 7, Of: 6}}, steps[0].People)
	before := steps[0].Planned
	assert.NotEqual(t, 7, before)
	b.rules(func(r *rules.Rules) { r.Work.Minutes = map[string]int{"floor": 7} })
	assert.Empty(t, suggested(), "taken over")
}
