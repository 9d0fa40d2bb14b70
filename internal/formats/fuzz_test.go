package formats_test

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/formats"
)

// FuzzRides reads whatever comes as a ride file. It never panics, and what it takes for a ride is one.
func FuzzRides(f *testing.F) {
	track, km := circle(1, 12)
	for _, seed := range [][]byte{nil, gpx(track), tcx(track, km), tcx(track, 0), sixteen("started_at,distance_km\n", true), []byte("\x0e\x10\x00\x00\x00\x00\x00\x00.FIT\x00\x00"),
		[]byte("started_at,distance_km\n2026-05-01 08:30,12.5\n"), []byte("started_at;distance_km\n3/4/2026;12,5\n\"abc\n"), []byte("started_at,distance_km\n\"abc\n"),
		[]byte(`<gpx><trk><trkseg><trkpt lat="NaN" lon="1e400"><time>0001-01-01T00:00:00Z</time></trkpt></trkseg></trk></gpx>`), []byte("<?xml version=\"1.0\" encoding=\"koi-9\"?><gpx/>")} {
		f.Add(seed, "", "")
	}
	f.Add([]byte("started_at,distance_km\n3/4/2026,1\xdf\n"), "windows-1252", "month-first")
	f.Fuzz(func(t *testing.T, data []byte, encoding, order string) {
		file := formats.ReadRides(data, formats.RideAnswers{Encoding: encoding, DateOrder: order})
		assert.LessOrEqual(t, len(file.Rides), formats.MaxRides)
		assert.LessOrEqual(t, len(file.Faults), 100)
		assert.GreaterOrEqual(t, file.Wrong, len(file.Faults))
		for _, r := range file.Rides {
			assert.True(t, r.KM > 0 && r.KM < 2000, "%v", r)
			assert.False(t, r.End.Before(r.Start), "%v", r)
			assert.True(t, r.Start.Year() >= 1990 && r.End.Year() <= 2100, "%v", r)
		}
		for _, fault := range file.Faults {
			assert.Less(t, len(fault.Error()), 1000)
		}
	})
}

// FuzzTable reads whatever comes as a table: rows of text, or words that say what is wrong.
func FuzzTable(f *testing.F) {
	for _, seed := range []string{"", "name\na\"b\n", "name;phone\n\"x\n", "a\tb\n1\t2\n", "\xef\xbb\xbfname\nx\n", "\xff\xfen\x00\n\x00", "n\xe9\n\xdf\n"} {
		f.Add([]byte(seed), "")
	}
	f.Fuzz(func(t *testing.T, data []byte, encoding string) {
		table, err := formats.ReadTable(data, encoding, 50)
		if err != nil {
			assert.NotEmpty(t, err.Error())
			return
		}
		assert.NotEmpty(t, table.Header)
		assert.LessOrEqual(t, len(table.Rows), 50)
		for _, row := range table.Rows {
			assert.Positive(t, row.Line)
			for _, cell := range row.Cells {
				assert.True(t, utf8.ValidString(cell))
			}
		}
	})
}

// FuzzPassport reads whatever comes as a passport. One that is taken is written and read again as the same.
func FuzzPassport(f *testing.F) {
	files, err := filepath.Glob("../httpapi/testdata/old/passport*.json")
	require.NoError(f, err)
	for _, file := range files {
		text, err := os.ReadFile(file)
		require.NoError(f, err)
		f.Add(text)
	}
	for _, seed := range []string{`null`, `{}`, `{"format":"bike-passport-1","made_at":"2026-01-01T00:00:00Z","shop":"x","bike":null,"ledger":[]}`,
		`{"format":"bike-passport-1","made_at":"0001-01-01T00:00:00Z","shop":"\u0000","bike":{"id":"90fa8c05-e1d9-4fba-b4ca-f1b9f860ad4f","added_at":"9999-01-01T00:00:00Z","facts":null},"ledger":[{"body":null}]}`} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		p, err := formats.ReadPassport(text)
		if err != nil {
			assert.Less(t, len(err.Error()), 2000+len(text))
			return
		}
		written, err := formats.WritePassport(p)
		require.NoError(t, err)
		again, err := formats.ReadPassport(written)
		require.NoError(t, err, "%s", written)
		twice, err := formats.WritePassport(again)
		require.NoError(t, err)
		assert.True(t, bytes.Equal(written, twice), "%s\n%s", written, twice)
	})
}
