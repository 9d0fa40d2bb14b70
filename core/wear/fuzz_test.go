package wear_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"earnestpony/core/chain"
	"earnestpony/core/wear"
)

// FuzzEntry reads whatever is typed into the bench: a number that can be, or words that say why not.
func FuzzEntry(f *testing.F) {
	for _, text := range []string{"", "306.4", "306,4mm", "12 1/16 in", "+1.6", "1/0", "1e999", "NaN", "-0", "0.75 %", "12\x00", "٣", "999999999999999999999999 1/3"} {
		f.Add(uint8(1), 24, text)
	}
	f.Fuzz(func(t *testing.T, kind uint8, links int, text string) {
		e, err := wear.ParseEntry(wear.Kind(kind%7), chain.Links(links), 0, wear.Millimetres, text)
		if err != nil {
			assert.NotEmpty(t, err.Error())
			assert.Less(t, len(err.Error()), 400+4*len(text))
			return
		}
		for _, n := range []float64{float64(e.Length), float64(e.Past), float64(e.Pct)} {
			assert.False(t, math.IsNaN(n) || math.IsInf(n, 0), "%q: %v", text, e)
		}
	})
}
