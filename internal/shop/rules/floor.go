package rules

import (
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/dayplan"
	"earnestpony/core/wallclock"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// Floor is when the shop is open, who works when at what, and how many of each place there are.
type Floor = store.Floor

// The skills that steps ask for.
const (
	skillWash       = "wash"
	skillDrivetrain = "drivetrain"
	skillChecks     = "checks" // what a bike is released by
)

var Skills = []string{skillWash, skillDrivetrain, skillChecks}

// SkillOf is what a step of a phase asks for.
func SkillOf(phase string) string {
	switch clean.Phase(phase) {
	case clean.Intake, clean.Washing, clean.Drying, clean.Degrease:
		return skillWash
	case clean.Finish:
		return skillChecks
	default:
		return skillDrivetrain
	}
}

// skillsByRole is what somebody does whom the shop said nothing about.
var skillsByRole = map[string][]string{"owner": Skills, "mechanic": Skills, "apprentice": {skillWash}, "counter": {}}

// FloorPlaces are the places there may be more or fewer of.
var FloorPlaces = []clean.Station{clean.AtStand, clean.InTub, clean.InTank, clean.OnPot, clean.OnRack, clean.InWash, clean.InOil}

// defaultFloor is a small shop on ordinary days.
func defaultFloor() Floor {
	day := []store.Stretch{{From: "08:30", Until: "12:30"}, {From: "13:00", Until: "17:30"}}
	f := Floor{Places: map[string]int{"stand": 2, "tub": 2, "tank": 1, "pot": 1, "rack": 3, "parts-washer": 1, "oil-bath": 1}, Hours: map[string][]store.Stretch{}, People: map[string]store.FloorPerson{}}
	for _, weekday := range record.Weekdays[1:6] {
		f.Hours[weekday] = day
	}
	f.Hours["saturday"] = []store.Stretch{{From: "09:00", Until: "13:00"}}
	f.Hours["sunday"] = []store.Stretch{}
	return f
}

// maxOfAPlace and maxStretches are beyond any shop.
const (
	maxOfAPlace  = 50
	maxStretches = 6
)

func checkFloor(f *Floor, fault func(name, code, format string, args ...any)) {
	house := defaultFloor()
	if f.Places == nil {
		f.Places = map[string]int{}
	}
	if f.Hours == nil {
		f.Hours = map[string][]store.Stretch{}
	}
	if f.People == nil {
		f.People = map[string]store.FloorPerson{}
	}
	for place, n := range house.Places {
		if _, said := f.Places[place]; !said {
			f.Places[place] = n
		}
	}
	for place, n := range f.Places {
		if _, is := house.Places[place]; !is {
			fault("places."+place, "unknown-value", "There is no place %q.", place)
		} else if n < 0 || n > maxOfAPlace {
			fault("places."+place, "out-of-range", "There are 0 to %d of a place.", maxOfAPlace)
		}
	}
	for _, weekday := range record.Weekdays {
		if f.Hours[weekday] == nil {
			f.Hours[weekday] = []store.Stretch{}
		}
	}
	checkHours(f.Hours, "hours", fault)
	for id, p := range f.People {
		at := "people." + id
		if _, err := uuid.Parse(id); err != nil {
			fault(at, "unknown-value", "There is nobody of that name.")
		}
		for _, skill := range p.Skills {
			if !slices.Contains(Skills, skill) {
				fault(at+".skills", "unknown-value", "%q is no skill: there are %q.", skill, Skills)
			}
		}
		if p.Skills == nil {
			p.Skills = []string{}
			f.People[id] = p
		}
		checkHours(p.Hours, at+".hours", fault)
		for _, day := range p.Away {
			if _, err := time.Parse(time.DateOnly, day); err != nil {
				fault(at+".away", "not-a-date", "%q is not a day written 2026-12-25.", day)
			}
		}
	}
}

func checkHours(hours map[string][]store.Stretch, at string, fault func(name, code, format string, args ...any)) {
	for weekday, stretches := range hours {
		path := at + "." + weekday
		if !slices.Contains(record.Weekdays, weekday) {
			fault(path, "unknown-value", "%q is no day of the week.", weekday)
		}
		if len(stretches) > maxStretches {
			fault(path, "out-of-range", "A day has at most %d stretches.", maxStretches)
		}
		last := ""
		for i, s := range stretches {
			one := fmt.Sprintf("%s[%d]", path, i)
			switch {
			case !record.ClockTime.MatchString(s.From) || !record.ClockTime.MatchString(s.Until) && s.Until != "24:00":
				fault(one, "not-a-time", "A time of day looks like 09:00.")
			case s.From >= s.Until || s.From < last:
				fault(one, "out-of-order", "A stretch goes from an earlier to a later time, after the one before it.")
			}
			last = s.Until
		}
	}
}

// MinuteOf reads a time of day that was checked, in minutes from midnight.
func MinuteOf(clock string) int {
	var h, m int
	if _, err := fmt.Sscanf(clock, "%d:%d", &h, &m); err != nil {
		return 0
	}
	return h*60 + m
}

// OpenHours is for how many hours the house works between two moments, at most a year on.
func (h ParsedRules) OpenHours(from, until time.Time) float64 {
	var open time.Duration
	day := wallclock.ReadingOf(from, h.Zone).Midnight()
	for range 366 {
		for _, s := range h.Rules.Floor.Hours[record.Weekdays[day.Weekday()]] {
			begins, ends := day.At(MinuteOf(s.From)).First(h.Zone), day.At(MinuteOf(s.Until)).First(h.Zone)
			if begins.Before(from) {
				begins = from
			}
			if ends.After(until) {
				ends = until
			}
			open += max(ends.Sub(begins), 0)
		}
		day = day.AddDays(1)
		if !day.First(h.Zone).Before(until) {
			break
		}
	}
	return open.Hours()
}

// FloorDays is how many days the wall looks ahead, today with them.
const FloorDays = 7

// Workers are the people of the floor with their hours from a midnight on.
func (h ParsedRules) Workers(people []store.Person, midnight time.Time, closedOn []string) []dayplan.Person {
	var all []dayplan.Person
	first := wallclock.ReadingOf(midnight, h.Zone).Midnight()
	for _, p := range people {
		said, is := h.Rules.Floor.People[p.ID.String()]
		w := dayplan.Person{ID: p.ID.String(), Skills: skillsByRole[p.Role]}
		if is {
			w.Skills = said.Skills
		}
		if len(w.Skills) == 0 {
			continue
		}
		for d := range FloorDays + 1 { // the first may be yesterday
			day := first.AddDays(d)
			date := day.Date()
			if slices.Contains(said.Away, date) || slices.Contains(closedOn, date) {
				continue
			}
			weekday := record.Weekdays[day.Weekday()]
			hours, own := said.Hours[weekday]
			if !own {
				hours = h.Rules.Floor.Hours[weekday]
			}
			for _, s := range hours {
				// The clocks may have been changed since midnight: hours are of the wall clock, the plan is in minutes that pass.
				at := func(clock string) dayplan.Minute {
					return dayplan.Minute(day.At(MinuteOf(clock)).First(h.Zone).Sub(midnight) / time.Minute)
				}
				if from, to := at(s.From), at(s.Until); from < to { // all of it may be left out when the clocks go forward
					w.Hours = append(w.Hours, dayplan.Stretch{From: from, To: to})
				}
			}
		}
		all = append(all, w)
	}
	return all
}
