package e2e

import (
	"fmt"
	"net/http"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

var caked = map[string]any{"kind": "cargo", "make": "Groynemark", "model": "Haul", "drivetrain_kind": "derailleur", "sprocket_count": 11, "motor": "mid", "brakes": "disc",
	"lubricant": "wet-oil", "chain_links": 118}

// tap acknowledges every caution of the step that is shown.
func (b *tab) tap() {
	b.t.Helper()
	b.until(`(() => {
		for (const seen of document.querySelectorAll('[data-testid=caution] button')) seen.click();
		return document.querySelectorAll('[data-testid=caution] button').length === 0;
	})()`, "the cautions to be tapped")
}

// tick taps a box or a choice by its label.
func (b *tab) tick(label string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`[...document.querySelectorAll('label')].some(l => l.innerText.includes(%q) && (l.click(), true))`, label), "a label %q", label)
}

// main presses the one big button of a step, which must then say what it is for.
func (b *tab) main(title string) {
	b.t.Helper()
	b.sees("[data-testid=step-title]", title)
	b.tap()
	b.until(`(() => {
		const action = document.querySelector('[data-testid=main-action]');
		if (!action || action.disabled) return false;
		action.click();
		return true;
	})()`, "the main action of %q", title)
}

// work does steps as they come, ending what is waited for with a reason where nothing else can be done,
// until the page shows a step of that title.
func (b *tab) work(until string) {
	b.t.Helper()
	for {
		b.until(fmt.Sprintf(`(() => {
			const title = document.querySelector('[aria-label="Current step"] h1')?.innerText ?? '';
			if (title === %q || title.startsWith('Nothing to do')) return true;
			for (const seen of document.querySelectorAll('[data-testid=caution] button')) seen.click();
			const action = document.querySelector('[data-testid=main-action]');
			if (action && !action.disabled && action.dataset.pressed !== title + action.innerText) {
				action.dataset.pressed = title + action.innerText;
				action.click();
			}
			return false;
		})()`, until), "the step %q", until)
		if b.text(`[aria-label="Current step"] h1`) == until {
			return
		}
		b.endWait("")
	}
}

// endWait ends a wait of the strip early, with the reason; the next to end where none is named.
func (b *tab) endWait(what string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(() => {
		const wait = [...document.querySelectorAll('[data-testid=wait]')].find(w => w.innerText.includes(%q));
		wait?.click();
		return wait !== undefined;
	})()`, what), "a wait %q", what)
	b.fill("reason", "looked at, it is done")
	b.press("End it now")
	b.until("document.querySelector('dialog[open]') === null", "the dialog to close")
	b.until("!document.querySelector('[aria-label=\"Current step\"] h1')?.innerText.startsWith('Nothing to do')", "something to do")
}

// A caked mid-motor bike from looking at it to handing it back: a soak that runs on while the server is
// down, a second screen that follows it, a rag that comes out black, and a hand-back that is refused.
func TestJobFromIntakeToHandBack(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	c.oneByOne()
	tag := c.addBike("Ottoline Brack, shellfish courier", caked)
	c.do("POST", "/stock", map[string]any{"kind": "joining-link", "facts": map[string]any{"name": "Eleven-speed links", "sprockets": 11, "quantity": 3, "low_mark": 1}}, "", http.StatusCreated, nil)
	c.do("POST", "/bikes/"+tag+"/chain", map[string]any{"odometer_km": 1000}, "", http.StatusCreated, nil)
	browser := startBrowser(t)
	mira := s.open(browser, 1280, 800)
	mira.signIn("Mira Oxenholt", "2718")
	tobiah := s.open(browser, 768, 1024)
	tobiah.signIn("Tobiah Marsh", "3141")

	mira.visit("/bikes/" + tag)
	mira.press("Book in")
	mira.press("Gritty, grinding")
	mira.press("Black finger")
	mira.press("Mud dried on")
	mira.tick("Heavier than 20 kg")
	mira.fill("wants", "Back by four")
	mira.sees("[data-testid=route]", "Quick")
	mira.press("Book the bike in")
	mira.sees("[data-testid=way-soak]", "Recommended")
	mira.sees("main", "is deeper than the grade")
	mira.press("Plan soak")
	mira.press("Plan it")

	// The motor is off before the bike is lifted, and the cautions come first.
	mira.main("Protect the floor") // begun
	mira.sees("[data-testid=main-action]", "Floor is ready")
	mira.main("Protect the floor")
	mira.sees("[data-testid=step-title]", "Motor off")
	mira.sees("[data-testid=main-action]", "Read the warnings first")
	mira.work("Measure chain wear")
	mira.main("Measure chain wear")
	mira.sees("main", "No reading of this visit is on record")
	c.do("POST", "/bikes/"+tag+"/measurements", map[string]any{"instrument_id": instrument(c, "gauge-percent"), "entries": []map[string]any{{"place": 1, "text": "0.18"}}}, "", http.StatusCreated, nil)
	mira.main("Measure chain wear")
	mira.work("Gritty, grinding")
	mira.press("Dirt inside the rollers")
	mira.main("Gritty, grinding")

	// The soak starts by itself, on every screen; the rest goes on meanwhile.
	mira.work("Rear wheel out")
	mira.sees("[data-testid=wait]", "jar soak")
	tobiah.sees("[data-testid=wait]", "jar soak")
	tobiah.press("Today")
	tobiah.sees("[data-testid=job]", "Mira O. at “Rear wheel out”")

	// The server goes away and comes back; the soak ran on, and nothing is lost by a reload.
	mira.sees("header", "All saved")
	s.kill()
	mira.sees("header", "No server")
	mira.sees("[data-testid=wait]", "jar soak")
	s.start()
	mira.do(chromedp.Reload())
	mira.sees("[data-testid=step-title]", "Rear wheel out")
	mira.sees("[data-testid=wait]", "jar soak")
	mira.press("Hand back")
	mira.sees("[data-testid=holds]", "Test both brakes")
	mira.choose("second", tobiahID(c))
	mira.fill("second_pin", "3141")
	mira.press("Hand back")
	mira.sees("dialog [role=alert]", "Not yet")
	mira.press("Not yet")

	// Nobody waits half an hour here. The rag comes out black once, and sends the chain back to its jar.
	mira.work("White rag test")
	mira.tap()
	mira.press("Still black")
	mira.sees("[data-testid=step-title]", "Change the fluid, shake again")
	mira.sees("[data-testid=step-jar-refresh]", "×2")
	mira.work("Chain on, joining link seated")
	mira.sees("[data-testid=wait]", "bare: lubricate")
	mira.tick("Eleven-speed links")
	mira.work("All steps are done")

	// A second person signs: it carries cargo.
	mira.choose("second", tobiahID(c))
	mira.fill("second_pin", "3142")
	mira.press("Hand back")
	mira.sees("main", "That PIN is not right")
	mira.fill("second_pin", "3141")
	mira.press("Hand back")
	mira.sees("main", "signed second by Tobiah Marsh")
	mira.sees("main", "soaked and shaken until no more dirt came out")
	mira.sees("main", "Motor tried after its contacts were dry")
	tobiah.sees("main", "No bike is in the workshop")

	mira.visit("/bikes/" + tag)
	mira.sees("[data-testid=entry]", "Handed back after soak")
	mira.sees("[data-testid=entry]", "Chain opened (cleaning)")
}

func tobiahID(c *client) string {
	c.t.Helper()
	var people []struct{ ID, Name string }
	c.do("GET", "/people", nil, "", http.StatusOK, &people)
	for _, p := range people {
		if p.Name == "Tobiah Marsh" {
			return p.ID
		}
	}
	require.Fail(c.t, "nobody of that name")
	return ""
}
