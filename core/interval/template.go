package interval

import (
	"fmt"
	"slices"

	"earnestpony/core/chain"
	"earnestpony/core/forecast"
	"earnestpony/core/lube"
)

// EventCode is what kind of event it is.
type EventCode string

// The events (handbook: intervals, Tasks).
const (
	SoakedRide    EventCode = "soaked-ride"
	Squeak        EventCode = "squeak"
	Washed        EventCode = "wash"
	MudRide       EventCode = "mud"
	WaterCrossing EventCode = "water-crossing"
	BlackFinger   EventCode = "black-finger"
	GritHeard     EventCode = "grit-heard"
	ToWax         EventCode = "change-to-wax"
	StoredWet     EventCode = "stored-wet"
	DirtyFrame    EventCode = "dirty-frame"
	Visit         EventCode = "visit"
	ToReplace     EventCode = "verdict-replace"
	Skips         EventCode = "skip"
	NewChain      EventCode = "new-chain"
	Contamination EventCode = "contamination"
)

// reported are the events that somebody tells of; the others follow from what was done.
var reported = []EventCode{SoakedRide, Squeak, MudRide, WaterCrossing, BlackFinger, GritHeard, StoredWet, Skips, Contamination}

// Reported lists the events that a person may report.
func Reported() []EventCode { return slices.Clone(reported) }

// ParseReported reads an event that a person reports.
func ParseReported(s string) (EventCode, error) {
	if slices.Contains(reported, EventCode(s)) {
		return EventCode(s), nil
	}
	return "", fmt.Errorf("%q is no event that is reported: one of %q", s, reported)
}

// The codes of the house's tasks.
const (
	Relubricate  = "relubricate"
	CleanOnBike  = "clean-on-bike"
	DeepClean    = "deep-clean"
	StripService = "strip"
	Wash         = "wash"
	ReadWear     = "read-wear"
	ReplaceChain = "replace-chain"
	LookAtTeeth  = "look-at-teeth"
	Pivots       = "pivots"
	BrakesLook   = "brakes"
	Contacts     = "contacts"
)

// Rule is how a task falls due on bikes of a house.
type Rule struct {
	Code        string
	EveryHardKM forecast.HardKM
	EveryDays   int
	Weight      float64
	Safety      bool
	After       []EventCode // due at once after these
	// Restarts reports that a new chain starts it afresh.
	Restarts bool
}

// bareSteelWithin is within how many days a chain is lubricated that got wet through: bare wet steel rusts.
const bareSteelWithin = 2

// EventOf is an event of a day as it counts for a task.
func EventOf(task string, code EventCode, on Day) Event {
	e := Event{Code: code, On: on}
	switch {
	case task == Relubricate && (code == SoakedRide || code == WaterCrossing || code == Washed):
		e.WithinDays = bareSteelWithin
	case task == ReadWear && code == Visit, task == LookAtTeeth && code == NewChain,
		(task == Pivots || task == Contacts) && code == Washed:
		e.Follows = true
	}
	return e
}

// School is how often a house cleans.
type School uint8

// The schools. Each is a template of intervals.
const (
	House     School = iota // at intervals
	Keen                    // a thorough clean on the bike, wheels out, every 300 hard km
	WipeOften               // wiped after every ride, degreased each six months
	Yearly                  // stripped once a year, washed when dirty
)

var schools = [...]string{"house", "keen", "wipe-often", "yearly"}

func (s School) String() string { return schools[s] }

// Schools lists them, the house's first.
func Schools() []School { return []School{House, Keen, WipeOften, Yearly} }

// ParseSchool reads the name that [School.String] writes.
func ParseSchool(s string) (School, error) {
	if i := slices.Index(schools[:], s); i >= 0 {
		return School(i), nil
	}
	return 0, fmt.Errorf("%q is no school of intervals: one of %q", s, schools)
}

// Weights of urgency (handbook: intervals, The arithmetic).
const (
	weightFirst  = 3.0 // replace chain, brakes
	weightRead   = 2.0
	weightLube   = 1.5
	weightOthers = 1.0
)

// readWearHardKM is how far a chain is ridden before it is read again where no forecast says.
const readWearHardKM forecast.HardKM = 500

// saltDays is how many days between deep cleans with winter salt; saltFrom is the share of salted riding from
// which a winter counts as one.
const (
	saltDays = 90
	saltFrom = 0.1
)

// template is the house's table. What turns on the bike alone, its lubricant and its forecast, is filled
// in by [Rules].
var template = []Rule{
	{Code: Relubricate, Weight: weightLube, After: []EventCode{SoakedRide, WaterCrossing, Squeak, Washed}, Restarts: true},
	{Code: CleanOnBike, EveryHardKM: 400, EveryDays: 30, Weight: weightOthers, After: []EventCode{SoakedRide, MudRide, WaterCrossing, BlackFinger, GritHeard}},
	{Code: DeepClean, EveryHardKM: 2000, EveryDays: 180, Weight: weightOthers, After: []EventCode{ToWax}},
	{Code: StripService, EveryHardKM: 6000, EveryDays: 365, Weight: weightOthers, After: []EventCode{StoredWet}},
	{Code: Wash, EveryDays: 21, Weight: weightOthers, After: []EventCode{DirtyFrame}},
	{Code: ReadWear, EveryHardKM: readWearHardKM, EveryDays: 90, Weight: weightRead, After: []EventCode{Visit}, Restarts: true},
	{Code: ReplaceChain, Weight: weightFirst, After: []EventCode{ToReplace}, Restarts: true},
	{Code: LookAtTeeth, EveryHardKM: 1000, EveryDays: 180, Weight: weightOthers, After: []EventCode{Skips, NewChain}},
	{Code: Pivots, EveryHardKM: 800, EveryDays: 90, Weight: weightOthers, After: []EventCode{Washed}},
	{Code: BrakesLook, EveryHardKM: 800, EveryDays: 90, Weight: weightFirst, Safety: true, After: []EventCode{Contamination}},
	{Code: Contacts, EveryDays: 60, Weight: weightOthers, After: []EventCode{Washed}},
}

// Bike is what the rules turn on.
type Bike struct {
	Train     chain.Drivetrain
	FixedGear bool
	Salt      float64 // share of riding on salted roads, 0 to 1
	Lube      lube.Family
	When      lube.When // the house's school of when to lubricate
}

// lubeDays is after how many days a chain is lubricated again, however little it is ridden.
func lubeDays(f lube.Family) int {
	switch f {
	case lube.DripWax:
		return 21
	case lube.ImmersionWax:
		return 60
	case lube.WetOil, lube.DryOil, lube.AllWeather:
	}
	return 30
}

// Rules are the house's tasks for a bike, in the table's order: those that it can need.
func Rules(b Bike, school School) []Rule {
	var rules []Rule
	for _, r := range template {
		switch r.Code {
		case Relubricate:
			r.EveryHardKM, r.EveryDays = b.When.Every(b.Lube), lubeDays(b.Lube)
		case CleanOnBike:
			switch school {
			case Keen:
				r.EveryHardKM = 300
			case WipeOften, Yearly: // wiped after each ride, or left: only what happens makes it due
				r.EveryHardKM, r.EveryDays = 0, 0
			case House:
			}
		case DeepClean:
			switch school {
			case WipeOften:
				r.EveryHardKM = 0
			case Yearly:
				r.EveryHardKM, r.EveryDays = 0, 0
			case House, Keen:
				if b.Salt >= saltFrom {
					r.EveryDays = saltDays
				}
			}
		case StripService:
			if school == Yearly {
				r.EveryHardKM = 0
			}
		case Wash:
			if school == Yearly {
				r.EveryDays = 0
			}
		case Pivots:
			if b.FixedGear {
				continue // no derailleur and no gear cable
			}
		case Contacts:
			if b.Train.Motor == chain.NoMotor {
				continue
			}
		}
		rules = append(rules, r)
	}
	return rules
}

// doneBy says which tasks a step of a job does. Deeper cleaning does the lighter as well.
var doneBy = map[string][]string{
	"oil": {Relubricate}, "drip-one": {Relubricate}, "wax-in": {Relubricate}, "grease-wipe": {Relubricate}, "hot-water": {CleanOnBike}, "sprockets-on": {CleanOnBike, DeepClean},
	"rag-test": {CleanOnBike}, "chain-rag": {CleanOnBike, DeepClean}, "bare-look": {CleanOnBike, DeepClean},
	"crank-on": {CleanOnBike, DeepClean, StripService},
	"rinse":    {Wash}, "frame-wipe": {Wash}, "look-teeth": {LookAtTeeth}, "pivots": {Pivots}, "brakes-test": {BrakesLook}, "contacts-dry": {Contacts},
}

// DoneBy lists the tasks that a step of a job does.
func DoneBy(step string) []string { return doneBy[step] }

// FollowsStep is the event that a step of a job is, if it is one.
func FollowsStep(step string) (EventCode, bool) {
	if step == "rinse" {
		return Washed, true
	}
	return "", false
}

// complaints are the events that an owner's complaints are.
var complaints = map[string]EventCode{"squeaks": Squeak, "gritty": GritHeard, "black-again": BlackFinger, "skips": Skips, "brakes": Contamination}

// FollowsComplaint is the event that a complaint is, if it is one.
func FollowsComplaint(code string) (EventCode, bool) {
	e, is := complaints[code]
	return e, is
}

// dirtyFrom is the grade of a frame from which it is to be washed.
const dirtyFrom = 3

// FollowsFrame reports whether a frame so dirty is an event.
func FollowsFrame(grade int) bool { return grade >= dirtyFrom }

// aheadOf is how many days before a date on which the bike is needed things are done, and how far after it
// things that would fall due are pulled before it.
const (
	pullWithin    = 14
	aheadOfChain  = 7
	aheadOfOthers = 1
)

// Pull brings a due date forward to before a day on which the bike is needed: what would fall due up to a
// fortnight after it is done a week before for a chain, a day before for what is put on.
func Pull(task string, due, needed Day) Day {
	ahead := Day(aheadOfOthers)
	if task == ReplaceChain {
		ahead = aheadOfChain
	}
	if due > needed+pullWithin {
		return due
	}
	return min(due, needed-ahead)
}
