package stock

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"earnestpony/core/chain"
	"earnestpony/core/sizing"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// StockFacts is what is written down about something on the shelf.
type StockFacts = store.StockFacts

// StockItem is one kind of chain or joining link on the shelf.
type StockItem struct {
	ID      uuid.UUID  `json:"id"`
	Kind    string     `json:"kind"` // chain or joining-link
	Facts   StockFacts `json:"facts"`
	Low     bool       `json:"low"` // at its low mark, or under it
	Retired bool       `json:"retired"`
	Version int        `json:"version"`
}

// The kinds of things on the shelf.
const (
	StockChain = "chain"
	StockLink  = "joining-link"
)

func newStockItem(i store.StockItem) StockItem {
	return StockItem{ID: i.ID, Kind: i.Kind, Facts: i.StockFacts, Low: i.Quantity <= i.LowMark, Retired: i.RetiredAt != nil, Version: i.Version}
}

// ListStock returns what the shop keeps on the shelf, or no longer does.
func (s *Stock) ListStock(ctx context.Context, retired bool) ([]StockItem, error) {
	return StockItems(ctx, s.desk.Store.Read(ctx), retired)
}

func StockItems(ctx context.Context, tx store.Tx, retired bool) ([]StockItem, error) {
	rows, err := tx.Stock(ctx, retired)
	items := make([]StockItem, 0, len(rows))
	for _, row := range rows {
		items = append(items, newStockItem(row))
	}
	return items, err
}

const maxOfOne = 10_000 // pieces of one thing; more is a slip

// checkStock tidies facts in place and says what is wrong with them together.
func checkStock(kind string, f *StockFacts) error {
	f.Name = record.CleanLine(f.Name)
	var fields record.Faults
	fault := fields.Under("facts")
	if f.Name == "" {
		fault("name", "missing", "Say what it is, as the shop calls it.")
	}
	if f.Sprockets < 1 || f.Sprockets > chain.MaxSprockets {
		fault("sprockets", "out-of-range", "Its width is for 1 to %d sprockets.", chain.MaxSprockets)
	}
	for path, n := range map[string]int{"quantity": f.Quantity, "low_mark": f.LowMark} {
		if n < 0 || n > maxOfOne {
			fault(path, "out-of-range", "There are 0 to %d of it.", maxOfOne)
		}
	}
	if f.Cost != nil && (*f.Cost < 0 || *f.Cost > record.MaxPrice) {
		fault("cost", "out-of-range", "This cannot be a price.")
	}
	if f.BoxLinks != nil && (kind != StockChain || *f.BoxLinks < int(sizing.FewestLinks) || *f.BoxLinks > int(sizing.MostLinks)) {
		fault("box_links", "out-of-range", "A chain's box says %d to %d links.", sizing.FewestLinks, sizing.MostLinks)
	}
	if f.StatedUses != nil && (kind != StockLink || *f.StatedUses < 1 || *f.StatedUses > 100) {
		fault("stated_uses", "out-of-range", "A joining link's maker states 1 to 100 uses.")
	}
	if kind != StockChain {
		f.HasJoiningLink = false
	}
	if err := fields.Err(); err != nil {
		return err
	}
	return nil
}

// pricedBy refuses a price that whoever sets it may not set.
func pricedBy(who record.Actor, path string, before, after *int) error {
	if (before == nil) == (after == nil) && (before == nil || *before == *after) || people.Has(people.Settings, who) {
		return nil
	}
	return &record.Problem{Kind: record.Forbidden, Code: "not-allowed", Message: "The shop's owner sets prices.",
		Fields: []record.Field{{Path: path, Code: "not-allowed", Message: "The shop's owner sets prices."}}}
}

// NewStock is something to be put on the shelf.
type NewStock struct {
	Kind  string     `json:"kind"`
	Facts StockFacts `json:"facts"`
}

// stockBody is what the ledger keeps of the shelf.
type stockBody struct {
	Facts   *StockFacts `json:"facts,omitempty"`
	Changed []string    `json:"changed,omitempty"`
}

// AddStock puts something new on the shelf.
func (s *Stock) AddStock(ctx context.Context, who record.Actor, n NewStock) (StockItem, error) {
	if n.Kind != StockChain && n.Kind != StockLink {
		return StockItem{}, record.InvalidInput(record.Field{Path: "kind", Code: "unknown-value", Message: "Say whether it is a chain or a joining link."})
	}
	if err := checkStock(n.Kind, &n.Facts); err != nil {
		return StockItem{}, err
	}
	if err := pricedBy(who, "facts.cost", nil, n.Facts.Cost); err != nil {
		return StockItem{}, err
	}
	item, err := record.Idempotent(ctx, s.desk, who, "add-stock", n, func(ctx context.Context, tx store.Tx) (StockItem, error) {
		row := store.StockItem{ID: uuid.New(), Kind: n.Kind, StockFacts: n.Facts, CreatedAt: s.desk.Now()}
		if err := tx.AddStockItem(ctx, &row); err != nil {
			return StockItem{}, err
		}
		return newStockItem(row), s.desk.Append(ctx, tx, who, &store.Entry{StockItemID: &row.ID, Kind: record.KindStockAdded}, stockBody{Facts: &n.Facts}, "")
	})
	return item, stockNameTaken(err)
}

func stockNameTaken(err error) error {
	if errors.Is(err, store.ErrTaken) {
		return record.InvalidInput(record.Field{Path: "facts.name", Code: "name-taken", Message: "Something on the shelf has this name already."})
	}
	return err
}

// ChangeStock writes new facts, a new count among them, over the version that the sender saw.
func (s *Stock) ChangeStock(ctx context.Context, who record.Actor, id uuid.UUID, version int, f StockFacts) (StockItem, error) {
	return s.updateStock(ctx, who, id, version, f, func(row *store.StockItem) (string, stockBody, error) {
		if err := checkStock(row.Kind, &f); err != nil {
			return "", stockBody{}, err
		}
		if err := pricedBy(who, "facts.cost", row.Cost, f.Cost); err != nil {
			return "", stockBody{}, err
		}
		changed, err := record.ChangedFields(row.StockFacts, f)
		row.StockFacts = f
		return record.KindStockChanged, stockBody{Facts: &f, Changed: changed}, err
	})
}

// RetireStock stops keeping something, or keeps it again.
func (s *Stock) RetireStock(ctx context.Context, who record.Actor, id uuid.UUID, version int, retired bool) (StockItem, error) {
	return s.updateStock(ctx, who, id, version, nil, func(row *store.StockItem) (string, stockBody, error) {
		body := stockBody{Changed: []string{"retired"}}
		switch {
		case retired == (row.RetiredAt != nil):
			return "", stockBody{}, nil
		case retired:
			now := s.desk.Now()
			row.RetiredAt = &now
			return record.KindStockRetired, body, nil
		}
		row.RetiredAt = nil
		return record.KindStockRestored, body, nil
	})
}

func (s *Stock) updateStock(ctx context.Context, who record.Actor, id uuid.UUID, version int, yours any,
	change func(*store.StockItem) (kind string, body stockBody, err error),
) (StockItem, error) {
	after, err := record.Revise(ctx, s.desk, who, record.Revision[store.StockItem, StockItem]{
		Operation: "change-stock " + id.String(), Version: version, Yours: yours,
		Load: func(ctx context.Context, tx store.Tx) (store.StockItem, error) { return StockItemByID(ctx, tx, id) },
		Seen: func(row store.StockItem) int { return row.Version },
		Change: func(_ context.Context, _ store.Tx, row *store.StockItem) (*store.Entry, any, error) {
			kind, body, err := change(row)
			if err != nil || len(body.Changed) == 0 {
				return nil, nil, err
			}
			return &store.Entry{StockItemID: &id, Kind: kind}, body, nil
		},
		Save: func(ctx context.Context, tx store.Tx, row *store.StockItem) error { return tx.SaveStockItem(ctx, row) },
		View: func(_ context.Context, _ store.Tx, row store.StockItem) (StockItem, error) {
			return newStockItem(row), nil
		},
	})
	return after, stockNameTaken(err)
}

func StockItemByID(ctx context.Context, tx store.Tx, id uuid.UUID) (store.StockItem, error) {
	row, err := tx.StockItem(ctx, id)
	if record.IsNotFound(err) {
		return row, record.NotFound("thing on the shelf", "stock-item-not-found")
	}
	return row, err
}

func init() {
	record.Holds[stockBody](nil, record.KindStockAdded, record.KindStockChanged, record.KindStockRetired, record.KindStockRestored)
}
