package e2e

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/pgtest"
)

// A shop goes into one file while it is served and comes back in an empty database, where its people sign in
// and its bikes are; a file that is no backup, and a database that holds a shop, are refused in words.
func TestBackupCommand(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	tag := s.client().addBike("Ottoline Brack", twelveSpeed)
	file := filepath.Join(t.TempDir(), "shop.pony")
	s.pony("", "backup", file)
	info, err := os.Stat(file)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "it names owners: nobody else reads it")

	refused := func(on *server, path, says string) {
		t.Helper()
		cmd := exec.Command(program, "restore", path)
		cmd.Env = append(os.Environ(), "PONY_DATABASE="+on.dsn)
		out, err := cmd.CombinedOutput()
		require.Error(t, err)
		assert.Contains(t, string(out), says)
	}
	refused(s, file, "holds a shop already")
	other := &server{t: t, dsn: pgtest.New(t), addr: "127.0.0.1:0"}
	tea := filepath.Join(t.TempDir(), "tea")
	require.NoError(t, os.WriteFile(tea, []byte("tea"), 0o600))
	refused(other, tea, "no backup")
	other.pony("", "restore", file)
	assert.Contains(t, other.pony("", "verify"), "as the ledger has it")
	other.start()
	t.Cleanup(other.kill)
	b := other.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/bikes/" + tag)
	b.sees("main", "Ottoline Brack")
}
