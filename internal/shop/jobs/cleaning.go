package jobs

import (
	"cmp"
	"context"
	"errors"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/chain"
	"earnestpony/core/clean"
	"earnestpony/core/lube"
	"earnestpony/core/wear"
	"earnestpony/internal/calc"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// Condition is what was seen of a bike that came in dirty. What is empty is as the bike's card has it.
type Condition struct {
	FrameGrade      int    `json:"frame_grade"`
	DrivetrainGrade int    `json:"drivetrain_grade"`
	LubricantOn     string `json:"lubricant_on,omitempty"`
	LubricantNext   string `json:"lubricant_next,omitempty"`
	// Lubricant is the family that goes on, where it was picked; it decides LubricantNext. BottleID is the bottle of it.
	Lubricant    string     `json:"lubricant,omitempty"`
	BottleID     *uuid.UUID `json:"bottle_id,omitempty"`
	Rust         string     `json:"rust,omitempty"`
	Heavy        bool       `json:"heavy,omitempty"`
	DeepCleanDue bool       `json:"deep_clean_due,omitempty"`
	// HasLink reports that a joining link was seen on the chain, whatever is on record.
	HasLink bool `json:"has_joining_link,omitempty"`
	// OilOn reports that oil or grease got onto a waxed chain; BehindCrank whether there is dirt, nil where nobody looked.
	OilOn          bool  `json:"oil_on,omitempty"`
	BehindCrank    *bool `json:"behind_crank,omitempty"`
	SealsSound     bool  `json:"seals_sound,omitempty"`
	DrivetrainOnly bool  `json:"drivetrain_only,omitempty"`
	Express        bool  `json:"express,omitempty"`
	// WantedAt is when it is wanted, where no job promises it yet.
	WantedAt *time.Time `json:"wanted_at,omitempty"`
}

// CleaningPlan is how the bike is cleaned, and what that was chosen by.
type CleaningPlan struct {
	LubricantOn string            `json:"lubricant_on"`
	Opens       string            `json:"opens"`             // joining-link on it, shelf for a new one, or empty
	Verdict     string            `json:"verdict,omitempty"` // of the last reading; empty before the first
	Unknown     []string          `json:"unknown"`           // motor, brakes: not on the card, and taken for the worst
	Choice      *calc.RouteAnswer `json:"choice"`
	Lubricant   string            `json:"lubricant"` // the family that goes on
	// Lubricants are all families, with when the bike could be ridden with each.
	Lubricants *calc.LubeAnswer `json:"lubricants,omitempty"`
	// Express are the routes that can be done at the counter, where that was asked for, with what they cost.
	Express []ExpressOffer `json:"express,omitempty"`
}

// ExpressOffer is a route done at the counter while the customer waits: how long, and a price that can be said on the phone.
type ExpressOffer struct {
	Route    string `json:"route"`
	HandsMin int    `json:"hands_min"`
	ReadyMin int    `json:"ready_min"` // from door to door
	Fits     bool   `json:"fits"`      // it is short enough to be called express
	Quote    Quote  `json:"quote"`     // the joining link in it where one is needed
}

// The ways to open a chain.
const (
	opensByLink  = "joining-link"
	opensByShelf = "shelf"
)

// PlanCleaning says how a bike is cleaned. It writes nothing.
func (s *Jobs) PlanCleaning(ctx context.Context, tagText string, q Condition) (CleaningPlan, error) {
	p, err := s.Planner(ctx, s.desk.Store.Read(ctx), tagText, s.desk.Now(), Intake{Condition: q})
	if err != nil {
		return CleaningPlan{}, err
	}
	p.plan.Lubricants = p.lubricants(nil)
	if p.plan.Express, err = p.express(); err != nil {
		return CleaningPlan{}, err
	}
	return p.plan, nil
}

// express are the routes that can be done at the counter, where that was asked for; none where the chain goes.
func (p Planner) express() ([]ExpressOffer, error) {
	var offers []ExpressOffer
	for _, option := range p.Choice.Options {
		o := p.Choice.With(p.bike, option.Route)
		if !o.Express {
			continue
		}
		plan, summary, err := p.Build(o, option.Route.String())
		if _, refused := errors.AsType[*clean.RefusedError](err); refused {
			continue
		} else if err != nil {
			return nil, err
		}
		offers = append(offers, ExpressOffer{summary.Route, summary.HandsMin, summary.ReadyMin, plan.IsExpress(), summary.Quote})
	}
	return offers, nil
}

// dirtyBike is a bike that came in, as cleaning takes it.
type dirtyBike struct {
	row   store.Bike
	bike  clean.Bike
	rules clean.Rules
	house rules.ParsedRules
	plan  CleaningPlan
	// replacing is what a new chain would ask for.
	replacing bikes.ReplacementPlan
	family    lube.Family // that goes on
}

// until says how many hours in which people work are left.
func (d *dirtyBike) until(now time.Time, wanted *time.Time) {
	if wanted != nil && wanted.After(now) {
		d.bike.Hours = max(d.house.OpenHours(now, *wanted), shortestHours)
	}
}

// shortestHours stand for a time at which nobody works any more.
const shortestHours = 0.01

// look joins what was seen of a bike with what is on its card, in its record and on the shelf.
func (s *Jobs) look(ctx context.Context, tx store.Tx, tagText string, q Condition) (dirtyBike, error) {
	var d dirtyBike
	replacing, err := s.bikes.PlanReplacementTx(ctx, tx, tagText)
	if err != nil {
		return d, err
	}
	if d.row, err = record.BikeByTag(ctx, tx, tagText); err != nil {
		return d, err
	}
	if d.house, err = rules.LoadParsed(ctx, tx); err != nil {
		return d, err
	}
	if d.rules, err = d.house.Cleaning(); err != nil {
		return d, err
	}
	bike := d.row
	p := CleaningPlan{Verdict: replacing.Verdict, Opens: opens(replacing), Unknown: []string{}}
	if q.HasLink {
		p.Opens = opensByLink
	}
	b := clean.Bike{Train: chain.Drivetrain{Carry: record.Carries(bike.Kind)}, CanOpen: p.Opens != "", ChainGoes: replacing.Advice.Chain, Heavy: q.Heavy, DeepCleanDue: q.DeepCleanDue,
		Unsettled: replacing.Verdict == wear.Unsure.String(), OilOn: q.OilOn, NothingBehindCrank: q.BehindCrank != nil && !*q.BehindCrank, SealsSound: q.SealsSound, DrivetrainOnly: q.DrivetrainOnly, Express: q.Express}
	if b.Train.Kind, err = chain.ParseDrivetrainKind(bike.DrivetrainKind); err != nil || b.Train.Kind == chain.KindUnknown {
		b.Train.Kind = chain.Derailleur // what most have; its steps are seen to be missing at the stand
	}
	b.Clutch = bike.Clutch != nil && *bike.Clutch
	if bike.ChainLinks != nil {
		b.Links = chain.Links(*bike.ChainLinks)
	}
	switch {
	case record.FixedGear(bike.Kind):
		b.Turns = clean.FixedGear
	case record.Coaster(bike.Brakes):
		b.Turns = clean.ForwardOnly
	}
	var wrong record.Faults
	fault := wrong.Add
	grade := func(path string, g int) clean.Grade {
		if g < 0 || g > int(clean.MaxGrade) {
			fault(path, "out-of-range", "A grade is 0, clean, to 4, caked.")
		}
		return clean.Grade(g)
	}
	b.Frame, b.Drivetrain = grade("frame_grade", q.FrameGrade), grade("drivetrain_grade", q.DrivetrainGrade)
	on, err := clean.ParseCoat(cmp.Or(q.LubricantOn, familyOf(bike.Lubricant)))
	if err != nil {
		fault("lubricant_on", "unknown-value", "%v", err)
	}
	b.On = on
	if b.Next, err = clean.ParseLubricant(cmp.Or(q.LubricantNext, again(on).String())); err != nil {
		fault("lubricant_next", "unknown-value", "%v", err)
	}
	if q.Lubricant != "" {
		if d.family, err = lube.ParseFamily(q.Lubricant); err != nil {
			fault("lubricant", "unknown-value", "%v", err)
		}
		b.Next = d.family.Coat()
	} else {
		d.family = familyFor(b.Next, bike.Lubricant)
	}
	b.Setting, _ = d.family.FirstRide()
	if b.Rust, err = clean.ParseRust(cmp.Or(q.Rust, clean.NoRust.String())); err != nil {
		fault("rust", "unknown-value", "%v", err)
	}
	if err := wrong.Err(); err != nil {
		return d, err
	}
	if b.Train.Motor, err = chain.ParseMotor(bike.Motor); err != nil || b.Train.Motor == chain.MotorUnknown {
		p.Unknown = append(p.Unknown, "motor")
	}
	switch bike.Brakes {
	case "rim":
		b.Brakes = clean.Rim
	case "drum", "coaster":
		b.Brakes = clean.InHub
	case "":
		p.Unknown = append(p.Unknown, "brakes")
		b.Brakes = clean.Disc
	default:
		b.Brakes = clean.Disc
	}
	p.LubricantOn, p.Lubricant = b.On.String(), d.family.String()
	d.bike, d.plan, d.replacing = b, p, replacing
	return d, nil
}

// opens says how the chain of a bike can be taken off and closed again.
func opens(p bikes.ReplacementPlan) string {
	if p.OldLink != nil && p.OldLink.Spent == "" {
		return opensByLink
	}
	for _, l := range p.Links {
		if l.Facts.Quantity > 0 {
			return opensByShelf
		}
	}
	return ""
}

// familyOf is what a bike's card says is on its chain, as cleaning tells it apart.
func familyOf(lubricant string) string {
	switch lubricant {
	case "wet-oil", "dry-oil", "all-weather":
		return clean.Oil.String()
	case "":
		return clean.Unknown.String()
	}
	return lubricant
}

// familyFor is the family that goes on where only its coat was said: the one that the bike has, else the usual of it.
func familyFor(next clean.Coat, card string) lube.Family {
	if kept, err := lube.ParseFamily(card); err == nil && kept.Coat() == next {
		return kept
	}
	switch next {
	case clean.DripWax:
		return lube.DripWax
	case clean.ImmersionWax:
		return lube.ImmersionWax
	case clean.Oil, clean.FactoryGrease, clean.Film, clean.Unknown:
	}
	return lube.AllWeather
}

// again is what goes on where nobody asked for another family.
func again(on clean.Coat) clean.Coat {
	if on == clean.DripWax || on == clean.ImmersionWax {
		return on
	}
	return clean.Oil
}
