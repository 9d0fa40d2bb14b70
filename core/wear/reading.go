package wear

import (
	"fmt"
	"math"
	"slices"

	"earnestpony/core/chain"
)

// MaxPlaces is how many places round a chain one measurement may hold, and DefaultPlaces how many
// the house takes: wear is uneven, and three places show it.
const (
	MaxPlaces     = 8
	DefaultPlaces = 3
)

// The elongation that a reading may show, after the zero offset. Anything outside is a slip, not a
// chain: one that long would long since have come off the teeth.
const (
	lowestElongation  chain.Percent = -0.3
	highestElongation chain.Percent = 3
)

// The links that a reading of a length may span: one is too short to read, and no chain is longer.
const (
	minSpan chain.Links = 2
	maxSpan chain.Links = 300
)

// Reading is what an instrument said at one place round the chain; place 1 is beside the joining
// link. Make one with [Length], [Inside], [Percent], [DropIn] or [Looked].
type Reading struct {
	place  int
	links  chain.Links   // spanned, for a length
	length chain.MM      // a length, or inside jaws
	newLen chain.MM      // inside jaws on a new chain of the family; 0 when not taken
	pct    chain.Percent // what a gauge reads
	marks  []Mark
	look   Look
	shape  shape
}

// shape is what a reading holds; each instrument kind takes one.
type shape uint8

const (
	lengthShape shape = iota
	percentShape
	marksShape
	lookShape
)

func (s shape) String() string {
	return [...]string{"a length", "a percent reading", "marks that drop in or do not", "a look"}[s]
}

func (k Kind) shape() shape {
	switch k {
	case GaugePercent:
		return percentShape
	case GaugeDropin:
		return marksShape
	case PullOff:
		return lookShape
	default:
		return lengthShape
	}
}

// Mark is one mark of a drop-in gauge, and whether it dropped in between the rollers.
type Mark struct {
	At      chain.Percent
	DropsIn bool
}

// Look is what a chain shows when pulled forward off the front of the big ring. Zero is no look.
type Look uint8

// The looks.
const (
	NoLook     Look = iota
	Flush           // lies on the teeth
	Daylight        // light shows under it
	ClearsTip       // lifts clear of a tooth
	looksAfter      // one past the last
)

var lookNames = [...]string{NoLook: "", Flush: "flush", Daylight: "daylight", ClearsTip: "clears-tooth"}

func (l Look) String() string { return lookNames[l] }

// ParseLook reads the name that [Look.String] writes.
func ParseLook(s string) (Look, error) {
	for l := Flush; l < looksAfter; l++ {
		if lookNames[l] == s {
			return l, nil
		}
	}
	return NoLook, fmt.Errorf("%q is not a look: one of %v", s, lookNames[1:])
}

// Length is a reading over n links, pin centre to pin centre, by a ruler or of a whole chain.
func Length(place int, n chain.Links, length chain.MM) Reading {
	return Reading{place: place, links: n, length: length}
}

// Inside is a reading of inside jaws between rollers n links apart. newLength is what the same
// jaws read on a new chain of that family, or 0 when nobody took it.
func Inside(place int, n chain.Links, length, newLength chain.MM) Reading {
	return Reading{place: place, links: n, length: length, newLen: newLength}
}

// Percent is what a dial or slide reads, before its zero offset is taken off.
func Percent(place int, p chain.Percent) Reading {
	return Reading{place: place, pct: p, shape: percentShape}
}

// DropIn is what the marks of a drop-in gauge did.
func DropIn(place int, marks ...Mark) Reading {
	return Reading{place: place, marks: marks, shape: marksShape}
}

// Looked is a look at a chain pulled off the ring.
func Looked(place int, l Look) Reading { return Reading{place: place, look: l, shape: lookShape} }

// Place returns where round the chain the reading was taken.
func (r Reading) Place() int { return r.place }

// Fault is one thing wrong with a measurement.
type Fault struct {
	Reading int    // index of the reading; -1 when the fault is of the measurement as a whole
	Field   string // the part of the reading that is wrong, in the contract's words; may be empty
	Code    string // stable
	Message string // what is wrong and what to do
}

func (f Fault) Error() string { return f.Message }

// Faults is every fault of a measurement, in the order of its readings.
type Faults []Fault

func (f Faults) Error() string {
	if len(f) == 1 {
		return f[0].Message
	}
	return fmt.Sprintf("%s (and %d more)", f[0].Message, len(f)-1)
}

// Measurement is checked: whatever holds one can be judged.
type Measurement struct {
	tool     Instrument
	readings []Reading
	findings []Finding
	values   []chain.Percent // per reading, of kinds that measure
	spans    []Interval      // per reading, of kinds that compare
}

// NewMeasurement checks readings and findings and keeps copies of them. Its error is [Faults].
func NewMeasurement(tool Instrument, readings []Reading, findings []Finding) (Measurement, error) {
	m := Measurement{tool: tool, readings: slices.Clone(readings), findings: slices.Clone(findings)}
	var faults Faults
	whole := func(code, format string, args ...any) {
		faults = append(faults, Fault{Reading: -1, Code: code, Message: fmt.Sprintf(format, args...)})
	}
	if tool.Kind == KindUnknown {
		whole("instrument-unknown", "the kind of instrument is not known")
		return Measurement{}, faults
	}
	if n := len(readings); n < 1 || n > MaxPlaces {
		whole("places", "%d readings: a measurement has one to %d places", n, MaxPlaces)
	}
	for i, r := range readings {
		if f, bad := m.take(i, r); bad {
			faults = append(faults, f)
		}
	}
	if len(faults) > 0 {
		return Measurement{}, faults
	}
	return m, nil
}

// take checks reading i and adds what it says to the measurement.
func (m *Measurement) take(i int, r Reading) (Fault, bool) {
	fault := func(field, code, format string, args ...any) (Fault, bool) {
		return Fault{Reading: i, Field: field, Code: code, Message: fmt.Sprintf(format, args...)}, true
	}
	if r.place < 1 || r.place > MaxPlaces {
		return fault("place", "out-of-range", "place %d: places are numbered 1 to %d round the chain", r.place, MaxPlaces)
	}
	for _, before := range m.readings[:i] {
		if before.place == r.place {
			return fault("place", "place-twice", "place %d was read twice: keep one of the two", r.place)
		}
	}
	if want := m.tool.Kind.shape(); r.shape != want {
		return fault("", "wrong-kind", "a %v gives %v, not %v", m.tool.Kind, want, r.shape)
	}
	switch r.shape {
	case lengthShape, percentShape:
		value, f, bad := m.value(i, r)
		if bad {
			return f, true
		}
		m.values = append(m.values, value)
	case marksShape:
		span, code, message := dropInInterval(r.marks)
		if code != "" {
			return fault("marks", code, "%s", message)
		}
		m.spans = append(m.spans, span)
	case lookShape:
		if r.look == NoLook || r.look >= looksAfter {
			return fault("look", "unknown", "how the chain looks is missing: flush, daylight or clears-tooth")
		}
		m.spans = append(m.spans, lookIntervals[r.look])
	}
	return Fault{}, false
}

// value returns the elongation that reading i shows, after the zero offset.
func (m *Measurement) value(i int, r Reading) (chain.Percent, Fault, bool) {
	fault := func(field, code, format string, args ...any) (chain.Percent, Fault, bool) {
		return 0, Fault{Reading: i, Field: field, Code: code, Message: fmt.Sprintf(format, args...)}, true
	}
	if r.shape == percentShape {
		e := r.pct - m.tool.ZeroOffset
		if !plausible(e) {
			code, message := implausiblePercent(r.pct, m.tool.ZeroOffset)
			return fault("percent", code, "%s", message)
		}
		return e, Fault{}, false
	}
	if r.links < minSpan || r.links > maxSpan {
		return fault("links", "out-of-range", "over %d links: a reading spans %d to %d", r.links, minSpan, maxSpan)
	}
	if first := m.readings[0].links; r.links != first {
		return fault("links", "links-differ", "over %d links, but place %d was read over %d: read every place over the same number", r.links, m.readings[0].place, first)
	}
	if !(r.length > 0) || math.IsInf(float64(r.length), 0) {
		return fault("length_mm", "out-of-range", "%g mm: a length is above zero", float64(r.length))
	}
	nominal := r.links.Nominal()
	if m.tool.Kind == CaliperInside {
		nominal = NewInside(r.links)
		if first := m.readings[0]; (r.newLen != 0) != (first.newLen != 0) {
			return fault("new_length_mm", "new-reading-missing", "the new-chain reading belongs to every place or to none")
		}
		if r.newLen != 0 {
			// Rollers of other families differ from the usual 7.65 mm by well under 2 mm.
			if off := r.newLen - nominal; !(off > -2 && off < 2) {
				return fault("new_length_mm", "out-of-range", "%.2f mm on a new chain over %d links: about %.2f mm is usual", float64(r.newLen), r.links, float64(nominal))
			}
			nominal = r.newLen
		}
	}
	e := chain.Percent(100*(r.length-nominal)/r.links.Nominal()) - m.tool.ZeroOffset
	if !plausible(e) {
		code, message := implausibleLength(r.length, r.links, nominal)
		return fault("length_mm", code, "%s", message)
	}
	return e, Fault{}, false
}

func plausible(e chain.Percent) bool { return e >= lowestElongation-tie && e <= highestElongation+tie }

// implausibleLength says why a length cannot be one of n links, by trying the usual slips.
func implausibleLength(length chain.MM, n chain.Links, nominal chain.MM) (code, message string) {
	fits := func(l chain.MM, nominal chain.MM, n chain.Links) bool {
		return plausible(chain.Percent(100 * (l - nominal) / n.Nominal()))
	}
	said := fmt.Sprintf("%.4g mm over %d links", float64(length), n)
	if fits(length*chain.Inch, nominal, n) {
		return "inches-for-mm", fmt.Sprintf("%s would be far too short: %.4g looks like inches. Write %.4g in.", said, float64(length), float64(length))
	}
	if fits(length/chain.Inch, nominal, n) {
		return "mm-for-inches", fmt.Sprintf("%s is far too long: the number looks like millimetres, not inches.", said)
	}
	if past := length / nominal; past < 0.05 && plausible(chain.Percent(100*length/n.Nominal())) {
		return "past-the-mark", fmt.Sprintf("%s is far too short: for millimetres past the mark write +%.4g.", said, float64(length))
	}
	// Inside jaws read one roller less than the pitch lines are apart, so the shift stays the same.
	shift := n.Nominal() - nominal
	count := chain.Links(math.Round(float64((length + shift) / chain.Pitch)))
	if count >= minSpan && count <= maxSpan && count != n && fits(length, count.Nominal()-shift, count) {
		return "links-miscounted", fmt.Sprintf("%s cannot be: it fits %d links. Count the links again.", said, count)
	}
	return "out-of-range", fmt.Sprintf("%s cannot be: new is %.4g mm, worn out %.4g mm. Wrong number of links, or inches for millimetres?",
		said, float64(nominal), float64(nominal+highestElongation.Growth(n)))
}

// implausiblePercent says why a gauge cannot have read p.
func implausiblePercent(p, offset chain.Percent) (code, message string) {
	if hundredth := p / 100; p > highestElongation && plausible(hundredth-offset) {
		return "decimal-point", fmt.Sprintf("%g %% cannot be: worn out is 3 %%. Is the decimal point missing, %g %%?", float64(p), float64(hundredth))
	}
	return "out-of-range", fmt.Sprintf("%g %% cannot be: after the zero offset of %g %% a chain reads from %g to %g %%.",
		float64(p), float64(offset), float64(lowestElongation), float64(highestElongation))
}

// Instrument returns the tool the readings were taken with.
func (m Measurement) Instrument() Instrument { return m.tool }

// Findings returns what was seen on the chain and the teeth while measuring.
func (m Measurement) Findings() []Finding { return slices.Clone(m.findings) }

// Links returns how many links each reading spans; 0 for kinds that read no length.
func (m Measurement) Links() chain.Links { return m.readings[0].links }

// Place is a place round the chain with the elongation read there.
type Place struct {
	Number     int
	Elongation chain.Percent
}

// Places returns the elongation at each place, in the order read; none for kinds that compare.
func (m Measurement) Places() []Place {
	places := make([]Place, 0, len(m.values))
	for i, e := range m.values {
		places = append(places, Place{m.readings[i].place, e})
	}
	return places
}
