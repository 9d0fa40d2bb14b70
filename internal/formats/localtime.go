package formats

import (
	"fmt"
	"strings"
	"time"

	"earnestpony/core/wallclock"
)

// ClockChange reports a local time that no instant shows, or two do, because clocks were changed.
type ClockChange struct {
	Text  string
	Twice bool
}

func (e *ClockChange) Error() string {
	if e.Twice {
		return fmt.Sprintf("%s was shown twice that night, when the clocks went back: give it with its zone, as in 2026-10-25T02:30:00+01:00.", e.Text)
	}
	return fmt.Sprintf("%s was never shown: the clocks went forward over it.", e.Text)
}

// ParseTime reads a time by the first layout that fits. One that says no zone is of the clocks in zone, and fails with a
// [*ClockChange] where those showed it twice or never; a day alone is its beginning.
func ParseTime(text string, zone *time.Location, layouts ...string) (at time.Time, err error) {
	for _, layout := range layouts {
		if at, err = time.Parse(layout, text); err != nil {
			continue
		}
		if strings.Contains(layout, "Z07") {
			return at, nil
		}
		shown := wallclock.ReadingOf(at, time.UTC)
		if !strings.Contains(layout, "04") {
			return shown.First(zone), nil
		}
		instants := shown.Instants(zone)
		if len(instants) != 1 {
			return at, &ClockChange{text, len(instants) > 1}
		}
		return instants[0], nil
	}
	return at, err
}
