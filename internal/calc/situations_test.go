package calc_test

import (
	"encoding/json"
	"math"
	"os"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/calc"
)

// situation is one of docs/situations.md: its title, what is asked of which computation, and what the answer holds.
var situation = regexp.MustCompile("(?s)## (\\d+\\. [^\n]+)\n.*?```json (\\w+)\n(.*?)\n```.*?```json answers\n(.*?)\n```")

// What a mechanic puts to the program is answered as the document says.
func TestSituations(t *testing.T) {
	text, err := os.ReadFile("../../docs/situations.md")
	require.NoError(t, err)
	found := situation.FindAllSubmatch(text, -1)
	assert.GreaterOrEqual(t, len(found), 30)
	for _, s := range found {
		t.Run(string(s[1]), func(t *testing.T) {
			answer, err := calc.Run(t.Context(), string(s[2]), s[3])
			require.NoError(t, err)
			written, err := json.Marshal(answer)
			require.NoError(t, err)
			var want, have any
			require.NoError(t, json.Unmarshal(s[4], &want))
			require.NoError(t, json.Unmarshal(written, &have))
			assert.True(t, within(want, have), "%s is not in %s", s[4], written)
		})
	}
}

// within reports whether an answer holds what is wanted: of an object those fields, of a list those entries.
func within(want, have any) bool {
	switch w := want.(type) {
	case map[string]any:
		h, is := have.(map[string]any)
		for k, v := range w {
			got, there := h[k]
			if !is || !there || !within(v, got) {
				return false
			}
		}
		return is
	case []any:
		h, is := have.([]any)
		for _, v := range w {
			some := false
			for _, got := range h {
				some = some || within(v, got)
			}
			if !some {
				return false
			}
		}
		return is
	case float64:
		h, is := have.(float64)
		return is && math.Abs(w-h) < 1e-6
	}
	return want == have
}
