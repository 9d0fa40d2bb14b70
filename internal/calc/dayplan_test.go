package calc_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/calc"
)

const oneWash = `{"people":[{"id":"mira","skills":["wash","drivetrain"],"hours":[[480,720],[780,1080]]}],"places":[{"id":"stand","count":2}],
	"jobs":[{"id":"J1","arrives_min":480,"promised_min":500,"weight":1,
		"steps":[{"id":"a","skill":"wash","attended_min":10,"after":[]},{"id":"b","skill":"wash","attended_min":8,"after":[{"step":"a","least_min":5,"most_min":10}]}],
		"holds":[{"place":"stand","from_step":"a","to_step":"b","to":"end"}]}],
	"fixed":[{"job":"J1","step":"a","person":"mira","start_min":482}],"previous":[{"job":"J1","step":"b","person":"mira","start_min":495}],
	"now_min":485,"seed":1,"budget_ms":5}`

func TestDayPlan(t *testing.T) {
	a, err := calc.DayPlan(t.Context(), []byte(oneWash))
	require.NoError(t, err)
	assert.Equal(t, []calc.DayPlanStep{{Job: "J1", Step: "a", Person: "mira", StartMin: 482, EndMin: 492}, {Job: "J1", Step: "b", Person: "mira", StartMin: 497, EndMin: 505}}, a.Steps)
	assert.Equal(t, []calc.DayPlanLate{{Job: "J1", ByMin: 5, BoundBy: "wait:a"}}, a.Late)
	assert.Equal(t, calc.DayPlanCost{WeightedLateMin: 5, FinishSumMin: 505, Changes: 1}, a.Cost)
	assert.Equal(t, calc.DayPlanBound{WeightedLateMin: 5, FinishSumMin: 505}, a.LowerBound)
	assert.Empty(t, a.NotPlaced)

	// What it answers can be asked again as the plan on the wall, and then nothing moves.
	var again map[string]any
	require.NoError(t, json.Unmarshal([]byte(oneWash), &again))
	again["previous"] = a.Steps
	input, err := json.Marshal(again)
	require.NoError(t, err)
	a, err = calc.DayPlan(t.Context(), input)
	require.NoError(t, err)
	assert.Zero(t, a.Cost.Changes)

	a, err = calc.DayPlan(t.Context(), []byte(`{"now_min":0,"budget_ms":0,"jobs":[{"id":"J","arrives_min":0,"promised_min":9,"steps":[{"id":"a","skill":"wash","attended_min":1}]}]}`))
	require.NoError(t, err)
	assert.Equal(t, []calc.DayPlanRefuse{{Job: "J", Step: "a", Code: "no-skill"}}, a.NotPlaced, "a shop with nobody in it")
}

// A problem that cannot be is refused with all that is wrong in it, each at its path.
func TestDayPlanRefused(t *testing.T) {
	_, err := calc.DayPlan(t.Context(), []byte(`{"people":[{"id":"mira","skills":"wash","hours":[[720,480],[100,200],[150,250]]},{"id":"mira","skills":[],"hours":[[1]]}],
		"places":[{"id":"stand","count":-1},{"id":""}],"colour":"grey","now_min":1.5,"budget_ms":99999,
		"jobs":[{"id":"J1","arrives_min":480,"weight":2000,
			"steps":[{"id":"a","attended_min":-10,"after":[{"step":"z","least_min":5,"most_min":2}]}],
			"holds":[{"place":"tub","from_step":"a","to_step":"y","to":"middle"}]}],
		"fixed":[{"job":"J1","step":"a","person":"mira"}]}`))
	var refusal *calc.Refusal
	require.ErrorAs(t, err, &refusal)
	at := map[string]string{}
	for _, f := range refusal.Fields {
		at[f.Path] = f.Code
	}
	assert.Equal(t, map[string]string{
		"people[0].skills": "wrong-kind", "people[0].hours[0]": "out-of-range", "people[0].hours[2]": "out-of-order", "people[1].hours[0]": "out-of-range", "people[1].id": "twice",
		"places[0].count": "out-of-range", "places[1].id": "unknown-value", "places[1].count": "missing", "colour": "unknown-field", "now_min": "not-whole", "budget_ms": "out-of-range",
		"jobs[0].promised_min": "missing", "jobs[0].weight": "out-of-range", "jobs[0].steps[0].skill": "missing", "jobs[0].steps[0].attended_min": "out-of-range",
		"jobs[0].steps[0].after[0].most_min": "out-of-order", "jobs[0].steps[0].after[0].step": "unknown-value",
		"jobs[0].holds[0].place": "unknown-value", "jobs[0].holds[0].to_step": "unknown-value", "jobs[0].holds[0].to": "unknown-value", "fixed[0].start_min": "missing",
	}, at)

	_, err = calc.DayPlan(t.Context(), []byte(`{"now_min":0,"jobs":[{"id":"J","arrives_min":0,"promised_min":9,"steps":[
		{"id":"a","skill":"wash","attended_min":1,"after":[{"step":"b"}]},{"id":"b","skill":"wash","attended_min":1,"after":[{"step":"a"}]}]}]}`))
	require.ErrorAs(t, err, &refusal)
	assert.Equal(t, []calc.Field{{Path: "jobs[0]", Code: "makes-no-sense", Message: "job J: its steps follow each other in a circle"}}, refusal.Fields)
}
