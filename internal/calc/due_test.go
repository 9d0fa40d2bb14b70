package calc_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/calc"
)

// An input that cannot be is refused with all that is wrong in it, each at its path.
func TestDueRefused(t *testing.T) {
	_, err := calc.Due([]byte(`{"today":"tomorrow","now_hard_km":-3,"colour":"grey","tasks":[
		{"code":"wash","every_days":0,"last_hard_km":10,"last_on":"2026-05-09"},
		{"code":"wash","every_hard_km":0.2,"last_hard_km":1,"weight":-1,"events":[{"code":"mud"}]}]}`))
	var refusal *calc.Refusal
	require.ErrorAs(t, err, &refusal)
	at := map[string]string{}
	for _, f := range refusal.Fields {
		at[f.Path] = f.Code
	}
	assert.Equal(t, map[string]string{"today": "not-a-date", "now_hard_km": "out-of-range", "colour": "unknown-field", "tasks[0].every_days": "out-of-range",
		"tasks[1].every_hard_km": "out-of-range", "tasks[1].last_on": "missing",
		"tasks[1].weight": "out-of-range", "tasks[1].events[0].on": "missing", "tasks[1].code": "twice"}, at)
	for name, input := range map[string]string{"no tasks": `{"today":"2026-05-04","now_hard_km":1}`, "no object": `[]`, "a future task": `{"today":"2026-05-04","now_hard_km":1,"tasks":[{"code":"wash","last_hard_km":0,"last_on":"2026-05-05"}]}`} {
		_, err := calc.Due([]byte(input))
		require.ErrorAs(t, err, &refusal, name)
	}
	// Nothing has to be said that the house can say.
	a, err := calc.Due([]byte(`{"today":"2026-05-04","now_hard_km":100,"tasks":[{"code":"wash","every_days":21,"last_hard_km":0,"last_on":"2026-04-13"},{"code":"never","last_hard_km":0,"last_on":"2026-04-13"}]}`))
	require.NoError(t, err)
	assert.Equal(t, []string{"wash"}, a.Visit)
	assert.Equal(t, []any{"due", "days", "2026-05-04"}, []any{a.Tasks[0].State, *a.Tasks[0].Binds, *a.Tasks[0].DueOn})
	assert.Equal(t, "fresh", a.Tasks[1].State)
	assert.Nil(t, a.Tasks[1].Binds)
	assert.Nil(t, a.Tasks[1].DueOn)
}
