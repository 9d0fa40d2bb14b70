// Package outside holds the simulated stand-ins for what a shop has around it: they ship with the
// program, and each can be replaced by the real thing.
package outside

import (
	"fmt"
	"math/rand/v2"
	"sync"

	"earnestpony/core/chain"
	"earnestpony/core/wear"
)

// Tool stands in for a data caliper or gauge. A real one is plugged in like a keyboard and types what
// it reads into whatever has the focus; this one says what it would type. It may be used by several
// goroutines.
type Tool struct {
	mu     sync.Mutex
	random *rand.Rand
}

// NewTool returns a tool whose noise comes from the seed.
func NewTool(seed uint64) *Tool { return &Tool{random: rand.New(rand.NewPCG(seed, seed))} }

// Read returns what a tool of kind k types when it is held to a chain worn by e over n links: inside
// jaws in millimetres to a hundredth, a gauge in percent to a hundredth, each with the error that tools
// of its kind have. Other kinds type nothing and are refused.
func (t *Tool) Read(k wear.Kind, n chain.Links, e chain.Percent) (string, error) {
	sigma, _ := wear.SigmaOf(k, 1)
	t.mu.Lock()
	read := e + sigma*chain.Percent(t.random.NormFloat64())
	t.mu.Unlock()
	switch k {
	case wear.CaliperInside:
		return fmt.Sprintf("%.2f", float64(wear.NewInside(n)+read.Growth(n))), nil
	case wear.GaugePercent:
		return fmt.Sprintf("%.2f", float64(read)), nil
	default: // no such tool types for itself
	}
	return "", fmt.Errorf("a %v does not type for itself: a caliper-inside or a gauge-percent does", k)
}
