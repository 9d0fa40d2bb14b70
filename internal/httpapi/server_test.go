package httpapi_test

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A change reaches a listener of another process, through the database.
func TestChangesReachOtherProcesses(t *testing.T) {
	t.Parallel()
	f := serve(t)
	c := f.signedIn()
	changes, end := f.hub.Subscribe()
	defer end()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	deadline := time.After(time.Minute)
	for {
		select {
		case change := <-changes:
			if strings.Contains(change, bike.Tag) {
				assert.JSONEq(t, `{"topic":"bike","tag":"`+bike.Tag+`"}`, change)
				return
			}
		case <-deadline:
			require.Fail(t, "nobody told of the bike")
		}
	}
}

func TestPageAndUnknownAddresses(t *testing.T) {
	t.Parallel()
	c := serve(t).caller()
	get := func(path string) (int, string) {
		res, err := c.http.Get(c.url + path)
		require.NoError(t, err)
		defer func() { _ = res.Body.Close() }()
		return res.StatusCode, res.Header.Get("Content-Type")
	}
	for path, want := range map[string]struct {
		status int
		kind   string
	}{
		"/":                  {200, "text/html"},
		"/bikes/B-0001-C":    {200, "text/html"},
		"/assets/a.js":       {200, "text/javascript"},
		"/assets/missing.js": {404, "application/problem+json"},
		"/api/v1/nothing":    {404, "application/problem+json"},
		"/api/nothing":       {404, "application/problem+json"},
		"/healthz":           {200, "text/plain"},
		"/readyz":            {200, "text/plain"},
	} {
		status, kind := get(path)
		assert.Equal(t, want.status, status, path)
		assert.Contains(t, kind, want.kind, path)
	}
	a := c.call("DELETE", "/bikes", nil, nil)
	assert.Equal(t, http.StatusMethodNotAllowed, a.status)
}
