package e2e

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io"
	"log"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// slowly serves a server's pages as over a bad line: every answer of its interface comes so much later.
func (s *server) slowly(by time.Duration) *server { return s.over(badLine{late: by}) }

// badLine is a line between a browser and the server. Of the writes that go over it, each so-manieth is refused as by a
// server whose database is away, and of each so-manieth the answer is lost after the server has done it; 0 for none.
type badLine struct {
	late          time.Duration
	refuses, lose int
}

// over serves a server's pages over a bad line.
func (s *server) over(l badLine) *server {
	s.t.Helper()
	var writes atomic.Int64
	every := func(n int, of int64) bool { return n > 0 && of%int64(n) == 0 }
	to, err := url.Parse(s.url("/"))
	require.NoError(s.t, err)
	line := &httputil.ReverseProxy{
		FlushInterval: -1,
		ErrorLog:      log.New(io.Discard, "", 0), // of answers that break off, which is what it is for
		Rewrite: func(r *httputil.ProxyRequest) {
			r.SetURL(to)
			r.Out.Host = r.In.Host
		},
		ModifyResponse: func(r *http.Response) error {
			if !strings.HasPrefix(r.Request.URL.Path, "/api/") {
				return nil
			}
			late := time.NewTimer(l.late)
			defer late.Stop()
			select {
			case <-late.C:
				if r.Request.Method != http.MethodGet && every(l.lose, writes.Load()) {
					return errors.New("the answer is lost")
				}
				return nil
			case <-r.Request.Context().Done():
				return r.Request.Context().Err()
			}
		},
		ErrorHandler: func(http.ResponseWriter, *http.Request, error) { panic(http.ErrAbortHandler) }, // cut
	}
	front := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method != http.MethodGet && every(l.refuses, writes.Add(1)) {
			w.Header().Set("Content-Type", "application/problem+json")
			w.WriteHeader(http.StatusServiceUnavailable)
			_, _ = w.Write([]byte(`{"type":"about:blank","status":503,"code":"database-away","title":"The shop's database cannot be reached; what you typed stays on this screen."}`))
			return
		}
		line.ServeHTTP(w, r)
	}))
	s.t.Cleanup(front.Close)
	return &server{t: s.t, dsn: s.dsn, addr: strings.TrimPrefix(front.URL, "http://"), process: s.process}
}

// Fast hands on a slow line: every answer comes two seconds late, and whole jobs are done without waiting for one.
// Three readings with Enter stand each at its own place and are recorded once; a promise typed over the offered one
// is answered for itself alone, and nothing can be taken meanwhile.
func TestFastHandsOnASlowLine(t *testing.T) {
	t.Parallel() // it mostly waits
	s := startServer(t)
	tag := s.client().addBike("Sunniva Dunnage", map[string]any{"drivetrain_kind": "derailleur", "sprocket_count": 12, "motor": "none"})
	b := s.slowly(2*time.Second).open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")

	b.visit("/bikes/" + tag)
	b.pressIn("main", "Measure")
	b.do(chromedp.WaitVisible(reading), chromedp.SendKeys(reading, "306.8\r306.9\r307.0\r\r"))
	b.sees("[data-testid=last-verdict]", "Replace")
	var page struct {
		Entries []struct {
			Measurement *struct {
				Readings []struct {
					Place int
					Text  string
				}
			}
		}
	}
	s.client().do("GET", "/bikes/"+tag+"/ledger", nil, "", http.StatusOK, &page)
	var read []string
	for _, e := range page.Entries {
		if e.Measurement != nil {
			for _, place := range e.Measurement.Readings {
				read = append(read, place.Text)
			}
		}
	}
	assert.Equal(t, []string{"306.8", "306.9", "307.0"}, read, "each at its own place, recorded once")

	b.visit("/bikes/" + tag + "/clean")
	b.press("Grit heard")
	b.press("Mud dried on")
	b.sees("[data-testid=offer]", "Earliest")
	// From here on the page writes down whether it ever says of the time something that nobody answered.
	get(b, chromedp.Evaluate[bool](`(() => {
		window.said = [];
		const look = () => {
			const t = document.body.innerText;
			if (t.includes('The time you gave') && t.includes('Asking the day for room')) window.said.push(t);
			if (t.includes('is in the workshop already')) window.said.push(t);
			if ([...document.querySelectorAll('[aria-busy=true] button')].some(b => !b.disabled && b.innerText.includes('Promise that'))) window.said.push('an old offer to take');
		};
		new MutationObserver(look).observe(document.body, { subtree: true, childList: true, characterData: true, attributes: true });
		return true;
	})()`))
	tight := inShop(time.Now().Add(20 * time.Minute)).Format("2006-01-02T15:04")
	get(b, chromedp.Evaluate[bool](`(() => {
		const field = document.querySelector('[name=promised]');
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, '`+tight+`');
		return field.dispatchEvent(new Event('input', { bubbles: true }));
	})()`))
	b.sees("main", "Asking the day for room")
	b.sees("[data-testid=offer]", "The time you gave would be missed by")
	// Taken in with a photo, twice by a hasty finger: one job, and never is it said that it was here already.
	picture := filepath.Join(t.TempDir(), "came-in.png")
	f, err := os.Create(picture)
	require.NoError(t, err)
	require.NoError(t, png.Encode(f, image.NewGray(image.Rect(0, 0, 320, 200))))
	require.NoError(t, f.Close())
	b.do(chromedp.SetUploadFiles(chromedp.CSS("input[name=intake_photo]"), []string{picture}))
	b.until(`document.querySelector('main img[alt^="Taken"]')?.naturalWidth > 0`, "the picture")
	get(b, chromedp.Evaluate[bool](`(() => {
		const take = [...document.querySelectorAll('main button')].find(b => b.innerText.startsWith('Book the bike in'));
		take.click(); take.click();
		return true;
	})()`))
	b.sees("main", "The bike is booked in")
	b.sees("main", "is recommended")
	assert.Empty(t, get(b, chromedp.Evaluate[[]string](`window.said`)))
	var jobs []struct{ ID string }
	s.client().do("GET", "/bikes/"+tag+"/jobs", nil, "", http.StatusOK, &jobs)
	require.Len(t, jobs, 1)
	var job struct{ Photos []struct{ ID string } }
	s.client().do("GET", "/jobs/"+jobs[0].ID, nil, "", http.StatusOK, &job)
	assert.Len(t, job.Photos, 1)
}

// A whole job over a line that is slow, loses answers and refuses, by hands that tap twice wherever they can: each step
// is done once, and the bike goes home.
func TestStepsOnABadLine(t *testing.T) {
	t.Parallel() // it mostly waits
	wholeJobOnABadLine(t, (*client).oneByOne, "Step 1 of", `[aria-label^="Got it: "], [data-testid=main-action]`)
}

func TestBlocksOnABadLine(t *testing.T) {
	t.Parallel() // it mostly waits
	wholeJobOnABadLine(t, func(*client) {}, "Block 1 of", `button[data-goes-on]`)
}

// wholeJobOnABadLine does a job in a way of working: how it begins, and what hasty hands press wherever they can.
func wholeJobOnABadLine(t *testing.T, way func(*client), first, hasty string) {
	ctx := context.Background()
	s := startServer(t)
	c := s.client()
	way(c)
	tag := c.addBike("Sunniva Dunnage", twelveSpeed)
	c.do("POST", "/bikes/"+tag+"/measurements", map[string]any{"instrument_id": instrument(c, "gauge-percent"), "entries": []map[string]any{{"place": 1, "text": "0.2"}}}, "", http.StatusCreated, nil)
	id := c.takeIn(tag, map[string]any{"frame_grade": 0, "drivetrain_grade": 0}, nil)
	conn, err := pgx.Connect(ctx, direct(s.dsn))
	require.NoError(t, err)
	defer func() { _ = conn.Close(ctx) }()

	b := s.over(badLine{late: 500 * time.Millisecond, refuses: 7, lose: 5}).open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/jobs/" + id)
	b.sees("main", first)
	get(b, chromedp.Evaluate[bool](`(() => {
		setInterval(() => {
			if (document.querySelector('dialog[open]')) return;
			for (const button of document.querySelectorAll('`+hasty+`')) { if (!button.disabled) { button.click(); button.click(); } }
		}, 100);
		return true;
	})()`))
	ended := []string{}
	for !get(b, chromedp.Evaluate[bool](`document.querySelector('main').innerText.includes('All steps are done')`)) {
		var running struct{ Waits []struct{ ID string } }
		c.do("GET", "/waits", nil, "", http.StatusOK, &running)
		for _, w := range running.Waits { // a colleague sees that it is dry
			c.do("POST", "/waits/"+w.ID, map[string]any{"action": "end", "reason": "it is dry"}, "", http.StatusOK, nil)
			ended = append(ended, "wait-"+w.ID)
		}
		known, err := json.Marshal(ended)
		require.NoError(t, err)
		// The page goes on by itself: to the next step or block, the next wait, or the end.
		at := get(b, chromedp.Evaluate[string](`document.querySelector('main h1').innerText`))
		b.until(fmt.Sprintf(`document.querySelector('main h1')?.innerText !== %q || `, at)+`[...document.querySelectorAll('[data-testid=wait]')].some(w => !`+string(known)+`.includes(w.id)) || document.querySelector('main').innerText.includes('All steps are done')`, "what comes next, the next wait, or the end")
	}
	b.sees("main", "The bike can be handed back")
	get(b, chromedp.Evaluate[bool](`(() => {
		const hand = [...document.querySelectorAll('main button[type=submit]')].find(e => e.innerText === 'Hand back');
		hand.click(); hand.click();
		return true;
	})()`))
	b.until(`!document.querySelector('main').innerText.includes('The bike can be handed back')`, "the bike to be handed back")
	b.allSent()
	var twice, notDone int
	require.NoError(t, conn.QueryRow(ctx, `select count(*) from (select body->>'step' from ledger where kind = 'job-step' and body->>'job' = $1 and body->>'deed' = 'done' group by 1 having count(*) > 1) d`, id).Scan(&twice))
	require.NoError(t, conn.QueryRow(ctx, `select count(*) from job_steps where job_id = $1 and state <> 'done'`, id).Scan(&notDone))
	assert.Zero(t, twice, "steps done twice")
	assert.Zero(t, notDone, "steps lost")
	var back int
	require.NoError(t, conn.QueryRow(ctx, `select count(*) from ledger where kind = 'job-handed-back' and body->>'job' = $1`, id).Scan(&back))
	assert.Equal(t, 1, back)
}
