package httpapi_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/outside"
	"earnestpony/internal/pgtest"
	"earnestpony/internal/shop"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/contact"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/schedule"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// restored serves a shop that an older version of the program kept, out of its backup.
func restored(t *testing.T, file string) *fixture {
	t.Helper()
	ctx := context.Background()
	s, err := store.Open(ctx, pgtest.Empty(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	backup, err := store.OpenBackup(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	require.NoError(t, s.Restore(ctx, backup))
	f := &fixture{t: t, now: backup.MadeAt.Add(time.Minute)}
	f.shop = shop.New(s, func() time.Time { return f.now })
	f.shop.PlanByTries()
	f.shop.HashAtNoCost()
	f.shop.PlugIn(outside.NewTool(1))
	f.shop.PlugInGateway(outside.NewGateway(outside.Rates{}, f.shop.GatewayMemory(), func() time.Time { return f.now }, 1))
	settled, err := f.shop.SettleTimeZone(ctx, "Europe/Berlin") // as a server does that starts on it
	require.NoError(t, err)
	require.True(t, settled, "it was made before shops had a time zone")
	people, err := f.shop.ListPeople(ctx)
	require.NoError(t, err)
	f.mira = people[slices.IndexFunc(people, func(p record.Person) bool { return p.Name == "Mira Oxenholt" })]
	return f.over(s)
}

// operation is one of the contract.
type operation struct{ id, method, path string }

func operations(t *testing.T) (reads, writes []operation) {
	doc, err := apigen.GetSpec()
	require.NoError(t, err)
	for path, item := range doc.Paths.Map() {
		for method, op := range item.Operations() {
			one := operation{strings.ToLower(op.OperationID[:1]) + op.OperationID[1:], method, path}
			if method == http.MethodGet {
				reads = append(reads, one)
			} else {
				writes = append(writes, one)
			}
		}
	}
	for _, list := range [][]operation{reads, writes} {
		slices.SortFunc(list, func(a, b operation) int { return strings.Compare(a.id, b.id) })
	}
	return reads, writes
}

// What older versions kept is brought up to date, and then every list opens, everything is given out, the
// background has nothing to complain of, and the ledger agrees: with one broken record among it, which is named
// and takes nothing else with it. All of it on one connection.
func TestDataOfOlderVersions(t *testing.T) {
	t.Parallel()
	files, err := filepath.Glob("testdata/old/*.pony")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, file := range files {
		t.Run(filepath.Base(file), func(t *testing.T) {
			f := restored(t, file)
			background(t, f)
			mira := f.signedIn()
			mechanicsStandIn(t, mira)
			c := f.asOwner()
			broken, err := os.ReadFile("testdata/old/passport-1-broken.json")
			require.NoError(t, err)
			a := c.call("POST", "/passports", string(broken), map[string]string{"Content-Type": "application/octet-stream"})
			assert.Equal(t, http.StatusUnprocessableEntity, a.status, "what was taken once is not taken again")
			readEverything(t, c)
			// A link that was printed before only hashes were kept still opens its page, and stands nowhere.
			const printed = "Ee6SfHC-eMEI0oJNNS2yxg"
			f.caller().must(http.StatusOK, "GET", "/owner-page/"+printed, nil, nil)
			var kept bytes.Buffer
			_, err = f.db.Backup(t.Context(), &kept, f.now)
			require.NoError(t, err)
			z, err := zip.NewReader(bytes.NewReader(kept.Bytes()), int64(kept.Len()))
			require.NoError(t, err)
			for _, table := range z.File {
				r, err := table.Open()
				require.NoError(t, err)
				text, err := io.ReadAll(r)
				require.NoError(t, err)
				assert.NotContains(t, string(text), printed, table.Name)
			}
			odd, err := f.shop.Verify(t.Context())
			require.NoError(t, err)
			for _, line := range odd {
				assert.Contains(t, line, "cannot be read", "only what is broken is odd")
			}
			assert.Len(t, odd, 6, "each broken entry by itself")
			var what due.DuePage
			c.must(http.StatusOK, "GET", "/due", nil, &what)
			require.Len(t, what.Broken, 1)
			require.NotEmpty(t, what.Rows)
			for _, e := range what.Broken[0].Entries { // what can be done about it: void it
				c.must(http.StatusCreated, "POST", "/ledger/"+e.ID.String()+"/strike", map[string]any{"reason": "cannot be read"}, nil)
			}
			var after due.DuePage
			c.must(http.StatusOK, "GET", "/due", nil, &after)
			assert.Empty(t, after.Broken)
			odd, err = f.shop.Verify(t.Context())
			require.NoError(t, err)
			assert.Empty(t, odd)
		})
	}
}

// mechanicsStandIn holds that everybody keeps what they could do in a shop that has no owner: its mechanics set things, and take
// everything out, as before there was a table of who may do what.
func mechanicsStandIn(t *testing.T, mira *caller) {
	t.Helper()
	var session people.SessionView
	mira.must(http.StatusOK, "GET", "/session", nil, &session)
	for operation := range session.MayNot {
		assert.Equal(t, people.Staff, people.Operations()[operation], "a mechanic could %s before", operation)
	}
}

// background does what a server does behind everybody's back.
func background(t *testing.T, f *fixture) {
	t.Helper()
	ctx, stop := context.WithTimeout(t.Context(), 5*time.Minute)
	defer stop()
	for name, work := range map[string]func(context.Context) (int, error){"due": f.shop.RefreshDue, "recalls": f.shop.DraftRecalls, "messages": f.shop.SendMessages,
		"floor":    func(ctx context.Context) (int, error) { return 0, f.shop.RefreshDayPlan(ctx) },
		"answers":  func(ctx context.Context) (int, error) { return 0, f.shop.ForgetOldAnswers(ctx) },
		"sessions": func(ctx context.Context) (int, error) { return 0, f.shop.ForgetSessions(ctx) },
		"drafts":   func(ctx context.Context) (int, error) { return 0, f.shop.ForgetRideDrafts(ctx) }} {
		for n := 1; n > 0; {
			var err error
			n, err = work(ctx)
			require.NoError(t, err, name)
		}
	}
}

// readEverything asks every GET of the contract, of every bike, customer, job and tool.
func readEverything(t *testing.T, c *caller) {
	t.Helper()
	var page bikes.BikePage
	c.must(http.StatusOK, "GET", "/bikes?limit=200", nil, &page)
	require.Greater(t, len(page.Bikes), 40)
	ids := func(path string) (all []string) {
		var list []struct{ ID string }
		c.must(http.StatusOK, "GET", path, nil, &list)
		for _, one := range list {
			all = append(all, one.ID)
		}
		require.NotEmpty(t, all, path)
		return all
	}
	var tags []string
	for _, b := range page.Bikes {
		tags = append(tags, b.Tag)
	}
	var people bikes.CustomerPage
	c.must(http.StatusOK, "GET", "/customers?limit=200", nil, &people)
	var customers []string
	for _, one := range people.Customers {
		customers = append(customers, one.ID.String())
	}
	var link contact.GivenLink
	c.must(http.StatusCreated, "POST", "/links", map[string]any{"kind": "owner", "tag": tags[2]}, &link)
	values := map[string][]string{"tag": tags, "customer": customers, "job": ids("/jobs"), "instrument": ids("/instruments"),
		"table": {"customers", "bikes", "odometer", "measurements", "services"}, "token": {strings.TrimPrefix(link.Path, "/o/")}, "photo": nil}
	for _, job := range values["job"] {
		var j jobs.Job
		c.must(http.StatusOK, "GET", "/jobs/"+job, nil, &j)
		for _, p := range j.Photos {
			values["photo"] = append(values["photo"], p.ID.String())
		}
	}
	require.NotEmpty(t, values["photo"])
	reads, _ := operations(t)
	for _, op := range reads {
		switch op.id {
		case "streamEvents":
			continue // has a test of its own
		}
		paths := []string{op.path}
		for name, of := range values {
			if strings.Contains(op.path, "{"+name+"}") {
				paths = nil
				for _, v := range of {
					paths = append(paths, strings.ReplaceAll(op.path, "{"+name+"}", v))
				}
			}
		}
		for _, path := range paths {
			require.NotContains(t, path, "{", "nobody says what to read of %s", op.id)
			a := c.call("GET", path, nil, nil)
			if op.id == "getPhoto" && a.status == http.StatusNotFound || op.id == "planReplacement" && a.status == http.StatusConflict {
				continue
			}
			assert.Equal(t, http.StatusOK, a.status, "%s %s: %.300s", op.id, path, a.body)
		}
	}
}

// try is a request for one operation; each has one that is right, made just before it is sent.
type try struct {
	path string
	body any
	raw  []byte // in place of JSON
}

// Every write of the contract is done right on one connection, and sent again with its key is done once. An
// operation that nobody says how to do right fails this.
func TestEveryWriteIsDoneOnce(t *testing.T) {
	t.Parallel()
	f := restored(t, "testdata/old/2026-11-29.pony")
	c := f.asOwner()
	tries := rightTries(t, c)
	_, writes := operations(t)
	doc, err := apigen.GetSpec()
	require.NoError(t, err)
	for _, op := range writes {
		keyed := honoursKeys(doc, op)
		switch {
		case strings.HasPrefix(op.id, "calc"): // held against the worked examples elsewhere
			continue
		case op.id == "signIn" || op.id == "signOut" || op.id == "setOwnSecret":
			continue // they write no record, or are held to the present secret
		case ofSetUp[op.id]:
			continue // held to the code that was printed, which is worth something once
		}
		t.Run(op.id, func(t *testing.T) {
			make, known := tries[op.id]
			require.True(t, known, "nobody says how %s %s is done right", op.method, op.path)
			one := make()
			send := func() answer {
				header := map[string]string{"Idempotency-Key": "key of " + op.id}
				body := one.body
				if one.raw != nil {
					header["Content-Type"] = "application/octet-stream"
					body = string(one.raw)
				}
				return c.call(op.method, one.path, body, header)
			}
			first := send()
			require.Less(t, first.status, 300, "%s %s: %.400s", op.method, one.path, first.body)
			if !keyed {
				return
			}
			before := rowsOf(t, f)
			again := send()
			assert.Equal(t, first.status, again.status, "%.400s", again.body)
			assert.Equal(t, before, rowsOf(t, f), "sent twice, done once")
			if one.raw == nil && one.body != nil && op.id != "tellShop" {
				other := c.call(op.method, one.path, one.body, nil) // without the key it is another, whatever comes of it
				assert.Less(t, other.status, 500, "%.400s", other.body)
			}
		})
	}
}

// ofSetUp are the operations that make a shop where there is none.
var ofSetUp = map[string]bool{"trySetUpCode": true, "setUpShop": true, "restoreShop": true}

// honoursKeys reports whether an operation says that it honours an Idempotency-Key. What writes must; what only
// reckons or tries need not.
func honoursKeys(doc *openapi3.T, op operation) bool {
	o := doc.Paths.Find(op.path).GetOperation(op.method)
	return slices.ContainsFunc(o.Parameters, func(p *openapi3.ParameterRef) bool { return p.Value.Name == "Idempotency-Key" })
}

// Writing without a key is only for what writes no record; the list is short and each says so.
func TestWritesHonourKeys(t *testing.T) {
	t.Parallel()
	doc, err := apigen.GetSpec()
	require.NoError(t, err)
	_, writes := operations(t)
	var without []string
	for _, op := range writes {
		if !honoursKeys(doc, op) && !strings.HasPrefix(op.id, "calc") && !ofSetUp[op.id] {
			without = append(without, op.id)
			if summary := doc.Paths.Find(op.path).GetOperation(op.method).Summary; op.method == http.MethodPost && !strings.Contains(summary, "writes nothing") {
				assert.Contains(t, []string{"readBench", "previewRules", "previewDue", "simulateReading", "readZero"}, op.id, "%s: %s", op.id, summary)
			}
		}
	}
	assert.Equal(t, []string{"offerPromise", "planCleaning", "previewDue", "previewRules", "readBench", "readZero", "setOwnSecret", "signIn", "signOut", "simulateReading", "sizeChain", "tryFloor", "wantedBy"}, without)
}

// rowsOf counts the rows of every table that a write may touch.
func rowsOf(t *testing.T, f *fixture) map[string]int64 {
	t.Helper()
	counts := map[string]int64{}
	for _, table := range []string{"ledger", "customers", "bikes", "jobs", "job_steps", "findings", "job_photos", "measurements", "stock_items", "materials", "material_uses", "baths", "bath_uses",
		"waste", "waits", "messages", "links", "owner_reports", "instruments", "ride_drafts", "idempotent_writes"} {
		var n int64
		require.NoError(t, f.db.Pool().QueryRow(context.Background(), "select count(*) from "+table).Scan(&n))
		counts[table] = n
	}
	return counts
}

// rightTries says how each write is done right in the restored shop. The order does not matter: each finds, or
// makes, what it needs.
func rightTries(t *testing.T, c *caller) map[string]func() try {
	made := 0
	fresh := func() string { made++; return fmt.Sprintf("Ottoline Brack %d", made) }
	customer := func() bikes.Customer {
		var out bikes.Customer
		c.must(http.StatusCreated, "POST", "/customers", map[string]any{"name": fresh(), "phone": "01632 960" + fmt.Sprint(100+made), "contact_way": "message", "consent": true}, &out)
		return out
	}
	kind := "everyday"
	bike := func() bikes.Bike {
		var out bikes.Bike
		facts := twelve()
		facts.WeeklyKM, facts.Brakes, facts.Kind, facts.Lubricant = ptr(120.0), "disc", kind, "wet-oil"
		c.must(http.StatusCreated, "POST", "/bikes", bikes.NewBike{CustomerID: customer().ID, Facts: facts}, &out)
		return out
	}
	person := func() people.StaffMember {
		var out people.StaffMember
		c.must(http.StatusCreated, "POST", "/staff", people.NewStaff{Name: fresh(), Role: record.RoleCounter, Secret: "7319"}, &out)
		return out
	}
	device := func() people.DeviceView { // on which somebody else is signed in
		m := person()
		c.fixture.caller().must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": m.ID, "pin": "7319", "device": m.Name}, nil)
		var all []people.DeviceView
		c.must(http.StatusOK, "GET", "/devices", nil, &all)
		return all[slices.IndexFunc(all, func(d people.DeviceView) bool { return d.Name == m.Name })]
	}
	intake := func() map[string]any {
		return map[string]any{"frame_grade": 1, "drivetrain_grade": 1, "lubricant_on": "oil", "lubricant_next": "oil", "complaints": []string{}, "has_joining_link": true}
	}
	job := func() jobs.Job {
		var out jobs.Job
		c.must(http.StatusCreated, "POST", "/bikes/"+bike().Tag+"/jobs", intake(), &out)
		return out
	}
	planned := func() jobs.Job {
		out := job()
		c.must(http.StatusOK, "PUT", "/jobs/"+out.ID.String()+"/plan", map[string]any{"version": out.Version}, &out)
		return out
	}
	handedBackAlmost := func() jobs.Job { return c.workOff(planned()) }
	ruler := func() uuid.UUID { return c.tool("ruler") }
	reading := func() map[string]any {
		return map[string]any{"instrument_id": ruler(), "entries": places("306.1 mm", "306.2 mm", "306.1 mm")}
	}
	picture := func() []byte {
		var out bytes.Buffer
		require.NoError(t, png.Encode(&out, image.NewGray(image.Rect(0, 0, 40+made, 30))))
		made++
		return out.Bytes()
	}
	instrument := func() measure.Instrument {
		var out measure.Instrument
		c.must(http.StatusCreated, "POST", "/instruments", map[string]any{"kind": "ruler", "facts": map[string]any{"name": "Rule of " + fresh(), "spreads": false}}, &out)
		return out
	}
	items := func(kind string) stock.StockItem {
		var out stock.StockItem
		facts := map[string]any{"name": kind + " of " + fresh(), "sprockets": 12, "quantity": 3, "low_mark": 1}
		if kind == "chain" {
			facts["box_links"] = 126
		}
		c.must(http.StatusCreated, "POST", "/stock", map[string]any{"kind": kind, "facts": facts}, &out)
		return out
	}
	material := func() stock.Material {
		var out stock.Material
		c.must(http.StatusCreated, "POST", "/materials", map[string]any{"kind": "oil", "facts": map[string]any{"name": "Oil of " + fresh(), "quantity": 50, "low_mark": 5, "card": map[string]any{}}}, &out)
		return out
	}
	tub := func() map[string]any {
		return map[string]any{"kind": "soak-tub", "facts": map[string]any{"name": "Tub of " + fresh(), "fluid": "degreaser", "volume_ml": 800, "clean_only": false}}
	}
	rules := func() rules.RulesView {
		var out rules.RulesView
		c.must(http.StatusOK, "GET", "/rules", nil, &out)
		return out
	}
	draft := func() contact.Message {
		tag := bike().Tag
		c.must(http.StatusCreated, "POST", "/bikes/"+tag+"/events", map[string]any{"event": "soaked-ride"}, nil)
		var out contact.Message
		c.must(http.StatusCreated, "POST", "/bikes/"+tag+"/draft", nil, &out)
		return out
	}
	link := func() contact.GivenLink {
		var out contact.GivenLink
		c.must(http.StatusCreated, "POST", "/links", map[string]any{"kind": "owner", "tag": bike().Tag}, &out)
		return out
	}
	report := func() string {
		l := link()
		token := strings.TrimPrefix(l.Path, "/o/")
		c.must(http.StatusCreated, "POST", "/owner-page/"+token, map[string]any{"event": "squeak"}, nil)
		var p contact.OwnerPage
		c.must(http.StatusOK, "GET", "/owner-page/"+token, nil, &p)
		var reports []contact.OwnerReportRow
		c.must(http.StatusOK, "GET", "/bikes/"+p.Tag+"/reports", nil, &reports)
		return reports[0].ID.String()
	}
	odometer := func() (string, string) {
		tag := bike().Tag
		var e measure.LedgerEntry
		c.must(http.StatusCreated, "POST", "/bikes/"+tag+"/odometer", map[string]any{"km": 100}, &e)
		return tag, e.ID.String()
	}
	asked := func() string {
		tag := bike().Tag
		a := c.call("POST", "/bikes/"+tag+"/rides?name=a.csv", "started_at,distance_km\n3/4/2026 08:30,12\n", map[string]string{"Content-Type": "application/octet-stream"})
		require.Equal(t, http.StatusCreated, a.status, "%s", a.body)
		var file bikes.RideFile
		require.NoError(t, json.Unmarshal(a.body, &file))
		require.NotNil(t, file.Draft)
		return file.Draft.String()
	}
	wait := func() string {
		var out jobs.WaitList
		c.must(http.StatusCreated, "POST", "/waits", map[string]any{"what": fresh(), "minutes": 5}, &out)
		i := slices.IndexFunc(out.Waits, func(w jobs.WaitView) bool { return w.What == fmt.Sprintf("Ottoline Brack %d", made) })
		return out.Waits[i].ID.String()
	}
	withChain := func() string {
		tag := bike().Tag
		c.must(http.StatusCreated, "POST", "/bikes/"+tag+"/chain", map[string]any{"what": "as it came"}, nil)
		return tag
	}
	body := func(path string, b any) try { return try{path: path, body: b} }
	return map[string]func() try{
		"addBike": func() try { return body("/bikes", bikes.NewBike{CustomerID: customer().ID, Facts: twelve()}) },
		"changeBike": func() try {
			b := bike()
			b.Facts.Colour = "claret"
			return body("/bikes/"+b.Tag, map[string]any{"version": b.Version, "customer_id": b.Customer.ID, "facts": b.Facts})
		},
		"archiveBike": func() try {
			b := bike()
			return body("/bikes/"+b.Tag+"/archived", map[string]any{"version": b.Version, "archived": true})
		},
		"setPhoto":    func() try { return try{path: "/bikes/" + bike().Tag + "/photo", raw: picture()} },
		"removePhoto": func() try { return try{path: "/bikes/" + bike().Tag + "/photo"} },
		"replaceChain": func() try {
			return body("/bikes/"+bike().Tag+"/replacement", map[string]any{"chain": map[string]any{"stock_item_id": items("chain").ID, "links": 114, "joint": "joining-link"},
				"joining_link": map[string]any{"stock_item_id": items("joining-link").ID}, "old_chain": "scrapped", "grease": "keep-inside",
				"checks": []string{"joint-seated", "joint-loaded", "no-stiff-link", "routing", "runs-free", "gears-indexed", "brakes-tested"}})
		},
		"openChain": func() try {
			return body("/bikes/"+withChain()+"/chain/opened", map[string]any{"why": "waxed", "joining_link": map[string]any{"stock_item_id": items("joining-link").ID}})
		},
		"planCleaning": func() try {
			return body("/bikes/"+bike().Tag+"/cleaning-plan", map[string]any{"frame_grade": 1, "drivetrain_grade": 2})
		},
		"openJob": func() try { return body("/bikes/"+bike().Tag+"/jobs", intake()) },
		"promiseJob": func() try {
			j := planned()
			return body("/jobs/"+j.ID.String()+"/promise", map[string]any{"version": j.Version, "promised_at": c.now.Add(26 * time.Hour)})
		},
		"addPerson": func() try {
			return body("/staff", people.NewStaff{Name: fresh(), Role: record.RoleCounter, Secret: "7319"})
		},
		"changePerson": func() try {
			m := person()
			return body("/staff/"+m.ID.String(), people.StaffChange{StaffFacts: people.StaffFacts{Name: m.Name, Role: record.RoleMechanic, State: people.Locked}, Version: m.Version})
		},
		"mergeCustomers": func() try {
			into, from := customer(), customer()
			return body("/customers/"+into.ID.String()+"/merge", map[string]any{"version": into.Version, "from": from.ID, "from_version": from.Version})
		},
		"goThroughSetUp": func() try { return try{path: "/settings/set-up/prices"} },
		"changePermissions": func() try {
			var table people.Permissions
			c.must(http.StatusOK, "GET", "/permissions", nil, &table)
			return body("/permissions", map[string]any{"version": table.Version, "rows": []people.PermissionTick{{Permission: people.Tell, Roles: []record.Role{record.RoleMechanic}}}})
		},
		"nameDevice": func() try { return body("/devices/"+device().ID.String(), map[string]any{"name": fresh()}) },
		"dropUnsent": func() try {
			return body("/unsent/dropped", map[string]any{"of": c.mira.ID, "what": []string{"Note: " + fresh()}})
		},
		"signOutDevice": func() try { return body("/devices/"+device().ID.String()+"/session", nil) },
		"noteAbsence": func() try {
			return body("/people/"+c.mira.ID.String()+"/absences", map[string]any{"from_at": c.now, "until_at": c.now.Add(time.Hour)})
		},
		"dropAbsence": func() try {
			var floor schedule.FloorView
			c.must(http.StatusCreated, "POST", "/people/"+c.mira.ID.String()+"/absences", map[string]any{"from_at": c.now.Add(2 * time.Hour), "until_at": c.now.Add(3 * time.Hour)}, &floor)
			i := slices.IndexFunc(floor.People, func(p schedule.FloorPerson) bool { return p.Person.ID == c.mira.ID })
			return body("/absences/"+floor.People[i].Away[0].ID.String(), nil)
		},
		"keepStepFor": func() try {
			j := planned()
			return body("/jobs/"+j.ID.String()+"/steps/"+j.StepList[0].Code+"/hands", map[string]any{"person": c.mira.ID})
		},
		"tryFloor": func() try {
			j := planned()
			return body("/floor/try", map[string]any{"job": j.ID, "promised_at": c.now.Add(26 * time.Hour)})
		},
		"wantedBy":     func() try { return body("/bikes/"+bike().Tag+"/wanted", intake()) },
		"offerPromise": func() try { return body("/bikes/"+bike().Tag+"/offer", intake()) },
		"changeIntake": func() try {
			j := job()
			a := intake()
			a["wants"] = "quiet"
			return body("/jobs/"+j.ID.String()+"/intake", map[string]any{"version": j.Version, "intake": a})
		},
		"planJob": func() try {
			j := job()
			return body("/jobs/"+j.ID.String()+"/plan", map[string]any{"version": j.Version})
		},
		"doStep": func() try {
			j := planned()
			return body("/jobs/"+j.ID.String()+"/steps/"+j.Current, map[string]any{"action": "begin"})
		},
		"doBlock": func() try {
			j := planned()
			return body("/jobs/"+j.ID.String()+"/blocks/"+j.Block, map[string]any{"action": "begin"})
		},
		"addFinding": func() try {
			return body("/jobs/"+planned().ID.String()+"/findings", map[string]any{"code": "cable-frayed", "place": "rear"})
		},
		"resolveFinding": func() try {
			j := planned()
			c.must(http.StatusCreated, "POST", "/jobs/"+j.ID.String()+"/findings", map[string]any{"code": "cable-frayed"}, &j)
			return body("/jobs/"+j.ID.String()+"/findings/"+j.Findings[0].ID.String(), map[string]any{"resolution": "fixed"})
		},
		"addNote": func() try {
			return body("/jobs/"+planned().ID.String()+"/notes", map[string]any{"text": "saddle is hers"})
		},
		"addJobPart": func() try {
			return body("/jobs/"+planned().ID.String()+"/parts", map[string]any{"what": "Pads", "count": 2, "price": 1500})
		},
		"addJobPhoto": func() try { return try{path: "/jobs/" + planned().ID.String() + "/photos", raw: picture()} },
		"handBack": func() try {
			j := handedBackAlmost()
			return body("/jobs/"+j.ID.String()+"/hand-back", map[string]any{"version": j.Version, "asked": true})
		},
		"askSignature": func() try {
			kind = "cargo"
			j := handedBackAlmost()
			kind = "everyday"
			return body("/jobs/"+j.ID.String()+"/signature", map[string]any{"version": j.Version})
		},
		"settlePayment": func() try {
			j := handedBackAlmost()
			c.must(http.StatusOK, "POST", "/jobs/"+j.ID.String()+"/hand-back", map[string]any{"version": j.Version, "asked": true}, &j)
			return body("/jobs/"+j.ID.String()+"/payment", map[string]any{"version": j.Version, "paid": true})
		},
		"countersign": func() try {
			_, err := c.shop.AddPerson(context.Background(), "Posy the Second", "apprentice", "8426")
			require.NoError(t, err)
			return try{path: "/measurements/" + c.as("Posy the Second", "8426").worn(bike().Tag).EntryID.String() + "/countersign"}
		},
		"cancelJob": func() try {
			j := planned()
			return body("/jobs/"+j.ID.String()+"/cancel", map[string]any{"version": j.Version, "reason": "the owner came by"})
		},
		"reopenJob": func() try {
			j := planned()
			c.must(http.StatusOK, "POST", "/jobs/"+j.ID.String()+"/cancel", map[string]any{"version": j.Version, "reason": "the wrong bike"}, &j)
			return body("/jobs/"+j.ID.String()+"/reopen", map[string]any{"version": j.Version})
		},
		"startWait": func() try { return body("/waits", map[string]any{"what": "glue", "minutes": 5}) },
		"doWait": func() try {
			return body("/waits/"+wait(), map[string]any{"action": "extend", "minutes": 5, "reason": "cold day"})
		},
		"addMaterial": func() try {
			return body("/materials", map[string]any{"kind": "oil", "facts": map[string]any{"name": fresh(), "quantity": 5, "low_mark": 1, "card": map[string]any{}}})
		},
		"changeMaterial": func() try {
			m := material()
			return body("/materials/"+m.ID.String(), map[string]any{"version": m.Version, "facts": map[string]any{"name": fresh(), "quantity": 7, "low_mark": 1, "card": map[string]any{}}})
		},
		"ranOut":  func() try { return try{path: "/materials/" + material().ID.String() + "/ran-out"} },
		"addBath": func() try { return body("/baths", tub()) },
		"doBath": func() try {
			var b stock.Bath
			c.must(http.StatusCreated, "POST", "/baths", tub(), &b)
			return body("/baths/"+b.ID.String(), map[string]any{"action": "renew"})
		},
		"noteWaste": func() try { return body("/waste", map[string]any{"kind": "rags", "amount": 1.5}) },
		"sizeChain": func() try { return body("/sizer", map[string]any{"tag": bike().Tag}) },
		"addStock": func() try {
			return body("/stock", map[string]any{"kind": "chain", "facts": map[string]any{"name": fresh(), "sprockets": 11, "quantity": 2, "low_mark": 1}})
		},
		"changeStock": func() try {
			s := items("chain")
			s.Facts.Quantity = 9
			return body("/stock/"+s.ID.String(), map[string]any{"version": s.Version, "facts": s.Facts})
		},
		"retireStock": func() try {
			s := items("chain")
			return body("/stock/"+s.ID.String()+"/retired", map[string]any{"version": s.Version, "retired": true})
		},
		"noteOdometer":      func() try { return body("/bikes/"+bike().Tag+"/odometer", map[string]any{"km": 1234}) },
		"fitChain":          func() try { return body("/bikes/"+bike().Tag+"/chain", map[string]any{"what": "as it came"}) },
		"recordMeasurement": func() try { return body("/bikes/"+bike().Tag+"/measurements", reading()) },
		"strikeOut": func() try {
			_, entry := odometer()
			return body("/ledger/"+entry+"/strike", map[string]any{"reason": "another bike"})
		},
		"setWay": func() try {
			m := person()
			c.must(http.StatusOK, "PUT", "/staff/"+m.ID.String(), people.StaffChange{StaffFacts: people.StaffFacts{Name: m.Name, Role: record.RoleApprentice, State: people.Here}, Version: m.Version}, &m)
			return body("/people/"+m.ID.String()+"/way", map[string]any{"way": "blocks"})
		},
		"addCustomer": func() try { return body("/customers", map[string]any{"name": fresh()}) },
		"changeCustomer": func() try {
			o := customer()
			return body("/customers/"+o.ID.String(), map[string]any{"version": o.Version, "facts": map[string]any{"name": fresh()}})
		},
		"archiveCustomer": func() try {
			o := customer()
			return body("/customers/"+o.ID.String()+"/archived", map[string]any{"version": o.Version, "archived": true})
		},
		"addInstrument": func() try {
			return body("/instruments", map[string]any{"kind": "ruler", "facts": map[string]any{"name": fresh(), "spreads": false}})
		},
		"changeInstrument": func() try {
			i := instrument()
			return body("/instruments/"+i.ID.String(), map[string]any{"version": i.Version, "facts": map[string]any{"name": fresh(), "spreads": false}})
		},
		"retireInstrument": func() try {
			i := instrument()
			return body("/instruments/"+i.ID.String()+"/retired", map[string]any{"version": i.Version, "retired": true})
		},
		"readZero": func() try {
			return body("/instruments/"+instrument().ID.String()+"/zero-reading", map[string]any{"text": "304.8 mm"})
		},
		"checkZero": func() try {
			return body("/instruments/"+instrument().ID.String()+"/zero-checks", map[string]any{"text": "304.8 mm"})
		},
		"changeRules": func() try {
			r := rules()
			r.Rules.WearPlaces = 4
			return body("/rules", map[string]any{"version": r.Version, "rules": r.Rules})
		},
		"previewRules": func() try { return body("/rules/preview", rules().Rules) },
		"previewDue":   func() try { return body("/rules/preview-due", rules().Rules) },
		"simulateReading": func() try {
			return body("/simulated-tool/readings", map[string]any{"kind": "caliper-inside", "worn_pct": 0.4})
		},
		"readBench": func() try { b := reading(); b["tag"] = bike().Tag; return body("/bench/read", b) },
		"doTask": func() try {
			return body("/bikes/"+bike().Tag+"/due/relubricate", map[string]any{"note": "at the door"})
		},
		"reportEvent": func() try { return body("/bikes/"+bike().Tag+"/events", map[string]any{"event": "squeak"}) },
		"importRides": func() try {
			return try{path: "/bikes/" + bike().Tag + "/rides?name=a.csv", raw: []byte("started_at,distance_km\n2026-05-01 08:30,12\n")}
		},
		"answerRides": func() try {
			return body("/ride-drafts/"+asked(), map[string]any{"answers": map[string]string{"date-order": "day-first"}})
		},
		"dropRides": func() try { return try{path: "/ride-drafts/" + asked()} },
		"takePassport": func() try {
			good, err := os.ReadFile("testdata/old/passport-1.json")
			require.NoError(t, err)
			return try{path: "/passports?customer=" + customer().ID.String(), raw: reissued(t, good)}
		},
		"eraseCustomer": func() try {
			o := customer()
			return body("/customers/"+o.ID.String()+"/erase", map[string]any{"version": o.Version})
		},
		"importTable":  func() try { return try{path: "/tables/customers?write=true", raw: []byte("name\n" + fresh() + "\n")} },
		"decideReport": func() try { return body("/owner-reports/"+report(), map[string]any{"confirm": true}) },
		"draftRecall": func() try {
			tag := bike().Tag
			c.must(http.StatusCreated, "POST", "/bikes/"+tag+"/events", map[string]any{"event": "soaked-ride"}, nil)
			return try{path: "/bikes/" + tag + "/draft"}
		},
		"doMessage": func() try {
			m := draft()
			return body("/messages/"+m.ID.String(), map[string]any{"action": "withdraw", "version": m.Version})
		},
		"replyToMessage": func() try {
			return body("/gateway/replies", map[string]any{"from": customer().Facts.Phone, "text": "STOP"})
		},
		"giveLink":     func() try { return body("/links", map[string]any{"kind": "owner", "tag": bike().Tag, "name": "Tag"}) },
		"withdrawLink": func() try { return try{path: "/links/" + link().ID.String()} },
		"tellShop": func() try {
			return body("/owner-page/"+strings.TrimPrefix(link().Path, "/o/"), map[string]any{"event": "squeak"})
		},
	}
}

// reissued is a passport of another bike with the same history.
func reissued(t *testing.T, passport []byte) []byte {
	t.Helper()
	var p map[string]any
	require.NoError(t, json.Unmarshal(passport, &p))
	text := string(passport)
	for _, e := range p["ledger"].([]any) {
		text = strings.ReplaceAll(text, e.(map[string]any)["id"].(string), uuid.NewString())
	}
	return []byte(strings.ReplaceAll(text, p["bike"].(map[string]any)["id"].(string), uuid.NewString()))
}

// workOff does every step of a job that can be done, leaves the others out, and lets its waits run: it can be handed back then.
func (c *caller) workOff(out jobs.Job) jobs.Job {
	c.t.Helper()
	for range 200 {
		if out.Current == "" {
			break
		}
		i := slices.IndexFunc(out.StepList, func(s jobs.StepView) bool { return s.Code == out.Current })
		action := map[string]any{"action": "done", "seen": out.StepList[i].Cautions}
		if !out.StepList[i].Gate {
			action = map[string]any{"action": "skip", "reason": "not today"}
		}
		a := c.call("POST", "/jobs/"+out.ID.String()+"/steps/"+out.Current, action, nil)
		if a.status == http.StatusConflict || a.status == http.StatusUnprocessableEntity {
			c.now = c.now.Add(2 * time.Hour)
			a = c.call("POST", "/jobs/"+out.ID.String()+"/steps/"+out.Current, map[string]any{"action": "done", "seen": out.StepList[i].Cautions}, nil)
		}
		require.Equal(c.t, http.StatusOK, a.status, "%s: %s", out.Current, a.body)
		require.NoError(c.t, json.Unmarshal(a.body, &out))
	}
	return out
}
