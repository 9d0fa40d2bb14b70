package sizing

import (
	"cmp"
	"math"
	"slices"

	"earnestpony/core/chain"
)

// Slots is one ring and one sprocket whose axle can be moved, in slots or sliding dropouts.
type Slots struct {
	Ring, Sprocket Teeth
	From, To       chain.MM // chainstay at the two ends
	HalfLink       bool
	Limit          chain.Percent // to which the chain is to be worn
	OpenToRear     bool          // the wheel comes out backward, after its chain was lifted off
}

// liftOff is how far forward an axle in slots that open to the rear must go to lift its chain off.
const liftOff chain.MM = 8

// SlotOption is a chain length that the slots allow.
type SlotOption struct {
	Links        chain.Links
	Chainstay    chain.MM // where the axle sits with a new chain
	Growth       chain.MM // how far back it must go by the time the chain is worn to its limit
	ReachesLimit bool     // whether the slots are long enough for that
	// NoRoomToLiftOff marks a length that leaves the axle too little room forward: the wheel would not come out.
	NoRoomToLiftOff bool
}

// Recommended is the option to take: the shortest whose wheel comes out, else the shortest; nil where there is none.
func Recommended(options []SlotOption) *SlotOption {
	for i := range options {
		if !options[i].NoRoomToLiftOff {
			return &options[i]
		}
	}
	if len(options) == 0 {
		return nil
	}
	return &options[0]
}

// Options returns the chain lengths that the slots allow, the shortest first: that leaves the most room
// behind the axle to take up wear. Its error is an [*OverlapError].
func (s Slots) Options() ([]SlotOption, error) {
	if err := checkApart(s.Ring, s.Sprocket, s.From); err != nil {
		return nil, err
	}
	options := []SlotOption{}
	step := chain.Links(2)
	if s.HalfLink {
		step = 1
	}
	for n := upTo(Belt(s.Ring, s.Sprocket, s.From), s.HalfLink); float64(n) <= Belt(s.Ring, s.Sprocket, s.To)+tie; n += step {
		o := SlotOption{Links: n, Chainstay: s.chainstayFor(n), Growth: n.Nominal() * chain.MM(s.Limit/200)}
		o.ReachesLimit = o.Chainstay+o.Growth <= s.To
		o.NoRoomToLiftOff = s.OpenToRear && o.Chainstay-s.From < liftOff-tie
		options = append(options, o)
	}
	return options, nil
}

// chainstayFor inverts the belt: it only grows with the distance.
func (s Slots) chainstayFor(n chain.Links) chain.MM {
	low, high := s.From, s.To
	for range 80 {
		middle := (low + high) / 2
		if beltLength(s.Ring, s.Sprocket, middle) < n.Nominal() {
			low = middle
		} else {
			high = middle
		}
	}
	return (low + high) / 2
}

// Vertical is a bike whose axle cannot be moved and that has no tensioner.
type Vertical struct {
	Ring, Sprocket Teeth
	Chainstay      chain.MM
	HalfLink       bool
	Bound          chain.MM // up-and-down play at mid-run at which the chain counts as too loose
	// Fixed refuses pairs past their bound when new: a chain that comes off a fixed gear throws the rider.
	Fixed   bool
	Coaster bool // a coaster brake: the rider brakes through the chain's lower run
}

// Tensioner reports whether a tensioner may take up the chain: never where the rider pushes back against
// it, on a fixed gear or a coaster brake, as that tears it off (handbook: replace-and-size, One gear, no
// derailleur). An eccentric or a sliding axle may always.
func (v Vertical) Tensioner() bool { return !v.Fixed && !v.Coaster }

// The bounds of play that a house goes by (handbook: replace-and-size, One gear, no derailleur).
const (
	FixedBound     chain.MM = 15
	FreewheelBound chain.MM = 25
)

// How far from the wanted pair another may lie, and how much spare a new chain may have on it.
const (
	nearTeeth          = 3
	mostSpare chain.MM = 0.3
)

// Pair is a ring and a sprocket that a chain just reaches round.
type Pair struct {
	Ring, Sprocket Teeth
	Links          chain.Links
	Spare          chain.MM // of a new chain
	Ratio          float64
	RatioChange    float64       // percent of the ratio wanted
	PlayNew        chain.MM      // up and down at mid-run with a new chain
	WearAtBound    chain.Percent // at which the play passes the bound: mostly a few hundredths
}

// Pairs returns the pairs near the wanted one that need no tensioner while the chain is new, the nearest
// ratio first. Its error is an [*OverlapError], of the wanted pair.
func (v Vertical) Pairs() ([]Pair, error) {
	if err := checkApart(v.Ring, v.Sprocket, v.Chainstay); err != nil {
		return nil, err
	}
	wanted := float64(v.Ring) / float64(v.Sprocket)
	pairs := []Pair{}
	for ring := max(v.Ring-nearTeeth, FewestTeeth); ring <= min(v.Ring+nearTeeth, MostTeeth); ring++ {
		for sprocket := max(v.Sprocket-nearTeeth, FewestTeeth); sprocket <= min(v.Sprocket+nearTeeth, MostTeeth); sprocket++ {
			if checkApart(ring, sprocket, v.Chainstay) != nil {
				continue
			}
			p := v.pair(ring, sprocket)
			p.RatioChange = 100 * (p.Ratio/wanted - 1)
			if p.Spare <= mostSpare && !(v.Fixed && p.PlayNew > v.Bound) {
				pairs = append(pairs, p)
			}
		}
	}
	slices.SortStableFunc(pairs, func(a, b Pair) int {
		near := func(p Pair) float64 { return math.Abs(p.RatioChange) }
		return cmp.Or(cmp.Compare(near(a), near(b)), cmp.Compare(a.Ring, b.Ring), cmp.Compare(a.Sprocket, b.Sprocket))
	})
	return pairs, nil
}

func (v Vertical) pair(ring, sprocket Teeth) Pair {
	belt := beltLength(ring, sprocket, v.Chainstay)
	n := upTo(float64(belt/chain.Pitch), v.HalfLink)
	run := straightRun(ring, sprocket, v.Chainstay)
	spare := max(n.Nominal()-belt, 0)
	atBound := v.Bound * v.Bound / (2 * run)
	return Pair{Ring: ring, Sprocket: sprocket, Links: n, Spare: spare, Ratio: float64(ring) / float64(sprocket),
		PlayNew: Play(spare, run), WearAtBound: chain.Percent(100 * (atBound - spare) / n.Nominal())}
}

// Play returns how far the middle of a straight run can be moved up and down when the chain has spare
// length: 10 mm on a run of 420 come from 0.12 mm.
func Play(spare, run chain.MM) chain.MM { return 2 * chain.MM(math.Sqrt(float64(run*spare/2))) }
