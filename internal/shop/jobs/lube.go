package jobs

import (
	"earnestpony/core/chain"
	"earnestpony/core/clean"
	"earnestpony/core/forecast"
	"earnestpony/core/lube"
	"earnestpony/core/price"
	"earnestpony/internal/calc"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
)

// relubricate is after how many km the chain gets its lubricant again, by the house's school and by how the
// bike is ridden.
func (p Planner) relubricate(next clean.Coat) float64 {
	family := p.family
	if family.Coat() != next {
		family = familyFor(next, p.row.Lubricant)
	}
	when, err := lube.ParseWhen(p.house.Rules.Work.When)
	if err != nil {
		when = lube.ByLubricant
	}
	motor, err := chain.ParseMotor(p.row.Motor)
	if err != nil {
		motor = chain.MotorUnknown
	}
	return float64(when.Every(family)) / p.house.Factors.Factor(record.MixOf(p.row.Mix), motor)
}

// lubes picks what goes on, for this owner's rides and by the shop's prices.
// lubricants are all families for a bike, by what a unit of each material costs.
func (p dirtyBike) lubricants(costs map[string]price.Money) *calc.LubeAnswer {
	f := p.row.BikeFacts
	links := chain.Links(114)
	if f.ChainLinks != nil {
		links = chain.Links(*f.ChainLinks)
	}
	ring := 0
	if len(f.RingTeeth) > 0 {
		ring = f.RingTeeth[0]
	}
	mix := record.MixOf(f.Mix)
	motor, err := chain.ParseMotor(f.Motor)
	if err != nil {
		motor = chain.MotorUnknown
	}
	when, err := lube.ParseWhen(p.house.Rules.Work.When)
	if err != nil {
		when = lube.ByLubricant
	}
	q := lube.Question{Mix: mix, Damp: p.house.Rules.Work.Damp, Care: bikes.CareOf(f), On: p.bike.On, CanBare: p.bike.CanOpen || p.bike.ChainGoes, When: when,
		Factor: p.house.Factors.Factor(mix, motor), HoursToRide: p.bike.Hours, Ready: calc.ReadyWith(p.bike, p.rules)}
	prices := lube.Prices{Links: links, LabourHour: forecast.Money(p.house.Rules.Work.LabourHour), PerML: map[lube.Family]forecast.Money{}, PerGram: map[lube.Family]forecast.Money{}}
	oil := forecast.Money(costs[string(clean.ChainOil)])
	prices.PerML[lube.WetOil], prices.PerML[lube.DryOil], prices.PerML[lube.AllWeather] = oil, oil, oil
	prices.PerML[lube.DripWax] = forecast.Money(costs[string(clean.WaxDrip)])
	prices.PerGram[lube.ImmersionWax] = forecast.Money(costs[string(clean.WaxSolid)])
	if of, known := p.house.Prices[p.class()]; known {
		prices.Wear = of.Chain + of.LabourChain + (of.Sprockets+of.LabourSprockets)/forecast.Money(p.house.Sets.At(0.5))
	}
	return calc.NewLubeAnswer(lube.Picks(q, prices), links, ring, p.bike.On == clean.ImmersionWax || p.bike.On == clean.DripWax)
}

func (p dirtyBike) class() chain.Class {
	return p.house.Rule(&p.row, rules.DrivetrainOf(&p.row, nil)).Drivetrain.Class()
}
