package dayplan

import (
	"cmp"
	"slices"
)

// tidy is a plan with every task back where it stands on the wall that can stand there with no rule broken and
// nothing lost: a search by chance moves some in vain.
func (s *Solver) tidy(b *board, cost Cost) (*board, Cost) {
	var moved []int
	for t := range s.tasks {
		if b.moved(t) {
			moved = append(moved, t)
		}
	}
	if len(moved) == 0 {
		return b, cost
	}
	b = b.clone()
	for t := range s.tasks { // short whiles at a bike are free for what stood in them
		if b.lead[t] > 0 {
			b.release(t)
			b.lead[t] = 0
			b.occupy(t)
		}
	}
	slices.SortStableFunc(moved, func(a, c int) int { return cmp.Compare(s.tasks[a].from, s.tasks[c].from) })
	for again := true; again; { // where one goes back it leaves room, and another may follow
		again = false
		for _, t := range moved {
			if b.moved(t) && b.putBack(t, &cost) {
				again = true
			}
		}
	}
	b.g = b.asItIs()
	return b, cost
}

// moved reports whether a task stands elsewhere than on the wall, or with somebody else.
func (b *board) moved(t int) bool {
	one := &b.s.tasks[t]
	return !one.fixed && b.start[t] >= 0 && one.from >= 0 && (b.start[t] != one.from || b.by[t] != one.by)
}

// putBack has a task stand where it does on the wall, and reports whether that keeps every rule and costs less.
func (b *board) putBack(t int, cost *Cost) bool {
	one := &b.s.tasks[t]
	if !slices.Contains(one.who, one.by) || one.from < max(int(b.s.problem.Now), b.s.jobs[one.job].arrives, one.at) || !b.inTime(t, one.from) {
		return false
	}
	start, by, lead := b.start[t], b.by[t], b.lead[t]
	b.release(t)
	if b.free(one.by, one.from, one.dur) != one.from {
		b.occupy(t)
		return false
	}
	stand := func(start, by, lead int) {
		b.start[t], b.by[t], b.lead[t] = start, by, lead
		b.takePlaces(t)
		b.occupy(t)
	}
	stand(one.from, one.by, 0)
	room := !slices.ContainsFunc(one.holds, func(h int) bool { return b.from[h] >= 0 && b.full(h, b.from[h], b.until[h]) != nil })
	if now := b.cost(); room && now.Less(*cost, b.s.problem.Weights) {
		*cost = now
		return true
	}
	b.release(t)
	stand(start, by, lead)
	return false
}

// inTime reports whether a task may start at a minute after what it follows and before what follows it, as those are placed.
func (b *board) inTime(t, at int) bool {
	between := func(first, then int, l lag) bool {
		return then >= first+l.least && (l.most == never || then <= first+l.most)
	}
	for _, l := range b.s.tasks[t].before {
		if b.start[l.task] < 0 || !between(b.end(l.task), at, l) {
			return false
		}
	}
	for _, next := range b.s.tasks[t].after {
		for _, l := range b.s.tasks[next].before {
			if l.task == t && b.start[next] >= 0 && !b.s.tasks[next].fixed && !between(at+b.s.tasks[t].dur, b.start[next], l) {
				return false
			}
		}
	}
	return true
}

// clone is a plan that can be changed apart from this one.
func (b *board) clone() *board {
	c := *b
	c.start, c.by, c.lead, c.from, c.until = slices.Clone(b.start), slices.Clone(b.by), slices.Clone(b.lead), slices.Clone(b.from), slices.Clone(b.until)
	c.busy, c.held = slices.Clone(b.busy), slices.Clone(b.held)
	for p := range c.busy {
		c.busy[p] = slices.Clone(c.busy[p])
	}
	for p := range c.held {
		c.held[p] = slices.Clone(c.held[p])
	}
	return &c
}

// asItIs asks for a plan again.
func (b *board) asItIs() genome {
	g := newGenome(len(b.start), len(b.s.jobs))
	g.only = slices.Clone(b.by)
	for t, start := range b.start {
		g.key[t], g.floor[t] = float64(start), max(start, 0)
		if start < 0 { // what finds no place takes none from others
			g.key[t] = never
		}
	}
	return g
}
