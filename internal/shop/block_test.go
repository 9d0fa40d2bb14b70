package shop_test

import (
	"context"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// inBlocks works a job through in blocks, safety checks each by itself, a minute a step.
func (w *atWork) inBlocks() {
	w.Helper()
	ctx := context.Background()
	for w.job.Block != "" || w.job.HeldUntil != nil || w.job.Current != "" {
		if w.job.Block == "" {
			if w.job.HeldUntil == nil { // a step further on could be begun by itself; in blocks the wait comes first
				*w.now = w.now.Add(10 * time.Minute)
				job, err := w.Job(ctx, w.mira, w.job.ID)
				require.NoError(w, err)
				w.job = job
				continue
			}
			*w.now = *w.job.HeldUntil
			job, err := w.Job(ctx, w.mira, w.job.ID)
			require.NoError(w, err)
			w.job = job
			continue
		}
		block := w.job.Blocks[slices.IndexFunc(w.job.Blocks, func(b jobs.BlockView) bool { return b.Code == w.job.Block })]
		open := 0
		for _, code := range block.Steps {
			step := w.step(code)
			if step.State == store.StepDone {
				continue
			}
			*w.now = w.now.Add(time.Minute)
			switch {
			case code == "read-wear":
				w.read(1400, "0.2")
			case step.Gate: // and what is open before it
				job, err := w.DoBlock(ctx, w.mira, w.job.ID, block.Code, jobs.BlockAction{Action: "pass", Step: code, Seen: block.Cautions, GoOn: true})
				require.NoError(w, err, code)
				w.job, open = job, 0
				continue
			}
			open++
		}
		if open == 0 {
			continue
		}
		next := w.job.NextBlock
		job, err := w.DoBlock(ctx, w.mira, w.job.ID, block.Code, jobs.BlockAction{Action: "done", Seen: block.Cautions, GoOn: true})
		require.NoError(w, err, block.Code)
		w.job = job
		if next != "" {
			assert.Equal(w, next, job.Block, "the next block is the one that was named")
		}
	}
}

// A job done in blocks leaves the same history, step by step, as one that is done one by one.
func TestBlocksLeaveTheSameHistory(t *testing.T) {
	t.Parallel()
	history := func(work func(*atWork)) (done []string, worked int) {
		w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 2, LubricantOn: "oil", LubricantNext: "oil"}})
		w.plan(jobs.JobOrder{})
		work(w)
		assert.Empty(t, w.job.Current)
		assert.Zero(t, w.job.OpenChecks)
		for _, step := range w.job.StepList {
			done = append(done, fmt.Sprint(step.Code, step.State, step.Round, step.By))
			worked += step.WorkedS
		}
		return done, worked
	}
	oneByOne, _ := history(func(w *atWork) { w.finish() })
	blocks, worked := history((*atWork).inBlocks)
	assert.Equal(t, oneByOne, blocks, "every step, by whom and how often")
	assert.Greater(t, worked, 15*60, "and the time of a block is shared over its steps")
}

// One press is taken back as one: its steps are open again, its wait has ended, what it used is on the shelf, and whoever
// pressed is at the block as before; not what somebody went on with, and not what is long done.
func TestBlockTakenBack(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}})
	w.plan(jobs.JobOrder{})
	w.read(1400, "0.2")
	tries := 0
	for w.job.Block != "" && tries < 4 {
		block := w.job.Blocks[slices.IndexFunc(w.job.Blocks, func(b jobs.BlockView) bool { return b.Code == w.job.Block })]
		if slices.ContainsFunc(block.Steps, func(code string) bool { return w.step(code).Gate || len(w.step(code).Causes) > 0 }) {
			break
		}
		before, err := w.DoBlock(ctx, w.mira, w.job.ID, block.Code, jobs.BlockAction{Action: "begin", Seen: block.Cautions})
		require.NoError(t, err)
		*w.now = w.now.Add(time.Minute)
		done := jobs.BlockAction{Action: "done", Seen: block.Cautions, GoOn: true}
		_, err = w.DoBlock(ctx, w.mira, w.job.ID, block.Code, done)
		require.NoError(t, err)
		*w.now = w.now.Add(5 * time.Second)
		after, err := w.DoBlock(ctx, w.mira, w.job.ID, block.Code, jobs.BlockAction{Action: "take-back"})
		tries++
		if slices.ContainsFunc(block.Steps, func(code string) bool { return w.step(code).Bath != "" }) {
			assert.Equal(t, "not-taken-back", problem(t, err).Code, block.Title)
			break
		}
		require.NoError(t, err, block.Title)
		for i, s := range after.StepList {
			assert.Equal(t, before.StepList[i].State, s.State, "%s: %s", block.Title, s.Code)
		}
		assert.Equal(t, before.Block, after.Block)
		assert.Len(t, after.Waits, len(before.Waits), "its wait does not run on")
		w.job, err = w.DoBlock(ctx, w.mira, w.job.ID, block.Code, done)
		require.NoError(t, err)
		*w.now = w.now.Add(2 * time.Minute)
		_, err = w.DoBlock(ctx, w.mira, w.job.ID, block.Code, jobs.BlockAction{Action: "take-back"})
		assert.Equal(t, "not-taken-back", problem(t, err).Code, "long done")
	}
	assert.Positive(t, tries)
}

// A reading that condemns the chain changes the job: the other plan is laid beside what is left of this one, and planned so,
// nothing that was done or measured is lost.
func TestReadingChangesTheJob(t *testing.T) {
	t.Parallel()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 2, LubricantOn: "oil", LubricantNext: "oil"}})
	w.plan(jobs.JobOrder{})
	w.until("read-wear")
	w.do("read-wear", jobs.StepAction{Action: "begin"})
	*w.now = w.now.Add(3 * time.Minute)
	w.read(1400, "0.2")
	w.done("read-wear")
	assert.Nil(t, w.job.Change, "a good chain changes nothing")
	w.until("chain-brush-off")
	before := len(w.job.StepList)
	w.do("chain-brush-off", jobs.StepAction{Action: "begin"})
	*w.now = w.now.Add(2 * time.Minute)
	w.read(1400, "1.1") // somebody looks again, at another place
	job, err := w.Job(context.Background(), w.mira, w.job.ID)
	require.NoError(t, err)
	require.NotNil(t, job.Change)
	assert.Contains(t, job.Change.Adds, "Fit the new chain")
	assert.Contains(t, job.Change.Drops, w.step("rag-test").Title)
	assert.Len(t, job.StepList, before, "nothing changes by itself")
	done, worked := 0, 0
	for _, s := range w.job.StepList {
		if s.State == store.StepDone {
			done, worked = done+1, worked+s.WorkedS
		}
	}
	w.plan(jobs.JobOrder{Route: job.Change.Route, Reason: job.Change.Reason})
	assert.Nil(t, w.job.Change)
	assert.Equal(t, store.StepSkipped, w.step("chain-brush-off").State, "left in the middle, and its minutes stay")
	assert.Equal(t, 120, w.step("chain-brush-off").WorkedS)
	assert.Equal(t, 180, w.step("read-wear").WorkedS)
	left := 0
	for _, s := range w.job.StepList {
		if s.State == store.StepDone {
			done, worked = done-1, worked-s.WorkedS
		} else if s.State == store.StepOpen {
			left += s.Minutes
		}
	}
	assert.Zero(t, done, "what was done stays done")
	assert.Zero(t, worked)
	assert.Equal(t, job.Change.NewLeftMin, left)
}

// Mechanics work in blocks and apprentices one by one, until somebody says otherwise: each for themselves, a mechanic for an
// apprentice.
func TestWayOfWorking(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	assert.Equal(t, record.InBlocks, b.mira.Person.Way)
	posy, err := b.AddPerson(ctx, "Posy Peake", "apprentice", "1618")
	require.NoError(t, err)
	assert.Equal(t, record.OneByOne, posy.Way)
	learner := record.Actor{Person: posy, Device: "stand 2"}
	_, err = b.SetWay(ctx, learner, posy.ID, record.InBlocks)
	assert.Equal(t, "not-allowed", problem(t, err).Code)
	_, err = b.SetWay(ctx, learner, b.mira.Person.ID, record.OneByOne)
	assert.Equal(t, "not-allowed", problem(t, err).Code)
	_, err = b.SetWay(ctx, b.mira, b.mira.Person.ID, "sideways")
	assert.Equal(t, "invalid-input", problem(t, err).Code)
	for _, id := range []uuid.UUID{posy.ID, b.mira.Person.ID} {
		p, err := b.SetWay(ctx, b.mira, id, record.OneByOne)
		require.NoError(t, err)
		assert.Equal(t, record.OneByOne, p.Way)
	}
	people, err := b.ListPeople(ctx)
	require.NoError(t, err)
	assert.Equal(t, record.OneByOne, people[0].Way, "and is kept")
}

// A test ride that failed asks what was felt, and leads to the step that mends it.
func TestFailedRide(t *testing.T) {
	t.Parallel()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 2, LubricantOn: "oil", LubricantNext: "oil"}})
	w.plan(jobs.JobOrder{})
	w.until("ride")
	ride := w.step("ride")
	fail := jobs.StepAction{Action: "fail", Seen: ride.Cautions}
	assert.Equal(t, "invalid-input", problem(t, w.try(w.mira, "ride", fail)).Code)
	require.NotEmpty(t, ride.Felt)
	k := slices.IndexFunc(ride.Felt, func(f jobs.StepFelt) bool { return f.Code == "noisy" })
	fail.Felt = ride.Felt[k].Code
	w.do("ride", fail)
	assert.Equal(t, w.step("oil").Title, ride.Felt[k].Leads)
	for code, state := range map[string]store.StepState{"oil": store.StepOpen, "oil-wipe": store.StepOpen, "ride": store.StepOpen, "axles": store.StepDone} {
		assert.Equal(t, state, w.step(code).State, code)
	}
	assert.Equal(t, 2, w.step("oil").Round)
	assert.Equal(t, "oil", w.job.Current)
}

// A line that is ticked by itself keeps its own time, whichever it is; the rest of the block's time is the others'.
func TestTickedLines(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 2, LubricantOn: "oil", LubricantNext: "oil"}})
	w.plan(jobs.JobOrder{})
	w.until("cover-brakes")
	block := w.job.Blocks[slices.IndexFunc(w.job.Blocks, func(b jobs.BlockView) bool { return b.Code == w.job.Block })]
	act := func(after time.Duration, a jobs.BlockAction) {
		*w.now = w.now.Add(after)
		a.Seen = block.Cautions
		job, err := w.DoBlock(ctx, w.mira, w.job.ID, block.Code, a)
		require.NoError(t, err)
		w.job = job
	}
	act(0, jobs.BlockAction{Action: "begin"})
	act(2*time.Minute, jobs.BlockAction{Action: "tick", Step: "cover-brakes"})
	require.Equal(t, store.StepBegun, w.step("gear-set").State)
	act(3*time.Minute, jobs.BlockAction{Action: "tick", Step: "rings-brush"}) // not the one that is begun
	assert.Equal(t, []int{120, 180}, []int{w.step("cover-brakes").WorkedS, w.step("rings-brush").WorkedS})
	act(15*time.Minute, jobs.BlockAction{Action: "done", GoOn: true})
	rest := 0
	for _, code := range block.Steps {
		s := w.step(code)
		assert.Equal(t, store.StepDone, s.State, code)
		rest += s.WorkedS
	}
	assert.Equal(t, 20*60, rest, "no minute is lost")
	_, err := w.DoBlock(ctx, w.mira, w.job.ID, block.Code, jobs.BlockAction{Action: "tick", Step: "polish"})
	assert.Equal(t, "step-not-found", problem(t, err).Code)
}

// A second round of oil is drawn from stock only where somebody says that there was one; and in no block that has none.
func TestSecondRound(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	used := func(second bool) (oil float64) {
		w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 2, LubricantOn: "oil", LubricantNext: "oil"}})
		_, err := w.AddMaterial(ctx, w.mira, stock.NewMaterialFacts{Kind: "oil", Facts: stock.MaterialFacts{Name: "All-weather oil", Quantity: 100}})
		require.NoError(t, err)
		w.plan(jobs.JobOrder{})
		require.NotEmpty(t, w.step("oil").SecondRound)
		w.until("oil")
		block := w.job.Blocks[slices.IndexFunc(w.job.Blocks, func(b jobs.BlockView) bool { return slices.Contains(b.Steps, "oil") })]
		job, err := w.DoBlock(ctx, w.mira, w.job.ID, block.Code, jobs.BlockAction{Action: "done", Seen: block.Cautions, SecondRound: second})
		require.NoError(t, err)
		for _, u := range job.Used {
			if u.Kind == "oil" {
				oil += u.Amount
			}
		}
		return oil
	}
	once, twice := used(false), used(true)
	assert.Positive(t, once)
	assert.InDelta(t, 2*once, twice, 1e-9)
}

// What a colleague went on with is not pulled from under their hands.
func TestBlockNotTakenBackUnderHands(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 2, LubricantOn: "oil", LubricantNext: "oil"}})
	w.plan(jobs.JobOrder{})
	w.read(1400, "0.2")
	person, err := w.AddPerson(ctx, "Tobiah Marsh", "mechanic", "3141")
	require.NoError(t, err)
	tobiah := record.Actor{Person: person, Device: "stand 2"}
	first := w.job.Blocks[0]
	w.job, err = w.DoBlock(ctx, w.mira, w.job.ID, first.Code, jobs.BlockAction{Action: "done", Seen: first.Cautions})
	require.NoError(t, err)
	next := w.step(w.job.Current)
	require.True(t, slices.ContainsFunc(next.Before, func(code string) bool { return slices.Contains(first.Steps, code) }), "%s goes on from it", next.Code)
	_, err = w.DoStep(ctx, tobiah, w.job.ID, next.Code, jobs.StepAction{Action: "begin"})
	require.NoError(t, err)
	_, err = w.DoBlock(ctx, w.mira, w.job.ID, first.Code, jobs.BlockAction{Action: "take-back"})
	assert.Equal(t, "not-taken-back", problem(t, err).Code)
	assert.Contains(t, err.Error(), next.Title)
}

// What a block cannot end is refused in words, and nothing of it is done.
func TestBlockRefusals(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 2, LubricantOn: "oil", LubricantNext: "oil"}})
	w.plan(jobs.JobOrder{})
	try := func(who record.Actor, block string, a jobs.BlockAction) string {
		_, err := w.DoBlock(ctx, who, w.job.ID, block, a)
		return problem(t, err).Code
	}
	first := w.job.Blocks[0]
	assert.Equal(t, "block-not-found", try(w.mira, "polish", jobs.BlockAction{Action: "done"}))
	assert.Equal(t, "not-read", try(w.mira, first.Code, jobs.BlockAction{Action: "done", Seen: first.Cautions}), "its reading is not on record")
	assert.Equal(t, store.StepOpen, w.step("floor").State, "and nothing of it is done")
	last := w.job.Blocks[slices.IndexFunc(w.job.Blocks, func(b jobs.BlockView) bool { return slices.Contains(b.Steps, "brakes-test") })]
	assert.Equal(t, "check-open", try(w.mira, last.Code, jobs.BlockAction{Action: "done", Seen: last.Cautions}), "a safety check is made by itself")
	person, err := w.AddPerson(ctx, "Tobiah Marsh", "mechanic", "3141")
	require.NoError(t, err)
	tobiah := record.Actor{Person: person, Device: "stand 2"}
	w.read(1400, "0.2")
	_, err = w.DoBlock(ctx, w.mira, w.job.ID, first.Code, jobs.BlockAction{Action: "begin", Seen: first.Cautions})
	require.NoError(t, err)
	assert.Equal(t, "step-taken", try(tobiah, first.Code, jobs.BlockAction{Action: "done", Seen: first.Cautions}))

	// Two people in one block: what one ticked stays theirs, and its own time.
	*w.now = w.now.Add(4 * time.Minute)
	w.do(first.Steps[0], jobs.StepAction{Action: "done", Seen: w.step(first.Steps[0]).Cautions})
	*w.now = w.now.Add(2 * time.Minute)
	job, err := w.DoBlock(ctx, tobiah, w.job.ID, first.Code, jobs.BlockAction{Action: "done", Seen: first.Cautions})
	require.NoError(t, err)
	by := map[string]string{}
	for _, s := range job.StepList {
		by[s.Code] = s.By
	}
	assert.Equal(t, []string{"Mira Oxenholt", "Tobiah Marsh"}, []string{by[first.Steps[0]], by[first.Steps[1]]})
	assert.Equal(t, "finished", job.Blocks[0].Standing)
}
