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

// holdsUntil is when a hold is over as far as is known.
func (b *board) holdsUntil(h int) int {
	one := &b.s.holds[h]
	if b.start[one.to] >= 0 {
		if one.through {
			return b.end(one.to)
		}
		return b.start[one.to]
	}
	last := 0
	for _, t := range one.members {
		if b.start[t] >= 0 {
			last = max(last, b.end(t))
		}
	}
	return last
}

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

// freeFrom is the first minute from one on at which the place of a hold has a unit for so long.
func (b *board) freeFrom(h, from, long int) int {
	for {
		in := b.full(h, from, from+long)
		if in == nil {
			return from
		}
		from = b.firstOut(in)
	}
}

// full are the holds that are in a place at the first minute of a stretch at which there is no unit for
// another; nil where there always is. For a hold that began with a fixed step only those minutes count at
// which one is there that did not: what is in its place already stays, even where that is too much.
func (b *board) full(h, from, to int) []int {
	place := b.s.holds[h].place
	others := b.held[place]
	if len(others) < b.s.places[place] {
		return nil
	}
	in := func(at int) (in []int) {
		n := 0
		for _, o := range others {
			if o != h && b.from[o] <= at && at < b.heldUntil(o) {
				n++
			}
		}
		if n < b.s.places[place] {
			return nil
		}
		joins := !b.begun(h)
		for _, o := range others {
			if o != h && b.from[o] <= at && at < b.heldUntil(o) {
				in = append(in, o)
				joins = joins || !b.begun(o)
			}
		}
		if !joins {
			return nil
		}
		return in
	}
	first, when := in(from), from
	if first != nil || to <= from {
		return first
	}
	for _, o := range others {
		if at := b.from[o]; from < at && at < to && (first == nil || at < when) {
			if found := in(at); found != nil {
				first, when = found, at
			}
		}
	}
	return first
}

// heldUntil is when a hold is over; as far as is known, or never where it is not.
func (b *board) heldUntil(h int) int {
	if b.wary && b.start[b.s.holds[h].to] < 0 {
		return never
	}
	return b.until[h]
}

func (b *board) begun(h int) bool { return b.s.tasks[b.s.holds[h].from].fixed }

func (b *board) firstOut(in []int) int {
	out := never
	for _, h := range in {
		out = min(out, b.heldUntil(h))
	}
	return out
}

// room takes for a task the places that its job holds by it, and reports whether they are free for as long as
// that takes. Where not, nothing is taken and what began too early is put off.
func (b *board) room(t, start int) bool {
	b.start[t] = start
	b.takePlaces(t)
	for _, h := range b.s.tasks[t].holds {
		if b.from[h] < 0 {
			continue
		}
		in := b.full(h, b.from[h], b.until[h])
		if in == nil {
			continue
		}
		off, until := b.s.holds[h].from, b.firstOut(in)
		if b.begun(h) {
			// Whoever was to come in meanwhile waits.
			i := slices.IndexFunc(in, func(o int) bool { return !b.begun(o) })
			off, until = b.s.holds[in[i]].from, b.until[h]
		}
		b.start[t] = -1
		b.takePlaces(t)
		if off == t { // as many units as it takes there are not
			b.drop(t, NoPlace)
			return false
		}
		if b.s.tasks[off].job != b.s.tasks[t].job {
			b.queue = append(b.queue, t)
		}
		b.putOff(t, off, until, NoPlace)
		return false
	}
	return true
}

// takePlaces brings the holds that a task is part of up to where it is placed, or is not.
func (b *board) takePlaces(t int) {
	for _, h := range b.s.tasks[t].holds {
		one := &b.s.holds[h]
		if one.from == t {
			b.from[h] = b.start[t]
			b.held[one.place] = slices.DeleteFunc(b.held[one.place], func(k int) bool { return k == h })
			if b.start[t] >= 0 {
				b.held[one.place] = append(b.held[one.place], h)
			}
		}
		b.until[h] = b.holdsUntil(h)
		b.changed[one.place]++
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
