// Package wallclock turns what a clock on the wall of a place shows into instants, and back into the place's days.
//
// Where clocks are changed, a time is shown by no instant or by two, a day has 23 or 25 hours, and in some places
// midnight itself is left out. The standard library picks one answer silently; here each case is told apart.
package wallclock

import "time"

// Reading is what a clock on the wall shows: a day of the Gregorian calendar and a time of it, without saying where.
type Reading struct {
	Year   int
	Month  time.Month
	Day    int
	Hour   int // 0–23
	Minute int // 0–59
	Second int // 0–59
}

// ReadingOf is what the clock shows at an instant in a zone.
func ReadingOf(t time.Time, zone *time.Location) Reading {
	t = t.In(zone)
	return Reading{t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second()}
}

// naive is the reading as if the place were at UTC.
func (r Reading) naive() time.Time {
	return time.Date(r.Year, r.Month, r.Day, r.Hour, r.Minute, r.Second, 0, time.UTC)
}

// Midnight is the reading at which its day begins.
func (r Reading) Midnight() Reading { return Reading{Year: r.Year, Month: r.Month, Day: r.Day} }

// AddDays is the same time of a day so many later; days of the calendar, however long they are.
func (r Reading) AddDays(n int) Reading {
	r.Day += n
	return ReadingOf(r.naive(), time.UTC)
}

// At is the reading at a time of its day, in minutes since midnight: 0–1440.
func (r Reading) At(minute int) Reading {
	r.Hour, r.Minute, r.Second = 0, minute, 0
	return ReadingOf(r.naive(), time.UTC)
}

// Weekday is the day of the week.
func (r Reading) Weekday() time.Weekday { return r.naive().Weekday() }

// Date is the reading's day, as 2026-10-25.
func (r Reading) Date() string { return r.naive().Format(time.DateOnly) }

// Instants are those at which the clock in a zone shows a reading: one; two, the earlier first, of a time that is shown
// twice; none of a time that is left out.
func (r Reading) Instants(zone *time.Location) []time.Time {
	n := r.naive()
	var at []time.Time
	// No zone changes its clock twice within two days, so the offsets of the days around are all that there can be.
	for _, near := range []time.Time{n.Add(-24 * time.Hour), n.Add(24 * time.Hour)} {
		_, offset := near.In(zone).Zone()
		t := n.Add(-time.Duration(offset) * time.Second).In(zone)
		if ReadingOf(t, zone) == ReadingOf(n, time.UTC) && (len(at) == 0 || !at[0].Equal(t)) {
			at = append(at, t)
		}
	}
	if len(at) == 2 && at[1].Before(at[0]) {
		at[0], at[1] = at[1], at[0]
	}
	return at
}

// First is the first instant at which the clock shows the reading, or, where that is left out, the instant of the change
// that leaves it out: when something begins that is to begin at that time.
func (r Reading) First(zone *time.Location) time.Time {
	if at := r.Instants(zone); len(at) > 0 {
		return at[0]
	}
	n := r.naive()
	_, before := n.Add(-24 * time.Hour).In(zone).Zone()
	_, after := n.Add(24 * time.Hour).In(zone).Zone()
	// In a gap the later offset is the greater one: taken with it, the reading lies just before the change.
	_, change := n.Add(-time.Duration(max(before, after)) * time.Second).In(zone).ZoneBounds()
	return change
}

// DayStart is the first instant of the day that holds t in a zone.
func DayStart(t time.Time, zone *time.Location) time.Time {
	return ReadingOf(t, zone).Midnight().First(zone)
}

// NextDay is the first instant of the day after the one that holds t in a zone.
func NextDay(t time.Time, zone *time.Location) time.Time {
	return ReadingOf(t, zone).Midnight().AddDays(1).First(zone)
}
