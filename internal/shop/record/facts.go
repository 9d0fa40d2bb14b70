package record

import (
	"fmt"
	"math"

	"github.com/google/uuid"

	"earnestpony/core/forecast"
	"earnestpony/internal/store"
)

// BikeFacts is what is written down about a bike; what is not known is empty or nil.
type BikeFacts = store.BikeFacts

// Mix is how a bike's riding is shared between conditions; the shares add to 1.
type Mix = store.Mix

// BikeBody is what the ledger keeps of a bike's facts. Notes are left out: they may hold what is
// personal, and nothing is computed from them.
type BikeBody struct {
	Facts      *BikeFacts `json:"facts,omitempty"`
	CustomerID *uuid.UUID `json:"customer_id,omitempty"`
	Changed    []string   `json:"changed,omitempty"`
}

func LedgerFacts(f BikeFacts) *BikeFacts {
	f.Notes = ""
	return &f
}

// CustomerFacts is what is written down about a customer.
type CustomerFacts = store.CustomerFacts

// CustomerBody is what the ledger keeps of a change: which facts, never what they said, so that a
// customer's personal facts can be erased and the ledger stays whole.
type CustomerBody struct {
	Changed []string `json:"changed,omitempty"`
}

// MixFault says what is wrong with shares of riding; empty when nothing is.
func MixFault(m Mix) string {
	if sum := m.Fair + m.Dusty + m.Wet + m.Mud + m.Salt; math.Abs(sum-1) > 0.005 {
		return fmt.Sprintf("The shares add up to %.0f %%: they must add up to 100 %%.", 100*sum)
	}
	return ""
}

// MixOf is how a bike is ridden, as the core knows it.
func MixOf(m *Mix) forecast.Mix {
	if m == nil {
		return forecast.Mix{}
	}
	return forecast.Mix{forecast.Fair: m.Fair, forecast.Dusty: m.Dusty, forecast.Wet: m.Wet, forecast.Mud: m.Mud, forecast.Salt: m.Salt}
}
