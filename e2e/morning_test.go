package e2e

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/core/dayplan"
)

// A morning of four people as it goes: bikes come in, somebody goes home and is here after all, a piece of work takes too long,
// an owner comes earlier, another asks on the phone when theirs could be ridden. What moves moves only where it must, what is promised is kept, and the sheet says what the
// plan does.
func TestAMorningThatPeopleFollow(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	s.pony("1618\n", "person", "Maud Kestle")
	s.pony("5772\n", "person", "--role", "apprentice", "Posy Peake")
	c := s.client()
	c.openAllDay()
	var jobs, tags []string
	for _, owner := range []string{"Tamsin Overcliffe", "Ewart Pimblett", "Casimir Ogle", "Ottoline Brack"} {
		tags = append(tags, c.addBike(owner, twelveSpeed))
		jobs = append(jobs, c.takeIn(tags[len(tags)-1], map[string]any{"frame_grade": 2, "drivetrain_grade": 2, "promised_at": time.Now().Add(9 * time.Hour).UTC()}, nil))
	}
	guessed := c.addBike("Isolde Marrick", twelveSpeed)
	c.do("POST", "/bikes/"+guessed+"/jobs", map[string]any{"frame_grade": 1, "drivetrain_grade": 1, "complaints": []string{}}, "", http.StatusCreated, nil)

	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/today")
	b.do(chromedp.WaitVisible(chromedp.CSS("[data-testid=stint].guess")))

	// One mechanic keeps a bike, more often than not.
	people := map[string]map[string]bool{}
	for _, st := range c.floor().Stints {
		if people[st.Job] == nil {
			people[st.Job] = map[string]bool{}
		}
		people[st.Job][st.Person] = true
	}
	byOne := 0
	for _, job := range jobs {
		if len(people[job]) == 1 {
			byOne++
		}
	}
	assert.GreaterOrEqual(t, 2*byOne, len(jobs), "%v", people)

	// Tobiah goes home: what was his moves, what was others' stays where it could.
	tobiah := tobiahID(c)
	stood := c.floor()
	day := inShop(time.Now()).Format(time.DateOnly)
	theirs := func(v floorView) (n int) { // of today: he is back tomorrow, which may not be far
		for _, st := range v.Stints {
			if st.Person == tobiah && inShop(st.Start).Format(time.DateOnly) == day {
				n++
			}
		}
		return n
	}
	require.Positive(t, theirs(stood))
	wall := c.explain()
	b.until(`(() => { const e = document.querySelector('[aria-label="Goes home or comes later: Tobiah Marsh"]'); e?.click(); return e !== null; })()`, "the way home")
	b.pressIn("dialog .modal-box > form > div", "Goes home now")
	b.sees("[data-testid=told]", "Tobiah Marsh is away")
	is := c.floor()
	assert.Zero(t, theirs(is))
	assert.Empty(t, inVain(t, wall, c.explain()), "it moves only what it must")
	b.press("Here after all")
	b.until(`document.querySelector('[aria-label="Goes home or comes later: Tobiah Marsh"]') !== null`, "that he is here")

	// Mira begins what is next for her, and it takes too long: what waits for it or for her moves.
	b.press("Start")
	b.until("location.pathname.startsWith('/jobs/')", "the job")
	b.allSent()
	b.do(chromedp.Navigate("about:blank")) // nobody asks for the day while time is turned
	stood = c.floor()
	i := slices.IndexFunc(stood.Stints, func(st floorStint) bool { return st.State == "begun" || st.State == "over" })
	require.GreaterOrEqual(t, i, 0)
	wall = c.explain()
	passed := time.Until(stood.Stints[i].End).Truncate(time.Minute) + 6*time.Minute
	s.pass(passed)
	is = c.floor()
	assert.Equal(t, "took-longer", is.Because[0].What)
	now := c.explain()
	assert.Empty(t, inVain(t, wall.earlier(passed), now), "it moves only what it must")
	// And it would be seen: what ends the day ends it a minute later for nothing.
	moved := explained{Midnight: now.Midnight, Problem: now.Problem, Wall: slices.Clone(now.Wall)}
	last := &moved.Wall[0]
	for i := range moved.Wall {
		if moved.Wall[i].End > last.End {
			last = &moved.Wall[i]
		}
	}
	last.Start, last.End = last.Start+1, last.End+1
	assert.Equal(t, []dayplan.Placed{*last}, inVain(t, now, moved))

	// An owner comes earlier than was said.
	wall = c.explain()
	var job struct{ Version int }
	c.do("GET", "/jobs/"+jobs[3], nil, "", http.StatusOK, &job)
	c.do("PUT", "/jobs/"+jobs[3]+"/promise", map[string]any{"version": job.Version, "promised_at": time.Now().Add(3 * time.Hour).UTC()}, "", http.StatusOK, nil)
	is = c.floor()
	assert.Empty(t, inVain(t, wall, c.explain()), "it moves only what it must")
	for _, j := range is.Jobs {
		assert.Zero(t, j.LateMin, j.Tag)
	}

	// On the phone: when could it be ridden? What is promised is kept.
	asked := c.addBike("Lowen Tregarth", twelveSpeed)
	b.visit("/bikes/" + asked + "/clean")
	b.press("Black finger")
	b.press("Dust")
	b.press("When could it be ridden?")
	b.sees("[data-testid=wanted]", "the right one for it")
	b.pressIn("[data-testid=wanted]", "Promise that")
	b.until(`document.querySelector('[data-testid=promised-route]') !== null`, "what was promised")
	b.press("Book the bike in")
	b.sees("main", "Promised")
	for _, j := range c.floor().Jobs {
		assert.Zero(t, j.LateMin, j.Tag)
		assert.True(t, j.Tag != asked || j.PromisedAt != nil)
	}

	// The sheet of the day says of each bike when it is begun on, as the plan does.
	b.visit("/today/sheet?day=" + day)
	b.sees("main", "Bike by bike")
	first := map[string]time.Time{}
	for _, st := range c.floor().Stints {
		if at, known := first[st.Tag]; inShop(st.Start).Format(time.DateOnly) == day && (!known || st.Start.Before(at)) {
			first[st.Tag] = st.Start
		}
	}
	said := get(b, chromedp.Evaluate[[]string](`[...document.querySelectorAll('[data-testid=sheet-job]')].map(e => e.innerText.replace(/\s+/g, ' '))`))
	require.Len(t, said, len(first))
	for tag, at := range first {
		assert.True(t, slices.ContainsFunc(said, func(line string) bool {
			return strings.Contains(line, tag) && strings.HasPrefix(line, fmt.Sprintf("%02d:%02d", inShop(at).Hour(), inShop(at).Minute()))
		}), "%s at %s: %q", tag, at, said)
	}

	// On a phone everybody has their own day as a list.
	b.resize(390, 844)
	b.visit("/today")
	b.until(`document.querySelector('[aria-label^="One person"]')?.offsetParent && document.querySelector('[data-testid=rail]')?.offsetParent === null`, "a list and no rail")
}

// The day is changed over a line that is slow, refuses and loses answers, by two people at once, and while the server is gone:
// whoever goes home does so once, what is pinned and promised is kept once, and what was typed is still there afterwards.
func TestTheDayIsChangedOverABadLine(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	c.openAllDay()
	for _, owner := range []string{"Tamsin Overcliffe", "Ewart Pimblett"} {
		c.takeIn(c.addBike(owner, twelveSpeed), map[string]any{"frame_grade": 2, "drivetrain_grade": 2, "promised_at": time.Now().Add(9 * time.Hour).UTC()}, nil)
	}
	asked := c.addBike("Lowen Tregarth", twelveSpeed)
	far := s.over(badLine{late: time.Second, refuses: 3, lose: 2}).open(startBrowser(t), 1280, 800)
	far.signIn("Mira Oxenholt", "2718")
	near := s.open(startBrowser(t), 1280, 800)
	near.signIn("Mira Oxenholt", "2718")
	const way = `document.querySelector('[aria-label="Goes home or comes later: Tobiah Marsh"]')`
	away := func() (n int) {
		var floor struct {
			People []struct{ Away []struct{ ID string } }
		}
		c.do("GET", "/floor", nil, "", http.StatusOK, &floor)
		for _, p := range floor.People {
			n += len(p.Away)
		}
		return n
	}
	// persists presses, twice each time, until it is so.
	persists := func(b *tab, pressed, so, what string) {
		b.t.Helper()
		b.until(`(() => { // what a line that refuses says is read, and pressed again
			if (`+so+`) return true;
			const button = `+pressed+`;
			if (button && !button.disabled) { button.click(); button.click(); }
			return false;
		})()`, "%s", what)
	}
	const goes = `[...document.querySelectorAll('dialog[open] .modal-box > form > div button')].find(b => b.innerText === 'Goes home now')`

	// Both see him go.
	for _, b := range []*tab{far, near} {
		b.visit("/today")
		b.until(way+" !== null", "the way home")
	}
	for _, b := range []*tab{near, far} {
		get(b, chromedp.Evaluate[bool](way+`.click() || true`))
		b.until(goes+` !== undefined`, "the dialog")
	}
	for _, b := range []*tab{near, far} {
		persists(b, goes, `!document.querySelector('dialog[open]')`, "him to be away")
	}
	assert.Equal(t, 1, away())

	// Both see that he is here after all.
	const here = `[...document.querySelectorAll('button')].find(b => b.innerText === 'Here after all')`
	for _, b := range []*tab{near, far} {
		b.until(here+" !== undefined", "that he is away")
	}
	for _, b := range []*tab{far, near} {
		persists(b, here, way+" !== null", "him to be here")
		assert.NotContains(t, b.text("main"), "not found")
	}
	assert.Zero(t, away())

	// A piece of work is to begin at a time, by both: it does, once, and both see it.
	first := func(v floorView) floorStint {
		i := slices.IndexFunc(v.Stints, func(st floorStint) bool { return st.State == "planned" || st.State == "ready" })
		require.GreaterOrEqual(t, i, 0)
		return v.Stints[i]
	}(c.floor())
	at := time.Now().Add(3 * time.Hour).Truncate(time.Minute)
	for _, b := range []*tab{near, far} {
		b.until(fmt.Sprintf(`(() => {
			const e = [...document.querySelectorAll('[data-testid=stint][data-step=%q]')].find(e => e.title.startsWith(%q)); // other bikes have such a step, too
			e?.click();
			return e !== undefined;
		})()`, first.Step, first.Tag), "the work")
		b.sees("dialog", "Begins at, if it must")
		b.fill("begins", inShop(at).Format("2006-01-02T15:04"))
	}
	const keeps = `[...document.querySelectorAll('dialog[open] .modal-box > form > div button')].find(b => b.innerText === 'Keep it so')`
	for _, b := range []*tab{near, far} {
		persists(b, keeps, `!document.querySelector('dialog[open]')`, "it to be kept so")
	}
	i := slices.IndexFunc(c.floor().Stints, func(st floorStint) bool { return st.Job == first.Job && st.Step == first.Step })
	require.GreaterOrEqual(t, i, 0)
	assert.WithinDuration(t, at, c.floor().Stints[i].Start, 0)

	// On the phone over the bad line; and the server goes and comes back before the bike is booked in.
	far.visit("/bikes/" + asked + "/clean")
	far.press("Black finger")
	far.press("Dust")
	far.press("When could it be ridden?")
	far.sees("[data-testid=wanted]", "the right one for it")
	s.kill()
	far.pressIn("[data-testid=wanted]", "Promise that")
	far.until(`document.querySelector('[data-testid=promised-route]') !== null`, "what was promised, though nobody answers")
	s.start()
	persists(far, `[...document.querySelectorAll('main button')].find(b => b.innerText.startsWith('Book the bike in'))`, `document.querySelector('main').innerText.includes('Change what was seen')`, "it to be booked in")
	far.allSent()
	var jobs []struct{ ID string }
	c.do("GET", "/bikes/"+asked+"/jobs", nil, "", http.StatusOK, &jobs)
	require.Len(t, jobs, 1)
	var in struct {
		Intake struct {
			PromisedAt *time.Time `json:"promised_at"`
		}
	}
	c.do("GET", "/jobs/"+jobs[0].ID, nil, "", http.StatusOK, &in)
	assert.NotNil(t, in.Intake.PromisedAt)

	// What was ticked off the sheet is ticked where the server is away, and afterwards.
	near.visit("/today/sheet?day=" + inShop(time.Now()).Format(time.DateOnly))
	near.sees("main", "Bike by bike")
	s.kill()
	const ticked = `document.querySelector('[data-testid=sheet-job] input')`
	get(near, chromedp.Evaluate[bool](ticked+`.click() || true`))
	near.until(ticked+".checked", "the tick")
	s.start()
	near.visit("/today/sheet?day=" + inShop(time.Now()).Format(time.DateOnly))
	near.until(ticked+"?.checked", "the tick again")
}
