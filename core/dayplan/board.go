package dayplan

import (
	"cmp"
	"slices"
)

// board is a plan in the making: which task starts when, by whom.
//
// Tasks are placed one after the other, each as early as what is placed already lets it. What a later task
// shows to have been too early (a wait whose limit cannot be kept, a place that is held longer than it is
// free) is put off to a later minute, and its job is placed anew from there. Floors only rise, so this ends;
// where it takes too long the task that asks for it is dropped, so that what is left keeps every rule.
type board struct {
	s       *Solver
	g       genome
	start   []int       // -1: not placed
	by      []int       // -1: nobody who is here
	why     []Why       // of tasks that are dropped
	floor   []int       // earliest start beyond what the problem says
	raised  []Why       // what last raised a floor
	open    []int       // how many of what a task follows are not settled yet
	left    int         // tasks that are not settled
	queue   []int       // tasks that could be placed next
	busy    [][]Stretch // of each person, in order, apart
	from    []int       // of each hold; -1 while its first task is not placed
	until   []int       // so far
	held    [][]int     // holds that began, by place
	again   int         // how often a job was placed anew
	latest  []int       // of each job, the task that was placed to begin last; -1 for none
	last    int         // the task that was placed last; -1 for none
	wary    bool        // what began to hold a place and has not ended holds it for ever
	turn    int         // of looking for what can begin soonest
	worked  []worked    // of each task
	changed []int       // how often what stands in each place did
	lead    []int       // of each task: minutes before it for which its person stays at the bike
}

// mostAgain is how often jobs are placed anew, for each task there is, before tasks are dropped instead.
const mostAgain = 12

// genome is how tasks contend for hands and places: the lower of two keys goes first.
type genome struct {
	key   []float64
	only  []int  // the person for a task; -1 is whoever may
	floor []int  // not before that minute: where it starts on the wall, or where waiting lets others by
	calm  []bool // goes by its key even where a limited wait presses for it
	// Of each job: how many minutes later whoever is at it may begin what comes next so that it stays theirs, and whether
	// what can go on at once goes before other jobs.
	loyal []int
	run   []bool
	// inTime has what can begin soonest go first, whatever its key; keys decide between what could begin at once.
	inTime bool
}

func newGenome(tasks, jobs int) genome {
	return genome{make([]float64, tasks), make([]int, tasks), make([]int, tasks), make([]bool, tasks), make([]int, jobs), make([]bool, jobs), false}
}

func (g genome) clone() genome {
	return genome{slices.Clone(g.key), slices.Clone(g.only), slices.Clone(g.floor), slices.Clone(g.calm), slices.Clone(g.loyal), slices.Clone(g.run), g.inTime}
}

// build places every task, or drops it.
func (s *Solver) build(g genome) *board {
	n := len(s.tasks)
	b := &board{s: s, g: g, start: make([]int, n), by: make([]int, n), why: make([]Why, n), floor: slices.Clone(g.floor), raised: make([]Why, n),
		open: make([]int, n), busy: make([][]Stretch, len(s.people)), from: make([]int, len(s.holds)), until: make([]int, len(s.holds)), held: make([][]int, len(s.places)), left: n,
		latest: make([]int, len(s.jobs)), last: -1, lead: make([]int, n), worked: make([]worked, n), changed: make([]int, len(s.places))}
	for h := range s.holds {
		b.from[h] = -1
	}
	for t := range s.tasks {
		b.start[t], b.by[t] = -1, -1
	}
	for t := range s.tasks {
		if one := &s.tasks[t]; one.fixed {
			b.start[t], b.by[t] = one.from, one.by
			b.left--
			if one.by >= 0 && one.dur > 0 {
				b.busy[one.by] = join(b.busy[one.by], Stretch{Minute(one.from), Minute(one.from + one.dur)})
			}
		}
	}
	for j := range s.jobs {
		b.line(j)
		b.findLatest(j)
	}
	for b.left > 0 {
		b.place(b.next())
	}
	return b
}

// line sets up the holds of a job and queues those of its tasks that could be placed next.
func (b *board) line(j int) {
	for _, h := range b.s.jobs[j].holds {
		began := b.from[h] >= 0
		one := &b.s.holds[h]
		b.from[h] = b.start[one.from]
		switch {
		case b.from[h] >= 0 && !began:
			b.held[one.place] = append(b.held[one.place], h)
		case b.from[h] < 0 && began:
			b.held[one.place] = slices.DeleteFunc(b.held[one.place], func(k int) bool { return k == h })
		}
		b.until[h] = b.holdsUntil(h)
		b.changed[one.place]++
	}
	for _, t := range b.s.jobs[j].tasks {
		b.open[t] = 0
		for _, l := range b.s.tasks[t].before {
			if !b.settled(l.task) {
				b.open[t]++
			}
		}
		if b.open[t] == 0 && !b.settled(t) {
			b.queue = append(b.queue, t)
		}
	}
}

func (b *board) settled(t int) bool { return b.start[t] >= 0 || b.why[t] != "" }

func (b *board) end(t int) int { return b.start[t] + b.s.tasks[t].dur }

// place finds the earliest start for a task, or puts off what is in its way, or drops it.
func (b *board) place(t int) {
	one := &b.s.tasks[t]
	if one.stopped != "" {
		b.drop(t, one.stopped)
		return
	}
	earliest, latest, bound := max(int(b.s.problem.Now), b.s.jobs[one.job].arrives, b.floor[t], one.at), never, -1
	for _, l := range one.before {
		if b.start[l.task] < 0 {
			b.drop(t, NotAfter)
			return
		}
		earliest = max(earliest, b.end(l.task)+l.least)
		if by := b.end(l.task) + l.most; l.most != never && by < latest {
			latest, bound = by, l.task
		}
	}
	start, by := b.handsAndPlaces(t, earliest)
	switch {
	case start > latest && b.s.tasks[bound].fixed:
		b.drop(t, Window)
	case start >= never:
		b.drop(t, cmp.Or(b.raised[t], NoHours))
	case start > latest:
		b.putOff(t, bound, b.start[bound]+start-latest, Window)
	case b.room(t, start):
		b.put(t, start, by)
	}
}

// putOff has a task start no earlier than a minute, and its job placed anew. The task that asks for it is
// dropped where that was done too often.
func (b *board) putOff(asks, t, to int, why Why) {
	b.again++
	if b.tired() {
		b.queue = slices.DeleteFunc(b.queue, func(k int) bool { return k == asks })
		b.drop(asks, why)
		return
	}
	j := b.s.tasks[t].job
	b.floor[t], b.raised[t] = max(to, b.start[t]+1), why
	b.queue = slices.DeleteFunc(b.queue, func(k int) bool { return b.s.tasks[k].job == j })
	for _, k := range b.s.jobs[j].tasks {
		one := &b.s.tasks[k]
		if one.fixed || !b.settled(k) {
			continue
		}
		if b.start[k] >= 0 {
			b.release(k)
		}
		b.start[k], b.by[k], b.why[k], b.lead[k] = -1, -1, "", 0
		b.left++
	}
	b.line(j)
	b.findLatest(j)
	clear(b.worked) // hands are free again
}

// tired reports whether jobs were placed anew too often.
func (b *board) tired() bool { return b.again > mostAgain*len(b.s.tasks) }

func (b *board) put(t, start, by int) {
	b.by[t] = by // its start was set as its places were taken
	b.lead[t] = b.stays(t)
	b.occupy(t)
	b.noteLatest(t)
	b.last = t
	b.settle(t)
}

func (b *board) drop(t int, why Why) {
	b.why[t] = why
	b.settle(t)
}

// settle lets what follows a task come.
func (b *board) settle(t int) {
	b.left--
	for _, next := range b.s.tasks[t].after {
		if b.open[next]--; b.open[next] == 0 && !b.settled(next) {
			b.queue = append(b.queue, next)
		}
	}
}

// cost of the plan.
func (b *board) cost() Cost {
	var c Cost
	for j := range b.s.jobs {
		one := &b.s.jobs[j]
		finish, whole := 0, true
		for _, t := range one.tasks {
			if b.start[t] < 0 {
				c.NotPlaced++
				whole = false
				continue
			}
			finish = max(finish, b.end(t))
			if b.moved(t) {
				c.Changes++
			}
		}
		if !whole || len(one.tasks) == 0 {
			continue
		}
		c.FinishSum += Minutes(finish)
		c.WeightedLate += Minutes(max(finish-one.promised, 0) * one.weight)
	}
	c.Switches, c.Handovers = b.unrest()
	return c
}
