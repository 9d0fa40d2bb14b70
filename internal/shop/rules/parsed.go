package rules

import (
	"context"
	"math"
	"time"

	"golang.org/x/text/currency"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/number"

	"earnestpony/core/chain"
	"earnestpony/core/fitting"
	"earnestpony/core/forecast"
	"earnestpony/core/price"
	"earnestpony/core/sizing"
	"earnestpony/core/wear"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// ParsedRules is the shop's rules as the core takes them.
type ParsedRules struct {
	Rules    Rules
	Wear     wear.House
	Places   int // read round a chain
	Unit     wear.Unit
	Factors  forecast.Factors
	Sets     forecast.ChainsPerSet
	Prices   map[chain.Class]forecast.Prices
	Currency string
	Zone     *time.Location // the shop's
	Length   sizing.Method
	Sprocket fitting.SprocketSchool
	Link     fitting.LinkSchool
	Grease   fitting.GreaseSchool
}

func LoadParsed(ctx context.Context, tx store.Tx) (ParsedRules, error) {
	r, _, err := loadRules(ctx, tx)
	if err != nil {
		return ParsedRules{}, err
	}
	return ParseRules(r)
}

// ParseRules reads rules that were checked, or a draft of some that were.
func ParseRules(r Rules) (h ParsedRules, err error) {
	h = ParsedRules{Rules: r, Places: r.WearPlaces, Currency: r.Currency, Prices: map[chain.Class]forecast.Prices{}, Wear: wear.House{Own: map[chain.Class]wear.Limits{}}}
	if h.Zone, err = record.ParseZone(r.TimeZone); err != nil {
		return h, err
	}
	if h.Wear.School, err = wear.ParseSchool(r.WearSchool); err != nil {
		return h, err
	}
	if h.Unit, err = wear.ParseUnit(r.LengthUnit); err != nil {
		return h, err
	}
	if h.Length, err = sizing.ParseHouseMethod(r.LengthMethod); err != nil {
		return h, err
	}
	if h.Sprocket, err = fitting.ParseSprocketSchool(r.SprocketSchool); err != nil {
		return h, err
	}
	if h.Link, err = fitting.ParseLinkSchool(r.LinkSchool); err != nil {
		return h, err
	}
	if h.Grease, err = fitting.ParseGreaseSchool(r.GreaseSchool); err != nil {
		return h, err
	}
	f := r.Factors
	for c, factor := range map[forecast.Condition]float64{forecast.Fair: f.Fair, forecast.Dusty: f.Dusty, forecast.Wet: f.Wet, forecast.Mud: f.Mud, forecast.Salt: f.Salt} {
		h.Factors.Conditions[c] = factor
	}
	h.Factors.MidMotor = f.MidMotor
	h.Sets = forecast.ChainsPerSet{Half: r.ChainsPerSet.Half, ThreeQuarter: r.ChainsPerSet.ThreeQuarter, One: r.ChainsPerSet.One}
	for _, rule := range r.Classes {
		class, err := chain.ParseClass(rule.Class)
		if err != nil {
			return h, err
		}
		if rule.LimitPct != nil && rule.TogetherPct != nil {
			h.Wear.Own[class] = wear.Limits{Limit: chain.Percent(*rule.LimitPct), Together: chain.Percent(*rule.TogetherPct)}
		}
		if rule.Chain != nil {
			m := func(minor *int) forecast.Money { return forecast.Money(*minor) }
			h.Prices[class] = forecast.Prices{Chain: m(rule.Chain), Sprockets: m(rule.Sprockets), Rings: m(rule.Rings),
				LabourChain: m(rule.LabourChain), LabourSprockets: m(rule.LabourSprockets), LabourRings: m(rule.LabourRings)}
		}
	}
	return h, nil
}

// InMiles reports whether the shop tells distances in miles.
func (h ParsedRules) InMiles() bool { return h.Rules.DistanceUnit == "mi" }

// Distance says a distance in the shop's unit, as the shop writes numbers.
func (h ParsedRules) Distance(km forecast.KM) string {
	v, unit := float64(km), "km"
	if h.InMiles() {
		v, unit = float64(km/forecast.Mile), "mi"
	}
	return h.print().Sprintf("%v %s", number.Decimal(math.Round(v), number.MaxFractionDigits(0)), unit)
}

// Day says a day in the shop, in its region's order: 29 November 2026.
func (h ParsedRules) Day(t time.Time) string {
	layout := "2 January 2006"
	if region, _ := h.locale().Region(); region == language.MustParseRegion("US") {
		layout = "January 2, 2006"
	}
	return t.In(h.Zone).Format(layout)
}

func (h ParsedRules) locale() language.Tag { return language.Make(h.Rules.Locale) }

func (h ParsedRules) print() *message.Printer { return message.NewPrinter(h.locale()) }

// DrivetrainOf joins what is on record with what was typed, if anything was; the record wins where it
// knows.
func DrivetrainOf(bike *store.Bike, typed *Drivetrain) Drivetrain {
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
			d.Carry = record.Carries(f.Kind)
		}
	}
	if d.Kind == chain.SingleSpeed.String() || d.Kind == chain.HubGear.String() {
		one := 1
		d.Sprockets = &one
	}
	return d
}

// Ruling is what a chain is judged by.
type Ruling struct {
	Drivetrain chain.Drivetrain
	School     wear.School
	Limits     wear.Limits
	Missing    []string // what is not known and the limits turn on
}

// Rule finds what the chain of a drivetrain is judged by; bike is nil for a walk-in.
func (h ParsedRules) Rule(bike *store.Bike, d Drivetrain) Ruling {
	r := Ruling{Drivetrain: chain.Drivetrain{Carry: d.Carry}}
	var err error
	if r.Drivetrain.Kind, err = chain.ParseDrivetrainKind(d.Kind); err != nil {
		r.Missing = append(r.Missing, "kind")
	}
	if d.Sprockets == nil {
		r.Missing = append(r.Missing, "sprockets")
	} else {
		r.Drivetrain.Sprockets = *d.Sprockets
	}
	own := overrideOf(bike)
	if r.Drivetrain.Motor, err = chain.ParseMotor(d.Motor); err != nil {
		r.Drivetrain.Motor = chain.MidMotor
		strict, _ := h.Wear.Limits(r.Drivetrain, own)
		r.Drivetrain.Motor = chain.NoMotor
		if plain, _ := h.Wear.Limits(r.Drivetrain, own); plain != strict {
			r.Missing = append(r.Missing, "motor")
		}
	}
	r.Limits, r.School = h.Wear.Limits(r.Drivetrain, own)
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

// Amount is money as a person reads it.
func (h ParsedRules) Amount(m price.Money) string {
	scale := 2
	if unit, err := currency.ParseISO(h.Currency); err == nil {
		scale, _ = currency.Standard.Rounding(unit)
	}
	return h.print().Sprintf("%s %v", h.Currency, number.Decimal(float64(m)/math.Pow10(scale), number.Scale(scale)))
}
