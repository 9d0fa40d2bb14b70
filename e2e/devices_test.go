package e2e

import (
	"context"
	"crypto/sha256"
	"crypto/x509"
	"encoding/base64"
	"encoding/pem"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// notesOf are what was written down about a job, in its order.
func (c *client) notesOf(job string) (texts []string) {
	c.t.Helper()
	var j struct {
		Notes []struct {
			Text string
			At   time.Time
		}
	}
	c.do("GET", "/jobs/"+job, nil, "", http.StatusOK, &j)
	for _, n := range j.Notes {
		texts = append(texts, n.Text)
	}
	return texts
}

// showsJob is a window on which Mira is signed in over a line, with a job that nobody began yet.
func (l *line) showsJob(s *server, id string) *tab {
	l.t.Helper()
	b := l.server(s).open(startBrowser(l.t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/jobs/" + id)
	b.sees("[data-testid=block-title]", "Look and set up")
	return b
}

// note writes something down at the stand.
func (b *tab) note(text string) {
	b.t.Helper()
	b.press("Note")
	b.fill("text", text)
	b.press("Write it down")
	b.until("document.querySelector('dialog[open]') === null", "the note to be kept")
}

// Two tablets lose the network on one job, and both do the same block. Whoever comes second sees both sides; what only adds
// to the job is there from both, and nothing is dropped but by a person.
func TestTwoTabletsOffline(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	tag, id := bikeIn(c, "Ottoline Brack", "quick", nil)
	c.do("POST", "/bikes/"+tag+"/measurements", map[string]any{"instrument_id": instrument(c, "ruler"), "entries": []map[string]any{{"place": 1, "text": "305.2"}}}, "", http.StatusCreated, nil)
	wires := []*line{s.line(), s.line()}
	var at []*atStand
	for i, who := range []string{"Mira Oxenholt", "Tobiah Marsh"} {
		a := &atStand{tab: wires[i].server(s).open(startBrowser(t), 1280, 800), c: c, job: id, offline: true}
		a.signIn(who, map[string]string{"Mira Oxenholt": "2718", "Tobiah Marsh": "3141"}[who])
		a.visit("/jobs/" + id)
		a.sees("[data-testid=block-title]", "Look and set up")
		a.kept(`["instruments"]`, "the tools")
		at = append(at, a)
	}
	for _, w := range wires {
		w.set(refuses)
	}
	for i, a := range at {
		a.note(fmt.Sprintf("seen by %d", i))
		a.next()
		a.next()
		a.sees("[data-testid=not-sent]", "seen by")
	}
	mine := at[1].unsent()
	require.GreaterOrEqual(t, mine, 3)
	wires[0].set(up)
	at[0].allSent()
	wires[1].set(up)
	second := at[1]
	second.sees("body", "not taken")
	second.press("Look at both sides")
	second.sees("[data-testid=refused]", "Not taken")
	second.sees("[data-testid=refused]", "Tobiah Marsh")
	second.sees("[data-testid=refused]", "is done already")
	second.sees("[data-testid=refused]", "by Mira Oxenholt")
	second.sees("[data-testid=refused]", "came after it")
	assert.ElementsMatch(t, []string{"seen by 0", "seen by 1"}, c.notesOf(id), "what only adds to it is there from both")
	left := second.unsent()
	second.press("Drop this, send the rest")
	second.until(fmt.Sprintf(`(parseInt(document.querySelector('header [role=status]')?.textContent) || 0) < %d`, left), "the one to be dropped")
	for second.unsent() > 0 {
		n := second.unsent()
		second.until(fmt.Sprintf(`document.querySelector('[data-testid=refused]') !== null || (parseInt(document.querySelector('header [role=status]')?.textContent) || 0) < %d`, n), "what becomes of the rest")
		if get(second.tab, chromedp.Evaluate[bool](`document.querySelector('[data-testid=refused]') !== null`)) {
			second.press("Drop it")
			second.until(fmt.Sprintf(`(parseInt(document.querySelector('header [role=status]')?.textContent) || 0) < %d`, n), "it to be dropped")
		}
	}
	var job struct {
		StepList []struct{ Code, State, By string } `json:"step_list"`
	}
	c.do("GET", "/jobs/"+id, nil, "", http.StatusOK, &job)
	for _, st := range job.StepList {
		if st.State == "done" {
			assert.Equal(t, "Mira Oxenholt", st.By, st.Code)
		}
	}
}

// movedClock has the page's clock run apart from the machine's, by what the test says.
const movedClock = `(() => {
	const RealDate = Date;
	const off = () => Number(localStorage.getItem('test.clock') ?? '%d');
	globalThis.Date = class extends RealDate {
		constructor(...of) { of.length === 0 ? super(RealDate.now() + off()) : super(...of); }
		static now() { return RealDate.now() + off(); }
	};
})()`

func (b *tab) clockOff(by time.Duration) {
	b.t.Helper()
	_, err := chromedp.Call(b.ctx, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: fmt.Sprintf(movedClock, by.Milliseconds())})
	require.NoError(b.t, err)
}

// An hour passes without a network: what waits ends and calls when it should, and the next block can be begun.
func TestAnHourOffline(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	_, id := bikeIn(c, "Ottoline Brack", "quick", nil)
	wire := s.line()
	a := &atStand{tab: wire.server(s).open(startBrowser(t), 1280, 800), c: c, job: id}
	a.clockOff(0)
	a.signIn("Mira Oxenholt", "2718")
	a.visit("/jobs/" + id)
	a.sees("[data-testid=block-title]", "Look and set up")
	a.next()
	a.allSent()
	wire.set(refuses)
	a.offline = true
	for !get(a.tab, chromedp.Evaluate[bool](`document.querySelector('main h1').innerText.startsWith('Nothing to do')`)) {
		a.next()
	}
	a.sees("[data-testid=wait]", ":")
	assert.False(t, get(a.tab, chromedp.Evaluate[bool](`document.title.startsWith('(')`)), "nothing calls yet")
	get(a.tab, chromedp.Evaluate[bool](`(localStorage.setItem('test.clock', String(3600e3)), true)`))
	a.until(`document.title.startsWith('(')`, "the wait to call")
	a.sees("section[aria-label=Waits] [role=status]", "Done: ")
	a.until(`document.querySelector('[data-testid=block-title]') !== null`, "the next block, as the wait is over")
	assert.Positive(t, a.unsent())
}

// A tablet's clock is an hour wrong: it says so, and what it did without a network has the shop's time all the same.
func TestATabletAnHourWrong(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	tag, id := bikeIn(c, "Ottoline Brack", "quick", nil)
	for _, off := range []time.Duration{time.Hour, -time.Hour} {
		wire := s.line()
		b := wire.server(s).open(startBrowser(t), 1280, 800)
		b.clockOff(off)
		b.signIn("Mira Oxenholt", "2718")
		b.sees("body", map[bool]string{true: "clock is 60 min fast", false: "clock is 60 min slow"}[off > 0])
		b.visit("/jobs/" + id)
		b.sees("[data-testid=block-title]", "Look and set up")
		wire.set(refuses)
		from := time.Now()
		b.note(fmt.Sprintf("off by %v", off))
		until := time.Now()
		b.until(`document.querySelector('header [role=status]')?.textContent.startsWith('1 to send')`, "it to wait")
		wire.set(up)
		b.allSent()
		all := c.historyOf(tag)
		last := all[len(all)-1]
		assert.Equal(t, "job-note", last.Kind)
		assert.WithinRange(t, last.HappenedAt, from.Add(-2*time.Second), until.Add(2*time.Second), "%v", off)
	}
}

// A bike comes in that nobody knows, and there is no network: it gets a tag of the tablet's, is booked in under it, and is
// found by it when the shop has given it its own.
func TestBookingInOffline(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	wire := s.line()
	b := wire.server(s).open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/bikes/new")
	b.sees("main", "Whose")
	wire.set(refuses)
	b.fill("owner", "Jory Quillfeather")
	b.sees("main", "Jory Quillfeather is added with the bike")
	b.fill("make", "Wharfinger")
	b.press("Add the bike")
	b.until(`/^\/bikes\/NEW-/.test(location.pathname)`, "the bike under a tag of the tablet's")
	made := regexp.MustCompile(`NEW-\w{6}`).FindString(get(b, chromedp.Evaluate[string](`location.pathname`)))
	require.NotEmpty(t, made)
	b.sees("main", "Write it on the bike")
	b.sees("[data-testid=not-sent]", "New bike: Wharfinger")
	b.press("Book in")
	b.press("Black finger")
	b.press("Dust")
	b.press("Book the bike in")
	b.until(`/^\/jobs\//.test(location.pathname)`, "its job")
	id := strings.TrimPrefix(get(b, chromedp.Evaluate[string](`location.pathname`)), "/jobs/")
	b.sees("[data-testid=not-sent]", "Booked in")
	b.sees("main", "When connected")
	wire.set(up)
	b.allSent()
	var job struct{ Tag, State string }
	c.do("GET", "/jobs/"+id, nil, "", http.StatusOK, &job)
	assert.Equal(t, "arrived", job.State)
	b.press("/")
	b.do(chromedp.KeyEvent(strings.ToLower(made) + "\r"))
	b.until(fmt.Sprintf("location.pathname === '/bikes/%s'", job.Tag), "the bike by the tag that it had")
}

// A tablet is signed out from afar: at its next contact it knows nothing of the shop any more. What was not sent stays, is
// not shown to others, and is sent when its author signs in, or dropped by a mechanic, by name.
func TestSignedOutFromAfar(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	s.pony("harbour wall at low water\n", "person", "--role", "owner", "Wenna Sallow")
	s.pony("1618\n", "person", "--role", "counter", "Odalys Finch")
	c := s.client()
	tag, id := bikeIn(c, "Ottoline Brack", "quick", nil)
	wire := s.line()
	b := wire.showsJob(s, id)
	b.kept(`["bike","`+tag+`"]`, "the bike")
	wire.set(refuses)
	b.note("only here")
	b.until(`document.querySelector('header [role=status]')?.textContent.startsWith('1 to send')`, "it to wait")

	boss := s.open(startBrowser(t), 1280, 800)
	boss.signIn("Wenna Sallow", "harbour wall at low water")
	boss.visit("/settings/devices")
	boss.until(`(() => {
		const row = [...document.querySelectorAll('main li, main tr')].find(r => r.innerText.includes('Mira Oxenholt') && !r.innerText.includes('test') && /device \d/.test(r.innerText));
		const out = row && [...row.querySelectorAll('button')].find(b => /Sign out/.test(b.innerText));
		out?.click();
		return !!out;
	})()`, "her tablet among the devices")
	boss.allSent()
	wire.set(up)
	b.sees("dialog[open]", "Signed out meanwhile")
	b.until(fmt.Sprintf(`(() => {
		const open = indexedDB.open('pony');
		open.onsuccess = () => {
			open.result.transaction('shown').objectStore('shown').getAll().onsuccess = e => { window.left = JSON.stringify(e.target.result); open.result.close(); };
		};
		return window.left !== undefined && !window.left.includes(%q) && !window.left.includes('Ottoline');
	})()`, tag), "the shop to be forgotten")
	b.signInHere("Odalys Finch", "1618")
	b.visit("/unsent")
	b.sees("[data-testid=sealed]", "Mira Oxenholt: One thing since")
	assert.NotContains(t, b.text("main"), "only here", "nobody else reads it")
	assert.NotContains(t, b.text("main"), "Drop them", "the counter drops nothing of hers")
	b.visit("/jobs/" + id)
	b.sees("main h1", "")
	assert.NotContains(t, b.text("body"), "only here", "on no screen")
	assert.Empty(t, c.notesOf(id))
	b.switchTo("Tobiah Marsh", "3141")
	b.visit("/unsent")
	b.press("Drop them")
	b.sees("dialog[open]", "Drop what Mira Oxenholt wrote?")
	b.press("Keep them")
	b.switchTo("Mira Oxenholt", "2718")
	b.allSent()
	assert.Equal(t, []string{"only here"}, c.notesOf(id), "sent as its author is here")
}

// switchTo has somebody else take the device over.
func (b *tab) switchTo(name, pin string) {
	b.t.Helper()
	b.until(`(document.querySelector('header button[aria-haspopup=dialog]')?.click(), document.querySelector('dialog[open]') !== null)`, "the menu")
	b.signInHere(name, pin)
	b.until(`document.querySelector('dialog[open]') === null`, "the menu to close")
}

// Without a network somebody else taps their name, and no PIN is asked: what they write waits until they sign in with it.
func TestAnotherPersonWithoutANetwork(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	_, id := bikeIn(c, "Ottoline Brack", "quick", nil)
	wire := s.line()
	b := wire.server(s).open(startBrowser(t), 1280, 800)
	b.signIn("Tobiah Marsh", "3141")
	b.switchTo("Mira Oxenholt", "2718")
	b.visit("/jobs/" + id)
	b.sees("[data-testid=block-title]", "Look and set up")
	wire.set(refuses)
	b.note("by Mira")
	b.until(`document.querySelector('header [role=status]')?.textContent.startsWith('1 to send')`, "it to wait")
	b.until(`(document.querySelector('header button[aria-haspopup=dialog]')?.click(), document.querySelector('dialog[open]') !== null)`, "the menu")
	b.sees("dialog[open]", "No connection, so no PIN is asked now.")
	b.press("Tobiah Marsh")
	b.until(`document.querySelector('dialog[open]') === null`, "Tobiah to be here")
	b.note("by Tobiah")
	wire.set(up)
	b.sees("dialog[open]", "Sign in")
	require.Eventually(t, func() bool { return len(c.notesOf(id)) == 1 }, patience, 20*time.Millisecond, "what Mira wrote goes by itself")
	assert.Equal(t, []string{"by Mira"}, c.notesOf(id), "nobody held a PIN for Tobiah")
	b.signInHere("Tobiah Marsh", "3141")
	b.allSent()
	assert.Equal(t, []string{"by Mira", "by Tobiah"}, c.notesOf(id))
}

// What was not sent can be taken back, in whichever tab; two tabs have one outbox. A browser that keeps nothing says so, and
// works with a connection as before.
func TestOneOutboxForAllTabs(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	_, id := bikeIn(c, "Ottoline Brack", "quick", nil)
	wire := s.line()
	tablet := newDevice(t)
	one := tablet.open(wire.server(s), 1280, 800)
	one.signIn("Mira Oxenholt", "2718")
	one.visit("/jobs/" + id)
	one.sees("[data-testid=block-title]", "Look and set up")
	other := one.another(1024, 768)
	other.visit("/unsent")
	other.sees("main", "Everything is sent.")
	wire.set(refuses)
	one.note("first")
	one.note("second")
	other.sees("[data-testid=unsent]", "Note: first")
	other.until(`(() => { const row = [...document.querySelectorAll('[data-testid=unsent]')].find(r => r.innerText.includes('first')); row?.querySelector('button')?.click(); return !!row; })()`, "the first to be taken back")
	one.until(`document.querySelector('header [role=status]')?.textContent.startsWith('1 to send')`, "one to be left in both")
	wire.set(up)
	one.allSent()
	other.allSent()
	assert.Equal(t, []string{"second"}, c.notesOf(id))

	private := s.open(startBrowser(t), 1280, 800)
	_, err := chromedp.Call(private.ctx, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: `Object.defineProperty(window, 'indexedDB', { value: { open() { throw new DOMException('no', 'SecurityError'); } } })`})
	require.NoError(t, err)
	private.signIn("Mira Oxenholt", "2718")
	private.sees("body", "This browser keeps nothing between pages")
	private.visit("/jobs/" + id)
	private.note("with a connection")
	private.allSent()
	assert.Equal(t, []string{"second", "with a connection"}, c.notesOf(id))

	full := s.open(startBrowser(t), 1280, 800)
	_, err = chromedp.Call(full.ctx, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: `IDBObjectStore.prototype.add = () => { throw new DOMException('no room', 'QuotaExceededError'); }`})
	require.NoError(t, err)
	full.signIn("Mira Oxenholt", "2718")
	full.visit("/jobs/" + id)
	full.note("though it is full")
	full.sees("body", "The storage of this device is full")
	full.allSent()
	assert.Equal(t, []string{"second", "with a connection", "though it is full"}, c.notesOf(id))
}

// another is a second window of the same browser, with the same cookies and storage.
func (b *tab) another(width, height int64) *tab {
	b.t.Helper()
	ctx, cancel := chromedp.NewContext(b.ctx)
	b.t.Cleanup(cancel)
	other := &tab{t: b.t, ctx: ctx, s: b.s}
	other.watch(width, height)
	return other
}

// At an address with a certificate of the shop's own the page can be installed, starts without a network, and its cookies
// travel over TLS alone; over plain http from another machine it says that it works only with a connection.
func TestInstallable(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	s := startServer(t)
	s.kill()
	out := s.pony("", "cert", "--dir", dir, "pony.workshop.test")
	assert.Contains(t, out, "have each tablet trust")
	s.run("serve", "--plan-by-tries", "--certificate", filepath.Join(dir, "server.pem"), "--certificate-key", filepath.Join(dir, "server-key.pem"))
	wire := s.line()
	_, port, _ := strings.Cut(wire.ln.Addr().String(), ":")
	tablet := newDevice(t, chromedp.Flag("host-resolver-rules", "MAP pony.workshop.test 127.0.0.1, MAP plain.workshop.test 127.0.0.1, MAP * ~NOTFOUND, EXCLUDE 127.0.0.1"),
		chromedp.Flag("ignore-certificate-errors-spki-list", fingerprintOf(t, filepath.Join(dir, "server.pem"))))
	b := tablet.open(&server{t: t, dsn: s.dsn, addr: "pony.workshop.test:" + port, process: s.process, secure: true}, 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.sees("main", "Today")
	b.installed()
	faults, err := chromedp.Call(b.ctx, page.GetInstallabilityErrors, cdp.Empty{})
	require.NoError(t, err)
	assert.Empty(t, faults.InstallabilityErrors)
	manifest, err := chromedp.Call(b.ctx, page.GetAppManifest, page.GetAppManifestParams{})
	require.NoError(t, err)
	assert.Empty(t, manifest.Errors)
	assert.Contains(t, manifest.Data, `"start_url":"/today"`)
	assert.NotContains(t, b.text("body"), "works only with a connection")
	b.kept(`["floor"]`, "the day")
	wire.set(refuses)
	b.do(chromedp.Reload())
	b.sees("nav[aria-label=Places]", "Today")
	b.sees("header", "No server")
	wire.set(up)
	b.allSent()

	plain := &server{t: t, dsn: s.dsn, addr: "127.0.0.1:0"}
	plain.run("serve", "--plan-by-tries", "--public-url", "http://plain.workshop.test")
	t.Cleanup(plain.kill)
	_, port, _ = strings.Cut(plain.addr, ":")
	other := b.another(1024, 768)
	other.s = &server{t: t, dsn: s.dsn, addr: "plain.workshop.test:" + port, process: plain.process}
	other.signIn("Tobiah Marsh", "3141")
	other.sees("body", "This address works only with a connection")
	assert.False(t, get(other, chromedp.Evaluate[bool](`window.isSecureContext`)))
	other.press("Got it")
	other.until(`!document.body.innerText.includes('This address works only')`, "the line to go")
	other.visit("/unsent")
	other.sees("main", "Everything is sent.")
}

// fingerprintOf is how the test's browser is told to trust a certificate, as a tablet is by its authority.
func fingerprintOf(t *testing.T, file string) string {
	t.Helper()
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	block, _ := pem.Decode(text)
	cert, err := x509.ParseCertificate(block.Bytes)
	require.NoError(t, err)
	sum := sha256.Sum256(cert.RawSubjectPublicKeyInfo)
	return base64.StdEncoding.EncodeToString(sum[:])
}

// A write is refused for want of a sign-in, and its author signs in before that is heard: it is sent, and does not wait for
// another sign-in.
func TestSignedInBeforeTheRefusalIsHeard(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	_, id := bikeIn(s.client(), "Ottoline Brack", "quick", nil)
	wire := s.line()
	b := wire.showsJob(s, id)
	wire.set(refuses)
	for _, text := range []string{"first", "second"} {
		b.note(text)
	}
	b.until(`document.querySelector('header [role=status]')?.textContent.startsWith('2 to send')`, "them to wait")
	conn, err := pgx.Connect(t.Context(), direct(s.dsn))
	require.NoError(t, err)
	defer func() { _ = conn.Close(context.Background()) }()
	for _, ends := range []string{`delete from sessions`, `update device_people set pen_hash = null`} {
		_, err = conn.Exec(t.Context(), ends)
		require.NoError(t, err)
	}
	get(b, chromedp.Evaluate[bool](`(() => {
		const ask = window.fetch;
		const heard = new Promise(hear => { window.hear = hear; });
		window.fetch = async (...asked) => {
			const answer = await ask(...asked);
			if (!String(asked[0].url ?? asked[0]).endsWith('/notes') || answer.status < 400) return answer;
			window.refused = true;
			await heard;
			return answer;
		};
		return true;
	})()`))
	wire.set(up)
	get(b, chromedp.Evaluate[bool](`dispatchEvent(new Event('online'))`))
	b.until(`window.refused === true && document.querySelector('dialog[open]') !== null`, "the first to be refused, and whoever is here to be asked for")
	b.signInHere("Mira Oxenholt", "2718")
	get(b, chromedp.Evaluate[bool](`(window.hear(), true)`))
	b.allSent()
	assert.Equal(t, []string{"first", "second"}, s.client().notesOf(id))
}

// toUnsent does something to the store of what the device keeps unsent: a function of it, in the page.
func (b *tab) toUnsent(does string) {
	b.t.Helper()
	get(b, chromedp.Evaluate[bool](`new Promise((done, fails) => {
		const open = indexedDB.open('pony');
		open.onerror = fails;
		open.onsuccess = () => {
			const store = open.result.transaction('unsent', 'readwrite').objectStore('unsent');
			(`+does+`)(store);
			store.transaction.oncomplete = () => { open.result.close(); done(true); };
		};
	})`, chromedp.EvalAwaitPromise))
}

// keepsAsIf has the device keep what a test says, as if it had been written there, in place of what it kept.
func (b *tab) keepsAsIf(all string) {
	b.t.Helper()
	b.toUnsent(fmt.Sprintf(`store => { store.clear(); for (const one of %s) store.add(one); }`, all))
}

// What waits on a device, what was refused, what is old and what a colleague wrote there: each is said plainly, fits every
// width, and axe has nothing against it by day and by night. What is old is sent only by a person.
func TestToSendIsPlain(t *testing.T) {
	t.Parallel()
	script, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err)
	s := startServer(t)
	c := s.client()
	tag, id := bikeIn(c, "Ottoline Brack", "quick", nil)
	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/jobs/" + id)
	b.sees("[data-testid=block-title]", "Look and set up")
	mira := get(b, chromedp.Evaluate[string](`fetch('/api/v1/session').then(r => r.json()).then(s => s.person.id)`, chromedp.EvalAwaitPromise))
	b.keepsAsIf(fmt.Sprintf(`(() => {
		const one = (key, more) => ({ key: key + '-0123456789', operation: 'addNote', method: 'POST', path: '/jobs/%[2]s/notes', type: 'application/json', body: JSON.stringify({ text: key }),
			author: { id: '%[3]s', name: 'Mira Oxenholt' }, at: Date.now() - 60000, behind: 0, tag: '%[1]s', job: '%[2]s', words: 'Note: ' + key, needs: [], tab: '', ...more });
		const long = 'the bell is loose and so is the front mudguard, '.repeat(6);
		return [
			one('refused', { operation: 'doBlock', path: '/jobs/%[2]s/blocks/floor', body: '{"action":"done"}', words: 'Done: Look and set up', refused: { code: 'step-done', title: '“Look and set up” is done already.' } }),
			one('after', { needs: ['refused-0123456789'], words: 'Done: ' + long }),
			one('old', { at: Date.now() - 14 * 24 * 3600e3 }),
			one('waits', { unasked: true, words: 'Note: ' + long }),
			one('theirs', { unasked: true, author: { id: '00000000-0000-7000-8000-000000000001', name: 'Hildegard Featherstonehaugh-Wetherby of the harbour' } }),
		];
	})()`, tag, id, mira))
	p := pose{name: "unsent"}
	b.visit("/unsent")
	b.sees("[data-testid=refused]", "Kept for too long")
	b.sees("[data-testid=sealed]", "One thing since")
	b.plainWords(p)
	get(b, chromedp.Evaluate[bool](string(script)+`; true`))
	for _, theme := range []string{"day", "night"} {
		b.theme(theme)
		b.agrees(p, "by "+theme, "id => true")
	}
	for _, width := range []int64{768, 390, 1280} {
		b.resize(width, 800)
		b.fits(p, width)
	}
	require.Empty(t, c.notesOf(id), "nothing of it is sent by itself")
	b.press("It is not there: send it")
	require.Eventually(t, func() bool { return len(c.notesOf(id)) == 1 }, patience, 20*time.Millisecond, "what a person looked at")
	b.press("Drop this, send the rest")
	require.Eventually(t, func() bool { return len(c.notesOf(id)) == 2 }, patience, 20*time.Millisecond, "what came after it")
	b.until(`document.querySelector('[data-testid=refused]') === null`, "nothing to be decided")
}
