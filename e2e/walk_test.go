package e2e

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// pose is one that a person finds the page in: a screen, or one of its dialogs. Every one is reached from the demo shop
// and changes nothing in it.
type pose struct {
	name  string     // screen, or screen/dialog
	at    string     // address; {bike Merrick}, {job Brack} and {customer Fenwick} are found by the customer's name
	press []string   // what opens it from there
	in    string     // where that is pressed, else anywhere
	shows string     // what says that it is drawn
	show  func(*tab) // how to get there, where that is more

	owner   bool // only the shop's owner is offered it
	columns bool // it names columns of a file
	again   bool // more of what another pose shows: looked at in full, and by people
}

// The walk goes through every screen with its dialogs.
var walk = []pose{
	{name: "today", at: "/today", shows: "Next up"},
	{name: "today/timer", at: "/today", press: []string{"Timer"}, shows: "min"},
	{name: "today/away", at: "/today", press: []string{"Goes home"}, in: "[data-testid=hands]", shows: "What happens"},
	{name: "today/sheet", at: "/today/sheet", shows: "Ready for"},
	{name: "frame/find", at: "/bikes", press: []string{"Find: tag"}, shows: "Find a bike"},
	{name: "frame/person", at: "/bikes", press: []string{"Mira O."}, shows: "Sign out"},
	{name: "frame/secret", at: "/bikes", press: []string{"Mira O.", "Change PIN"}, shows: "Present PIN"},
	{name: "bikes", at: "/bikes", shows: "Wharfinger"},
	{name: "bikes/new", at: "/bikes/new", shows: "Whose bike"},
	{name: "bikes/none", show: func(b *tab) {
		b.visit("/bikes")
		b.sees("main", "Wharfinger")
		b.do(chromedp.SendKeys(chromedp.CSS("main input[type=search]"), "nobody of this name"))
		b.until("!document.querySelector('main').innerText.includes('Wharfinger')", "no bike")
	}},
	{name: "bike", at: "/bikes/{bike Merrick}", shows: "km left|mi left"},
	{name: "bike/struck-out", at: "/bikes/{bike Vanstone brick}", shows: "voided", again: true},
	{name: "bike/odometer", at: "/bikes/{bike Merrick}", press: []string{"Note the odometer"}, shows: "odometer show"},
	{name: "bike/chain-fitted", at: "/bikes/{bike Merrick}", press: []string{"New chain fitted"}, shows: "new chain was fitted"},
	{name: "bike/chain-opened", at: "/bikes/{bike Merrick}", press: []string{"Chain was opened"}, shows: "opened"},
	{name: "bike/report", at: "/bikes/{bike Merrick}", press: []string{"Report rain"}, shows: "Report rain"},
	{name: "bike/task", at: "/bikes/{bike Merrick}", press: []string{"Mark done or change"}, shows: "Done"},
	{name: "bike/link", at: "/bikes/{bike Merrick}", press: []string{"Customer's page"}, shows: "Make a link"},
	{name: "bike/archive", at: "/bikes/{bike Merrick}", press: []string{"Archive this bike"}, shows: "Archive this bike?"},
	{name: "bike/edit", at: "/bikes/{bike Fenwick}/edit", shows: "Chainstay"},
	{name: "bike/cost", at: "/bikes/{bike Fenwick}/cost", shows: "least money"},
	{name: "bike/tag", at: "/bikes/{bike Fenwick}/print", shows: "Print"},
	{name: "bike/replace", at: "/bikes/{bike Brack}/replace", shows: "Chain length says"},
	{name: "bike/clean", at: "/bikes/{bike Fenwick}/clean", shows: "came in"},
	{name: "bike/clean/graded", show: showGraded},
	{name: "bike/clean/wanted", show: func(b *tab) {
		showGraded(b)
		if get(b, chromedp.Evaluate[bool](`document.querySelector('[data-testid=wanted]') === null`)) {
			b.press("When could it be ridden?")
		}
		b.sees("[data-testid=wanted]", "Promise that")
		get(b, chromedp.Evaluate[bool](`(document.querySelector('[data-testid=wanted]').scrollIntoView({ block: 'center' }), true)`))
	}},
	{name: "measure", at: "/measure", shows: "Measured with"},
	{name: "measure/read", show: showBench},
	{name: "chain-length", at: "/chain-length", shows: "From a bike"},
	{name: "chain-length/bike", show: showSizer},
	{name: "due", at: "/due", shows: "more in the same visit"},
	{name: "due/all", at: "/due?show=all", shows: "more in the same visit", again: true},
	{name: "due/messages", at: "/due/messages", shows: "Reached nobody"},
	{name: "due/gateway", at: "/due/gateway", shows: "simulated"},
	{name: "stock", at: "/stock", shows: "Needed within 30 days"},
	{name: "stock/new", at: "/stock", press: []string{"Put on the shelf"}, in: "main", shows: "Put on the shelf"},
	{name: "stock/fluids", at: "/stock/fluids", shows: "To order"},
	{name: "stock/fluids/new", at: "/stock/fluids", press: []string{"Add to stock"}, in: "main", shows: "Add to stock"},
	{name: "stock/baths", at: "/stock/baths", shows: "simulated probe"},
	{name: "stock/baths/new", at: "/stock/baths", press: []string{"Fill a new bath"}, in: "main", shows: "Fill a new bath"},
	{name: "stock/waste", at: "/stock/waste", shows: "Sludge"},
	{name: "customers", at: "/customers", shows: "Merrick"},
	{name: "customers/new", at: "/customers/new", shows: "Name"},
	{name: "customer", at: "/customers/{customer Merrick}", shows: "Archive this customer"},
	{name: "customer/merge", at: "/customers/{customer Merrick}", press: []string{"Merge with another entry"}, in: "main", shows: "This cannot be taken back"},
	{name: "customer/erase", owner: true, at: "/customers/{customer Merrick}", press: []string{"Erase"}, in: "main", shows: "Erase this"},
	{name: "waiting", at: "/waiting", shows: "Verdicts to sign"},
	{name: "unsent", at: "/unsent", shows: "Everything is sent."},
	{name: "bike/unsigned", at: "/bikes/{bike Osric}", shows: "Waits for a mechanic's signature"},
	{name: "settings", owner: true, at: "/settings", shows: "Hours, places, skills"},
	{name: "settings/replacing", owner: true, at: "/settings/replacing", shows: "joining link"},
	{name: "settings/intervals", owner: true, at: "/settings/intervals", shows: "Add a task"},
	{name: "settings/customers", owner: true, at: "/settings/customers", shows: "What is said"},
	{name: "settings/day", owner: true, at: "/settings/day", shows: "Own hours"},
	{name: "settings/cleaning", owner: true, at: "/settings/cleaning", shows: "Oil goes on"},
	{name: "settings/minutes", owner: true, at: "/settings/minutes", shows: "default"},
	{name: "settings/prices", owner: true, at: "/settings/prices", shows: "An hour of work"},
	{name: "settings/place", owner: true, at: "/settings/place", shows: "Time zone"},
	{name: "settings/stand", owner: true, at: "/settings/stand", shows: "Step by step"},
	{name: "settings/history", owner: true, at: "/settings/history", shows: "→"},
	{name: "settings/changed", owner: true, at: "/settings/wear", press: []string{"Three-quarter"}, shows: "when this is saved", again: true},
	{name: "settings/tools", at: "/settings/tools", shows: "Zero"},
	{name: "settings/tools/new", at: "/settings/tools/new", shows: "What it is"},
	{name: "settings/tool", at: "/settings/tools/{tool caliper-inside}", shows: "What happened to it"},
	{name: "settings/tool/change", at: "/settings/tools/{tool caliper-inside}", press: []string{"Change"}, in: "main", shows: "Change"},
	{name: "settings/people", owner: true, at: "/settings/people", shows: "Posy Peake"},
	{name: "settings/people/add", owner: true, at: "/settings/people", press: []string{"Add a person"}, in: "main", shows: "digits"},
	{name: "settings/people/change", owner: true, at: "/settings/people", show: func(b *tab) {
		b.visit("/settings/people")
		b.until(`(() => { const e = document.querySelector('[aria-label="Change Posy Peake"]'); e?.click(); return e !== null; })()`, "the person")
	}, shows: "Locked out"},
	{name: "settings/devices", owner: true, at: "/settings/devices", shows: "this one"},
	{name: "settings/permissions", owner: true, at: "/settings/permissions", shows: "Second signature"},
	{name: "settings/tables", owner: true, at: "/settings/tables", shows: "passport", columns: true},
	{name: "job/options", at: "/jobs/{job Brack}", shows: "Recommended"},
	{name: "job/plan", at: "/jobs/{job Brack}", press: []string{"Plan "}, shows: "Plan:"},
	{name: "job", show: showJob},
	{name: "job/step", show: showSteps},
	{name: "job/reading", show: showReading},
	{name: "job/changed", show: showChanged},
	{name: "job/fault", show: inJob("Fault found")},
	{name: "job/note", show: inJob("Note")},
	{name: "job/part", show: inJob("Part")},
	{name: "job/skip", show: inStep("Skip step")},
	{name: "job/report", at: "/jobs/{job Merrick}/report", shows: "What we did"},
	{name: "job/ticket", at: "/jobs/{job Merrick}/ticket", shows: "safety check"},
	{name: "nowhere", at: "/nowhere", shows: "nothing at this address"},
	{name: "customer-page", show: func(b *tab) {
		b.visit("/bikes/" + bikeOf(b, "Fenwick"))
		b.press("Customer's page")
		b.press("Make a link")
		b.sees("dialog", "not shown again")
		b.visit(get(b, chromedp.Evaluate[string](`document.querySelector('dialog a').getAttribute('href')`)))
		b.sees("main", "Tell the workshop")
	}},
	{name: "sign-in", show: func(b *tab) {
		get(b, chromedp.Evaluate[bool](`fetch('/api/v1/session', {method: 'DELETE'}).then(() => true)`, chromedp.EvalAwaitPromise))
		b.visit("/")
		b.sees("main, body", "Mira Oxenholt")
	}},
}

// showGraded has a bike graded, its lubricant picked, and the route of it drawn.
func showGraded(b *tab) {
	b.turnTo("/bikes/" + bikeOf(b, "Fenwick") + "/clean")
	for _, seen := range []string{"Grit heard", "Road film", "Wet oil"} {
		b.press(seen)
	}
	b.sees("[data-testid=route]", "Cassette and jockey wheels off")
}

func inJob(press string) func(*tab) { return dialogOf(showJob, press) }

func inStep(press string) func(*tab) { return dialogOf(showSteps, press) }

func dialogOf(show func(*tab), press string) func(*tab) {
	return func(b *tab) {
		show(b)
		b.pressIn("main", press)
		b.until("document.querySelector('dialog[open]') !== null", "the dialog of %s", press)
	}
}

var found = regexp.MustCompile(`\{(\w+) ([^}]+)\}`)

// address fills an address with whom it names.
func (b *tab) address(at string) string {
	return found.ReplaceAllStringFunc(at, func(s string) string {
		m := found.FindStringSubmatch(s)
		switch m[1] {
		case "bike":
			return bikeOf(b, m[2])
		case "job":
			return jobOf(b, m[2])
		case "customer":
			return get(b, chromedp.Evaluate[string](fmt.Sprintf(`fetch('/api/v1/customers?q=%s').then(r => r.json()).then(p => p.customers[0].id)`, m[2]), chromedp.EvalAwaitPromise))
		default:
			return get(b, chromedp.Evaluate[string](fmt.Sprintf(`fetch('/api/v1/instruments').then(r => r.json()).then(all => all.find(i => i.kind === %q).id)`, m[2]), chromedp.EvalAwaitPromise))
		}
	})
}

// turnTo goes to an address as a link does, without loading the page anew where it is there.
func (b *tab) turnTo(path string) {
	b.t.Helper()
	if !get(b, chromedp.Evaluate[bool](fmt.Sprintf(`(() => {
		if (!document.querySelector('nav[aria-label=Places]')) return false;
		document.querySelector('dialog[open]')?.dispatchEvent(new Event('cancel', { cancelable: true }));
		history.pushState({}, '', %q);
		dispatchEvent(new PopStateEvent('popstate'));
		return true;
	})()`, path))) {
		b.visit(path)
		return
	}
	b.until("!document.querySelector('dialog[open]')", "no dialog over the screen")
}

// reach brings the page into a pose.
func (b *tab) reach(s pose) {
	b.t.Helper()
	if s.show != nil {
		s.show(b)
	} else {
		at := b.address(s.at)
		b.turnTo(at)
		path, _, _ := strings.Cut(at, "?")
		b.until(fmt.Sprintf("document.querySelector('main')?.dataset.path === %q && document.querySelector('h1') !== null", path), "the screen at %s", at)
		for _, text := range s.press {
			if s.in != "" {
				b.pressIn(s.in, text)
			} else {
				b.press(text)
			}
		}
		b.until(fmt.Sprintf(`%q.split('|').some(text => (document.querySelector('dialog[open]') ?? document.querySelector('main') ?? document.body).innerText.includes(text))`, s.shows), "%q in %s", s.shows, s.name)
	}
	b.until("document.fonts.status === 'loaded'", "the fonts")
	b.until(`document.querySelector('main [aria-busy=true], dialog[open] [aria-busy=true]') === null &&
		![...document.querySelectorAll('main [role=status], dialog[open] [role=status]')].some(e => e.innerText.startsWith('Fetching'))`, "every answer of %s", s.name)
}

var (
	inInches = map[string]any{"length_unit": "in", "distance_unit": "mi", "temperature_unit": "f", "volume_unit": "fl-oz", "mass_unit": "oz", "locale": "en-US", "currency": "USD"}
	inMetric = map[string]any{"length_unit": "mm", "distance_unit": "km", "temperature_unit": "c", "volume_unit": "ml", "mass_unit": "g", "locale": "en-GB", "currency": "EUR"}
)

// TestLook draws each pose of a screen six times for `make look`: at three widths, by day and by night, on one picture.
// It is no check, so it does not run without being asked.
func TestLook(t *testing.T) {
	dir, demo, screen := os.Getenv("PONY_LOOK"), os.Getenv("PONY_LOOK_DEMO"), os.Getenv("PONY_LOOK_SCREEN")
	if dir == "" || demo == "" {
		t.Skip("make look draws screens")
	}
	s := &server{t: t, addr: demo}
	browser := startBrowser(t)
	if os.Getenv("PONY_LOOK_UNITS") == "inches" {
		c := s.client()
		c.rules(func(rules map[string]any) { maps.Copy(rules, inInches) })
		t.Cleanup(func() { c.rules(func(rules map[string]any) { maps.Copy(rules, inMetric) }) })
	}
	drawn := 0
	for _, p := range walk {
		if all, many := strings.CutSuffix(screen, "..."); p.name != screen && !(many && (p.name == all || strings.HasPrefix(p.name, all+"/"))) {
			continue
		}
		drawn++
		var views []image.Image
		for _, theme := range []string{"day", "night"} {
			b := s.open(browser, 1280, 800)
			b.visit("/")
			get(b, chromedp.Evaluate[bool](fmt.Sprintf(`(localStorage.setItem('pony.look', '{"theme":%q}'), true)`, theme)))
			if p.owner {
				b.signIn("Wenna Sallow", "slack water at noon")
			} else {
				b.signIn("Mira Oxenholt", "2718")
			}
			for _, size := range [][2]int64{{1280, 800}, {768, 1024}, {390, 844}} {
				b.resize(size[0], size[1])
				b.reach(p)
				picture, err := png.Decode(bytes.NewReader(get(b, chromedp.CaptureScreenshot())))
				require.NoError(t, err)
				views = append(views, picture)
			}
		}
		require.NoError(t, save(filepath.Join(dir, strings.ReplaceAll(p.name, "/", "-")+".png"), sheet(views, 3)))
	}
	require.NotZero(t, drawn, "no screen %q", screen)
}

// sheet puts pictures side by side, a few in a row.
func sheet(views []image.Image, inRow int) image.Image {
	const gap = 8
	var wide, high int
	at := make([]image.Point, len(views))
	for row := 0; row < len(views); row += inRow {
		x, tall := 0, 0
		for i := row; i < min(row+inRow, len(views)); i++ {
			at[i] = image.Pt(x, high)
			x += views[i].Bounds().Dx() + gap
			tall = max(tall, views[i].Bounds().Dy())
		}
		wide, high = max(wide, x), high+tall+gap
	}
	out := image.NewRGBA(image.Rect(0, 0, wide-gap, high-gap))
	draw.Draw(out, out.Bounds(), image.NewUniform(color.Gray{Y: 128}), image.Point{}, draw.Src)
	for i, v := range views {
		draw.Draw(out, v.Bounds().Add(at[i]), v, v.Bounds().Min, draw.Src)
	}
	return out
}

func save(path string, picture image.Image) error {
	var out bytes.Buffer
	if err := png.Encode(&out, picture); err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return err
	}
	return os.WriteFile(path, out.Bytes(), 0o644)
}
