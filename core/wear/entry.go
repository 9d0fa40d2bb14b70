package wear

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"earnestpony/core/chain"
)

// Unit is what a number typed without one is taken to be. Zero is millimetres.
type Unit uint8

// The units of length that a shop may read its rulers in.
const (
	Millimetres Unit = iota
	Inches
)

func (u Unit) String() string { return [...]string{"mm", "in"}[u] }

// ParseUnit reads the name that [Unit.String] writes.
func ParseUnit(s string) (Unit, error) {
	switch s {
	case "mm":
		return Millimetres, nil
	case "in":
		return Inches, nil
	}
	return Millimetres, fmt.Errorf("%q is not a unit of length: mm or in", s)
}

// Entry is what a line typed by a person, or by a tool that types for itself, was understood as.
type Entry struct {
	Length chain.MM      // for kinds that read a length; past-the-mark entries are already added up
	Past   chain.MM      // how far past the mark a new chain reaches, for the same kinds
	Pct    chain.Percent // for gauges, before the zero offset
}

// maxEntry is the longest text that can be a reading; a longer one is a stray scan or a paste.
const maxEntry = 40

// entryForm is sign, then a mixed fraction, a fraction or a decimal, then a unit. Commas have
// become points by then.
var entryForm = regexp.MustCompile(`^([+-])?\s*(?:(\d+)[ -]+(\d+)/(\d+)|(\d+)/(\d+)|(\d+\.?\d*|\.\d+))\s*(mm|inches|inch|in|"|%)?$`)

var entrySpelling = strings.NewReplacer(",", ".", "″", `"`, "”", `"`, "“", `"`, "''", `"`, "−", "-", "–", "-", "\u00a0", " ", "\t", " ")

// ParseEntry reads what was typed for an instrument of kind k over n links: 0.62, 0,62, .62, 306.9,
// 306.9mm, 12 1/16 in, 12-1/16", or +1.6mm for past the mark. A number without a unit is a percent
// for a gauge and otherwise in plain; a fraction is always inches. newLength is what inside jaws
// read on a new chain, 0 for the default.
//
// Its error is a [Fault] with Field "text". Whether the value is possible at all is for
// [NewMeasurement] to say.
func ParseEntry(k Kind, n chain.Links, newLength chain.MM, plain Unit, text string) (Entry, error) {
	fault := func(code, format string, args ...any) (Entry, error) {
		return Entry{}, Fault{Reading: -1, Field: "text", Code: code, Message: fmt.Sprintf(format, args...)}
	}
	said := strings.TrimSpace(text)
	if said == "" {
		return fault("missing", "nothing was typed")
	}
	if len(said) > maxEntry {
		return fault("not-a-reading", "%q… is too long for a reading", said[:maxEntry/2])
	}
	parts := entryForm.FindStringSubmatch(strings.ToLower(entrySpelling.Replace(said)))
	if parts == nil {
		if k == GaugePercent {
			return fault("not-a-reading", "%q is not a reading: type percent, such as 0.62.", said)
		}
		return fault("not-a-reading", "%q is not a reading: type a length such as 306.4, 12 1/16 in, or +1.6 past the mark.", said)
	}
	sign, unit := parts[1], parts[8]
	value, fraction, code, message := entryValue(parts[2:8])
	if code != "" {
		return fault(code, "%s", message)
	}
	if k == GaugePercent {
		if fraction || (unit != "" && unit != "%") {
			return fault("wrong-unit", "%q is a length, but this gauge reads percent, such as 0.62.", said)
		}
		if sign == "-" {
			value = -value
		}
		return Entry{Pct: chain.Percent(value)}, nil
	}
	switch {
	case unit == "%":
		return fault("wrong-unit", "%q is percent, but this tool gives a length, such as 306.4 mm.", said)
	case fraction && unit == "mm":
		return fault("wrong-unit", "%q: millimetres are typed as 306.4; fractions are of inches.", said)
	}
	length := chain.MM(value)
	if fraction || (unit != "" && unit != "mm") || (unit == "" && plain == Inches) {
		length *= chain.Inch
	}
	mark := n.Nominal()
	if k == CaliperInside {
		mark = NewInside(n)
		if newLength != 0 {
			mark = newLength
		}
	}
	switch sign {
	case "+":
		length = mark + length
	case "-":
		length = mark - length
	}
	return Entry{Length: length, Past: length - mark}, nil
}

// entryValue adds up whole, fraction and decimal; fraction reports whether there was one.
func entryValue(p []string) (value float64, fraction bool, code, message string) {
	whole, num, den := p[0], p[1], p[2]
	if den == "" {
		num, den = p[3], p[4]
	}
	if den == "" {
		v, err := strconv.ParseFloat(p[5], 64)
		if err != nil {
			return 0, false, "not-a-reading", fmt.Sprintf("%s is too large a number", p[5])
		}
		return v, false, "", ""
	}
	n, err1 := strconv.ParseFloat(num, 64)
	d, err2 := strconv.ParseFloat(den, 64)
	w, err3 := strconv.ParseFloat("0"+whole, 64)
	switch {
	case err1 != nil || err2 != nil || err3 != nil:
		return 0, true, "not-a-reading", "the fraction has too many digits"
	case d == 0:
		return 0, true, "fraction-zero", fmt.Sprintf("%s/%s: nothing can be divided by zero. A sixteenth is written 1/16.", num, den)
	case n >= d:
		return 0, true, "fraction-too-large", fmt.Sprintf("%s/%s is a whole inch or more: write the inches in front, such as 12 1/16.", num, den)
	}
	return w + n/d, true, "", ""
}
