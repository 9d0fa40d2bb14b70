package record

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"sync"
	"time"
	_ "time/tzdata" // a machine without zones serves a shop with one

	"earnestpony/core/interval"
	"earnestpony/core/wallclock"
	"earnestpony/internal/store"
)

// Clock is the clock on the shop's wall, at one moment: a use case reads it once and goes by that.
type Clock struct {
	now  time.Time
	zone *time.Location
}

// ClockIn is the clock of a shop in a zone, as it stands now.
func (s *Desk) ClockIn(zone *time.Location) Clock { return Clock{s.Now(), zone} }

// Clock is the shop's clock as it stands now.
func (s *Desk) Clock(ctx context.Context, tx store.Tx) (Clock, error) {
	name, err := tx.TimeZone(ctx)
	if err != nil {
		return Clock{}, err
	}
	zone, err := ParseZone(name)
	return s.ClockIn(zone), err
}

// ParseZone reads the name of a time zone as IANA has it; an empty one, which nobody settled yet, is UTC. "Local", which
// would be another one on another machine, is none.
func ParseZone(name string) (*time.Location, error) {
	if name == "" {
		return time.UTC, nil
	}
	if known, is := zones.Load(name); is {
		return known.(*time.Location), nil
	}
	zone, err := time.LoadLocation(name)
	if err == nil && zone.String() == "Local" {
		err = errors.New("names no place")
	}
	if err != nil {
		return nil, fmt.Errorf("time zone %q: %w", name, err)
	}
	zones.Store(name, zone)
	return zone, nil
}

// zones are those that were asked for: reading one is work, and every use case asks.
var zones sync.Map

// Now is the moment, in the shop's zone.
func (c Clock) Now() time.Time { return c.now.In(c.zone) }

// Zone is the shop's.
func (c Clock) Zone() *time.Location { return c.zone }

// In is a moment in the shop's zone.
func (c Clock) In(t time.Time) time.Time { return t.In(c.zone) }

// DayOf is the day of a moment in the shop.
func (c Clock) DayOf(t time.Time) interval.Day { return interval.DayOf(t.In(c.zone)) }

// Today is the day in the shop.
func (c Clock) Today() interval.Day { return c.DayOf(c.now) }

// Starts is the first moment of a day in the shop.
func (c Clock) Starts(day interval.Day) time.Time {
	return wallclock.ReadingOf(day.Time(), time.UTC).First(c.zone)
}

// DayStarts is the first moment of today.
func (c Clock) DayStarts() time.Time { return wallclock.DayStart(c.now, c.zone) }

// DayEnds is the end of today: what is said of the day is so until then.
func (c Clock) DayEnds() time.Time { return wallclock.NextDay(c.now, c.zone) }

// ClockSlack is how far a tablet's clock may run ahead of ours.
const ClockSlack = 2 * time.Minute

var ClockTime = regexp.MustCompile(`^([01]\d|2[0-3]):[0-5]\d$`)

var Weekdays = []string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}

// Happened returns when something happened that a device dates itself; the moment at which it was written where it does not.
func (s *Desk) Happened(ctx context.Context, at *time.Time) (time.Time, error) {
	now := s.Now()
	if at == nil {
		return s.Moment(ctx), nil
	}
	if wrong := CheckPast("at", *at, now); wrong != nil {
		return now, InvalidInput(*wrong)
	}
	return store.Stamp(*at), nil
}
