package e2e

import (
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// A bike with five readings and one chain change: the track draws them, says what is left, and what is
// struck out leaves the forecast at once, on both screens.
func TestWearTrack(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	facts := map[string]any{"make": "Wharfinger", "model": "Loper", "drivetrain_kind": "derailleur", "sprocket_count": 12, "motor": "none",
		"weekly_km": 100, "lubricant": "drip-wax"}
	tag := c.addBike("Bryony Tallisker", facts)
	gauge := instrument(c, "gauge-percent")
	ago := func(days int) string { return time.Now().AddDate(0, 0, -days).UTC().Format(time.RFC3339) }
	post := func(path string, body map[string]any) {
		c.do("POST", "/bikes/"+tag+path, body, "", http.StatusCreated, nil)
	}
	post("/chain", map[string]any{"fitted_at": ago(300), "odometer_km": 1000})
	for i, percent := range []string{"0.22", "0.47"} {
		post("/measurements", map[string]any{"instrument_id": gauge, "taken_at": ago(240 - 60*i), "odometer_km": 2000 + 1000*i, "entries": []map[string]any{{"place": 1, "text": percent}}})
	}
	post("/chain", map[string]any{"fitted_at": ago(150), "odometer_km": 3500})
	for i, percent := range []string{"0.08", "0.15", "0.24"} {
		post("/measurements", map[string]any{"instrument_id": gauge, "taken_at": ago(120 - 40*i), "odometer_km": 4000 + 500*i, "entries": []map[string]any{{"place": 1, "text": percent}}})
	}

	browser := startBrowser(t)
	mira, tobiah := s.open(browser, 1280, 1600), s.open(browser, 390, 844)
	mira.signIn("Mira Oxenholt", "2718")
	tobiah.signIn("Tobiah Marsh", "3141")
	says := "[data-testid=track-says]"
	const marks = "document.querySelectorAll('[aria-label=\"Wear over distance\"] g[role=button]').length"
	for _, b := range []*tab{mira, tobiah} {
		b.visit("/bikes/" + tag)
		b.sees(says, "km left in weather like this")
		b.until(marks+" === 5", "five readings on the track")
	}
	before := mira.text(says)
	mira.sees("[aria-label='Wear track'] svg", "new chain")
	mira.press("The same in numbers") // a summary is pressed like a button
	mira.sees("[aria-label='Wear track'] table", "0.47 % ± 0.05")

	// The last reading was a slip: without it the forecast is another, here and on the phone.
	mira.press("Wear 0.24 %")
	mira.press("Void")
	mira.press("Wrong bike")
	mira.do(chromedp.Click(chromedp.CSS("dialog button[type=submit]")))
	mira.leaves()
	for _, b := range []*tab{mira, tobiah} {
		b.until(marks+" === 4", "four readings on the track")
		b.until(fmt.Sprintf("document.querySelector('%s').innerText !== %q", says, before), "another forecast")
	}

	// The odometer went back: it is asked which of the two it is.
	mira.press("Note the odometer")
	mira.fill("odometer", "many")
	mira.press("Note it")
	mira.sees("dialog", "Type whole kilometres")
	mira.fill("odometer", "12")
	mira.press("Note it")
	mira.sees("dialog", "A new computer, or a slip?")
	mira.press("New bike computer fitted")
	mira.sees("[data-kind=odometer]", "12 km, on a new computer")

	tobiah.press("New chain fitted")
	tobiah.sees("dialog", "Warn the rider")
	tobiah.press("Note the new chain")
	for _, b := range []*tab{mira, tobiah} {
		b.sees(says, "A guess from how the bike is kept, nothing measured yet")
	}
	assert.Zero(t, get(tobiah, chromedp.Evaluate[int](`document.querySelectorAll('[role=alert]').length`)))
}
