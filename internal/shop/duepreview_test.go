package shop_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// What a draft of the rules is said to make of the due list is what it makes of it.
func TestPreviewDue(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	for _, kind := range []string{"cargo", "trail", "everyday"} {
		facts := commuter
		facts.Kind = kind
		_, err := b.AddBike(ctx, b.mira, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: facts})
		require.NoError(t, err)
	}
	b.later(14)
	counts := func() (c due.DueCounts) {
		for _, r := range b.list(due.DueFilter{State: "fresh", Limit: 50}) {
			*map[string]*int{"overdue": &c.Overdue, "due": &c.Due, "soon": &c.Soon, "fresh": &c.Fresh}[r.State]++
		}
		return c
	}
	v, err := b.CurrentRules(ctx)
	require.NoError(t, err)
	before := counts()
	seldom, often := 400, 5
	for name, change := range map[string]func(*rules.Rules){
		"nothing":     func(*rules.Rules) {},
		"once a year": func(r *rules.Rules) { r.Intervals.School = "yearly" },
		"wash seldom": func(r *rules.Rules) { r.Intervals.Changed = map[string]store.TaskSetting{"wash": {EveryDays: &seldom}} },
		"a task of it": func(r *rules.Rules) {
			r.Intervals.Own = []store.OwnTask{{Code: "sealant", Title: "Sealant", EveryDays: &often, Weight: 1, Kinds: []string{"trail"}}}
		},
		"all of it off": func(r *rules.Rules) {
			r.Intervals.Changed = map[string]store.TaskSetting{}
			for _, task := range v.Defaults.Tasks {
				r.Intervals.Changed[task.Code] = store.TaskSetting{Off: true}
			}
		},
	} {
		draft := v.Rules
		change(&draft)
		p, err := b.PreviewDue(ctx, draft)
		require.NoError(t, err, name)
		assert.Equal(t, before, p.Now, name)
		kept, err := b.ChangeRules(ctx, b.mira, v.Version, draft)
		require.NoError(t, err, name)
		_, err = b.RefreshDue(ctx)
		require.NoError(t, err, name)
		assert.Equal(t, counts(), p.Would, name)
		assert.Equal(t, 4, p.Of)
		v, err = b.ChangeRules(ctx, b.mira, kept.Version, v.Rules)
		require.NoError(t, err, name)
		_, err = b.RefreshDue(ctx)
		require.NoError(t, err, name)
	}
	draft := v.Rules
	draft.Intervals.School = "never"
	_, err = b.PreviewDue(ctx, draft)
	assert.Equal(t, "invalid-input", code(t, err))
}
