package dayplan

import (
	"cmp"
	"slices"
)

// first makes plans by several rules and keeps the best of them.
func (s *Solver) first() {
	n := len(s.tasks)
	by := func(key func(t int) float64) genome {
		g := genome{make([]float64, n), make([]int, n), make([]int, n), make([]bool, n)}
		for t := range s.tasks {
			g.key[t], g.only[t] = key(t), -1
		}
		return g
	}
	rank := func(less func(a, b int) int) []float64 { // jobs one after the other
		order := make([]int, len(s.jobs))
		for j := range order {
			order[j] = j
		}
		slices.SortStableFunc(order, less)
		at := make([]float64, len(order))
		for i, j := range order {
			at[j] = float64(i)
		}
		return at
	}
	work := func(j int) (sum float64) {
		for _, t := range s.jobs[j].tasks {
			if !s.tasks[t].fixed {
				sum += float64(s.tasks[t].dur)
			}
		}
		return sum / float64(max(s.jobs[j].weight, 1))
	}
	shortest := rank(func(a, b int) int { return cmp.Compare(work(a), work(b)) })
	soonest := rank(func(a, b int) int { return cmp.Compare(s.jobs[a].promised, s.jobs[b].promised) })
	arriving := rank(func(a, b int) int { return cmp.Compare(s.jobs[a].arrives, s.jobs[b].arrives) })
	within := func(jobs []float64) func(t int) float64 { // a job's longest chain first
		return func(t int) float64 { return jobs[s.tasks[t].job] - float64(s.tasks[t].tail)/1e6 }
	}
	slack := func(t int) float64 { return float64(s.jobs[s.tasks[t].job].promised - s.tasks[t].tail) }
	wall := func(t int) float64 {
		if from := s.tasks[t].from; from >= 0 {
			return float64(from)
		}
		return slack(t)
	}
	starts := []genome{by(slack), by(within(shortest)), by(within(soonest)), by(within(arriving)), by(func(t int) float64 { return -float64(s.tasks[t].tail) })}
	if len(s.problem.Previous) > 0 {
		again, stays := by(wall), by(wall)
		for t := range s.tasks {
			if one := &s.tasks[t]; one.from >= 0 && one.by >= 0 && slices.Contains(one.who, one.by) {
				again.only[t], stays.only[t] = one.by, one.by
			}
			stays.floor[t] = max(s.tasks[t].from, 0)
		}
		starts = append(starts, again, stays)
	}
	for _, g := range starts {
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
	cost := b.cost()
	energy := s.energy(cost)
	if s.best == nil || cost.Less(s.bestCost, s.problem.Worth) {
		s.best, s.bestCost = b, cost
	}
	return energy
}

// nearTheWall is what a step that moves weighs in the search, in minutes of finishing: it finds better plans near
// the one on the wall than far from it, whatever a move must be worth in the end.
const nearTheWall = 12

// energy is a cost in one number, in which lateness weighs as much as all that it could be given for.
func (s *Solver) energy(c Cost) float64 {
	return float64(c.NotPlaced)*1e7 + float64(c.WeightedLate)*float64(2+len(s.jobs)) + float64(c.FinishSum) + float64(c.Changes)*max(float64(s.problem.Worth), nearTheWall)
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
		}
		if s.hereCost < *slot {
			*slot = s.hereCost
		}
	}
}

// Done reports whether no plan can be better than the best.
func (s *Solver) Done() bool {
	c, b := s.bestCost, s.lower
	return c.NotPlaced == 0 && c.Changes == 0 && c.WeightedLate == b.WeightedLate && c.FinishSum == b.FinishSum
}

// change alters a genome a little.
func (s *Solver) change(g *genome) {
	t := s.anyTask()
	one := &s.tasks[t]
	moves := 12
	if len(s.problem.Previous) > 0 {
		moves = 15
	}
	switch s.chance.IntN(moves) {
	case 0, 1, 2: // just before or after another
		other := s.anyTask()
		g.key[t] = g.key[other] + (s.chance.Float64()-0.5)*1e-3
	case 3, 4: // a whole job sooner or later, by what another's task stands at
		by := g.key[s.anyTask()] - g.key[t]
		for _, k := range s.jobs[one.job].tasks {
			g.key[k] += by
		}
	case 5: // two jobs change places
		other := s.jobs[s.tasks[s.anyTask()].job]
		mine := s.jobs[one.job]
		by := g.key[other.tasks[0]] - g.key[mine.tasks[0]]
		for _, k := range mine.tasks {
			g.key[k] += by
		}
		for _, k := range other.tasks {
			g.key[k] -= by
		}
	case 6: // what comes after a task in its job, sooner or later
		by := (s.chance.Float64() - 0.5) * 120
		for k := range s.reach(t) {
			g.key[k] += by
		}
	case 7, 8: // somebody else
		if len(one.who) > 1 {
			g.only[t] = one.who[s.chance.IntN(len(one.who))]
			if s.chance.IntN(3) == 0 {
				g.only[t] = -1
			}
		}
	case 9: // lets another by that is in its way
		other := s.anyTask()
		g.floor[t] = 0
		if b := s.best; b.start[other] >= 0 && s.chance.IntN(2) == 0 {
			g.floor[t] = b.end(other)
		}
	case 10: // in spite of what presses
		g.calm[t] = !g.calm[t]
	default: // a job, or one task of it, back to where it is on the wall; or set free of it
		tasks := s.jobs[one.job].tasks
		if s.chance.IntN(2) == 0 {
			tasks = []int{t}
		}
		back := s.chance.IntN(3) > 0
		for _, k := range tasks {
			g.floor[k] = 0
			if back {
				s.toTheWall(*g, k)
			}
		}
	}
}

// anyTask draws one that is not fixed.
func (s *Solver) anyTask() int {
	for {
		if t := s.chance.IntN(len(s.tasks)); !s.tasks[t].fixed {
			return t
		}
	}
}

// toTheWall asks for a task to stand where it does on the wall, if it does and whoever has it there may still do it.
func (s *Solver) toTheWall(g genome, t int) {
	if one := &s.tasks[t]; one.from >= 0 && slices.Contains(one.who, one.by) {
		g.floor[t], g.key[t], g.only[t] = one.from, float64(one.from), one.by
	}
}

// Best is the best plan so far, in which nothing has moved on the wall that could as well stay.
func (s *Solver) Best() Plan {
	b, cost := s.tidy()
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
