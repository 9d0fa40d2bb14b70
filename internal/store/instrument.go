package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// Instrument is a measuring tool of the shop.
type Instrument struct {
	ID            uuid.UUID
	Name          string
	Kind          string
	ZeroOffsetPct float64
	ZeroCheckedOn *time.Time
	Spreads       bool
	Marks         []float64 `gorm:"serializer:json"` // percent, of a drop-in gauge
	Position      int       // on the bench
	RetiredAt     *time.Time
	Version       int
	CreatedAt     time.Time
}

// Instruments returns the tools in use, or those retired, in the order of the bench.
func (t Tx) Instruments(ctx context.Context, retired bool) ([]Instrument, error) {
	found, err := gorm.G[Instrument](t.db).Where("(retired_at is not null) = ?", retired).Order("position, name").Find(ctx)
	return found, translate(err, "list instruments")
}

// Instrument returns a tool, in use or retired.
func (t Tx) Instrument(ctx context.Context, id uuid.UUID) (Instrument, error) {
	i, err := gorm.G[Instrument](t.db).Where("id = ?", id).First(ctx)
	return i, translate(err, "load instrument %s", id)
}

// AddInstrument adds a tool as the last on the bench; [ErrTaken] when the name is in use.
func (t Tx) AddInstrument(ctx context.Context, i *Instrument) error {
	i.Version = 1
	err := t.db.WithContext(ctx).Raw(`select coalesce(max(position) + 1, 0) from instruments`).Scan(&i.Position).Error
	if err != nil {
		return translate(err, "find a place on the bench")
	}
	return translate(gorm.G[Instrument](t.db).Create(ctx, i), "add instrument %q", i.Name)
}

// SaveInstrument writes i if its version is still the one in the database, else [ErrStale]; [ErrTaken]
// when the name is in use.
func (t Tx) SaveInstrument(ctx context.Context, i *Instrument) error {
	return saveVersioned(ctx, t, i, i.ID, &i.Version, []string{"id", "kind", "created_at"}, "save instrument %q", i.Name)
}

// ForeignInstrument returns the tool of that kind under which readings from other shops are laid out. It is
// not on the bench; the reading itself keeps the name of the tool that took it.
func (t Tx) ForeignInstrument(ctx context.Context, kind string, now time.Time) (uuid.UUID, error) {
	name := "Of another shop, " + kind
	var found []Instrument
	if err := t.db.WithContext(ctx).Raw(`select * from instruments where name = ? and retired_at is not null`, name).Scan(&found).Error; err != nil || len(found) > 0 {
		if err != nil {
			return uuid.Nil, translate(err, "look for a tool")
		}
		return found[0].ID, nil
	}
	i := Instrument{ID: uuid.New(), Name: name, Kind: kind, Marks: []float64{}, RetiredAt: &now, CreatedAt: now}
	return i.ID, t.AddInstrument(ctx, &i)
}
