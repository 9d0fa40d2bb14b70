package fault_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/core/clean"
	"earnestpony/core/fault"
)

func TestComplaints(t *testing.T) {
	for _, c := range fault.Complaints() {
		again, err := fault.Parse(c.Code)
		require.NoError(t, err)
		assert.Equal(t, c.Says, again.Says)
		assert.NotEmpty(t, c.Check, c.Code)
		assert.GreaterOrEqual(t, len(c.Causes), 2, "%s: a check tells causes apart", c.Code)
	}
	_, err := fault.Parse("hums")
	require.Error(t, err)
	assert.Equal(t, clean.Soak, fault.Least([]string{"squeaks", "gritty"}), "the heaviest of them")
	assert.Equal(t, clean.Wipe, fault.Least(nil))
}

func TestFindings(t *testing.T) {
	held := 0
	for _, f := range fault.Findings() {
		got, err := fault.Take(f.Code, fault.Note)
		require.NoError(t, err)
		if f.Fixed {
			held++
			assert.Equal(t, fault.Stop, got, "%s is not taken for less", f.Code)
		} else {
			assert.Equal(t, fault.Note, got)
		}
	}
	assert.Equal(t, 8, held)
	_, err := fault.Take("a smell", fault.Note)
	require.Error(t, err)
	_, err = fault.ParseSeverity("later")
	require.Error(t, err)
}

// What stops a bike withholds what loads it, and nothing that settles it.
func TestWithholds(t *testing.T) {
	for step, withheld := range map[string][2]bool{"ride": {true, true}, "motor-on": {true, true}, "new-chain": {true, false}, "chain-on": {true, false}, "brakes-test": {}, "oil": {}} {
		assert.Equal(t, withheld, [2]bool{fault.Withholds("frame-crack", step), fault.Withholds("joint-not-seated", step)}, step)
	}
}
