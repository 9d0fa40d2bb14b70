package outside

import (
	"context"
	"errors"
	"math/rand/v2"
	"sync"
	"time"

	"github.com/google/uuid"
)

// Message is what goes out to an owner.
type Message struct {
	ID      uuid.UUID // the same at every try: a gateway that has delivered it does not deliver it again
	Way     string    // message, mail
	Address string
	Body    string
}

// Gateway carries messages. Sending one again after an answer that was lost is not another message.
type Gateway interface {
	Send(ctx context.Context, m Message) error
}

// Memory is what a simulated gateway remembers, so that a page can show it and a message that it has is not
// delivered again.
type Memory interface {
	Delivered(ctx context.Context, id uuid.UUID) (bool, error)
	Keep(ctx context.Context, m Message, delivered bool, at time.Time) error
}

// Rates are how often a simulated gateway fails and how often and for how long it keeps one waiting.
type Rates struct {
	Fail, Delay float64 // shares, 0 to 1
	Wait        time.Duration
}

// SimulatedGateway stands in for the network: it delivers, delays and fails at set rates.
type SimulatedGateway struct {
	rates  Rates
	memory Memory
	now    func() time.Time

	mu     sync.Mutex
	chance *rand.Rand
}

// NewGateway returns a simulated gateway whose chances come from the seed.
func NewGateway(rates Rates, memory Memory, now func() time.Time, seed uint64) *SimulatedGateway {
	return &SimulatedGateway{rates: rates, memory: memory, now: now, chance: rand.New(rand.NewPCG(seed, seed))}
}

// ErrNotReached is a network that did not take the message.
var ErrNotReached = errors.New("the network did not take it")

// Send delivers a message, or does not.
func (g *SimulatedGateway) Send(ctx context.Context, m Message) error {
	g.mu.Lock()
	fails, waits := g.chance.Float64() < g.rates.Fail, g.chance.Float64() < g.rates.Delay
	g.mu.Unlock()
	if waits {
		timer := time.NewTimer(g.rates.Wait)
		defer timer.Stop()
		select {
		case <-timer.C:
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	had, err := g.memory.Delivered(ctx, m.ID)
	if err != nil || had {
		return err
	}
	if err := g.memory.Keep(ctx, m, !fails, g.now()); err != nil {
		return err
	}
	if fails {
		return ErrNotReached
	}
	return nil
}
