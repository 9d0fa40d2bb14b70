package shop_test

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
)

// tracked is a bike whose wear a test tells, by a clock that it moves.
type tracked struct {
	*testing.T
	*shop.Service
	mira record.Actor
	now  *time.Time
	tag  string
	tool uuid.UUID
}

func openTracked(t *testing.T, facts record.BikeFacts) *tracked {
	ctx := context.Background()
	s, mira, now := open(t)
	owner, err := s.AddCustomer(ctx, mira, record.CustomerFacts{Name: "Aldous Fenwick-Reyes"})
	require.NoError(t, err)
	bike, err := s.AddBike(ctx, mira, bikes.NewBike{CustomerID: owner.ID, Facts: facts})
	require.NoError(t, err)
	tools, err := s.Instruments(ctx, false)
	require.NoError(t, err)
	tr := &tracked{T: t, Service: s, mira: mira, now: now, tag: bike.Tag}
	for _, tool := range tools {
		if tool.Kind == "gauge-percent" {
			tr.tool = tool.ID
		}
	}
	return tr
}

func (t *tracked) later(days int) { *t.now = t.now.Add(time.Duration(days) * 24 * time.Hour) }

func (t *tracked) read(km float64, percent string) measure.Measurement {
	t.Helper()
	n := measure.NewMeasurement{InstrumentID: t.tool, Entries: []measure.BenchEntry{{Place: 1, Text: percent}}}
	if km > 0 {
		n.OdometerKM = &km
	}
	m, err := t.RecordMeasurement(context.Background(), t.mira, t.tag, n)
	require.NoError(t, err)
	return m
}

func (t *tracked) track() bikes.WearTrack {
	t.Helper()
	w, err := t.WearTrack(context.Background(), t.tag)
	require.NoError(t, err)
	return w
}

func (t *tracked) fit(km float64) {
	t.Helper()
	_, err := t.FitChain(context.Background(), t.mira, t.tag, bikes.ChainFitting{OdometerKM: &km})
	require.NoError(t, err)
}

var commuter = record.BikeFacts{DrivetrainKind: "derailleur", SprocketCount: ptr(11), Motor: "none", Lubricant: "drip-wax", WeeklyKM: ptr(70.0),
	Mix: &record.Mix{Fair: 0.5, Wet: 0.5}}

// A forecast needs to know when the chain was new, narrows as readings come in, and forgets what was
// struck out.
func TestForecastOfABike(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	w := b.track()
	assert.Equal(t, []string{"chain-fitted"}, w.Missing)
	assert.Nil(t, w.Forecast)

	b.fit(1000)
	w = b.track()
	require.NotNil(t, w.Forecast)
	assert.False(t, w.Forecast.Measured)
	assert.InDelta(t, 1.5, w.HardPerKM, 1e-12)
	assert.InDelta(t, 15, w.RateHardKMPerDay, 1e-9, "the owner's word, while there is no history")
	width := func(w bikes.WearTrack) float64 { return w.Forecast.KHardKM.P90 / w.Forecast.KHardKM.P10 }
	widths := []float64{width(w)}
	km := 1000.0
	for i, percent := range []string{"0.05", "0.09", "0.15", "0.19", "0.26"} {
		b.later(30)
		km += 400
		b.read(km, percent)
		w = b.track()
		widths = append(widths, width(w))
		require.Len(t, w.Readings, i+1)
		assert.InDelta(t, float64(600*(i+1)), w.Readings[i].HardKM, 1e-6, "400 km, half of them wet")
	}
	assert.Less(t, widths[5], widths[1], "%v", widths)
	assert.Less(t, widths[1], widths[0], "%v", widths)
	assert.InDelta(t, 20, w.RateHardKMPerDay, 1e-9, "and by the readings once there are enough")
	assert.InDelta(t, 6000, w.Forecast.KHardKM.P50, 800)

	before := w
	slip := b.read(0, "0.9")
	assert.Less(t, b.track().Forecast.KHardKM.P50, before.Forecast.KHardKM.P50)
	_, err := b.StrikeOut(ctx, b.mira, slip.EntryID, "wrong bike")
	require.NoError(t, err)
	assert.Equal(t, before, b.track(), "what was struck out leaves no trace in the forecast")

	// A reading dated by a tablet whose clock runs ahead does not come from beyond today.
	_, err = b.RecordMeasurement(ctx, b.mira, b.tag, measure.NewMeasurement{InstrumentID: b.tool, TakenAt: ptr(b.now.Add(time.Minute)), Entries: []measure.BenchEntry{{Place: 1, Text: "0.26"}}})
	require.NoError(t, err)
	assert.True(t, b.track().Forecast.Measured)

	// A new chain starts again, from a prior that the old one moved half-way.
	b.later(1)
	b.fit(3050)
	w = b.track()
	require.Len(t, w.Chains, 2)
	assert.False(t, w.Forecast.Measured)
	assert.InDelta(t, 5740, w.Forecast.KHardKM.P50, 400, "between the 5500 of drip wax and what this rider's chain showed")
	assert.Less(t, width(w), widths[0], "the rider and the roads are the same")
	assert.Equal(t, 0, w.Readings[0].Chain)
}

// A lower odometer is asked about; a new computer goes on counting, and a slip can be struck out.
func TestOdometer(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.fit(5000)
	b.later(30)
	note := func(km float64, fresh bool) (measure.LedgerEntry, error) {
		return b.NoteOdometer(ctx, b.mira, b.tag, record.OdometerNote{KM: km, NewComputer: fresh})
	}
	_, err := note(5200, false)
	require.NoError(t, err)
	b.later(1)
	_, err = note(520, false)
	assert.Equal(t, "lower-than-last", code(t, err))
	assert.ErrorContains(t, err, "A new computer, or a slip?")
	_, err = note(20, true)
	require.NoError(t, err)
	assert.InDelta(t, (200+20)*1.5, b.track().NowHardKM, 1e-6, "both are kept, and it never goes backwards")
	slip, err := note(2000, false)
	require.NoError(t, err)
	_, err = b.StrikeOut(ctx, b.mira, slip.ID, "one nought too many")
	require.NoError(t, err)
	assert.InDelta(t, 330, b.track().NowHardKM, 1e-6)
	for _, km := range []float64{-1, 1e9} {
		_, err = note(km, false)
		assert.Equal(t, "invalid-input", code(t, err))
	}
	_, err = b.FitChain(ctx, b.mira, b.tag, bikes.ChainFitting{FittedAt: ptr(b.now.Add(time.Hour))})
	assert.Equal(t, "invalid-input", code(t, err), "no chain is fitted in the future")
	_, err = b.RecordMeasurement(ctx, b.mira, b.tag, measure.NewMeasurement{InstrumentID: b.tool, OdometerKM: ptr(3.0), Entries: []measure.BenchEntry{{Place: 1, Text: "0.1"}}})
	assert.Equal(t, "lower-than-last", code(t, err), "with a reading too, and then nothing of it is kept")
	assert.Empty(t, b.track().Readings)
}
