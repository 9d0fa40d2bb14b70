package bigshop

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"slices"
	"strings"
	"sync"
	"time"

	"earnestpony/core/tag"
)

func marshal(v any) (string, error) {
	text, err := json.Marshal(v)
	return string(text), err
}

// Target is how long an answer may take at the 95th percentile with 32 clients, and how much longer it may take
// in a shop ten times as big.
const (
	ReadTarget  = 50 * time.Millisecond
	WriteTarget = 100 * time.Millisecond
	GrowTarget  = 1.5
)

// Took is how long one kind of question took.
type Took struct {
	Name    string
	Writes  bool
	Clients int
	Count   int
	// Rate is how many answers a second there were when nobody paused between questions.
	Rate float64
	P50  time.Duration
	P95  time.Duration
	P99  time.Duration
}

// asker asks one server as one screen would.
type asker struct {
	base   string
	client *http.Client
	bikes  int
	tool   string
	km     float64
}

// Measure asks a running server at base, signed in by the person's id, with one and with 32 clients.
func Measure(ctx context.Context, base, person, tool string, bikes int) ([]Took, error) {
	var all []Took
	for _, clients := range []int{1, 32} {
		askers := make([]*asker, clients)
		for i := range askers {
			a, err := signIn(ctx, base, person, tool, bikes)
			if err != nil {
				return nil, err
			}
			askers[i] = a
		}
		for _, q := range []struct {
			name   string
			writes bool
			count  int
			ask    func(*asker, context.Context, *rand.Rand) error
		}{
			{"bike page", false, 12, (*asker).bikePage}, {"find", false, 20, (*asker).find},
			{"due list, first page", false, 12, (*asker).dueList}, {"record a reading", true, 10, (*asker).record},
		} {
			each := max(q.count*32/clients/4, q.count)
			took, err := ask(ctx, askers, each, pause, q.ask)
			if err != nil {
				return nil, fmt.Errorf("%s with %d clients: %w", q.name, clients, err)
			}
			began := time.Now()
			hard, err := ask(ctx, askers, each, 0, q.ask)
			if err != nil {
				return nil, fmt.Errorf("%s with %d clients that do not pause: %w", q.name, clients, err)
			}
			one := summed(q.name, q.writes, clients, took)
			one.Rate = float64(len(hard)) / time.Since(began).Seconds()
			all = append(all, one)
		}
		took, err := live(ctx, askers, 40)
		if err != nil {
			return nil, fmt.Errorf("live events with %d clients: %w", clients, err)
		}
		all = append(all, summed("live event delivery", false, clients, took))
	}
	return all, nil
}

// pause is how long a client waits between questions: a person who taps as fast as anybody does.
const pause = 250 * time.Millisecond

// ask has each client ask so often, all at once, with a pause between, and returns how long each answer took.
func ask(ctx context.Context, askers []*asker, each int, between time.Duration, do func(*asker, context.Context, *rand.Rand) error) ([]time.Duration, error) {
	var mu sync.Mutex
	var took []time.Duration
	var first error
	var running sync.WaitGroup
	for i, a := range askers {
		chance := rand.New(rand.NewPCG(uint64(i), uint64(each)))
		running.Go(func() {
			for n := range each + 2 { // the first two warm up
				began := time.Now()
				err := do(a, ctx, chance)
				mu.Lock()
				if err != nil && first == nil {
					first = err
				}
				if n >= 2 {
					took = append(took, time.Since(began))
				}
				mu.Unlock()
				if err != nil {
					return
				}
				if between > 0 {
					time.Sleep(between/2 + time.Duration(chance.Int64N(int64(between))))
				}
			}
		})
	}
	running.Wait()
	return took, first
}

func summed(name string, writes bool, clients int, took []time.Duration) Took {
	slices.Sort(took)
	at := func(share float64) time.Duration { return took[min(int(share*float64(len(took))), len(took)-1)] }
	return Took{Name: name, Writes: writes, Clients: clients, Count: len(took), P50: at(0.5), P95: at(0.95), P99: at(0.99)}
}

func signIn(ctx context.Context, base, person, tool string, bikes int) (*asker, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	a := &asker{base: base, client: &http.Client{Jar: jar}, bikes: bikes, tool: tool, km: 6000}
	return a, a.call(ctx, "PUT", "/session", map[string]any{"person_id": person, "pin": PIN, "device": "bench"}, nil)
}

func (a *asker) call(ctx context.Context, method, path string, body any, key *string) error {
	var text []byte
	if body != nil {
		var err error
		if text, err = json.Marshal(body); err != nil {
			return err
		}
	}
	req, err := http.NewRequestWithContext(ctx, method, a.base+"/api/v1"+path, bytes.NewReader(text))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	if key != nil {
		req.Header.Set("Idempotency-Key", *key)
	}
	res, err := a.client.Do(req)
	if err != nil {
		return err
	}
	defer func() { _ = res.Body.Close() }()
	answer, err := io.ReadAll(res.Body)
	if err == nil && res.StatusCode >= 300 {
		err = fmt.Errorf("%s %s: %d %s", method, path, res.StatusCode, answer)
	}
	return err
}

func (a *asker) anyTag(chance *rand.Rand) string {
	return tag.Number(2 + chance.IntN(a.bikes)).String()
}

func (a *asker) bikePage(ctx context.Context, chance *rand.Rand) error {
	return a.call(ctx, "GET", "/bikes/"+a.anyTag(chance), nil, nil)
}

func (a *asker) find(ctx context.Context, chance *rand.Rand) error {
	q := fmt.Sprintf("model+%d", chance.IntN(300))
	if chance.IntN(2) == 0 {
		q = fmt.Sprintf("%x", 0x1000+chance.IntN(0xefff)) // part of an owner's name
	}
	return a.call(ctx, "GET", "/bikes?limit=7&q="+q, nil, nil)
}

func (a *asker) dueList(ctx context.Context, _ *rand.Rand) error {
	return a.call(ctx, "GET", "/due?state=due&limit=30", nil, nil)
}

func (a *asker) record(ctx context.Context, chance *rand.Rand) error {
	reading := func(place int) map[string]any {
		return map[string]any{"place": place, "text": fmt.Sprintf("0.%02d", 5+chance.IntN(60))}
	}
	return a.call(ctx, "POST", "/bikes/"+a.anyTag(chance)+"/measurements",
		map[string]any{"instrument_id": a.tool, "entries": []any{reading(1), reading(2), reading(3)}}, nil)
}

// live has every client follow the stream while the first writes, and times how long after a write was sent each
// of them hears of it; whoever wrote waits for its answer before it writes again.
func live(ctx context.Context, askers []*asker, times int) ([]time.Duration, error) {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	type hearing struct {
		data string
		at   time.Time
	}
	heard := make([]chan hearing, len(askers))
	for i, a := range askers {
		req, err := http.NewRequestWithContext(ctx, http.MethodGet, a.base+"/api/v1/events", nil)
		if err != nil {
			return nil, err
		}
		res, err := a.client.Do(req)
		if err != nil {
			return nil, err
		}
		defer func() { _ = res.Body.Close() }()
		hears := make(chan hearing, 1024)
		heard[i] = hears
		go func() {
			for lines := bufio.NewScanner(res.Body); lines.Scan(); {
				if data, is := strings.CutPrefix(lines.Text(), "data: "); is {
					hears <- hearing{data, time.Now()}
				}
			}
			close(hears)
		}()
	}
	var took []time.Duration
	chance := rand.New(rand.NewPCG(7, 7))
	for range times {
		which := askers[0].anyTag(chance)
		began := time.Now()
		// What is heard before the answer comes waits in the channels, with when it was heard.
		if err := askers[0].call(ctx, "POST", "/bikes/"+which+"/events", map[string]any{"event": "squeak"}, nil); err != nil {
			return nil, err
		}
		for i, hears := range heard {
			h, open := <-hears
			for open && !strings.Contains(h.data, which) {
				h, open = <-hears
			}
			if !open {
				return nil, fmt.Errorf("stream %d ended", i)
			}
			took = append(took, h.at.Sub(began))
		}
	}
	return took, nil
}
