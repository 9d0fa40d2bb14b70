package rules

import (
	"context"
	"fmt"
	"reflect"
	"regexp"
	"time"

	"golang.org/x/text/language"

	"earnestpony/core/chain"
	"earnestpony/core/forecast"
	"earnestpony/core/wear"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// Factors is how many hard km a km of each condition counts for, and by how much a mid motor raises it.
type Factors = store.Factors

// ChainsPerSet is how many chains a set of sprockets lasts, by the wear at which they are replaced.
type ChainsPerSet = store.ChainsPerSet

// ClassRule is what the shop says of one class of drivetrains; prices are in minor units.
type ClassRule = store.ClassRule

// CurrentRules is how this shop does things.
type Rules struct {
	WearSchool         string       `json:"wear_school"`
	WearPlaces         int          `json:"wear_places"`
	LengthUnit         string       `json:"length_unit"`
	DistanceUnit       string       `json:"distance_unit"`
	TemperatureUnit    string       `json:"temperature_unit"`
	VolumeUnit         string       `json:"volume_unit"`
	MassUnit           string       `json:"mass_unit"`
	TimeZone           string       `json:"time_zone"` // IANA
	Locale             string       `json:"locale"`    // BCP 47: how numbers, dates and amounts are written
	Currency           string       `json:"currency"`
	Factors            Factors      `json:"factors"`
	ChainsPerSet       ChainsPerSet `json:"chains_per_set"`
	Classes            []ClassRule  `json:"classes"` // every class, in the order of the core
	LengthMethod       string       `json:"length_method"`
	SprocketSchool     string       `json:"sprocket_school"`
	LinkSchool         string       `json:"link_school"`
	GreaseSchool       string       `json:"grease_school"`
	SessionIdleMinutes int          `json:"session_idle_minutes"`
	Work               WorkRules    `json:"work"`
	Intervals          Intervals    `json:"intervals"`
	Floor              Floor        `json:"floor"`
	Recalls            Recalls      `json:"recalls"`
}

// RulesView is the rules with what they are held against.
type RulesView struct {
	Rules     Rules         `json:"rules"`
	Version   int           `json:"version"`
	ChangedAt *time.Time    `json:"changed_at,omitempty"` // nil before the first change
	ChangedBy string        `json:"changed_by,omitempty"`
	Defaults  RulesDefaults `json:"defaults"`
	Schools   []SchoolLines `json:"schools"`
}

// RulesDefaults is what holds where a shop set nothing of its own.
type RulesDefaults struct {
	Factors      Factors      `json:"factors"`
	ChainsPerSet ChainsPerSet `json:"chains_per_set"`
	Steps        []StepShort  `json:"steps"` // of the catalogue, with their minutes
	Tasks        []TaskLine   `json:"tasks"` // of the house's table, under the shop's school
	// Skills are what people of each role do on the floor whom the shop said nothing about.
	Skills map[string][]string `json:"skills"`
}

// SchoolLines is where a school draws its lines.
type SchoolLines struct {
	School  string       `json:"school"`
	Classes []ClassLines `json:"classes"`
}

// ClassLines is the two lines for a class of drivetrains.
type ClassLines struct {
	Class       string  `json:"class"`
	LimitPct    float64 `json:"limit_pct"`
	TogetherPct float64 `json:"together_pct"`
}

func DefaultFactors() Factors {
	c, m := forecast.HouseFactors.Conditions, forecast.HouseFactors.MidMotor
	return Factors{Fair: c[forecast.Fair], Dusty: c[forecast.Dusty], Wet: c[forecast.Wet], Mud: c[forecast.Mud], Salt: c[forecast.Salt], MidMotor: m}
}

func DefaultChainsPerSet() ChainsPerSet {
	h := forecast.HouseChainsPerSet
	return ChainsPerSet{Half: h.Half, ThreeQuarter: h.ThreeQuarter, One: h.One}
}

// loadRules returns the rules with the shop's row that they are kept in.
func loadRules(ctx context.Context, tx store.Tx) (Rules, store.Shop, error) {
	row, err := tx.Shop(ctx)
	if err != nil {
		return Rules{}, row, err
	}
	kept, err := tx.ClassRules(ctx)
	if err != nil {
		return Rules{}, row, err
	}
	r := Rules{WearSchool: row.WearSchool, WearPlaces: row.WearPlaces, LengthUnit: row.LengthUnit, DistanceUnit: row.DistanceUnit,
		TemperatureUnit: row.TemperatureUnit, VolumeUnit: row.VolumeUnit, MassUnit: row.MassUnit, TimeZone: row.TimeZone, Locale: row.Locale,
		Currency: row.Currency, Factors: DefaultFactors(), ChainsPerSet: DefaultChainsPerSet(), LengthMethod: row.LengthMethod,
		SprocketSchool: row.SprocketSchool, LinkSchool: row.LinkSchool, GreaseSchool: row.GreaseSchool, SessionIdleMinutes: row.SessionIdleMinutes}
	if row.Factors != nil {
		r.Factors = *row.Factors
	}
	if row.ChainsPerSet != nil {
		r.ChainsPerSet = *row.ChainsPerSet
	}
	r.Classes = everyClass(kept)
	r.Work = defaultWork()
	if row.Work != nil {
		r.Work = withDefaults(*row.Work)
	}
	r.Intervals, r.Recalls = defaultIntervals(), defaultRecalls()
	r.Floor = defaultFloor()
	if row.Floor != nil {
		r.Floor = *row.Floor
	}
	if row.Intervals != nil {
		r.Intervals = *row.Intervals
	}
	if row.Recalls != nil {
		r.Recalls = *row.Recalls
	}
	return r, row, nil
}

// everyClass returns one rule for each class, in the core's order; one that says nothing where none was
// given.
func everyClass(given []ClassRule) []ClassRule {
	classes := make([]ClassRule, 0, chain.Classes)
	for c := range chain.Classes {
		rule := ClassRule{Class: c.String()}
		for _, g := range given {
			if g.Class == rule.Class {
				rule = g
			}
		}
		classes = append(classes, rule)
	}
	return classes
}

// CurrentRules returns the house rules.
func (s *Book) CurrentRules(ctx context.Context) (RulesView, error) {
	return rulesView(ctx, s.desk.Store.Read(ctx))
}

func rulesView(ctx context.Context, tx store.Tx) (RulesView, error) {
	r, row, err := loadRules(ctx, tx)
	if err != nil {
		return RulesView{}, err
	}
	v := RulesView{Rules: r, Version: row.Version, Defaults: RulesDefaults{DefaultFactors(), DefaultChainsPerSet(), defaultSteps(), taskLines(r), skillsByRole}}
	for _, school := range wear.Schools() {
		lines := SchoolLines{School: school.String()}
		for c, d := range exampleOf {
			l := school.Limits(d)
			lines.Classes = append(lines.Classes, ClassLines{chain.Class(c).String(), float64(l.Limit), float64(l.Together)})
		}
		v.Schools = append(v.Schools, lines)
	}
	last, err := tx.LastRulesEntry(ctx)
	switch {
	case record.IsNotFound(err):
		return v, nil
	case err != nil:
		return v, err
	}
	v.ChangedAt, v.ChangedBy = &last.WrittenAt, last.PersonName
	return v, nil
}

// exampleOf is a drivetrain of each class: a school draws its lines for the class alone.
var exampleOf = [chain.Classes]chain.Drivetrain{
	chain.OneSprocket: {Kind: chain.SingleSpeed, Sprockets: 1, Motor: chain.NoMotor},
	chain.WideChain:   {Kind: chain.Derailleur, Sprockets: 10, Motor: chain.NoMotor},
	chain.NarrowChain: {Kind: chain.Derailleur, Sprockets: 12, Motor: chain.NoMotor},
}

// The bounds of what a shop may set.
const (
	maxChainsPerSet = 20
	maxMinutesIdle  = 7 * 24 * 60
)

var currencyForm = regexp.MustCompile(`^[A-Z]{3}$`)

// CheckRules tidies rules in place and says what is wrong with them together.
func CheckRules(r *Rules) error {
	var fields record.Faults
	fault := fields.Under("rules")
	if r.WearPlaces < 1 || r.WearPlaces > wear.MaxPlaces {
		fault("wear_places", "out-of-range", "A measurement has one to %d places.", wear.MaxPlaces)
	}
	checkPlace(r.TimeZone, r.Locale, r.Currency, fault)
	if r.SessionIdleMinutes < 1 || r.SessionIdleMinutes > maxMinutesIdle {
		fault("session_idle_minutes", "out-of-range", "Somebody is signed out after 1 to %d minutes.", maxMinutesIdle)
	}
	for name, f := range map[string]float64{"fair": r.Factors.Fair, "dusty": r.Factors.Dusty, "wet": r.Factors.Wet, "mud": r.Factors.Mud, "salt": r.Factors.Salt, "mid_motor": r.Factors.MidMotor} {
		if f < forecast.LowestFactor || f > forecast.HighestFactor {
			fault("factors."+name, "out-of-range", "A kilometre counts for %g to %g.", forecast.LowestFactor, float64(forecast.HighestFactor))
		}
	}
	n := r.ChainsPerSet
	for name, v := range map[string]float64{"half": n.Half, "three_quarter": n.ThreeQuarter, "one": n.One} {
		if v < 1 || v > maxChainsPerSet {
			fault("chains_per_set."+name, "out-of-range", "A cassette lasts 1 to %d chains.", maxChainsPerSet)
		}
	}
	if n.Half < n.ThreeQuarter || n.ThreeQuarter < n.One {
		fault("chains_per_set", "out-of-order", "A cassette does not last longer when its chains are changed later.")
	}
	r.Classes = everyClass(r.Classes)
	for i := range r.Classes {
		checkClass(&r.Classes[i], func(name, code, format string, args ...any) {
			fault(fmt.Sprintf("classes[%d].%s", i, name), code, format, args...)
		})
	}
	checkWork(&r.Work, func(name, code, format string, args ...any) { fault("work."+name, code, format, args...) })
	checkIntervals(&r.Intervals, func(name, code, format string, args ...any) { fault("intervals."+name, code, format, args...) })
	checkFloor(&r.Floor, func(name, code, format string, args ...any) { fault("floor."+name, code, format, args...) })
	checkRecalls(&r.Recalls, func(name, code, format string, args ...any) { fault("recalls."+name, code, format, args...) })
	if err := fields.Err(); err != nil {
		return err
	}
	return nil
}

// checkPlace says what is wrong with where a shop is, how it writes, and what it is paid in.
func checkPlace(zone, locale, currency string, fault func(name, code, format string, args ...any)) {
	if !currencyForm.MatchString(currency) {
		fault("currency", "not-a-currency", "A currency is three capital letters, such as EUR.")
	}
	if _, err := record.ParseZone(zone); err != nil || zone == "" {
		fault("time_zone", "unknown-value", noZone, zone)
	}
	if _, err := language.Parse(locale); err != nil {
		fault("locale", "unknown-value", "%.60q is no way of writing numbers and dates. One is named as en-GB is.", locale)
	}
}

func checkClass(c *ClassRule, fault func(name, code, format string, args ...any)) {
	c.LimitReason = record.CleanLine(c.LimitReason)
	switch {
	case c.LimitPct == nil && c.TogetherPct == nil:
		c.LimitReason = ""
	case c.LimitPct == nil:
		fault("limit_pct", "missing", "Own wear limits need both: where the chain is replaced, and where the cassette goes with it.")
	case c.TogetherPct == nil:
		fault("together_pct", "missing", "Own wear limits need both: where the chain is replaced, and where the cassette goes with it.")
	case *c.TogetherPct < *c.LimitPct:
		fault("together_pct", "out-of-range", "The cassette cannot be expected to go before the chain.")
	case c.LimitReason == "":
		fault("limit_reason", "missing", "Say why the shop has lines of its own here.")
	}
	prices := map[string]*int{"chain": c.Chain, "sprockets": c.Sprockets, "rings": c.Rings,
		"labour_chain": c.LabourChain, "labour_sprockets": c.LabourSprockets, "labour_rings": c.LabourRings}
	given := 0
	for name, p := range prices {
		if p == nil {
			continue
		}
		given++
		if *p < 0 || *p > record.MaxPrice {
			fault(name, "out-of-range", "This cannot be a price.")
		}
	}
	if given == 0 || given == len(prices) {
		return
	}
	for name, p := range prices {
		if p == nil {
			fault(name, "missing", "A cost needs all six prices; 0 is a price too.")
		}
	}
}

// rulesBody is what the ledger keeps of a change of the rules.
type rulesBody struct {
	Changed []string `json:"changed"`
	Rules   Rules    `json:"rules"`
	Before  *Rules   `json:"before,omitempty"` // nil in entries of older versions
}

// ChangeRules writes new rules over the version that the sender saw.
func (s *Book) ChangeRules(ctx context.Context, who record.Actor, version int, r Rules) (RulesView, error) {
	if err := CheckRules(&r); err != nil {
		return RulesView{}, err
	}
	type row struct {
		rules Rules
		shop  store.Shop
	}
	return record.Revise(ctx, s.desk, who, record.Revision[row, RulesView]{
		Operation: "change-rules", Version: version, Yours: r,
		Load: func(ctx context.Context, tx store.Tx) (row, error) {
			before, shop, err := loadRules(ctx, tx)
			return row{before, shop}, err
		},
		Seen: func(row row) int { return row.shop.Version },
		Change: func(_ context.Context, _ store.Tx, row *row) (*store.Entry, any, error) {
			changed, err := record.ChangedFields(row.rules, r)
			if err != nil || len(changed) == 0 {
				return nil, nil, err
			}
			minutes := row.rules
			minutes.Work.Minutes = r.Work.Minutes
			if more, err := record.ChangedFields(minutes, r); err != nil {
				return nil, nil, err
			} else if len(more) > 0 { // the minutes of steps are a mechanic's to set
				if err := people.Allow(people.Settings, who); err != nil {
					return nil, nil, err
				}
			}
			return &store.Entry{Kind: record.KindRulesChanged}, rulesBody{changed, r, &row.rules}, nil
		},
		Save: func(ctx context.Context, tx store.Tx, row *row) error { return s.saveRules(ctx, tx, row.shop, r) },
		View: func(ctx context.Context, tx store.Tx, _ row) (RulesView, error) { return rulesView(ctx, tx) },
	})
}

func (s *Book) saveRules(ctx context.Context, tx store.Tx, row store.Shop, r Rules) error {
	row.WearSchool, row.WearPlaces, row.LengthUnit, row.DistanceUnit = r.WearSchool, r.WearPlaces, r.LengthUnit, r.DistanceUnit
	row.TemperatureUnit, row.VolumeUnit, row.MassUnit, row.TimeZone, row.Locale = r.TemperatureUnit, r.VolumeUnit, r.MassUnit, r.TimeZone, r.Locale
	row.Currency, row.SessionIdleMinutes = r.Currency, r.SessionIdleMinutes
	row.LengthMethod, row.SprocketSchool, row.LinkSchool, row.GreaseSchool = r.LengthMethod, r.SprocketSchool, r.LinkSchool, r.GreaseSchool
	// What is as the house has it stays the house's, should that ever learn better.
	row.Factors, row.ChainsPerSet = nil, nil
	if r.Factors != DefaultFactors() {
		row.Factors = &r.Factors
	}
	if r.ChainsPerSet != DefaultChainsPerSet() {
		row.ChainsPerSet = &r.ChainsPerSet
	}
	row.Work = nil
	if !reflect.DeepEqual(r.Work, defaultWork()) {
		row.Work = &r.Work
	}
	row.Intervals, row.Recalls, row.Floor = nil, nil, nil
	if !reflect.DeepEqual(r.Floor, defaultFloor()) {
		row.Floor = &r.Floor
	}
	if !reflect.DeepEqual(r.Intervals, defaultIntervals()) {
		row.Intervals = &r.Intervals
	}
	if !reflect.DeepEqual(r.Recalls, defaultRecalls()) {
		row.Recalls = &r.Recalls
	}
	if err := tx.SaveShop(ctx, &row); err != nil {
		return err
	}
	return tx.SaveClassRules(ctx, r.Classes)
}

func init() {
	record.Holds[rulesBody](nil, record.KindRulesChanged)
}
