package dayplan_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/core/dayplan"
)

func minutes(n dayplan.Minutes) *dayplan.Minutes { return &n }

// morning is two bikes, two mechanics of whom one alone touches drivetrains, and one stand.
func morning() dayplan.Problem {
	return dayplan.Problem{
		Now: 480,
		People: []dayplan.Person{
			{ID: "mira", Skills: []string{"wash", "drivetrain"}, Hours: []dayplan.Stretch{{From: 480, To: 720}, {From: 750, To: 1020}}},
			{ID: "posy", Skills: []string{"wash"}, Hours: []dayplan.Stretch{{From: 480, To: 720}}},
		},
		Places: []dayplan.Place{{ID: "stand", Count: 1}},
		Jobs: []dayplan.Job{
			{ID: "A", Arrives: 480, Promised: 560, Weight: 1, Steps: []dayplan.Step{
				{ID: "cleaner", Skill: "wash", Attended: 10},
				{ID: "rinse", Skill: "wash", Attended: 10, After: []dayplan.Lag{{Step: "cleaner", Least: 5, Most: minutes(10)}}},
				{ID: "oil", Skill: "drivetrain", Attended: 20, After: []dayplan.Lag{{Step: "rinse", Least: 30}}},
			}, Holds: []dayplan.Hold{{Place: "stand", From: "cleaner", To: "rinse", Through: true}}},
			{ID: "B", Arrives: 490, Promised: 600, Weight: 3, Steps: []dayplan.Step{
				{ID: "cleaner", Skill: "wash", Attended: 10},
				{ID: "rinse", Skill: "wash", Attended: 15, After: []dayplan.Lag{{Step: "cleaner", Least: 5, Most: minutes(10)}}},
			}, Holds: []dayplan.Hold{{Place: "stand", From: "cleaner", To: "rinse", Through: true}}},
		},
	}
}

// Each rule, broken on purpose, is found, and by its own name.
func TestCheckFindsEachBrokenRule(t *testing.T) {
	good := solved(t, morning(), 200)
	require.Empty(t, dayplan.Check(morning(), good))
	at := func(p *dayplan.Plan, job, step string) *dayplan.Placed {
		return &p.Steps[slices.IndexFunc(p.Steps, func(s dayplan.Placed) bool { return s.Job == job && s.Step == step })]
	}
	move := func(p *dayplan.Plan, job, step string, by dayplan.Minute) {
		s := at(p, job, step)
		s.Start, s.End = s.Start+by, s.End+by
	}
	for code, breaks := range map[string]func(*dayplan.Problem, *dayplan.Plan){
		"unknown": func(_ *dayplan.Problem, p *dayplan.Plan) { at(p, "A", "oil").Person = "nobody" },
		"twice":   func(_ *dayplan.Problem, p *dayplan.Plan) { p.Steps = append(p.Steps, p.Steps[len(p.Steps)-1]) },
		"missing": func(_ *dayplan.Problem, p *dayplan.Plan) { p.Steps = p.Steps[:len(p.Steps)-1] },
		"length":  func(_ *dayplan.Problem, p *dayplan.Plan) { at(p, "A", "oil").End++ },
		"skill":   func(_ *dayplan.Problem, p *dayplan.Plan) { at(p, "A", "oil").Person = "posy" },
		"hours":   func(_ *dayplan.Problem, p *dayplan.Plan) { s := at(p, "A", "oil"); s.Start, s.End = 710, 730 },
		"overlap": func(q *dayplan.Problem, p *dayplan.Plan) {
			s := at(p, "B", "cleaner")
			move(p, "A", "oil", s.Start-at(p, "A", "oil").Start)
			at(p, "A", "oil").Person = s.Person
		},
		"too-early":         func(_ *dayplan.Problem, p *dayplan.Plan) { move(p, "A", "cleaner", -5) },
		"too-early: pinned": func(q *dayplan.Problem, p *dayplan.Plan) { q.Jobs[0].Steps[2].At = at(p, "A", "oil").Start + 1 },
		"too-soon":          func(_ *dayplan.Problem, p *dayplan.Plan) { move(p, "A", "oil", -1) },
		"too-late":          func(_ *dayplan.Problem, p *dayplan.Plan) { move(p, "A", "rinse", 20) },
		"place":             func(q *dayplan.Problem, _ *dayplan.Plan) { q.Places[0].Count = 0 },
		"order":             func(_ *dayplan.Problem, p *dayplan.Plan) { slices.Reverse(p.Steps) },
		"cost":              func(_ *dayplan.Problem, p *dayplan.Plan) { p.Cost.FinishSum-- },
		"cost: switches":    func(_ *dayplan.Problem, p *dayplan.Plan) { p.Cost.Switches++ },
		"cost: handovers":   func(_ *dayplan.Problem, p *dayplan.Plan) { p.Cost.Handovers++ },
		"late":              func(q *dayplan.Problem, _ *dayplan.Plan) { q.Jobs[0].Promised -= 60 },
		"fixed-moved": func(q *dayplan.Problem, p *dayplan.Plan) {
			f := *at(p, "B", "rinse")
			f.Start--
			q.Fixed = append(q.Fixed, f)
		},
	} {
		q, p := morning(), good
		p.Steps = slices.Clone(good.Steps)
		breaks(&q, &p)
		found := dayplan.Check(q, p)
		code, _, _ := strings.Cut(code, ":")
		assert.True(t, slices.ContainsFunc(found, func(v dayplan.Violation) bool { return v.Code == code }), "%s: %v", code, found)
	}
}

// What can never be placed is named with the rule that stops it, and the rest is planned.
func TestNotPlaced(t *testing.T) {
	for why, change := range map[dayplan.Why]func(*dayplan.Problem){
		dayplan.NoSkill: func(p *dayplan.Problem) { p.Jobs[0].Steps[0].Skill = "welding" },
		dayplan.TooLong: func(p *dayplan.Problem) { p.Jobs[0].Steps[0].Attended = 500 },
		dayplan.NoPlace: func(p *dayplan.Problem) {
			p.Places = append(p.Places, dayplan.Place{ID: "tank"})
			p.Jobs[0].Holds = append(p.Jobs[0].Holds, dayplan.Hold{Place: "tank", From: "cleaner", To: "rinse"})
		},
		dayplan.NoHours: func(p *dayplan.Problem) { p.Jobs[0].Arrives = 1015 },
		dayplan.Window: func(p *dayplan.Problem) { // begun so long ago that the cleaner has dried on
			p.Jobs[0].Arrives = 440
			p.Fixed = append(p.Fixed, dayplan.Placed{Job: "A", Step: "cleaner", Person: "posy", Start: 440})
		},
	} {
		p := morning()
		change(&p)
		plan := solved(t, p, 50)
		assert.Empty(t, dayplan.Check(p, plan), why)
		if assert.NotEmpty(t, plan.NotPlaced, why) {
			assert.Equal(t, why, plan.NotPlaced[0].Why)
			for _, n := range plan.NotPlaced[1:] {
				assert.Equal(t, dayplan.NotAfter, n.Why, n)
			}
		}
		assert.True(t, slices.ContainsFunc(plan.Steps, func(s dayplan.Placed) bool { return s.Job == "B" && s.Step == "rinse" }), "the rest is planned")
	}
	for what, change := range map[string]func(*dayplan.Problem){
		"it follows nothing, which is not of the job": func(p *dayplan.Problem) { p.Jobs[0].Steps[1].After[0].Step = "nothing" },
		"its steps follow each other in a circle":     func(p *dayplan.Problem) { p.Jobs[0].Steps[0].After = []dayplan.Lag{{Step: "oil"}} },
		"there are two of it":                         func(p *dayplan.Problem) { p.Jobs[0].Steps[1].ID = "cleaner" },
		"it ends a hold of stand, and does not come after rinse, which begins it": func(p *dayplan.Problem) {
			p.Jobs[0].Holds[0] = dayplan.Hold{Place: "stand", From: "rinse", To: "cleaner"}
		},
		"it holds tub from cleaner to rinse, and one of them is not there": func(p *dayplan.Problem) { p.Jobs[0].Holds[0].Place = "tub" },
		"there are two people mira":                                        func(p *dayplan.Problem) { p.People[1].ID = "mira" },
		"it is fixed, and not of the problem":                              func(p *dayplan.Problem) { p.Fixed = []dayplan.Placed{{Job: "A", Step: "polish"}} },
	} {
		p := morning()
		change(&p)
		_, err := dayplan.New(p, 1)
		assert.ErrorContains(t, err, what)
	}
}

// What is late says by how much and what holds it back.
func TestLateSaysWhatBinds(t *testing.T) {
	for bound, change := range map[string]func(*dayplan.Problem){
		"wait:rinse": func(p *dayplan.Problem) { p.Jobs[0].Promised, p.Jobs = 540, p.Jobs[:1] },
		"arrival": func(p *dayplan.Problem) {
			p.Jobs[1].Arrives, p.Jobs = 590, p.Jobs[1:]
			p.Jobs[0].Steps[1].After[0].Least = 0
		},
		"place:stand": func(p *dayplan.Problem) { p.Jobs[0].Promised, p.Jobs[0].Weight = 500, 9; p.Jobs[1].Promised = 520 },
		"hours:mira": func(p *dayplan.Problem) {
			p.People, p.Jobs = p.People[:1], p.Jobs[:1]
			p.Jobs[0].Arrives, p.Jobs[0].Promised = 660, 730
		},
	} {
		p := morning()
		change(&p)
		plan := solved(t, p, 200)
		require.Empty(t, dayplan.Check(p, plan), bound)
		if assert.NotEmpty(t, plan.Late, bound) {
			assert.Equal(t, bound, plan.Late[len(plan.Late)-1].BoundBy)
		}
	}
}

// Replanning leaves the wall alone where nothing asks for a change, and moves what must move and little else.
func TestLittleElseMoves(t *testing.T) {
	p := day(3, 12)
	before := solved(t, p, 300)
	p.Previous, p.Weights.Move = before.Steps, 3
	again := solved(t, p, 300)
	assert.Zero(t, again.Cost.Changes, "nothing happened")

	// The first step of somebody takes a quarter of an hour longer than planned.
	first := slices.MinFunc(before.Steps, func(a, b dayplan.Placed) int { return int(a.Start - b.Start) })
	for j := range p.Jobs {
		for i := range p.Jobs[j].Steps {
			if s := &p.Jobs[j].Steps[i]; p.Jobs[j].ID == first.Job && s.ID == first.Step {
				s.Attended += 15
			}
		}
	}
	p.Fixed = []dayplan.Placed{first}
	p.Now = first.Start + 10
	for _, s := range before.Steps { // what the others began goes on
		if s.Start < p.Now && s != first {
			p.Fixed = append(p.Fixed, s)
		}
	}
	after := solved(t, p, 3000)
	require.Empty(t, dayplan.Check(p, after))
	assert.Positive(t, after.Cost.Changes)
	assert.Empty(t, inVain(p, after))
	assert.Less(t, after.Cost.Changes, len(after.Steps)/4, "moved, of %d", len(after.Steps))
	assert.LessOrEqual(t, after.Cost.WeightedLate, before.Cost.WeightedLate+15, "and no promise is given up for it")
}

// A job is promised as early as no other promise suffers by; a tighter promise says whom it pushes, and what is
// late says what would help.
func TestOffersAndRemedies(t *testing.T) {
	p := morning()
	add := dayplan.Job{ID: "C", Arrives: 480, Weight: 1, Steps: []dayplan.Step{{ID: "cleaner", Skill: "wash", Attended: 30}, {ID: "chain", Skill: "drivetrain", Attended: 30, After: []dayplan.Lag{{Step: "cleaner"}}}},
		Holds: []dayplan.Hold{{Place: "stand", From: "cleaner", To: "chain", Through: true}}}
	before := solved(t, p, 300)
	require.Empty(t, before.Late)
	early, ever, err := dayplan.Early(p, add, 1, 300)
	require.NoError(t, err)
	require.True(t, ever)
	with := func(promised dayplan.Minute, weight int) dayplan.Plan {
		q := p
		job := add
		job.Promised, job.Weight = promised, weight
		q.Jobs = append(slices.Clone(p.Jobs), job)
		plan := solved(t, q, 300)
		require.Empty(t, dayplan.Check(q, plan))
		return plan
	}
	assert.Empty(t, with(early, 1).Late, "what is offered can be kept")
	tight := with(early-20, 9)
	assert.NotEmpty(t, tight.Late, "anything earlier is somebody's loss")
	assert.NotEmpty(t, dayplan.Push(before, tight))

	q := p
	add.Promised = 540
	q.Jobs = append(slices.Clone(p.Jobs), add)
	late := solved(t, q, 300)
	helps, err := dayplan.Remedies(q, late, 1, 300)
	require.NoError(t, err)
	if assert.NotEmpty(t, helps) {
		assert.Equal(t, "stand", helps[0].Place)
		assert.Equal(t, late.Cost.WeightedLate, helps[0].Saves+func() dayplan.Minutes {
			q.Places = []dayplan.Place{{ID: "stand", Count: 2}}
			return solved(t, q, 300).Cost.WeightedLate
		}())
	}
}

// What is to begin at a time begins then, whatever else there is to do; and as soon as can be where it cannot.
func TestPinned(t *testing.T) {
	for _, jobs := range []int{3, 12} {
		p := day(2, jobs)
		p.Jobs[1].Steps[1].At = 700
		p.Jobs[2].Steps[0].At = 1
		begins := func(plan dayplan.Plan) dayplan.Minute {
			return plan.Steps[slices.IndexFunc(plan.Steps, func(s dayplan.Placed) bool { return s.Job == p.Jobs[1].ID && s.Step == p.Jobs[1].Steps[1].ID })].Start
		}
		plan := solved(t, p, 300)
		require.Empty(t, dayplan.Check(p, plan))
		require.Empty(t, plan.NotPlaced)
		assert.EqualValues(t, 700, begins(plan), "%d jobs", jobs)
		p.Jobs[1].Steps[1].At = 740 // in everybody's break
		assert.EqualValues(t, 750, begins(solved(t, p, 300)), "%d jobs", jobs)
	}
}
