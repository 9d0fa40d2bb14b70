package fluids_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/fluids"
)

func TestBath(t *testing.T) {
	r := fluids.HouseBathRules()
	tank := fluids.Bath{Kind: fluids.UltrasonicTank, Volume: 3000}
	for _, grade := range []int{2, 4} { // 1 + 3 points
		var err error
		tank, err = tank.Take(fluids.SoilOf(grade), false, r)
		require.NoError(t, err)
	}
	assert.Zero(t, tank.Left(r), "an ultrasonic bath bears four points")
	_, err := tank.Take(1, false, r)
	require.ErrorIs(t, err, fluids.ErrSpent)
	_, _, err = tank.Settle(r)
	require.ErrorIs(t, err, fluids.ErrNotSettle)

	kept := fluids.Bath{Kind: fluids.UltrasonicTank, CleanOnly: true}
	_, err = kept.Take(fluids.SoilOf(1), false, r)
	require.ErrorIs(t, err, fluids.ErrCleanOnly)
	kept, err = kept.Take(fluids.NewChain, true, r)
	require.NoError(t, err)
	assert.EqualValues(t, 3, kept.Left(r))
	_, err = fluids.Bath{Kind: fluids.UltrasonicTank, Dirty: true}.Take(fluids.NewChain, true, r)
	require.ErrorIs(t, err, fluids.ErrDirtied)

	require.NoError(t, fluids.Take(nil, 1, false, r), "a shop that keeps none counts none")
	clean := fluids.Bath{Kind: fluids.UltrasonicTank, CleanOnly: true}
	require.ErrorIs(t, fluids.Take([]fluids.Bath{tank, clean}, 1, false, r), fluids.ErrCleanOnly)
	require.NoError(t, fluids.Take([]fluids.Bath{tank, clean}, fluids.NewChain, true, r))

	jar := fluids.Bath{Kind: fluids.SolventJar, Volume: 1000, Used: 10}
	jar, sludge, err := jar.Settle(r)
	require.NoError(t, err)
	assert.InDelta(t, 100, float64(sludge), 1e-9, "mL of sludge")
	assert.EqualValues(t, 6, jar.Left(r))
	jar, _, err = jar.Settle(r)
	require.NoError(t, err)
	_, _, err = jar.Settle(r)
	assert.ErrorIs(t, err, fluids.ErrNotSettle, "twice at most")
}

// However it is used, a bath never bears more than its points with what settling gave back, plus the last load.
func TestBathIsSpent(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := fluids.HouseBathRules()
		b := fluids.Bath{Kind: rapid.SampledFrom(fluids.BathKinds()).Draw(t, "kind"), Volume: 1000}
		taken := fluids.Soil(0)
		for range 200 {
			if rapid.IntRange(0, 9).Draw(t, "settle") == 0 {
				if after, _, err := b.Settle(r); err == nil {
					b = after
				}
			}
			soil := fluids.SoilOf(rapid.IntRange(0, 4).Draw(t, "grade"))
			after, err := b.Take(soil, false, r)
			if err != nil {
				assert.ErrorIs(t, err, fluids.ErrSpent)
				continue
			}
			taken += soil
			b = after
		}
		assert.LessOrEqual(t, taken, r.Points[b.Kind]+r.SettleBack*fluids.Soil(b.Settled)+2)
	})
}

func TestSolventsAndPot(t *testing.T) {
	require.Error(t, fluids.CheckSolvent("Old PETROL can"))
	require.NoError(t, fluids.CheckSolvent("Citrus degreaser"))
	assert.Equal(t, fluids.PotAlarm, fluids.HousePot().At(130))
	assert.Equal(t, fluids.PotReady, fluids.HousePot().At(95))
	assert.InDelta(t, 159, fluids.CardPot(93, 149).Alarm, 1e-9, "°C: ten above the card's band")
}
