package wear

import "earnestpony/core/chain"

// stripLinks is what a creep strip spans where the reading itself has no such length: a foot rule.
const stripLinks = chain.Links(24)

// longestStrip is the longest span that can be drawn as it was read.
const longestStrip = chain.Links(40)

// Strip is a measurement laid along a ruler, in millimetres from the first pin: what a mechanic
// would see over the same links. It is for drawing the creep strip to true proportion.
type Strip struct {
	Links    chain.Links
	New      chain.MM
	Limit    chain.MM
	Together chain.MM
	// Mean, Error and Places are set for kinds that measure.
	Mean, Error chain.MM
	Places      []StripPlace
	// Low and High are set for kinds that compare; High is infinite where the tool looked no further.
	Low, High chain.MM
}

// StripPlace is where the last pin lies at one place.
type StripPlace struct {
	Number int
	At     chain.MM
}

// EmptyStrip is a ruler with its limits and nothing measured yet.
func EmptyStrip(l Limits) Strip { return newStrip(stripLinks, l) }

func newStrip(n chain.Links, l Limits) Strip {
	return Strip{Links: n, New: n.Nominal(), Limit: l.Limit.Length(n), Together: l.Together.Length(n)}
}

// StripOf lays a measurement along a ruler. Lengths read over up to 40 links keep their span;
// everything else is shown as it would look over 24.
func StripOf(m Measurement, l Limits) Strip {
	n := stripLinks
	if m.tool.Kind == Ruler && m.Links() <= longestStrip {
		n = m.Links()
	}
	s := newStrip(n, l)
	if est, ok := m.Estimate(); ok {
		s.Mean, s.Error = est.Mean.Length(n), est.Sigma.Growth(n)
		for _, p := range m.Places() {
			s.Places = append(s.Places, StripPlace{p.Number, p.Elongation.Length(n)})
		}
		return s
	}
	v, _ := m.Interval()
	s.Low, s.High = v.Low.Length(n), v.High.Length(n)
	return s
}
