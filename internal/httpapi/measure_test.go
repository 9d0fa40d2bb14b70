package httpapi_test

import (
	"encoding/json"
	"net/http"
	"os"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/calc"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
)

// Every computation answers over HTTP just as it does by itself; what is held against
// the contract on the way is the whole answer.
func TestCalcAnswersTheWorkedExamples(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	for _, name := range calc.Names() {
		raw, err := os.ReadFile("../calc/testdata/" + name + ".json")
		require.NoError(t, err)
		var cases []struct{ In json.RawMessage }
		require.NoError(t, json.Unmarshal(raw, &cases))
		for i, one := range cases {
			want, err := calc.Run(t.Context(), name, one.In)
			if err != nil {
				c.must(http.StatusUnprocessableEntity, "POST", "/calc/"+name, string(one.In), nil)
				continue
			}
			a := c.must(http.StatusOK, "POST", "/calc/"+name, string(one.In), nil)
			assert.JSONEq(t, jsonOf(want), string(a.body), "%s %d", name, i)
		}
		a := c.call("POST", "/calc/"+name, `{"colour":1}`, nil)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, name)
		assert.GreaterOrEqual(t, len(a.Fields), 2, "every fault is listed: %s", a.body)
	}
}

func TestDeedSentTwiceIsDoneOnce(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	reading := measure.NewMeasurement{InstrumentID: c.tool("ruler"), Entries: places("306.4", "306.2", "306.5")}
	key := map[string]string{"Idempotency-Key": "record-once-1"}
	record := func() answer { return c.call("POST", "/bikes/"+bike.Tag+"/measurements", reading, key) }

	// Eight times at once, as a stuttering tablet might.
	answers := make([]answer, 8)
	var all sync.WaitGroup
	for i := range answers {
		all.Go(func() { answers[i] = record() })
	}
	all.Wait()
	for _, a := range answers {
		require.Equal(t, http.StatusCreated, a.status, "%s", a.body)
		assert.JSONEq(t, string(answers[0].body), string(a.body), "a repeated key returns the first answer")
	}
	var page measure.LedgerPage
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/ledger", nil, &page)
	assert.Len(t, page.Entries, 2, "the bike, and one measurement")

	reading.Note = "another"
	a := record()
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Equal(t, "idempotency-key-reused", a.Code)

	// A refused write is not kept: mended, it may be sent under its key.
	bad := reading
	bad.Entries = places("abc")
	key["Idempotency-Key"] = "record-once-2"
	a = c.call("POST", "/bikes/"+bike.Tag+"/measurements", bad, key)
	require.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Equal(t, "entries[0].text", a.Fields[0].Path)
	assert.Equal(t, http.StatusCreated, c.call("POST", "/bikes/"+bike.Tag+"/measurements", reading, key).status)
}

func TestMeasurementIsRecordedAndStruckOut(t *testing.T) {
	t.Parallel()
	f := serve(t)
	c := f.signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	at := "/bikes/" + bike.Tag
	var good, slip measure.Measurement
	c.must(http.StatusCreated, "POST", at+"/measurements", measure.NewMeasurement{InstrumentID: c.tool("ruler"), Entries: places("305.2", "305.1", "305.3")}, &good)
	f.now = f.now.Add(time.Hour)
	c.must(http.StatusCreated, "POST", at+"/measurements", measure.NewMeasurement{InstrumentID: c.tool("gauge-percent"), Entries: places("0.92"), Findings: []string{"noise"}}, &slip)
	assert.Equal(t, "ok", good.Wear.Verdict)
	assert.Equal(t, "fresh", good.State)
	assert.InDelta(t, 0.1312*114*0.127, *good.GrowthMM, 0.001)
	assert.Equal(t, "replace-together", slip.Wear.Verdict)

	last := func() *measure.Measurement {
		var b bikes.Bike
		c.must(http.StatusOK, "GET", at, nil, &b)
		return b.Last
	}
	assert.Equal(t, slip, *last(), "the bike shows what was recorded, to the last digit")

	strike := "/ledger/" + slip.EntryID.String() + "/strike"
	assert.Equal(t, http.StatusUnprocessableEntity, c.call("POST", strike, map[string]string{"reason": " ?"}, nil).status)
	c.must(http.StatusCreated, "POST", strike, map[string]string{"reason": "gauge was not at zero"}, nil)
	assert.Equal(t, "already-struck", c.must(http.StatusConflict, "POST", strike, map[string]string{"reason": "again"}, nil).Code)
	assert.Equal(t, good, *last(), "what was struck out counts no more")

	var page measure.LedgerPage
	c.must(http.StatusOK, "GET", at+"/ledger?limit=2", nil, &page)
	require.Len(t, page.Entries, 2)
	assert.Equal(t, "strike-out", page.Entries[0].Kind)
	require.NotNil(t, page.Entries[1].Struck, "both stay visible")
	assert.Equal(t, "gauge was not at zero", page.Entries[1].Struck.Reason)
	assert.InDelta(t, 0.92, *page.Entries[1].Measurement.Wear.ElongationPct, 1e-9)
	c.must(http.StatusOK, "GET", at+"/ledger?limit=2&before="+jsonOf(page.Next), nil, &page)
	assert.Len(t, page.Entries, 2, "the other two are on the next page")

	// Only a measurement can be struck out, only an existing one, and not on an archived bike.
	assert.Equal(t, "not-struck-out", c.must(http.StatusConflict, "POST", "/ledger/"+page.Entries[1].ID.String()+"/strike", map[string]string{"reason": "no bike"}, nil).Code)
	assert.Equal(t, "entry-not-found", c.must(http.StatusNotFound, "POST", "/ledger/"+uuid.NewString()+"/strike", map[string]string{"reason": "nothing"}, nil).Code)
	c.must(http.StatusOK, "PUT", at+"/archived", map[string]any{"version": 1, "archived": true}, nil)
	a := c.call("POST", at+"/measurements", measure.NewMeasurement{InstrumentID: c.tool("ruler"), Entries: places("305.2")}, nil)
	assert.Equal(t, "bike-archived", a.Code)
}

// Each slip has its own answer, at its own field, and the good places beside it are still judged.
func TestBenchSaysWhatIsWrong(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	ask := func(q measure.BenchQuestion) (a measure.BenchAnswer) {
		c.must(http.StatusOK, "POST", "/bench/read", q, &a)
		return a
	}
	ruler, caliper, dropin, hung := c.tool("ruler"), c.tool("caliper-inside"), c.tool("gauge-dropin"), c.tool("whole-chain")
	a := ask(measure.BenchQuestion{Tag: bike.Tag, InstrumentID: ruler, Entries: places("306.4", "abc", "9999", "12 1/0 in", "12.06", "", "306,2mm")})
	codes := map[int]string{}
	for _, e := range a.Entries {
		if e.Fault != nil {
			codes[e.Place] = e.Fault.Code
		}
	}
	assert.Equal(t, map[int]string{2: "not-a-reading", 3: "out-of-range", 4: "fraction-zero", 5: "inches-for-mm"}, codes)
	require.NotNil(t, a.Wear, "two good places are judged all the same")
	assert.False(t, a.Recordable)
	assert.Len(t, a.Strip.Places, 2)

	a = ask(measure.BenchQuestion{Tag: bike.Tag, InstrumentID: ruler, Entries: places("306.4")})
	assert.True(t, a.Recordable)
	assert.Equal(t, 114, a.ChainLinks)
	assert.InDelta(t, 306.4, a.Strip.Places[0].AtMM, 1e-9)
	assert.InDelta(t, 304.8*1.005, a.Strip.LimitMM, 1e-9)

	// Unsure, it names what would tell more: first what would leave no doubt, should it read the same, and what spreads the
	// rollers after all that do not.
	a = ask(measure.BenchQuestion{Tag: bike.Tag, InstrumentID: ruler, Entries: places("305.9")})
	require.Equal(t, "unsure", a.Wear.Verdict)
	require.NotEmpty(t, a.Settle)
	assert.Equal(t, hung, a.Settle[0].InstrumentID)
	assert.True(t, a.Settle[0].Settles)
	assert.True(t, slices.IsSortedFunc(a.Settle, func(x, y measure.SettlingTool) int {
		return map[bool]int{true: 1}[x.Spreads] - map[bool]int{true: 1}[y.Spreads]
	}))
	assert.True(t, slices.ContainsFunc(a.Settle, func(x measure.SettlingTool) bool { return x.InstrumentID == caliper && x.Spreads }))
	assert.False(t, a.LeanDecides)
	assert.Equal(t, 2, a.SettlePlaces)
	a = ask(measure.BenchQuestion{Tag: bike.Tag, InstrumentID: ruler, Entries: places("306.32")})
	require.NotEmpty(t, a.Settle)
	assert.False(t, a.Settle[0].Settles, "right at the limit no tool leaves no doubt, but a finer one tells more")
	assert.Zero(t, a.SettlePlaces)
	assert.Equal(t, []any{true, "ride"}, []any{a.LeanDecides, a.Wear.Lean}, "what no tool here can settle is decided by where it leans")

	// A walk-in says what it must know, and is judged once it does.
	a = ask(measure.BenchQuestion{InstrumentID: ruler, Entries: places("306.4")})
	assert.Equal(t, []string{"kind", "sprockets"}, a.Missing)
	assert.Nil(t, a.Wear)
	assert.InDelta(t, 0.525, *a.Entries[0].Understood.ElongationPct, 0.001, "the wear itself needs no drivetrain")
	a = ask(measure.BenchQuestion{InstrumentID: ruler, Entries: places("306.4"), Drivetrain: &rules.Drivetrain{Kind: "hub-gear", Carry: true}})
	assert.Equal(t, "ok", a.Wear.Verdict)

	a = ask(measure.BenchQuestion{Tag: bike.Tag, InstrumentID: caliper, NewLength: "1193.5", Entries: places("119.98")})
	require.NotNil(t, a.NewLengthFault)
	assert.Nil(t, a.Wear)
	a = ask(measure.BenchQuestion{Tag: bike.Tag, InstrumentID: caliper, NewLength: "119,35", Entries: places("119.98")})
	assert.InDelta(t, 0.03, *a.Wear.SigmaPct, 1e-9)
	a = ask(measure.BenchQuestion{Tag: bike.Tag, InstrumentID: hung, Entries: places("1440")})
	assert.Equal(t, []string{"links"}, a.Missing)
	a = ask(measure.BenchQuestion{Tag: bike.Tag, InstrumentID: dropin, Entries: []measure.BenchEntry{{Place: 1, Marks: []measure.Mark{{MarkPct: 0.75, DropsIn: true}, {MarkPct: 0.5}}}}})
	assert.Equal(t, "measure-again", a.Entries[0].Fault.Code)
}

// The wear track over HTTP: every answer on the way is held against the contract.
func TestWearTrackOfABike(t *testing.T) {
	t.Parallel()
	f := serve(t)
	c := f.signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	at := "/bikes/" + bike.Tag
	track := func() (w bikes.WearTrack) {
		c.must(http.StatusOK, "GET", at+"/wear-track", nil, &w)
		return w
	}
	assert.ElementsMatch(t, []string{"chain-fitted", "distance"}, track().Missing)
	key := map[string]string{"Idempotency-Key": "fit-this-chain"}
	first := c.call("POST", at+"/chain", map[string]any{"odometer_km": 1200}, key)
	require.Equal(t, http.StatusCreated, first.status, "%s", first.body)
	assert.JSONEq(t, string(first.body), string(c.call("POST", at+"/chain", map[string]any{"odometer_km": 1200}, key).body), "fitted once")
	f.now = f.now.Add(40 * 24 * time.Hour)
	c = f.signedIn() // nobody stays signed in for that long
	c.must(http.StatusCreated, "POST", at+"/measurements", measure.NewMeasurement{InstrumentID: c.tool("gauge-dropin"), OdometerKM: ptr(2000.0),
		Entries: []measure.BenchEntry{{Place: 1, Marks: []measure.Mark{{MarkPct: 0.5, DropsIn: false}}}}}, nil)
	c.must(http.StatusCreated, "POST", at+"/measurements", measure.NewMeasurement{InstrumentID: c.tool("ruler"), Entries: places("305.4", "305.3", "305.2")}, nil)
	w := track()
	require.NotNil(t, w.Forecast)
	assert.True(t, w.Forecast.Measured)
	assert.Len(t, w.Chains, 1)
	assert.InDelta(t, 800, w.NowHardKM, 1e-6)
	assert.InDelta(t, 20, w.RateHardKMPerDay, 1e-9)
	require.Len(t, w.Readings, 2)
	assert.InDelta(t, 0.5, *w.Readings[0].HighPct, 0)
	assert.Nil(t, w.Readings[1].LowPct)

	a := c.call("POST", at+"/odometer", map[string]any{"km": 1999}, nil)
	assert.Equal(t, "lower-than-last", a.Code)
	assert.Equal(t, "odometer_km", a.Fields[0].Path)
	c.must(http.StatusCreated, "POST", at+"/odometer", map[string]any{"km": 3, "new_computer": true}, nil)
	assert.Equal(t, "minimum", c.call("POST", at+"/odometer", map[string]any{"km": -3}, nil).Fields[0].Code)
	var page measure.LedgerPage
	c.must(http.StatusOK, "GET", at+"/ledger", nil, &page)
	var kinds []string
	for _, e := range page.Entries {
		kinds = append(kinds, e.Kind)
	}
	assert.Equal(t, []string{"odometer", "measurement", "measurement", "odometer", "chain-fitted", "odometer", "bike-added"}, kinds)

	// A bike of which too little is on record says what is missing, and shows its readings all the same.
	bare := c.addBike("Quillon Dace", record.BikeFacts{})
	c.must(http.StatusOK, "GET", "/bikes/"+bare.Tag+"/wear-track", nil, &w)
	assert.ElementsMatch(t, []string{"kind", "sprockets", "chain-fitted", "distance"}, w.Missing)
}

// BenchmarkBenchKey is one key typed at the bench: a reading understood and judged, over HTTP and
// from the database.
func BenchmarkBenchKey(b *testing.B) {
	f := serve(b)
	c := f.signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	q := measure.BenchQuestion{Tag: bike.Tag, InstrumentID: c.tool("ruler"), Entries: places("306.4", "306.2", "306.5")}
	for b.Loop() {
		c.must(http.StatusOK, "POST", "/bench/read", q, nil)
	}
}
