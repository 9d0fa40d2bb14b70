package shop_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/contact"
	"earnestpony/internal/shop/exchange"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/record"
)

// A bike's passport taken by another shop, twice, and given on: nothing lost, nothing doubled, what is unknown
// kept, and no owner named.
func TestPassport(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	w := takeIn(t, commuter, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 2, LubricantOn: "drip-wax", LubricantNext: "drip-wax"}, Reports: "my Aldous says it hums"})
	w.read(1400, "0.3")
	wrong := w.read(1410, "0.9")
	_, err := w.StrikeOut(ctx, w.mira, wrong.EntryID, "rule slipped")
	require.NoError(t, err)
	text, err := w.Passport(ctx, w.tag)
	require.NoError(t, err)
	assert.NotContains(t, string(text), "Aldous")

	var doc map[string]any
	require.NoError(t, json.Unmarshal(text, &doc))
	doc["blessing"], doc["bike"].(map[string]any)["paint_code"] = "fair winds", 7
	doc["ledger"] = append(doc["ledger"].([]any), map[string]any{"id": "01900000-0000-7000-8000-000000000001", "kind": "polished", "happened_at": "2026-05-01T10:00:00Z", "written_at": "2026-05-01T10:00:00Z", "by": "Somebody", "body": map[string]any{"gloss": 9}})
	text, err = json.Marshal(doc)
	require.NoError(t, err)

	other := openTracked(t, record.BikeFacts{})
	*other.now = *w.now
	owner, err := other.AddCustomer(ctx, other.mira, record.CustomerFacts{Name: "Posy"})
	require.NoError(t, err)
	_, err = other.TakePassport(ctx, other.mira, [16]byte{9}, text)
	assert.Equal(t, map[string]string{"customer": "unknown-value"}, faults(t, err))
	taken, err := other.TakePassport(ctx, other.mira, owner.ID, text)
	require.NoError(t, err)
	assert.Equal(t, []any{true, 1}, []any{taken.New, taken.Kept})
	again, err := other.TakePassport(ctx, other.mira, owner.ID, text)
	require.NoError(t, err)
	assert.Equal(t, []any{false, 0, taken.Added}, []any{again.New, again.Added, again.Known}, "twice adds nothing")

	there := *other
	there.tag = taken.Tag
	before, after := w.track(), there.track()
	assert.Equal(t, before.Readings[0].ElongationPct, after.Readings[0].ElongationPct)
	assert.Len(t, after.Readings, len(before.Readings), "struck out there too")
	assert.InDelta(t, before.NowHardKM, after.NowHardKM, 1e-6)
	assert.Equal(t, w.task("read-wear").LastOn, there.task("read-wear").LastOn)
	odd, err := other.Verify(ctx)
	require.NoError(t, err)
	assert.Empty(t, odd)
	ledger, err := other.Ledger(ctx, taken.Tag, 0, 50)
	require.NoError(t, err)
	assert.Equal(t, "Tidewrack Lane", ledger.Entries[0].What)
	assert.Contains(t, ledger.Entries[1].By, "Mira Oxenholt, Tidewrack Lane")

	on, err := other.Passport(ctx, taken.Tag)
	require.NoError(t, err)
	var given map[string]any
	require.NoError(t, json.Unmarshal(on, &given))
	assert.Equal(t, "fair winds", given["blessing"])
	assert.InDelta(t, 7, given["bike"].(map[string]any)["paint_code"], 0)
	assert.Len(t, given["other_entries"], 1, "kept to be given on")
	entries := func(d map[string]any) map[string]any {
		all := map[string]any{}
		for _, e := range d["ledger"].([]any) {
			all[e.(map[string]any)["id"].(string)] = e
		}
		return all
	}
	had, has := entries(doc), entries(given)
	for id, e := range had {
		if e.(map[string]any)["kind"] != "polished" {
			assert.Equal(t, e, has[id], "as it was, under the name of who wrote it")
		}
	}
	home, err := w.TakePassport(ctx, w.mira, owner.ID, on)
	require.NoError(t, err)
	assert.Equal(t, []any{false, 0}, []any{home.New, home.Added}, "and home again")

	for name, bad := range map[string]string{"not json": "tea", "another thing": `{"format":"tea"}`, "no bike": `{"format":"bike-passport-1","made_at":"2026-05-01T10:00:00Z","shop":"x","ledger":[]}`,
		"a poor entry": `{"format":"bike-passport-1","made_at":"2026-05-01T10:00:00Z","shop":"x","bike":{"id":"01900000-0000-7000-8000-000000000002","added_at":"2026-05-01T10:00:00Z","facts":{}},"ledger":[{"kind":"odometer"}]}`} {
		_, err := other.TakePassport(ctx, other.mira, owner.ID, []byte(bad))
		assert.Equal(t, map[string]string{"passport": "not-a-passport"}, faults(t, err), name)
	}
}

// A table is read row by row: what is wrong is said where it is, and one wrong row writes none of them.
func TestTables(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	read := func(table, text string, write bool) exchange.TableRead {
		t.Helper()
		r, err := b.ImportTable(ctx, b.mira, table, []byte(text), write)
		require.NoError(t, err)
		return r
	}
	owners := "name,phone,contact_way,consent\r\nNerys Pell,0555 014 7,message,yes\r\n\"Brack, O.\",,,no\r\n"
	assert.Zero(t, read("customers", owners, false).Written)
	found, err := b.FindCustomers(ctx, "pell", false, nil, 5)
	require.NoError(t, err)
	assert.Empty(t, found.Customers, "only looked at")
	assert.Equal(t, 2, read("customers", owners, true).Written)

	// All that is wrong with a row is said at once, by reading it and by what holds for owners wherever they come from.
	wrong := read("customers", "name,email,contact_way,consent\n,tea,pigeon,maybe\nPip,,mail,yes\n", true)
	said := func(row exchange.TableRow) map[string]string {
		at := map[string]string{}
		for _, f := range row.Faults {
			at[f.Path] = f.Code
		}
		return at
	}
	assert.Equal(t, map[string]string{"name": "missing", "email": "not-an-address", "contact_way": "unknown-value", "consent": "wrong-kind"}, said(wrong.Rows[0]))
	assert.Equal(t, map[string]string{"email": "missing"}, said(wrong.Rows[1]))

	bad := read("bikes", "owner,make,sprocket_count,kind\nNerys Pell,Brinewell,11,road\nNobody,X,99,boat\n", true)
	assert.Equal(t, []int{1, 0}, []int{bad.Wrong, bad.Written})
	assert.Equal(t, map[string]string{"owner": "customer-not-found", "sprocket_count": "out-of-range", "kind": "unknown-value"}, said(bad.Rows[1]))
	page, err := b.FindBikes(ctx, "brinewell", false, "", 5)
	require.NoError(t, err)
	assert.Zero(t, page.Total, "all or nothing")
	assert.Equal(t, 1, read("bikes", "owner,make,sprocket_count,kind\nNerys Pell,Brinewell,11,road\n", true).Written)

	assert.Equal(t, 2, read("odometer", "tag,read_at,km\n"+b.tag+",2026-04-01,100\n"+b.tag+",2026-05-01,400\n", true).Written)
	slip := read("odometer", "tag,km\n"+b.tag+",90\nB-9999-X,1\n"+b.tag+",far\n", true)
	assert.Equal(t, 3, slip.Wrong)
	assert.Equal(t, 1, read("services", "tag,task,done_at,note\n"+b.tag+",wash,2026-05-02,hosed\n", true).Written)
	gauge := "Percent gauge"
	tools, err := b.Instruments(ctx, false)
	require.NoError(t, err)
	for _, tool := range tools {
		if tool.ID == b.tool {
			gauge = tool.Name
		}
	}
	measured := read("measurements", "tag,taken_at,instrument,place_1,place_2\n"+b.tag+",2026-05-03 10:00,"+gauge+",0.3,0.32\n", true)
	assert.Equal(t, 1, measured.Written, "%+v", measured.Rows)
	assert.Equal(t, 2, read("measurements", "tag,instrument,place_1\n"+b.tag+",Sundial,0.3\n"+b.tag+","+gauge+",much\n", true).Wrong)

	// What is given out is read again by the same columns, and holds what was read in.
	for table, holds := range map[string]string{"customers": `"Brack, O."`, "bikes": "Brinewell", "odometer": ",400,", "measurements": ",0.31,", "services": "hosed"} {
		text, err := b.ExportTable(ctx, table)
		require.NoError(t, err)
		assert.Contains(t, string(text), holds, table)
		assert.Contains(t, string(text), "\r\n")
	}
	text, err := b.ExportTable(ctx, "odometer")
	require.NoError(t, err)
	assert.Zero(t, read("odometer", string(text), false).Wrong)
	for name, bad := range map[string]string{"empty": "", "another table": "tea,milk\n1,2\n", "a column missing": "km\n3\n"} {
		_, err := b.ImportTable(ctx, b.mira, "odometer", []byte(bad), false)
		assert.Equal(t, map[string]string{"file": "not-a-table"}, faults(t, err), name)
	}
	_, err = b.AddCustomer(ctx, b.mira, record.CustomerFacts{Name: "=SUM(A1)"})
	require.NoError(t, err)
	text, err = b.ExportTable(ctx, "customers")
	require.NoError(t, err)
	assert.Contains(t, string(text), "'=SUM(A1)", "no formula for a table program")
}

// An owner is given all that is held on them, and can be erased: nothing personal stays anywhere, and the
// bike's record does.
func TestErasingAnOwner(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	_, err = b.OpenJob(ctx, b.mira, b.tag, jobs.Intake{Condition: jobs.Condition{FrameGrade: 1, DrivetrainGrade: 2}, Complaints: []string{}, Reports: "call Aldous at home"})
	require.NoError(t, err)
	_, err = b.DraftRecall(ctx, b.mira, b.tag)
	require.NoError(t, err)
	l, err := b.GiveLink(ctx, b.mira, contact.NewSecretLink{Kind: "owner", Tag: b.tag})
	require.NoError(t, err)
	data, err := b.CustomerData(ctx, bike.Customer.ID)
	require.NoError(t, err)
	for _, want := range []string{"Aldous Fenwick-Reyes", "+44 20 7946 0018", "bike-passport-1", "chain needs lubricating"} {
		assert.Contains(t, string(data), want)
	}
	c, err := b.Customer(ctx, bike.Customer.ID)
	require.NoError(t, err)
	_, err = b.EraseCustomer(ctx, b.mira, bike.Customer.ID, c.Customer.Version+4, true)
	assert.Equal(t, "changed-meanwhile", code(t, err))
	_, err = b.EraseCustomer(ctx, b.mira, bike.Customer.ID, c.Customer.Version, true)
	require.NoError(t, err)
	dump := b.dump()
	for _, personal := range []string{"Aldous", "7946 0018", "call Aldous"} {
		assert.NotContains(t, dump, personal)
	}
	_, err = b.OwnerPage(ctx, strings.TrimPrefix(l.Path, "/o/"))
	assert.Equal(t, "link-not-found", code(t, err))
	after, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	assert.Equal(t, []any{"Erased owner", bike.Facts.SprocketCount}, []any{after.Customer.Name, after.Facts.SprocketCount})
	assert.NotEmpty(t, b.track().Chains)
}

// dump is the whole database as text.
func (t *tracked) dump() string {
	t.Helper()
	var file bytes.Buffer
	_, err := databaseOf(t.T, t.Service).Backup(context.Background(), &file, *t.now)
	require.NoError(t, err)
	z, err := zip.NewReader(bytes.NewReader(file.Bytes()), int64(file.Len()))
	require.NoError(t, err)
	var all strings.Builder
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		_, err = io.Copy(&all, r)
		require.NoError(t, err)
	}
	return all.String()
}
