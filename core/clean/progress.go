package clean

import (
	"slices"
	"time"
)

// Mark is how far a step of a job is. The zero value is not begun.
type Mark struct {
	Begun, Done bool
	Skipped     bool // left out, with a reason; counts as done
	// Over is when the wait that runs from its end is over, and Late when it has run too long; zero where
	// there is none.
	Over, Late time.Time
}

// Standing is what can be done about a step now.
type Standing uint8

// The standings.
const (
	Blocked  Standing = iota // something else comes first
	Held                     // only a wait holds it
	Ready                    //
	Underway                 // somebody is at it
	Finished                 //
	Withheld                 // until a finding is settled; [StandingOf] does not say so, as it knows of none
)

var standings = [...]string{"blocked", "held", "ready", "underway", "finished", "withheld"}

func (s Standing) String() string { return standings[s] }

// StandingOf says how a step stands at a time, by the marks of all steps of its job. Until is when the last
// wait that holds it is over.
func StandingOf(s Planned, marks map[string]Mark, now time.Time) (standing Standing, until time.Time) {
	switch m := marks[s.Code]; {
	case m.Done || m.Skipped:
		return Finished, until
	case m.Begun:
		return Underway, until
	}
	for _, code := range s.Before {
		if before := marks[code]; !before.Done && !before.Skipped {
			return Blocked, until
		}
	}
	for _, code := range s.Waits {
		if over := marks[code].Over; over.After(now) && over.After(until) {
			until = over
		}
	}
	if !until.IsZero() {
		return Held, until
	}
	return Ready, until
}

// SendBack are the codes of the steps that are done again when the check of a step fails: from where it
// goes back to, all that leads from there to the step. It is empty where the step cannot fail.
func SendBack(steps []Planned, failed string) []string {
	i := slices.IndexFunc(steps, func(s Planned) bool { return s.Code == failed })
	if i < 0 {
		return nil
	}
	back := slices.IndexFunc(steps[i].Back, func(code string) bool {
		return slices.ContainsFunc(steps, func(s Planned) bool { return s.Code == code })
	})
	if back < 0 {
		if steps[i].Fail == "" {
			return nil
		}
		return []string{failed}
	}
	from := steps[i].Back[back]
	again := map[string]bool{from: true}
	for _, s := range steps[:i+1] { // in sequence, so one pass reaches all that follow
		if slices.ContainsFunc(s.Before, func(code string) bool { return again[code] }) {
			again[s.Code] = true
		}
	}
	var codes []string
	for _, s := range steps[:i+1] {
		if again[s.Code] && (s.Code == failed || leadsTo(steps, s.Code, failed)) {
			codes = append(codes, s.Code)
		}
	}
	return codes
}

func leadsTo(steps []Planned, from, to string) bool {
	i := slices.IndexFunc(steps, func(s Planned) bool { return s.Code == to })
	return i >= 0 && slices.ContainsFunc(steps[i].Before, func(code string) bool {
		return code == from || leadsTo(steps, from, code)
	})
}

// OpenChecks are the safety checks that are not made yet: until they are, the bike is not handed back.
func OpenChecks(steps []Planned, marks map[string]Mark) []string {
	var open []string
	for _, s := range steps {
		if s.Gate && !marks[s.Code].Done {
			open = append(open, s.Code)
		}
	}
	return open
}

// SuggestAfter is how often a check of the chain bath may fail before a soak is suggested.
const SuggestAfter = 3
