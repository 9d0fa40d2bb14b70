package record

import (
	"context"
	"errors"

	"earnestpony/internal/store"
)

// Revision is a change of a row over the version that its sender saw.
type Revision[Row, View any] struct {
	Operation string // with what tells this row from others: see [Idempotent]
	Version   int    // that was seen
	Yours     any    // what was sent, shown beside what is there where somebody else was quicker
	Request   any    // what was sent, where that is more than Yours

	Load func(context.Context, store.Tx) (Row, error)
	Seen func(Row) int // its version
	// Change alters the row and says what the ledger is told of it; without an entry there is nothing to do.
	Change func(context.Context, store.Tx, *Row) (e *store.Entry, body any, err error)
	Save   func(context.Context, store.Tx, *Row) error
	View   func(context.Context, store.Tx, Row) (View, error)
	Tag    func(Row) string // of the bike that is changed; nil for what is no bike
}

// Revise changes a row if nobody else did since it was seen, with its entry in the ledger. Otherwise nothing is
// written, and the sender is shown both: what was sent and what is there now.
func Revise[Row, View any](ctx context.Context, s *Desk, who Actor, r Revision[Row, View]) (View, error) {
	request := r.Request
	if request == nil {
		request = r.Yours
	}
	var after View
	err := IdempotentInto(ctx, s, who, r.Operation, ChangeOf{Version: r.Version, To: request}, &after, func(ctx context.Context, tx store.Tx) error {
		row, err := r.Load(ctx, tx)
		if err != nil {
			return err
		}
		if r.Seen(row) != r.Version {
			return store.ErrStale
		}
		e, body, err := r.Change(ctx, tx, &row)
		if err != nil {
			return err
		}
		if e != nil {
			if err := r.Save(ctx, tx, &row); err != nil {
				return err
			}
			tag := ""
			if r.Tag != nil {
				tag = r.Tag(row)
			}
			if err := s.Append(ctx, tx, who, e, body, tag); err != nil {
				return err
			}
		}
		after, err = r.View(ctx, tx, row)
		return err
	})
	if !errors.Is(err, store.ErrStale) {
		return after, err
	}
	var none View
	tx := s.Store.Read(ctx)
	row, err := r.Load(ctx, tx)
	if err != nil {
		return none, err
	}
	now, err := r.View(ctx, tx, row)
	if err != nil {
		return none, err
	}
	return none, ChangedMeanwhile(r.Yours, now)
}
