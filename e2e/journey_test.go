package e2e

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var reading = chromedp.CSS(`[name=reading]`)

// read types into the big field of the bench and waits until the page says what it understood.
func (b *tab) read(text, understood string) {
	b.t.Helper()
	b.fill("reading", text)
	b.sees("[data-testid=understood]", understood)
}

func (b *tab) enter() {
	b.t.Helper()
	b.do(chromedp.SendKeys(reading, "\r"))
}

// The whole of it: a mechanic signs in, adds an owner and a bike, measures at three places, sees
// the verdict, records it, finds it in the history after a reload, and voids it. A second
// device, served by another process on the same database, sees both as they happen.
func TestMeasureRecordAndStrikeOut(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	browser := startBrowser(t)
	mira, tobiah := s.open(browser, 1280, 800), s.beside().open(browser, 768, 1024)
	mira.signIn("Mira Oxenholt", "2718")
	mira.sees("main", "No bike is in the workshop.")
	mira.press("Find the bike")
	mira.sees("main", "The bikes you care for will be here.")

	mira.press("Add the first bike")
	mira.press("Add the bike")
	mira.sees("form", "Choose whose bike it is")
	mira.fill("owner", "Délphine Arosteguy")
	mira.press("as a new customer")
	mira.fill("owner_phone", "0555 014 121")
	mira.press("Add the customer")
	mira.sees("form", "Somebody else")
	mira.fill("make", "Wharfinger")
	mira.fill("model", "Lugger")
	mira.choose("drivetrain_kind", "derailleur")
	mira.fill("sprocket_count", "12")
	mira.fill("chain_links", "twelve")
	mira.press("Add the bike")
	mira.sees("form", "“twelve” is not a number.")
	mira.fill("chain_links", "114")
	mira.press("Add the bike")
	mira.sees("main", "This chain was not measured yet.")
	tag := strings.TrimPrefix(strings.TrimPrefix(get(mira, chromedp.Location()), s.url("/bikes/")), "/")
	require.Regexp(t, `^B-0001-[A-Z]$`, tag)

	// On the other device somebody types the tag where nothing is selected, as a scanner does.
	tobiah.signIn("Tobiah Marsh", "3141")
	tobiah.press("Bikes")
	tobiah.sees("main", "Délphine Arosteguy")
	tobiah.scan(strings.ToLower(strings.ReplaceAll(tag, "-", "")))
	tobiah.sees("main", "This chain was not measured yet.")
	get(tobiah, chromedp.Evaluate[bool](`window.notReloaded = true`))

	mira.pressIn("main", "Measure")
	for slip, said := range map[string]string{
		"abc":       "is not a reading",
		"9999":      "cannot be",
		"12 1/0 in": "nothing can be divided by zero",
		"12.06":     "looks like inches",
	} {
		mira.read(slip, said)
		mira.enter() // goes nowhere: what is wrong is said first
		mira.sees("main", "Place 1 of 3")
		assert.Equal(t, slip, get(mira, chromedp.Value(reading)), "what was typed stays")
	}
	mira.read("306,4mm", "306.4 mm over 24 links, 1.6 mm past new: 0.52 %")
	mira.enter()
	mira.sees("main", "Place 2 of 3")
	mira.read("+1.8", "306.6 mm over 24 links")
	// A reload loses nothing that was typed.
	mira.do(chromedp.Reload())
	mira.sees("[data-testid=understood]", "306.6 mm over 24 links")
	mira.enter()
	mira.sees("main", "Place 3 of 3")
	mira.read("12 1/16 in", "306.39 mm over 24 links")
	mira.sees("[data-testid=verdict]", "Can't tell yet")
	mira.sees("[data-testid=wear]", "0.55 ± 0.07 %")
	mira.press("Stiff link that stays")
	mira.sees("[data-testid=verdict]", "Replace the chain")
	mira.enter()
	mira.sees("[data-testid=last-verdict]", "Replace the chain")

	began := time.Now()
	tobiah.sees("[data-testid=last-verdict]", "Replace the chain")
	t.Logf("seen on the other device %v later", time.Since(began))
	tobiah.sees("[data-kind=measurement]", "Wear 0.55 % ± 0.07, Steel rule, three places")

	mira.do(chromedp.Reload())
	mira.sees("[data-kind=measurement]", "stiff link that stays")
	mira.press("Wear 0.55 %")
	mira.sees("[data-kind=measurement]", "12 1/16 in = 306.39 mm")
	mira.press("Void")
	mira.press("Rule slipped")
	mira.do(chromedp.Click(chromedp.CSS("dialog button[type=submit]")))
	mira.leaves()
	mira.sees("[data-struck=yes]", "voided: Rule slipped")
	mira.sees("main", "This chain was not measured yet.")
	tobiah.sees("[data-struck=yes]", "voided: Rule slipped")
	tobiah.sees("main", "This chain was not measured yet.")
	assert.True(t, get(tobiah, chromedp.Evaluate[bool](`window.notReloaded === true`)), "the other device never reloaded")
}

// A walk-in is measured without a bike and then put on one; a tag scanned into a form leaves the
// form as it was and opens the bike.
func TestWalkInAndScanner(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	tag := s.client().addBike("Jago Tidwell", twelveSpeed)
	b := s.open(startBrowser(t), 390, 844)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/measure")
	b.sees("main", "Walk-in: no bike chosen")
	b.press("Drop-in gauge")
	marks := func(mark, choice int) {
		b.do(chromedp.Click(chromedp.CSS(fmt.Sprintf("section[aria-label=Reading] fieldset:nth-of-type(%d) button:nth-of-type(%d)", mark, choice))))
	}
	marks(1, 1) // 0.5 drops in
	marks(2, 2) // 0.75 does not
	b.sees("main", "To judge it, say what gears it has and how many speeds.")
	b.choose("kind", "derailleur")
	b.choose("sprockets", "11")
	b.sees("[data-testid=verdict]", "Replace the chain")
	b.press("Record on a bike")
	b.do(chromedp.SendKeys(chromedp.CSS("dialog input"), "tidw"))
	b.press("Jago Tidwell")
	b.sees("main", tag)
	b.press("Record reading")
	b.sees("[data-kind=measurement]", "Wear 0.50 to 0.75 %, Drop-in gauge, one place")

	b.visit("/customers/new")
	b.fill("name", "Half a na")
	b.scan(tag)
	b.sees("[data-testid=last-verdict]", "Replace the chain")
	b.visit("/customers/new")
	assert.Equal(t, "Half a na", get(b, chromedp.Value(chromedp.CSS("[name=name]"))), "the tag did not land in the name")

	// A mistyped tag opens nobody's bike.
	b.do(chromedp.KeyEvent("\x1b"))
	b.visit("/bikes/" + tag[:5] + "2" + tag[6:])
	b.sees("main", "is mistyped")
}

// Two people change one bike: the second is shown both versions and chooses.
func TestTwoPeopleChangeOneBike(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	tag := s.client().addBike("Ottoline Brack", twelveSpeed)
	browser := startBrowser(t)
	mira, tobiah := s.open(browser, 1280, 800), s.open(browser, 1280, 800)
	for b, who := range map[*tab][2]string{mira: {"Mira Oxenholt", "2718"}, tobiah: {"Tobiah Marsh", "3141"}} {
		b.signIn(who[0], who[1])
		b.visit("/bikes/" + tag + "/edit")
		b.do(chromedp.WaitVisible(chromedp.CSS("[name=colour]")))
	}
	mira.fill("colour", "oyster")
	tobiah.fill("colour", "pearl")
	mira.press("Save changes")
	mira.sees("main", "Wharfinger Loper, oyster")
	tobiah.press("Save changes")
	tobiah.sees("[aria-label='Two versions']", "oyster")
	tobiah.sees("[aria-label='Two versions']", "pearl")
	tobiah.press("Keep mine")
	tobiah.sees("main", "Wharfinger Loper, pearl")
	mira.sees("main", "Wharfinger Loper, pearl")
	mira.sees("[data-kind=bike-changed]", "Facts changed: colour")
}

// The server dies without a word. What it acknowledged is there when it comes back; what it did
// not hear waits on the device, says so, and is sent by itself, once.
func TestServerKilled(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	tag := c.addBike("Casimir Ogle", twelveSpeed)
	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/bikes/" + tag)
	b.pressIn("main", "Measure")
	b.press("Percent gauge")
	b.read("0.31", "0.31 % wear")
	s.kill()
	b.press("Record reading")
	b.sees("header [role=status]", "1 to send")
	s.start()
	b.sees("[data-testid=last-verdict]", "OK, ride it")
	b.sees("header [role=status]", "All saved")

	key := "the-same-write-again"
	body := map[string]any{"instrument_id": instrument(c, "ruler"), "entries": []map[string]any{{"place": 1, "text": "305.4"}}}
	var first, second struct {
		EntryID string `json:"entry_id"`
	}
	c.do("POST", "/bikes/"+tag+"/measurements", body, key, http.StatusCreated, &first)
	s.kill() // the answer was given; nothing after it
	s.start()
	c.do("POST", "/bikes/"+tag+"/measurements", body, key, http.StatusCreated, &second)
	assert.Equal(t, first, second, "sent again after the crash, the first answer")
	var ledger struct{ Entries []struct{ Kind string } }
	c.do("GET", "/bikes/"+tag+"/ledger", nil, "", http.StatusOK, &ledger)
	assert.Len(t, ledger.Entries, 3, "the bike, the reading that waited, and this one: %v", ledger)
	b.sees("[data-kind=measurement]", "Steel rule, one place")

	s.stop() // with the page open
}

func instrument(c *client, kind string) string {
	c.t.Helper()
	var tools []struct{ ID, Kind string }
	c.do("GET", "/instruments", nil, "", http.StatusOK, &tools)
	for _, tool := range tools {
		if tool.Kind == kind {
			return tool.ID
		}
	}
	require.Fail(c.t, "no tool of kind "+kind)
	return ""
}

// A person is switched in two taps and a PIN; a wrong PIN says so; keys open places and back out.
func TestSwitchPersonAndKeys(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	b := s.open(startBrowser(t), 1280, 800)
	b.visit("/")
	b.press("Mira Oxenholt")
	pin := chromedp.CSS("input[type=password]")
	b.do(chromedp.WaitVisible(pin), chromedp.SendKeys(pin, "0001\r"))
	b.sees("form", "That PIN is not right.")
	b.do(chromedp.SendKeys(pin, "2718\r"))
	b.sees("header", "Mira O.")

	b.press("Mira O.")
	b.press("Tobiah Marsh")
	b.do(chromedp.WaitVisible(pin), chromedp.SendKeys(pin, "3141\r"))
	b.sees("header", "Tobiah M.")

	b.do(chromedp.KeyEvent("m"))
	b.sees("main", "Measured with")
	get(b, chromedp.Evaluate[bool](`(document.activeElement.blur(), true)`)) // a letter typed into a field is no command
	b.do(chromedp.KeyEvent("b"))
	b.sees("main", "The bikes you care for will be here.")
	b.do(chromedp.KeyEvent("?"))
	b.sees("dialog", "A scanned tag opens its bike from anywhere")
	b.do(chromedp.KeyEvent("\x1b"))
	b.until("!document.querySelector('dialog')", "the window to close")

	b.press("Tobiah M.")
	b.press("Night")
	b.until("document.documentElement.dataset.theme === 'pony-night'", "the night theme")
	b.press("Sign out")
	b.sees("body", "Who are you?")
	b.visit("/bikes")
	b.sees("body", "Who are you?")
}
