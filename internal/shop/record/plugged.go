package record

import (
	"time"

	"earnestpony/core/chain"
	"earnestpony/core/wear"
)

// MeasuringTool says what a tool that types for itself would type, held to a chain worn by e over n
// links. A real one is no part of this program: it is plugged into a tablet like a keyboard.
type MeasuringTool interface {
	Read(k wear.Kind, n chain.Links, e chain.Percent) (string, error)
}

// PotProbe says what the temperature probe of a wax pot reads, in °C: of one that is on since a time, or
// off where that is nil.
type PotProbe func(onSince *time.Time, now time.Time) float64
