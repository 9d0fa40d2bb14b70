package interval_test

import (
	"math"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/chain"
	"earnestpony/core/forecast"
	"earnestpony/core/interval"
	"earnestpony/core/lube"
)

func drawQuestion(t *rapid.T) interval.Question {
	q := interval.Question{Today: interval.Day(rapid.IntRange(18000, 22000).Draw(t, "today")), Now: forecast.HardKM(rapid.Float64Range(0, 20000).Draw(t, "now")),
		Rate: forecast.HardKMPerDay(rapid.SampledFrom([]float64{0, 0.01, 7, 60}).Draw(t, "rate")), LookAhead: rapid.IntRange(0, 30).Draw(t, "look ahead")}
	for i := range rapid.IntRange(0, 8).Draw(t, "tasks") {
		task := interval.Task{Code: string(rune('a' + i)), LastOn: q.Today - interval.Day(rapid.IntRange(0, 900).Draw(t, "since")),
			LastHardKM: q.Now * forecast.HardKM(rapid.Float64Range(0, 1).Draw(t, "ridden")), Weight: rapid.SampledFrom([]float64{1, 1.5, 3}).Draw(t, "weight"), Safety: rapid.Bool().Draw(t, "safety")}
		if rapid.Bool().Draw(t, "by distance") {
			task.EveryHardKM = forecast.HardKM(rapid.IntRange(50, 6000).Draw(t, "km"))
		}
		if rapid.Bool().Draw(t, "by days") {
			task.EveryDays = rapid.IntRange(1, 400).Draw(t, "days")
		}
		for range rapid.IntRange(0, 2).Draw(t, "events") {
			task.Events = append(task.Events, interval.Event{Code: interval.SoakedRide, On: q.Today - interval.Day(rapid.IntRange(-9, 900).Draw(t, "event")),
				WithinDays: rapid.SampledFrom([]int{0, 2, 30}).Draw(t, "within"), Follows: rapid.Bool().Draw(t, "follows")})
		}
		q.Tasks = append(q.Tasks, task)
	}
	return q
}

// Whatever the tasks: the state goes with the share used, a day more or a km more never makes anything
// fresher, an event makes due, doing it makes fresh, and the order is that of urgency.
func TestArithmetic(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		q := drawQuestion(t)
		a := interval.Look(q)
		require.Len(t, a.Tasks, len(q.Tasks))
		later := q
		later.Today, later.Now = later.Today+interval.Day(rapid.IntRange(0, 50).Draw(t, "later")), later.Now+forecast.HardKM(rapid.Float64Range(0, 900).Draw(t, "further"))
		then := interval.Look(later)
		for _, s := range a.Tasks {
			task := q.Tasks[slices.IndexFunc(q.Tasks, func(task interval.Task) bool { return task.Code == s.Code })]
			assert.Equal(t, interval.StateOf(s.Used), s.State)
			assert.False(t, math.IsNaN(s.Used) || math.IsInf(s.Used, 0) || s.Used < 0)
			i := slices.IndexFunc(then.Tasks, func(o interval.Standing) bool { return o.Code == s.Code })
			assert.GreaterOrEqual(t, then.Tasks[i].Used, s.Used)
			happened := slices.ContainsFunc(task.Events, func(e interval.Event) bool { return e.On > task.LastOn && e.On <= q.Today })
			assert.Equal(t, happened, s.Event != nil)
			if happened {
				assert.GreaterOrEqual(t, s.State, interval.Due)
				assert.LessOrEqual(t, *s.DueOn, q.Today)
			}
			assert.Equal(t, s.State >= interval.Due, s.Since != nil, "of what is due it is known since when")
			if s.Since != nil {
				assert.LessOrEqual(t, *s.Since, q.Today)
				tomorrow := q
				tomorrow.Today, tomorrow.Now = q.Today+1, q.Now+forecast.HardKM(q.Rate)
				next := interval.Look(tomorrow)
				j := slices.IndexFunc(next.Tasks, func(o interval.Standing) bool { return o.Code == s.Code })
				if q.Rate > 0 {
					assert.Equal(t, *s.Since, *next.Tasks[j].Since, "it does not move overnight")
				}
			}
			if task.EveryHardKM == 0 && task.EveryDays == 0 && !happened {
				assert.Equal(t, interval.ByNothing, s.Binds)
				assert.Nil(t, s.DueOn)
			}
			if s.Used >= 1 && q.Rate > 0 {
				assert.LessOrEqual(t, *s.DueOn, q.Today, "what is due was due by today")
			}
			if s.DueOn != nil && *s.DueOn > q.Today && q.Rate == 0 {
				on := q
				on.Today = *s.DueOn
				at := interval.Look(on)
				k := slices.IndexFunc(at.Tasks, func(o interval.Standing) bool { return o.Code == s.Code })
				assert.GreaterOrEqual(t, at.Tasks[k].Used, 1.0, "it is due on its day")
			}
			visit := s.Used >= 0.8 || s.DueOn != nil && *s.DueOn <= q.Today+interval.Day(q.LookAhead)
			assert.Equal(t, visit, slices.Contains(a.Visit, s.Code))
		}
		for i := 1; i < len(a.Tasks); i++ {
			assert.GreaterOrEqual(t, a.Tasks[i-1].State, a.Tasks[i].State)
		}
		for i := range q.Tasks {
			q.Tasks[i].LastOn, q.Tasks[i].LastHardKM = q.Today, q.Now
		}
		for _, s := range interval.Look(q).Tasks {
			assert.Equal(t, interval.Fresh, s.State, "done today")
		}
	})
}

// A bike that is first seen on the day on which something happened to it needs what that makes due.
func TestFirstSeen(t *testing.T) {
	task := interval.Task{Code: "wash", EveryDays: 21, LastOn: 100, Events: []interval.Event{{Code: interval.DirtyFrame, On: 100}}}
	look := func() interval.State {
		return interval.Look(interval.Question{Today: 100, Tasks: []interval.Task{task}}).Tasks[0].State
	}
	assert.Equal(t, interval.Fresh, look(), "done on the day of the event")
	task.Events[0].AfterDone = true
	assert.Equal(t, interval.Due, look())
}

func TestSafetyStandsFirstWithinAState(t *testing.T) {
	a := interval.Look(interval.Question{Today: 100, Tasks: []interval.Task{
		{Code: "b", EveryDays: 10, LastOn: 89, Weight: 1}, {Code: "a", EveryDays: 10, LastOn: 89, Weight: 1},
		{Code: "brakes", EveryDays: 10, LastOn: 90, Weight: 0.1, Safety: true}, {Code: "late", EveryDays: 10, LastOn: 50, Weight: 0.1},
		{Code: "heavy", EveryDays: 10, LastOn: 90, Weight: 3},
	}})
	codes := make([]string, len(a.Tasks))
	for i, s := range a.Tasks {
		codes[i] = s.Code
	}
	assert.Equal(t, []string{"late", "brakes", "heavy", "a", "b"}, codes)
}

// The table of the house, and what schools and bikes make of it.
func TestRules(t *testing.T) {
	every := func(b interval.Bike, s interval.School) map[string][2]int {
		m := map[string][2]int{}
		for _, r := range interval.Rules(b, s) {
			m[r.Code] = [2]int{int(r.EveryHardKM), r.EveryDays}
		}
		return m
	}
	road := interval.Bike{Train: chain.Drivetrain{Kind: chain.Derailleur, Motor: chain.NoMotor}, Lube: lube.DripWax}
	house := every(road, interval.House)
	assert.Equal(t, map[string][2]int{"relubricate": {300, 21}, "clean-on-bike": {400, 30}, "deep-clean": {2000, 180}, "strip": {6000, 365}, "wash": {0, 21},
		"read-wear": {500, 90}, "replace-chain": {0, 0}, "look-at-teeth": {1000, 180}, "pivots": {800, 90}, "brakes": {800, 90}}, house)
	assert.Equal(t, [2]int{300, 30}, every(road, interval.Keen)["clean-on-bike"])
	assert.Equal(t, [2]int{0, 180}, every(road, interval.WipeOften)["deep-clean"])
	assert.Equal(t, [2]int{0, 365}, every(road, interval.Yearly)["strip"])
	salted := road
	salted.Salt = 0.3
	assert.Equal(t, 90, every(salted, interval.House)["deep-clean"][1])
	fixed := interval.Bike{Train: chain.Drivetrain{Motor: chain.MidMotor}, FixedGear: true, Lube: lube.WetOil, When: lube.WhenItSpeaks}
	assert.NotContains(t, every(fixed, interval.House), "pivots")
	assert.Equal(t, [2]int{0, 60}, every(fixed, interval.House)["contacts"])
	assert.Equal(t, [2]int{800, 30}, every(fixed, interval.House)["relubricate"])
	for _, s := range interval.Schools() {
		parsed, err := interval.ParseSchool(s.String())
		require.NoError(t, err)
		assert.Equal(t, s, parsed)
	}
	_, err := interval.ParseSchool("never")
	require.Error(t, err)
	_, err = interval.ParseReported("wash")
	require.Error(t, err, "a wash is known by its step")
	assert.Contains(t, interval.DoneBy("chain-rag"), interval.CleanOnBike, "the deeper clean does the lighter")
}

func TestPull(t *testing.T) {
	needed := interval.Day(1000)
	for due, want := range map[interval.Day][2]interval.Day{900: {900, 900}, 990: {990, 990}, 996: {993, 996}, 1000: {993, 999}, 1014: {993, 999}, 1015: {1015, 1015}} {
		assert.Equal(t, want, [2]interval.Day{interval.Pull(interval.ReplaceChain, due, needed), interval.Pull(interval.Relubricate, due, needed)}, "due on %d", due)
	}
}

func TestDays(t *testing.T) {
	d, err := interval.ParseDay("2026-02-28")
	require.NoError(t, err)
	assert.Equal(t, "2026-03-01", (d + 1).String())
	east := time.FixedZone("east", 9*3600)
	assert.Equal(t, d, interval.DayOf(time.Date(2026, 2, 28, 1, 0, 0, 0, east)), "by its own clock")
	_, err = interval.ParseDay("28 Feb")
	require.Error(t, err)
}
