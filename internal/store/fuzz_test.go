package store_test

import (
	"archive/zip"
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/store"
)

// zipped is an archive of these files.
func zipped(t testing.TB, files map[string]string) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, text := range files {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

// FuzzBackup opens whatever comes as a backup: it is whole, or words say why not.
func FuzzBackup(f *testing.F) {
	files, err := filepath.Glob("../httpapi/testdata/old/*.pony")
	require.NoError(f, err)
	require.NotEmpty(f, files)
	whole, err := os.ReadFile(files[0])
	require.NoError(f, err)
	schema, err := store.Schema()
	require.NoError(f, err)
	f.Add([]byte("tea"))
	f.Add(whole[:1000])
	for _, manifest := range []string{`null`, `{}`, `{"format":"earnest-pony-backup-1"}`, `{"format":"earnest-pony-backup-2","schema":"` + schema + `","tables":["shop"],"counts":{"shop":1}}`} {
		f.Add(zipped(f, map[string]string{"manifest.json": manifest, "shop.copy": "1\tx\n\\.\n"}))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		b, err := store.OpenBackup(bytes.NewReader(data), int64(len(data)))
		if err != nil {
			assert.NotEmpty(t, err.Error())
			return
		}
		assert.Positive(t, b.Schema)
	})
}

// A backup is held against its own words: rows that are missing or too many, an end before the end, other text
// than was written, a table that is missing or strange, another program's, a newer version's.
func TestBackupsThatAreNotWhole(t *testing.T) {
	ctx, s := t.Context(), open(t)
	aBike(t, s)
	require.NoError(t, s.Read(ctx).SetUpShop(ctx, &store.Shop{Name: "Tidewrack Lane", LengthUnit: "mm", DistanceUnit: "km", WearSchool: "protect", WearPlaces: 3, SessionIdleMinutes: 480, Version: 1,
		Currency: "EUR", LengthMethod: "wrap", SprocketSchool: "test-first", LinkSchool: "new-each-time", GreaseSchool: "by-lubricant"}))
	var file bytes.Buffer
	holds, err := s.Backup(ctx, &file, noon)
	require.NoError(t, err)
	assert.Equal(t, int64(1), holds.Bikes)
	parts := func() map[string]string {
		z, err := zip.NewReader(bytes.NewReader(file.Bytes()), int64(file.Len()))
		require.NoError(t, err)
		all := map[string]string{}
		for _, f := range z.File {
			r, err := f.Open()
			require.NoError(t, err)
			var text bytes.Buffer
			_, err = text.ReadFrom(r)
			require.NoError(t, err)
			all[f.Name] = text.String()
		}
		return all
	}
	for says, spoil := range map[string]func(map[string]string){
		"bikes has 2 rows of 1": func(p map[string]string) { p["bikes.copy"] += p["bikes.copy"] },
		"bikes has 0 rows of 1": func(p map[string]string) { p["bikes.copy"] = "" },
		"bikes is not what was written": func(p map[string]string) {
			p["bikes.copy"] = strings.Replace(p["bikes.copy"], "Wharfinger", "Wharfinder", 1)
		},
		"bikes has an end before its end": func(p map[string]string) { p["bikes.copy"] = "\\.\n" + p["bikes.copy"] },
		"bikes ends within a row":         func(p map[string]string) { p["bikes.copy"] = strings.TrimSuffix(p["bikes.copy"], "\n") },
		"customers is missing":            func(p map[string]string) { delete(p, "customers.copy") },
		"says nothing of itself":          func(p map[string]string) { delete(p, "manifest.json") },
		"no backup of this program":       func(p map[string]string) { p["manifest.json"] = `{"format":"tea"}` },
		"made by a newer version": func(p map[string]string) {
			p["manifest.json"] = strings.Replace(p["manifest.json"], `"schema":"`, `"schema":"x`, 1)
		},
		"is no table of ours": func(p map[string]string) {
			p["manifest.json"] = strings.Replace(p["manifest.json"], `"tables":[`, `"tables":["pg_authid",`, 1)
			p["pg_authid.copy"] = ""
		},
		"its list lacks [waste]": func(p map[string]string) {
			p["manifest.json"] = strings.Replace(p["manifest.json"], `"waste",`, ``, 1)
			p["manifest.json"] = strings.Replace(p["manifest.json"], `,"waste"]`, `]`, 1)
		},
	} {
		p := parts()
		spoil(p)
		if strings.Contains(says, "no table of ours") { // its sum is that of nothing
			p["manifest.json"] = strings.Replace(p["manifest.json"], `"sums":{`, `"sums":{"pg_authid":"e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855",`, 1)
		}
		data := zipped(t, p)
		b, err := store.OpenBackup(bytes.NewReader(data), int64(len(data)))
		if err == nil {
			err = func() error {
				to := open(t)
				err := to.Restore(ctx, b)
				_, holds := to.Holds(ctx)
				assert.ErrorIs(t, holds, store.ErrNoShop, "%s: nothing is half restored", says)
				return err
			}()
		}
		assert.ErrorContains(t, err, says)
	}
	_, err = open(t).Backup(ctx, &bytes.Buffer{}, time.Now())
	assert.ErrorIs(t, err, store.ErrNoShop)
}
