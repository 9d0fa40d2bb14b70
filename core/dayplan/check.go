package dayplan

import (
	"cmp"
	"fmt"
	"slices"
)

// Violation is a rule that a plan breaks. Its code is one of: unknown, twice, missing, fixed-moved, length,
// skill, hours, overlap, too-early, too-soon, too-late, place, order, late, cost.
type Violation struct{ Code, Job, Step, What string }

func (v Violation) String() string { return fmt.Sprintf("%s %s %s: %s", v.Code, v.Job, v.Step, v.What) }

// Check holds a plan against its problem, and returns every rule it breaks. It follows the rules as they are
// written (handbook: dayplan) and knows nothing of how plans are made.
//
// What is fixed happened: between two fixed steps no rule is asked for. A hold whose last step is not placed
// ends with the last placed step between its two.
func Check(p Problem, plan Plan) []Violation {
	c := checker{p: p, plan: plan, at: map[[2]string]Placed{}, fixed: map[[2]string]Placed{}, left: map[[2]string]bool{}}
	c.index()
	c.people()
	for _, job := range p.Jobs {
		c.job(job)
	}
	for _, place := range p.Places {
		c.place(place)
	}
	c.sums()
	return c.found
}

// CostOf is what a plan of these steps costs, counted as [Check] counts it; steps of the problem that are not among them are not
// placed.
func CostOf(p Problem, steps []Placed) Cost {
	c := checker{p: p, plan: Plan{Steps: steps}, at: map[[2]string]Placed{}, fixed: map[[2]string]Placed{}, left: map[[2]string]bool{}}
	c.index()
	cost, _ := c.count()
	for _, job := range p.Jobs {
		for _, step := range job.Steps {
			if _, placed := c.at[[2]string{job.ID, step.ID}]; !placed {
				cost.NotPlaced++
			}
		}
	}
	return cost
}

type checker struct {
	p     Problem
	plan  Plan
	at    map[[2]string]Placed
	fixed map[[2]string]Placed
	left  map[[2]string]bool
	found []Violation
}

func (c *checker) broken(code, job, step, format string, args ...any) {
	c.found = append(c.found, Violation{code, job, step, fmt.Sprintf(format, args...)})
}

// index takes the plan apart: every step of every job is placed once, or said not to be.
func (c *checker) index() {
	known := map[[2]string]Step{}
	for _, job := range c.p.Jobs {
		for _, step := range job.Steps {
			known[[2]string{job.ID, step.ID}] = step
		}
	}
	for _, f := range c.p.Fixed {
		c.fixed[[2]string{f.Job, f.Step}] = f
	}
	for _, s := range c.plan.Steps {
		key := [2]string{s.Job, s.Step}
		step, is := known[key]
		if !is {
			c.broken("unknown", s.Job, s.Step, "it is not of the problem")
			continue
		}
		if _, twice := c.at[key]; twice {
			c.broken("twice", s.Job, s.Step, "it is placed twice")
		}
		c.at[key] = s
		if s.End != s.Start+Minute(step.Attended) {
			c.broken("length", s.Job, s.Step, "it takes %d minutes, not %d", step.Attended, s.End-s.Start)
		}
		if f, is := c.fixed[key]; is && (f.Start != s.Start || f.Person != s.Person) {
			c.broken("fixed-moved", s.Job, s.Step, "it was begun at %d by %s", f.Start, f.Person)
		}
	}
	for _, n := range c.plan.NotPlaced {
		key := [2]string{n.Job, n.Step}
		if _, is := known[key]; !is {
			c.broken("unknown", n.Job, n.Step, "it is not of the problem")
		}
		if _, placed := c.at[key]; placed || c.left[key] {
			c.broken("twice", n.Job, n.Step, "it is placed, or named, already")
		}
		if n.Why == "" {
			c.broken("missing", n.Job, n.Step, "no rule is named that stops it")
		}
		c.left[key] = true
	}
	for _, job := range c.p.Jobs {
		for _, step := range job.Steps {
			key := [2]string{job.ID, step.ID}
			if _, placed := c.at[key]; !placed && !c.left[key] {
				c.broken("missing", job.ID, step.ID, "it is neither placed nor said not to be")
			}
		}
	}
	order := map[string]int{}
	for i, job := range c.p.Jobs {
		order[job.ID] = i
	}
	if !slices.IsSortedFunc(c.plan.Steps, func(a, b Placed) int {
		return cmp.Or(cmp.Compare(order[a.Job], order[b.Job]), cmp.Compare(a.Start, b.Start))
	}) {
		c.broken("order", "", "", "steps stand in order of jobs, then of start")
	}
}

// people: each does one thing at a time, in hours, with the skill for it.
func (c *checker) people() {
	byID := map[string]Person{}
	for _, person := range c.p.People {
		byID[person.ID] = person
	}
	steps := map[[2]string]Step{}
	for _, job := range c.p.Jobs {
		for _, step := range job.Steps {
			steps[[2]string{job.ID, step.ID}] = step
		}
	}
	busy := map[string][]Placed{}
	for key, s := range c.at {
		busy[s.Person] = append(busy[s.Person], s)
		if _, fixed := c.fixed[key]; fixed {
			continue
		}
		person, is := byID[s.Person]
		if !is {
			c.broken("unknown", s.Job, s.Step, "there is no person %s", s.Person)
			continue
		}
		step := steps[key]
		if !slices.Contains(person.Skills, step.Skill) || step.By != "" && step.By != s.Person {
			c.broken("skill", s.Job, s.Step, "%s is not to do it", s.Person)
		}
		if !slices.ContainsFunc(person.Hours, func(h Stretch) bool { return h.From <= s.Start && s.End <= h.To }) {
			c.broken("hours", s.Job, s.Step, "%s is not here from %d to %d", s.Person, s.Start, s.End)
		}
		if s.Start < c.p.Now {
			c.broken("too-early", s.Job, s.Step, "it is %d already", c.p.Now)
		}
	}
	for who, all := range busy {
		for i, a := range all {
			for _, b := range all[i+1:] {
				_, aFixed := c.fixed[[2]string{a.Job, a.Step}]
				_, bFixed := c.fixed[[2]string{b.Job, b.Step}]
				if !(aFixed && bFixed) && a.Start < b.End && b.Start < a.End && a.Start < a.End && b.Start < b.End {
					c.broken("overlap", a.Job, a.Step, "%s is at %s of %s", who, b.Step, b.Job)
				}
			}
		}
	}
}

// job: nothing before it arrives, and what follows comes neither too soon nor too late.
func (c *checker) job(job Job) {
	for _, step := range job.Steps {
		key := [2]string{job.ID, step.ID}
		s, placed := c.at[key]
		if _, fixed := c.fixed[key]; fixed || !placed {
			continue
		}
		if s.Start < job.Arrives {
			c.broken("too-early", job.ID, step.ID, "it arrives at %d", job.Arrives)
		}
		if s.Start < step.At {
			c.broken("too-early", job.ID, step.ID, "it is to begin at %d", step.At)
		}
		for _, lag := range step.After {
			before, there := c.at[[2]string{job.ID, lag.Step}]
			if !there {
				c.broken("too-soon", job.ID, step.ID, "%s is not placed", lag.Step)
				continue
			}
			if s.Start < before.End+Minute(lag.Least) {
				c.broken("too-soon", job.ID, step.ID, "%s ends at %d and %d lie between", lag.Step, before.End, lag.Least)
			}
			if lag.Most != nil && s.Start > before.End+Minute(*lag.Most) {
				c.broken("too-late", job.ID, step.ID, "%s ends at %d and at most %d lie between", lag.Step, before.End, *lag.Most)
			}
		}
	}
}

// place: at no minute more units are held than there are. A hold that began with a fixed step is there
// already; only what joins it later must find room.
func (c *checker) place(place Place) {
	type held struct {
		from, to Minute
		job      string
		begun    bool
	}
	var all []held
	for _, job := range c.p.Jobs {
		for _, h := range job.Holds {
			from, begins := c.at[[2]string{job.ID, h.From}]
			if h.Place != place.ID || !begins {
				continue
			}
			_, begun := c.fixed[[2]string{job.ID, h.From}]
			all = append(all, held{from.Start, c.ends(job, h), job.ID, begun})
		}
	}
	for _, one := range all {
		at, with, joins := one.from, 0, false
		for _, other := range all {
			if other.from <= at && at < other.to {
				with++
				joins = joins || !other.begun
			}
		}
		if with > place.Count && joins {
			c.broken("place", one.job, "", "%d are in %s at %d, which takes %d", with, place.ID, at, place.Count)
		}
	}
}

// ends is when a hold is over.
func (c *checker) ends(job Job, h Hold) Minute {
	if to, ends := c.at[[2]string{job.ID, h.To}]; ends {
		if h.Through {
			return to.End
		}
		return to.Start
	}
	var last Minute
	for _, step := range job.Steps {
		if s, placed := c.at[[2]string{job.ID, step.ID}]; placed && leads(job, h.From, step.ID) && leads(job, step.ID, h.To) {
			last = max(last, s.End)
		}
	}
	return last
}

// leads reports whether a step comes before another, or is it.
func leads(job Job, first, then string) bool {
	if first == then {
		return true
	}
	i := slices.IndexFunc(job.Steps, func(s Step) bool { return s.ID == then })
	return i >= 0 && slices.ContainsFunc(job.Steps[i].After, func(l Lag) bool { return leads(job, first, l.Step) })
}

// count is what the plan costs, and how late each job is that is.
func (c *checker) count() (cost Cost, late map[string]Minutes) {
	cost, late = Cost{NotPlaced: len(c.left)}, map[string]Minutes{}
	for _, job := range c.p.Jobs {
		var finish Minute
		whole := true
		for _, step := range job.Steps {
			s, placed := c.at[[2]string{job.ID, step.ID}]
			whole = whole && placed
			finish = max(finish, s.End)
		}
		if !whole || len(job.Steps) == 0 {
			continue
		}
		cost.FinishSum += Minutes(finish)
		if by := Minutes(finish - job.Promised); by > 0 {
			late[job.ID] = by
			cost.WeightedLate += by * Minutes(job.Weight)
		}
	}
	for _, was := range c.p.Previous {
		key := [2]string{was.Job, was.Step}
		_, fixed := c.fixed[key]
		if s, placed := c.at[key]; placed && !fixed && (s.Start != was.Start || s.Person != was.Person) {
			cost.Changes++
		}
	}
	cost.Switches, cost.Handovers = c.turns()
	return cost, late
}

// sums: what the plan says of itself is so.
func (c *checker) sums() {
	cost, late := c.count()
	if cost != c.plan.Cost {
		c.broken("cost", "", "", "it is %+v, not %+v", cost, c.plan.Cost)
	}
	for _, l := range c.plan.Late {
		if late[l.Job] != l.By || l.BoundBy == "" {
			c.broken("late", l.Job, "", "it is %d late, not %d, bound by %q", late[l.Job], l.By, l.BoundBy)
		}
		delete(late, l.Job)
	}
	for job, by := range late {
		c.broken("late", job, "", "it is %d late and not said to be", by)
	}
	if b := c.plan.Bound; len(c.left) == 0 && (b.WeightedLate > cost.WeightedLate || b.FinishSum > cost.FinishSum) {
		c.broken("cost", "", "", "it is better than the bound %+v", b)
	}
}

// turns counts the switches and handovers of a plan as they are defined.
func (c *checker) turns() (switches, handovers int) {
	type done struct {
		Placed
		of    Job
		step  Step
		given int
	}
	var all []done
	for _, job := range c.p.Jobs {
		for _, step := range job.Steps {
			if s, placed := c.at[[2]string{job.ID, step.ID}]; placed {
				all = append(all, done{s, job, step, len(all)})
			}
		}
	}
	slices.SortFunc(all, func(a, b done) int {
		return cmp.Or(cmp.Compare(a.Start, b.Start), cmp.Compare(a.End, b.End), cmp.Compare(a.given, b.given))
	})
	before := func(i int, same func(a, b done) bool) (done, bool) {
		for k := i - 1; k >= 0; k-- {
			if same(all[k], all[i]) {
				return all[k], true
			}
		}
		return done{}, false
	}
	for i, s := range all {
		if last, is := before(i, func(a, b done) bool { return a.Job == b.Job }); is && last.Person != s.Person {
			handovers++
		}
		last, is := before(i, func(a, b done) bool { return a.Person == b.Person })
		if !is || last.Job == s.Job || c.leaves(last.Person, last.End) {
			continue
		}
		// They could have stayed where a step of that bike was there for them within five minutes.
		if slices.ContainsFunc(all, func(n done) bool {
			return n.Job == last.Job && n.Start >= last.End && c.may(last.Person, n.step) && !slices.ContainsFunc(n.step.After, func(l Lag) bool {
				f, placed := c.at[[2]string{n.Job, l.Step}]
				return !placed || f.End+Minute(l.Least) > last.End+5
			})
		}) {
			switches++
		}
	}
	return switches, handovers
}

// leaves reports whether a person has no more than five minutes left of their stretch, or none.
func (c *checker) leaves(person string, at Minute) bool {
	for _, p := range c.p.People {
		if p.ID == person {
			return !slices.ContainsFunc(p.Hours, func(h Stretch) bool { return h.From <= at && h.To > at+5 })
		}
	}
	return true
}

// may reports whether a person is one who does a step.
func (c *checker) may(person string, step Step) bool {
	return (step.By == "" || step.By == person) && slices.ContainsFunc(c.p.People, func(p Person) bool { return p.ID == person && slices.Contains(p.Skills, step.Skill) })
}
