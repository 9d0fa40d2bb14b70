// Package measure is what was read of chains: the shop's tools and their zero, the bench on which readings are judged,
// and the history of a bike, where each entry is shown and each reading stands with its verdict.
//
// It promises that a reading is recorded with all that it was judged by, that the core's verdict on it is said as the
// rules stand today, and that a reading which was voided, or which nobody can read, is shown and counts for nothing.
//
//	answer, err := measure.ReadBench(ctx, question)                // while somebody types
//	m, err := measure.RecordMeasurement(ctx, who, tag, measurement) // once it is right
package measure

import "earnestpony/internal/shop/record"

// Measure records what is read of chains.
type Measure struct {
	desk      *record.Desk
	simulated record.MeasuringTool // nil: none is plugged in
}

// New returns a room to measure in.
func New(desk *record.Desk) *Measure { return &Measure{desk: desk} }
