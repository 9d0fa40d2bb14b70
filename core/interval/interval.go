// Package interval says what a bike needs next, when, and why: tasks that fall due by distance, by time
// or at once after an event (handbook: intervals).
//
//	a := interval.Look(interval.Question{Today: day, Now: 2267, Rate: 14.5, LookAhead: 14, Tasks: tasks})
//	// a.Tasks stand in order of urgency, a.Visit are the codes to be done together
package interval

import (
	"cmp"
	"math"
	"slices"
	"time"

	"earnestpony/core/forecast"
)

// Day is a calendar day, counted from 1 January 1970. Zero is that day; what is not known is a nil pointer.
type Day int

const secondsADay = 24 * 60 * 60

// DayOf is the day of a time by that time's own clock.
func DayOf(t time.Time) Day {
	y, m, d := t.Date()
	return Day(time.Date(y, m, d, 0, 0, 0, 0, time.UTC).Unix() / secondsADay)
}

// ParseDay reads a day as 2006-01-02.
func ParseDay(s string) (Day, error) {
	t, err := time.Parse(time.DateOnly, s)
	return DayOf(t), err
}

// Time is midnight of the day, in UTC.
func (d Day) Time() time.Time { return time.Unix(int64(d)*secondsADay, 0).UTC() }

func (d Day) String() string { return d.Time().Format(time.DateOnly) }

// State is how pressing a task is.
type State uint8

// The states: fresh below 0.7 of an interval, soon below 1, due below 1.25, then overdue.
const (
	Fresh State = iota
	Soon
	Due
	Overdue
)

// The shares of an interval at which a state begins (handbook: intervals, The arithmetic).
const (
	soonFrom    = 0.7
	dueFrom     = 1.0
	overdueFrom = 1.25
	// visitFrom is the share from which a task is done with others in one visit.
	visitFrom = 0.8
)

var states = [...]string{"fresh", "soon", "due", "overdue"}

func (s State) String() string { return states[s] }

// StateOf is the state of a task that has used so much of its interval.
func StateOf(used float64) State {
	switch {
	case used < soonFrom:
		return Fresh
	case used < dueFrom:
		return Soon
	case used < overdueFrom:
		return Due
	}
	return Overdue
}

// Binds is what makes a task as pressing as it is. Zero is nothing: it has no interval and no event.
type Binds uint8

// What may bind.
const (
	ByNothing Binds = iota
	ByDistance
	ByDays
	ByEvent
)

var binds = [...]string{"", "distance", "days", "event"}

func (b Binds) String() string { return binds[b] }

// Event is something that happened to a bike and makes a task due at once, the more the longer it is left.
type Event struct {
	Code       EventCode
	On         Day
	WithinDays int  // how soon it must be done; zero is a fortnight
	AfterDone  bool // on the day on which the task was last done it came after that
	// Follows reports that it only follows from work done elsewhere: it makes a task due and never late.
	Follows bool
}

// usualWithin is how soon what an event makes due must be done, in days, and growth by how much of an interval it is
// later for each such time (handbook: intervals, The arithmetic).
const (
	usualWithin = 14
	growth      = 0.25
)

// used is what an event makes of a task on a day.
func (e Event) used(today Day) float64 {
	if e.Follows {
		return 1
	}
	return 1 + growth*float64(today-e.On)/float64(cmp.Or(e.WithinDays, usualWithin))
}

// Task is one thing that a bike needs again and again, with when it was last done.
type Task struct {
	Code        string
	EveryHardKM forecast.HardKM // zero: distance does not count
	EveryDays   int             // zero: time does not count
	LastHardKM  forecast.HardKM
	LastOn      Day
	UsedUpOn    *Day    // on which its distance was used up, where known
	Weight      float64 // of its urgency among tasks of one state
	Safety      bool
	Events      []Event // that make it due at once, if they came after it was last done and not after today
}

// Standing is how a task stands on a day.
type Standing struct {
	Code  string
	Used  float64 // share of the interval
	State State
	Binds Binds
	DueOn *Day   // may lie in the past; nil where nothing says
	Since *Day   // of what is due: the first day on which it was, the same on every day after
	Event *Event // that makes it the most pressing since it was done, if there was one
	// OnlyFollows reports that nothing makes it due but work done elsewhere: it is done in passing and nobody is told of it.
	OnlyFollows bool
}

// Question asks how the tasks of one bike stand.
type Question struct {
	Today     Day
	Now       forecast.HardKM
	Rate      forecast.HardKMPerDay // zero is not known, or not ridden
	LookAhead int                   // days
	Tasks     []Task
}

// Answer is how they stand: in order of urgency, and which are done together in one visit.
type Answer struct {
	Tasks []Standing
	Visit []string
}

// Look says how tasks stand.
func Look(q Question) Answer {
	type weighed struct {
		Standing
		weight float64
		safety bool
	}
	all := make([]weighed, len(q.Tasks))
	for i, t := range q.Tasks {
		all[i] = weighed{stand(t, q), t.Weight, t.Safety}
	}
	slices.SortStableFunc(all, func(a, b weighed) int {
		first := func(yes bool) int {
			if yes {
				return 0
			}
			return 1
		}
		return cmp.Or(cmp.Compare(b.State, a.State), cmp.Compare(first(a.safety), first(b.safety)),
			cmp.Compare(b.Used*b.weight, a.Used*a.weight), cmp.Compare(a.Code, b.Code))
	})
	var a Answer
	for _, w := range all {
		a.Tasks = append(a.Tasks, w.Standing)
		if w.Used >= visitFrom || w.DueOn != nil && *w.DueOn <= q.Today+Day(q.LookAhead) {
			a.Visit = append(a.Visit, w.Code)
		}
	}
	return a
}

// stand lays out one task: used is the largest share of distance, days and events.
func stand(t Task, q Question) Standing {
	s := Standing{Code: t.Code}
	earliest := func(at **Day, on Day) {
		if *at == nil || on < **at {
			*at = &on
		}
	}
	if t.EveryHardKM > 0 {
		s.Used, s.Binds = float64((q.Now-t.LastHardKM)/t.EveryHardKM), ByDistance
		if left := t.LastHardKM + t.EveryHardKM - q.Now; left <= 0 {
			earliest(&s.DueOn, q.Today)
			earliest(&s.Since, usedUpOn(t, -left, q))
		} else if q.Rate > 0 {
			if days := math.Ceil(float64(left) / float64(q.Rate)); days < farthest {
				earliest(&s.DueOn, q.Today+Day(days))
			}
		}
	}
	if t.EveryDays > 0 {
		if used := float64(q.Today-t.LastOn) / float64(t.EveryDays); s.Binds == ByNothing || used > s.Used {
			s.Used, s.Binds = used, ByDays
		}
		on := t.LastOn + Day(t.EveryDays)
		earliest(&s.DueOn, on)
		if on <= q.Today {
			earliest(&s.Since, on)
		}
	}
	s.OnlyFollows = s.Used < dueFrom
	var most float64
	for _, e := range t.Events {
		if e.On > q.Today || e.On < t.LastOn || e.On == t.LastOn && !e.AfterDone {
			continue
		}
		used := e.used(q.Today)
		if s.Event == nil || used > most || used == most && e.On < s.Event.On {
			s.Event, most = &e, used
		}
		s.OnlyFollows = s.OnlyFollows && e.Follows
		earliest(&s.DueOn, q.Today)
		earliest(&s.Since, e.On)
	}
	if most > s.Used {
		s.Used, s.Binds = most, ByEvent
	}
	s.Used = max(s.Used, 0)
	s.State = StateOf(s.Used)
	s.OnlyFollows = s.OnlyFollows && s.Event != nil
	return s
}

// usedUpOn is the day on which the distance of a task was used up that is over by now: the day that is known, else the one
// that the rate says.
func usedUpOn(t Task, over forecast.HardKM, q Question) Day {
	switch {
	case t.UsedUpOn != nil:
		return min(*t.UsedUpOn, q.Today)
	case q.Rate > 0:
		if days := math.Floor(float64(over) / float64(q.Rate)); days < farthest {
			return max(q.Today-Day(days), t.LastOn)
		}
		return t.LastOn
	}
	return q.Today
}

// farthest is how many days ahead a due date is worth giving: a century.
const farthest = 36525
