package price_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"earnestpony/core/price"
)

func TestQuote(t *testing.T) {
	r := price.Rules{LabourHour: 4800, StepMin: 5, FluidsBy: 1.5, WasteRoute: map[string]price.Money{"soak": 150}, TaxPct: 20}
	q := r.Of(price.Job{Route: "soak", Minutes: 61, Parts: []price.Item{{"joining-link", 1, 490}}, Fluids: []price.Item{{"oil", 4.56, 12}}})
	// 65 minutes at 80, the link, 4.56 mL at 12 and half again, the waste; a fifth on top.
	assert.Equal(t, []price.Line{{"labour", "soak", 65, 5200}, {"part", "joining-link", 1, 490}}, q.Lines[:2])
	assert.InDelta(t, 82.08, float64(q.Lines[2].Amount), 1e-9)
	assert.Equal(t, 7106, q.Total, "5922.08 and a fifth: 7106.496")

	r.TaxInside = true
	assert.Equal(t, 5922, r.Of(price.Job{Route: "soak", Minutes: 65, Parts: []price.Item{{"x", 1, 490}}, Fluids: []price.Item{{"oil", 4.56, 12}}}).Total)
	r.FixedRoute = map[string]price.Money{"soak": 5000}
	assert.Equal(t, 5150, r.Of(price.Job{Route: "soak", Minutes: 300}).Total, "a fixed price, and the waste")
	assert.Equal(t, []int{3, -3, 2}, []int{price.Round(2.5), price.Round(-2.5), price.Round(2.4999)})
	minutes, amount := r.Saved(12, 3)
	assert.Equal(t, 24, minutes)
	assert.InDelta(t, 1920, float64(amount), 1e-9)
	taxed := price.Rules{LabourHour: 6000, StepMin: 5, TaxPct: 20}.Of(price.Job{Minutes: 60, Fitting: []price.Item{{"sprockets", 1, 1200}}})
	assert.Equal(t, 8640, taxed.Total)
	more := taxed.With([]price.Item{{"pads", 2, 500}})
	assert.Equal(t, 9840, more.Total, "taxed as it was")
	assert.Len(t, more.Lines, 4)
	assert.True(t, price.Over(1000, 1101, 10))
	assert.False(t, price.Over(1000, 1100, 10))
}

// More work never costs less, and the total is what its lines add up to.
func TestQuoteGrows(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := price.Rules{LabourHour: price.Money(rapid.IntRange(0, 20000).Draw(t, "rate")), StepMin: rapid.IntRange(1, 30).Draw(t, "step"),
			FluidsBy: 1, TaxPct: rapid.Float64Range(0, 30).Draw(t, "tax")}
		minutes := rapid.IntRange(0, 600).Draw(t, "minutes")
		less, more := r.Of(price.Job{Minutes: minutes}), r.Of(price.Job{Minutes: minutes + rapid.IntRange(0, 60).Draw(t, "more")})
		assert.LessOrEqual(t, less.Total, more.Total)
		sum := price.Money(0)
		for _, l := range more.Lines {
			sum += l.Amount
		}
		assert.InDelta(t, float64(sum), float64(more.Total), 0.500001)
		assert.GreaterOrEqual(t, r.Charged(minutes), minutes)
	})
}
