package e2e

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/localpg"
)

// pony runs the program without a database and returns both outputs and the exit status.
func pony(t *testing.T, input string, args ...string) (out, errs string, status int) {
	t.Helper()
	cmd := exec.Command(program, args...)
	var stdout, stderr bytes.Buffer
	cmd.Stdin, cmd.Stdout, cmd.Stderr = strings.NewReader(input), &stdout, &stderr
	err := cmd.Run()
	if _, exited := err.(*exec.ExitError); err != nil && !exited { //nolint:errorlint // it is returned bare
		require.NoError(t, err)
	}
	return stdout.String(), stderr.String(), cmd.ProcessState.ExitCode()
}

func TestCalcOnTheCommandLine(t *testing.T) {
	t.Parallel()
	raw, err := os.ReadFile("../internal/calc/testdata/wear.json")
	require.NoError(t, err)
	var cases []struct{ In, Out json.RawMessage }
	require.NoError(t, json.Unmarshal(raw, &cases))
	for i, c := range cases {
		out, errs, status := pony(t, string(c.In), "calc", "wear")
		require.Zero(t, status, errs)
		var got, want struct {
			Verdict string
			Limit   float64 `json:"limit_pct"`
		}
		require.NoError(t, json.Unmarshal([]byte(out), &got))
		require.NoError(t, json.Unmarshal(c.Out, &want))
		assert.Equal(t, want, got, "example %d", i)
	}

	out, errs, status := pony(t, `{"school":"protect"}`, "calc", "wear")
	assert.Equal(t, 2, status)
	assert.Empty(t, out, "nothing is computed")
	var problem struct {
		Code   string
		Fields []struct{ Path, Code string }
	}
	require.NoError(t, json.Unmarshal([]byte(errs), &problem), errs)
	assert.Equal(t, "invalid-input", problem.Code)
	assert.Len(t, problem.Fields, 3)

	_, errs, status = pony(t, "", "calc", "horoscope")
	assert.Equal(t, 1, status)
	assert.Contains(t, errs, "there is no computation")
}

func TestHelpNamesFlagsAndEnvironment(t *testing.T) {
	t.Parallel()
	out, _, status := pony(t, "", "help")
	assert.Zero(t, status)
	for _, command := range []string{"serve", "demo", "stop", "migrate", "shop", "person", "calc"} {
		assert.Contains(t, out, "\n   "+command)
	}
	assert.Contains(t, out, "PONY_DATABASE")
	out, _, _ = pony(t, "", "serve", "--help")
	for _, want := range []string{"PONY_ADDR", "PONY_DATABASE", "PONY_STATE", "PONY_PUBLIC_URL", "127.0.0.1:8321"} {
		assert.Contains(t, out, want)
	}
	_, errs, status := pony(t, "", "gallop")
	assert.Equal(t, 1, status)
	assert.Contains(t, errs, `there is no command "gallop"`)
}

// A new shop is set up on the command line, with PINs that are not the first anybody would try.
func TestSettingUpAShop(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	for pin, said := range map[string]string{"1234": "first that anybody would try", "77": "4 to 8 digits", "": "no PIN"} {
		cmd := exec.Command(program, "person", "Maud Kestle")
		cmd.Env = append(os.Environ(), "PONY_DATABASE="+s.dsn)
		cmd.Stdin = strings.NewReader(pin)
		out, err := cmd.CombinedOutput()
		require.Error(t, err)
		assert.Contains(t, string(out), said)
	}
	assert.Contains(t, s.pony("1618\n", "person", "Maud Kestle"), "Added Maud Kestle (mechanic).")
	assert.Contains(t, s.pony("tide tables for ever\n", "person", "--role", "owner", "Wenna Oxenholt"), "(owner)")

	// A lost password, somebody who left, and the last owner, who cannot.
	assert.Contains(t, s.pony("mud flats at dawn\n", "person", "--change", "--secret", "wenna oxenholt"), "Wenna Oxenholt is owner, here.")
	assert.Contains(t, s.pony("", "person", "--change", "--state", "left", "Maud Kestle"), "Maud Kestle is mechanic, left.")
	assert.Contains(t, s.pony("", "person", "--list"), "Maud Kestle (mechanic, left)")
	for _, wrong := range []struct{ said, args string }{{"Nobody else here is an owner", "--state left:Wenna Oxenholt"}, {"password of at least", "--role owner:Mira Oxenholt"}, {"nobody is called", "--state left:Nobody"}} {
		args, name, _ := strings.Cut(wrong.args, ":")
		cmd := exec.Command(program, append(append([]string{"person", "--change"}, strings.Fields(args)...), name)...)
		cmd.Env = append(os.Environ(), "PONY_DATABASE="+s.dsn)
		out, err := cmd.CombinedOutput()
		require.Error(t, err)
		assert.Contains(t, string(out), wrong.said)
	}
}

// The server that the tests run on lies in memory, and is stopped like any other.
func TestStopFindsTheTestsServer(t *testing.T) {
	t.Parallel()
	state := t.TempDir()
	cluster, err := localpg.Find(state, "test", true)
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(cluster.Dir()) }) // left over at worst
	dsn, err := cluster.Start(t.Context(), "pony_tests")
	require.NoError(t, err)
	out, err := exec.Command(program, "stop", "--tests", "--state", state).CombinedOutput()
	require.NoError(t, err, "%s", out)
	_, err = pgx.Connect(t.Context(), dsn)
	assert.Error(t, err, "nobody answers any more")
}
