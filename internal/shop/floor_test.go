package shop_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/schedule"
	"earnestpony/internal/store"
)

// staffed is a shop that is open all day and every day, with three bikes come in and planned.
func staffed(t *testing.T, rows int) (*tracked, []jobs.Job) {
	b := openTracked(t, commuter)
	b.rules(func(r *rules.Rules) {
		for day := range r.Floor.Hours {
			r.Floor.Hours[day] = []store.Stretch{{From: "00:00", Until: "24:00"}}
		}
	})
	ctx := context.Background()
	_, err := b.AddPerson(ctx, "Tobiah Marsh", "mechanic", "3141")
	require.NoError(t, err)
	_, err = b.AddPerson(ctx, "Posy Peake", "apprentice", "5772")
	require.NoError(t, err)
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	var jobs []jobs.Job
	for range rows {
		added, err := b.AddBike(ctx, b.mira, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: commuter})
		require.NoError(t, err)
		at := b.now.Add(9 * time.Hour)
		jobs = append(jobs, b.takeIn(added.Tag, &at))
	}
	return b, jobs
}

func (t *tracked) takeIn(tag string, promised *time.Time) jobs.Job {
	t.Helper()
	ctx := context.Background()
	a := jobs.Intake{Condition: jobs.Condition{FrameGrade: 2, DrivetrainGrade: 2}, Complaints: []string{}, PromisedAt: promised}
	j, err := t.OpenJob(ctx, t.mira, tag, a)
	require.NoError(t, err)
	j, err = t.PlanJob(ctx, t.mira, j.ID, jobs.JobOrder{Version: j.Version})
	require.NoError(t, err)
	return j
}

func (t *tracked) floor() schedule.FloorView {
	t.Helper()
	v, err := t.Floor(context.Background())
	require.NoError(t, err)
	return v
}

func starts(v schedule.FloorView) map[[2]string]time.Time {
	all := map[[2]string]time.Time{}
	for _, s := range v.Stints {
		if s.State == schedule.StintPlanned || s.State == schedule.StintReady {
			all[[2]string{s.Job.String(), s.Step}] = s.Start.UTC()
		}
	}
	return all
}

// movedBetween is how many steps stand elsewhere in a plan than in the one before.
func movedBetween(before, after schedule.FloorView) (n int) {
	was := starts(before)
	for key, start := range starts(after) {
		if at, there := was[key]; there && !at.Equal(start) {
			n++
		}
	}
	return n
}

// allCautions are tapped where the test is not about them.
var allCautions = []string{"electric", "lifting", "gloves", "brakes", "air"}

// What was done is shown as it was done, in whichever order of the steps: one stretch of somebody at a bike without a
// break, never one that ends before it begins.
func TestDoneWorkIsShownAsItWasDone(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, list := staffed(t, 1)
	began := *b.now
	job := list[0]
	const steps = 8
	for n := range steps {
		var ready []jobs.StepView
		for _, st := range job.StepList {
			if st.Standing == "ready" && st.Code == "read-wear" {
				job, _ = b.DoStep(ctx, b.mira, job.ID, st.Code, jobs.StepAction{Action: "skip", Reason: "read last week"})
			}
		}
		for _, st := range job.StepList {
			if st.Standing == "ready" && st.Wait == nil && st.Code != "read-wear" {
				ready = append(ready, st)
			}
		}
		require.NotEmpty(t, ready)
		next := ready[(len(ready)-1)*(n%2)] // the last that can be done, and the first in turn
		_, err := b.DoStep(ctx, b.mira, job.ID, next.Code, jobs.StepAction{Action: "begin", Seen: next.Cautions})
		require.NoError(t, err)
		*b.now = b.now.Add(2 * time.Minute)
		job, err = b.DoStep(ctx, b.mira, job.ID, next.Code, jobs.StepAction{Action: "done", Seen: next.Cautions})
		require.NoError(t, err, next.Code)
		var done []schedule.FloorStint
		for _, s := range b.floor().Stints {
			if s.State == "done" {
				done = append(done, s)
			}
		}
		require.Len(t, done, 1, "one stretch")
		assert.Equal(t, []any{n + 1, 2 * (n + 1)}, []any{done[0].Steps, done[0].Minutes})
		assert.WithinDuration(t, began, done[0].Start, time.Second)
		assert.WithinDuration(t, *b.now, done[0].End, time.Second)
	}
}
