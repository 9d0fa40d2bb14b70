package dayplan

// binds is what holds the last task of a job back: it goes back from task to task for as long as each starts
// right after what it follows, and names what it meets.
func (b *board) binds(j int) string {
	s := b.s
	last := s.jobs[j].tasks[0]
	for _, t := range s.jobs[j].tasks {
		if b.end(t) > b.end(last) {
			last = t
		}
	}
	longest, waits := 0, ""
	for t := last; ; {
		one := &s.tasks[t]
		if one.fixed {
			break
		}
		tight := -1
		for _, l := range one.before {
			if b.end(l.task)+l.least == b.start[t] {
				tight = l.task
				if l.least > longest {
					longest, waits = l.least, s.step(l.task)
				}
				break
			}
		}
		if tight >= 0 {
			t = tight
			continue
		}
		if b.start[t] > max(int(s.problem.Now), s.jobs[j].arrives) {
			return b.contended(t)
		}
		if longest == 0 && s.jobs[j].arrives > int(s.problem.Now) && s.jobs[j].arrives+one.tail > s.jobs[j].promised {
			return "arrival"
		}
		break
	}
	if waits != "" {
		return "wait:" + waits
	}
	return "work"
}

// contended is what a task waits for that could start a minute sooner by its job alone.
func (b *board) contended(t int) string {
	s, one := b.s, &b.s.tasks[t]
	before := b.start[t] - 1
	here := false
	for _, p := range one.who {
		for _, h := range s.people[p].hours {
			if int(h.From) > before || before+one.dur > int(h.To) {
				continue
			}
			here = true
			idle := true
			for _, busy := range b.busy[p] {
				mine := int(busy.From) == b.start[t] && b.by[t] == p
				if !mine && int(busy.From) < before+one.dur && before < int(busy.To) {
					idle = false
				}
			}
			if !idle {
				continue
			}
			for _, h := range one.holds {
				return "place:" + s.problem.Places[s.holds[h].place].ID
			}
			for _, h := range s.jobs[one.job].holds {
				return "place:" + s.problem.Places[s.holds[h].place].ID
			}
		}
	}
	who := s.problem.People[b.by[t]].ID
	if !here {
		return "hours:" + who
	}
	return "person:" + who
}

func (s *Solver) step(t int) string {
	j := s.tasks[t].job
	return s.problem.Jobs[j].Steps[t-s.jobs[j].first].ID
}
