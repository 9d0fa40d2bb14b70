package dayplan

import (
	"cmp"
	"slices"
)

// pusher is how much more the promises there are weigh than what the new one could gain.
const pusher = 1000

// Offers are promises that a day has room for.
type Offers struct {
	day  Problem // with what is promised weighing more than anything new
	base Plan
	seed uint64
}

// NewOffers plans a day in so many iterations, for new jobs to be held against.
func NewOffers(p Problem, seed uint64, iterations int) (*Offers, error) {
	without, err := New(p, seed)
	if err != nil {
		return nil, err
	}
	without.Improve(iterations)
	o := &Offers{day: p, base: without.Best(), seed: seed}
	o.day.Previous = o.base.Steps
	o.day.Weights.Move = 0
	o.day.Jobs = nil
	late := lateness(o.base)
	for _, job := range p.Jobs {
		// What is late without it may be as late with it, and no later.
		job.Promised += Minute(late[job.ID])
		job.Weight *= pusher
		o.day.Jobs = append(o.day.Jobs, job)
	}
	return o, nil
}

// Early finds the earliest minute for which a job that is not taken yet can be promised with no other promise kept later than
// without it, in so many iterations of the day with it; it may need places of its own. ever is false where there is no
// place for all of it.
func (o *Offers) Early(add Job, iterations int, own ...Place) (finish Minute, ever bool, err error) {
	q := o.day
	add.Promised, add.Weight = min(q.Now, add.Arrives), 1
	q.Jobs = append(slices.Clone(q.Jobs), add)
	q.Places = append(slices.Clone(q.Places), own...)
	with, err := begin(q, o.seed, true)
	if err != nil {
		return 0, false, err
	}
	with.Improve(iterations)
	plan := with.Best()
	if plan.Cost.NotPlaced > o.base.Cost.NotPlaced {
		return 0, false, nil
	}
	for _, s := range plan.Steps {
		if s.Job == add.ID {
			finish = max(finish, s.End)
		}
	}
	for job := range lateness(plan) {
		if job != add.ID {
			return 0, false, nil
		}
	}
	return finish, true, nil
}

// Early finds the earliest minute for which one job can be promised, in so many iterations of the day with it and without.
func Early(p Problem, add Job, seed uint64, iterations int) (finish Minute, ever bool, err error) {
	o, err := NewOffers(p, seed, iterations)
	if err != nil {
		return 0, false, err
	}
	return o.Early(add, iterations)
}

func lateness(p Plan) map[string]Minutes {
	late := map[string]Minutes{}
	for _, l := range p.Late {
		late[l.Job] = l.By
	}
	return late
}

// Pushed is a promise that is kept later for another's sake, or broken by that much more.
type Pushed struct {
	Job string
	By  Minutes
}

// Push says which promises a change makes late, or later than they are: between the best plans of two days.
func Push(before, after Plan) []Pushed {
	late := lateness(before)
	var all []Pushed
	for _, l := range after.Late {
		if more := l.By - late[l.Job]; more > 0 {
			all = append(all, Pushed{l.Job, more})
		}
	}
	return all
}

// Remedy is something more that would make promises less late, and by how much.
type Remedy struct {
	Place  string // one more of it
	Person string // an hour more of them, at the end of their last stretch before the latest job is done
	Saves  Minutes
}

// Remedies tries what would help a plan that is late, each for so many iterations, best first: one more of
// each place, an hour more of each person.
func Remedies(p Problem, plan Plan, seed uint64, iterations int) ([]Remedy, error) {
	if plan.Cost.WeightedLate == 0 {
		return nil, nil
	}
	p.Previous = plan.Steps
	var all []Remedy
	try := func(q Problem, r Remedy) error {
		s, err := begin(q, seed, true)
		if err != nil {
			return err
		}
		s.Improve(iterations)
		if r.Saves = plan.Cost.WeightedLate - s.Best().Cost.WeightedLate; r.Saves > 0 && s.Best().Cost.NotPlaced <= plan.Cost.NotPlaced {
			all = append(all, r)
		}
		return nil
	}
	for i, place := range p.Places {
		if place.Only {
			continue
		}
		q := p
		q.Places = slices.Clone(p.Places)
		q.Places[i].Count++
		if err := try(q, Remedy{Place: place.ID}); err != nil {
			return nil, err
		}
	}
	for i, person := range p.People {
		last := lastBefore(person, latest(plan))
		if last < 0 {
			continue
		}
		q := p
		q.People = slices.Clone(p.People)
		hours := slices.Clone(person.Hours)
		hours[last].To += 60
		if last+1 < len(hours) {
			hours[last].To = min(hours[last].To, hours[last+1].From)
		}
		q.People[i].Hours = hours
		if err := try(q, Remedy{Person: person.ID}); err != nil {
			return nil, err
		}
	}
	slices.SortStableFunc(all, func(a, b Remedy) int { return cmp.Compare(b.Saves, a.Saves) })
	return all, nil
}

// latest is when the last of the late jobs is done.
func latest(plan Plan) Minute {
	late := lateness(plan)
	var last Minute
	for _, s := range plan.Steps {
		if late[s.Job] > 0 {
			last = max(last, s.End)
		}
	}
	return last
}

// lastBefore is a person's last stretch that begins before a minute and is the last of its day; -1 for none.
func lastBefore(person Person, at Minute) int {
	last := -1
	for i, h := range person.Hours {
		ends := i+1 == len(person.Hours) || person.Hours[i+1].From/day != h.From/day
		if h.From < at && (ends || last < 0) {
			last = i
		}
	}
	return last
}

const day = 24 * 60
