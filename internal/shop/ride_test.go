package shop_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/outside"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
)

type weatherFunc func(day time.Time) outside.DayWeather

func (f weatherFunc) Days(_ context.Context, from, _ time.Time) ([]outside.DayWeather, error) {
	return []outside.DayWeather{f(from)}, nil
}

// Rides count by the weather of their days, once each, and within what the odometer says.
func TestRides(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.fit(1000)
	rain := map[string]float64{"2026-05-06": 8, "2026-05-07": 1}
	b.PlugInWeather(weatherFunc(func(day time.Time) outside.DayWeather {
		return outside.DayWeather{Day: day, RainMM: rain[day.Format(time.DateOnly)], MinC: 9}
	}))
	b.later(5)
	table := "started_at,distance_km,duration_min\n2026-05-05T08:00:00Z,20,60\n2026-05-06T08:00:00Z,30,90\n2026-05-07T08:00:00Z,10,30\n2027-01-01T08:00:00Z,5,9\nx,1,1\n"
	file, err := b.ImportRides(ctx, b.mira, b.tag, "week.csv", []byte(table))
	require.NoError(t, err)
	assert.Len(t, file.Kept, 3)
	require.Len(t, file.Wrong, 2, "%+v", file.Wrong)
	assert.Equal(t, 6, file.Wrong[0].Line)
	again, err := b.ImportRides(ctx, b.mira, b.tag, "again.csv", []byte("started_at,distance_km\n2026-05-05T08:00:40Z,20.1\n2026-05-05T08:02:00Z,20\n"))
	require.NoError(t, err)
	assert.Equal(t, []int{1, 1}, []int{len(again.Repeated), len(again.Questions)}, "within a minute and a hundredth it is the same ride; over another it is asked about")
	require.NotNil(t, again.Draft)
	again, err = b.AnswerRides(ctx, b.mira, *again.Draft, map[string]string{again.Questions[0].ID: "both"})
	require.NoError(t, err)
	assert.Equal(t, []int{1, 1, 0}, []int{len(again.Repeated), len(again.Kept), len(again.Questions)})

	// 20 dry, 30 in soaking rain, 10 half wet, 20 dry once more, nobody read the odometer since.
	assert.InDelta(t, 20+60+15+20+2.146*15, b.track().NowHardKM, 0.1, "and as the owner says since the last ride")
	assert.Equal(t, "soaked-ride", b.task("clean-on-bike").Event)
	// The odometer says 100 km: the rides' 80 by their weather, the rest as usual, half wet.
	_, err = b.NoteOdometer(ctx, b.mira, b.tag, record.OdometerNote{KM: 1100})
	require.NoError(t, err)
	assert.InDelta(t, 115+20*1.5, b.track().NowHardKM, 0.1)
	page, err := b.Ledger(ctx, b.tag, 0, 10)
	require.NoError(t, err)
	ride := slices.IndexFunc(page.Entries, func(e measure.LedgerEntry) bool { return e.Kind == "ride" })
	require.GreaterOrEqual(t, ride, 0)
	_, err = b.StrikeOut(ctx, b.mira, page.Entries[ride].ID, "somebody else's bike")
	require.NoError(t, err)
	odd, err := b.Verify(ctx)
	require.NoError(t, err)
	assert.Empty(t, odd)
}

// A file with rides that lie over others asks first, keeps nothing meanwhile, can be gone on with, and does as is
// answered: the same ride from two recorders counts once.
func TestRidesOverEachOther(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.later(5)
	importing := func(rows string) bikes.RideFile {
		t.Helper()
		f, err := b.ImportRides(ctx, b.mira, b.tag, "rides.csv", []byte("started_at,distance_km,duration_min\n"+rows))
		require.NoError(t, err)
		return f
	}
	ridden := func() (km float64) {
		page, err := b.Ledger(ctx, b.tag, 0, 100)
		require.NoError(t, err)
		for _, e := range page.Entries {
			if e.Kind == "ride" && e.Struck == nil {
				km += e.Ride.KM
			}
		}
		return km
	}
	importing("2026-05-05T08:00:00Z,20,60\n")
	part := importing("2026-05-05T08:30:00Z,40,120\n2026-05-06T08:00:00Z,10,30\n2026-05-06T08:15:00Z,11,30\n")
	require.Len(t, part.Questions, 2)
	require.InDelta(t, 20, ridden(), 1e-9, "nothing is written while something is open")
	assert.Equal(t, []any{"overlap", true, 20.0, 40.0}, []any{part.Questions[0].Code, part.Questions[0].Kept, part.Questions[0].Other.KM, part.Questions[0].This.KM})
	drafts, err := b.RideDrafts(ctx, b.tag)
	require.NoError(t, err)
	require.Len(t, drafts, 1)

	_, err = b.AnswerRides(ctx, b.mira, drafts[0].ID, map[string]string{part.Questions[0].ID: "perhaps", "another": "both"})
	assert.Len(t, faults(t, err), 2)
	f, err := b.AnswerRides(ctx, b.mira, drafts[0].ID, map[string]string{part.Questions[0].ID: "this"})
	require.NoError(t, err)
	require.Len(t, f.Questions, 1, "one is answered, and kept")
	f, err = b.AnswerRides(ctx, b.mira, drafts[0].ID, nil)
	require.NoError(t, err)
	require.Len(t, f.Questions, 1, "asked again by another device")
	keyed := b.mira
	keyed.Key = "the-last-answer"
	for range 2 { // sent twice, done once
		f, err = b.AnswerRides(ctx, keyed, drafts[0].ID, map[string]string{f.Questions[0].ID: "other"})
		require.NoError(t, err)
		assert.Equal(t, []int{2, 1}, []int{len(f.Kept), len(f.Left)})
		if len(f.Questions) == 0 {
			break
		}
	}
	assert.InDelta(t, 40+10, ridden(), 1e-9, "the longer in place of the part, the second recorder's left out")
	_, err = b.AnswerRides(ctx, b.mira, drafts[0].ID, nil)
	assert.Equal(t, "draft-not-found", code(t, err))
	dropped := importing("2026-05-05T08:00:00Z,20,60\n")
	require.NoError(t, b.DropRides(ctx, b.mira, *dropped.Draft))
	drafts, err = b.RideDrafts(ctx, b.tag)
	require.NoError(t, err)
	assert.Empty(t, drafts)
	assert.InDelta(t, 50, ridden(), 1e-9)
}
