package httpapi_test

import (
	"net/http"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/schedule"
)

// The floor over HTTP, every answer held against the contract: planned, tried, promised, kept for somebody, refused.
func TestFloorOverHTTP(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	var floor schedule.FloorView
	c.must(http.StatusOK, "GET", "/floor", nil, &floor)
	assert.Empty(t, floor.Jobs)
	assert.NotEmpty(t, floor.People, "with nothing to do there are people all the same")

	bike := c.addBike("Ottoline Brack", twelve())
	intake := map[string]any{"frame_grade": 2, "drivetrain_grade": 2, "complaints": []string{}}
	var offer schedule.Offer
	c.must(http.StatusOK, "POST", "/bikes/"+bike.Tag+"/offer", intake, &offer)
	require.NotNil(t, offer.EarliestAt)
	a := c.call("POST", "/bikes/"+bike.Tag+"/offer", map[string]any{"frame_grade": 7, "drivetrain_grade": 2, "complaints": []string{}}, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	a = c.call("POST", "/bikes/B-9999-X/offer", intake, nil)
	assert.Equal(t, "tag-mistyped", a.Code)

	intake["promised_at"], intake["waiting"] = offer.EarliestAt, true
	var job jobs.Job
	c.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/jobs", intake, &job)
	c.must(http.StatusOK, "PUT", "/jobs/"+job.ID.String()+"/plan", map[string]any{"version": job.Version}, &job)
	c.must(http.StatusOK, "GET", "/floor", nil, &floor)
	require.Len(t, floor.Jobs, 1)
	assert.True(t, floor.Jobs[0].Waiting)
	assert.Zero(t, floor.Jobs[0].LateMin, "what was offered is kept")
	require.NotEmpty(t, floor.Stints)
	require.NotNil(t, floor.People[0].Next)
	assert.Equal(t, schedule.StintReady, floor.People[0].Next.State)

	var cost schedule.FloorCost
	soon := c.now.Add(10 * time.Minute)
	c.must(http.StatusOK, "POST", "/floor/try", map[string]any{"job": job.ID, "promised_at": soon}, &cost)
	assert.False(t, cost.Kept)
	assert.Equal(t, http.StatusNotFound, c.call("POST", "/floor/try", map[string]any{"job": uuid.New(), "promised_at": soon}, nil).status)
	assert.Equal(t, http.StatusNotFound, c.call("POST", "/floor/try", map[string]any{"job": job.ID, "step": "polish"}, nil).status)
	assert.Equal(t, http.StatusUnprocessableEntity, c.call("POST", "/floor/try", map[string]any{"job": "soon"}, nil).status)

	path := "/jobs/" + job.ID.String()
	floor = schedule.FloorView{}
	c.must(http.StatusOK, "PUT", path+"/promise", map[string]any{"version": job.Version, "promised_at": soon}, &floor)
	assert.Positive(t, floor.Jobs[0].LateMin)
	assert.False(t, floor.Jobs[0].Waiting)
	a = c.call("PUT", path+"/promise", map[string]any{"version": job.Version}, nil)
	assert.Equal(t, []any{http.StatusConflict, "changed-meanwhile"}, []any{a.status, a.Code})
	a = c.call("PUT", path+"/promise", map[string]any{"version": job.Version + 1, "promised_at": c.now.AddDate(3, 0, 0)}, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)

	first := floor.Stints[0]
	c.must(http.StatusOK, "PUT", path+"/steps/"+first.Step+"/hands", map[string]any{"person": c.mira.ID}, &floor)
	assert.True(t, floor.Stints[0].KeptFor)
	a = c.call("PUT", path+"/steps/"+first.Step+"/hands", map[string]any{"person": uuid.New()}, nil)
	assert.Equal(t, []any{http.StatusConflict, "no-skill"}, []any{a.status, a.Code})
	floor = schedule.FloorView{}
	c.must(http.StatusOK, "PUT", path+"/steps/"+first.Step+"/hands", map[string]any{}, &floor)
	assert.False(t, floor.Stints[0].KeptFor)
	assert.Equal(t, http.StatusNotFound, c.call("PUT", path+"/steps/polish/hands", map[string]any{}, nil).status)
	c.must(http.StatusOK, "POST", path+"/steps/"+first.Step, map[string]any{"action": "begin"}, nil)
	a = c.call("PUT", path+"/steps/"+first.Step+"/hands", map[string]any{"person": c.mira.ID}, nil)
	assert.Equal(t, []any{http.StatusConflict, "begun"}, []any{a.status, a.Code}, "%s", a.body)

	var minutes []jobs.StepMinutes
	c.must(http.StatusOK, "GET", "/rules/minutes", nil, &minutes)
	assert.Empty(t, minutes)
	var rules rules.RulesView
	c.must(http.StatusOK, "GET", "/rules", nil, &rules)
	var preview due.DuePreview
	rules.Rules.Intervals.School = "yearly"
	c.must(http.StatusOK, "POST", "/rules/preview-due", rules.Rules, &preview)
	rules.Rules.Floor.Places["stand"] = -1
	a = c.call("PUT", "/rules", map[string]any{"version": rules.Version, "rules": rules.Rules}, nil)
	require.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Equal(t, "rules.floor.places.stand", a.Fields[0].Path)
	assert.Equal(t, http.StatusUnauthorized, serve(t).caller().call("GET", "/floor", nil, nil).status)
}
