package wear

import (
	"fmt"
	"math"
	"slices"

	"earnestpony/core/chain"
)

// tie is how near to a threshold counts as equal to it, so that a verdict never turns on the last
// bit of a sum.
const tie = 1e-9

// The lines of the verdict (handbook: wear, The verdict).
const (
	sureBelow float64 = 0.10 // a smaller chance of being past the limit is no reason to worry
	surePast  float64 = 0.90 // a larger one is reason enough to act
	together  float64 = 0.8  // a needless cassette costs a set, a missed one a ride test that is made anyway
	inStock   float64 = 0.3  // from this chance on a set is in stock before the ride test
	evenOdds  float64 = 0.5  // from this chance on a doubt leans to replacing

	// margin is how far under the limit a chain must be to be simply fine.
	margin chain.Percent = 0.15

	// readsHighBy is how far over a line a tool that spreads rollers may read a chain that is under it.
	readsHighBy chain.Percent = 0.1
	// shorterThanNew is how many errors of a single reading below new are no chance.
	shorterThanNew chain.Percent = 2
)

// unevenFloor and unevenSigmas are what two places must differ by to call a chain uneven.
const (
	unevenFloor  chain.Percent = 0.15
	unevenSigmas chain.Percent = 3
)

// Verdict is what to do about a chain, mildest first. Zero is no verdict.
type Verdict uint8

// The verdicts.
const (
	NoVerdict       Verdict = iota
	OK                      // ride on
	Watch                   // near the limit: order the chain now
	Unsure                  // the tool cannot tell
	Replace                 // replace the chain, ride-test the sprockets
	ReplaceTogether         // chain and sprockets together, look at rings and pulleys
)

var verdictNames = [...]string{NoVerdict: "", OK: "ok", Watch: "watch", Unsure: "unsure", Replace: "replace", ReplaceTogether: "replace-together"}

func (v Verdict) String() string { return verdictNames[v] }

// ParseVerdict reads the name that [Verdict.String] writes.
func ParseVerdict(s string) (Verdict, error) {
	for v := OK; v <= ReplaceTogether; v++ {
		if verdictNames[v] == s {
			return v, nil
		}
	}
	return NoVerdict, fmt.Errorf("%q is not a verdict: one of %v", s, verdictNames[1:])
}

// State is how pressing something is, drawn as the plate sign. Zero is fresh.
type State uint8

// The states.
const (
	Fresh State = iota
	Soon
	Due
	Overdue
)

func (s State) String() string { return [...]string{"fresh", "soon", "due", "overdue"}[s] }

// State returns how pressing the verdict makes the chain. An unsure reading wants another soon.
func (v Verdict) State() State {
	switch v {
	case Watch, Unsure:
		return Soon
	case Replace:
		return Due
	case ReplaceTogether:
		return Overdue
	default:
		return Fresh
	}
}

// Finding is something seen on the chain or the teeth. The list is open: a finding this package
// does not know is kept and forces nothing.
type Finding string

// The findings that force a verdict whatever the reading, and those that are only noted.
const (
	SkipsOnNewChain Finding = "skips-on-new-chain"
	HookedTeeth     Finding = "hooked-teeth"
	BrokenTeeth     Finding = "broken-teeth" // several, against their fellows; shift teeth are short on purpose
	CrackedPlate    Finding = "cracked-plate"
	StiffLink       Finding = "stiff-link" // one that stays stiff after it was worked free and oiled
	RustPitting     Finding = "rust-pitting"
	Noise           Finding = "noise"
	UnevenWear      Finding = "uneven-wear"
	SurfaceRust     Finding = "surface-rust"
	ChippedTooth    Finding = "chipped-tooth" // one, partly broken: may run on, watch it
	SideSlack       Finding = "side-slack"    // worn plates, shifts badly
)

// Findings lists the findings this package knows, the forcing ones first.
func Findings() []Finding {
	return []Finding{SkipsOnNewChain, HookedTeeth, BrokenTeeth, CrackedPlate, StiffLink, RustPitting,
		Noise, UnevenWear, SurfaceRust, ChippedTooth, SideSlack}
}

// Forces returns the mildest verdict the finding leaves open, or [NoVerdict] if it forces nothing.
func (f Finding) Forces() Verdict {
	switch f {
	case SkipsOnNewChain, HookedTeeth, BrokenTeeth:
		return ReplaceTogether
	case CrackedPlate, StiffLink, RustPitting:
		return Replace
	default:
		return NoVerdict
	}
}

// Estimate is what a measuring kind says of the whole chain.
type Estimate struct {
	Mean   chain.Percent // best estimate
	Sigma  chain.Percent // its standard error
	Worst  chain.Percent // the largest place
	Uneven bool          // the places differ by more than the tool explains: look for stiff links
	judged chain.Percent // what is held against the limit: the mean, or the worst of an uneven chain
	error  chain.Percent // its standard error
}

// Estimate combines the places. Its second result is false for kinds that compare.
//
// The standard error is max(σ/√k, d/√k, σ/2), d the standard deviation of the places: the floor is
// there because one tool's error is partly the same at every place. An even chain is judged by its
// mean: taking the worst of several noisy readings every time would condemn good chains.
func (m Measurement) Estimate() (Estimate, bool) {
	k := float64(len(m.values))
	if k == 0 {
		return Estimate{}, false
	}
	sigma := m.tool.Kind.sigma(m.Links(), m.readings[0].newLen != 0)
	var sum chain.Percent
	for _, e := range m.values {
		sum += e
	}
	mean := sum / chain.Percent(k)
	s := sigma
	if k > 1 {
		var squares float64
		for _, e := range m.values {
			squares += float64((e - mean) * (e - mean))
		}
		d := math.Sqrt(squares / (k - 1))
		s = chain.Percent(max(float64(sigma)/math.Sqrt(k), d/math.Sqrt(k), float64(sigma)/2))
	}
	least, worst := slices.Min(m.values), slices.Max(m.values)
	est := Estimate{Mean: mean, Sigma: s, Worst: worst, judged: mean, error: s}
	if worst-least > m.unevenPast()+tie {
		est.Uneven, est.judged, est.error = true, worst, sigma
	}
	return est, true
}

// unevenPast is the difference between two places that the tool's own error does not explain.
func (m Measurement) unevenPast() chain.Percent {
	return max(unevenSigmas*m.tool.Kind.sigma(m.Links(), m.readings[0].newLen != 0), unevenFloor)
}

// Interval returns the interval the chain is judged by. Its second result is false for kinds that
// measure.
func (m Measurement) Interval() (Interval, bool) {
	if len(m.spans) == 0 {
		return Interval{}, false
	}
	return worstInterval(m.spans), true
}

// ReasonCode names one reason of a verdict.
type ReasonCode string

// The reasons. First come whose limit it is and what was read, then the row of the table that
// decided, then whatever changed it.
const (
	LimitFrom       ReasonCode = "limit-from"        // At: the limit, Bound: the together line
	ReadAs          ReasonCode = "read-as"           // At: the estimate or the middle of the interval, Bound: its standard error
	ChancePast      ReasonCode = "chance-past-limit" // Chance, Bound: the limit
	WellBelow       ReasonCode = "well-below"        // At, Bound: the limit less the margin
	NearLimit       ReasonCode = "near-limit"        // At, Bound: the limit less the margin
	ToolCannotTell  ReasonCode = "tool-cannot-tell"  // Chance, Bound: the limit
	PastLimit       ReasonCode = "past-limit"        // Chance, Bound: the limit
	PastTogether    ReasonCode = "past-together"     // Chance, Bound: the together line
	WorstPlace      ReasonCode = "worst-place"       // At: the worst place, Bound: the difference allowed
	OpenAboveMark   ReasonCode = "open-above-mark"   // At: the largest mark
	ScreeningOnly   ReasonCode = "screening-only"    // a look is never enough alone
	FindingForces   ReasonCode = "finding-forces"    // Finding
	RollersCounted  ReasonCode = "rollers-counted"   // the tool counts roller wear in and reads high
	NewChainAssumed ReasonCode = "new-chain-assumed" // no new-chain reading: the caliper is less sure
	BoundedOnly     ReasonCode = "bounded-only"      // Bound: the upper mark; the tool cannot say how far under
	RecheckPlace    ReasonCode = "recheck-place"     // Place, At: what it reads, Bound: the difference allowed
	BelowNew        ReasonCode = "below-new"         // Place, At: what it reads, shorter than a new chain
	ReadsHigh       ReasonCode = "reads-high"        // At: the reading, Bound: the line it lies just over
	SetInStock      ReasonCode = "set-in-stock"      // Chance, Bound: the together line
)

// Reason is one reason of a verdict, as data; its code says which fields it uses.
type Reason struct {
	Code    ReasonCode
	Place   int // from 1
	At      chain.Percent
	Bound   chain.Percent
	Chance  float64 // 0 to 1
	Finding Finding
}

// Lean is where a doubt leans. Zero is no doubt.
type Lean uint8

// The leans.
const (
	NoLean Lean = iota
	LeanRide
	LeanReplace
)

func (l Lean) String() string { return [...]string{"", "ride", "replace"}[l] }

// Order is how soon a chain is ordered. Zero is not at all.
type Order uint8

// The orders.
const (
	NoOrder   Order = iota
	NextOrder       // it goes on the next order
	OrderNow
)

func (o Order) String() string { return [...]string{"none", "next", "now"}[o] }

// Answer is a verdict and how it came about.
type Answer struct {
	Verdict  Verdict
	Lean     Lean // of [Unsure], never of another
	Order    Order
	Limits   Limits
	PastLim  float64 // chance that the true wear is at the limit or past it
	PastBoth float64 // the same for the together line
	Reasons  []Reason
}

// Judge holds a measurement against limits (handbook: wear, The verdict).
func Judge(m Measurement, l Limits) Answer {
	a := Answer{Limits: l, Reasons: []Reason{{Code: LimitFrom, At: l.Limit, Bound: l.Together}}}
	if est, ok := m.Estimate(); ok {
		a.judgeEstimate(m, est)
	} else {
		a.judgeInterval(m)
	}
	for _, f := range m.findings {
		if f.Forces() > a.Verdict {
			a.Verdict = f.Forces()
			a.because(Reason{Code: FindingForces, Finding: f})
		}
	}
	if a.Verdict == Replace && a.PastBoth >= inStock-tie {
		a.because(Reason{Code: SetInStock, Chance: a.PastBoth, Bound: l.Together})
	}
	if m.tool.CountsRollers() {
		a.because(Reason{Code: RollersCounted})
	}
	a.lookAgain(m)
	a.lean(m)
	return a
}

// lean says where a doubt leans, and from that how soon a chain is ordered. Where nothing dropped in there is nothing to
// go by, whatever the sum says: measure.
func (a *Answer) lean(m Measurement) {
	if a.Verdict == Unsure {
		a.Lean = LeanRide
		if v, compares := m.Interval(); a.PastLim >= evenOdds-tie && (!compares || v.Low > 0) {
			a.Lean = LeanReplace
		}
	}
	switch {
	case a.Verdict == Unsure && m.tool.Kind == PullOff, a.Verdict == OK:
	case a.Verdict >= Replace, a.Lean == LeanReplace:
		a.Order = OrderNow
	case a.Verdict == Watch, a.PastLim >= sureBelow-tie:
		a.Order = NextOrder
	}
}

// lookAgain names what in the readings themselves wants another look. The verdict stands; ordering and fitting wait.
func (a *Answer) lookAgain(m Measurement) {
	if v, compares := m.Interval(); compares {
		a.readsHigh(m, v.Low)
		return
	}
	sigma := m.tool.Kind.sigma(m.Links(), m.readings[0].newLen != 0)
	for i, e := range m.values {
		others := slices.Delete(slices.Clone(m.values), i, i+1)
		if len(others) > 0 && math.Abs(float64(e-median(others))) > float64(m.unevenPast())+tie {
			a.because(Reason{Code: RecheckPlace, Place: m.readings[i].place, At: e, Bound: m.unevenPast()})
		}
		if e < -shorterThanNew*sigma-tie {
			a.because(Reason{Code: BelowNew, Place: m.readings[i].place, At: e})
		}
	}
	est, _ := m.Estimate()
	a.readsHigh(m, est.judged)
}

// readsHigh marks a reading of a tool that spreads rollers, which their play alone may have carried over a line.
func (a *Answer) readsHigh(m Measurement, w chain.Percent) {
	for _, line := range []chain.Percent{a.Limits.Together, a.Limits.Limit} {
		if m.tool.CountsRollers() && w >= line-tie && w <= line+readsHighBy+tie {
			a.because(Reason{Code: ReadsHigh, At: w, Bound: line})
			return
		}
	}
}

// median is the middle of some values, of two middles the mean.
func median(values []chain.Percent) chain.Percent {
	slices.Sort(values)
	half := len(values) / 2
	if len(values)%2 == 1 {
		return values[half]
	}
	return (values[half-1] + values[half]) / 2
}

func (a *Answer) because(r Reason) { a.Reasons = append(a.Reasons, r) }

func (a *Answer) judgeEstimate(m Measurement, est Estimate) {
	past := func(t chain.Percent) float64 { return phi(float64((est.judged - t) / est.error)) }
	a.PastLim, a.PastBoth = past(a.Limits.Limit), past(a.Limits.Together)
	a.because(Reason{Code: ReadAs, At: est.judged, Bound: est.error})
	if est.Uneven {
		a.because(Reason{Code: WorstPlace, At: est.Worst, Bound: m.unevenPast()})
	}
	a.decide(est.judged)
	if m.tool.Kind == CaliperInside && m.readings[0].newLen == 0 {
		a.because(Reason{Code: NewChainAssumed, At: caliperError, Bound: caliperErrorUnchecked})
	}
}

func (a *Answer) judgeInterval(m Measurement) {
	v := worstInterval(m.spans)
	a.PastLim, a.PastBoth = v.atLeast(a.Limits.Limit), v.atLeast(a.Limits.Together)
	a.because(Reason{Code: ReadAs, At: v.Middle(), Bound: v.Edge})
	a.decide(v.Middle())
	if v.OpenAbove() {
		switch {
		case a.Verdict < Unsure:
			a.Verdict = Unsure
			a.because(Reason{Code: OpenAboveMark, At: v.Low})
		case a.Verdict == ReplaceTogether && v.Low < a.Limits.Together-tie:
			a.Verdict = Replace
			a.because(Reason{Code: OpenAboveMark, At: v.Low})
		}
	}
	if a.Verdict == OK && !v.OpenAbove() {
		// It says only that wear is under the mark, never that it is well under.
		a.Reasons = slices.DeleteFunc(a.Reasons, func(r Reason) bool { return r.Code == WellBelow })
		a.because(Reason{Code: BoundedOnly, Bound: v.High})
	}
	if m.tool.Kind == PullOff {
		a.Verdict = Unsure
		a.because(Reason{Code: ScreeningOnly})
	}
}

// decide goes down the rows of the table; the first that fits is the verdict.
func (a *Answer) decide(w chain.Percent) {
	limit := a.Limits.Limit
	a.because(Reason{Code: ChancePast, Chance: a.PastLim, Bound: limit})
	below := func(x, line float64) bool { return x < line-tie }
	switch {
	case below(a.PastLim, sureBelow) && below(float64(w), float64(limit-margin)):
		a.Verdict = OK
		a.because(Reason{Code: WellBelow, At: w, Bound: limit - margin})
	case below(a.PastLim, sureBelow):
		a.Verdict = Watch
		a.because(Reason{Code: NearLimit, At: w, Bound: limit - margin})
	case below(a.PastLim, surePast):
		a.Verdict = Unsure
		a.because(Reason{Code: ToolCannotTell, Chance: a.PastLim, Bound: limit})
	case below(a.PastBoth, together):
		a.Verdict = Replace
		a.because(Reason{Code: PastLimit, Chance: a.PastLim, Bound: limit})
	default:
		a.Verdict = ReplaceTogether
		a.because(Reason{Code: PastTogether, Chance: a.PastBoth, Bound: a.Limits.Together})
	}
}

// Opinion is what one school says.
type Opinion struct {
	School  School
	Verdict Verdict
}

// OtherSchools returns what every school but the one asked says of the same measurement, leaving
// out those that may not judge this drivetrain.
func OtherSchools(m Measurement, d chain.Drivetrain, asked School) []Opinion {
	var opinions []Opinion
	for _, s := range Schools() {
		if s != asked && s.Allows(d) {
			opinions = append(opinions, Opinion{s, Judge(m, s.Limits(d)).Verdict})
		}
	}
	return opinions
}
