package demo

import (
	"time"

	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// caliperDropped is how long ago the old caliper fell.
const caliperDropped = 260 // days

// planTools lays out the life of the tools: zeros checked every few months, but the gauge's was last
// checked too long ago; one caliper retired, another in its place.
func (l *loader) planTools() {
	ago := func(days int) time.Time { return l.openHours(l.end.AddDate(0, 0, -days)) }
	check := func(days int, name string, r measure.ZeroReading) {
		l.at(ago(days), func() error {
			tool, err := l.shop.CheckZero(l.ctx, l.mechanic(), l.tools[name].ID, r)
			l.tools[name] = tool
			return err
		})
	}
	l.at(ago(caliperDropped), func() error {
		old := l.tools[oldCaliper]
		if _, err := l.shop.RetireInstrument(l.ctx, l.people[0], old.ID, old.Version, true); err != nil {
			return err
		}
		facts := measure.InstrumentFacts{Name: newCaliper, Spreads: true}
		if _, err := l.shop.AddInstrument(l.ctx, l.people[0], measure.NewInstrument{Kind: "caliper-inside", Facts: facts}); err != nil {
			return err
		}
		return l.learnTools()
	})
	for _, days := range []int{535, 370, 210, 40} {
		check(days, "Steel rule 300", measure.ZeroReading{Text: "304.8"})
		check(days, "Drop-in pair", measure.ZeroReading{MarksStayOut: true})
		check(days, "Whole chain", measure.ZeroReading{Text: "1409.7", Links: ptr(111)})
	}
	for _, days := range []int{536, 400} {
		check(days, oldCaliper, measure.ZeroReading{Text: "119.36"})
	}
	for _, days := range []int{255, 40} {
		check(days, newCaliper, measure.ZeroReading{Text: "119.35"})
	}
	check(534, "Dial gauge", measure.ZeroReading{Text: "0.03"})
	check(390, "Dial gauge", measure.ZeroReading{Text: "0.04"})
	check(230, "Dial gauge", measure.ZeroReading{Text: "0.05"})
}

// setRules gives the shop its prices.
func (l *loader) setRules() error {
	v, err := l.shop.CurrentRules(l.ctx)
	if err != nil {
		return err
	}
	r := v.Rules
	for i := range r.Classes {
		c := &r.Classes[i]
		p := map[string][6]int{ // chain, sprockets, rings, and the work on each, in cents
			"one-sprocket": {1800, 1900, 3900, 1200, 1500, 1800},
			"wide-chain":   {2400, 4200, 5200, 1200, 1500, 2400},
			"narrow-chain": {4200, 11500, 7800, 1400, 1500, 2400},
		}[c.Class]
		c.Chain, c.Sprockets, c.Rings = &p[0], &p[1], &p[2]
		c.LabourChain, c.LabourSprockets, c.LabourRings = &p[3], &p[4], &p[5]
	}
	r.Floor = l.floor(r.Floor)
	days := 180
	r.Intervals.Own = append(r.Intervals.Own, rules.OwnTask{Code: sealant, Title: "Sealant and rim tape look", EveryDays: &days, Weight: 1, Kinds: []string{"gravel", "trail"}})
	if _, err = l.shop.ChangeRules(l.ctx, l.people[0], v.Version, r); err != nil {
		return err
	}
	if err := l.fillShelf(); err != nil {
		return err
	}
	return l.fillStores()
}

// sealant is a task of the shop's own.
const sealant = "sealant"

// floor gives the shop its hours: five days and a Saturday morning.
func (l *loader) floor(f rules.Floor) rules.Floor {
	long := []store.Stretch{{From: "08:00", Until: "12:30"}, {From: "13:00", Until: "18:00"}}
	for weekday := range f.Hours {
		f.Hours[weekday] = long
	}
	for _, p := range l.people {
		if p.Person.Role == record.RoleOwner { // she is in the office, not at a stand
			f.People[p.Person.ID.String()] = store.FloorPerson{Skills: []string{}}
		}
	}
	f.Hours["saturday"], f.Hours["sunday"] = []store.Stretch{{From: "09:00", Until: "13:00"}}, nil
	return f
}

// fillShelf puts chains and joining links on the shelf; of some there are too few.
func (l *loader) fillShelf() error {
	chain := func(name string, sprockets, n, low, cost, box int, link bool) stock.NewStock {
		return stock.NewStock{Kind: "chain", Facts: stock.StockFacts{Name: name, Sprockets: sprockets, Quantity: n, LowMark: low, Cost: &cost, BoxLinks: &box, HasJoiningLink: link}}
	}
	link := func(name string, sprockets, n, low, cost int, uses *int) stock.NewStock {
		return stock.NewStock{Kind: "joining-link", Facts: stock.StockFacts{Name: name, Sprockets: sprockets, Quantity: n, LowMark: low, Cost: &cost, StatedUses: uses}}
	}
	for _, n := range []stock.NewStock{
		chain("Twelve-speed, box of 126", 12, 4, 2, 2600, 126, true),
		chain("Eleven-speed, box of 118", 11, 1, 2, 2200, 118, true),
		chain("Ten-speed, box of 126", 10, 3, 1, 1500, 126, false),
		chain("Nine-speed, box of 130", 9, 2, 2, 1300, 130, false),
		chain("Wide, box of 122", 1, 5, 2, 900, 122, true),
		link("Twelve-speed joining links", 12, 6, 3, 450, ptr(1)),
		link("Eleven-speed joining links", 11, 2, 3, 420, nil),
		link("Ten-speed joining links", 10, 8, 3, 300, ptr(5)),
		link("Nine-speed joining links", 9, 0, 2, 280, nil),
		link("Wide joining links", 1, 9, 3, 180, nil),
	} {
		if _, err := l.shop.AddStock(l.ctx, l.people[0], n); err != nil {
			return err
		}
	}
	return nil
}
