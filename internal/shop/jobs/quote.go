package jobs

import (
	"earnestpony/core/clean"
	"earnestpony/core/price"
	"earnestpony/internal/shop/measure"
)

// Quote is the price of a job, in minor units.
type Quote struct {
	Currency string      `json:"currency"`
	Lines    []QuoteLine `json:"lines"`
	Total    int         `json:"total"`
	// High is what it comes to where the lighter way does not do; nil where that is not to be expected.
	High       *int   `json:"high,omitempty"`
	HighRoute  string `json:"high_route,omitempty"`
	SavedMin   int    `json:"saved_min,omitempty"` // by doing it all in one visit
	SavedMoney int    `json:"saved_money,omitempty"`
	// Unpriced are parts that it needs and that the shop set no price for: they come on top.
	Unpriced []string `json:"unpriced"`
}

// QuoteLine is one line of a quote; a fraction of a minor unit is kept until the total.
type QuoteLine struct {
	Kind   string  `json:"kind"` // labour, part, fluid, waste, tax, tax-inside
	Code   string  `json:"code"` // of labour what it is for; of a part noted at the stand its name
	Count  float64 `json:"count"`
	Amount float64 `json:"amount"`
}

// The parts of a quote.
const (
	partChain     = "chain"
	partLink      = "joining-link"
	partSprockets = "sprockets"
)

// quote is the price of a plan: its labour, its fluids, and the parts that go on.
func (p Planner) quote(plan clean.Plan, route string) Quote {
	q := Quote{Currency: p.house.Currency, Lines: []QuoteLine{}, Unpriced: []string{}}
	work := price.Job{Route: route, Minutes: int(plan.Hands())}
	link := false
	for _, a := range plan.Uses() {
		if a.Material == clean.JoinLink {
			link = true
		} else if per, known := p.prices[string(a.Material)]; known {
			work.Fluids = append(work.Fluids, price.Item{Code: string(a.Material), Count: a.Amount, PerOne: per})
		}
	}
	add := func(code string, cost *int) {
		if cost == nil {
			q.Unpriced = append(q.Unpriced, code)
			return
		}
		work.Parts = append(work.Parts, price.Item{Code: code, Count: 1, PerOne: price.Money(*cost)})
	}
	if p.bike.ChainGoes {
		cost, withLink := p.newChain()
		add(partChain, cost)
		link = !withLink
		if p.replacing.Advice.Sprockets {
			set, fitting := p.sprocketSet()
			add(partSprockets, set)
			if fitting != nil {
				work.Fitting = append(work.Fitting, price.Item{Code: partSprockets, Count: 1, PerOne: price.Money(*fitting)})
			}
		}
	}
	if link {
		add(partLink, p.joiningLink())
	}
	rules := p.house.Pricing()
	priced := rules.Of(work)
	q.set(priced)
	// Set-up, wash and final checks are done once, whatever else is done in the visit.
	shared := 0
	for _, s := range plan.Steps {
		if s.Phase == clean.Intake || s.Phase == clean.Washing || s.Phase == clean.Finish {
			shared += int(s.Minutes)
		}
	}
	tasks := 1 + len(p.intake.Complaints)
	if p.bike.ChainGoes {
		tasks++
	}
	saved, money := rules.Saved(shared, tasks)
	q.SavedMin, q.SavedMoney = saved, price.Round(money)
	return q
}

func (q *Quote) set(priced price.Quote) {
	q.Total, q.Lines = priced.Total, []QuoteLine{}
	for _, l := range priced.Lines {
		q.Lines = append(q.Lines, QuoteLine{l.Kind, l.Code, l.Count, float64(l.Amount)})
	}
}

// with is the quote with the parts that were noted at the stand.
func (q Quote) with(parts []measure.JobPart) Quote {
	var was price.Quote
	for _, l := range q.Lines {
		was.Lines = append(was.Lines, price.Line{Kind: l.Kind, Code: l.Code, Count: l.Count, Amount: price.Money(l.Amount)})
	}
	var items []price.Item
	for _, part := range parts {
		if part.Price != nil {
			items = append(items, price.Item{Code: part.What, Count: float64(part.Count), PerOne: price.Money(*part.Price)})
		}
	}
	q.set(was.With(items))
	return q
}

// newChain is what the chain that goes on costs, and whether a joining link comes with it: one that fits
// from the shelf, else the price of its class.
func (p Planner) newChain() (cost *int, withLink bool) {
	for _, c := range p.replacing.Chains {
		if c.Facts.Cost != nil && c.Facts.Quantity > 0 {
			return c.Facts.Cost, c.Facts.HasJoiningLink
		}
	}
	if of, known := p.house.Prices[p.class()]; known {
		chain := price.Round(price.Money(of.Chain))
		return &chain, false
	}
	return nil, false
}

// sprocketSet is what a set of sprockets costs, and what fitting it does.
func (p Planner) sprocketSet() (set, fitting *int) {
	of, known := p.house.Prices[p.class()]
	if !known {
		return nil, nil
	}
	parts, labour := price.Round(price.Money(of.Sprockets)), price.Round(price.Money(of.LabourSprockets))
	return &parts, &labour
}

func (p Planner) joiningLink() *int {
	for _, l := range p.replacing.Links {
		if l.Facts.Cost != nil {
			return l.Facts.Cost
		}
	}
	return nil
}

// quoteRange adds to a plan what it comes to where its route does not bring the chain clean: a bath or less
// may turn into a soak.
func (p Planner) quoteRange(j *JobPlan) {
	if j.ChainRoute != clean.Bath.String() && j.ChainRoute != clean.Quick.String() || !p.bike.CanOpen {
		return
	}
	o, err := p.Order(clean.Soak.String(), j.Wash)
	if err != nil {
		return
	}
	if _, more, err := p.Build(o, clean.Soak.String()); err == nil && more.Quote.Total > j.Quote.Total {
		j.Quote.High, j.Quote.HighRoute = &more.Quote.Total, more.Route
	}
}
