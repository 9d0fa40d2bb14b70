package dayplan

import "slices"

// move is a way to alter a plan a little.
type move int

const (
	besideAnother move = iota // a task just before or after another
	jobSooner                 // a whole job sooner or later, by what another's task stands at
	jobsSwap                  // two jobs change places
	restSooner                // what comes after a task in its job, sooner or later
	otherHands                // somebody else for a task
	letsBy                    // a task lets another by that is in its way
	unpressed                 // in spite of what presses
	loyalty                   // how much a job may wait for whoever is at it
	inOneRun                  // a job in one run, or not
	jobInHand                 // all that is left of a job for one person
	restInHand                // what comes after a task, with it, for one person
	goesOnWith                // a task right after what it follows, by the same hands
	toWall                    // back to where it is on the wall
)

// The moves that are drawn from, each as often as it is listed.
var (
	moves        = []move{besideAnother, besideAnother, besideAnother, jobSooner, jobSooner, jobsSwap, restSooner, otherHands, otherHands, letsBy, unpressed}
	restfulMoves = append(slices.Clone(moves), loyalty, inOneRun, jobInHand, jobInHand, restInHand, goesOnWith)
	// largeMoves deal with whole jobs: there are too many tasks for moves of one to lead anywhere.
	largeMoves = []move{besideAnother, jobSooner, jobSooner, jobSooner, jobSooner, jobSooner, jobSooner, jobsSwap, jobsSwap, jobsSwap, jobsSwap, jobsSwap,
		otherHands, letsBy, loyalty, inOneRun, jobInHand, jobInHand, jobInHand, restInHand, goesOnWith}
)

// loyalties are how many minutes later whoever is at a job may be so that it stays theirs.
var loyalties = []int{0, 5, 15, 60, never}

// smallPart is how many tasks a day has at which it is searched by moves of a large one and of a small one in turn.
const smallPart = 15

// anyMove draws a move.
func (s *Solver) anyMove() move {
	from := moves
	if s.restful() {
		from = restfulMoves
	}
	wall := 0
	if len(s.problem.Previous) > 0 {
		wall = 4
	}
	draw := s.chance.IntN(len(from) + wall)
	if draw >= len(from) {
		return toWall
	}
	if s.large() && s.chance.IntN(len(s.tasks)) > smallPart {
		return largeMoves[s.chance.IntN(len(largeMoves))]
	}
	return from[draw]
}

// change alters a genome a little.
func (s *Solver) change(g *genome) {
	t := s.anyTask()
	if len(s.late) > 0 && s.large() && s.chance.IntN(2) == 0 {
		t = s.late[s.chance.IntN(len(s.late))]
	}
	one := &s.tasks[t]
	job := s.jobs[one.job].tasks
	switch s.anyMove() {
	case besideAnother:
		g.key[t] = g.key[s.anyTask()] + (s.chance.Float64()-0.5)*1e-3
	case jobSooner:
		g.shift(job, g.key[s.anyTask()]-g.key[t])
	case jobsSwap:
		other := s.jobs[s.tasks[s.anyTask()].job].tasks
		by := g.key[other[0]] - g.key[job[0]]
		g.shift(job, by)
		g.shift(other, -by)
	case restSooner:
		by := (s.chance.Float64() - 0.5) * 120
		for k := range s.reach(t) {
			g.key[k] += by
		}
	case otherHands:
		if len(one.who) > 1 {
			g.only[t] = one.who[s.chance.IntN(len(one.who))]
			if s.chance.IntN(3) == 0 {
				g.only[t] = -1
			}
		}
	case letsBy:
		s.letBy(g, t)
	case unpressed:
		g.calm[t] = !g.calm[t]
	case loyalty:
		g.loyal[one.job] = loyalties[s.chance.IntN(len(loyalties))]
	case inOneRun:
		g.run[one.job] = !g.run[one.job]
	case jobInHand:
		s.inHand(g, job, t)
	case restInHand:
		after := s.reach(t)
		s.inHand(g, slices.DeleteFunc(slices.Clone(job), func(k int) bool { return !after[k] }), t)
	case goesOnWith:
		if len(one.before) > 0 {
			l := one.before[s.chance.IntN(len(one.before))]
			g.key[t] = g.key[l.task] + s.chance.Float64()*1e-3
			if by := s.best.by[l.task]; slices.Contains(one.who, by) {
				g.only[t] = by
			}
		}
	case toWall:
		s.backToTheWall(g, t)
	}
}

func (g *genome) shift(tasks []int, by float64) {
	for _, k := range tasks {
		g.key[k] += by
	}
}

// letBy has a task begin only after another has, or has ended; or sets it free of that.
func (s *Solver) letBy(g *genome, t int) {
	other := s.anyTask()
	g.floor[t] = 0
	if b := s.best; b.start[other] >= 0 {
		switch s.chance.IntN(4) {
		case 0, 1:
			g.floor[t] = b.end(other)
		case 2:
			g.floor[t] = b.start[other] + 1
		}
	}
}

// inHand asks for tasks to be done by one of those who may do one of them, as far as they may; or sets them free.
func (s *Solver) inHand(g *genome, tasks []int, t int) {
	who := -1
	if may := s.tasks[t].who; len(may) > 0 && s.chance.IntN(6) > 0 {
		who = may[s.chance.IntN(len(may))]
	}
	for _, k := range tasks {
		g.only[k] = -1
		if slices.Contains(s.tasks[k].who, who) {
			g.only[k] = who
		}
	}
}

// backToTheWall asks for a job, or one task of it, to stand where it is on the wall; or sets it free of it.
func (s *Solver) backToTheWall(g *genome, t int) {
	tasks := s.jobs[s.tasks[t].job].tasks
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
