package record

import (
	"regexp"
	"time"

	"earnestpony/core/interval"
	"earnestpony/internal/store"
)

// Today is the calendar day in the shop.
func (s *Desk) Today() interval.Day { return s.DayOf(s.Now()) }

func (s *Desk) DayOf(t time.Time) interval.Day { return interval.DayOf(t.In(time.Local)) }

// ClockSlack is how far a tablet's clock may run ahead of ours.
const ClockSlack = 2 * time.Minute

// DayOf is the day of a time, as the database keeps days.
func DayOf(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
}

var ClockTime = regexp.MustCompile(`^([01]\d|2[0-3]):[0-5]\d$`)

var Weekdays = []string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}

// Happened returns when something happened that a device dates itself; now when it does not.
func (s *Desk) Happened(at *time.Time) (time.Time, error) {
	now := s.Now()
	if at == nil {
		return now, nil
	}
	if wrong := CheckPast("at", *at, now); wrong != nil {
		return now, InvalidInput(*wrong)
	}
	return store.Stamp(*at), nil
}
