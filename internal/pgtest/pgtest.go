// Package pgtest gives each test a database of its own in a private PostgreSQL.
package pgtest

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/localpg"
	"earnestpony/internal/store"
)

// New returns the address of a fresh, migrated database that goes away with the test. Its pool is of
// one connection: whoever holds it and asks for another hangs here, and not only in a busy shop.
func New(t testing.TB) string {
	t.Helper()
	return Crowded(t) + "&pool_max_conns=1"
}

// Crowded is [New] without a word about the size of the pool.
func Crowded(t testing.TB) string {
	t.Helper()
	return fresh(t, migrated)
}

// Empty is [New] without a schema.
func Empty(t testing.TB) string {
	t.Helper()
	return fresh(t, func(testing.TB, *pgx.Conn, string) string { return "template1" }) + "&pool_max_conns=1"
}

// Copy is [New] with all that is in another test's database, to which nobody is connected.
func Copy(t testing.TB, of string) string {
	t.Helper()
	made, err := url.Parse(of)
	require.NoError(t, err)
	return fresh(t, func(testing.TB, *pgx.Conn, string) string { return made.Path[1:] }) + "&pool_max_conns=1"
}

// started is the tests' server: it is started once, and runs on.
var started = sync.OnceValues(func() (string, error) {
	state, err := root()
	if err != nil {
		return "", err
	}
	cluster, err := localpg.Find(filepath.Join(state, ".local"), "test", true)
	if err != nil {
		return "", err
	}
	return cluster.Start(context.Background(), "pony_tests")
})

// Kept is a fresh, migrated database that outlives the test, to be copied: whoever asks for it drops it.
func Kept(t testing.TB) (dsn string, drop func() error) {
	t.Helper()
	return making(t, migrated)
}

func fresh(t testing.TB, from func(testing.TB, *pgx.Conn, string) string) string {
	t.Helper()
	dsn, drop := making(t, from)
	t.Cleanup(func() { require.NoError(t, drop()) })
	return dsn
}

func making(t testing.TB, from func(testing.TB, *pgx.Conn, string) string) (dsn string, drop func() error) {
	t.Helper()
	ctx := context.Background()
	admin, err := started()
	require.NoError(t, err)
	conn, err := pgx.Connect(ctx, admin)
	require.NoError(t, err)
	template := from(t, conn, admin)
	name := "t_" + strings.ReplaceAll(uuid.NewString(), "-", "")
	_, err = conn.Exec(ctx, fmt.Sprintf("create database %s template %s strategy file_copy", name, template))
	require.NoError(t, err)
	return at(admin, name), func() error {
		_, err := conn.Exec(ctx, fmt.Sprintf("drop database %s with (force)", name))
		return errors.Join(err, conn.Close(ctx))
	}
}

// migrated returns the name of a database with the schema of today, which each test's own is copied from. It
// is made once for each schema, by whichever package's tests come first.
func migrated(t testing.TB, conn *pgx.Conn, admin string) string {
	t.Helper()
	ctx := context.Background()
	schema, err := store.Schema()
	require.NoError(t, err)
	name := "tpl_" + schema
	_, err = conn.Exec(ctx, "select pg_advisory_lock(7331)")
	require.NoError(t, err)
	defer func() {
		_, err := conn.Exec(ctx, "select pg_advisory_unlock(7331)")
		require.NoError(t, err)
	}()
	var there bool
	require.NoError(t, conn.QueryRow(ctx, "select exists (select from pg_database where datname = $1)", name).Scan(&there))
	if there {
		return name
	}
	making := name + "_in_the_works"
	for _, sql := range []string{"drop database if exists " + making + " with (force)", "create database " + making} {
		_, err := conn.Exec(ctx, sql)
		require.NoError(t, err)
	}
	s, err := store.Open(ctx, at(admin, making))
	require.NoError(t, err)
	require.NoError(t, s.Migrate(ctx))
	s.Close()
	_, err = conn.Exec(ctx, fmt.Sprintf("alter database %s rename to %s", making, name))
	require.NoError(t, err)
	return name
}

func at(admin, name string) string { return strings.Replace(admin, "/pony_tests?", "/"+name+"?", 1) }

// root is the folder of go.mod, so that every package's tests share one cluster.
func root() (string, error) {
	dir, err := os.Getwd()
	for err == nil {
		if _, err := os.Stat(filepath.Join(dir, "go.mod")); err == nil {
			return dir, nil
		}
		if dir == "/" {
			return "", errors.New("no go.mod above the test")
		}
		dir = filepath.Dir(dir)
	}
	return "", err
}
