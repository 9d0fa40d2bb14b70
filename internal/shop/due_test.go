package shop_test

import (
	"bufio"
	"context"
	"encoding/json"
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
	"earnestpony/internal/store"
)

func (t *tracked) due() shop.BikeDue {
	t.Helper()
	d, err := t.BikeDue(context.Background(), t.tag)
	require.NoError(t, err)
	return d
}

func (t *tracked) task(code string) shop.DueTask {
	t.Helper()
	d := t.due()
	i := slices.IndexFunc(d.Tasks, func(x shop.DueTask) bool { return x.Code == code })
	require.GreaterOrEqual(t, i, 0, "no task %s", code)
	return d.Tasks[i]
}

func (t *tracked) list(f shop.DueFilter) []shop.DueRow {
	t.Helper()
	f.Limit = 50
	page, err := t.Due(context.Background(), f)
	require.NoError(t, err)
	return page.Rows
}

// A bike's tasks count from when it was first seen, fall due by days and distance, follow the forecast, and
// start afresh when they are done; the list says the same as the bike's page.
func TestWhatABikeNeeds(t *testing.T) {
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.fit(0)
	assert.Equal(t, "fresh", b.task("relubricate").State)
	assert.NotNil(t, b.task("replace-chain").EveryHardKM, "by a guess from how it is kept")
	assert.True(t, b.task("replace-chain").Guess)
	b.later(22)
	lube := b.task("relubricate")
	assert.Equal(t, []any{"due", "distance", 22}, []any{lube.State, lube.Binds, lube.SinceDays}, "70 km a week, half of it wet: 330 hard km of 300")
	b.read(700, "0.3")
	read := b.task("read-wear")
	assert.Equal(t, []any{"fresh", 0}, []any{read.State, read.SinceDays})
	assert.False(t, read.Guess, "measured now")
	assert.Greater(t, b.task("replace-chain").Used, 0.3)

	err := b.TaskDone(ctx, b.mira, "", b.tag, "relubricate", "", nil)
	require.NoError(t, err)
	assert.Equal(t, "fresh", b.task("relubricate").State)
	b.later(1)
	err = b.ReportEvent(ctx, b.mira, "", b.tag, "soaked-ride", "through the flood", nil)
	require.NoError(t, err)
	soaked := b.task("relubricate")
	assert.Equal(t, []any{"due", "event", "soaked-ride", "Mira Oxenholt"}, []any{soaked.State, soaked.Binds, soaked.Event, soaked.EventBy})
	rows := b.list(shop.DueFilter{State: "due"})
	require.Len(t, rows, 1)
	var visit []string
	require.NoError(t, json.Unmarshal(rows[0].Visit, &visit))
	assert.Equal(t, b.due().Visit, visit)
	listed, err := rows[0].Listed()
	require.NoError(t, err)
	shown := slices.DeleteFunc(b.due().Tasks, func(x shop.DueTask) bool { return x.State == "fresh" && !slices.Contains(visit, x.Code) })
	assert.Equal(t, shown, listed, "the list and the bike agree")
	assert.Positive(t, rows[0].SavedMin)

	// The verdict makes the chain due; a new one starts it afresh.
	b.read(1500, "0.9")
	gone := b.task("replace-chain")
	assert.Equal(t, []string{"verdict-replace"}, []string{gone.Event})
	assert.Contains(t, []string{"due", "overdue"}, gone.State)
	b.later(1)
	b.fit(1510)
	assert.Equal(t, "fresh", b.task("replace-chain").State)
	assert.Equal(t, "new-chain", b.task("look-at-teeth").Event)

	err = b.TaskDone(ctx, b.mira, "", b.tag, "replace-chain", "", nil)
	assert.Equal(t, "not-noted-here", code(t, err))
	err = b.TaskDone(ctx, b.mira, "", b.tag, "polish", "", nil)
	assert.Equal(t, "task-not-found", code(t, err))
	err = b.ReportEvent(ctx, b.mira, "", b.tag, "wash", "", nil)
	assert.Equal(t, map[string]string{"event": "unknown-value"}, faults(t, err))

	// What was struck out counts no more, and the ledger alone gives the same answer.
	odd, err := b.Verify(ctx)
	require.NoError(t, err)
	assert.Empty(t, odd)
}

// The shop's intervals, its own tasks and a bike's own come in the place of the table's; a day on which it is
// needed pulls forward.
func TestIntervalsOfShopAndBike(t *testing.T) {
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.fit(0)
	v, err := b.Rules(ctx)
	require.NoError(t, err)
	r := v.Rules
	r.Intervals.School = "keen"
	r.Intervals.Changed = map[string]shop.TaskSetting{"wash": {EveryDays: ptr(7)}}
	r.Intervals.Own = append(r.Intervals.Own, ownTask("sealant", "Sealant and rim tape", 180))
	v, err = b.ChangeRules(ctx, b.mira, v.Version, r)
	require.NoError(t, err)
	assert.Equal(t, 300.0, *b.task("clean-on-bike").EveryHardKM)
	assert.Equal(t, 7, *b.task("wash").EveryDays)
	assert.Equal(t, []any{"Sealant and rim tape", 180, true}, []any{b.task("sealant").Title, *b.task("sealant").EveryDays, b.task("sealant").Own})

	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	facts := bike.Facts
	facts.Tasks = map[string]shop.TaskSetting{"wash": {Off: true, Reason: "hosed at the harbour"}, "brakes": {EveryDays: ptr(30), Reason: "steep lanes"}}
	facts.NeededOn, facts.NeededFor = "2026-05-20", "the island crossing"
	_, err = b.ChangeBike(ctx, b.mira, b.tag, bike.Version, shop.NewBike{CustomerID: bike.Owner.ID, Facts: facts})
	require.NoError(t, err)
	d := b.due()
	assert.False(t, slices.ContainsFunc(d.Tasks, func(x shop.DueTask) bool { return x.Code == "wash" }))
	assert.Equal(t, "steep lanes", b.task("brakes").Reason)
	assert.Equal(t, "2026-05-20", d.NeededOn)
	lube := b.task("relubricate") // due in 20 days by distance, on the 24th
	assert.True(t, lube.Pulled)
	assert.Equal(t, "2026-05-19", *lube.DueOn)

	r.Intervals.School, r.Intervals.LookAhead = "never", 400
	r.Intervals.Changed = map[string]shop.TaskSetting{"polish": {}, "wash": {EveryDays: ptr(-1)}}
	r.Intervals.Own = append(r.Intervals.Own, ownTask("sealant", "", 0))
	_, err = b.ChangeRules(ctx, b.mira, v.Version, r)
	assert.Equal(t, map[string]string{"rules.intervals.school": "unknown-value", "rules.intervals.look_ahead_days": "out-of-range", "rules.intervals.changed.polish": "unknown-value",
		"rules.intervals.changed.wash.every_days": "out-of-range", "rules.intervals.own[1].title": "missing", "rules.intervals.own[1].code": "unknown-value"}, faults(t, err))
	facts.Tasks = map[string]shop.TaskSetting{"brakes": {EveryDays: ptr(9999)}}
	facts.NeededOn = "tomorrow"
	_, err = b.ChangeBike(ctx, b.mira, b.tag, bike.Version+1, shop.NewBike{CustomerID: bike.Owner.ID, Facts: facts})
	assert.Equal(t, map[string]string{"facts.needed_on": "not-a-date", "facts.tasks.brakes.every_days": "out-of-range", "facts.tasks.brakes.reason": "missing"}, faults(t, err))
}

func ownTask(code, title string, days int) shop.OwnTask {
	return shop.OwnTask{Code: code, Title: title, EveryDays: &days, Weight: 1}
}

// A job does its tasks, step by step.
func TestAJobDoesItsTasks(t *testing.T) {
	w := takeIn(t, commuter, shop.Arrival{CleaningQuestion: shop.CleaningQuestion{FrameGrade: 3, DrivetrainGrade: 3, LubricantOn: "oil", LubricantNext: "oil"}, Complaints: []string{"gritty"}})
	assert.Equal(t, "grit-heard", w.task("clean-on-bike").Event)
	assert.Equal(t, "dirty-frame", w.task("wash").Event)
	w.plan(shop.JobOrder{Route: "soak", Reason: "grit is heard"})
	w.until("final-look")
	w.done("final-look")
	for _, code := range []string{"clean-on-bike", "deep-clean", "wash", "read-wear", "relubricate", "pivots", "brakes", "look-at-teeth"} {
		assert.Equal(t, []any{"fresh", false}, []any{w.task(code).State, w.task(code).Never}, code)
	}
	assert.True(t, w.task("strip").Never)
}

// recalled is a bike whose owner agreed to be told, and that is due.
func recalled(t *testing.T) *tracked {
	b := openTracked(t, commuter)
	ctx := context.Background()
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	c, err := b.Customer(ctx, bike.Owner.ID)
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
		_, err := b.KeepDue(ctx)
		require.NoError(t, err)
		n, err := b.DraftRecalls(ctx)
		require.NoError(t, err)
		return n
	}
	first := func() shop.Message {
		t.Helper()
		all, err := b.Messages(ctx)
		require.NoError(t, err)
		return all[0]
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
	assert.Contains(t, m.Body, "the chain needs lubricating (about 600 km of riding)")
	assert.NotContains(t, m.Body, "{")
	send()
	assert.Empty(t, received, "a draft waits for somebody")

	*b.now = time.Date(2026, 6, 13, 22, 30, 0, 0, time.Local) // a Saturday night
	_, err := b.DoMessage(ctx, b.mira, m.ID, shop.MessageDeed{Deed: "send", Version: m.Version + 7})
	assert.Equal(t, "changed-meanwhile", code(t, err))
	m, err = b.DoMessage(ctx, b.mira, m.ID, shop.MessageDeed{Deed: "send", Version: m.Version, Body: "Your chain is dry. Come by."})
	require.NoError(t, err)
	assert.Equal(t, time.Date(2026, 6, 15, 9, 0, 0, 0, time.Local), m.NextTryAt.In(time.Local), "not at night and not on a Sunday")
	send()
	assert.Empty(t, received)
	*b.now = *m.NextTryAt
	fails = 3
	for _, wait := range []time.Duration{time.Minute, 5 * time.Minute, 30 * time.Minute} {
		send()
		m = first()
		assert.Equal(t, []any{"queued", wait, "the network did not take it"}, []any{m.State, m.NextTryAt.Sub(*b.now), m.LastError})
		*b.now = *m.NextTryAt
	}
	send()
	send()
	assert.Equal(t, []any{"delivered", 1}, []any{first().State, received[m.ID]})
	assert.Zero(t, drafts(), "told within three weeks")
	assert.Empty(t, b.list(shop.DueFilter{State: "due", Quiet: true}))
	b.later(22)
	require.Equal(t, 1, drafts())

	// Given up after the last try, and tried again by a person.
	fails = 99
	m = first()
	m, err = b.DoMessage(ctx, b.mira, m.ID, shop.MessageDeed{Deed: "send", Version: m.Version})
	require.NoError(t, err)
	for range 6 {
		*b.now = *first().NextTryAt
		send()
	}
	assert.Equal(t, []any{"not-reached", 6}, []any{first().State, first().Tries})
	m, err = b.DoMessage(ctx, b.mira, m.ID, shop.MessageDeed{Deed: "again", Version: first().Version})
	require.NoError(t, err)
	assert.Equal(t, "queued", m.State)

	// STOP takes the owner off, and takes back what was not told yet.
	stopped, err := b.Reply(ctx, b.mira, "+44 20 7946 0018", " Stop. ")
	require.NoError(t, err)
	assert.Equal(t, []any{1, "withdrawn"}, []any{stopped, first().State})
	_, err = b.DraftRecall(ctx, b.mira, b.tag)
	assert.Equal(t, "not-told", code(t, err))
	b.later(60)
	assert.Zero(t, drafts())
}

type gatewayFunc func(outside.Message) error

func (f gatewayFunc) Send(_ context.Context, m outside.Message) error { return f(m) }

// Two processes on one database and a gateway that fails three times in ten: each message is delivered once.
func TestNoMessageTwice(t *testing.T) {
	ctx := context.Background()
	b := recalled(t)
	v, err := b.Rules(ctx)
	require.NoError(t, err)
	v.Rules.Recalls.ByItself = true
	v.Rules.Recalls.From, v.Rules.Recalls.Until, v.Rules.Recalls.Closed = "00:00", "23:59", []string{}
	_, err = b.ChangeRules(ctx, b.mira, v.Version, v.Rules)
	require.NoError(t, err)
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	for range 29 {
		_, err := b.AddBike(ctx, b.mira, "", shop.NewBike{CustomerID: bike.Owner.ID, Facts: commuter})
		require.NoError(t, err)
	}
	b.later(40)
	processes := []*sender{startSender(t, b, 1), startSender(t, b, 2)}
	took := 0
	for range 10 {
		for _, p := range processes { // both are at it before either has answered
			_, err := fmt.Fprintln(p.at, b.now.Format(time.RFC3339))
			require.NoError(t, err)
		}
		for _, p := range processes {
			require.True(t, p.answers.Scan(), "the process ended")
			n, err := strconv.Atoi(p.answers.Text())
			require.NoError(t, err, p.answers.Text())
			p.took += n
			took += n
		}
		*b.now = b.now.Add(13 * time.Hour)
	}
	received, err := b.Received(ctx)
	require.NoError(t, err)
	delivered := map[uuid.UUID]int{}
	failed := 0
	for _, r := range received {
		if r.Delivered {
			delivered[r.MessageID]++
		} else {
			failed++
		}
	}
	assert.Len(t, delivered, 30)
	for id, times := range delivered {
		assert.Equal(t, 1, times, id)
	}
	assert.Positive(t, failed, "the gateway failed now and then")
	assert.Equal(t, len(received), took, "each try was taken by one of them")
	assert.Positive(t, processes[0].took)
	assert.Positive(t, processes[1].took)
}

// sender is another process that does what a server does in the background.
type sender struct {
	at      io.Writer // the times of its rounds
	answers *bufio.Scanner
	took    int
}

const senderOn, senderSeed = "PONY_TEST_SENDER_ON", "PONY_TEST_SENDER_SEED"

func startSender(t *testing.T, b *tracked, seed int) *sender {
	program, err := os.Executable()
	require.NoError(t, err)
	cmd := exec.CommandContext(context.Background(), program, "-test.run=^TestSender$")
	cmd.Env = append(os.Environ(), senderOn+"="+databases[b.Service].Pool().Config().ConnString(), senderSeed+"="+strconv.Itoa(seed))
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
		}{{s.KeepDue, false}, {s.DraftRecalls, false}, {s.SendMessages, true}} {
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

// The owner's page opens by its link alone, shows nothing of the owner, and what is told from it is a fact once
// the shop says so. A withdrawn link opens nothing.
func TestOwnersPage(t *testing.T) {
	ctx := context.Background()
	b := recalled(t)
	b.FoundAt("https://pony.example/")
	l, err := b.Link(ctx, "owner", b.tag)
	require.NoError(t, err)
	again, err := b.Link(ctx, "owner", b.tag)
	require.NoError(t, err)
	assert.Equal(t, l.URL, again.URL)
	token, is := strings.CutPrefix(l.URL, "https://pony.example/o/")
	require.True(t, is)
	assert.GreaterOrEqual(t, len(token), 22)
	p, err := b.OwnerPage(ctx, token)
	require.NoError(t, err)
	assert.Equal(t, []any{"Tidewrack Lane", b.tag, false}, []any{p.Shop, p.Tag, p.Measured})
	assert.NotEmpty(t, p.Next)
	require.NotNil(t, p.LeftKM)

	assert.Equal(t, map[string]string{"km": "out-of-range", "event": "unknown-value"}, faults(t, b.Tell(ctx, token, shop.OwnerReport{KM: ptr(-3.0), Event: "wash"})))
	assert.Equal(t, map[string]string{"note": "missing"}, faults(t, b.Tell(ctx, token, shop.OwnerReport{Note: " "})))
	require.NoError(t, b.Tell(ctx, token, shop.OwnerReport{KM: ptr(420.0), Event: "soaked-ride", Note: "ferry lane under water"}))
	before := b.task("clean-on-bike")
	assert.Empty(t, before.Event, "not a fact yet")
	reports, err := b.OwnerReports(ctx, b.tag)
	require.NoError(t, err)
	require.Len(t, reports, 1)
	require.NoError(t, b.DecideReport(ctx, b.mira, reports[0].ID, true, false))
	assert.Equal(t, "soaked-ride", b.task("clean-on-bike").Event)
	assert.InDelta(t, 420, *b.track().OdometerKM, 1e-9)
	assert.Equal(t, "decided", code(t, b.DecideReport(ctx, b.mira, reports[0].ID, false, false)))
	for range 5 {
		require.NoError(t, b.Tell(ctx, token, shop.OwnerReport{Event: "squeak"}))
	}
	assert.Equal(t, "told-enough", code(t, b.Tell(ctx, token, shop.OwnerReport{Event: "squeak"})))

	renewed, err := b.Reissue(ctx, b.mira, "owner", b.tag)
	require.NoError(t, err)
	assert.NotEqual(t, l.URL, renewed.URL)
	_, err = b.OwnerPage(ctx, token)
	assert.Equal(t, "link-not-found", code(t, err))
}

// The calendars keep their entries' names from one day to the next, and open by their links alone.
func TestCalendars(t *testing.T) {
	ctx := context.Background()
	b := recalled(t)
	token := func(kind, tag string) string {
		l, err := b.Link(ctx, kind, tag)
		require.NoError(t, err)
		return strings.TrimSuffix(strings.TrimPrefix(l.Path, "/calendar/"), ".ics")
	}
	uids := func(feed []byte) []string {
		var all []string
		for line := range strings.Lines(string(feed)) {
			if uid, is := strings.CutPrefix(strings.TrimSpace(line), "UID:"); is {
				all = append(all, uid)
			}
		}
		slices.Sort(all)
		return all
	}
	read := func(token string) []byte {
		feed, err := b.Calendar(ctx, token)
		require.NoError(t, err)
		assert.Contains(t, string(feed), "BEGIN:VCALENDAR\r\n")
		assert.Contains(t, string(feed), "DTSTART;VALUE=DATE:")
		return feed
	}
	ofShop, ofBike := token("calendar-shop", ""), token("calendar-bike", b.tag)
	one, each := read(ofShop), read(ofBike)
	assert.Equal(t, []string{b.tag + ".due@earnest-pony.invalid"}, uids(one))
	assert.Contains(t, uids(each), b.tag+".relubricate@earnest-pony.invalid")
	b.later(1)
	assert.Equal(t, uids(each), uids(read(ofBike)))
	_, err := b.Calendar(ctx, token("owner", b.tag))
	assert.Equal(t, "link-not-found", code(t, err), "another kind of link")
}

type weatherFunc func(day time.Time) outside.DayWeather

func (f weatherFunc) Days(_ context.Context, from, _ time.Time) ([]outside.DayWeather, error) {
	return []outside.DayWeather{f(from)}, nil
}

// Rides count by the weather of their days, once each, and within what the odometer says.
func TestRides(t *testing.T) {
	ctx := context.Background()
	b := openTracked(t, commuter)
	b.fit(1000)
	rain := map[string]float64{"2026-05-06": 8, "2026-05-07": 1}
	b.PlugInWeather(weatherFunc(func(day time.Time) outside.DayWeather {
		return outside.DayWeather{Day: day, RainMM: rain[day.Format(time.DateOnly)], MinC: 9}
	}))
	b.later(5)
	table := "started_at,distance_km,duration_min\n2026-05-05T08:00:00Z,20,60\n2026-05-06T08:00:00Z,30,90\n2026-05-07T08:00:00Z,10,30\n2027-01-01T08:00:00Z,5,9\nx,1,1\n"
	file, err := b.ImportRides(ctx, b.mira, b.tag, "week.csv", []byte(table))
	require.NoError(t, err)
	assert.Len(t, file.Kept, 3)
	require.Len(t, file.Wrong, 2, "%+v", file.Wrong)
	assert.Equal(t, 6, file.Wrong[0].Line)
	again, err := b.ImportRides(ctx, b.mira, b.tag, "again.csv", []byte("started_at,distance_km\n2026-05-05T08:00:40Z,20.1\n2026-05-05T08:02:00Z,20\n"))
	require.NoError(t, err)
	assert.Equal(t, []int{1, 1}, []int{len(again.Repeated), len(again.Kept)}, "within a minute and a hundredth it is the same ride")

	// 20 dry, 30 in soaking rain, 10 half wet, 20 dry once more, nobody read the odometer since.
	assert.InDelta(t, 20+60+15+20+2.146*15, b.track().NowHardKM, 0.1, "and as the owner says since the last ride")
	assert.Equal(t, "soaked-ride", b.task("clean-on-bike").Event)
	// The odometer says 100 km: the rides' 80 by their weather, the rest as usual, half wet.
	_, err = b.NoteOdometer(ctx, b.mira, "", b.tag, shop.OdometerNote{KM: 1100})
	require.NoError(t, err)
	assert.InDelta(t, 115+20*1.5, b.track().NowHardKM, 0.1)
	page, err := b.Ledger(ctx, b.tag, 0, 10)
	require.NoError(t, err)
	ride := slices.IndexFunc(page.Entries, func(e shop.LedgerEntry) bool { return e.Kind == "ride" })
	require.GreaterOrEqual(t, ride, 0)
	_, err = b.StrikeOut(ctx, b.mira, "", page.Entries[ride].ID, "somebody else's bike")
	require.NoError(t, err)
	odd, err := b.Verify(ctx)
	require.NoError(t, err)
	assert.Empty(t, odd)
}

// What a draft of the rules is said to make of the due list is what it makes of it.
func TestPreviewDue(t *testing.T) {
	ctx := context.Background()
	b := recalled(t)
	bike, err := b.Bike(ctx, b.tag)
	require.NoError(t, err)
	for _, kind := range []string{"cargo", "trail", "everyday"} {
		facts := commuter
		facts.Kind = kind
		_, err := b.AddBike(ctx, b.mira, "", shop.NewBike{CustomerID: bike.Owner.ID, Facts: facts})
		require.NoError(t, err)
	}
	b.later(14)
	counts := func() (c shop.DueCounts) {
		for _, r := range b.list(shop.DueFilter{State: "fresh", Limit: 50}) {
			*map[string]*int{"overdue": &c.Overdue, "due": &c.Due, "soon": &c.Soon, "fresh": &c.Fresh}[r.State]++
		}
		return c
	}
	v, err := b.Rules(ctx)
	require.NoError(t, err)
	before := counts()
	seldom, often := 400, 5
	for name, change := range map[string]func(*shop.Rules){
		"nothing":     func(*shop.Rules) {},
		"once a year": func(r *shop.Rules) { r.Intervals.School = "yearly" },
		"wash seldom": func(r *shop.Rules) { r.Intervals.Changed = map[string]store.TaskSetting{"wash": {EveryDays: &seldom}} },
		"a task of it": func(r *shop.Rules) {
			r.Intervals.Own = []store.OwnTask{{Code: "sealant", Title: "Sealant", EveryDays: &often, Weight: 1, Kinds: []string{"trail"}}}
		},
		"all of it off": func(r *shop.Rules) {
			r.Intervals.Changed = map[string]store.TaskSetting{}
			for _, task := range v.Defaults.Tasks {
				r.Intervals.Changed[task.Code] = store.TaskSetting{Off: true}
			}
		},
	} {
		draft := v.Rules
		change(&draft)
		p, err := b.PreviewDue(ctx, draft)
		require.NoError(t, err, name)
		assert.Equal(t, before, p.Now, name)
		kept, err := b.ChangeRules(ctx, b.mira, v.Version, draft)
		require.NoError(t, err, name)
		_, err = b.KeepDue(ctx)
		require.NoError(t, err, name)
		assert.Equal(t, counts(), p.Would, name)
		assert.Equal(t, 4, p.Of)
		v, err = b.ChangeRules(ctx, b.mira, kept.Version, v.Rules)
		require.NoError(t, err, name)
		_, err = b.KeepDue(ctx)
		require.NoError(t, err, name)
	}
	draft := v.Rules
	draft.Intervals.School = "never"
	_, err = b.PreviewDue(ctx, draft)
	assert.Equal(t, "invalid-input", code(t, err))
}

// An owner is told in plain words what is due, why, and what it would cost to leave it.
func TestWordsToOwners(t *testing.T) {
	ctx := context.Background()
	b := recalled(t)
	b.rules(func(r *shop.Rules) {
		r.Recalls.Text = "{bike}: {why}. {leave} Come in."
		for i := range r.Classes {
			for _, price := range []**int{&r.Classes[i].Chain, &r.Classes[i].Sprockets, &r.Classes[i].Rings, &r.Classes[i].LabourChain, &r.Classes[i].LabourSprockets, &r.Classes[i].LabourRings} {
				*price = ptr(3900)
			}
		}
	})
	only := func(code string, s store.TaskSetting) string { // with this one task left of them all
		t.Helper()
		b.rules(func(r *shop.Rules) {
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
		_, err = b.DoMessage(ctx, b.mira, m.ID, shop.MessageDeed{Deed: "withdraw", Version: m.Version})
		require.NoError(t, err)
		b.rules(func(r *shop.Rules) { r.Intervals.Changed = map[string]store.TaskSetting{} })
		return m.Body
	}
	days := func(n int) store.TaskSetting { return store.TaskSetting{EveryDays: &n} }
	require.NoError(t, b.TaskDone(ctx, b.mira, "", b.tag, "wash", "", nil))
	b.later(30)
	assert.Contains(t, only("wash", days(20)), "(30 days since the last time)")
	km := 100.0
	assert.Contains(t, only("brakes", store.TaskSetting{EveryHardKM: &km}), "of riding)")
	assert.Contains(t, only("brakes", store.TaskSetting{EveryHardKM: &km}), "Brakes are not left waiting.")
	require.NoError(t, b.ReportEvent(ctx, b.mira, "", b.tag, "squeak", "", nil))
	never := 300
	far := 40_000.0
	squeaks := only("relubricate", store.TaskSetting{EveryDays: &never, EveryHardKM: &far})
	assert.Contains(t, squeaks, "(it squeaked)")
	assert.Contains(t, squeaks, "A dry chain wears several times as fast.")
	assert.Contains(t, only("clean-on-bike", days(5)), "Grit inside the chain grinds it away.")
	b.read(0, "0.8")
	worn := only("replace-chain", store.TaskSetting{Off: true})
	assert.Contains(t, worn, "Ridden on, it wears the sprockets with it: EUR 78.00 more.")
	b.later(3)
	assert.Contains(t, only("read-wear", days(1)), "A chain found worn in time saves the sprockets.")
}
