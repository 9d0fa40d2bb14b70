package bikes

import (
	"context"
	"slices"

	"earnestpony/core/forecast"
	"earnestpony/core/wear"
	"earnestpony/internal/calc"
	"earnestpony/internal/shop/rules"
)

// BikeCosts compares what replacing a bike's chain early or late costs, in the shop's prices and by the
// bike's own forecast. Amounts are in minor units, distances in km of the road as this bike is ridden.
type BikeCosts struct {
	Currency   string           `json:"currency"`
	Class      string           `json:"class,omitempty"` // of its drivetrain, whose prices these are
	Prices     *rules.ClassRule `json:"prices,omitempty"`
	Readings   int              `json:"readings"` // of the chain now on, that the forecast is made of
	HardPerKM  float64          `json:"hard_per_km"`
	Strategies []StrategyCost   `json:"strategies"`
	// RunOutRefused says that running the chain out is not among them: cargo, children or a mid motor.
	RunOutRefused bool     `json:"run_out_refused"`
	Missing       []string `json:"missing"` // what must be known before there can be a cost
}

// StrategyCost is what replacing the chain at a limit costs in the long run.
type StrategyCost struct {
	LimitPct             float64         `json:"limit_pct"`
	RunOut               bool            `json:"run_out"`  // to the end, and everything replaced together
	InForce              bool            `json:"in_force"` // what this bike is held to
	Cheapest             bool            `json:"cheapest"`
	LifeKM               calc.Spread     `json:"life_km"`
	ChainsPerSprocketSet float64         `json:"chains_per_sprocket_set"`
	Per1000KM            calc.CostRange  `json:"per_1000_km"`
	PerYear              *calc.CostRange `json:"per_year,omitempty"` // nil when it is not known how far it is ridden
	ChainShare           float64         `json:"chain_share"`        // of the middle of Per1000KM, with the work on it
	SprocketsShare       float64         `json:"sprockets_share"`
	RingsShare           float64         `json:"rings_share"`
}

// Costs compares the strategies for a bike.
func (s *Bikes) Costs(ctx context.Context, tagText string) (BikeCosts, error) {
	t, facts, err := s.tracker(ctx, s.desk.Store.Read(ctx), tagText)
	if err != nil {
		return BikeCosts{}, err
	}
	w, err := t.Track(facts)
	if err != nil {
		return BikeCosts{}, err
	}
	c := BikeCosts{Currency: t.House.Currency, HardPerKM: t.PerKM, Strategies: []StrategyCost{}, Missing: append([]string{}, w.Missing...)}
	if slices.Contains(w.Missing, "kind") || slices.Contains(w.Missing, "sprockets") {
		return c, nil
	}
	dt := t.Ruling.Drivetrain
	class := dt.Class()
	prices, has := t.House.Prices[class]
	c.Class = class.String()
	if !has {
		c.Missing = append(c.Missing, "prices")
	}
	if len(c.Missing) > 0 {
		return c, nil
	}
	c.Prices, c.RunOutRefused = &t.House.Rules.Classes[class], !wear.RunOut.Allows(dt)
	q, err := t.Question(&w)
	if err != nil {
		return c, err
	}
	q.WithoutBand = true
	c.Readings = len(q.Observations)
	for _, limit := range forecast.StrategyLimits(dt, t.Ruling.Limits.Limit) {
		q.Limit = limit
		f, err := forecast.Look(q)
		if err != nil {
			return c, err
		}
		cost := t.strategy(prices, forecast.Strategy{Limit: limit, Life: f.Life}, w.RateHardKMPerDay)
		cost.RunOut = !c.RunOutRefused && limit == wear.RunOut.Limits(dt).Limit
		cost.InForce = limit == t.Ruling.Limits.Limit
		c.Strategies = append(c.Strategies, cost)
	}
	cheapest := slices.MinFunc(c.Strategies, func(a, b StrategyCost) int { return int(a.Per1000KM.Mid - b.Per1000KM.Mid) })
	for i := range c.Strategies {
		c.Strategies[i].Cheapest = c.Strategies[i].LimitPct == cheapest.LimitPct
	}
	return c, nil
}

// strategy prices a strategy by the kilometre of the road.
func (t Tracker) strategy(p forecast.Prices, s forecast.Strategy, hardPerDay float64) StrategyCost {
	cost := p.Cost(s, t.House.Sets)
	ofRoad := func(m forecast.Money) float64 { return float64(m) * t.PerKM }
	km := func(x forecast.HardKM) float64 { return float64(x) / t.PerKM }
	out := StrategyCost{LimitPct: float64(s.Limit), ChainsPerSprocketSet: cost.ChainsPerSet,
		LifeKM:     calc.Spread{P10: km(s.Life.P10), P50: km(s.Life.P50), P90: km(s.Life.P90)},
		Per1000KM:  calc.CostRange{Low: ofRoad(cost.Low), Mid: ofRoad(cost.Mid), High: ofRoad(cost.High)},
		ChainShare: ofRoad(cost.Chain), SprocketsShare: ofRoad(cost.Sprockets), RingsShare: ofRoad(cost.Rings)}
	if hardPerDay > 0 {
		year := func(m forecast.Money) float64 { return float64(m) * hardPerDay * daysInYear / 1000 }
		out.PerYear = &calc.CostRange{Low: year(cost.Low), Mid: year(cost.Mid), High: year(cost.High)}
	}
	return out
}

const daysInYear = 365.25
