package e2e

import (
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/pgtest"
	"earnestpony/internal/shop/rules"
)

// startEmpty serves a database in which there is nothing yet.
func startEmpty(t *testing.T) *server {
	t.Helper()
	s := &server{t: t, addr: "127.0.0.1:0", dsn: pgtest.New(t)}
	s.start()
	t.Cleanup(s.kill)
	return s
}

// foundShop sets a shop up in the page with the code that was printed, as far as its owner being signed in.
func (s *server) foundShop(b *tab) {
	s.t.Helper()
	b.visit("/")
	b.sees("main", "There is no shop here yet")
	b.fill("code", <-s.codes)
	b.press("Continue")
	b.press("As a new shop")
	b.choose("locale", "en-GB")
	b.fill("shop", "Tidewrack Lane Cycle Workshop")
	b.fill("time_zone", "Europe/London")
	b.fill("owner", "Wenna Sallow")
	b.fill("password", "slack water at noon")
	b.fill("again", "slack water at noon")
	b.press("Set up the shop")
	b.sees("main h1", "Setting up the shop: how you work")
}

// Each screen of the set-up, empty, refused, long: looked at in both themes and three widths; in full, in each of the six.
func TestSetUpInEveryLook(t *testing.T) {
	t.Parallel()
	script, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err)
	s := startEmpty(t)
	b := s.open(startBrowser(t), 1280, 800)
	look := func(name string) {
		t.Helper()
		b.until(`!document.body.innerText.includes('Fetching')`, "%s", name)
		get(b, chromedp.Evaluate[bool](`globalThis.axe !== undefined || (`+"(0, eval)("+strconv.Quote(string(script))+`), true)`))
		b.plainWords(pose{name: name})
		if os.Getenv("PONY_TEST_FULL") != "" {
			b.inEveryLook(pose{name: name})
		} else {
			b.dayAndNight(pose{name: name})
			for _, width := range []int64{768, 390} {
				b.resize(width, 800)
				b.fits(pose{name: name}, width)
			}
		}
		b.resize(1280, 800)
	}
	b.visit("/")
	b.fill("code", "AAAA-AAAA")
	b.press("Continue")
	b.sees("form", "2 more tries")
	look("set-up/code")
	b.fill("code", <-s.codes)
	b.press("Continue")
	b.press("From a backup")
	b.sees("form", "read whole")
	look("set-up/backup")
	b.press("Back")
	b.press("As a new shop")
	b.fill("shop", "")
	b.press("Set up the shop")
	b.sees("form", "name is missing")
	look("set-up/new")
	b.fill("shop", strings.Repeat("Tidewrack Lane Cycle Workshop by the harbour wall ", 2))
	b.fill("time_zone", "Europe/London")
	b.fill("owner", strings.Repeat("Wenna-Marie Sallow ", 4))
	b.fill("password", "slack water at noon")
	b.fill("again", "slack water at noon")
	b.press("Set up the shop")
	b.sees("main h1", "how you work")
	for _, step := range append(rules.SetUpSteps(), "done") {
		b.visit("/set-up/" + step)
		b.until(`document.querySelector('main h1') !== null`, "%s", step)
		look("set-up/" + step)
	}
	for _, at := range []string{"/today", "/bikes", "/due", "/due/messages", "/stock", "/stock/fluids", "/stock/baths", "/stock/waste", "/customers", "/settings/tools"} {
		b.visit(at)
		b.until(`!document.querySelector('main')?.innerText.includes('Fetching') && document.querySelector('main h1') !== null`, "%s", at)
		assert.Positive(t, get(b, chromedp.Evaluate[int](`document.querySelectorAll('main a.btn, main button').length`)), "%s is empty and gives no first deed", at)
	}
}

// From an empty database to the first bike handed back, without a command line after pony serve: the code that was printed,
// mistyped until another one is; the shop and who owns it; how it works, its people, hours, places, tools and prices, left in
// between and gone on with; the first bike, measured, booked in, worked on, and handed back.
func TestFromNothingToTheFirstJobHandedBack(t *testing.T) {
	t.Parallel()
	s := startEmpty(t)
	b := s.open(startBrowser(t), 1280, 800)
	first := <-s.codes
	b.visit("/bikes") // wherever somebody comes in
	for _, said := range []string{"2 more tries", "One more try", "A new one was printed"} {
		b.fill("code", "AAAA-AAAA")
		b.press("Continue")
		b.sees("form", said)
	}
	b.fill("code", first)
	b.press("Continue")
	b.sees("form", "2 more tries")
	s.foundShop(b)

	// The five questions, with a change; then it is left, and gone on with after a reload.
	b.press("Three-quarter")
	b.press("Always with the chain")
	b.press("Save and continue")
	b.sees("main h1", "people")
	b.visit("/today")
	b.sees("main", "5 steps left")
	b.do(chromedp.Reload())
	b.press("Continue setting up")
	b.sees("main h1", "people")
	b.press("Add a person")
	b.fill("name", "Mira Oxenholt")
	b.fill("secret", "2718")
	b.pressIn("dialog[open]", "Add")
	b.sees("[data-testid=member]", "Mira Oxenholt")
	b.pressIn("main", "Continue")
	b.sees("main h1", "hours")
	b.pressIn("main", "Leave it for later")
	b.sees("main h1", "places")
	b.press("Continue")
	b.sees("main h1", "tools")
	b.press("We have one")
	b.sees("main", "In use: Steel ruler")
	b.pressIn("main", "Continue")
	b.sees("main h1", "prices")
	b.until(`[...document.querySelectorAll('main input')].some(i => i.value === '48.00')`, "an hour's price to start from")
	b.press("Continue")
	b.sees("main h1", "hours") // what was left for later
	b.press("Continue")
	b.sees("main h1", "The shop is set up")
	c := s.client() // Mira, who was added in the page

	b.press("Add the first bike")
	b.fill("owner", "Ottoline Brack")
	b.press("as a new customer")
	b.fill("owner_phone", "0555 014 121")
	b.press("Add the customer")
	b.choose("drivetrain_kind", "derailleur")
	b.fill("sprocket_count", "11")
	b.fill("chain_links", "114")
	b.choose("motor", "none")
	b.choose("brakes", "disc")
	b.choose("lubricant", "all-weather")
	b.press("Add the bike")
	b.sees("main", "This chain was not measured yet.")
	b.pressIn("main", "Measure")
	for _, next := range []string{"Place 2 of 3", "Place 3 of 3", "OK, ride it"} {
		b.read("305.1", "past new")
		b.enter()
		b.sees("main", next)
	}
	b.sees("[data-kind=measurement]", "OK, ride it")
	b.sees("[data-testid=last-verdict]", "OK")
	b.press("Book in")
	b.press("Black finger")
	b.press("Dust")
	b.sees("[data-testid=route]", "Quick")
	b.press("Book the bike in")
	b.press("Plan quick")
	b.fill("agreed", "45")
	b.press("Plan it")
	b.sees("[data-testid=block-title]", "Look and set up")
	var jobs []struct{ ID string }
	c.do("GET", "/jobs", nil, "", 200, &jobs)
	a := &atStand{tab: b, c: c, job: jobs[0].ID}
	a.whole()
	assert.Contains(t, b.text("main"), "Wenna Sallow")
}
