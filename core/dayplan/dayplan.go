// Package dayplan lays out a day of jobs for several people: who does which step when, so that promises
// are kept, waits overlap and hands are never idle (handbook: dayplan).
//
//	s, err := dayplan.New(problem, seed)
//	s.Improve(2000)
//	plan := s.Best() // plan.Steps say who starts what when, plan.Late which promises it could not keep
//
// The same problem, seed and number of iterations give the same plan; nothing here reads a clock. [Check]
// holds a plan against its problem and shares no code with what made it.
package dayplan

import "fmt"

// Minute is a time, in minutes from midnight of the first day; it goes on past 1440.
type Minute int

// Minutes is a length of time.
type Minutes int

// Problem is what is to be done, and by whom.
type Problem struct {
	People []Person
	Places []Place
	Jobs   []Job
	// Fixed are the steps begun or done. They stay as they are, whatever rule they break.
	Fixed []Placed
	// Previous is the plan on the wall.
	Previous []Placed
	// Now is the first minute at which anything that is not fixed may start.
	Now     Minute
	Weights Weights
}

// Weights is what unrest in a plan weighs, in minutes of finishing: how much sooner all jobs together must be finished for
// it to be worth that. Zero takes it for anything that is gained.
type Weights struct {
	Switch   Minutes // a person goes on to another bike although the one before could have gone on
	Handover Minutes // a bike's next step is somebody else's
	Move     Minutes // a step stands elsewhere than on the wall
}

// Usual are the weights of a day that people follow; what a move weighs is for whoever has a wall to say (handbook: dayplan).
var Usual = Weights{Switch: 4, Handover: 8}

// Person works in stretches, and does one thing at a time.
type Person struct {
	ID     string
	Skills []string
	Hours  []Stretch // in order, apart from each other
}

// Stretch is a stretch of hours without a break, from a minute up to another.
type Stretch struct{ From, To Minute }

// Place is something that a bike or a part is in: a stand, a tub. Count is how many at a time.
type Place struct {
	ID    string
	Count int
	Only  bool // there cannot be more of it, so more is no remedy: the one bike that two might work on
}

// Job is one bike's work.
type Job struct {
	ID       string
	Arrives  Minute
	Promised Minute
	Weight   int // of its lateness; 1 is usual, 3 that the owner is waiting
	Steps    []Step
	Holds    []Hold
}

// Step is done by one person without interruption.
type Step struct {
	ID       string
	Skill    string
	Attended Minutes // of hands; may be zero
	After    []Lag
	By       string // the only person for it; empty for whoever has the skill
	// At is when it is to begin, never sooner and as soon as possible after; zero leaves that open.
	At Minute
}

// Lag is what lies between the end of a step and the start of one that follows.
type Lag struct {
	Step  string // which is followed
	Least Minutes
	Most  *Minutes // nil: no limit
}

// Hold keeps one unit of a place from the start of a step to the start of another, or to its end.
type Hold struct {
	Place    string
	From, To string
	Through  bool // to the end of To
}

// Placed is a step that a person starts at a time.
type Placed struct {
	Job, Step, Person string
	Start, End        Minute
}

// Plan is who does what when.
type Plan struct {
	Steps     []Placed // those fixed too; in order of jobs as given, then of start
	NotPlaced []NotPlaced
	Late      []Late // in order of jobs as given
	Cost      Cost
	Bound     Bound
	// Iterations is how often the plan was tried to be improved.
	Iterations int
}

// Why is a rule that stops a step.
type Why string

// The rules.
const (
	NoSkill  Why = "no-skill"  // nobody here has it, or the one person who may
	TooLong  Why = "too-long"  // for any stretch of those who have it
	NoPlace  Why = "no-place"  // there is none of the place it needs
	NoHours  Why = "no-hours"  // all who could are at other things for as long as their hours go
	Window   Why = "window"    // it would come later than it may after what it follows
	NotAfter Why = "not-after" // what it follows is not placed
)

// NotPlaced is a step that found no place in the plan.
type NotPlaced struct {
	Job, Step string
	Why       Why
}

// Late is a promise that the plan does not keep.
type Late struct {
	Job string
	By  Minutes
	// BoundBy is what holds it back: a person ("person:mira"), their hours ("hours:mira"), a place
	// ("place:tub"), a wait ("wait:dry"), that it comes so late ("arrival"), or the work itself ("work").
	BoundBy string
}

// Cost is what a plan is judged by: first the steps it leaves out, then each part in turn. Jobs of which a
// step is not placed count in neither lateness nor finishing.
type Cost struct {
	NotPlaced    int
	WeightedLate Minutes // sum of weight × minutes late
	FinishSum    Minutes // sum of finishing times
	Switches     int     // how often somebody went on to another bike although the one before could have gone on
	Handovers    int     // how often a bike's next step is somebody else's
	Changes      int     // steps on the wall whose person or start is another
}

// Unrest is what switches and handovers weigh together.
func (c Cost) Unrest(w Weights) Minutes {
	return Minutes(c.Switches)*w.Switch + Minutes(c.Handovers)*w.Handover
}

// Less reports whether c is better than d, where unrest weighs so much.
func (c Cost) Less(d Cost, w Weights) bool {
	if c.NotPlaced != d.NotPlaced {
		return c.NotPlaced < d.NotPlaced
	}
	if c.WeightedLate != d.WeightedLate {
		return c.WeightedLate < d.WeightedLate
	}
	sum := func(c Cost) Minutes { return c.FinishSum + c.Unrest(w) + Minutes(c.Changes)*w.Move }
	if a, b := sum(c), sum(d); a != b {
		return a < b
	}
	return c.Changes < d.Changes
}

// Bound is what no plan of the whole can be better than, in lateness and finishing alone.
type Bound struct {
	WeightedLate Minutes
	FinishSum    Minutes
}

// FaultError is a problem that makes no sense.
type FaultError struct{ Job, Step, What string }

func (e *FaultError) Error() string {
	switch {
	case e.Step != "":
		return fmt.Sprintf("step %s of job %s: %s", e.Step, e.Job, e.What)
	case e.Job != "":
		return fmt.Sprintf("job %s: %s", e.Job, e.What)
	}
	return e.What
}
