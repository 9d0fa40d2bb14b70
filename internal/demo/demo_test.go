package demo_test

import (
	"context"
	"maps"
	"os"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/demo"
	"earnestpony/internal/pgtest"
	"earnestpony/internal/shop"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

var today = time.Date(2026, 3, 3, 10, 30, 0, 0, time.UTC)

func clock() time.Time { return today }

// loaded is a database with the demo shop as it is made on a day.
func loaded(t *testing.T, at time.Time) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), pgtest.New(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	require.NoError(t, demo.Load(context.Background(), s, at))
	return s
}

func serviceOn(s *store.Store, at time.Time) *shop.Service {
	service := shop.New(s, func() time.Time { return at })
	service.PlanByTries()
	service.HashAtNoCost()
	return service
}

// The demo shows every state that a bike can be in, and nothing in it is from the future, on whichever day it is made.
func TestDemoShowsEverything(t *testing.T) {
	t.Parallel()
	db := loaded(t, today)
	first := serviceOn(db, today)
	showsEverything(t, first, today)
	t.Run("backup", func(t *testing.T) { backsUpAndRestores(t, db) })

	t.Run("tools", func(t *testing.T) { toolsShowEveryState(t, first) })
	t.Run("people", func(t *testing.T) { everybodySignsIn(t, first) })
	t.Run("forecast", func(t *testing.T) { forecastNarrows(t, first) })
}

// The same day gives the same shop again: it is made twice, which takes its time.
func TestTheSameDayGivesTheSameDemo(t *testing.T) {
	if os.Getenv("PONY_TEST_FULL") == "" {
		t.Skip("make test-full")
	}
	first, second := serviceOn(loaded(t, today), today), serviceOn(loaded(t, today), today)
	bikes := func(s *shop.Service) []bikes.BikeRow {
		page, err := s.FindBikes(context.Background(), "", false, "", 200)
		require.NoError(t, err)
		return page.Bikes
	}
	before, again := bikes(first), bikes(second)
	require.Len(t, again, len(before))
	for i, b := range before {
		assert.Equal(t, b.Chain, again[i].Chain, b.Tag)
	}
}

// The browser tests walk through the demo of the day on which they run; this is the day on which it is hardest.
func TestDemoOfAnotherDay(t *testing.T) {
	if os.Getenv("PONY_TEST_FULL") == "" {
		t.Skip("make test-full")
	}
	t.Parallel()
	winterNight := time.Date(2026, 1, 18, 2, 13, 0, 0, time.UTC) // a Sunday on which nobody would make it
	showsEverything(t, serviceOn(loaded(t, winterNight), winterNight), winterNight)
}

func showsEverything(t *testing.T, service *shop.Service, today time.Time) {
	ctx := context.Background()
	page, err := service.FindBikes(ctx, "", false, "", 200)
	require.NoError(t, err)
	archived, err := service.FindBikes(ctx, "", true, "", 200)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, page.Total+archived.Total, 40)
	assert.NotZero(t, archived.Total, "an archived bike")

	seen := map[string]int{}
	replaced, sets := 0, 0
	oldest := today
	for _, b := range page.Bikes {
		if b.Chain == nil {
			seen["not read"]++
		} else {
			seen[b.Chain.State]++
			seen[b.Chain.Verdict]++
		}
		track, err := service.WearTrack(ctx, b.Tag)
		require.NoError(t, err)
		replaced += max(len(track.Parts.Chains)-1, 0)
		sets += len(track.Parts.Sets)
		ledger, err := service.Ledger(ctx, b.Tag, 0, 200)
		require.NoError(t, err)
		after := today.Add(time.Second)
		for _, e := range ledger.Entries {
			assert.False(t, e.HappenedAt.After(after), "%s: the ledger runs backwards", b.Tag)
			after = e.HappenedAt
			if e.Struck != nil {
				seen["struck out"]++
			}
			seen[e.Kind]++
		}
		if after.Before(oldest) {
			oldest = after
		}
	}
	for _, state := range []string{"fresh", "soon", "due", "overdue", "not read", "struck out", "ok", "watch", "unsure", "replace", "replace-together", "ride", "bike-event"} {
		assert.NotZero(t, seen[state], "no bike shows %q: %v", state, seen)
	}
	assert.Greater(t, replaced, 10, "chains that were replaced")
	assert.NotZero(t, sets, "sprockets that went with one")
	needs, err := service.StockNeeds(ctx)
	require.NoError(t, err)
	short := 0
	for _, n := range needs {
		short += n.Short
	}
	assert.NotZero(t, short, "a chain that the shelf is short of")
	jobs, err := service.ListJobs(ctx)
	require.NoError(t, err)
	ready, stops, states := 0, 0, map[store.JobState]int{}
	for _, j := range jobs {
		states[j.State]++
		stops += j.Stops
		if j.Ready {
			ready++
		}
	}
	assert.NotZero(t, states[store.JobArrived], "a bike that came in and is not planned")
	assert.NotZero(t, states[store.JobPlanned])
	assert.NotZero(t, ready, "a bike that can be handed back")
	assert.NotZero(t, stops, "something found that holds a bike")
	waits, err := service.Waits(ctx)
	require.NoError(t, err)
	running := map[string]bool{}
	for _, w := range waits.Waits {
		if w.LeastAt.After(today) {
			running[w.What] = true
		}
	}
	assert.Subset(t, slices.Collect(maps.Keys(running)), []string{"jar-soak", "dry", "wax-hold", "soak-in"}, "what runs now")
	waiting, err := service.Waiting(ctx, record.Actor{Person: record.Person{Role: record.RoleMechanic}})
	require.NoError(t, err)
	waitsFor := map[string]int{}
	for _, w := range waiting.Items {
		waitsFor[w.Kind]++
	}
	for _, kind := range []string{"report", "verdict", "release", "comeback", "unpaid"} {
		assert.NotZero(t, waitsFor[kind], "%s waits for somebody", kind)
	}
	materials, err := service.Materials(ctx)
	require.NoError(t, err)
	low := 0
	for _, m := range materials {
		if m.Low {
			low++
		}
	}
	assert.NotZero(t, low, "a material at its mark")
	assert.Greater(t, today.Sub(oldest), 500*24*time.Hour, "eighteen months of history")
	messages, err := service.Messages(ctx, nil, 200)
	require.NoError(t, err)
	said := map[store.MessageState]int{}
	for _, m := range messages.Messages {
		said[m.State]++
	}
	for _, state := range []store.MessageState{store.MessageDelivered, store.MessageNotReached, store.MessageWithdrawn} {
		assert.NotZero(t, said[state], "no message is %q: %v", state, said)
	}
}

// A forecast narrows as readings come in: each that is taken away again from a bike of the demo leaves
// the rest less sure.
func forecastNarrows(t *testing.T, service *shop.Service) {
	ctx := context.Background()
	people, err := service.ListPeople(ctx)
	require.NoError(t, err)
	owner := record.Actor{Person: people[slices.IndexFunc(people, func(p record.Person) bool { return p.Role == record.RoleOwner })], Device: "test"}
	page, err := service.FindBikes(ctx, "", false, "", 200)
	require.NoError(t, err)
	most, tag := 0, ""
	for _, b := range page.Bikes {
		w, err := service.WearTrack(ctx, b.Tag)
		require.NoError(t, err)
		n := 0
		for _, r := range w.Readings {
			if r.Chain == len(w.Chains)-1 && r.ElongationPct != nil {
				n++
			}
		}
		if w.Forecast != nil && n > most {
			most, tag = n, b.Tag
		}
	}
	require.GreaterOrEqual(t, most, 4)
	var widths []float64
	for {
		w, err := service.WearTrack(ctx, tag)
		require.NoError(t, err)
		widths = append(widths, w.Forecast.KHardKM.P90/w.Forecast.KHardKM.P10)
		if len(w.Readings) == 0 || w.Readings[len(w.Readings)-1].Chain < len(w.Chains)-1 {
			break
		}
		last := w.Readings[len(w.Readings)-1]
		_, err = service.StrikeOut(ctx, owner, last.EntryID, "to see how sure one is without it")
		require.NoError(t, err)
	}
	first := len(widths) - 2 // a reading of a chain just fitted tells nothing yet
	assert.IsIncreasing(t, widths[:first+1], "%s: %v", tag, widths)
	assert.Less(t, widths[0], widths[len(widths)-1]/1.5, "%s: %v", tag, widths)
}

// The demo's tools show every state: checked, checked too long ago, and retired with what it read.
func toolsShowEveryState(t *testing.T, service *shop.Service) {
	ctx := context.Background()
	tools, err := service.Instruments(ctx, false)
	require.NoError(t, err)
	seen := map[bool]int{}
	for _, tool := range tools {
		seen[tool.ZeroCheckDue]++
	}
	assert.Equal(t, map[bool]int{true: 1, false: 5}, seen)
	retired, err := service.Instruments(ctx, true)
	require.NoError(t, err)
	require.Len(t, retired, 1)
	view, err := service.Instrument(ctx, retired[0].ID)
	require.NoError(t, err)
	assert.Equal(t, "instrument-retired", view.History[0].Kind)
}

// Everybody of the demo can sign in.
func everybodySignsIn(t *testing.T, service *shop.Service) {
	ctx := context.Background()
	staff, err := service.ListPeople(ctx)
	require.NoError(t, err)
	pins := map[string]string{}
	for _, p := range demo.People() {
		pins[p.Name] = p.PIN
	}
	require.Len(t, staff, len(pins))
	for _, p := range staff {
		_, err := service.SignIn(ctx, p.ID, pins[p.Name], people.Caller{Name: "test"})
		assert.NoError(t, err, p.Name)
	}
}
