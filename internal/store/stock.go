package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// StockFacts is what is written down about something on the shelf; what is not known is nil.
type StockFacts struct {
	Name           string `json:"name"`
	Sprockets      int    `json:"sprockets"` // side by side, that its width is for
	Quantity       int    `json:"quantity"`
	LowMark        int    `json:"low_mark"`
	Cost           *int   `json:"cost,omitempty"`      // of one, in minor units
	BoxLinks       *int   `json:"box_links,omitempty"` // of a chain
	HasJoiningLink bool   `json:"has_joining_link,omitempty"`
	StatedUses     *int   `json:"stated_uses,omitempty"` // of a joining link, by its maker
}

// StockItem is one kind of chain or joining link on the shelf.
type StockItem struct {
	ID   uuid.UUID
	Kind string
	StockFacts
	RetiredAt *time.Time
	Version   int
	CreatedAt time.Time
}

// Stock returns what the shop keeps on the shelf, or no longer does, by kind, width and name.
func (t Tx) Stock(ctx context.Context, retired bool) ([]StockItem, error) {
	found, err := gorm.G[StockItem](t.db).Where("(retired_at is not null) = ?", retired).Order("kind, sprockets desc, name").Find(ctx)
	return found, translate(err, "list stock")
}

// StockItem returns one item, kept or not.
func (t Tx) StockItem(ctx context.Context, id uuid.UUID) (StockItem, error) {
	i, err := gorm.G[StockItem](t.db).Where("id = ?", id).First(ctx)
	return i, translate(err, "load stock item %s", id)
}

// AddStockItem adds an item; [ErrTaken] when the name is in use.
func (t Tx) AddStockItem(ctx context.Context, i *StockItem) error {
	i.Version = 1
	return translate(gorm.G[StockItem](t.db).Create(ctx, i), "add stock item %q", i.Name)
}

// SaveStockItem writes i if its version is still the one in the database, else [ErrStale]; [ErrTaken]
// when the name is in use.
func (t Tx) SaveStockItem(ctx context.Context, i *StockItem) error {
	return saveVersioned(ctx, t, i, i.ID, &i.Version, []string{"id", "kind", "created_at"}, "save stock item %q", i.Name)
}

// TakeStock takes some of an item off the shelf, or puts it back when by is above zero; [ErrStale] when
// there is not that much.
func (t Tx) TakeStock(ctx context.Context, id uuid.UUID, by int) error {
	result := t.db.WithContext(ctx).Exec(`update stock_items set quantity = quantity + ?, version = version + 1 where id = ? and quantity + ? >= 0`, by, id, by)
	return changed(result, "take %d of stock item %s", by, id)
}
