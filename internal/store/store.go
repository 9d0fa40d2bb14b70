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
	"time"

	"github.com/jackc/pgx/v5"
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
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open database.
type Store struct {
	pool *pgxpool.Pool
	sql  *sql.DB
	db   *gorm.DB
}

// Open connects to the database at dsn. It does not migrate it.
func Open(ctx context.Context, dsn string) (*Store, error) { return OpenTraced(ctx, dsn, nil) }

// OpenTraced is [Open] with somebody who sees every statement; nil for nobody.
func OpenTraced(ctx context.Context, dsn string, tracer pgx.QueryTracer) (*Store, error) {
	config, err := pgxpool.ParseConfig(dsn)
	if err != nil {
		return nil, fmt.Errorf("database address: %w", err)
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
	all := sha256.New()
	err := fs.WalkDir(migrations, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		text, err := migrations.ReadFile(path)
		all.Write(text)
		return err
	})
	return hex.EncodeToString(all.Sum(nil)[:8]), err
}

// Migrate brings the schema up to date. Several processes may call it at once.
func (s *Store) Migrate(ctx context.Context) error {
	p, err := s.provider()
	if err != nil {
		return err
	}
	results, err := p.Up(ctx)
	for _, r := range results {
		slog.Info("migrated", "version", r.Source.Version, "took", r.Duration)
	}
	return err
}

// Current reports whether the schema is the one this program was built for.
func (s *Store) Current(ctx context.Context) (bool, error) {
	p, err := s.provider()
	if err != nil {
		return false, err
	}
	pending, err := p.HasPending(ctx)
	return !pending, err
}

func (s *Store) provider() (*goose.Provider, error) {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectPostgres, s.sql, files, goose.WithSessionLocker(locker))
}

// Tx is one unit of work, or a plain reader outside of one.
type Tx struct {
	db *gorm.DB
}

// Read returns a reader; each of its queries sees what is committed by then.
func (s *Store) Read() Tx { return Tx{s.db} }

// Write runs do in one transaction: all of it is kept, or nothing.
func (s *Store) Write(ctx context.Context, do func(Tx) error) error {
	return s.db.WithContext(ctx).Transaction(func(db *gorm.DB) error { return do(Tx{db}) })
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

// Stamp is t as the database keeps it, in microseconds, so that what was written and what is read
// back are equal.
func Stamp(t time.Time) time.Time { return t.UTC().Truncate(time.Microsecond) }

// Try does something of a unit of work that is taken back alone when it fails.
func (t Tx) Try(ctx context.Context, do func(Tx) error) error {
	return t.db.WithContext(ctx).Transaction(func(db *gorm.DB) error { return do(Tx{db}) })
}
