package store_test

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/pgtest"
	"earnestpony/internal/store"
)

func open(t *testing.T) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), pgtest.New(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	return s
}

var noon = store.Stamp(time.Date(2026, 5, 4, 12, 0, 0, 0, time.UTC))

// aBike adds a person, a customer and a bike with every fact set.
func aBike(t *testing.T, s *store.Store) (store.Person, store.Bike) {
	t.Helper()
	ctx := context.Background()
	p := store.Person{ID: uuid.New(), Name: "Mira Oxenholt", Role: "mechanic", SecretHash: "x", CreatedAt: noon}
	c := store.Customer{ID: uuid.New(), CustomerFacts: store.CustomerFacts{Name: "Aldous Fenwick-Reyes", Phone: "01"}, Folded: "aldous fenwick-reyes", CreatedAt: noon}
	twelve, links, seventy, yes := 12, 114, 75.0, true
	b := store.Bike{ID: uuid.New(), TagNumber: 186, CustomerID: c.ID, Folded: "b-0186-g 100%_wool", CreatedAt: noon, BikeFacts: store.BikeFacts{
		Make: "Wharfinger", SprocketCount: &twelve, SprocketTeeth: []int{11, 42}, RingTeeth: []int{40}, ChainLinks: &links, CageMM: &seventy,
		Clutch: &yes, Mix: &store.Mix{Fair: 0.7, Wet: 0.3},
	}}
	require.NoError(t, s.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		require.NoError(t, tx.AddPerson(ctx, &p))
		require.NoError(t, tx.AddCustomer(ctx, &c))
		return tx.AddBike(ctx, &b)
	}))
	return p, b
}

func entry(p store.Person, b store.Bike, kind string) store.Entry {
	return store.Entry{ID: uuid.New(), BikeID: &b.ID, Kind: kind, HappenedAt: noon, WrittenAt: noon, PersonID: p.ID, Device: "bench", Body: json.RawMessage(`{}`)}
}

func TestBikeRoundTrip(t *testing.T) {
	ctx, s := context.Background(), open(t)
	_, b := aBike(t, s)
	got, err := s.Read(ctx).BikeByTag(ctx, 186)
	require.NoError(t, err)
	assert.Equal(t, b.BikeFacts, got.BikeFacts)
	assert.Equal(t, "Aldous Fenwick-Reyes", got.OwnerName)
	assert.Nil(t, got.Last.EntryID, "nothing is measured yet")

	// A fact can become unknown again: zero values are written, not skipped.
	got.BikeFacts = store.BikeFacts{}
	require.NoError(t, s.Read(ctx).SaveBike(ctx, &got))
	again, err := s.Read(ctx).BikeByID(ctx, b.ID)
	require.NoError(t, err)
	assert.Empty(t, again.Make)
	assert.Nil(t, again.SprocketCount)
	assert.Nil(t, again.Mix)
	assert.Equal(t, 2, again.Version)

	// Whoever saw version 1 comes too late.
	assert.ErrorIs(t, s.Read(ctx).SaveBike(ctx, &b), store.ErrStale)
	_, err = s.Read(ctx).BikeByTag(ctx, 187)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestFindTakesWordsLiterally(t *testing.T) {
	ctx, s := context.Background(), open(t)
	aBike(t, s)
	for words, want := range map[string]int{"": 1, "0186": 1, "fenwick": 1, "100%_": 1, "1%6": 0, "b_0186": 0, `\`: 0} {
		_, total, err := s.Read(ctx).FindBikes(ctx, []string{words}, false, 0, 10)
		require.NoError(t, err)
		assert.Equal(t, want, total, "%q", words)
	}
}

func TestLedgerIsKept(t *testing.T) {
	ctx, s := context.Background(), open(t)
	p, b := aBike(t, s)
	e := entry(p, b, "bike-added")
	require.NoError(t, s.Write(ctx, func(ctx context.Context, tx store.Tx) error { return tx.Append(ctx, &e, "{}") }))
	for _, sql := range []string{"update ledger set device = 'x'", "delete from ledger", "truncate ledger cascade"} {
		_, err := s.Pool().Exec(ctx, sql)
		assert.ErrorContains(t, err, "never changed or removed", sql)
	}
	// An entry is struck out once; the second finds it taken.
	strike := entry(p, b, "strike-out")
	strike.Strikes = &e.ID
	require.NoError(t, s.Write(ctx, func(ctx context.Context, tx store.Tx) error { return tx.Append(ctx, &strike, "{}") }))
	second := entry(p, b, "strike-out")
	second.Strikes = &e.ID
	assert.ErrorIs(t, s.Write(ctx, func(ctx context.Context, tx store.Tx) error { return tx.Append(ctx, &second, "{}") }), store.ErrTaken)

	seen, err := s.Read(ctx).Entry(ctx, e.ID)
	require.NoError(t, err)
	require.NotNil(t, seen.StruckBy)
	assert.Equal(t, "Mira Oxenholt", *seen.StruckBy)
}

// What a unit of work wrote before it failed is not there, and nobody is told of it.
func TestWriteIsAllOrNothing(t *testing.T) {
	ctx := context.Background()
	s, err := store.Open(ctx, pgtest.Crowded(t)) // one connection listens while another writes
	require.NoError(t, err)
	t.Cleanup(s.Close)
	p, b := aBike(t, s)
	conn, err := s.Pool().Acquire(ctx)
	require.NoError(t, err)
	defer conn.Release()
	_, err = conn.Exec(ctx, "listen "+store.Channel)
	require.NoError(t, err)
	e := entry(p, b, "bike-changed")
	require.ErrorIs(t, s.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		require.NoError(t, tx.Append(ctx, &e, "lost"))
		return assert.AnError
	}), assert.AnError)
	_, err = s.Read(ctx).Entry(ctx, e.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, s.Write(ctx, func(ctx context.Context, tx store.Tx) error { return tx.Append(ctx, &e, "kept") }))
	wait, cancel := context.WithTimeout(ctx, time.Minute)
	defer cancel()
	n, err := conn.Conn().WaitForNotification(wait)
	require.NoError(t, err)
	assert.Equal(t, "kept", n.Payload)
}

func TestDatabaseRefusesWhatCannotBe(t *testing.T) {
	ctx, s := context.Background(), open(t)
	_, b := aBike(t, s)
	for name, change := range map[string]func(*store.BikeFacts){
		"half of its own limits":  func(f *store.BikeFacts) { f.LimitPct = new(float64); *f.LimitPct = 0.5 },
		"a chain of 3 links":      func(f *store.BikeFacts) { *f.ChainLinks = 3 },
		"a motor nobody knows of": func(f *store.BikeFacts) { f.Motor = "steam" },
	} {
		row, err := s.Read(ctx).BikeByID(ctx, b.ID)
		require.NoError(t, err)
		change(&row.BikeFacts)
		assert.ErrorContains(t, s.Read(ctx).SaveBike(ctx, &row), "check constraint", name)
	}
	current, err := s.Current(ctx)
	require.NoError(t, err)
	assert.True(t, current, "the schema is the newest")
}

// The shelf never holds fewer than none, whoever takes at once; a name is free again when a thing is no
// longer kept.
func TestStock(t *testing.T) {
	ctx, s := context.Background(), open(t)
	item := store.StockItem{ID: uuid.New(), Kind: "chain", StockFacts: store.StockFacts{Name: "Ten-speed", Sprockets: 10, Quantity: 3}, CreatedAt: noon}
	require.NoError(t, s.Read(ctx).AddStockItem(ctx, &item))
	taken := make(chan error, 8)
	for range cap(taken) {
		go func() {
			taken <- s.Write(ctx, func(ctx context.Context, tx store.Tx) error { return tx.TakeStock(ctx, item.ID, -1) })
		}()
	}
	none := 0
	for range cap(taken) {
		if err := <-taken; err != nil {
			require.ErrorIs(t, err, store.ErrStale)
			none++
		}
	}
	assert.Equal(t, 5, none, "eight hands reach for three")
	got, err := s.Read(ctx).StockItem(ctx, item.ID)
	require.NoError(t, err)
	assert.Zero(t, got.Quantity)
	assert.ErrorIs(t, s.Read(ctx).SaveStockItem(ctx, &item), store.ErrStale, "what was taken meanwhile is not put back by an older count")

	same := store.StockItem{ID: uuid.New(), Kind: "chain", StockFacts: store.StockFacts{Name: "TEN-speed", Sprockets: 10}, CreatedAt: noon}
	assert.ErrorIs(t, s.Read(ctx).AddStockItem(ctx, &same), store.ErrTaken)
	got.RetiredAt = &noon
	require.NoError(t, s.Read(ctx).SaveStockItem(ctx, &got))
	require.NoError(t, s.Read(ctx).AddStockItem(ctx, &same))
	kept, err := s.Read(ctx).Stock(ctx, false)
	require.NoError(t, err)
	require.Len(t, kept, 1)
	assert.Equal(t, "TEN-speed", kept[0].Name)
	for name, change := range map[string]func(*store.StockItem){
		"a box of three links":    func(i *store.StockItem) { three := 3; i.BoxLinks = &three },
		"uses stated of a chain":  func(i *store.StockItem) { one := 1; i.StatedUses = &one },
		"a width of no sprockets": func(i *store.StockItem) { i.Sprockets = 0 },
	} {
		bad := store.StockItem{ID: uuid.New(), Kind: "chain", StockFacts: store.StockFacts{Name: name, Sprockets: 10}, CreatedAt: noon}
		change(&bad)
		assert.ErrorContains(t, s.Read(ctx).AddStockItem(ctx, &bad), "check constraint", name)
	}
}

// The rules are one row and a few of classes, saved over the version that was seen; the ledger takes an
// entry about them that is about nothing else.
func TestRulesRoundTrip(t *testing.T) {
	ctx, s := context.Background(), open(t)
	p, b := aBike(t, s)
	row := store.Shop{Name: "Tidewrack Lane", LengthUnit: "mm", DistanceUnit: "km", Currency: "EUR", WearSchool: "protect", WearPlaces: 3, LengthMethod: "wrap",
		SprocketSchool: "test-first", LinkSchool: "new-each-time", GreaseSchool: "by-lubricant", SessionIdleMinutes: 480, Version: 1}
	require.NoError(t, s.Read(ctx).SetUpShop(ctx, &row))
	limit, together := 0.6, 0.8
	rules := []store.ClassRule{{Class: "narrow-chain", LimitPct: &limit, TogetherPct: &together, LimitReason: "dear"}, {Class: "wide-chain"}}
	row.Factors = &store.Factors{Fair: 1, Dusty: 1.4, Wet: 2.2, Mud: 3, Salt: 3, MidMotor: 1.6}
	require.NoError(t, s.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		require.NoError(t, tx.SaveShop(ctx, &row))
		return tx.SaveClassRules(ctx, rules)
	}))
	got, err := s.Read(ctx).Shop(ctx)
	require.NoError(t, err)
	assert.Equal(t, row, got)
	kept, err := s.Read(ctx).ClassRules(ctx)
	require.NoError(t, err)
	assert.Equal(t, rules, kept)
	old := row
	old.Version = 1
	assert.ErrorIs(t, s.Read(ctx).SaveShop(ctx, &old), store.ErrStale)

	e := entry(p, b, "rules-changed")
	assert.ErrorContains(t, s.Write(ctx, func(ctx context.Context, tx store.Tx) error { return tx.Append(ctx, &e, "{}") }), "ledger_subject", "the rules are the whole shop's")
	e = entry(p, b, "rules-changed")
	e.BikeID = nil
	require.NoError(t, s.Write(ctx, func(ctx context.Context, tx store.Tx) error { return tx.Append(ctx, &e, "{}") }))
	last, err := s.Read(ctx).LastRulesEntry(ctx)
	require.NoError(t, err)
	assert.Equal(t, e.ID, last.ID)
}

// A unit of work that asks for a second connection is refused, whatever the size of the pool: on a
// small one it would wait for itself.
func TestOneConnectionAUnitOfWork(t *testing.T) {
	ctx, s := context.Background(), open(t)
	inside := func(do func(context.Context)) {
		require.NoError(t, s.Write(ctx, func(ctx context.Context, _ store.Tx) error { do(ctx); return nil }))
	}
	inside(func(ctx context.Context) {
		assert.ErrorIs(t, s.Write(ctx, func(context.Context, store.Tx) error { return nil }), store.ErrNested)
	})
	inside(func(ctx context.Context) {
		_, err := s.Read(ctx).People(ctx)
		assert.ErrorIs(t, err, store.ErrNested, "a list")
		_, err = s.Read(ctx).BikeByTag(ctx, 1)
		assert.ErrorIs(t, err, store.ErrNested, "a row")
		assert.ErrorIs(t, s.Read(ctx).AddPerson(ctx, &store.Person{}), store.ErrNested, "a write")
	})
	inside(func(ctx context.Context) {
		_, err := s.Backup(ctx, io.Discard, noon)
		assert.ErrorIs(t, err, store.ErrNested, "a connection of its own")
	})
	_, err := s.Read(ctx).People(ctx)
	assert.NoError(t, err, "outside of it anybody may read")
}

// Nothing but a migration lifts the ledger's trigger, and it puts it back in the same transaction.
func TestOnlyMigrationsLiftTheLedgersTrigger(t *testing.T) {
	lifted := 0
	for _, folder := range []string{"migrations/*.sql", "*.go", "../shop/*.go", "../demo/*.go", "../bigshop/*.go", "../../cmd/pony/*.go"} {
		files, err := filepath.Glob(folder)
		require.NoError(t, err)
		for _, file := range files {
			text, err := os.ReadFile(file)
			require.NoError(t, err)
			if strings.HasSuffix(file, "_test.go") || !strings.Contains(string(text), "disable trigger") {
				continue
			}
			lifted++
			assert.True(t, strings.HasSuffix(file, ".sql"), file)
			assert.NotContains(t, string(text), "NO TRANSACTION", file)
			assert.Equal(t, strings.Count(string(text), "disable trigger"), strings.Count(string(text), "enable trigger"), file)
		}
	}
	assert.Positive(t, lifted)
	ctx, s := t.Context(), open(t)
	p, b := aBike(t, s)
	e := entry(p, b, "bike-changed")
	require.NoError(t, s.Write(ctx, func(ctx context.Context, tx store.Tx) error { return tx.Append(ctx, &e, "{}") }))
	for _, sql := range []string{"update ledger set body = '{}'", "delete from ledger", "truncate ledger cascade"} {
		_, err := s.Pool().Exec(ctx, sql)
		assert.ErrorContains(t, err, "never changed or removed", sql)
	}
}

// A shop that worked before is told in the log what a new version changed for its people; a new shop is told nothing.
func TestOldShopsAreToldWhatChanged(t *testing.T) {
	said := func(do func(s *store.Store)) string {
		s, err := store.Open(t.Context(), pgtest.New(t))
		require.NoError(t, err)
		defer s.Close()
		var log bytes.Buffer
		before := slog.Default()
		slog.SetDefault(slog.New(slog.NewTextHandler(&log, nil)))
		defer slog.SetDefault(before)
		do(s)
		return log.String()
	}
	assert.NotContains(t, said(func(s *store.Store) { require.NoError(t, s.Migrate(t.Context())) }), "WARN")
	files, err := filepath.Glob("../httpapi/testdata/old/*.pony")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, file := range files { // into a database that is of this version already, as where a shop is set up
		old := said(func(s *store.Store) {
			require.NoError(t, s.Migrate(t.Context()))
			f, err := os.Open(file)
			require.NoError(t, err)
			defer func() { _ = f.Close() }()
			info, err := f.Stat()
			require.NoError(t, err)
			backup, err := store.OpenBackup(f, info.Size())
			require.NoError(t, err)
			require.NoError(t, s.Restore(t.Context(), backup))
		})
		assert.Contains(t, old, "who may do what goes by one table now")
		assert.Contains(t, old, "wait for a mechanic's signature")
	}
}
