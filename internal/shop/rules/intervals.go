package rules

import (
	"fmt"
	"slices"

	"earnestpony/core/chain"
	"earnestpony/core/interval"
	"earnestpony/core/lube"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// Intervals is how often tasks fall due in the shop.
type Intervals = store.Intervals

// OwnTask is a task that the shop made.
type OwnTask = store.OwnTask

// TaskSetting is what a shop or a bike does otherwise than the table.
type TaskSetting = store.TaskSetting

// TaskLine is a task of the house's table with what holds where neither shop nor bike say otherwise. What
// turns on the bike, as the lubricant, is left out.
type TaskLine struct {
	Code        string   `json:"code"`
	EveryHardKM float64  `json:"every_hard_km"`
	EveryDays   int      `json:"every_days"`
	Weight      float64  `json:"weight"`
	Safety      bool     `json:"safety"`
	After       []string `json:"after"` // events
}

func defaultIntervals() Intervals {
	return Intervals{School: interval.House.String(), LookAhead: 14, Changed: map[string]TaskSetting{}, Own: []store.OwnTask{}}
}

// taskLines are the table under a shop's school.
func taskLines(r Rules) []TaskLine {
	school, err := interval.ParseSchool(r.Intervals.School)
	if err != nil {
		school = interval.House
	}
	var lines []TaskLine
	for _, rule := range interval.Rules(interval.Bike{Train: chain.Drivetrain{Motor: chain.MidMotor}, Lube: lube.AllWeather}, school) {
		l := TaskLine{Code: rule.Code, EveryHardKM: float64(rule.EveryHardKM), EveryDays: rule.EveryDays, Weight: rule.Weight, Safety: rule.Safety, After: record.CodesOf(rule.After)}
		if rule.Code == interval.Relubricate {
			l.EveryHardKM, l.EveryDays = 0, 0 // by lubricant
		}
		lines = append(lines, l)
	}
	return lines
}

// The bounds of intervals.
const (
	maxHardKM    = 50_000
	maxDays      = 3650
	maxOwnTasks  = 40
	maxLookAhead = 90
)

func checkIntervals(v *Intervals, fault func(name, code, format string, args ...any)) {
	if _, err := interval.ParseSchool(v.School); err != nil {
		fault("school", "unknown-value", "%v", err)
	}
	if v.LookAhead < 0 || v.LookAhead > maxLookAhead {
		fault("look_ahead_days", "out-of-range", "Visits look 0 to %d days ahead.", maxLookAhead)
	}
	if v.Changed == nil {
		v.Changed = map[string]TaskSetting{}
	}
	for code, s := range v.Changed {
		if _, known := defaultIntervalRules[code]; !known {
			fault("changed."+code, "unknown-value", "There is no such task.")
			continue
		}
		checkSetting(s, func(name, c, format string, args ...any) { fault("changed."+code+"."+name, c, format, args...) })
	}
	if v.Own == nil {
		v.Own = []store.OwnTask{}
	}
	if len(v.Own) > maxOwnTasks {
		fault("own", "out-of-range", "A shop makes %d tasks of its own at most.", maxOwnTasks)
	}
	for i := range v.Own {
		checkOwnTask(v.Own, i, fault)
	}
}

func checkOwnTask(all []store.OwnTask, i int, fault func(name, code, format string, args ...any)) {
	t := &all[i]
	at := func(name string) string { return fmt.Sprintf("own[%d].%s", i, name) }
	t.Title = record.CleanLine(t.Title)
	if n := len([]rune(t.Title)); n == 0 || n > 80 {
		fault(at("title"), "missing", "Say what is to be done, in 80 characters at most.")
	}
	_, known := defaultIntervalRules[t.Code]
	twice := slices.ContainsFunc(all[:i], func(o store.OwnTask) bool { return o.Code == t.Code })
	if !record.TaskCode.MatchString(t.Code) || known || twice {
		fault(at("code"), "unknown-value", "A task of the shop's own has a short name of its own, such as sealant.")
	}
	if t.EveryHardKM == nil && t.EveryDays == nil {
		fault(at("every_days"), "missing", "Say after how many days or kilometres it is due.")
	}
	checkSetting(TaskSetting{EveryHardKM: t.EveryHardKM, EveryDays: t.EveryDays, Weight: &t.Weight}, func(name, c, format string, args ...any) { fault(at(name), c, format, args...) })
	if t.Kinds == nil {
		t.Kinds = []string{}
	}
}

// checkSetting holds an interval against its bounds; zero takes one away.
func checkSetting(s TaskSetting, fault func(name, code, format string, args ...any)) {
	if s.EveryHardKM != nil && !(*s.EveryHardKM >= 0 && *s.EveryHardKM <= maxHardKM) {
		fault("every_hard_km", "out-of-range", "A task is due after 0 to %d km; 0 is never by distance.", maxHardKM)
	}
	if s.EveryDays != nil && (*s.EveryDays < 0 || *s.EveryDays > maxDays) {
		fault("every_days", "out-of-range", "A task is due after 0 to %d days; 0 is never by time.", maxDays)
	}
	if s.Weight != nil && !(*s.Weight >= 0 && *s.Weight <= 100) {
		fault("weight", "out-of-range", "A weight is 0 to 100.")
	}
}

// CheckTasks holds what a bike does otherwise against what may be.
func CheckTasks(f *record.BikeFacts, fault func(path, code, format string, args ...any)) {
	f.NeededFor = record.CleanLine(f.NeededFor)
	if f.NeededOn != "" {
		if _, err := interval.ParseDay(f.NeededOn); err != nil {
			fault("needed_on", "not-a-date", "This is not a day of the calendar.")
		}
	}
	for code, s := range f.Tasks {
		s.Reason = record.CleanLine(s.Reason)
		f.Tasks[code] = s
		at := func(name string) string { return "tasks." + code + "." + name }
		if !record.TaskCode.MatchString(code) {
			fault("tasks."+code, "unknown-value", "There is no such task.")
		}
		checkSetting(s, func(name, c, format string, args ...any) { fault(at(name), c, format, args...) })
		if len([]rune(s.Reason)) < 3 {
			fault(at("reason"), "missing", "Say in a few words why this bike is another.")
		}
	}
	if len(f.Tasks) == 0 {
		f.Tasks = nil
	}
}

// defaultIntervalRules are the table's rules by code: what restarts and follows does not turn on the bike.
var defaultIntervalRules = func() map[string]interval.Rule {
	all := map[string]interval.Rule{}
	for _, rule := range interval.Rules(interval.Bike{Train: chain.Drivetrain{Motor: chain.MidMotor}}, interval.House) {
		all[rule.Code] = rule
	}
	return all
}()

func Restarts(code string) bool { return defaultIntervalRules[code].Restarts }

func After(code string) []interval.EventCode { return defaultIntervalRules[code].After }
