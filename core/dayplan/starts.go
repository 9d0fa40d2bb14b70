package dayplan

import (
	"cmp"
	"slices"
)

// Where a search begins: plans by rules that a person could say, each in one order of jobs.

// starts are the plans to begin with; the wall is the last of them, where there is one.
func (s *Solver) starts() []genome {
	if s.near {
		return append([]genome{s.inOneHand(s.by(s.slack), never)}, s.asOnTheWall()...)
	}
	rules := []genome{
		s.by(s.slack),
		s.by(s.oneAfterTheOther(s.work)),
		s.by(s.oneAfterTheOther(func(j int) float64 { return float64(s.jobs[j].promised) })),
		s.by(s.oneAfterTheOther(func(j int) float64 { return float64(s.jobs[j].arrives) })),
		s.by(func(t int) float64 { return -float64(s.tasks[t].tail) }),
	}
	switch {
	case s.large():
		// One mechanic for each bike is where a large day that people follow begins; how soon a job is promised and how short
		// it is count for more or less.
		for _, c := range []float64{0.5, 1, 2, 4, 8} {
			rules = append(rules, s.by(s.oneAfterTheOther(func(j int) float64 { return float64(s.jobs[j].promised) + c*s.work(j) })))
		}
		var all []genome
		for _, g := range rules {
			all = append(all, s.inOneHand(g, 15), s.inOneHand(g, never))
		}
		rules = all
	case s.restful():
		for _, g := range slices.Clone(rules) {
			rules = append(rules, s.inOneHand(g, never))
		}
	}
	return append(rules, s.asOnTheWall()...)
}

// restful reports whether switches or handovers weigh anything.
func (s *Solver) restful() bool {
	return s.problem.Weights.Switch > 0 || s.problem.Weights.Handover > 0
}

// large reports whether a day is too large for its unrest to be found out piece by piece: the search then keeps to plans in
// which it is small from the start.
func (s *Solver) large() bool { return s.restful() && len(s.tasks) > 30 }

// by has tasks go by a key, done by whoever may.
func (s *Solver) by(key func(t int) float64) genome {
	g := newGenome(len(s.tasks), len(s.jobs))
	for t := range s.tasks {
		g.key[t], g.only[t] = key(t), -1
	}
	return g
}

// inOneHand has each job stay with whoever begins it, unless another could go on with it so many minutes sooner, and in one run.
func (s *Solver) inOneHand(g genome, loyal int) genome {
	g = g.clone()
	g.inTime = true
	for j := range s.jobs {
		g.loyal[j], g.run[j] = loyal, true
	}
	return g
}

// oneAfterTheOther has jobs go in order of a measure, and of each job its longest chain first.
func (s *Solver) oneAfterTheOther(measure func(j int) float64) func(t int) float64 {
	order := make([]int, len(s.jobs))
	for j := range order {
		order[j] = j
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(measure(a), measure(b)) })
	at := make([]float64, len(order))
	for i, j := range order {
		at[j] = float64(i)
	}
	return func(t int) float64 { return at[s.tasks[t].job] - float64(s.tasks[t].tail)/1e6 }
}

// work is the minutes that are left of a job, for its weight.
func (s *Solver) work(j int) (sum float64) {
	for _, t := range s.jobs[j].tasks {
		if !s.tasks[t].fixed {
			sum += float64(s.tasks[t].dur)
		}
	}
	return sum / float64(max(s.jobs[j].weight, 1))
}

// slack is when a task must begin at the latest for its job to be done as promised.
func (s *Solver) slack(t int) float64 {
	return float64(s.jobs[s.tasks[t].job].promised - s.tasks[t].tail)
}

// afterTheWall is later than anything on it.
const afterTheWall = 1e7

// asOnTheWall are two plans like the one on the wall: in its order and by the same people; and just as it is, with what is new
// in the time that it leaves.
func (s *Solver) asOnTheWall() []genome {
	if len(s.problem.Previous) == 0 {
		return nil
	}
	again := s.by(func(t int) float64 {
		if from := s.tasks[t].from; from >= 0 {
			return float64(from)
		}
		return s.slack(t)
	})
	for t := range s.tasks {
		if one := &s.tasks[t]; one.from >= 0 && one.by >= 0 && slices.Contains(one.who, one.by) {
			again.only[t] = one.by
		}
	}
	stays := again.clone()
	for t := range s.tasks {
		stays.floor[t] = max(s.tasks[t].from, 0)
		if s.tasks[t].from < 0 {
			stays.key[t] += afterTheWall
		}
	}
	return []genome{again, stays}
}
