package httpapi_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/calc"
	"earnestpony/internal/httpapi/apigen"
)

// The worked examples of the contract are answered as it says.
func TestWorkedExamples(t *testing.T) {
	doc, err := apigen.GetSpec()
	require.NoError(t, err)
	worked := 0
	for path, item := range doc.Paths.Map() {
		name, computes := strings.CutPrefix(path, "/calc/")
		if !computes {
			continue
		}
		answers := item.Post.Responses.Value("200").Value.Content["application/json"].Examples
		for title, example := range item.Post.RequestBody.Value.Content["application/json"].Examples {
			question, err := json.Marshal(example.Value.Value)
			require.NoError(t, err)
			answer, err := calc.Run(t.Context(), name, question)
			require.NoError(t, err, "%s %s", name, title)
			have, err := json.Marshal(answer)
			require.NoError(t, err)
			require.Contains(t, answers, title, name)
			want, err := json.Marshal(answers[title].Value.Value)
			require.NoError(t, err)
			assert.JSONEq(t, string(want), string(have), "%s %s", name, title)
			worked++
		}
	}
	assert.GreaterOrEqual(t, worked, 4)
}
