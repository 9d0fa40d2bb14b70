package dayplan

import (
	"cmp"
	"slices"
)

// bound is what no plan can be better than. Each job is finished no sooner than if it had every person and place to itself.
// Besides, of k jobs that are finished the hands of all people together did at least the work of the k
// smallest: the k-th job to finish is finished no sooner than that takes.
func (s *Solver) bound() Bound {
	var b Bound
	var alone, work []int
	for j := range s.jobs {
		one := &s.jobs[j]
		if len(one.tasks) == 0 {
			continue
		}
		finish, hands, ever := s.alone(j)
		if !ever {
			return Bound{} // a plan that leaves this job out may have no cost at all
		}
		b.WeightedLate += Minutes(max(finish-one.promised, 0) * one.weight)
		alone, work = append(alone, finish), append(work, hands)
	}
	slices.Sort(alone)
	slices.Sort(work)
	done := 0
	for k := range alone {
		done += work[k]
		b.FinishSum += Minutes(max(alone[k], s.after(done)))
	}
	return b
}

// alone is when a job would be finished with every person and place to itself, and how much of its work is
// still to do; ever is false where its people's hours end before.
func (s *Solver) alone(j int) (finish, hands int, ever bool) {
	ends := map[int]int{}
	for _, t := range s.jobs[j].tasks {
		one := &s.tasks[t]
		at := one.from
		if !one.fixed {
			at = max(int(s.problem.Now), s.jobs[j].arrives, one.at)
			for _, l := range one.before {
				at = max(at, ends[l.task]+l.least)
			}
			soonest := never
			for _, p := range one.who {
				for _, h := range s.people[p].hours {
					if start := max(at, int(h.From)); start+one.dur <= int(h.To) {
						soonest = min(soonest, start)
					}
				}
			}
			if at = soonest; at == never || one.stopped != "" {
				return 0, 0, false
			}
			hands += one.dur
		}
		ends[t] = at + one.dur
		finish = max(finish, ends[t])
	}
	return finish, hands, true
}

// after is the first minute at which all people together can have worked so long from now on.
func (s *Solver) after(work int) int {
	if work == 0 {
		return 0
	}
	type turn struct{ at, by int }
	var turns []turn
	for _, p := range s.people {
		for _, h := range p.hours {
			if from := max(h.From, s.problem.Now); from < h.To {
				turns = append(turns, turn{int(from), 1}, turn{int(h.To), -1})
			}
		}
	}
	slices.SortFunc(turns, func(a, b turn) int { return cmp.Compare(a.at, b.at) })
	people, at := 0, 0
	for _, t := range turns {
		if people > 0 {
			if can := people * (t.at - at); can >= work {
				return at + (work+people-1)/people
			} else {
				work -= can
			}
		}
		people, at = people+t.by, t.at
	}
	return at
}
