package httpapi_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/store"
)

// foreseen is where the page's tests find what the server answers to presses at the stand.
const foreseen = "../../web/src/outbox/testdata/presses.json"

// press is one thing that is done at the stand, with how the job stands after it: what the page foresees without a network
// is held against it.
type press struct {
	Operation string         `json:"operation"`
	Path      string         `json:"path"`
	Body      map[string]any `json:"body"`
	At        time.Time      `json:"at"`
	After     standing       `json:"after"`
}

type standing struct {
	Steps   map[string]string `json:"steps"`
	Blocks  map[string]string `json:"blocks"`
	Block   string            `json:"block"`
	Next    string            `json:"next"`
	Current string            `json:"current"`
	Waits   []string          `json:"waits"`
	Holds   []string          `json:"holds"`
}

func standingOf(j jobs.Job) standing {
	s := standing{Steps: map[string]string{}, Blocks: map[string]string{}, Block: j.Block, Next: j.NextBlock, Current: j.Current, Waits: []string{}, Holds: []string{}}
	for _, st := range j.StepList {
		s.Steps[st.Code] = fmt.Sprintf("%s %s round %d", st.State, st.Standing, st.Round)
	}
	for _, b := range j.Blocks {
		s.Blocks[b.Code] = b.Standing
	}
	for _, w := range j.Waits {
		s.Waits = append(s.Waits, w.Step+" until "+w.LeastAt.UTC().Format(time.RFC3339))
	}
	slices.Sort(s.Waits)
	for _, h := range j.Holds {
		s.Holds = append(s.Holds, h.Code+" "+h.What)
	}
	return s
}

var anyUUID = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}`)

// named has ids be the same each time, in the order in which they are met.
func named(text []byte) string {
	ids := map[string]string{}
	return anyUUID.ReplaceAllStringFunc(string(text), func(id string) string {
		if ids[id] == "" {
			ids[id] = fmt.Sprintf("00000000-0000-7000-8000-%012d", len(ids)+1)
		}
		return ids[id]
	})
}

// Whole jobs are worked by any presses that a page could send, the clock going on between them. What the server makes of
// each is kept for the page's tests, which foresee it from the job as it was before the first (see web/src/outbox).
func TestWhatThePageForesees(t *testing.T) {
	t.Parallel()
	type worked struct {
		Job     json.RawMessage `json:"job"`
		Presses []press         `json:"presses"`
	}
	var all struct {
		Words json.RawMessage `json:"words"`
		Jobs  []worked        `json:"jobs"`
	}
	for i, route := range []string{"quick", "tray", "soak", "strip"} {
		f := serve(t)
		c := f.signedIn()
		if all.Words == nil {
			all.Words = c.must(http.StatusOK, "GET", "/job-words", nil, nil).body
		}
		bike := c.addBike("Ottoline Brack", twelve())
		c.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/measurements", map[string]any{"instrument_id": c.tool("ruler"), "entries": []map[string]any{{"place": 1, "text": "305.2"}}}, nil)
		var job jobs.Job
		c.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/jobs", map[string]any{"frame_grade": 1, "drivetrain_grade": 3, "lubricant_on": "oil", "complaints": []string{}, "has_joining_link": true, "drivetrain_only": i%2 == 0}, &job)
		path := "/jobs/" + job.ID.String()
		c.must(http.StatusOK, "PUT", path+"/plan", map[string]any{"version": job.Version, "route": route, "reason": "as the customer wants it", "agreed": 4500}, &job)
		now := func() (j jobs.Job) { c.must(http.StatusOK, "GET", path, nil, &j); return j }
		job = now()
		w := worked{Job: c.must(http.StatusOK, "GET", path, nil, nil).body}
		chance := rand.New(rand.NewPCG(uint64(i), 7))
		for tries := 0; tries < 400 && len(w.Presses) < 70 && !job.Ready; tries++ {
			p := anyPress(chance, job)
			if p.Operation == "" {
				f.now = f.now.Add(7 * time.Minute)
				job = now()
				continue
			}
			f.now = f.now.Add(time.Duration(1+chance.IntN(90)) * time.Second)
			p.At = f.now
			method := "POST"
			if p.Operation == "resolveFinding" {
				method = "PUT"
			}
			a := c.call(method, p.Path, p.Body, map[string]string{"Idempotency-Key": newID(t).String()})
			if a.status >= 300 {
				continue // not now: the page hears so when it is sent
			}
			job = now()
			p.After = standingOf(job)
			w.Presses = append(w.Presses, p)
		}
		require.Greater(t, len(w.Presses), 10, route)
		all.Jobs = append(all.Jobs, w)
	}
	text, err := json.Marshal(all)
	require.NoError(t, err)
	now := named(text) + "\n"
	if os.Getenv("PONY_UPDATE") != "" {
		require.NoError(t, os.WriteFile(foreseen, []byte(now), 0o644))
	}
	was, err := os.ReadFile(foreseen)
	require.NoError(t, err)
	assert.True(t, string(was) == now, "the presses that the page's tests know are not what the server answers now: PONY_UPDATE=1 go test ./internal/httpapi -run TestWhatThePageForesees, then look whether the page still foresees them")
}

func anyID(chance *rand.Rand) string {
	return fmt.Sprintf("01890000-0000-7000-8000-%012x", chance.Uint64()>>16)
}

// anyPress is something that a page could send of a job as it stands; none where only a wait holds it.
func anyPress(chance *rand.Rand, j jobs.Job) press {
	path := "/jobs/" + j.ID.String()
	at := slices.IndexFunc(j.Blocks, func(b jobs.BlockView) bool { return b.Code == j.Block })
	for _, f := range j.Findings {
		if f.Resolution == "" && chance.IntN(4) == 0 {
			return press{Operation: "resolveFinding", Path: path + "/findings/" + f.ID.String(), Body: map[string]any{"resolution": "fixed"}}
		}
	}
	if chance.IntN(14) == 0 && len(j.Findings) < 2 {
		return press{Operation: "addFinding", Path: path + "/findings?id=" + anyID(chance), Body: map[string]any{"code": []string{"cable-frayed", "other"}[chance.IntN(2)], "note": "seen"}}
	}
	if len(j.Waits) > 0 && chance.IntN(3) == 0 {
		w := j.Waits[chance.IntN(len(j.Waits))]
		body := map[string]any{"action": []string{"end", "take", "extend"}[chance.IntN(3)], "reason": "looked at"}
		if body["action"] == "extend" {
			body["minutes"] = 3
		}
		return press{Operation: "doWait", Path: "/waits/" + w.ID.String(), Body: body}
	}
	if at < 0 {
		return press{}
	}
	b := j.Blocks[at]
	var open []jobs.StepView
	for _, s := range j.StepList {
		if slices.Contains(b.Steps, s.Code) && s.State != store.StepDone && s.State != store.StepSkipped {
			open = append(open, s)
		}
	}
	seen := slices.Clone(b.Cautions)
	if i := slices.IndexFunc(j.Blocks, func(o jobs.BlockView) bool { return o.Code == j.NextBlock }); i >= 0 {
		seen = append(seen, j.Blocks[i].Cautions...)
	}
	ids := map[string]any{}
	for _, s := range open {
		if s.Wait != nil {
			ids[s.Code] = anyID(chance)
		}
	}
	body := map[string]any{"seen": seen}
	if len(ids) > 0 {
		body["wait_ids"] = ids
	}
	of := func(action string, more map[string]any) press {
		body["action"] = action
		for k, v := range more {
			body[k] = v
		}
		return press{Operation: "doBlock", Path: path + "/blocks/" + b.Code, Body: body}
	}
	step := open[chance.IntN(len(open))]
	single := func(action string, more map[string]any) press {
		p := of(action, more)
		p.Operation, p.Path = "doStep", path+"/steps/"+step.Code
		return p
	}
	goesOn := map[string]any{"go_on": chance.IntN(4) > 0}
	gate := slices.IndexFunc(open, func(s jobs.StepView) bool { return s.Gate || len(s.Causes) > 0 })
	switch n := chance.IntN(12); {
	case n == 0:
		return of("begin", nil)
	case n == 1:
		return of("tick", map[string]any{"step": step.Code})
	case n == 2:
		return single("pause", nil)
	case n == 3 && !step.Gate && !strings.HasPrefix(step.Code, "chain"):
		return single("skip", map[string]any{"reason": "not needed"})
	case n == 4 && step.Fail != "":
		if len(step.Felt) > 0 {
			return single("fail", map[string]any{"felt": step.Felt[chance.IntN(len(step.Felt))].Code})
		}
		return single("fail", nil)
	case n == 5:
		return single("done", goesOn)
	case gate >= 0:
		goesOn["step"] = open[gate].Code
		return of("pass", goesOn)
	}
	return of("done", goesOn)
}
