package dayplan

import (
	"cmp"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
)

// Solver makes plans of one problem and improves on them. It is not for several goroutines at once.
type Solver struct {
	problem Problem
	people  []worker
	places  []int // how many each takes
	jobs    []job
	tasks   []task
	holds   []hold
	hands   int // how many people there are, with those who did something and are not here

	chance     *rand.Rand
	iterations int
	here       genome // where the search stands
	hereCost   float64
	built      *board // last
	late       []int  // a task of each job that is late where the search stands
	best       *board
	bestCost   Cost
	lower      Bound
	near       bool      // the search begins from the wall alone
	history    []float64 // of costs, for late acceptance
}

const never = math.MaxInt / 4

type worker struct {
	hours  []Stretch
	skills int
}

type job struct {
	arrives, promised, weight int
	first                     int   // of its tasks, which stand as its steps do
	tasks                     []int // in an order in which each comes after what it follows
	holds                     []int
}

type task struct {
	job, dur int
	able     []int // people who have the skill for it
	who      []int // of them those who have a stretch for it, those with the fewest skills first
	before   []lag
	after    []int
	windows  []window // it must be placed soon once their first step is
	holds    []int    // it lies in
	tail     int      // least time from its start to the end of the job
	run      int      // minutes in which one person does it and what can go on from it at once
	at       int      // not before that minute; 0 leaves it open
	pinned   bool     // it is to begin at a time, or leads to what is
	fixed    bool
	from     int // where fixed, or on the wall; -1 elsewhere
	by       int
	name     string // of who does it, where fixed
	doer     int    // who that is, by number: people, then others
	stopped  Why    // it can never be placed
}

type lag struct{ task, least, most int }

// window is a limited wait: once first is placed, whatever leads to last is pressing.
type window struct {
	first, last int
	short       bool // nobody does much meanwhile
}

// shortWait is how much a wait may last longer than it must and still leave no time for work elsewhere.
const shortWait = 15

type hold struct {
	place, job, from, to int
	through              bool
	members              []int // steps between the two, with both
}

// New takes a problem apart, and makes a first plan of it by several rules. A [*FaultError] says what makes
// no sense in it.
func New(p Problem, seed uint64) (*Solver, error) { return begin(p, seed, false) }

// begin is [New]; near has it begin only from the plan on the wall, where what else could be done is known already.
func begin(p Problem, seed uint64, near bool) (*Solver, error) {
	s := &Solver{problem: p, near: near && len(p.Previous) > 0, chance: rand.New(rand.NewPCG(seed, 0x70_6f_6e_79))}
	if err := s.read(); err != nil {
		return nil, err
	}
	s.lower = s.bound()
	s.first()
	s.best, s.bestCost = s.tidy(s.best, s.bestCost)
	return s, nil
}

func (s *Solver) read() error {
	p := s.problem
	people, places := map[string]int{}, map[string]int{}
	for i, one := range p.People {
		if _, twice := people[one.ID]; twice {
			return &FaultError{What: "there are two people " + one.ID}
		}
		people[one.ID] = i
		hours := slices.Clone(one.Hours)
		slices.SortFunc(hours, func(a, b Stretch) int { return cmp.Compare(a.From, b.From) })
		s.people = append(s.people, worker{hours, len(one.Skills)})
	}
	for i, place := range p.Places {
		places[place.ID] = i
		s.places = append(s.places, place.Count)
	}
	index := map[[2]string]int{}
	for j, one := range p.Jobs {
		s.jobs = append(s.jobs, job{arrives: int(one.Arrives), promised: int(one.Promised), weight: one.Weight, first: len(s.tasks)})
		for _, step := range one.Steps {
			key := [2]string{one.ID, step.ID}
			if _, twice := index[key]; twice {
				return &FaultError{one.ID, step.ID, "there are two of it"}
			}
			index[key] = len(s.tasks)
			t := task{job: j, dur: int(step.Attended), at: int(step.At), from: -1, by: -1}
			t.stopped = s.whoMay(step, &t)
			s.tasks = append(s.tasks, t)
		}
	}
	for j, one := range p.Jobs {
		for _, step := range one.Steps {
			t := index[[2]string{one.ID, step.ID}]
			for _, l := range step.After {
				before, is := index[[2]string{one.ID, l.Step}]
				if !is {
					return &FaultError{one.ID, step.ID, "it follows " + l.Step + ", which is not of the job"}
				}
				most := never
				if l.Most != nil {
					most = int(*l.Most)
				}
				s.tasks[t].before = append(s.tasks[t].before, lag{before, int(l.Least), most})
				s.tasks[before].after = append(s.tasks[before].after, t)
			}
		}
		if !s.sort(j, index) {
			return &FaultError{Job: one.ID, What: "its steps follow each other in a circle"}
		}
		for _, h := range one.Holds {
			place, is := places[h.Place]
			from, begins := index[[2]string{one.ID, h.From}]
			to, ends := index[[2]string{one.ID, h.To}]
			if !is || !begins || !ends {
				return &FaultError{Job: one.ID, What: "it holds " + h.Place + " from " + h.From + " to " + h.To + ", and one of them is not there"}
			}
			if !s.reach(from)[to] {
				return &FaultError{one.ID, h.To, "it ends a hold of " + h.Place + ", and does not come after " + h.From + ", which begins it"}
			}
			if from != to || h.Through { // from the start of a step to that same start nothing is held
				s.hold(hold{place: place, job: j, from: from, to: to, through: h.Through})
			}
		}
		s.windows(j)
		s.pins(j)
	}
	return s.placed(index, people)
}

// whoMay notes who may do a step, and says what stops it where nobody ever could.
func (s *Solver) whoMay(step Step, t *task) Why {
	for i, person := range s.problem.People {
		if !slices.Contains(person.Skills, step.Skill) || step.By != "" && step.By != person.ID {
			continue
		}
		t.able = append(t.able, i)
		if slices.ContainsFunc(person.Hours, func(h Stretch) bool { return int(h.To-h.From) >= t.dur }) {
			t.who = append(t.who, i)
		}
	}
	slices.SortStableFunc(t.who, func(a, b int) int { return cmp.Compare(s.people[a].skills, s.people[b].skills) })
	switch {
	case len(t.able) == 0:
		return NoSkill
	case len(t.who) == 0:
		return TooLong
	}
	return ""
}

// sort puts a job's tasks in order, with the tail of each, and reports whether there is one.
func (s *Solver) sort(j int, index map[[2]string]int) bool {
	one := s.problem.Jobs[j]
	state := map[int]int{}
	var order []int
	var visit func(t int) bool
	visit = func(t int) bool {
		switch state[t] {
		case 1:
			return false
		case 2:
			return true
		}
		state[t] = 1
		for _, l := range s.tasks[t].before {
			if !visit(l.task) {
				return false
			}
		}
		state[t] = 2
		order = append(order, t)
		return true
	}
	for _, step := range one.Steps {
		if !visit(index[[2]string{one.ID, step.ID}]) {
			return false
		}
	}
	s.jobs[j].tasks = order
	for _, t := range slices.Backward(order) {
		one := &s.tasks[t]
		one.tail = one.dur
		for _, next := range one.after {
			for _, l := range s.tasks[next].before {
				if l.task == t {
					one.tail = max(one.tail, one.dur+l.least+s.tasks[next].tail)
				}
			}
		}
	}
	for _, t := range order {
		s.tasks[t].run = s.runFrom(t)
	}
	return true
}

// runFrom is how long one person is at a bike without a pause of more than a moment, from a task on.
func (s *Solver) runFrom(t int) int {
	long := s.tasks[t].dur
	for at := t; ; {
		next, pause := -1, 0
		for _, k := range s.tasks[at].after {
			for _, l := range s.tasks[k].before {
				if l.task == at && l.least <= moment && (next < 0 || k < next) {
					next, pause = k, l.least
				}
			}
		}
		if next < 0 {
			return long
		}
		long += pause + s.tasks[next].dur
		at = next
	}
}

// reach are the tasks that come after one, with itself.
func (s *Solver) reach(t int) map[int]bool {
	all := map[int]bool{t: true}
	for queue := []int{t}; len(queue) > 0; queue = queue[1:] {
		for _, next := range s.tasks[queue[0]].after {
			if !all[next] {
				all[next] = true
				queue = append(queue, next)
			}
		}
	}
	return all
}

func (s *Solver) hold(h hold) {
	id := len(s.holds)
	after := s.reach(h.from)
	for _, t := range s.jobs[h.job].tasks {
		if after[t] && s.reach(t)[h.to] {
			h.members = append(h.members, t)
			s.tasks[t].holds = append(s.tasks[t].holds, id)
		}
	}
	if s.places[h.place] <= 0 && s.tasks[h.from].stopped == "" {
		s.tasks[h.from].stopped = NoPlace
	}
	s.holds = append(s.holds, h)
	s.jobs[h.job].holds = append(s.jobs[h.job].holds, id)
}

// windows notes, at every task that leads to the end of a limited wait, which wait that is.
func (s *Solver) windows(j int) {
	for _, last := range s.jobs[j].tasks {
		for _, l := range s.tasks[last].before {
			if l.most == never {
				continue
			}
			for _, t := range s.jobs[j].tasks {
				if t != l.task && s.reach(t)[last] && !s.reach(t)[l.task] {
					s.tasks[t].windows = append(s.tasks[t].windows, window{l.task, last, l.most-l.least <= shortWait})
				}
			}
		}
	}
}

// pins notes what leads to a task that is to begin at a time: it is placed before all else, so that nothing is in its way.
func (s *Solver) pins(j int) {
	for _, t := range s.jobs[j].tasks {
		one := &s.tasks[t]
		if one.fixed || one.at == 0 {
			continue
		}
		for _, k := range s.jobs[j].tasks {
			if s.reach(k)[t] {
				s.tasks[k].pinned = true
			}
		}
	}
}

// placed notes what is fixed and what is on the wall.
func (s *Solver) placed(index map[[2]string]int, people map[string]int) error {
	for _, was := range s.problem.Previous {
		t, is := index[[2]string{was.Job, was.Step}]
		by, here := people[was.Person]
		if is && !here {
			by = -1 // who went: the step moves whoever takes it over
		}
		if is {
			s.tasks[t].from, s.tasks[t].by = int(was.Start), by
		}
	}
	doers := maps.Clone(people)
	for _, f := range s.problem.Fixed {
		t, is := index[[2]string{f.Job, f.Step}]
		if !is {
			return &FaultError{f.Job, f.Step, "it is fixed, and not of the problem"}
		}
		by, here := people[f.Person]
		if !here {
			by = -1 // done by somebody who is not here today
		}
		if _, known := doers[f.Person]; !known {
			doers[f.Person] = len(doers)
		}
		one := &s.tasks[t]
		one.fixed, one.from, one.by, one.name, one.doer, one.stopped = true, int(f.Start), by, f.Person, doers[f.Person], ""
	}
	s.hands = len(doers)
	return nil
}
