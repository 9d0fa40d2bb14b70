package dayplan_test

import (
	"cmp"
	"fmt"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/core/dayplan"
)

// followed is how well people can go by the plans of some days.
type followed struct {
	people  []int // that each job is given to
	runs    []int // minutes that a person works on one bike in one go
	finish  dayplan.Minutes
	late    dayplan.Minutes
	cost    dayplan.Cost
	opening dayplan.Minutes // what the sum of finishing would be, were everything done as the shop opens
}

func (f *followed) add(p dayplan.Problem, plan dayplan.Plan) {
	hands := map[string]dayplan.Minutes{}
	who := map[string]map[string]bool{}
	byPerson := map[string][]dayplan.Placed{}
	for _, s := range plan.Steps {
		if s.End == s.Start {
			continue
		}
		hands[s.Job] += dayplan.Minutes(s.End - s.Start)
		if who[s.Job] == nil {
			who[s.Job] = map[string]bool{}
		}
		who[s.Job][s.Person] = true
		byPerson[s.Person] = append(byPerson[s.Person], s)
	}
	for _, people := range who {
		f.people = append(f.people, len(people))
	}
	for _, steps := range byPerson {
		slices.SortFunc(steps, func(a, b dayplan.Placed) int { return cmp.Compare(a.Start, b.Start) })
		for i := 0; i < len(steps); {
			run, k := 0, i
			for ; k < len(steps) && steps[k].Job == steps[i].Job && (k == i || steps[k].Start-steps[k-1].End <= 5); k++ {
				run += int(steps[k].End - steps[k].Start)
			}
			if hands[steps[i].Job] >= 15 {
				f.runs = append(f.runs, run)
			}
			i = k
		}
	}
	f.finish += plan.Cost.FinishSum
	f.late += plan.Cost.WeightedLate
	f.cost.Switches += plan.Cost.Switches
	f.cost.Handovers += plan.Cost.Handovers
	f.opening += 480 * dayplan.Minutes(len(p.Jobs))
}

func median(of []int) int {
	slices.Sort(of)
	return of[len(of)/2]
}

// byMany is the share of jobs that more than two people are at.
func (f *followed) byMany() float64 {
	n := 0
	for _, people := range f.people {
		if people > 2 {
			n++
		}
	}
	return float64(n) / float64(len(f.people))
}

// bothWays plans seeded days with what unrest weighs, and with nothing for it.
func bothWays(t require.TestingT, jobs, days, iterations int) (calm, restless followed) {
	for seed := range uint64(days) {
		p := day(seed, jobs)
		plan := solved(t, p, iterations)
		require.Empty(t, dayplan.Check(p, plan))
		calm.add(p, plan)
		p.Weights = dayplan.Weights{}
		restless.add(p, solved(t, p, iterations))
	}
	return calm, restless
}

// A plan is followed where one mechanic keeps a bike and works on in one go; that costs little of when bikes are finished,
// and no promise (handbook: dayplan).
func TestPlansAreFollowed(t *testing.T) {
	sizes := map[int]int{5: 3000, 10: 3000, 25: 400}
	if os.Getenv("PONY_TEST_FULL") != "" {
		sizes[60] = 1000
	}
	for jobs, iterations := range sizes {
		calm, restless := bothWays(t, jobs, 10, iterations)
		about := fmt.Sprintf("%d jobs: %+v, without weights %+v", jobs, calm.cost, restless.cost)
		assert.Equal(t, 1, median(calm.people), about)
		assert.LessOrEqual(t, calm.byMany(), 0.25, about)
		assert.GreaterOrEqual(t, median(calm.runs), 15, about)
		assert.LessOrEqual(t, float64(calm.finish), 1.05*float64(restless.finish), about)
		assert.LessOrEqual(t, calm.late, restless.late, about)
		t.Logf("%s; people %d, by many %.2f, in one go %d, finished %.3f of without (%.3f from opening), late %d for %d", about, median(calm.people), calm.byMany(), median(calm.runs),
			float64(calm.finish)/float64(restless.finish), float64(calm.finish-calm.opening)/float64(restless.finish-restless.opening), calm.late, restless.late)
	}
}
