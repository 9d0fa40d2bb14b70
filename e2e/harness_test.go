// Package e2e drives the real page against the real server and database, as a mechanic would.
package e2e

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/chromedp/cdproto"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/pgtest"
)

// patience is how long a step may take before the test is over. Nothing waits for it to pass, and a machine that has
// half of its processors taken away by others is still waited for.
const patience = 2 * time.Minute

var program string // the built server

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "pony-e2e-")
	if err != nil {
		panic(err)
	}
	program = filepath.Join(dir, "pony")
	build := exec.Command("go", "build", "-o", program, "earnestpony/cmd/pony")
	if out, err := build.CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "build the server: %v\n%s", err, out)
		os.Exit(1)
	}
	// Browsers and servers wait for each other most of the time: more of them than processors are busy together.
	flag.Parse()
	if err := flag.Set("test.parallel", "4"); err != nil {
		panic(err)
	}
	browsers.profile = filepath.Join(dir, "browser")
	code := m.Run()
	endBrowsers()
	if bareShop.drop != nil {
		_ = bareShop.drop() // left over at worst
	}
	_ = os.RemoveAll(dir) // left over at worst
	os.Exit(code)
}

// complaints are the lines of a server's log that somebody should read.
type complaints []string

// server is a running server process.
type server struct {
	t       *testing.T
	dsn     string
	addr    string // host:port, the same after a restart
	process *exec.Cmd
	env     []string        // beside the test's own
	said    chan complaints // once it ended
	codes   chan string     // that it printed for the set-up of a new shop
	secure  bool            // over https
}

// startServer sets up a shop in a fresh database and serves it; on a machine with an environment like TZ=Asia/Tokyo, of a
// shop that is set up with flags.
func startServer(t *testing.T, more ...string) *server {
	t.Helper()
	s := &server{t: t, addr: "127.0.0.1:0"}
	if len(more) > 0 {
		s.dsn, s.env = pgtest.New(t), more[:1]
		s.setUp(more[1:]...)
	} else {
		s.dsn = pgtest.Copy(t, plainShop(t))
	}
	s.start()
	t.Cleanup(s.kill)
	return s
}

// midday is a zone in which it is about noon: a plain shop lies there, so that its day does not end while a test plans it.
var midday = sync.OnceValues(func() (name string, zone *time.Location) {
	ahead := 12 - time.Now().UTC().Hour()
	name = fmt.Sprintf("Etc/GMT%+d", -ahead) // its names count westward
	zone, err := time.LoadLocation(name)
	if err != nil {
		panic(err)
	}
	return name, zone
})

// inShop is a moment by the clock of a plain shop.
func inShop(t time.Time) time.Time {
	_, zone := midday()
	return t.In(zone)
}

// setUp makes a shop with two mechanics.
func (s *server) setUp(flags ...string) {
	s.t.Helper()
	if len(flags) == 0 {
		name, _ := midday()
		flags = []string{"--time-zone", name}
	}
	s.pony("", append(append([]string{"shop"}, flags...), "Tidewrack Lane Cycle Workshop")...)
	s.pony("2718\n", "person", "Mira Oxenholt")
	s.pony("3141\n", "person", "Tobiah Marsh")
}

var bareShop struct {
	sync.Mutex
	dsn  string
	drop func() error
}

// plainShop is a database with a shop and nothing else. It is made by the commands once, and every test's is copied from it.
func plainShop(t *testing.T) string {
	t.Helper()
	bareShop.Lock()
	defer bareShop.Unlock()
	if bareShop.dsn == "" {
		dsn, drop := pgtest.Kept(t)
		bareShop.drop = drop
		(&server{t: t, dsn: dsn}).setUp()
		bareShop.dsn = dsn
	}
	return bareShop.dsn
}

// beside starts another process on the same database.
func (s *server) beside(env ...string) *server {
	s.t.Helper()
	other := &server{t: s.t, dsn: s.dsn, addr: "127.0.0.1:0", env: env}
	other.start()
	s.t.Cleanup(other.kill)
	return other
}

// pony runs a command of the program on the server's database.
func (s *server) pony(input string, args ...string) string {
	s.t.Helper()
	cmd := exec.Command(program, args...)
	cmd.Env = append(append(os.Environ(), "PONY_DATABASE="+s.dsn), s.env...)
	cmd.Stdin = strings.NewReader(input)
	out, err := cmd.CombinedOutput()
	require.NoError(s.t, err, "pony %v: %s", args, out)
	return string(out)
}

var servingAt = regexp.MustCompile(`msg=serving address=https?://(\S+)`)

func (s *server) start() {
	s.t.Helper()
	s.run("serve", "--plan-by-tries", "--simulated-tool", "--simulated-gateway", "--gateway-fails", "0")
}

// startDemo serves the demo shop in a fresh database.
func startDemo(t *testing.T) *server {
	t.Helper()
	s := &server{t: t, dsn: pgtest.New(t), addr: "127.0.0.1:0"}
	s.run("demo")
	t.Cleanup(s.kill)
	return s
}

// run starts a process of the program that serves.
func (s *server) run(args ...string) {
	s.t.Helper()
	s.process = exec.Command(program, append(args, "--addr", s.addr)...)
	s.process.Env = append(append(os.Environ(), "PONY_DATABASE="+s.dsn), s.env...)
	logs, err := s.process.StderrPipe()
	require.NoError(s.t, err)
	require.NoError(s.t, s.process.Start())
	found := make(chan string, 1)
	s.said, s.codes = make(chan complaints, 1), make(chan string, 10)
	go func(told chan<- complaints, codes chan<- string) {
		var all complaints
		defer func() { told <- all }()
		lines := bufio.NewScanner(logs)
		for lines.Scan() {
			if strings.Contains(lines.Text(), "level=ERROR") || strings.Contains(lines.Text(), "level=WARN") {
				all = append(all, lines.Text())
			}
			if _, code, is := strings.Cut(lines.Text(), "to set one up:  "); is {
				codes <- code
			}
			if m := servingAt.FindStringSubmatch(lines.Text()); m != nil {
				found <- m[1]
			}
		}
	}(s.said, s.codes)
	select {
	case s.addr = <-found:
	case <-time.After(2 * patience): // a demo is made first, beside other tests
		require.Fail(s.t, "the server did not start")
	}
}

// kill ends the server as a power cut does.
func (s *server) kill() {
	if s.process.ProcessState != nil {
		return
	}
	_ = s.process.Process.Kill() // it may have ended by itself
	_ = s.process.Wait()         // which reports the kill
	if said := <-s.said; s.t.Failed() {
		s.t.Logf("the server said:\n%s", strings.Join(said, "\n"))
	}
}

// stop asks the server to stop.
func (s *server) stop() {
	s.t.Helper()
	require.NoError(s.t, s.process.Process.Signal(syscall.SIGTERM))
	assert.NotContains(s.t, strings.Join(<-s.said, "\n"), "still wait", "it does not wait for the open streams of the page")
	require.NoError(s.t, s.process.Wait(), "a server that is asked to stop ends well")
}

func (s *server) url(path string) string {
	if s.secure {
		return "https://" + s.addr + path
	}
	return "http://" + s.addr + path
}

// client is a program that uses the contract, signed in as Mira.
type client struct {
	*server
	http  *http.Client
	again bool // it is asked for the second time
}

func (s *server) client() *client {
	s.t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(s.t, err)
	c := &client{s, &http.Client{Jar: jar, Timeout: patience}, false}
	var people []struct{ ID, Name string }
	c.do("GET", "/people", nil, "", http.StatusOK, &people)
	for _, p := range people {
		if p.Name == "Mira Oxenholt" {
			c.do("PUT", "/session", map[string]string{"person_id": p.ID, "pin": "2718", "device": "test"}, "", http.StatusOK, nil)
		}
	}
	return c
}

// oneByOne has Mira work step by step, where blocks are what mechanics begin with.
func (c *client) oneByOne() {
	c.t.Helper()
	var session struct{ Person struct{ ID string } }
	c.do("GET", "/session", nil, "", http.StatusOK, &session)
	c.do("PUT", "/people/"+session.Person.ID+"/way", map[string]string{"way": "one-by-one"}, "", http.StatusOK, nil)
}

// do sends a request and reads the answer, which must have the status.
func (c *client) do(method, path string, body any, key string, status int, into any) {
	c.t.Helper()
	text, err := json.Marshal(body)
	require.NoError(c.t, err)
	req, err := http.NewRequest(method, c.url("/api/v1"+path), bytes.NewReader(text))
	require.NoError(c.t, err)
	req.Header.Set("Content-Type", "application/json")
	if key != "" {
		req.Header.Set("Idempotency-Key", key)
	}
	res, err := c.http.Do(req)
	require.NoError(c.t, err)
	defer func() { _ = res.Body.Close() }()
	answer, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	if method == "GET" && res.StatusCode == http.StatusServiceUnavailable && status != res.StatusCode && !c.again { // it says to come again
		(&client{c.server, c.http, true}).do(method, path, body, key, status, into)
		return
	}
	require.Equal(c.t, status, res.StatusCode, "%s %s: %s", method, path, answer)
	if into != nil {
		require.NoError(c.t, json.Unmarshal(answer, into), "%s", answer)
	}
}

// addBike adds an owner and a bike, and returns its tag.
func (c *client) addBike(owner string, facts map[string]any) string {
	c.t.Helper()
	var customer struct{ ID string }
	c.do("POST", "/customers", map[string]string{"name": owner}, "", http.StatusCreated, &customer)
	var bike struct{ Tag string }
	c.do("POST", "/bikes", map[string]any{"customer_id": customer.ID, "facts": facts}, "", http.StatusCreated, &bike)
	return bike.Tag
}

var twelveSpeed = map[string]any{"make": "Wharfinger", "model": "Loper", "drivetrain_kind": "derailleur", "sprocket_count": 12, "motor": "none", "chain_links": 114}

// rules changes the settings.
func (c *client) rules(change func(rules map[string]any)) {
	c.t.Helper()
	var view struct {
		Version int
		Rules   map[string]any
	}
	c.do("GET", "/rules", nil, "", http.StatusOK, &view)
	change(view.Rules)
	c.do("PUT", "/rules", map[string]any{"version": view.Version, "rules": view.Rules}, "", http.StatusOK, nil)
}

// takeIn takes a bike in as it was seen, and plans its job as recommended, or by an order; it returns the job's id.
func (c *client) takeIn(tag string, seen, order map[string]any) string {
	c.t.Helper()
	var job struct {
		ID      string
		Version int
	}
	intake := map[string]any{"complaints": []string{}}
	maps.Copy(intake, seen)
	c.do("POST", "/bikes/"+tag+"/jobs", intake, "", http.StatusCreated, &job)
	plan := map[string]any{"version": job.Version}
	maps.Copy(plan, order)
	c.do("PUT", "/jobs/"+job.ID+"/plan", plan, "", http.StatusOK, nil)
	return job.ID
}

// browsers are those that no test has at the moment. A test has one for itself, as windows of one browser share its focus,
// and leaves it to the next: each window is in a context of its own, with cookies, storage and a cache of its own.
var browsers struct {
	sync.Mutex
	free    []context.Context
	all     []context.Context
	profile string
}

// startBrowser gives the test a browser, without any network but loopback.
func startBrowser(t *testing.T) context.Context {
	t.Helper()
	path := browserPath(t)
	browsers.Lock()
	defer browsers.Unlock()
	var ctx context.Context
	if n := len(browsers.free); n > 0 {
		ctx, browsers.free = browsers.free[n-1], browsers.free[:n-1]
	} else {
		opts := append(chromedp.DefaultExecAllocatorOptions[:],
			chromedp.ExecPath(path),
			chromedp.UserDataDir(fmt.Sprintf("%s-%d", browsers.profile, len(browsers.all))),
			chromedp.WindowSize(1280, 800),
			// It opens our own pages alone, and neither root nor a machine without the sandbox's helper
			// could start it otherwise.
			chromedp.NoSandbox,
			chromedp.DisableGPU,
			chromedp.Flag("disable-component-update", true),
			chromedp.Flag("disable-domain-reliability", true),
			chromedp.Flag("disable-quic", true),
			chromedp.Flag("no-pings", true),
			chromedp.Flag("no-proxy-server", true),
			chromedp.Flag("hide-scrollbars", true),
			// Moving pictures take half of its time, and no test looks at them.
			chromedp.Flag("force-prefers-reduced-motion", true),
			chromedp.Flag("disable-features", "Translate,BlinkGenPropertyTrees,OptimizationHints,MediaRouter,DialMediaRouteProvider,AutofillServerCommunication,CertificateTransparencyComponentUpdater"),
			chromedp.Flag("host-resolver-rules", "MAP * ~NOTFOUND, EXCLUDE 127.0.0.1"),
		)
		allocator, _ := chromedp.NewExecAllocator(context.Background(), opts...) // ended by endBrowsers
		ctx, _ = chromedp.NewContext(allocator)
		require.NoError(t, chromedp.Do(ctx), "start the browser") // a time limit here would end the browser later
		browsers.all = append(browsers.all, ctx)
	}
	t.Cleanup(func() { // after its windows are closed
		browsers.Lock()
		defer browsers.Unlock()
		browsers.free = append(browsers.free, ctx)
	})
	return ctx
}

// endBrowsers ends the browsers after the last test.
func endBrowsers() {
	for _, ctx := range browsers.all {
		bye, done := context.WithTimeout(ctx, patience)
		_ = chromedp.Cancel(bye) // waits, so that the profile folder can be removed
		done()
	}
}

func browserPath(t *testing.T) string {
	t.Helper()
	for _, path := range []string{os.Getenv("PONY_BROWSER"), "/usr/bin/chromium-headless-shell", "/usr/bin/chromium"} {
		if _, err := os.Stat(path); path != "" && err == nil {
			return path
		}
	}
	require.Fail(t, "no browser: apt-get install chromium-headless-shell, or name one in PONY_BROWSER")
	return ""
}

// tab is one window with cookies and storage of its own, as on a device of its own.
type tab struct {
	t     *testing.T
	ctx   context.Context
	s     *server
	asked *atomic.Int64 // how often the browser asked whether to leave the page
}

// open opens a window of the given size. It fails the test on any error the page logs, and on any
// request that would leave the machine.
func (s *server) open(browser context.Context, width, height int64) *tab {
	s.t.Helper()
	t := s.t
	ctx, cancel := chromedp.NewContext(browser, chromedp.WithNewBrowserContext())
	t.Cleanup(cancel)
	b := &tab{t: t, ctx: ctx, s: s}
	// Installing the page takes time in each of these windows, which live for one test: it is tried in the whole browser.
	_, err := chromedp.Call(ctx, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{
		Source: `Object.defineProperty(navigator, 'serviceWorker', { value: undefined })`,
	})
	require.NoError(t, err)
	b.watch(width, height)
	return b
}

// watch fails the test on what a window should not do.
func (b *tab) watch(width, height int64) {
	t, ctx := b.t, b.ctx
	t.Helper()
	b.leavesFreely()
	require.NoError(t, chromedp.Do(ctx, viewport(width, height)))
	require.NoError(t, chromedp.Listen(ctx, func(event any) {
		if e, ok := event.(*network.EventRequestWillBeSent); ok {
			if u, err := url.Parse(e.Request.URL); err == nil && strings.HasPrefix(u.Scheme, "http") && u.Hostname() != "127.0.0.1" && !strings.HasSuffix(u.Hostname(), ".workshop.test") {
				t.Errorf("a request left the machine: %s", e.Request.URL)
			}
		}
	}))
	_, err := chromedp.Call(ctx, network.Enable, network.EnableParams{})
	require.NoError(t, err)
	// What the page is not allowed to do is an error like any other.
	_, err = chromedp.Call(ctx, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{
		Source: `document.addEventListener('securitypolicyviolation', e => console.error('policy: ' + e.violatedDirective + ' ' + e.blockedURI))`,
	})
	require.NoError(t, err)
	messages := chromedp.Console(ctx)
	go func() {
		for m, err := range messages {
			if err != nil {
				return
			}
			// The browser itself logs every answer that is an error, and some of ours are meant to be.
			if m.IsException() || (m.Type == "error" && m.Source != "network") {
				t.Errorf("console: %s", m)
			}
		}
	}()
}

// viewport is a window of a size, and of a phone where it is that narrow: touched, without a keyboard.
func viewport(width, height int64) chromedp.Action[chromedp.Void] {
	var like []chromedp.EmulateViewportOption
	if width < 500 {
		like = append(like, chromedp.EmulateMobile, chromedp.EmulateTouch)
	}
	return chromedp.EmulateViewport(width, height, like...)
}

// resize gives a window another size, as turning a tablet does, and waits until it is drawn so.
func (b *tab) resize(width, height int64) {
	b.t.Helper()
	b.do(viewport(width, height))
	b.until(fmt.Sprintf("innerWidth === %d", width), "a width of %d", width)
	get(b, chromedp.Evaluate[bool](`new Promise(done => requestAnimationFrame(() => requestAnimationFrame(() => done(true))))`, chromedp.EvalAwaitPromise))
}

// do runs steps within the test's patience.
func (b *tab) do(steps ...chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, patience)
	defer cancel()
	if err := chromedp.Do(ctx, steps...); err != nil {
		b.t.Logf("the page said:\n%s", b.text("body"))
		require.NoError(b.t, err)
	}
}

func get[T any](b *tab, a chromedp.Action[T]) T {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, patience)
	defer cancel()
	v, err := chromedp.Run(ctx, a)
	require.NoError(b.t, err)
	return v
}

// text returns what an element shows.
func (b *tab) text(css string) string {
	b.t.Helper()
	return get(b, chromedp.Evaluate[string](fmt.Sprintf("document.querySelector(%q)?.innerText ?? ''", css)))
}

// sees waits until the page shows a text within an element.
func (b *tab) sees(css, text string) {
	b.t.Helper()
	b.until(fmt.Sprintf("[...document.querySelectorAll(%q)].some(e => (e.innerText ?? e.textContent).includes(%q))", css, text), "%q in %s", text, css)
}

// until waits for a condition of the page, looking at every change of it.
func (b *tab) until(condition, what string, args ...any) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, patience)
	defer cancel()
	for {
		_, err := chromedp.Run(ctx, chromedp.Poll[bool](condition, chromedp.WithPollingTimeout(patience), chromedp.WithPollingInterval(20*time.Millisecond)))
		if err == nil {
			return
		}
		if _, gone := errors.AsType[*cdproto.Error](err); gone && ctx.Err() == nil {
			continue // the page was loaded anew meanwhile: look at the new one
		}
		require.Fail(b.t, "waited in vain for "+fmt.Sprintf(what, args...), "%v; the page said:\n%s", err, b.text("body"))
	}
}

// leaves tells the page that it is left, as when its tab is closed: what it holds back is done at once.
func (b *tab) leaves() {
	b.t.Helper()
	b.sees("[data-testid=slip]", "Take it back")
	get(b, chromedp.Evaluate[bool](`window.dispatchEvent(new Event('pagehide'))`))
}

// press clicks the button or link that shows a text, once it can be hit: enabled, in view and not
// under anything; of several one in a dialog, then one in the screen. Looking and clicking are one step, so that nothing
// can move in between.
func (b *tab) press(text string) {
	b.t.Helper()
	b.pressIn("dialog[open], main, body", text)
}

// pressIn is press within what a selector finds: where the frame has the same words, a screen that is not there yet is
// waited for.
func (b *tab) pressIn(css, text string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(() => {
		const shows = e => e.innerText.replace(/\s+/g, ' ').includes(%q) && e.offsetParent !== null && !e.disabled;
		const target = %q.split(', ').flatMap(css => [...document.querySelectorAll(css)]).flatMap(e => [...e.querySelectorAll('button, a, summary')]).find(shows);
		if (!target) return false;
		target.scrollIntoView({ block: 'center' });
		const box = target.getBoundingClientRect();
		const hit = document.elementFromPoint(box.x + box.width / 2, box.y + box.height / 2);
		if (!target.contains(hit)) return false;
		target.click();
		return true;
	})()`, text, css), "a button %q to press", text)
}

// fill puts text into a field, over whatever is there.
func (b *tab) fill(name, text string) {
	b.t.Helper()
	field := chromedp.CSS(fmt.Sprintf(`[name=%q]`, name))
	b.do(chromedp.WaitVisible(field))
	get(b, chromedp.Evaluate[bool](fmt.Sprintf("(document.querySelector('[name=%s]').select?.(), true)", name)))
	b.do(chromedp.SendKeys(field, text))
}

// scan types a tag and Enter as a scanner does, a key every few milliseconds however busy the machine is.
func (b *tab) scan(tag string) {
	b.t.Helper()
	at := time.Now()
	b.do(chromedp.KeyEvent(tag+"\r", func(p *input.DispatchKeyEventParams) {
		at = at.Add(2 * time.Millisecond)
		p.Timestamp = input.TimeSinceEpoch(float64(at.UnixMicro()) / 1e6)
	}))
}

// choose picks an option of a select field.
func (b *tab) choose(name, value string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(() => {
		const field = document.querySelector('select[name=%[1]s]');
		if (![...(field?.options ?? [])].some(o => o.value === %[2]q)) return false;
		field.value = %[2]q;
		return field.dispatchEvent(new Event('change', { bubbles: true }));
	})()`, name, value), "the field %s", name)
}

// allSent waits until the server has all that was written here: the screens go on before that.
func (b *tab) allSent() {
	b.t.Helper()
	b.until(`document.querySelector('header [role=status]')?.textContent === 'All saved'`, "all to be sent")
}

// visit goes to an address by hand.
func (b *tab) visit(path string) {
	b.t.Helper()
	b.do(chromedp.Navigate(b.s.url(path)))
}

// signIn taps a name and types the PIN.
func (b *tab) signIn(name, pin string) {
	b.t.Helper()
	b.visit("/")
	b.signInHere(name, pin)
}

// signInHere is signIn where the names are shown already.
func (b *tab) signInHere(name, pin string) {
	b.t.Helper()
	b.press(name)
	b.do(chromedp.WaitVisible(chromedp.CSS(`input[type=password]`)), chromedp.SendKeys(chromedp.CSS(`input[type=password]`), pin+"\r"))
	b.do(chromedp.WaitVisible(chromedp.CSS(`nav[aria-label=Places]`)))
	b.until(`document.querySelector('input[type=password]') === null`, "the sign-in to close")
}

// shot saves a picture of the window.
func (b *tab) shot(path string) {
	b.t.Helper()
	picture := get(b, chromedp.CaptureScreenshot())
	require.NoError(b.t, os.MkdirAll(filepath.Dir(path), 0o755))
	require.NoError(b.t, os.WriteFile(path, picture, 0o644))
}
