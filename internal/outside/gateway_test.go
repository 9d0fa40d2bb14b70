package outside_test

import (
	"context"
	"errors"
	"math"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/outside"
)

// memory remembers in a map.
type memory struct {
	delivered map[uuid.UUID]int
	refused   int
}

func (m *memory) Delivered(_ context.Context, id uuid.UUID) (bool, error) {
	return m.delivered[id] > 0, nil
}

func (m *memory) Keep(_ context.Context, msg outside.Message, delivered bool, _ time.Time) error {
	if delivered {
		m.delivered[msg.ID]++
	} else {
		m.refused++
	}
	return nil
}

// The simulated gateway fails at its rate, says so, and never delivers a message twice that it has.
func TestGatewayRates(t *testing.T) {
	ctx := context.Background()
	m := &memory{delivered: map[uuid.UUID]int{}}
	g := outside.NewGateway(outside.Rates{Fail: 0.3}, m, time.Now, 7)
	failed := 0
	const messages = 1000
	for range messages {
		one := outside.Message{ID: uuid.New(), Way: "message", Address: "0555 1", Body: "due"}
		for tries := 0; ; tries++ {
			err := g.Send(ctx, one)
			if err == nil {
				break
			}
			require.ErrorIs(t, err, outside.ErrNotReached)
			failed++
		}
		require.NoError(t, g.Send(ctx, one), "sent again after an answer that was lost")
		assert.Equal(t, 1, m.delivered[one.ID])
	}
	assert.Equal(t, failed, m.refused)
	assert.InDelta(t, 0.3/0.7*messages, failed, 70)

	// Who gives up waiting is not answered, and nothing was delivered.
	slow := outside.NewGateway(outside.Rates{Delay: 1, Wait: time.Hour}, m, time.Now, 7)
	given, cancel := context.WithCancel(ctx)
	cancel()
	late := outside.Message{ID: uuid.New()}
	assert.True(t, errors.Is(slow.Send(given, late), context.Canceled))
	assert.Zero(t, m.delivered[late.ID])
}

// The invented town has the same weather whoever asks and however much of it, with seasons and rain such as a
// harbour has.
func TestWeatherHistory(t *testing.T) {
	ctx := context.Background()
	w := outside.SimulatedWeather{Seed: 1}
	year := time.Date(2026, 1, 1, 15, 0, 0, 0, time.UTC)
	days, err := w.Days(ctx, year, year.AddDate(1, 0, -1))
	require.NoError(t, err)
	require.Len(t, days, 365)
	wet, warm, cold := 0, 0.0, 0.0
	for i, d := range days {
		assert.Equal(t, i+1, d.Day.YearDay())
		assert.Less(t, d.MinC, d.MaxC)
		assert.GreaterOrEqual(t, d.RainMM, 0.0)
		if d.RainMM > 0 {
			wet++
		}
		switch d.Day.Month() {
		case time.July:
			warm += d.MaxC / 31
		case time.January:
			cold += d.MaxC / 31
		}
	}
	assert.InDelta(t, 140, wet, 40, "days with rain")
	assert.Greater(t, warm, cold+6)
	again, err := w.Days(ctx, days[99].Day, days[99].Day)
	require.NoError(t, err)
	assert.Equal(t, days[99:100], again)
	other, err := outside.SimulatedWeather{Seed: 2}.Days(ctx, days[99].Day, days[99].Day)
	require.NoError(t, err)
	assert.Greater(t, math.Abs(other[0].MinC-again[0].MinC), 1e-9, "another seed, another history")
}
