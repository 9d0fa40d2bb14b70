package chain_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/chain"
)

func TestElongationOf(t *testing.T) {
	for _, c := range []struct {
		mm   chain.MM
		n    chain.Links
		want chain.Percent
	}{
		{304.8, 24, 0},                        // new
		{304.8 + 25.4/16, 24, 0.520833},       // a sixteenth past the foot mark
		{304.8 + 25.4/8, 24, 1.041667},        // an eighth past it
		{12.7 * 114 * 1.0075, 114, 0.75},      // a whole chain
		{304.5, 24, -0.098425196850393950},    // noise below new is kept
		{chain.MM(12.7 * 10 * 1.005), 10, .5}, // a caliper's span
	} {
		got, err := chain.ElongationOf(c.mm, c.n)
		require.NoError(t, err)
		assert.InDelta(t, float64(c.want), float64(got), 1e-6, "%v mm over %v links", c.mm, c.n)
	}
	for _, c := range []struct {
		mm   chain.MM
		n    chain.Links
		said string
	}{
		{304.8, 0, "at least one link"},
		{304.8, -24, "at least one link"},
		{0, 24, "not a positive finite number"},
		{-3, 10, "not a positive finite number"},
		{chain.MM(math.NaN()), 24, "not a positive finite number"},
		{chain.MM(math.Inf(1)), 24, "not a positive finite number"},
	} {
		_, err := chain.ElongationOf(c.mm, c.n)
		assert.ErrorContains(t, err, c.said, "%v mm over %v links", c.mm, c.n)
	}
}

func TestElongationLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := chain.Links(rapid.IntRange(1, 150).Draw(t, "links"))
		mm := n.Nominal() * chain.MM(rapid.Float64Range(0.99, 1.05).Draw(t, "stretch"))
		e, err := chain.ElongationOf(mm, n)
		require.NoError(t, err)
		require.InDelta(t, float64(mm), float64(e.Length(n)), 1e-9, "length and elongation are each other's inverse")
		twice, err := chain.ElongationOf(2*mm, 2*n)
		require.NoError(t, err)
		require.InDelta(t, float64(e), float64(twice), 1e-9, "the span measured does not change the answer")
		require.InDelta(t, float64(e.Growth(n)), float64(e.PlayPerJoint())*float64(n), 1e-9, "the play of all joints is the growth")
		inches, err := chain.ElongationOf(chain.Inch*(mm/chain.Inch), n)
		require.NoError(t, err)
		require.InDelta(t, float64(e), float64(inches), 1e-9, "the unit read in does not change the answer")
	})
}

func TestDrivetrain(t *testing.T) {
	good := chain.Drivetrain{Kind: chain.Derailleur, Sprockets: 12, Motor: chain.NoMotor}
	require.NoError(t, good.Check())
	for said, change := range map[string]func(*chain.Drivetrain){
		"kind of drivetrain": func(d *chain.Drivetrain) { d.Kind = chain.KindUnknown },
		"15 sprockets":       func(d *chain.Drivetrain) { d.Sprockets = 15 },
		"0 sprockets":        func(d *chain.Drivetrain) { d.Sprockets = 0 },
		"motor":              func(d *chain.Drivetrain) { d.Motor = chain.MotorUnknown },
	} {
		bad := good
		change(&bad)
		assert.ErrorContains(t, bad.Check(), said)
	}
	for _, k := range []chain.DrivetrainKind{chain.Derailleur, chain.SingleSpeed, chain.HubGear} {
		got, err := chain.ParseDrivetrainKind(k.String())
		require.NoError(t, err)
		assert.Equal(t, k, got)
	}
	for _, m := range []chain.Motor{chain.NoMotor, chain.HubMotor, chain.MidMotor} {
		got, err := chain.ParseMotor(m.String())
		require.NoError(t, err)
		assert.Equal(t, m, got)
	}
	_, err := chain.ParseMotor("")
	assert.Error(t, err, "not known is no motor")
}

func ExamplePercent() {
	e, _ := chain.ElongationOf(306.4, 24)
	fmt.Printf("306.4 mm over 24 links: %.3f %%\n", float64(e))
	fmt.Printf("play a joint: %.4f mm\n", float64(e.PlayPerJoint()))
	fmt.Printf("a chain of 114 has grown: %.1f mm\n", float64(e.Growth(114)))
	// Output:
	// 306.4 mm over 24 links: 0.525 %
	// play a joint: 0.0667 mm
	// a chain of 114 has grown: 7.6 mm
}
