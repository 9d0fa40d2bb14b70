package interval

// The catalogue's words for a customer: what a task is called in a message, on their page and in their calendar.

// says is a task in a customer's words: when it is due, and while it is still to come.
type says struct{ due, toCome string }

var taskSays = map[string]says{
	Relubricate:  {"the chain needs lubricating", "the chain will need lubricating"},
	CleanOnBike:  {"the drivetrain needs cleaning", "the drivetrain will need cleaning"},
	DeepClean:    {"the drivetrain needs a deep clean", "the drivetrain will need a deep clean"},
	StripService: {"the drivetrain needs taking apart and servicing", "the drivetrain will need taking apart and servicing"},
	Wash:         {"it needs a wash", "it will need a wash"},
	ReadWear:     {"its chain should be measured", "its chain will need measuring"},
	ReplaceChain: {"the chain is worn and should be replaced", "the chain will be worn and need replacing"},
	LookAtTeeth:  {"cassette and chainrings should be checked", "cassette and chainrings will need checking"},
	Pivots:       {"derailleurs and cables need a drop of oil", "derailleurs and cables will need a drop of oil"},
	BrakesLook:   {"the brakes should be checked", "the brakes will need checking"},
	Contacts:     {"the motor contacts need care", "the motor contacts will need care"},
}

// wornByForecast is said of a chain whose time has come by what it was expected to last: nobody measured that it is worn.
const wornByForecast = "the chain has run as far as it was expected to last"

// Says is a task in a customer's words, ready to stand in a sentence; empty for one that is not in the catalogue.
// Event is what makes it due, where something does: a chain counts as worn only by a reading, not by its age.
func Says(task string, due bool, event EventCode) string {
	s := taskSays[task]
	switch {
	case !due:
		return s.toCome
	case task == ReplaceChain && event != ToReplace:
		return wornByForecast
	}
	return s.due
}

var eventSays = map[EventCode]string{
	SoakedRide: "after a ride in heavy rain", Squeak: "it squeaked", Washed: "it was washed", MudRide: "after a ride in mud",
	WaterCrossing: "after a stream crossing", BlackFinger: "it leaves black on a finger", GritHeard: "it sounds gritty", ToWax: "it changes to wax",
	StoredWet: "it was stored wet", DirtyFrame: "it was dirty", Visit: "it was in the workshop", ToReplace: "the last reading says so",
	Skips: "it skips", NewChain: "its chain is new", Contamination: "the brake may be contaminated",
}

// Says is what happened, as the reason that a customer reads; empty for what is not in the catalogue.
func (e EventCode) Says() string { return eventSays[e] }

var leaveSays = map[string]string{
	ReplaceChain: "If it is ridden on, it wears the cassette too.",
	Relubricate:  "A dry chain wears several times as fast.",
	CleanOnBike:  "Grit inside the chain grinds it away.",
	DeepClean:    "Grit inside the chain grinds it away.",
	StripService: "Grit inside the chain grinds it away.",
	BrakesLook:   "Brakes are not left waiting.",
	ReadWear:     "Finding a worn chain in time saves the cassette.",
	Contacts:     "Wet contacts corrode.",
}

// LeaveItSays is what comes of it when a task is not done, as a sentence; empty where nothing much does.
func LeaveItSays(task string) string { return leaveSays[task] }
