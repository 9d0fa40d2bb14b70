package shop_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/contact"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

func at(t *testing.T, text string) time.Time {
	at, err := time.Parse(time.RFC3339, text)
	require.NoError(t, err)
	return at
}

// movedTo has a shop in another zone.
func (t *tracked) movedTo(zone string) { t.rules(func(r *rules.Rules) { r.TimeZone = zone }) }

// The days of a shop are those of its own clocks: moving the clocks moves what is due and the plan, and nothing that was
// written before reads another way.
func TestTheShopsOwnDays(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	*b.now = at(t, "2026-05-04T22:30:00Z")
	b.fit(1000)
	day := func() string {
		_, err := b.RefreshDue(ctx)
		require.NoError(t, err)
		list, err := b.DueList(ctx, due.DueFilter{Limit: 5})
		require.NoError(t, err)
		return list.Day
	}
	assert.Equal(t, "2026-05-04", day())
	before, err := b.Ledger(ctx, b.tag, 0, 100)
	require.NoError(t, err)

	b.movedTo("Europe/Berlin")
	assert.Equal(t, "2026-05-05", day(), "past midnight there")
	what, err := b.BikeDue(ctx, b.tag)
	require.NoError(t, err)
	assert.Equal(t, at(t, "2026-05-05T22:00:00Z"), what.Until.UTC(), "and the day ends at midnight there")
	require.NotEmpty(t, what.Tasks)
	assert.True(t, slices.ContainsFunc(what.Tasks, func(d due.DueTask) bool { return d.LastOn == "2026-05-05" }), "the chain was fitted on their Tuesday")
	b.movedTo("America/Los_Angeles")
	assert.Equal(t, "2026-05-04", day())
	after, err := b.Ledger(ctx, b.tag, 0, 100)
	require.NoError(t, err)
	assert.Equal(t, before.Entries, after.Entries)

	v, err := b.CurrentRules(ctx)
	require.NoError(t, err)
	for _, none := range []string{"", "Local", "Europe/Saltern", "../etc/passwd", "CET+1"} {
		v.Rules.TimeZone = none
		_, err = b.ChangeRules(ctx, b.mira, v.Version, v.Rules)
		assert.Equal(t, map[string]string{"rules.time_zone": "unknown-value"}, faults(t, err), none)
	}
}

// On the two days on which clocks are changed hours are those on the wall and minutes those that pass: people, waits,
// promises and messages.
func TestClockChangeDays(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	for _, c := range []struct {
		name, now string
		open      []store.Stretch
		minutes   int // of hands in the open hours
		tomorrow  string
	}{
		{"forward", "2026-03-28T23:30:00Z", []store.Stretch{{From: "01:00", Until: "04:00"}}, 120, "2026-03-29T22:00:00Z"},
		{"back", "2026-10-24T22:30:00Z", []store.Stretch{{From: "01:00", Until: "04:00"}}, 240, "2026-10-25T23:00:00Z"},
		{"left out whole", "2026-03-28T23:30:00Z", []store.Stretch{{From: "02:00", Until: "03:00"}, {From: "08:00", Until: "09:00"}}, 60, "2026-03-29T22:00:00Z"},
	} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			b := openTracked(t, commuter)
			b.T = t
			*b.now = at(t, c.now)
			b.rules(func(r *rules.Rules) {
				r.TimeZone = "Europe/Berlin"
				for day := range r.Floor.Hours {
					r.Floor.Hours[day] = c.open
				}
			})
			job := b.takeIn(b.tag, nil)
			v := b.floor()
			worked := 0
			tomorrow := at(t, c.tomorrow)
			for _, s := range v.Stints {
				assert.Equal(t, time.Duration(s.Minutes)*time.Minute, s.End.Sub(s.Start), "a minute is one that passes")
				if s.Start.Before(tomorrow) {
					worked += s.Minutes
				}
			}
			assert.LessOrEqual(t, worked, c.minutes)
			var hours time.Duration
			for _, p := range v.People {
				for _, h := range p.Hours {
					if h.From.Before(tomorrow) && h.From.After(*b.now) {
						hours += h.Until.Sub(h.From)
					}
				}
			}
			assert.Equal(t, time.Duration(c.minutes)*time.Minute, hours)
			assert.NotNil(t, v.Jobs[0].FinishAt, "%s is planned", job.ID)
		})
	}

	b := recalled(t)
	b.movedTo("Europe/Berlin")
	b.rules(func(r *rules.Rules) { r.Recalls.From, r.Recalls.Until, r.Recalls.Closed = "02:30", "17:00", nil })
	*b.now = at(t, "2027-03-28T00:10:00Z") // ten past one
	m, err := b.DraftRecall(ctx, b.mira, b.tag)
	require.NoError(t, err)
	m, err = b.DoMessage(ctx, b.mira, m.ID, contact.MessageAction{Action: "send", Version: m.Version})
	require.NoError(t, err)
	assert.Equal(t, at(t, "2027-03-28T01:00:00Z"), m.NextTryAt.UTC(), "half past two is left out: as soon as the clocks have gone forward")
	job := b.takeIn(b.tag, nil)
	wait, err := b.StartWait(ctx, b.mira, jobs.NewWait{What: "Dry", Minutes: 120})
	require.NoError(t, err)
	require.NotEmpty(t, wait.Waits)
	assert.Equal(t, b.now.Add(2*time.Hour), wait.Waits[0].LeastAt.UTC(), "a wait over the change lasts as long as any (%s)", job.ID)
	feed, err := b.GiveLink(ctx, b.mira, contact.NewSecretLink{Kind: "calendar-bike", Tag: b.tag})
	require.NoError(t, err)
	calendar, err := b.Calendar(ctx, strings.TrimSuffix(feed.URL[strings.LastIndex(feed.URL, "/")+1:], ".ics"))
	require.NoError(t, err)
	assert.Contains(t, string(calendar.Text), "DTSTART;VALUE=DATE:"+strings.ReplaceAll(*b.due().Tasks[0].DueOn, "-", ""), "what is late stands at the day on which it fell due")
}

// A local time that was never shown, or shown twice, is no time: the row says so, and nothing is guessed. Everything else
// is read by the shop's clocks.
func TestLocalTimesInFiles(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	*b.now = at(t, "2026-12-01T12:00:00Z")
	b.movedTo("Europe/Berlin")
	table := "tag,read_at,km\n" + b.tag + ",2026-03-29 02:30,100\n" + b.tag + ",2026-10-25 02:30,200\n"
	read, err := b.ImportTable(ctx, b.mira, "odometer", []byte(table), true)
	require.NoError(t, err)
	require.Equal(t, []int{2, 0}, []int{read.Wrong, read.Written})
	assert.Equal(t, []any{"read_at", "clock-change"}, []any{read.Rows[0].Faults[0].Path, read.Rows[0].Faults[0].Code})
	assert.Contains(t, read.Rows[0].Faults[0].Message, "never shown")
	assert.Contains(t, read.Rows[1].Faults[0].Message, "shown twice")

	table = "tag,read_at,km\n" + b.tag + ",2026-03-29 03:30,100\n" + b.tag + ",2026-10-25T02:30:00+01:00,200\n" + b.tag + ",2026-11-02,300\n"
	read, err = b.ImportTable(ctx, b.mira, "odometer", []byte(table), true)
	require.NoError(t, err)
	require.Equal(t, 3, read.Written, "%v", read.Rows)
	out, err := b.ExportTable(ctx, "odometer")
	require.NoError(t, err)
	for _, want := range []string{"2026-03-29T03:30:00+02:00", "2026-10-25T02:30:00+01:00", "2026-11-02T00:00:00+01:00"} {
		assert.Contains(t, string(out), want)
	}

	rides := "started_at,distance_km,duration_min\n2026-03-29 02:30,20,60\n2026-10-25 02:30,20,60\n2026-11-02 08:00,20,60\n"
	file, err := b.ImportRides(ctx, b.mira, b.tag, "rides.csv", []byte(rides))
	require.NoError(t, err)
	require.Len(t, file.Wrong, 2)
	assert.Equal(t, []int{2, 3}, []int{file.Wrong[0].Line, file.Wrong[1].Line})
	require.Len(t, file.Kept, 1)
	assert.Equal(t, at(t, "2026-11-02T07:00:00Z"), file.Kept[0].StartedAt.UTC())
}

// A shop of miles and dollars reads its tables and messages so, and what it gives out it takes back to the last digit.
func TestTheShopsOwnUnits(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	b.rules(func(r *rules.Rules) { r.DistanceUnit, r.Currency, r.Locale = "mi", "USD", "en-US" })
	_, err := b.NoteOdometer(ctx, b.mira, b.tag, record.OdometerNote{KM: 12345.6})
	require.NoError(t, err)
	out, err := b.ExportTable(ctx, "odometer")
	require.NoError(t, err)
	require.Contains(t, string(out), "miles")
	assert.NotContains(t, string(out), "km")
	first, rest, _ := strings.Cut(string(out), "\n")
	again := first + "\n" + strings.ReplaceAll(rest, "\r", "")
	b.later(1)
	last := again[:strings.LastIndex(strings.TrimSpace(again), "\n")+1] // the header
	fields := strings.Split(strings.TrimSpace(again[len(last):]), ",")
	fields[1] = "" // read now
	read, err := b.ImportTable(ctx, b.mira, "odometer", []byte(last+strings.Join(fields, ",")), true)
	require.NoError(t, err)
	require.Zero(t, read.Wrong, "%+v", read.Rows)
	page, err := b.Ledger(ctx, b.tag, 0, 1)
	require.NoError(t, err)
	assert.InDelta(t, 12345.6, *page.Entries[0].OdometerKM, 1e-9)

	_, err = b.NoteOdometer(ctx, b.mira, b.tag, record.OdometerNote{KM: 10})
	assert.ErrorContains(t, err, "6 mi is less than the 7,671 mi of ")
	b.rules(func(r *rules.Rules) { r.DistanceUnit, r.Locale = "km", "de-DE" })
	_, err = b.NoteOdometer(ctx, b.mira, b.tag, record.OdometerNote{KM: 10})
	assert.ErrorContains(t, err, "10 km is less than the 12.346 km of ")
}
