package clean_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/clean"
)

// waits reports whether somebody would stand and wait for a step of a block that its own wait holds.
func waits(steps []clean.Planned, block clean.Block, k int) bool {
	s := steps[block.Steps[k]]
	if s.Wait == nil || s.Wait.Least == 0 {
		return false
	}
	var meanwhile clean.Minutes
	for _, i := range block.Steps[k+1:] {
		if slices.Contains(steps[i].Waits, s.Code) {
			return meanwhile < s.Wait.Least
		}
		meanwhile += steps[i].Minutes
	}
	return true
}

// Whatever the plan: every step is in exactly one block, in the plan's order, at one place; what must end a block ends it; and
// a small block at the stand took in what it could.
func TestBlocks(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b, route, rules := dirty(t)
		choice := clean.Choose(b, rules)
		p, err := clean.New(b, choice.With(b, route), rules)
		if err != nil {
			p, err = clean.New(b, choice.Order(), rules)
		}
		require.NoError(t, err)
		blocks := clean.Blocks(p.Steps)
		assert.Equal(t, blocks, clean.Blocks(p.Steps), "the same plan is cut the same")
		next := 0
		for n, block := range blocks {
			require.NotEmpty(t, block.Steps)
			first, last := p.Steps[block.Steps[0]], p.Steps[block.Steps[len(block.Steps)-1]]
			assert.Equal(t, []any{first.Code, next}, []any{block.Code, block.Steps[0]})
			assert.NotEmpty(t, block.Title)
			var minutes clean.Minutes
			var given []clean.Caution
			for k, i := range block.Steps {
				require.Equal(t, next, i, "every step once, in order")
				next++
				s := p.Steps[i]
				minutes += s.Minutes
				given = append(given, s.Cautions...)
				assert.Equal(t, first.Station, s.Station, "one place")
				again := slices.DeleteFunc(clean.SendBack(p.Steps, s.Code), func(code string) bool { return code == s.Code })
				ends := waits(p.Steps, block, k) || len(again) > 0 || slices.Contains([]clean.Opens{clean.OpensReadings, clean.OpensNewChain, clean.OpensWaste}, clean.OpenedBy(s.Code))
				assert.False(t, ends && k < len(block.Steps)-1, "%s ends its block", s.Code)
			}
			assert.Equal(t, minutes, block.Minutes)
			if n+1 == len(blocks) {
				continue
			}
			after := p.Steps[blocks[n+1].Steps[0]]
			again := slices.DeleteFunc(clean.SendBack(p.Steps, last.Code), func(code string) bool { return code == last.Code })
			forced := waits(p.Steps, block, len(block.Steps)-1) || len(again) > 0 || clean.OpenedBy(last.Code) != "" && clean.OpenedBy(last.Code) != clean.OpensJoiningLink
			if !forced && first.Station == clean.AtStand && after.Station == clean.AtStand && minutes < 5 {
				fresh := slices.ContainsFunc(blocks[n+1].Steps, func(i int) bool {
					return slices.ContainsFunc(p.Steps[i].Cautions, func(c clean.Caution) bool { return !slices.Contains(given, c) })
				})
				assert.True(t, fresh, "a small block takes in the next: %s, %s", block.Code, after.Code)
			}
		}
		assert.Equal(t, len(p.Steps), next)
	})
}

func TestBlocksEndWhereThePersonChanges(t *testing.T) {
	b := clean.Bike{Train: geared, Brakes: clean.Disc, Drivetrain: 1, Frame: 1, Read: true}
	p, err := clean.New(b, clean.Choose(b, clean.HouseRules()).Order(), clean.HouseRules())
	require.NoError(t, err)
	who := make([]string, len(p.Steps))
	for i := range who {
		who[i] = []string{"mira", "tobiah"}[i%2]
	}
	for _, block := range clean.Blocks(p.Steps, who...) {
		assert.Len(t, block.Steps, 1)
	}
}

// The time of a block is shared over its steps, and nothing of it is lost.
func TestShares(t *testing.T) {
	assert.Equal(t, []int{60, 120, 0, 61}, clean.Shares(241, []clean.Minutes{1, 2, 0, 1}))
	assert.Equal(t, []int{3, 3, 4}, clean.Shares(10, []clean.Minutes{0, 0, 0}))
	assert.Empty(t, clean.Shares(10, nil))
	rapid.Check(t, func(t *rapid.T) {
		planned := rapid.SliceOfN(rapid.Map(rapid.IntRange(0, 40), func(n int) clean.Minutes { return clean.Minutes(n) }), 1, 12).Draw(t, "planned")
		seconds, sum := rapid.IntRange(0, 90_000).Draw(t, "seconds"), 0
		for _, s := range clean.Shares(seconds, planned) {
			assert.GreaterOrEqual(t, s, 0)
			sum += s
		}
		assert.Equal(t, seconds, sum)
	})
}
