package shop_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/contact"
)

// A message that is sent at any time waits for the next at which owners are told anything.
func TestQuietTimes(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	v, err := b.CurrentRules(ctx)
	require.NoError(t, err)
	r := &v.Rules.Recalls
	r.From, r.Until, r.Closed, r.ClosedOn = "10:30", "17:00", []string{"saturday", "sunday"}, []string{"2026-06-15"}
	v, err = b.ChangeRules(ctx, b.mira, v.Version, v.Rules)
	require.NoError(t, err)
	day := func(month time.Month, d, hour, minute int) time.Time {
		return time.Date(2026, month, d, hour, minute, 0, 0, time.UTC)
	}
	m, err := b.DraftRecall(ctx, b.mira, b.tag)
	require.NoError(t, err)
	for _, c := range []struct{ sent, goes time.Time }{
		{day(6, 11, 12, 0), day(6, 11, 12, 0)},   // a Thursday, open
		{day(6, 11, 3, 15), day(6, 11, 10, 30)},  // before dawn
		{day(6, 11, 17, 0), day(6, 12, 10, 30)},  // closing time
		{day(6, 12, 18, 30), day(6, 16, 10, 30)}, // Friday evening, a weekend, and a Monday off
		{day(6, 14, 12, 0), day(6, 16, 10, 30)},
	} {
		*b.now = c.sent
		m, err = b.DoMessage(ctx, b.mira, m.ID, contact.MessageAction{Action: "send", Version: m.Version})
		require.NoError(t, err)
		assert.Equal(t, c.goes, m.NextTryAt.In(time.UTC), "sent at %s", c.sent)
		m, err = b.DoMessage(ctx, b.mira, m.ID, contact.MessageAction{Action: "withdraw", Version: m.Version})
		require.NoError(t, err)
		_, err = b.DoMessage(ctx, b.mira, m.ID, contact.MessageAction{Action: "withdraw", Version: m.Version})
		assert.Equal(t, "not-so-now", code(t, err))
		m, err = b.DraftRecall(ctx, b.mira, b.tag)
		require.NoError(t, err)
	}

	r.From, r.Until, r.Closed, r.ClosedOn, r.EveryDays, r.Text = "9", "08:00", []string{"someday"}, []string{"soon"}, 0, "Hello {reader}"
	_, err = b.ChangeRules(ctx, b.mira, v.Version, v.Rules)
	assert.Equal(t, map[string]string{"rules.recalls.from": "not-a-time", "rules.recalls.until": "out-of-order", "rules.recalls.closed": "unknown-value",
		"rules.recalls.closed_on": "not-a-date", "rules.recalls.every_days": "out-of-range", "rules.recalls.text": "missing"}, faults(t, err))
}
