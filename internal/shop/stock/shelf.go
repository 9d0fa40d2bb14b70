// Package stock is what the shop has: chains and joining links on the shelf, fluids and waxes, baths and pots with how
// dirty they are, and what becomes of their waste.
//
// It promises that nothing is taken that is not there, that a bath says when it is spent, and that waste is never
// counted twice.
//
//	items, err := stock.ListStock(ctx, false)
//	bath, err := stock.DoBath(ctx, who, id, stock.BathAction{Action: "heat"})
package stock

import "earnestpony/internal/shop/record"

// Stock is what the shop has.
type Stock struct {
	desk *record.Desk
	pots record.PotProbe // nil: none is plugged in
}

// New returns the shop's stock.
func New(desk *record.Desk) *Stock { return &Stock{desk: desk} }
