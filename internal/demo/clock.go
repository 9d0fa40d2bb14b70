package demo

import (
	"context"
	"time"

	"earnestpony/core/wallclock"
	"earnestpony/internal/store"
)

// The demo's clock starts in the middle of a morning's work, whatever time it is in the world: a shop that is closed shows
// nothing. It goes on from there, through the night too if somebody leaves it running.
const (
	startsAt = 10*60 + 40 // minutes since midnight
	opensAt  = 8 * 60
	closesAt = 17*60 + 30
)

// Start is the moment at which a demo that is made at a time of the world begins: that morning, or Monday's on a weekend.
func Start(at time.Time, zone *time.Location) time.Time {
	return morning(wallclock.ReadingOf(at, zone), zone)
}

// Resume is where the demo's clock goes on: where it is while the shop is at work, else the next morning.
func Resume(at time.Time, zone *time.Location) time.Time {
	shown := wallclock.ReadingOf(at, zone)
	minute := shown.Hour*60 + shown.Minute
	switch {
	case workday(shown) && minute >= opensAt && minute < closesAt:
		return at
	case workday(shown) && minute < opensAt:
		return morning(shown, zone)
	}
	return morning(shown.AddDays(1), zone)
}

func workday(r wallclock.Reading) bool {
	return r.Weekday() != time.Saturday && r.Weekday() != time.Sunday
}

func morning(r wallclock.Reading, zone *time.Location) time.Time {
	for !workday(r) {
		r = r.AddDays(1)
	}
	return r.At(startsAt).First(zone)
}

// Clock is the time in the demo: it is set on once, when a server starts, and kept with the demo, so that what was done in
// it never lies ahead.
func Clock(ctx context.Context, s *store.Store) (func() time.Time, error) {
	zone, err := time.LoadLocation(TimeZone)
	if err != nil {
		return nil, err
	}
	var ahead time.Duration
	err = s.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		if ahead, err = tx.ClockAhead(ctx); err != nil {
			return err
		}
		now := time.Now()
		if resumed := Resume(now.Add(ahead), zone); !resumed.Equal(now.Add(ahead)) {
			ahead = resumed.Sub(now).Truncate(time.Second)
			return tx.SetClockAhead(ctx, ahead)
		}
		return nil
	})
	return func() time.Time { return time.Now().Add(ahead) }, err
}
