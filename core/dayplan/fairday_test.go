package dayplan_test

import (
	"cmp"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/core/dayplan"
)

// day is a day as shops have them, or several where there are more bikes than a day is for: bikes that come in the morning
// for a wash, a chain bath, a deep clean or a strip, three mechanics who can do all of it, an apprentice's share of washing, two or three stands.
func day(seed uint64, jobs int) dayplan.Problem {
	chance := rand.New(rand.NewPCG(seed, uint64(jobs)))
	in := func(lo, hi int) int { return lo + chance.IntN(hi-lo+1) }
	all := []string{"wash", "drivetrain"}
	var p dayplan.Problem
	for i := range 3 {
		person := dayplan.Person{ID: fmt.Sprint("mechanic", i), Skills: all}
		for d := range max(2, 1+jobs/6) {
			at := dayplan.Minute(d * 24 * 60)
			person.Hours = append(person.Hours, dayplan.Stretch{From: at + 480, To: at + 720}, dayplan.Stretch{From: at + 750, To: at + 1050})
		}
		p.People = append(p.People, person)
	}
	p.Places = []dayplan.Place{{ID: "stand", Count: 3}, {ID: "tub", Count: 2}, {ID: "rack", Count: 4}}
	p.Now, p.Weights = 480, dayplan.Usual
	ten := dayplan.Minutes(10)
	hour := dayplan.Minutes(60)
	for j := range jobs {
		arrives := 480 + in(0, min(jobs, 24))*10 + j/25*24*60 // more than a day's work comes on several
		job := dayplan.Job{ID: fmt.Sprintf("J%02d", j), Arrives: dayplan.Minute(arrives), Promised: dayplan.Minute(arrives + in(120, 480)), Weight: 1 + 2*(in(0, 5)/5)}
		step := func(id, skill string, lo, hi int, after ...dayplan.Lag) {
			job.Steps = append(job.Steps, dayplan.Step{ID: id, Skill: skill, Attended: dayplan.Minutes(in(lo, hi)), After: after})
		}
		if deep := in(0, 2); deep > 0 {
			step("intake", "wash", 5, 8)
			step("chain-off", "drivetrain", 8, 15, dayplan.Lag{Step: "intake"})
			step("cleaner", "wash", 3, 5, dayplan.Lag{Step: "chain-off"})
			step("rinse", "wash", 6, 12, dayplan.Lag{Step: "cleaner", Least: 5, Most: &ten})
			step("chain-out", "drivetrain", 5, 10, dayplan.Lag{Step: "chain-off", Least: dayplan.Minutes(20 + 100*(deep-1))})
			step("dry", "drivetrain", 3, 5, dayplan.Lag{Step: "chain-out"})
			step("fit", "drivetrain", 8, 15, dayplan.Lag{Step: "dry", Least: 20, Most: &hour}, dayplan.Lag{Step: "rinse"})
			step("finish", "drivetrain", 8, 12, dayplan.Lag{Step: "fit"})
			job.Holds = []dayplan.Hold{{Place: "stand", From: "chain-off", To: "rinse", Through: true}, {Place: "tub", From: "chain-out", To: "dry"},
				{Place: "rack", From: "dry", To: "fit"}, {Place: "stand", From: "fit", To: "finish", Through: true}}
		} else {
			step("intake", "wash", 3, 6)
			step("cleaner", "wash", 3, 5, dayplan.Lag{Step: "intake"})
			step("rinse", "wash", 6, 12, dayplan.Lag{Step: "cleaner", Least: 5, Most: &ten})
			step("chain", "drivetrain", 6, 12, dayplan.Lag{Step: "rinse"})
			step("finish", "drivetrain", 5, 10, dayplan.Lag{Step: "chain", Least: 15})
			job.Holds = []dayplan.Hold{{Place: "stand", From: "cleaner", To: "chain", Through: true}}
		}
		p.Jobs = append(p.Jobs, job)
	}
	return p
}

// inTurn is the day of a shop without a plan: bikes as they come, each by the mechanic who is free first, who
// stays with it from beginning to end and stands by while it soaks. Nobody minds whether a place is free.
func inTurn(p dayplan.Problem) (finishSum dayplan.Minutes) {
	free := make([]dayplan.Minute, len(p.People))
	jobs := slices.Clone(p.Jobs)
	slices.SortStableFunc(jobs, func(a, b dayplan.Job) int { return cmp.Compare(a.Arrives, b.Arrives) })
	for _, job := range jobs {
		who := 0
		for i := range free {
			if free[i] < free[who] {
				who = i
			}
		}
		at := max(free[who], job.Arrives, p.Now)
		ends := map[string]dayplan.Minute{}
		for _, step := range job.Steps {
			for _, l := range step.After {
				at = max(at, ends[l.Step]+dayplan.Minute(l.Least))
			}
			for _, h := range p.People[who].Hours {
				if start := max(at, h.From); start+dayplan.Minute(step.Attended) <= h.To {
					at = start
					break
				}
			}
			at += dayplan.Minute(step.Attended)
			ends[step.ID] = at
		}
		free[who] = at
		finishSum += dayplan.Minutes(at)
	}
	return finishSum
}

// A planned day of 25 jobs is finished a fifth sooner, all jobs together, than one worked in turn.
func TestAPlannedDayIsFinishedSooner(t *testing.T) {
	for seed := range uint64(5) {
		p := day(seed, 25)
		plan := solved(t, p, 100)
		require.Empty(t, dayplan.Check(p, plan))
		require.Empty(t, plan.NotPlaced)
		fromOpening := func(sum dayplan.Minutes) float64 { return float64(sum) - 480*25 }
		assert.LessOrEqual(t, fromOpening(plan.Cost.FinishSum), 0.8*fromOpening(inTurn(p)), "day %d: minutes from when the shop opens", seed)
	}
}

// What a first plan takes, what comes of ten seconds more, and how both stand to the bound and to a day that
// is worked in turn.
func BenchmarkDay(b *testing.B) {
	for _, jobs := range []int{5, 10, 25, 60} {
		b.Run(fmt.Sprint(jobs, " jobs"), func(b *testing.B) {
			for n := 0; b.Loop(); n++ {
				p := day(uint64(n), jobs)
				began := time.Now()
				s, err := dayplan.New(p, 1)
				if err != nil {
					b.Fatal(err)
				}
				first := time.Since(began)
				if n > 0 { // ten seconds of the first day are enough
					continue
				}
				finish := func(sum dayplan.Minutes) float64 { return float64(sum)/float64(jobs) - 480 }
				type stand struct {
					after time.Duration
					cost  dayplan.Cost
				}
				stands := []stand{{first, s.Best().Cost}}
				for time.Since(began) < 10*time.Second {
					s.Improve(10)
					if c := s.Best().Cost; c.Less(stands[len(stands)-1].cost, p.Weights) {
						stands = append(stands, stand{time.Since(began), c})
					}
				}
				last := s.Best()
				within := stands[slices.IndexFunc(stands, func(s stand) bool {
					return s.cost.NotPlaced == last.Cost.NotPlaced && float64(s.cost.WeightedLate) <= 1.01*float64(last.Cost.WeightedLate) && float64(s.cost.FinishSum) <= 1.01*float64(last.Cost.FinishSum)
				})].after
				b.ReportMetric(float64(first.Microseconds())/1000, "first-ms")
				b.ReportMetric(within.Seconds()*1000, "within-1%-ms")
				b.ReportMetric(finish(stands[0].cost.FinishSum), "first-min/job")
				b.ReportMetric(finish(last.Cost.FinishSum), "ten-s-min/job")
				b.ReportMetric(finish(last.Bound.FinishSum), "bound-min/job")
				b.ReportMetric(finish(inTurn(p)), "in-turn-min/job")
				b.ReportMetric(float64(last.Cost.WeightedLate), "late-min")
				b.ReportMetric(float64(last.Bound.WeightedLate), "late-bound-min")
				calm, restless := bothWays(b, jobs, 3, 500)
				b.ReportMetric(float64(median(calm.people)), "people/job")
				b.ReportMetric(calm.byMany(), "jobs-by-many")
				b.ReportMetric(float64(median(calm.runs)), "min-in-one-go")
				b.ReportMetric(float64(calm.finish)/float64(restless.finish), "finish/without-weights")
				b.ReportMetric(float64(calm.late)/float64(max(restless.late, 1)), "late/without-weights")
				b.ReportMetric(float64(calm.cost.Switches)/3, "switches")
				b.ReportMetric(float64(calm.cost.Handovers)/3, "handovers")
			}
		})
	}
}
