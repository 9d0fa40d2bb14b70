package httpapi_test

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"hash/crc32"
	"io"
	"net"
	"net/http"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/contact"
	"earnestpony/internal/shop/exchange"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/store"
)

// TestFaults replays what was once tried against the program and broke it: each row by its number in
// docs/faults.md. `make faults` prints what is answered.
func TestFaults(t *testing.T) {
	t.Parallel()
	for _, row := range []struct {
		number, what string
		try          func(*testing.T) string
	}{
		{"A1", "eight, then thirty-two plans at once, on a pool of one", manyPlans},
		{"A2", "a ride table of 5001 rows, and one of 300 kB of bad rows", manyRides},
		{"A3", "pictures whose headers claim more than a server has", hugePictures},
		{"A4", "calculations and readings without end, signed in and not", endlessQuestions},
		{"A5", "half a body", halfABody},
		{"B1", "a passport with entries whose bodies are of another kind", brokenPassport},
		{"B2", "a passport that voids another bike's reading", voidingPassport},
		{"B3", "tables with a quotation mark that has no second", quotes},
		{"B4", "a passport with a body of null, NULs, an id twice, years 0001 and 9999", oddPassports},
		{"B5", "a table with a name of 200 kB", longCells},
		{"B6", "a reading, a ride and a task of the year nought", yearNought},
		{"B7", "one write twice under its key, by two devices", sentTwice},
		{"B8", "NULs and broken UTF-8 in addresses, tokens and keys", oddAddresses},
		{"C1", "wrong PINs by strangers", strangers},
		{"C5", "what answers say of being kept", keptAnswers},
		{"C6", "signing out with the stream open", streamAfterSignOut},
		{"C7", "a foreign Host, hidden files, robots", strangeRequests},
		{"C8", "wrong PINs of a second signature", secondSignature},
	} {
		t.Run(row.number, func(t *testing.T) {
			printed := os.Getenv("PONY_FAULTS") != "" // in their order
			if !printed {
				t.Parallel()
			}
			says := row.try(t)
			if printed {
				fmt.Printf("%s  %s\n    answered %s\n", row.number, row.what, says)
			}
		})
	}
}

// said is an answer in a line.
func said(a answer) string {
	if a.Code == "" {
		return fmt.Sprintf("%d, %d bytes", a.status, len(a.body))
	}
	return fmt.Sprintf("%d %s: %s", a.status, a.Code, a.Title)
}

var asBytes = map[string]string{"Content-Type": "application/octet-stream"}

func manyPlans(t *testing.T) string {
	c := serve(t).signedIn()
	plan := func(n int) (slowest time.Duration) {
		var paths []string
		for i := range n {
			bike := c.addBike(fmt.Sprintf("Ottoline Brack %d of %d", i, n), twelve())
			var job jobs.Job
			c.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/jobs", map[string]any{"frame_grade": 2, "drivetrain_grade": 3, "lubricant_on": "oil", "complaints": []string{}, "has_joining_link": true}, &job)
			paths = append(paths, "/jobs/"+job.ID.String()+"/plan")
		}
		var mu sync.Mutex
		var all sync.WaitGroup
		for _, path := range paths {
			all.Go(func() {
				began := time.Now()
				a := c.untilServed("PUT", path, map[string]any{"version": 1})
				mu.Lock()
				defer mu.Unlock()
				assert.Equal(t, http.StatusOK, a.status, "%s", a.body)
				slowest = max(slowest, time.Since(began))
			})
		}
		all.Wait()
		return slowest
	}
	return fmt.Sprintf("all answered; the slowest of 8 after %v, of 32 after %v", plan(8).Round(time.Millisecond), plan(32).Round(time.Millisecond))
}

func manyRides(t *testing.T) string {
	c := serve(t).signedIn()
	bike := c.addBike("Ottoline Brack", twelve())
	var rows strings.Builder
	rows.WriteString("started_at,distance_km\n")
	for i := range 5001 {
		fmt.Fprintf(&rows, "%s,1\n", time.Date(2020, 1, 1, 0, 0, 0, 0, time.UTC).Add(time.Duration(i)*11*time.Hour).Format(time.RFC3339))
	}
	began := time.Now()
	a := c.call("POST", "/bikes/"+bike.Tag+"/rides?name=years.csv", rows.String(), asBytes)
	require.Equal(t, http.StatusCreated, a.status, "%.300s", a.body)
	var file bikes.RideFile
	require.NoError(t, json.Unmarshal(a.body, &file))
	assert.Equal(t, []int{5000, 1}, []int{len(file.Kept), file.WrongCount})
	took := time.Since(began)
	bad := c.call("POST", "/bikes/"+bike.Tag+"/rides?name=bad.csv", "started_at,distance_km\n"+strings.Repeat("x,1\n", 75_000), asBytes)
	assert.Equal(t, http.StatusCreated, bad.status)
	assert.Less(t, len(bad.body), 100_000)
	return fmt.Sprintf("5000 kept, 1 refused, %d bytes in %v; bad rows: %s", len(a.body), took.Round(time.Millisecond), said(bad))
}

// pngOf is a PNG whose header claims a size, with hardly anything behind it.
func pngOf(width, height uint32, depth, colour byte) string {
	chunk := func(name string, data []byte) []byte {
		out := binary.BigEndian.AppendUint32(nil, uint32(len(data)))
		body := append([]byte(name), data...)
		return binary.BigEndian.AppendUint32(append(out, body...), crc32.ChecksumIEEE(body))
	}
	head := binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, width), height)
	return "\x89PNG\r\n\x1a\n" + string(chunk("IHDR", append(head, depth, colour, 0, 0, 0))) + string(chunk("IDAT", nil)) + string(chunk("IEND", nil))
}

func hugePictures(t *testing.T) string {
	c := serve(t).signedIn()
	bike := c.addBike("Ottoline Brack", twelve())
	var all []string
	for _, picture := range []string{pngOf(50_000_000, 1, 8, 2), pngOf(12_001, 1, 8, 2), pngOf(7071, 7071, 16, 6), pngOf(0, 5, 8, 2), "GIF89a", ""} {
		a := c.call("PUT", "/bikes/"+bike.Tag+"/photo", picture, asBytes)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, "%s", a.body)
		all = append(all, said(a))
	}
	return strings.Join(all, "; ")
}

func endlessQuestions(t *testing.T) string {
	f := serve(t)
	stranger, c := f.caller(), f.signedIn()
	var day strings.Builder
	day.WriteString(`{"now_min":0,"people":[{"id":"mira","skills":["wash"],"hours":[[0,480]]}],"jobs":[`)
	for j := range 200 {
		if j > 0 {
			day.WriteString(",")
		}
		fmt.Fprintf(&day, `{"id":"J%d","arrives_min":0,"promised_min":900,"steps":[`, j)
		for s := range 60 {
			if s > 0 {
				day.WriteString(",")
			}
			fmt.Fprintf(&day, `{"id":"s%d","skill":"wash","attended_min":5}`, s)
		}
		day.WriteString("]}")
	}
	day.WriteString("]}")
	began := time.Now()
	anonymous := stranger.call("POST", "/calc/dayplan", day.String(), nil)
	assert.Equal(t, http.StatusUnauthorized, anonymous.status)
	huge := c.call("POST", "/calc/dayplan", day.String(), nil)
	assert.Equal(t, http.StatusUnprocessableEntity, huge.status)
	entries := `{"instrument_id":"` + uuid.NewString() + `","entries":[` + strings.TrimSuffix(strings.Repeat("{},", 300_000), ",") + `]}`
	bench := c.call("POST", "/bench/read", entries, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, bench.status)
	assert.LessOrEqual(t, len(bench.Fields), 50)
	assert.Less(t, len(bench.body), 20_000)
	assert.Equal(t, http.StatusUnauthorized, stranger.call("POST", "/bench/read", entries, nil).status)
	return fmt.Sprintf("not signed in: %s; signed in: %s; readings: %d, %d faults, %d bytes; all in %v", said(anonymous), said(huge), bench.status, len(bench.Fields), len(bench.body), time.Since(began).Round(time.Millisecond))
}

// What sends half a body is let go, and whoever else asks meanwhile is answered. The deadline itself is not
// waited for here: the torture's frozen database waits for one.
func halfABody(t *testing.T) string {
	c := serve(t).signedIn()
	conn, err := net.Dial("tcp", strings.TrimPrefix(c.url, "http://"))
	require.NoError(t, err)
	defer func() { _ = conn.Close() }()
	_, err = io.WriteString(conn, "POST /api/v1/customers HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nContent-Length: 100\r\n\r\n{")
	require.NoError(t, err)
	line := make([]byte, 12)
	_, err = io.ReadFull(conn, line)
	require.NoError(t, err)
	assert.Equal(t, "HTTP/1.1 401", string(line), "nobody is signed in: the body is not waited for")
	c.must(http.StatusOK, "GET", "/people", nil, nil)
	return string(line)
}

// passportOf is a bike's passport with other entries in it.
func passportOf(t *testing.T, c *caller, tag string, entries ...map[string]any) map[string]any {
	t.Helper()
	var p map[string]any
	c.must(http.StatusOK, "GET", "/bikes/"+tag+"/passport", nil, &p)
	p["bike"].(map[string]any)["id"] = uuid.NewString()
	p["ledger"] = []any{}
	for _, e := range entries {
		whole := map[string]any{"id": uuid.NewString(), "happened_at": "2026-02-01T10:00:00Z", "written_at": "2026-02-01T10:00:00Z", "by": "Nan Grell", "body": map[string]any{}}
		for name, v := range e {
			whole[name] = v
		}
		p["ledger"] = append(p["ledger"].([]any), whole)
	}
	return p
}

func (c *caller) take(customer uuid.UUID, passport any) answer {
	c.t.Helper()
	text, err := json.Marshal(passport)
	require.NoError(c.t, err)
	return c.call("POST", "/passports?customer="+customer.String(), string(text), asBytes)
}

func brokenPassport(t *testing.T) string {
	c := serve(t).signedIn()
	bike := c.addBike("Ottoline Brack", twelve())
	kinds, err := c.db.Pool().Query(context.Background(), "select kind from ledger_kinds order by kind")
	require.NoError(t, err)
	var all []string
	for kinds.Next() {
		var kind string
		require.NoError(t, kinds.Scan(&kind))
		all = append(all, kind)
	}
	kinds.Close()
	require.Greater(t, len(all), 40)
	refused := 0
	for _, kind := range all {
		for _, body := range []any{7, nil, []int{}, map[string]any{"event": 7, "km": "far", "task": 3, "links": "many", "part": 1, "used": "x", "facts": 3, "job": 4, "wear": 1, "reason": 2, "advice": 5, "changed": 6, "why": 7, "joining_link": 8}} {
			a := c.take(bike.Customer.ID, passportOf(t, c, bike.Tag, map[string]any{"kind": kind, "body": body}))
			assert.Equal(t, http.StatusUnprocessableEntity, a.status, "%s %v: %.200s", kind, body, a.body)
			refused++
		}
	}
	c.must(http.StatusOK, "GET", "/due", nil, nil)
	c.must(http.StatusOK, "GET", "/stock/needs", nil, nil)
	return fmt.Sprintf("%d passports of %d kinds refused with the entry's path; the due list and the shelf's needs answer", refused, len(all))
}

func voidingPassport(t *testing.T) string {
	c := serve(t).signedIn()
	victim, bike := c.addBike("Aldous Fenwick-Reyes", twelve()), c.addBike("Ottoline Brack", twelve())
	var m measure.Measurement
	c.must(http.StatusCreated, "POST", "/bikes/"+victim.Tag+"/measurements", map[string]any{"instrument_id": c.tool("ruler"), "entries": places("306.1", "306.2")}, &m)
	void := map[string]any{"kind": "strike-out", "strikes": m.EntryID, "body": map[string]any{"reason": "not yours"}}
	alone := c.take(bike.Customer.ID, passportOf(t, c, bike.Tag, void))
	// The other bike's entry smuggled along under its own id.
	smuggled := c.take(bike.Customer.ID, passportOf(t, c, bike.Tag, map[string]any{"id": m.EntryID, "kind": "bike-archived"}, void))
	for _, a := range []answer{alone, smuggled} {
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, "%s", a.body)
	}
	var page measure.LedgerPage
	c.must(http.StatusOK, "GET", "/bikes/"+victim.Tag+"/ledger", nil, &page)
	assert.Nil(t, page.Entries[0].Struck)
	return said(alone) + "; " + said(smuggled)
}

func quotes(t *testing.T) string {
	c := serve(t).signedIn()
	bike := c.addBike("Ottoline Brack", twelve())
	table := c.call("POST", "/tables/customers?write=false", "name\na\"b\n", asBytes)
	assert.Equal(t, http.StatusUnprocessableEntity, table.status, "%s", table.body)
	rides := c.call("POST", "/bikes/"+bike.Tag+"/rides?name=a.csv", "started_at,distance_km\n\"abc\n", asBytes)
	assert.Equal(t, http.StatusCreated, rides.status, "%s", rides.body)
	assert.Contains(t, string(rides.body), "quotation mark")
	return said(table) + "; " + string(rides.body)
}

func oddPassports(t *testing.T) string {
	c := serve(t).signedIn()
	bike := c.addBike("Ottoline Brack", twelve())
	same := uuid.NewString()
	spoiled := map[string]func(p map[string]any){
		"an id twice": func(p map[string]any) {
			p["ledger"].([]any)[0].(map[string]any)["id"] = same
			p["ledger"].([]any)[1].(map[string]any)["id"] = same
		},
		"an unknown void": func(p map[string]any) {
			e := p["ledger"].([]any)[0].(map[string]any)
			e["kind"], e["strikes"] = "strike-out", uuid.NewString()
		},
		"the year 1": func(p map[string]any) {
			p["ledger"].([]any)[0].(map[string]any)["happened_at"] = "0001-01-01T00:00:00Z"
		},
		"the year 9999": func(p map[string]any) {
			p["ledger"].([]any)[0].(map[string]any)["happened_at"] = "9999-01-01T00:00:00Z"
		},
		"added in the year 9999": func(p map[string]any) { p["bike"].(map[string]any)["added_at"] = "9999-01-01T00:00:00Z" },
		"a long make": func(p map[string]any) {
			p["bike"].(map[string]any)["facts"].(map[string]any)["make"] = strings.Repeat("x", 100_000)
		},
		"a NUL in the make": func(p map[string]any) { p["bike"].(map[string]any)["facts"].(map[string]any)["make"] = "a\x00b" },
		"a NUL in a body": func(p map[string]any) {
			p["ledger"].([]any)[0].(map[string]any)["body"] = map[string]any{"km": 5, "x": "\x00"}
		},
		"a NUL in the rest":    func(p map[string]any) { p["more"] = "\x00" },
		"40 sprockets":         func(p map[string]any) { p["bike"].(map[string]any)["facts"].(map[string]any)["sprocket_count"] = 40 },
		"a kind of no bike":    func(p map[string]any) { p["bike"].(map[string]any)["facts"].(map[string]any)["kind"] = "submarine" },
		"much that is unknown": func(p map[string]any) { p["more"] = strings.Repeat("x", 100_000) },
		"an unknown entry": func(p map[string]any) {
			e := p["ledger"].([]any)[0].(map[string]any)
			e["kind"], e["body"] = "tide", map[string]any{"x": strings.Repeat("x", 20_000)}
		},
		"a picture that is none": func(p map[string]any) { p["bike"].(map[string]any)["photo"] = []byte("GIF89a") },
		"no facts": func(p map[string]any) {
			p["bike"].(map[string]any)["facts"] = nil
			p["bike"].(map[string]any)["id"] = uuid.Nil
		},
	}
	for what, spoil := range spoiled {
		p := passportOf(t, c, bike.Tag, map[string]any{"kind": "odometer", "body": map[string]any{"km": 5}}, map[string]any{"kind": "odometer", "body": map[string]any{"km": 6}})
		spoil(p)
		a := c.take(bike.Customer.ID, p)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, "%s: %.300s", what, a.body)
	}
	for _, text := range []string{"null", "[]", "{", `{"format":"bike-passport-1"}`} {
		a := c.call("POST", "/passports?customer="+bike.Customer.ID.String(), text, asBytes)
		assert.Equal(t, http.StatusUnprocessableEntity, a.status, "%s", text)
	}
	var page bikes.BikePage
	c.must(http.StatusOK, "GET", "/bikes", nil, &page)
	assert.Equal(t, 1, page.Total, "nothing of them is kept")

	// B9: what an entry holds beyond what is known here goes out again as it came.
	p := passportOf(t, c, bike.Tag, map[string]any{"kind": "odometer", "body": map[string]any{"km": 5, "tide": "high"}})
	a := c.take(bike.Customer.ID, p)
	require.Equal(t, http.StatusCreated, a.status, "%s", a.body)
	var taken exchange.PassportTaken
	require.NoError(t, json.Unmarshal(a.body, &taken))
	assert.Contains(t, string(c.must(http.StatusOK, "GET", "/bikes/"+taken.Tag+"/passport", nil, nil).body), `"tide":"high"`)
	return fmt.Sprintf("%d spoiled passports refused, nothing of them kept", len(spoiled)+4)
}

func longCells(t *testing.T) string {
	c := serve(t).signedIn()
	a := c.call("POST", "/tables/customers?write=true", "name,notes\n"+strings.Repeat("x", 200_000)+","+strings.Repeat("y", 500_000)+"\n", asBytes)
	var read exchange.TableRead
	require.NoError(t, json.Unmarshal(a.body, &read))
	assert.Equal(t, []int{1, 0}, []int{read.Wrong, read.Written}, "%.300s", a.body)
	assert.Less(t, len(a.body), 10_000)
	many := c.call("POST", "/tables/customers?write=false", "name,notes\n"+strings.Repeat("x,"+strings.Repeat("y", 190)+"\n", 5000), asBytes)
	assert.Less(t, len(many.body), 1<<20, "no answer above a megabyte to a body below it")
	return fmt.Sprintf("%d row wrong, nothing written, %d bytes", read.Wrong, len(a.body))
}

func yearNought(t *testing.T) string {
	c := serve(t).signedIn()
	bike := c.addBike("Ottoline Brack", twelve())
	reading := map[string]any{"instrument_id": c.tool("ruler"), "entries": places("306.1")}
	var all []string
	for _, year := range []string{"0000", "0001", "1989", "2200", "9999"} {
		at := year + "-05-01T08:30:00Z"
		reading["taken_at"] = at
		for path, body := range map[string]any{"/measurements": reading, "/odometer": map[string]any{"km": 5, "read_at": at}, "/due/relubricate": map[string]any{"done_at": at}, "/events": map[string]any{"event": "squeak", "happened_at": at},
			"/chain": map[string]any{"fitted_at": at}} {
			a := c.call("POST", "/bikes/"+bike.Tag+path, body, nil)
			assert.Equal(t, http.StatusUnprocessableEntity, a.status, "%s %s: %s", year, path, a.body)
			all = append(all, a.Code)
		}
		a := c.call("POST", "/bikes/"+bike.Tag+"/rides?name=a.csv", "started_at,distance_km\n"+at+",5\n", asBytes)
		assert.Contains(t, string(a.body), `"kept":[]`, year)
		a = c.call("POST", "/tables/odometer?write=false", "tag,read_at,km\n"+bike.Tag+","+at+",5\n", asBytes)
		assert.Contains(t, string(a.body), `"wrong":1`, year)
	}
	return fmt.Sprintf("%d refused, with the field", len(all))
}

func sentTwice(t *testing.T) string {
	f := serve(t)
	one, two := f.signedIn(), f.signedIn()
	key := map[string]string{"Idempotency-Key": "one key on two devices"}
	first := one.call("POST", "/customers", map[string]any{"name": "Rosamund Pike-Hollow"}, key)
	again := one.call("POST", "/customers", map[string]any{"name": "Rosamund Pike-Hollow"}, key)
	other := two.call("POST", "/customers", map[string]any{"name": "Sefton Umberleigh"}, key)
	assert.JSONEq(t, string(first.body), string(again.body))
	assert.Equal(t, http.StatusCreated, other.status, "the key belongs to its device: %s", other.body)
	table := one.call("POST", "/tables/customers?write=true", "name\nOttoline Brack\n", map[string]string{"Content-Type": "application/octet-stream", "Idempotency-Key": "a table at once"})
	twice := one.call("POST", "/tables/customers?write=true", "name\nOttoline Brack\n", map[string]string{"Content-Type": "application/octet-stream", "Idempotency-Key": "a table at once"})
	assert.JSONEq(t, string(table.body), string(twice.body))
	var found bikes.CustomerPage
	one.must(http.StatusOK, "GET", "/customers?q=Ottoline", nil, &found)
	assert.Equal(t, 1, found.Total)

	// A key that the version before this one kept is known: it did not tell devices apart.
	var person uuid.UUID = f.mira.ID
	_, err := f.db.Pool().Exec(context.Background(), "update idempotent_writes set device_id = $1 where person_id = $2 and key = $3", uuid.Nil, person, "a table at once")
	require.NoError(t, err)
	upgraded := two.call("POST", "/tables/customers?write=true", "name\nOttoline Brack\n", map[string]string{"Content-Type": "application/octet-stream", "Idempotency-Key": "a table at once"})
	assert.JSONEq(t, string(table.body), string(upgraded.body))
	return "the first answer again; another device's key is another; a key from before the upgrade is known"
}

func oddAddresses(t *testing.T) string {
	f := serve(t)
	c, stranger := f.signedIn(), f.caller()
	var all []string
	for _, path := range []string{"/customers?q=%00", "/bikes?q=a%00b", "/bikes?q=%ff", "/bikes/%00", "/bikes/%ff%fe", "/due?after=%00", "/links?tag=%00", "/jobs/nope", "/bikes/B-0001-C/rides?name=%00"} {
		a := c.call("GET", path, nil, nil)
		assert.Contains(t, []int{http.StatusBadRequest, http.StatusNotFound, http.StatusUnprocessableEntity, http.StatusMethodNotAllowed}, a.status, "%s: %s", path, a.body)
		assert.NotContains(t, string(a.body), "regular expression")
		all = append(all, fmt.Sprint(a.status))
	}
	nope := c.call("GET", "/jobs/nope", nil, nil)
	assert.Equal(t, http.StatusNotFound, nope.status, "it is no job's address")
	assert.Contains(t, string(nope.body), "There is nothing at this address")
	for _, path := range []string{"/owner-page/%00", "/owner-page/%ff", "/owner-page/" + strings.Repeat("x", 64)} {
		a := stranger.call("GET", path, nil, nil)
		assert.Equal(t, http.StatusNotFound, a.status, "%s: %s", path, a.body)
		all = append(all, fmt.Sprint(a.status))
	}
	for _, key := range []string{"\xff\xff\xff\xff\xff\xff\xff\xff\xff", "short", strings.Repeat("k", 101), "with\ttabs in it"} {
		a := c.call("POST", "/customers", map[string]any{"name": "Ottoline Brack"}, map[string]string{"Idempotency-Key": key})
		assert.Contains(t, []int{http.StatusBadRequest, http.StatusUnprocessableEntity}, a.status, "%q: %s", key, a.body)
		all = append(all, fmt.Sprint(a.status))
	}
	for _, path := range []string{"/calendar/%00.ics", "/calendar/%ff.ics"} {
		res, err := stranger.http.Get(f.url + path)
		require.NoError(t, err)
		_ = res.Body.Close()
		assert.Equal(t, http.StatusNotFound, res.StatusCode, path)
	}
	return strings.Join(all, " ")
}

func signInAs(c *caller, person uuid.UUID, pin string) answer {
	return c.call("PUT", "/session", map[string]any{"person_id": person, "pin": pin, "device": "stand 1"}, nil)
}

func strangers(t *testing.T) string {
	f := serve(t)
	mine := f.signedIn()
	stranger := func() *caller { return f.caller() } // each without a cookie
	var last answer
	for range 12 {
		last = signInAs(stranger(), f.mira.ID, "0000")
	}
	assert.Equal(t, http.StatusTooManyRequests, last.status, "guesses from one place are slowed, whatever cookies they throw away")
	assert.Equal(t, http.StatusTooManyRequests, signInAs(stranger(), f.mira.ID, "2718").status, "also the right one")
	assert.Equal(t, http.StatusOK, signInAs(mine, f.mira.ID, "2718").status, "a device that signed her in before is not locked out")
	wrong := 0
	for signInAs(mine, f.mira.ID, "0000").status != http.StatusTooManyRequests {
		wrong++
	}
	assert.Less(t, wrong, 5, "its own slips are counted by themselves")
	f.now = f.now.Add(3 * time.Hour)
	assert.Equal(t, http.StatusOK, signInAs(stranger(), f.mira.ID, "2718").status, "in time it is forgotten")
	unknown := signInAs(stranger(), uuid.New(), "0000")
	assert.Equal(t, http.StatusUnauthorized, unknown.status)
	return "a stranger: " + said(last) + "; the person's own device: 200"
}

func keptAnswers(t *testing.T) string {
	c := serve(t).signedIn()
	c.addBike("Ottoline Brack", twelve())
	for _, path := range []string{"/bikes", "/customers", "/session", "/rules"} {
		assert.Equal(t, "no-store", c.must(http.StatusOK, "GET", path, nil, nil).header.Get("Cache-Control"), path)
	}
	for _, path := range []string{"/due", "/floor", "/jobs", "/waits", "/messages"} {
		a := c.must(http.StatusOK, "GET", path, nil, nil)
		assert.Equal(t, "private, no-cache", a.header.Get("Cache-Control"), path)
		require.NotEmpty(t, a.header.Get("ETag"), path)
		again := c.call("GET", path, nil, map[string]string{"If-None-Match": a.header.Get("ETag")})
		if path != "/floor" { // says the time
			assert.Equal(t, http.StatusNotModified, again.status, path)
			assert.Empty(t, again.body)
		}
	}
	var feed contact.GivenLink
	c.must(http.StatusCreated, "POST", "/links", map[string]any{"kind": "calendar-shop"}, &feed)
	ask := func(method, mark string) *http.Response {
		req, err := http.NewRequest(method, c.url+feed.Path, nil)
		require.NoError(t, err)
		if mark != "" {
			req.Header.Set("If-None-Match", mark)
		}
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		_ = res.Body.Close()
		return res
	}
	first := ask("GET", "")
	c.now = c.now.Add(time.Minute)
	assert.Equal(t, http.StatusOK, ask("HEAD", "").StatusCode)
	assert.Equal(t, http.StatusNotModified, ask("GET", first.Header.Get("ETag")).StatusCode, "the same as long as nothing in it changes")
	assert.Equal(t, "text/calendar; charset=utf-8", first.Header.Get("Content-Type"))
	return "no-store; polled lists and feeds private, no-cache with an ETag, 304 when asked with it"
}

func streamAfterSignOut(t *testing.T) string {
	f := serve(t)
	c := f.signedIn()
	stream := events(t, c)
	assert.Equal(t, "ready {}", <-stream)
	c.must(http.StatusNoContent, "DELETE", "/session", nil, nil)
	for range stream { // ends within a heartbeat, or the test's patience does
	}
	return "ends within a heartbeat"
}

func strangeRequests(t *testing.T) string {
	f := serve(t)
	ask := func(host, path string) *http.Response {
		req, err := http.NewRequest("GET", f.url+path, nil)
		require.NoError(t, err)
		req.Host = host
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		_, _ = io.Copy(io.Discard, res.Body)
		_ = res.Body.Close()
		return res
	}
	assert.Equal(t, http.StatusMisdirectedRequest, ask("evil.example", "/api/v1/people").StatusCode)
	for _, host := range []string{"127.0.0.1:8321", "localhost", "192.168.7.4:8321", "[::1]:8321"} {
		assert.Equal(t, http.StatusOK, ask(host, "/api/v1/people").StatusCode, host)
	}
	for _, path := range []string{"/.gitkeep", "/assets/.hidden", "/.well-known/x"} {
		assert.Equal(t, http.StatusNotFound, ask("localhost", path).StatusCode, path)
	}
	page := ask("localhost", "/o/anything")
	assert.Contains(t, page.Header.Get("X-Robots-Tag"), "noindex")
	assert.Equal(t, http.StatusOK, ask("localhost", "/robots.txt").StatusCode)
	return "another name: 421; hidden files: 404; pages ask not to be listed"
}

func secondSignature(t *testing.T) string {
	f := serve(t)
	tobiah, err := f.shop.AddPerson(context.Background(), "Tobiah Marsh", "mechanic", "3141")
	require.NoError(t, err)
	c := f.signedIn()
	facts := twelve()
	facts.Kind = "cargo"
	bike := c.addBike("Wrackline Bakery", facts)
	var job jobs.Job
	c.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/jobs", map[string]any{"frame_grade": 1, "drivetrain_grade": 1, "lubricant_on": "oil", "complaints": []string{}, "has_joining_link": true}, &job)
	c.must(http.StatusOK, "PUT", "/jobs/"+job.ID.String()+"/plan", map[string]any{"version": job.Version}, &job)
	sign := func(pin string) answer {
		return c.call("POST", "/jobs/"+job.ID.String()+"/hand-back", map[string]any{"version": job.Version, "second_id": tobiah.ID, "second_pin": pin}, nil)
	}
	var codes []string
	for range 6 {
		a := sign("0000")
		codes = append(codes, a.Code)
	}
	assert.Equal(t, "too-many-tries", codes[len(codes)-1], "%v", codes)
	assert.Equal(t, "too-many-tries", sign("3141").Code, "nor the right one, until the wait is over")
	return strings.Join(codes, ", ")
}

// The database away is a 503 that says so, and the shop goes on by itself when it is back.
func TestDatabaseAway(t *testing.T) {
	t.Parallel()
	f := serve(t)
	c := f.signedIn()
	f.db.Close()
	a := c.call("GET", "/bikes", nil, nil)
	assert.Equal(t, []any{http.StatusServiceUnavailable, "database-away", "2"}, []any{a.status, a.Code, a.header.Get("Retry-After")})
	assert.Equal(t, "The shop's database cannot be reached; what you typed stays on this screen.", a.Title)
	_, err := store.Open(t.Context(), "postgres://pony:x@127.0.0.1:1/pony?sslmode=disable")
	assert.True(t, store.IsAway(err), "%v", err)
}

// The bounds of a bike's and a customer's facts are the same in the contract and where tables, passports and the
// demo are checked.
func TestBoundsAreTheContracts(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	bike := c.addBike("Ottoline Brack", twelve())
	for name, most := range map[string]int{"make": 80, "model": 80, "colour": 80, "frame_number": 60, "needed_for": 120} {
		for _, length := range []int{most, most + 1} {
			text := strings.Repeat("é", length)
			p := passportOf(t, c, bike.Tag)
			p["bike"].(map[string]any)["facts"].(map[string]any)[name] = text
			passport := c.take(bike.Customer.ID, p)
			form := c.call("POST", "/bikes", map[string]any{"customer_id": bike.Customer.ID, "facts": map[string]any{name: text}}, nil)
			want := http.StatusCreated
			if length > most {
				want = http.StatusUnprocessableEntity
			}
			assert.Equal(t, []int{want, want}, []int{passport.status, form.status}, "%s of %d: %.200s %.200s", name, length, passport.body, form.body)
		}
	}
	for name, values := range map[string][]any{"chainstay_mm": {199, 1501}, "chain_links": {29, 301}, "weekly_km": {-1, 3001}, "sprocket_count": {0, 15}, "cage_mm": {29, 151}, "brakes": {"spoon"}, "care": {"much"}, "ring_teeth": {[]int{7}}} {
		for _, v := range values {
			p := passportOf(t, c, bike.Tag)
			p["bike"].(map[string]any)["facts"].(map[string]any)[name] = v
			a, b := c.take(bike.Customer.ID, p), c.call("POST", "/bikes", map[string]any{"customer_id": bike.Customer.ID, "facts": map[string]any{name: v}}, nil)
			assert.Equal(t, []int{http.StatusUnprocessableEntity, http.StatusUnprocessableEntity}, []int{a.status, b.status}, "%s %v", name, v)
		}
	}
}
