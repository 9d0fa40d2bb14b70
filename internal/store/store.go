// Package store keeps the shop's records in PostgreSQL: one pool, shared by GORM, the migrations
// and the live stream.
//
// Rows are plain values in the units that their names say. Every method that writes is called
// inside [Store.Write], so that the caller owns the unit of work; GORM's and PostgreSQL's words for
// trouble stop here and become [ErrNotFound], [ErrStale] and [ErrTaken].
package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

var (
	// ErrNotFound reports that there is no such record.
	ErrNotFound = errors.New("not found")
	// ErrStale reports that somebody else changed the record since it was read.
	ErrStale = errors.New("changed by somebody else meanwhile")
	// ErrTaken reports that a name or key that must be unique is in use.
	ErrTaken = errors.New("already taken")
	// ErrNested reports that a unit of work asked for a second connection while it held one: a fault
	// of the program's, whatever the data.
	ErrNested = errors.New("a unit of work opened another unit of work or a reader: hand its Tx on instead")
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open database.
type Store struct {
	pool *pgxpool.Pool
	sql  *sql.DB
	db   *gorm.DB
}

// poolSize is how many connections a process holds at most where its address does not say
// pool_max_conns: enough for a shop's tablets, and few enough for several processes on a PostgreSQL
// of the usual hundred.
const poolSize = 16

// Nothing on a connection lasts longer than this, whoever waits for it: what a request may take is
// its own deadline, which is shorter. Backups and migrations do without.
const (
	longestStatement = time.Minute
	longestIdle      = time.Minute // in a unit of work whose process is gone or stuck
)

// Open connects to the database at dsn. It does not migrate it.
func Open(ctx context.Context, dsn string) (*Store, error) { return OpenTraced(ctx, dsn, nil) }

// OpenTraced is [Open] with somebody who sees every statement; nil for nobody.
func OpenTraced(ctx context.Context, dsn string, tracer pgx.QueryTracer) (*Store, error) {
	config, err := pgxpool.ParseConfig(dsn)
	if err != nil {
		return nil, fmt.Errorf("database address: %w", err)
	}
	if !strings.Contains(dsn, "pool_max_conns") {
		config.MaxConns = poolSize
	}
	params := config.ConnConfig.RuntimeParams
	params["statement_timeout"] = strconv.FormatInt(longestStatement.Milliseconds(), 10)
	params["idle_in_transaction_session_timeout"] = strconv.FormatInt(longestIdle.Milliseconds(), 10)
	// What is read comes in UTC, whatever the machine's zone is: the shop has its own.
	config.AfterConnect = func(_ context.Context, c *pgx.Conn) error {
		c.TypeMap().RegisterType(&pgtype.Type{Name: "timestamptz", OID: pgtype.TimestamptzOID, Codec: &pgtype.TimestamptzCodec{ScanLocation: time.UTC}})
		return nil
	}
	if tracer != nil {
		config.ConnConfig.Tracer = tracer
	}
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, fmt.Errorf("database address: %w", err)
	}
	if err := pool.Ping(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("reach the database: %w", err)
	}
	db := stdlib.OpenDBFromPool(pool)
	g, err := gorm.Open(postgres.New(postgres.Config{Conn: db}), &gorm.Config{
		TranslateError:         true,
		SkipDefaultTransaction: true, // every write runs in Store.Write already
		Logger:                 logger.Default.LogMode(logger.Silent),
	})
	if err != nil {
		return nil, errors.Join(fmt.Errorf("open gorm: %w", err), db.Close())
	}
	return &Store{pool: pool, sql: db, db: g}, nil
}

// Close gives back every connection.
func (s *Store) Close() {
	if err := s.sql.Close(); err != nil {
		slog.Warn("close database", "err", err)
	}
	s.pool.Close()
}

// Pool returns the pool, for LISTEN.
func (s *Store) Pool() *pgxpool.Pool { return s.pool }

// Ping reports whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.pool.Ping(ctx) }

// Schema names the schema that the migrations make: another one has another name.
func Schema() (string, error) {
	all, err := schemas()
	if err != nil || len(all) == 0 {
		return "", err
	}
	return all[len(all)-1], nil
}

// schemas names the schema after each migration, the first at 0. A migration is never changed once
// somebody has run it, so each name stays what it was.
func schemas() ([]string, error) {
	all := sha256.New()
	var names []string
	err := fs.WalkDir(migrations, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		text, err := migrations.ReadFile(path)
		all.Write(text)
		names = append(names, hex.EncodeToString(all.Sum(nil)[:8]))
		return err
	})
	return names, err
}

// Migrate brings the schema up to date. Several processes may call it at once.
func (s *Store) Migrate(ctx context.Context) error {
	return s.migrate(func(p *goose.Provider) ([]*goose.MigrationResult, error) { return p.Up(ctx) })
}

// changes is what a version changed for people who work with a shop already, and would else find out at the bench.
var changes = map[int64]string{
	19: "who may do what goes by one table now: counters record no readings, change no settings and take out no tables, apprentices plan as recommended, void what they wrote the same day, " +
		"and neither take out tables nor change customers, prices or stock; mechanics stand in for the shop's owner where there is none. The owner changes it under Settings, Who may do what",
	21: "an apprentice's reading that asks for another chain, and what an apprentice hands back, wait for a mechanic's signature from now on: see Waiting",
}

// anybody reports whether somebody works in the shop already.
func (s *Store) anybody(ctx context.Context) (has bool) {
	err := s.pool.QueryRow(ctx, `select exists (select from people)`).Scan(&has)
	return err == nil && has
}

func (s *Store) migrate(do func(*goose.Provider) ([]*goose.MigrationResult, error)) error {
	config := s.pool.Config().ConnConfig.Copy()
	delete(config.RuntimeParams, "statement_timeout") // a migration takes as long as it takes
	delete(config.RuntimeParams, "idle_in_transaction_session_timeout")
	db := stdlib.OpenDB(*config)
	p, err := provider(db)
	if err != nil {
		return errors.Join(err, db.Close())
	}
	results, err := do(p)
	for _, r := range results {
		slog.Info("migrated", "version", r.Source.Version, "took", r.Duration)
		if said := changes[r.Source.Version]; said != "" && r.Direction == "up" && s.anybody(context.Background()) {
			slog.Warn(said)
		}
	}
	return errors.Join(err, db.Close())
}

// Current reports whether the schema is the one this program was built for.
func (s *Store) Current(ctx context.Context) (bool, error) {
	version, err := s.version(ctx)
	if err != nil {
		return false, err
	}
	all, err := schemas()
	return int(version) == len(all), err
}

// version is how many migrations the database has had; 0 where it is none of ours.
func (s *Store) version(ctx context.Context) (version int64, err error) {
	if ctx.Value(inWork{}) != nil {
		return 0, ErrNested
	}
	var there bool
	if err := s.pool.QueryRow(ctx, `select to_regclass('public.goose_db_version') is not null and to_regclass('public.shop') is not null`).Scan(&there); err != nil || !there {
		return 0, err
	}
	err = s.pool.QueryRow(ctx, `select coalesce(max(version_id), 0) from goose_db_version where is_applied`).Scan(&version)
	return version, err
}

func provider(db *sql.DB) (*goose.Provider, error) {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectPostgres, db, files, goose.WithSessionLocker(locker))
}

// Tx is one unit of work, or a plain reader outside of one.
type Tx struct {
	db *gorm.DB
}

// inWork marks the context of a unit of work: its connection is held until it ends.
type inWork struct{}

// Read returns a reader; each of its queries takes a connection, sees what is committed by then and
// gives it back. Within a unit of work every query of it fails with [ErrNested].
func (s *Store) Read(ctx context.Context) Tx {
	db := s.db.Session(&gorm.Session{NewDB: true})
	if ctx.Value(inWork{}) != nil {
		_ = db.AddError(ErrNested) // kept in db, and answered by all that is asked of it
	}
	return Tx{db}
}

// Write runs do in one transaction: all of it is kept, or nothing. The context that do is given
// carries the unit of work: whoever opens another one or a reader under it gets [ErrNested], for a
// unit of work that waits for a second connection hangs the shop when enough of them do.
func (s *Store) Write(ctx context.Context, do func(context.Context, Tx) error) error {
	if ctx.Value(inWork{}) != nil {
		return ErrNested
	}
	ctx = context.WithValue(ctx, inWork{}, true)
	return s.db.WithContext(ctx).Transaction(func(db *gorm.DB) error { return do(ctx, Tx{db}) })
}

// translate gives errors this package's names.
func translate(err error, what string, args ...any) error {
	if err == nil {
		return nil
	}
	what = fmt.Sprintf(what, args...)
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		return fmt.Errorf("%s: %w", what, ErrNotFound)
	case errors.Is(err, gorm.ErrDuplicatedKey):
		return fmt.Errorf("%s: %w", what, ErrTaken)
	}
	return fmt.Errorf("%s: %w", what, err)
}

// changed turns the count of an update that named a version into [ErrStale] when it found none.
func changed(result *gorm.DB, what string, args ...any) error {
	if result.Error == nil && result.RowsAffected == 0 {
		return fmt.Errorf(what+": %w", append(args, ErrStale)...)
	}
	return translate(result.Error, what, args...)
}

// saveVersioned writes a row over the version that was seen of it, and counts it up; [ErrStale] where somebody else did
// meanwhile. Columns that never change are left out.
func saveVersioned[T any](ctx context.Context, t Tx, row *T, id uuid.UUID, version *int, never []string, what string, args ...any) error {
	seen := *version
	*version++
	result := t.db.WithContext(ctx).Model(new(T)).Where("id = ? and version = ?", id, seen).Select("*").Omit(never...).Updates(row)
	return changed(result, what, args...)
}

// Stamp is t as the database keeps it, in microseconds, so that what was written and what is read
// back are equal.
func Stamp(t time.Time) time.Time { return t.UTC().Truncate(time.Microsecond) }

// Try does something of a unit of work that is taken back alone when it fails.
func (t Tx) Try(ctx context.Context, do func(Tx) error) error {
	return t.db.WithContext(ctx).Transaction(func(db *gorm.DB) error { return do(Tx{db}) })
}
