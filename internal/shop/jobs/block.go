package jobs

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// BlockView is a block of a job: what one person does in one go at one place, as its steps stand.
type BlockView struct {
	Code     string       `json:"code"` // of its first step
	Title    string       `json:"title"`
	Station  string       `json:"station"`
	Minutes  int          `json:"minutes"`
	Steps    []string     `json:"steps"`
	Standing string       `json:"standing"`
	Cautions []string     `json:"cautions"` // of all its steps, each once
	Tools    []string     `json:"tools"`
	Amounts  []StepAmount `json:"amounts"` // of what is still to be done
	// Filled are its steps whose waits its own work fills: done in one go with the whole block, they start none.
	Filled []string `json:"filled,omitempty"`
}

// blocks cuts the job into blocks.
func (l *LoadedJob) blocks() []BlockView {
	all := []BlockView{}
	for _, b := range clean.Blocks(l.planned) {
		v := BlockView{Code: b.Code, Title: b.Title, Station: string(b.Station), Minutes: int(b.Minutes), Standing: l.standingOf(b).String(),
			Cautions: []string{}, Tools: []string{}, Amounts: []StepAmount{}, Filled: clean.Filled(l.planned, b)}
		for _, i := range b.Steps {
			spec := l.Specs[i]
			v.Steps = append(v.Steps, spec.Code)
			v.Cautions = appendNew(v.Cautions, spec.Cautions)
			v.Tools = appendNew(v.Tools, spec.Tools)
			if !l.Steps[i].State.Over() {
				v.Amounts = sumAmounts(v.Amounts, spec.Amounts)
			}
		}
		all = append(all, v)
	}
	return all
}

// currentBlock is what a person does now: the block that they are at, else the first that can be begun; nil where only waits
// or colleagues hold the job.
func (l *LoadedJob) currentBlock(person uuid.UUID) *clean.Block {
	blocks := clean.Blocks(l.planned)
	for i := range blocks {
		if slices.ContainsFunc(blocks[i].Steps, func(k int) bool {
			return l.Steps[k].State == store.StepBegun && *l.Steps[k].BegunBy == person
		}) {
			return &blocks[i]
		}
	}
	for i := range blocks {
		if how := l.standingOf(blocks[i]); how == clean.Ready {
			return &blocks[i]
		}
	}
	return nil
}

// nextBlock is what a person can go on with once a block is done; nil where only waits or colleagues follow.
func (l *LoadedJob) nextBlock(b clean.Block, person uuid.UUID) *clean.Block {
	after := *l
	after.Steps, after.marks = slices.Clone(l.Steps), maps.Clone(l.marks)
	filled := clean.Filled(l.planned, b)
	for _, i := range b.Steps {
		code := after.Steps[i].Code
		if after.Steps[i].State.Over() {
			continue
		}
		m := clean.Mark{Done: true}
		if w := l.Specs[i].Wait; w != nil && !slices.Contains(filled, code) {
			m.Over = l.At.Add(time.Duration(w.Least) * time.Minute)
		}
		after.Steps[i].State, after.marks[code] = store.StepDone, m
	}
	return after.currentBlock(person)
}

// standingOf is how a block stands: blocked while something outside of it comes before any of its steps, held while a wait
// holds any, under way once one of them was begun.
func (l *LoadedJob) standingOf(b clean.Block) clean.Standing {
	inside := map[string]bool{}
	for _, i := range b.Steps {
		inside[l.Specs[i].Code] = true
	}
	first, held := -1, false
	for _, i := range b.Steps {
		switch {
		case l.Steps[i].State == store.StepBegun:
			return clean.Underway
		case l.Steps[i].State.Over():
			continue
		case first < 0:
			first = i
		}
		for _, code := range l.Specs[i].Before {
			if m := l.marks[code]; !inside[code] && !m.Done && !m.Skipped {
				return clean.Blocked
			}
		}
		for _, code := range l.Specs[i].Holding {
			held = held || !inside[code] && l.marks[code].Over.After(l.At)
		}
	}
	switch {
	case first < 0:
		return clean.Finished
	case held:
		return clean.Held
	}
	how, _ := l.Standing(first)
	return how
}

func appendNew(all, more []string) []string {
	for _, s := range more {
		if !slices.Contains(all, s) {
			all = append(all, s)
		}
	}
	return all
}

func sumAmounts(all, more []StepAmount) []StepAmount {
	for _, a := range more {
		i := slices.IndexFunc(all, func(other StepAmount) bool { return other.Material == a.Material })
		if i < 0 {
			all = append(all, a)
			continue
		}
		all[i].Amount, all[i].WaterML = all[i].Amount+a.Amount, all[i].WaterML+a.WaterML
	}
	return all
}

// BlockAction is what somebody does about a block of a job.
type BlockAction struct {
	Action string   `json:"action"`         // begin, done, pass, tick, take-back
	Step   string   `json:"step,omitempty"` // that passes or is ticked
	Seen   []string `json:"seen,omitempty"` // cautions of it that were just tapped
	GoOn   bool     `json:"go_on,omitempty"`
	// For what its steps want to know; see [StepAction].
	BathID      *uuid.UUID           `json:"bath_id,omitempty"`
	Opening     *bikes.Opening       `json:"opening,omitempty"`
	SecondRound bool                 `json:"second_round,omitempty"`
	WaitIDs     map[string]uuid.UUID `json:"wait_ids,omitempty"`
}

// DoBlock begins a block, or does what is still open in it. History says each step, as when they are done one by one: what was
// ticked by itself keeps its own time, the rest of the block's time is shared over the others by their planned minutes. Safety
// checks and what tells causes apart are done by themselves first.
func (s *Jobs) DoBlock(ctx context.Context, who record.Actor, id uuid.UUID, code string, action BlockAction) (Job, error) {
	_, err := record.Idempotent(ctx, s.desk, who, "block "+id.String()+" "+code, action, func(ctx context.Context, tx store.Tx) (string, error) {
		l, err := s.LoadOpenJob(ctx, tx, id)
		if err != nil {
			return "", err
		}
		blocks := clean.Blocks(l.planned)
		at := slices.IndexFunc(blocks, func(b clean.Block) bool { return b.Code == code })
		if at < 0 {
			return "", record.NotFound("block", "block-not-found")
		}
		w := &stepRun{jobs: s, LoadedJob: l, who: who, action: StepAction{Action: "done", Seen: action.Seen, BathID: action.BathID, Opening: action.Opening, SecondRound: action.SecondRound, WaitIDs: action.WaitIDs}}
		switch action.Action {
		case "begin":
			return code, w.beginBlock(ctx, tx, blocks[at], action.Seen)
		case "done":
			return code, w.finishBlock(ctx, tx, blocks[at], action.GoOn)
		case "pass":
			return code, w.pass(ctx, tx, blocks[at], action.Step, action.GoOn)
		case "tick":
			return code, w.tick(ctx, tx, blocks[at], action.Step)
		case "take-back":
			w.action.Action = action.Action
			return code, w.takeBlockBack(ctx, tx, blocks[at])
		}
		return "", record.InvalidInput(record.Field{Path: "action", Code: "unknown-value", Message: "There is no such action."})
	})
	if err != nil {
		return Job{}, record.SendAgain(err)
	}
	return s.Job(ctx, who, id)
}

// open are the steps of a block that are not over.
func (w *stepRun) open(b clean.Block) []int {
	return slices.DeleteFunc(slices.Clone(b.Steps), func(i int) bool { return w.Steps[i].State.Over() })
}

// beginBlock puts whoever asks to the first open step of a block, its cautions seen.
func (w *stepRun) beginBlock(ctx context.Context, tx store.Tx, b clean.Block, seen []string) error {
	open := w.open(b)
	if len(open) == 0 {
		return &record.Problem{Kind: record.Conflict, Code: "step-done", Message: fmt.Sprintf("“%s” is done already.", b.Title)}
	}
	if len(seen) > 0 {
		for _, i := range open {
			if err := w.see(ctx, tx, i); err != nil {
				return err
			}
		}
	}
	return w.begin(ctx, tx, open[0])
}

func (w *stepRun) finishBlock(ctx context.Context, tx store.Tx, b clean.Block, goOn bool) error {
	open := w.open(b)
	w.filled = clean.Filled(w.planned, b)
	if len(open) == 0 {
		return &record.Problem{Kind: record.Conflict, Code: "step-done", Message: fmt.Sprintf("“%s” is done already.", b.Title)}
	}
	if err := w.alone(open); err != nil {
		return err
	}
	return w.finishAll(ctx, tx, b, open, goOn)
}

// alone refuses to do what is done by itself: safety checks, and what tells causes apart.
func (w *stepRun) alone(steps []int) error {
	var first []string
	for _, i := range steps {
		if w.Specs[i].Gate || len(w.Specs[i].Causes) > 0 {
			first = append(first, "“"+w.Specs[i].Title+"”")
		}
	}
	if len(first) == 0 {
		return nil
	}
	return &record.Problem{Kind: record.Conflict, Code: "check-open", Message: fmt.Sprintf("First, each by itself: %s.", strings.Join(first, ", "))}
}

// tick does a line of a block by itself. The time since whoever asks began, or ticked the line before, is its own; then they are
// at the next line.
func (w *stepRun) tick(ctx context.Context, tx store.Tx, b clean.Block, code string) error {
	at := slices.IndexFunc(b.Steps, func(i int) bool { return w.Specs[i].Code == code })
	if at < 0 {
		return record.NotFound("step of this block", "step-not-found")
	}
	mine := slices.IndexFunc(b.Steps, func(i int) bool {
		return w.Steps[i].State == store.StepBegun && *w.Steps[i].BegunBy == w.who.Person.ID
	})
	if mine >= 0 && mine != at && w.Steps[b.Steps[at]].State == store.StepOpen {
		was, is := &w.Steps[b.Steps[mine]], &w.Steps[b.Steps[at]]
		is.State, is.BegunAt, is.BegunBy = store.StepBegun, was.BegunAt, was.BegunBy
		was.BegunAt = nil // the time was this line's
		if err := w.setState(ctx, tx, b.Steps[mine], store.StepOpen); err != nil {
			return err
		}
	}
	if err := w.finish(ctx, tx, b.Steps[at]); err != nil || mine < 0 {
		return err
	}
	for _, i := range w.open(b) {
		if w.free(i) == nil && w.Steps[i].State == store.StepOpen {
			return w.begin(ctx, tx, i)
		}
	}
	return nil
}

// pass does a check of a block, and with it what is still open before it.
func (w *stepRun) pass(ctx context.Context, tx store.Tx, b clean.Block, code string, goOn bool) error {
	at := slices.IndexFunc(b.Steps, func(i int) bool { return w.Specs[i].Code == code })
	if at < 0 {
		return record.NotFound("step of this block", "step-not-found")
	}
	through := clean.Block{Title: b.Title, Steps: b.Steps[:at+1]}
	w.filled = clean.Filled(w.planned, through)
	open := w.open(through)
	if len(open) == 0 || open[len(open)-1] != b.Steps[at] {
		return &record.Problem{Kind: record.Conflict, Code: "step-done", Message: fmt.Sprintf("“%s” is done already.", w.Specs[b.Steps[at]].Title)}
	}
	if err := w.alone(open[:len(open)-1]); err != nil {
		return err
	}
	return w.finishAll(ctx, tx, b, open, goOn)
}

// finishAll does steps of a block, the time at them shared by their planned minutes; then, where the block is over, begins what
// comes next.
func (w *stepRun) finishAll(ctx context.Context, tx store.Tx, b clean.Block, open []int, goOn bool) error {
	seconds := 0
	planned := make([]clean.Minutes, len(open))
	for k, i := range open {
		planned[k] = clean.Minutes(w.Specs[i].Minutes)
		st := &w.Steps[i]
		if st.BegunAt == nil {
			continue
		}
		if *st.BegunBy != w.who.Person.ID {
			return &record.Problem{Kind: record.Conflict, Code: "step-taken", Message: fmt.Sprintf("%s is at “%s”. Have it handed over, or do the others by themselves.", w.people[*st.BegunBy].Name, w.Specs[i].Title)}
		}
		seconds += worked(*st.BegunAt, w.At)
	}
	shares := clean.Shares(seconds, planned)
	for k, i := range open {
		st := &w.Steps[i]
		st.BegunAt, st.BegunBy, st.State = nil, nil, store.StepOpen
		st.WorkedS += shares[k]
		m := w.marks[st.Code]
		m.Begun = false
		w.marks[st.Code] = m
		if err := w.finish(ctx, tx, i); err != nil {
			return err
		}
	}
	if !goOn {
		return nil
	}
	if left := w.open(b); len(left) > 0 { // the rest of the block first
		return w.begin(ctx, tx, left[0])
	}
	next := w.currentBlock(w.who.Person.ID)
	if next == nil {
		return nil
	}
	if err := w.tap(ctx, tx, *next); err != nil {
		return err
	}
	return w.begin(ctx, tx, w.open(*next)[0])
}

// tap notes those cautions of a block that were read before it was gone on with.
func (w *stepRun) tap(ctx context.Context, tx store.Tx, b clean.Block) error {
	clock, err := w.jobs.desk.Clock(ctx, tx)
	if err != nil {
		return err
	}
	var read []string
	for _, i := range w.open(b) {
		for _, c := range w.Specs[i].Cautions {
			if slices.Contains(w.action.Seen, c) {
				read = appendNew(read, []string{c})
			}
		}
	}
	return tx.TapCautions(ctx, w.who.Person.ID, clock.In(w.At), read)
}
