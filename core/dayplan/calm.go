package dayplan

import (
	"cmp"
	"slices"
)

// calmed is a plan with work on one bike put together wherever that costs less: somebody who is at a bike, then at others
// and then at that one again does the others before both, or after both. A search by chance rarely comes by what takes so many
// steps at once, and on a crowded day the minutes that it finds for promises leave it no time to.
func (s *Solver) calmed(b *board, cost Cost) (*board, Cost) {
	if !s.restful() || s.near {
		return b, cost
	}
	for again := true; again; { // what was put together may go together with more
		again = false
		for p := range s.people {
			for i := 0; ; i++ {
				first, between, then := b.apart(p, i)
				if first == nil {
					break
				}
				for _, late := range []bool{true, false} {
					if c := b.together(first, between, then, late); c != nil && c.cost().Less(cost, s.problem.Weights) {
						b, cost, again = c, c.cost(), true
						break
					}
				}
			}
		}
	}
	return b, cost
}

// apart are, from the nth time on that a person is at a bike, the tasks of that time, of the next time at it, and what is done
// between the two; nil where the bike is not come back to.
func (b *board) apart(p, nth int) (first, between, then []int) {
	var line []int
	for t := range b.s.tasks {
		if one := &b.s.tasks[t]; b.start[t] >= 0 && one.dur > 0 && !one.fixed && b.by[t] == p {
			line = append(line, t)
		}
	}
	slices.SortFunc(line, func(x, y int) int { return cmp.Compare(b.start[x], b.start[y]) })
	job := func(i int) int { return b.s.tasks[line[i]].job }
	times := [][]int{} // that they are at a bike
	for i := range line {
		if i == 0 || job(i) != job(i-1) {
			times = append(times, nil)
		}
		times[len(times)-1] = append(times[len(times)-1], line[i])
	}
	for ; nth < len(times); nth++ {
		of := b.s.tasks[times[nth][0]].job
		for k := nth + 2; k < len(times); k++ {
			if b.s.tasks[times[k][0]].job == of {
				return times[nth], slices.Concat(times[nth+1 : k]...), times[k]
			}
		}
	}
	return nil, nil, nil
}

// together is the plan with the first done right before then, or then right after the first, and what is between moved as little
// as makes room for that; nil where that breaks a rule.
func (b *board) together(first, between, then []int, late bool) *board {
	c := b.clone()
	from, until := c.start[between[0]], c.end(between[len(between)-1])
	var by, others int
	if late {
		end := c.end(first[len(first)-1])
		by = c.start[then[0]] - end
		others = min(c.start[then[0]]-(end-c.start[first[0]])-until, 0)
		then = nil
	} else {
		length := c.end(then[len(then)-1]) - c.start[then[0]]
		end := c.end(first[len(first)-1])
		by = end - c.start[then[0]]
		others = max(end+length-from, 0)
		first = nil
	}
	moved := slices.Concat(first, then, between)
	for _, t := range moved {
		c.release(t)
	}
	for i, t := range moved {
		c.lead[t] = 0
		if i < len(first)+len(then) {
			c.start[t] += by
		} else {
			c.start[t] += others
		}
		one := &c.s.tasks[t]
		if c.start[t] < max(int(c.s.problem.Now), c.s.jobs[one.job].arrives, one.at) || one.pinned || c.free(c.by[t], c.start[t], one.dur) != c.start[t] {
			return nil
		}
		c.occupy(t)
	}
	for _, t := range moved {
		c.takePlaces(t)
	}
	for _, t := range moved {
		if !c.inTime(t, c.start[t]) || slices.ContainsFunc(c.s.tasks[t].holds, func(h int) bool { return c.from[h] >= 0 && c.full(h, c.from[h], c.until[h]) != nil }) {
			return nil
		}
	}
	return c
}
