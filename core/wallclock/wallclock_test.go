package wallclock_test

import (
	"testing"
	"time"
	_ "time/tzdata" // the zones of the tests are the same on every machine

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/wallclock"
)

func zone(t require.TestingT, name string) *time.Location {
	z, err := time.LoadLocation(name)
	require.NoError(t, err)
	return z
}

func TestClockChanges(t *testing.T) {
	for _, c := range []struct {
		zone    string
		shows   wallclock.Reading
		at      []string // UTC
		instead string   // First
	}{
		{"Europe/Berlin", wallclock.Reading{Year: 2026, Month: 3, Day: 29, Hour: 1, Minute: 59, Second: 59}, []string{"2026-03-29T00:59:59Z"}, "2026-03-29T00:59:59Z"},
		{"Europe/Berlin", wallclock.Reading{Year: 2026, Month: 3, Day: 29, Hour: 2}, nil, "2026-03-29T01:00:00Z"},
		{"Europe/Berlin", wallclock.Reading{Year: 2026, Month: 3, Day: 29, Hour: 2, Minute: 59}, nil, "2026-03-29T01:00:00Z"},
		{"Europe/Berlin", wallclock.Reading{Year: 2026, Month: 10, Day: 25, Hour: 2, Minute: 30}, []string{"2026-10-25T00:30:00Z", "2026-10-25T01:30:00Z"}, "2026-10-25T00:30:00Z"},
		{"America/Los_Angeles", wallclock.Reading{Year: 2026, Month: 11, Day: 1, Hour: 1, Minute: 30}, []string{"2026-11-01T08:30:00Z", "2026-11-01T09:30:00Z"}, "2026-11-01T08:30:00Z"},
		{"Asia/Riyadh", wallclock.Reading{Year: 2026, Month: 3, Day: 29, Hour: 2}, []string{"2026-03-28T23:00:00Z"}, "2026-03-28T23:00:00Z"},
		// Midnight is left out in some places, and a change need not be of a whole hour.
		{"America/Santiago", wallclock.Reading{Year: 2026, Month: 9, Day: 6}, nil, "2026-09-06T04:00:00Z"},
		{"Australia/Lord_Howe", wallclock.Reading{Year: 2026, Month: 10, Day: 4, Hour: 2, Minute: 15}, nil, "2026-10-03T15:30:00Z"},
	} {
		var got []string
		for _, at := range c.shows.Instants(zone(t, c.zone)) {
			got = append(got, at.UTC().Format(time.RFC3339))
		}
		assert.Equal(t, c.at, got, "%s %+v", c.zone, c.shows)
		assert.Equal(t, c.instead, c.shows.First(zone(t, c.zone)).UTC().Format(time.RFC3339), "%s %+v", c.zone, c.shows)
	}
	santiago := zone(t, "America/Santiago")
	start := wallclock.DayStart(time.Date(2026, 9, 6, 15, 0, 0, 0, time.UTC), santiago)
	assert.Equal(t, wallclock.Reading{Year: 2026, Month: 9, Day: 6, Hour: 1}, wallclock.ReadingOf(start, santiago), "the day begins at one")
}

// Every instant is among those at which its reading is shown, days follow each other without a gap and are 23 to 25
// hours long, and what begins at a time never begins before it.
func TestReadingsAndInstants(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		z := zone(t, rapid.SampledFrom([]string{"UTC", "Europe/Berlin", "America/Los_Angeles", "Asia/Riyadh", "America/Santiago", "Africa/Cairo", "Australia/Lord_Howe", "Asia/Kathmandu", "Pacific/Auckland"}).Draw(t, "zone"))
		at := time.Unix(rapid.Int64Range(946684800, 2208988800).Draw(t, "at"), 0) // 2000 to 2040
		shown := wallclock.ReadingOf(at, z)
		found := false
		for _, i := range shown.Instants(z) {
			assert.Equal(t, shown, wallclock.ReadingOf(i, z))
			found = found || i.Equal(at)
		}
		assert.True(t, found, "%s is not among the instants of %+v", at, shown)

		start, next := wallclock.DayStart(at, z), wallclock.NextDay(at, z)
		assert.False(t, at.Before(start) || !at.Before(next))
		assert.Equal(t, next, wallclock.DayStart(next, z))
		assert.Contains(t, []time.Duration{23 * time.Hour, 23*time.Hour + 30*time.Minute, 24 * time.Hour, 24*time.Hour + 30*time.Minute, 25 * time.Hour}, next.Sub(start))

		minute := rapid.IntRange(0, 24*60-1).Draw(t, "minute")
		begins := shown.At(minute).First(z)
		assert.False(t, begins.Before(start) || !begins.Before(next), "%v is not of the day", begins)
		after := wallclock.ReadingOf(begins, z)
		assert.GreaterOrEqual(t, after.Hour*60+after.Minute, minute)
	})
}
