package sizing

import (
	"math"

	"earnestpony/core/chain"
)

// Point lies in the plane of the chain, mm: forward of the bottom bracket, and above it.
type Point struct{ X, Y float64 }

// Turn is which way a wheel turns, seen from the drive side.
type Turn float64

// The turns.
const (
	Clockwise        Turn = -1
	CounterClockwise Turn = 1
)

// Wheel is a wheel that the chain runs round, with the arc on which it lies.
type Wheel struct {
	Name   string // ring, tension-pulley, guide-pulley, sprocket
	Teeth  Teeth
	Centre Point
	Radius chain.MM // of its pitch circle
	Turn   Turn
	From   Point   // where the chain comes on
	To     Point   // where it leaves
	Angle  float64 // turned between them, radians
}

// Path is the way of the chain: round each wheel, and straight from where it leaves one to where it comes
// on the next, closed from the last to the first.
type Path struct {
	Wheels []Wheel
	Length chain.MM
}

// fullTurn is how near to a whole turn an arc counts as none.
const fullTurn = 2*math.Pi - 1e-6

// Path returns the way of the chain in one gear with the cage at an angle, at rest.
func (g Gearing) Path(ring, sprocket Teeth, cage Degrees) Path {
	wheels := g.wheels(ring, sprocket, g.Chainstay, cage)
	return Path{wheels[:], wind(&wheels)}
}

func (g Gearing) pathLength(ring, sprocket Teeth, c chain.MM, cage Degrees) chain.MM {
	wheels := g.wheels(ring, sprocket, c, cage)
	return wind(&wheels)
}

// wheels lays out the four wheels in the order in which the chain meets them.
func (g Gearing) wheels(ring, sprocket Teeth, c chain.MM, cage Degrees) [4]Wheel {
	pulley := g.Pulley.PitchRadius()
	axle := Point{X: -float64(c)}
	down := float64(sprocket.PitchRadius() + g.Gap + pulley)
	sin, cos := math.Sincos(guideAt.radians())
	guide := Point{axle.X + down*cos, axle.Y + down*sin}
	sin, cos = math.Sincos(cage.radians())
	tension := Point{guide.X + float64(g.Cage)*sin, guide.Y - float64(g.Cage)*cos}
	return [4]Wheel{
		{Name: "ring", Teeth: ring, Radius: ring.PitchRadius(), Turn: Clockwise},
		{Name: "tension-pulley", Teeth: g.Pulley, Centre: tension, Radius: pulley, Turn: Clockwise},
		{Name: "guide-pulley", Teeth: g.Pulley, Centre: guide, Radius: pulley, Turn: CounterClockwise},
		{Name: "sprocket", Teeth: sprocket, Centre: axle, Radius: sprocket.PitchRadius(), Turn: Clockwise},
	}
}

// wind runs the chain round the wheels and returns its length: straight runs, and arcs at pitch radii.
// The tangent is an external one between wheels that turn the same way and a crossed one between others.
func wind(wheels *[4]Wheel) chain.MM {
	var out [4]float64 // the direction in which the chain leaves each wheel
	total := 0.0
	for i := range wheels {
		a, b := &wheels[i], &wheels[(i+1)%4]
		dx, dy := b.Centre.X-a.Centre.X, b.Centre.Y-a.Centre.Y
		apart := math.Hypot(dx, dy)
		// Along the tangent the centres differ sideways by the signed radii.
		side := float64(b.Turn)*float64(b.Radius) - float64(a.Turn)*float64(a.Radius)
		out[i] = math.Atan2(dy, dx) - math.Asin(side/apart)
		sin, cos := math.Sincos(out[i])
		at := func(w *Wheel) Point {
			r := float64(w.Turn) * float64(w.Radius)
			return Point{w.Centre.X + r*sin, w.Centre.Y - r*cos}
		}
		a.To, b.From = at(a), at(b)
		total += math.Sqrt(apart*apart - side*side)
	}
	for i := range wheels {
		w := &wheels[i]
		turned := math.Mod(float64(w.Turn)*(out[i]-out[(i+3)%4]), 2*math.Pi)
		if turned < 0 {
			turned += 2 * math.Pi
		}
		if turned > fullTurn {
			turned = 0
		}
		w.Angle = turned
		total += float64(w.Radius) * turned
	}
	return chain.MM(total)
}
