// Package live carries changes from PostgreSQL to browsers: every process that serves the shop
// listens to the database, so it does not matter which of them a change was written through.
package live

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
)

// Everything is the change that tells listeners to ask for all they show again: after a break in
// listening nobody knows what was missed.
const Everything = `{"topic":"everything"}`

// backlog is how many changes a listener may lag behind before it is told [Everything] instead.
const backlog = 64

// Hub hands each change to every listener. Its zero value is ready.
type Hub struct {
	mu        sync.Mutex
	listeners map[chan string]struct{}
	closed    bool
}

// Subscribe returns a channel of changes, and a function that ends it. The channel is closed when
// the hub is.
func (h *Hub) Subscribe() (<-chan string, func()) {
	ch := make(chan string, backlog)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.closed {
		close(ch)
		return ch, func() {}
	}
	if h.listeners == nil {
		h.listeners = map[chan string]struct{}{}
	}
	h.listeners[ch] = struct{}{}
	return ch, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.listeners, ch)
	}
}

// Close ends every listener's channel, so that a server can stop whose streams would never end.
func (h *Hub) Close() {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.closed = true
	for ch := range h.listeners {
		close(ch)
	}
	h.listeners = nil
}

func (h *Hub) publish(change string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for ch := range h.listeners {
		select {
		case ch <- change:
		default: // too far behind: drop what waits and let it ask for everything
			for len(ch) > 0 {
				<-ch
			}
			ch <- Everything
		}
	}
}

// retry is how long to wait before listening again after the database was lost.
const retry = time.Second

// Run listens on the channel until ctx ends, and calls ready once it first does.
func (h *Hub) Run(ctx context.Context, pool *pgxpool.Pool, channel string, ready func()) {
	for ctx.Err() == nil {
		err := h.listen(ctx, pool, channel, ready)
		if ctx.Err() != nil {
			return
		}
		slog.Warn("listening to the database was interrupted", "err", err)
		select {
		case <-time.After(retry):
		case <-ctx.Done():
		}
	}
}

func (h *Hub) listen(ctx context.Context, pool *pgxpool.Pool, channel string, ready func()) error {
	acquired, err := pool.Acquire(ctx)
	if err != nil {
		return err
	}
	conn := acquired.Hijack() // a listening connection must not go back to the pool
	defer func() {
		// ctx may be over by now, and closing must still say goodbye.
		bye, cancel := context.WithTimeout(context.WithoutCancel(ctx), retry)
		defer cancel()
		_ = conn.Close(bye) // nothing is left to lose on it
	}()
	if _, err := conn.Exec(ctx, "listen "+pgx.Identifier{channel}.Sanitize()); err != nil {
		return err
	}
	h.publish(Everything)
	ready()
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		h.publish(n.Payload)
	}
}
