package dayplan_test

import (
	"cmp"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/core/dayplan"
)

// small is a problem that can be solved by trying everything.
func small(chance *rand.Rand) dayplan.Problem {
	in := func(lo, hi int) int { return lo + chance.IntN(hi-lo+1) }
	p := dayplan.Problem{Weights: dayplan.Usual}
	for i := range in(1, 2) {
		from := in(0, 2)
		middle := from + in(3, 6)
		p.People = append(p.People, dayplan.Person{ID: fmt.Sprint("p", i), Skills: skills[:2-i*in(0, 1)],
			Hours: []dayplan.Stretch{{From: dayplan.Minute(from), To: dayplan.Minute(middle)}, {From: dayplan.Minute(middle + in(1, 3)), To: 22}}})
	}
	p.Places = []dayplan.Place{{ID: "stand", Count: 1}}
	left := 6
	for j := 0; j < 3 && left > 0; j++ {
		job := dayplan.Job{ID: fmt.Sprint("J", j), Arrives: dayplan.Minute(in(0, 3)), Promised: dayplan.Minute(in(4, 14)), Weight: 1 + 2*in(0, 1)}
		n := min(in(1, 3), left)
		left -= n
		for i := range n {
			step := dayplan.Step{ID: fmt.Sprint("s", i), Skill: skills[in(0, 1)], Attended: dayplan.Minutes(in(1, 3))}
			if i > 0 {
				lag := dayplan.Lag{Step: fmt.Sprint("s", in(0, i-1)), Least: dayplan.Minutes(in(0, 3))}
				if in(0, 2) == 0 {
					most := lag.Least + dayplan.Minutes(in(0, 2))
					lag.Most = &most
				}
				step.After = append(step.After, lag)
			}
			job.Steps = append(job.Steps, step)
		}
		if last := job.Steps[n-1]; n > 1 && last.After[0].Step == "s0" && in(0, 1) == 0 {
			job.Holds = append(job.Holds, dayplan.Hold{Place: "stand", From: "s0", To: last.ID, Through: true})
		}
		p.Jobs = append(p.Jobs, job)
	}
	return p
}

// oracle tries every person and every minute for every step, and returns the least cost at which all of them
// can be placed; ever is false where they cannot.
type oracle struct {
	p         dayplan.Problem
	steps     []dayplan.Placed // in order of jobs and steps: each follows only earlier ones
	best      dayplan.Cost
	bestSteps []dayplan.Placed
	ever      bool
}

func (o *oracle) solve() {
	o.try(0, 0, dayplan.Cost{})
}

func (o *oracle) try(j, i int, c dayplan.Cost) {
	if o.ever && !c.Less(o.best, o.p.Weights) {
		return
	}
	if j == len(o.p.Jobs) {
		plan := dayplan.Plan{Steps: o.steps}
		for _, v := range dayplan.Check(o.p, plan) {
			if v.Code != "order" && v.Code != "cost" && v.Code != "late" {
				return
			}
		}
		c.Switches, c.Handovers = turns(o.p, o.steps)
		if !o.ever || c.Less(o.best, o.p.Weights) {
			o.best, o.ever, o.bestSteps = c, true, slices.Clone(o.steps)
		}
		return
	}
	job := o.p.Jobs[j]
	if i == len(job.Steps) {
		var finish dayplan.Minute
		for _, s := range o.steps[len(o.steps)-i:] {
			finish = max(finish, s.End)
		}
		c.FinishSum += dayplan.Minutes(finish)
		c.WeightedLate += dayplan.Minutes(max(finish-job.Promised, 0)) * dayplan.Minutes(job.Weight)
		o.try(j+1, 0, c)
		return
	}
	step := job.Steps[i]
	from, to := job.Arrives, dayplan.Minute(22)
	for _, l := range step.After {
		for _, s := range o.steps {
			if s.Job == job.ID && s.Step == l.Step {
				from = max(from, s.End+dayplan.Minute(l.Least))
				if l.Most != nil {
					to = min(to, s.End+dayplan.Minute(*l.Most))
				}
			}
		}
	}
	for _, person := range o.p.People {
		if !slices.Contains(person.Skills, step.Skill) {
			continue
		}
		for _, h := range person.Hours {
			for at := max(from, h.From); at <= to && at+dayplan.Minute(step.Attended) <= h.To; at++ {
				s := dayplan.Placed{Job: job.ID, Step: step.ID, Person: person.ID, Start: at, End: at + dayplan.Minute(step.Attended)}
				if o.busy(s) {
					continue
				}
				o.steps = append(o.steps, s)
				o.try(j, i+1, c)
				o.steps = o.steps[:len(o.steps)-1]
			}
		}
	}
}

// turns counts switches and handovers step by step, by looking at all others for each.
func turns(p dayplan.Problem, steps []dayplan.Placed) (switches, handovers int) {
	sooner := func(a, b int) bool {
		return cmp.Or(cmp.Compare(steps[a].Start, steps[b].Start), cmp.Compare(steps[a].End, steps[b].End), cmp.Compare(a, b)) < 0
	}
	last := func(i int, same func(k int) bool) int {
		found := -1
		for k := range steps {
			if k != i && same(k) && sooner(k, i) && (found < 0 || sooner(found, k)) {
				found = k
			}
		}
		return found
	}
	for i, s := range steps {
		if k := last(i, func(k int) bool { return steps[k].Job == s.Job }); k >= 0 && steps[k].Person != s.Person {
			handovers++
		}
		if k := last(i, func(k int) bool { return steps[k].Person == s.Person }); k >= 0 && steps[k].Job != s.Job && couldStay(p, steps, steps[k]) {
			switches++
		}
	}
	return switches, handovers
}

func couldStay(p dayplan.Problem, steps []dayplan.Placed, left dayplan.Placed) bool {
	who := p.People[slices.IndexFunc(p.People, func(x dayplan.Person) bool { return x.ID == left.Person })]
	for _, h := range who.Hours {
		if h.From <= left.End && left.End <= h.To && h.To-left.End <= 5 {
			return false
		}
	}
	job := p.Jobs[slices.IndexFunc(p.Jobs, func(j dayplan.Job) bool { return j.ID == left.Job })]
	ends := map[string]dayplan.Placed{}
	for _, s := range steps {
		if s.Job == job.ID {
			ends[s.Step] = s
		}
	}
	return slices.ContainsFunc(job.Steps, func(s dayplan.Step) bool {
		return ends[s.ID].Start >= left.End && slices.Contains(who.Skills, s.Skill) && !slices.ContainsFunc(s.After, func(l dayplan.Lag) bool { return ends[l.Step].End+dayplan.Minute(l.Least) > left.End+5 })
	})
}

func (o *oracle) busy(s dayplan.Placed) bool {
	for _, other := range o.steps {
		if other.Person == s.Person && other.Start < s.End && s.Start < other.End {
			return true
		}
	}
	return false
}

// Small days are solved as well as they can be: at least 95 in a hundred to the optimum, none worse by more
// than a twentieth.
func TestSmallDaysAreSolved(t *testing.T) {
	chance := rand.New(rand.NewPCG(7, 1))
	solvable, optimal := 0, 0
	days := 100
	if os.Getenv("PONY_TEST_FULL") != "" {
		days = 250
	}
	for n := range days {
		p := small(chance)
		o := oracle{p: p}
		o.solve()
		plan := solved(t, p, 4000)
		require.Empty(t, dayplan.Check(p, plan), "%+v", p)
		if !o.ever {
			assert.NotEmpty(t, plan.NotPlaced, "day %d cannot be done at all", n)
			continue
		}
		solvable++
		got, best := plan.Cost, o.best
		if !best.Less(got, p.Weights) {
			optimal++
			continue
		}
		assert.Zero(t, got.NotPlaced, "day %d: %+v", n, p)
		worse := float64(got.WeightedLate) > 1.05*float64(best.WeightedLate) || got.WeightedLate == best.WeightedLate && float64(got.FinishSum+got.Unrest(p.Weights)) > 1.05*float64(best.FinishSum+best.Unrest(p.Weights))
		assert.False(t, worse, "day %d: %+v for %+v", n, got, best)
		t.Logf("day %d: %+v for %+v", n, got, best)
	}
	assert.Greater(t, solvable, days*4/5)
	assert.GreaterOrEqual(t, float64(optimal), 0.95*float64(solvable), "%d of %d", optimal, solvable)
	t.Logf("%d of %d", optimal, solvable)
}
