package schedule

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/dayplan"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// NewAbsence is when somebody is not here though their hours say so: gone home, coming later, away for a while.
type NewAbsence struct {
	FromAt  time.Time `json:"from_at"`
	UntilAt time.Time `json:"until_at"`
}

// Absence is one that is not over.
type Absence struct {
	ID      uuid.UUID `json:"id"`
	FromAt  time.Time `json:"from_at"`
	UntilAt time.Time `json:"until_at"`
	NotedBy string    `json:"noted_by"`
}

// longestAbsence is what the day itself takes; whole days off stand in the rules.
const longestAbsence = 7 * 24 * time.Hour

// NoteAbsence has somebody be away for a while: their work is planned around it. What overlaps is one: two people saw them go.
func (s *Schedule) NoteAbsence(ctx context.Context, who record.Actor, person uuid.UUID, a NewAbsence) (FloorView, error) {
	now := s.desk.Now()
	var wrong record.Faults
	switch {
	case !a.UntilAt.After(a.FromAt):
		wrong.Add("until_at", "out-of-order", "They come back after they go.")
	case !a.UntilAt.After(now):
		wrong.Add("until_at", "out-of-range", "That is over already.")
	case a.UntilAt.Sub(a.FromAt) > longestAbsence || a.FromAt.Sub(now) > longestAbsence:
		wrong.Add("until_at", "out-of-range", "Here somebody is away for hours, within a week from now; whole days off are set under Settings.")
	}
	if err := wrong.Err(); err != nil {
		return FloorView{}, err
	}
	err := s.desk.Write(ctx, who, "note-absence "+person.String(), a, func(ctx context.Context, tx store.Tx) error {
		people, err := tx.People(ctx)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(people, func(p store.Person) bool { return p.ID == person }) {
			return record.NotFound("person", "person-not-found")
		}
		noted, err := tx.Absences(ctx, now)
		if err != nil {
			return err
		}
		id, err := uuid.NewV7()
		if err != nil {
			return err
		}
		for _, old := range noted { // somebody else saw them go, too: it is one absence, as long as both
			if old.PersonID != person || old.FromAt.After(a.UntilAt) || old.UntilAt.Before(a.FromAt) {
				continue
			}
			if old.FromAt.Before(a.FromAt) {
				a.FromAt = old.FromAt
			}
			if old.UntilAt.After(a.UntilAt) {
				a.UntilAt = old.UntilAt
			}
			id = old.ID // that others may be about to take back
			if err := tx.DropAbsence(ctx, old.ID); err != nil {
				return err
			}
		}
		if err := tx.AddAbsence(ctx, &store.Absence{ID: id, PersonID: person, FromAt: a.FromAt, UntilAt: a.UntilAt, NotedAt: now, NotedBy: who.Person.ID}); err != nil {
			return err
		}
		return tx.Notify(ctx, record.Changed(record.TopicFloor, ""))
	})
	if err != nil {
		return FloorView{}, record.SendAgain(err)
	}
	return s.Floor(ctx)
}

// DropAbsence has somebody be here after all; who was said to be already, is.
func (s *Schedule) DropAbsence(ctx context.Context, who record.Actor, id uuid.UUID) (FloorView, error) {
	err := s.desk.Write(ctx, who, "drop-absence "+id.String(), nil, func(ctx context.Context, tx store.Tx) error {
		if err := tx.DropAbsence(ctx, id); err != nil && !record.IsNotFound(err) {
			return err
		}
		return tx.Notify(ctx, record.Changed(record.TopicFloor, ""))
	})
	if err != nil {
		return FloorView{}, record.SendAgain(err)
	}
	return s.Floor(ctx)
}

// leaveOut takes absences out of the hours of the day's people.
func (d *floorDay) leaveOut(absences []store.Absence) {
	d.absences = absences
	for i := range d.problem.People {
		p := &d.problem.People[i]
		for _, a := range absences {
			if a.PersonID.String() == p.ID {
				p.Hours = without(p.Hours, d.minute(a.FromAt), d.minute(a.UntilAt.Add(time.Minute-1)))
			}
		}
	}
}

// without takes what lies between two minutes out of stretches.
func without(hours []dayplan.Stretch, from, to dayplan.Minute) []dayplan.Stretch {
	left := []dayplan.Stretch{}
	for _, h := range hours {
		for _, part := range []dayplan.Stretch{{From: h.From, To: min(h.To, from)}, {From: max(h.From, to), To: h.To}} {
			if part.From < part.To {
				left = append(left, part)
			}
		}
	}
	return left
}

// away are somebody's absences that are not over.
func (d *floorDay) away(person string) []Absence {
	all := []Absence{}
	for _, a := range d.absences {
		if a.PersonID.String() == person {
			all = append(all, Absence{a.ID, a.FromAt, a.UntilAt, d.people[a.NotedBy.String()].Name})
		}
	}
	return all
}
