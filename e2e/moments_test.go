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

// The step after a wait comes by itself when the wait ends: one browser, and nobody does anything.
func TestTheStepAfterAWaitComesByItself(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	c.oneByOne()
	id := c.takeIn(c.addBike("Sunniva Dunnage", twelveSpeed), map[string]any{"frame_grade": 1, "drivetrain_grade": 2}, nil)
	var job struct {
		HeldUntil *time.Time            `json:"held_until"`
		Next      struct{ Code string } `json:"next"`
		StepList  []struct {
			Code, Title, Standing string
			Cautions              []string
		} `json:"step_list"`
	}
	at := "/jobs/" + id
	for c.do("GET", at, nil, "", http.StatusOK, &job); job.HeldUntil == nil; {
		action := map[string]any{"action": "done"}
		for _, step := range job.StepList {
			if step.Code == job.Next.Code {
				action["seen"] = step.Cautions
			}
		}
		if job.Next.Code == "read-wear" {
			action = map[string]any{"action": "skip", "reason": "read last week"}
		}
		job.StepList = nil
		c.do("POST", at+"/steps/"+job.Next.Code, action, "", http.StatusOK, &job)
	}

	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit(at)
	b.sees("main", "Nothing to do here for now")
	// Of the wait only a few seconds are left.
	conn, err := pgx.Connect(t.Context(), direct(s.dsn))
	require.NoError(t, err)
	defer func() { _ = conn.Close(context.Background()) }()
	var end time.Time
	require.NoError(t, conn.QueryRow(t.Context(), `update waits set least_at = now() + interval '5 seconds' where ended_at is null returning least_at`).Scan(&end))
	b.visit(at)
	b.sees("main", "Nothing to do here for now")
	// Whether the page is in time is judged by a timer of its own, a second after the end: on a busy machine both are late.
	get(b, chromedp.Evaluate[bool](fmt.Sprintf(`(() => {
		const end = %d, asks = window.fetch;
		window.asked = [];
		window.fetch = (...a) => {
			const of = a[0] instanceof Request ? a[0].url : String(a[0]);
			if (of.endsWith(%q)) window.asked.push([Date.now() - end, window.over ?? false]);
			return asks(...a);
		};
		setTimeout(() => { window.over = true; }, end + 1000 - Date.now());
		return Date.now() < end;
	})()`, end.UnixMilli(), at)))
	b.sees("[data-testid=main-action]", "")
	asked := get(b, chromedp.Evaluate[[][]any]("window.asked"))
	require.NotEmpty(t, asked)
	for _, a := range asked {
		assert.Positive(t, a[0], "the job is asked for anew once the wait ended, and not before")
	}
	assert.Equal(t, false, asked[0][1], "within a second of its end: %v", asked)
}

// The tabs of one browser share who is signed in: one follows the other at a sign-out and a sign-in, without being
// touched, and what it shows then is as the new person may see it.
func TestATabFollowsASignIn(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	first := s.open(startBrowser(t), 1280, 800)
	first.signIn("Tobiah Marsh", "3141")
	get(first, chromedp.Evaluate[bool](`(() => {
		document.body.insertAdjacentHTML('beforeend', '<a id="beside" href="/settings/tools" target="_blank">beside</a>');
		return true;
	})()`))
	second := first.opens(chromedp.Click(chromedp.CSS(`#beside`)))
	second.sees("header", "Tobiah M.")

	first.signOut("Tobiah M.")
	second.sees("body", "Signed out meanwhile")
	second.sees("header", "Signed out") // and not that there is no server
	first.signIn("Mira Oxenholt", "2718")
	second.sees("header", "Mira O.")
	second.until(`!document.querySelector("dialog[open]")`, "the question who is there to go away")
	assert.Contains(t, get(second, chromedp.Location()), "/settings/tools", "where it was")
}

func (b *tab) signOut(as string) {
	b.t.Helper()
	b.press(as)
	b.press("Sign out")
	b.do(chromedp.WaitNotPresent(chromedp.CSS(`nav[aria-label=Places]`)))
}
