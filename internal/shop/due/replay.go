package due

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"sort"
	"time"

	"earnestpony/core/forecast"
	"earnestpony/core/interval"
	"earnestpony/core/lube"
	"earnestpony/core/wear"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// DueStateOf reckons from the ledger what a bike's tasks count from. It turns on the bike's facts, the house rules
// and what was written alone, not on the day.
//
// Entries that cannot be read count for nothing, and are named beside it.
func (s *Due) DueStateOf(ctx context.Context, tx store.Tx, h rules.ParsedRules, bike store.Bike) (dueState, []record.BrokenEntry, error) {
	facts, broken, err := record.ActiveEntries(ctx, tx, bike.ID, dueKinds...)
	if err != nil {
		return dueState{}, nil, err
	}
	b, err := s.replayDue(ctx, tx, h, bike, facts)
	return b, broken, err
}

func (s *Due) replayDue(ctx context.Context, tx store.Tx, h rules.ParsedRules, bike store.Bike, facts []store.EntryView) (dueState, error) {
	t, track, err := s.bikes.TrackerOf(ctx, tx, h, bike)
	if err != nil {
		return dueState{}, err
	}
	w, err := t.Track(track)
	if err != nil {
		return dueState{}, err
	}
	// The count stands at the last fact, and goes on by the rate: the same whenever it is asked.
	from := bike.CreatedAt
	if len(facts) > 0 && facts[0].HappenedAt.Before(from) {
		from = facts[0].HappenedAt
	}
	last := from
	for _, e := range facts {
		if (e.Kind == record.KindOdometer || e.Kind == record.KindRide) && e.HappenedAt.After(last) {
			last = e.HappenedAt
		}
	}
	clock := s.desk.ClockIn(h.Zone)
	b := dueState{From: clock.DayOf(last), HardKM: t.At(last), Rate: t.Odometer.Rate(), KM: t.Ridden.At(last), KMPerDay: t.Ridden.PerDay()}
	if bike.NeededOn != "" {
		day, err := interval.ParseDay(bike.NeededOn)
		if err != nil {
			return b, err
		}
		b.NeededOn = &day
	}
	r := dueReplay{Due: s, Tracker: t, track: w, house: h, clock: clock, last: last, first: mark{from, clock.DayOf(from), t.At(from), t.Ridden.At(from)}}
	for _, e := range facts {
		if err := r.take(e); err != nil {
			return b, err
		}
	}
	b.Order = r.order
	b.Tasks, err = r.tasks()
	return b, err
}

// mark is when something was last done, and how far the bike had run.
type mark struct {
	at     time.Time
	on     interval.Day
	km     forecast.HardKM
	ridden forecast.KM
}

// happening is an event with the moment at which it was.
type happening struct {
	at time.Time
	basisEvent
}

// dueReplay gathers what was done to a bike and what happened to it.
type dueReplay struct {
	*Due
	*bikes.Tracker
	track bikes.WearTrack
	house rules.ParsedRules
	clock record.Clock
	first mark      // seen
	last  time.Time // up to which the count is known

	done   map[string]mark
	events []happening
	fitted *mark // the chain now on
	waxed  bool
	wear   *mark // last reading of the chain now on
	going  *basisEvent
	order  *chainOrder
}

// jobSeen is what of a job's entries says what was done and seen.
type jobSeen struct {
	Arrival *struct {
		FrameGrade int      `json:"frame_grade"`
		Complaints []string `json:"complaints"`
	} `json:"arrival"`
	Step   string `json:"step"`
	Action string `json:"deed"`
}

func (r *dueReplay) take(e store.EntryView) error {
	here := mark{e.HappenedAt, r.clock.DayOf(e.HappenedAt), r.At(e.HappenedAt), r.Ridden.At(e.HappenedAt)}
	happened := func(code interval.EventCode) {
		r.events = append(r.events, happening{here.at, basisEvent{Code: string(code), On: here.on, By: e.PersonName}})
	}
	did := func(tasks ...string) {
		if r.done == nil {
			r.done = map[string]mark{}
		}
		for _, t := range tasks {
			r.done[t] = here
		}
	}
	switch e.Kind {
	case record.KindTaskDone:
		b, err := record.BodyOf[record.TaskDoneBody](e)
		if err != nil {
			return err
		}
		did(b.Task)
	case record.KindBikeEvent:
		b, err := record.BodyOf[record.EventBody](e)
		if err != nil {
			return err
		}
		happened(interval.EventCode(b.Event))
	case record.KindRide:
		b, err := record.BodyOf[record.RideBody](e)
		if err != nil {
			return err
		}
		for _, code := range b.Events {
			happened(interval.EventCode(code))
		}
	case record.KindJobArrived:
		b, err := record.BodyOf[jobSeen](e)
		if err != nil {
			return err
		}
		happened(interval.Visit)
		if b.Arrival == nil {
			break
		}
		for _, c := range b.Arrival.Complaints {
			if code, is := interval.FollowsComplaint(c); is {
				happened(code)
			}
		}
		if interval.FollowsFrame(b.Arrival.FrameGrade) {
			happened(interval.DirtyFrame)
		}
	case record.KindJobStep:
		b, err := record.BodyOf[jobSeen](e)
		if err != nil {
			return err
		}
		if b.Action != "done" {
			break
		}
		did(interval.DoneBy(b.Step)...)
		if code, is := interval.FollowsStep(b.Step); is {
			happened(code)
		}
	case record.KindBikeAdded:
		b, err := record.BodyOf[record.BikeBody](e)
		if err != nil {
			return err
		}
		r.waxed = b.Facts != nil && record.Waxed(b.Facts.Lubricant)
	case record.KindBikeChanged:
		b, err := record.BodyOf[record.BikeBody](e)
		if err != nil {
			return err
		}
		if slices.Contains(b.Changed, "lubricant") && b.Facts != nil {
			if now := record.Waxed(b.Facts.Lubricant); now && !r.waxed {
				happened(interval.ToWax)
				r.waxed = true
			} else {
				r.waxed = now
			}
		}
	case record.KindChainFitted:
		happened(interval.NewChain)
		r.fitted, r.wear, r.going, r.order = &here, nil, nil, nil
	case record.KindMeasurement:
		m, err := measure.MeasurementOf(e)
		if err != nil {
			return err
		}
		r.wear, r.going, r.order = &here, nil, orderOf(*m, here.on)
		if v, err := wear.ParseVerdict(m.Wear.Verdict); err == nil && v >= wear.Replace {
			r.going = &basisEvent{Code: string(interval.ToReplace), On: here.on, By: e.PersonName}
		}
	}
	return nil
}

// orderOf is the order that a reading asks for; nil where it asks for none. Readings of old do not say it: their verdicts do.
func orderOf(m measure.Measurement, on interval.Day) *chainOrder {
	v, _ := wear.ParseVerdict(m.Wear.Verdict)
	soon := cmp.Or(m.Wear.Order, map[wear.Verdict]string{wear.Watch: wear.NextOrder.String(), wear.Replace: wear.OrderNow.String(), wear.ReplaceTogether: wear.OrderNow.String()}[v])
	if soon == "" || soon == wear.NoOrder.String() {
		return nil
	}
	return &chainOrder{soon, on}
}

// tasks lays out the tasks of the bike's rules with what was done.
func (r *dueReplay) tasks() ([]stateTask, error) {
	set, err := tasksOf(r.house, r.Bike)
	if err != nil {
		return nil, err
	}
	limit, check, guess, err := r.ahead()
	if err != nil {
		return nil, err
	}
	var all []stateTask
	for _, rule := range set {
		t := rule
		since := r.first
		t.Never = true
		if done, ever := r.done[t.Code]; ever {
			since, t.Never = done, false
		}
		if t.Code == interval.Relubricate {
			t.Chains = r.inTurn()
		}
		// A new chain starts what is about the chain afresh; one of several in turn was waxed with the others.
		if rules.Restarts(t.Code) && r.fitted != nil && (t.Never || r.fitted.on > since.on && t.Chains < 2) {
			since, t.Never = *r.fitted, false
		}
		switch t.Code {
		case interval.ReadWear:
			if r.wear != nil {
				since, t.Never = *r.wear, false
			}
			if check > since.km && !t.Own {
				t.EveryHardKM, t.Guess = check-since.km, guess
			}
		case interval.ReplaceChain:
			if limit > since.km {
				t.EveryHardKM, t.Guess = limit-since.km, guess
			}
		}
		if t.Chains > 1 && !t.Own { // one is ridden after the other: the set is due
			t.EveryHardKM *= forecast.HardKM(t.Chains)
			t.EveryDays *= t.Chains
		}
		t.LastOn, t.LastHardKM, t.LastKM = since.on, since.km, since.ridden
		t.UsedUpOn = r.usedUpOn(t, since)
		r.addEvents(&t, since)
		all = append(all, t)
	}
	return all, nil
}

// inTurn is how many immersed chains of the bike are ridden in turn; zero where that is one.
func (r *dueReplay) inTurn() int {
	if r.Bike.Lubricant != lube.ImmersionWax.String() {
		return 0
	}
	n := 0
	for _, c := range r.track.Parts.Chains {
		if c.State == "on" || c.State == "kept" {
			n++
		}
	}
	if n < 2 {
		return 0
	}
	return n
}

// usedUpOn is the day on which a task's distance was used up, where that was before the count ends.
func (r *dueReplay) usedUpOn(t stateTask, since mark) *interval.Day {
	goal := t.LastHardKM + t.EveryHardKM
	if t.EveryHardKM == 0 || r.At(r.last) < goal {
		return nil
	}
	hours := max(int(r.last.Sub(since.at)/time.Hour), 0)
	first := sort.Search(hours, func(h int) bool { return r.At(since.at.Add(time.Duration(h)*time.Hour)) >= goal })
	day := min(r.clock.DayOf(since.at.Add(time.Duration(first)*time.Hour)), r.clock.DayOf(r.last))
	return &day
}

// addEvents gives a task what happened since it was done. What only follows from work done elsewhere is not made due by the
// very visit in which it was done.
func (r *dueReplay) addEvents(t *stateTask, since mark) {
	if t.Code == interval.ReplaceChain {
		if r.going != nil {
			t.Events = []basisEvent{*r.going}
		}
		return
	}
	for _, e := range r.events {
		if !slices.Contains(rules.After(t.Code), interval.EventCode(e.Code)) {
			continue
		}
		sameDay := e.On == since.on
		after := e.at.After(since.at) && !interval.EventOf(t.Code, interval.EventCode(e.Code), e.On).Follows
		if e.On > since.on || sameDay && (after || t.sameDay()) {
			event := e.basisEvent
			event.AfterDone = sameDay
			t.Events = append(t.Events, event)
		}
	}
}

// tasksOf are the tasks that a bike has, with its intervals: the table's, the shop's in its place, the
// bike's in that.
func tasksOf(h rules.ParsedRules, bike store.Bike) ([]stateTask, error) {
	iv := h.Rules.Intervals
	school, err := interval.ParseSchool(iv.School)
	if err != nil {
		return nil, err
	}
	when, err := lube.ParseWhen(h.Rules.Work.When)
	if err != nil {
		return nil, err
	}
	family := lube.AllWeather
	if kept, err := lube.ParseFamily(bike.Lubricant); err == nil {
		family = kept
	}
	b := interval.Bike{Train: h.Rule(&bike, rules.DrivetrainOf(&bike, nil)).Drivetrain, FixedGear: record.FixedGear(bike.Kind), Salt: record.MixOf(bike.Mix)[forecast.Salt], Lube: family, When: when}
	var all []stateTask
	for _, rule := range interval.Rules(b, school) {
		all = append(all, stateTask{Code: rule.Code, EveryHardKM: rule.EveryHardKM, EveryDays: rule.EveryDays, Weight: rule.Weight, Safety: rule.Safety})
	}
	for _, own := range iv.Own {
		if len(own.Kinds) > 0 && !slices.Contains(own.Kinds, bike.Kind) {
			continue
		}
		t := stateTask{Code: own.Code, Title: own.Title, Weight: own.Weight, Safety: own.Safety, Own: true}
		set(&t, store.TaskSetting{EveryHardKM: own.EveryHardKM, EveryDays: own.EveryDays})
		all = append(all, t)
	}
	kept := all[:0]
	for _, t := range all {
		off := false
		for _, settings := range []map[string]store.TaskSetting{iv.Changed, bike.Tasks} {
			if s, changed := settings[t.Code]; changed {
				set(&t, s)
				off, t.Own, t.Reason = s.Off, true, s.Reason
			}
		}
		if !off {
			kept = append(kept, t)
		}
	}
	return kept, nil
}

// set puts a setting in place of what a task had; zero takes an interval away.
func set(t *stateTask, s store.TaskSetting) {
	if s.EveryHardKM != nil {
		t.EveryHardKM = forecast.HardKM(*s.EveryHardKM)
	}
	if s.EveryDays != nil {
		t.EveryDays = *s.EveryDays
	}
	if s.Weight != nil {
		t.Weight = *s.Weight
	}
}

// ahead is where the chain now on is at its limit as likely as not, and where it is to be read again; zero
// where no forecast says. It is asked as of the last reading, so that the answer does not turn on the day.
func (r *dueReplay) ahead() (limit, check forecast.HardKM, guess bool, err error) {
	w := r.track
	if len(w.Missing) > 0 || r.fitted == nil {
		return 0, 0, false, nil
	}
	q, err := r.Question(&w)
	if err != nil {
		return 0, 0, false, err
	}
	span := w.Chains[len(w.Chains)-1]
	start := forecast.HardKM(span.FromHardKM - span.BeforeHardKM) // where the chain was new, on the bike's count
	q.Now, q.WithoutBand = 0, true
	for _, o := range q.Observations {
		q.Now = max(q.Now, o.At())
	}
	f, err := forecast.Look(q)
	if err != nil {
		return 0, 0, false, fmt.Errorf("the chain now on: %w", err)
	}
	return start + f.Life.P50, start + q.Now + f.NextCheck, !f.Measured, nil
}
