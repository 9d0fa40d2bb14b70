package price

import (
	"math"
	"slices"
)

// How much is looked at before planned minutes are said to be wrong (handbook: price; the least is ours: fewer
// than five jobs say more about the jobs).
const (
	learnFrom  = 20
	learnLeast = 5
)

// Suggest is how many minutes a step should be planned with, going by how long it really took, the newest first:
// the median of the last twenty, to the whole minute and at least one. ok is false where there are fewer than
// five, or where the answer is what is planned already.
func Suggest(planned int, took []float64) (minutes, of int, ok bool) {
	last := slices.Clone(took[:min(len(took), learnFrom)])
	if len(last) < learnLeast {
		return planned, len(last), false
	}
	slices.Sort(last)
	middle := len(last) / 2
	median := last[middle]
	if len(last)%2 == 0 {
		median = (last[middle-1] + last[middle]) / 2
	}
	minutes = max(int(math.Round(median)), 1)
	return minutes, len(last), minutes != planned
}
