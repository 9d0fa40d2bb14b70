package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/core/dayplan"
)

// openAllDay has the shop open day and night, as tests run at any time, and with places enough that only hands are short.
func (c *client) openAllDay() {
	c.t.Helper()
	hours := map[string]any{}
	for _, day := range []string{"monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"} {
		hours[day] = []any{map[string]string{"from": "00:00", "until": "24:00"}}
	}
	c.rules(func(rules map[string]any) {
		floor := rules["floor"].(map[string]any)
		floor["hours"] = hours
		for place := range floor["places"].(map[string]any) {
			floor["places"].(map[string]any)[place] = 4
		}
	})
}

type floorStint struct {
	Job, Tag, Step, Title, Person, State string
	Start, End                           time.Time
}

type floorView struct {
	Stints  []floorStint
	Jobs    []floorJob
	Moved   []struct{ Tag, Title string }
	Because []struct{ What, Tag string }
	MadeAt  time.Time `json:"made_at"`
}

type floorJob struct {
	Job, Tag   string
	PromisedAt *time.Time `json:"promised_at"`
	FinishAt   time.Time  `json:"finish_at"`
	LateMin    int        `json:"late_min"`
}

// explained is a day as it was to be planned, and the plan on the wall: what pony day prints.
type explained struct {
	Midnight time.Time        `json:"midnight"`
	MadeAt   time.Time        `json:"made_at"`
	Problem  dayplan.Problem  `json:"problem"`
	Wall     []dayplan.Placed `json:"wall"`
}

// explain looks at the wall, has it made anew where that is called for, and says how it came to be.
func (c *client) explain() (e explained) {
	c.t.Helper()
	// What the clock makes untrue between looking and printing is printed of two moments: the wall is made anew then.
	for made := c.floor().MadeAt; ; {
		e = explained{}
		require.NoError(c.t, json.Unmarshal([]byte(c.pony("", "day")), &e))
		still := c.floor().MadeAt
		if still.Equal(made) {
			break
		}
		made = still
	}
	// As it was when the plan was made: what came in had come by then.
	e.Problem.Now = dayplan.Minute(e.MadeAt.Sub(e.Midnight) / time.Minute)
	for i := range e.Problem.Jobs {
		e.Problem.Jobs[i].Arrives = min(e.Problem.Jobs[i].Arrives, e.Problem.Now)
	}
	return e
}

// earlier is the wall as if it had been drawn up so long before.
func (e explained) earlier(by time.Duration) explained {
	e.Wall = slices.Clone(e.Wall)
	for i := range e.Wall {
		e.Wall[i].Start -= dayplan.Minute(by / time.Minute)
		e.Wall[i].End -= dayplan.Minute(by / time.Minute)
	}
	return e
}

// inVain are the steps that moved from one wall to the next though each could have stayed: put back it breaks no rule, makes no
// promise later, and is worth no less, by the checker that knows nothing of how plans are made.
func inVain(t *testing.T, stood, is explained) (all []dayplan.Placed) {
	t.Helper()
	stood = stood.earlier(is.Midnight.Sub(stood.Midnight)) // in minutes from the same midnight
	p := is.Problem
	p.Previous = stood.Wall
	broken := func(steps []dayplan.Placed) (found []string) {
		plan := dayplan.Plan{Steps: steps}
		for _, v := range dayplan.Check(p, plan) {
			if v.Code != "cost" && v.Code != "late" && v.Code != "order" && v.Code != "missing" {
				found = append(found, v.String())
			}
		}
		return found
	}
	require.Empty(t, broken(is.Wall), "the wall itself keeps the rules")
	cost := dayplan.CostOf(p, is.Wall)
	for i, s := range is.Wall {
		k := slices.IndexFunc(stood.Wall, func(w dayplan.Placed) bool { return w.Job == s.Job && w.Step == s.Step })
		if k < 0 || stood.Wall[k].Start == s.Start && stood.Wall[k].Person == s.Person {
			continue
		}
		back := slices.Clone(is.Wall)
		back[i].Start, back[i].Person = stood.Wall[k].Start, stood.Wall[k].Person
		back[i].End = back[i].Start + s.End - s.Start
		if len(broken(back)) == 0 && !cost.Less(dayplan.CostOf(p, back), p.Weights) {
			all = append(all, s)
		}
	}
	return all
}

func (c *client) floor() (v floorView) {
	c.t.Helper()
	c.do("GET", "/floor", nil, "", http.StatusOK, &v)
	return v
}

// direct is an address of a database as it is without a pool.
func direct(dsn string) string { return strings.TrimSuffix(dsn, "&pool_max_conns=1") }

// pass has some time pass for whoever is at a step and for the plan on the wall: both are as old as if it had.
// What waits for a clock is not waited for.
func (s *server) pass(by time.Duration) {
	s.t.Helper()
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, direct(s.dsn))
	require.NoError(s.t, err)
	defer func() { _ = conn.Close(ctx) }()
	tx, err := conn.Begin(ctx)
	require.NoError(s.t, err)
	var plan map[string]any
	require.NoError(s.t, tx.QueryRow(ctx, `select plan from day_plan for update`).Scan(&plan))
	for _, step := range plan["steps"].([]any) {
		for _, edge := range []string{"start", "end"} {
			at, err := time.Parse(time.RFC3339, step.(map[string]any)[edge].(string))
			require.NoError(s.t, err)
			step.(map[string]any)[edge] = at.Add(-by)
		}
	}
	_, err = tx.Exec(ctx, `update day_plan set version = version + 1, plan = $1, until = until - make_interval(secs => $2)`, plan, by.Seconds())
	require.NoError(s.t, err)
	_, err = tx.Exec(ctx, `update job_steps set begun_at = begun_at - make_interval(secs => $1) where state = 'begun'`, by.Seconds())
	require.NoError(s.t, err)
	require.NoError(s.t, tx.Commit(ctx))
}

// Three jobs arrive, the last with the promise that is offered; a step is begun and takes far too long; the wall
// moves, says why, and keeps the promise, while a second browser follows.
func TestTheDayIsRunFromTheFloor(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	c.oneByOne()
	c.openAllDay()
	var tags []string
	for i, owner := range []string{"Tamsin Overcliffe", "Ewart Pimblett", "Casimir Ogle"} {
		tags = append(tags, c.addBike(owner, twelveSpeed))
		if i < 2 {
			c.takeIn(tags[i], map[string]any{"frame_grade": 2, "drivetrain_grade": 2, "promised_at": time.Now().Add(8 * time.Hour).UTC()}, nil)
		}
	}

	browser := startBrowser(t)
	mira := s.open(browser, 1280, 800)
	mira.signIn("Mira Oxenholt", "2718")
	tobiah := s.open(startBrowser(t), 1280, 800)
	tobiah.signIn("Tobiah Marsh", "3141")
	tobiah.visit("/today")
	tobiah.sees("[data-testid=hands]", "Tobiah M.")

	// The third bike: the earliest promise is offered, taken, and the bike taken in with it.
	offeredAt := time.Now()
	mira.visit("/bikes/" + tags[2] + "/clean")
	mira.press("Black finger")
	mira.press("Dust")
	mira.sees("[data-testid=offer]", "beside 2 jobs in the workshop, none of them later for it")
	mira.press("Promise that")
	mira.sees("[data-testid=offer]", "Earliest")
	mira.press("Book the bike in")
	mira.sees("main", "Recommended")
	mira.press("Plan clip-on cleaner")
	mira.press("Plan it")
	mira.sees("[data-testid=step-title]", "")
	before := c.floor()
	require.Len(t, before.Jobs, 3)
	offered := before.Jobs[0]
	for _, j := range before.Jobs {
		assert.LessOrEqual(t, j.LateMin, int(time.Since(offeredAt).Minutes())+1, "%s is promised for a time that can be kept", j.Tag)
		if j.Tag == tags[2] {
			offered = j
		}
	}
	require.NotNil(t, offered.PromisedAt)
	tobiah.sees("main", "In progress 3")

	// Both start what is next for them; each sees it of the other.
	mira.visit("/today")
	mira.press("Start")
	mira.until("location.pathname.startsWith('/jobs/')", "the job")
	atWork := func(name string) string {
		return fmt.Sprintf(`[...document.querySelectorAll('[data-testid=hands]')].some(e => e.innerText.includes(%q) && e.innerText.includes('so far of'))`, name)
	}
	tobiah.until(atWork("Mira O."), "Mira at work on the other screen")
	tobiah.press("Start")
	tobiah.until("location.pathname.startsWith('/jobs/')", "the job")
	mira.visit("/today")
	mira.until(atWork("Tobiah M."), "Tobiah at work on the other screen")
	stood := c.floor()
	var hers floorStint
	for _, st := range stood.Stints {
		if (st.State == "begun" || st.State == "over") && st.Person != tobiahID(c) { // a step of one minute may be over its time already
			hers = st
		}
	}
	require.NotEmpty(t, hers.Title)
	wall := c.explain()

	// Hers takes longer than it was given.
	passed := time.Until(hers.End).Truncate(time.Minute) + 4*time.Minute
	s.pass(passed)
	tobiah.visit("/today")
	tobiah.sees("[data-testid=told]", fmt.Sprintf("“%s” of %s takes", hers.Title, hers.Tag[2:6]))
	after := c.floor()
	assert.Equal(t, "took-longer", after.Because[0].What)
	assert.NotEmpty(t, after.Moved)
	assert.Less(t, len(after.Moved), len(after.Stints), "somebody whose turn is later stays")
	assert.Empty(t, inVain(t, wall.earlier(passed), c.explain()), "it moves only what it must")
	tobiah.do(chromedp.WaitVisible(chromedp.CSS("[data-testid=stint][data-state=over]")))

	// The promise that was offered is kept all the same; the step is done, and the next goes on.
	for _, j := range after.Jobs {
		if j.Tag == tags[2] {
			assert.LessOrEqual(t, j.LateMin, int(time.Since(offeredAt).Minutes())+1)
			assert.Equal(t, offered.PromisedAt, j.PromisedAt)
		}
	}
	mira.visit("/jobs/" + hers.Job)
	mira.main(hers.Title)
	mira.until(fmt.Sprintf("document.querySelector('[data-testid=step-title]')?.innerText !== %q", hers.Title), "the step after it")
	mira.visit("/today")
	mira.sees("[data-testid=hands]", "Continue")
	tobiah.until(fmt.Sprintf(`![...document.querySelectorAll('[data-testid=stint][data-state=over]')].some(e => e.title.startsWith(%q))`, hers.Tag+" "+hers.Title), "the step to be done on the other screen")

	// A promise is changed from the rail, with what it costs seen before.
	mira.until(fmt.Sprintf(`(() => {
		const flag = document.querySelector('[data-testid=flag][aria-label*=%q]');
		const days = [...document.querySelectorAll('nav[aria-label=Days] button')].filter(b => b.innerText !== 'The whole day');
		(flag ?? days[(days.findIndex(b => b.ariaPressed === 'true') + 1) %% days.length])?.click(); // it may be promised for tomorrow
		return flag !== null;
	})()`, tags[0]), "the flag of the first bike")
	mira.sees("dialog", "In the plan it is done at")
	soon := time.Now().Add(15 * time.Minute)
	get(mira, chromedp.Evaluate[bool](fmt.Sprintf(`(() => {
		const field = document.querySelector('dialog input[type=datetime-local]');
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, %q);
		return field.dispatchEvent(new Event('input', { bubbles: true }));
	})()`, inShop(soon).Format("2006-01-02T15:04"))))
	mira.sees("[data-testid=would-cost]", "late.")
	mira.press("Promise it by")
	mira.until("document.querySelector('dialog[open]') === null", "the dialog to close")
	mira.sees("[data-testid=told]", "late:")
	tobiah.sees("[data-testid=told]", "late:")
}

// On a tablet a finger rests on a piece of work, carries it to somebody else's lane, sees what that costs, and leaves it
// there: it is theirs from then on.
func TestWorkIsCarriedByAFinger(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	c.openAllDay()
	c.takeIn(c.addBike("Tamsin Overcliffe", twelveSpeed), map[string]any{"frame_grade": 2, "drivetrain_grade": 2}, nil)
	b := s.open(startBrowser(t), 1280, 800)
	_, err := chromedp.Call(b.ctx, emulation.SetTouchEmulationEnabled, emulation.SetTouchEmulationEnabledParams{Enabled: true})
	require.NoError(t, err)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/today")

	// The widest piece of work on the rail, and the lane of another mechanic.
	b.do(chromedp.WaitVisible(chromedp.CSS("[data-testid=stint]")))
	type carry struct {
		Step, To       string
		X, Y, ToX, ToY float64
	}
	way := get(b, chromedp.Evaluate[carry](`(() => {
		const all = [...document.querySelectorAll('[data-testid=stint][data-state=planned], [data-testid=stint][data-state=ready]')];
		const one = all.sort((a, b) => b.offsetWidth - a.offsetWidth)[0];
		one.scrollIntoView({ block: 'center' });
		const mine = one.closest('[data-person]');
		const other = [...document.querySelectorAll('[data-person]')].find(l => l !== mine && l.previousElementSibling.title !== 'Posy Peake');
		const [from, to] = [one.getBoundingClientRect(), other.getBoundingClientRect()];
		return { Step: one.dataset.step, To: other.dataset.person, X: from.x + from.width / 2, Y: from.y + from.height / 2, ToX: from.x + from.width / 2, ToY: to.y + to.height / 2 };
	})()`))
	touch := func(kind input.DispatchTouchEventType, at ...*input.TouchPoint) {
		_, err := chromedp.Call(b.ctx, input.DispatchTouchEvent, input.DispatchTouchEventParams{Type: kind, TouchPoints: append([]*input.TouchPoint{}, at...)})
		require.NoError(t, err)
	}
	touch(input.DispatchTouchEventTypeTouchStart, &input.TouchPoint{X: way.X, Y: way.Y})
	b.until("document.querySelector('[data-lifted=true]') !== null", "the work to be lifted")
	touch(input.DispatchTouchEventTypeTouchMove, &input.TouchPoint{X: way.X, Y: (way.Y + way.ToY) / 2})
	touch(input.DispatchTouchEventTypeTouchMove, &input.TouchPoint{X: way.ToX, Y: way.ToY})
	b.sees("[data-testid=cost]", "for ")
	b.sees("[data-testid=cost]", "move")
	touch(input.DispatchTouchEventTypeTouchEnd)
	b.until(fmt.Sprintf("document.querySelector('[data-person=%q] [data-step=%q]') !== null", way.To, way.Step), "the work in the other lane")
	i := slices.IndexFunc(c.floor().Stints, func(s floorStint) bool { return s.Step == way.Step })
	assert.Equal(t, way.To, c.floor().Stints[i].Person)
}
