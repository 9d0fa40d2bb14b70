package shop_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop"
)

// The owner's page opens by its link alone, shows nothing of the owner, and what is told from it is a fact once
// the shop says so. A withdrawn link opens nothing.
func TestOwnersPage(t *testing.T) {
	ctx := context.Background()
	b := recalled(t)
	b.FoundAt("https://pony.example/")
	l, err := b.Link(ctx, "owner", b.tag)
	require.NoError(t, err)
	again, err := b.Link(ctx, "owner", b.tag)
	require.NoError(t, err)
	assert.Equal(t, l.URL, again.URL)
	token, is := strings.CutPrefix(l.URL, "https://pony.example/o/")
	require.True(t, is)
	assert.GreaterOrEqual(t, len(token), 22)
	p, err := b.OwnerPage(ctx, token)
	require.NoError(t, err)
	assert.Equal(t, []any{"Tidewrack Lane", b.tag, false}, []any{p.Shop, p.Tag, p.Measured})
	assert.NotEmpty(t, p.Next)
	require.NotNil(t, p.LeftKM)

	assert.Equal(t, map[string]string{"km": "out-of-range", "event": "unknown-value"}, faults(t, b.Tell(ctx, token, shop.OwnerReport{KM: ptr(-3.0), Event: "wash"})))
	assert.Equal(t, map[string]string{"note": "missing"}, faults(t, b.Tell(ctx, token, shop.OwnerReport{Note: " "})))
	require.NoError(t, b.Tell(ctx, token, shop.OwnerReport{KM: ptr(420.0), Event: "soaked-ride", Note: "ferry lane under water"}))
	before := b.task("clean-on-bike")
	assert.Empty(t, before.Event, "not a fact yet")
	reports, err := b.OwnerReports(ctx, b.tag)
	require.NoError(t, err)
	require.Len(t, reports, 1)
	require.NoError(t, b.DecideReport(ctx, b.mira, reports[0].ID, true, false))
	assert.Equal(t, "soaked-ride", b.task("clean-on-bike").Event)
	assert.InDelta(t, 420, *b.track().OdometerKM, 1e-9)
	assert.Equal(t, "decided", code(t, b.DecideReport(ctx, b.mira, reports[0].ID, false, false)))
	for range 5 {
		require.NoError(t, b.Tell(ctx, token, shop.OwnerReport{Event: "squeak"}))
	}
	assert.Equal(t, "told-enough", code(t, b.Tell(ctx, token, shop.OwnerReport{Event: "squeak"})))

	renewed, err := b.Reissue(ctx, b.mira, "owner", b.tag)
	require.NoError(t, err)
	assert.NotEqual(t, l.URL, renewed.URL)
	_, err = b.OwnerPage(ctx, token)
	assert.Equal(t, "link-not-found", code(t, err))
}

// The calendars keep their entries' names from one day to the next, and open by their links alone.
func TestCalendars(t *testing.T) {
	ctx := context.Background()
	b := recalled(t)
	token := func(kind, tag string) string {
		l, err := b.Link(ctx, kind, tag)
		require.NoError(t, err)
		return strings.TrimSuffix(strings.TrimPrefix(l.Path, "/calendar/"), ".ics")
	}
	uids := func(feed []byte) []string {
		var all []string
		for line := range strings.Lines(string(feed)) {
			if uid, is := strings.CutPrefix(strings.TrimSpace(line), "UID:"); is {
				all = append(all, uid)
			}
		}
		slices.Sort(all)
		return all
	}
	read := func(token string) []byte {
		feed, err := b.Calendar(ctx, token)
		require.NoError(t, err)
		assert.Contains(t, string(feed), "BEGIN:VCALENDAR\r\n")
		assert.Contains(t, string(feed), "DTSTART;VALUE=DATE:")
		return feed
	}
	ofShop, ofBike := token("calendar-shop", ""), token("calendar-bike", b.tag)
	one, each := read(ofShop), read(ofBike)
	assert.Equal(t, []string{b.tag + ".due@earnest-pony.invalid"}, uids(one))
	assert.Contains(t, uids(each), b.tag+".relubricate@earnest-pony.invalid")
	b.later(1)
	assert.Equal(t, uids(each), uids(read(ofBike)))
	_, err := b.Calendar(ctx, token("owner", b.tag))
	assert.Equal(t, "link-not-found", code(t, err), "another kind of link")
}

// What was done in a visit stands on the owner's page once the bike is handed back, with its parts; until then the page
// says that it is in the workshop. What was called off was not done.
func TestOwnersPageAfterAVisit(t *testing.T) {
	ctx := context.Background()
	look := shop.Arrival{CleaningQuestion: shop.CleaningQuestion{FrameGrade: 2, DrivetrainGrade: 2}, Complaints: []string{}}
	w := takeIn(t, commuter, look)
	w.plan(shop.JobOrder{})
	l, err := w.Link(ctx, "owner", w.tag)
	require.NoError(t, err)
	page := func() shop.OwnerPage {
		t.Helper()
		p, err := w.OwnerPage(ctx, strings.TrimPrefix(l.Path, "/o/"))
		require.NoError(t, err)
		return p
	}
	w.until("final-look")
	w.done("final-look")
	w.job, err = w.AddJobPart(ctx, w.mira, "", w.job.ID, shop.JobPart{What: "Brake pads", Count: 1})
	require.NoError(t, err)
	assert.True(t, page().InWorkshop)
	assert.Empty(t, page().Done)
	w.job, err = w.HandBackJob(ctx, w.mira, w.job.ID, shop.HandBack{Version: w.job.Version})
	require.NoError(t, err)

	back := page()
	assert.False(t, back.InWorkshop)
	require.Len(t, back.Done, 1)
	assert.Equal(t, []any{w.job.Plan.Route, []string{"Brake pads"}, *w.now}, []any{back.Done[0].Route, back.Done[0].Parts, back.Done[0].ClosedAt})
	assert.Contains(t, back.Done[0].Steps, "final-look")
	for _, s := range w.job.StepList {
		assert.Equal(t, s.State == "done", slices.Contains(back.Done[0].Steps, s.Code), "%s is %s", s.Code, s.State)
	}

	w.open(look)
	_, err = w.CancelJob(ctx, w.mira, w.job.ID, w.job.Version, "the tide came in")
	require.NoError(t, err)
	assert.Len(t, page().Done, 1)
}
