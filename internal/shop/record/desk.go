// Package record is the desk at which every write of the shop is made: the ledger with its kinds of entry, what is
// done once for its key, notices to other screens, problems in a mechanic's words, and how a bike is found by its tag.
//
// It promises that nothing reaches the ledger but by [Desk.Append] and [Desk.AppendAll], signed, of a known kind, with
// a body that can be read again, in the same transaction as what it tells of; and that a write sent twice with one key
// is done once. All other rooms of the shop stand on it; it knows none of them.
//
//	err := desk.Write(ctx, who, "fit-chain "+tag, request, func(ctx context.Context, tx store.Tx) error {
//		bike, err := record.LockedBike(ctx, tx, tag)
//		if err != nil {
//			return err
//		}
//		e := store.Entry{BikeID: &bike.ID, Kind: record.KindChainFitted}
//		return desk.Append(ctx, tx, who, &e, record.ChainBody{What: "twelve-speed"}, tag)
//	})
package record

import (
	"time"

	"earnestpony/internal/store"
)

// Desk is where a write is made: the database, and the clock. All rooms of the shop hold the same one.
type Desk struct {
	Store *store.Store
	Now   func() time.Time // the shop's time, as it is stored
	// Real is the time in the world: another than Now only where a demo's clock runs apart. What guards the shop goes by
	// it: sessions, locks, secret links.
	Real func() time.Time
}

// NewDesk returns a desk on a database that asks now for the time.
func NewDesk(s *store.Store, now func() time.Time) *Desk {
	stamped := func() time.Time { return store.Stamp(now()) }
	return &Desk{Store: s, Now: stamped, Real: stamped}
}

// DemoTime reports whether the shop's clock runs apart from the world's.
func (d *Desk) DemoTime() bool { return d.Real().Sub(d.Now()).Abs() > time.Second }
