package bikes

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"earnestpony/core/chain"
	"earnestpony/core/sizing"
	"earnestpony/internal/calc"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// SizerQuestion is a drivetrain as it stands in the sizer: from a bike, or typed. What is not known is
// empty or nil.
type SizerQuestion struct {
	Tag           string   `json:"tag,omitempty"` // whose limits hold; empty for a drivetrain that is only typed
	Kind          string   `json:"kind,omitempty"`
	Rings         []int    `json:"rings,omitempty"`
	Sprockets     []int    `json:"sprockets,omitempty"` // all, or the smallest and the largest
	ChainstayMM   *float64 `json:"chainstay_mm,omitempty"`
	GrowthMM      *float64 `json:"growth_mm,omitempty"`
	CageMM        *float64 `json:"cage_mm,omitempty"`
	CapacityTeeth *int     `json:"capacity_teeth,omitempty"`

	BoxLinks          *int   `json:"box_links,omitempty"`
	BoxHasJoiningLink bool   `json:"box_has_joining_link,omitempty"`
	Joint             string `json:"joint,omitempty"` // joining-link when empty
	HalfLink          bool   `json:"half_link,omitempty"`
	MakerLinks        *int   `json:"maker_links,omitempty"`
	OldLinks          *int   `json:"old_links,omitempty"`
	OverlapLinks      *int   `json:"overlap_links,omitempty"`

	TryLinks *int      `json:"try_links,omitempty"` // the length that is drawn; the one to keep when nil
	Draw     *GearDraw `json:"draw,omitempty"`      // largest to largest when nil

	SlotMM  *float64 `json:"slot_mm,omitempty"`    // how far an axle can be moved back; nil or 0: not at all
	Open    string   `json:"slots_open,omitempty"` // forward or rear
	Fixed   bool     `json:"fixed,omitempty"`      // a fixed gear
	Coaster bool     `json:"coaster,omitempty"`    // a coaster brake
	WornPct *float64 `json:"worn_pct,omitempty"`   // of the chain that is drawn
}

// GearDraw is the gear that is drawn.
type GearDraw struct {
	Ring     int `json:"ring"`
	Sprocket int `json:"sprocket"`
}

// SizerAnswer is how long the chain must be, and the gear it runs in.
type SizerAnswer struct {
	Missing []string           `json:"missing"` // what must be known before there can be a length
	Faults  []record.Field     `json:"faults"`
	Length  *calc.LengthAnswer `json:"length,omitempty"`
	Cut     *SizerCut          `json:"cut,omitempty"`
	House   string             `json:"house"`             // the house's method
	Overlap int                `json:"overlap,omitempty"` // that wrapping added
	TwoMore bool               `json:"two_more,omitempty"`
	Gear    *calc.GearAnswer   `json:"gear,omitempty"` // where there is a cage and it is known
	Drawn   int                `json:"drawn,omitempty"`
	// Fewer and More are what the drawing says of two links less and two more than are kept, largest to
	// largest and smallest to smallest: why not fewer, and why not more.
	Fewer *calc.GearState   `json:"fewer,omitempty"`
	More  *calc.GearState   `json:"more,omitempty"`
	Slots *calc.SlotsAnswer `json:"slots,omitempty"`
	Pairs *calc.PairsAnswer `json:"pairs,omitempty"`
	Bound float64           `json:"bound_mm,omitempty"` // of play, that the pairs are held to
	// Tensioner is whether one may be fitted where the axle does not move: never unless it says so.
	Tensioner bool     `json:"tensioner,omitempty"`
	Limit     *float64 `json:"limit_pct,omitempty"`
}

// SizerCut is where to cut: after so many links, counted from an end that is an inner link.
type SizerCut struct {
	Links     int  `json:"links"`
	LastInner bool `json:"last_inner"`
}

// SizeChain answers the sizer. It writes nothing.
func (s *Bikes) SizeChain(ctx context.Context, q SizerQuestion) (SizerAnswer, error) {
	tx := s.desk.Store.Read(ctx)
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return SizerAnswer{}, err
	}
	var bike *store.Bike
	if q.Tag != "" {
		b, err := record.BikeByTag(ctx, tx, q.Tag)
		if err != nil {
			return SizerAnswer{}, err
		}
		bike = &b
	}
	z := sizer{SizerQuestion: q, house: h, bike: bike, SizerAnswer: SizerAnswer{Missing: []string{}, Faults: []record.Field{}, House: h.Length.String()}}
	if z.read() {
		z.answer()
	}
	return z.SizerAnswer, nil
}

// sizer answers one question.
type sizer struct {
	SizerQuestion
	SizerAnswer
	house rules.ParsedRules
	bike  *store.Bike
	q     sizing.Question
}

func (z *sizer) fault(path, code, format string, args ...any) {
	z.Faults = append(z.Faults, record.Field{Path: path, Code: code, Message: fmt.Sprintf(format, args...)})
}

// read makes a question of the core of what was given; false when something is missing or wrong.
func (z *sizer) read() bool {
	z.q = sizing.Question{House: z.house.Length, HalfLink: z.HalfLink, BoxHasJoiningLink: z.BoxHasJoiningLink}
	var err error
	if z.q.Kind, err = chain.ParseDrivetrainKind(z.Kind); err != nil {
		z.Missing = append(z.Missing, "kind")
	}
	z.q.Rings = z.teeth("rings", "A ring", z.Rings)
	z.q.Sprockets = z.teeth("sprockets", "A sprocket", z.Sprockets)
	if z.ChainstayMM == nil {
		z.Missing = append(z.Missing, "chainstay")
	}
	z.q.Chainstay = chain.MM(z.number("chainstay_mm", z.ChainstayMM, 200, 1500, "A chainstay is %g to %g mm, bottom bracket to rear axle."))
	z.q.Growth = chain.MM(z.number("growth_mm", z.GrowthMM, 0, 60, "Rear suspension lengthens it by %g to %g mm."))
	z.q.Cage = chain.MM(z.number("cage_mm", z.CageMM, 30, 150, "A cage is %g to %g mm between its pulleys."))
	z.q.CageCapacity = sizing.Teeth(z.count("capacity_teeth", z.CapacityTeeth, 1, 150, "A cage takes up %d to %d teeth."))
	links := func(path string, n *int) chain.Links {
		return chain.Links(z.count(path, n, int(sizing.FewestLinks), int(sizing.MostLinks), "A chain has %d to %d links."))
	}
	z.q.BoxLinks, z.q.MakerLinks, z.q.OldLinks = links("box_links", z.BoxLinks), links("maker_links", z.MakerLinks), links("old_links", z.OldLinks)
	z.q.Overlap = chain.Links(z.count("overlap_links", z.OverlapLinks, 2, 8, "The overlap is %d to %d links."))
	if z.q.Overlap%2 == 1 {
		z.fault("overlap_links", "odd-count", "The overlap is of whole pairs: 2 or 4 links.")
	}
	z.q.Joint = sizing.JoiningLink
	if z.Joint != "" {
		if z.q.Joint, err = sizing.ParseJoint(z.Joint); err != nil {
			z.fault("joint", "unknown-value", "Say how the chain is closed.")
		}
	}
	for path, n := range map[string]*int{"maker_links": z.MakerLinks, "old_links": z.OldLinks} {
		if n != nil && *n%2 == 1 && z.q.Kind == chain.Derailleur {
			z.fault(path, "odd-count", "%d links: a derailleur chain has an even number. Count inner and outer links alike.", *n)
		}
	}
	slices.SortFunc(z.Faults, func(a, b record.Field) int { return strings.Compare(a.Path, b.Path) })
	return len(z.Missing) == 0 && len(z.Faults) == 0
}

func (z *sizer) teeth(path, what string, counts []int) []sizing.Teeth {
	if len(counts) == 0 {
		z.Missing = append(z.Missing, path)
		return nil
	}
	teeth := make([]sizing.Teeth, len(counts))
	for i, n := range counts {
		teeth[i] = sizing.Teeth(n)
		if teeth[i] < sizing.FewestTeeth || teeth[i] > sizing.MostTeeth {
			z.fault(path, "out-of-range", "%s of %d teeth: there are %d to %d.", what, n, sizing.FewestTeeth, sizing.MostTeeth)
			return nil
		}
	}
	return teeth
}

// number reads a number where there is one; words say the bounds.
func (z *sizer) number(path string, v *float64, lo, hi float64, words string) float64 {
	if v == nil {
		return 0
	}
	if !(*v >= lo && *v <= hi) {
		z.fault(path, "out-of-range", "%g: "+words, *v, lo, hi)
	}
	return *v
}

func (z *sizer) count(path string, v *int, lo, hi int, words string) int {
	if v == nil {
		return 0
	}
	if *v < lo || *v > hi {
		z.fault(path, "out-of-range", "%d: "+words, *v, lo, hi)
	}
	return *v
}

func (z *sizer) answer() {
	length, err := sizing.Size(z.q)
	if err != nil {
		z.refuse(err)
		return
	}
	z.Length = calc.NewLengthAnswer(length, z.q.BoxLinks > 0)
	z.Cut = &SizerCut{int(length.Cut.Links), length.Cut.LastInner}
	z.Overlap, z.TwoMore = int(length.OverlapBy), length.TwoMore
	if z.q.Kind == chain.Derailleur {
		z.gear(length)
		return
	}
	z.oneGear()
}

// refuse puts the core's refusals at their fields.
func (z *sizer) refuse(err error) {
	var overlap *sizing.OverlapError
	var pulley *sizing.PulleyError
	switch {
	case errors.As(err, &overlap):
		z.fault("chainstay_mm", "wheels-overlap", "%v.", overlap)
	case errors.As(err, &pulley):
		z.fault("cage_mm", "pulleys-overlap", "%v.", pulley)
	default:
		z.fault("half_link", "half-link-refused", "%v.", err)
	}
}

// gear solves the gears, where the cage is known.
func (z *sizer) gear(length sizing.Length) {
	if z.q.Cage == 0 {
		return
	}
	g := sizing.Gearing{Rings: z.q.Rings, Sprockets: z.q.Sprockets, Chainstay: z.q.Chainstay, Growth: z.q.Growth, Cage: z.q.Cage, Gap: sizing.DefaultGap, Pulley: sizing.DefaultPulley}
	if err := g.Check(); err != nil {
		z.refuse(err)
		return
	}
	links := length.Keep
	if n := z.count("try_links", z.TryLinks, int(sizing.FewestLinks), int(sizing.MostLinks), "A chain has %d to %d links."); n > 0 {
		links = chain.Links(n)
	}
	worn := chain.Percent(z.number("worn_pct", z.WornPct, -0.3, 3, "A chain is worn by %g to %g percent."))
	if len(z.Faults) > 0 {
		return
	}
	z.Gear, z.Drawn = calc.NewGearAnswer(g, links, worn), int(links)
	ring, sprocket := slices.Max(g.Rings), slices.Max(g.Sprockets)
	smallRing, smallSprocket := slices.Min(g.Rings), slices.Min(g.Sprockets)
	fewer := calc.NewGearAnswer(sizing.Gearing{Rings: []sizing.Teeth{ring}, Sprockets: []sizing.Teeth{sprocket}, Chainstay: g.Chainstay, Growth: g.Growth, Cage: g.Cage, Gap: g.Gap, Pulley: g.Pulley}, length.Keep-2, 0)
	more := calc.NewGearAnswer(sizing.Gearing{Rings: []sizing.Teeth{smallRing}, Sprockets: []sizing.Teeth{smallSprocket}, Chainstay: g.Chainstay, Growth: g.Growth, Cage: g.Cage, Gap: g.Gap, Pulley: g.Pulley}, length.Keep+2, 0)
	z.Fewer, z.More = &fewer.Gears[0], &more.Gears[0]
	if d := z.Draw; d != nil {
		if slices.Contains(z.Rings, d.Ring) && slices.Contains(z.Sprockets, d.Sprocket) {
			ring, sprocket = sizing.Teeth(d.Ring), sizing.Teeth(d.Sprocket)
		}
	}
	z.Gear.Path = calc.NewGearPath(g, g.Gear(ring, sprocket, links, worn))
}

// oneGear looks where the axle may sit, or for pairs that need no tensioner.
func (z *sizer) oneGear() {
	d := rules.DrivetrainOf(z.bike, &rules.Drivetrain{Kind: z.Kind})
	limits := z.house.Rule(z.bike, d).Limits
	limit := float64(limits.Limit)
	z.Limit = &limit
	ring, sprocket := slices.Max(z.q.Rings), slices.Max(z.q.Sprockets)
	if slot := z.number("slot_mm", z.SlotMM, 0, 120, "An axle moves %g to %g mm."); slot > 0 && len(z.Faults) == 0 {
		answer, err := calc.NewSlotsAnswer(sizing.Slots{Ring: ring, Sprocket: sprocket, From: z.q.Chainstay, To: z.q.Chainstay + chain.MM(slot), HalfLink: z.HalfLink, Limit: limits.Limit, OpenToRear: z.Open == "rear"})
		if err != nil {
			z.fault("chainstay_mm", "wheels-overlap", "%v.", err)
			return
		}
		z.Slots = answer
		return
	}
	v := sizing.Vertical{Ring: ring, Sprocket: sprocket, Chainstay: z.q.Chainstay, HalfLink: z.HalfLink, Fixed: z.Fixed, Coaster: z.Coaster, Bound: sizing.FreewheelBound}
	if z.Fixed {
		v.Bound = sizing.FixedBound
	}
	answer, err := calc.NewPairsAnswer(v)
	if err != nil {
		z.fault("chainstay_mm", "wheels-overlap", "%v.", err)
		return
	}
	z.Pairs, z.Bound, z.Tensioner = answer, float64(v.Bound), v.Tensioner()
}
