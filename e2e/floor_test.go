package e2e

import (
	"context"
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// openAllDay has the shop open day and night: tests run at any time.
func (c *client) openAllDay() {
	c.t.Helper()
	var view struct {
		Version int
		Rules   map[string]any
	}
	c.do("GET", "/rules", nil, "", http.StatusOK, &view)
	hours := map[string]any{}
	for _, day := range []string{"monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"} {
		hours[day] = []any{map[string]string{"from": "00:00", "until": "24:00"}}
	}
	view.Rules["floor"].(map[string]any)["hours"] = hours
	c.do("PUT", "/rules", map[string]any{"version": view.Version, "rules": view.Rules}, "", http.StatusOK, nil)
}

type floorView struct {
	Stints []struct {
		Job, Tag, Step, Title, Person, State string
		Start                                time.Time
	}
	Jobs []struct {
		Job, Tag   string
		PromisedAt *time.Time `json:"promised_at"`
		LateMin    int        `json:"late_min"`
	}
	Moved   []struct{ Tag, Title string }
	Because []struct{ What, Tag string }
}

func (c *client) floor() (v floorView) {
	c.t.Helper()
	c.do("GET", "/floor", nil, "", http.StatusOK, &v)
	return v
}

// pass has some time pass for whoever is at a step and for the plan on the wall: both are as old as if it had.
// What waits for a clock is not waited for.
func (s *server) pass(by time.Duration) {
	s.t.Helper()
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, s.dsn)
	require.NoError(s.t, err)
	defer func() { _ = conn.Close(ctx) }()
	tx, err := conn.Begin(ctx)
	require.NoError(s.t, err)
	var plan map[string]any
	require.NoError(s.t, tx.QueryRow(ctx, `select plan from wall for update`).Scan(&plan))
	for _, step := range plan["steps"].([]any) {
		for _, edge := range []string{"start", "end"} {
			at, err := time.Parse(time.RFC3339, step.(map[string]any)[edge].(string))
			require.NoError(s.t, err)
			step.(map[string]any)[edge] = at.Add(-by)
		}
	}
	_, err = tx.Exec(ctx, `update wall set version = version + 1, plan = $1, until = until - make_interval(secs => $2)`, plan, by.Seconds())
	require.NoError(s.t, err)
	_, err = tx.Exec(ctx, `update job_steps set begun_at = begun_at - make_interval(secs => $1) where state = 'begun'`, by.Seconds())
	require.NoError(s.t, err)
	require.NoError(s.t, tx.Commit(ctx))
}

// Three jobs arrive, the last with the promise that is offered; a step is begun and takes far too long; the wall
// moves, says why, and keeps the promise, while a second browser follows.
func TestTheDayIsRunFromTheFloor(t *testing.T) {
	s := startServer(t)
	c := s.client()
	c.openAllDay()
	var tags []string
	for i, owner := range []string{"Tamsin Overcliffe", "Ewart Pimblett", "Casimir Ogle"} {
		tags = append(tags, c.addBike(owner, twelveSpeed))
		if i == 2 {
			continue
		}
		var job struct {
			ID      string
			Version int
		}
		c.do("POST", "/bikes/"+tags[i]+"/jobs", map[string]any{"frame_grade": 2, "drivetrain_grade": 2, "complaints": []string{}, "promised_at": time.Now().Add(8 * time.Hour).UTC()}, "", 201, &job)
		c.do("PUT", "/jobs/"+job.ID+"/plan", map[string]any{"version": job.Version}, "", 200, nil)
	}

	browser := startBrowser(t)
	mira := s.open(browser, 1280, 800)
	mira.signIn("Mira Oxenholt", "2718")
	tobiah := s.open(startBrowser(t), 1280, 800)
	tobiah.signIn("Tobiah Marsh", "3141")
	tobiah.visit("/floor")
	tobiah.sees("[data-testid=hands]", "Tobiah M.")

	// The third bike: the earliest promise is offered, taken, and the bike taken in with it.
	mira.visit("/bikes/" + tags[2] + "/clean")
	mira.press("Black finger")
	mira.press("Dust")
	mira.sees("[data-testid=offer]", "beside 2 jobs on the floor, none of them later for it")
	mira.press("Promise that")
	mira.sees("[data-testid=offer]", "Earliest")
	mira.press("Take the bike in")
	mira.sees("main", "Recommended")
	mira.press("Plan bath")
	mira.press("Plan it")
	mira.sees("[data-testid=step-title]", "")
	before := c.floor()
	require.Len(t, before.Jobs, 3)
	offered := before.Jobs[0]
	for _, j := range before.Jobs {
		assert.Zero(t, j.LateMin, "%s is promised for a time that can be kept", j.Tag)
		if j.Tag == tags[2] {
			offered = j
		}
	}
	require.NotNil(t, offered.PromisedAt)
	tobiah.sees("main", "In work 3")

	// Mira starts what is next for her; the other screen says so.
	mira.visit("/floor")
	mira.press("Start")
	title := ""
	mira.until("location.pathname.startsWith('/jobs/')", "the job")
	tobiah.until(`[...document.querySelectorAll('[data-testid=hands]')].some(e => e.innerText.includes('Mira O.') && e.innerText.includes('so far of'))`, "Mira at work on the other screen")
	var at struct{ step, tag string }
	for _, st := range c.floor().Stints {
		if st.State == "begun" {
			at.step, at.tag, title = st.Step, st.Tag, st.Title
		}
	}
	require.NotEmpty(t, at.step)

	// It takes three quarters of an hour longer than it was given.
	s.pass(45 * time.Minute)
	tobiah.visit("/floor")
	tobiah.sees("[data-testid=told]", fmt.Sprintf("“%s” of %s takes", title, at.tag[2:6]))
	after := c.floor()
	assert.Equal(t, "took-longer", after.Because[0].What)
	assert.NotEmpty(t, after.Moved)
	assert.Less(t, len(after.Moved), len(after.Stints), "and not everything")
	tobiah.do(chromedp.WaitVisible(chromedp.CSS("[data-testid=stint][data-state=over]")))

	// The promise that was offered is kept all the same; the step is done, and the next goes on.
	for _, j := range after.Jobs {
		if j.Tag == tags[2] {
			assert.Zero(t, j.LateMin)
			assert.Equal(t, offered.PromisedAt, j.PromisedAt)
		}
	}
	mira.main(title)
	mira.until(fmt.Sprintf("document.querySelector('[data-testid=step-title]')?.innerText !== %q", title), "the step after it")
	mira.visit("/floor")
	mira.sees("[data-testid=hands]", "Go on")
	tobiah.until(`document.querySelector('[data-testid=stint][data-state=over]') === null`, "the step to be done on the other screen")

	// A promise is changed from the rail, with what it costs seen before.
	mira.until(fmt.Sprintf(`(() => {
		const flag = document.querySelector('[data-testid=flag][aria-label*=%q]');
		const days = [...document.querySelectorAll('nav[aria-label=Days] button')].filter(b => b.innerText !== 'The whole day');
		(flag ?? days[(days.findIndex(b => b.ariaPressed === 'true') + 1) %% days.length])?.click(); // it may be promised for tomorrow
		return flag !== null;
	})()`, tags[0]), "the flag of the first bike")
	mira.sees("dialog", "On the wall it is done at")
	soon := time.Now().Add(15 * time.Minute)
	get(mira, chromedp.Evaluate[bool](fmt.Sprintf(`(() => {
		const field = document.querySelector('dialog input[type=datetime-local]');
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, %q);
		return field.dispatchEvent(new Event('input', { bubbles: true }));
	})()`, soon.Format("2006-01-02T15:04"))))
	mira.sees("[data-testid=would-cost]", "late.")
	mira.press("Promise it by")
	mira.until("document.querySelector('dialog[open]') === null", "the dialog to close")
	mira.sees("[data-testid=told]", "late:")
	tobiah.sees("[data-testid=told]", "late:")
}
