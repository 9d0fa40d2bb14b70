package store

import (
	"archive/zip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"
)

// manifest is what a backup says of itself.
type manifest struct {
	Format string           `json:"format"`
	Schema string           `json:"schema"` // that it was made from; only the same takes it back
	MadeAt time.Time        `json:"made_at"`
	Tables []string         `json:"tables"` // in an order in which each comes after what it points to
	Counts map[string]int64 `json:"counts"`
}

const (
	backupFormat   = "earnest-pony-backup-1"
	manifestName   = "manifest.json"
	tableExtension = ".copy"
)

// ErrNotEmpty reports that a backup is to be restored over a shop that is there.
var ErrNotEmpty = errors.New("this database holds a shop already: restore into an empty one")

// ofSchema are tables that the migrations fill themselves.
var ofSchema = []string{"goose_db_version", "ledger_kinds"}

// Backup writes the whole shop as it is at one moment, one file for each table.
func (s *Store) Backup(ctx context.Context, w io.Writer, now time.Time) error {
	schema, err := Schema()
	if err != nil {
		return err
	}
	conn, err := s.pool.Acquire(ctx)
	if err != nil {
		return err
	}
	defer conn.Release()
	tx, err := conn.BeginTx(ctx, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly})
	if err != nil {
		return err
	}
	defer func() { _ = tx.Rollback(context.WithoutCancel(ctx)) }()
	m := manifest{Format: backupFormat, Schema: schema, MadeAt: now, Counts: map[string]int64{}}
	if m.Tables, err = tablesInOrder(ctx, tx); err != nil {
		return err
	}
	z := zip.NewWriter(w)
	for _, table := range m.Tables {
		out, err := z.Create(table + tableExtension)
		if err != nil {
			return err
		}
		done, err := tx.Conn().PgConn().CopyTo(ctx, out, "copy "+pgx.Identifier{table}.Sanitize()+" to stdout")
		if err != nil {
			return fmt.Errorf("back up %s: %w", table, err)
		}
		m.Counts[table] = done.RowsAffected()
	}
	out, err := z.Create(manifestName)
	if err != nil {
		return err
	}
	if err := json.NewEncoder(out).Encode(m); err != nil {
		return err
	}
	return z.Close()
}

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

// Restore reads a backup into a database whose schema is there and that holds no shop. All of it, or nothing.
func (s *Store) Restore(ctx context.Context, r io.ReaderAt, size int64) error {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return fmt.Errorf("this is no backup: %w", err)
	}
	var m manifest
	f, err := z.Open(manifestName)
	if err != nil {
		return errors.New("this is no backup: it says nothing of itself")
	}
	err = errors.Join(json.NewDecoder(f).Decode(&m), f.Close())
	if err != nil || m.Format != backupFormat {
		return errors.New("this is no backup of this program")
	}
	if schema, err := Schema(); err != nil || schema != m.Schema {
		return errors.Join(err, errors.New("this backup is of another version of the program: restore it with that one, then let this one bring it up to date"))
	}
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
	for _, table := range m.Tables {
		if err := restoreTable(ctx, tx, z, table, m.Counts[table]); err != nil {
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

func restoreTable(ctx context.Context, tx pgx.Tx, z *zip.Reader, table string, want int64) error {
	name := pgx.Identifier{table}.Sanitize()
	var has bool
	if err := tx.QueryRow(ctx, "select exists (select from "+name+")").Scan(&has); err != nil {
		return fmt.Errorf("restore %s: %w", table, err)
	}
	if has {
		return ErrNotEmpty
	}
	in, err := z.Open(table + tableExtension)
	if err != nil {
		return fmt.Errorf("this backup is not whole: %s is missing", table)
	}
	done, err := tx.Conn().PgConn().CopyFrom(ctx, in, "copy "+name+" from stdin")
	if err := errors.Join(err, in.Close()); err != nil {
		return fmt.Errorf("restore %s: %w", table, err)
	}
	if done.RowsAffected() != want {
		return fmt.Errorf("this backup is not whole: %s has %d rows of %d", table, done.RowsAffected(), want)
	}
	return nil
}
