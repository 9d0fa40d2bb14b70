package httpapi_test

import (
	"net/http"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
)

func TestSignInSlowsAndLocks(t *testing.T) {
	t.Parallel()
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
	t.Parallel()
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
	t.Parallel()
	c := serve(t).signedIn()
	for _, header := range []map[string]string{{"Origin": "https://elsewhere.example"}, {"Sec-Fetch-Site": "cross-site"}} {
		a := c.call("POST", "/customers", record.CustomerFacts{Name: "Nobody"}, header)
		assert.Equal(t, http.StatusForbidden, a.status)
		assert.Equal(t, "cross-origin", a.Code)
	}
	var found bikes.CustomerPage
	c.must(http.StatusOK, "GET", "/customers", nil, &found)
	assert.Empty(t, found.Customers)
}

// colleague is somebody who works here and is signed in.
type colleague struct {
	*caller
	who record.Person
}

// staffed are colleagues of each role.
func staffed(t *testing.T, f *fixture) map[record.Role]colleague {
	t.Helper()
	callers := map[record.Role]colleague{}
	for i, role := range []record.Role{record.RoleOwner, record.RoleMechanic, record.RoleCounter, record.RoleApprentice} {
		secret := []string{"harbour wall at low water", "4669", "5772", "8426"}[i]
		p, err := f.shop.AddPerson(t.Context(), "Person "+secret, string(role), secret)
		require.NoError(t, err)
		callers[role] = colleague{f.caller(), p}
		callers[role].must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": p.ID, "pin": secret}, nil)
	}
	return callers
}

// openOperations are those that nobody must be signed in for, with why; whoever has a customer's secret link may do what is under it.
var openOperations = map[string]string{
	"listPeople": "who may sign in is asked before anybody is", "signIn": "signing in", "signOut": "signing out, also where it has ended",
	"getSetUp": "nobody works here yet", "trySetUpCode": "by the code that was printed", "setUpShop": "by the code that was printed", "restoreShop": "by the code that was printed",
}

// Who may do what is in one table: each operation of the contract names its row, or is done without being signed in for a
// reason. Each is tried as the four roles, by nobody, and by somebody who left while they were signed in: whoever may not is
// told so in words before anything is looked at. So are they after the shop's owner changed the table.
func TestRolesAsTheTableSays(t *testing.T) {
	t.Parallel()
	f := serve(t)
	doc, err := openapi3.NewLoader().LoadFromFile("../../api/openapi.yaml")
	require.NoError(t, err)
	callers := staffed(t, f)
	owner := callers[record.RoleOwner]
	rows := map[string]bool{}
	type op struct{ id, method, at string }
	var all []op
	for path, item := range doc.Paths.Map() {
		for method, o := range item.Operations() {
			if o.Security != nil && len(*o.Security) == 0 {
				assert.True(t, openOperations[o.OperationID] != "" || strings.Contains(path, "{token}"), "%s needs nobody signed in, and nobody says why", o.OperationID)
				continue
			}
			_, listed := people.Operations()[o.OperationID]
			if !assert.True(t, listed, "%s has no row", o.OperationID) {
				continue
			}
			rows[o.OperationID] = true
			at := strings.NewReplacer("{tag}", "B-0001-C").Replace(path)
			all = append(all, op{o.OperationID, method, regexp.MustCompile(`\{[a-z]+\}`).ReplaceAllString(at, uuid.NewString())})
		}
	}
	for operation := range people.Operations() {
		assert.True(t, rows[operation], "%s is nothing that can be done", operation)
	}
	asTheTableSays := func() (refused int) {
		var table people.Permissions
		owner.must(http.StatusOK, "GET", "/permissions", nil, &table)
		for _, o := range all {
			i := slices.IndexFunc(table.Rows, func(r people.PermissionRow) bool { return r.Permission == people.Operations()[o.id] })
			require.GreaterOrEqual(t, i, 0, o.id)
			for role, c := range callers {
				if slices.Contains(table.Rows[i].Roles, role) {
					if o.method != http.MethodGet && o.id != "setOwnSecret" { // reading is tried elsewhere, and takes its time
						a := c.call(o.method, o.at, "not even this is read", asBytes)
						assert.NotEqual(t, "not-allowed", a.Code, "%s by %s", o.id, role)
					}
					continue
				}
				refused++
				a := c.call(o.method, o.at, nil, nil)
				assert.Equal(t, []any{http.StatusForbidden, "not-allowed"}, []any{a.status, a.Code}, "%s by %s", o.id, role)
				assert.NotEmpty(t, a.Title)
				var session people.SessionView
				if refused%20 == 1 { // the page is told of it before, in the same words
					c.must(http.StatusOK, "GET", "/session", nil, &session)
					assert.Equal(t, a.Title, session.MayNot[o.id])
				}
			}
		}
		return refused
	}
	assert.Greater(t, asTheTableSays(), 40)

	// The shop's owner changes the table, within its bounds.
	change := func(version int, ticks ...people.PermissionTick) answer {
		return owner.call("PUT", "/permissions", map[string]any{"version": version, "rows": ticks}, nil)
	}
	roles := func(all ...record.Role) []record.Role { return append([]record.Role{}, all...) }
	for what, tick := range map[string]people.PermissionTick{
		"fixed":         {Permission: people.Release, Roles: roles(record.RoleMechanic, record.RoleApprentice)},
		"unknown-value": {Permission: "fly", Roles: roles(record.RoleMechanic)},
		"out-of-range":  {Permission: people.Count, Roles: roles(record.RoleCounter, record.RoleApprentice)},
	} {
		assert.Equal(t, "invalid-input", change(2, tick).Code, what)
	}
	require.Equal(t, http.StatusOK, change(2, people.PermissionTick{Permission: people.Count, Roles: roles(record.RoleMechanic, record.RoleApprentice)},
		people.PermissionTick{Permission: people.Settings, Roles: roles(record.RoleMechanic)}, people.PermissionTick{Permission: people.Record, Roles: roles(record.RoleMechanic, record.RoleCounter)}).status)
	assert.Equal(t, http.StatusConflict, change(2, people.PermissionTick{Permission: people.Tell, Roles: roles()}).status, "somebody else was quicker")
	asTheTableSays()

	// Nobody signed in; and somebody who left while they were.
	nobody := f.caller()
	gone := callers[record.RoleMechanic]
	var staff []people.StaffMember
	owner.must(http.StatusOK, "GET", "/staff", nil, &staff)
	i := slices.IndexFunc(staff, func(m people.StaffMember) bool { return m.ID == gone.who.ID })
	require.GreaterOrEqual(t, i, 0)
	owner.must(http.StatusOK, "PUT", "/staff/"+gone.who.ID.String(), people.StaffChange{StaffFacts: people.StaffFacts{Name: gone.who.Name, Role: record.RoleMechanic, State: people.Left}, Version: staff[i].Version}, nil)
	for _, o := range all {
		for who, c := range map[string]*caller{"nobody": nobody, "who left": gone.caller} {
			a := c.call(o.method, o.at, nil, nil)
			assert.Equal(t, []any{http.StatusUnauthorized, "not-signed-in"}, []any{a.status, a.Code}, "%s by %s", o.id, who)
		}
	}
}

// Some rows say yes to a part only: whose entry is voided and when, what of the settings is a mechanic's, and prices.
func TestWhatARowSaysYesToInPart(t *testing.T) {
	t.Parallel()
	f := serve(t)
	by := staffed(t, f)
	owner, mechanic, counter, apprentice := by[record.RoleOwner], by[record.RoleMechanic], by[record.RoleCounter], by[record.RoleApprentice]
	bike := f.signedIn().addBike("Ottoline Brack", twelve())
	noted := func(c colleague) string {
		var e struct{ ID string }
		c.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/odometer", map[string]any{"km": 1000.0}, &e)
		return e.ID
	}
	void := func(c colleague, entry string) answer {
		return c.call("POST", "/ledger/"+entry+"/strike", map[string]any{"reason": "read wrongly"}, nil)
	}
	allowed := func(want bool, a answer, what string) {
		t.Helper()
		if want {
			assert.Less(t, a.status, 300, "%s: %s", what, a.body)
			return
		}
		assert.Equal(t, []any{http.StatusForbidden, "not-allowed"}, []any{a.status, a.Code}, what)
	}
	allowed(true, void(owner, noted(counter)), "the owner voids any")
	allowed(true, void(mechanic, noted(mechanic)), "their own")
	allowed(true, void(mechanic, noted(apprentice)), "an apprentice's")
	allowed(false, void(mechanic, noted(counter)), "a mechanic, the counter's")
	allowed(true, void(counter, noted(counter)), "their own")
	allowed(false, void(counter, noted(apprentice)), "the counter, an apprentice's")
	allowed(true, void(apprentice, noted(apprentice)), "their own")
	allowed(false, void(apprentice, noted(mechanic)), "an apprentice, a mechanic's")
	old := noted(apprentice)
	f.now = f.now.Add(7 * time.Hour) // still signed in
	for f.now.Hour() != 1 {
		f.now = f.now.Add(time.Hour)
		apprentice.must(http.StatusOK, "GET", "/session", nil, nil)
	}
	allowed(false, void(apprentice, old), "an apprentice's of yesterday")
	mechanic.must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": mechanic.who.ID, "pin": "4669"}, nil)
	owner.must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": owner.who.ID, "pin": "harbour wall at low water"}, nil)

	var view struct {
		Version int
		Rules   map[string]any
	}
	mechanic.must(http.StatusOK, "GET", "/rules", nil, &view)
	set := func(c colleague) answer {
		return c.call("PUT", "/rules", map[string]any{"version": view.Version, "rules": view.Rules}, nil)
	}
	view.Rules["work"].(map[string]any)["minutes"] = map[string]int{"cover-brakes": 7}
	allowed(true, set(mechanic), "minutes are a mechanic's")
	view.Version++
	view.Rules["currency"] = "NZD"
	allowed(false, set(mechanic), "the currency is not")
	allowed(true, set(owner), "it is the owner's")

	facts := map[string]any{"name": "Chain, 12-speed", "sprockets": 12, "quantity": 3, "low_mark": 1, "box_links": 126}
	var item struct {
		ID      string
		Version int
	}
	mechanic.must(http.StatusCreated, "POST", "/stock", map[string]any{"kind": "chain", "facts": facts}, &item)
	facts["quantity"] = 2
	allowed(true, mechanic.call("PUT", "/stock/"+item.ID, map[string]any{"version": item.Version, "facts": facts}, nil), "counting")
	facts["cost"] = 3200
	allowed(false, mechanic.call("PUT", "/stock/"+item.ID, map[string]any{"version": item.Version + 1, "facts": facts}, nil), "a price")
	allowed(true, owner.call("PUT", "/stock/"+item.ID, map[string]any{"version": item.Version + 1, "facts": facts}, nil), "a price by the owner")
}

// People come, get another name, role or PIN, are locked out, leave and come back: whoever is not let in any more is signed out
// everywhere at once, and there is always an owner of the shop.
func TestPeopleComeAndGo(t *testing.T) {
	t.Parallel()
	f := serve(t)
	by := staffed(t, f)
	owner, mechanic := by[record.RoleOwner], by[record.RoleMechanic]
	for _, wrong := range []struct {
		n    people.NewStaff
		path string
	}{{people.NewStaff{Name: " ", Role: record.RoleCounter, Secret: "7319"}, "name"}, {people.NewStaff{Name: "Odalys Finch", Role: "captain", Secret: "7319"}, "role"},
		{people.NewStaff{Name: "Odalys Finch", Role: record.RoleCounter, Secret: "1234"}, "secret"}, {people.NewStaff{Name: "Odalys Finch", Role: record.RoleOwner, Secret: "7319"}, "secret"}} {
		a := owner.call("POST", "/staff", wrong.n, nil)
		assert.Contains(t, string(a.body), `"`+wrong.path+`"`, "%+v", wrong.n)
		assert.NotEqual(t, http.StatusCreated, a.status)
	}
	var finch people.StaffMember
	owner.must(http.StatusCreated, "POST", "/staff", people.NewStaff{Name: "Odalys Finch", Role: record.RoleCounter, Secret: "7319"}, &finch)
	assert.Equal(t, "name-taken", owner.call("POST", "/staff", people.NewStaff{Name: "odalys finch", Role: record.RoleCounter, Secret: "7319"}, nil).Code)
	signIn := func(secret string) (*caller, answer) {
		c := f.caller()
		return c, c.call("PUT", "/session", map[string]any{"person_id": finch.ID, "pin": secret}, nil)
	}
	hers, a := signIn("7319")
	require.Equal(t, http.StatusOK, a.status)
	change := func(c people.StaffChange) answer { return owner.call("PUT", "/staff/"+finch.ID.String(), c, nil) }
	facts := people.StaffFacts{Name: "Odalys Finch-Marsh", Role: record.RoleCounter, State: people.Here}
	require.Equal(t, http.StatusOK, change(people.StaffChange{StaffFacts: facts, Version: 1}).status)
	hers.must(http.StatusOK, "GET", "/session", nil, nil) // another name alone signs nobody out
	assert.Equal(t, "changed-meanwhile", change(people.StaffChange{StaffFacts: facts, Version: 1}).Code)
	version := 2
	for _, step := range []struct {
		what   string
		change people.StaffChange
		secret string
		in     bool // afterwards, with the secret
	}{
		{"another PIN", people.StaffChange{StaffFacts: facts, Secret: "9136"}, "9136", true},
		{"another role", people.StaffChange{StaffFacts: people.StaffFacts{Name: facts.Name, Role: record.RoleMechanic, State: people.Here}}, "9136", true},
		{"locked out", people.StaffChange{StaffFacts: people.StaffFacts{Name: facts.Name, Role: record.RoleMechanic, State: people.Locked}}, "9136", false},
		{"let in again", people.StaffChange{StaffFacts: people.StaffFacts{Name: facts.Name, Role: record.RoleMechanic, State: people.Here}}, "9136", true},
		{"left", people.StaffChange{StaffFacts: people.StaffFacts{Name: facts.Name, Role: record.RoleMechanic, State: people.Left}}, "9136", false},
		{"back as an owner", people.StaffChange{StaffFacts: people.StaffFacts{Name: facts.Name, Role: record.RoleOwner, State: people.Here}, Secret: "sluice gate at half tide"}, "sluice gate at half tide", true},
	} {
		step.change.Version = version
		a := change(step.change)
		require.Equal(t, http.StatusOK, a.status, "%s: %s", step.what, a.body)
		version++
		hers.must(http.StatusUnauthorized, "GET", "/session", nil, nil)
		c, a := signIn(step.secret)
		assert.Equal(t, step.in, a.status == http.StatusOK, step.what)
		if hers = c; !step.in {
			hers, _ = signIn("0000")
		}
	}
	// Of two owners one may go, of one none may; and a PIN is not enough for an owner.
	assert.Contains(t, string(owner.call("PUT", "/staff/"+mechanic.who.ID.String(), people.StaffChange{StaffFacts: people.StaffFacts{Name: mechanic.who.Name, Role: record.RoleOwner, State: people.Here}, Version: 1}, nil).body), `"secret"`)
	require.Equal(t, http.StatusOK, change(people.StaffChange{StaffFacts: people.StaffFacts{Name: facts.Name, Role: record.RoleOwner, State: people.Locked}, Version: version}).status)
	for _, gone := range []people.StaffFacts{{Name: owner.who.Name, Role: record.RoleOwner, State: people.Left}, {Name: owner.who.Name, Role: record.RoleOwner, State: people.Locked}} {
		assert.Equal(t, "last-owner", owner.call("PUT", "/staff/"+owner.who.ID.String(), people.StaffChange{StaffFacts: gone, Version: 1}, nil).Code)
	}

	// Everybody changes their own PIN with the present one, and stays signed in here alone.
	elsewhere := f.caller()
	elsewhere.must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": mechanic.who.ID, "pin": "4669"}, nil)
	own := func(now, then string) answer {
		return mechanic.call("PUT", "/session/secret", map[string]any{"now": now, "then": then}, nil)
	}
	assert.Contains(t, string(own("0000", "2846").body), `"now"`)
	assert.Contains(t, string(own("4669", "1111").body), `"secret"`)
	assert.Equal(t, http.StatusNoContent, own("4669", "2846").status)
	mechanic.must(http.StatusOK, "GET", "/session", nil, nil)
	elsewhere.must(http.StatusUnauthorized, "GET", "/session", nil, nil)

	// A device gets a name, and is signed out from afar.
	var devices []people.DeviceView
	owner.must(http.StatusOK, "GET", "/devices", nil, &devices)
	i := slices.IndexFunc(devices, func(d people.DeviceView) bool { return d.SignedIn == mechanic.who.Name })
	require.GreaterOrEqual(t, i, 0)
	owner.must(http.StatusOK, "PUT", "/devices/"+devices[i].ID.String(), map[string]any{"name": "Stand by the door"}, &devices)
	i = slices.IndexFunc(devices, func(d people.DeviceView) bool { return d.Name == "Stand by the door" })
	require.GreaterOrEqual(t, i, 0)
	owner.must(http.StatusOK, "DELETE", "/devices/"+devices[i].ID.String()+"/session", nil, nil)
	mechanic.must(http.StatusUnauthorized, "GET", "/session", nil, nil)
	assert.Equal(t, "device-not-found", owner.call("DELETE", "/devices/"+uuid.NewString()+"/session", nil, nil).Code)
}
