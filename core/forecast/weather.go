package forecast

// Weather is what a day was like where a bike was ridden.
type Weather struct {
	RainMM float64
	MinC   float64 // °C
}

// What makes of a day's weather what a chain meets on it. The handbook gives no figures; these are set
// cautiously, so that a ride counts rather for more than for less.
const (
	wetFromMM     = 0.5
	soakingFromMM = 5
	saltUpToC     = 1.0 // roads are salted from there on, when they are wet
	dustDryMM     = 0.1
)

// Soaking reports whether a ride on such a day is a soaking one.
func (w Weather) Soaking() bool { return w.RainMM >= soakingFromMM }

// Mix is how a ride on such a day is shared between conditions: a day with some rain is wet for a part of it.
func (w Weather) Mix(offRoad bool) Mix {
	wet, dry := Wet, Fair
	if offRoad {
		wet = Mud
	}
	if w.MinC <= saltUpToC && !offRoad {
		wet = Salt
	}
	if offRoad && w.RainMM < dustDryMM {
		dry = Dusty
	}
	share := 0.0
	switch {
	case w.RainMM >= soakingFromMM:
		share = 1
	case w.RainMM >= wetFromMM:
		share = 0.5
	}
	var m Mix
	m[wet] += share
	m[dry] += 1 - share
	return m
}
