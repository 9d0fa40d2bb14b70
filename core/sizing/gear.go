package sizing

import (
	"fmt"
	"math"
	"slices"

	"earnestpony/core/chain"
)

// Degrees is an angle.
type Degrees float64

func (d Degrees) radians() float64 { return float64(d) * math.Pi / 180 }

// How far the cage moves, from straight down, positive forward (handbook: replace-and-size, The gear).
const (
	SlackEnd Degrees = -70 // it can give no more chain back
	TightEnd Degrees = 85  // fully pulled
)

// guideAt is where the guide pulley hangs from the axle, counter-clockwise from forward: below and a
// little ahead.
const guideAt Degrees = 285

// What is assumed of a derailleur of which nothing else is known.
const (
	DefaultGap    chain.MM = 6 // between the sprocket in use and the guide pulley
	DefaultPulley Teeth    = 12
)

// CageLengths are those of a short, a middle and a long cage.
var CageLengths = [...]chain.MM{56, 75, 93}

// Gearing is a drivetrain with a derailleur.
type Gearing struct {
	Rings     []Teeth
	Sprockets []Teeth
	Chainstay chain.MM
	Growth    chain.MM // of that to its longest, with rear suspension
	Cage      chain.MM // between its pulleys
	Gap       chain.MM // between the sprocket in use and the guide pulley
	Pulley    Teeth
}

// PulleyError reports pulleys that no cage of that length can carry.
type PulleyError struct {
	Cage, Least chain.MM
}

func (e *PulleyError) Error() string {
	return fmt.Sprintf("a cage of %g mm: its two jockey wheels would overlap, they need %.0f mm", float64(e.Cage), float64(e.Least))
}

// Check refuses wheels that overlap; its errors are [*OverlapError] and [*PulleyError].
func (g Gearing) Check() error {
	if least := 2 * g.Pulley.PitchRadius(); g.Cage < least {
		return &PulleyError{g.Cage, least}
	}
	return checkApart(slices.Max(g.Rings), slices.Max(g.Sprockets), g.Chainstay)
}

// State is whether a gear can be used. Zero is [Fits].
type State uint8

// The states.
const (
	Fits  State = iota
	Tight       // it cannot be shifted into without tearing something
	Slack       // the chain hangs loose
)

func (s State) String() string { return [...]string{"ok", "tight", "slack"}[s] }

// Gear is one ring with one sprocket.
type Gear struct {
	Ring, Sprocket Teeth
	State          State
	Over           chain.MM // missing where tight, spare where slack, else 0
	Cage           Degrees  // where it stands, when it fits
	ToSlack        Degrees  // how far it could go yet
	ToTight        Degrees
}

// Gears returns every gear with a chain of n links that has worn by e, rings outside, sprockets inside, as
// they were given. The gearing must pass [Gearing.Check].
func (g Gearing) Gears(n chain.Links, e chain.Percent) []Gear {
	gears := make([]Gear, 0, len(g.Rings)*len(g.Sprockets))
	for _, ring := range g.Rings {
		for _, sprocket := range g.Sprockets {
			gears = append(gears, g.Gear(ring, sprocket, n, e))
		}
	}
	return gears
}

// Gear solves where the cage stands in one gear.
func (g Gearing) Gear(ring, sprocket Teeth, n chain.Links, e chain.Percent) Gear {
	out := Gear{Ring: ring, Sprocket: sprocket}
	if over := g.tightBy(ring, sprocket, n, e); over > 0 {
		out.State, out.Over = Tight, over
		return out
	}
	length := e.Length(n)
	if over := length - g.pathLength(ring, sprocket, g.Chainstay, SlackEnd); over > 0 {
		out.State, out.Over = Slack, over
		return out
	}
	out.Cage = g.cageFor(ring, sprocket, length)
	out.ToSlack, out.ToTight = out.Cage-SlackEnd, TightEnd-out.Cage
	return out
}

// tightBy returns how much is missing with the cage fully pulled and the chainstay at its longest; not
// above zero when nothing is.
func (g Gearing) tightBy(ring, sprocket Teeth, n chain.Links, e chain.Percent) chain.MM {
	return g.pathLength(ring, sprocket, g.Chainstay+g.Growth, TightEnd) - e.Length(n)
}

// cageFor finds the angle at which the path is as long as the chain. The path falls as the cage swings
// forward, so there is one.
func (g Gearing) cageFor(ring, sprocket Teeth, length chain.MM) Degrees {
	low, high := SlackEnd, TightEnd
	for high-low > 1e-7 {
		middle := (low + high) / 2
		if g.pathLength(ring, sprocket, g.Chainstay, middle) > length {
			low = middle
		} else {
			high = middle
		}
	}
	return (low + high) / 2
}

// Window is the even chain lengths that leave the cage room at both ends: big-to-big never tight with the
// suspension at its longest, small-to-small never slack at rest. The model is good to a pair of links
// either way.
type Window struct {
	Empty    bool // the cage is too small for these gears
	Min, Max chain.Links
}

// Window returns the lengths that work for a chain worn by e.
func (g Gearing) Window(e chain.Percent) Window {
	link := float64(e.Length(1))
	least := float64(g.pathLength(slices.Max(g.Rings), slices.Max(g.Sprockets), g.Chainstay+g.Growth, TightEnd)) / link
	most := float64(g.pathLength(slices.Min(g.Rings), slices.Min(g.Sprockets), g.Chainstay, SlackEnd)) / link
	w := Window{Min: upToEven(least), Max: 2 * chain.Links(math.Floor(most/2+tie/2))}
	if w.Min > w.Max {
		return Window{Empty: true}
	}
	return w
}
