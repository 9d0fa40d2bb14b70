package live_test

import (
	"context"
	"testing"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/live"
	"earnestpony/internal/pgtest"
)

// next returns the next change, or fails once nobody would wait any longer.
func next(t *testing.T, changes <-chan string) string {
	t.Helper()
	select {
	case c, open := <-changes:
		require.True(t, open, "the hub was closed")
		return c
	case <-time.After(time.Minute):
		require.Fail(t, "no change came")
		return ""
	}
}

func TestChangesComeAndNoneIsMissed(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	defer stop()
	pool, err := pgxpool.New(ctx, pgtest.New(t))
	require.NoError(t, err)
	t.Cleanup(pool.Close)
	var hub live.Hub
	changes, end := hub.Subscribe()
	defer end()
	ran := make(chan struct{})
	go func() {
		defer close(ran)
		hub.Run(ctx, pool, "t", func() {})
	}()
	require.Equal(t, live.Everything, next(t, changes), "who begins to listen asks for everything")
	_, err = pool.Exec(ctx, "select pg_notify('t', 'one'), pg_notify('t', 'two')")
	require.NoError(t, err)
	require.Equal(t, "one", next(t, changes))
	require.Equal(t, "two", next(t, changes))

	// The listening connection is lost: it comes back, and says that something may have been missed.
	_, err = pool.Exec(ctx, "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and query like 'listen%'")
	require.NoError(t, err)
	require.Equal(t, live.Everything, next(t, changes))

	// Who lags far behind is told to ask for everything instead of being waited for.
	lagging, endLagging := hub.Subscribe()
	defer endLagging()
	_, err = pool.Exec(ctx, "select pg_notify('t', n::text) from generate_series(1, 500) n")
	require.NoError(t, err)
	for got := ""; got != "500" && got != live.Everything; got = next(t, changes) { // this one reads, and may lag on a busy machine
	}
	for got := ""; got != live.Everything; got = next(t, lagging) {
	}

	stop()
	<-ran
	hub.Close()
	for range changes { // drained and closed
	}
}
