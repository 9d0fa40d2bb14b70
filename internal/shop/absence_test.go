package shop_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/schedule"
	"earnestpony/internal/store"
)

// Somebody goes home, or comes later: their work is planned around it from then on, it is said why, and it can be taken back.
func TestSomebodyIsAwayForAWhile(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, _ := staffed(t, 3)
	before := b.floor()
	i := slices.IndexFunc(before.People, func(p schedule.FloorPerson) bool { return p.Next != nil })
	person := before.People[i].Person
	at := func(from, until time.Duration) schedule.NewAbsence {
		return schedule.NewAbsence{FromAt: b.now.Add(from), UntilAt: b.now.Add(until)}
	}
	v, err := b.NoteAbsence(ctx, b.mira, person.ID, at(0, 8*time.Hour))
	require.NoError(t, err)
	gone := v.People[i]
	assert.False(t, gone.Here)
	require.Len(t, gone.Away, 1)
	assert.Equal(t, "Mira Oxenholt", gone.Away[0].NotedBy)
	for _, s := range v.Stints {
		assert.False(t, s.Person == person.ID.String() && s.Start.Before(gone.Away[0].UntilAt), "%s at %s by who went home", s.Title, s.Start)
	}
	assert.Empty(t, v.NotPlaced, "the others do it")
	assert.Equal(t, schedule.Because{What: "away", Title: person.Name}, v.Because[0])
	assert.Equal(t, v.MadeAt, b.floor().MadeAt, "nothing happened since")

	v, err = b.DropAbsence(ctx, b.mira, gone.Away[0].ID)
	require.NoError(t, err)
	assert.True(t, v.People[i].Here)
	assert.Empty(t, v.People[i].Away)
	v, err = b.DropAbsence(ctx, b.mira, gone.Away[0].ID)
	require.NoError(t, err, "somebody else was told so as well")
	assert.True(t, v.People[i].Here)

	// Two people say so, the second a minute later: it is noted once.
	_, err = b.NoteAbsence(ctx, b.mira, person.ID, at(0, 8*time.Hour))
	require.NoError(t, err)
	v, err = b.NoteAbsence(ctx, b.mira, person.ID, at(time.Minute, 8*time.Hour))
	require.NoError(t, err)
	require.Len(t, v.People[i].Away, 1)
	_, err = b.DropAbsence(ctx, b.mira, v.People[i].Away[0].ID)
	require.NoError(t, err)
	for name, wrong := range map[string]schedule.NewAbsence{"backwards": at(time.Hour, 0), "over": at(-2*time.Hour, -time.Hour), "for long": at(0, 8*24*time.Hour), "far off": at(9*24*time.Hour, 9*24*time.Hour+time.Hour)} {
		_, err = b.NoteAbsence(ctx, b.mira, person.ID, wrong)
		assert.Equal(t, "invalid-input", code(t, err), name)
	}
	_, err = b.NoteAbsence(ctx, b.mira, uuid.New(), at(0, time.Hour))
	assert.Equal(t, "person-not-found", code(t, err))
}

// A bike that came in and is not planned yet stands on the wall as it would be recommended, and nobody is sent to it.
func TestABikeNotPlannedStandsAsAGuess(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, list := staffed(t, 1)
	job, err := b.OpenJob(ctx, b.mira, b.tag, jobs.Intake{Condition: jobs.Condition{FrameGrade: 2, DrivetrainGrade: 3}, Complaints: []string{}})
	require.NoError(t, err)
	v := b.floor()
	var guessed []schedule.FloorStint
	for _, s := range v.Stints {
		assert.Equal(t, s.Job == job.ID, s.Guess)
		if s.Guess {
			guessed = append(guessed, s)
			assert.Equal(t, schedule.StintPlanned, s.State)
		}
	}
	require.NotEmpty(t, guessed)
	for _, j := range v.Jobs {
		assert.Equal(t, j.Job == job.ID, j.Guess)
		assert.NotNil(t, j.FinishAt)
	}
	for _, p := range v.People {
		assert.True(t, p.Next == nil || p.Next.Job == list[0].ID, "%s is sent to a bike that is not planned", p.Person.Name)
	}
	_, err = b.KeepFor(ctx, b.mira, job.ID, guessed[0].Step, schedule.Keeping{Person: &b.mira.Person.ID})
	assert.Equal(t, "not-planned", code(t, err))
}

// The first plan of a shop is there at once, by rules alone: what is better, and what would help, is found while nobody waits.
func TestTheFirstPlanIsThereAtOnce(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, _ := staffed(t, 0)
	b.rules(func(r *rules.Rules) { r.Floor.Places["stand"] = 1 })
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	open, is := databases.Load(b.Service)
	require.True(t, is)
	shop := shop.New(open.(*store.Store), func() time.Time { return *b.now }) // thinks for as long as a shop does
	empty, err := shop.Floor(ctx)
	require.NoError(t, err)
	assert.Equal(t, []any{0, false}, []any{len(empty.Stints), empty.Seeking})
	for range 3 { // each due in an hour, which one stand is too few for
		added, err := b.AddBike(ctx, b.mira, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: commuter})
		require.NoError(t, err)
		at := b.now.Add(time.Hour)
		b.takeIn(added.Tag, &at)
	}
	first, err := shop.Floor(ctx)
	require.NoError(t, err)
	assert.Len(t, first.Jobs, 3)
	assert.NotEmpty(t, first.Stints)
	assert.Equal(t, []any{true, 0}, []any{first.Seeking, len(first.Helps)})
	*b.now = b.now.Add(20 * time.Second)
	require.NoError(t, shop.RefreshDayPlan(ctx))
	then, err := shop.Floor(ctx)
	require.NoError(t, err)
	assert.NotEmpty(t, then.Helps)
	assert.Equal(t, []any{false, 0}, []any{then.Seeking, len(then.Moved)}, "nobody had the first in their heads")
}

// Whoever looks never waits for a plan: they see the last one, with when it was made, and the new one once it is found.
func TestTheLastPlanIsShownWhileANewOneIsSought(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, _ := staffed(t, 6)
	before := b.floor()
	open, is := databases.Load(b.Service)
	require.True(t, is)
	*b.now = b.now.Add(time.Second)
	slow := shop.New(open.(*store.Store), func() time.Time { return *b.now }) // thinks for as long as a shop does
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	added, err := b.AddBike(ctx, b.mira, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: commuter})
	require.NoError(t, err)
	b.takeIn(added.Tag, nil)
	v, err := slow.Floor(ctx)
	require.NoError(t, err)
	assert.True(t, v.Seeking)
	assert.Equal(t, before.MadeAt, v.MadeAt)
	assert.Len(t, v.Jobs, 7, "the bike is in the shop already")
	require.Eventually(t, func() bool {
		v, err = slow.Floor(ctx)
		return err == nil && !v.Seeking
	}, time.Minute, 10*time.Millisecond)
	assert.True(t, v.MadeAt.After(before.MadeAt))
	assert.True(t, slices.ContainsFunc(v.Stints, func(s schedule.FloorStint) bool { return s.Tag == added.Tag }))
}

// A piece of work that is to begin at a time begins then, is shown so, and is free again when that is taken back.
func TestWorkIsPinnedToATime(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, list := staffed(t, 3)
	find := func(v schedule.FloorView, step string) schedule.FloorStint {
		i := slices.IndexFunc(v.Stints, func(s schedule.FloorStint) bool { return s.Job == list[1].ID && s.Step == step })
		require.GreaterOrEqual(t, i, 0)
		return v.Stints[i]
	}
	v := b.floor()
	i := slices.IndexFunc(v.Stints, func(s schedule.FloorStint) bool { return s.Job == list[1].ID })
	step := v.Stints[i].Step
	at := b.now.Add(3 * time.Hour)
	cost, err := b.TryFloor(ctx, schedule.FloorTry{Job: list[1].ID, Step: step, At: &at})
	require.NoError(t, err)
	assert.Positive(t, cost.LaterMin)
	v, err = b.KeepFor(ctx, b.mira, list[1].ID, step, schedule.Keeping{Person: &b.mira.Person.ID, At: &at})
	require.NoError(t, err)
	kept := find(v, step)
	assert.True(t, kept.Start.Equal(at), "%s", kept.Start)
	assert.Equal(t, b.mira.Person.ID.String(), kept.Person)
	require.NotNil(t, kept.KeptAt)
	v, err = b.KeepFor(ctx, b.mira, list[1].ID, step, schedule.Keeping{})
	require.NoError(t, err)
	assert.True(t, find(v, step).Start.Before(at))
	past := b.now.Add(-time.Minute)
	_, err = b.KeepFor(ctx, b.mira, list[1].ID, step, schedule.Keeping{At: &past})
	assert.Equal(t, "invalid-input", code(t, err))
}
