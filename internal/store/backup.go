package store

import (
	"archive/zip"
	"bufio"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/pressly/goose/v3"
)

// manifest is what a backup says of itself.
type manifest struct {
	Format string            `json:"format"`
	Schema string            `json:"schema"` // that it was made from
	MadeAt time.Time         `json:"made_at"`
	Tables []string          `json:"tables"` // in an order in which each comes after what it points to
	Counts map[string]int64  `json:"counts"`
	Sums   map[string]string `json:"sums,omitempty"` // SHA-256 of each table's text; the first format had none
}

const (
	firstFormat    = "earnest-pony-backup-1"
	backupFormat   = "earnest-pony-backup-2"
	manifestName   = "manifest.json"
	tableExtension = ".copy"
)

// ErrNotEmpty reports that a backup is to be restored over a shop that is there.
var ErrNotEmpty = errors.New("this database holds a shop already: restore into an empty one")

// ErrNoShop reports that there is nothing of ours in a database.
var ErrNoShop = errors.New("there is no shop in this database")

// ofSchema are tables that the migrations fill themselves, and what guards the set-up of a shop that is not there yet.
var ofSchema = []string{"goose_db_version", "ledger_kinds", "set_up"}

// Contents are what a shop or a backup of one holds.
type Contents struct {
	Schema  int // how many migrations it had
	Bikes   int64
	Entries int64 // of the ledger
}

func (c Contents) String() string {
	return fmt.Sprintf("%d bikes and %d ledger entries", c.Bikes, c.Entries)
}

// Holds says what the shop in the database holds, and [ErrNoShop] where there is none. It writes nothing.
func (s *Store) Holds(ctx context.Context) (c Contents, err error) {
	version, err := s.version(ctx)
	if err != nil {
		return c, err
	}
	if version == 0 {
		return c, ErrNoShop
	}
	c.Schema = int(version)
	var shops int
	err = s.pool.QueryRow(ctx, `select (select count(*) from shop), (select count(*) from bikes), (select count(*) from ledger)`).Scan(&shops, &c.Bikes, &c.Entries)
	if err == nil && shops == 0 {
		err = ErrNoShop
	}
	return c, err
}

// Backup writes the whole shop as it is at one moment, one file for each table, and says what it wrote. It is
// [ErrNoShop] where there is none; the schema may be an older one.
func (s *Store) Backup(ctx context.Context, w io.Writer, now time.Time) (Contents, error) {
	holds, err := s.Holds(ctx)
	if err != nil {
		return holds, err
	}
	names, err := schemas()
	if err != nil {
		return holds, err
	}
	if holds.Schema > len(names) {
		return holds, errNewer
	}
	conn, err := s.pool.Acquire(ctx)
	if err != nil {
		return holds, err
	}
	defer conn.Release()
	tx, err := conn.BeginTx(ctx, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly})
	if err != nil {
		return holds, err
	}
	defer func() { _ = tx.Rollback(context.WithoutCancel(ctx)) }()
	if _, err := tx.Exec(ctx, "set local statement_timeout = 0"); err != nil {
		return holds, err
	}
	m := manifest{Format: backupFormat, Schema: names[holds.Schema-1], MadeAt: now, Counts: map[string]int64{}, Sums: map[string]string{}}
	if m.Tables, err = tablesInOrder(ctx, tx); err != nil {
		return holds, err
	}
	z := zip.NewWriter(w)
	for _, table := range m.Tables {
		out, err := z.Create(table + tableExtension)
		if err != nil {
			return holds, err
		}
		sum := sha256.New()
		done, err := tx.Conn().PgConn().CopyTo(ctx, io.MultiWriter(out, sum), "copy "+pgx.Identifier{table}.Sanitize()+" to stdout")
		if err != nil {
			return holds, fmt.Errorf("back up %s: %w", table, err)
		}
		m.Counts[table], m.Sums[table] = done.RowsAffected(), hex.EncodeToString(sum.Sum(nil))
	}
	holds.Bikes, holds.Entries = m.Counts["bikes"], m.Counts["ledger"]
	out, err := z.Create(manifestName)
	if err != nil {
		return holds, err
	}
	if err := json.NewEncoder(out).Encode(m); err != nil {
		return holds, err
	}
	return holds, z.Close()
}

var errNewer = errors.New("this shop was made by a newer version of the program: use that one")

// tablesInOrder lists the shop's tables, each after those that it points to.
func tablesInOrder(ctx context.Context, tx pgx.Tx) ([]string, error) {
	rows, err := tx.Query(ctx, `
		select c.relname, coalesce(array_agg(r.relname) filter (where r.relname <> c.relname), '{}')
		from pg_class c left join pg_constraint k on k.conrelid = c.oid and k.contype = 'f' left join pg_class r on r.oid = k.confrelid
		where c.relkind = 'r' and c.relnamespace = 'public'::regnamespace group by c.relname order by c.relname`)
	if err != nil {
		return nil, err
	}
	points := map[string][]string{}
	var left []string
	var table string
	var to []string
	if _, err := pgx.ForEachRow(rows, []any{&table, &to}, func() error {
		if !slices.Contains(ofSchema, table) {
			points[table], left = slices.Clone(to), append(left, table)
		}
		return nil
	}); err != nil {
		return nil, err
	}
	var order []string
	for len(left) > 0 {
		free := slices.IndexFunc(left, func(t string) bool {
			return !slices.ContainsFunc(points[t], func(to string) bool { return slices.Contains(left, to) })
		})
		if free < 0 {
			return nil, fmt.Errorf("tables point to each other in a circle: %v", left)
		}
		order, left = append(order, left[free]), slices.Delete(left, free, free+1)
	}
	return order, nil
}

// Backed is a backup that was read through and found whole.
type Backed struct {
	Contents
	MadeAt   time.Time
	zip      *zip.Reader
	manifest manifest
}

// notWhole says that a backup is damaged, and how.
func notWhole(format string, args ...any) error {
	return fmt.Errorf("this backup is not whole: "+format, args...)
}

// manifestMost bounds what a manifest may say: ours say a few kilobytes.
const manifestMost = 1 << 20

// OpenBackup reads a backup through: what it says of itself is held against what is in it. It needs no database.
func OpenBackup(r io.ReaderAt, size int64) (*Backed, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, fmt.Errorf("this is no backup: %w", err)
	}
	f, err := z.Open(manifestName)
	if err != nil {
		return nil, errors.New("this is no backup: it says nothing of itself")
	}
	var m manifest
	err = errors.Join(json.NewDecoder(io.LimitReader(f, manifestMost)).Decode(&m), f.Close())
	if err != nil || (m.Format != backupFormat && m.Format != firstFormat) {
		return nil, errors.New("this is no backup of this program")
	}
	names, err := schemas()
	if err != nil {
		return nil, err
	}
	b := &Backed{Contents: Contents{Schema: slices.Index(names, m.Schema) + 1, Bikes: m.Counts["bikes"], Entries: m.Counts["ledger"]}, MadeAt: m.MadeAt, zip: z, manifest: m}
	if b.Schema == 0 {
		return nil, errNewer
	}
	for _, table := range m.Tables {
		if err := b.check(table); err != nil {
			return nil, err
		}
	}
	if m.Counts["shop"] == 0 {
		return nil, errors.New("this backup holds no shop")
	}
	return b, nil
}

// check reads a table's text through: as many rows as are said, no mark of an early end, and the sum where
// there is one.
func (b *Backed) check(table string) error {
	in, err := b.zip.Open(table + tableExtension)
	if err != nil {
		return notWhole("%s is missing", table)
	}
	defer func() { _ = in.Close() }()
	sum := sha256.New()
	lines := bufio.NewReaderSize(io.TeeReader(in, sum), 1<<16)
	rows, short := int64(0), []byte(nil) // the line so far, while it is short
	for {
		part, err := lines.ReadSlice('\n')
		if len(short) < 4 {
			short = append(short, part[:min(len(part), 4)]...)
		}
		switch {
		case errors.Is(err, bufio.ErrBufferFull):
			continue
		case errors.Is(err, io.EOF):
			if len(part) > 0 || len(short) > 0 {
				return notWhole("%s ends within a row", table)
			}
			if rows != b.manifest.Counts[table] {
				return notWhole("%s has %d rows of %d", table, rows, b.manifest.Counts[table])
			}
			if want, said := b.manifest.Sums[table]; b.manifest.Format != firstFormat && (!said || want != hex.EncodeToString(sum.Sum(nil))) {
				return notWhole("%s is not what was written", table)
			}
			return nil
		case err != nil:
			return notWhole("%s: %w", table, err)
		}
		if string(short) == "\\.\n" || string(short) == "\\.\r\n" { // PostgreSQL would pass over all that follows
			return notWhole("%s has an end before its end", table)
		}
		rows, short = rows+1, nil
	}
}

// Restore reads a backup into a database that holds no shop, all of it or nothing, and brings it up to date:
// a backup of an older version is read into the schema that it was made from.
func (s *Store) Restore(ctx context.Context, b *Backed) error {
	if _, err := s.Holds(ctx); !errors.Is(err, ErrNoShop) {
		if err == nil {
			err = ErrNotEmpty
		}
		return err
	}
	now, err := s.version(ctx)
	if err != nil {
		return err
	}
	if err := s.migrate(func(p *goose.Provider) ([]*goose.MigrationResult, error) {
		if int(now) <= b.Schema {
			return p.UpTo(ctx, int64(b.Schema))
		}
		// From the ground up: a table whose column went and came back has its columns in another order than the backup.
		if undone, err := p.DownTo(ctx, 0); err != nil {
			return undone, err
		}
		return p.UpTo(ctx, int64(b.Schema))
	}); err != nil {
		return fmt.Errorf("make the schema of the backup: %w", err)
	}
	err = s.fill(ctx, b)
	if err := errors.Join(err, s.Migrate(ctx)); err != nil {
		return err
	}
	s.pool.Reset() // what connections remember of the tables is of the schema before
	return nil
}

func (s *Store) fill(ctx context.Context, b *Backed) error {
	conn, err := s.pool.Acquire(ctx)
	if err != nil {
		return err
	}
	defer conn.Release()
	tx, err := conn.Begin(ctx)
	if err != nil {
		return err
	}
	defer func() { _ = tx.Rollback(context.WithoutCancel(ctx)) }()
	if _, err := tx.Exec(ctx, "set local statement_timeout = 0"); err != nil {
		return err
	}
	tables, err := tablesInOrder(ctx, tx)
	if err != nil {
		return err
	}
	if missing := slices.DeleteFunc(slices.Clone(tables), func(t string) bool { return slices.Contains(b.manifest.Tables, t) }); len(missing) > 0 {
		return notWhole("its list lacks %v", missing)
	}
	if strange := slices.DeleteFunc(slices.Clone(b.manifest.Tables), func(t string) bool { return slices.Contains(tables, t) }); len(strange) > 0 {
		return notWhole("its list has %v, which is no table of ours", strange)
	}
	for _, table := range tables {
		if err := restoreTable(ctx, tx, b, table); err != nil {
			return err
		}
	}
	// What counts on goes on after the highest that was given.
	_, err = tx.Exec(ctx, `
		do $$ declare c record; begin
			perform setval('bike_tag_number', greatest((select coalesce(max(tag_number), 0) from bikes), 1), exists (select from bikes));
			for c in select table_name, column_name from information_schema.columns where table_schema = 'public' and is_identity = 'YES' loop
				execute format('select setval(pg_get_serial_sequence(%L, %L), greatest((select coalesce(max(%I), 0) from %I), 1), exists (select from %I))',
					c.table_name, c.column_name, c.column_name, c.table_name, c.table_name);
			end loop;
		end $$`)
	if err != nil {
		return fmt.Errorf("count on: %w", err)
	}
	return tx.Commit(ctx)
}

func restoreTable(ctx context.Context, tx pgx.Tx, b *Backed, table string) error {
	name := pgx.Identifier{table}.Sanitize()
	var has bool
	if err := tx.QueryRow(ctx, "select exists (select from "+name+")").Scan(&has); err != nil {
		return fmt.Errorf("restore %s: %w", table, err)
	}
	if has {
		return ErrNotEmpty
	}
	in, err := b.zip.Open(table + tableExtension)
	if err != nil {
		return notWhole("%s is missing", table)
	}
	done, err := tx.Conn().PgConn().CopyFrom(ctx, in, "copy "+name+" from stdin")
	if err := errors.Join(err, in.Close()); err != nil {
		return fmt.Errorf("restore %s: %w", table, err)
	}
	if want := b.manifest.Counts[table]; done.RowsAffected() != want {
		return notWhole("%s has %d rows of %d", table, done.RowsAffected(), want)
	}
	return nil
}
