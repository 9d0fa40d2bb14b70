package schedule

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/dayplan"
	"earnestpony/core/wallclock"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// FloorView is the wall as it is looked at: who does what when, what waits where, and what was promised.
type FloorView struct {
	Now       time.Time     `json:"now"`
	MadeAt    time.Time     `json:"made_at"`
	Until     time.Time     `json:"until"`             // from when the clock alone makes it untrue
	Seeking   bool          `json:"seeking,omitempty"` // it is of before something happened; a better one is being sought
	People    []FloorPerson `json:"people"`
	Places    []FloorPlace  `json:"places"`
	Stints    []FloorStint  `json:"stints"`
	Stays     []FloorStay   `json:"stays"`
	Jobs      []FloorJob    `json:"jobs"`
	NotPlaced []Unplaced    `json:"not_placed"`
	Moved     []Moved       `json:"moved"`
	Because   []Because     `json:"because"`
	Helps     []Help        `json:"helps"`
}

// FloorPerson is somebody on the floor: what they are at, what comes next for them, and their hours.
type FloorPerson struct {
	Person record.Person `json:"person"`
	Hours  []FloorHours  `json:"hours"` // from today on
	Here   bool          `json:"here"`  // Now
	At     *FloorStint   `json:"at,omitempty"`
	Next   *FloorStint   `json:"next,omitempty"` // that can begin now, or the next on the wall
	Also   []*FloorStint `json:"also"`           // begun as well
	Away   []Absence     `json:"away"`           // and when they are not here though their hours say so
}

// FloorHours is a stretch without a break.
type FloorHours struct {
	From  time.Time `json:"from"`
	Until time.Time `json:"until"`
}

// FloorPlace is a kind of place, and how many there are.
type FloorPlace struct {
	Place string `json:"place"`
	Count int    `json:"count"`
}

// FloorStint is work of one person in one go.
type FloorStint struct {
	Job     uuid.UUID  `json:"job"`
	Tag     string     `json:"tag"`
	Bike    string     `json:"bike"`
	Step    string     `json:"step"`            // the first of it
	Block   string     `json:"block,omitempty"` // that it begins in, of what is planned
	Title   string     `json:"title"`
	Phase   string     `json:"phase"`
	Person  string     `json:"person"` // id
	Start   time.Time  `json:"start"`
	End     time.Time  `json:"end"`
	Minutes int        `json:"minutes"`
	Steps   int        `json:"steps"`
	State   StintState `json:"state"`
	KeptFor bool       `json:"kept_for,omitempty"`
	KeptAt  *time.Time `json:"kept_at,omitempty"` // when it is to begin, as somebody said
	Guess   bool       `json:"guess,omitempty"`   // its bike is not planned yet: as would be recommended
	Then    string     `json:"goes_on,omitempty"` // what the job goes on with
}

// StintState is how far a run of work is.
type StintState string

// The states of a run of work.
const (
	StintPlanned StintState = "planned"
	StintReady   StintState = "ready" // may be begun now
	StintBegun   StintState = "begun"
	StintOver    StintState = "over" // begun, and longer than it was planned
	StintDone    StintState = "done"
)

// FloorStay is a bike or a part in a place.
type FloorStay struct {
	Job   uuid.UUID `json:"job"`
	Tag   string    `json:"tag"`
	Place string    `json:"place"`
	Unit  int       `json:"unit"` // which of them, from 0
	Title string    `json:"title"`
	From  time.Time `json:"from"`
	Until time.Time `json:"until"`
	Waits bool      `json:"waits"` // nobody is at it
}

// FloorJob is what was promised of a job, and what will be.
type FloorJob struct {
	Job        uuid.UUID          `json:"job"`
	Tag        string             `json:"tag"`
	Customer   record.CustomerRef `json:"customer"`
	Bike       string             `json:"bike"`
	Version    int                `json:"version"`
	PromisedAt *time.Time         `json:"promised_at,omitempty"`
	Waiting    bool               `json:"waiting,omitempty"`
	Guess      bool               `json:"guess,omitempty"` // it is not planned yet
	FinishAt   *time.Time         `json:"finish_at,omitempty"`
	LateMin    int                `json:"late_min,omitempty"`
	BoundBy    string             `json:"bound_by,omitempty"` // person, hours, place, wait, arrival, work
	BoundWhat  string             `json:"bound_what,omitempty"`
}

// Unplaced is work that found no place on the wall.
type Unplaced struct {
	Tag   string `json:"tag"`
	Title string `json:"title"`
	Why   string `json:"why"`
}

// floorNow is the open jobs as a day, with the wall that is made of them.
func (s *Schedule) floorNow(ctx context.Context) (*floorDay, wall, error) {
	tx := s.desk.Store.Read(ctx)
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return nil, wall{}, err
	}
	d, err := s.floorDayOf(ctx, tx, h)
	if err != nil {
		return nil, wall{}, err
	}
	w, err := s.currentPlan(ctx, d)
	return d, w, err
}

// Floor returns the wall, planned again where it has to be.
func (s *Schedule) Floor(ctx context.Context) (FloorView, error) {
	d, hangs, err := s.floorNow(ctx)
	if err != nil {
		return FloorView{}, err
	}
	w := hangs.plan
	v := FloorView{Now: s.desk.Now(), MadeAt: hangs.madeAt, Seeking: hangs.seeking, People: []FloorPerson{}, Places: []FloorPlace{}, Stints: []FloorStint{}, Stays: []FloorStay{}, Jobs: []FloorJob{},
		NotPlaced: []Unplaced{}, Moved: append([]Moved{}, w.Moved...), Because: append([]Because{}, w.Because...), Helps: append([]Help{}, w.Helps...)}
	for _, p := range d.problem.Places {
		if p.Only {
			continue
		}
		v.Places = append(v.Places, FloorPlace{p.ID, p.Count})
	}
	ends := map[[2]string]planStep{}
	for _, st := range w.Steps {
		ends[[2]string{st.Job, st.Step}] = st
	}
	v.Stints = d.worked()
	for _, st := range w.Steps {
		if one, is := d.stints[[2]string{st.Job, st.Step}]; is && one.minutes > 0 {
			v.Stints = append(v.Stints, d.stint(one, st, ends))
		}
	}
	slices.SortStableFunc(v.Stints, func(a, b FloorStint) int { return a.Start.Compare(b.Start) })
	v.Stays = d.placeHolds(ends)
	v.Jobs = d.jobs(w)
	v.Until = d.holdsUntil(w)
	for _, j := range v.Jobs { // a promise that passes is missed from then on
		if j.PromisedAt != nil && j.PromisedAt.After(v.Now) && j.PromisedAt.Before(v.Until) {
			v.Until = *j.PromisedAt
		}
	}
	if soon := v.Now.Add(time.Second); v.Seeking && v.Until.After(soon) || v.Until.Before(v.Now) {
		v.Until = soon // a newer one may be there by then
	}
	for _, n := range append(w.NotPlaced, w.Strained...) {
		if one, is := d.stints[[2]string{n.Job, n.Step}]; is {
			v.NotPlaced = append(v.NotPlaced, Unplaced{record.TagOf(one.job.Bike), one.title(), n.Why})
		}
	}
	for _, worker := range d.problem.People {
		v.People = append(v.People, d.hands(worker, v.Stints))
	}
	return v, nil
}

// betweenSteps is how long a person may be away from a job between two steps that are shown as one stretch of work.
const betweenSteps = 5 * time.Minute

// worked is what was done today, in the order in which it was done: steps that a person did on a job one after the other
// are one stretch, whatever their order in the plan.
func (d *floorDay) worked() []FloorStint {
	all := []FloorStint{}
	today := wallclock.DayStart(d.now, d.now.Location())
	for _, l := range d.layouts {
		for i, st := range l.Steps {
			if st.State != store.StepDone || st.DoneAt.Before(today) || st.WorkedS < 30 {
				continue
			}
			spec := l.Specs[i]
			one := FloorStint{Job: l.Job.ID, Tag: record.TagOf(l.Bike), Bike: record.BikeWords(l.Bike), Step: spec.Code, Title: spec.Title, Phase: spec.Phase, Person: st.DoneBy.String(),
				Start: st.DoneAt.Add(-time.Duration(st.WorkedS) * time.Second), End: *st.DoneAt, Minutes: (st.WorkedS + 59) / 60, Steps: 1, State: StintDone}
			all = append(all, one)
		}
	}
	slices.SortStableFunc(all, func(a, b FloorStint) int { return cmp.Or(a.Start.Compare(b.Start), a.End.Compare(b.End)) })
	stretches := []FloorStint{}
	last := map[string]int{} // stretch of each person
	for _, one := range all {
		i, before := last[one.Person]
		if before && stretches[i].Job == one.Job && one.Start.Sub(stretches[i].End) < betweenSteps {
			s := &stretches[i]
			s.Steps, s.Minutes = s.Steps+1, s.Minutes+one.Minutes
			if one.End.After(s.End) {
				s.End = one.End
			}
			continue
		}
		last[one.Person] = len(stretches)
		stretches = append(stretches, one)
	}
	return stretches
}

// planned is how many minutes of hands it was given.
func (s stint) planned() (sum int) {
	for _, i := range s.steps {
		sum += s.job.Specs[i].Minutes
	}
	return sum
}

func (d *floorDay) stint(one stint, st planStep, ends map[[2]string]planStep) FloorStint {
	l := one.job
	first := l.Specs[one.steps[0]]
	v := FloorStint{Job: l.Job.ID, Block: l.InBlock()[one.steps[0]].Title, Tag: record.TagOf(l.Bike), Bike: record.BikeWords(l.Bike), Step: first.Code, Title: first.Title, Phase: first.Phase, Person: st.Person, Start: st.Start, End: st.End,
		Minutes: one.planned(), Steps: len(one.steps), State: StintPlanned, Guess: d.guessed[l.Job.ID.String()], KeptFor: l.Steps[one.steps[0]].KeptFor != nil, KeptAt: l.Steps[one.steps[0]].KeptAt}
	switch {
	case one.over:
		v.State = StintOver
	case one.begun != nil:
		v.State = StintBegun
	case !v.Guess:
		if how, _ := l.Standing(one.steps[0]); how == clean.Ready {
			v.State = StintReady
		}
	}
	var next *planStep
	for key, other := range ends {
		if key[0] == st.Job && !other.Start.Before(st.End) && key[1] != st.Step && (next == nil || other.Start.Before(next.Start) || other.Start.Equal(next.Start) && other.Step < next.Step) {
			next = &other
		}
	}
	if next != nil {
		v.Then = d.stints[[2]string{next.Job, next.Step}].title()
	}
	return v
}

// placeHolds are the bikes and parts in places, each in a unit of its own.
func (d *floorDay) placeHolds(ends map[[2]string]planStep) []FloorStay {
	all := []FloorStay{}
	for i, job := range d.problem.Jobs {
		l := d.layouts[i]
		for _, h := range job.Holds {
			from, begins := ends[[2]string{job.ID, h.From}]
			to, is := ends[[2]string{job.ID, h.To}]
			if !begins || !is || strings.HasPrefix(h.Place, bikePlace) {
				continue
			}
			stay := FloorStay{Job: l.Job.ID, Tag: record.TagOf(l.Bike), Place: h.Place, From: from.Start, Until: to.Start, Title: d.stints[[2]string{job.ID, h.From}].title(), Waits: !h.Through}
			if h.Through {
				stay.Until = to.End
			}
			if stay.Until.After(stay.From) {
				all = append(all, stay)
			}
		}
	}
	slices.SortStableFunc(all, func(a, b FloorStay) int {
		return cmp.Or(cmp.Compare(a.Place, b.Place), a.From.Compare(b.From), cmp.Compare(a.Tag, b.Tag))
	})
	free := map[string][]time.Time{} // from when each unit of a place is
	for i := range all {
		s := &all[i]
		units := free[s.Place]
		s.Unit = slices.IndexFunc(units, func(at time.Time) bool { return !at.After(s.From) })
		if s.Unit < 0 {
			s.Unit = len(units)
			units = append(units, time.Time{})
		}
		units[s.Unit] = s.Until
		free[s.Place] = units
	}
	return all
}

func (d *floorDay) jobs(w dayPlan) []FloorJob {
	all := []FloorJob{}
	for i, job := range d.problem.Jobs {
		l := d.layouts[i]
		v := FloorJob{Job: l.Job.ID, Tag: record.TagOf(l.Bike), Customer: record.CustomerRef{ID: l.Bike.CustomerID, Name: l.Bike.OwnerName}, Bike: record.BikeWords(l.Bike), Version: l.Job.Version, PromisedAt: l.Job.PromisedAt, Waiting: job.Weight > 1, Guess: d.guessed[job.ID]}
		for _, st := range w.Steps {
			if st.Job == job.ID && (v.FinishAt == nil || st.End.After(*v.FinishAt)) {
				v.FinishAt = &st.End
			}
		}
		for _, n := range w.NotPlaced {
			if n.Job == job.ID {
				v.FinishAt = nil // not all of it is done
			}
		}
		for _, late := range w.Late {
			if late.Job == job.ID {
				v.LateMin = late.ByMin
				v.BoundBy, v.BoundWhat = d.bound(job.ID, late.BoundBy)
			}
		}
		all = append(all, v)
	}
	return all
}

// bound puts what holds a job back in words of the shop: a name, a place, a step's title.
func (d *floorDay) bound(job, by string) (kind, what string) {
	if strings.HasPrefix(by, "place:"+bikePlace) {
		return "work", ""
	}
	kind, what, _ = strings.Cut(by, ":")
	switch kind {
	case "person", "hours":
		what = d.people[what].Name
	case "wait":
		if one, is := d.stints[[2]string{job, what}]; is {
			what = one.title()
		}
	}
	return kind, what
}

// hands is what somebody is at and what comes next for them.
func (d *floorDay) hands(worker dayplan.Person, stints []FloorStint) FloorPerson {
	v := FloorPerson{Person: d.people[worker.ID], Hours: []FloorHours{}, Also: []*FloorStint{}, Away: d.away(worker.ID)}
	for _, h := range worker.Hours {
		v.Hours = append(v.Hours, FloorHours{d.time(h.From), d.time(h.To)})
		v.Here = v.Here || h.From <= d.problem.Now && d.problem.Now < h.To
	}
	for i := range stints {
		s := &stints[i]
		if s.Person != worker.ID {
			continue
		}
		switch s.State {
		case StintBegun, StintOver:
			if v.At == nil {
				v.At = s
			} else {
				v.Also = append(v.Also, s)
			}
		case StintPlanned, StintReady:
			if v.Next == nil && !s.Guess {
				v.Next = s
			}
		case StintDone:
		}
	}
	return v
}
