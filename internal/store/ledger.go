package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// Entry is one fact that happened. It is about one bike, customer, instrument or stock item; one about the rules is
// about the whole shop.
type Entry struct {
	ID           uuid.UUID
	Number       int64 `gorm:"->"` // given by the database, in the order of writing
	BikeID       *uuid.UUID
	CustomerID   *uuid.UUID
	InstrumentID *uuid.UUID
	StockItemID  *uuid.UUID
	Kind         string
	HappenedAt   time.Time
	WrittenAt    time.Time
	PersonID     uuid.UUID
	Device       string
	Strikes      *uuid.UUID      // the entry that this one strikes out
	Body         json.RawMessage `gorm:"type:jsonb"`
}

// TableName is ledger: a ledger has entries.
func (Entry) TableName() string { return "ledger" }

// EntryView is an entry as it is shown: with names, and with who struck it out.
type EntryView struct {
	Entry
	PersonName   string
	StruckAt     *time.Time
	StruckBy     *string
	StruckReason *string
	Unsigned     bool // a reading that waits for a mechanic's signature
}

const selectEntries = `
	select l.*, p.name person_name, s.written_at struck_at, sp.name struck_by, s.body->>'reason' struck_reason, coalesce(um.unsigned, false) unsigned
	from ledger l join people p on p.id = l.person_id
	left join measurements um on um.entry_id = l.id
	left join ledger s on s.strikes = l.id left join people sp on sp.id = s.person_id `

// Append writes an entry and tells every process that listens, once the unit of work is kept.
// notice is what they are told; PostgreSQL allows it 8000 bytes.
func (t Tx) Append(ctx context.Context, e *Entry, notice string) error {
	if err := gorm.G[Entry](t.db).Create(ctx, e); err != nil {
		return translate(err, "append %s", e.Kind)
	}
	return translate(t.db.WithContext(ctx).Exec(`select pg_notify(?, ?)`, Channel, notice).Error, "tell of %s", e.Kind)
}

// AppendAll writes many entries and tells of them once.
func (t Tx) AppendAll(ctx context.Context, entries []Entry, notice string) error {
	const batch = 500 // of eleven values each; PostgreSQL takes 65535 at once
	if err := gorm.G[Entry](t.db).CreateInBatches(ctx, &entries, batch); err != nil {
		return translate(err, "append %d entries", len(entries))
	}
	return t.Notify(ctx, notice)
}

// Channel is where [Tx.Append] tells of what was written.
const Channel = "pony_changes"

// Entry returns one entry.
func (t Tx) Entry(ctx context.Context, id uuid.UUID) (EntryView, error) {
	var e EntryView
	err := t.db.WithContext(ctx).Raw(selectEntries+`where l.id = ?`, id).First(&e).Error
	return e, translate(err, "load entry %s", id)
}

// LedgerOf returns a bike's entries as they happened, newest first, from before the entry of that
// number; 0 starts at the newest.
func (t Tx) LedgerOf(ctx context.Context, bike uuid.UUID, before int64, limit int) ([]EntryView, error) {
	var entries []EntryView
	err := t.db.WithContext(ctx).Raw(selectEntries+`
		where l.bike_id = @bike and l.kind <> 'job-step' and (@before = 0 or (l.happened_at, l.number) < (select happened_at, number from ledger where number = @before))
		order by l.happened_at desc, l.number desc limit @limit`,
		map[string]any{"bike": bike, "before": before, "limit": limit}).Scan(&entries).Error
	return entries, translate(err, "list ledger of bike %s", bike)
}

// LedgerOfInstrument returns an instrument's entries, newest first.
func (t Tx) LedgerOfInstrument(ctx context.Context, instrument uuid.UUID, limit int) ([]EntryView, error) {
	var entries []EntryView
	err := t.db.WithContext(ctx).Raw(selectEntries+`where l.instrument_id = ? order by l.number desc limit ?`, instrument, limit).Scan(&entries).Error
	return entries, translate(err, "list ledger of instrument %s", instrument)
}

// LastRulesEntry returns the last change of the rules, or [ErrNotFound] before the first.
func (t Tx) LastRulesEntry(ctx context.Context) (EntryView, error) {
	var e EntryView
	err := t.db.WithContext(ctx).Raw(selectEntries + `where l.kind = 'rules-changed' order by l.number desc limit 1`).First(&e).Error
	return e, translate(err, "load last change of rules")
}

// ShopEntries returns entries of these kinds, which are about the whole shop, newest first, from before the entry of that
// number; 0 starts at the newest.
func (t Tx) ShopEntries(ctx context.Context, kinds []string, before int64, limit int) ([]EntryView, error) {
	var entries []EntryView
	err := t.db.WithContext(ctx).Raw(selectEntries+`where l.kind in @kinds and (@before = 0 or l.number < @before) order by l.number desc limit @limit`,
		map[string]any{"kinds": kinds, "before": before, "limit": limit}).Scan(&entries).Error
	return entries, translate(err, "list entries of the shop")
}

// ActiveEntries returns a bike's entries of these kinds that are not struck out, as they happened.
func (t Tx) ActiveEntries(ctx context.Context, bike uuid.UUID, kinds ...string) ([]EntryView, error) {
	var entries []EntryView
	err := t.db.WithContext(ctx).Raw(selectEntries+`
		where l.bike_id = ? and l.kind in ? and s.id is null order by l.happened_at, l.number`, bike, kinds).Scan(&entries).Error
	return entries, translate(err, "list facts of bike %s", bike)
}

// Measurement is a measurement laid out to be asked; its entry holds all of it.
type Measurement struct {
	EntryID       uuid.UUID `gorm:"primaryKey"`
	BikeID        uuid.UUID
	InstrumentID  uuid.UUID
	TakenAt       time.Time
	ElongationPct *float64
	SigmaPct      *float64
	LowPct        *float64
	HighPct       *float64
	LimitPct      float64
	Verdict       string
	StruckBy      *uuid.UUID
	Unsigned      bool // it waits for a mechanic's signature
}

// AddMeasurement adds a measurement whose entry is written.
func (t Tx) AddMeasurement(ctx context.Context, m *Measurement) error {
	return translate(gorm.G[Measurement](t.db).Create(ctx, m), "add measurement")
}

// SignMeasurement has a measurement wait for a signature no longer; [ErrStale] where it did not.
func (t Tx) SignMeasurement(ctx context.Context, entry uuid.UUID) error {
	return changed(t.db.WithContext(ctx).Exec(`update measurements set unsigned = false where entry_id = ? and unsigned and struck_by is null`, entry), "sign measurement %s", entry)
}

// stillOn says that the chain which was read is still on: of one that came off nobody needs a verdict.
const stillOn = ` and not exists (select from ledger f where f.bike_id = m.bike_id and f.kind = 'chain-fitted' and f.happened_at > m.taken_at
	and not exists (select from ledger s where s.strikes = f.id)) `

// UnsignedOf returns the entries of a bike's readings that wait for a signature, the oldest first.
func (t Tx) UnsignedOf(ctx context.Context, bike uuid.UUID) ([]uuid.UUID, error) {
	var ids []uuid.UUID
	err := t.db.WithContext(ctx).Raw(`select entry_id from measurements m where bike_id = ? and unsigned and struck_by is null`+stillOn+`order by taken_at, entry_id`, bike).Scan(&ids).Error
	return ids, translate(err, "look for readings of bike %s to sign", bike)
}

// StrikeMeasurement takes a measurement out of what counts.
func (t Tx) StrikeMeasurement(ctx context.Context, entry, by uuid.UUID) error {
	result := t.db.WithContext(ctx).Exec(`update measurements set struck_by = ? where entry_id = ? and struck_by is null`, by, entry)
	return changed(result, "strike measurement %s", entry)
}

// TaggedEntry is an entry with the tag of its bike.
type TaggedEntry struct {
	EntryView
	TagNumber int
}

// EntriesOfKind returns entries of one kind that stand, of all bikes, in the order of writing from after a number.
func (t Tx) EntriesOfKind(ctx context.Context, kind string, after int64, limit int) ([]TaggedEntry, error) {
	var rows []TaggedEntry
	err := t.db.WithContext(ctx).Raw(`
		select l.*, p.name person_name, b.tag_number from ledger l join people p on p.id = l.person_id join bikes b on b.id = l.bike_id
		where l.kind = ? and l.number > ? and not exists (select from ledger s where s.strikes = l.id) order by l.number limit ?`, kind, after, limit).Scan(&rows).Error
	return rows, translate(err, "list entries of kind %s", kind)
}
