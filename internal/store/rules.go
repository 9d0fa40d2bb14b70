package store

import (
	"context"
	"time"

	"gorm.io/gorm"
)

// Shop is the shop's own settings; a database has one.
type Shop struct {
	ID                 int16
	Name               string
	LengthUnit         string
	DistanceUnit       string
	TemperatureUnit    string `gorm:"default:c"`  // c, f
	VolumeUnit         string `gorm:"default:ml"` // ml, fl-oz
	MassUnit           string `gorm:"default:g"`  // g, oz
	TimeZone           string // IANA; empty until somebody or the machine said where the shop is
	Locale             string `gorm:"default:en-GB"` // BCP 47: how numbers, dates and amounts are written
	WearSchool         string
	WearPlaces         int
	Currency           string
	Factors            *Factors      `gorm:"serializer:json"` // nil: the house's
	ChainsPerSet       *ChainsPerSet `gorm:"serializer:json"` // nil: the house's
	LengthMethod       string
	SprocketSchool     string
	LinkSchool         string
	GreaseSchool       string
	SessionIdleMinutes int
	Work               *Work      `gorm:"serializer:json"` // nil: the house's
	Intervals          *Intervals `gorm:"serializer:json"` // nil: the house's
	Recalls            *Recalls   `gorm:"serializer:json"` // nil: the house's
	Floor              *Floor     `gorm:"serializer:json"` // nil: the house's
	SettingUp          []string   `gorm:"serializer:json"` // what of the set-up is left; nil where it was not from the page
	Version            int
}

// Work is how the shop cleans and what it charges. Amounts are in minor units.
type Work struct {
	First      string         `json:"first"`
	Pressure   string         `json:"pressure"`
	When       string         `json:"when"`
	Product    string         `json:"wash_product"`
	Crank      string         `json:"crank"`
	Cleaner    string         `json:"cleaner"`
	Oiling     string         `json:"oiling"`
	OilBy      string         `json:"oil_by"`
	Strip      string         `json:"strip"`
	Washer     bool           `json:"parts_washer"`
	WheelIn    bool           `json:"wheel_in"` // no dummy hub: the wheel stays in for the chain bath
	FreehubDry bool           `json:"freehub_dry"`
	Blower     bool           `json:"blower"`
	Damp       bool           `json:"damp"`
	Minutes    map[string]int `json:"minutes"` // of hands, by step
	LabourHour int            `json:"labour_hour"`
	LabourStep int            `json:"labour_step"` // minutes that labour is rounded up to
	FixedRoute map[string]int `json:"fixed_route"`
	FluidsBy   float64        `json:"fluids_by"`
	WasteRoute map[string]int `json:"waste_route"`
	TaxPct     float64        `json:"tax_pct"`
	TaxInside  bool           `json:"tax_inside"`
	AskOverPct float64        `json:"ask_over_pct"` // beyond an agreed price by more than that the owner is asked
}

// TableName is the singular: there is one.
func (Shop) TableName() string { return "shop" }

// Factors is how many hard km a km of each condition counts for, and by how much a mid motor raises it.
type Factors struct {
	Fair     float64 `json:"fair"`
	Dusty    float64 `json:"dusty"`
	Wet      float64 `json:"wet"`
	Mud      float64 `json:"mud"`
	Salt     float64 `json:"salt"`
	MidMotor float64 `json:"mid_motor"`
}

// ChainsPerSet is how many chains a set of sprockets lasts, by the wear at which they are replaced.
type ChainsPerSet struct {
	Half         float64 `json:"half"`
	ThreeQuarter float64 `json:"three_quarter"`
	One          float64 `json:"one"`
}

// ClassRule is what the shop says of one class of drivetrains. Limits and prices come whole or not at
// all; prices are in minor units of the shop's currency.
type ClassRule struct {
	Class           string   `json:"class" gorm:"primaryKey"`
	LimitPct        *float64 `json:"limit_pct,omitempty"`
	TogetherPct     *float64 `json:"together_pct,omitempty"`
	LimitReason     string   `json:"limit_reason,omitempty"`
	Chain           *int     `json:"chain,omitempty"`
	Sprockets       *int     `json:"sprockets,omitempty"`
	Rings           *int     `json:"rings,omitempty"`
	LabourChain     *int     `json:"labour_chain,omitempty"`
	LabourSprockets *int     `json:"labour_sprockets,omitempty"`
	LabourRings     *int     `json:"labour_rings,omitempty"`
}

// Shop returns the shop's settings, or [ErrNotFound] before it is set up.
func (t Tx) Shop(ctx context.Context) (Shop, error) {
	s, err := gorm.G[Shop](t.db).Where("id = 1").First(ctx)
	return s, translate(err, "load shop")
}

// TimeZone is the name of the shop's zone; empty before there is one, or a shop.
func (t Tx) TimeZone(ctx context.Context) (string, error) {
	var zone string
	err := t.db.WithContext(ctx).Raw("select time_zone from shop where id = 1").Scan(&zone).Error
	return zone, translate(err, "load the time zone")
}

// SettleTimeZone gives the shop a zone where it has none, and reports whether it did.
func (t Tx) SettleTimeZone(ctx context.Context, zone string) (bool, error) {
	result := t.db.WithContext(ctx).Exec("update shop set time_zone = ? where id = 1 and time_zone = ''", zone)
	return result.RowsAffected > 0, translate(result.Error, "settle the time zone")
}

// ClockAhead is how far a demo's clock runs ahead of the world's.
func (t Tx) ClockAhead(ctx context.Context) (time.Duration, error) {
	var s int64
	err := t.db.WithContext(ctx).Raw("select clock_ahead_s from shop where id = 1").Scan(&s).Error
	return time.Duration(s) * time.Second, translate(err, "load the demo's clock")
}

// SetClockAhead sets how far a demo's clock runs ahead of the world's, to the second.
func (t Tx) SetClockAhead(ctx context.Context, ahead time.Duration) error {
	return translate(t.db.WithContext(ctx).Exec("update shop set clock_ahead_s = ? where id = 1", int64(ahead/time.Second)).Error, "set the demo's clock")
}

// SetUpShop writes the settings of a new shop.
func (t Tx) SetUpShop(ctx context.Context, s *Shop) error {
	s.ID = 1
	return translate(gorm.G[Shop](t.db).Create(ctx, s), "set up shop")
}

// ReplaceShop makes the shop, or another of the one that is there.
func (t Tx) ReplaceShop(ctx context.Context, s *Shop) error {
	s.ID = 1
	return translate(t.db.WithContext(ctx).Save(s).Error, "replace shop")
}

// SaveShop writes s if its version is still the one in the database, else [ErrStale].
func (t Tx) SaveShop(ctx context.Context, s *Shop) error {
	seen := s.Version
	s.Version++
	result := t.db.WithContext(ctx).Model(&Shop{}).Where("id = 1 and version = ?", seen).Select("*").Omit("id", "name", "clock_ahead_s", "setting_up").Updates(s)
	return changed(result, "save shop")
}

// ClassRules returns what the shop says of each class of drivetrains it says anything of.
func (t Tx) ClassRules(ctx context.Context) ([]ClassRule, error) {
	rules, err := gorm.G[ClassRule](t.db).Order("class").Find(ctx)
	return rules, translate(err, "list class rules")
}

// SaveClassRules writes the rules of all classes in place of those there were.
func (t Tx) SaveClassRules(ctx context.Context, rules []ClassRule) error {
	if err := t.db.WithContext(ctx).Exec(`delete from class_rules`).Error; err != nil {
		return translate(err, "clear class rules")
	}
	for i := range rules {
		if err := gorm.G[ClassRule](t.db).Create(ctx, &rules[i]); err != nil {
			return translate(err, "save rules of %s", rules[i].Class)
		}
	}
	return nil
}
