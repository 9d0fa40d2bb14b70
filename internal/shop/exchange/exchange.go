// Package exchange is what comes into the shop and leaves it in files: a bike's passport, tables, all that is kept of
// an owner and its erasing; and the check that all that was kept of a bike still agrees with itself.
//
// It promises that nothing is taken before it was shown what would be taken, that what cannot be understood is refused
// line by line and nothing of it half-saved, that the same file taken twice adds nothing, and that a customer's words
// and address never leave with a bike.
//
//	seen, err := exchange.ReadTable(ctx, file)
//	taken, err := exchange.TakePassport(ctx, who, customer, passport)
package exchange

import (
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
)

// Exchange takes files in and gives them out.
type Exchange struct {
	desk    *record.Desk
	measure *measure.Measure
	bikes   *bikes.Bikes
	due     *due.Due
}

// New returns the shop's exchange.
func New(desk *record.Desk, m *measure.Measure, b *bikes.Bikes, d *due.Due) *Exchange {
	return &Exchange{desk, m, b, d}
}
