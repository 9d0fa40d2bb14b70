package e2e

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Three jobs at once on a tablet in gloves: a person is at one step at a time, each job keeps its own place,
// and every wait of the shop is on every screen.
func TestThreeJobsOnATablet(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	c.oneByOne()
	var jobs []string
	for _, owner := range []string{"Ottoline Brack", "Imelda Harrowgate", "Jago Tidwell"} {
		seen := map[string]any{"frame_grade": 1, "drivetrain_grade": 1, "lubricant_on": "oil", "lubricant_next": "oil"}
		jobs = append(jobs, c.takeIn(c.addBike(owner, twelveSpeed), seen, nil))
	}
	mira := s.open(startBrowser(t), 768, 1024)
	mira.signIn("Mira Oxenholt", "2718")
	get(mira, chromedp.Evaluate[bool](`(localStorage.setItem('pony.look', '{"size":"glove"}'), true)`))
	mira.visit("/jobs/" + jobs[0])
	mira.press("Start")
	mira.sees("[data-testid=main-action]", "Floor is ready")
	assert.GreaterOrEqual(t, get(mira, chromedp.Evaluate[float64](`document.querySelector('[data-testid=main-action]').getBoundingClientRect().height`)), 64.0, "px, for gloves")

	// To the next bike: the first is paused, with its place kept.
	mira.press("Today")
	mira.sees("[data-testid=job]", "Mira O. at “Look and set up”")
	mira.press("Imelda Harrowgate")
	mira.press("Start")
	mira.press("Floor is ready")
	mira.sees("[data-testid=step-title]", "Into the stand")
	mira.press("Today")
	mira.sees("[data-testid=job]", "next Look and set up")
	mira.sees("[data-testid=job]", "Mira O. at “Look and set up”")

	// A timer of the shop's own runs beside the jobs' waits, and calls.
	mira.press("Timer")
	mira.fill("what", "glue")
	mira.fill("timer_minutes", "0")
	mira.press("Start timer")
	mira.sees("dialog", "1 minute to 3 days")
	mira.fill("timer_minutes", "30")
	mira.press("Start timer")
	mira.sees("[data-testid=wait]", "glue")
	mira.visit("/measure")
	mira.sees("[data-testid=wait]", "glue")
	mira.press("glue")
	mira.fill("reason", "hard already")
	mira.press("End it now")
	mira.until("document.querySelector('[data-testid=wait]') === null", "the timer to be gone")
	mira.press("Take it back")
	mira.until("document.querySelector('[data-testid=wait]') !== null", "the timer to run on")
	mira.do(chromedp.Click(chromedp.CSS("[data-testid=wait]")))
	mira.fill("reason", "the kettle boils")
	mira.press("End it now")
	mira.until("document.querySelector('[data-testid=wait]') === null", "the timer to be gone")

	// What cannot be done now says why; what is left out says so in the record.
	mira.visit("/jobs/" + jobs[2])
	mira.press("One drop on every roller")
	mira.sees("main", "Not yet: first")
	mira.press("Measure chain wear")
	mira.press("Skip step")
	mira.fill("skip_reason", "new chain last week")
	mira.do(chromedp.Click(chromedp.CSS("dialog[open] button[type=submit]")))
	mira.sees("[data-testid=step-read-wear] svg[aria-label]", "")
	mira.until(`document.querySelector('[data-testid=step-read-wear]').dataset.state === 'skipped'`, "the step to be left out")
	mira.press("Take it back")
	mira.until(`document.querySelector('[data-testid=step-read-wear]').dataset.state === 'open'`, "the step to be there again")
	mira.press("Measure chain wear")
	mira.press("Skip step")
	mira.fill("skip_reason", "new chain last week")
	mira.do(chromedp.Click(chromedp.CSS("dialog[open] button[type=submit]")))
	mira.until(`document.querySelector('[data-testid=step-read-wear]').dataset.state === 'skipped'`, "the step to be left out")
	mira.press("Measure chain wear")
	mira.sees("main", "Left out by Mira Oxenholt: new chain last week")

	// Cancelled with the reason, it leaves the day.
	mira.press("Cancel the job")
	mira.fill("cancel_reason", "took it home")
	mira.do(chromedp.Click(chromedp.CSS("dialog[open] button[type=submit]")))
	mira.sees("main", "The job was cancelled: took it home")
	get(mira, chromedp.Evaluate[bool](`([...document.querySelectorAll('[data-testid=slip]')].find(s => s.innerText.includes('Cancelled')).querySelector('button').click(), true)`))
	mira.press("Cancel the job")
	mira.fill("cancel_reason", "took it home")
	mira.do(chromedp.Click(chromedp.CSS("dialog[open] button[type=submit]")))
	mira.sees("main", "The job was cancelled: took it home")
	mira.press("Today")
	mira.until("document.querySelectorAll('[data-testid=job]').length === 2", "two jobs to be left")
}

// Another route than the recommended, with a reason, a photo from when it came in, and its papers.
func TestPlanOverruledAndPapers(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	tag := c.addBike("Délphine Arosteguy", map[string]any{"make": "Wharfinger", "model": "Lugger", "drivetrain_kind": "derailleur", "sprocket_count": 11, "motor": "none", "brakes": "rim", "lubricant": "wet-oil"})
	var job struct{ ID string }
	c.do("POST", "/bikes/"+tag+"/jobs", map[string]any{"frame_grade": 2, "drivetrain_grade": 2, "complaints": []string{"squeaks"}, "has_joining_link": true}, "", 201, &job)
	picture := filepath.Join(t.TempDir(), "came-in.png")
	f, err := os.Create(picture)
	require.NoError(t, err)
	require.NoError(t, png.Encode(f, image.NewGray(image.Rect(0, 0, 320, 200))))
	require.NoError(t, f.Close())
	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/jobs/" + job.ID)
	b.sees("[data-testid=way-quick]", "Recommended")
	b.do(chromedp.SetUploadFiles(chromedp.CSS("input[name=job_photo]"), []string{picture}))
	b.until(`document.querySelector('main img[alt^="Taken by Mira"]')?.naturalWidth > 0`, "the picture")
	b.press("Plan soak")
	b.press("Plan it")
	b.sees("dialog", "Say in a few words why it is not done as recommended")
	b.fill("reason", "quiet afternoon, and it squeaks")
	assert.Empty(t, get(b, chromedp.Evaluate[string](`document.querySelector('dialog [name=agreed]').value`)), "nobody agreed on anything yet")
	b.fill("agreed", "a lot")
	b.press("Plan it")
	b.sees("dialog", "is no price")
	b.fill("agreed", "60")
	b.press("Plan it")
	b.sees("main", "Not as recommended: quiet afternoon")
	b.sees("main", "€60.00 agreed")

	// A finding that holds the bike, whatever else is done.
	b.press("Fault found")
	b.choose("finding", "cable-frayed")
	b.sees("dialog", "Holds the bike until")
	b.fill("place", "rear")
	b.press("Note it")
	b.sees("[data-testid=finding]", "Cable frayed, rear holds the bike")
	b.press("Ticket")
	b.sees("main", "A round box is a safety check")
	b.sees("main", "Chain into the jar")
	b.sees("main", "Spent fluid into its container")
	paper, err := chromedp.Call(b.ctx, page.PrintToPDF, page.PrintToPDFParams{})
	require.NoError(t, err)
	assert.GreaterOrEqual(t, bytes.Count(paper.Data, []byte("/Type /Page\n")), 2, "the whole ticket is on paper, not what a screen shows of it")
	b.press("Back to the job")
	b.press("Customer's words")
	b.sees("article", "Cable frayed, rear")
	b.press("Back to the stand")
	b.press("Fixed")
	b.sees("[data-testid=finding]", "fixed")
	// Planned anew, twice, and each time at another price: what was agreed stands, and the difference is said.
	for range 2 {
		b.press("Re-plan")
		b.press("Plan quick")
		b.sees("dialog [data-testid=agreed]", "€60.00")
		b.sees("dialog [data-testid=agreed]", "Mira Oxenholt")
		b.sees("dialog [data-testid=agreed]", "than agreed")
		b.press("Plan it")
		b.sees("main", "€60.00 agreed")
		b.sees("main", "less than agreed")
	}
	b.press("Re-plan")
	b.press("Plan quick")
	b.press("Another price was agreed")
	b.press("As quoted")
	b.press("Plan it")
	b.until(`!document.querySelector('main').innerText.includes('than agreed')`, "the new price to stand as agreed")
	b.visit("/bikes/" + tag)
	b.sees("[data-kind=job-planned]", "agreed")
	b.sees("main", "In the workshop since")
	b.sees("main", "Planned: soak, €60.00 agreed, quiet afternoon")
	b.sees("[data-kind=job-finding]", "Found: Cable frayed, rear")
}

// The stores: what is counted, what is refused, what is to be ordered, and what goes to waste.
func TestStoresOfTheWorkshop(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/stock/fluids")
	b.press("Add to stock")
	b.fill("name", "White petrol")
	b.fill("quantity", "1000")
	b.do(chromedp.Click(chromedp.CSS("dialog[open] button[type=submit]")))
	b.sees("dialog", "its vapour explodes")
	b.fill("name", "Citrus degreaser")
	b.fill("low_mark", "1500")
	b.fill("card_product_parts", "1")
	b.fill("card_water_parts", "3")
	b.do(chromedp.Click(chromedp.CSS("dialog[open] button[type=submit]")))
	b.sees("[data-testid=material]", "order: low at 1,500 mL")
	b.sees("[data-testid=order]", "Citrus degreaser")

	// By its label one part to three: the jar of a job takes it so.
	tag := c.addBike("Ottoline Brack", twelveSpeed)
	job := c.takeIn(tag, map[string]any{"frame_grade": 1, "drivetrain_grade": 3, "lubricant_on": "oil", "has_joining_link": true},
		map[string]any{"route": "soak", "reason": "there is time"})
	b.visit("/jobs/" + job)
	b.press("Chain into the jar")
	b.sees("main", "63 mL + 188 mL water")

	b.visit("/stock/baths")
	b.press("Fill a new bath")
	b.press("Wax pot")
	b.fill("name", "Pot")
	b.fill("fluid", "chain wax")
	b.press("It is filled")
	b.sees("dialog", "Type an amount in grams")
	b.fill("volume", "500")
	b.press("It is filled")
	b.sees("[data-testid=pot]", "simulated probe")
	b.press("Heat on")
	b.sees("[data-testid=pot-on]", "Pot")
	b.press("Heat off")
	b.until("document.querySelector('[data-testid=pot-on]') === null", "the pot to be off")

	b.visit("/stock/waste?job=" + job)
	b.press("Sludge")
	b.fill("amount", "1.5")
	b.fill("waste_note", "blue drum")
	b.press("Note it")
	b.sees("[data-testid=waste]", "1.5 L")
	b.until(fmt.Sprintf(`document.querySelector('[data-testid=waste] svg[aria-label="Tag %s"]') !== null`, tag), "the bike it came from")
}
