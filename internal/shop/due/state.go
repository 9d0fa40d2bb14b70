package due

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"runtime"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/errgroup"

	"earnestpony/core/forecast"
	"earnestpony/core/interval"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// dueKinds are all that what a bike needs is reckoned from.
var dueKinds = append([]string{record.KindTaskDone, record.KindBikeEvent, record.KindJobArrived, record.KindJobStep, record.KindBikeAdded, record.KindBikeChanged}, record.TrackKinds...)

// dueState is what the tasks of a bike count from, whatever the day: how they stand on a day follows from it
// without the ledger. Distances are hard km from where the bike's track begins.
type dueState struct {
	From     interval.Day          `json:"from"` // on which the count stood at HardKM
	HardKM   forecast.HardKM       `json:"hard_km"`
	Rate     forecast.HardKMPerDay `json:"rate"`
	KM       forecast.KM           `json:"km"`         // really ridden, where HardKM is what it counts for
	KMPerDay float64               `json:"km_per_day"` // the same of Rate
	NeededOn *interval.Day         `json:"needed_on,omitempty"`
	Order    *chainOrder           `json:"order,omitempty"` // that the last reading asks for
	Tasks    []stateTask           `json:"tasks"`
}

// chainOrder is how soon a chain is to be ordered, and since when.
type chainOrder struct {
	Soon string       `json:"soon"` // now, next
	On   interval.Day `json:"on"`
}

// stateTask is one task and what happened since it was done.
type stateTask struct {
	Code        string          `json:"code"`
	Title       string          `json:"title,omitempty"` // of the shop's own
	EveryHardKM forecast.HardKM `json:"every_hard_km,omitempty"`
	EveryDays   int             `json:"every_days,omitempty"`
	LastHardKM  forecast.HardKM `json:"last_hard_km"`
	LastKM      forecast.KM     `json:"last_km"` // really ridden
	LastOn      interval.Day    `json:"last_on"`
	UsedUpOn    *interval.Day   `json:"used_up_on,omitempty"` // on which its distance was, by the count at From
	Never       bool            `json:"never,omitempty"`      // counted from when the bike was first seen
	Weight      float64         `json:"weight"`
	Safety      bool            `json:"safety,omitempty"`
	Own         bool            `json:"own,omitempty"`    // the bike's or the shop's interval, not the table's
	Reason      string          `json:"reason,omitempty"` // why the bike's is another
	Guess       bool            `json:"guess,omitempty"`  // by a forecast with nothing measured yet
	Chains      int             `json:"chains,omitempty"` // that are ridden in turn and waxed together; 0 for one
	Events      []basisEvent    `json:"events,omitempty"` // since it was done
}

type basisEvent struct {
	Code string       `json:"code"`
	On   interval.Day `json:"on"`
	By   string       `json:"by,omitempty"`
	// AfterDone says that on the day on which the task was done it came after that.
	AfterDone bool `json:"after_done,omitempty"`
}

// BikeDue is what a bike needs today.
type BikeDue struct {
	Day              string    `json:"day"`
	Until            time.Time `json:"until"` // the end of that day
	RateHardKMPerDay float64   `json:"rate_hard_km_per_day"`
	Tasks            []DueTask `json:"tasks"` // in the order in which they come: see comesFirst
	Visit            []string  `json:"visit"` // codes of those to be done together
	SavedMin         int       `json:"saved_min"`
	NeededOn         string    `json:"needed_on,omitempty"`
	// Broken are entries of its record that cannot be read and count for nothing.
	Broken []record.BrokenEntry `json:"broken,omitempty"`
}

// unpanicked does something whose panic is one bike's trouble, and not the program's.
func unpanicked(do func() error) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("panic: %v", p)
		}
	}()
	return do()
}

// DueTask is how one task stands, and why.
type DueTask struct {
	Code        string   `json:"code"`
	Title       string   `json:"title,omitempty"` // of the shop's own
	Used        float64  `json:"used"`
	State       string   `json:"state"`
	Binds       string   `json:"binds"`
	DueOn       *string  `json:"due_on,omitempty"`
	Pulled      bool     `json:"pulled,omitempty"` // forward, to before the day on which the bike is needed
	EveryHardKM *float64 `json:"every_hard_km,omitempty"`
	EveryDays   *int     `json:"every_days,omitempty"`
	SinceHardKM float64  `json:"since_hard_km"`
	SinceKM     float64  `json:"since_km"` // really ridden: what owners are told
	SinceDays   int      `json:"since_days"`
	LastOn      string   `json:"last_on"`
	ByRecord    bool     `json:"by_record,omitempty"` // done by what is recorded of it alone: a reading, a new chain
	Never       bool     `json:"never,omitempty"`
	Safety      bool     `json:"safety,omitempty"`
	Event       string   `json:"event,omitempty"`
	EventOn     string   `json:"event_on,omitempty"`
	EventBy     string   `json:"event_by,omitempty"`
	Own         bool     `json:"own,omitempty"`
	Reason      string   `json:"reason,omitempty"`
	Guess       bool     `json:"guess,omitempty"`
	Chains      int      `json:"chains,omitempty"`       // that are ridden in turn and waxed together
	OnlyFollows bool     `json:"only_follows,omitempty"` // due by work done elsewhere alone: nobody is told of it
}

func byRecord(task string) bool { return task == interval.ReplaceChain || task == interval.ReadWear }

// IsDue reports whether a task is to be done now: it is due, or late already.
func (t DueTask) IsDue() bool { return t.State == "due" || t.State == "overdue" }

// comesFirst orders the tasks of a bike as they come, wherever they are listed: what is due now, the most urgent of it
// first as it was, then by the day on which each falls due, then what nothing says a day of.
func comesFirst(a, b DueTask) int {
	on := func(t DueTask) string {
		switch {
		case t.IsDue():
			return ""
		case t.DueOn == nil:
			return "never"
		}
		return *t.DueOn
	}
	return cmp.Compare(on(a), on(b))
}

// on says how the tasks stand on a day.
func (b dueState) on(day interval.Day, lookAhead int) (interval.Answer, interval.Question) {
	q := interval.Question{Today: day, Now: b.HardKM + forecast.HardKM(float64(b.Rate)*float64(max(day-b.From, 0))), Rate: b.Rate, LookAhead: lookAhead}
	for _, t := range b.Tasks {
		task := interval.Task{Code: t.Code, EveryHardKM: t.EveryHardKM, EveryDays: t.EveryDays, LastHardKM: t.LastHardKM, LastOn: t.LastOn, UsedUpOn: t.UsedUpOn, Weight: t.Weight, Safety: t.Safety}
		for _, e := range t.Events {
			event := interval.EventOf(t.Code, interval.EventCode(e.Code), e.On)
			event.AfterDone = e.AfterDone || t.sameDay()
			task.Events = append(task.Events, event)
		}
		q.Tasks = append(q.Tasks, task)
	}
	return interval.Look(q), q
}

// view is the tasks of a bike on a day, as they are shown.
func (b dueState) view(day interval.Day, lookAhead, sharedMin int) BikeDue {
	a, q := b.on(day, lookAhead)
	v := BikeDue{Day: day.String(), RateHardKMPerDay: float64(b.Rate), Tasks: []DueTask{}, Visit: []string{}}
	if b.NeededOn != nil {
		v.NeededOn = b.NeededOn.String()
	}
	for _, s := range a.Tasks {
		i := slices.IndexFunc(b.Tasks, func(t stateTask) bool { return t.Code == s.Code })
		t := b.Tasks[i]
		d := DueTask{Code: t.Code, Title: t.Title, Used: s.Used, State: s.State.String(), Binds: s.Binds.String(), SinceHardKM: max(float64(q.Now-t.LastHardKM), 0),
			SinceKM:   max(float64(b.KM-t.LastKM)+b.KMPerDay*float64(max(day-b.From, 0)), 0),
			SinceDays: int(max(day-t.LastOn, 0)), LastOn: t.LastOn.String(), ByRecord: byRecord(t.Code), Never: t.Never, Safety: t.Safety, Own: t.Own, Reason: t.Reason, Guess: t.Guess, Chains: t.Chains}
		if t.EveryHardKM > 0 {
			every := float64(t.EveryHardKM)
			d.EveryHardKM = &every
		}
		if t.EveryDays > 0 {
			d.EveryDays = &t.EveryDays
		}
		if s.Event != nil {
			d.Event, d.EventOn = string(s.Event.Code), s.Event.On.String()
			k := slices.IndexFunc(t.Events, func(e basisEvent) bool { return e.On == s.Event.On && e.Code == d.Event })
			d.EventBy = t.Events[k].By
		}
		d.OnlyFollows = s.OnlyFollows
		if s.DueOn != nil {
			due := *s.DueOn
			if s.Since != nil {
				due = *s.Since // the same every morning after
			}
			if s.Since == nil && b.NeededOn != nil && *b.NeededOn >= day {
				due = interval.Pull(t.Code, due, *b.NeededOn)
			}
			d.Pulled = s.Since == nil && due != *s.DueOn
			on := due.String()
			d.DueOn = &on
			if d.Pulled && due <= day+interval.Day(lookAhead) && !slices.Contains(a.Visit, t.Code) {
				a.Visit = append(a.Visit, t.Code)
			}
		}
		v.Tasks = append(v.Tasks, d)
	}
	slices.SortStableFunc(v.Tasks, comesFirst)
	v.Visit = append(v.Visit, a.Visit...)
	if n := len(v.Visit); n > 1 {
		v.SavedMin = sharedMin * (n - 1)
	}
	return v
}

// Row is what is kept of what a bike needs.
func (b dueState) Row(bike uuid.UUID, asked int64, day interval.Day, lookAhead, sharedMin int) (store.BikeDue, error) {
	v := b.view(day, lookAhead, sharedMin)
	urgent, _ := b.on(day, lookAhead)
	row := store.BikeDue{BikeID: bike, RequestedRev: asked, Day: day.Time()}
	if len(v.Tasks) > 0 {
		first := urgent.Tasks[0]
		i := slices.IndexFunc(b.Tasks, func(t stateTask) bool { return t.Code == first.Code })
		row.State, row.Safety, row.Code, row.Urgency = int(first.State), b.Tasks[i].Safety, first.Code, first.Used*b.Tasks[i].Weight
	}
	for _, t := range v.Tasks {
		if t.DueOn == nil {
			continue
		}
		day, err := interval.ParseDay(*t.DueOn)
		if err != nil {
			return row, err
		}
		if at := day.Time(); t.Code == interval.ReplaceChain {
			row.ChainOn = &at
		}
		if at := day.Time(); row.DueOn == nil || at.Before(*row.DueOn) {
			row.DueOn = &at
		}
	}
	// What a reading asks to be ordered is on the list, whatever the forecast says.
	if b.Order != nil {
		if at := b.Order.On.Time(); row.ChainOn == nil || at.Before(*row.ChainOn) {
			row.ChainOn = &at
		}
	}
	var err error
	if row.Basis, err = json.Marshal(b); err != nil {
		return row, err
	}
	row.SavedMin = v.SavedMin
	if row.Tasks, err = json.Marshal(v); err != nil {
		return row, err
	}
	if row.Visit, err = json.Marshal(v.Visit); err != nil {
		return row, err
	}
	listed := slices.DeleteFunc(v.Tasks, func(t DueTask) bool { return t.State == "fresh" && !slices.Contains(v.Visit, t.Code) })
	row.Listed, err = json.Marshal(listed)
	return row, err
}

// refreshBike reckons what a bike needs from its ledger and keeps it.
func (s *Due) refreshBike(ctx context.Context, tx store.Tx, h rules.ParsedRules, shared int, id uuid.UUID) (store.BikeDue, error) {
	before, err := tx.DueOf(ctx, id)
	if err != nil {
		return before, err
	}
	bike, err := tx.BikeByID(ctx, id)
	if err != nil {
		return before, err
	}
	var b dueState
	var broken []record.BrokenEntry
	err = unpanicked(func() (err error) {
		b, broken, err = s.DueStateOf(ctx, tx, h, bike)
		return err
	})
	if err != nil {
		if ctx.Err() != nil || store.IsAway(err) {
			return before, err
		}
		// Its record makes no sense in a way that nobody foresaw. That is this bike's trouble and no other's.
		slog.Error("what a bike needs cannot be reckoned", "tag", record.TagOf(bike), "err", err)
		broken = append(broken, record.BrokenEntry{Says: "What this bike needs cannot be worked out from its record."})
		if before.Broken, err = json.Marshal(broken); err != nil {
			return before, err
		}
		return before, tx.DueFailed(ctx, id, before.RequestedRev, s.desk.ClockIn(h.Zone).Today().Time(), before.Broken)
	}
	row, err := b.Row(id, before.RequestedRev, s.desk.ClockIn(h.Zone).Today(), h.Rules.Intervals.LookAhead, shared)
	if err != nil {
		return before, err
	}
	if row.Broken, err = json.Marshal(append([]record.BrokenEntry{}, broken...)); err != nil {
		return before, err
	}
	return row, tx.SaveDue(ctx, &row)
}

// DueNow is what a bike needs today: as it is kept, or made again where something was written since, or
// where it was made for an earlier day.
func (s *Due) DueNow(ctx context.Context, tx store.Tx, id uuid.UUID) (BikeDue, error) {
	row, err := tx.DueOf(ctx, id)
	if err != nil {
		return BikeDue{}, err
	}
	clock, err := s.desk.Clock(ctx, tx)
	if err != nil {
		return BikeDue{}, err
	}
	if row.RequestedRev != row.BuiltRev || !row.Day.Equal(clock.Today().Time()) {
		h, shared, err := s.RulesForDue(ctx, tx)
		if err != nil {
			return BikeDue{}, err
		}
		if row, err = s.refreshBike(ctx, tx, h, shared, id); err != nil {
			return BikeDue{}, err
		}
	}
	v := BikeDue{Tasks: []DueTask{}, Visit: []string{}}
	if err := json.Unmarshal(row.Tasks, &v); err != nil {
		return v, err
	}
	for i := range v.Tasks { // reckoned before this was told
		v.Tasks[i].ByRecord = byRecord(v.Tasks[i].Code)
	}
	v.Broken, v.Until = []record.BrokenEntry{}, clock.DayEnds()
	return v, json.Unmarshal(row.Broken, &v.Broken)
}

func (s *Due) RulesForDue(ctx context.Context, tx store.Tx) (rules.ParsedRules, int, error) {
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return h, 0, err
	}
	shared, err := h.SharedMinutes()
	return h, shared, err
}

// BikeDue returns what a bike needs.
func (s *Due) BikeDue(ctx context.Context, tagText string) (BikeDue, error) {
	tx := s.desk.Store.Read(ctx)
	bike, err := record.BikeByTag(ctx, tx, tagText)
	if err != nil {
		return BikeDue{}, err
	}
	return s.DueNow(ctx, tx, bike.ID)
}

// DueBatch is how many bikes are made again in one go.
const DueBatch = 100

// RefreshDue makes what bikes need again where something was written of them, or a day has passed, a batch at a
// time, and reports how many it made. Several processes may do so at once.
func (s *Due) RefreshDue(ctx context.Context) (int, error) { return s.refreshDue(ctx, DueBatch) }

// keepAtALook is how many bikes are made again before a list of them is read: as many as were written of in the
// last moment. After more, as after the rules changed, the list follows as the background goes through them.
const keepAtALook = 10

func (s *Due) refreshDue(ctx context.Context, batch int) (int, error) {
	tx := s.desk.Store.Read(ctx)
	clock, err := s.desk.Clock(ctx, tx)
	if err != nil {
		return 0, err
	}
	if behind, err := tx.NotKept(ctx, clock.Today().Time()); err != nil || !behind {
		return 0, err
	}
	stale, err := tx.StaleDue(ctx, batch)
	if err != nil {
		return 0, err
	}
	old, err := tx.OldDue(ctx, clock.Today().Time(), batch)
	if err != nil || len(stale)+len(old) == 0 {
		return 0, err
	}
	h, shared, err := s.RulesForDue(ctx, tx)
	if err != nil {
		return 0, err
	}
	var remaking errgroup.Group
	remaking.SetLimit(runtime.GOMAXPROCS(0))
	for _, id := range stale {
		remaking.Go(func() error {
			_, err := s.refreshBike(ctx, tx, h, shared, id)
			return err
		})
	}
	if err := remaking.Wait(); err != nil {
		return 0, err
	}
	for _, row := range old {
		var b dueState
		err := json.Unmarshal(row.Basis, &b)
		var next store.BikeDue
		if err == nil {
			next, err = b.Row(row.BikeID, row.RequestedRev, clock.Today(), h.Rules.Intervals.LookAhead, shared)
		}
		if err != nil { // nothing that was kept of it can be read: from its ledger then
			if _, err := s.refreshBike(ctx, tx, h, shared, row.BikeID); err != nil {
				return 0, err
			}
			continue
		}
		if err := tx.SaveDue(ctx, &next); err != nil {
			return 0, err
		}
	}
	return len(stale) + len(old), nil
}

// TaskDone notes that a task of a bike was done outside of a job.
func (s *Due) TaskDone(ctx context.Context, who record.Actor, tagText, task, note string, at *time.Time) error {
	note = record.CleanLine(note)
	when, err := s.desk.Happened(ctx, at)
	if err != nil {
		return err
	}
	_, err = record.Idempotent(ctx, s.desk, who, "task-done "+tagText+" "+task, record.TaskDoneBody{Task: task, Note: note}, func(ctx context.Context, tx store.Tx) (string, error) {
		return "", s.TaskDoneTx(ctx, tx, who, tagText, task, note, when)
	})
	return err
}

func (s *Due) TaskDoneTx(ctx context.Context, tx store.Tx, who record.Actor, tagText, task, note string, when time.Time) error {
	bike, err := record.BikeInCare(ctx, tx, tagText)
	if err != nil {
		return err
	}
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return err
	}
	rules, err := tasksOf(h, bike)
	if err != nil {
		return err
	}
	switch {
	case task == interval.ReplaceChain:
		return &record.Problem{Kind: record.Conflict, Code: "not-noted-here", Message: "A chain that was replaced is noted under Replace, where parts and counts are kept."}
	case task == interval.ReadWear:
		return &record.Problem{Kind: record.Conflict, Code: "not-noted-here", Message: "Wear is read on the Bench."}
	case !slices.ContainsFunc(rules, func(t stateTask) bool { return t.Code == task }):
		return record.NotFound("task on this bike", "task-not-found")
	}
	e := store.Entry{BikeID: &bike.ID, Kind: record.KindTaskDone, HappenedAt: when}
	return s.desk.Append(ctx, tx, who, &e, record.TaskDoneBody{Task: task, Note: note}, record.TagOf(bike))
}

// ReportEvent notes something that happened to a bike.
func (s *Due) ReportEvent(ctx context.Context, who record.Actor, tagText, code, note string, at *time.Time) error {
	note = record.CleanLine(note)
	event, err := interval.ParseReported(strings.TrimSpace(code))
	if err != nil {
		return record.InvalidInput(record.Field{Path: "event", Code: "unknown-value", Message: err.Error()})
	}
	when, err := s.desk.Happened(ctx, at)
	if err != nil {
		return err
	}
	_, err = record.Idempotent(ctx, s.desk, who, "bike-event "+tagText, record.EventBody{Event: string(event), Note: note}, func(ctx context.Context, tx store.Tx) (string, error) {
		bike, err := record.BikeInCare(ctx, tx, tagText)
		if err != nil {
			return "", err
		}
		e := store.Entry{BikeID: &bike.ID, Kind: record.KindBikeEvent, HappenedAt: when}
		return "", s.desk.Append(ctx, tx, who, &e, record.EventBody{Event: string(event), Note: note}, record.TagOf(bike))
	})
	return err
}

// sameDay reports whether events of the day on which a task was last done count: they came after. So it is on
// the day on which a bike is first seen, and of a reading, which is always of the chain that was on.
func (t stateTask) sameDay() bool { return t.Never || t.Code == interval.ReplaceChain }
