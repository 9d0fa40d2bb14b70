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

// What customers read of what is due is the catalogue's words, put together with what is known of the bike: the program
// writes to them when nobody has a page open. What screens say, the page words.

// TitleOf is a task as a customer understands it: as something to come while it is still to come.
func TitleOf(t DueTask) string {
	return cmp.Or(interval.Says(t.Code, t.IsDue(), interval.EventCode(t.Event)), t.Title, strings.ReplaceAll(t.Code, "-", " "))
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

// reasonOf is why a task is due, in a customer's words.
func reasonOf(t DueTask, h rules.ParsedRules) string {
	switch t.Binds {
	case interval.ByEvent.String():
		return interval.EventCode(t.Event).Says()
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

// LeaveIt says what comes of it when a task is not done; of a worn chain also what it costs.
func LeaveIt(h rules.ParsedRules, t DueTask, bike store.Bike) string {
	says := interval.LeaveItSays(t.Code)
	if t.Code == interval.ReplaceChain {
		if of, known := h.Prices[h.Rule(&bike, rules.DrivetrainOf(&bike, nil)).Drivetrain.Class()]; known && of.Sprockets > 0 {
			return fmt.Sprintf("%s: %s more.", strings.TrimSuffix(says, "."), h.Amount(price.Money(of.Sprockets+of.LabourSprockets)))
		}
	}
	return says
}
