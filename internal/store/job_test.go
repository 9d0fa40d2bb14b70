package store_test

import (
	"context"
	"encoding/json"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/store"
)

// The database itself keeps a bike to one open job, a job's states whole, and waits and findings sensible.
func TestJobsKeepTheirShape(t *testing.T) {
	ctx, s := context.Background(), open(t)
	p, b := aBike(t, s)
	job := store.Job{ID: uuid.New(), BikeID: b.ID, State: "arrived", Intake: json.RawMessage(`{}`), CreatedAt: noon, CreatedBy: p.ID}
	require.NoError(t, s.Read(ctx).AddJob(ctx, &job))
	second := job
	second.ID = uuid.New()
	require.ErrorIs(t, s.Read(ctx).AddJob(ctx, &second), store.ErrTaken, "one open job a bike")

	job.State, job.Plan = "planned", json.RawMessage(`{"route":"soak"}`)
	require.NoError(t, s.Read(ctx).SaveJob(ctx, &job))
	stale := job
	stale.Version = 1
	require.ErrorIs(t, s.Read(ctx).SaveJob(ctx, &stale), store.ErrStale)
	for what, change := range map[string]func(*store.Job){
		"planned without a plan":            func(j *store.Job) { j.Plan = nil },
		"handed back, but nobody says when": func(j *store.Job) { j.State = "handed-back" },
		"signed twice by one person": func(j *store.Job) {
			at := noon
			j.State, j.ClosedAt, j.ClosedBy, j.SecondBy = "handed-back", &at, &p.ID, &p.ID
		},
		"a price below nothing": func(j *store.Job) { less := -1; j.Agreed = &less },
	} {
		bad := job
		change(&bad)
		assert.ErrorContains(t, s.Read(ctx).SaveJob(ctx, &bad), "constraint", what)
	}

	steps := []store.JobStep{{JobID: job.ID, Code: "jar", Position: 0, Spec: json.RawMessage(`{}`), State: "open", Round: 1},
		{JobID: job.ID, Code: "oil", Position: 1, Spec: json.RawMessage(`{}`), State: "open", Round: 1}}
	require.NoError(t, s.Write(ctx, func(ctx context.Context, tx store.Tx) error { return tx.SetSteps(ctx, job.ID, steps) }))
	half := steps[0]
	half.State = "done"
	assert.ErrorContains(t, s.Read(ctx).SaveStep(ctx, &half), "constraint", "done, but nobody says when")
	at := noon
	steps[0].State, steps[0].BegunAt, steps[0].BegunBy = "begun", &at, &p.ID
	require.NoError(t, s.Read(ctx).SaveStep(ctx, &steps[0]))
	begun, err := s.Read(ctx).StepsBegunBy(ctx, p.ID)
	require.NoError(t, err)
	require.Len(t, begun, 1)
	assert.Equal(t, "jar", begun[0].Code)

	early := noon.Add(-time.Minute)
	wait := store.Wait{ID: uuid.New(), JobID: &job.ID, StepCode: "jar", What: "jar-soak", BeganAt: noon, BeganBy: p.ID, LeastAt: noon.Add(time.Hour), MostAt: &early}
	assert.ErrorContains(t, s.Read(ctx).AddWait(ctx, &wait), "constraint", "too late before it is over")
	wait.MostAt = nil
	require.NoError(t, s.Read(ctx).AddWait(ctx, &wait))
	running, err := s.Read(ctx).RunningWaits(ctx)
	require.NoError(t, err)
	require.Len(t, running, 1)
	assert.Equal(t, b.TagNumber, running[0].TagNumber)
	wait.EndedAt, wait.EndedBy = &at, &p.ID
	require.NoError(t, s.Read(ctx).SaveWait(ctx, &wait))
	running, err = s.Read(ctx).RunningWaits(ctx)
	require.NoError(t, err)
	assert.Empty(t, running)

	finding := store.Finding{ID: uuid.New(), JobID: job.ID, Code: "pads-worn", Severity: "stop", FoundAt: noon, FoundBy: p.ID}
	require.NoError(t, s.Read(ctx).AddFinding(ctx, &finding))
	require.NoError(t, s.Read(ctx).ResolveFinding(ctx, finding.ID, p.ID, "fixed", noon))
	assert.ErrorIs(t, s.Read(ctx).ResolveFinding(ctx, finding.ID, p.ID, "owner-told", noon), store.ErrStale, "settled once")
	require.NoError(t, s.Read(ctx).TapCautions(ctx, p.ID, noon, []string{"gloves", "gloves", "air"}))
	seen, err := s.Read(ctx).TappedCautions(ctx, p.ID, noon)
	require.NoError(t, err)
	assert.Equal(t, []string{"air", "gloves"}, seen)
	tomorrow, err := s.Read(ctx).TappedCautions(ctx, p.ID, noon.AddDate(0, 0, 1))
	require.NoError(t, err)
	assert.Empty(t, tomorrow, "each day anew")
}

// A step draws from the fullest of a kind; what is missing is not made up; what is not kept is not counted.
func TestMaterialsAreDrawn(t *testing.T) {
	ctx, s := context.Background(), open(t)
	p, b := aBike(t, s)
	job := store.Job{ID: uuid.New(), BikeID: b.ID, State: "arrived", Intake: json.RawMessage(`{}`), CreatedAt: noon, CreatedBy: p.ID}
	require.NoError(t, s.Read(ctx).AddJob(ctx, &job))
	for name, quantity := range map[string]float64{"Small can": 30, "Big can": 100} {
		require.NoError(t, s.Read(ctx).AddMaterial(ctx, &store.Material{ID: uuid.New(), Kind: "oil", MaterialFacts: store.MaterialFacts{Name: name, Quantity: quantity}, CreatedAt: noon}))
	}
	use := func(kind string, amount float64) {
		t.Helper()
		require.NoError(t, s.Write(ctx, func(ctx context.Context, tx store.Tx) error {
			return tx.UseMaterial(ctx, kind, nil, amount, job.ID, "oil", noon)
		}))
	}
	use("oil", 80)
	use("oil", 12)
	use("oil", 40)
	use("wax", 7)
	left := map[string]float64{}
	all, err := s.Read(ctx).Materials(ctx)
	require.NoError(t, err)
	for _, m := range all {
		left[m.Name] = m.Quantity
	}
	assert.Equal(t, map[string]float64{"Big can": 0, "Small can": 18}, left)
	used, err := s.Read(ctx).UsesOf(ctx, job.ID)
	require.NoError(t, err)
	assert.Equal(t, []store.MaterialUsed{{Kind: "oil", Name: "Big can", Amount: 120}, {Kind: "oil", Name: "Small can", Amount: 12}}, used)
}
