package dayplan_test

import (
	"cmp"
	"flag"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/dayplan"
)

var skills = []string{"wash", "drivetrain"}

// drawn is any problem: steps in a partial order, waits with and without limits, places held, breaks, steps
// begun, and a plan on the wall.
func drawn(t *rapid.T) dayplan.Problem {
	in := func(name string, lo, hi int) int { return rapid.IntRange(lo, hi).Draw(t, name) }
	p := dayplan.Problem{Now: dayplan.Minute(in("now", 0, 30)), Weights: dayplan.Weights{Switch: dayplan.Minutes(in("switch", 0, 6)), Handover: dayplan.Minutes(in("handover", 0, 12)), Move: dayplan.Minutes(in("move", 0, 10))}}
	for i := range in("people", 1, 3) {
		person := dayplan.Person{ID: fmt.Sprint("p", i), Skills: skills[:1+in("skills", 0, 1)]}
		at := 0
		for range in("stretches", 1, 3) {
			from := at + in("break", 0, 60)
			at = from + in("stretch", 20, 200)
			person.Hours = append(person.Hours, dayplan.Stretch{From: dayplan.Minute(from), To: dayplan.Minute(at)})
		}
		p.People = append(p.People, person)
	}
	for i := range in("places", 0, 2) {
		p.Places = append(p.Places, dayplan.Place{ID: fmt.Sprint("place", i), Count: in("count", 0, 2)})
	}
	for j := range in("jobs", 1, 6) {
		job := dayplan.Job{ID: fmt.Sprint("J", j), Arrives: dayplan.Minute(in("arrives", 0, 60)), Promised: dayplan.Minute(in("promised", 30, 400)), Weight: 1 + 2*in("waits", 0, 1)}
		for i := range in("steps", 1, 6) {
			step := dayplan.Step{ID: fmt.Sprint("s", i), Skill: skills[in("skill", 0, 1)], Attended: dayplan.Minutes(in("attended", 0, 40))}
			if in("pinned", 0, 7) == 0 {
				step.At = dayplan.Minute(in("at", 1, 300))
			}
			for k := range i {
				if in("follows", 0, 2) > 0 {
					continue
				}
				lag := dayplan.Lag{Step: fmt.Sprint("s", k), Least: dayplan.Minutes(in("least", 0, 30))}
				if in("limited", 0, 3) == 0 {
					most := lag.Least + dayplan.Minutes(in("most", 0, 30))
					lag.Most = &most
				}
				step.After = append(step.After, lag)
			}
			job.Steps = append(job.Steps, step)
		}
		for range in("holds", 0, 2) {
			if len(p.Places) == 0 {
				break
			}
			from := in("from", 0, len(job.Steps)-1)
			to := from
			for k := from + 1; k < len(job.Steps); k++ { // down a chain of steps, for as far as the draw goes
				if slices.ContainsFunc(job.Steps[k].After, func(l dayplan.Lag) bool { return l.Step == job.Steps[to].ID }) && rapid.Bool().Draw(t, "on") {
					to = k
				}
			}
			job.Holds = append(job.Holds, dayplan.Hold{Place: p.Places[in("place", 0, len(p.Places)-1)].ID, From: job.Steps[from].ID,
				To: job.Steps[to].ID, Through: rapid.Bool().Draw(t, "through")})
		}
		p.Jobs = append(p.Jobs, job)
	}
	if rapid.Bool().Draw(t, "later") { // some of a plan has come to pass, and not as it was planned
		plan := solved(t, p, 0)
		p.Previous = plan.Steps
		p.Now += dayplan.Minute(in("passed", 0, 120))
		for _, s := range plan.Steps {
			if s.Start >= p.Now {
				continue
			}
			s.Start += dayplan.Minute(in("begun late", 0, 1) * in("by", 0, 5))
			for _, job := range p.Jobs {
				for i := range job.Steps {
					if job.ID == s.Job && job.Steps[i].ID == s.Step {
						job.Steps[i].Attended += dayplan.Minutes(in("overran", 0, 1) * in("for", 0, 20))
					}
				}
			}
			p.Fixed = append(p.Fixed, s)
		}
		if len(p.People) > 1 && in("goes", 0, 4) == 0 {
			p.People = p.People[1:]
		}
	}
	return p
}

func solved(t require.TestingT, p dayplan.Problem, iterations int) dayplan.Plan {
	s, err := dayplan.New(p, 1)
	require.NoError(t, err)
	s.Improve(iterations)
	return s.Best()
}

// inVain are the steps of a plan that moved from where they were on the wall, and that could each be put back there with
// no rule broken and no job finished later.
func inVain(p dayplan.Problem, plan dayplan.Plan) (all []dayplan.Placed) {
	for _, was := range p.Previous {
		i := slices.IndexFunc(plan.Steps, func(s dayplan.Placed) bool { return s.Job == was.Job && s.Step == was.Step })
		if i < 0 || plan.Steps[i].Start == was.Start && plan.Steps[i].Person == was.Person {
			continue
		}
		if plan.Steps[i].Start == plan.Steps[i].End { // what takes no time is not held to have room beside others
			continue
		}
		back := plan
		back.Cost.Changes--
		back.Steps = slices.Clone(plan.Steps)
		back.Steps[i].Start, back.Steps[i].Person = was.Start, was.Person
		back.Steps[i].End = was.Start + plan.Steps[i].End - plan.Steps[i].Start
		slices.SortStableFunc(back.Steps, func(a, b dayplan.Placed) int {
			job := func(s dayplan.Placed) int {
				return slices.IndexFunc(p.Jobs, func(j dayplan.Job) bool { return j.ID == s.Job })
			}
			return cmp.Or(cmp.Compare(job(a), job(b)), cmp.Compare(a.Start, b.Start))
		})
		if len(dayplan.Check(p, back)) == 0 { // which says as well that it costs no more
			all = append(all, was)
		}
	}
	return all
}

// Whatever the day is like, what the solver says can be done: no rule is broken, and what finds no place is named.
func TestEveryPlanKeepsTheRules(t *testing.T) {
	checks := flag.Lookup("rapid.checks")
	if asked := checks.Value.String(); asked == checks.DefValue { // a hundred days are few
		require.NoError(t, checks.Value.Set("3000"))
		defer func() { require.NoError(t, checks.Value.Set(asked)) }()
	}
	rapid.Check(t, func(t *rapid.T) {
		p := drawn(t)
		s, err := dayplan.New(p, 1)
		require.NoError(t, err)
		first := s.Best()
		require.Empty(t, dayplan.Check(p, first), "%+v\n%+v", p, first)
		s.Improve(60)
		better := s.Best()
		require.Empty(t, dayplan.Check(p, better))
		assert.False(t, first.Cost.Less(better.Cost, p.Weights), "it got worse")
		assert.Empty(t, inVain(p, better), "steps that could as well have stayed where they were on the wall")
		again := solved(t, p, 60)
		assert.Equal(t, better, again, "the same seed and iterations")
	})
}
