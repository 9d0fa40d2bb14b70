package forecast

import "earnestpony/core/chain"

// Money is an amount in the minor units of the shop's currency; a fraction of one is kept until a
// price is shown.
type Money float64

// Prices is what a change of each part costs, the part and the work on it apart.
type Prices struct {
	Chain, Sprockets, Rings                   Money
	LabourChain, LabourSprockets, LabourRings Money
}

// Strategy is replacing the chain at a limit, with the chain's life at it.
type Strategy struct {
	Limit chain.Percent
	Life  Percentiles[HardKM]
}

// StrategyCost is what a strategy costs in the long run.
type StrategyCost struct {
	ChainsPerSet float64 // chains that one set of sprockets lasts
	// Per 1000 hard km: Low for a chain that lasts long (the 90th percentile of its life), High for one
	// that does not.
	Low, Mid, High Money
}

// setsPerRings is how many sets of sprockets a set of rings lasts.
const setsPerRings = 3

// chainsPerSet returns how many chains one set of sprockets lasts when each is replaced at the limit:
// an early change spares the sprockets (handbook: forecast, What replacing early or late costs).
func chainsPerSet(limit chain.Percent) float64 {
	switch {
	case limit <= 0.5:
		return 4
	case limit <= 0.75:
		return 4 - float64(limit-0.5)/0.25*1.5
	case limit < 1:
		return 2.5 - float64(limit-0.75)/0.25*1.5
	default:
		return 1
	}
}

// Cost returns what the strategy costs per 1000 hard km: the chain each time it is worn, the sprockets
// every few chains, the rings every few sprockets.
func (p Prices) Cost(s Strategy) StrategyCost {
	n := Money(chainsPerSet(s.Limit))
	each := p.Chain + p.LabourChain + (p.Sprockets+p.LabourSprockets)/n + (p.Rings+p.LabourRings)/(setsPerRings*n)
	per := func(life HardKM) Money { return each * 1000 / Money(life) }
	return StrategyCost{ChainsPerSet: float64(n), Low: per(s.Life.P90), Mid: per(s.Life.P50), High: per(s.Life.P10)}
}
