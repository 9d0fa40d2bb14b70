package dayplan

import (
	"cmp"
	"slices"
)

// moment is how soon a bike must be able to go on for leaving it to be a switch (handbook: dayplan).
const moment = 5

// unrest counts how often somebody goes on to another bike although the one before could have gone on, and how often a
// bike's next step is somebody else's.
func (b *board) unrest() (switches, handovers int) {
	s := b.s
	order := make([]int, 0, len(s.tasks))
	for t := range s.tasks {
		if b.start[t] >= 0 {
			order = append(order, t)
		}
	}
	slices.SortFunc(order, func(x, y int) int {
		return cmp.Or(cmp.Compare(b.start[x], b.start[y]), cmp.Compare(b.end(x), b.end(y)), cmp.Compare(x, y))
	})
	at := make([]int, s.hands) // the last task of each person, and of each job
	of := make([]int, len(s.jobs))
	for i := range at {
		at[i] = -1
	}
	for j := range of {
		of[j] = -1
	}
	for _, t := range order {
		who, j := b.who(t), s.tasks[t].job
		if before := of[j]; before >= 0 && b.who(before) != who {
			handovers++
		}
		if before := at[who]; before >= 0 && s.tasks[before].job != j && b.couldGoOn(before, who) {
			switches++
		}
		at[who], of[j] = t, t
	}
	return switches, handovers
}

// who does a task, by number: those who are here, then everybody else who did something.
func (b *board) who(t int) int {
	if one := &b.s.tasks[t]; one.fixed {
		return one.doer
	}
	return b.by[t]
}

// couldGoOn reports whether whoever ended a task could have gone on at its bike within a moment.
func (b *board) couldGoOn(t, who int) bool {
	s := b.s
	end := b.end(t)
	if who >= len(s.people) || !slices.ContainsFunc(s.people[who].hours, func(h Stretch) bool { return int(h.From) <= end && end+moment < int(h.To) }) {
		return false
	}
	for _, next := range s.jobs[s.tasks[t].job].tasks {
		if b.start[next] >= end && slices.Contains(s.tasks[next].able, who) && b.openBy(next, end+moment) {
			return true
		}
	}
	return false
}

// openBy reports whether what a task follows has ended by a minute, with its wait.
func (b *board) openBy(t, at int) bool {
	for _, l := range b.s.tasks[t].before {
		if b.start[l.task] < 0 || b.end(l.task)+l.least > at {
			return false
		}
	}
	return true
}
