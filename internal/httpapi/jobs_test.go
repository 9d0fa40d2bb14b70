package httpapi_test

import (
	"bytes"
	"image"
	"image/png"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// A job over HTTP, every answer held against the contract: taken in, planned, worked, found, noted,
// pictured, refused, cancelled.
func TestJobOverHTTP(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	bike := c.addBike("Ottoline Brack", twelve())
	var words jobs.JobWords
	c.must(http.StatusOK, "GET", "/job-words", nil, &words)
	assert.NotEmpty(t, words.Findings)
	var job jobs.Job
	intake := map[string]any{"frame_grade": 2, "drivetrain_grade": 3, "lubricant_on": "oil", "complaints": []string{"gritty"}, "has_joining_link": true,
		"promised_at": c.now.Add(5 * time.Hour)}
	c.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/jobs", intake, &job)
	path := "/jobs/" + job.ID.String()
	a := c.call("POST", "/bikes/"+bike.Tag+"/jobs", map[string]any{"frame_grade": 9, "drivetrain_grade": 3, "complaints": []string{"hums"}}, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	a = c.call("POST", "/bikes/"+bike.Tag+"/jobs", map[string]any{"frame_grade": 2}, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, a.status, "%s", a.body)

	var options jobs.JobOptions
	c.must(http.StatusOK, "GET", path+"/options", nil, &options)
	assert.Equal(t, "soak", options.Route)
	intake["wants"] = "quiet"
	c.must(http.StatusOK, "PUT", path+"/intake", map[string]any{"version": job.Version, "intake": intake}, &job)
	c.must(http.StatusOK, "PUT", path+"/plan", map[string]any{"version": job.Version, "agreed": 6500}, &job)
	stale := c.call("PUT", path+"/plan", map[string]any{"version": 1}, nil)
	assert.Equal(t, http.StatusConflict, stale.status)
	assert.NotNil(t, stale.Theirs)

	step := func(status int, code string, action map[string]any) answer {
		t.Helper()
		a := c.call("POST", path+"/steps/"+code, action, nil)
		require.Equal(t, status, a.status, "%s: %s", code, a.body)
		return a
	}
	step(http.StatusOK, "floor", map[string]any{"action": "begin"})
	var list []jobs.JobSummary
	c.must(http.StatusOK, "GET", "/jobs", nil, &list)
	require.Len(t, list, 1)
	assert.Equal(t, "Look and set up", list[0].Underway[0].Title, "told as its block")
	step(http.StatusOK, "floor", map[string]any{"action": "done", "go_on": true})
	step(http.StatusConflict, "oil", map[string]any{"action": "done"})
	step(http.StatusNotFound, "polish", map[string]any{"action": "done"})
	step(http.StatusUnprocessableEntity, "clamp", map[string]any{"action": "ponder"})
	step(http.StatusOK, "read-wear", map[string]any{"action": "skip", "reason": "read yesterday"})

	c.must(http.StatusCreated, "POST", path+"/findings", map[string]any{"code": "cable-frayed", "place": "rear"}, &job)
	c.must(http.StatusOK, "PUT", path+"/findings/"+job.Findings[0].ID.String(), map[string]any{"resolution": "fixed"}, &job)
	again := c.call("PUT", path+"/findings/"+job.Findings[0].ID.String(), map[string]any{"resolution": "fixed"}, nil)
	assert.Equal(t, "send-again", again.Code)
	c.must(http.StatusCreated, "POST", path+"/notes", map[string]any{"text": "saddle is hers, not ours"}, &job)
	assert.Equal(t, "saddle is hers, not ours", job.Notes[0].Text)
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 40, 30))))
	a = c.call("POST", path+"/photos", picture.String(), map[string]string{"Content-Type": "application/octet-stream"})
	require.Equal(t, http.StatusCreated, a.status, "%s", a.body)

	a = c.call("POST", path+"/hand-back", map[string]any{"version": job.Version}, nil)
	assert.Equal(t, []any{http.StatusConflict, "not-ready"}, []any{a.status, a.Code})
	assert.Greater(t, len(a.Fields), 5, "all that is open is said")

	var waits jobs.WaitList
	c.must(http.StatusCreated, "POST", "/waits", map[string]any{"what": "glue", "minutes": 5}, &waits)
	wait := "/waits/" + waits.Waits[0].ID.String()
	c.must(http.StatusOK, "POST", wait, map[string]any{"action": "extend", "minutes": 5, "reason": "cold day"}, &waits)
	c.must(http.StatusOK, "GET", "/waits", nil, &waits)
	assert.Equal(t, 10*time.Minute, waits.Waits[0].LeastAt.Sub(waits.Waits[0].BeganAt))
	c.must(http.StatusOK, "POST", wait, map[string]any{"action": "end", "reason": "set already"}, nil)
	assert.Equal(t, http.StatusConflict, c.call("POST", wait, map[string]any{"action": "take"}, nil).status)

	c.must(http.StatusOK, "POST", path+"/cancel", map[string]any{"version": job.Version, "reason": "took it home"}, &job)
	assert.Equal(t, "took it home", job.Cancelled)
	var refs []jobs.JobListItem
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/jobs", nil, &refs)
	assert.Equal(t, store.JobCancelled, refs[0].State)
	var ledger measure.LedgerPage
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/ledger", nil, &ledger)
	assert.Equal(t, "job-cancelled", ledger.Entries[0].Kind)
}

// The stores over HTTP, held against the contract.
func TestStoresOverHTTP(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	var material stock.Material
	c.must(http.StatusCreated, "POST", "/materials", map[string]any{"kind": "oil", "facts": map[string]any{"name": "All-weather oil", "quantity": 120, "low_mark": 50, "card": map[string]any{}}}, &material)
	taken := c.call("POST", "/materials", map[string]any{"kind": "oil", "facts": map[string]any{"name": "all-weather OIL", "quantity": 1, "low_mark": 0, "card": map[string]any{}}}, nil)
	assert.Equal(t, "name-taken", taken.Code)
	change := map[string]any{"version": material.Version, "facts": map[string]any{"name": "All-weather oil", "quantity": 40, "low_mark": 50, "pack_size": 120, "pack_cost": 1290,
		"card": map[string]any{"flammable": true}}}
	c.must(http.StatusOK, "PUT", "/materials/"+material.ID.String(), change, &material)
	assert.True(t, material.Low)
	assert.Equal(t, http.StatusConflict, c.call("PUT", "/materials/"+material.ID.String(), change, nil).status)
	wrong := c.call("POST", "/materials", map[string]any{"kind": "shampoo", "facts": map[string]any{"name": "", "quantity": -1, "low_mark": 0, "card": map[string]any{"dwell_least_min": 9}}}, nil)
	assert.Len(t, wrong.Fields, 3, "%s", wrong.body)

	var bath stock.Bath
	c.must(http.StatusCreated, "POST", "/baths", map[string]any{"kind": "solvent-jar", "facts": map[string]any{"name": "Jar", "fluid": "film solvent", "volume_ml": 1000, "clean_only": false}}, &bath)
	refused := c.call("POST", "/baths", map[string]any{"kind": "solvent-jar", "facts": map[string]any{"name": "Jar 2", "fluid": "paint thinner", "volume_ml": 5, "clean_only": false}}, nil)
	assert.Len(t, refused.Fields, 2, "%s", refused.body)
	c.must(http.StatusOK, "POST", "/baths/"+bath.ID.String(), map[string]any{"action": "settle"}, &bath)
	assert.NotNil(t, bath.SettlingTo)
	assert.Equal(t, "not-a-pot", c.call("POST", "/baths/"+bath.ID.String(), map[string]any{"action": "heat"}, nil).Code)
	c.must(http.StatusOK, "POST", "/baths/"+bath.ID.String(), map[string]any{"action": "retire"}, nil)
	var baths []stock.Bath
	c.must(http.StatusOK, "GET", "/baths", nil, &baths)
	assert.Empty(t, baths)
	var waste []stock.WasteRow
	c.must(http.StatusCreated, "POST", "/waste", map[string]any{"kind": "rags", "amount": 1.5, "note": "metal bin"}, &waste)
	assert.Len(t, waste, 3, "sludge, the jar, the rags")
	assert.Len(t, c.call("POST", "/waste", map[string]any{"kind": "tea", "amount": 0}, nil).Fields, 2)
	c.must(http.StatusOK, "GET", "/waste", nil, &waste)
}
