package e2e

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// shownBlock is what the stand's page shows of a job that is worked in blocks: its title, its lines, what was read.
const shownBlock = `[document.querySelector('[data-testid=block-title], h1')?.innerText,
	...[...document.querySelectorAll('[data-testid^=line-]')].map(l => l.dataset.testid + l.dataset.state),
	[...document.querySelectorAll('main button')].some(e => e.innerText.startsWith('Got it')),
	document.querySelector('[data-testid=block-done]')?.innerText].join('|')`

// pressBlock presses what comes next in a block: its warnings, the next check by itself, then its one button. What the page
// showed then is kept: it may have changed since it was read.
const pressBlock = `(() => {
	const button = [...document.querySelectorAll('main button')].find(e => e.innerText.startsWith('Got it') && !e.disabled)
		?? [...document.querySelectorAll('main button')].find(e => e.innerText === 'Pass' && !e.disabled && e.closest('[data-testid^=line-]').querySelector('[aria-hidden]')?.dataset.gate === 'true')
		?? document.querySelector('[data-testid=block-done]:not(:disabled)');
	window.blockBefore = ` + shownBlock + `;
	button?.click();
	return button !== undefined && button !== null;
})()`

// atStand is somebody who works a job at the stand in blocks, with every press counted and every question noted.
type atStand struct {
	*tab
	c       *client
	job     string
	presses int
	asked   []string
}

// bikeIn books a bike in and plans its job on a route, the price agreed at the counter.
func bikeIn(c *client, owner, route string, intake map[string]any) (tag, job string) {
	tag = c.addBike(owner, map[string]any{"drivetrain_kind": "derailleur", "sprocket_count": 11, "motor": "none", "brakes": "disc", "lubricant": "all-weather", "chain_links": 114})
	c.do("POST", "/bikes/"+tag+"/chain", map[string]any{"odometer_km": 1000}, "", http.StatusCreated, nil)
	var opened struct {
		ID      string
		Version int
	}
	body := map[string]any{"frame_grade": 1, "drivetrain_grade": 2, "drivetrain_only": true, "complaints": []string{}, "has_joining_link": true}
	for k, v := range intake {
		body[k] = v
	}
	c.do("POST", "/bikes/"+tag+"/jobs", body, "", http.StatusCreated, &opened)
	c.do("PUT", "/jobs/"+opened.ID+"/plan", map[string]any{"version": opened.Version, "route": route, "reason": "as the customer wants it", "agreed": 4500}, "", http.StatusOK, nil)
	return tag, opened.ID
}

// endWaits has the waits of the job be over, as the clock would.
func (a *atStand) endWaits() {
	a.t.Helper()
	var job struct {
		Waits []struct{ ID string }
	}
	a.c.do("GET", "/jobs/"+a.job, nil, "", http.StatusOK, &job)
	for _, w := range job.Waits {
		a.c.do("POST", "/waits/"+w.ID, map[string]any{"action": "end", "reason": "looked at, it is done"}, "", http.StatusOK, nil)
	}
}

// next presses what comes next, once what it waits for is over; false once all is done.
func (a *atStand) next() bool {
	a.t.Helper()
	if get(a.tab, chromedp.Evaluate[bool](`document.querySelector('main h1')?.innerText === 'All steps are done'`)) {
		return false
	}
	if get(a.tab, chromedp.Evaluate[bool](`document.querySelector('main h1')?.innerText.startsWith('Nothing to do')`)) {
		a.endWaits()
		a.until(`document.querySelector('[data-testid=block-title]') !== null || document.querySelector('main h1')?.innerText === 'All steps are done'`, "the next block")
		return true
	}
	if get(a.tab, chromedp.Evaluate[bool](`document.querySelector('[name=reading_1]')?.value === '' && !document.querySelector('[name=reading_1]').disabled`)) {
		for i, text := range []string{"305.3", "305.4"} {
			a.fill(fmt.Sprintf("reading_%d", i+1), text)
			a.presses++
		}
		a.asked = append(a.asked, "reading")
		a.sees("[data-testid=reading]", "±")
	}
	a.until(pressBlock, "something to press")
	a.presses++
	before := get(a.tab, chromedp.Evaluate[string](`window.blockBefore`))
	a.until(shownBlock+` !== `+strconv.Quote(before), "what comes after %s", before)
	return true
}

// whole works the job through and hands the bike back.
func (a *atStand) whole() {
	a.t.Helper()
	for a.next() {
	}
	a.press("Hand back")
	a.presses++
	a.sees("main", "Both brakes tested")
	var job struct {
		StepList []struct{ Code, State string } `json:"step_list"`
	}
	a.c.do("GET", "/jobs/"+a.job, nil, "", http.StatusOK, &job)
	require.NotEmpty(a.t, job.StepList)
	for _, s := range job.StepList {
		assert.Equal(a.t, "done", s.State, s.Code)
	}
}

// Whole jobs at the stand, at a fresh sign-in on the day's first job, warnings included and two readings typed: so many presses
// and no more (handbook: stand), and nothing is asked twice.
func TestPressesOfWholeJobs(t *testing.T) {
	t.Parallel()
	for _, job := range []struct {
		route        string
		most         int
		width, depth int64
		intake       map[string]any
	}{
		{"quick", 14, 1280, 800, nil},
		{"tray", 16, 1024, 768, map[string]any{"drivetrain_grade": 3}},
		{"soak", 22, 390, 844, map[string]any{"drivetrain_grade": 3}},
		{"strip", 34, 1280, 800, map[string]any{"drivetrain_grade": 4}},
	} {
		t.Run(job.route, func(t *testing.T) {
			t.Parallel()
			s := startServer(t)
			c := s.client()
			c.rules(func(rules map[string]any) { rules["work"].(map[string]any)["blower"] = true })
			c.do("POST", "/stock", map[string]any{"kind": "joining-link", "facts": map[string]any{"name": "Eleven-speed links", "sprockets": 11, "quantity": 3, "low_mark": 1}}, "", http.StatusCreated, nil)
			_, id := bikeIn(c, "Ottoline Brack", job.route, job.intake)
			a := &atStand{tab: s.open(startBrowser(t), job.width, job.depth), c: c, job: id}
			a.signIn("Mira Oxenholt", "2718")
			a.visit("/jobs/" + id)
			a.sees("[data-testid=block-title]", "Look and set up")
			a.whole()
			t.Logf("%s: %d presses of %d", job.route, a.presses, job.most)
			assert.LessOrEqual(t, a.presses, job.most)
			slices.Sort(a.asked)
			assert.Equal(t, slices.Compact(slices.Clone(a.asked)), a.asked, "nothing is asked twice")
		})
	}
}

// What one press did is taken back with one press, and stands as before.
func TestBlockTakenBackOnThePage(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	_, id := bikeIn(c, "Ottoline Brack", "quick", nil)
	a := &atStand{tab: s.open(startBrowser(t), 1280, 800), c: c, job: id}
	a.signIn("Mira Oxenholt", "2718")
	a.visit("/jobs/" + id)
	a.sees("[data-testid=block-title]", "Look and set up")
	a.next()
	a.sees("[data-testid=block-title]", "Drivetrain on the bike")
	a.sees("[data-testid=slip]", "Done: 4 steps of look and set up")
	a.pressIn("[data-testid=slip]", "Take it back")
	a.sees("[data-testid=block-title]", "Look and set up")
	a.until(`document.querySelectorAll('[data-testid=slip]').length === 0 && document.querySelectorAll('[data-testid^=line-][data-state=begun]').length === 1`, "the block again")
}
