package httpapi_test

import (
	"net/http"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/contact"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/stock"
)

// waits returns what waits of one kind, as a caller is told.
func (c *caller) waits(kind string) (items []contact.WaitingItem) {
	c.t.Helper()
	var all contact.Waiting
	c.must(http.StatusOK, "GET", "/waiting", nil, &all)
	mine := 0
	for _, i := range all.Items {
		if i.Mine && i.Kind != "unpaid" {
			mine++
		}
		if i.Kind == kind {
			items = append(items, i)
		}
	}
	assert.Equal(c.t, mine, all.Mine)
	return items
}

// An apprentice's verdict that asks for another chain waits for a mechanic: until one signs, no chain is replaced by the
// apprentice and no customer is told. A mechanic who goes on, signs by that; a voided reading waits for nobody.
func TestVerdictsAreCountersigned(t *testing.T) {
	t.Parallel()
	f := serve(t)
	people := staffed(t, f)
	posy, mechanic, desk := people[record.RoleApprentice], people[record.RoleMechanic], people[record.RoleCounter]
	var owner bikes.Customer
	desk.must(http.StatusCreated, "POST", "/customers", map[string]any{"name": "Ottoline Brack", "phone": "0555 014 121", "contact_way": "message", "consent": true}, &owner)
	var bike bikes.Bike
	desk.must(http.StatusCreated, "POST", "/bikes", bikes.NewBike{CustomerID: owner.ID, Facts: twelve()}, &bike)

	m := posy.worn(bike.Tag)
	assert.True(t, m.Unsigned)
	items := mechanic.waits("verdict")
	require.Len(t, items, 1)
	assert.Equal(t, []any{bike.Tag, "Ottoline Brack", posy.who.Name, true}, []any{items[0].Tag, items[0].Customer, items[0].By, items[0].Mine})
	assert.False(t, posy.waits("verdict")[0].Mine)
	replace := func(by colleague) answer {
		var plan bikes.ReplacementPlan
		by.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/replacement", nil, &plan)
		return by.call("POST", "/bikes/"+bike.Tag+"/replacement", map[string]any{"chain": map[string]any{"what": "twelve-speed", "links": 114, "joint": "joining-link"},
			"joining_link": map[string]any{"what": "twelve-speed"}, "old_chain": "scrapped", "grease": "keep-inside", "ride_test": "no-skip", "checks": plan.Checks}, nil)
	}
	refused := replace(posy)
	assert.Equal(t, "countersign-first", refused.Code, "%s", refused.body)
	assert.Equal(t, "countersign-first", desk.call("POST", "/bikes/"+bike.Tag+"/draft", nil, nil).Code)

	at := "/measurements/" + m.EntryID.String() + "/countersign"
	assert.Equal(t, http.StatusForbidden, posy.call("POST", at, nil, nil).status)
	assert.Equal(t, http.StatusForbidden, desk.call("POST", at, nil, nil).status)
	var signed measure.Measurement
	mechanic.must(http.StatusOK, "POST", at, nil, &signed)
	assert.False(t, signed.Unsigned)
	assert.Empty(t, mechanic.waits("verdict"))
	assert.Equal(t, "not-open", mechanic.must(http.StatusConflict, "POST", at, nil, nil).Code)
	var page measure.LedgerPage
	mechanic.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/ledger", nil, &page)
	assert.Equal(t, "countersigned", page.Entries[0].Kind)

	again := posy.worn(bike.Tag)
	require.Len(t, mechanic.waits("verdict"), 1)
	mechanic.must(http.StatusCreated, "POST", "/ledger/"+again.EntryID.String()+"/strike", map[string]any{"reason": "read at the guide"}, nil)
	assert.Empty(t, mechanic.waits("verdict"))

	posy.worn(bike.Tag)
	assert.Equal(t, "countersign-first", posy.call("POST", "/bikes/"+bike.Tag+"/chain", map[string]any{"what": "the customer's"}, nil).Code)
	done := replace(mechanic)
	assert.Equal(t, http.StatusCreated, done.status, "%s", done.body)
	assert.Empty(t, mechanic.waits("verdict"), "whoever goes on signs")

	f.now = f.now.Add(time.Hour)
	posy.worn(bike.Tag)
	f.now = f.now.Add(time.Hour)
	mechanic.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/chain", map[string]any{"what": "the customer's own, at home"}, nil)
	assert.Empty(t, mechanic.waits("verdict"), "that chain is off")
	f.now = f.now.Add(time.Hour)
	odd, err := f.shop.Verify(t.Context())
	require.NoError(t, err)
	assert.Empty(t, odd)
}

// What an apprentice hands back waits for a mechanic's signature, with the PIN at once or from the mechanic's own list; what it came
// to is paid then or later, and until it is, it waits.
func TestReleasesAndMoney(t *testing.T) {
	t.Parallel()
	f := serve(t)
	people := staffed(t, f)
	posy, mechanic, desk := people[record.RoleApprentice], people[record.RoleMechanic], people[record.RoleCounter]
	people[record.RoleOwner].must(http.StatusOK, "GET", "/rules", nil, nil)
	bike := mechanic.addBike("Ottoline Brack", twelve())
	var job jobs.Job
	posy.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/jobs", map[string]any{"frame_grade": 1, "drivetrain_grade": 1, "lubricant_on": "oil", "complaints": []string{}, "has_joining_link": true}, &job)
	posy.must(http.StatusOK, "PUT", "/jobs/"+job.ID.String()+"/plan", map[string]any{"version": job.Version}, &job)
	at := "/jobs/" + job.ID.String()
	assert.Equal(t, "not-ready", posy.must(http.StatusConflict, "POST", at+"/signature", map[string]any{"version": job.Version}, nil).Code)
	job = posy.workOff(job)
	posy.must(http.StatusConflict, "POST", at+"/hand-back", map[string]any{"version": job.Version}, nil)
	assert.Equal(t, "signs-alone", mechanic.must(http.StatusConflict, "POST", at+"/signature", map[string]any{"version": job.Version}, nil).Code)
	posy.must(http.StatusOK, "POST", at+"/signature", map[string]any{"version": job.Version}, &job)
	assert.Equal(t, posy.who.Name, job.Asked.By)

	// What is found since is not what she signed for: she asks again.
	f.now = f.now.Add(time.Minute)
	mechanic.must(http.StatusCreated, "POST", at+"/findings", map[string]any{"code": "other", "note": "a scratch on the top tube", "severity": "note"}, &job)
	assert.Empty(t, mechanic.waits("release"))
	var changed jobs.Job
	posy.must(http.StatusOK, "GET", at, nil, &changed)
	assert.Nil(t, changed.Asked)
	f.now = f.now.Add(time.Minute)
	posy.must(http.StatusOK, "POST", at+"/signature", map[string]any{"version": changed.Version}, &job)
	assert.True(t, job.Second, "not by posy alone")
	require.Len(t, mechanic.waits("release"), 1)
	mechanic.must(http.StatusOK, "GET", at, nil, &job)
	assert.False(t, job.Second)
	mechanic.must(http.StatusOK, "POST", at+"/hand-back", map[string]any{"version": job.Version}, &job)
	assert.Equal(t, []string{posy.who.Name, mechanic.who.Name}, []string{job.ClosedBy, job.SecondBy})
	assert.Empty(t, mechanic.waits("release"))

	if assert.NotNil(t, job.Bill) && job.Bill.Total > 0 {
		require.True(t, job.Unpaid)
		items := desk.waits("unpaid")
		require.Len(t, items, 1)
		assert.Equal(t, job.Bill.Total, *items[0].Amount)
		assert.Equal(t, http.StatusForbidden, posy.call("PUT", at+"/payment", map[string]any{"version": job.Version, "paid": true}, nil).status)
		desk.must(http.StatusOK, "PUT", at+"/payment", map[string]any{"version": job.Version, "paid": true}, &job)
		assert.Equal(t, desk.who.Name, job.Paid.By)
		assert.Empty(t, desk.waits("unpaid"))
		desk.must(http.StatusConflict, "PUT", at+"/payment", map[string]any{"version": job.Version - 1, "paid": false}, nil)
		desk.must(http.StatusOK, "PUT", at+"/payment", map[string]any{"version": job.Version, "paid": false}, &job)
		assert.Len(t, desk.waits("unpaid"), 1)
	}
}

// When, how and to whom a customer agreed is kept with them; two who are one become one, with all their bikes, jobs and messages;
// and whoever is erased is erased as both.
func TestCustomersWhole(t *testing.T) {
	t.Parallel()
	f := serve(t)
	people := staffed(t, f)
	desk, owner := people[record.RoleCounter], people[record.RoleOwner]
	add := func(facts map[string]any) (c bikes.Customer) {
		desk.must(http.StatusCreated, "POST", "/customers", facts, &c)
		return c
	}
	stays := add(map[string]any{"name": "Ottoline Brack", "phone": "0555 014 121", "contact_way": "message", "consent": true, "consent_how": "phone", "notes": "rings twice"})
	require.NotNil(t, stays.Consented)
	assert.Equal(t, desk.who.Name, stays.Consented.By)
	assert.Equal(t, f.now, stays.Consented.At)
	goes := add(map[string]any{"name": "O. Brack", "email": "brack@example.com", "consent": true, "consent_how": "in-person", "notes": "the baker's"})
	var kept, other bikes.Bike
	desk.must(http.StatusCreated, "POST", "/bikes", bikes.NewBike{CustomerID: stays.ID, Facts: twelve()}, &kept)
	desk.must(http.StatusCreated, "POST", "/bikes", bikes.NewBike{CustomerID: goes.ID, Facts: twelve()}, &other)
	var job jobs.Job
	desk.must(http.StatusCreated, "POST", "/bikes/"+other.Tag+"/jobs", map[string]any{"frame_grade": 1, "drivetrain_grade": 1, "lubricant_on": "oil", "complaints": []string{}}, &job)

	at := "/customers/" + stays.ID.String()
	merge := map[string]any{"version": stays.Version, "from": goes.ID, "from_version": goes.Version}
	assert.Equal(t, http.StatusUnprocessableEntity, desk.call("POST", at+"/merge", map[string]any{"version": 1, "from": stays.ID, "from_version": 1}, nil).status)
	assert.Equal(t, http.StatusConflict, desk.call("POST", at+"/merge", map[string]any{"version": 9, "from": goes.ID, "from_version": goes.Version}, nil).status)
	assert.Equal(t, http.StatusForbidden, people[record.RoleApprentice].call("POST", at+"/merge", merge, nil).status)
	var one bikes.Customer
	desk.must(http.StatusOK, "POST", at+"/merge", merge, &one)
	assert.Equal(t, 2, one.Bikes)
	assert.Equal(t, record.CustomerFacts{Name: "Ottoline Brack", Phone: "0555 014 121", Email: "brack@example.com", ContactWay: "message", Consent: true, ConsentHow: "phone", Notes: "rings twice\nthe baker's"}, one.Facts)
	var gone bikes.CustomerWithBikes
	desk.must(http.StatusOK, "GET", "/customers/"+goes.ID.String(), nil, &gone)
	assert.Equal(t, stays.ID, *gone.Customer.MergedInto)
	assert.Equal(t, record.CustomerFacts{Name: "O. Brack"}, gone.Customer.Facts)
	assert.Equal(t, "merged", desk.must(http.StatusConflict, "POST", at+"/merge", map[string]any{"version": one.Version, "from": goes.ID, "from_version": gone.Customer.Version}, nil).Code)
	var list bikes.CustomerPage
	desk.must(http.StatusOK, "GET", "/customers?archived=true", nil, &list)
	assert.Empty(t, list.Customers, "who was entered twice stands nowhere")
	var history contact.CustomerHistory
	desk.must(http.StatusOK, "GET", at+"/history", nil, &history)
	require.Len(t, history.Jobs, 1)
	assert.Equal(t, other.Tag, history.Jobs[0].Tag)
	odd, err := f.shop.Verify(t.Context())
	require.NoError(t, err)
	assert.Empty(t, odd)

	var erased bikes.Customer
	owner.must(http.StatusCreated, "POST", at+"/erase", map[string]any{"version": one.Version, "photos": false}, &erased)
	assert.Nil(t, erased.Consented)
	desk.must(http.StatusOK, "GET", "/customers/"+goes.ID.String(), nil, &gone)
	assert.Equal(t, "Erased owner", gone.Customer.Facts.Name)
}

// A bottle that is empty during a job is noted by whoever holds it: the job says what the shelf falls short of, and it stands on
// the list of what to order.
func TestRanOutDuringAJob(t *testing.T) {
	t.Parallel()
	f := serve(t)
	people := staffed(t, f)
	posy, mechanic := people[record.RoleApprentice], people[record.RoleMechanic]
	var bottle stock.Material
	mechanic.must(http.StatusCreated, "POST", "/materials", map[string]any{"kind": "degreaser", "facts": map[string]any{"name": "Citrus degreaser", "quantity": 900, "low_mark": 100, "card": map[string]any{}}}, &bottle)
	bike := mechanic.addBike("Ottoline Brack", twelve())
	var job jobs.Job
	mechanic.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/jobs", map[string]any{"frame_grade": 2, "drivetrain_grade": 2, "lubricant_on": "oil", "complaints": []string{}, "has_joining_link": true}, &job)
	mechanic.must(http.StatusOK, "PUT", "/jobs/"+job.ID.String()+"/plan", map[string]any{"version": job.Version}, &job)
	of := func(j jobs.Job) jobs.OnShelf {
		i := slices.IndexFunc(j.Shelf, func(o jobs.OnShelf) bool { return o.Material == "degreaser" })
		require.GreaterOrEqual(t, i, 0, "the job takes degreaser")
		return j.Shelf[i]
	}
	assert.Equal(t, []any{900.0, true}, []any{of(job).Has, of(job).Needs > 0})
	at := "/materials/" + bottle.ID.String() + "/ran-out"
	assert.Equal(t, http.StatusForbidden, people[record.RoleCounter].call("POST", at, nil, nil).status)
	posy.must(http.StatusOK, "POST", at, nil, &bottle)
	assert.True(t, bottle.Low)
	posy.must(http.StatusOK, "GET", "/jobs/"+job.ID.String(), nil, &job)
	assert.Zero(t, of(job).Has)
	job = mechanic.workOff(job)
	assert.Empty(t, job.Shelf, "nothing is taken any more")
}
