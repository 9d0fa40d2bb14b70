package shop_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// Hours, places and skills are the shop's; what makes no sense in them is refused.
func TestFloorRules(t *testing.T) {
	t.Parallel()
	b, _ := staffed(t, 1)
	ctx := context.Background()
	v, err := b.CurrentRules(ctx)
	require.NoError(t, err)
	bad := v.Rules
	bad.Floor = rules.Floor{Places: map[string]int{"stand": -1, "garden": 1}, Hours: map[string][]store.Stretch{"monday": {{From: "12:00", Until: "09:00"}}, "someday": {}},
		People: map[string]store.FloorPerson{"mira": {Skills: []string{"singing"}, Away: []string{"soon"}}}}
	_, err = b.ChangeRules(ctx, b.mira, v.Version, bad)
	var problem *record.Problem
	require.ErrorAs(t, err, &problem)
	var paths []string
	for _, f := range problem.Fields {
		paths = append(paths, f.Path)
	}
	assert.ElementsMatch(t, []string{"rules.floor.places.stand", "rules.floor.places.garden", "rules.floor.hours.monday[0]", "rules.floor.hours.someday", "rules.floor.people.mira", "rules.floor.people.mira.skills", "rules.floor.people.mira.away"}, paths)

	// With nobody here there is no plan, and it says so; with an hour tomorrow there is.
	b.rules(func(r *rules.Rules) {
		for day := range r.Floor.Hours {
			r.Floor.Hours[day] = []store.Stretch{}
		}
	})
	floor := b.floor()
	assert.NotEmpty(t, floor.NotPlaced)
	assert.Equal(t, "too-long", floor.NotPlaced[0].Why)
	assert.Nil(t, floor.Jobs[0].FinishAt)
}
