package bigshop_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/bigshop"
	"earnestpony/internal/pgtest"
	"earnestpony/internal/shop"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/store"
)

// A big shop is a shop: what is measured in it stands on a record that agrees with itself, though the database wrote it
// by its own hand, and every bike has a history to be reckoned from.
func TestLoadMakesAShop(t *testing.T) {
	ctx := context.Background()
	slow := &bigshop.Slow{}
	s, err := store.OpenTraced(ctx, pgtest.New(t), slow)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	const bikes = 40
	require.NoError(t, bigshop.Load(ctx, s, bikes))
	service := shop.New(s, time.Now)

	wrong, err := service.Verify(ctx)
	require.NoError(t, err)
	assert.Empty(t, wrong)
	page, err := service.FindBikes(ctx, "", false, "", 200)
	require.NoError(t, err)
	assert.Equal(t, bikes+1, page.Total, "with the one whose measurement the others are made after")
	var entries int
	require.NoError(t, s.Pool().QueryRow(ctx, `select count(*) from ledger`).Scan(&entries))
	assert.GreaterOrEqual(t, entries, 50*bikes)

	slow.Reset()
	due, err := service.DueList(ctx, due.DueFilter{Limit: 20})
	require.NoError(t, err)
	assert.NotEmpty(t, due.Rows)
	for _, b := range page.Bikes[1 : bikes/4] { // the first is the pattern
		track, err := service.WearTrack(ctx, b.Tag)
		require.NoError(t, err)
		assert.Len(t, track.Chains, 3, b.Tag)
		assert.NotNil(t, track.OdometerKM, b.Tag)
	}
	_, err = service.AddPerson(ctx, "Mira Oxenholt", "mechanic", bigshop.PIN)
	require.Error(t, err, "she is there, and signs the askers in")

	// The slowest statements are asked about with the values they were called with.
	plans, err := slow.Plans(ctx, s.Pool(), 3)
	require.NoError(t, err)
	require.Len(t, plans, 3)
	for _, p := range plans {
		assert.Contains(t, strings.ToLower(p), "select")
		assert.Contains(t, p, "Execution Time", "it was run, and not only planned")
	}
}
