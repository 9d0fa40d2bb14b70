package shop

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/store"
)

// checkReadsBack has an entry that was found readable be read by all that reads a bike's history: its line in the
// ledger, the wear track, and what the bike needs.
func checkReadsBack(t *testing.T, kind string, body []byte) {
	t.Helper()
	at := time.Date(2026, 5, 4, 12, 0, 0, 0, time.UTC)
	e := store.EntryView{Entry: store.Entry{ID: uuid.New(), Kind: kind, HappenedAt: at, WrittenAt: at, Body: body}}
	line, err := newLedgerEntry(e)
	require.NoError(t, err)
	assert.Empty(t, line.Broken)
	h, err := parseRules(Rules{WearSchool: "protect", WearPlaces: 3, LengthUnit: "mm", DistanceUnit: "km", Currency: "EUR", Factors: defaultFactors(), ChainsPerSet: defaultChainsPerSet(),
		LengthMethod: "wrap", SprocketSchool: "test-first", LinkSchool: "new-each-time", GreaseSchool: "by-lubricant"})
	require.NoError(t, err)
	bike := store.Bike{ID: uuid.New(), CreatedAt: at.AddDate(-1, 0, 0)}
	tr := &tracker{bike: bike, house: h, ruling: h.rule(&bike, drivetrainOf(&bike, nil)), now: at.AddDate(0, 0, 1), fitted: newFitted()}
	tr.perKM = tr.factor(mixOf(nil))
	w, err := tr.track([]store.EntryView{e})
	require.NoError(t, err)
	r := dueReplay{Service: &Service{now: func() time.Time { return at }}, tracker: tr, track: w, house: h}
	require.NoError(t, r.take(e))
}

// Every kind of entry that the database knows has its row, and each refuses a body that is none.
func TestEveryKindOfEntryIsKnown(t *testing.T) {
	for kind := range entryKinds {
		require.NotNil(t, bodies[kind], kind)
		for _, body := range []string{"", "null", "7", `"x"`, "[]", "{"} {
			assert.Error(t, readable(kind, []byte(body)), "%s %s", kind, body)
		}
	}
}
