package calc

import (
	"errors"
	"fmt"
	"math"

	"earnestpony/core/chain"
	"earnestpony/core/sizing"
	"earnestpony/core/wear"
)

// The bounds of what may be asked of a drivetrain.
const (
	minChainstay, maxChainstay = 200, 1500 // mm
	maxGrowth                  = 60        // mm
	minCage, maxCage           = 30, 150   // mm
	maxGap                     = 30        // mm
	maxCapacity                = 150       // teeth
	maxRings                   = 4
)

// LengthAnswer is what [Length] answers.
type LengthAnswer struct {
	KeepLinks      int             `json:"keep_links"`
	Method         string          `json:"method"`
	RemoveLinks    *int            `json:"remove_links"` // null without a box
	ShortByLinks   int             `json:"short_by_links"`
	Methods        []MethodLinks   `json:"methods"`
	GeometryLinks  float64         `json:"geometry_links"`
	CapacityNeeded int             `json:"capacity_needed"`
	Warnings       []LengthWarning `json:"warnings"`
}

// MethodLinks is what one method says.
type MethodLinks struct {
	Method string `json:"method"`
	Links  int    `json:"links"`
}

// LengthWarning is something the answer should be read with.
type LengthWarning struct {
	Code string `json:"code"`
	*WouldFit
}

// WouldFit is what would do where no length of chain does.
type WouldFit struct {
	KeepOff [][2]int `json:"keep_off"` // ring and sprocket
	CageMM  *float64 `json:"cage_mm"`  // the smallest usual cage that would do; null where none does
}

// Length says how long a chain must be; see the contract for its input.
func Length(input []byte) (*LengthAnswer, error) {
	var f faults
	in, ok := root(input, &f)
	if !ok {
		return nil, f.refusal()
	}
	q := sizing.Question{Kind: named(in, "kind", true, chain.ParseDrivetrainKind)}
	q.Rings, q.Sprockets = teethList(in, "rings", maxRings), teethList(in, "sprockets", chain.MaxSprockets)
	q.Chainstay = chain.MM(in.numberNeeded("chainstay_mm", minChainstay, maxChainstay))
	q.Growth = chain.MM(in.numberNeeded("growth_mm", 0, maxGrowth))
	links := func(name string) chain.Links {
		n, _ := in.whole(name, int(sizing.FewestLinks), int(sizing.MostLinks))
		return chain.Links(n)
	}
	q.BoxLinks, q.MakerLinks, q.OldLinks = links("box_links"), links("maker_links"), links("old_links")
	q.BoxHasJoiningLink = in.boolean("box_has_joining_link", false)
	q.Joint = named(in, "joint", true, sizing.ParseJoint)
	q.HalfLink = in.boolean("half_link", false)
	overlap, _ := in.whole("overlap_links", 2, 8)
	capacity, _ := in.whole("cage_capacity", 0, maxCapacity)
	cage, _ := in.number("cage_mm", minCage, maxCage)
	q.Overlap, q.CageCapacity, q.Cage = chain.Links(overlap), sizing.Teeth(capacity), chain.MM(cage)
	if overlap%2 == 1 {
		f.add("overlap_links", "odd-count", "an overlap is of whole pairs: 2 or 4 links")
	}
	in.done()
	if err := f.refusal(); err != nil {
		return nil, err
	}
	l, err := sizing.Size(q)
	if err != nil {
		return nil, refuseSizing(err)
	}
	return NewLengthAnswer(l, q.BoxLinks > 0), nil
}

// NewLengthAnswer writes a length as the contract has it.
func NewLengthAnswer(l sizing.Length, hasBox bool) *LengthAnswer {
	a := &LengthAnswer{KeepLinks: int(l.Keep), Method: l.Method.String(), ShortByLinks: int(l.ShortBy), GeometryLinks: l.Belt,
		CapacityNeeded: int(l.Capacity), Warnings: []LengthWarning{}}
	if hasBox {
		remove := int(l.Remove)
		a.RemoveLinks = &remove
	}
	for _, m := range l.Methods {
		a.Methods = append(a.Methods, MethodLinks{m.Method.String(), int(m.Links)})
	}
	for _, w := range l.Warnings {
		warning := LengthWarning{Code: string(w)}
		if w == sizing.NoLengthFits {
			warning.WouldFit = newWouldFit(l)
		}
		a.Warnings = append(a.Warnings, warning)
	}
	return a
}

func newWouldFit(l sizing.Length) *WouldFit {
	w := &WouldFit{KeepOff: [][2]int{}}
	for _, gear := range l.KeepOff {
		w.KeepOff = append(w.KeepOff, [2]int{int(gear[0]), int(gear[1])})
	}
	if l.CageFits > 0 {
		cage := float64(l.CageFits)
		w.CageMM = &cage
	}
	return w
}

// GearAnswer is what [Gear] answers. Path is there when a gear is to be drawn.
type GearAnswer struct {
	Gears  []GearState `json:"gears"`
	Window GearWindow  `json:"window"`
	Path   *GearPath   `json:"path,omitempty"`
}

// GearState is one gear; the cage and its margins are there when it fits.
type GearState struct {
	Ring      int         `json:"ring"`
	Sprocket  int         `json:"sprocket"`
	State     string      `json:"state"`
	OverMM    float64     `json:"over_mm"`
	CageDeg   *float64    `json:"cage_deg,omitempty"`
	MarginDeg *GearMargin `json:"margin_deg,omitempty"`
}

// GearMargin is how far the cage could go yet.
type GearMargin struct {
	ToSlack float64 `json:"to_slack"`
	ToTight float64 `json:"to_tight"`
}

// GearWindow is the even chain lengths that work.
type GearWindow struct {
	Empty    bool `json:"empty"`
	MinLinks *int `json:"min_links,omitempty"`
	MaxLinks *int `json:"max_links,omitempty"`
}

// GearPath is the way of the chain through one gear.
type GearPath struct {
	Ring     int         `json:"ring"`
	Sprocket int         `json:"sprocket"`
	CageDeg  float64     `json:"cage_deg"` // at an end where the gear does not fit
	LengthMM float64     `json:"length_mm"`
	Wheels   []PathWheel `json:"wheels"` // in the order in which the chain meets them
	Idle     []IdleWheel `json:"idle"`   // rings and sprockets that the chain does not run on in this gear
}

// IdleWheel is a ring or sprocket beside those in use.
type IdleWheel struct {
	Teeth    int       `json:"teeth"`
	Centre   PathPoint `json:"centre"`
	RadiusMM float64   `json:"radius_mm"`
}

// PathWheel is a wheel that the chain runs round, from where it comes on to where it leaves.
type PathWheel struct {
	Name      string    `json:"name"`
	Teeth     int       `json:"teeth"`
	Centre    PathPoint `json:"centre"`
	RadiusMM  float64   `json:"radius_mm"`
	Clockwise bool      `json:"clockwise"`
	From      PathPoint `json:"from"`
	To        PathPoint `json:"to"`
	AngleRad  float64   `json:"angle_rad"`
}

// PathPoint is in millimetres, forward of the bottom bracket and above it.
type PathPoint struct {
	X float64 `json:"x_mm"`
	Y float64 `json:"y_mm"`
}

// Gear solves every gear of a derailleur; see the contract for its input.
func Gear(input []byte) (*GearAnswer, error) {
	var f faults
	in, ok := root(input, &f)
	if !ok {
		return nil, f.refusal()
	}
	g := sizing.Gearing{Rings: teethList(in, "rings", maxRings), Sprockets: teethList(in, "sprockets", chain.MaxSprockets)}
	g.Chainstay = chain.MM(in.numberNeeded("chainstay_mm", minChainstay, maxChainstay))
	g.Growth = chain.MM(in.numberNeeded("growth_mm", 0, maxGrowth))
	g.Cage = chain.MM(in.numberNeeded("cage_mm", minCage, maxCage))
	g.Gap, g.Pulley = sizing.DefaultGap, sizing.DefaultPulley
	if gap, ok := in.number("gap_mm", 0, maxGap); ok {
		g.Gap = chain.MM(gap)
	}
	if teeth, ok := in.whole("pulley_teeth", int(sizing.FewestTeeth), 20); ok {
		g.Pulley = sizing.Teeth(teeth)
	}
	links := chain.Links(in.wholeNeeded("links", int(sizing.FewestLinks), int(sizing.MostLinks)))
	worn, _ := in.number("elongation_pct", -0.3, float64(wear.HighestLimit))
	var drawn *[2]sizing.Teeth
	if o, ok := in.object("draw"); ok {
		drawn = &[2]sizing.Teeth{teethNeeded(o, "ring"), teethNeeded(o, "sprocket")}
		o.done()
	}
	in.done()
	if err := f.refusal(); err != nil {
		return nil, err
	}
	if err := g.Check(); err != nil {
		return nil, refuseSizing(err)
	}
	a := NewGearAnswer(g, links, chain.Percent(worn))
	if drawn != nil {
		wheels := sizing.Gearing{Rings: drawn[:1], Sprockets: drawn[1:], Chainstay: g.Chainstay, Cage: g.Cage, Pulley: g.Pulley}
		if err := wheels.Check(); err != nil {
			return nil, refuseSizing(err)
		}
		a.Path = NewGearPath(g, g.Gear(drawn[0], drawn[1], links, chain.Percent(worn)))
	}
	return a, nil
}

// NewGearAnswer writes all gears as the contract has it.
func NewGearAnswer(g sizing.Gearing, n chain.Links, e chain.Percent) *GearAnswer {
	a := &GearAnswer{}
	for _, gear := range g.Gears(n, e) {
		s := GearState{Ring: int(gear.Ring), Sprocket: int(gear.Sprocket), State: gear.State.String(), OverMM: float64(gear.Over)}
		if gear.State == sizing.Fits {
			cage := float64(gear.Cage)
			s.CageDeg, s.MarginDeg = &cage, &GearMargin{float64(gear.ToSlack), float64(gear.ToTight)}
		}
		a.Gears = append(a.Gears, s)
	}
	w := g.Window(e)
	a.Window.Empty = w.Empty
	if !w.Empty {
		least, most := int(w.Min), int(w.Max)
		a.Window.MinLinks, a.Window.MaxLinks = &least, &most
	}
	return a
}

// NewGearPath lays out one gear to be drawn; one that does not fit with the cage at its end.
func NewGearPath(g sizing.Gearing, gear sizing.Gear) *GearPath {
	cage := gear.Cage
	switch gear.State {
	case sizing.Tight:
		cage = sizing.TightEnd
	case sizing.Slack:
		cage = sizing.SlackEnd
	default: // it fits: nothing to say
	}
	path := g.Path(gear.Ring, gear.Sprocket, cage)
	out := &GearPath{Ring: int(gear.Ring), Sprocket: int(gear.Sprocket), CageDeg: float64(cage), LengthMM: float64(path.Length), Idle: []IdleWheel{}}
	for _, w := range path.Wheels {
		out.Wheels = append(out.Wheels, PathWheel{Name: w.Name, Teeth: int(w.Teeth), Centre: PathPoint(w.Centre), RadiusMM: float64(w.Radius),
			Clockwise: w.Turn == sizing.Clockwise, From: PathPoint(w.From), To: PathPoint(w.To), AngleRad: w.Angle})
	}
	idle := func(teeth []sizing.Teeth, inUse sizing.Teeth, at sizing.Point) {
		for _, n := range teeth {
			if n != inUse {
				out.Idle = append(out.Idle, IdleWheel{int(n), PathPoint(at), float64(n.PitchRadius())})
			}
		}
	}
	idle(g.Rings, gear.Ring, path.Wheels[0].Centre)
	idle(g.Sprockets, gear.Sprocket, path.Wheels[3].Centre)
	return out
}

// SlotOption is a chain length that the slots allow.
type SlotOption struct {
	Links        int     `json:"links"`
	ChainstayMM  float64 `json:"chainstay_mm"`
	GrowthMM     float64 `json:"growth_mm"`
	ReachesLimit bool    `json:"reaches_limit"`
	// Warnings are no-room-to-lift-off, or none.
	Warnings []LengthWarning `json:"warnings"`
}

// WheelPair is a ring and a sprocket that need no tensioner while the chain is new.
type WheelPair struct {
	Ring           int     `json:"ring"`
	Sprocket       int     `json:"sprocket"`
	Links          int     `json:"links"`
	SpareMM        float64 `json:"spare_mm"`
	Ratio          float64 `json:"ratio"`
	RatioChangePct float64 `json:"ratio_change_pct"`
	PlayNewMM      float64 `json:"play_new_mm"`
	WearAtBoundPct float64 `json:"wear_at_bound_pct"`
}

// Single finds lengths, or pairs of wheels, for one gear without a derailleur; see the contract.
func Single(input []byte) (*SingleAnswer, error) {
	var f faults
	in, ok := root(input, &f)
	if !ok {
		return nil, f.refusal()
	}
	ring, sprocket := teethNeeded(in, "ring"), teethNeeded(in, "sprocket")
	half := in.boolean("half_link", false)
	limit := chain.Percent(in.numberNeeded("limit_pct", float64(wear.LowestLimit), float64(wear.HighestLimit)))
	mode, _ := decode[string](in, "mode", "text")
	switch mode {
	case "slots":
		s := sizing.Slots{Ring: ring, Sprocket: sprocket, HalfLink: half, Limit: limit,
			From: chain.MM(in.numberNeeded("chainstay_min_mm", minChainstay, maxChainstay)), To: chain.MM(in.numberNeeded("chainstay_max_mm", minChainstay, maxChainstay))}
		s.OpenToRear = named(in, "slots_open", false, parseOpening) == opensRear
		if s.To < s.From {
			f.add("chainstay_max_mm", "out-of-order", "the slots end behind where they begin")
		}
		in.done()
		if err := f.refusal(); err != nil {
			return nil, err
		}
		a, err := NewSlotsAnswer(s)
		return &SingleAnswer{SlotsAnswer: a}, err
	case "vertical":
		v := sizing.Vertical{Ring: ring, Sprocket: sprocket, HalfLink: half, Chainstay: chain.MM(in.numberNeeded("chainstay_mm", minChainstay, maxChainstay))}
		v.Fixed = in.boolean("fixed", false)
		v.Bound = sizing.FreewheelBound
		if v.Fixed {
			v.Bound = sizing.FixedBound
		}
		if bound, ok := in.number("bound_mm", 1, 100); ok {
			v.Bound = chain.MM(bound)
		}
		in.done()
		if err := f.refusal(); err != nil {
			return nil, err
		}
		a, err := NewPairsAnswer(v)
		return &SingleAnswer{PairsAnswer: a}, err
	}
	if mode == "" && !in.has("mode") {
		in.need("mode")
	} else {
		f.add("mode", "unknown-value", "%q is not a mode: slots or vertical", mode)
	}
	return nil, f.refusal()
}

// opensRear is of slots out of which the wheel comes backward.
const opensRear = "rear"

func parseOpening(text string) (string, error) {
	if text != opensRear && text != "forward" {
		return "", fmt.Errorf("%q is no way that slots open: forward or rear", text)
	}
	return text, nil
}

// SingleAnswer is what [Single] answers: one of the two.
type SingleAnswer struct {
	*SlotsAnswer
	*PairsAnswer
}

// SlotsAnswer has its recommendation even where there is none, as null.
type SlotsAnswer struct {
	Options          []SlotOption `json:"options"`
	RecommendedLinks *int         `json:"recommended_links"`
}

// PairsAnswer is for an axle that does not move.
type PairsAnswer struct {
	Pairs []WheelPair `json:"pairs"`
}

// NewSlotsAnswer finds the lengths that slots allow; a refusal is at the chainstay.
func NewSlotsAnswer(s sizing.Slots) (*SlotsAnswer, error) {
	options, err := s.Options()
	if err != nil {
		return nil, refuseSizing(err)
	}
	a := &SlotsAnswer{Options: []SlotOption{}}
	for _, o := range options {
		option := SlotOption{int(o.Links), float64(o.Chainstay), float64(o.Growth), o.ReachesLimit, []LengthWarning{}}
		if o.NoRoomToLiftOff {
			option.Warnings = append(option.Warnings, LengthWarning{Code: "no-room-to-lift-off"})
		}
		a.Options = append(a.Options, option)
	}
	if o := sizing.Recommended(options); o != nil {
		links := int(o.Links)
		a.RecommendedLinks = &links
	}
	return a, nil
}

// NewPairsAnswer finds the pairs that need no tensioner; a refusal is at the chainstay.
func NewPairsAnswer(v sizing.Vertical) (*PairsAnswer, error) {
	pairs, err := v.Pairs()
	if err != nil {
		return nil, refuseSizing(err)
	}
	a := &PairsAnswer{Pairs: []WheelPair{}}
	for _, p := range pairs {
		a.Pairs = append(a.Pairs, WheelPair{int(p.Ring), int(p.Sprocket), int(p.Links), float64(p.Spare), p.Ratio, p.RatioChange, float64(p.PlayNew), float64(p.WearAtBound)})
	}
	return a, nil
}

// refuseSizing puts the core's refusals at their paths.
func refuseSizing(err error) error {
	var f faults
	var overlap *sizing.OverlapError
	var pulley *sizing.PulleyError
	var half sizing.HalfLinkError
	switch {
	case errors.As(err, &overlap):
		f.add("chainstay_mm", "wheels-overlap", "%v", overlap)
	case errors.As(err, &pulley):
		f.add("cage_mm", "pulleys-overlap", "%v", pulley)
	case errors.As(err, &half):
		f.add("half_link", "half-link-refused", "%v", half)
	default:
		return err
	}
	return f.refusal()
}

// teethList reads one to most counts of teeth.
func teethList(o *object, name string, most int) []sizing.Teeth {
	if !o.has(name) {
		o.take(name)
		o.need(name)
		return []sizing.Teeth{sizing.MostTeeth}
	}
	counts, ok := decode[[]float64](o, name, "a list of tooth counts")
	if ok && (len(counts) < 1 || len(counts) > most) {
		o.faults.add(o.at(name), "out-of-range", "%d entries: there may be 1 to %d", len(counts), most)
		ok = false
	}
	teeth := make([]sizing.Teeth, 0, len(counts))
	for _, n := range counts {
		if n != math.Trunc(n) || sizing.Teeth(n) < sizing.FewestTeeth || sizing.Teeth(n) > sizing.MostTeeth {
			o.faults.add(o.at(name), "out-of-range", "%g teeth: a chainring or sprocket has %d to %d", n, sizing.FewestTeeth, sizing.MostTeeth)
			break
		}
		teeth = append(teeth, sizing.Teeth(n))
	}
	if !ok || len(teeth) == 0 {
		return []sizing.Teeth{sizing.MostTeeth}
	}
	return teeth
}

func teethNeeded(o *object, name string) sizing.Teeth {
	return sizing.Teeth(o.wholeNeeded(name, int(sizing.FewestTeeth), int(sizing.MostTeeth)))
}
