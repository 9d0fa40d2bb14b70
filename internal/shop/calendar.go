package shop

import (
	"context"
	"fmt"
	"strings"

	"earnestpony/core/interval"
	"earnestpony/internal/formats"
	"earnestpony/internal/store"
)

// calendarBikes is how many bikes the shop's calendar has at the most, and calendarDays how far it looks.
const (
	calendarBikes = 2000
	calendarDays  = 180
)

// Calendar is a feed of due dates: of the shop, one entry for each bike's next visit; of a bike, one for each
// task.
func (s *Service) Calendar(ctx context.Context, token string) ([]byte, error) {
	tx := s.store.Read()
	l, err := tx.Link(ctx, token)
	if notFound(err) || err == nil && l.Kind == linkOwner {
		return nil, missing("calendar", "link-not-found")
	}
	if err != nil {
		return nil, err
	}
	row, err := tx.Shop(ctx)
	if err != nil {
		return nil, err
	}
	if l.Kind == linkCalendarBike {
		return s.bikeCalendar(ctx, tx, row, l)
	}
	within := calendarDays
	page, err := s.Due(ctx, DueFilter{Within: &within, Limit: calendarBikes})
	if err != nil {
		return nil, err
	}
	var events []formats.CalendarEvent
	for _, r := range page.Rows {
		tasks, err := r.Listed()
		if err != nil {
			return nil, err
		}
		what := make([]string, 0, len(tasks))
		for _, t := range tasks {
			what = append(what, titleOf(t))
		}
		on, err := s.dayOnCalendar(*r.DueOn)
		if err != nil {
			return nil, err
		}
		events = append(events, formats.CalendarEvent{UID: r.Tag + ".due@" + calendarHost, Day: on.Time(), Summary: fmt.Sprintf("%s %s", r.Tag, r.Owner.Name),
			Text: r.Bike + ": " + strings.Join(what, ", "), URL: s.base + "/bikes/" + r.Tag, Changed: s.now()})
	}
	return formats.Calendar(row.Name+", due", events), nil
}

// calendarHost makes the entries' names ours among those of other calendars.
const calendarHost = "earnest-pony.invalid"

// dayOnCalendar is the day at which something due stands in a calendar: what is late stands at today, where it
// is seen.
func (s *Service) dayOnCalendar(due string) (interval.Day, error) {
	day, err := interval.ParseDay(due)
	return max(day, s.today()), err
}

func (s *Service) bikeCalendar(ctx context.Context, tx store.Tx, row store.Shop, l store.Link) ([]byte, error) {
	bike, err := tx.BikeByID(ctx, *l.BikeID)
	if err != nil {
		return nil, err
	}
	due, err := s.dueNow(ctx, bike.ID)
	if err != nil {
		return nil, err
	}
	var events []formats.CalendarEvent
	for _, t := range due.Tasks {
		if t.DueOn == nil {
			continue
		}
		on, err := s.dayOnCalendar(*t.DueOn)
		if err != nil {
			return nil, err
		}
		events = append(events, formats.CalendarEvent{UID: tagOf(bike) + "." + t.Code + "@" + calendarHost, Day: on.Time(), Summary: bikeWords(bike) + ": " + titleOf(t), Changed: s.now()})
	}
	return formats.Calendar(bikeWords(bike)+", "+row.Name, events), nil
}
