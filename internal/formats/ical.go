// Package formats turns what travels between programs into values and back: calendars, rides, tables, bike
// passports. It knows no database.
package formats

import (
	"time"

	ics "github.com/arran4/golang-ical"
)

// CalendarEvent is one all-day entry of a calendar. Its UID stays the same as long as it is about the same
// thing, so that a calendar program moves the entry instead of adding another.
type CalendarEvent struct {
	UID     string
	Day     time.Time
	Summary string
	Text    string
	URL     string
	Changed time.Time
}

// Calendar writes a calendar (RFC 5545).
func Calendar(name string, events []CalendarEvent) []byte {
	c := ics.NewCalendar()
	c.SetMethod(ics.MethodPublish)
	c.SetProductId("-//Earnest Pony//Due//EN")
	c.SetXWRCalName(name)
	c.SetName(name)
	c.SetRefreshInterval("PT6H")
	for _, e := range events {
		v := c.AddEvent(e.UID)
		v.SetDtStampTime(e.Changed)
		v.SetModifiedAt(e.Changed)
		v.SetAllDayStartAt(e.Day)
		v.SetAllDayEndAt(e.Day.AddDate(0, 0, 1))
		v.SetSummary(e.Summary)
		v.SetTimeTransparency(ics.TransparencyTransparent)
		if e.Text != "" {
			v.SetDescription(e.Text)
		}
		if e.URL != "" {
			v.SetURL(e.URL)
		}
	}
	return []byte(c.Serialize(ics.WithNewLineWindows))
}
