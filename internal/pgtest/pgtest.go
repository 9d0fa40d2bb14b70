// Package pgtest gives each test a database of its own in a private PostgreSQL.
package pgtest

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/localpg"
	"earnestpony/internal/store"
)

// New returns the address of a fresh, migrated database that goes away with the test.
func New(t testing.TB) string {
	t.Helper()
	ctx := context.Background()
	cluster, err := localpg.Find(filepath.Join(root(t), ".local"), "test", true)
	require.NoError(t, err)
	admin, err := cluster.Start(ctx, "pony_tests")
	require.NoError(t, err)
	name := "t_" + strings.ReplaceAll(uuid.NewString(), "-", "")
	run := func(sql string) {
		conn, err := pgx.Connect(ctx, admin)
		require.NoError(t, err)
		defer func() { require.NoError(t, conn.Close(ctx)) }()
		_, err = conn.Exec(ctx, sql)
		require.NoError(t, err)
	}
	run("create database " + name)
	t.Cleanup(func() { run(fmt.Sprintf("drop database %s with (force)", name)) })
	dsn := strings.Replace(admin, "/pony_tests?", "/"+name+"?", 1)
	s, err := store.Open(ctx, dsn)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Migrate(ctx))
	return dsn
}

// root is the folder of go.mod, so that every package's tests share one cluster.
func root(t testing.TB) string {
	t.Helper()
	dir, err := os.Getwd()
	require.NoError(t, err)
	for {
		if _, err := os.Stat(filepath.Join(dir, "go.mod")); err == nil {
			return dir
		}
		require.NotEqual(t, "/", dir, "no go.mod above the test")
		dir = filepath.Dir(dir)
	}
}
