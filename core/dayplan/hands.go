package dayplan

import (
	"cmp"
	"slices"
)

// Hands: who is free for a task, and when.

// handsAndPlaces is the earliest start from a minute on at which somebody is free for a task and so are the places that it
// begins to hold, and who.
func (b *board) handsAndPlaces(t, from int) (start, by int) {
	one := &b.s.tasks[t]
	start, by = b.hands(t, from)
	for start < never {
		free := start
		for _, h := range one.holds {
			if b.s.holds[h].from == t {
				free = b.freeFrom(h, free, max(one.dur, 1))
			}
		}
		if free == start {
			break
		}
		start, by = b.hands(t, free)
	}
	return start, by
}

// hands is the earliest start from a minute on at which somebody who may do the task is free for it, and who:
// of several, who has it on the wall, then who has the fewest skills. Whoever is at the job already goes before others
// where they are not much later.
func (b *board) hands(t, from int) (start, by int) {
	one := &b.s.tasks[t]
	keeper, kept := b.keeper(one.job), never
	start, by = never, -1
	for _, p := range one.who {
		if only := b.g.only[t]; only >= 0 && only != p {
			continue
		}
		at := b.freeForRun(p, from, t)
		if p == keeper {
			kept = at
		}
		if at < start || at == start && at < never && p == one.by {
			start, by = at, p
		}
	}
	if loyal := b.g.loyal[one.job]; kept < never && kept-start <= loyal && loyal > 0 {
		return kept, keeper
	}
	return start, by
}

// freeForRun is the first minute from one on at which a person is free for a task; where its job is done in one run, for all
// that goes on from it at once, if they ever are.
func (b *board) freeForRun(p, from, t int) int {
	one := &b.s.tasks[t]
	if b.g.run[one.job] && one.run > one.dur && one.at == 0 {
		if at := b.free(p, from, one.run); at < never {
			return at
		}
	}
	return b.free(p, from, one.dur)
}

// keeper is who does what of a job is placed to begin last; -1 for nobody who is here.
func (b *board) keeper(j int) int {
	if t := b.latest[j]; t >= 0 {
		return b.by[t]
	}
	return -1
}

// findLatest looks for what of a job is placed to begin last.
func (b *board) findLatest(j int) {
	b.latest[j] = -1
	for _, t := range b.s.jobs[j].tasks {
		b.noteLatest(t)
	}
}

// noteLatest has a task be what is placed to begin last of its job, if it is.
func (b *board) noteLatest(t int) {
	j := b.s.tasks[t].job
	if at := b.latest[j]; b.start[t] >= 0 && (at < 0 || b.start[t] >= b.start[at]) {
		b.latest[j] = t
	}
}

// free is the first minute from one on at which a person has so many minutes without interruption.
func (b *board) free(p, from, dur int) int {
	busy := b.busy[p]
	for _, h := range b.s.people[p].hours {
		at := max(from, int(h.From))
		if dur == 0 && at <= int(h.To) {
			return at
		}
		i, _ := slices.BinarySearchFunc(busy, at, func(s Stretch, at int) int { return cmp.Compare(int(s.To), at+1) })
		for ; at+dur <= int(h.To); i++ {
			if i == len(busy) || int(busy[i].From) >= at+dur {
				return at
			}
			at = int(busy[i].To)
		}
	}
	return never
}

// stays is how many minutes before a task its person spends at the bike, where they were at it a moment ago and its job is
// done in one run: nothing else is begun for so short a while.
func (b *board) stays(t int) int {
	one := &b.s.tasks[t]
	if !b.g.run[one.job] || one.dur == 0 {
		return 0
	}
	busy := b.busy[b.by[t]]
	i := b.nth(t)
	if i == 0 {
		return 0
	}
	end := int(busy[i-1].To)
	if gap := b.start[t] - end; gap > 0 && gap <= moment && slices.ContainsFunc(b.s.jobs[one.job].tasks, func(k int) bool { return b.start[k] >= 0 && b.by[k] == b.by[t] && b.end(k) == end }) {
		return gap
	}
	return 0
}

// occupy has whoever does a task be busy with it; release has them be free of it.
func (b *board) occupy(t int) {
	if dur := b.s.tasks[t].dur; dur > 0 {
		i := b.nth(t)
		b.busy[b.by[t]] = slices.Insert(b.busy[b.by[t]], i, Stretch{Minute(b.start[t] - b.lead[t]), Minute(b.start[t] + dur)})
	}
}

func (b *board) release(t int) {
	if b.s.tasks[t].dur > 0 {
		i := b.nth(t)
		b.busy[b.by[t]] = slices.Delete(b.busy[b.by[t]], i, i+1)
	}
}

// nth is where a task stands, or belongs, among what keeps its person busy.
func (b *board) nth(t int) int {
	i, _ := slices.BinarySearchFunc(b.busy[b.by[t]], Minute(b.start[t]-b.lead[t]), func(s Stretch, at Minute) int { return cmp.Compare(s.From, at) })
	return i
}

// join adds a stretch to some that are in order and apart.
func join(busy []Stretch, add Stretch) []Stretch {
	var all []Stretch
	for _, old := range busy {
		if old.To < add.From || add.To < old.From {
			all = append(all, old)
			continue
		}
		add = Stretch{min(old.From, add.From), max(old.To, add.To)}
	}
	i, _ := slices.BinarySearchFunc(all, add, func(a, b Stretch) int { return cmp.Compare(a.From, b.From) })
	return slices.Insert(all, i, add)
}
