package e2e

import (
	"fmt"
	"math"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// openAtAllHours lets a shop tell owners whenever the test runs.
func (c *client) openAtAllHours() {
	c.t.Helper()
	c.rules(func(rules map[string]any) {
		recalls := rules["recalls"].(map[string]any)
		recalls["from"], recalls["until"], recalls["closed"] = "00:00", "23:59", []string{}
	})
}

// From what is due to what is fresh: somebody notes a soaking ride, a draft is written by itself, read and sent,
// received by the gateway; the bike comes in, is seen to, and is fresh. A second screen follows without a reload.
func TestFromDueToFresh(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	c.openAtAllHours()
	tag := c.addBike("Ottoline Brack", twelveSpeed)
	var page struct {
		Customers []struct{ ID string }
		Customer  struct{ ID string }
	}
	c.do("GET", "/bikes/"+tag, nil, "", http.StatusOK, &page)
	var owner struct {
		Customer struct {
			Version int
		}
	}
	c.do("GET", "/customers/"+page.Customer.ID, nil, "", http.StatusOK, &owner)
	c.do("PUT", "/customers/"+page.Customer.ID, map[string]any{"version": owner.Customer.Version,
		"facts": map[string]any{"name": "Ottoline Brack", "phone": "0555 014 118", "contact_way": "message", "consent": true}}, "", http.StatusOK, nil)

	mira := s.open(startBrowser(t), 1280, 800)
	mira.signIn("Mira Oxenholt", "2718")
	tobiah := s.open(startBrowser(t), 768, 1024)
	tobiah.signIn("Tobiah Marsh", "3141")
	tobiah.visit("/due")
	tobiah.sees("main", "Nothing is due here.")

	mira.visit("/bikes/" + tag)
	mira.sees("main", "Nothing is due")
	mira.press("Report rain, noise, skipping …")
	mira.press("Heavy rain ride")
	mira.press("Note it")
	mira.sees("[data-testid=task-relubricate]", "Heavy rain ride")
	tobiah.sees("[data-testid=due-row]", "Ottoline Brack")
	tobiah.sees("[data-testid=due-row]", "noted by Mira Oxenholt")

	tobiah.press("Messages")
	tobiah.sees("[data-testid=draft]", "0555 014 118")
	tobiah.press("Send it")
	tobiah.until(`document.querySelector('[data-testid=message]')?.dataset.state === 'delivered'`, "the message to be delivered")
	tobiah.press("Gateway")
	tobiah.sees("[data-testid=received]", "after a ride in heavy rain")
	tobiah.visit("/due?show=quiet")
	tobiah.sees("main", "No bikes here.")
	tobiah.visit("/due")
	tobiah.sees("[data-testid=due-row]", "Delivered today")

	for _, task := range []string{"relubricate", "clean-on-bike"} {
		mira.until(fmt.Sprintf(`(() => { const b = document.querySelector('[data-testid=task-%s] button'); b?.click(); return !!b; })()`, task), "the task %s", task)
		mira.press("Done today, outside of a job")
		mira.until("document.querySelector('dialog[open]') === null", "the dialog to close")
	}
	mira.sees("main", "Nothing is due")
	tobiah.sees("main", "Nothing is due here.")

	// STOP takes the customer off.
	tobiah.press("Gateway")
	tobiah.press("Answer STOP as this customer")
	tobiah.sees("main", "Taken off")
	tobiah.visit("/customers/" + page.Customer.ID)
	tobiah.sees("main", "has not agreed to reminders")
	assert.Contains(t, s.pony("", "verify", "--database", s.dsn), "as the ledger has it")
}

// circleGPX is a ride round a circle, ten seconds a point, and its length in km.
func circleGPX(began time.Time) (string, float64) {
	const radius, points, perLat = 2.0, 300, 111.1950802
	var b strings.Builder
	b.WriteString(`<gpx version="1.1"><trk><trkseg>`)
	for i := range points + 1 {
		a := 2 * math.Pi * float64(i) / points
		fmt.Fprintf(&b, `<trkpt lat="%.7f" lon="%.7f"><time>%s</time></trkpt>`, 50+radius/perLat*math.Sin(a), radius/perLat/math.Cos(50*math.Pi/180)*math.Cos(a), began.Add(time.Duration(i)*10*time.Second).Format(time.RFC3339))
	}
	return b.String() + `</trkseg></trk></gpx>`, 2 * math.Pi * radius
}

// Ride files chosen on the bike's page: the good one is kept by its length, the same again is known, and the
// bad one says what is wrong with it.
func TestRideImport(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	tag := s.client().addBike("Ottoline Brack", twelveSpeed)
	dir := t.TempDir()
	text, km := circleGPX(time.Now().AddDate(0, 0, -2).Truncate(time.Second).UTC())
	files := []string{filepath.Join(dir, "harbour.gpx"), filepath.Join(dir, "cut short.gpx")}
	require.NoError(t, os.WriteFile(files[0], []byte(text), 0o600))
	require.NoError(t, os.WriteFile(files[1], []byte(text[:800]), 0o600))
	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/bikes/" + tag)
	b.sees("main", "Choose ride files")
	input := chromedp.CSS("input[name=rides]")
	b.do(chromedp.SetUploadFiles(input, files))
	b.sees("[data-testid=ride-file]", fmt.Sprintf("%.1f km", km))
	b.sees("[data-testid=ride-file]", "not whole XML")
	b.sees("main", "Ride, ")
	b.do(chromedp.SetUploadFiles(input, files[:1]))
	b.sees("[data-testid=ride-file]", "There already")
}

// The owner's page on a phone: opened by its link without signing in, it takes what the customer tells, which is a
// fact once the shop says so; a link that was withdrawn opens nothing.
func TestOwnersPageOnAPhone(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	tag := s.client().addBike("Ottoline Brack", twelveSpeed)
	mira := s.open(startBrowser(t), 1280, 800)
	mira.signIn("Mira Oxenholt", "2718")
	mira.visit("/bikes/" + tag)
	mira.press("Customer's page")
	mira.press("Make a link")
	mira.sees("[data-testid=secret-link]", "/o/")
	path := get(mira, chromedp.Evaluate[string](`document.querySelector('dialog a').getAttribute('href')`))
	mira.press("Close")

	phone := s.open(startBrowser(t), 390, 844)
	phone.visit(path)
	phone.sees("[data-testid=worn]", "not measured yet")
	assert.NotContains(t, phone.text("body"), "Ottoline")
	assert.LessOrEqual(t, get(phone, chromedp.Evaluate[float64]("document.documentElement.scrollWidth")), 390.0)
	phone.fill("odometer", "412")
	phone.press("It squeaks")
	phone.press("Tell the workshop")
	phone.sees("[role=status]", "Told")
	mira.sees("[data-testid=report]", "it squeaks, odometer 412 km")
	at := get(mira, chromedp.Evaluate[string]("location.pathname"))
	mira.until(`document.querySelector('header a[href="/waiting"] .badge')?.textContent === '1'`, "the number on the frame")
	mira.visit("/waiting")
	mira.sees("[aria-label='Customer reports']", "Ottoline Brack")
	mira.press("Accept")
	mira.sees("main", "Nothing waits.")
	mira.until(`!document.querySelector('header .badge')`, "nothing waiting for anybody")
	mira.visit(at)
	mira.sees("[data-testid=task-relubricate]", "It squeaks")
	mira.sees("main", "Odometer 412 km")

	mira.press("Customer's page")
	mira.sees("[data-testid=live-link]", "Link")
	mira.press("Withdraw")
	mira.press("Yes, it opens nothing then")
	mira.sees("dialog", "None yet.")
	phone.visit(path)
	phone.sees("main", "This link opens nothing any longer")
}
