package schedule

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/chain"
	"earnestpony/core/clean"
	"earnestpony/core/dayplan"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// dirtyJob draws a bike that came in, planned on any route that it can be, with some of it done.
func dirtyJob(t *rapid.T, now time.Time) *jobs.LoadedJob {
	pick := func(name string, most int) int { return rapid.IntRange(0, most).Draw(t, name) }
	yes := func(name string) bool { return rapid.Bool().Draw(t, name) }
	b := clean.Bike{
		Frame: clean.Grade(pick("frame", 4)), Drivetrain: clean.Grade(pick("drivetrain", 4)),
		Train:  chain.Drivetrain{Kind: chain.DrivetrainKind(1 + pick("kind", 2)), Sprockets: 1, Motor: chain.Motor(pick("motor", 3)), Carry: yes("carry")},
		Brakes: clean.Brakes(pick("brakes", 2)), Heavy: yes("heavy"), On: clean.Coat(pick("on", 5)), Next: clean.Coat(pick("next", 2)), ChainGoes: yes("chain goes"),
		CanOpen: true, Turns: clean.Turning(pick("turns", 2)), Clutch: yes("clutch"), Read: yes("read"),
	}
	rules := clean.HouseRules()
	rules.First, rules.Oiling = clean.First(pick("first", 1)), clean.Oiling(pick("oiling", 2))
	choice := clean.Choose(b, rules)
	plan, err := clean.New(b, choice.With(b, clean.Route(pick("route", len(clean.Routes())-1))), rules)
	if err != nil {
		plan, err = clean.New(b, choice.Order(), rules)
	}
	require.NoError(t, err)
	l := &jobs.LoadedJob{Job: store.Job{ID: uuid.New(), State: store.JobPlanned, Intake: []byte(`{}`)}, At: now}
	l.Steps, err = jobs.NewSteps(l, plan, nil, nil)
	require.NoError(t, err)
	someone := uuid.New()
	for i := range pick("done", len(l.Steps)) { // in the plan's order, so that what comes before is done
		st := &l.Steps[i]
		at := now.Add(-time.Minute)
		st.State, st.DoneAt, st.DoneBy = "done", &at, &someone
	}
	require.NoError(t, l.Read())
	for i, spec := range l.Specs {
		if w := spec.Wait; w != nil && l.Steps[i].State == store.StepDone && yes("runs") {
			least := now.Add(time.Duration(w.Least) * time.Minute)
			wait := store.WaitView{Wait: store.Wait{StepCode: spec.Code, BeganAt: now.Add(-time.Minute), LeastAt: least}}
			if w.Most > 0 {
				most := now.Add(time.Duration(w.Most) * time.Minute)
				wait.MostAt = &most
			}
			l.Waits = append(l.Waits, wait)
		}
	}
	return l
}

// Whatever is done to a bike, it makes a day that keeps every rule: all that is left has its minutes on the wall,
// nothing of it is left out while people are here and places free, and it is done no sooner than its waits allow.
func TestEveryCleaningPlanMakesADay(t *testing.T) {
	now := time.Date(2026, 5, 4, 9, 0, 0, 0, time.UTC)
	rapid.Check(t, func(t *rapid.T) {
		d := &floorDay{midnight: time.Date(2026, 5, 4, 0, 0, 0, 0, time.UTC), stints: map[[2]string]stint{}}
		d.problem = dayplan.Problem{Now: d.minute(now), Weights: dayplan.Usual, People: []dayplan.Person{
			{ID: "mira", Skills: rules.Skills, Hours: []dayplan.Stretch{{From: 0, To: 7 * 24 * 60}}},
			{ID: "posy", Skills: rules.Skills[:1], Hours: []dayplan.Stretch{{From: 0, To: 7 * 24 * 60}}},
		}}
		for _, place := range rules.FloorPlaces {
			d.problem.Places = append(d.problem.Places, dayplan.Place{ID: string(place), Count: 2})
		}
		var left []int
		for range rapid.IntRange(1, 2).Draw(t, "jobs") {
			l := dirtyJob(t, now)
			d.add(l)
			sum := 0
			for i, st := range l.Steps {
				if st.State == "open" {
					sum += l.Specs[i].Minutes
				}
			}
			left = append(left, sum)
		}
		plan, _, err := d.planned(effort{tries: 40})
		require.NoError(t, err)
		require.Empty(t, dayplan.Check(d.problem, plan))
		assert.Empty(t, plan.NotPlaced)
		for j, job := range d.problem.Jobs {
			attended := 0
			for _, step := range job.Steps {
				attended += int(step.Attended)
				if s := d.stints[[2]string{job.ID, step.ID}]; len(s.steps) > 1 {
					assert.LessOrEqual(t, s.minutes, maxInOneGo)
				}
			}
			assert.Equal(t, left[j], attended, "all that is left, and nothing twice")
		}
	})
}
