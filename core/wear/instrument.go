package wear

import (
	"errors"
	"fmt"
	"math"

	"earnestpony/core/chain"
)

// Kind is a way of reading wear. The zero value is "not known".
type Kind uint8

// The kinds of instrument.
const (
	KindUnknown   Kind = iota
	Ruler              // pin centre to pin centre under light tension
	WholeChain         // chain off, hung or laid straight, between its two end pins
	CaliperInside      // inside jaws between rollers, which are pushed apart
	GaugePercent       // a dial or slide that reads percent
	GaugeDropin        // marks that drop in or do not
	PullOff            // the look of a chain pulled off the front of the big ring
)

var kindNames = [...]string{
	KindUnknown: "", Ruler: "ruler", WholeChain: "whole-chain", CaliperInside: "caliper-inside",
	GaugePercent: "gauge-percent", GaugeDropin: "gauge-dropin", PullOff: "pull-off",
}

func (k Kind) String() string { return kindNames[k] }

// Kinds lists every kind of instrument, in the order of the handbook.
func Kinds() []Kind {
	return []Kind{Ruler, WholeChain, CaliperInside, GaugePercent, GaugeDropin, PullOff}
}

// ParseKind reads the name that [Kind.String] writes.
func ParseKind(s string) (Kind, error) {
	for _, k := range Kinds() {
		if kindNames[k] == s {
			return k, nil
		}
	}
	return KindUnknown, fmt.Errorf("%q is not a kind of instrument: one of %v", s, kindNames[1:])
}

// Compares reports whether the kind answers with an interval instead of a value.
func (k Kind) Compares() bool { return k == GaugeDropin || k == PullOff }

// DefaultLinks is how many links a reading of this kind spans when nobody says otherwise; 0 where
// it must be counted (a whole chain) or where no length is read.
func (k Kind) DefaultLinks() chain.Links {
	switch k {
	case Ruler:
		return 24 // twelve inches, the span marked on a foot rule
	case CaliperInside:
		return 10 // the longest span that ordinary inside jaws reach
	default:
		return 0
	}
}

// The errors of one reading, one standard deviation (handbook: wear, Instruments).
const (
	eyeError        chain.MM = 0.25 // reading a ruler at one end
	wholeChainError chain.MM = 0.7  // hanging or laying a whole chain and reading both ends

	caliperError          chain.Percent = 0.03 // with a reading of the same chain family when new
	caliperErrorUnchecked chain.Percent = 0.08 // with the default new-chain reading below
	gaugeError            chain.Percent = 0.05

	dropinEdge  chain.Percent = 0.04 // how blurred the edge of a drop-in mark is
	pullOffEdge chain.Percent = 0.15
)

// defaultRoller is the roller diameter assumed where no new-chain reading was taken: inside jaws
// between rollers n links apart read n·p less one roller on a new chain.
const defaultRoller chain.MM = 7.65

// NewInside returns what inside jaws read on a new chain with ordinary rollers.
func NewInside(n chain.Links) chain.MM { return n.Nominal() - defaultRoller }

// lengthError returns the error of a length read with two ends, in percent of n links.
func lengthError(ends chain.MM, n chain.Links) chain.Percent {
	return chain.Percent(100 * ends / n.Nominal())
}

func (k Kind) sigma(n chain.Links, newKnown bool) chain.Percent {
	switch k {
	case Ruler:
		return lengthError(eyeError*math.Sqrt2, n)
	case WholeChain:
		return lengthError(wholeChainError, n)
	case CaliperInside:
		if newKnown {
			return caliperError
		}
		return caliperErrorUnchecked
	default:
		return gaugeError
	}
}

// ZeroCheckDays is how long a zero check stays good; an instrument without one in that time is
// flagged, not blocked.
const ZeroCheckDays = 180

// Instrument is what a rule needs to know of one tool in the shop.
type Instrument struct {
	Kind Kind
	// ZeroOffset is what the tool reads on a new chain; it is taken off every value it gives. The
	// kinds that compare have none: their marks are what they are.
	ZeroOffset chain.Percent
	// Spreads reports whether the tool pushes two rollers apart and so counts roller wear in. It
	// changes no number, but readings of both sorts on one bike are not to be mixed blindly.
	Spreads bool
}

// CountsRollers reports whether the tool's readings include the play of the rollers.
func (i Instrument) CountsRollers() bool { return i.Spreads || i.Kind == CaliperInside }

// HighestOffset is the most that a tool may read on a new chain and still be of use, percent either
// way. Some gauges read a quarter.
const HighestOffset chain.Percent = 1

// ZeroOffset reads what a tool of kind k said of a new chain over n links, typed as for [ParseEntry],
// and returns the tool's zero offset. Kinds that compare have none. Its error is a [Fault].
func ZeroOffset(k Kind, n chain.Links, plain Unit, text string) (chain.Percent, Entry, error) {
	entry, err := ParseEntry(k, n, 0, plain, text)
	if err != nil {
		return 0, entry, err
	}
	reading := Length(1, n, entry.Length)
	if k == GaugePercent {
		reading = Percent(1, entry.Pct)
	}
	m, err := NewMeasurement(Instrument{Kind: k}, []Reading{reading}, nil)
	if err != nil {
		var many Faults
		if errors.As(err, &many) {
			err = many[0]
		}
		return 0, entry, err
	}
	offset := m.values[0]
	if offset > HighestOffset+tie || offset < -HighestOffset-tie {
		return 0, entry, Fault{Reading: -1, Field: "text", Code: "not-a-new-chain",
			Message: fmt.Sprintf("%.2f %% on a new chain: a tool that far off is of no use. Is the chain new, and are the links counted right?", float64(offset))}
	}
	return offset, entry, nil
}
