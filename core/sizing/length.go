package sizing

import (
	"fmt"
	"slices"

	"earnestpony/core/chain"
)

// Method is a way of finding how long a chain must be. Zero is not chosen.
type Method uint8

// The methods, in the order in which they are shown.
const (
	MethodUnknown Method = iota
	Wrap                 // round the largest ring and sprocket, and an overlap: the bench method
	Formula              // the workshop's, in inches
	Geometry             // the belt itself, for one gear without a derailleur
	Maker                // the figure stated for these parts
	OldChain             // counted; right only if it was right and the gears are the same
	methods
)

var methodNames = [methods]string{"", "wrap", "formula", "geometry", "maker", "old-chain"}

func (m Method) String() string { return methodNames[m] }

// HouseMethods lists the methods that a shop may choose as its own where there is a derailleur.
func HouseMethods() []Method { return []Method{Wrap, Formula, OldChain} }

// ParseHouseMethod reads the name of a method that a shop may choose.
func ParseHouseMethod(s string) (Method, error) {
	for _, m := range HouseMethods() {
		if m.String() == s {
			return m, nil
		}
	}
	return MethodUnknown, fmt.Errorf("%q is no method that a shop chooses: one of %v", s, HouseMethods())
}

// Joint is how a chain is closed. Zero is not known.
type Joint uint8

// The joints.
const (
	JointUnknown Joint = iota
	JoiningLink        // the two-part link that opens by hand or pliers
	JoiningPin         // a replacement pin pressed in
	PressFitPin        // a master pin that takes the maker's tool
)

var jointNames = [...]string{"", "joining-link", "joining-pin", "press-fit-pin"}

func (j Joint) String() string { return jointNames[j] }

// ParseJoint reads the name that [Joint.String] writes.
func ParseJoint(s string) (Joint, error) {
	for j := JoiningLink; j <= PressFitPin; j++ {
		if jointNames[j] == s {
			return j, nil
		}
	}
	return JointUnknown, fmt.Errorf("%q is not a joint: one of %v", s, jointNames[1:])
}

// The overlap that the bench method adds to a chain wrapped round the largest ring and sprocket.
const (
	usualOverlap chain.Links = 2 // one pair
	wideOverlap  chain.Links = 4 // where one ring meets a very large sprocket
	// largeSprocket is from where on it is very large.
	largeSprocket Teeth = 42
)

// Bounds of what may be asked.
const (
	FewestLinks chain.Links = 30
	MostLinks   chain.Links = 300
)

// Question is a drivetrain whose chain is to be sized.
type Question struct {
	Kind      chain.DrivetrainKind
	Rings     []Teeth
	Sprockets []Teeth  // all, or the smallest and the largest
	Chainstay chain.MM // bottom bracket to rear axle, centre to centre
	Growth    chain.MM // of that distance to its longest, with rear suspension

	BoxLinks          chain.Links // 0: there is no box yet
	BoxHasJoiningLink bool        // and the count on it includes that
	Joint             Joint
	HalfLink          bool // the chain is closed with a half-link: single-speed and hub gear only

	House        Method      // zero is [Wrap]
	Overlap      chain.Links // in place of the usual; 0 is the usual
	MakerLinks   chain.Links // 0: not stated
	OldLinks     chain.Links // 0: not counted
	CageCapacity Teeth       // 0: not known
	Cage         chain.MM    // length of the cage between its pulleys; 0: not known
}

// WarningCode names something that an answer must be read with.
type WarningCode string

// The warnings.
const (
	BoxTooShort   WarningCode = "box-too-short"
	MakerTooShort WarningCode = "maker-too-short" // the figure stated does not reach round the largest wheels
	OddCount      WarningCode = "odd-count"       // a count that cannot be closed without a half-link
	OverCapacity  WarningCode = "over-capacity"   // the cage cannot take up the slack of small to small
	TightBigToBig WarningCode = "tight-big-to-big"
	NoOverlap     WarningCode = "no-overlap"     // the figure stated leaves the cage nothing to swing with
	NoLengthFits  WarningCode = "no-length-fits" // the cage is too small for these gears, whatever the length
)

// cages are the usual lengths between a cage's pulleys, the shortest first.
var cages = []chain.MM{56, 75, 93}

// MethodLinks is what one method says.
type MethodLinks struct {
	Method Method
	Links  chain.Links
}

// Length is how long a chain must be.
type Length struct {
	Keep      chain.Links
	Method    Method        // by which
	Methods   []MethodLinks // all that the inputs allow
	Belt      float64       // links round the largest ring and sprocket, before any overlap
	Remove    chain.Links   // off what is in the box
	ShortBy   chain.Links   // of what is in the box
	Capacity  Teeth         // needed
	Cut       Cut
	TwoMore   bool // two links more would free big-to-big
	Warnings  []WarningCode
	KeepOff   [][2]Teeth  // ring and sprocket of the gears that [NoLengthFits] says to keep off
	CageFits  chain.MM    // the smallest usual cage that would do then; zero where none does
	OverlapBy chain.Links // that [Wrap] added
}

// Cut is where to cut: count Links from an end that is an inner link, and press out the pin after them.
type Cut struct {
	Links     chain.Links
	LastInner bool // the link before the cut is an inner one
}

// HalfLinkError reports a half-link where none may be.
type HalfLinkError struct{}

func (HalfLinkError) Error() string {
	return "a half-link is for single-speed and hub gear: in a derailleur it catches"
}

// Size answers a question. Its errors are [*OverlapError] and [HalfLinkError].
func Size(q Question) (Length, error) {
	ring, sprocket := slices.Max(q.Rings), slices.Max(q.Sprockets)
	longest := q.Chainstay + q.Growth
	// Wheels that fit while the bike stands fit at the longest too.
	if err := checkApart(ring, sprocket, q.Chainstay); err != nil {
		return Length{}, err
	}
	geared := q.Kind == chain.Derailleur
	if geared && q.HalfLink {
		return Length{}, HalfLinkError{}
	}
	l := Length{Belt: Belt(ring, sprocket, longest),
		Capacity: ring - slices.Min(q.Rings) + sprocket - slices.Min(q.Sprockets)}
	l.byEveryMethod(q, ring, sprocket, longest)
	l.choose(q)
	if usable := q.usable(); q.BoxLinks > 0 {
		l.Remove, l.ShortBy = max(usable-l.Keep, 0), max(l.Keep-usable, 0)
	}
	l.warn(q, ring, sprocket)
	l.Cut = CutFor(l.Keep, q.Joint, q.HalfLink)
	return l, nil
}

// byEveryMethod asks all methods that the inputs allow.
func (l *Length) byEveryMethod(q Question, ring, sprocket Teeth, longest chain.MM) {
	add := func(m Method, n chain.Links) { l.Methods = append(l.Methods, MethodLinks{m, n}) }
	inches := float64(longest / chain.Inch)
	formula := upToEven(2 * (2*inches + float64(ring)/4 + float64(sprocket)/4 + 1))
	if q.Kind == chain.Derailleur {
		l.OverlapBy = q.Overlap
		if l.OverlapBy == 0 {
			l.OverlapBy = usualOverlap
			if len(q.Rings) == 1 && sprocket >= largeSprocket {
				l.OverlapBy = wideOverlap
			}
		}
		add(Wrap, upToEven(l.Belt)+l.OverlapBy)
		add(Formula, formula)
	} else {
		add(Formula, formula)
		add(Geometry, upTo(l.Belt, q.HalfLink))
	}
	if q.MakerLinks > 0 {
		add(Maker, q.MakerLinks)
	}
	if q.OldLinks > 0 {
		add(OldChain, q.OldLinks)
	}
}

// choose takes the maker's figure where it can be, else the house's method, else the one that always can.
func (l *Length) choose(q Question) {
	always := Wrap
	if q.Kind != chain.Derailleur {
		always = Geometry
	}
	house := q.House
	if q.Kind != chain.Derailleur || house == MethodUnknown {
		house = always
	}
	for _, want := range []Method{Maker, house, always} {
		for _, m := range l.Methods {
			closes := q.HalfLink || m.Links%2 == 0
			reaches := m.Links >= upTo(l.Belt, q.HalfLink)
			if m.Method == want && closes && reaches {
				l.Keep, l.Method = m.Links, m.Method
				return
			}
		}
	}
}

// usable returns how many links of the box a chain can be made of: without its joining link two fewer,
// for an inner link must go with it.
func (q Question) usable() chain.Links {
	if q.BoxHasJoiningLink && q.Joint != JoiningLink {
		return q.BoxLinks - 2
	}
	return q.BoxLinks
}

// warn says what the answer must be read with, by name.
func (l *Length) warn(q Question, ring, sprocket Teeth) {
	warn := func(code WarningCode, when bool) {
		if when {
			l.Warnings = append(l.Warnings, code)
		}
	}
	odd := func(n chain.Links) bool { return n%2 == 1 && !q.HalfLink }
	warn(BoxTooShort, l.ShortBy > 0)
	warn(MakerTooShort, q.MakerLinks > 0 && q.MakerLinks < upTo(l.Belt, q.HalfLink))
	warn(OddCount, odd(q.MakerLinks) || odd(q.OldLinks))
	warn(OverCapacity, q.CageCapacity > 0 && l.Capacity > q.CageCapacity)
	even := upToEven(l.Belt)
	warn(NoOverlap, q.Kind == chain.Derailleur && l.Method == Maker && q.MakerLinks >= even && q.MakerLinks < even+usualOverlap)
	if q.Kind == chain.Derailleur && q.Cage > 0 {
		g := Gearing{Rings: q.Rings, Sprockets: q.Sprockets, Chainstay: q.Chainstay, Growth: q.Growth, Cage: q.Cage, Gap: DefaultGap, Pulley: DefaultPulley}
		if g.Check() != nil {
			return
		}
		fits := !g.Window(0).Empty
		if g.tightBy(ring, sprocket, l.Keep, 0) > 0 {
			warn(TightBigToBig, true)
			l.TwoMore = fits && g.tightBy(ring, sprocket, l.Keep+2, 0) <= 0
		}
		if !fits {
			warn(NoLengthFits, true)
			l.wouldFit(g)
		}
	}
}

// wouldFit says what would do where no length does: gears to keep off at the length to keep, or a longer cage.
func (l *Length) wouldFit(g Gearing) {
	for _, gear := range g.Gears(l.Keep, 0) {
		if gear.State != Fits {
			l.KeepOff = append(l.KeepOff, [2]Teeth{gear.Ring, gear.Sprocket})
		}
	}
	for _, cage := range cages {
		g.Cage = cage
		if g.Check() == nil && !g.Window(0).Empty {
			l.CageFits = cage
			return
		}
	}
}

// CutFor returns where to cut a chain that is to have so many links when closed. A joining link is one of
// them and sits between two inner links; a pin joins an inner link to an outer one; a half-link is one of
// them too, inner at one end and outer at the other.
func CutFor(keep chain.Links, j Joint, halfLink bool) Cut {
	n := keep
	if j == JoiningLink {
		n--
	}
	if halfLink {
		n--
	}
	return Cut{Links: n, LastInner: n%2 == 1}
}
