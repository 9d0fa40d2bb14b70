package fitting_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/core/chain"
	"earnestpony/core/fitting"
	"earnestpony/core/sizing"
	"earnestpony/core/wear"
)

func TestWhatGoesTogether(t *testing.T) {
	for _, c := range []struct {
		v    wear.Verdict
		s    fitting.SprocketSchool
		want fitting.Advice
	}{
		{wear.OK, fitting.TogetherAtLimit, fitting.Advice{}},
		{wear.Unsure, fitting.TestFirst, fitting.Advice{}},
		{wear.Replace, fitting.TestFirst, fitting.Advice{Chain: true, RideTest: true}},
		{wear.Replace, fitting.TogetherAtLimit, fitting.Advice{Chain: true, Sprockets: true}},
		{wear.ReplaceTogether, fitting.TestFirst, fitting.Advice{Chain: true, Sprockets: true, Look: true}},
	} {
		assert.Equal(t, c.want, fitting.Advise(c.v, c.s), "%v, %v", c.v, c.s)
	}
}

// When a joining link may close a chain again.
func TestJoiningLinks(t *testing.T) {
	for _, c := range []struct {
		what  string
		s     fitting.LinkSchool
		l     fitting.Link
		sound bool
		want  fitting.Spent
	}{
		{"the house takes a new one", fitting.NewEachTime, fitting.Link{Uses: 1, Stated: 5, Sprockets: 12}, true, fitting.SchoolSays},
		{"for ten sprockets too", fitting.NewEachTime, fitting.Link{Uses: 1, Sprockets: 10}, true, fitting.SchoolSays},
		{"narrow, nothing stated: once", fitting.InspectAndReuse, fitting.Link{Uses: 1, Sprockets: 11}, true, fitting.UsedUp},
		{"narrow, five stated", fitting.InspectAndReuse, fitting.Link{Uses: 4, Stated: 5, Sprockets: 12}, true, fitting.NotSpent},
		{"and five used", fitting.InspectAndReuse, fitting.Link{Uses: 5, Stated: 5, Sprockets: 12}, true, fitting.UsedUp},
		{"wide, while it snaps", fitting.InspectAndReuse, fitting.Link{Uses: 9, Sprockets: 10}, true, fitting.NotSpent},
		{"a worn seat", fitting.InspectAndReuse, fitting.Link{Uses: 1, Stated: 5, Sprockets: 10}, false, fitting.SeatWorn},
	} {
		assert.Equal(t, c.want, c.s.MayClose(c.l, c.sound), c.what)
	}
}

func TestMisfits(t *testing.T) {
	ten := chain.Drivetrain{Kind: chain.Derailleur, Sprockets: 10, Motor: chain.NoMotor}
	hub := chain.Drivetrain{Kind: chain.HubGear, Sprockets: 1, Motor: chain.NoMotor}
	assert.Empty(t, fitting.Check(ten, 10, 10, 110, false))
	assert.Empty(t, fitting.Check(hub, 1, 0, 97, true))
	assert.Equal(t, []fitting.Misfit{fitting.LinkWidth}, fitting.Check(ten, 10, 12, 110, false), "a twelve-speed link on a ten-speed chain")
	assert.Equal(t, []fitting.Misfit{fitting.LinkWidth}, fitting.Check(ten, 0, 12, 110, false))
	wide := fitting.Check(ten, 11, 11, 110, false)
	assert.Equal(t, []fitting.Misfit{fitting.ChainWidth}, wide)
	assert.False(t, wide[0].Refused(), "a chain of another width is warned of")
	assert.Equal(t, []fitting.Misfit{fitting.OddLinks}, fitting.Check(ten, 10, 10, 111, false))
	assert.Equal(t, []fitting.Misfit{fitting.HalfLinkHere}, fitting.Check(ten, 10, 10, 111, true))
	assert.True(t, fitting.HalfLinkHere.Refused())
}

// Wax needs bare metal, whatever the school of the shop.
func TestGrease(t *testing.T) {
	assert.Equal(t, fitting.StripAll, fitting.ByLubricant.For(true))
	assert.Equal(t, fitting.StripAll, fitting.KeepInside.For(true))
	assert.Equal(t, fitting.KeepInside, fitting.ByLubricant.For(false))
	assert.Equal(t, fitting.StripAll, fitting.StripAll.For(false))
}

// No chain leaves the stand without a load test of its joint and tested brakes.
func TestChecks(t *testing.T) {
	for _, kind := range []chain.DrivetrainKind{chain.Derailleur, chain.SingleSpeed, chain.HubGear} {
		for _, j := range []sizing.Joint{sizing.JoiningLink, sizing.JoiningPin, sizing.PressFitPin} {
			steps := fitting.Checks(chain.Drivetrain{Kind: kind}, j)
			require.Subset(t, steps, []fitting.Step{fitting.JointLoaded, fitting.NoStiffLink, fitting.RunsFree, fitting.BrakesTested}, "%v, %v", kind, j)
			assert.Equal(t, j == sizing.JoiningLink, steps[0] == fitting.JointSeated)
			assert.Equal(t, kind == chain.Derailleur, contains(steps, fitting.Routing))
			assert.Equal(t, kind != chain.Derailleur, contains(steps, fitting.TensionSet))
		}
	}
	for _, name := range []string{"test-first", "together-at-limit"} {
		s, err := fitting.ParseSprocketSchool(name)
		require.NoError(t, err)
		assert.Equal(t, name, s.String())
	}
	_, err := fitting.ParseLinkSchool("never")
	assert.ErrorContains(t, err, "new-each-time")
}

func contains(steps []fitting.Step, s fitting.Step) bool {
	for _, one := range steps {
		if one == s {
			return true
		}
	}
	return false
}
