package dayplan

import (
	"cmp"
	"slices"
)

// Next: which task is placed next.

// next takes from the queue what goes first: what a limited wait presses for, then what goes on at the bike that somebody is
// at, then the lowest key.
func (b *board) next() int {
	if b.g.inTime {
		return b.soonest()
	}
	best, bestRank := 0, b.rank(b.queue[0])
	for i, t := range b.queue[1:] {
		rank := b.rank(t)
		first := b.queue[best]
		if rank == bestRank && cmp.Or(cmp.Compare(b.g.key[t], b.g.key[first]), cmp.Compare(t, first)) < 0 || rank < bestRank {
			best, bestRank = i+1, rank
		}
	}
	t := b.queue[best]
	b.queue = slices.Delete(b.queue, best, best+1)
	return t
}

// soonest takes from the queue what a short wait presses for, then what can begin soonest, the bikes that were begun before
// others. When that is is worked out only for what could be it by what is known of it from before: hands are only ever
// taken, until a job is placed anew.
func (b *board) soonest() int {
	b.turn++
	for {
		best, bestAt, known := -1, never, false
		for i, t := range b.queue {
			at, is := b.soonestByJob(t)
			if w := &b.worked[t]; !is && w.turn == b.turn {
				at, is = w.at, true
			} else if !is {
				at = max(at, w.hands)
				if w.holds == b.holdsOf(t) {
					at = max(at, w.at)
				}
			}
			if best < 0 || at < bestAt || at == bestAt && b.goesBefore(t, b.queue[best]) {
				best, bestAt, known = i, at, is
			}
		}
		t := b.queue[best]
		if known {
			b.queue = slices.Delete(b.queue, best, best+1)
			return t
		}
		from, _ := b.soonestByJob(t)
		hands, _ := b.hands(t, from)
		b.worked[t] = worked{turn: b.turn, hands: hands, at: b.couldStart(t, from), holds: b.holdsOf(t)}
	}
}

// worked is when a task could begin, as it was worked out.
type worked struct {
	turn  int // at which that was
	hands int // by hands alone
	at    int
	holds int // what stood in the places that it begins to hold then
}

// holdsOf changes with what stands in the places that a task begins to hold.
func (b *board) holdsOf(t int) int {
	sum := 1
	for _, h := range b.s.tasks[t].holds {
		if one := &b.s.holds[h]; one.from == t {
			sum += b.changed[one.place]
		}
	}
	return sum
}

// goesBefore reports whether of two tasks that can begin at the same minute the first is placed first.
func (b *board) goesBefore(t, other int) bool {
	isNew, otherNew := b.latest[b.s.tasks[t].job] < 0, b.latest[b.s.tasks[other].job] < 0
	if isNew != otherNew {
		return otherNew
	}
	return cmp.Or(cmp.Compare(b.g.key[t], b.g.key[other]), cmp.Compare(t, other)) < 0
}

// soonestByJob is when a task could begin by what it follows alone; below zero, and known to be so, where it goes before all
// else: because a short wait presses for it, or it leads to what is to begin at a time, or it cannot be placed at all.
func (b *board) soonestByJob(t int) (at int, known bool) {
	one := &b.s.tasks[t]
	if one.stopped != "" {
		return -2, true
	}
	at = max(int(b.s.problem.Now), b.s.jobs[one.job].arrives, b.floor[t], one.at)
	for _, l := range one.before {
		if b.start[l.task] < 0 {
			return -2, true
		}
		at = max(at, b.end(l.task)+l.least)
	}
	if one.pinned {
		return -1, true
	}
	for _, w := range one.windows {
		if w.short && !b.g.calm[t] && b.start[w.first] >= 0 && !b.settled(w.last) {
			return -1, true
		}
	}
	return at, false
}

// couldStart is when a task could begin from a minute on as things stand.
func (b *board) couldStart(t, from int) int {
	b.wary = true
	at, _ := b.handsAndPlaces(t, from)
	b.wary = false
	return at
}

// rank is 0 for what a limited wait presses for, 1 for what goes on where work was placed last, 2 else.
func (b *board) rank(t int) int {
	switch {
	case b.pressing(t):
		return 0
	case b.goesOn(t):
		return 1
	}
	return 2
}

// goesOn reports whether a task can begin within a moment of the end of what was placed last, at the same bike.
func (b *board) goesOn(t int) bool {
	j := b.s.tasks[t].job
	if b.last < 0 || b.s.tasks[b.last].job != j || !b.g.run[j] || b.start[b.last] < 0 {
		return false
	}
	soon := b.end(b.last) + moment
	for _, l := range b.s.tasks[t].before {
		if b.start[l.task] >= 0 && b.end(l.task)+l.least > soon {
			return false
		}
	}
	return true
}

// pressing reports whether a limited wait is running that the task leads to the end of.
func (b *board) pressing(t int) bool {
	if b.s.tasks[t].pinned {
		return true
	}
	for _, w := range b.s.tasks[t].windows {
		if !b.g.calm[t] && b.start[w.first] >= 0 && !b.settled(w.last) {
			return true
		}
	}
	return false
}
