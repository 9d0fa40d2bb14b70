package shop_test

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"os"
	"os/exec"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/outside"
	"earnestpony/internal/shop"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/contact"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// recalled is a bike whose owner agreed to be told, and that is due.
func recalled(t *testing.T) *tracked {
	b := openTracked(t, commuter)
	ctx := context.Background()
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	c, err := b.Customer(ctx, bike.Customer.ID)
	require.NoError(t, err)
	f := c.Customer.Facts
	f.Phone, f.ContactWay, f.Consent = "+44 20 7946 0018", "message", true
	_, err = b.ChangeCustomer(ctx, b.mira, c.Customer.ID, c.Customer.Version, f)
	require.NoError(t, err)
	b.fit(0)
	b.later(40)
	return b
}

// due → draft → sent: quiet times are kept, a failure is tried again at its times and given up at last, and at
// most one message goes out in three weeks.
func TestRecalls(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	fails := 0
	received := map[uuid.UUID]int{}
	b.PlugInGateway(gatewayFunc(func(m outside.Message) error {
		if fails > 0 {
			fails--
			return outside.ErrNotReached
		}
		received[m.ID]++
		return nil
	}))
	drafts := func() int {
		t.Helper()
		_, err := b.RefreshDue(ctx)
		require.NoError(t, err)
		n, err := b.DraftRecalls(ctx)
		require.NoError(t, err)
		return n
	}
	first := func() contact.Message {
		t.Helper()
		all, err := b.Messages(ctx, nil, 60)
		require.NoError(t, err)
		return all.Messages[0]
	}
	send := func() {
		t.Helper()
		_, err := b.SendMessages(ctx)
		require.NoError(t, err)
	}
	require.Equal(t, 1, drafts())
	assert.Zero(t, drafts(), "one draft at a time")
	m := first()
	assert.Contains(t, m.Body, "Aldous Fenwick-Reyes")
	assert.Contains(t, m.Body, "the chain needs lubricating (about 400 km of riding)", "km as its owner reads them, not by how hard they were")
	assert.NotContains(t, m.Body, "{")
	send()
	assert.Empty(t, received, "a draft waits for somebody")

	*b.now = time.Date(2026, 6, 13, 22, 30, 0, 0, time.UTC) // a Saturday night
	_, err := b.DoMessage(ctx, b.mira, m.ID, contact.MessageAction{Action: "send", Version: m.Version + 7})
	assert.Equal(t, "changed-meanwhile", code(t, err))
	m, err = b.DoMessage(ctx, b.mira, m.ID, contact.MessageAction{Action: "send", Version: m.Version, Body: "Your chain is dry. Come by."})
	require.NoError(t, err)
	assert.Equal(t, time.Date(2026, 6, 15, 9, 0, 0, 0, time.UTC), m.NextTryAt.In(time.UTC), "not at night and not on a Sunday")
	send()
	assert.Empty(t, received)
	*b.now = *m.NextTryAt
	fails = 3
	for _, wait := range []time.Duration{time.Minute, 5 * time.Minute, 30 * time.Minute} {
		send()
		m = first()
		assert.Equal(t, []any{store.MessageQueued, wait, "the network did not take it"}, []any{m.State, m.NextTryAt.Sub(*b.now), m.LastError})
		*b.now = *m.NextTryAt
	}
	send()
	send()
	assert.Equal(t, []any{store.MessageDelivered, 1}, []any{first().State, received[m.ID]})
	assert.Zero(t, drafts(), "told within three weeks")
	assert.Empty(t, b.list(due.DueFilter{State: "due", Quiet: true}))
	b.later(22)
	require.Equal(t, 1, drafts())
	states := []store.MessageState{}
	for after, more := (*uuid.UUID)(nil), true; more; {
		page, err := b.Messages(ctx, after, 1)
		require.NoError(t, err)
		assert.Equal(t, 2, page.Total)
		states = append(states, page.Messages[0].State)
		after, more = page.Next, page.Next != nil
	}
	assert.Equal(t, []store.MessageState{store.MessageDraft, store.MessageDelivered}, states, "a draft before what was told, and each once")

	// Given up after the last try, and tried again by a person.
	fails = 99
	m = first()
	m, err = b.DoMessage(ctx, b.mira, m.ID, contact.MessageAction{Action: "send", Version: m.Version})
	require.NoError(t, err)
	for range 6 {
		*b.now = *first().NextTryAt
		send()
	}
	assert.Equal(t, []any{store.MessageNotReached, 6}, []any{first().State, first().Tries})
	m, err = b.DoMessage(ctx, b.mira, m.ID, contact.MessageAction{Action: "again", Version: first().Version})
	require.NoError(t, err)
	assert.Equal(t, store.MessageQueued, m.State)

	// STOP takes the owner off, and takes back what was not told yet.
	_, err = b.Reply(ctx, b.mira, "+44 20 7946 0018", " Stop. ")
	assert.Equal(t, "no-simulated-gateway", code(t, err), "nobody at the page speaks for a customer where messages are real")
	b.TakeReplies()
	stopped, err := b.Reply(ctx, b.mira, "+44 20 7946 0018", " Stop. ")
	require.NoError(t, err)
	assert.Equal(t, []any{1, store.MessageWithdrawn}, []any{stopped, first().State})
	_, err = b.DraftRecall(ctx, b.mira, b.tag)
	assert.Equal(t, "not-told", code(t, err))
	b.later(60)
	assert.Zero(t, drafts())
}

type gatewayFunc func(outside.Message) error

func (f gatewayFunc) Send(_ context.Context, m outside.Message) error { return f(m) }

// Two processes on one database and a gateway that fails three times in ten: each message is delivered once.
func TestNoMessageTwice(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	v, err := b.CurrentRules(ctx)
	require.NoError(t, err)
	v.Rules.Recalls.ByItself = true
	v.Rules.Recalls.From, v.Rules.Recalls.Until, v.Rules.Recalls.Closed = "00:00", "23:59", []string{}
	_, err = b.ChangeRules(ctx, b.mira, v.Version, v.Rules)
	require.NoError(t, err)
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	for range 29 {
		_, err := b.AddBike(ctx, b.mira, bikes.NewBike{CustomerID: bike.Customer.ID, Facts: commuter})
		require.NoError(t, err)
	}
	b.later(40)
	processes := []*sender{startSender(t, b, 1), startSender(t, b, 2)}
	took := 0
	for range 10 {
		slices.Reverse(processes)     // each is the first now and then, however busy the machine is
		for _, p := range processes { // both are at it before either has answered
			_, err := fmt.Fprintln(p.at, b.now.Format(time.RFC3339))
			require.NoError(t, err)
		}
		for _, p := range processes {
			require.True(t, p.answers.Scan(), "the process ended")
			n, err := strconv.Atoi(p.answers.Text())
			require.NoError(t, err, p.answers.Text())
			took += n
		}
		*b.now = b.now.Add(13 * time.Hour)
	}
	received, err := b.Received(ctx)
	require.NoError(t, err)
	delivered, failed := map[uuid.UUID]int{}, map[uuid.UUID]int{}
	all := map[uuid.UUID]bool{}
	for _, r := range received {
		all[r.MessageID] = true
		if r.Delivered {
			delivered[r.MessageID]++
		} else {
			failed[r.MessageID]++
		}
	}
	assert.Len(t, all, 30)
	for id := range all { // which of the two takes one decides how the gateway's dice fall: now and then one is given up
		assert.True(t, delivered[id] == 1 || delivered[id] == 0 && failed[id] == 6, "%s: delivered %d times, failed %d", id, delivered[id], failed[id])
	}
	assert.GreaterOrEqual(t, len(delivered), 25)
	assert.NotEmpty(t, failed, "the gateway failed now and then")
	assert.Equal(t, len(received), took, "each try was taken by one of them")
}

// sender is another process that does what a server does in the background.
type sender struct {
	at      io.Writer // the times of its rounds
	answers *bufio.Scanner
}

const senderOn, senderSeed = "PONY_TEST_SENDER_ON", "PONY_TEST_SENDER_SEED"

func startSender(t *testing.T, b *tracked, seed int) *sender {
	program, err := os.Executable()
	require.NoError(t, err)
	cmd := exec.CommandContext(context.Background(), program, "-test.run=^TestSender$")
	cmd.Env = append(os.Environ(), senderOn+"="+databaseOf(t, b.Service).Pool().Config().ConnString(), senderSeed+"="+strconv.Itoa(seed))
	cmd.Stderr = os.Stderr
	at, err := cmd.StdinPipe()
	require.NoError(t, err)
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	t.Cleanup(func() {
		_ = at.Close()
		_, _ = io.Copy(io.Discard, out) // it says PASS before it ends
		assert.NoError(t, cmd.Wait())
	})
	return &sender{at: at, answers: bufio.NewScanner(out)}
}

// TestSender is the other process of TestNoMessageTwice, and nothing by itself.
func TestSender(t *testing.T) {
	t.Parallel()
	dsn := os.Getenv(senderOn)
	if dsn == "" {
		t.Skip("only in a process of its own")
	}
	seed, err := strconv.ParseUint(os.Getenv(senderSeed), 10, 64)
	require.NoError(t, err)
	db, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	defer db.Close()
	var now time.Time
	clock := func() time.Time { return now }
	s := shop.New(db, clock)
	s.PlugInGateway(outside.NewGateway(outside.Rates{Fail: 0.3}, s.GatewayMemory(), clock, seed))
	for rounds := bufio.NewScanner(os.Stdin); rounds.Scan(); {
		now, err = time.Parse(time.RFC3339, rounds.Text())
		require.NoError(t, err)
		tried := 0
		for _, work := range []struct {
			do    func(context.Context) (int, error)
			sends bool
		}{{s.RefreshDue, false}, {s.DraftRecalls, false}, {s.SendMessages, true}} {
			for {
				n, err := work.do(t.Context())
				require.NoError(t, err)
				if work.sends {
					tried += n
				}
				if n == 0 {
					break
				}
			}
		}
		fmt.Println(tried)
	}
}

// An owner is told in plain words what is due, why, and what it would cost to leave it.
func TestWordsToOwners(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	b.rules(func(r *rules.Rules) {
		r.Recalls.Text = "{bike}: {why}. {leave} Come in."
		for i := range r.Classes {
			for _, price := range []**int{&r.Classes[i].Chain, &r.Classes[i].Sprockets, &r.Classes[i].Rings, &r.Classes[i].LabourChain, &r.Classes[i].LabourSprockets, &r.Classes[i].LabourRings} {
				*price = ptr(3900)
			}
		}
	})
	only := func(code string, s store.TaskSetting) string { // with this one task left of them all
		t.Helper()
		b.rules(func(r *rules.Rules) {
			r.Intervals.Changed = map[string]store.TaskSetting{}
			for _, task := range b.due().Tasks {
				r.Intervals.Changed[task.Code] = store.TaskSetting{Off: true}
			}
			r.Intervals.Changed[code] = s
			if s.Off {
				delete(r.Intervals.Changed, code)
			}
		})
		m, err := b.DraftRecall(ctx, b.mira, b.tag)
		require.NoError(t, err, code)
		assert.NotContains(t, m.Body, "  ")
		_, err = b.DoMessage(ctx, b.mira, m.ID, contact.MessageAction{Action: "withdraw", Version: m.Version})
		require.NoError(t, err)
		b.rules(func(r *rules.Rules) { r.Intervals.Changed = map[string]store.TaskSetting{} })
		return m.Body
	}
	days := func(n int) store.TaskSetting { return store.TaskSetting{EveryDays: &n} }
	require.NoError(t, b.TaskDone(ctx, b.mira, b.tag, "wash", "", nil))
	b.later(30)
	assert.Contains(t, only("wash", days(20)), "(30 days since the last time)")
	km := 100.0
	assert.Contains(t, only("brakes", store.TaskSetting{EveryHardKM: &km}), "of riding)")
	assert.Contains(t, only("brakes", store.TaskSetting{EveryHardKM: &km}), "Brakes are not left waiting.")
	require.NoError(t, b.ReportEvent(ctx, b.mira, b.tag, "squeak", "", nil))
	never := 300
	far := 40_000.0
	squeaks := only("relubricate", store.TaskSetting{EveryDays: &never, EveryHardKM: &far})
	assert.Contains(t, squeaks, "(it squeaked)")
	assert.Contains(t, squeaks, "A dry chain wears several times as fast.")
	assert.Contains(t, only("clean-on-bike", days(5)), "Grit inside the chain grinds it away.")
	b.read(0, "0.8")
	worn := only("replace-chain", store.TaskSetting{Off: true})
	assert.Contains(t, worn, "If it is ridden on, it wears the cassette too: EUR 78.00 more.")
	b.later(3)
	assert.Contains(t, only("read-wear", days(1)), "Finding a worn chain in time saves the cassette.")
}

// carrier carries every message and remembers what it carried.
type carrier struct{ bodies []string }

func (c *carrier) Send(_ context.Context, m outside.Message) error {
	c.bodies = append(c.bodies, m.Body)
	return nil
}

// A message may lead to the customer's page. Each gives a link of its own when it is sent, ends none that was
// given before, and its address is kept nowhere.
func TestLinksInMessages(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	b := recalled(t)
	b.SetBaseURL("https://pony.example/")
	carried := &carrier{}
	b.PlugInGateway(carried)
	b.rules(func(r *rules.Rules) { r.Recalls.Text = "{bike}: {why}. More at {link} or here." })
	said := func() string {
		t.Helper()
		m, err := b.DraftRecall(ctx, b.mira, b.tag)
		require.NoError(t, err)
		assert.Contains(t, m.Body, "More at {link} or here.", "until it is sent there is no address")
		_, err = b.DoMessage(ctx, b.mira, m.ID, contact.MessageAction{Action: "send", Version: m.Version})
		require.NoError(t, err)
		*b.now = b.now.Add(24 * time.Hour)
		_, err = b.SendMessages(ctx)
		require.NoError(t, err)
		require.NotEmpty(t, carried.bodies)
		_, link, is := strings.Cut(carried.bodies[len(carried.bodies)-1], "More at https://pony.example/o/")
		require.True(t, is, carried.bodies)
		link, is = strings.CutSuffix(link, " or here.")
		require.True(t, is, carried.bodies)
		return link
	}
	first, second := said(), said()
	assert.NotEqual(t, first, second)
	for _, token := range []string{first, second} {
		p, err := b.OwnerPage(ctx, token)
		require.NoError(t, err)
		assert.Equal(t, b.tag, p.Tag)
		assert.NotContains(t, b.dump(), token)
	}
}
