package outside

import (
	"math"
	"time"
)

// The simulated pot: the room, its thermostat, and how fast it comes near either.
const (
	roomC       = 19.0
	thermostatC = 96.0
	warmsIn     = 5 * time.Minute // to within a third of what is missing
)

// Pot stands in for the temperature probe of a wax pot, in °C: one that is on warms to its thermostat
// within a quarter of an hour and swings about it a little; one that is off is as cold as the room.
func Pot(onSince *time.Time, now time.Time) float64 {
	if onSince == nil {
		return roomC
	}
	on := now.Sub(*onSince)
	swing := 1.5 * math.Sin(2*math.Pi*on.Minutes()/7)
	return roomC + (thermostatC-roomC)*(1-math.Exp(-float64(on)/float64(warmsIn))) + swing
}
