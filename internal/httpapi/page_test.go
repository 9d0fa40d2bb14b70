package httpapi_test

import (
	"compress/gzip"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/httpapi"
	"earnestpony/internal/live"
)

// The page is sent as it was compressed when it was built, to who takes that; what the contract answers is compressed
// too, and the stream of notices never is.
func TestCompressed(t *testing.T) {
	t.Parallel()
	handler, err := httpapi.New(httpapi.Options{Hub: &live.Hub{}, Page: fstest.MapFS{
		"index.html": {Data: []byte("plain page")}, "index.html.br": {Data: []byte("br page")}, "index.html.gz": {Data: []byte("gz page")},
		"assets/a.js": {Data: []byte("plain")}, "assets/a.js.br": {Data: []byte("br")}, "assets/a.js.gz": {Data: []byte("gz")},
		"assets/font.woff2": {Data: []byte("font")},
	}})
	require.NoError(t, err)
	for _, c := range []struct{ path, accept, encoding, body, kind string }{
		{"/assets/a.js", "gzip, deflate, br", "br", "br", "text/javascript; charset=utf-8"},
		{"/assets/a.js", "gzip;q=0.8", "gzip", "gz", "text/javascript; charset=utf-8"},
		{"/assets/a.js", "br;q=0, gzip", "gzip", "gz", "text/javascript; charset=utf-8"},
		{"/assets/a.js", "", "", "plain", "text/javascript; charset=utf-8"},
		{"/assets/a.js", "identity, brotli", "", "plain", "text/javascript; charset=utf-8"},
		{"/assets/font.woff2", "br, gzip", "", "font", "font/woff2"},
		{"/due", "br", "br", "br page", "text/html; charset=utf-8"},
		{"/", "", "", "plain page", "text/html; charset=utf-8"},
	} {
		w := httptest.NewRecorder()
		r := httptest.NewRequest("GET", c.path, nil)
		r.Host = "127.0.0.1"
		r.Header.Set("Accept-Encoding", c.accept)
		handler.ServeHTTP(w, r)
		assert.Equal(t, []any{http.StatusOK, c.encoding, c.body, c.kind}, []any{w.Code, w.Header().Get("Content-Encoding"), w.Body.String(), w.Header().Get("Content-Type")}, "%s %q", c.path, c.accept)
		assert.Contains(t, w.Header().Values("Vary"), "Accept-Encoding", c.path)
	}

	s := serve(t).signedIn()
	get := func(path string) *http.Response {
		r, err := http.NewRequest("GET", s.url+path, nil)
		require.NoError(t, err)
		r.Header.Set("Accept-Encoding", "gzip")
		answer, err := s.http.Do(r)
		require.NoError(t, err)
		t.Cleanup(func() { _ = answer.Body.Close() })
		return answer
	}
	rules := get("/api/v1/rules")
	require.Equal(t, "gzip", rules.Header.Get("Content-Encoding"))
	text, err := gzip.NewReader(rules.Body)
	require.NoError(t, err)
	body, err := io.ReadAll(text)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(string(body), "{"))
	stream := get("/api/v1/events")
	assert.Empty(t, stream.Header.Get("Content-Encoding"))
	first := make([]byte, 1)
	_, err = stream.Body.Read(first) // at once: nothing gathers it first
	require.NoError(t, err)
}
