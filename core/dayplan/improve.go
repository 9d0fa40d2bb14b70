package dayplan

import (
	"cmp"
	"slices"
)

// first makes plans by several rules and keeps the best of them.
func (s *Solver) first() {
	for _, g := range s.starts() {
		s.here, s.hereCost = g, s.try(g) // the search goes on from the last: the wall, where there is one
	}
	if len(s.problem.Previous) == 0 {
		s.here, s.hereCost = s.best.g, s.energy(s.bestCost)
	}
	s.history = make([]float64, 60)
	for i := range s.history {
		s.history[i] = s.hereCost
	}
}

// try builds a plan, keeps it where it is the best so far, and returns what it costs in one number.
func (s *Solver) try(g genome) float64 {
	b := s.build(g)
	s.built = b
	cost := b.cost()
	energy := s.energy(cost)
	if s.best == nil || cost.Less(s.bestCost, s.problem.Weights) {
		s.best, s.bestCost = s.calmed(b, cost)
	}
	return energy
}

// nearTheWall is what a step that moves weighs in the search, in minutes of finishing: it finds better plans near
// the one on the wall than far from it, whatever a move must be worth in the end.
const nearTheWall = 12

// energy is a cost in one number, in which lateness weighs as much as all that it could be given for.
func (s *Solver) energy(c Cost) float64 {
	return float64(c.NotPlaced)*1e7 + float64(c.WeightedLate)*float64(2+len(s.jobs)) + float64(c.FinishSum+c.Unrest(s.problem.Weights)) + float64(c.Changes)*max(float64(s.problem.Weights.Move), nearTheWall)
}

// Improve tries so many changes to the plan: late acceptance, which takes what is no worse than where the
// search stood a while ago, and goes back to the best now and then.
func (s *Solver) Improve(times int) {
	movable := 0
	for t := range s.tasks {
		if !s.tasks[t].fixed {
			movable++
		}
	}
	if movable < 2 || s.Done() {
		return
	}
	for range times {
		s.iterations++
		g := s.here.clone()
		if s.iterations%400 == 0 {
			g = s.best.g.clone()
		}
		for range 1 + s.chance.IntN(3) {
			s.change(&g)
		}
		energy := s.try(g)
		slot := &s.history[s.iterations%len(s.history)]
		if energy <= s.hereCost || energy <= *slot {
			s.here, s.hereCost = g, energy
			s.noteLate()
		}
		if s.hereCost < *slot {
			*slot = s.hereCost
		}
	}
}

// noteLate notes which jobs are late in the plan that was built last.
func (s *Solver) noteLate() {
	s.late = s.late[:0]
	for j := range s.jobs {
		one := &s.jobs[j]
		for _, t := range one.tasks {
			if s.built.start[t] >= 0 && s.built.end(t) > one.promised && !s.tasks[t].fixed {
				s.late = append(s.late, t)
				break
			}
		}
	}
}

// Done reports whether no plan can be better than the best.
func (s *Solver) Done() bool {
	c, b := s.bestCost, s.lower
	return c.NotPlaced == 0 && c.Changes == 0 && c.Unrest(s.problem.Weights) == 0 && c.WeightedLate == b.WeightedLate && c.FinishSum == b.FinishSum
}

// Best is the best plan so far, in which nothing has moved on the wall that could as well stay.
func (s *Solver) Best() Plan {
	b, cost := s.tidy(s.best, s.bestCost)
	plan := Plan{Cost: cost, Bound: s.lower, Iterations: s.iterations}
	for j, one := range s.problem.Jobs {
		first, finish, whole := len(plan.Steps), 0, len(one.Steps) > 0
		for i, step := range one.Steps {
			t := s.jobs[j].first + i
			if b.start[t] < 0 {
				plan.NotPlaced = append(plan.NotPlaced, NotPlaced{one.ID, step.ID, b.why[t]})
				whole = false
				continue
			}
			plan.Steps = append(plan.Steps, Placed{one.ID, step.ID, b.person(t), Minute(b.start[t]), Minute(b.end(t))})
			finish = max(finish, b.end(t))
		}
		slices.SortStableFunc(plan.Steps[first:], func(a, c Placed) int { return cmp.Compare(a.Start, c.Start) })
		if by := Minutes(finish - s.jobs[j].promised); whole && by > 0 {
			plan.Late = append(plan.Late, Late{one.ID, by, b.binds(j)})
		}
	}
	return plan
}

// person is who does a task; what is fixed keeps the name it came with.
func (b *board) person(t int) string {
	if b.s.tasks[t].fixed {
		return b.s.tasks[t].name
	}
	return b.s.problem.People[b.by[t]].ID
}
