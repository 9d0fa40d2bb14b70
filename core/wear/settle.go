package wear

import (
	"math"

	"earnestpony/core/chain"
)

// wholeChainLinks is about how many links a whole chain spans, to tell beforehand how well it would
// be read.
const wholeChainLinks chain.Links = 110

// SigmaOf returns the standard error that a tool of a kind gives at so many places; it is false for
// kinds that compare. An inside caliper is taken to have a reading of the chain when new, and a whole
// chain is one place.
func SigmaOf(k Kind, places int) (chain.Percent, bool) {
	if k.Compares() || k == KindUnknown {
		return 0, false
	}
	n := k.DefaultLinks()
	if k == WholeChain {
		n, places = wholeChainLinks, 1
	}
	sigma := k.sigma(n, true)
	return max(sigma/chain.Percent(math.Sqrt(float64(places))), sigma/2), true
}

// Settles reports whether a tool with this error would leave no doubt on which side of the limit a
// chain of elongation e is, should it read the same.
func Settles(e, sigma chain.Percent, l Limits) bool {
	q := phi(float64((e - l.Limit) / sigma))
	return q < sureBelow-tie || q >= surePast-tie
}

// PlacesToSettle returns how many places in all would settle it with the tool in hand, or 0 when no
// number of them would: one tool's error is partly the same at every place.
func PlacesToSettle(e chain.Percent, k Kind, read int, l Limits) int {
	for places := read + 1; places <= MaxPlaces && k != WholeChain; places++ {
		if sigma, ok := SigmaOf(k, places); ok && Settles(e, sigma, l) {
			return places
		}
	}
	return 0
}
