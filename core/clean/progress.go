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
	from := leadsBack(steps, steps[i].Back)
	if from == "" {
		if steps[i].Fail == "" {
			return nil
		}
		return []string{failed}
	}
	return again(steps, from, failed)
}

// again are the steps from one to one that failed, with all that leads from the one to the other.
func again(steps []Planned, from, failed string) []string {
	i := slices.IndexFunc(steps, func(s Planned) bool { return s.Code == failed })
	if i < 0 {
		return nil
	}
	// In sequence, so one pass on reaches all that follow, and one pass back all that lead there.
	follows, leads := map[string]bool{from: true}, map[string]bool{failed: true}
	for _, s := range steps[:i+1] {
		if slices.ContainsFunc(s.Before, func(code string) bool { return follows[code] }) {
			follows[s.Code] = true
		}
	}
	for k := i; k >= 0; k-- {
		if !leads[steps[k].Code] {
			continue
		}
		for _, code := range steps[k].Before {
			leads[code] = true
		}
	}
	var codes []string
	for _, s := range steps[:i+1] {
		if follows[s.Code] && leads[s.Code] {
			codes = append(codes, s.Code)
		}
	}
	return codes
}

// Felt is what somebody may feel on the test ride, and where it is looked for.
type Felt struct {
	Code, Says string
	Back       []string // the first of these that is part of the job
}

var felts = []Felt{
	{"skips", "The chain skips or jumps", []string{"index", "tension", "gears-through"}},
	{"shifts-badly", "It shifts badly", []string{"index", "gears-through"}},
	{"brake", "A brake is weak, rubs or squeals", []string{"brake-faces", "brakes-test"}},
	{"loose", "Something is loose or knocks", []string{"crank-on", "axles"}},
	{"noisy", "The chain is noisy", []string{"oil", "drip-one", "grease-wipe", "gears-through", "tension"}},
	{"rough", "It turns roughly or a link is stiff", []string{"wax-break", "chain-on", "new-chain", "gears-through", "tension"}},
	{"motor", "The motor cuts out", []string{"contacts-dry", "motor-on"}},
	{"else", "Something else", []string{"gears-through", "brakes-test"}},
}

// Felts are what may be felt on the test ride of a job, as far as a step of it can mend it; none for any other step.
func Felts(steps []Planned, code string) []Felt {
	if code != testRide {
		return nil
	}
	var all []Felt
	for _, f := range felts {
		if leadsBack(steps, f.Back) != "" {
			all = append(all, f)
		}
	}
	return all
}

// testRide is the step whose failure is told apart by what was felt.
const testRide = "ride"

// leadsBack is the first of codes that is part of a job; empty where none is.
func leadsBack(steps []Planned, codes []string) string {
	i := slices.IndexFunc(codes, func(code string) bool {
		return slices.ContainsFunc(steps, func(s Planned) bool { return s.Code == code })
	})
	if i < 0 {
		return ""
	}
	return codes[i]
}

// SendBackFelt is [SendBack] for a test ride on which something was felt; empty where nothing of the job mends it.
func SendBackFelt(steps []Planned, code string) []string {
	i := slices.IndexFunc(felts, func(f Felt) bool { return f.Code == code })
	if i < 0 {
		return nil
	}
	from := leadsBack(steps, felts[i].Back)
	if from == "" {
		return nil
	}
	return again(steps, from, testRide)
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
