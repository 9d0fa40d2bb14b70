package forecast

import (
	"slices"

	"earnestpony/core/chain"
	"earnestpony/core/wear"
)

// Money is an amount in the minor units of the shop's currency; a fraction of one is kept until a
// price is shown.
type Money float64

// Prices is what a change of each part costs, the part and the work on it apart.
type Prices struct {
	Chain, Sprockets, Rings                   Money
	LabourChain, LabourSprockets, LabourRings Money
}

// ChainsPerSet is how many chains one set of sprockets lasts when each is replaced at half a percent
// or sooner, at three quarters, and at one or later; in between it runs in a straight line. A shop may
// set its own.
type ChainsPerSet struct {
	Half, ThreeQuarter, One float64
}

// HouseChainsPerSet is what a shop that set none goes by: an early change spares the sprockets
// (handbook: forecast, What replacing early or late costs).
var HouseChainsPerSet = ChainsPerSet{Half: 4, ThreeQuarter: 2.5, One: 1}

// setsPerRings is how many sets of sprockets a set of rings lasts.
const setsPerRings = 3

// At returns how many chains one set of sprockets lasts when each is replaced at the limit.
func (c ChainsPerSet) At(limit chain.Percent) float64 {
	between := func(from, to float64, begin chain.Percent) float64 { return from + float64(limit-begin)/0.25*(to-from) }
	switch {
	case limit <= 0.5:
		return c.Half
	case limit <= 0.75:
		return between(c.Half, c.ThreeQuarter, 0.5)
	case limit < 1:
		return between(c.ThreeQuarter, c.One, 0.75)
	}
	return c.One
}

// Strategy is replacing the chain at a limit, with the chain's life at it.
type Strategy struct {
	Limit chain.Percent
	Life  Percentiles[HardKM]
}

// StrategyCost is what a strategy costs in the long run, per 1000 hard km.
type StrategyCost struct {
	ChainsPerSet float64 // chains that one set of sprockets lasts
	// Low is for a chain that lasts long (the 90th percentile of its life), High for one that does not.
	Low, Mid, High Money
	// What Mid is made of: the chain each time it is worn, the sprockets every few chains, the rings
	// every few sprockets.
	Chain, Sprockets, Rings Money
}

// Cost returns what the strategy costs.
func (p Prices) Cost(s Strategy, sets ChainsPerSet) StrategyCost {
	n := Money(sets.At(s.Limit))
	once := p.Chain + p.LabourChain
	sprockets := (p.Sprockets + p.LabourSprockets) / n
	rings := (p.Rings + p.LabourRings) / (setsPerRings * n)
	each := once + sprockets + rings
	per := func(m Money, life HardKM) Money { return m * 1000 / Money(life) }
	return StrategyCost{ChainsPerSet: float64(n), Low: per(each, s.Life.P90), Mid: per(each, s.Life.P50), High: per(each, s.Life.P10),
		Chain: per(once, s.Life.P50), Sprockets: per(sprockets, s.Life.P50), Rings: per(rings, s.Life.P50)}
}

// StrategyLimits returns the limits worth comparing on a bike whose chain is held to limit, the
// earliest first: half a percent, three quarters, the bike's own, and run to the end where that is
// not refused.
func StrategyLimits(d chain.Drivetrain, limit chain.Percent) []chain.Percent {
	limits := []chain.Percent{0.5, 0.75, limit}
	if wear.RunOut.Allows(d) {
		limits = append(limits, wear.RunOut.Limits(d).Limit)
	}
	slices.Sort(limits)
	return slices.Compact(limits)
}
