package e2e

import (
	"net/http"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// A worn chain is replaced, from the verdict to the bike that leaves the stand: sized from what is on
// record, taken from the shelf, joined, checked and ride-tested; every part and count is in the record, and
// the shelf on another screen has less.
func TestReplaceAWornChain(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	facts := map[string]any{"make": "Wharfinger", "model": "Loper", "drivetrain_kind": "derailleur", "sprocket_count": 10, "motor": "none", "weekly_km": 90,
		"ring_teeth": []int{34, 50}, "sprocket_teeth": []int{11, 34}, "chainstay_mm": 410, "cage_mm": 75, "lubricant": "wet-oil", "chain_links": 108}
	tag := c.addBike("Bryony Tallisker", facts)
	c.do("POST", "/bikes/"+tag+"/chain", map[string]any{"odometer_km": 1000}, "", http.StatusCreated, nil)
	c.do("POST", "/bikes/"+tag+"/measurements", map[string]any{"instrument_id": instrument(c, "gauge-percent"), "odometer_km": 3000, "entries": []map[string]any{{"place": 1, "text": "0.85"}}}, "", http.StatusCreated, nil)
	for _, item := range []map[string]any{
		{"kind": "chain", "facts": map[string]any{"name": "Ten-speed box", "sprockets": 10, "quantity": 2, "low_mark": 1, "box_links": 116}},
		{"kind": "joining-link", "facts": map[string]any{"name": "Ten-speed links", "sprockets": 10, "quantity": 3, "low_mark": 1}},
	} {
		c.do("POST", "/stock", item, "", http.StatusCreated, nil)
	}
	browser := startBrowser(t)
	mira, odalys := s.open(browser, 768, 1024), s.open(browser, 1280, 800)
	mira.signIn("Mira Oxenholt", "2718")
	odalys.signIn("Tobiah Marsh", "3141")
	odalys.visit("/stock")
	odalys.sees("[data-testid=need]", "1 10-speed chain")

	mira.visit("/bikes/" + tag)
	mira.sees("[data-testid=last-verdict]", "Replace the chain")
	mira.press("Replace the chain")
	mira.sees("[data-testid=advice]", "ride-test the old cassette with the new one")
	mira.sees("main", "keep 110, take off 6")
	mira.sees("main", "count 109 and press out the pin after them")
	mira.press("Take 110")
	mira.press("Note the replacement")
	mira.sees("main", "Not every check is made yet")
	mira.sees("main", "Ride-test the old cassette under load")

	// A twelve-speed joining link on a ten-speed chain gets its own message, at its own field.
	choose(mira, "Closed with", "Another, not from the shelf")
	mira.fill("link_what", "found in a drawer")
	mira.fill("link_sprockets", "12")
	mira.press("Note the replacement")
	mira.sees("main", "A 12-speed joining link does not hold a 10-speed chain")
	choose(mira, "Closed with", "Ten-speed links")
	choose(mira, "Which chain", "Ten-speed box")

	for _, check := range []string{"joint-seated", "joint-loaded", "no-stiff-link", "routing", "runs-free", "gears-indexed"} {
		mira.do(chromedp.Click(chromedp.CSS(`input[name="` + check + `"]`)))
	}
	mira.do(chromedp.Reload()) // what was done is not lost
	mira.sees("main", "After joining")
	mira.do(chromedp.Click(chromedp.CSS(`input[name="brakes-tested"]`)))
	mira.press("It skips")
	mira.sees("main", "Then the cassette goes too")
	mira.fill("what_sprockets", "11–34, new")
	mira.fill("odometer", "3005")
	mira.fill("note", "Rider warned.")
	mira.press("Note the replacement")

	mira.sees("[data-kind=replacement]", "Chain replaced, with cassette; 7 checks made, ride-tested: it skipped, so cassette too")
	mira.sees("[data-kind=chain-fitted]", "Chain fitted: Ten-speed box, 110 links, closed with Ten-speed links")
	mira.sees("[data-kind=part-fitted]", "Cassette fitted: 11–34, new")
	parts := "[aria-label='Parts']"
	mira.sees(parts, "Chain now on, Ten-speed box, 110 links")
	mira.sees(parts, "Joining link, Ten-speed links")
	mira.sees(parts, "one chain so far")
	mira.sees("[data-testid=track-says]", "A guess from how the bike is kept")
	mira.sees("main", "This chain was not measured yet.") // what was read was the old one's
	odalys.until(`!document.querySelector('[data-testid=need]')`, "nothing to be needed")
	counts := odalys.text("section[aria-label='On the shelf']")
	assert.Contains(t, counts, "box of 116\n1\norder: low at 1")
	assert.Contains(t, counts, "10-speed joining link\n2\nlow at 1")

	// The chain is opened for a soak: by the house rule the link is spent, and a new one closes it.
	mira.press("Chain was opened")
	mira.fill("why", "soak")
	choose(mira, "Closed with", "The one it had")
	mira.press("Note it")
	mira.sees("dialog", "This shop fits a new joining link each time")
	choose(mira, "Closed with", "Ten-speed links")
	mira.press("Note it")
	mira.sees("[data-kind=chain-opened]", "Chain opened (soak), closed with Ten-speed links")
}

// choose picks one of several, within the fieldset of that legend, by its words.
func choose(b *tab, legend, words string) {
	b.t.Helper()
	b.until(`(() => {
		const set = [...document.querySelectorAll('dialog[open] fieldset, fieldset')].find(f => f.querySelector('legend')?.textContent === '`+legend+`');
		const label = [...(set?.querySelectorAll('label') ?? [])].find(l => l.innerText.includes('`+words+`'));
		if (!label) return false;
		label.click();
		return label.querySelector('input').checked;
	})()`, "%q under %q", words, legend)
}

// The sizer: every slip at its own field, the cage that swings with the gear and the count, and what was
// typed saved back to the bike.
func TestSizer(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	tag := c.addBike("Gannet Stack", map[string]any{"drivetrain_kind": "derailleur", "sprocket_count": 12, "ring_teeth": []int{32}, "sprocket_teeth": []int{10, 52}, "motor": "none"})
	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/chain-length")
	b.sees("main", "Say what gears it has")
	b.choose("kind", "derailleur")
	for field, slip := range map[string][2]string{
		"rings": {"3", "A ring of 3 teeth"}, "sprockets": {"many", "is not a list of teeth"}, "chainstay_mm": {"4", "A chainstay is 200 to 1500 mm"},
		"old_links": {"111", "a derailleur chain has an even number"}, "maker_links": {"1160", "A chain has 30 to 300 links"}, "cage_mm": {"9", "A cage is 30 to 150 mm"},
	} {
		b.fill(field, slip[0])
		b.sees("[name="+field+"] ~ *, [aria-label='This drivetrain']", slip[1])
	}
	b.visit("/chain-length?tag=" + tag)
	b.sees("main", "the length of the chainstay")
	b.fill("chainstay_mm", "440")
	b.press("long 93")
	b.fill("box_links", "118")
	b.sees("[data-testid=keep]", "Keep 116")
	b.sees("main", "Take off 2 of 118")
	b.sees("main", "At 114 the largest pair is 1.1 mm short with the cage fully pulled")
	b.sees("main", "32 × 52 · cage 71°")
	b.press("10")
	b.sees("main", "32 × 10 · cage −63°")
	// Two links fewer, and largest to largest is tight.
	b.press("52")
	b.until(`(() => {
		const bar = document.querySelector('input[type=range]');
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(bar, 114);
		return bar.dispatchEvent(new Event('input', { bubbles: true }));
	})()`, "the bar")
	b.sees("main", "1.1 mm too short: do not shift into it")
	b.press("Back to 116")
	b.sees("main", "32 × 52 · cage 71°")
	b.press("Save back to the bike")
	b.until(`![...document.querySelectorAll('button')].some(x => x.innerText.includes('Save back'))`, "it to be saved")
	var bike struct {
		Facts struct {
			Chainstay float64 `json:"chainstay_mm"`
			Cage      float64 `json:"cage_mm"`
		}
	}
	c.do("GET", "/bikes/"+tag, nil, "", http.StatusOK, &bike)
	assert.InDelta(t, 440, bike.Facts.Chainstay, 0)
	assert.InDelta(t, 93, bike.Facts.Cage, 0)
}
