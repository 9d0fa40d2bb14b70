package store

import (
	"context"
	"encoding/json"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// WholeLedger returns all that happened to a bike, in the order of writing.
func (t Tx) WholeLedger(ctx context.Context, bike uuid.UUID) ([]EntryView, error) {
	var entries []EntryView
	err := t.db.WithContext(ctx).Raw(selectEntries+`where l.bike_id = ? order by l.number`, bike).Scan(&entries).Error
	return entries, translate(err, "read the ledger of bike %s", bike)
}

// KnownEntries returns which of the entries are in the ledger.
func (t Tx) KnownEntries(ctx context.Context, ids []uuid.UUID) (map[uuid.UUID]bool, error) {
	var found []uuid.UUID
	err := t.db.WithContext(ctx).Raw(`select id from ledger where id in ?`, append(ids, uuid.Nil)).Scan(&found).Error
	known := map[uuid.UUID]bool{}
	for _, id := range found {
		known[id] = true
	}
	return known, translate(err, "look for entries")
}

// EntryKinds returns the kinds of entry that this program writes.
func (t Tx) EntryKinds(ctx context.Context) ([]string, error) {
	var kinds []string
	err := t.db.WithContext(ctx).Raw(`select kind from ledger_kinds`).Scan(&kinds).Error
	return kinds, translate(err, "list kinds of entry")
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
