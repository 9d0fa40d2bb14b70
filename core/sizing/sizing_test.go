package sizing_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/chain"
	"earnestpony/core/sizing"
)

type teeth = []sizing.Teeth

var road = sizing.Gearing{Rings: teeth{34, 50}, Sprockets: teeth{11, 34}, Chainstay: 410, Cage: 75, Gap: sizing.DefaultGap, Pulley: sizing.DefaultPulley}

// The handbook's reference points.
func TestReferencePoints(t *testing.T) {
	assert.InDelta(t, 106.81, sizing.Belt(50, 34, 410), 0.005)
	big, small := road.Gear(50, 34, 110, 0), road.Gear(34, 11, 110, 0)
	assert.InDelta(t, 69.9, float64(big.Cage), 0.05)
	assert.InDelta(t, -59.7, float64(small.Cage), 0.05)
	assert.InDelta(t, 108.48, float64(road.Path(50, 34, sizing.TightEnd).Length/chain.Pitch), 0.005)
	assert.InDelta(t, 111.06, float64(road.Path(34, 11, sizing.SlackEnd).Length/chain.Pitch), 0.005)
	assert.Equal(t, sizing.Window{Min: 110, Max: 110}, road.Window(0))

	trail := sizing.Gearing{Rings: teeth{32}, Sprockets: teeth{10, 52}, Chainstay: 440, Cage: 93, Gap: sizing.DefaultGap, Pulley: sizing.DefaultPulley}
	assert.InDelta(t, 111.62, sizing.Belt(32, 52, 440), 0.005)
	tight := trail.Gear(32, 52, 114, 0)
	assert.Equal(t, sizing.Tight, tight.State)
	assert.InDelta(t, 1.03, float64(tight.Over), 0.005)
	assert.InDelta(t, 70.6, float64(trail.Gear(32, 52, 116, 0).Cage), 0.05)
	assert.InDelta(t, -62.7, float64(trail.Gear(32, 10, 116, 0).Cage), 0.05)

	q := sizing.Question{Kind: chain.Derailleur, Rings: teeth{32}, Sprockets: teeth{10, 52}, Chainstay: 440, Joint: sizing.JoiningLink, Cage: 93}
	l, err := sizing.Size(q)
	require.NoError(t, err)
	assert.Equal(t, chain.Links(116), l.Keep, "four links of overlap for so large a sprocket")
	q.Overlap = 2
	l, err = sizing.Size(q)
	require.NoError(t, err)
	assert.Equal(t, []sizing.WarningCode{sizing.TightBigToBig}, l.Warnings)
	assert.True(t, l.TwoMore, "two links more free it")
	assert.InDelta(t, 10.04, float64(sizing.Play(0.12, 420)), 0.005)
}

// What each rule of the length says, beyond the worked examples.
func TestLengthRules(t *testing.T) {
	base := sizing.Question{Kind: chain.Derailleur, Rings: teeth{34, 50}, Sprockets: teeth{11, 34}, Chainstay: 410, Joint: sizing.JoiningLink}
	single := sizing.Question{Kind: chain.SingleSpeed, Rings: teeth{46}, Sprockets: teeth{17}, Chainstay: 405, Joint: sizing.JoiningLink}
	for _, c := range []struct {
		what   string
		from   sizing.Question
		change func(*sizing.Question)
		keep   chain.Links
		method sizing.Method
		warns  []sizing.WarningCode
	}{
		{"the bench method", base, func(q *sizing.Question) {}, 110, sizing.Wrap, nil},
		{"the maker's figure wins", base, func(q *sizing.Question) { q.MakerLinks = 112 }, 112, sizing.Maker, nil},
		{"unless it does not reach", base, func(q *sizing.Question) { q.MakerLinks = 106 }, 110, sizing.Wrap, []sizing.WarningCode{sizing.MakerTooShort}},
		{"or cannot be closed", base, func(q *sizing.Question) { q.MakerLinks = 111 }, 110, sizing.Wrap, []sizing.WarningCode{sizing.OddCount}},
		{"the house counts the old chain", base, func(q *sizing.Question) { q.House, q.OldLinks = sizing.OldChain, 112 }, 112, sizing.OldChain, nil},
		{"where there is one", base, func(q *sizing.Question) { q.House = sizing.OldChain }, 110, sizing.Wrap, nil},
		{"the house reckons by the formula", base, func(q *sizing.Question) { q.House = sizing.Formula }, 110, sizing.Formula, nil},
		{"a cage too small", base, func(q *sizing.Question) { q.CageCapacity = 37 }, 110, sizing.Wrap, []sizing.WarningCode{sizing.OverCapacity}},
		{"one gear has no overlap", single, func(q *sizing.Question) {}, 98, sizing.Geometry, nil},
		{"the house's method is for derailleurs", single, func(q *sizing.Question) { q.House = sizing.Formula }, 98, sizing.Geometry, nil},
		{"a half-link takes an odd count", single, func(q *sizing.Question) { q.HalfLink, q.MakerLinks = true, 97 }, 97, sizing.Maker, nil},
	} {
		q := c.from
		c.change(&q)
		l, err := sizing.Size(q)
		require.NoError(t, err, c.what)
		assert.Equal(t, c.keep, l.Keep, c.what)
		assert.Equal(t, c.method, l.Method, c.what)
		assert.Equal(t, c.warns, l.Warnings, c.what)
	}
	// The joining link counts on the box: to close with a pin, two links fewer are of use.
	q := base
	q.BoxLinks, q.BoxHasJoiningLink, q.Joint = 112, true, sizing.JoiningPin
	l, err := sizing.Size(q)
	require.NoError(t, err)
	assert.Equal(t, []chain.Links{0, 0}, []chain.Links{l.Remove, l.ShortBy})
	q.Joint = sizing.JoiningLink
	l, _ = sizing.Size(q)
	assert.Equal(t, chain.Links(2), l.Remove)

	_, err = sizing.Size(sizing.Question{Kind: chain.Derailleur, Rings: teeth{50}, Sprockets: teeth{34}, Chainstay: 150})
	assert.ErrorContains(t, err, "a chainring of 50 and a sprocket of 34 teeth would overlap")
	q.HalfLink = true
	_, err = sizing.Size(q)
	assert.ErrorContains(t, err, "half-link is for single-speed")
	assert.ErrorContains(t, sizing.Gearing{Rings: teeth{50}, Sprockets: teeth{34}, Chainstay: 410, Cage: 40, Pulley: 12}.Check(), "two jockey wheels would overlap")
}

// Both ends of a chain for a joining link are inner links; a pin joins an inner to an outer one.
func TestWhereToCut(t *testing.T) {
	for _, c := range []struct {
		keep chain.Links
		j    sizing.Joint
		half bool
		want sizing.Cut
	}{
		{116, sizing.JoiningLink, false, sizing.Cut{Links: 115, LastInner: true}},
		{116, sizing.JoiningPin, false, sizing.Cut{Links: 116, LastInner: false}},
		{97, sizing.JoiningLink, true, sizing.Cut{Links: 95, LastInner: true}},
		{97, sizing.PressFitPin, true, sizing.Cut{Links: 96, LastInner: false}},
	} {
		assert.Equal(t, c.want, sizing.CutFor(c.keep, c.j, c.half), "%+v", c)
	}
}

func anyGearing(t *rapid.T) sizing.Gearing {
	g := sizing.Gearing{Chainstay: chain.MM(rapid.Float64Range(395, 470).Draw(t, "chainstay")), Growth: chain.MM(rapid.Float64Range(0, 20).Draw(t, "growth")),
		Cage: rapid.SampledFrom(sizing.CageLengths[:]).Draw(t, "cage"), Gap: sizing.DefaultGap, Pulley: sizing.DefaultPulley}
	g.Rings = teeth{sizing.Teeth(rapid.IntRange(28, 40).Draw(t, "small ring"))}
	if rapid.Bool().Draw(t, "two rings") {
		g.Rings = append(g.Rings, g.Rings[0]+sizing.Teeth(rapid.IntRange(8, 16).Draw(t, "step")))
	}
	g.Sprockets = teeth{sizing.Teeth(rapid.IntRange(9, 13).Draw(t, "smallest")), sizing.Teeth(rapid.IntRange(25, 52).Draw(t, "largest"))}
	return g
}

// A longer chainstay never asks for a shorter chain; geometry and the workshop's formula agree within a
// pair over ordinary bikes.
func TestLengthLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := anyGearing(t)
		q := sizing.Question{Kind: chain.Derailleur, Rings: g.Rings, Sprockets: g.Sprockets, Chainstay: g.Chainstay, Growth: g.Growth, Joint: sizing.JoiningLink, Overlap: 2}
		short, err := sizing.Size(q)
		require.NoError(t, err)
		q.Chainstay += chain.MM(rapid.Float64Range(0, 40).Draw(t, "longer by"))
		long, err := sizing.Size(q)
		require.NoError(t, err)
		for i, m := range short.Methods {
			require.GreaterOrEqual(t, long.Methods[i].Links, m.Links, "%v", m.Method)
		}
		wrap, formula := short.Methods[0].Links, short.Methods[1].Links
		require.LessOrEqual(t, math.Abs(float64(wrap-formula)), 2.0, "wrap %d, formula %d", wrap, formula)
		require.Zero(t, int(short.Keep)%2)
	})
}

// The path closes; where the chain comes on a wheel and leaves it lies on its circle, along the tangent;
// its length is that of its parts.
func TestPathLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := anyGearing(t)
		cage := sizing.Degrees(rapid.Float64Range(float64(sizing.SlackEnd), float64(sizing.TightEnd)).Draw(t, "cage"))
		p := g.Path(g.Rings[len(g.Rings)-1], g.Sprockets[1], cage)
		total := 0.0
		for i, w := range p.Wheels {
			next := p.Wheels[(i+1)%len(p.Wheels)]
			for _, at := range []sizing.Point{w.From, w.To} {
				require.InDelta(t, float64(w.Radius), math.Hypot(at.X-w.Centre.X, at.Y-w.Centre.Y), 1e-9, "%s: on its circle", w.Name)
			}
			dx, dy := next.From.X-w.To.X, next.From.Y-w.To.Y
			run := math.Hypot(dx, dy)
			along := func(at, centre sizing.Point) float64 { return (dx*(at.X-centre.X) + dy*(at.Y-centre.Y)) / run }
			require.InDelta(t, 0, along(w.To, w.Centre), 1e-6, "%s: leaves at a right angle to its radius", w.Name)
			require.InDelta(t, 0, along(next.From, next.Centre), 1e-6, "%s: comes on likewise", next.Name)
			// From where it comes on, turned by its angle, it leaves: so the path closes.
			sin, cos := math.Sincos(float64(w.Turn) * w.Angle)
			x, y := w.From.X-w.Centre.X, w.From.Y-w.Centre.Y
			require.InDelta(t, w.To.X-w.Centre.X, x*cos-y*sin, 1e-4, "%s", w.Name)
			require.InDelta(t, w.To.Y-w.Centre.Y, x*sin+y*cos, 1e-4, "%s", w.Name)
			total += run + float64(w.Radius)*w.Angle
		}
		require.InDelta(t, total, float64(p.Length), 1e-9)
	})
}

// More links never pull the cage further; where a gear fits, its path is as long as its chain; and the
// window is just the lengths at which neither end is wrong.
func TestGearLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := anyGearing(t)
		big, small := g.Rings[len(g.Rings)-1], g.Rings[0]
		window := g.Window(0)
		last := sizing.Degrees(math.Inf(1))
		for n := chain.Links(96); n <= 136; n += 2 {
			high, low := g.Gear(big, g.Sprockets[1], n, 0), g.Gear(small, g.Sprockets[0], n, 0)
			works := high.State != sizing.Tight && low.State != sizing.Slack
			require.Equal(t, works, !window.Empty && n >= window.Min && n <= window.Max, "%d links, window %+v", n, window)
			if high.State != sizing.Fits {
				continue
			}
			require.Less(t, high.Cage, last, "%d links", n)
			last = high.Cage
			require.InDelta(t, float64(n.Nominal()), float64(g.Path(big, g.Sprockets[1], high.Cage).Length), 1e-5)
			worn := g.Gear(big, g.Sprockets[1], n, 1)
			require.True(t, worn.State == sizing.Slack || worn.Cage < high.Cage, "a worn chain hangs lower")
		}
	})
}

// One gear: every option's chainstay gives back its length, the first has the most room behind it, and no
// pair is past its bound on a fixed gear.
func TestOneGearLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		ring, sprocket := sizing.Teeth(rapid.IntRange(36, 52).Draw(t, "ring")), sizing.Teeth(rapid.IntRange(12, 22).Draw(t, "sprocket"))
		from := chain.MM(rapid.Float64Range(390, 440).Draw(t, "from"))
		s := sizing.Slots{Ring: ring, Sprocket: sprocket, From: from, To: from + chain.MM(rapid.Float64Range(0, 30).Draw(t, "slot")),
			HalfLink: rapid.Bool().Draw(t, "half-link"), Limit: 0.75}
		options, err := s.Options()
		require.NoError(t, err)
		for i, o := range options {
			require.InDelta(t, float64(o.Links), sizing.Belt(ring, sprocket, o.Chainstay), 1e-6)
			require.True(t, o.Chainstay >= s.From-1e-6 && o.Chainstay <= s.To+1e-6)
			require.True(t, i == 0 || o.Links > options[i-1].Links)
			require.True(t, s.HalfLink || o.Links%2 == 0)
		}
		v := sizing.Vertical{Ring: ring, Sprocket: sprocket, Chainstay: from, HalfLink: s.HalfLink, Bound: 8, Fixed: true}
		pairs, err := v.Pairs()
		require.NoError(t, err)
		for i, p := range pairs {
			require.LessOrEqual(t, p.PlayNew, v.Bound, "a chain that comes off a fixed gear throws the rider")
			require.GreaterOrEqual(t, p.Spare, chain.MM(0))
			require.True(t, i == 0 || math.Abs(p.RatioChange) >= math.Abs(pairs[i-1].RatioChange))
			// At the wear it names the play is the bound.
			lean := float64(p.Ring.PitchRadius() - p.Sprocket.PitchRadius())
			run := chain.MM(math.Sqrt(float64(from*from) - lean*lean))
			require.InDelta(t, float64(v.Bound), float64(sizing.Play(p.Spare+p.WearAtBound.Growth(p.Links), run)), 1e-6)
		}
		require.False(t, v.Tensioner(), "pushed back against, it tears off")
		v.Fixed, v.Coaster = false, rapid.Bool().Draw(t, "coaster brake")
		require.Equal(t, !v.Coaster, v.Tensioner())
		loose, err := v.Pairs()
		require.NoError(t, err)
		require.GreaterOrEqual(t, len(loose), len(pairs))
	})
}

func ExampleSize() {
	l, _ := sizing.Size(sizing.Question{Kind: chain.Derailleur, Rings: []sizing.Teeth{32}, Sprockets: []sizing.Teeth{10, 52}, Chainstay: 440,
		Joint: sizing.JoiningLink, BoxLinks: 118})
	fmt.Printf("keep %d, take off %d; count %d links and press out the pin after them\n", l.Keep, l.Remove, l.Cut.Links)
	for _, m := range l.Methods {
		fmt.Printf("%v: %d\n", m.Method, m.Links)
	}
	// Output:
	// keep 116, take off 2; count 115 links and press out the pin after them
	// wrap: 116
	// formula: 114
}

// BenchmarkGears solves every gear of the largest drivetrain there is, and its window.
func BenchmarkGears(b *testing.B) {
	g := sizing.Gearing{Rings: teeth{26, 36, 48}, Sprockets: teeth{10, 11, 12, 13, 15, 17, 19, 21, 24, 28, 32, 38, 44}, Chainstay: 430, Cage: 93, Gap: 6, Pulley: 12}
	for b.Loop() {
		g.Gears(116, 0)
		g.Window(0)
	}
}
