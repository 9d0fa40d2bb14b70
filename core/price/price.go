// Package price quotes a job: labour, parts, fluids and a share of the waste, each line shown (handbook:
// price). Amounts are in minor units of the shop's currency; a fraction of one is kept until the total,
// which alone is rounded.
package price

import "math"

// Money is an amount in minor units.
type Money float64

// Rules are how a shop prices its work.
type Rules struct {
	LabourHour Money
	StepMin    int // labour is rounded up to it; 5 in the house
	// FixedRoute is the price of a route's labour where the shop sets one, by the route's name.
	FixedRoute map[string]Money
	FluidsBy   float64 // factor on what fluids cost
	WasteRoute map[string]Money
	TaxPct     float64
	TaxInside  bool // the prices hold the tax already
}

// HouseRules are those of a shop that set none: no prices, five-minute steps, fluids at cost.
func HouseRules() Rules { return Rules{StepMin: 5, FluidsBy: 1} }

// Item is something used or fitted, with what one of it costs.
type Item struct {
	Code   string
	Count  float64
	PerOne Money
}

// Job is what is quoted.
type Job struct {
	Route   string
	Minutes int    // of hands; waits cost nothing
	Fitting []Item // work that is charged by the piece
	Parts   []Item
	Fluids  []Item
}

// Line is one line of a quote. Count is minutes, pieces, or an amount in its own unit.
type Line struct {
	Kind   string // labour, part, fluid, waste, tax
	Code   string
	Count  float64
	Amount Money
}

// Quote is the price of a job.
type Quote struct {
	Lines []Line
	Total int // rounded once, half away from zero
}

// Of quotes a job.
func (r Rules) Of(j Job) Quote {
	var q Quote
	add := func(kind, code string, count float64, amount Money) {
		q.Lines = append(q.Lines, Line{kind, code, count, amount})
	}
	if fixed, set := r.FixedRoute[j.Route]; set {
		add("labour", j.Route, float64(j.Minutes), fixed)
	} else {
		minutes := r.Charged(j.Minutes)
		add("labour", j.Route, float64(minutes), r.LabourHour*Money(minutes)/60)
	}
	for _, f := range j.Fitting {
		add("labour", f.Code, f.Count, f.PerOne*Money(f.Count))
	}
	for _, p := range j.Parts {
		add("part", p.Code, p.Count, p.PerOne*Money(p.Count))
	}
	for _, f := range j.Fluids {
		add("fluid", f.Code, f.Count, f.PerOne*Money(f.Count*r.FluidsBy))
	}
	if waste := r.WasteRoute[j.Route]; waste != 0 {
		add("waste", j.Route, 1, waste)
	}
	if r.TaxPct == 0 {
		return q.total("", 0)
	}
	if r.TaxInside {
		return q.total("tax-inside", r.TaxPct)
	}
	return q.total("tax", r.TaxPct)
}

// With is a quote with more parts in it, taxed as it was.
func (q Quote) With(parts []Item) Quote {
	more, tax, pct := Quote{}, "", 0.0
	for _, l := range q.Lines {
		if l.Kind == "tax" || l.Kind == "tax-inside" {
			tax, pct = l.Kind, l.Count
			continue
		}
		more.Lines = append(more.Lines, l)
	}
	for _, p := range parts {
		more.Lines = append(more.Lines, Line{"part", p.Code, p.Count, p.PerOne * Money(p.Count)})
	}
	return more.total(tax, pct)
}

// total adds the tax, on top of the lines or inside them, and sums up.
func (q Quote) total(tax string, pct float64) Quote {
	sum := Money(0)
	for _, l := range q.Lines {
		sum += l.Amount
	}
	switch tax {
	case "tax-inside":
		q.Lines = append(q.Lines, Line{tax, "", pct, sum * Money(pct/(100+pct))})
	case "tax":
		on := sum * Money(pct/100)
		q.Lines = append(q.Lines, Line{tax, "", pct, on})
		sum += on
	}
	q.Total = Round(sum)
	return q
}

// Charged is the minutes that are charged for so many of work: rounded up to the shop's step.
func (r Rules) Charged(minutes int) int {
	step := max(r.StepMin, 1)
	return (minutes + step - 1) / step * step
}

// Round is the whole minor units of an amount, half away from zero. What a sum of fractions misses a half
// by is not meant to decide.
func Round(m Money) int {
	const slack = 1e-7
	return int(math.Round(float64(m) + math.Copysign(slack, float64(m))))
}

// Saved is what doing tasks in one visit saves: the minutes that each would have taken again for set-up,
// wash and final checks.
func (r Rules) Saved(sharedMinutes, tasks int) (minutes int, amount Money) {
	if tasks < 2 {
		return 0, 0
	}
	minutes = sharedMinutes * (tasks - 1)
	return minutes, r.LabourHour * Money(minutes) / 60
}

// Over reports whether a price goes so far beyond the one that was agreed that the owner is asked first.
func Over(agreed, now int, boundPct float64) bool {
	return float64(now-agreed) > float64(agreed)*boundPct/100
}
