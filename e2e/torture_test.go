package e2e

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/anishathalye/porcupine"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/localpg"
)

// tortures is how often the server and the database are each killed, and whether `make torture` asks: otherwise it is a
// taste of it.
func tortures() (times int, whole bool) {
	if n, err := strconv.Atoi(os.Getenv("PONY_TORTURE")); err == nil && n > 0 {
		return n, true
	}
	return 2, false
}

// Eight writers with keys, on one and on two server processes, while servers and the database are killed, the
// database is frozen and its disk is full: what was acknowledged is there once, and the whole history is one in
// which one write came after the other.
func TestTorture(t *testing.T) {
	t.Parallel()
	times, whole := tortures()
	for servers := 1; servers <= 2; servers++ {
		if servers == 1 && !whole {
			continue
		}
		t.Run(fmt.Sprintf("%d servers", servers), func(t *testing.T) {
			s := newTortured(t, program, servers)
			s.run(func() {
				for i := range times {
					s.killServer(i % servers)
					s.killDatabase()
				}
				s.freezeDatabase()
				s.fillDisk()
			}, 400*min(times, 5))
			s.judge()
		})
	}
}

// A build with a planted lost update is caught: a checker that accepts everything would not be one.
func TestTortureCatchesALostUpdate(t *testing.T) {
	t.Parallel()
	if _, whole := tortures(); !whole {
		t.Skip("another build: make torture")
	}
	planted := filepath.Join(t.TempDir(), "planted")
	out, err := exec.Command("go", "build", "-tags", "planted", "-o", planted, "earnestpony/cmd/pony").CombinedOutput()
	require.NoError(t, err, "%s", out)
	s := newTortured(t, planted, 2)
	s.only = "customer"
	s.run(func() {}, 1500)
	assert.Equal(t, porcupine.Illegal, s.accepted("customer"), "two changes over one version were both accepted, and nobody noticed")
}

// tortured is a shop under torture.
type tortured struct {
	t       *testing.T
	cluster *localpg.Cluster
	state   string // of the cluster
	dsn     string // over the way
	way     *wire  // to the database
	program string
	servers []*tortureServer
	only    string // kind of operation; all where empty

	customers, bikes, items []string // what is written of
	widths                  map[string]string

	begun   time.Time
	mu      sync.Mutex
	history []porcupine.Operation
	acked   map[string]bool // unique names that were acknowledged
	tried   map[string]bool // and all that were sent
	unknown atomic.Int64
}

type tortureServer struct {
	addr    string
	process *exec.Cmd
}

const tortureWriters = 8

func newTortured(t *testing.T, program string, servers int) *tortured {
	t.Helper()
	s := &tortured{t: t, program: program, acked: map[string]bool{}, tried: map[string]bool{}, widths: map[string]string{}}
	s.state = smallDisk(t)
	var err error
	s.cluster, err = localpg.Find(s.state, "torture", false)
	require.NoError(t, err)
	dsn, err := s.cluster.Start(t.Context(), "shop")
	require.NoError(t, err)
	s.way, s.dsn = newWire(t, dsn) // a database that starts again may do so at another port
	t.Cleanup(func() {
		assert.NoError(t, s.cluster.Stop(context.Background()))
		_ = os.RemoveAll(s.cluster.Dir()) // goes with its disk, where it has one
	})
	s.pony("", "shop", "Tidewrack Lane Cycle Workshop")
	s.pony("2718\n", "person", "Mira Oxenholt")
	for range servers {
		one := &tortureServer{addr: freeAddress(t)}
		s.servers = append(s.servers, one)
		s.start(one)
		t.Cleanup(func() { _ = one.process.Process.Kill(); _ = one.process.Wait() })
	}
	s.setUp()
	s.begun = time.Now()
	return s
}

// smallDisk is a folder on a disk of its own that can be filled, where the machine lets us have one; else a plain
// folder.
func smallDisk(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("/var/tmp", "pony-torture-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	require.NoError(t, os.Chmod(dir, 0o755))
	if os.Geteuid() == 0 && syscall.Mount("tmpfs", dir, "tmpfs", 0, "size=400m,mode=0755") == nil {
		t.Cleanup(func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) })
	}
	return dir
}

func freeAddress(t *testing.T) string {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer func() { _ = l.Close() }()
	return l.Addr().String()
}

func (s *tortured) pony(input string, args ...string) string {
	s.t.Helper()
	cmd := exec.Command(s.program, args...)
	cmd.Env = append(os.Environ(), "PONY_DATABASE="+s.dsn)
	cmd.Stdin = strings.NewReader(input)
	out, err := cmd.CombinedOutput()
	require.NoError(s.t, err, "pony %v: %s", args, out)
	return string(out)
}

// start starts a server where it was, and waits until it is ready.
func (s *tortured) start(one *tortureServer) {
	cmd := exec.Command(s.program, "serve", "--addr", one.addr)
	cmd.Env = append(os.Environ(), "PONY_DATABASE="+s.dsn)
	log, err := os.OpenFile(filepath.Join(os.TempDir(), "server "+one.addr+".log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	require.NoError(s.t, err)
	cmd.Stderr = log
	require.NoError(s.t, cmd.Start())
	_ = log.Close() // the process has its own
	one.process = cmd
	s.until("the server is ready, see "+log.Name(), func() bool {
		res, err := http.Get("http://" + one.addr + "/readyz")
		if err != nil {
			return false
		}
		_ = res.Body.Close()
		return res.StatusCode == http.StatusOK
	})
}

// until asks again and again, and never waits for a fixed time.
func (s *tortured) until(what string, so func() bool) {
	s.t.Helper()
	for end := time.Now().Add(patience); !so(); {
		require.True(s.t, time.Now().Before(end), "never: %s", what)
		time.Sleep(20 * time.Millisecond)
	}
}

func (s *tortured) killServer(i int) {
	one := s.servers[i]
	_ = one.process.Process.Kill()
	_ = one.process.Wait() // which reports the kill
	s.start(one)
}

// postgres are the processes of the database, the first of them the one that started the others.
func (s *tortured) postgres() []int {
	text, err := os.ReadFile(filepath.Join(s.cluster.Dir(), "postmaster.pid"))
	if err != nil {
		return nil
	}
	pid, err := strconv.Atoi(strings.TrimSpace(strings.SplitN(string(text), "\n", 2)[0]))
	if err != nil {
		return nil
	}
	pids := []int{pid}
	children, _ := os.ReadFile(fmt.Sprintf("/proc/%d/task/%d/children", pid, pid)) // none where it just ended
	for _, c := range strings.Fields(string(children)) {
		if n, err := strconv.Atoi(c); err == nil {
			pids = append(pids, n)
		}
	}
	return pids
}

func (s *tortured) killDatabase() {
	pids := s.postgres()
	require.NotEmpty(s.t, pids)
	for _, pid := range pids {
		_ = syscall.Kill(pid, syscall.SIGKILL) // one may have ended by itself
	}
	s.until("its processes are gone", func() bool {
		for _, pid := range pids {
			if syscall.Kill(pid, 0) == nil {
				return false
			}
		}
		return true
	})
	s.until("the database starts again", func() bool {
		dsn, err := s.cluster.Start(context.Background(), "shop")
		return err == nil && s.way.lead(dsn) == nil
	})
}

// freezeDatabase stops every process of the database for some seconds, as a machine that swaps does.
func (s *tortured) freezeDatabase() {
	before := len(s.acknowledged())
	pids := s.postgres()
	for _, pid := range pids {
		require.NoError(s.t, ignoreGone(syscall.Kill(pid, syscall.SIGSTOP)))
	}
	res, err := (&http.Client{Timeout: patience}).Get("http://" + s.servers[0].addr + "/api/v1/people")
	if assert.NoError(s.t, err, "a server answers while its database is frozen") {
		assert.Equal(s.t, http.StatusServiceUnavailable, res.StatusCode)
		assert.NotEmpty(s.t, res.Header.Get("Retry-After"))
		_ = res.Body.Close()
	}
	for _, pid := range pids {
		require.NoError(s.t, ignoreGone(syscall.Kill(pid, syscall.SIGCONT)))
	}
	s.until("writes go on after the freeze", func() bool { return len(s.acknowledged()) > before })
}

func ignoreGone(err error) error {
	if errors.Is(err, syscall.ESRCH) {
		return nil
	}
	return err
}

// fillDisk fills the database's disk until a write is refused, and makes room again.
func (s *tortured) fillDisk() {
	var disk syscall.Statfs_t
	if err := syscall.Statfs(s.state, &disk); err != nil || disk.Blocks*uint64(disk.Bsize) > 1<<30 {
		s.t.Log("the disk is not ours to fill here")
		return
	}
	ballast := filepath.Join(s.state, "ballast")
	f, err := os.Create(ballast)
	require.NoError(s.t, err)
	refused := s.refused()
	piece := make([]byte, 1<<20)
	s.until("a write is refused for want of room", func() bool {
		for err == nil {
			_, err = f.Write(piece)
		}
		err = nil
		return s.refused() > refused
	})
	require.NoError(s.t, f.Close())
	require.NoError(s.t, os.Remove(ballast))
	before := len(s.acknowledged())
	s.until("writes go on once there is room", func() bool {
		_, _ = s.cluster.Start(context.Background(), "shop") // it may have ended for want of room
		return len(s.acknowledged()) > before
	})
}

var refusedWrites atomic.Int64

func (s *tortured) refused() int64 { return refusedWrites.Load() }

func (s *tortured) acknowledged() map[string]bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	all := make(map[string]bool, len(s.acked))
	for name := range s.acked {
		all[name] = true
	}
	return all
}

// tortureClient is one writer, on whichever server answers.
type tortureClient struct {
	*tortured
	number int
	chance *rand.Rand
	http   *http.Client
}

func (s *tortured) client(number int) *tortureClient {
	jar, err := cookiejar.New(nil)
	require.NoError(s.t, err)
	return &tortureClient{s, number, rand.New(rand.NewPCG(uint64(number), 7)), &http.Client{Jar: jar, Timeout: 8 * time.Second}}
}

var errAway = errors.New("no answer that says what became of it")

// send sends one request to one server. errAway says that nobody knows what became of it.
func (c *tortureClient) send(addr, method, path string, body any, key string) (status int, answer []byte, err error) {
	text, err := json.Marshal(body)
	if err != nil {
		return 0, nil, err
	}
	req, err := http.NewRequest(method, "http://"+addr+"/api/v1"+path, bytes.NewReader(text))
	if err != nil {
		return 0, nil, err
	}
	req.Header.Set("Content-Type", "application/json")
	if key != "" {
		req.Header.Set("Idempotency-Key", key)
	}
	res, err := c.http.Do(req)
	if err != nil {
		return 0, nil, errAway
	}
	defer func() { _ = res.Body.Close() }()
	answer, err = io.ReadAll(res.Body)
	if err != nil || res.StatusCode >= 500 {
		refusedWrites.Add(1)
		return res.StatusCode, answer, errAway
	}
	return res.StatusCode, answer, nil
}

// ask sends a request until somebody answers it, signing in where it must; giveUp ends it sooner, with errAway.
func (c *tortureClient) ask(method, path string, body any, key string, giveUp func(tries int) bool) (int, []byte, error) {
	for tries := 0; ; tries++ {
		addr := c.servers[c.chance.IntN(len(c.servers))].addr
		status, answer, err := c.send(addr, method, path, body, key)
		switch {
		case status == http.StatusUnauthorized:
			c.signIn(addr)
		case err == nil:
			return status, answer, nil
		case giveUp != nil && giveUp(tries):
			return 0, nil, errAway
		}
		time.Sleep(time.Duration(5+c.chance.IntN(40)) * time.Millisecond)
	}
}

func (c *tortureClient) signIn(addr string) {
	_, text, err := c.send(addr, "GET", "/people", nil, "")
	var people []struct{ ID string }
	if err != nil || json.Unmarshal(text, &people) != nil || len(people) == 0 {
		return
	}
	_, _, _ = c.send(addr, "PUT", "/session", map[string]string{"person_id": people[0].ID, "pin": "2718", "device": fmt.Sprintf("tablet %d", c.number)}, "")
}

// must asks and reads the answer, which must have the status.
func (c *tortureClient) must(status int, method, path string, body, into any) {
	got, text, err := c.ask(method, path, body, "", nil)
	require.NoError(c.t, err)
	require.Equal(c.t, status, got, "%s %s: %s", method, path, text)
	if into != nil {
		require.NoError(c.t, json.Unmarshal(text, into))
	}
}

// setUp makes what is written of.
func (s *tortured) setUp() {
	c := s.client(100)
	c.signIn(s.servers[0].addr)
	var rules struct {
		Version int
		Rules   map[string]any
	}
	c.must(http.StatusOK, "GET", "/rules", nil, &rules)
	rules.Rules["link_school"] = "inspect-and-reuse"
	c.must(http.StatusOK, "PUT", "/rules", map[string]any{"version": rules.Version, "rules": rules.Rules}, nil)
	var made struct{ ID, Tag string }
	for i := range 6 {
		c.must(http.StatusCreated, "POST", "/customers", map[string]any{"name": fmt.Sprintf("Customer %d", i)}, &made)
		s.customers = append(s.customers, made.ID)
		c.must(http.StatusCreated, "POST", "/stock", map[string]any{"kind": "joining-link", "facts": map[string]any{"name": fmt.Sprintf("Link %d", i), "sprockets": 12, "quantity": 300, "low_mark": 0, "stated_uses": stated}}, &made)
		s.items = append(s.items, made.ID)
		c.must(http.StatusCreated, "POST", "/bikes", map[string]any{"customer_id": s.customers[i], "facts": twelveSpeed}, &made)
		s.bikes = append(s.bikes, made.Tag)
		c.must(http.StatusCreated, "POST", "/bikes/"+made.Tag+"/chain", map[string]any{"what": "as it came"}, nil)
	}
}

// stated is how often the maker of a joining link lets it close a chain.
const stated = 5

// What is written, and what the histories are made of. One operation is about one thing; those about one thing
// are judged together.
type tortureInput struct {
	kind    string // customer, stock, link, key
	of      string
	op      string // of customers: read, change; of stock: read, take; of links: read, fresh, again; of keys: add, find
	version int
	value   string
}

type tortureOutput struct {
	unknown bool
	ok      bool
	version int
	value   string
	count   int
}

func (s *tortured) now() int64 { return time.Since(s.begun).Nanoseconds() }

func (s *tortured) note(client int, in tortureInput, call int64, out tortureOutput, back int64) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.history = append(s.history, porcupine.Operation{ClientId: client, Input: in, Call: call, Output: out, Return: back})
	if out.unknown {
		s.unknown.Add(1)
	}
}

// run has eight writers write while something is done to the shop, and until there are so many operations.
func (s *tortured) run(torture func(), operations int) {
	done := make(chan struct{})
	var writers sync.WaitGroup
	enough := func() bool {
		select {
		case <-done:
		default:
			return false
		}
		s.mu.Lock()
		defer s.mu.Unlock()
		return len(s.history) >= operations
	}
	for i := range tortureWriters {
		writers.Go(func() {
			c := s.client(i)
			for n := 0; !enough(); n++ {
				c.write(n)
			}
		})
	}
	torture()
	close(done)
	writers.Wait()
}

// seldom gives a write up after some tries, now and then: a tablet whose battery ends.
func (c *tortureClient) seldom() func(int) bool {
	most := 1 << 30
	if c.chance.IntN(3) == 0 {
		most = c.chance.IntN(2)
	}
	return func(tries int) bool { return tries >= most }
}

func (c *tortureClient) write(n int) {
	key := fmt.Sprintf("key %d of writer %d at %d", n, c.number, c.begun.UnixNano())
	what := c.chance.IntN(10)
	if c.only == "customer" {
		what = c.chance.IntN(4)
	}
	switch {
	case what < 4:
		c.changeCustomer(key)
	case what < 6:
		c.addOnce(key)
	default:
		c.openChain(key, what == 9)
	}
}

// changeCustomer reads a customer and changes it over the version that it saw.
func (c *tortureClient) changeCustomer(key string) {
	id := c.customers[c.chance.IntN(len(c.customers))]
	type customer struct {
		Version int
		Facts   struct{ Name, Notes string }
	}
	in := tortureInput{kind: "customer", of: id, op: "read"}
	call := c.now()
	_, text, err := c.ask("GET", "/customers/"+id, nil, "", c.seldom())
	if err != nil {
		return // who reads and hears nothing says nothing
	}
	var seen struct{ Customer customer }
	require.NoError(c.t, json.Unmarshal(text, &seen))
	c.note(c.number, in, call, tortureOutput{ok: true, version: seen.Customer.Version, value: seen.Customer.Facts.Notes}, c.now())

	in.op, in.version, in.value = "change", seen.Customer.Version, key
	call = c.now()
	status, text, err := c.ask("PUT", "/customers/"+id, map[string]any{"version": in.version, "facts": map[string]any{"name": seen.Customer.Facts.Name, "notes": key}}, key, c.seldom())
	out := tortureOutput{unknown: err != nil, ok: status == http.StatusOK}
	if out.ok {
		var after customer
		require.NoError(c.t, json.Unmarshal(text, &after))
		out.version = after.Version
	} else if err == nil {
		require.Equal(c.t, http.StatusConflict, status, "%s", text)
	}
	c.note(c.number, in, call, out, c.end(out))
}

// end is when an operation returned; one of which nobody knows may take effect until the end.
func (c *tortureClient) end(out tortureOutput) int64 {
	if out.unknown {
		return 1 << 62
	}
	return c.now()
}

// addOnce adds a customer of a name of its own, and sends the same again, as a double tap does.
func (c *tortureClient) addOnce(key string) {
	name := "Once-" + strings.ReplaceAll(key, " ", "-")
	c.mu.Lock()
	c.tried[name] = true
	c.mu.Unlock()
	for range 2 {
		in := tortureInput{kind: "key", of: name, op: "add"}
		call := c.now()
		status, text, err := c.ask("POST", "/customers", map[string]any{"name": name}, key, c.seldom())
		out := tortureOutput{unknown: err != nil, ok: status == http.StatusCreated}
		if out.ok {
			var made struct{ ID string }
			require.NoError(c.t, json.Unmarshal(text, &made))
			out.value = made.ID
			c.mu.Lock()
			c.acked[name] = true
			c.mu.Unlock()
		} else if err == nil {
			require.Fail(c.t, "refused", "%d %s", status, text)
		}
		c.note(c.number, in, call, out, c.end(out))
	}
}

// openChain opens a bike's chain and closes it with a link from the shelf, or with the one it has.
func (c *tortureClient) openChain(key string, fresh bool) {
	i := c.chance.IntN(len(c.bikes))
	tag, item := c.bikes[i], c.items[c.chance.IntN(len(c.items))]
	link := map[string]any{"reuse": true, "sound": true}
	op := "again"
	if fresh {
		link, op = map[string]any{"stock_item_id": item}, "fresh"
	}
	call := c.now()
	status, text, err := c.ask("POST", "/bikes/"+tag+"/chain/opened", map[string]any{"why": key, "joining_link": link}, key, c.seldom())
	out := tortureOutput{unknown: err != nil, ok: status == http.StatusCreated}
	if err == nil && !out.ok {
		require.Contains(c.t, []int{http.StatusUnprocessableEntity, http.StatusConflict}, status, "%s", text)
	}
	c.note(c.number, tortureInput{kind: "link", of: tag, op: op}, call, out, c.end(out))
	if fresh {
		c.note(c.number, tortureInput{kind: "stock", of: item, op: "take"}, call, out, c.end(out))
	}
	if c.chance.IntN(3) > 0 {
		return
	}
	call = c.now()
	_, text, err = c.ask("GET", "/stock", nil, "", c.seldom())
	if err != nil {
		return
	}
	back := c.now()
	var items []struct {
		ID    string
		Facts struct{ Quantity int }
	}
	require.NoError(c.t, json.Unmarshal(text, &items))
	for _, one := range items {
		c.note(c.number, tortureInput{kind: "stock", of: one.ID, op: "read"}, call, tortureOutput{ok: true, count: one.Facts.Quantity}, back)
	}
	call = c.now()
	_, text, err = c.ask("GET", "/bikes/"+tag+"/wear-track", nil, "", c.seldom())
	if err != nil {
		return
	}
	var track struct {
		Parts struct {
			Link *struct{ Uses int } `json:"joining_link"`
		}
	}
	require.NoError(c.t, json.Unmarshal(text, &track))
	read := tortureOutput{ok: true}
	if track.Parts.Link != nil {
		read.count = track.Parts.Link.Uses
	}
	c.note(c.number, tortureInput{kind: "link", of: tag, op: "read"}, call, read, c.now())
}

// state is what a thing is thought to be in, in one order of the operations on it.
type state struct {
	version int
	value   string
	count   int
}

// model says what each operation does to a thing, where they come one after the other.
func model() porcupine.Model {
	m := porcupine.NondeterministicModel{
		Partition: func(history []porcupine.Operation) [][]porcupine.Operation {
			of := map[string][]porcupine.Operation{}
			for _, op := range history {
				in := op.Input.(tortureInput)
				of[in.kind+" "+in.of] = append(of[in.kind+" "+in.of], op)
			}
			var all [][]porcupine.Operation
			for _, ops := range of {
				all = append(all, ops)
			}
			return all
		},
		Init: func() []any { return []any{state{version: 1, count: -1}} },
		Step: func(s, input, output any) []any { return step(s.(state), input.(tortureInput), output.(tortureOutput)) },
	}
	return m.ToModel()
}

// step is the states in which a thing may be after an operation; none where its answer cannot be.
func step(s state, in tortureInput, out tortureOutput) []any {
	var next *state // where it takes effect
	switch in.kind + " " + in.op {
	case "customer read":
		if out.version == s.version && out.value == s.value {
			return []any{s}
		}
		return nil
	case "customer change":
		if in.version == s.version {
			next = &state{version: s.version + 1, value: in.value, count: s.count}
		}
		if out.ok && (next == nil || out.version != next.version) {
			return nil
		}
	case "key add":
		if s.value != "" { // done before: the same answer
			if out.unknown || out.value == s.value {
				return []any{s}
			}
			return nil
		}
		if out.unknown { // what it answered nobody heard; whoever asks again hears it
			return []any{s}
		}
		next = &state{version: s.version, value: out.value, count: s.count}
	case "stock read":
		if out.count == shelf(s) {
			return []any{s}
		}
		return nil
	case "stock take":
		if n := shelf(s); n > 0 {
			next = &state{version: s.version, value: s.value, count: n - 1}
		}
	case "link read":
		if out.count == max(s.count, 0) {
			return []any{s}
		}
		return nil
	case "link fresh":
		next = &state{version: s.version, value: s.value, count: 1}
		if !out.ok && !out.unknown {
			return []any{s} // refused by the shelf
		}
	case "link again":
		if n := max(s.count, 0); n > 0 && n < stated {
			next = &state{version: s.version, value: s.value, count: n + 1}
		}
	}
	switch {
	case out.unknown && next == nil:
		return []any{s}
	case out.unknown:
		return []any{s, *next}
	case out.ok && next == nil, !out.ok && next != nil:
		return nil
	case next == nil:
		return []any{s}
	}
	return []any{*next}
}

// shelf is how many of a thing are on the shelf; it begins full.
func shelf(s state) int {
	if s.count < 0 {
		return 300
	}
	return s.count
}

// accepted judges the history of one kind of thing, or of all where kind is empty.
func (s *tortured) accepted(kind string) porcupine.CheckResult {
	var history []porcupine.Operation
	for _, op := range s.history {
		if kind == "" || op.Input.(tortureInput).kind == kind {
			history = append(history, op)
		}
	}
	return porcupine.CheckOperationsTimeout(model(), history, 2*time.Minute)
}

// judge counts what was lost and doubled, has the history held against what is kept, and the history against a shop
// in which one write comes after the other.
func (s *tortured) judge() {
	s.t.Helper()
	c := s.client(200)
	c.signIn(s.servers[0].addr)
	lost, doubled := 0, 0
	for name := range s.tried {
		var found struct{ Total int }
		_, text, err := c.ask("GET", "/customers?limit=5&q="+name, nil, "", nil)
		require.NoError(s.t, err)
		require.NoError(s.t, json.Unmarshal(text, &found), "%s", text)
		if s.acked[name] && found.Total == 0 {
			lost++
		}
		if found.Total > 1 {
			doubled++
		}
	}
	s.t.Logf("%d operations, %d of unknown outcome; %d acknowledged additions, %d lost, %d doubled", len(s.history), s.unknown.Load(), len(s.acked), lost, doubled)
	assert.Zero(s.t, lost, "acknowledged, and not there")
	assert.Zero(s.t, doubled, "there twice")
	assert.Positive(s.t, s.unknown.Load(), "nobody ever gave up: the torture was none")
	for _, kind := range []string{"customer", "key", "stock", "link"} {
		assert.Equal(s.t, porcupine.Ok, s.accepted(kind), "no order of these explains what was answered: %s", kind)
	}
	assert.Contains(s.t, s.pony("", "verify"), "as the ledger has it")
}
