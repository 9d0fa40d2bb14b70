package due

import (
	"cmp"
	"fmt"
	"strings"

	"earnestpony/core/forecast"
	"earnestpony/core/interval"
	"earnestpony/core/price"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// The words that owners read where the program writes to them: messages and calendars. What screens say, the
// page words.

// taskSays is a task in an owner's words: when it is due, and while it is still to come.
type taskSays struct{ now, later string }

// taskWords are tasks as an owner understands them.
var taskWords = map[string]taskSays{
	interval.Relubricate:  {"the chain needs lubricating", "the chain will need lubricating"},
	interval.CleanOnBike:  {"the drivetrain needs cleaning", "the drivetrain will need cleaning"},
	interval.DeepClean:    {"the drivetrain needs a deep clean", "the drivetrain will need a deep clean"},
	interval.StripService: {"the drivetrain needs taking apart and servicing", "the drivetrain will need taking apart and servicing"},
	interval.Wash:         {"it needs a wash", "it will need a wash"},
	interval.ReadWear:     {"its chain should be measured", "its chain will need measuring"},
	interval.ReplaceChain: {"the chain is worn and should be replaced", "the chain will be worn and need replacing"},
	interval.LookAtTeeth:  {"sprockets and rings should be looked at", "sprockets and rings will need looking at"},
	interval.Pivots:       {"derailleurs and cables need a drop of oil", "derailleurs and cables will need a drop of oil"},
	interval.BrakesLook:   {"the brakes should be looked at", "the brakes will need looking at"},
	interval.Contacts:     {"the motor contacts need care", "the motor contacts will need care"},
}

// wornByForecast is said of a chain whose time has come by what it was expected to last: nobody measured that it is worn.
const wornByForecast = "the chain has run as far as it was expected to last"

var eventWords = map[interval.EventCode]string{
	interval.SoakedRide: "after a soaking ride", interval.Squeak: "it squeaked", interval.Washed: "it was washed", interval.MudRide: "after a ride in mud",
	interval.WaterCrossing: "after a ride through water", interval.BlackFinger: "it blackens the finger", interval.GritHeard: "grit is heard", interval.ToWax: "it changes to wax",
	interval.StoredWet: "it stood in the wet", interval.DirtyFrame: "it was dirty", interval.Visit: "it was in the workshop", interval.ToReplace: "the last reading says so",
	interval.Skips: "it skips", interval.NewChain: "its chain is new", interval.Contamination: "the brake may be contaminated",
}

// TitleOf is a task as an owner understands it: as something to come while it is still to come.
func TitleOf(t DueTask) string {
	says := taskWords[t.Code]
	switch {
	case !t.IsDue():
		says.now = says.later
	case t.Code == interval.ReplaceChain && t.Event != string(interval.ToReplace):
		says.now = wornByForecast
	}
	return cmp.Or(says.now, t.Title, strings.ReplaceAll(t.Code, "-", " "))
}

// WhyDue says what is due, and the first of it why.
func WhyDue(tasks []DueTask, h rules.ParsedRules) string {
	said := make([]string, len(tasks))
	for i, t := range tasks {
		said[i] = TitleOf(t)
	}
	why := reasonOf(tasks[0], h)
	if why != "" {
		said[0] += " (" + why + ")"
	}
	if n := len(said); n > 1 {
		return strings.Join(said[:n-1], ", ") + " and " + said[n-1]
	}
	return said[0]
}

// reasonOf is why a task is due, in an owner's words.
func reasonOf(t DueTask, h rules.ParsedRules) string {
	switch t.Binds {
	case interval.ByEvent.String():
		return eventWords[interval.EventCode(t.Event)]
	case interval.ByDays.String():
		if t.Never {
			return ""
		}
		return fmt.Sprintf("%d days since the last time", t.SinceDays)
	case interval.ByDistance.String():
		return fmt.Sprintf("about %s of riding", h.Distance(forecast.KM(t.SinceKM)))
	}
	return ""
}

// leave says what it would cost to leave a task undone.
func LeaveIt(h rules.ParsedRules, t DueTask, bike store.Bike) string {
	switch t.Code {
	case interval.ReplaceChain:
		if of, known := h.Prices[h.Rule(&bike, rules.DrivetrainOf(&bike, nil)).Drivetrain.Class()]; known && of.Sprockets > 0 {
			return fmt.Sprintf("Ridden on, it wears the sprockets with it: %s more.", h.Amount(price.Money(of.Sprockets+of.LabourSprockets)))
		}
		return "Ridden on, it wears the sprockets with it."
	case interval.Relubricate:
		return "A dry chain wears several times as fast."
	case interval.CleanOnBike, interval.DeepClean, interval.StripService:
		return "Grit inside the chain grinds it away."
	case interval.BrakesLook:
		return "Brakes are not left waiting."
	case interval.ReadWear:
		return "A chain found worn in time saves the sprockets."
	case interval.Contacts:
		return "Wet contacts corrode."
	}
	return ""
}
