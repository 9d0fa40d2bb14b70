package e2e

import (
	"encoding/json"
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// in has a browser's device be set to a time zone.
func (b *tab) in(zone string) *tab {
	b.t.Helper()
	_, err := chromedp.Call(b.ctx, emulation.SetTimezoneOverride, emulation.SetTimezoneOverrideParams{TimezoneID: zone})
	require.NoError(b.t, err)
	return b
}

// A shop in Berlin, its server's machine in Tokyo, another server in St. John's, devices set to Los Angeles, Riyadh and
// Berlin: a time that is promised on one is the same words on all, and a file is read alike by both servers.
func TestOneTimeEverywhere(t *testing.T) {
	t.Parallel()
	s := startServer(t, "TZ=Asia/Tokyo", "--time-zone", "Europe/Berlin")
	other := s.beside("TZ=America/St_Johns")
	c := s.client()
	c.rules(func(r map[string]any) { r["locale"] = "de-DE" })
	tag := c.addBike("Sunniva Dunnage", twelveSpeed)

	far := s.open(startBrowser(t), 1280, 800).in("America/Los_Angeles")
	far.signIn("Mira Oxenholt", "2718")
	far.visit("/bikes/" + tag + "/clean")
	far.sees("main", "First, look.")
	berlin, err := time.LoadLocation("Europe/Berlin")
	require.NoError(t, err)
	day := time.Now().In(berlin).AddDate(0, 0, 10)
	far.press("A finger on the chain comes off clean")
	far.press("Clean")
	far.do(chromedp.SendKeys(chromedp.CSS("input[name=promised]"), "some day"))
	far.press("Book the bike in")
	far.sees("main", "This is no time") // and nothing is taken in without what was typed
	far.fill("promised", day.Format("2.1.")+" 16:45")
	far.sees("[data-testid=in-full]", day.Format("Monday, 2 January 2006, ")+"16:45")
	far.press("Book the bike in")
	far.sees("main", day.Format("02 Jan 2006, ")+"16:45")

	near := s.open(startBrowser(t), 1280, 800).in("Asia/Riyadh")
	home := other.open(startBrowser(t), 1280, 800).in("Europe/Berlin")
	var words []string
	for _, b := range []*tab{far, near, home} {
		if b != far {
			b.signIn("Mira Oxenholt", "2718")
		}
		b.visit("/today")
		b.sees("main", day.Format("Mon ")+"16:45")
		said := []string{b.text("main [data-testid=job]")}
		b.visit("/bikes/" + tag)
		b.sees("main", "In the workshop since")
		b.until(`!document.querySelector('main').innerText.includes('Fetching')`, "all of the bike")
		said = append(said, b.text("main"))
		words = append(words, strings.Join(said, "\n"))
	}
	assert.Equal(t, words[0], words[1])
	assert.Equal(t, words[0], words[2])

	// The same file at both servers, by local times that their machines would each read another way.
	rides := "started_at,distance_km,duration_min\n2026-06-01 08:00,20,60\n2026-06-02 23:30,10,40\n"
	read := func(at *server, owner string) (starts []string) {
		tag := c.addBike(owner, twelveSpeed)
		signed := at.client()
		answer, err := signed.http.Post(at.url("/api/v1/bikes/"+tag+"/rides?name=rides.csv"), "application/octet-stream", strings.NewReader(rides))
		require.NoError(t, err)
		defer func() { _ = answer.Body.Close() }()
		var file struct {
			Kept []struct {
				StartedAt time.Time `json:"started_at"`
			}
		}
		require.NoError(t, json.NewDecoder(answer.Body).Decode(&file))
		for _, r := range file.Kept {
			starts = append(starts, r.StartedAt.UTC().Format(time.RFC3339))
		}
		return starts
	}
	first := read(s, "Ewart Pimblett")
	assert.Equal(t, []string{"2026-06-01T06:00:00Z", "2026-06-02T21:30:00Z"}, first)
	assert.Equal(t, first, read(other, "Hesper Vanstone"))
}

// A hex key is named by its size, which is metric everywhere.
var (
	metric = regexp.MustCompile(`(?i)\d\s?(mm|km|°C|mL)\b|\bmillimet`)
	hexKey = regexp.MustCompile(`(?i)hex (?:[\d ,]|and)+mm`)
)

// A shop in inches, miles, °F, ounces and dollars does a whole job and sizes a chain without a millimetre on its screens.
func TestAShopInInches(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	c.oneByOne()
	c.rules(func(r map[string]any) {
		r["length_unit"], r["distance_unit"], r["temperature_unit"], r["volume_unit"], r["mass_unit"] = "in", "mi", "f", "fl-oz", "oz"
		r["locale"], r["currency"] = "en-US", "USD"
	})
	facts := map[string]any{"drivetrain_kind": "derailleur", "sprocket_count": 12, "motor": "none", "chain_links": 114, "lubricant": "immersion-wax",
		"sprocket_teeth": []int{10, 52}, "ring_teeth": []int{32}, "cage_mm": 93}
	tag := c.addBike("Sunniva Dunnage", facts)

	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	seen := func(css, what string) {
		t.Helper()
		if found := metric.FindString(hexKey.ReplaceAllString(b.text(css), "")); found != "" {
			t.Errorf("%q stands on %s", found, what)
		}
	}
	b.visit("/bikes/" + tag + "/edit")
	b.fill("chainstay_mm", "17 1/8")
	b.press("Save changes")
	b.sees("main", "17 1/8 in")
	seen("main", "the bike's page")
	var bike struct {
		Facts struct {
			Chainstay float64 `json:"chainstay_mm"`
		}
	}
	c.do("GET", "/bikes/"+tag, nil, "", http.StatusOK, &bike)
	assert.InDelta(t, 434.975, bike.Facts.Chainstay, 1e-9)

	b.visit("/chain-length?tag=" + tag)
	b.sees("main", "links")
	seen("main", "the sizer")
	b.fill("chainstay_mm", "4")
	b.sees("main", "A chainstay is")
	seen("main", "the sizer, refusing a chainstay")

	b.visit("/measure")
	b.scan(tag)
	c.do("POST", "/bikes/"+tag+"/measurements", map[string]any{"instrument_id": instrument(c, "ruler"), "links": 24,
		"entries": []map[string]any{{"place": 1, "text": "12.03"}, {"place": 2, "text": "12 1/32"}, {"place": 3, "text": "12.04"}}}, "", http.StatusCreated, nil)
	b.visit("/bikes/" + tag)
	b.sees("main", "12.0")
	seen("main", "the bike's page with a reading")

	for _, p := range []string{"/today", "/due", "/stock/fluids", "/stock/baths", "/stock/waste", "/settings/wear", "/settings/intervals", "/settings/cleaning", "/bikes/" + tag + "/clean", "/bikes/" + tag + "/cost", "/bikes/" + tag + "/replace"} {
		b.visit(p)
		b.until(`(document.querySelector('main')?.innerText ?? '').length > 40`, "%s", p)
		seen("main", p)
	}

	for _, order := range []map[string]any{{"route": "bare", "reason": "all of it"}, {"route": "strip", "reason": "all of it"}} {
		id := c.takeIn(c.addBike("Hesper Vanstone", facts), map[string]any{"frame_grade": 3, "drivetrain_grade": 3, "rust": "tarnished", "has_joining_link": true}, order)
		b.visit("/jobs/" + id + "/ticket")
		b.until(`document.querySelectorAll('main li').length > 20`, "the ticket")
		seen("main", "the ticket")
	}

	id := c.takeIn(tag, map[string]any{"frame_grade": 1, "drivetrain_grade": 1}, nil)
	b.visit("/jobs/" + id)
	b.sees("main", "Step 1 of")
	get(b, chromedp.Evaluate[bool](`(() => {
		window.found = new Set();
		const metric = /\d\s?(mm|km|°C|mL)\b|\bmillimet/i;
		setInterval(() => {
			const text = document.querySelector('main').innerText.replace(/hex (?:[\d ,]|and)+mm/gi, '').match(metric);
			if (text) window.found.add(text[0]);
			if (document.querySelector('dialog[open]')) return;
			for (const seen of document.querySelectorAll('[aria-label^="Got it: "]')) seen.click();
			const main = document.querySelector('[data-testid=main-action]');
			if (main && !main.disabled) main.click();
		}, 100);
		return true;
	})()`))
	for began := time.Now(); !get(b, chromedp.Evaluate[bool](`document.querySelector('main').innerText.includes('All steps are done')`)); {
		var running struct{ Waits []struct{ ID string } }
		c.do("GET", "/waits", nil, "", http.StatusOK, &running)
		for _, w := range running.Waits {
			c.do("POST", "/waits/"+w.ID, map[string]any{"action": "end", "reason": "it is dry"}, "", http.StatusOK, nil)
		}
		require.Less(t, time.Since(began), 2*time.Minute, "it does not get on: %s", b.text("main"))
	}
	assert.Empty(t, get(b, chromedp.Evaluate[[]string](`[...window.found]`)), "on the stand, all through the job")
}
