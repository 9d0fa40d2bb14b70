package httpapi_test

import (
	"bufio"
	"context"
	"errors"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/httpapi"
	"earnestpony/internal/live"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
)

// events reads a stream until it ends, one event at a time.
func events(t *testing.T, c *caller) <-chan string {
	t.Helper()
	ctx, stop := context.WithTimeout(context.Background(), 2*time.Minute)
	t.Cleanup(stop)
	req, err := http.NewRequestWithContext(ctx, "GET", c.url+"/api/v1/events", nil)
	require.NoError(t, err)
	res, err := c.http.Do(req)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, res.StatusCode)
	require.Equal(t, "text/event-stream", res.Header.Get("Content-Type"))
	out := make(chan string)
	go func() {
		defer close(out)
		defer func() { _ = res.Body.Close() }()
		lines := bufio.NewScanner(res.Body)
		name := ""
		for lines.Scan() {
			if n, ok := strings.CutPrefix(lines.Text(), "event: "); ok {
				name = n
			}
			if data, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
				out <- name + " " + data
			}
		}
	}()
	return out
}

// A stream says when it is ready, then each change as it is kept, and ends when the hub closes, so
// that a server with open streams can stop.
func TestStreamOfChanges(t *testing.T) {
	t.Parallel()
	f := serve(t)
	c := f.signedIn()
	assert.Equal(t, http.StatusUnauthorized, f.caller().call("GET", "/events", nil, nil).status)
	stream := events(t, c)
	assert.Equal(t, "ready {}", <-stream)
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	assert.Equal(t, `change {"topic":"customer"}`, <-stream)
	assert.Equal(t, `change {"topic":"bike","tag":"`+bike.Tag+`"}`, <-stream)
	c.must(http.StatusUnprocessableEntity, "POST", "/bikes/"+bike.Tag+"/measurements", measure.NewMeasurement{InstrumentID: c.tool("ruler"), Entries: places("abc")}, nil)
	c.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/measurements", measure.NewMeasurement{InstrumentID: c.tool("ruler"), Entries: places("305")}, nil)
	assert.Contains(t, <-stream, "change", "what was refused was told to nobody")
	f.hub.Close()
	_, open := <-stream
	assert.False(t, open)
}

// A server that cannot work says so on /readyz, and keeps what went wrong to itself.
func TestTroubleOfOurOwn(t *testing.T) {
	t.Parallel()
	handler, err := httpapi.New(httpapi.Options{
		Hub: &live.Hub{}, Page: fstest.MapFS{},
		Ready: func(context.Context) error { return errors.New("password of the database is wrong") },
	})
	require.NoError(t, err)
	ask := func(path string) *httptest.ResponseRecorder {
		w := httptest.NewRecorder()
		r := httptest.NewRequest("GET", path, nil)
		r.Host = "127.0.0.1"
		handler.ServeHTTP(w, r)
		return w
	}
	w := ask("/readyz")
	assert.Equal(t, http.StatusServiceUnavailable, w.Code)
	assert.NotContains(t, w.Body.String(), "password")
	assert.Equal(t, http.StatusOK, ask("/healthz").Code, "it lives all the same")
	assert.Equal(t, http.StatusServiceUnavailable, ask("/").Code, "the page is not built")

	// Without a shop behind it a handler panics: the answer has an id that the log has too.
	w = ask("/api/v1/people")
	assert.Equal(t, http.StatusInternalServerError, w.Code)
	assert.Equal(t, "application/problem+json", w.Header().Get("Content-Type"))
	assert.Contains(t, w.Body.String(), w.Header().Get("X-Request-Id"))
	assert.NotContains(t, w.Body.String(), "nil pointer")
	for _, header := range []string{"Content-Security-Policy", "X-Content-Type-Options", "Referrer-Policy"} {
		assert.NotEmpty(t, w.Header().Get(header), header)
	}
}

// A write's key belongs to the person who sent it: a colleague's same key is another write.
func TestKeysBelongToPeople(t *testing.T) {
	t.Parallel()
	f := serve(t)
	finch, err := f.shop.AddPerson(context.Background(), "Odalys Finch", "counter", "4669")
	require.NoError(t, err)
	mira, other := f.signedIn(), f.caller()
	other.must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": finch.ID, "pin": "4669"}, nil)
	key := map[string]string{"Idempotency-Key": "everybody's key"}
	a := mira.call("POST", "/customers", record.CustomerFacts{Name: "Rosamund Pike-Hollow"}, key)
	b := other.call("POST", "/customers", record.CustomerFacts{Name: "Sefton Umberleigh"}, key)
	require.Equal(t, []int{http.StatusCreated, http.StatusCreated}, []int{a.status, b.status}, "%s %s", a.body, b.body)
	assert.Contains(t, string(b.body), "Sefton Umberleigh")

	// Switching person on a device ends the session that was there: its cookie opens nothing any more.
	address, err := url.Parse(f.url)
	require.NoError(t, err)
	old := f.caller()
	old.http.Jar.SetCookies(address, other.http.Jar.Cookies(address))
	old.must(http.StatusOK, "GET", "/session", nil, nil)
	other.must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": f.mira.ID, "pin": "2718"}, nil)
	var view people.SessionView
	other.must(http.StatusOK, "GET", "/session", nil, &view)
	assert.Equal(t, "Mira Oxenholt", view.Person.Name)
	old.must(http.StatusUnauthorized, "GET", "/session", nil, nil)
}

// TestMain keeps the log of requests out of the tests' output.
func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	m.Run()
}
