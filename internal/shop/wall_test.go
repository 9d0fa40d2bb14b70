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
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/schedule"
	"earnestpony/internal/store"
)

// The wall is made of the open jobs, stays where nothing happens, follows what does, and says what moved and why.
func TestTheWallFollows(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, list := staffed(t, 3)
	v := b.floor()
	require.NotEmpty(t, v.People)
	require.Len(t, v.Jobs, 3)
	assert.Empty(t, v.NotPlaced)
	hands := map[uuid.UUID]int{}
	for _, s := range v.Stints {
		hands[s.Job] += s.Minutes
		assert.False(t, s.Start.Before(b.now.Truncate(time.Minute)), "nothing begins in the past")
		assert.Equal(t, time.Duration(s.Minutes)*time.Minute, s.End.Sub(s.Start))
		assert.NotEmpty(t, s.Title)
	}
	for _, j := range list {
		assert.Equal(t, j.LeftMin, hands[j.ID], "all that is left of the job is on the wall")
	}
	for _, j := range v.Jobs {
		require.NotNil(t, j.FinishAt)
		assert.Zero(t, j.LateMin)
	}
	assert.Equal(t, starts(v), starts(b.floor()), "nothing happened")

	// Somebody begins what is next for them, on time: nothing else moves.
	i := slices.IndexFunc(v.People, func(p schedule.FloorPerson) bool {
		return p.Next != nil && p.Next.State == schedule.StintReady
	})
	require.GreaterOrEqual(t, i, 0, "somebody can begin")
	next := *v.People[i].Next
	_, err := b.DoStep(ctx, record.Actor{Person: v.People[i].Person, Device: "stand 2"}, next.Job, next.Step, jobs.StepAction{Action: "begin", Seen: allCautions})
	require.NoError(t, err)
	v2 := b.floor()
	at := v2.People[i].At
	require.NotNil(t, at)
	assert.Equal(t, []any{schedule.StintBegun, next.Step, next.Tag}, []any{at.State, at.Step, at.Tag})

	// It takes far longer than planned: it is over its time, and what waits for it or its person moves.
	before := starts(v2)
	b.later(0)
	*b.now = b.now.Add(time.Duration(at.Minutes+25) * time.Minute)
	v3 := b.floor()
	assert.Equal(t, schedule.StintOver, v3.People[i].At.State)
	assert.NotEmpty(t, v3.Moved)
	assert.Equal(t, "took-longer", v3.Because[0].What)
	moved := 0
	for key, start := range starts(v3) {
		if was, there := before[key]; there && !was.Equal(start) {
			moved++
		}
	}
	assert.Positive(t, moved)

	// Another bike comes.
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	added, err := b.AddBike(ctx, b.mira, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: commuter})
	require.NoError(t, err)
	b.takeIn(added.Tag, nil)
	v4 := b.floor()
	assert.Len(t, v4.Jobs, 4)
	// And one is called off.
	_, err = b.CancelJob(ctx, b.mira, list[2].ID, list[2].Version, "the owner took it home")
	require.NoError(t, err)
	v5 := b.floor()
	assert.Len(t, v5.Jobs, 3)
	assert.False(t, slices.ContainsFunc(v5.Stints, func(s schedule.FloorStint) bool { return s.Job == list[2].ID }))
}

// A wait that runs is in its place on the wall until what follows it, and what follows does not begin before.
func TestWaitsOnTheWall(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, list := staffed(t, 1)
	id := list[0].ID
	for range 40 { // until the first wait
		j, err := b.Job(ctx, b.mira, id)
		require.NoError(t, err)
		if len(j.Waits) > 0 {
			break
		}
		require.NotNil(t, j.Next, "%+v", j)
		step := j.StepList[slices.IndexFunc(j.StepList, func(s jobs.StepView) bool { return s.Code == j.Next.Code })]
		_, err = b.DoStep(ctx, b.mira, id, j.Next.Code, jobs.StepAction{Action: "begin", Seen: step.Cautions})
		require.NoError(t, err)
		*b.now = b.now.Add(2 * time.Minute)
		action := jobs.StepAction{Action: "done", Seen: step.Cautions}
		if j.Next.Code == "read-wear" {
			action = jobs.StepAction{Action: "skip", Reason: "it was read yesterday"}
		}
		_, err = b.DoStep(ctx, b.mira, id, j.Next.Code, action)
		require.NoError(t, err)
	}
	j, err := b.Job(ctx, b.mira, id)
	require.NoError(t, err)
	require.NotEmpty(t, j.Waits)
	w := j.Waits[0]
	v := b.floor()
	assert.NotEmpty(t, slices.Collect(func(yield func(schedule.FloorStint) bool) {
		for _, s := range v.Stints {
			if s.State == "done" && !yield(s) {
				return
			}
		}
	}), "what was done today stands on the wall")
	for i, s := range j.StepList {
		if slices.Contains(s.Holding, w.Step) && s.State == "open" {
			at, is := starts(v)[[2]string{id.String(), s.Code}]
			if is {
				assert.False(t, at.Before(w.LeastAt.Truncate(time.Minute)), "step %d, %s, begins at %s before its wait is over at %s", i, s.Code, at, w.LeastAt)
			}
		}
	}
}

// A wait that runs and ends when nobody is here is strained: what ends it is planned for when somebody is, and the
// wall says that it comes late. Nothing else of the job is left out for it.
func TestStrainedWaits(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, list := staffed(t, 1)
	id := list[0].ID
	var job jobs.Job
	for range 60 { // until something runs that has a limit
		j, err := b.Job(ctx, b.mira, id)
		require.NoError(t, err)
		if slices.ContainsFunc(j.Waits, func(w jobs.WaitView) bool { return w.MostAt != nil }) {
			job = j
			break
		}
		if j.Next == nil {
			require.NotNil(t, j.HeldUntil)
			*b.now = *j.HeldUntil
			continue
		}
		step := j.StepList[slices.IndexFunc(j.StepList, func(s jobs.StepView) bool { return s.Code == j.Next.Code })]
		action := jobs.StepAction{Action: "done", Seen: step.Cautions}
		if j.Next.Code == "read-wear" {
			action = jobs.StepAction{Action: "skip", Reason: "it was read yesterday"}
		}
		_, err = b.DoStep(ctx, b.mira, id, j.Next.Code, action)
		require.NoError(t, err)
	}
	require.NotEmpty(t, job.Waits)
	limit := *job.Waits[slices.IndexFunc(job.Waits, func(w jobs.WaitView) bool { return w.MostAt != nil })].MostAt
	b.rules(func(r *rules.Rules) { // closed from now until well after
		from := limit.Add(3 * time.Hour).Format("15:04")
		for day := range r.Floor.Hours {
			r.Floor.Hours[day] = []store.Stretch{{From: from, Until: "24:00"}}
		}
	})
	v := b.floor()
	require.NotEmpty(t, v.NotPlaced)
	for _, n := range v.NotPlaced {
		assert.Equal(t, "strained", n.Why, n)
	}
	for _, s := range v.Stints {
		if s.State == schedule.StintPlanned || s.State == schedule.StintReady {
			assert.True(t, s.Start.After(limit), "%s at %s", s.Title, s.Start)
		}
	}
	assert.NotNil(t, v.Jobs[0].FinishAt, "all of it is planned")
	for _, p := range v.People {
		assert.False(t, p.Here)
	}
}

// While nobody looks the plan is thought about longer, once, and never made worse; what the clock makes untrue is
// planned again all the same.
func TestKeepFloor(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, _ := staffed(t, 5)
	kept := func() {
		t.Helper()
		require.NoError(t, b.RefreshDayPlan(ctx))
	}
	finish := func(v schedule.FloorView) (sum time.Duration) {
		for _, j := range v.Jobs {
			assert.Zero(t, j.LateMin)
			sum += j.FinishAt.Sub(*b.now)
		}
		return sum
	}
	first := b.floor()
	kept()
	assert.Equal(t, starts(first), starts(b.floor()), "not while writes follow each other")
	*b.now = b.now.Add(11 * time.Second)
	kept()
	thought := b.floor()
	assert.GreaterOrEqual(t, finish(first)-finish(thought), time.Duration(movedBetween(first, thought))*3*time.Minute, "it is worth the change")
	*b.now = b.now.Add(11 * time.Second)
	kept()
	assert.Equal(t, starts(thought), starts(b.floor()), "thought about once")

	i := slices.IndexFunc(thought.People, func(p schedule.FloorPerson) bool { return p.Next != nil && p.Next.State == schedule.StintReady })
	require.GreaterOrEqual(t, i, 0)
	next := thought.People[i].Next
	_, err := b.DoStep(ctx, record.Actor{Person: thought.People[i].Person, Device: "stand 2"}, next.Job, next.Step, jobs.StepAction{Action: "begin", Seen: allCautions})
	require.NoError(t, err)
	atWork := b.floor()
	*b.now = b.now.Add(11 * time.Second)
	kept()
	thoughtAgain := b.floor()
	assert.GreaterOrEqual(t, finish(atWork)-finish(thoughtAgain), time.Duration(movedBetween(atWork, thoughtAgain))*12*time.Minute, "who is at work has it in their heads")

	i = slices.IndexFunc(thoughtAgain.People, func(p schedule.FloorPerson) bool { return p.Next != nil && p.Next.State == schedule.StintReady })
	require.GreaterOrEqual(t, i, 0)
	*b.now = thoughtAgain.People[i].Next.Start.Add(10 * time.Minute)
	kept() // nobody began it, and nobody looked
	after := b.floor()
	assert.Equal(t, *b.now, after.MadeAt.UTC())
	assert.NotEmpty(t, after.Moved)
	for _, s := range after.Stints {
		assert.False(t, s.State != "begun" && s.State != "over" && s.Start.Before(b.now.Truncate(time.Minute)), "%s of %s begins in the past", s.Title, s.Tag)
	}
	empty, _, _ := open(t)
	assert.NoError(t, empty.RefreshDayPlan(ctx), "with no job there is nothing to plan")
}

// Who goes home has nothing on the wall any more, and what was theirs is somebody else's.
func TestSomebodyGoesHome(t *testing.T) {
	t.Parallel()
	b, _ := staffed(t, 4)
	before := b.floor()
	gone := before.Stints[slices.IndexFunc(before.Stints, func(s schedule.FloorStint) bool { return s.Phase == "lubricate" })].Person
	theirs := func(v schedule.FloorView) (n int) {
		for _, s := range v.Stints {
			if s.Person == gone {
				n++
			}
		}
		return n
	}
	require.Positive(t, theirs(before))
	b.rules(func(r *rules.Rules) {
		r.Floor.People[gone] = store.FloorPerson{Skills: []string{"wash", "drivetrain", "checks"}, Away: []string{b.now.Format(time.DateOnly), b.now.AddDate(0, 0, 1).Format(time.DateOnly)}}
	})
	after := b.floor()
	assert.Zero(t, theirs(after))
	assert.Empty(t, after.NotPlaced)
	assert.Equal(t, []schedule.Because{{What: "changed"}}, after.Because)
	assert.True(t, slices.ContainsFunc(after.Moved, func(m schedule.Moved) bool { return m.By != "" && m.ByBefore != "" && m.By != m.ByBefore }))
	i := slices.IndexFunc(after.People, func(p schedule.FloorPerson) bool { return p.Person.ID.String() == gone })
	assert.False(t, after.People[i].Here)
}

// What is begun and done on time moves nothing of anybody else's: the wall stands while the day goes as planned.
func TestADayAsPlannedMovesNothing(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, _ := staffed(t, 3)
	for range 12 {
		v := b.floor()
		before := starts(v)
		// What is the first to happen by the plan: somebody begins what is next for them, or is done with what they are at.
		happens := func(p schedule.FloorPerson) (time.Time, bool) {
			switch {
			case p.At != nil:
				return p.At.Start.Add(time.Duration(p.At.Minutes) * time.Minute), true
			case p.Next != nil && p.Next.State == schedule.StintReady:
				return p.Next.Start, true
			}
			return time.Time{}, false
		}
		i := -1
		for k, p := range v.People {
			if at, does := happens(p); does {
				if first, _ := happens(v.People[max(i, 0)]); i < 0 || at.Before(first) {
					i = k
				}
			}
		}
		require.GreaterOrEqual(t, i, 0)
		if at := v.People[i].At; at != nil {
			*b.now = at.Start.Add(time.Duration(at.Minutes) * time.Minute)
			action := jobs.StepAction{Action: "done", Seen: allCautions}
			if at.Step == "read-wear" {
				action = jobs.StepAction{Action: "skip", Reason: "it was read yesterday"}
			}
			_, err := b.DoStep(ctx, record.Actor{Person: v.People[i].Person, Device: "stand 2"}, at.Job, at.Step, action)
			require.NoError(t, err)
			continue
		}
		next := *v.People[i].Next
		if next.Start.After(*b.now) {
			*b.now = next.Start
		}
		_, err := b.DoStep(ctx, record.Actor{Person: v.People[i].Person, Device: "stand 2"}, next.Job, next.Step, jobs.StepAction{Action: "begin", Seen: allCautions})
		require.NoError(t, err)
		after := starts(b.floor())
		for key, start := range before {
			if now, there := after[key]; there && key[0] != next.Job.String() {
				assert.Equal(t, start, now, "%s of another job, when %s of %s began on time", key[1], next.Title, next.Tag)
			}
		}
	}
}

// A step that nobody begins on the minute moves nothing for a while; then the wall says so, and of nothing else. A bike
// that waits to be handed back has nothing left on the wall, and did not come in for that.
func TestTheWallStandsAWhile(t *testing.T) {
	t.Parallel()
	b, list := staffed(t, 2)
	b.tag = list[0].Tag
	w := &atWork{tracked: b, job: list[0]}
	w.finish()
	before := b.floor()
	require.Len(t, before.Jobs, 2)
	require.False(t, slices.ContainsFunc(before.Stints, func(s schedule.FloorStint) bool { return s.Job == list[0].ID && s.State != "done" }))
	i := slices.IndexFunc(before.People, func(p schedule.FloorPerson) bool { return p.Next != nil && p.Next.State == schedule.StintReady })
	require.GreaterOrEqual(t, i, 0)
	next := before.People[i].Next
	*b.now = next.Start.Add(4 * time.Minute)
	assert.Zero(t, movedBetween(before, b.floor()))
	*b.now = next.Start.Add(6 * time.Minute)
	after := b.floor()
	assert.NotZero(t, movedBetween(before, after))
	for _, why := range after.Because {
		assert.Equal(t, []any{"not-begun", next.Tag}, []any{why.What, why.Tag})
		assert.LessOrEqual(t, why.Min, 6)
	}
	assert.NotEmpty(t, after.Because)
	// A step is over its time by the second, and not since the clock shows another minute.
	*b.now = b.now.Truncate(time.Minute).Add(59 * time.Second)
	who := record.Actor{Person: after.People[i].Person, Device: "stand 2"}
	job, err := b.DoStep(context.Background(), who, next.Job, next.Step, jobs.StepAction{Action: "begin", Seen: allCautions})
	require.NoError(t, err)
	minutes := job.StepList[slices.IndexFunc(job.StepList, func(s jobs.StepView) bool { return s.Code == next.Step })].Minutes
	state := func() schedule.StintState { return b.floor().People[i].At.State }
	*b.now = b.now.Add(time.Duration(minutes)*time.Minute - time.Second)
	assert.EqualValues(t, "begun", state())
	*b.now = b.now.Add(time.Second)
	assert.EqualValues(t, "over", state())
}

// What takes longer than it was given moves the wall as it does, with the reason, and not again with each minute.
func TestWhatTakesLongerMovesTheWallNowAndThen(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, _ := staffed(t, 3)
	v := b.floor()
	i := slices.IndexFunc(v.People, func(p schedule.FloorPerson) bool { return p.Next != nil && p.Next.State == schedule.StintReady })
	require.GreaterOrEqual(t, i, 0)
	next := *v.People[i].Next
	*b.now = next.Start
	_, err := b.DoStep(ctx, record.Actor{Person: v.People[i].Person, Device: "stand 2"}, next.Job, next.Step, jobs.StepAction{Action: "begin", Seen: allCautions})
	require.NoError(t, err)
	begun := b.floor().People[i].At
	*b.now = begun.End
	over := b.floor()
	assert.Equal(t, []any{"took-longer", next.Tag}, []any{over.Because[0].What, over.Because[0].Tag})
	made, times := over.MadeAt, 0
	for range 14 {
		*b.now = b.now.Add(time.Minute)
		if at := b.floor().MadeAt; !at.Equal(made) {
			made, times = at, times+1
		}
	}
	assert.LessOrEqual(t, times, 3, "in a quarter of an hour")
	assert.Positive(t, times)
}
