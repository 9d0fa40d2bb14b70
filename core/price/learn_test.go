package price_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"earnestpony/core/price"
)

func TestSuggest(t *testing.T) {
	for name, c := range map[string]struct {
		planned   int
		took      []float64
		minutes   int
		of        int
		suggested bool
	}{
		"too few to tell":                        {5, []float64{9, 9, 9, 9}, 5, 4, false},
		"as planned":                             {6, []float64{5, 6, 6, 7, 30}, 6, 5, false},
		"one that went wrong moves little":       {3, []float64{5, 5, 5, 5, 240}, 5, 5, true},
		"between the two in the middle":          {3, []float64{4, 4, 4, 7, 7, 7}, 6, 6, true},
		"never nothing":                          {2, []float64{0.3, 0.2, 0.4, 0.3, 0.2}, 1, 5, true},
		"the last twenty, not what was long ago": {9, append(slices.Repeat([]float64{4}, 20), slices.Repeat([]float64{90}, 50)...), 4, 20, true},
	} {
		minutes, of, ok := price.Suggest(c.planned, c.took)
		assert.Equal(t, []any{c.minutes, c.of, c.suggested}, []any{minutes, of, ok}, name)
	}
	rapid.Check(t, func(t *rapid.T) {
		took := rapid.SliceOfN(rapid.Float64Range(0, 300), 5, 60).Draw(t, "took")
		before := slices.Clone(took)
		minutes, of, _ := price.Suggest(0, took)
		last := took[:of]
		assert.GreaterOrEqual(t, float64(minutes), slices.Min(last)-0.5)
		assert.LessOrEqual(t, float64(minutes), max(slices.Max(last)+0.5, 1))
		assert.Equal(t, before, took, "what was measured is left alone")
	})
}
