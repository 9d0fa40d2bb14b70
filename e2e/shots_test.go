package e2e

import (
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// view is one picture of the demo shop.
type view struct {
	name          string
	width, height int64
	night         bool
	show          func(*tab) // from the signed-in first screen
}

// The main views, from the demo's data. The last words that each waits for say that it is drawn.
var views = []view{
	{"bench", 1280, 800, false, showBench},
	{"bike", 1280, 800, false, showBike},
	{"waiting", 1280, 800, false, func(b *tab) {
		b.visit("/waiting")
		b.sees("[data-testid=waiting-verdict]", "Posy Peake")
	}},
	{"due", 1280, 800, false, func(b *tab) {
		b.visit("/due")
		b.sees("[data-testid=due-row]", "more in the same visit")
	}},
	{"messages-tablet-night", 768, 1024, true, func(b *tab) {
		b.visit("/due/messages")
		b.sees("main", "Reached nobody")
	}},
	{"owner-phone", 390, 844, false, func(b *tab) {
		b.visit("/bikes/" + bikeOf(b, "Fenwick"))
		b.press("Customer's page")
		b.press("Make a link")
		b.sees("dialog", "not shown again")
		b.visit(get(b, chromedp.Evaluate[string](`document.querySelector('dialog a').getAttribute('href')`)))
		b.sees("main", "Tell the workshop")
	}},
	{"cost", 1280, 800, false, showCost},
	{"sizer", 1280, 800, false, showSizer},
	{"replace", 1280, 800, false, func(b *tab) {
		b.visit("/bikes/" + bikeOf(b, "Brack") + "/replace")
		b.sees("main", "Chain length says")
	}},
	{"stores", 1280, 800, false, func(b *tab) {
		b.visit("/stock")
		b.sees("[data-testid=need]", "chain")
	}},
	{"rules", 1280, 800, false, func(b *tab) {
		b.visit("/settings/wear")
		b.press("Three-quarter")
		b.sees("[data-testid=changes]", "when this is saved")
	}},
	{"bikes", 1280, 800, false, func(b *tab) {
		b.visit("/bikes")
		b.sees("main", "Wharfinger") // and not only that they are being fetched
	}},
	{"floor", 1280, 800, false, func(b *tab) { b.sees("main", "Next up") }},
	{"plan", 1280, 800, false, func(b *tab) {
		b.visit("/jobs/" + jobOf(b, "Brack"))
		b.sees("main", "Recommended")
	}},
	{"job", 1280, 800, false, showJob},
	{"job-tablet-night", 768, 1024, true, showJob},
	{"baths", 1280, 800, false, func(b *tab) {
		b.visit("/stock/baths")
		b.sees("main", "simulated probe")
	}},
	{"tag", 1280, 800, false, func(b *tab) {
		b.visit("/bikes/" + bikeOf(b, "Fenwick") + "/print")
		b.press("Add the code for the customer")
		b.do(chromedp.WaitVisible(chromedp.CSS("section:last-of-type img")))
	}},
	{"sign-in", 1280, 800, false, func(b *tab) {
		get(b, chromedp.Evaluate[bool](`fetch('/api/v1/session', {method: 'DELETE'}).then(() => true)`, chromedp.EvalAwaitPromise))
		b.visit("/")
		b.sees("main, body", "Mira Oxenholt")
	}},
}

func showBike(b *tab) {
	b.visit("/bikes/" + bikeOf(b, "Vanstone brick"))
	b.sees("[data-testid=entry]", "voided")
	b.sees("[data-testid=track-says]", "km left")
}

// bikeOf finds a bike of the demo by its owner: tags are given in the order in which bikes came.
func bikeOf(b *tab, q string) string {
	b.t.Helper()
	tag := get(b, chromedp.Evaluate[string](fmt.Sprintf(`fetch('/api/v1/bikes?q=%s').then(r => r.json()).then(p => p.bikes[0].tag)`, url.QueryEscape(q)), chromedp.EvalAwaitPromise))
	require.NotEmpty(b.t, tag)
	return tag
}

// jobOf finds an open job of the demo by its owner.
func jobOf(b *tab, owner string) string {
	b.t.Helper()
	return get(b, chromedp.Evaluate[string](fmt.Sprintf(`fetch('/api/v1/jobs').then(r => r.json()).then(jobs => jobs.find(j => j.customer.name.includes(%q)).id)`, owner), chromedp.EvalAwaitPromise))
}

// showJob shows a job at the stand, with a soak that runs.
func showJob(b *tab) {
	b.works("blocks")
	b.visit("/jobs/" + jobOf(b, "Merrick"))
	b.sees("[data-testid=wait]", "jar soak")
	b.sees("[data-testid=block-title]", "")
}

// showSteps shows the same job step by step.
func showSteps(b *tab) {
	b.works("one-by-one")
	b.visit("/jobs/" + jobOf(b, "Merrick"))
	b.sees("[data-testid=step-title]", "")
}

// workIn has a bike in the workshop for a quick clean that begins with a reading, at its first block: an owner's, or where the
// demo's days have it read just now, one that was not read for long.
func workIn(b *tab, owner string) {
	b.t.Helper()
	b.works("blocks")
	id := get(b, chromedp.Evaluate[string](fmt.Sprintf(`(async () => {
		const ask = (path, method, body) => fetch('/api/v1' + path, {method, headers: {'Content-Type': 'application/json'}, body: JSON.stringify(body)}).then(r => r.json());
		const open = await ask('/jobs', 'GET');
		const asks = async id => (await ask('/jobs/' + id, 'GET')).step_list.some(s => s.code === 'read-wear' && s.state !== 'done' && s.state !== 'skipped');
		const first = %q;
		const there = open.find(j => j.tag === first);
		if (there && await asks(there.id)) return there.id;
		const all = (await ask('/bikes?limit=100', 'GET')).bikes.filter(b => b.chain && !open.some(j => j.tag === b.tag));
		all.sort((a, b) => (b.tag === first) - (a.tag === first) || a.chain.taken_at.localeCompare(b.chain.taken_at));
		for (const bike of all) {
			const job = await ask('/bikes/' + bike.tag + '/jobs', 'POST', {frame_grade: 1, drivetrain_grade: 2, complaints: [], has_joining_link: true});
			if (!job.id) continue;
			const planned = await ask('/jobs/' + job.id + '/plan', 'PUT', {version: job.version, route: 'quick', reason: 'as the customer wants it', agreed: 4500});
			if (planned.id && await asks(job.id)) return job.id;
			await ask('/jobs/' + job.id + '/cancel', 'POST', {version: planned.version ?? job.version, reason: 'read just now'});
		}
		return '';
	})()`, bikeOf(b, owner)), chromedp.EvalAwaitPromise))
	require.NotEmpty(b.t, id, "a bike whose chain is to be read")
	b.visit("/jobs/" + id)
}

// showReading has a chain measured in the block at the stand, a figure typed.
func showReading(b *tab) {
	workIn(b, "Nerys")
	b.sees("[data-testid=reading]", "Place 2")
	b.fill("reading_1", "305.3")
	b.sees("[data-testid=reading]", "±")
}

// showChanged has a reading condemn the chain in the middle of a job.
func showChanged(b *tab) {
	workIn(b, "Lavinia")
	b.until(`document.querySelector('[data-testid=plan-changed], [name=reading_2]') !== null`, "the job")
	if get(b, chromedp.Evaluate[bool](`document.querySelector('[data-testid=plan-changed]') === null`)) {
		b.sees("[data-testid=reading]", "Place 2")
		b.fill("reading_1", "307.6")
		b.sees("[data-testid=reading]", "Replace")
		b.until(`(() => { const done = document.querySelector('[data-testid=block-done]:not(:disabled)'); done?.click(); return !!done; })()`, "the block's button")
	}
	b.sees("[data-testid=plan-changed]", "The chain goes")
}

// works has whoever is signed in work in blocks or step by step.
func (b *tab) works(way string) {
	b.t.Helper()
	require.True(b.t, get(b, chromedp.Evaluate[bool](fmt.Sprintf(`fetch('/api/v1/session').then(r => r.json()).then(s => fetch('/api/v1/people/' + s.person.id + '/way',
		{method: 'PUT', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({way: %q})})).then(r => r.ok)`, way), chromedp.EvalAwaitPromise)))
}

// showTrack shows a bike with several readings and more than one chain.

func showCost(b *tab) {
	b.visit("/bikes/" + bikeOf(b, "Fenwick") + "/cost")
	b.sees("main", "least money")
}

func showSizer(b *tab) {
	b.visit("/chain-length?tag=" + bikeOf(b, "Fenwick"))
	b.sees("[data-testid=keep]", "Keep")
	b.fill("box_links", "126")
	b.sees("main", "Take off")
}

func showBench(b *tab) {
	b.visit("/bikes/" + bikeOf(b, "Fenwick"))
	b.pressIn("main", "Measure")
	b.sees("main", "Measured with")
	get(b, chromedp.Evaluate[bool](`([...document.querySelectorAll('main button')].find(e => e.innerText === 'Clear')?.click(), true)`))
	for i, text := range []string{"306.2", "306.5", "306.4"} {
		b.sees("main", []string{"Place 1 of 3", "Place 2 of 3", "Place 3 of 3"}[i])
		b.do(chromedp.SendKeys(chromedp.CSS(`[name=reading]`), text))
		if i < 2 {
			b.do(chromedp.SendKeys(chromedp.CSS(`[name=reading]`), "\r"))
		}
	}
	b.sees("[data-testid=wear]", "0.51")
}

// TestShots takes the pictures in docs/screenshots for `make shots`, which names the folder and a
// running demo. It is no check, so it does not run without them.
func TestShots(t *testing.T) {
	dir, demo := os.Getenv("PONY_SHOTS"), os.Getenv("PONY_SHOTS_DEMO")
	if dir == "" || demo == "" {
		t.Skip("make shots takes pictures")
	}
	s := &server{t: t, addr: demo}
	browser := startBrowser(t)
	for _, v := range views {
		if only := os.Getenv("PONY_SHOTS_ONLY"); only != "" && only != v.name {
			continue
		}
		b := s.open(browser, v.width, v.height)
		b.visit("/")
		if v.night {
			get(b, chromedp.Evaluate[bool](`(localStorage.setItem('pony.look', '{"theme":"night"}'), true)`))
		}
		if v.name == "rules" { // they are the owner's to change
			b.signIn("Wenna Sallow", "slack water at noon")
		} else {
			b.signIn("Mira Oxenholt", "2718")
		}
		v.show(b)
		b.until("document.fonts.status === 'loaded'", "the fonts")
		b.shot(filepath.Join(dir, v.name+".png"))
	}
}
