package localpg_test

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/localpg"
)

func connect(t *testing.T, url string) *pgx.Conn {
	t.Helper()
	conn, err := pgx.Connect(context.Background(), url)
	require.NoError(t, err)
	t.Cleanup(func() { _ = conn.Close(context.Background()) }) // the server may be gone by then
	return conn
}

func TestLifeOfACluster(t *testing.T) {
	ctx := context.Background()
	// A state folder whose path is too long for a socket: the data go where they fit.
	state := filepath.Join(t.TempDir(), strings.Repeat("deep/", 20))
	c, err := localpg.Find(state, "main", false)
	require.NoError(t, err)
	t.Cleanup(func() {
		assert.NoError(t, c.Stop(ctx))
		assert.NoError(t, os.RemoveAll(c.Dir()))
	})
	assert.True(t, strings.HasPrefix(c.Dir(), "/var/tmp/"), c.Dir())
	info, err := os.Stat(c.Dir())
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o700), info.Mode().Perm())

	assert.False(t, c.Running(ctx))
	url, err := c.Start(ctx, "shop")
	require.NoError(t, err)
	conn := connect(t, url)
	var fsync, addresses, super string
	require.NoError(t, conn.QueryRow(ctx, "select current_setting('fsync'), current_setting('listen_addresses'), current_setting('is_superuser')").Scan(&fsync, &addresses, &super))
	assert.Equal(t, []string{"on", "127.0.0.1", "off"}, []string{fsync, addresses, super})
	_, err = conn.Exec(ctx, "create table kept (n int); insert into kept values (7)")
	require.NoError(t, err)

	// Started again it is the same, and what was there stays; a second one does not get in its way.
	again, err := c.Start(ctx, "shop")
	require.NoError(t, err)
	assert.Equal(t, url, again)
	second, err := localpg.Find(filepath.Join(t.TempDir(), "other"), "main", true)
	require.NoError(t, err)
	otherURL, err := second.Start(ctx, "shop")
	require.NoError(t, err)
	t.Cleanup(func() {
		assert.NoError(t, second.Stop(ctx))
		assert.NoError(t, os.RemoveAll(second.Dir()))
	})
	assert.NotEqual(t, url, otherURL)

	require.NoError(t, conn.Close(ctx))
	require.NoError(t, c.Stop(ctx))
	require.NoError(t, c.Stop(ctx), "stopping what is stopped is no error")
	assert.False(t, c.Running(ctx))
	url, err = c.Start(ctx, "shop")
	require.NoError(t, err)
	conn = connect(t, url)
	var n int
	require.NoError(t, conn.QueryRow(ctx, "select n from kept").Scan(&n))
	assert.Equal(t, 7, n)
	require.NoError(t, conn.Close(ctx))

	require.NoError(t, c.Rename(ctx, "shop", "renamed"))
	has, err := c.Has(ctx, "renamed")
	require.NoError(t, err)
	assert.True(t, has)
	require.NoError(t, c.Drop(ctx, "renamed"))
	has, err = c.Has(ctx, "renamed")
	require.NoError(t, err)
	assert.False(t, has)
}

// A folder in everybody's /var/tmp that somebody else put there is not used.
func TestForeignFolderIsRefused(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("only root can make somebody else's folder")
	}
	state := filepath.Join(t.TempDir(), strings.Repeat("deep/", 20))
	c, err := localpg.Find(state, "main", false)
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, os.RemoveAll(c.Dir())) })
	require.NoError(t, os.Chown(c.Dir(), 12345, 12345))
	_, err = localpg.Find(state, "main", false)
	assert.ErrorContains(t, err, "is no folder of")
}
