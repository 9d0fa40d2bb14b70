package store

import (
	"context"
	"encoding/json"
	"slices"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// WholeLedger returns all that happened to a bike, in the order of writing.
func (t Tx) WholeLedger(ctx context.Context, bike uuid.UUID) ([]EntryView, error) {
	var entries []EntryView
	err := t.db.WithContext(ctx).Raw(selectEntries+`where l.bike_id = ? order by l.number`, bike).Scan(&entries).Error
	return entries, translate(err, "read the ledger of bike %s", bike)
}

// KnownEntries returns which of the entries are in the ledger, each with its bike; [uuid.Nil] where it is of none.
func (t Tx) KnownEntries(ctx context.Context, ids []uuid.UUID) (map[uuid.UUID]uuid.UUID, error) {
	known := map[uuid.UUID]uuid.UUID{}
	for some := range slices.Chunk(ids, 5000) { // PostgreSQL takes 65535 values at once
		var found []Entry
		if err := t.db.WithContext(ctx).Raw(`select id, bike_id from ledger where id in ?`, some).Scan(&found).Error; err != nil {
			return nil, translate(err, "look for entries")
		}
		for _, e := range found {
			known[e.ID] = uuid.Nil
			if e.BikeID != nil {
				known[e.ID] = *e.BikeID
			}
		}
	}
	return known, nil
}

// AddEntry writes an entry as another shop wrote it.
func (t Tx) AddEntry(ctx context.Context, e *Entry) error {
	return translate(gorm.G[Entry](t.db).Create(ctx, e), "add entry %s", e.ID)
}

// PassportExtras returns what a bike's passport held that this program does not know; nil where nothing.
func (t Tx) PassportExtras(ctx context.Context, bike uuid.UUID) (json.RawMessage, error) {
	var row struct{ Extras json.RawMessage }
	err := t.db.WithContext(ctx).Raw(`select extras from passport_extras where bike_id = ?`, bike).Scan(&row).Error
	return row.Extras, translate(err, "load what else a passport held")
}

// SetPassportExtras keeps what a bike's passport held that this program does not know.
func (t Tx) SetPassportExtras(ctx context.Context, bike uuid.UUID, extras json.RawMessage) error {
	err := t.db.WithContext(ctx).Exec(`insert into passport_extras values (?, ?) on conflict (bike_id) do update set extras = excluded.extras`, bike, string(extras)).Error
	return translate(err, "keep what else a passport held")
}
