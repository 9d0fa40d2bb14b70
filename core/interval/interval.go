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

// Event is something that happened to a bike.
type Event struct {
	Code EventCode
	On   Day
}

// Task is one thing that a bike needs again and again, with when it was last done.
type Task struct {
	Code        string
	EveryHardKM forecast.HardKM // zero: distance does not count
	EveryDays   int             // zero: time does not count
	LastHardKM  forecast.HardKM
	LastOn      Day
	SameDay     bool    // what happened on LastOn itself counts: it came after, as on the day on which a bike is first seen
	Weight      float64 // of its urgency among tasks of one state
	Safety      bool
	Events      []Event // that make it due at once, if they came after it was last done
}

// Standing is how a task stands on a day.
type Standing struct {
	Code  string
	Used  float64 // share of the interval
	State State
	Binds Binds
	DueOn *Day   // may lie in the past; nil where nothing says
	Event *Event // the earliest since it was done, if there was one
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

// stand lays out one task: used is the larger share of distance and days, and at least 1 after an event.
func stand(t Task, q Question) Standing {
	s := Standing{Code: t.Code}
	due := func(on Day) {
		if s.DueOn == nil || on < *s.DueOn {
			s.DueOn = &on
		}
	}
	if t.EveryHardKM > 0 {
		s.Used, s.Binds = float64((q.Now-t.LastHardKM)/t.EveryHardKM), ByDistance
		if left := float64(t.LastHardKM + t.EveryHardKM - q.Now); q.Rate > 0 {
			if days := max(math.Ceil(left/float64(q.Rate)), 0); days < farthest {
				due(q.Today + Day(days))
			}
		}
	}
	if t.EveryDays > 0 {
		if used := float64(q.Today-t.LastOn) / float64(t.EveryDays); s.Binds == ByNothing || used > s.Used {
			s.Used, s.Binds = used, ByDays
		}
		due(t.LastOn + Day(t.EveryDays))
	}
	for _, e := range t.Events {
		if (e.On > t.LastOn || t.SameDay && e.On == t.LastOn) && (s.Event == nil || e.On < s.Event.On) {
			s.Event = &e
		}
	}
	if s.Event != nil {
		if s.Used < 1 {
			s.Used, s.Binds = 1, ByEvent
		}
		due(q.Today)
	}
	s.Used = max(s.Used, 0)
	s.State = StateOf(s.Used)
	return s
}

// farthest is how many days ahead a due date is worth giving: a century.
const farthest = 36525
