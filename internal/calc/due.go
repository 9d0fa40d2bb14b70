package calc

import (
	"earnestpony/core/forecast"
	"earnestpony/core/interval"
)

// DueAnswer is what [Due] answers: the tasks in order of urgency, and what is done in one visit.
type DueAnswer struct {
	Tasks []DueTask `json:"tasks"`
	Visit []string  `json:"visit"`
}

// DueTask is how one task stands.
type DueTask struct {
	Code  string  `json:"code"`
	Used  float64 `json:"used"`
	State string  `json:"state"`
	Binds *string `json:"binds"` // null where it has no interval and nothing happened
	DueOn *string `json:"due_on"`
}

// Due says how the tasks of a bike stand; see the contract for its input.
func Due(input []byte) (*DueAnswer, error) {
	var f faults
	in, ok := root(input, &f)
	if !ok {
		return nil, f.refusal()
	}
	q := interval.Question{LookAhead: 14}
	var knowsDay bool
	q.Today, knowsDay = dayNeeded(in, "today")
	before := len(f.fields)
	q.Now = forecast.HardKM(in.numberNeeded("now_hard_km", 0, 1e7))
	knowsKM := len(f.fields) == before
	rate, _ := in.number("rate_hard_km_per_day", 0, 2000)
	q.Rate = forecast.HardKMPerDay(rate)
	if in.has("lookahead_days") {
		q.LookAhead = in.wholeNeeded("lookahead_days", 0, 366)
	} else {
		in.take("lookahead_days")
	}
	if !in.has("tasks") {
		in.need("tasks")
	}
	seen := map[string]bool{}
	for _, o := range in.objects("tasks", 0, 200) {
		t := readTask(o)
		// What cannot be told from a fault above is not called another.
		if knowsKM && t.LastHardKM > q.Now {
			f.add(o.at("last_hard_km"), "in-the-future", "it was not ridden that far yet")
		}
		if knowsDay && t.LastOn > q.Today {
			f.add(o.at("last_on"), "in-the-future", "this day is still to come")
		}
		if seen[t.Code] && t.Code != "" {
			f.add(o.at("code"), "twice", "there is a task of this code already")
		}
		seen[t.Code] = true
		q.Tasks = append(q.Tasks, t)
	}
	in.done()
	if err := f.refusal(); err != nil {
		return nil, err
	}
	return newDueAnswer(interval.Look(q)), nil
}

func readTask(o *object) interval.Task {
	every, _ := o.number("every_hard_km", 1, 1e6)
	days, _ := o.whole("every_days", 1, 36500)
	t := interval.Task{Code: named(o, "code", true, anyText), EveryHardKM: forecast.HardKM(every), EveryDays: days,
		LastHardKM: forecast.HardKM(o.numberNeeded("last_hard_km", 0, 1e7)), Weight: 1, Safety: o.boolean("safety", false)}
	if o.has("weight") {
		t.Weight, _ = o.number("weight", 0, 1000)
	} else {
		o.take("weight")
	}
	t.LastOn, _ = dayNeeded(o, "last_on")
	for _, e := range o.objects("events", 0, 1000) {
		on, _ := dayNeeded(e, "on")
		within, _ := e.whole("within_days", 1, 365)
		t.Events = append(t.Events, interval.Event{Code: interval.EventCode(named(e, "code", true, anyText)), On: on, WithinDays: within, AfterDone: e.boolean("after_done", false)})
		e.done()
	}
	o.done()
	return t
}

func anyText(s string) (string, error) { return s, nil }

// dayNeeded reads a day that must be there.
func dayNeeded(o *object, name string) (interval.Day, bool) {
	if !o.has(name) {
		o.take(name)
		o.need(name)
		return 0, false
	}
	day, ok := o.date(name)
	return interval.DayOf(day), ok
}

func newDueAnswer(a interval.Answer) *DueAnswer {
	out := &DueAnswer{Tasks: []DueTask{}, Visit: append([]string{}, a.Visit...)}
	for _, s := range a.Tasks {
		t := DueTask{Code: s.Code, Used: s.Used, State: s.State.String()}
		if s.Binds != interval.ByNothing {
			binds := s.Binds.String()
			t.Binds = &binds
		}
		if s.DueOn != nil {
			on := s.DueOn.String()
			t.DueOn = &on
		}
		out.Tasks = append(out.Tasks, t)
	}
	return out
}
