// Package bikes is the customers and their bikes: what is known of each, its photo, chains and other parts, rides, how
// its chain wore and will wear, and what to fit: sizing, replacing, what early and late cost.
//
// It promises that a bike is changed only over the version that was seen, that its wear track follows from its ledger
// alone, and that a chain is not noted as fitted while something about it cannot be.
//
//	bike, err := bikes.AddBike(ctx, who, bikes.NewBike{CustomerID: customer, Facts: facts})
//	track, err := bikes.WearTrack(ctx, bike.Tag)
package bikes

import (
	"earnestpony/internal/outside"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
)

// Bikes knows the customers and their bikes.
type Bikes struct {
	desk    *record.Desk
	measure *measure.Measure
	weather outside.WeatherHistory // nil: nobody knows the weather
	inHand  InHand                 // the job that a bike is in
}

// New returns the shop's bikes.
func New(desk *record.Desk, m *measure.Measure) *Bikes { return &Bikes{desk: desk, measure: m} }
