package schedule

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// wall is the plan that hangs there.
type wall struct {
	plan    dayPlan
	madeAt  time.Time
	seeking bool // something happened since, and a plan that reckons with it is being sought
}

// How long whoever looks waits for a new plan before they see the last one, and how long one is sought at most.
const (
	patience = 60 * time.Millisecond
	seeksFor = 20 * time.Second
)

// currentPlan returns the plan on the wall, made again where something happened or time passed that it did not reckon
// with. Where that takes more than a moment the last one is returned, and whoever looks hears of the new one.
func (s *Schedule) currentPlan(ctx context.Context, d *floorDay) (wall, error) {
	kept, err := s.desk.Store.Read(ctx).DayPlan(ctx)
	if err != nil && !record.IsNotFound(err) {
		return wall{}, err
	}
	of, err := d.fingerprint()
	if err != nil {
		return wall{}, err
	}
	var before dayPlan
	if kept.Version > 0 {
		if err := json.Unmarshal(kept.Plan, &before); err != nil {
			return wall{}, err
		}
		if kept.Fingerprint == of && s.desk.Now().Before(kept.Until) {
			return wall{plan: before, madeAt: kept.MadeAt}, nil
		}
	}
	if len(before.Steps) == 0 && !s.byTries {
		return s.hangFirst(ctx, d.clone(), kept.Version, of)
	}
	// It is sought on though whoever asked goes: others look at the same wall.
	apart := d.clone()
	found := s.sought.DoChan(of, func() (any, error) {
		ctx, done := context.WithTimeout(context.WithoutCancel(ctx), seeksFor)
		defer done()
		return s.seek(ctx, apart, of)
	})
	var late <-chan time.Time
	if !s.byTries {
		timer := time.NewTimer(patience)
		defer timer.Stop()
		late = timer.C
	}
	select {
	case r := <-found:
		if r.Err != nil {
			return wall{}, r.Err
		}
		return r.Val.(wall), nil
	case <-late:
		return wall{before, kept.MadeAt, true}, nil
	case <-ctx.Done():
		return wall{}, ctx.Err()
	}
}

// hangFirst puts up a plan where nothing hangs that could be shown meanwhile: by rules alone, which takes a moment,
// and without what would help. It is thought about while nobody waits.
func (s *Schedule) hangFirst(ctx context.Context, d *floorDay, version int, of string) (wall, error) {
	plan, until, err := d.replan(dayPlan{}, effort{})
	if err != nil {
		return wall{}, err
	}
	w := store.DayPlan{Version: version, MadeAt: s.desk.Now(), Fingerprint: of, Until: until}
	if err := s.savePlan(ctx, w, plan, false); err != nil && !errors.Is(err, store.ErrStale) { // where another was quicker, this one is shown once
		return wall{}, err
	}
	return wall{plan: plan, madeAt: w.MadeAt, seeking: len(plan.Steps) > 0}, nil
}

// seek makes the plan anew and puts it up.
func (s *Schedule) seek(ctx context.Context, d *floorDay, of string) (wall, error) {
	for n := range 3 {
		tx := s.desk.Store.Read(ctx)
		if n > 0 { // another process put one up: perhaps of a day that is not as this one was
			h, err := rules.LoadParsed(ctx, tx)
			if err != nil {
				return wall{}, err
			}
			if d, err = s.floorDayOf(ctx, tx, h); err != nil {
				return wall{}, err
			}
			if of, err = d.fingerprint(); err != nil {
				return wall{}, err
			}
		}
		kept, err := tx.DayPlan(ctx)
		if err != nil && !record.IsNotFound(err) {
			return wall{}, err
		}
		var before dayPlan
		if kept.Version > 0 {
			if err := json.Unmarshal(kept.Plan, &before); err != nil {
				return wall{}, err
			}
			if kept.Fingerprint == of && s.desk.Now().Before(kept.Until) { // put up meanwhile
				return wall{plan: before, madeAt: kept.MadeAt}, nil
			}
		}
		after, until, err := d.replan(before, s.effort(toShow))
		if err != nil {
			return wall{}, err
		}
		if len(after.Moved) == 0 && kept.Version > 0 { // what moved last is still worth reading
			after.Moved, after.Because = before.Moved, before.Because
		}
		w := store.DayPlan{Version: kept.Version, MadeAt: s.desk.Now(), Fingerprint: of, Until: until}
		err = s.savePlan(ctx, w, after, true)
		if errors.Is(err, store.ErrStale) { // another process was quicker
			continue
		}
		return wall{plan: after, madeAt: w.MadeAt}, err
	}
	return wall{}, &record.Problem{Kind: record.Conflict, Code: "changed-meanwhile", Message: "The day changes faster than it is planned: try again."}
}

// savePlan puts a plan on the wall in place of the version that is there, and tells who looks of it where they are to;
// [store.ErrStale] says that another hangs there by now.
func (s *Schedule) savePlan(ctx context.Context, w store.DayPlan, plan dayPlan, tell bool) (err error) {
	if w.Plan, err = json.Marshal(plan); err != nil {
		return err
	}
	return s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		if err := tx.SaveDayPlan(ctx, &w); err != nil || !tell {
			return err
		}
		return tx.Notify(ctx, record.Changed(record.TopicFloor, ""))
	})
}

// RefreshDayPlan plans the floor again where that is called for though nobody looks, and thinks longer about a plan that was made
// in a moment.
func (s *Schedule) RefreshDayPlan(ctx context.Context) error {
	tx := s.desk.Store.Read(ctx)
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		if record.IsNotFound(err) {
			return nil // there is no shop yet
		}
		return err
	}
	d, err := s.floorDayOf(ctx, tx, h)
	if err != nil || len(d.layouts) == 0 {
		return err
	}
	hangs, err := s.currentPlan(ctx, d)
	before, madeAt := hangs.plan, hangs.madeAt
	if err != nil || hangs.seeking || before.Tries >= toImprove.tries || s.desk.Now().Sub(madeAt) < settled {
		return err
	}
	kept, err := tx.DayPlan(ctx)
	if err != nil || !kept.MadeAt.Equal(madeAt) { // another was put up since
		return err
	}
	if d, err = s.floorDayOf(ctx, tx, h); err != nil {
		return err
	}
	after, until, err := d.replan(before, s.effort(toImprove))
	if err != nil {
		return err
	}
	was, is := before.Cost.core(0), after.Cost.core(len(after.Moved))
	better, first := is.Less(was, d.problem.Weights), before.Tries == 0
	switch {
	case !better:
		helps := after.Helps
		after, until = before, kept.Until
		if first { // it was put up without
			after.Helps = helps
		}
	case first: // nobody has the one before in their heads yet
		after.Moved, after.Because = nil, nil
	default:
		after.Because = append(slices.Clone(before.Because[:min(len(before.Because), maxBecause-1)]), Because{What: "better"})
		after.Moved = together(before.Moved, after.Moved)
	}
	after.Tries = toImprove.tries
	err = s.savePlan(ctx, store.DayPlan{Version: kept.Version, MadeAt: kept.MadeAt, Fingerprint: kept.Fingerprint, Until: until}, after, better || first)
	if errors.Is(err, store.ErrStale) { // something happened meanwhile: that plan is thought about next
		return nil
	}
	return err
}
