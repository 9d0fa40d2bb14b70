package shop

import (
	"context"
	"earnestpony/core/price"
	"fmt"

	"earnestpony/core/chain"
	"earnestpony/core/fitting"
	"earnestpony/core/forecast"
	"earnestpony/core/sizing"
	"earnestpony/core/wear"
	"earnestpony/internal/store"
)

// ParsedRules is the shop's rules as the core takes them.
type ParsedRules struct {
	rules    Rules
	wear     wear.House
	places   int // read round a chain
	unit     wear.Unit
	factors  forecast.Factors
	sets     forecast.ChainsPerSet
	prices   map[chain.Class]forecast.Prices
	currency string
	length   sizing.Method
	sprocket fitting.SprocketSchool
	link     fitting.LinkSchool
	grease   fitting.GreaseSchool
}

func loadParsed(ctx context.Context, tx store.Tx) (ParsedRules, error) {
	r, _, err := loadRules(ctx, tx)
	if err != nil {
		return ParsedRules{}, err
	}
	return parseRules(r)
}

// parseRules reads rules that were checked, or a draft of some that were.
func parseRules(r Rules) (h ParsedRules, err error) {
	h = ParsedRules{rules: r, places: r.WearPlaces, currency: r.Currency, prices: map[chain.Class]forecast.Prices{}, wear: wear.House{Own: map[chain.Class]wear.Limits{}}}
	if h.wear.School, err = wear.ParseSchool(r.WearSchool); err != nil {
		return h, err
	}
	if h.unit, err = wear.ParseUnit(r.LengthUnit); err != nil {
		return h, err
	}
	if h.length, err = sizing.ParseHouseMethod(r.LengthMethod); err != nil {
		return h, err
	}
	if h.sprocket, err = fitting.ParseSprocketSchool(r.SprocketSchool); err != nil {
		return h, err
	}
	if h.link, err = fitting.ParseLinkSchool(r.LinkSchool); err != nil {
		return h, err
	}
	if h.grease, err = fitting.ParseGreaseSchool(r.GreaseSchool); err != nil {
		return h, err
	}
	f := r.Factors
	for c, factor := range map[forecast.Condition]float64{forecast.Fair: f.Fair, forecast.Dusty: f.Dusty, forecast.Wet: f.Wet, forecast.Mud: f.Mud, forecast.Salt: f.Salt} {
		h.factors.Conditions[c] = factor
	}
	h.factors.MidMotor = f.MidMotor
	h.sets = forecast.ChainsPerSet{Half: r.ChainsPerSet.Half, ThreeQuarter: r.ChainsPerSet.ThreeQuarter, One: r.ChainsPerSet.One}
	for _, rule := range r.Classes {
		class, err := chain.ParseClass(rule.Class)
		if err != nil {
			return h, err
		}
		if rule.LimitPct != nil && rule.TogetherPct != nil {
			h.wear.Own[class] = wear.Limits{Limit: chain.Percent(*rule.LimitPct), Together: chain.Percent(*rule.TogetherPct)}
		}
		if rule.Chain != nil {
			m := func(minor *int) forecast.Money { return forecast.Money(*minor) }
			h.prices[class] = forecast.Prices{Chain: m(rule.Chain), Sprockets: m(rule.Sprockets), Rings: m(rule.Rings),
				LabourChain: m(rule.LabourChain), LabourSprockets: m(rule.LabourSprockets), LabourRings: m(rule.LabourRings)}
		}
	}
	return h, nil
}

// distance says a distance in the shop's unit.
func (h ParsedRules) distance(km forecast.KM) string {
	if h.rules.DistanceUnit == "mi" {
		return fmt.Sprintf("%.0f mi", float64(km/forecast.Mile))
	}
	return fmt.Sprintf("%.0f km", float64(km))
}

// drivetrainOf joins what is on record with what was typed, if anything was; the record wins where it
// knows.
func drivetrainOf(bike *store.Bike, typed *Drivetrain) Drivetrain {
	var d Drivetrain
	if typed != nil {
		d = *typed
	}
	if bike != nil {
		f := bike.BikeFacts
		if f.DrivetrainKind != "" {
			d.Kind = f.DrivetrainKind
		}
		if f.SprocketCount != nil {
			d.Sprockets = f.SprocketCount
		}
		if f.Motor != "" {
			d.Motor = f.Motor
		}
		if f.Kind != "" {
			d.Carry = carries(f.Kind)
		}
	}
	if d.Kind == chain.SingleSpeed.String() || d.Kind == chain.HubGear.String() {
		one := 1
		d.Sprockets = &one
	}
	return d
}

func carries(kind string) bool { return kind == "cargo" || kind == "child-carrying" }

// ruling is what a chain is judged by.
type ruling struct {
	drivetrain chain.Drivetrain
	school     wear.School
	limits     wear.Limits
	missing    []string // what is not known and the limits turn on
}

// rule finds what the chain of a drivetrain is judged by; bike is nil for a walk-in.
func (h ParsedRules) rule(bike *store.Bike, d Drivetrain) ruling {
	r := ruling{drivetrain: chain.Drivetrain{Carry: d.Carry}}
	var err error
	if r.drivetrain.Kind, err = chain.ParseDrivetrainKind(d.Kind); err != nil {
		r.missing = append(r.missing, "kind")
	}
	if d.Sprockets == nil {
		r.missing = append(r.missing, "sprockets")
	} else {
		r.drivetrain.Sprockets = *d.Sprockets
	}
	own := overrideOf(bike)
	if r.drivetrain.Motor, err = chain.ParseMotor(d.Motor); err != nil {
		r.drivetrain.Motor = chain.MidMotor
		strict, _ := h.wear.Limits(r.drivetrain, own)
		r.drivetrain.Motor = chain.NoMotor
		if plain, _ := h.wear.Limits(r.drivetrain, own); plain != strict {
			r.missing = append(r.missing, "motor")
		}
	}
	r.limits, r.school = h.wear.Limits(r.drivetrain, own)
	return r
}

// overrideOf is what a bike has in place of the house rule.
func overrideOf(bike *store.Bike) (o wear.Override) {
	if bike == nil {
		return o
	}
	if bike.WearSchool != "" {
		school, err := wear.ParseSchool(bike.WearSchool)
		if err != nil {
			panic("school of a bike in the database: " + err.Error()) // a constraint forbids it
		}
		o.School = school
	}
	if bike.LimitPct != nil {
		source, err := wear.ParseSource(bike.LimitSource)
		if err != nil {
			panic("limit source in the database: " + err.Error()) // a constraint forbids it
		}
		o.Limits = wear.Limits{Limit: chain.Percent(*bike.LimitPct), Together: chain.Percent(*bike.TogetherPct), Source: source}
	}
	return o
}

// Drivetrain is what a verdict needs to know of the bike; what is not known is empty or nil.
type Drivetrain struct {
	Kind      string `json:"kind,omitempty"`
	Sprockets *int   `json:"sprockets,omitempty"`
	Motor     string `json:"motor,omitempty"`
	Carry     bool   `json:"carry,omitempty"`
}

// amount is money as a person reads it.
func (h ParsedRules) amount(m price.Money) string {
	return fmt.Sprintf("%s %.2f", h.currency, float64(m)/100)
}
