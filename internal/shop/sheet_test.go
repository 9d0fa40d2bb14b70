package shop_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/schedule"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// The sheet for tomorrow says of every bike that the plan works on then what it needs, in order of time, and what is short.
func TestTheSheetAgreesWithThePlan(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b, _ := staffed(t, 3)
	b.rules(func(r *rules.Rules) { // today is over soon
		for day := range r.Floor.Hours {
			r.Floor.Hours[day] = []store.Stretch{{From: "09:00", Until: "12:30"}, {From: "13:00", Until: "13:10"}}
		}
	})
	job, err := b.OpenJob(ctx, b.mira, b.tag, jobs.Intake{Condition: jobs.Condition{FrameGrade: 2, DrivetrainGrade: 3, Lubricant: "immersion-wax", HasLink: true}, Complaints: []string{}})
	require.NoError(t, err)
	floor := b.floor()
	sheet, err := b.DaySheet(ctx, "")
	require.NoError(t, err)
	tomorrow := b.now.AddDate(0, 0, 1).Format(time.DateOnly)
	assert.Equal(t, tomorrow, sheet.Day)
	assert.Equal(t, floor.MadeAt, sheet.MadeAt)
	assert.Len(t, sheet.People, 3)
	first := map[string]time.Time{}
	for _, s := range floor.Stints {
		if s.Start.Format(time.DateOnly) != tomorrow {
			continue
		}
		if at, known := first[s.Tag]; !known || s.Start.Before(at) {
			first[s.Tag] = s.Start
		}
	}
	require.NotEmpty(t, first)
	require.Len(t, sheet.Jobs, len(first))
	for i, j := range sheet.Jobs {
		assert.True(t, first[j.Tag].Equal(j.FirstAt), "%s: %s, %s in the plan", j.Tag, j.FirstAt, first[j.Tag])
		assert.True(t, i == 0 || !j.FirstAt.Before(sheet.Jobs[i-1].FirstAt), "in order of time")
		assert.NotEmpty(t, j.By)
		assert.Equal(t, j.Job == job.ID, j.Guess)
	}
	total := map[string]float64{}
	for _, j := range sheet.Jobs {
		for _, a := range j.Amounts {
			total[a.Material] += a.Amount
		}
	}
	for _, a := range sheet.Fluids {
		assert.InDelta(t, total[a.Material], a.Amount, 1e-9, a.Material)
		delete(total, a.Material)
	}
	assert.Empty(t, total, "what a bike needs and the day does not")
	pot := slices.IndexFunc(sheet.Heats, func(h schedule.SheetHeat) bool { return h.Place == "pot" })
	require.GreaterOrEqual(t, pot, 0, "the pot is switched on: %+v", sheet.Heats)
	assert.Equal(t, b.tag, sheet.Heats[pot].Tag)

	// What is not enough for what is planned is named, with when it is needed; ordered, it goes.
	m, err := b.AddMaterial(ctx, b.mira, stock.NewMaterialFacts{Kind: "degreaser", Facts: stock.MaterialFacts{Name: "Citrus degreaser", Quantity: 1}})
	require.NoError(t, err)
	short := func() (schedule.SheetOrder, bool) {
		sheet, err := b.DaySheet(ctx, tomorrow)
		require.NoError(t, err)
		i := slices.IndexFunc(sheet.Order, func(o schedule.SheetOrder) bool { return o.Material == "degreaser" })
		if i < 0 {
			return schedule.SheetOrder{}, false
		}
		return sheet.Order[i], true
	}
	o, is := short()
	require.True(t, is)
	assert.Greater(t, o.Amount, o.Have)
	assert.True(t, slices.ContainsFunc(b.floor().Stints, func(s schedule.FloorStint) bool { return s.Tag == o.Tag && s.Start.Equal(o.NeededAt) }))
	m.Facts.Quantity = o.Amount
	_, err = b.ChangeMaterial(ctx, b.mira, m.ID, m.Version, m.Facts, false)
	require.NoError(t, err)
	_, is = short()
	assert.False(t, is)

	_, err = b.DaySheet(ctx, "tomorrow")
	assert.Equal(t, "invalid-input", code(t, err))
	empty, err := b.DaySheet(ctx, b.now.AddDate(0, 1, 0).Format(time.DateOnly))
	require.NoError(t, err)
	assert.Empty(t, empty.Jobs)
}
