package httpapi_test

import (
	"bytes"
	"context"
	"encoding/json"
	"image"
	"image/png"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"testing/fstest"
	"time"

	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/calc"
	"earnestpony/internal/httpapi"
	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/live"
	"earnestpony/internal/pgtest"
	"earnestpony/internal/shop"
	"earnestpony/internal/store"
)

// fixture is a served shop whose clock the test moves.
type fixture struct {
	t      testing.TB
	now    time.Time
	url    string
	shop   *shop.Service
	router routers.Router
	mira   shop.Person
	hub    *live.Hub
}

func serve(t testing.TB) *fixture {
	t.Helper()
	ctx := context.Background()
	s, err := store.Open(ctx, pgtest.New(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	f := &fixture{t: t, now: time.Date(2026, 5, 4, 12, 0, 0, 0, time.UTC), hub: &live.Hub{}}
	f.shop = shop.New(s, func() time.Time { return f.now })
	require.NoError(t, f.shop.SetUp(ctx, "Tidewrack Lane", shop.HouseTools()))
	f.mira, err = f.shop.AddPerson(ctx, "Mira Oxenholt", "mechanic", "2718")
	require.NoError(t, err)
	listen, stop := context.WithCancel(ctx)
	t.Cleanup(stop)
	listening := make(chan struct{})
	go f.hub.Run(listen, s.Pool(), store.Channel, sync.OnceFunc(func() { close(listening) }))
	<-listening
	handler, err := httpapi.New(httpapi.Options{Shop: f.shop, Hub: f.hub, Ready: s.Ping, Page: fstest.MapFS{
		"index.html": {Data: []byte("<!doctype html>")}, "assets/a.js": {Data: []byte("1")},
	}})
	require.NoError(t, err)
	server := httptest.NewServer(handler)
	t.Cleanup(server.Close)
	f.url = server.URL
	doc, err := apigen.GetSpec()
	require.NoError(t, err)
	f.router, err = gorillamux.NewRouter(doc)
	require.NoError(t, err)
	return f
}

// caller is one device.
type caller struct {
	*fixture
	http *http.Client
}

func (f *fixture) caller() *caller {
	jar, err := cookiejar.New(nil)
	require.NoError(f.t, err)
	return &caller{f, &http.Client{Jar: jar}}
}

func (f *fixture) signedIn() *caller {
	f.t.Helper()
	c := f.caller()
	c.must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": f.mira.ID, "pin": "2718", "device": "stand 1"}, nil)
	return c
}

type answer struct {
	status int
	header http.Header
	body   []byte
	problem
}

type problem struct {
	Code, Title string
	Fields      []calc.Field
	Yours       map[string]any
	Theirs      map[string]any
	RetryAfter  int `json:"retry_after_seconds"`
}

// call sends a request and checks that the answer is one that the contract allows.
func (c *caller) call(method, path string, body any, header map[string]string) answer {
	c.t.Helper()
	var text []byte
	switch b := body.(type) {
	case nil:
	case string:
		text = []byte(b)
	default:
		var err error
		text, err = json.Marshal(b)
		require.NoError(c.t, err)
	}
	req, err := http.NewRequest(method, c.url+"/api/v1"+path, bytes.NewReader(text))
	require.NoError(c.t, err)
	if text != nil {
		req.Header.Set("Content-Type", "application/json")
	}

	for k, v := range header {
		req.Header.Set(k, v)
	}
	res, err := c.http.Do(req)
	require.NoError(c.t, err)
	defer func() { _ = res.Body.Close() }()
	got, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	a := answer{status: res.StatusCode, header: res.Header, body: got}
	if strings.HasPrefix(res.Header.Get("Content-Type"), "application/problem+json") {
		require.NoError(c.t, json.Unmarshal(got, &a.problem))
	}
	if route, params, err := c.router.FindRoute(req); err == nil {
		err = openapi3filter.ValidateResponse(context.Background(), &openapi3filter.ResponseValidationInput{
			RequestValidationInput: &openapi3filter.RequestValidationInput{Request: req, PathParams: params, Route: route},
			Status:                 res.StatusCode, Header: res.Header, Body: io.NopCloser(bytes.NewReader(got)),
			Options: &openapi3filter.Options{ExcludeResponseBody: path == "/events" || strings.HasSuffix(path, "/qr") || strings.HasSuffix(path, "/photo")},
		})
		require.NoError(c.t, err, "%s %s: the answer is not what the contract says: %s", method, path, got)
	}
	return a
}

func (c *caller) must(status int, method, path string, body, into any) answer {
	c.t.Helper()
	a := c.call(method, path, body, nil)
	require.Equal(c.t, status, a.status, "%s %s: %s", method, path, a.body)
	if into != nil {
		require.NoError(c.t, json.Unmarshal(a.body, into))
	}
	return a
}

func (c *caller) addBike(owner string, facts shop.BikeFacts) shop.Bike {
	c.t.Helper()
	var customer shop.Customer
	c.must(http.StatusCreated, "POST", "/customers", shop.CustomerFacts{Name: owner}, &customer)
	var bike shop.Bike
	c.must(http.StatusCreated, "POST", "/bikes", shop.NewBike{CustomerID: customer.ID, Facts: facts}, &bike)
	return bike
}

func (c *caller) tool(kind string) uuid.UUID {
	c.t.Helper()
	var tools []shop.Instrument
	c.must(http.StatusOK, "GET", "/instruments", nil, &tools)
	for _, tool := range tools {
		if tool.Kind == kind {
			return tool.ID
		}
	}
	require.Fail(c.t, "no tool of kind "+kind)
	return uuid.Nil
}

func ptr[T any](v T) *T { return &v }

func twelve() shop.BikeFacts {
	return shop.BikeFacts{Make: "Wharfinger", Model: "Loper", DrivetrainKind: "derailleur", SprocketCount: ptr(12), ChainLinks: ptr(114), Motor: "none"}
}

func places(texts ...string) []shop.BenchEntry {
	entries := make([]shop.BenchEntry, len(texts))
	for i, text := range texts {
		entries[i] = shop.BenchEntry{Place: i + 1, Text: text}
	}
	return entries
}

// Every computation answers over HTTP just as it does by itself, whoever asks; what is held against
// the contract on the way is the whole answer.
func TestCalcAnswersTheWorkedExamples(t *testing.T) {
	c := serve(t).caller() // nobody signed in: it is a calculation and nothing else
	for _, name := range calc.Names() {
		raw, err := os.ReadFile("../calc/testdata/" + name + ".json")
		require.NoError(t, err)
		var cases []struct{ In json.RawMessage }
		require.NoError(t, json.Unmarshal(raw, &cases))
		for i, one := range cases {
			want, err := calc.Run(name, one.In)
			require.NoError(t, err)
			a := c.must(http.StatusOK, "POST", "/calc/"+name, string(one.In), nil)
			assert.JSONEq(t, jsonOf(want), string(a.body), "%s %d", name, i)
		}
		a := c.call("POST", "/calc/"+name, `{"colour":1}`, nil)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, name)
		assert.Greater(t, len(a.Fields), 4, "every fault is listed: %s", a.body)
	}
}

func TestSignInSlowsAndLocks(t *testing.T) {
	f := serve(t)
	c := f.caller()
	assert.Equal(t, "not-signed-in", c.must(http.StatusUnauthorized, "GET", "/bikes", nil, nil).Code)
	try := func(pin string) answer {
		return c.call("PUT", "/session", map[string]any{"person_id": f.mira.ID, "pin": pin}, nil)
	}
	for range 2 {
		a := try("0000")
		require.Equal(t, http.StatusUnauthorized, a.status)
		assert.Equal(t, "wrong-pin", a.Code)
	}
	waits := []int{2, 4, 300, 600}
	for _, seconds := range waits {
		a := try("0000")
		require.Equal(t, http.StatusTooManyRequests, a.status)
		assert.Equal(t, seconds, a.RetryAfter)
		assert.NotEmpty(t, a.header.Get("Retry-After"))
		// The right PIN is not even looked at before the wait is over.
		require.Equal(t, http.StatusTooManyRequests, try("2718").status)
		f.now = f.now.Add(time.Duration(seconds) * time.Second)
	}
	a := try("2718")
	require.Equal(t, http.StatusOK, a.status, "%s", a.body)
	cookie := a.header.Get("Set-Cookie")
	for _, want := range []string{"HttpOnly", "SameSite=Strict", "Path=/"} {
		assert.Contains(t, cookie, want)
	}
	assert.Equal(t, http.StatusUnauthorized, try("0000").status, "a right PIN starts the count again")

	// Somebody who does not work here is answered like a wrong PIN.
	a = c.call("PUT", "/session", map[string]any{"person_id": uuid.New(), "pin": "2718"}, nil)
	assert.Equal(t, "wrong-pin", a.Code)

	c.must(http.StatusOK, "GET", "/session", nil, nil)
	f.now = f.now.Add(7 * time.Hour)
	c.must(http.StatusOK, "GET", "/session", nil, nil) // being used keeps it alive
	f.now = f.now.Add(9 * time.Hour)
	c.must(http.StatusUnauthorized, "GET", "/session", nil, nil) // idle for longer than the shop allows

	c = f.signedIn()
	c.must(http.StatusNoContent, "DELETE", "/session", nil, nil)
	c.must(http.StatusUnauthorized, "GET", "/session", nil, nil)
}

// Guesses sent side by side are counted one by one.
func TestGuessesSideBySide(t *testing.T) {
	f := serve(t)
	var all sync.WaitGroup
	var wrong atomic.Int32 // answers that came without a wait, so that the next could follow at once
	for range 12 {
		c := f.caller()
		all.Go(func() {
			if c.call("PUT", "/session", map[string]any{"person_id": f.mira.ID, "pin": "0000"}, nil).Code == "wrong-pin" {
				wrong.Add(1)
			}
		})
	}
	all.Wait()
	assert.EqualValues(t, 2, wrong.Load(), "two slips are free, however many come at once")
	assert.Equal(t, http.StatusTooManyRequests, f.caller().call("PUT", "/session", map[string]any{"person_id": f.mira.ID, "pin": "2718"}, nil).status)
}

func TestWritesFromOtherSitesAreRefused(t *testing.T) {
	c := serve(t).signedIn()
	for _, header := range []map[string]string{{"Origin": "https://elsewhere.example"}, {"Sec-Fetch-Site": "cross-site"}} {
		a := c.call("POST", "/customers", shop.CustomerFacts{Name: "Nobody"}, header)
		assert.Equal(t, http.StatusForbidden, a.status)
		assert.Equal(t, "cross-origin", a.Code)
	}
	var found []shop.Customer
	c.must(http.StatusOK, "GET", "/customers", nil, &found)
	assert.Empty(t, found)
}

func TestBikesAreFound(t *testing.T) {
	c := serve(t).signedIn()
	facts := twelve()
	facts.FrameNumber = "WX 40%_1"
	bike := c.addBike("Délphine Ærøsteguy", facts)
	c.addBike("Aldous Fenwick-Reyes", shop.BikeFacts{Make: "Pellowe"})
	find := func(q string) shop.BikePage {
		var page shop.BikePage
		a := c.call("GET", "/bikes?q="+strings.NewReplacer(" ", "+", "%", "%25").Replace(q), nil, nil)
		require.Equal(t, http.StatusOK, a.status)
		require.NoError(t, json.Unmarshal(a.body, &page))
		return page
	}
	for _, q := range []string{bike.Tag, "0001", strings.ToLower(strings.ReplaceAll(bike.Tag, "-", "")), "delphine", "AEROST", "wharf lop", "40%_", "deĺph wharf"} {
		page := find(q)
		require.Equal(t, 1, page.Total, "%q", q)
		assert.Equal(t, bike.Tag, page.Bikes[0].Tag, "%q", q)
	}
	assert.Equal(t, 2, find("").Total)
	assert.Zero(t, find("wharf pellowe").Total)

	var page shop.BikePage
	c.must(http.StatusOK, "GET", "/bikes?limit=1", nil, &page)
	require.Len(t, page.Bikes, 1)
	require.NotEmpty(t, page.Next)
	c.must(http.StatusOK, "GET", "/bikes?limit=1&after="+page.Next, nil, &page)
	require.Len(t, page.Bikes, 1)
	assert.Equal(t, "Pellowe", page.Bikes[0].Make)

	// A mistyped tag is refused, and never opens the other bike.
	slip := bike.Tag[:5] + "2" + bike.Tag[6:]
	assert.Equal(t, "tag-mistyped", c.must(http.StatusUnprocessableEntity, "GET", "/bikes/"+slip, nil, nil).Code)
	assert.Equal(t, "not-a-tag", c.must(http.StatusUnprocessableEntity, "GET", "/bikes/fenwick", nil, nil).Code)
	assert.Equal(t, "bike-not-found", c.must(http.StatusNotFound, "GET", "/bikes/B-0186-G", nil, nil).Code)
	a := c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/qr", nil, nil)
	assert.Contains(t, string(a.body), "<svg")
}

func TestSecondChangeIsShownBothVersions(t *testing.T) {
	c := serve(t).signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	change := func(version int, colour string) answer {
		facts := twelve()
		facts.Colour = colour
		return c.call("PUT", "/bikes/"+bike.Tag, map[string]any{"version": version, "customer_id": bike.Owner.ID, "facts": facts}, nil)
	}
	require.Equal(t, http.StatusOK, change(1, "slate green").status)
	a := change(1, "claret")
	require.Equal(t, http.StatusConflict, a.status)
	assert.Equal(t, "changed-meanwhile", a.Code)
	assert.Equal(t, "slate green", a.Theirs["facts"].(map[string]any)["colour"])
	assert.Equal(t, "claret", a.Yours["facts"].(map[string]any)["colour"])
	assert.InDelta(t, 2, a.Theirs["version"], 0)
	require.Equal(t, http.StatusOK, change(2, "claret").status)

	// Side by side from one version, one wins and the others are told.
	var wins, conflicts int
	var mu sync.Mutex
	var all sync.WaitGroup
	for _, colour := range []string{"a", "b", "c", "d", "e", "f"} {
		all.Go(func() {
			a := change(3, colour)
			mu.Lock()
			defer mu.Unlock()
			switch a.status {
			case http.StatusOK:
				wins++
			case http.StatusConflict:
				conflicts++
			}
		})
	}
	all.Wait()
	assert.Equal(t, 1, wins)
	assert.Equal(t, 5, conflicts)

	var page shop.LedgerPage
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/ledger", nil, &page)
	require.Len(t, page.Entries, 4, "added, and three changes that were kept")
	assert.Equal(t, []string{"colour"}, page.Entries[0].Changed)
	assert.Equal(t, "Mira Oxenholt", page.Entries[0].By)
	assert.Equal(t, "stand 1", page.Entries[0].Device)
}

func TestDeedSentTwiceIsDoneOnce(t *testing.T) {
	c := serve(t).signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	reading := shop.NewMeasurement{InstrumentID: c.tool("ruler"), Entries: places("306.4", "306.2", "306.5")}
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
	var page shop.LedgerPage
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/ledger", nil, &page)
	assert.Len(t, page.Entries, 2, "the bike, and one measurement")

	reading.Note = "another"
	a := record()
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Equal(t, "idempotency-key-reused", a.Code)

	// A refused deed is not kept: mended, it may be sent under its key.
	bad := reading
	bad.Entries = places("abc")
	key["Idempotency-Key"] = "record-once-2"
	a = c.call("POST", "/bikes/"+bike.Tag+"/measurements", bad, key)
	require.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Equal(t, "entries[0].text", a.Fields[0].Path)
	assert.Equal(t, http.StatusCreated, c.call("POST", "/bikes/"+bike.Tag+"/measurements", reading, key).status)
}

func TestMeasurementIsRecordedAndStruckOut(t *testing.T) {
	f := serve(t)
	c := f.signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	at := "/bikes/" + bike.Tag
	var good, slip shop.Measurement
	c.must(http.StatusCreated, "POST", at+"/measurements", shop.NewMeasurement{InstrumentID: c.tool("ruler"), Entries: places("305.2", "305.1", "305.3")}, &good)
	f.now = f.now.Add(time.Hour)
	c.must(http.StatusCreated, "POST", at+"/measurements", shop.NewMeasurement{InstrumentID: c.tool("gauge-percent"), Entries: places("0.92"), Findings: []string{"noise"}}, &slip)
	assert.Equal(t, "ok", good.Wear.Verdict)
	assert.Equal(t, "fresh", good.State)
	assert.InDelta(t, 0.1312*114*0.127, *good.GrowthMM, 0.001)
	assert.Equal(t, "replace-together", slip.Wear.Verdict)

	last := func() *shop.Measurement {
		var b shop.Bike
		c.must(http.StatusOK, "GET", at, nil, &b)
		return b.Last
	}
	assert.Equal(t, slip, *last(), "the bike shows what was recorded, to the last digit")

	strike := "/ledger/" + slip.EntryID.String() + "/strike"
	assert.Equal(t, http.StatusUnprocessableEntity, c.call("POST", strike, map[string]string{"reason": " ?"}, nil).status)
	c.must(http.StatusCreated, "POST", strike, map[string]string{"reason": "gauge was not at zero"}, nil)
	assert.Equal(t, "already-struck", c.must(http.StatusConflict, "POST", strike, map[string]string{"reason": "again"}, nil).Code)
	assert.Equal(t, good, *last(), "what was struck out counts no more")

	var page shop.LedgerPage
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
	a := c.call("POST", at+"/measurements", shop.NewMeasurement{InstrumentID: c.tool("ruler"), Entries: places("305.2")}, nil)
	assert.Equal(t, "bike-archived", a.Code)
}

func jsonOf(v any) string {
	text, _ := json.Marshal(v) // our own answers alone come here
	return string(text)
}

// Each slip has its own answer, at its own field, and the good places beside it are still judged.
func TestBenchSaysWhatIsWrong(t *testing.T) {
	c := serve(t).signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	ask := func(q shop.BenchQuestion) (a shop.BenchAnswer) {
		c.must(http.StatusOK, "POST", "/bench/read", q, &a)
		return a
	}
	ruler, caliper, dropin, hung := c.tool("ruler"), c.tool("caliper-inside"), c.tool("gauge-dropin"), c.tool("whole-chain")
	a := ask(shop.BenchQuestion{Tag: bike.Tag, InstrumentID: ruler, Entries: places("306.4", "abc", "9999", "12 1/0 in", "12.06", "", "306,2mm")})
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

	a = ask(shop.BenchQuestion{Tag: bike.Tag, InstrumentID: ruler, Entries: places("306.4")})
	assert.True(t, a.Recordable)
	assert.Equal(t, 114, a.ChainLinks)
	assert.InDelta(t, 306.4, a.Strip.Places[0].AtMM, 1e-9)
	assert.InDelta(t, 304.8*1.005, a.Strip.LimitMM, 1e-9)

	// Unsure, it names what would tell more: first what would leave no doubt, should it read the same.
	a = ask(shop.BenchQuestion{Tag: bike.Tag, InstrumentID: ruler, Entries: places("305.9")})
	require.Equal(t, "unsure", a.Wear.Verdict)
	require.NotEmpty(t, a.Settle)
	assert.Equal(t, caliper, a.Settle[0].InstrumentID)
	assert.True(t, a.Settle[0].Settles)
	assert.Equal(t, 2, a.SettlePlaces)
	a = ask(shop.BenchQuestion{Tag: bike.Tag, InstrumentID: ruler, Entries: places("306.32")})
	require.NotEmpty(t, a.Settle)
	assert.False(t, a.Settle[0].Settles, "right at the limit no tool leaves no doubt, but a finer one tells more")
	assert.Zero(t, a.SettlePlaces)

	// A walk-in says what it must know, and is judged once it does.
	a = ask(shop.BenchQuestion{InstrumentID: ruler, Entries: places("306.4")})
	assert.Equal(t, []string{"kind", "sprockets"}, a.Missing)
	assert.Nil(t, a.Wear)
	assert.InDelta(t, 0.525, *a.Entries[0].Understood.ElongationPct, 0.001, "the wear itself needs no drivetrain")
	a = ask(shop.BenchQuestion{InstrumentID: ruler, Entries: places("306.4"), Drivetrain: &shop.Drivetrain{Kind: "hub-gear", Carry: true}})
	assert.Equal(t, "ok", a.Wear.Verdict)

	a = ask(shop.BenchQuestion{Tag: bike.Tag, InstrumentID: caliper, NewLength: "1193.5", Entries: places("119.98")})
	require.NotNil(t, a.NewLengthFault)
	assert.Nil(t, a.Wear)
	a = ask(shop.BenchQuestion{Tag: bike.Tag, InstrumentID: caliper, NewLength: "119,35", Entries: places("119.98")})
	assert.InDelta(t, 0.03, *a.Wear.SigmaPct, 1e-9)
	a = ask(shop.BenchQuestion{Tag: bike.Tag, InstrumentID: hung, Entries: places("1440")})
	assert.Equal(t, []string{"links"}, a.Missing)
	a = ask(shop.BenchQuestion{Tag: bike.Tag, InstrumentID: dropin, Entries: []shop.BenchEntry{{Place: 1, Marks: []shop.Mark{{MarkPct: 0.75, DropsIn: true}, {MarkPct: 0.5}}}}})
	assert.Equal(t, "measure-again", a.Entries[0].Fault.Code)
}

func TestInputIsCheckedByTheContract(t *testing.T) {
	c := serve(t).signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	put := func(facts string) answer {
		return c.call("PUT", "/bikes/"+bike.Tag, `{"version":1,"customer_id":"`+bike.Owner.ID.String()+`","facts":`+facts+`}`, nil)
	}
	for facts, path := range map[string]string{
		`{"chain_links":3}`:                                     "facts.chain_links",
		`{"motor":"steam"}`:                                     "facts.motor",
		`{"wings":2}`:                                           "facts",
		`{"ring_teeth":[34,3]}`:                                 "facts.ring_teeth[1]",
		`{"make":"` + strings.Repeat("x", 81) + `"}`:            "facts.make",
		`{"drivetrain_kind":"hub-gear","sprocket_count":8}`:     "facts.sprocket_count",
		`{"mix":{"fair":1,"dusty":0,"wet":1,"mud":0,"salt":0}}`: "facts.mix",
		`{"limit_pct":0.8}`:                                     "facts.together_pct",
		`{"sprocket_count":12,"sprocket_teeth":[11,12,13]}`:     "facts.sprocket_teeth",
		`{"drivetrain_kind":"derailleur","chain_links":113}`:    "facts.chain_links",
	} {
		a := put(facts)
		require.Equal(t, http.StatusUnprocessableEntity, a.status, "%s: %s", facts, a.body)
		require.NotEmpty(t, a.Fields, facts)
		assert.Equal(t, path, a.Fields[0].Path, "%s: %s", facts, a.body)
	}
	assert.Equal(t, "not-json", c.call("POST", "/customers", `{`, nil).Fields[0].Code)
	assert.Equal(t, http.StatusRequestEntityTooLarge, c.call("POST", "/customers", `{"name":"`+strings.Repeat("x", 2<<20)+`"}`, nil).status)
	assert.Equal(t, "customer-not-found", c.call("POST", "/bikes", shop.NewBike{CustomerID: uuid.New()}, nil).Fields[0].Code)
	assert.Equal(t, "has-bikes", c.call("PUT", "/customers/"+bike.Owner.ID.String()+"/archived", map[string]any{"version": 1, "archived": true}, nil).Code)
	var now shop.Bike
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag, nil, &now)
	assert.Equal(t, bike, now, "nothing was half saved")
}

// The wear track over HTTP: every answer on the way is held against the contract.
func TestWearTrackOfABike(t *testing.T) {
	f := serve(t)
	c := f.signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	at := "/bikes/" + bike.Tag
	track := func() (w shop.WearTrack) {
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
	c.must(http.StatusCreated, "POST", at+"/measurements", shop.NewMeasurement{InstrumentID: c.tool("gauge-dropin"), OdometerKM: ptr(2000.0),
		Entries: []shop.BenchEntry{{Place: 1, Marks: []shop.Mark{{MarkPct: 0.5, DropsIn: false}}}}}, nil)
	c.must(http.StatusCreated, "POST", at+"/measurements", shop.NewMeasurement{InstrumentID: c.tool("ruler"), Entries: places("305.4", "305.3", "305.2")}, nil)
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
	var page shop.LedgerPage
	c.must(http.StatusOK, "GET", at+"/ledger", nil, &page)
	var kinds []string
	for _, e := range page.Entries {
		kinds = append(kinds, e.Kind)
	}
	assert.Equal(t, []string{"odometer", "measurement", "measurement", "odometer", "chain-fitted", "odometer", "bike-added"}, kinds)

	// A bike of which too little is on record says what is missing, and shows its readings all the same.
	bare := c.addBike("Quillon Dace", shop.BikeFacts{})
	c.must(http.StatusOK, "GET", "/bikes/"+bare.Tag+"/wear-track", nil, &w)
	assert.ElementsMatch(t, []string{"kind", "sprockets", "chain-fitted", "distance"}, w.Missing)
}

// A photo is drawn anew and small; what is no picture is refused.
func TestPhoto(t *testing.T) {
	c := serve(t).signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	at := "/bikes/" + bike.Tag + "/photo"
	put := func(body []byte) answer {
		return c.call("PUT", at, string(body), map[string]string{"Content-Type": "application/octet-stream"})
	}
	assert.Equal(t, "photo-not-found", c.must(http.StatusNotFound, "GET", at, nil, nil).Code)
	big := image.NewNRGBA(image.Rect(0, 0, 2400, 1200))
	var picture, junk bytes.Buffer
	require.NoError(t, png.Encode(&picture, big))
	a := put(picture.Bytes())
	require.Equal(t, http.StatusOK, a.status, "%s", a.body)
	a = c.must(http.StatusOK, "GET", at, nil, nil)
	config, format, err := image.DecodeConfig(bytes.NewReader(a.body))
	require.NoError(t, err)
	assert.Equal(t, []any{"jpeg", 1600, 800}, []any{format, config.Width, config.Height})

	junk.WriteString("<svg onload=alert(1)>")
	assert.Equal(t, "not-a-picture", put(junk.Bytes()).Code)
	assert.Equal(t, "not-a-picture", put(picture.Bytes()[:picture.Len()/2]).Code, "a picture cut short")
	assert.Equal(t, http.StatusRequestEntityTooLarge, put(bytes.Repeat([]byte{0xff}, shop.MaxPhotoBytes+1)).status)
	var now shop.Bike
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag, nil, &now)
	assert.NotNil(t, now.PhotoAt, "the good one is still there")
	var without shop.Bike
	c.must(http.StatusOK, "DELETE", at, nil, &without)
	assert.Nil(t, without.PhotoAt)
	c.must(http.StatusOK, "DELETE", at, nil, nil)
	var page shop.LedgerPage
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/ledger", nil, &page)
	assert.Len(t, page.Entries, 3, "added, photo kept, photo taken away")
}

// BenchmarkBenchKey is one key typed at the bench: a reading understood and judged, over HTTP and
// from the database.
func BenchmarkBenchKey(b *testing.B) {
	f := serve(b)
	c := f.signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	q := shop.BenchQuestion{Tag: bike.Tag, InstrumentID: c.tool("ruler"), Entries: places("306.4", "306.2", "306.5")}
	for b.Loop() {
		c.must(http.StatusOK, "POST", "/bench/read", q, nil)
	}
}

// A change reaches a listener of another process, through the database.
func TestChangesReachOtherProcesses(t *testing.T) {
	f := serve(t)
	c := f.signedIn()
	changes, end := f.hub.Subscribe()
	defer end()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	deadline := time.After(10 * time.Second)
	for {
		select {
		case change := <-changes:
			if strings.Contains(change, bike.Tag) {
				assert.JSONEq(t, `{"topic":"bike","tag":"`+bike.Tag+`"}`, change)
				return
			}
		case <-deadline:
			require.Fail(t, "nobody told of the bike")
		}
	}
}

func TestPageAndUnknownAddresses(t *testing.T) {
	c := serve(t).caller()
	get := func(path string) (int, string) {
		res, err := c.http.Get(c.url + path)
		require.NoError(t, err)
		defer func() { _ = res.Body.Close() }()
		return res.StatusCode, res.Header.Get("Content-Type")
	}
	for path, want := range map[string]struct {
		status int
		kind   string
	}{
		"/":                  {200, "text/html"},
		"/bikes/B-0001-C":    {200, "text/html"},
		"/assets/a.js":       {200, "text/javascript"},
		"/assets/missing.js": {404, "application/problem+json"},
		"/api/v1/nothing":    {404, "application/problem+json"},
		"/api/nothing":       {404, "application/problem+json"},
		"/healthz":           {200, "text/plain"},
		"/readyz":            {200, "text/plain"},
	} {
		status, kind := get(path)
		assert.Equal(t, want.status, status, path)
		assert.Contains(t, kind, want.kind, path)
	}
	a := c.call("DELETE", "/bikes", nil, nil)
	assert.Equal(t, http.StatusMethodNotAllowed, a.status)
}
