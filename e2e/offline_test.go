package e2e

import (
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// installed waits until the page is on the device, with all that a stand needs without a network.
func (b *tab) installed(jobs ...string) {
	b.t.Helper()
	b.until(`navigator.serviceWorker?.controller != null || (navigator.serviceWorker?.ready.then(r => r.active?.state === 'activated' && (window.active = true)), window.active === true)`, "the page to be installed")
	for _, id := range jobs {
		b.kept(id, "the job")
	}
}

// kept waits until the device keeps something that has a text in it.
func (b *tab) kept(text, what string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(() => {
		const open = indexedDB.open('pony');
		open.onsuccess = () => {
			const get = open.result.transaction('shown').objectStore('shown').get('answers');
			get.onsuccess = () => { window.keptNow = JSON.stringify(get.result ?? null); open.result.close(); };
		};
		return window.keptNow?.includes(%q);
	})()`, text), "%s to be kept", what)
}

// away waits until the page has seen that there is no network.
func (b *tab) away() {
	b.t.Helper()
	b.until(`document.querySelector('header [role=status]')?.textContent !== 'All saved'`, "the network to be missed")
}

// unsent is how many things wait on the device.
func (b *tab) unsent() int {
	b.t.Helper()
	return get(b, chromedp.Evaluate[int](`parseInt(document.querySelector('header [role=status]')?.textContent) || 0`))
}

// historyEntry is an entry of a bike's history.
type historyEntry struct {
	Kind       string
	HappenedAt time.Time
	WrittenAt  time.Time
	What       string // all that it says, but for when and its number
}

// UnmarshalJSON reads one.
func (e *historyEntry) UnmarshalJSON(text []byte) error {
	var times struct {
		Kind       string
		HappenedAt time.Time `json:"happened_at"`
		WrittenAt  time.Time `json:"written_at"`
	}
	var all map[string]any
	if err := errors.Join(json.Unmarshal(text, &times), json.Unmarshal(text, &all)); err != nil {
		return err
	}
	for _, own := range []string{"id", "number", "happened_at", "written_at"} {
		delete(all, own)
	}
	what, err := json.Marshal(all)
	*e = historyEntry{times.Kind, times.HappenedAt, times.WrittenAt, string(what)}
	return err
}

// historyOf is all that is on record about a bike, oldest first.
func (c *client) historyOf(tag string) (all []historyEntry) {
	c.t.Helper()
	for before := ""; ; {
		var page struct {
			Entries []historyEntry
			Next    int64
		}
		c.do("GET", "/bikes/"+tag+"/ledger"+before, nil, "", http.StatusOK, &page)
		all = append(all, page.Entries...)
		if page.Next == 0 {
			break
		}
		before = fmt.Sprintf("?before=%d", page.Next)
	}
	for i, j := 0, len(all)-1; i < j; i, j = i+1, j-1 {
		all[i], all[j] = all[j], all[i]
	}
	return all
}

// picture is a photo as a tablet takes it.
func picture(t *testing.T) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "photo.jpg")
	f, err := os.Create(path)
	require.NoError(t, err)
	require.NoError(t, jpeg.Encode(f, image.NewGray(image.Rect(0, 0, 400, 300)), nil))
	require.NoError(t, f.Close())
	return path
}

// A workshop's tablet loses its network in the middle of a soak: the job is worked from the second block to the hand-back,
// with two readings, a photo, a fault and a note; it is loaded anew twice, and the browser is closed and opened. Then the
// network is back, and history has everything once, in order, as of when it was done.
func TestAJobWithoutANetwork(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	tag, id := bikeIn(c, "Ottoline Brack", "soak", map[string]any{"drivetrain_grade": 3})
	wire := s.line()
	tablet := newDevice(t)
	a := &atStand{tab: tablet.open(wire.server(s), 1280, 800), c: c, job: id}
	a.signIn("Mira Oxenholt", "2718")
	a.visit("/jobs/" + id)
	a.sees("[data-testid=block-title]", "Look and set up")
	a.installed(`["jobs","`+id+`"]`, `["bike","`+tag+`"]`, `["bike","`+tag+`","ledger"]`, `["bike","`+tag+`","replacement"]`)
	c.do("POST", "/bikes/"+tag+"/measurements", map[string]any{"instrument_id": instrument(c, "ruler"), "entries": []map[string]any{{"place": 1, "text": "305.2"}}}, "", http.StatusCreated, nil)
	a.next() // the first block
	a.allSent()
	a.kept(`"begun"`, "the job as it is now")
	wire.set(hangs)
	began := time.Now()

	blocks := 0
	a.offline = true
	for i := range 2 {
		a.visit("/bikes/" + tag) // loaded anew, without a network
		a.pressIn("main", "Measure")
		a.until(`document.querySelector('main')?.innerText.includes('`+tag+`')`, "the bike on the bench")
		a.fill("reading", fmt.Sprintf("305.%d", 3+i))
		a.press("Record reading")
		a.sees("[data-testid=not-sent]", fmt.Sprintf("305.%d", 3+i))
	}
	a.visit("/jobs/" + id)
	a.sees("main h1", "")
	for a.next() {
		blocks++
		switch blocks {
		case 1:
			a.away()
			a.press("Note")
			a.fill("text", "bell is loose")
			a.press("Write it down")
			a.until("document.querySelector('dialog[open]') === null", "the note to be kept")
			wire.set(refuses)
		case 2:
			a.do(chromedp.Reload())
			a.sees("main h1", "")
			a.press("Fault found")
			a.choose("finding", "cable-frayed")
			a.press("Note it")
			a.until("document.querySelector('dialog[open]') === null", "the fault to be kept")
			a.do(chromedp.SetUploadFiles(chromedp.CSS("input[name=job_photo]"), []string{picture(t)}))
			a.sees("[data-testid=not-sent]", "Photo of the job")
			a.press("Fixed") // it held the bike, without a network too
			a.until(`!document.querySelector('main').innerText.includes('holds the bike')`, "the fault to be settled")
		case 3:
			a.do(chromedp.Reload())
			a.sees("main h1", "")
			require.Greater(t, a.unsent(), 4)
			tablet.close()
			a.tab = tablet.open(wire.server(s), 1280, 800)
			a.visit("/unsent")
			a.sees("[data-testid=unsent]", "bell is loose")
			a.visit("/jobs/" + id)
			a.sees("[data-testid=not-sent]", "before these")
		}
	}
	require.Greater(t, blocks, 3)
	a.press("Hand back")
	a.sees("main", "Checked and handed back by Mira Oxenholt")
	ended := time.Now()
	waiting := a.unsent()
	require.Greater(t, waiting, 10)
	before := c.historyOf(tag)

	// What is sent arrives, and nobody hears so; the tablet says that it found its network again.
	wire.set(drops)
	get(a.tab, chromedp.Evaluate[bool](`dispatchEvent(new Event('online'))`))
	require.Eventually(t, func() bool { return len(c.historyOf(tag)) > len(before) }, patience, 50*time.Millisecond, "the first to arrive")
	wire.set(up)
	a.until(`document.querySelector('dialog[open]') !== null`, "to be asked who is here: the browser was closed")
	a.signInHere("Mira Oxenholt", "2718")
	a.allSent()

	var job struct {
		State    string
		StepList []struct {
			Code, State, By string
			DoneAt          time.Time `json:"done_at"`
		} `json:"step_list"`
		Findings []struct{ Code, By string }
		Notes    []struct{ Text string }
		Photos   []struct{ By string }
		ClosedAt time.Time `json:"closed_at"`
	}
	c.do("GET", "/jobs/"+id, nil, "", http.StatusOK, &job)
	assert.Equal(t, "handed-back", job.State)
	for _, st := range job.StepList {
		assert.Equal(t, "done", st.State, st.Code)
		assert.Equal(t, "Mira Oxenholt", st.By, st.Code)
	}
	assert.Len(t, job.Findings, 1)
	assert.Len(t, job.Notes, 1)
	assert.Len(t, job.Photos, 1)
	assert.WithinRange(t, job.ClosedAt, began, ended)
	seen := map[string]int{}
	var last time.Time
	for _, e := range c.historyOf(tag)[len(before):] {
		assert.WithinRange(t, e.HappenedAt, began.Add(-time.Second), ended, "%s is as of when it was done", e.Kind)
		if e.Kind != "job-photo" { // photos come last
			assert.False(t, e.HappenedAt.Before(last), "in order: %s", e.What)
			last = e.HappenedAt
		}
		seen[e.What]++
	}
	for what, times := range seen {
		assert.Equal(t, 1, times, what)
	}
}
