package e2e

import (
	"net/http"
	"testing"
	"time"

	"github.com/chromedp/cdproto/target"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// setPrices gives every class of drivetrain prices.
func setPrices(c *client) {
	c.t.Helper()
	c.rules(func(rules map[string]any) {
		for _, class := range rules["classes"].([]any) {
			for name, minor := range map[string]int{"chain": 3500, "sprockets": 9000, "rings": 6000, "labour_chain": 1500, "labour_sprockets": 1200, "labour_rings": 1800} {
				class.(map[string]any)[name] = minor
			}
		}
	})
}

// A mechanic looks at what another school would change, chooses it, and every screen judges by it at
// once; then the shop tells distances in miles.
func TestHouseRules(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	tag := c.addBike("Aldous Fenwick-Reyes", twelveSpeed)
	c.do("POST", "/bikes/"+tag+"/measurements", map[string]any{"instrument_id": instrument(c, "gauge-percent"), "entries": []map[string]any{{"place": 1, "text": "0.62"}}}, "", http.StatusCreated, nil)
	browser := startBrowser(t)
	mira, tobiah := s.open(browser, 1280, 800), s.open(browser, 390, 844)
	mira.signIn("Mira Oxenholt", "2718")
	tobiah.signIn("Tobiah Marsh", "3141")
	tobiah.visit("/bikes/" + tag)
	tobiah.sees("[data-testid=last-verdict]", "Replace the chain")

	// A setting is found by what stands beside it.
	mira.visit("/settings")
	mira.do(chromedp.SendKeys(chromedp.CSS("[type=search]"), "three-qua"))
	mira.pressIn("main", "Three-quarter")
	mira.until(`location.pathname === '/settings/wear' && document.activeElement?.innerText.includes('Three-quarter')`, "what was looked for")
	mira.press("Three-quarter")
	mira.sees("[data-testid=changes]", "One verdict would change of 1 when this is saved")
	mira.sees("[data-testid=changes]", "Replace the chain → Near the limit at 0.75 %")
	tobiah.sees("[data-testid=last-verdict]", "Replace the chain")
	mira.press("Save the settings")
	mira.sees("main", "by Mira Oxenholt")
	tobiah.sees("[data-testid=last-verdict]", "Near the limit")
	tobiah.sees("main", "Recorded as “Replace the chain”")
	tobiah.sees("[data-kind=measurement]", "Replace the chain")

	// A slip in the rules is named at its field, and the rest stays as typed.
	mira.pressIn("[aria-label=Settings]", "Place, time and units")
	mira.press("Miles")
	mira.pressIn("[aria-label=Settings]", "Chain wear")
	mira.sees("main", "Also changed and saved with it: Place, time and units")
	mira.press("Own wear limits")
	get(mira, chromedp.Evaluate[bool](`(document.querySelector('details input').focus(), true)`))
	mira.do(chromedp.SendKeys(chromedp.CSS("details input"), "0.6"))
	mira.press("Save the settings")
	mira.sees("main", "Own wear limits need both")
	mira.do(chromedp.SendKeys(chromedp.CSS("details input"), "\b\b\b"))
	mira.press("Save the settings")
	mira.press("Bikes")
	tobiah.press("Note the odometer")
	tobiah.until(`document.querySelector('[name=odometer]').closest('label, fieldset, div').innerText.includes('mi')`, "the other device to hear of the miles")
	tobiah.fill("odometer", "100")
	tobiah.press("Note it")
	tobiah.sees("[data-kind=odometer]", "100 mi")
	var w struct {
		KM float64 `json:"odometer_km"`
	}
	c.do("GET", "/bikes/"+tag+"/wear-track", nil, "", http.StatusOK, &w)
	assert.InDelta(t, 160.9344, w.KM, 1e-9)
}

// A tool is added and its zero checked; the simulated tool, in a window of its own, types into the bench
// what it reads, and from the bench it is recorded like any other reading.
func TestToolsAndTheSimulatedOne(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	tag := c.addBike("Aldous Fenwick-Reyes", twelveSpeed)
	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/settings/tools")
	b.sees("main", "Zero never checked")
	b.press("Add a tool")
	b.choose("kind", "gauge-percent")
	b.press("Add the tool")
	b.sees("form", "The tool needs a name")
	b.fill("name", "Blue gauge")
	b.press("Yes, it reads high")
	b.press("Add the tool")
	b.sees("main", "First used")
	b.fill("zero", "a little")
	b.sees("form", "is not a reading")
	b.fill("zero", "0,04")
	b.sees("form", "0.04 % is taken off what it reads")
	b.press("Note the zero check")
	b.sees("[data-kind=zero-checked]", "Zero checked: 0.04 %")

	b.visit("/bikes/" + tag)
	b.pressIn("main", "Measure")
	b.press("Blue gauge")
	b.sees("main", "Place 1 of 3")
	tool := b.opens(chromedp.Click(chromedp.CSS("button[data-testid=plug-in]")))
	tool.sees("main", "Simulated measuring tool")
	tool.press("Data gauge")
	for _, place := range []string{"Place 1 of 3", "Place 2 of 3", "Place 3 of 3"} {
		b.sees("main", place)
		tool.press("Read and type")
	}
	// The third Enter records, as it does from a keyboard.
	b.sees("[data-kind=measurement]", "Blue gauge, three places")
	var page struct {
		Last struct {
			Readings []struct{ Text string }
		}
	}
	c.do("GET", "/bikes/"+tag, nil, "", http.StatusOK, &page)
	typed := tool.text("ol")
	for _, r := range page.Last.Readings {
		assert.Contains(t, typed, r.Text, "what it typed is what was recorded")
	}
	require.Len(t, page.Last.Readings, 3)

	// Retired, it leaves the bench and stays on record.
	b.visit("/settings/tools")
	b.press("Blue gauge")
	b.press("Retire")
	b.press("Retire it")
	b.sees("main", "Retired. What it read stays on record")
	b.visit("/measure")
	b.sees("main", "Measured with")
	assert.NotContains(t, b.text("main"), "Blue gauge")
}

// What early and late cost is told from the bike's own readings and the shop's prices.
func TestWhatAChainCosts(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	facts := map[string]any{"drivetrain_kind": "derailleur", "sprocket_count": 10, "motor": "mid", "weekly_km": 100, "kind": "cargo"}
	tag := c.addBike("Ottoline Brack", facts)
	c.do("POST", "/bikes/"+tag+"/chain", map[string]any{"odometer_km": 500}, "", http.StatusCreated, nil)
	b := s.open(startBrowser(t), 768, 1024)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/bikes/" + tag)
	b.press("What it costs")
	b.sees("main", "prices for this kind of drivetrain are not entered yet")
	b.press("Enter prices")
	b.sees("main", "Prices")
	setPrices(c)
	b.visit("/bikes/" + tag + "/cost")
	b.sees("main", "Nothing was measured on this chain yet: these are guesses")
	b.sees("main", "Change at 0.75 %")
	b.sees("main", "a chain that breaks under cargo, children or a mid motor throws the rider")
	assert.NotContains(t, b.text("main"), "Run it to its end")
}

// opens does a step that opens another window, and returns that.
func (b *tab) opens(step chromedp.Action[chromedp.Void]) *tab {
	b.t.Helper()
	found := chromedp.WaitNewTarget(b.ctx, func(*target.Info) bool { return true })
	b.do(step)
	select {
	case id := <-found:
		ctx, cancel := chromedp.NewContext(b.ctx, chromedp.WithTargetID(id))
		b.t.Cleanup(cancel)
		require.NoError(b.t, chromedp.Do(ctx)) // a time limit here would end the window later
		return &tab{t: b.t, ctx: ctx, s: b.s}
	case <-time.After(patience):
		require.Fail(b.t, "no window was opened")
		return nil
	}
}
