package fluids

import (
	"errors"
	"fmt"
	"strings"
	"time"
)

// BathKind is a kind of standing bath.
type BathKind string

// The standing baths.
const (
	UltrasonicTank BathKind = "ultrasonic-tank"
	SolventJar     BathKind = "solvent-jar"
	SoakTub        BathKind = "soak-tub"
	WaxPot         BathKind = "wax-pot"
	LubricantBath  BathKind = "lubricant-bath" // heated, of an oil made for it
)

// BathKinds lists them all.
func BathKinds() []BathKind {
	return []BathKind{UltrasonicTank, SolventJar, SoakTub, WaxPot, LubricantBath}
}

// Soil is how much of a bath's life a load takes, in points.
type Soil int

// NewChain is the soil of a new chain, whatever its grease.
const NewChain Soil = 1

// SoilOf is the soil of a used load by the grade of its drivetrain: 1 up to grade 2, 2 for 3, 3 for 4
// (handbook: fluids, bath register).
func SoilOf(grade int) Soil {
	switch {
	case grade <= 2:
		return 1
	case grade == 3:
		return 2
	}
	return 3
}

// BathRules are how much each kind of bath bears. A shop may set its own.
type BathRules struct {
	Points map[BathKind]Soil // until it is spent; of a wax pot, chains
	// What settling a day and decanting gives a solvent jar back, how often, and the share of its volume
	// that stays behind as sludge.
	SettleBack  Soil
	SettleTimes int
	SludgeShare float64
	SettleFor   time.Duration
}

// HouseBathRules are the rules of a shop that set none (handbook: fluids, bath register; lubricate,
// immersion wax).
func HouseBathRules() BathRules {
	return BathRules{Points: map[BathKind]Soil{UltrasonicTank: 4, SolventJar: 10, SoakTub: 10, WaxPot: 40, LubricantBath: 40},
		SettleBack: 6, SettleTimes: 2, SludgeShare: 0.1, SettleFor: 24 * time.Hour}
}

// Bath is one standing bath since it was filled.
type Bath struct {
	Kind      BathKind
	Volume    ML
	Used      Soil
	Settled   int // times
	CleanOnly bool
	Dirty     bool // something dirty was in it
}

// The reasons for which a bath does not take a load.
var (
	ErrSpent     = errors.New("the bath is spent: renew it, or let a solvent jar settle")
	ErrCleanOnly = errors.New("this bath is kept for new, clean chains: nothing dirty goes in")
	ErrDirtied   = errors.New("dirty chains were in this bath: new, clean ones do not go in")
	ErrNotSettle = errors.New("only a solvent jar is settled, and only twice: renew the bath")
)

// Left is how many points a bath still bears.
func (b Bath) Left(r BathRules) Soil { return max(r.Points[b.Kind]-b.Used, 0) }

// Take puts a load into the bath, or says why it does not take it. A load that is more than what is left
// is the last one.
func (b Bath) Take(s Soil, isNew bool, r BathRules) (Bath, error) {
	switch {
	case b.Left(r) == 0:
		return b, ErrSpent
	case b.CleanOnly && !isNew:
		return b, ErrCleanOnly
	case isNew && b.Dirty && b.Kind != WaxPot:
		return b, ErrDirtied
	}
	b.Used += s
	b.Dirty = b.Dirty || !isNew
	return b, nil
}

// Take asks which of some baths of one kind takes a load, and says why none does, by the last that was
// asked. No bath at all is no refusal: a shop that keeps none counts none.
func Take(baths []Bath, s Soil, isNew bool, r BathRules) error {
	var refused error
	for _, b := range baths {
		if _, refused = b.Take(s, isNew, r); refused == nil {
			return nil
		}
	}
	return refused
}

// Settle lets a solvent jar stand and decants it: it gets points back and leaves sludge behind.
func (b Bath) Settle(r BathRules) (after Bath, sludge ML, err error) {
	if b.Kind != SolventJar || b.Settled >= r.SettleTimes {
		return b, 0, ErrNotSettle
	}
	sludge = ML(float64(b.Volume) * r.SludgeShare)
	b.Volume -= sludge
	b.Used = max(b.Used-r.SettleBack, 0)
	b.Settled++
	return b, sludge, nil
}

// explosive are what is asked for as a solvent and never supported: the vapour explodes.
var explosive = []string{"petrol", "gasoline", "naphtha", "lighter fuel", "thinner", "white gas"}

// CheckSolvent refuses what may never be used as a degreaser or solvent, by its name.
func CheckSolvent(name string) error {
	for _, word := range explosive {
		if strings.Contains(strings.ToLower(name), word) {
			return fmt.Errorf("%s is not supported as a solvent: its vapour explodes. Use a degreaser sold for the job", word)
		}
	}
	return nil
}

// PotBand is where a wax pot is held, in °C: by its product card, or the house's where that is silent
// (handbook: lubricate, immersion wax).
type PotBand struct{ Least, Wanted, Most, Alarm float64 }

// HousePot is the band where the card is silent, kept low because hot wax near its smoke point is the
// danger.
func HousePot() PotBand { return PotBand{Least: 85, Wanted: 95, Most: 110, Alarm: 130} }

// CardPot is the band of a product card, with the alarm ten degrees above it.
func CardPot(least, most float64) PotBand {
	return PotBand{Least: least, Wanted: (least + most) / 2, Most: most, Alarm: most + 10}
}

// PotState is how a pot's temperature stands to its band.
type PotState string

// The states of a pot.
const (
	PotCold  PotState = "cold"
	PotReady PotState = "ready"
	PotHot   PotState = "hot"
	PotAlarm PotState = "alarm"
)

// At says how a temperature stands to the band.
func (b PotBand) At(celsius float64) PotState {
	switch {
	case celsius >= b.Alarm:
		return PotAlarm
	case celsius > b.Most:
		return PotHot
	case celsius < b.Least:
		return PotCold
	}
	return PotReady
}
