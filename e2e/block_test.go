package e2e

import (
	"net/http"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
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
		?? (document.querySelector('[data-testid=block-done]')?.innerText.startsWith('Start') ? document.querySelector('[data-testid=block-done]:not(:disabled)') : undefined)
		?? [...document.querySelectorAll('main button')].find(e => e.innerText === 'Pass' && !e.disabled)
		?? document.querySelector('[data-testid=block-done]:not(:disabled)');
	window.blockBefore = ` + shownBlock + `;
	button?.click();
	return button !== undefined && button !== null;
})()`

// A quick clean is worked in blocks: warnings once a block, one button for all of it, safety checks by themselves; a fault can
// be noted at any time, and what was ticked by itself stays ticked.
func TestJobInBlocks(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	tag := c.addBike("Ottoline Brack", map[string]any{"drivetrain_kind": "derailleur", "sprocket_count": 11, "motor": "none", "brakes": "disc", "lubricant": "all-weather", "chain_links": 114})
	c.do("POST", "/bikes/"+tag+"/chain", map[string]any{"odometer_km": 1000}, "", http.StatusCreated, nil)
	c.do("POST", "/bikes/"+tag+"/measurements", map[string]any{"instrument_id": instrument(c, "gauge-percent"), "entries": []map[string]any{{"place": 1, "text": "0.18"}}}, "", http.StatusCreated, nil)
	var job struct {
		ID      string
		Version int
	}
	c.do("POST", "/bikes/"+tag+"/jobs", map[string]any{"frame_grade": 1, "drivetrain_grade": 2, "drivetrain_only": true, "complaints": []string{}}, "", http.StatusCreated, &job)
	c.do("PUT", "/jobs/"+job.ID+"/plan", map[string]any{"version": job.Version}, "", http.StatusOK, nil)

	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/jobs/" + job.ID)
	b.press("In blocks")
	b.sees("[data-testid=block-title]", "Look and set up")
	presses, takenBack := 0, false
	for !get(b, chromedp.Evaluate[bool](`document.querySelector('h1')?.innerText === 'All steps are done'`)) {
		if get(b, chromedp.Evaluate[bool](`document.querySelector('h1')?.innerText.startsWith('Nothing to do')`)) {
			b.endWait("") // nobody waits here
			b.until("document.querySelector('[data-testid=block-title]') !== null || document.querySelector('h1')?.innerText === 'All steps are done'", "the next block")
			continue
		}
		b.until(pressBlock, "something to press")
		presses++
		before := get(b, chromedp.Evaluate[string](`window.blockBefore`))
		b.until(shownBlock+` !== `+strconv.Quote(before), "what comes after %s", before)
		if after := get(b, chromedp.Evaluate[string](shownBlock)); !takenBack && !strings.HasPrefix(after, "Look and set up") { // a slip of the hand
			takenBack = true
			b.sees("[data-testid=slip]", "Done: 5 steps of look and set up")
			b.pressIn("[data-testid=slip]", "Take it back")
			b.until(`document.querySelectorAll('[data-testid=slip]').length === 0 && document.querySelector('[data-testid=block-title]').innerText === 'Look and set up' && document.querySelectorAll('[data-testid^=line-][data-state=begun]').length === 1`, "the block again")
		}
	}
	assert.True(t, takenBack, "what one press did was offered to be taken back")
	t.Logf("a quick clean without a wash: %d presses", presses)
	assert.LessOrEqual(t, presses, 30)
	b.press("Hand back")
	b.pressIn("dialog", "Hand back")
	b.sees("main", "Both brakes tested")
}
