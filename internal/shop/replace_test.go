package shop_test

import (
	"context"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/stock"
)

// shelf puts chains and joining links of a width on the shelf, and returns their ids.
func (t *tracked) shelf(sprockets, chains, links int) (chain, link uuid.UUID) {
	t.Helper()
	ctx := context.Background()
	c, err := t.AddStock(ctx, t.mira, stock.NewStock{Kind: "chain", Facts: stock.StockFacts{Name: "Chain box", Sprockets: sprockets, Quantity: chains, LowMark: 1, BoxLinks: ptr(116)}})
	require.NoError(t, err)
	l, err := t.AddStock(ctx, t.mira, stock.NewStock{Kind: "joining-link", Facts: stock.StockFacts{Name: "Joining links", Sprockets: sprockets, Quantity: links, LowMark: 2, StatedUses: ptr(3)}})
	require.NoError(t, err)
	return c.ID, l.ID
}

func (t *tracked) onShelf() map[string]int {
	t.Helper()
	items, err := t.ListStock(context.Background(), false)
	require.NoError(t, err)
	counts := map[string]int{}
	for _, i := range items {
		counts[i.Facts.Name] = i.Facts.Quantity
	}
	return counts
}

var allChecks = []string{"joint-seated", "joint-loaded", "no-stiff-link", "routing", "runs-free", "gears-indexed", "brakes-tested"}

func replacementOf(chain, link uuid.UUID) bikes.Replacement {
	return bikes.Replacement{OdometerKM: ptr(3000.0), Chain: bikes.NewChain{StockItemID: &chain, Links: 112, Joint: "joining-link"},
		Link: &bikes.NewLink{StockItemID: &link}, OldChain: "scrapped", Grease: "strip-all", Checks: allChecks, RideTest: "no-skip"}
}

// faults returns the codes of a refusal by path.
func faults(t *testing.T, err error) map[string]string {
	t.Helper()
	var p *record.Problem
	require.ErrorAs(t, err, &p)
	found := map[string]string{}
	for _, f := range p.Fields {
		found[f.Path] = f.Code
		assert.NotEmpty(t, f.Message)
	}
	return found
}

// From a verdict to a fitted chain: what it asks for, what is taken from the shelf, and everything in the
// record.
func TestReplaceAChain(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.fit(1000)
	b.later(60)
	b.read(2800, "0.62")
	chain, link := b.shelf(11, 2, 1)
	plan, err := b.PlanReplacement(ctx, b.tag)
	require.NoError(t, err)
	assert.Equal(t, "replace", plan.Verdict)
	assert.Equal(t, bikes.Advice{Chain: true, RideTest: true}, plan.Advice)
	assert.Equal(t, "strip-all", plan.Grease, "it runs on wax")
	assert.Empty(t, plan.Missing)
	assert.Equal(t, allChecks, plan.Checks)

	b.later(1)
	keyed := b.mira
	keyed.Key = "once-and-only"
	entry, err := b.ReplaceChain(ctx, keyed, b.tag, replacementOf(chain, link))
	require.NoError(t, err)
	again, err := b.ReplaceChain(ctx, keyed, b.tag, replacementOf(chain, link))
	require.NoError(t, err)
	assert.Equal(t, entry.ID, again.ID, "sent twice, done once")
	assert.Equal(t, []any{"replacement", "no-skip", allChecks}, []any{entry.Kind, entry.RideTest, entry.Checks})
	assert.Equal(t, map[string]int{"Chain box": 1, "Joining links": 0}, b.onShelf())
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	assert.Equal(t, 112, *bike.Facts.ChainLinks)
	assert.Nil(t, bike.Last, "what was read was the old chain's")
	page, err := b.FindBikes(ctx, "", false, "", 10)
	require.NoError(t, err)
	assert.Nil(t, page.Bikes[0].Chain)
	w := b.track()
	assert.False(t, w.Forecast.Measured, "the forecast starts again")
	require.Len(t, w.Parts.Chains, 2)
	assert.Equal(t, []any{"scrapped", "on", "Chain box", 112, 116, 11}, []any{w.Parts.Chains[0].State, w.Parts.Chains[1].State, w.Parts.Chains[1].What,
		w.Parts.Chains[1].Links, w.Parts.Chains[1].BoxLinks, w.Parts.Chains[1].Sprockets})
	assert.Equal(t, []any{1, 0, 3, "new-each-time"}, []any{w.Parts.Link.Uses, w.Parts.Link.Openings, w.Parts.Link.StatedUses, w.Parts.Link.Spent})
	ledger, err := b.Ledger(ctx, b.tag, 0, 3)
	require.NoError(t, err)
	fitted := ledger.Entries[1]
	assert.Equal(t, []any{"chain-fitted", "Chain box", 112, "Joining links"}, []any{fitted.Kind, fitted.What, fitted.Links, fitted.Link.What})

	// The last link is gone: the plan says so before the chain is opened, and another is refused whole.
	plan, err = b.PlanReplacement(ctx, b.tag)
	require.NoError(t, err)
	assert.Equal(t, []string{"no-joining-link"}, plan.Missing)
	_, err = b.ReplaceChain(ctx, b.mira, b.tag, replacementOf(chain, link))
	assert.Equal(t, map[string]string{"joining_link.stock_item_id": "none-left"}, faults(t, err))
	assert.Equal(t, 1, b.onShelf()["Chain box"], "the chain went back on the shelf")

	// Struck out, what was taken is on the shelf again, and the old chain is on.
	_, err = b.StrikeOut(ctx, b.mira, fitted.ID, "other bike")
	require.NoError(t, err)
	assert.Equal(t, map[string]int{"Chain box": 2, "Joining links": 1}, b.onShelf())
	assert.Len(t, b.track().Parts.Chains, 1)
	bike, err = b.Bike(ctx, b.tag)
	require.NoError(t, err)
	require.NotNil(t, bike.Last, "and it is the old chain's verdict again")
	assert.Equal(t, "replace", bike.Last.Wear.Verdict)
}

// Whatever cannot hold is refused at its own field, and nothing is noted or taken.
func TestReplacementsThatAreRefused(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.fit(1000)
	b.read(0, "0.62")
	chain, link := b.shelf(11, 1, 1)
	twelve, err := b.AddStock(ctx, b.mira, stock.NewStock{Kind: "joining-link", Facts: stock.StockFacts{Name: "Twelve", Sprockets: 12, Quantity: 1}})
	require.NoError(t, err)
	for name, c := range map[string]struct {
		change func(*bikes.Replacement)
		want   map[string]string
	}{
		"a link of another width":     {func(r *bikes.Replacement) { r.Link.StockItemID = &twelve.ID }, map[string]string{"joining_link.sprockets": "link-width"}},
		"an odd count":                {func(r *bikes.Replacement) { r.Chain.Links = 111 }, map[string]string{"chain.links": "odd-count"}},
		"a half-link in a derailleur": {func(r *bikes.Replacement) { r.Chain.Links, r.Chain.HalfLink = 111, true }, map[string]string{"chain.half_link": "half-link-refused"}},
		"more than the box has":       {func(r *bikes.Replacement) { r.Chain.Links = 118 }, map[string]string{"chain.links": "box-too-short"}},
		"no count at all":             {func(r *bikes.Replacement) { r.Chain.Links = 4 }, map[string]string{"chain.links": "out-of-range"}},
		"no link":                     {func(r *bikes.Replacement) { r.Link = nil }, map[string]string{"joining_link": "missing"}},
		"a link with a pin":           {func(r *bikes.Replacement) { r.Chain.Joint = "joining-pin" }, map[string]string{"joining_link": "not-for-this-joint"}},
		"a link that is not there":    {func(r *bikes.Replacement) { r.Link = &bikes.NewLink{FromBox: true} }, map[string]string{"joining_link.from_box": "missing"}},
		"checks left open":            {func(r *bikes.Replacement) { r.Checks = allChecks[2:] }, map[string]string{"checks": "checks-open"}},
		"no ride test":                {func(r *bikes.Replacement) { r.RideTest = "" }, map[string]string{"ride_test": "missing"}},
		"it skips":                    {func(r *bikes.Replacement) { r.RideTest = "skips" }, map[string]string{"ride_test": "sprockets-skip"}},
		"nobody says what of the old": {func(r *bikes.Replacement) { r.OldChain = "" }, map[string]string{"old_chain": "missing"}},
		"a chain that was not kept":   {func(r *bikes.Replacement) { r.Chain.StockItemID, r.Chain.KeptPartID = nil, ptr(uuid.New()) }, map[string]string{"chain.kept_part_id": "not-kept"}},
		"the old link, by this house": {func(r *bikes.Replacement) { r.Link = &bikes.NewLink{Reuse: true, Sound: true} }, map[string]string{"joining_link.reuse": "missing"}},
		"everything at once":          {func(r *bikes.Replacement) { r.Chain.Links, r.Checks, r.RideTest = 113, nil, "" }, map[string]string{"chain.links": "odd-count", "checks": "checks-open", "ride_test": "missing"}},
	} {
		r := replacementOf(chain, link)
		r.Checks = append([]string{}, allChecks...)
		c.change(&r)
		_, err := b.ReplaceChain(ctx, b.mira, b.tag, r)
		assert.Equal(t, c.want, faults(t, err), name)
	}
	assert.Equal(t, map[string]int{"Chain box": 1, "Joining links": 1, "Twelve": 1}, b.onShelf(), "nothing was taken")
	assert.Len(t, b.track().Chains, 1, "and nothing noted")
	r := replacementOf(chain, link)
	r.RideTest, r.Sprockets = "skips", ptr("eleven, 11–34")
	_, err = b.ReplaceChain(ctx, b.mira, b.tag, r)
	require.NoError(t, err, "with new sprockets nothing skips")
}

// Chains taken in turn keep their own distance and their own wear; each set of sprockets counts the chains
// that ran on it.
func TestChainsInTurn(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.rules(func(r *rules.Rules) { r.LinkSchool = "inspect-and-reuse" })
	chain, link := b.shelf(11, 9, 9)
	put := func(km float64, change func(*bikes.Replacement)) {
		t.Helper()
		r := replacementOf(chain, link)
		r.OdometerKM, r.OldChain = &km, "kept"
		change(&r)
		_, err := b.ReplaceChain(ctx, b.mira, b.tag, r)
		require.NoError(t, err)
	}
	put(1000, func(r *bikes.Replacement) { r.Sprockets = ptr("new set") })
	b.later(30)
	b.read(2000, "0.10")
	first := b.track().Parts.Chains[0].PartID
	put(2000, func(r *bikes.Replacement) {})
	b.later(30)
	put(2600, func(r *bikes.Replacement) {
		r.Chain.StockItemID, r.Chain.KeptPartID = nil, &first
	})
	b.later(30)
	_, err := b.NoteOdometer(ctx, b.mira, b.tag, record.OdometerNote{KM: 3000})
	require.NoError(t, err)
	w := b.track()
	require.Len(t, w.Chains, 3)
	require.Len(t, w.Parts.Chains, 2)
	assert.Equal(t, []any{"on", 2, "kept", 1}, []any{w.Parts.Chains[0].State, w.Parts.Chains[0].Times, w.Parts.Chains[1].State, w.Parts.Chains[1].Times})
	assert.InDelta(t, (1000+400)*1.5, w.Parts.Chains[0].HardKM, 1e-6)
	assert.InDelta(t, 600*1.5, w.Parts.Chains[1].HardKM, 1e-6)
	assert.InDelta(t, 1500, w.Chains[2].BeforeHardKM, 1e-6)
	assert.True(t, w.Forecast.Measured, "it was read before it was taken off")
	assert.Equal(t, []any{"sprockets", 2, false}, []any{w.Parts.Sets[0].Part, w.Parts.Sets[0].Chains, w.Parts.Sets[0].SinceCare})
	assert.Equal(t, []any{"rings", 2, true}, []any{w.Parts.Sets[1].Part, w.Parts.Sets[1].Chains, w.Parts.Sets[1].SinceCare}, "of the rings nobody noted when they were fitted")
	assert.InDelta(t, 2000*1.5, w.Parts.Sets[1].HardKM, 1e-6)
	assert.InDelta(t, 2000*1.5, w.Parts.Sets[0].HardKM, 1e-6)

	// Waxed, they are due as a set: twice as far and twice as long as one.
	one := b.task("relubricate")
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	waxed := bike.Facts
	waxed.Lubricant = "immersion-wax"
	_, err = b.ChangeBike(ctx, b.mira, b.tag, bike.Version, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: waxed})
	require.NoError(t, err)
	set := b.task("relubricate")
	assert.Equal(t, []any{0, 2, 2 * 400.0, 2 * 60}, []any{one.Chains, set.Chains, *set.EveryHardKM, *set.EveryDays})

	// The same joining link closes it again while it may: three uses stated, then it is spent.
	open := func(l bikes.NewLink) error {
		_, err := b.OpenChain(ctx, b.mira, b.tag, bikes.Opening{Why: "soak", Link: &l})
		return err
	}
	require.NoError(t, open(bikes.NewLink{Reuse: true, Sound: true}))
	assert.Equal(t, map[string]string{"joining_link.reuse": "link-spent"}, faults(t, open(bikes.NewLink{Reuse: true})), "its seat was not found sound")
	require.NoError(t, open(bikes.NewLink{Reuse: true, Sound: true}))
	l := b.track().Parts.Link
	assert.Equal(t, []any{3, 2, "used-up"}, []any{l.Uses, l.Openings, l.Spent})
	err = open(bikes.NewLink{Reuse: true, Sound: true})
	assert.Equal(t, map[string]string{"joining_link.reuse": "link-spent"}, faults(t, err))
	assert.ErrorContains(t, err, "has closed a chain 3 times")
	require.NoError(t, open(bikes.NewLink{StockItemID: &link}))
	assert.Equal(t, 1, b.track().Parts.Link.Uses)
}

// What the verdicts and forecasts will ask of the shelf within a month, by width.
func TestStockNeeds(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.fit(1000)
	b.later(30)
	b.read(1400, "0.05")
	needs, err := b.StockNeeds(ctx)
	require.NoError(t, err)
	assert.Empty(t, needs)
	b.later(100)
	b.read(5200, "0.46")
	needs, err = b.StockNeeds(ctx)
	require.NoError(t, err)
	require.Len(t, needs, 1)
	assert.Equal(t, []any{11, 1, 0}, []any{needs[0].Sprockets, needs[0].Short, needs[0].Chains})
	assert.Equal(t, "next", needs[0].Bikes[0].Order, "its reading puts it on the next order, whatever the forecast says")
	chain, link := b.shelf(11, 1, 1)
	b.read(0, "0.70")
	needs, err = b.StockNeeds(ctx)
	require.NoError(t, err)
	assert.Equal(t, []any{0, 1, 1}, []any{needs[0].Short, needs[0].Chains, needs[0].Links})
	assert.Equal(t, "now", needs[0].Bikes[0].Order)
	b.later(1)
	r := replacementOf(chain, link)
	r.OdometerKM = nil
	_, err = b.ReplaceChain(ctx, b.mira, b.tag, r)
	require.NoError(t, err)
	needs, err = b.StockNeeds(ctx)
	require.NoError(t, err)
	assert.Empty(t, needs, "what was replaced asks for nothing")

	items, err := b.ListStock(ctx, false)
	require.NoError(t, err)
	assert.True(t, items[0].Low)
	after, err := b.ChangeStock(ctx, b.mira, items[0].ID, items[0].Version, func() stock.StockFacts { f := items[0].Facts; f.Quantity = 6; return f }())
	require.NoError(t, err)
	assert.False(t, after.Low)
	_, err = b.ChangeStock(ctx, b.mira, items[0].ID, items[0].Version, items[0].Facts)
	assert.Equal(t, "changed-meanwhile", code(t, err))
	for name, n := range map[string]stock.NewStock{
		"no name":            {Kind: "chain", Facts: stock.StockFacts{Sprockets: 11}},
		"no width":           {Kind: "chain", Facts: stock.StockFacts{Name: "X"}},
		"a box of 3 links":   {Kind: "chain", Facts: stock.StockFacts{Name: "X", Sprockets: 11, BoxLinks: ptr(3)}},
		"fewer than none":    {Kind: "chain", Facts: stock.StockFacts{Name: "X", Sprockets: 11, Quantity: -1}},
		"uses of a chain":    {Kind: "chain", Facts: stock.StockFacts{Name: "X", Sprockets: 11, StatedUses: ptr(3)}},
		"a name that is had": {Kind: "chain", Facts: stock.StockFacts{Name: "chain BOX", Sprockets: 11}},
	} {
		_, err := b.AddStock(ctx, b.mira, n)
		assert.Equal(t, "invalid-input", code(t, err), name)
	}
}

// The sizer answers what it can, names what is missing, and puts each slip at its own field.
func TestSizer(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, _, _ := open(t)
	ask := func(q bikes.SizerQuestion) bikes.SizerAnswer {
		a, err := s.SizeChain(ctx, q)
		require.NoError(t, err)
		return a
	}
	assert.Equal(t, []string{"kind", "rings", "sprockets", "chainstay"}, ask(bikes.SizerQuestion{}).Missing)
	trail := bikes.SizerQuestion{Kind: "derailleur", Rings: []int{32}, Sprockets: []int{10, 52}, ChainstayMM: ptr(440.0), CageMM: ptr(93.0), BoxLinks: ptr(118)}
	a := ask(trail)
	require.Empty(t, a.Faults)
	assert.Equal(t, []any{116, 2, 115, true, 4}, []any{a.Length.KeepLinks, *a.Length.RemoveLinks, a.Cut.Links, a.Cut.LastInner, a.Overlap})
	assert.Equal(t, "tight", a.Fewer.State, "why not fewer")
	assert.InDelta(t, 1.03, a.Fewer.OverMM, 0.01)
	assert.InDelta(t, 70.6, a.Gear.Path.CageDeg, 0.05, "largest to largest is drawn")
	trail.TryLinks, trail.Draw = ptr(114), &bikes.GearDraw{Ring: 32, Sprocket: 10}
	a = ask(trail)
	assert.Equal(t, []any{114, 10, 116}, []any{a.Drawn, a.Gear.Path.Sprocket, a.Length.KeepLinks})

	bad := trail
	bad.Rings, bad.ChainstayMM, bad.OldLinks, bad.CageMM, bad.Joint = []int{3}, ptr(4.0), ptr(111), ptr(400.0), "glue"
	a = ask(bad)
	got := map[string]string{}
	for _, f := range a.Faults {
		got[f.Path] = f.Code
	}
	assert.Equal(t, map[string]string{"rings": "out-of-range", "chainstay_mm": "out-of-range", "old_links": "odd-count", "cage_mm": "out-of-range", "joint": "unknown-value"}, got)
	assert.Nil(t, a.Length)
	trail.ChainstayMM, trail.Rings = ptr(200.0), []int{70}
	assert.Equal(t, "wheels-overlap", ask(trail).Faults[0].Code)

	hub := bikes.SizerQuestion{Kind: "hub-gear", Rings: []int{49}, Sprockets: []int{15}, ChainstayMM: ptr(400.0), SlotMM: ptr(8.0)}
	a = ask(hub)
	require.NotNil(t, a.Slots)
	assert.Equal(t, 96, *a.Slots.RecommendedLinks)
	assert.InDelta(t, 0.75, *a.Limit, 0)
	hub.SlotMM, hub.Fixed, hub.Kind = nil, true, "single-speed"
	a = ask(hub)
	require.NotNil(t, a.Pairs)
	assert.InDelta(t, 15, a.Bound, 0)
	assert.False(t, a.Tensioner, "the rider pushes back against it")
	hub.Fixed, hub.Coaster = false, true
	assert.False(t, ask(hub).Tensioner)
	hub.Coaster = false
	assert.True(t, ask(hub).Tensioner)
}
