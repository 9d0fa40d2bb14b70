package httpapi_test

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
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
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// fixture is a served shop whose clock the test moves.
type fixture struct {
	t      testing.TB
	now    time.Time
	url    string
	shop   *shop.Service
	router routers.Router
	mira   record.Person
	hub    *live.Hub
	db     *store.Store
}

func serve(t testing.TB) *fixture {
	t.Helper()
	ctx := context.Background()
	s, err := store.Open(ctx, pgtest.New(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	f := &fixture{t: t, now: time.Date(2026, 5, 4, 12, 0, 0, 0, time.UTC)}
	f.shop = shop.New(s, func() time.Time { return f.now })
	f.shop.PlanByTries()
	f.shop.HashAtNoCost()
	require.NoError(t, f.shop.SetUp(ctx, rules.NewShop{Name: "Tidewrack Lane", TimeZone: "UTC", Tools: rules.HouseTools()}))
	f.mira, err = f.shop.AddPerson(ctx, "Mira Oxenholt", "mechanic", "2718")
	require.NoError(t, err)
	return f.over(s)
}

// over serves the fixture's shop.
func (f *fixture) over(s *store.Store) *fixture {
	t, ctx := f.t, context.Background()
	f.db, f.hub = s, &live.Hub{}
	f.shop.TakeReplies()
	listen, stop := context.WithCancel(ctx)
	t.Cleanup(stop)
	listening := make(chan struct{})
	go f.hub.Run(listen, s.Pool(), store.Channel, sync.OnceFunc(func() { close(listening) }))
	<-listening
	handler, err := httpapi.New(httpapi.Options{Shop: f.shop, Hub: f.hub, Heartbeat: 100 * time.Millisecond, Ready: s.Ping, Page: fstest.MapFS{
		"index.html": {Data: []byte("<!doctype html>")}, "assets/a.js": {Data: []byte("1")},
	}})
	require.NoError(t, err)
	server := httptest.NewServer(handler)
	t.Cleanup(server.Close)
	f.url = server.URL
	f.router, err = closedContract()
	require.NoError(t, err)
	return f
}

// closedContract is the contract with closed answers, read once.
var closedContract = sync.OnceValues(func() (routers.Router, error) {
	doc, err := apigen.GetSpec()
	if err != nil {
		return nil, err
	}
	closeAnswers(doc)
	return gorillamux.NewRouter(doc)
})

// closeAnswers has nothing answered that the contract does not name: an object with named properties has no others.
func closeAnswers(doc *openapi3.T) {
	seen := map[*openapi3.Schema]bool{}
	var shut func(ref *openapi3.SchemaRef)
	shut = func(ref *openapi3.SchemaRef) {
		if ref == nil || ref.Value == nil || seen[ref.Value] {
			return
		}
		s := ref.Value
		seen[s] = true
		if len(s.Properties) > 0 && s.AdditionalProperties.Has == nil && s.AdditionalProperties.Schema == nil {
			s.AdditionalProperties.Has = new(bool)
		}
		for _, p := range s.Properties {
			shut(p)
		}
		shut(s.Items)
		shut(s.AdditionalProperties.Schema)
	}
	for _, path := range doc.Paths.Map() {
		for _, operation := range path.Operations() {
			for _, response := range operation.Responses.Map() {
				for _, content := range response.Value.Content {
					shut(content.Schema)
				}
			}
		}
	}
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

// asOwner is a caller who may do everything: somebody who owns the shop from now on.
func (f *fixture) asOwner() *caller {
	f.t.Helper()
	const secret = "harbour wall at low water"
	p, err := f.shop.AddPerson(f.t.Context(), "Wenna Sallow", "owner", secret)
	require.NoError(f.t, err)
	c := f.caller()
	c.must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": p.ID, "pin": secret, "device": "office"}, nil)
	return c
}

// as is a caller signed in as somebody who works here.
func (f *fixture) as(name, secret string) *caller {
	f.t.Helper()
	all, err := f.shop.ListPeople(f.t.Context())
	require.NoError(f.t, err)
	i := slices.IndexFunc(all, func(p record.Person) bool { return p.Name == name })
	require.GreaterOrEqual(f.t, i, 0, "nobody is called %s", name)
	c := f.caller()
	c.must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": all[i].ID, "pin": secret}, nil)
	return c
}

// worn reads a chain that is worn out.
func (c *caller) worn(tag string) (m measure.Measurement) {
	c.t.Helper()
	c.must(http.StatusCreated, "POST", "/bikes/"+tag+"/measurements", measure.NewMeasurement{InstrumentID: c.tool("ruler"), Entries: places("308.2 mm", "308.2 mm", "308.3 mm")}, &m)
	return m
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

// untilServed sends a write as the page does: again under its own key, for as long as the answer is that the
// server is busy and when to come back. Where tests crowd the machine that is the right answer, and no fault.
func (c *caller) untilServed(method, path string, body any) answer {
	c.t.Helper()
	key := map[string]string{"Idempotency-Key": uuid.NewString()}
	for {
		a := c.call(method, path, body, key)
		if a.status != http.StatusServiceUnavailable || a.header.Get("Retry-After") == "" {
			return a
		}
	}
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
		for _, said := range append([]calc.Field{{Message: a.Title}}, a.Fields...) {
			assert.NotRegexp(c.t, httpapi.MachineWords, said.Message, "%s %s", method, path)
		}
	}
	if route, params, err := c.router.FindRoute(req); err == nil {
		err = openapi3filter.ValidateResponse(context.Background(), &openapi3filter.ResponseValidationInput{
			RequestValidationInput: &openapi3filter.RequestValidationInput{Request: req, PathParams: params, Route: route},
			Status:                 res.StatusCode, Header: res.Header, Body: io.NopCloser(bytes.NewReader(got)),
			Options: &openapi3filter.Options{ExcludeResponseBody: path == "/events" || strings.Contains(path, "/qr") || strings.HasSuffix(path, "/photo") || strings.HasPrefix(path, "/job-photos") || strings.HasPrefix(path, "/tables/") || res.StatusCode == http.StatusNotModified},
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

func (c *caller) addBike(owner string, facts record.BikeFacts) bikes.Bike {
	c.t.Helper()
	var customer bikes.Customer
	c.must(http.StatusCreated, "POST", "/customers", record.CustomerFacts{Name: owner}, &customer)
	var bike bikes.Bike
	c.must(http.StatusCreated, "POST", "/bikes", bikes.NewBike{CustomerID: customer.ID, Facts: facts}, &bike)
	return bike
}

func (c *caller) tool(kind string) uuid.UUID {
	c.t.Helper()
	var tools []measure.Instrument
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

func twelve() record.BikeFacts {
	return record.BikeFacts{Make: "Wharfinger", Model: "Loper", DrivetrainKind: "derailleur", SprocketCount: ptr(12), ChainLinks: ptr(114), Motor: "none"}
}

func places(texts ...string) []measure.BenchEntry {
	entries := make([]measure.BenchEntry, len(texts))
	for i, text := range texts {
		entries[i] = measure.BenchEntry{Place: i + 1, Text: text}
	}
	return entries
}

func jsonOf(v any) string {
	text, _ := json.Marshal(v) // our own answers alone come here
	return string(text)
}
