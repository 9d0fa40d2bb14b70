package shop_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/store"
)

// What a hand that slipped did is taken back within the minute, and only while nothing was built on it.
func TestTakingBack(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{DrivetrainGrade: 2, FrameGrade: 1, LubricantOn: "oil", LubricantNext: "oil"}})
	w.plan(jobs.JobOrder{})
	w.until("read-wear")
	refused := func(err error) {
		t.Helper()
		assert.Equal(t, "not-taken-back", problem(t, err).Code)
	}
	back := func(code string) error { return w.try(w.mira, code, jobs.StepAction{Action: "take-back"}) }
	skip := func() { w.do("read-wear", jobs.StepAction{Action: "skip", Reason: "read last week"}) }

	refused(back("read-wear")) // it was never left out
	skip()
	require.NoError(t, back("read-wear"))
	assert.Equal(t, []any{store.StepOpen, "read-wear", ""}, []any{w.step("read-wear").State, w.job.Current, w.step("read-wear").Reason})
	skip()
	*w.now = w.now.Add(2 * time.Minute)
	refused(back("read-wear"))
	w.done(w.job.Current)
	last := w.job.Current
	w.do(last, jobs.StepAction{Action: "skip", Reason: "looked at it outside"})
	w.do(w.job.Current, jobs.StepAction{Action: "begin"})
	refused(back(last)) // what comes after it was begun

	for w.job.HeldUntil == nil {
		d := jobs.StepAction{Action: "done", Seen: w.step(w.job.Current).Cautions}
		w.do(w.job.Current, d)
	}
	list, err := w.Waits(ctx)
	require.NoError(t, err)
	require.NotEmpty(t, list.Waits)
	running, wait := list.Waits, list.Waits[0]
	do := func(action string) error {
		_, err := w.DoWait(ctx, w.mira, wait.ID, jobs.WaitAction{Action: action, Reason: "dry already"})
		return err
	}
	refused(do("take-back")) // it runs
	require.NoError(t, do("end"))
	require.NoError(t, do("take-back"))
	list, err = w.Waits(ctx)
	require.NoError(t, err)
	assert.Equal(t, running, list.Waits, "as it ran before")

	// A job that was cancelled stands where it stood, with what ran in it.
	before, err := w.Job(ctx, w.mira, w.job.ID)
	require.NoError(t, err)
	gone, err := w.CancelJob(ctx, w.mira, w.job.ID, before.Version, "the wrong bike")
	require.NoError(t, err)
	assert.Empty(t, gone.Waits)
	_, err = w.ReopenJob(ctx, w.mira, w.job.ID, before.Version)
	assert.Equal(t, "changed-meanwhile", problem(t, err).Code)
	again, err := w.ReopenJob(ctx, w.mira, w.job.ID, gone.Version)
	require.NoError(t, err)
	again.Version = before.Version
	assert.Equal(t, before, again)
	gone, err = w.CancelJob(ctx, w.mira, w.job.ID, gone.Version+1, "the wrong bike")
	require.NoError(t, err)
	_, err = w.OpenJob(ctx, w.mira, w.tag, jobs.Intake{})
	require.NoError(t, err)
	_, err = w.ReopenJob(ctx, w.mira, w.job.ID, gone.Version)
	refused(err) // it is here anew
	*w.now = w.now.Add(2 * time.Minute)
	_, err = w.ReopenJob(ctx, w.mira, w.job.ID, gone.Version)
	refused(err)
}
