package e2e

import (
	"bytes"
	"fmt"
	"io"
	"log"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A new version of the page waits while somebody is in the middle of something: a field, a block, another window. What is unsent
// survives it, and whoever leaves with something unsent is asked.
func TestANewVersionWaits(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	_, id := bikeIn(c, "Ottoline Brack", "quick", nil)
	var newer, away atomic.Bool
	to, err := url.Parse(s.url("/"))
	require.NoError(t, err)
	through := &httputil.ReverseProxy{FlushInterval: -1, ErrorLog: log.New(io.Discard, "", 0),
		Rewrite: func(r *httputil.ProxyRequest) {
			r.SetURL(to)
			r.Out.Host = r.In.Host
			r.Out.Header.Del("Accept-Encoding")
		},
		ModifyResponse: func(r *http.Response) error {
			if newer.Load() && r.Request.URL.Path == "/sw.js" {
				text, err := io.ReadAll(r.Body)
				r.Body = io.NopCloser(io.MultiReader(bytes.NewReader(text), strings.NewReader("\n// newer")))
				r.Header.Del("Content-Length")
				r.ContentLength = -1
				return err
			}
			return nil
		},
		ErrorHandler: func(http.ResponseWriter, *http.Request, error) { panic(http.ErrAbortHandler) }}
	front := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if away.Load() && (strings.HasPrefix(r.URL.Path, "/api/") || r.URL.Path == "/readyz") {
			panic(http.ErrAbortHandler)
		}
		through.ServeHTTP(w, r)
	}))
	t.Cleanup(front.Close)
	b := newDevice(t).open(&server{t: t, dsn: s.dsn, addr: strings.TrimPrefix(front.URL, "http://"), process: s.process}, 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/jobs/" + id)
	b.sees("[data-testid=block-title]", "Look and set up")
	b.installed(`["jobs","` + id + `"]`)
	b.do(chromedp.Reload()) // which the installed page answers from now on
	b.sees("[data-testid=block-title]", "Look and set up")
	away.Store(true)
	assert.Zero(t, b.asked.Load(), "with everything sent nobody is asked whether they want to leave")
	b.note("written in the old version")
	b.do(chromedp.Reload())
	b.sees("[data-testid=not-sent]", "written in the old version")
	assert.EqualValues(t, 1, b.asked.Load(), "whoever leaves with something to send is asked")
	newer.Store(true)
	loads := func(button string) {
		t.Helper()
		get(b, chromedp.Evaluate[bool](fmt.Sprintf(`([...document.querySelectorAll('aside button')].find(e => e.innerText === %q).click(), true)`, button)))
	}
	stays := func(why string) {
		t.Helper()
		get(b, chromedp.Evaluate[bool](`(window.old = true)`))
		loads("Load it")
		b.sees("body", why)
		assert.True(t, get(b, chromedp.Evaluate[bool](`window.old === true`)))
	}
	get(b, chromedp.Evaluate[bool](`navigator.serviceWorker.getRegistration().then(r => r.update()).then(() => true)`, chromedp.EvalAwaitPromise))
	b.sees("body", "A new version is ready.")
	b.press("Note")
	b.fill("text", "half")
	stays("Finish the block or send what is typed first; it waits.")
	b.press("Cancel")

	// A block that was begun, here and without a network: on whatever screen.
	a := &atStand{tab: b, c: c, job: id, offline: true}
	a.next()
	b.visit("/unsent")
	b.sees("[data-testid=unsent]", "Note")
	b.sees("body", "A new version is ready.")
	stays("Finish the block or send what is typed first; it waits.")
	b.until(`(() => {
		const line = [...document.querySelectorAll('[data-testid=unsent]')].filter(l => !l.innerText.startsWith('Note')).at(-1);
		line?.querySelector('button').click();
		return line === undefined;
	})()`, "the block to be taken back")

	// Another window, in which somebody types.
	other := b.another(1280, 800)
	other.visit("/jobs/" + id)
	other.sees("[data-testid=block-title]", "Look and set up")
	other.press("Note")
	other.fill("text", "half, too")
	stays("Somebody is at something in another window of this device; it waits.")
	other.press("Cancel")
	other.visit("/bikes")
	other.sees("body", "A new version is ready.")

	get(b, chromedp.Evaluate[bool](`(window.old = true)`))
	asked := b.asked.Load()
	loads("Load it")
	b.until(`window.old === undefined && document.querySelector('header [role=status]')?.textContent.startsWith('1 to send')`, "the new version, with what was unsent")
	assert.Equal(t, asked, b.asked.Load(), "whoever loads it is not asked whether they want to leave")
	away.Store(false)
	b.allSent()
	assert.Equal(t, []string{"written in the old version"}, c.notesOf(id))
}
