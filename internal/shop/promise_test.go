package shop_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/schedule"
)

// A promise is changed and work is kept for somebody; what either would cost is said before.
func TestPromisesAndHands(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, jobs := staffed(t, 3)
	v := b.floor()
	one := v.Jobs[2]
	soon := b.now.Add(20 * time.Minute)
	cost, err := b.TryFloor(ctx, schedule.FloorTry{Job: one.Job, PromisedAt: &soon})
	require.NoError(t, err)
	assert.False(t, cost.Kept)
	assert.Positive(t, cost.LateMin)
	assert.Equal(t, starts(v), starts(b.floor()), "a try changes nothing")

	after, err := b.PromiseJob(ctx, b.mira, one.Job, schedule.JobPromise{Version: one.Version, PromisedAt: &soon, Waiting: true})
	require.NoError(t, err)
	i := slices.IndexFunc(after.Jobs, func(j schedule.FloorJob) bool { return j.Job == one.Job })
	assert.True(t, after.Jobs[i].Waiting)
	assert.Positive(t, after.Jobs[i].LateMin)
	assert.NotEmpty(t, after.Jobs[i].BoundBy)
	_, err = b.PromiseJob(ctx, b.mira, one.Job, schedule.JobPromise{Version: one.Version})
	assert.Equal(t, "changed-meanwhile", code(t, err))
	for name, at := range map[string]time.Time{"in-the-past": b.now.Add(-time.Hour), "out-of-range": b.now.AddDate(1, 0, 1)} {
		_, err = b.PromiseJob(ctx, b.mira, one.Job, schedule.JobPromise{Version: after.Jobs[i].Version, PromisedAt: &at})
		assert.Equal(t, map[string]string{"promised_at": name}, faults(t, err))
	}

	s := after.Stints[slices.IndexFunc(after.Stints, func(s schedule.FloorStint) bool { return s.Job == jobs[0].ID })]
	other := after.People[slices.IndexFunc(after.People, func(p schedule.FloorPerson) bool {
		return p.Person.ID.String() != s.Person && p.Person.Role == "mechanic"
	})].Person
	cost, err = b.TryFloor(ctx, schedule.FloorTry{Job: s.Job, Step: s.Step, Person: &other.ID})
	require.NoError(t, err)
	assert.Positive(t, cost.Moves)
	kept, err := b.KeepFor(ctx, b.mira, s.Job, s.Step, schedule.Keeping{Person: &other.ID})
	require.NoError(t, err)
	k := kept.Stints[slices.IndexFunc(kept.Stints, func(x schedule.FloorStint) bool { return x.Job == s.Job && x.Step == s.Step })]
	assert.Equal(t, []any{other.ID.String(), true}, []any{k.Person, k.KeptFor})
	nobody := uuid.New()
	_, err = b.KeepFor(ctx, b.mira, s.Job, s.Step, schedule.Keeping{Person: &nobody})
	assert.Equal(t, "no-skill", code(t, err))
	_, err = b.KeepFor(ctx, b.mira, s.Job, "polish", schedule.Keeping{})
	assert.Equal(t, "step-not-found", code(t, err))
	_, err = b.KeepFor(ctx, b.mira, s.Job, s.Step, schedule.Keeping{})
	require.NoError(t, err)
}

// At intake the earliest time is offered with which no other promise suffers, and it can be kept.
func TestOfferPromise(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, _ := staffed(t, 3)
	a := jobs.Intake{Condition: jobs.Condition{FrameGrade: 2, DrivetrainGrade: 3}, Complaints: []string{}}
	o, err := b.OfferPromise(ctx, b.tag, a)
	require.NoError(t, err)
	require.NotNil(t, o.EarliestAt)
	assert.GreaterOrEqual(t, o.EarliestAt.Sub(*b.now), time.Duration(o.ReadyMin)*time.Minute)
	assert.Zero(t, o.EarliestAt.Minute()%15)
	assert.Equal(t, 3, o.Jobs)

	a.PromisedAt = o.EarliestAt
	kept, err := b.OfferPromise(ctx, b.tag, a)
	require.NoError(t, err)
	assert.True(t, kept.Kept, "%+v", kept)
	assert.Empty(t, kept.Pushed)
	tight := b.now.Add(15 * time.Minute)
	a.PromisedAt = &tight
	pushed, err := b.OfferPromise(ctx, b.tag, a)
	require.NoError(t, err)
	assert.False(t, pushed.Kept)

	// A bike that came in and is not planned yet counts as much: whoever comes after it is not promised its time.
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	for range 3 {
		added, err := b.AddBike(ctx, b.mira, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: commuter})
		require.NoError(t, err)
		next, err := b.OfferPromise(ctx, b.tag, jobs.Intake{Condition: a.Condition, Complaints: []string{}})
		require.NoError(t, err)
		_, err = b.OpenJob(ctx, b.mira, added.Tag, jobs.Intake{Condition: a.Condition, Complaints: []string{}, PromisedAt: next.EarliestAt})
		require.NoError(t, err)
	}
	after, err := b.OfferPromise(ctx, b.tag, jobs.Intake{Condition: a.Condition, Complaints: []string{}})
	require.NoError(t, err)
	assert.Equal(t, 6, after.Jobs)
	assert.Greater(t, after.EarliestAt.Sub(*o.EarliestAt), 45*time.Minute, "three more bikes, three people")
	for _, one := range b.floor().Jobs {
		assert.Zero(t, one.LateMin, one.Tag)
	}
	o = after

	// What is offered is kept once the job is there.
	job, err := b.OpenJob(ctx, b.mira, b.tag, jobs.Intake{Condition: a.Condition, Complaints: []string{}, PromisedAt: o.EarliestAt})
	require.NoError(t, err)
	_, err = b.PlanJob(ctx, b.mira, job.ID, jobs.JobOrder{Version: job.Version})
	require.NoError(t, err)
	for _, j := range b.floor().Jobs {
		assert.Zero(t, j.LateMin, j.Tag)
	}
}
