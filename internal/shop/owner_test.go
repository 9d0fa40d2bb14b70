package shop_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/contact"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
)

// The owner's page opens by its link alone, shows nothing of the owner, and what is told from it is a fact once
// the shop says so. A withdrawn link opens nothing.
func TestOwnersPage(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	b.SetBaseURL("https://pony.example/")
	give := func(name string) contact.GivenLink {
		l, err := b.GiveLink(ctx, b.mira, contact.NewSecretLink{Kind: "owner", Tag: b.tag, Name: name})
		require.NoError(t, err)
		return l
	}
	l, other := give("Tag"), give("Letter")
	assert.NotEqual(t, l.URL, other.URL)
	token, is := strings.CutPrefix(l.URL, "https://pony.example/o/")
	require.True(t, is)
	assert.GreaterOrEqual(t, len(token), 22)
	p, err := b.OwnerPage(ctx, token)
	require.NoError(t, err)
	assert.Equal(t, []any{"Tidewrack Lane", b.tag, false}, []any{p.Shop, p.Tag, p.Measured})
	assert.NotEmpty(t, p.Next)
	require.NotNil(t, p.LeftKM)

	assert.Equal(t, map[string]string{"km": "out-of-range", "event": "unknown-value"}, faults(t, b.Report(ctx, token, "", contact.OwnerReport{KM: ptr(-3.0), Event: "wash"})))
	assert.Equal(t, map[string]string{"note": "missing"}, faults(t, b.Report(ctx, token, "", contact.OwnerReport{Note: " "})))
	require.NoError(t, b.Report(ctx, token, "", contact.OwnerReport{KM: ptr(420.0), Event: "soaked-ride", Note: "ferry lane under water"}))
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
		require.NoError(t, b.Report(ctx, token, "", contact.OwnerReport{Event: "squeak"}))
	}
	assert.Equal(t, "told-enough", code(t, b.Report(ctx, token, "", contact.OwnerReport{Event: "squeak"})))

	live, err := b.Links(ctx, b.tag)
	require.NoError(t, err)
	require.Len(t, live, 2)
	require.NoError(t, b.WithdrawLink(ctx, b.mira, l.ID))
	opens := func(l contact.GivenLink) error {
		_, err := b.OwnerPage(ctx, strings.TrimPrefix(l.URL, "https://pony.example/o/"))
		return err
	}
	assert.Equal(t, "link-not-found", code(t, opens(l)), "withdrawn by itself")
	require.NoError(t, opens(other))
	assert.NotContains(t, b.dump(), strings.TrimPrefix(other.URL, "https://pony.example/o/"), "only a hash of it is kept")

	// A lost answer asked for again says an address that opens the page, and gives no second link.
	keyed := b.mira
	keyed.Key = "the-same-key"
	asked := contact.NewSecretLink{Kind: "owner", Tag: b.tag, Name: "Tag"}
	_, err = b.GiveLink(ctx, keyed, asked)
	require.NoError(t, err)
	again, err := b.GiveLink(ctx, keyed, asked)
	require.NoError(t, err)
	require.NoError(t, opens(again))
	live, err = b.Links(ctx, b.tag)
	require.NoError(t, err)
	assert.Len(t, live, 2)
}

// Links end with ownership: when the bike is another's, and when it is put away.
func TestLinksEndWithOwnership(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	given := func() contact.GivenLink {
		l, err := b.GiveLink(ctx, b.mira, contact.NewSecretLink{Kind: "owner", Tag: b.tag})
		require.NoError(t, err)
		return l
	}
	opens := func(l contact.GivenLink) error {
		_, err := b.OwnerPage(ctx, strings.TrimPrefix(l.Path, "/o/"))
		return err
	}
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	first := given()
	facts := bike.Facts
	facts.Colour = "harbour green"
	bike, err = b.ChangeBike(ctx, b.mira, b.tag, bike.Version, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: facts})
	require.NoError(t, err)
	require.NoError(t, opens(first), "the same owner's, whatever its colour")
	buyer, err := b.AddCustomer(ctx, b.mira, record.CustomerFacts{Name: "Ottoline Brack"})
	require.NoError(t, err)
	bike, err = b.ChangeBike(ctx, b.mira, b.tag, bike.Version, bikes.NewBike{CustomerID: buyer.ID, Facts: facts})
	require.NoError(t, err)
	assert.Equal(t, "link-not-found", code(t, opens(first)), "sold")
	second := given()
	_, err = b.ArchiveBike(ctx, b.mira, b.tag, bike.Version, true)
	require.NoError(t, err)
	assert.Equal(t, "link-not-found", code(t, opens(second)), "put away")
}

// The calendars keep their entries' names from one day to the next, and open by their links alone.
func TestCalendars(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	token := func(kind, tag string) string {
		l, err := b.GiveLink(ctx, b.mira, contact.NewSecretLink{Kind: kind, Tag: tag})
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
		assert.Contains(t, string(feed.Text), "BEGIN:VCALENDAR\r\n")
		assert.Contains(t, string(feed.Text), "DTSTART;VALUE=DATE:")
		return feed.Text
	}
	ofShop, ofBike := token("calendar-shop", ""), token("calendar-bike", b.tag)
	one, each := read(ofShop), read(ofBike)
	assert.Equal(t, []string{b.tag + ".due@earnest-pony.invalid"}, uids(one))
	assert.Contains(t, uids(each), b.tag+".relubricate@earnest-pony.invalid")
	*b.now = b.now.Add(time.Minute)
	assert.Equal(t, string(each), string(read(ofBike)), "the same as long as nothing in it changes")
	assert.Equal(t, string(one), string(read(ofShop)))
	b.later(1)
	assert.Equal(t, uids(each), uids(read(ofBike)))
	_, err := b.Calendar(ctx, token("owner", b.tag))
	assert.Equal(t, "link-not-found", code(t, err), "another kind of link")
}

// What was done in a visit stands on the owner's page once the bike is handed back, with its parts; until then the page
// says that it is in the workshop. What was called off was not done.
func TestOwnersPageAfterAVisit(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	look := jobs.Intake{Condition: jobs.Condition{FrameGrade: 2, DrivetrainGrade: 2}, Complaints: []string{}}
	w := takeIn(t, commuter, look)
	w.plan(jobs.JobOrder{})
	l, err := w.GiveLink(ctx, w.mira, contact.NewSecretLink{Kind: "owner", Tag: w.tag})
	require.NoError(t, err)
	page := func() contact.OwnerPage {
		t.Helper()
		p, err := w.OwnerPage(ctx, strings.TrimPrefix(l.Path, "/o/"))
		require.NoError(t, err)
		return p
	}
	w.finish()
	w.job, err = w.AddJobPart(ctx, w.mira, w.job.ID, measure.JobPart{What: "Brake pads", Count: 1})
	require.NoError(t, err)
	assert.True(t, page().InWorkshop)
	assert.Empty(t, page().Done)
	w.job, err = w.HandBackJob(ctx, w.mira, w.job.ID, jobs.HandBack{Version: w.job.Version})
	require.NoError(t, err)

	back := page()
	assert.False(t, back.InWorkshop)
	require.Len(t, back.Done, 1)
	assert.Equal(t, []any{w.job.Plan.Route, []string{"Brake pads"}, *w.now}, []any{back.Done[0].Route, back.Done[0].Parts, back.Done[0].ClosedAt})
	assert.NotEmpty(t, back.Done[0].Told)
	assert.Equal(t, w.job.Told, back.Done[0].Told, "the report and their own page say the same")
	assert.True(t, w.job.Looked)

	w.open(look)
	_, err = w.CancelJob(ctx, w.mira, w.job.ID, w.job.Version, "the tide came in")
	require.NoError(t, err)
	assert.Len(t, page().Done, 1)
}
