package rules

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"earnestpony/core/fitting"
	"earnestpony/core/sizing"
	"earnestpony/core/wear"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// ErrSetUp reports that the database holds a shop already.
var ErrSetUp = errors.New("this database holds a shop already")

// DefaultLocale is how numbers and dates are written before a shop says so: as the words of the program are.
const DefaultLocale = "en-GB"

// Tool is a measuring tool that a new shop starts with.
type Tool struct {
	Name    string
	Kind    wear.Kind
	Spreads bool
	Marks   []float64 // percent
}

// HouseTools is one tool of every kind, with no zero check yet: what a shop starts with.
func HouseTools() []Tool {
	return []Tool{
		{Name: "Steel rule", Kind: wear.Ruler},
		{Name: "Caliper, inside jaws", Kind: wear.CaliperInside, Spreads: true},
		{Name: "Percent gauge", Kind: wear.GaugePercent, Spreads: true},
		{Name: "Drop-in gauge", Kind: wear.GaugeDropin, Spreads: true, Marks: []float64{0.5, 0.75, 1}},
		{Name: "Whole chain", Kind: wear.WholeChain},
		{Name: "Pull-off look", Kind: wear.PullOff},
	}
}

const noZone = "%.60q is no time zone. One is named by a city, such as Europe/Berlin."

// NewShop is what a shop begins with.
type NewShop struct {
	Name     string
	TimeZone string // IANA
	Tools    []Tool
}

// SetUp makes a shop of an empty database, or fails with [ErrSetUp].
func (s *Book) SetUp(ctx context.Context, n NewShop) error {
	name := record.CleanLine(n.Name)
	if name == "" {
		return record.InvalidInput(record.Field{Path: "name", Code: "missing", Message: "The shop's name is missing."})
	}
	if _, err := record.ParseZone(n.TimeZone); err != nil || n.TimeZone == "" {
		return record.InvalidInput(record.Field{Path: "time_zone", Code: "unknown-value", Message: fmt.Sprintf(noZone, n.TimeZone)})
	}
	err := s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		row := freshShop(name, n.TimeZone)
		if err := tx.SetUpShop(ctx, &row); err != nil {
			return err
		}
		if err := people.StandIn(ctx, tx); err != nil {
			return err
		}
		for _, t := range n.Tools {
			row := store.Instrument{ID: uuid.New(), Name: t.Name, Kind: t.Kind.String(), Spreads: t.Spreads,
				Marks: append([]float64{}, t.Marks...), CreatedAt: s.desk.Now()}
			if err := tx.AddInstrument(ctx, &row); err != nil {
				return err
			}
		}
		return nil
	})
	if errors.Is(err, store.ErrTaken) {
		return ErrSetUp
	}
	return err
}

// freshShop is a shop as every one begins.
func freshShop(name, zone string) store.Shop {
	return store.Shop{Name: name, TimeZone: zone, LengthUnit: wear.Millimetres.String(), DistanceUnit: "km", TemperatureUnit: "c", VolumeUnit: "ml", MassUnit: "g",
		Locale: DefaultLocale, Currency: "EUR", LengthMethod: sizing.Wrap.String(), SprocketSchool: fitting.TestFirst.String(), LinkSchool: fitting.NewEachTime.String(),
		GreaseSchool: fitting.ByLubricant.String(), WearSchool: wear.DefaultSchool.String(), WearPlaces: wear.DefaultPlaces, SessionIdleMinutes: 480, Version: 1}
}

// SettleTimeZone gives a shop the zone of the place where it is served, where nobody chose one, and reports whether it did.
func (s *Book) SettleTimeZone(ctx context.Context, zone string) (settled bool, err error) {
	if _, err := record.ParseZone(zone); err != nil || zone == "" {
		return false, errors.New(strings.TrimSuffix(fmt.Sprintf(noZone, zone), "."))
	}
	err = s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		settled, err = tx.SettleTimeZone(ctx, zone)
		return err
	})
	return settled, err
}

// IsSetUp reports whether the database holds a shop.
func (s *Book) IsSetUp(ctx context.Context) (bool, error) {
	_, err := s.desk.Store.Read(ctx).Shop(ctx)
	if record.IsNotFound(err) {
		return false, nil
	}
	return err == nil, err
}
