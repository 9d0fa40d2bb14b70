package httpapi_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strconv"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/outside"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// The rules, the tools and the costs over HTTP: every answer on the way is held against the contract.
func TestRulesToolsAndCosts(t *testing.T) {
	t.Parallel()
	f := serve(t)
	c := f.signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	at := "/bikes/" + bike.Tag
	c.must(http.StatusCreated, "POST", at+"/chain", map[string]any{"odometer_km": 1200, "what": "twelve-speed"}, nil)
	c.must(http.StatusCreated, "POST", at+"/measurements", measure.NewMeasurement{InstrumentID: c.tool("gauge-percent"), Entries: places("0.6")}, nil)

	var v rules.RulesView
	c.must(http.StatusOK, "GET", "/rules", nil, &v)
	assert.Len(t, v.Rules.Classes, 3)
	assert.Len(t, v.Schools, 4)
	draft := v.Rules
	draft.WearSchool = "run-out"
	var p measure.RulesPreview
	c.must(http.StatusOK, "POST", "/rules/preview", draft, &p)
	require.Len(t, p.Changed, 1)
	assert.Equal(t, "ok", p.Changed[0].To)

	var costs bikes.BikeCosts
	c.must(http.StatusOK, "GET", at+"/costs", nil, &costs)
	assert.Equal(t, []string{"prices"}, costs.Missing)
	draft.Factors.Wet = 99
	a := c.call("PUT", "/rules", map[string]any{"version": v.Version, "rules": draft}, nil)
	assert.Equal(t, http.StatusUnprocessableEntity, a.status)
	assert.Equal(t, "rules.factors.wet", a.Fields[0].Path)
	draft.Factors.Wet = 2.5
	price := 4200
	for i := range draft.Classes {
		k := &draft.Classes[i]
		k.Chain, k.Sprockets, k.Rings, k.LabourChain, k.LabourSprockets, k.LabourRings = &price, &price, &price, &price, &price, &price
	}
	c.must(http.StatusOK, "PUT", "/rules", map[string]any{"version": v.Version, "rules": draft}, &v)
	assert.Equal(t, "Mira Oxenholt", v.ChangedBy)
	a = c.must(http.StatusConflict, "PUT", "/rules", map[string]any{"version": 1, "rules": draft}, nil)
	assert.Contains(t, a.Theirs, "rules")
	var session people.SessionView
	c.must(http.StatusOK, "GET", "/session", nil, &session)
	assert.Equal(t, "run-out", session.Shop.WearSchool, "every screen knows")
	var now bikes.Bike
	c.must(http.StatusOK, "GET", at, nil, &now)
	assert.Equal(t, []string{"ok", "replace"}, []string{now.Last.Wear.Verdict, now.Last.RecordedVerdict})
	c.must(http.StatusOK, "GET", at+"/costs", nil, &costs)
	assert.Len(t, costs.Strategies, 3)
	assert.Equal(t, 1, costs.Readings)

	key := map[string]string{"Idempotency-Key": "add-a-gauge-1"}
	add := map[string]any{"kind": "gauge-dropin", "facts": map[string]any{"name": "Blue gauge", "spreads": true, "marks_pct": []float64{0.5, 1}}}
	first := c.call("POST", "/instruments", add, key)
	require.Equal(t, http.StatusCreated, first.status, "%s", first.body)
	assert.JSONEq(t, string(first.body), string(c.call("POST", "/instruments", add, key).body), "added once")
	gauge := "/instruments/" + c.tool("gauge-percent").String()
	var understood measure.ZeroUnderstood
	c.must(http.StatusOK, "POST", gauge+"/zero-reading", map[string]any{"text": "0.1"}, &understood)
	assert.InDelta(t, 0.1, understood.OffsetPct, 1e-12)
	assert.Equal(t, "text", c.call("POST", gauge+"/zero-reading", map[string]any{"text": "x"}, nil).Fields[0].Path)
	var tool measure.Instrument
	c.must(http.StatusCreated, "POST", gauge+"/zero-checks", map[string]any{"text": "0.1"}, &tool)
	c.must(http.StatusOK, "PUT", gauge, map[string]any{"version": tool.Version, "facts": map[string]any{"name": "Percent gauge", "spreads": false}}, &tool)
	a = c.must(http.StatusConflict, "PUT", gauge+"/retired", map[string]any{"version": 1, "retired": true}, nil)
	assert.NotNil(t, a.Theirs)
	c.must(http.StatusOK, "PUT", gauge+"/retired", map[string]any{"version": tool.Version, "retired": true}, &tool)
	var view measure.InstrumentView
	c.must(http.StatusOK, "GET", gauge, nil, &view)
	assert.Len(t, view.History, 3)
	var retired []measure.Instrument
	c.must(http.StatusOK, "GET", "/instruments?retired=true", nil, &retired)
	assert.Len(t, retired, 1)

	c.must(http.StatusCreated, "POST", at+"/odometer", map[string]any{"km": 1300, "mix": map[string]float64{"fair": 0, "dusty": 0, "wet": 1, "mud": 0, "salt": 0}}, nil)
	var w bikes.WearTrack
	c.must(http.StatusOK, "GET", at+"/wear-track", nil, &w)
	assert.InDelta(t, 250, w.Segments[0].HardKM, 1e-9, "all of it wet, by the shop's own factor")
	assert.Equal(t, "twelve-speed", w.Chains[0].What)
}

// The simulated tool is only there where it was plugged in, and says what it would type.
func TestSimulatedTool(t *testing.T) {
	t.Parallel()
	f := serve(t)
	c := f.signedIn()
	body := map[string]any{"kind": "gauge-percent", "worn_pct": 0.6}
	assert.Equal(t, "no-simulated-tool", c.must(http.StatusNotFound, "POST", "/simulated-tool/readings", body, nil).Code)
	f.shop.PlugIn(outside.NewTool(11))
	var said struct{ Text string }
	c.must(http.StatusOK, "POST", "/simulated-tool/readings", body, &said)
	v, err := strconv.ParseFloat(said.Text, 64)
	require.NoError(t, err)
	assert.InDelta(t, 0.6, v, 0.4)
	assert.Equal(t, http.StatusUnprocessableEntity, c.call("POST", "/simulated-tool/readings", map[string]any{"kind": "ruler", "worn_pct": 0.6}, nil).status)
}

// Sizing, replacing and the shelf over HTTP: every answer on the way is held against the contract.
func TestSizingReplacingAndStock(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	at := "/bikes/" + bike.Tag
	c.must(http.StatusCreated, "POST", at+"/chain", map[string]any{"odometer_km": 1200}, nil)
	c.must(http.StatusCreated, "POST", at+"/measurements", measure.NewMeasurement{InstrumentID: c.tool("gauge-percent"), Entries: places("0.6")}, nil)

	var a bikes.SizerAnswer
	c.must(http.StatusOK, "POST", "/sizer", map[string]any{"kind": "derailleur"}, &a)
	assert.Contains(t, a.Missing, "rings")
	c.must(http.StatusOK, "POST", "/sizer", map[string]any{"kind": "derailleur", "rings": []int{32}, "sprockets": []int{10, 52}, "chainstay_mm": 440, "cage_mm": 93, "maker_links": 110, "box_links": 118}, &a)
	assert.Equal(t, "maker-too-short", a.Length.Warnings[0].Code, "it does not reach round 111.6 links")
	c.must(http.StatusOK, "POST", "/sizer", map[string]any{"kind": "single-speed", "rings": []int{46}, "sprockets": []int{17}, "chainstay_mm": 405}, &a)
	c.must(http.StatusOK, "POST", "/sizer", map[string]any{"kind": "single-speed", "rings": []int{46}, "sprockets": []int{17}, "chainstay_mm": 405, "slot_mm": 20}, &a)

	var chain, link stock.StockItem
	c.must(http.StatusCreated, "POST", "/stock", map[string]any{"kind": "chain", "facts": map[string]any{"name": "Box", "sprockets": 12, "quantity": 1, "low_mark": 1, "box_links": 116}}, &chain)
	c.must(http.StatusCreated, "POST", "/stock", map[string]any{"kind": "joining-link", "facts": map[string]any{"name": "Links", "sprockets": 12, "quantity": 2, "low_mark": 1}}, &link)
	var needs []due.StockNeed
	c.must(http.StatusOK, "GET", "/stock/needs", nil, &needs)
	require.Len(t, needs, 1)
	var cleaning jobs.CleaningPlan
	c.must(http.StatusOK, "POST", at+"/cleaning-plan", map[string]any{"frame_grade": 2, "drivetrain_grade": 3}, &cleaning)
	assert.Equal(t, "wipe", cleaning.Choice.ChainRoute, "a chain at its limit is not worth more")
	c.must(http.StatusUnprocessableEntity, "POST", at+"/cleaning-plan", map[string]any{"frame_grade": 2, "drivetrain_grade": 9}, nil)
	var plan bikes.ReplacementPlan
	c.must(http.StatusOK, "GET", at+"/replacement", nil, &plan)
	job := map[string]any{"chain": map[string]any{"stock_item_id": chain.ID, "links": 114, "joint": "joining-link"}, "joining_link": map[string]any{"stock_item_id": link.ID},
		"old_chain": "kept", "grease": "keep-inside", "checks": plan.Checks[1:], "ride_test": "no-skip"}
	refused := c.call("POST", at+"/replacement", job, nil)
	assert.Equal(t, "checks-open", refused.Fields[0].Code)
	job["checks"] = plan.Checks
	c.must(http.StatusCreated, "POST", at+"/replacement", job, nil)
	c.must(http.StatusCreated, "POST", at+"/chain/opened", map[string]any{"why": "soak", "joining_link": map[string]any{"stock_item_id": link.ID}}, nil)
	assert.Equal(t, "link-spent", c.call("POST", at+"/chain/opened", map[string]any{"joining_link": map[string]any{"reuse": true, "sound": true}}, nil).Fields[0].Code)
	var w bikes.WearTrack
	c.must(http.StatusOK, "GET", at+"/wear-track", nil, &w)
	assert.Equal(t, "kept", w.Parts.Chains[0].State)
	c.must(http.StatusOK, "GET", at+"/ledger", nil, nil)
	var items []stock.StockItem
	c.must(http.StatusOK, "GET", "/stock", nil, &items)
	require.Len(t, items, 2)
	f := items[0].Facts
	f.Quantity = 5
	c.must(http.StatusConflict, "PUT", "/stock/"+chain.ID.String(), map[string]any{"version": chain.Version, "facts": f}, nil)
	c.must(http.StatusOK, "PUT", "/stock/"+chain.ID.String(), map[string]any{"version": items[0].Version, "facts": f}, &chain)
	c.must(http.StatusOK, "PUT", "/stock/"+chain.ID.String()+"/retired", map[string]any{"version": chain.Version, "retired": true}, nil)
	c.must(http.StatusOK, "GET", "/stock?retired=true", nil, &items)
	assert.Len(t, items, 1)
}

// Every change of a setting is told with what it was before: rules, also where an entry of an older version says it not;
// who may do what; and people and devices, to whoever may see those.
func TestWhatSettingsWereBefore(t *testing.T) {
	t.Parallel()
	f := serve(t)
	owner := f.asOwner()
	var v rules.RulesView
	set := func(change func(r *rules.Rules)) {
		owner.must(http.StatusOK, "GET", "/rules", nil, &v)
		change(&v.Rules)
		owner.must(http.StatusOK, "PUT", "/rules", map[string]any{"version": v.Version, "rules": v.Rules}, nil)
	}
	owner.must(http.StatusOK, "GET", "/rules", nil, &v)
	v.Rules.Work.LabourHour = 6100
	older, err := json.Marshal(map[string]any{"changed": []string{"work"}, "rules": v.Rules}) // as older versions kept it
	require.NoError(t, err)
	require.NoError(t, f.db.Write(t.Context(), func(ctx context.Context, tx store.Tx) error {
		e := store.Entry{ID: uuid.New(), Kind: record.KindRulesChanged, HappenedAt: f.now, WrittenAt: f.now, PersonID: f.mira.ID, Device: "stand 1", Body: older}
		return errors.Join(tx.Append(ctx, &e, "{}"), func() error {
			e.ID, e.Body = uuid.New(), bytes.Replace(older, []byte("6100"), []byte("6150"), 1)
			return tx.Append(ctx, &e, "{}")
		}())
	}))
	set(func(r *rules.Rules) { r.Work.LabourHour, r.Work.Minutes = 6100, map[string]int{"index": 12} })
	set(func(r *rules.Rules) {
		r.Work.LabourHour, r.Work.Minutes = 6250, map[string]int{}
		r.Floor.Hours["sunday"] = []store.Stretch{{From: "09:00", Until: "12:00"}}
		r.Floor.People = map[string]store.FloorPerson{f.mira.ID.String(): {Skills: []string{"wash"}}}
	})
	owner.must(http.StatusOK, "PUT", "/permissions", map[string]any{"version": 2, "rows": []people.PermissionTick{{Permission: people.Count, Roles: []record.Role{"mechanic"}}}}, nil)
	owner.must(http.StatusOK, "PUT", "/staff/"+f.mira.ID.String(), map[string]any{"version": 1, "name": "Mira Oxenholt-Marsh", "role": "mechanic", "state": "here", "secret": "482913"}, nil)

	var page rules.SettingChanges
	owner.must(http.StatusOK, "GET", "/settings/changes?limit=3", nil, &page)
	require.Len(t, page.Changes, 3)
	person, table, second := page.Changes[0], page.Changes[1], page.Changes[2]
	assert.Equal(t, "Mira Oxenholt", person.Of)
	assert.Equal(t, []rules.FieldMoved{{Path: "person.name", Before: "Mira Oxenholt", After: "Mira Oxenholt-Marsh"}, {Path: "person.secret"}}, person.Fields)
	assert.Equal(t, []rules.FieldMoved{{Path: "permission.count", Before: "mechanic, counter", After: "mechanic"}}, table.Fields)
	assert.Equal(t, "Wenna Sallow", second.Person)
	assert.Equal(t, []rules.FieldMoved{{Path: "floor.hours.sunday", After: "09:00-12:00"}, {Path: "floor.people.*.skills", Of: "Mira Oxenholt-Marsh", After: "wash"},
		{Path: "work.labour_hour", Before: "6100", After: "6250"}, {Path: "work.minutes.index", Before: "12"}}, second.Fields)
	owner.must(http.StatusOK, "GET", "/settings/changes?before="+strconv.FormatInt(page.Next, 10), nil, &page)
	require.Len(t, page.Changes, 3)
	assert.Equal(t, []rules.FieldMoved{{Path: "work.labour_hour", Before: "6100", After: "6150"}}, page.Changes[1].Fields, "of the one before it")
	assert.NotEmpty(t, page.Changes[2].Fields, "the first of all")

	colleague := staffed(t, f)[record.RoleApprentice]
	colleague.must(http.StatusOK, "GET", "/settings/changes", nil, &page)
	assert.Len(t, page.Changes, 5, "without people and devices")
}
