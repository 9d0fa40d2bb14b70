package calc

import (
	"errors"
	"fmt"
	"math"

	"earnestpony/core/chain"
	"earnestpony/core/wear"
)

// WearAnswer is what [Wear] answers. The fields of an estimate are there for kinds that measure,
// the interval for kinds that compare.
type WearAnswer struct {
	ElongationPct  *float64        `json:"elongation_pct,omitempty"`
	SigmaPct       *float64        `json:"sigma_pct,omitempty"`
	WorstPct       *float64        `json:"worst_pct,omitempty"`
	Uneven         *bool           `json:"uneven,omitempty"`
	PlayPerJointMM *float64        `json:"play_per_joint_mm,omitempty"`
	Interval       *WearInterval   `json:"interval,omitempty"`
	LimitPct       float64         `json:"limit_pct"`
	TogetherPct    float64         `json:"together_pct"`
	PLimit         float64         `json:"p_limit"`
	PTogether      float64         `json:"p_together"`
	Verdict        string          `json:"verdict"`
	Lean           string          `json:"lean,omitempty"` // of an unsure verdict: ride or replace
	Order          string          `json:"order,omitempty"`
	Reasons        []WearReason    `json:"reasons"`
	OtherSchools   []SchoolOpinion `json:"other_schools"`
}

// WearInterval is where the true elongation lies; HighPct is null when the tool looked no further.
type WearInterval struct {
	LowPct  float64  `json:"low_pct"`
	HighPct *float64 `json:"high_pct"`
	EdgePct float64  `json:"edge_pct"`
}

// WearReason is one reason of a verdict; its code says which numbers it carries.
type WearReason struct {
	Code     string   `json:"code"`
	Place    int      `json:"place,omitempty"`
	AtPct    *float64 `json:"at_pct,omitempty"`
	BoundPct *float64 `json:"bound_pct,omitempty"`
	Chance   *float64 `json:"chance,omitempty"`
	Finding  string   `json:"finding,omitempty"`
	Source   string   `json:"source,omitempty"`
	School   string   `json:"school,omitempty"`
}

// SchoolOpinion is what another school says of the same reading.
type SchoolOpinion struct {
	School  string `json:"school"`
	Verdict string `json:"verdict"`
}

// Wear judges a chain from readings; see the contract for its input.
func Wear(input []byte) (*WearAnswer, error) {
	var f faults
	in, ok := root(input, &f)
	if !ok {
		return nil, f.refusal()
	}
	d := readDrivetrain(in)
	school := named(in, "school", true, wear.ParseSchool)
	limits, limitsGiven := readLimits(in)
	tool := readInstrument(in)
	readings := readReadings(in, tool.Kind)
	findings := readFindings(in)
	in.done()
	if school != wear.SchoolUnknown && !school.Allows(d) {
		f.add("school", "school-refused", "running a chain out is refused for cargo, child-carrying and mid-motor bikes")
	}
	if err := f.refusal(); err != nil {
		return nil, err
	}
	m, err := wear.NewMeasurement(tool, readings, findings)
	if err != nil {
		return nil, refuseReadings(err)
	}
	if !limitsGiven {
		limits = school.Limits(d)
	}
	return NewWearAnswer(m, d, school, limits), nil
}

// NewWearAnswer judges a measurement and writes the answer as the contract has it.
func NewWearAnswer(m wear.Measurement, d chain.Drivetrain, school wear.School, limits wear.Limits) *WearAnswer {
	judged := wear.Judge(m, limits)
	a := &WearAnswer{
		LimitPct: float64(limits.Limit), TogetherPct: float64(limits.Together),
		PLimit: judged.PastLim, PTogether: judged.PastBoth,
		Verdict: judged.Verdict.String(), Lean: judged.Lean.String(), Order: judged.Order.String(),
	}
	if est, ok := m.Estimate(); ok {
		a.ElongationPct, a.SigmaPct, a.WorstPct = pct(est.Mean), pct(est.Sigma), pct(est.Worst)
		a.Uneven = &est.Uneven
		play := float64(est.Mean.PlayPerJoint())
		a.PlayPerJointMM = &play
	}
	if v, ok := m.Interval(); ok {
		a.Interval = &WearInterval{LowPct: float64(v.Low), HighPct: finite(float64(v.High)), EdgePct: float64(v.Edge)}
	}
	for _, r := range judged.Reasons {
		a.Reasons = append(a.Reasons, newReason(r, limits))
	}
	for _, o := range wear.OtherSchools(m, d, school) {
		a.OtherSchools = append(a.OtherSchools, SchoolOpinion{o.School.String(), o.Verdict.String()})
	}
	return a
}

func newReason(r wear.Reason, l wear.Limits) WearReason {
	out := WearReason{Code: string(r.Code), Place: r.Place, Finding: string(r.Finding)}
	switch r.Code {
	case wear.LimitFrom:
		out.AtPct, out.BoundPct = pct(r.At), pct(r.Bound)
		out.Source = l.Source.String()
		if l.Source == wear.FromSchool {
			out.School = l.School.String()
		}
	case wear.ChancePast, wear.ToolCannotTell, wear.PastLimit, wear.PastTogether, wear.SetInStock:
		out.Chance, out.BoundPct = &r.Chance, pct(r.Bound)
	case wear.ReadAs, wear.WellBelow, wear.NearLimit, wear.WorstPlace, wear.NewChainAssumed, wear.RecheckPlace, wear.ReadsHigh:
		out.AtPct, out.BoundPct = pct(r.At), pct(r.Bound)
	case wear.OpenAboveMark, wear.BelowNew:
		out.AtPct = pct(r.At)
	case wear.BoundedOnly:
		out.BoundPct = pct(r.Bound)
	default: // the others say no number
	}
	return out
}

func readDrivetrain(in *object) (d chain.Drivetrain) {
	o, ok := in.object("drivetrain")
	if !ok {
		if !in.has("drivetrain") {
			in.need("drivetrain")
		}
		return d
	}
	d.Kind = named(o, "kind", true, chain.ParseDrivetrainKind)
	d.Sprockets = o.wholeNeeded("sprockets", 1, chain.MaxSprockets)
	d.Motor = named(o, "motor", true, chain.ParseMotor)
	if !o.has("carry") {
		o.need("carry")
	}
	d.Carry = o.boolean("carry", false)
	o.done()
	return d
}

func readLimits(in *object) (l wear.Limits, given bool) {
	o, ok := in.object("limits")
	if !ok {
		return l, false
	}
	lo, hi := float64(wear.LowestLimit), float64(wear.HighestLimit)
	l.Limit = chain.Percent(o.numberNeeded("limit_pct", lo, hi))
	l.Together = chain.Percent(o.numberNeeded("together_pct", lo, hi))
	l.Source = named(o, "source", true, wear.ParseSource)
	if o.has("source") && (l.Source == wear.FromSchool || l.Source == wear.FromShop) {
		o.faults.add(o.at("source"), "unknown-value", "limits given here are the bike's or its maker's")
	}
	if l.Together < l.Limit {
		o.faults.add(o.at("together_pct"), "out-of-range", "the together line cannot lie below the limit")
	}
	o.done()
	return l, true
}

func readInstrument(in *object) (tool wear.Instrument) {
	o, ok := in.object("instrument")
	if !ok {
		if !in.has("instrument") {
			in.need("instrument")
		}
		return tool
	}
	tool.Kind = named(o, "kind", true, wear.ParseKind)
	if offset, ok := o.number("zero_offset_pct", -1, 1); ok {
		tool.ZeroOffset = chain.Percent(offset)
	}
	o.date("zero_checked_on") // noted with the instrument; no rule of the verdict turns on it
	tool.Spreads = o.boolean("spreads", false)
	o.done()
	return tool
}

func readReadings(in *object, k wear.Kind) []wear.Reading {
	if !in.has("readings") {
		in.take("readings")
		in.need("readings")
		return nil
	}
	var readings []wear.Reading
	for _, o := range in.objects("readings", 1, wear.MaxPlaces) {
		place := o.wholeNeeded("place", 1, wear.MaxPlaces)
		switch k {
		case wear.GaugePercent:
			readings = append(readings, wear.Percent(place, chain.Percent(o.numberNeeded("percent", -1e6, 1e6))))
		case wear.GaugeDropin:
			readings = append(readings, wear.DropIn(place, readMarks(o)...))
		case wear.PullOff:
			readings = append(readings, wear.Looked(place, named(o, "look", true, wear.ParseLook)))
		case wear.Ruler, wear.WholeChain, wear.CaliperInside:
			n, ok := o.whole("links", 1, 1000)
			if !ok && !o.has("links") {
				if n = int(k.DefaultLinks()); n == 0 {
					o.need("links")
				}
			}
			length := chain.MM(o.numberNeeded("length_mm", 0, 1e6))
			if k == wear.CaliperInside {
				newLength, _ := o.number("new_length_mm", 0, 1e6)
				readings = append(readings, wear.Inside(place, chain.Links(n), length, chain.MM(newLength)))
			} else {
				readings = append(readings, wear.Length(place, chain.Links(n), length))
			}
		default:
			continue // which fields belong here hangs on the kind, whose fault is noted already
		}
		o.done()
	}
	return readings
}

func readMarks(o *object) []wear.Mark {
	if !o.has("marks") {
		o.take("marks")
		o.need("marks")
		return nil
	}
	var marks []wear.Mark
	for _, m := range o.objects("marks", 1, 20) {
		at := m.numberNeeded("mark_pct", -1e6, 1e6)
		if !m.has("drops_in") {
			m.need("drops_in")
		}
		marks = append(marks, wear.Mark{At: chain.Percent(at), DropsIn: m.boolean("drops_in", false)})
		m.done()
	}
	return marks
}

func readFindings(in *object) []wear.Finding {
	texts, ok := decode[[]string](in, "findings", "a list of texts")
	if !ok {
		return nil
	}
	if len(texts) > MaxFindings {
		in.faults.add(in.at("findings"), "out-of-range", "%d findings: there may be %d", len(texts), MaxFindings)
		return nil
	}
	findings := make([]wear.Finding, len(texts))
	for i, t := range texts {
		findings[i] = wear.Finding(t)
	}
	return findings
}

// MaxFindings is how many findings one measurement may carry.
const MaxFindings = 30

// refuseReadings puts the core's faults at their paths.
func refuseReadings(err error) error {
	var found wear.Faults
	if !errors.As(err, &found) {
		return err
	}
	var f faults
	for _, fault := range found {
		path := "readings"
		if fault.Reading >= 0 {
			path = fmt.Sprintf("readings[%d]", fault.Reading)
			if fault.Field != "" {
				path += "." + fault.Field
			}
		}
		f.add(path, fault.Code, "%s", fault.Message)
	}
	return f.refusal()
}

func pct(p chain.Percent) *float64 {
	v := float64(p)
	return &v
}

// finite returns v, or nil for an open end: JSON has no infinity.
func finite(v float64) *float64 {
	if math.IsInf(v, 0) || math.IsNaN(v) {
		return nil
	}
	return &v
}
