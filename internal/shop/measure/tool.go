package measure

import (
	"earnestpony/core/chain"
	"earnestpony/core/wear"
	"earnestpony/internal/shop/record"
)

// PlugIn gives the shop a simulated measuring tool. It is called before the service is used.
func (s *Measure) PlugIn(t record.MeasuringTool) { s.simulated = t }

// SimulatedChain is the chain to which the simulated tool is held.
type SimulatedChain struct {
	Kind    string  `json:"kind"`
	WornPct float64 `json:"worn_pct"`
	Links   *int    `json:"links,omitempty"` // that inside jaws span; as usual when nil
}

// SimulateReading returns what the simulated tool would type.
func (s *Measure) SimulateReading(c SimulatedChain) (string, error) {
	if s.simulated == nil {
		return "", &record.Problem{Kind: record.Missing, Code: "no-simulated-tool", Message: "No simulated tool is plugged in here."}
	}
	kind, err := wear.ParseKind(c.Kind)
	if err != nil {
		return "", record.InvalidInput(record.Field{Path: "kind", Code: "unknown-value", Message: "Say what kind of tool it is."})
	}
	links := kind.DefaultLinks()
	if c.Links != nil {
		links = chain.Links(*c.Links)
	}
	text, err := s.simulated.Read(kind, links, chain.Percent(c.WornPct))
	if err != nil {
		return "", record.InvalidInput(record.Field{Path: "kind", Code: "types-nothing", Message: "This kind of tool does not type for itself."})
	}
	return text, nil
}
