// Package lube picks what goes on a chain and says how much of it (handbook: lubricate).
//
//	picks := lube.Picks(lube.Question{Mix: mix, On: clean.Oil, CanBare: true}, lube.Prices{})
//	// picks[0].Family is the first choice, picks[0].For and picks[0].Against say why
//
// A product's own label comes before any figure here.
package lube

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"earnestpony/core/chain"
	"earnestpony/core/clean"
	"earnestpony/core/fluids"
	"earnestpony/core/forecast"
)

// Family is a kind of lubricant.
type Family uint8

// The families that are put on. What a new chain comes with is [clean.FactoryGrease].
const (
	WetOil Family = iota
	DryOil
	AllWeather
	DripWax
	ImmersionWax
)

var families = [...]string{"wet-oil", "dry-oil", "all-weather", "drip-wax", "immersion-wax"}

func (f Family) String() string { return families[f] }

// Families lists them all.
func Families() []Family { return []Family{WetOil, DryOil, AllWeather, DripWax, ImmersionWax} }

// ParseFamily reads the name that [Family.String] writes.
func ParseFamily(s string) (Family, error) {
	if i := slices.Index(families[:], s); i >= 0 {
		return Family(i), nil
	}
	return 0, fmt.Errorf("%q is no lubricant: one of %q", s, families)
}

// Coat is what the family leaves on a chain, as cleaning tells it apart.
func (f Family) Coat() clean.Coat {
	switch f {
	case DripWax:
		return clean.DripWax
	case ImmersionWax:
		return clean.ImmersionWax
	case WetOil, DryOil, AllWeather:
	}
	return clean.Oil
}

// facts of a family (handbook: lubricate, Families).
type facts struct {
	wait       clean.Minutes // least, from the last of it to the first ride
	better     clean.Minutes
	relube     forecast.HardKM
	care       forecast.Care // whose K its chains wear by
	suits      [5]float64    // by condition of forecast: fair, dusty, wet, mud, salt; 0 to 1
	applyHands clean.Minutes
}

var known = [...]facts{
	WetOil:       {10, 10, 300, forecast.Oil, [5]float64{0.5, 0.15, 1, 0.8, 1}, 9},
	DryOil:       {120, 720, 150, forecast.Oil, [5]float64{0.8, 0.8, 0.1, 0.1, 0.1}, 9},
	AllWeather:   {30, 30, 250, forecast.Oil, [5]float64{0.7, 0.5, 0.7, 0.55, 0.6}, 9},
	DripWax:      {240, 720, 300, forecast.DripWax, [5]float64{0.9, 0.9, 0.5, 0.4, 0.3}, 11},
	ImmersionWax: {60, 60, 400, forecast.ImmersionWax, [5]float64{1, 1, 0.55, 0.5, 0.35}, 30},
}

// FirstRide is how long after the last of it the bike may be ridden at the least, and how long is better.
func (f Family) FirstRide() (least, better clean.Minutes) { return known[f].wait, known[f].better }

// When is the school of how often a chain is lubricated.
type When uint8

// The schools of when. After a soaking ride is in all of them.
const (
	ByLubricant    When = iota // by the table: the house default
	LittleAndOften             // every 60 km; what is immersed is topped up with drip wax instead
	WhenItSpeaks               // at the first noise, with a ceiling
)

var whens = [...]string{"by-lubricant", "little-and-often", "when-it-speaks"}

func (w When) String() string { return whens[w] }

// ParseWhen reads the name that [When.String] writes.
func ParseWhen(s string) (When, error) {
	if i := slices.Index(whens[:], s); i >= 0 {
		return When(i), nil
	}
	return 0, fmt.Errorf("%q is no school of when to lubricate: one of %q", s, whens)
}

// The intervals that do not turn on the lubricant (handbook: lubricate, Schools of when).
const (
	oftenHardKM   forecast.HardKM = 60
	ceilingHardKM forecast.HardKM = 800
	// lowCeilingHardKM is for what washes off or wears off sooner.
	lowCeilingHardKM forecast.HardKM = 400
	// seldomHardKM is an interval that an owner who does little keeps.
	seldomHardKM forecast.HardKM = 200
)

// Every is after how many hard km a chain with this lubricant gets it again.
func (w When) Every(f Family) forecast.HardKM {
	switch w {
	case LittleAndOften:
		return oftenHardKM
	case WhenItSpeaks:
		if f == DryOil || f == DripWax || f == ImmersionWax {
			return lowCeilingHardKM
		}
		return ceilingHardKM
	case ByLubricant:
	}
	return known[f].relube
}

// Amount is how much goes on a chain.
type Amount struct {
	Drops int       // one a joint
	Coats int       // as often
	Fluid fluids.ML // of all coats
	Grams float64   // of wax that a chain takes up from a pot
	// Running is the other way to oil a chain: a thin stream on the lower run, for so many turns of the
	// crank on each side. It uses more.
	RunningTurns float64
	Running      fluids.ML
}

// The amounts of the house (handbook: lubricate, Application).
const (
	oilDrop    fluids.ML = 0.04
	waxDrop    fluids.ML = 0.05
	runningUse           = 1.6
	takeUp               = 7.0 // g a chain
)

// On is how much of the family a chain of so many links takes: drip wax goes on a freshly cleaned chain in two coats, over
// wax that is on in one. The ring, in teeth, is the one in front that the chain runs on while a stream is laid on it; zero
// is not known, and then nothing is said of that.
func (f Family) On(links chain.Links, ring int, topUp bool) Amount {
	n := int(links)
	switch f {
	case ImmersionWax:
		return Amount{Grams: takeUp}
	case DripWax:
		coats := 2
		if topUp {
			coats = 1
		}
		return Amount{Drops: n, Coats: coats, Fluid: fluids.ML(coats) * waxDrop * fluids.ML(n)}
	case WetOil, DryOil, AllWeather:
	}
	a := Amount{Drops: n, Coats: 1, Fluid: oilDrop * fluids.ML(n)}
	if ring > 0 {
		a.RunningTurns = float64(n) / float64(ring)
		a.Running = runningUse * a.Fluid
	}
	return a
}

// Question is what a choice turns on.
type Question struct {
	Mix forecast.Mix
	// Damp reports a humid or salty place, where wax protects too little against rust.
	Damp bool
	Care forecast.Care // how the owner will look after it
	// HoursToRide is until the next ride; zero or less is not known.
	HoursToRide float64
	// Ready is until the last of a lubricant has set, when the route that it takes is gone through now, its own waits
	// included; false where it cannot be planned. Nil counts the setting alone.
	Ready   func(f Family) (clean.Minutes, bool)
	On      clean.Coat
	CanBare bool // the chain can be taken off and stripped
	Factor  float64
	When    When
}

// Reason is why a family is picked, or not.
type Reason string

// The reasons.
const (
	SuitsRides  Reason = "suits-the-rides"
	Cleanest    Reason = "stays-clean"
	LongestLife Reason = "longest-chain-life"
	StaysFamily Reason = "stays-with-its-family"
	Cheapest    Reason = "cheapest-over-distance"
	WashesOff   Reason = "washes-off-in-rain"
	GathersDirt Reason = "gathers-dirt"
	RustsHere   Reason = "weak-against-rust-here"
	NeedsCare   Reason = "needs-an-owner-who-dries-it"
	NotInTime   Reason = "not-dry-in-time"
	NeedsBare   Reason = "needs-bare-metal"
	CannotBare  Reason = "cannot-be-bared"
	AfterStrip  Reason = "after-a-strip-of-the-old" // it does not go over what is on
	NeedsOften  Reason = "wants-care-often"         // from an owner who does little
)

// Choice is one family as it stands beside the others.
type Choice struct {
	Family       Family
	Score        float64
	Refused      bool
	For, Against []Reason
	Every        forecast.HardKM
	ReadyMin     clean.Minutes
	Cost         Cost
}

// Prices are what the costs are made of, in minor units.
type Prices struct {
	PerML, PerGram map[Family]forecast.Money
	LabourHour     forecast.Money
	// Wear is what a worn chain costs with its share of sprockets and rings.
	Wear  forecast.Money
	Links chain.Links
}

// Cost is per 1000 km.
type Cost struct {
	Lubricant, Labour, Wear, Total forecast.Money
}

// CostOf is what keeping a chain with the family costs per 1000 km of riding that counts for factor hard
// km each: lubricant and labour at its interval, chain and sprockets at the K of its care (handbook:
// lubricate, Costs that decide).
func (p Prices) CostOf(f Family, w When, factor float64) Cost {
	hard := 1000 * factor
	times := forecast.Money(hard / float64(w.Every(f)))
	a := f.On(p.Links, 0, false)
	k := math.Exp(known[f].care.Prior().MedianLnK)
	c := Cost{
		Lubricant: times * (forecast.Money(a.Fluid)*p.PerML[f] + forecast.Money(a.Grams)*p.PerGram[f]),
		Labour:    times * p.LabourHour * forecast.Money(known[f].applyHands) / 60,
		Wear:      p.Wear * forecast.Money(hard/k),
	}
	c.Total = c.Lubricant + c.Labour + c.Wear
	return c
}

// How much the considerations beside the rides weigh against a fit of 0 to 1.
const (
	dampPenalty     = 0.3
	careBonus       = 0.1
	neglectPenalty  = 0.35
	familyBonus     = 0.08
	bareEffort      = 0.12
	costWeight      = 0.25
	wetMatters      = 0.3 // share of wet, mud and salt from which it is said
	dustMatters     = 0.3
	gathersDirtFrom = 0.35
)

// Picks are all families, best first; those that cannot be used stand last. The first two are the first
// and second choice.
func Picks(q Question, p Prices) []Choice {
	if q.Factor == 0 {
		q.Factor = 1
	}
	var all []Choice
	dearest := forecast.Money(0)
	for _, f := range Families() {
		c := weigh(f, q)
		c.Cost = p.CostOf(f, q.When, q.Factor)
		dearest = max(dearest, c.Cost.Total)
		all = append(all, c)
	}
	cheapest := slices.MinFunc(all, func(a, b Choice) int { return cmp.Compare(a.Cost.Total, b.Cost.Total) }).Family
	for i := range all {
		if dearest > 0 {
			all[i].Score -= costWeight * float64(all[i].Cost.Total/dearest)
			if all[i].Family == cheapest {
				all[i].For = append(all[i].For, Cheapest)
			}
		}
	}
	slices.SortStableFunc(all, func(a, b Choice) int {
		if a.Refused != b.Refused {
			return map[bool]int{true: 1, false: -1}[a.Refused]
		}
		return cmp.Compare(b.Score, a.Score)
	})
	return all
}

func weigh(f Family, q Question) Choice {
	k := known[f]
	c := Choice{Family: f, Every: q.When.Every(f), ReadyMin: k.wait}
	mix := q.Mix
	if mix == (forecast.Mix{}) {
		mix[forecast.Fair] = 1
	}
	best := 0.0
	for condition, share := range mix {
		c.Score += share * k.suits[condition]
		most := 0.0
		for _, other := range known {
			most = max(most, other.suits[condition])
		}
		best += share * most
	}
	if c.Score > 0.85*best {
		c.For = append(c.For, SuitsRides)
	}
	wax := f.Coat() != clean.Oil
	wet, dust := mix[forecast.Wet]+mix[forecast.Mud]+mix[forecast.Salt], mix[forecast.Dusty]
	if f == DryOil && wet >= wetMatters {
		c.Against = append(c.Against, WashesOff)
	}
	if f == WetOil && (dust >= dustMatters || wet < gathersDirtFrom) {
		c.Against = append(c.Against, GathersDirt)
	}
	if wax {
		c.For = append(c.For, Cleanest)
		if q.Damp {
			c.Score -= dampPenalty
			c.Against = append(c.Against, RustsHere)
		}
		switch q.Care {
		case forecast.Neglected, forecast.NowAndThen:
			c.Score -= neglectPenalty
			c.Against = append(c.Against, NeedsCare)
		case forecast.DripWax, forecast.ImmersionWax:
			c.Score += careBonus
		case forecast.CareUnknown, forecast.Oil:
		}
	}
	if f == ImmersionWax {
		c.For = append(c.For, LongestLife)
	}
	if q.On == f.Coat() {
		c.Score += familyBonus
		c.For = append(c.For, StaysFamily)
	}
	if (q.Care == forecast.Neglected || q.Care == forecast.NowAndThen) && c.Every < seldomHardKM {
		c.Score -= neglectPenalty
		c.Against = append(c.Against, NeedsOften)
	}
	over(&c, f, q)
	if ready, planned := q.ready(f); q.HoursToRide > 0 && (!planned || float64(ready) > q.HoursToRide*60) {
		c.Refused = true
		c.Against = append(c.Against, NotInTime)
	} else if planned {
		c.ReadyMin = ready
	}
	return c
}

// over weighs what a family asks of what is on the chain: immersion wax wants bare metal, drip wax no oil beneath it, oil no
// wax.
func over(c *Choice, f Family, q Question) {
	onWax := q.On == clean.DripWax || q.On == clean.ImmersionWax
	var needs Reason
	switch {
	case f == ImmersionWax && q.On != clean.ImmersionWax:
		needs = NeedsBare
	case f == DripWax && !onWax, f.Coat() == clean.Oil && onWax:
		needs = AfterStrip
	default:
		if f == ImmersionWax && !q.CanBare { // it goes back into the pot off the bike
			c.Refused = true
			c.Against = append(c.Against, CannotBare)
		}
		return
	}
	offTheBike := f != WetOil && f != DryOil && f != AllWeather || q.On == clean.ImmersionWax
	if offTheBike && !q.CanBare {
		c.Refused = true
		c.Against = append(c.Against, CannotBare)
		return
	}
	if f.Coat() != clean.Oil {
		c.Score -= bareEffort
	}
	c.Against = append(c.Against, needs)
}

func (q Question) ready(f Family) (clean.Minutes, bool) {
	if q.Ready == nil {
		return known[f].wait, true
	}
	return q.Ready(f)
}
