package e2e

import (
	"net/http"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// An owner is added at the counter with a bike, gives the bike up and comes back; the archive keeps
// both, and what was done is in the history.
func TestOwnersComeAndGo(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	b := s.open(startBrowser(t), 768, 1024)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/customers")
	b.sees("main", "The customers of the bikes you care for will be here.")
	b.press("Add the first customer")
	b.fill("email", "not an address")
	b.press("Add the customer")
	b.sees("form", "This is needed.")
	b.fill("name", "Ignatius Bellwether-Okonjo")
	b.press("Add the customer")
	b.sees("form", "This is not an email address")
	b.fill("email", "ignatius@bellwether.example")
	b.press("Add the customer")
	b.sees("main", "No bike of theirs is in care.")

	b.press("Add a bike")
	b.sees("form", "Ignatius Bellwether-Okonjo") // chosen already
	b.fill("make", "Pellowe")
	b.press("Add the bike")
	b.sees("main", "This chain was not measured yet.")
	tag := get(b, chromedp.Evaluate[string](`location.pathname.split('/').pop()`))

	// The owner cannot go while the bike is here; the bike goes first.
	b.press("Ignatius Bellwether-Okonjo")
	b.sees("main", "Archive this customer")
	b.press("Archive this customer")
	b.press("Archive")
	b.sees("dialog", "This customer still has bikes here.")
	b.press("Cancel")
	b.visit("/bikes/" + tag)
	b.press("Archive this bike")
	b.press("Archive")
	b.sees("main", "This bike is archived")
	b.until("![...document.querySelectorAll('button')].some(e => e.innerText.includes('Measure'))", "measuring to be gone")
	b.press("Ignatius Bellwether-Okonjo")
	b.press("Archive this customer")
	b.press("Archive")
	b.sees("main", "Take this customer out of the archive")

	b.visit("/bikes")
	b.sees("main", "The bikes you care for will be here.")
	b.press("Archived")
	b.sees("main", "Ignatius Bellwether-Okonjo")

	// Back again: the customer first, then the bike.
	b.visit("/bikes/" + tag)
	b.press("Take out of the archive")
	b.press("Take out")
	b.sees("dialog", "This customer is archived.")
	b.press("Cancel")
	b.press("Ignatius Bellwether-Okonjo")
	b.press("Take this customer out of the archive")
	b.press("Take out")
	b.sees("main", "Archive this customer")
	b.visit("/bikes/" + tag)
	b.press("Take out of the archive")
	b.press("Take out")
	b.sees("[data-kind=bike-restored]", "Taken out of the archive")
	b.sees("main", "Measure")
}

// A session that ends in the middle of work asks for the PIN over the page, and nothing typed is lost.
func TestSignedOutInTheMiddle(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	tag := s.client().addBike("Gideon Larkwhistle", twelveSpeed)
	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/bikes/" + tag)
	b.pressIn("main", "Measure")
	b.read("305.9", "305.9 mm over 24 links")
	get(b, chromedp.Evaluate[bool](`fetch('/api/v1/session', {method: 'DELETE'}).then(() => true)`, chromedp.EvalAwaitPromise))
	b.press("Record reading")
	b.sees("dialog", "Signed out meanwhile")
	b.press("Tobiah Marsh")
	pin := chromedp.CSS("input[type=password]")
	b.do(chromedp.WaitVisible(pin), chromedp.SendKeys(pin, "3141\r"))
	b.until("!document.querySelector('dialog')", "the page to be open again")
	assert.Equal(t, "305.9", get(b, chromedp.Value(reading)))
	b.sees("header", "Tobiah M.")
	b.press("Record reading")
	b.sees("[data-kind=measurement]", "Wear 0.36 %")
	b.sees("[data-kind=measurement]", "Tobiah")
}

// A page that is opened while the server is away says so, and goes on once it is back.
func TestServerAwayWhenOpened(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	tag := c.addBike("Rosamund Pike-Hollow", twelveSpeed)
	b := s.open(startBrowser(t), 390, 844)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/bikes")
	b.sees("main", tag[2:6])
	b.until(`performance.getEntriesByType('resource').some(e => e.name.includes('/BikePage') && e.responseEnd > 0)`, "the other screens to be fetched")
	s.kill()
	b.press("Rosamund Pike-Hollow")
	b.sees("body", "The server cannot be reached.")
	b.sees("header [role=status]", "No server")
	s.start()
	b.press("Try again")
	b.sees("main", "This chain was not measured yet.")
	b.until("document.querySelector('header [role=status]')?.textContent === 'All saved'", "the server to be heard again")

	// What was written while nobody listened is seen as soon as somebody does.
	c.do("POST", "/bikes/"+tag+"/measurements", map[string]any{"instrument_id": instrument(c, "gauge-percent"),
		"entries": []map[string]any{{"place": 1, "text": "0.31"}}}, "", http.StatusCreated, nil)
	b.sees("[data-testid=last-verdict]", "OK, ride it")
	assert.NotContains(t, strings.ToLower(b.text("main")), "undefined")
}
