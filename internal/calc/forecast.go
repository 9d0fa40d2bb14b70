package calc

import (
	"errors"
	"fmt"
	"math"

	"earnestpony/core/chain"
	"earnestpony/core/forecast"
	"earnestpony/core/wear"
)

// Spread is the 10th, 50th and 90th percentile of something.
type Spread struct {
	P10 float64 `json:"p10"`
	P50 float64 `json:"p50"`
	P90 float64 `json:"p90"`
}

// BandPoint is the elongation to be expected at a distance.
type BandPoint struct {
	HardKM float64 `json:"hard_km"`
	Spread
}

// ForecastAnswer is what [Forecast] answers. Days are there when the rate is known.
type ForecastAnswer struct {
	LeftHardKM      Spread            `json:"left_hard_km"`
	PPastLimit      float64           `json:"p_past_limit"`
	NextCheckHardKM float64           `json:"next_check_hard_km"`
	LeftDays        *Spread           `json:"left_days,omitempty"`
	NextCheckDays   *float64          `json:"next_check_days,omitempty"`
	Measured        bool              `json:"measured"`
	KHardKM         Spread            `json:"k_hard_km"`
	Band            []BandPoint       `json:"band"`
	Warnings        []ForecastWarning `json:"warnings"`
}

// ForecastWarning is something the answer should be read with.
type ForecastWarning struct {
	Code string `json:"code"`
}

// The bounds of what a forecast may be asked.
const (
	maxHardKM       = 1e6
	maxObservations = 500
)

// Forecast says when a chain reaches its limit; see the contract for its input.
func Forecast(input []byte) (*ForecastAnswer, error) {
	var f faults
	in, ok := root(input, &f)
	if !ok {
		return nil, f.refusal()
	}
	care := named(in, "care", true, forecast.ParseCare)
	q := forecast.Question{Prior: care.Prior()}
	q.Limit = chain.Percent(in.numberNeeded("limit_pct", float64(wear.LowestLimit), float64(wear.HighestLimit)))
	q.Now = forecast.HardKM(in.numberNeeded("now_hard_km", 0, maxHardKM))
	if !in.has("observations") {
		in.take("observations")
		in.need("observations")
	}
	for _, o := range in.objects("observations", 0, maxObservations) {
		q.Observations = append(q.Observations, readObservation(o))
	}
	rate, _ := in.number("hard_km_per_day", -maxHardKM, maxHardKM)
	if o, ok := in.object("prior"); ok {
		q.Prior.MedianLnK = o.numberNeeded("ln_k_median", 0, math.Log(maxHardKM))
		q.Prior.Sigma = o.numberNeeded("sigma", 0.01, 3)
		o.done()
	}
	in.done()
	if err := f.refusal(); err != nil {
		return nil, err
	}
	answer, err := forecast.Look(q)
	var beyond *forecast.BeyondNowError
	if errors.As(err, &beyond) {
		f.add(fmt.Sprintf("observations[%d].hard_km", beyond.Index), "beyond-now", "%v", beyond)
		return nil, f.refusal()
	}
	if err != nil {
		return nil, err
	}
	return NewForecastAnswer(answer, rate), nil
}

// NewForecastAnswer writes a forecast as the contract has it. rate is in hard km a day; without one
// above zero there are no days.
func NewForecastAnswer(f forecast.Forecast, rate float64) *ForecastAnswer {
	a := &ForecastAnswer{LeftHardKM: spreadOf(f.Left, 1), PPastLimit: f.Past, NextCheckHardKM: float64(f.NextCheck), Measured: f.Measured,
		KHardKM: spreadOf(f.K, 1), Warnings: []ForecastWarning{}}
	if rate > 0 {
		days, next := spreadOf(f.Left, 1/rate), float64(f.NextCheck)/rate
		a.LeftDays, a.NextCheckDays = &days, &next
	}
	for _, p := range f.Band {
		a.Band = append(a.Band, BandPoint{float64(p.At), spreadOf(p.Percentiles, 1)})
	}
	for _, w := range f.Warnings {
		a.Warnings = append(a.Warnings, ForecastWarning{string(w)})
	}
	return a
}

func spreadOf[T ~float64](p forecast.Percentiles[T], by float64) Spread {
	return Spread{float64(p.P10) * by, float64(p.P50) * by, float64(p.P90) * by}
}

// readObservation reads a value with its error, or an interval with its edge; which of them it is
// shows by its fields.
func readObservation(o *object) forecast.Observation {
	const lo, hi = -5, 1000 // percent; a chain far past any limit may still be asked about
	at := forecast.HardKM(o.numberNeeded("hard_km", 0, maxHardKM))
	defer o.done()
	if !o.has("low_pct") && !o.has("edge_pct") {
		e := o.numberNeeded("elongation_pct", lo, hi)
		return forecast.Read(at, chain.Percent(e), chain.Percent(o.numberNeeded("sigma_pct", 1e-6, hi)))
	}
	v := wear.Interval{Low: chain.Percent(o.numberNeeded("low_pct", 0, hi)), High: chain.Percent(math.Inf(1)),
		Edge: chain.Percent(o.numberNeeded("edge_pct", 1e-6, hi))}
	if high, ok := o.number("high_pct", lo, hi); ok {
		v.High = chain.Percent(high)
		if v.High <= v.Low {
			o.faults.add(o.at("high_pct"), "out-of-range", "an interval ends above where it begins")
		}
	}
	return forecast.Between(at, v)
}

// CostAnswer is what [Cost] answers, a strategy each in the order asked.
type CostAnswer struct {
	Strategies []StrategyCost `json:"strategies"`
}

// StrategyCost is what replacing the chain at a limit costs in the long run.
type StrategyCost struct {
	LimitPct             float64   `json:"limit_pct"`
	ChainsPerSprocketSet float64   `json:"chains_per_sprocket_set"`
	Per1000HardKM        CostRange `json:"per_1000_hard_km"`
}

// CostRange is in minor units; Low is for a chain that lasts long.
type CostRange struct {
	Low  float64 `json:"low"`
	Mid  float64 `json:"mid"`
	High float64 `json:"high"`
}

// maxAmount is more than any part or its fitting costs, in minor units.
const maxAmount = 1e9

// Cost compares strategies of replacing a chain; see the contract for its input.
func Cost(input []byte) (*CostAnswer, error) {
	var f faults
	in, ok := root(input, &f)
	if !ok {
		return nil, f.refusal()
	}
	amount := func(name string) forecast.Money { return forecast.Money(in.wholeNeeded(name, 0, maxAmount)) }
	prices := forecast.Prices{Chain: amount("chain"), Sprockets: amount("sprockets"), Rings: amount("rings"),
		LabourChain: amount("labour_chain"), LabourSprockets: amount("labour_sprockets"), LabourRings: amount("labour_rings")}
	named(in, "currency", true, parseCurrency)
	if !in.has("strategies") {
		in.take("strategies")
		in.need("strategies")
	}
	var strategies []forecast.Strategy
	for _, o := range in.objects("strategies", 1, 20) {
		s := forecast.Strategy{Limit: chain.Percent(o.numberNeeded("limit_pct", float64(wear.LowestLimit), float64(wear.HighestLimit)))}
		if life, ok := o.object("life_hard_km"); ok {
			km := func(name string) forecast.HardKM { return forecast.HardKM(life.numberNeeded(name, 1, maxHardKM)) }
			s.Life = forecast.Percentiles[forecast.HardKM]{P10: km("p10"), P50: km("p50"), P90: km("p90")}
			life.done()
			if s.Life.P10 > s.Life.P50 || s.Life.P50 > s.Life.P90 {
				f.add(o.at("life_hard_km"), "out-of-order", "a life's 10th, 50th and 90th percentile rise")
			}
		} else if !o.has("life_hard_km") {
			o.need("life_hard_km")
		}
		o.done()
		strategies = append(strategies, s)
	}
	in.done()
	if err := f.refusal(); err != nil {
		return nil, err
	}
	a := &CostAnswer{}
	for _, s := range strategies {
		c := prices.Cost(s, forecast.HouseChainsPerSet)
		a.Strategies = append(a.Strategies, StrategyCost{float64(s.Limit), c.ChainsPerSet, CostRange{float64(c.Low), float64(c.Mid), float64(c.High)}})
	}
	return a, nil
}

// parseCurrency reads a code of three capital letters.
func parseCurrency(s string) (string, error) {
	if len(s) != 3 || s[0] < 'A' || s[0] > 'Z' || s[1] < 'A' || s[1] > 'Z' || s[2] < 'A' || s[2] > 'Z' {
		return "", fmt.Errorf("%q is not a currency: three capital letters, such as EUR", s)
	}
	return s, nil
}
