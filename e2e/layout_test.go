package e2e

import (
	"fmt"
	"image"
	"image/color"
	"image/png"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// tooWide names what sticks out of the place to the right.
const tooWide = `(() => {
	const main = document.querySelector('main');
	if (main.scrollWidth <= main.clientWidth + 1) return '';
	const edge = main.getBoundingClientRect().right + 1;
	return [...main.querySelectorAll('*')].filter(e => e.getBoundingClientRect().right > edge)
		.map(e => e.tagName + '.' + e.className).slice(0, 4).join('\n') || 'something';
})()`

// hardToUse names buttons, links and fields that are too small for a finger or have no name.
const hardToUse = `[...document.querySelectorAll('main button, main a, main input:not([aria-hidden=true]), main select, main textarea, nav a, header button')]
	.filter(e => e.offsetParent !== null && getComputedStyle(e).display !== 'inline' && e.type !== 'checkbox' && e.type !== 'radio')
	.map(e => {
		const box = e.getBoundingClientRect();
		const name = e.getAttribute('aria-label') || e.innerText?.trim() || e.labels?.[0]?.innerText || e.querySelector('[aria-label]')?.getAttribute('aria-label');
		if (!name) return 'no name: ' + e.outerHTML.slice(0, 120);
		if (box.height < 35 || (e.closest('main') && box.height < 43.5)) return 'only ' + box.height + ' px high: ' + name;
		return '';
	}).filter(Boolean).join('\n')`

// Every place fits its width, from a phone to a desk, with long names and with none; everything in
// it can be hit with a finger and has a name.
func TestPlacesFitTheirWidth(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	long := strings.Repeat("Featherstonehaugh-", 5) + "of Upper Saltings"
	facts := map[string]any{"make": "Wharfinger", "model": "Loper", "colour": "claret and cream with a painted headland", "frame_number": strings.Repeat("W", 60),
		"drivetrain_kind": "derailleur", "sprocket_count": 12, "ring_teeth": []int{34, 50}, "sprocket_teeth": []int{11, 34}, "motor": "mid", "brakes": "disc",
		"chain_links": 114, "chainstay_mm": 430, "chainstay_growth_mm": 12, "cage_mm": 75, "capacity_teeth": 37, "weekly_km": 180, "lubricant": "immersion-wax", "notes": strings.Repeat("unbrokennotes", 40),
		"mix": map[string]float64{"fair": 0.2, "dusty": 0.2, "wet": 0.2, "mud": 0.2, "salt": 0.2}}
	tag := c.addBike(long, facts)
	bare := c.addBike("O", map[string]any{})
	for _, text := range []string{"306.4", "305.1"} {
		c.do("POST", "/bikes/"+tag+"/measurements", map[string]any{"instrument_id": instrument(c, "ruler"), "note": strings.Repeat("longword", 30),
			"findings": []string{"noise", "hooked-teeth", "smells-of-low-tide-and-worse"}, "entries": []map[string]any{{"place": 1, "text": text}}}, "", 201, nil)
	}
	priced := c.addBike(long+" the second", facts)
	c.do("POST", "/bikes/"+priced+"/chain", map[string]any{"odometer_km": 100, "what": strings.Repeat("longword", 12)}, "", 201, nil)
	setPrices(c)
	var bike struct{ Customer struct{ ID string } }
	c.do("GET", "/bikes/"+tag, nil, "", 200, &bike)

	open, planned := c.job(tag, false), c.job(priced, true)
	c.do("POST", "/waits", map[string]any{"what": strings.Repeat("longword", 7), "minutes": 4000}, "", 201, nil)
	// An owner with a long name who is told of a long list, and what they told themselves.
	c.do("PUT", "/customers/"+bike.Customer.ID, map[string]any{"version": 1, "facts": map[string]any{"name": long, "email": strings.Repeat("long", 12) + "@example.com", "contact_way": "mail", "consent": true}}, "", 200, nil)
	for _, event := range []string{"soaked-ride", "contamination", "stored-wet", "skip"} {
		c.do("POST", "/bikes/"+tag+"/events", map[string]any{"event": event, "note": strings.Repeat("longword", 20)}, "", 201, nil)
	}
	res, err := c.http.Post(c.url("/api/v1/bikes/"+tag+"/draft"), "application/json", nil)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	require.Contains(t, []int{http.StatusCreated, http.StatusConflict}, res.StatusCode, "drafted, or the server was first to draft it by itself")
	var link struct{ Path string }
	c.do("POST", "/links", map[string]any{"kind": "owner", "tag": tag}, "", 201, &link)
	page := link.Path
	c.do("POST", "/owner-page/"+strings.TrimPrefix(page, "/o/"), map[string]any{"note": strings.Repeat("longword", 40)}, "", 201, nil)
	c.do("POST", "/jobs/"+planned+"/parts", map[string]any{"what": strings.Repeat("longword", 20), "count": 99, "price": 999999}, "", 201, nil)
	c.do("POST", "/materials", map[string]any{"kind": "oil", "facts": map[string]any{"name": strings.Repeat("longword", 12), "quantity": 5, "low_mark": 9, "card": map[string]any{}}}, "", 201, nil)
	c.do("POST", "/baths", map[string]any{"kind": "wax-pot", "facts": map[string]any{"name": strings.Repeat("longword", 12), "fluid": strings.Repeat("wax", 20), "volume_ml": 500, "clean_only": false}}, "", 201, nil)
	c.do("POST", "/waste", map[string]any{"kind": "sludge", "amount": 2, "note": strings.Repeat("longword", 12)}, "", 201, nil)

	browser := startBrowser(t)
	b := s.open(browser, 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	widths := []int64{768, 390} // what fits these fits a desk, which the walk through the demo looks at
	for _, place := range []struct{ path, shows string }{
		{"/bikes", tag}, {"/bikes/" + tag, "Wear 0.10 %"}, {"/bikes/" + bare, "Came into care"}, {"/bikes/" + tag + "/edit", "Change"},
		{"/bikes/" + tag + "/print", "Print"}, {"/customers", "Featherstonehaugh"},
		{"/customers/" + bike.Customer.ID, "Archive this customer"},
		{"/chain-length?tag=" + tag, "Keep 1"}, {"/stock", "Needed within 30 days"}, {"/bikes/" + tag + "/replace", "After joining"},
		{"/bikes/" + tag + "/cost", "are not known yet"}, {"/bikes/" + priced + "/cost", "least money"},
		{"/settings/tools", "Zero never checked"}, {"/settings/tools/" + instrument(c, "caliper-inside"), "What happened to it"},
		{"/today", "In progress"}, {"/jobs/" + open, "Recommended"}, {"/jobs/" + planned, "Protect the floor"}, {"/jobs/" + planned + "/report", "What we did"},
		{"/jobs/" + planned + "/ticket", "safety check"}, {"/bikes/" + tag + "/clean", "came in"}, {"/stock/fluids", "To order"},
		{"/stock/baths", "simulated probe"}, {"/stock/waste", "Sludge"}, {"/due?show=all", "more in the same visit"},
		{"/due/messages", "What is said"}, {"/settings/tables", "A bike by its passport"}, {page, "Tell the workshop"},
	} {
		if place.path == page {
			b.visit(page) // which is a page of its own
		} else {
			b.turnTo(place.path)
		}
		b.until(fmt.Sprintf("document.querySelector('main')?.innerText.includes(%[1]q) || document.querySelector('main svg[aria-label*=%[1]q]') !== null", place.shows), "%q at %s", place.shows, place.path)
		for _, width := range widths {
			b.resize(width, 800)
			assert.Empty(t, get(b, chromedp.Evaluate[string](tooWide)), "%s at %d px is wider than its place", place.path, width)
			assert.Empty(t, get(b, chromedp.Evaluate[string](hardToUse)), "%s at %d px", place.path, width)
		}
		slices.Reverse(widths) // it stays as it is for the next place
	}
	// The same with the bench in use, and in gloves.
	get(b, chromedp.Evaluate[bool](`(localStorage.setItem('pony.look', '{"size":"glove"}'), true)`))
	b.visit("/bikes/" + tag)
	b.pressIn("main", "Measure")
	b.read("12.06", "looks like inches")
	for _, width := range widths {
		b.resize(width, 800)
		assert.Empty(t, get(b, chromedp.Evaluate[string](tooWide)), "the bench at %d px, in gloves", width)
	}
}

// job takes a bike in, with everything about it long, and plans it where that is asked for; it returns the job's id.
func (c *client) job(tag string, planned bool) string {
	c.t.Helper()
	var job struct {
		ID      string
		Version int
	}
	c.do("POST", "/bikes/"+tag+"/jobs", map[string]any{"frame_grade": 4, "drivetrain_grade": 3, "heavy": true, "complaints": []string{"gritty", "skips", "brakes"},
		"reports": strings.Repeat("grinding", 20), "wants": strings.Repeat("soon", 30), "has_joining_link": true}, "", 201, &job)
	if planned {
		c.do("PUT", "/jobs/"+job.ID+"/plan", map[string]any{"version": job.Version, "route": "strip", "reason": strings.Repeat("because", 12)}, "", 200, &job)
		c.do("POST", "/jobs/"+job.ID+"/findings", map[string]any{"code": "other", "severity": "stop", "place": strings.Repeat("behind", 9), "note": strings.Repeat("longword", 9)}, "", 201, nil)
		c.do("POST", "/jobs/"+job.ID+"/notes", map[string]any{"text": strings.Repeat("longword", 30)}, "", 201, nil)
	}
	return job.ID
}

// A photo is taken, shown and taken away; a file that is no picture says so.
func TestPhotoOfABike(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	tag := s.client().addBike("Ottoline Brack", twelveSpeed)
	dir := t.TempDir()
	picture := image.NewRGBA(image.Rect(0, 0, 640, 400))
	for x := range 640 {
		picture.Set(x, x*400/640, color.RGBA{R: 0x8a, G: 0x45, B: 0x20, A: 0xff})
	}
	good, bad := filepath.Join(dir, "bike.png"), filepath.Join(dir, "list.png")
	f, err := os.Create(good)
	require.NoError(t, err)
	require.NoError(t, png.Encode(f, picture))
	require.NoError(t, f.Close())
	require.NoError(t, os.WriteFile(bad, []byte("not a picture"), 0o600))

	b := s.open(startBrowser(t), 768, 1024)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/bikes/" + tag)
	b.sees("aside", "Take a photo")
	input := chromedp.CSS("input[name=photo]")
	b.do(chromedp.SetUploadFiles(input, []string{bad}))
	b.sees("aside", "This file is not a picture")
	b.do(chromedp.SetUploadFiles(input, []string{good}))
	b.until("document.querySelector('aside img')?.naturalWidth === 640", "the photo to be shown")
	b.press("Take it away")
	b.until("!document.querySelector('aside img')", "the photo to go")
	b.sees("[data-kind=bike-changed]", "Facts changed: photo")
}
