package e2e

import (
	"net/http"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// An apprentice reads a chain as worn and hands a bike back: both wait for a mechanic, whose frame says how many, and who signs
// from one list. What the bike came to stands at the hand-back beside what was agreed, and waits until it is paid. Then two
// entries of the customer become one, with the jobs of both.
func TestTheCircleIsClosed(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	s.pony("8426\n", "person", "--role", "apprentice", "Posy Peake")
	c := s.client()
	c.rules(func(r map[string]any) {
		r["work"].(map[string]any)["labour_hour"] = 4800
		r["work"].(map[string]any)["blower"] = true
	})
	worn := c.addBike("Ottoline Brack", eleven)
	tag, job := bikeIn(c, "O. Brack", "quick", nil)
	browser := startBrowser(t)
	mira, posy := s.open(browser, 1280, 800), s.open(browser, 768, 1024)
	mira.signIn("Mira Oxenholt", "2718")
	posy.signIn("Posy Peake", "8426")

	posy.visit("/bikes/" + worn)
	posy.pressIn("main", "Measure")
	for _, next := range []string{"Place 2 of 3", "Place 3 of 3", "Replace"} {
		posy.read("308.4", "past new")
		posy.enter()
		posy.sees("main", next)
	}
	posy.sees("[data-testid=unsigned]", "Waits for a mechanic's signature")
	assert.False(t, get(posy, chromedp.Evaluate[bool](`[...document.querySelectorAll('[data-testid=unsigned] button')].length > 0`)), "she signs not for herself")
	mira.until(`document.querySelector('header a[href="/waiting"] .badge')?.textContent === '1'`, "the number on the frame")
	mira.press("Waiting")
	mira.sees("[data-testid=waiting-verdict]", "Posy Peake: “Replace")
	mira.pressIn("[data-testid=waiting-verdict]", "Sign")
	mira.sees("main", "Nothing waits.")
	posy.until(`document.querySelector('[data-testid=unsigned]') === null`, "the signature to be heard of")
	posy.sees("[data-kind=countersigned]", "Signed")

	// The work is done; what it comes to stands beside what was agreed, and Posy asks for a signature.
	a := &atStand{tab: mira, c: c, job: job}
	mira.visit("/jobs/" + job)
	mira.sees("[data-testid=block-title]", "Look and set up")
	for a.next() {
	}
	posy.visit("/jobs/" + job)
	posy.sees("[data-testid=money]", "€45.00 was agreed")
	posy.press("Ask a mechanic to sign")
	posy.sees("[data-testid=signature-asked]", "Posy Peake asked for a signature")
	mira.press("Waiting")
	mira.sees("[data-testid=waiting-release]", tag)
	mira.pressIn("[data-testid=waiting-release]", "Open the job")
	mira.sees("[data-testid=signature-asked]", "handing it back signs for it")
	mira.press("Hand back")
	mira.sees("main", "Checked and handed back by Posy Peake, signed second by Mira Oxenholt")
	mira.sees("[data-testid=payment]", "Not paid yet.")
	mira.press("Waiting")
	mira.sees("[data-testid=waiting-unpaid]", tag)
	mira.pressIn("[data-testid=waiting-unpaid]", "Paid")
	mira.sees("main", "Nothing waits.")

	// Two entries of one customer become one.
	var found struct{ Customers []struct{ ID string } }
	c.do("GET", "/customers?q=Ottoline", nil, "", http.StatusOK, &found)
	require.Len(t, found.Customers, 1)
	mira.visit("/customers/" + found.Customers[0].ID)
	mira.sees("main", "None yet. Every visit of their bikes will stand here.")
	mira.press("Merge with another entry")
	mira.pressIn("dialog form", "Make them one")
	mira.sees("dialog", "Choose the other entry")
	mira.fill("owner", "O. Brack")
	mira.pressIn("dialog [aria-label='Customers found']", "O. Brack")
	mira.sees("[data-testid=both]", "O. Brack, 1 bike")
	mira.pressIn("dialog form", "Make them one")
	mira.sees("[data-testid=customer-job]", tag)
	mira.sees("main", worn)
}

// Two owners change the same setting and the same row of the table at once: whoever is second sees both versions and keeps one.
func TestTwoOwnersSetTheSame(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	s.pony("sluice gate at half tide\n", "person", "--role", "owner", "Wenna Sallow")
	s.pony("mud flats at dawn\n", "person", "--role", "owner", "Odalys Finch")
	browser := startBrowser(t)
	first, second := s.open(browser, 1280, 800), s.open(browser, 1280, 800)
	first.signIn("Wenna Sallow", "sluice gate at half tide")
	second.signIn("Odalys Finch", "mud flats at dawn")
	for _, b := range []*tab{first, second} {
		b.visit("/settings/wear")
		b.sees("main", "Save the settings")
	}
	first.press("Three-quarter")
	second.press("Change at half")
	first.press("Save the settings")
	first.sees("main", "Last changed")
	second.press("Save the settings")
	second.sees("[aria-label='Two versions']", "three-quarter")
	second.press("Keep mine")
	second.sees("main", "by Odalys Finch")
	second.visit("/settings/history")
	second.sees("[data-testid=change]", "Three-quarter → Change at half")

	for role, b := range map[string]*tab{"counter": first, "apprentice": second} {
		box := chromedp.CSS(`[aria-label="Stock counts: ` + role + `"]`)
		b.visit("/settings/permissions")
		b.do(chromedp.WaitVisible(box), chromedp.Click(box))
	}
	first.press("Save the change")
	first.until(`!document.querySelector('main').innerText.includes('Save the change')`, "the first to be saved")
	second.press("Save the change")
	second.sees("[aria-label='Two versions']", "Stock counts")
	second.press("Take what is there now")
	second.until(`document.querySelector("[aria-label='Two versions']") === null`, "one version")
}

// A bottle holds less than a job still takes: its block says so before somebody stands there, and whoever finds one empty says so
// at the stand.
func TestABottleRunsOutAtTheStand(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	for kind, quantity := range map[string]float64{"degreaser": 5, "shampoo": 900} {
		c.do("POST", "/materials", map[string]any{"kind": kind, "facts": map[string]any{"name": "Our " + kind, "quantity": quantity, "low_mark": 1, "card": map[string]any{}}}, "", http.StatusCreated, nil)
	}
	_, job := bikeIn(c, "Ottoline Brack", "quick", map[string]any{"drivetrain_only": false, "frame_grade": 2})
	a := &atStand{tab: s.open(startBrowser(t), 390, 844), c: c, job: job}
	a.signIn("Mira Oxenholt", "2718")
	a.visit("/jobs/" + job)
	a.sees("[data-testid=block-title]", "Look and set up")
	for !get(a.tab, chromedp.Evaluate[bool](`document.querySelector('[data-testid=on-shelf]')?.innerText.includes('degreaser, 5 mL of') ?? false`)) {
		require.True(t, a.next(), "no block says that the shelf falls short")
	}
	a.press("Something ran out")
	a.sees("[data-testid=bottle]", "Our degreaser")
	a.pressIn("[data-testid=bottle]", "It is empty")
	a.until(`[...document.querySelectorAll('[data-testid=bottle]')].some(e => e.innerText.includes('Our degreaser') && e.innerText.includes('empty') && !e.querySelector('button'))`, "it to be empty")
	a.press("Close")
	a.sees("[data-testid=on-shelf]", "degreaser, 0 mL of")
}
