package demo_test

import (
	"archive/zip"
	"bytes"
	"context"
	"io"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/pgtest"
	"earnestpony/internal/shop"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// tables reads the tables of a backup, each as its lines in order.
func tables(t *testing.T, backup []byte) map[string][]string {
	z, err := zip.NewReader(bytes.NewReader(backup), int64(len(backup)))
	require.NoError(t, err)
	all := map[string][]string{}
	for _, f := range z.File {
		if !strings.HasSuffix(f.Name, ".copy") {
			continue
		}
		r, err := f.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		lines := strings.Split(string(text), "\n")
		slices.Sort(lines)
		all[f.Name] = lines
	}
	return all
}

// backsUpAndRestores holds that the demo shop, backed up and restored into an empty database, is the same in every
// table, agrees with its ledger, and goes on counting where it was.
func backsUpAndRestores(t *testing.T, from *store.Store) {
	ctx := context.Background()
	to, err := store.Open(ctx, pgtest.New(t))
	require.NoError(t, err)
	t.Cleanup(to.Close)
	backup := func(s *store.Store) []byte {
		var file bytes.Buffer
		holds, err := s.Backup(ctx, &file, today)
		require.NoError(t, err)
		assert.Greater(t, holds.Bikes, int64(35))
		return file.Bytes()
	}
	file := backup(from)
	_, err = store.OpenBackup(bytes.NewReader(file[:len(file)/2]), int64(len(file)/2))
	require.ErrorContains(t, err, "no backup")
	whole, err := store.OpenBackup(bytes.NewReader(file), int64(len(file)))
	require.NoError(t, err)
	require.NoError(t, to.Restore(ctx, whole))
	before, after := tables(t, file), tables(t, backup(to))
	assert.Greater(t, len(before), 20)
	for name, lines := range before {
		assert.Equal(t, lines, after[name], name)
	}
	require.ErrorIs(t, to.Restore(ctx, whole), store.ErrNotEmpty)

	service := shop.New(to, clock)
	odd, err := service.Verify(ctx)
	require.NoError(t, err)
	assert.Empty(t, odd)
	page, err := service.FindBikes(ctx, "", false, "", 200)
	require.NoError(t, err)
	people, err := service.ListPeople(ctx)
	require.NoError(t, err)
	bike, err := service.AddBike(ctx, record.Actor{Person: people[0]}, bikes.NewBike{CustomerID: page.Bikes[0].Customer.ID})
	require.NoError(t, err)
	assert.Greater(t, bike.Tag, page.Bikes[len(page.Bikes)-1].Tag)
}
