package rules

import (
	"cmp"
	"slices"

	"earnestpony/core/chain"
	"earnestpony/core/clean"
	"earnestpony/core/fitting"
	"earnestpony/core/lube"
	"earnestpony/core/price"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// WorkRules is how the shop cleans and what it charges.
type WorkRules = store.Work

// defaultWork is what holds where a shop set nothing.
func defaultWork() WorkRules {
	p := price.HouseRules()
	return WorkRules{First: clean.DrivetrainFirst.String(), Pressure: clean.LowPressure.String(), When: lube.ByLubricant.String(),
		Product: clean.BikeShampoo.String(), Crank: clean.Backward.String(), Cleaner: clean.ByPlace.String(), Oiling: clean.Fitted.String(),
		OilBy: clean.Drops.String(), Strip: clean.ByGrade.String(),
		Minutes: map[string]int{}, FixedRoute: map[string]int{}, WasteRoute: map[string]int{}, LabourStep: p.StepMin, FluidsBy: p.FluidsBy, AskOverPct: 10}
}

// defaultSteps are the steps of the catalogue with the minutes that hold where a shop set none.
func defaultSteps() []StepShort {
	var all []StepShort
	for _, s := range clean.Catalogue() {
		all = append(all, StepShort{s.Code, s.Title, int(s.Minutes)})
	}
	return all
}

// withDefaults is what a shop set, with the house's where it was set before there was such a question.
func withDefaults(w WorkRules) WorkRules {
	house := defaultWork()
	for _, school := range [][2]*string{{&w.Product, &house.Product}, {&w.Crank, &house.Crank}, {&w.Cleaner, &house.Cleaner},
		{&w.Oiling, &house.Oiling}, {&w.OilBy, &house.OilBy}, {&w.Strip, &house.Strip}} {
		*school[0] = cmp.Or(*school[0], *school[1])
	}
	return w
}

// readSchools reads how a shop cleans, and tells of each answer that is none.
func readSchools(w WorkRules, wrong func(name string, err error)) (s clean.Schools) {
	read(&s.First, "first", w.First, clean.ParseFirst, wrong)
	read(&s.Pressure, "pressure", w.Pressure, clean.ParsePressure, wrong)
	read(&s.Product, "wash_product", w.Product, clean.ParseProduct, wrong)
	read(&s.Crank, "crank", w.Crank, clean.ParseCrank, wrong)
	read(&s.Cleaner, "cleaner", w.Cleaner, clean.ParseCleaner, wrong)
	read(&s.Oiling, "oiling", w.Oiling, clean.ParseOiling, wrong)
	read(&s.OilBy, "oil_by", w.OilBy, clean.ParseOilBy, wrong)
	read(&s.Strip, "strip", w.Strip, clean.ParseStripping, wrong)
	s.PartsWasher, s.WheelIn = w.Washer, w.WheelIn
	return s
}

// read reads one answer, or tells that it is none.
func read[T any](into *T, name, answer string, parse func(string) (T, error), wrong func(name string, err error)) {
	of, err := parse(answer)
	if err != nil {
		wrong(name, err)
	}
	*into = of
}

// checkWork tidies what a shop set and says what is wrong with it.
func checkWork(w *WorkRules, fault func(name, code, format string, args ...any)) {
	if w.Minutes == nil {
		w.Minutes = map[string]int{}
	}
	if w.FixedRoute == nil {
		w.FixedRoute = map[string]int{}
	}
	if w.WasteRoute == nil {
		w.WasteRoute = map[string]int{}
	}
	readSchools(*w, func(name string, err error) { fault(name, "unknown-value", "%v", err) })
	if _, err := lube.ParseWhen(w.When); err != nil {
		fault("when", "unknown-value", "%v", err)
	}
	for code, minutes := range w.Minutes {
		if !slices.Contains(clean.Codes(), code) {
			fault("minutes."+code, "unknown-value", "There is no such step.")
		} else if minutes < 0 || minutes > 600 {
			fault("minutes."+code, "out-of-range", "A step takes 0 to 600 minutes of hands.")
		}
	}
	if w.LabourHour < 0 || w.LabourHour > record.MaxPrice {
		fault("labour_hour", "out-of-range", "This cannot be a price.")
	}
	if w.LabourStep < 1 || w.LabourStep > 60 {
		fault("labour_step", "out-of-range", "Labour is rounded up to 1 to 60 minutes.")
	}
	if !(w.FluidsBy >= 0 && w.FluidsBy <= 20) {
		fault("fluids_by", "out-of-range", "Fluids are charged at 0 to 20 times what they cost.")
	}
	if !(w.TaxPct >= 0 && w.TaxPct <= 100) {
		fault("tax_pct", "out-of-range", "Tax is 0 to 100 %%.")
	}
	if !(w.AskOverPct >= 0 && w.AskOverPct <= 100) {
		fault("ask_over_pct", "out-of-range", "The customer is asked beyond 0 to 100 %%.")
	}
	for name, prices := range map[string]map[string]int{"fixed_route": w.FixedRoute, "waste_route": w.WasteRoute} {
		for route, amount := range prices {
			if _, err := clean.ParseRoute(route); err != nil {
				fault(name+"."+route, "unknown-value", "%v", err)
			} else if amount < 0 || amount > record.MaxPrice {
				fault(name+"."+route, "out-of-range", "This cannot be a price.")
			}
		}
	}
}

// Cleaning is the rules as cleaning takes them.
func (h ParsedRules) Cleaning() (clean.Rules, error) {
	w, r := h.Rules.Work, clean.HouseRules()
	var wrong error
	r.Schools = readSchools(w, func(_ string, err error) { wrong = err })
	if wrong != nil {
		return r, wrong
	}
	r.FreehubDry, r.Blower = w.FreehubDry, w.Blower
	r.StripNewGrease = h.Grease.For(false) == fitting.StripAll
	r.StepMinutes = map[string]clean.Minutes{}
	for code, minutes := range w.Minutes {
		r.StepMinutes[code] = clean.Minutes(minutes)
	}
	return r, nil
}

// Pricing is the rules as a quote takes them.
func (h ParsedRules) Pricing() price.Rules {
	w := h.Rules.Work
	r := price.Rules{LabourHour: price.Money(w.LabourHour), StepMin: w.LabourStep, FluidsBy: w.FluidsBy, TaxPct: w.TaxPct, TaxInside: w.TaxInside,
		FixedRoute: map[string]price.Money{}, WasteRoute: map[string]price.Money{}}
	for route, amount := range w.FixedRoute {
		r.FixedRoute[route] = price.Money(amount)
	}
	for route, amount := range w.WasteRoute {
		r.WasteRoute[route] = price.Money(amount)
	}
	return r
}

// StepShort names a step.
type StepShort struct {
	Code    string `json:"code"`
	Title   string `json:"title"`
	Minutes int    `json:"minutes"`
}

// SharedMinutes is what every visit takes for set-up, wash and final checks, whatever is done in it.
func (h ParsedRules) SharedMinutes() (int, error) {
	rules, err := h.Cleaning()
	if err != nil {
		return 0, err
	}
	p, err := clean.New(clean.Bike{Train: chain.Drivetrain{Kind: chain.Derailleur, Motor: chain.NoMotor}, Read: true, CanOpen: true}, clean.Order{Wash: clean.DryWipe}, rules)
	if err != nil {
		return 0, err
	}
	shared := 0
	for _, s := range p.Steps {
		if s.Phase == clean.Intake || s.Phase == clean.Washing || s.Phase == clean.Finish {
			shared += int(s.Minutes)
		}
	}
	return shared, nil
}
