package calc_test

import (
	"context"
	"encoding/json"
	"errors"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/calc"
)

// FuzzCalc asks every computation whatever comes: an answer that is JSON without NaN, or a refusal with its faults,
// in time, and never a large one.
func FuzzCalc(f *testing.F) {
	names := calc.Names()
	for i, name := range names {
		raw, err := os.ReadFile("testdata/" + name + ".json")
		require.NoError(f, err)
		var cases []struct{ In json.RawMessage }
		require.NoError(f, json.Unmarshal(raw, &cases))
		for _, c := range cases[:min(len(cases), 4)] {
			f.Add(uint8(i), []byte(c.In))
		}
		f.Add(uint8(i), []byte(`{"jobs":[{},{}],"readings":[{},{}],"tasks":[{}],"sprockets":[1e308]}`))
		f.Add(uint8(i), []byte(`null`))
	}
	f.Fuzz(func(t *testing.T, which uint8, input []byte) {
		ctx, stop := context.WithTimeout(t.Context(), 100*time.Millisecond)
		defer stop()
		answer, err := calc.Run(ctx, names[int(which)%len(names)], input)
		if err != nil {
			var refused *calc.Refusal
			require.True(t, errors.As(err, &refused), "%v", err)
			assert.NotEmpty(t, refused.Fields)
			assert.LessOrEqual(t, len(refused.Fields), 50)
			return
		}
		text, err := json.Marshal(answer)
		require.NoError(t, err)
		assert.Less(t, len(text), 1<<20)
	})
}
