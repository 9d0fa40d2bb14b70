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
