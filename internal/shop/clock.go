package shop

import (
	"earnestpony/core/interval"
	"earnestpony/internal/store"
	"regexp"
	"time"
)

// today is the calendar day in the shop.
func (s *Service) today() interval.Day { return s.dayOf(s.now()) }

func (s *Service) dayOf(t time.Time) interval.Day { return interval.DayOf(t.In(time.Local)) }

// clockSlack is how far a tablet's clock may run ahead of ours.
const clockSlack = 2 * time.Minute

// dayOf is the day of a time, as the database keeps days.
func dayOf(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
}

var clockTime = regexp.MustCompile(`^([01]\d|2[0-3]):[0-5]\d$`)

var weekdays = []string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}

// happened returns when something happened that a device dates itself; now when it does not.
func (s *Service) happened(at *time.Time) (time.Time, error) {
	now := s.now()
	if at == nil {
		return now, nil
	}
	if wrong := checkPast("at", *at, now); wrong != nil {
		return now, invalid(*wrong)
	}
	return store.Stamp(*at), nil
}
