package due

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	_ "earnestpony/internal/shop/jobs" // whose kinds of entry are read back too
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// checkReadsBack has an entry that was found readable be read by all that reads a bike's history: its line in the
// ledger, the wear track, and what the bike needs.
func checkReadsBack(t *testing.T, kind string, body []byte) {
	t.Helper()
	at := time.Date(2026, 5, 4, 12, 0, 0, 0, time.UTC)
	e := store.EntryView{Entry: store.Entry{ID: uuid.New(), Kind: kind, HappenedAt: at, WrittenAt: at, Body: body}}
	line, err := measure.NewLedgerEntry(e)
	require.NoError(t, err)
	assert.Empty(t, line.Broken)
	h, err := rules.ParseRules(rules.Rules{WearSchool: "protect", WearPlaces: 3, LengthUnit: "mm", DistanceUnit: "km", Currency: "EUR", Factors: rules.DefaultFactors(), ChainsPerSet: rules.DefaultChainsPerSet(),
		LengthMethod: "wrap", SprocketSchool: "test-first", LinkSchool: "new-each-time", GreaseSchool: "by-lubricant"})
	require.NoError(t, err)
	bike := store.Bike{ID: uuid.New(), CreatedAt: at.AddDate(-1, 0, 0)}
	tr := &bikes.Tracker{Bike: bike, House: h, Ruling: h.Rule(&bike, rules.DrivetrainOf(&bike, nil)), Now: at.AddDate(0, 0, 1), Fitted: bikes.NewFitted()}
	tr.PerKM = tr.Factor(record.MixOf(nil))
	w, err := tr.Track([]store.EntryView{e})
	require.NoError(t, err)
	desk := record.NewDesk(nil, func() time.Time { return at })
	r := dueReplay{Due: &Due{desk: desk}, Tracker: tr, track: w, house: h, clock: desk.ClockIn(time.UTC)}
	require.NoError(t, r.take(e))
}

// FuzzEntry holds whatever comes as an entry of a passport against its kind: what is taken can be shown, and
// nothing that reads a bike's history stumbles over it.
func FuzzEntry(f *testing.F) {
	for _, kind := range record.KindsHeld() {
		for _, body := range []string{`{}`, `null`, `7`, `{"event":7}`, `{"km":"far"}`, `{"km":1e308,"mix":{}}`, `{"wear":{"verdict":"ok","elongation_pct":1},"readings":[{}],"instrument":{"kind":"ruler"}}`,
			`{"joining_link":{}}`, `{"part":"sprockets","part_id":"90fa8c05-e1d9-4fba-b4ca-f1b9f860ad4f"}`, `{"arrival":{"frame_grade":99}}`, `{"used":{"count":-1}}`} {
			f.Add(kind, []byte(body))
		}
	}
	f.Fuzz(func(t *testing.T, kind string, body []byte) {
		if record.Readable(kind, body) != nil {
			return
		}
		require.True(t, json.Valid(body))
		checkReadsBack(t, kind, body)
	})
}
