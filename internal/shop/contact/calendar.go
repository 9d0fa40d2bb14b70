package contact

import (
	"context"
	"fmt"
	"strings"
	"time"

	"earnestpony/core/interval"
	"earnestpony/internal/formats"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// calendarBikes is how many bikes the shop's calendar has at the most, and calendarDays how far it looks.
const (
	calendarBikes = 2000
	calendarDays  = 180
)

// Feed is a calendar, and when what it says last changed.
type Feed struct {
	Text    []byte
	Changed time.Time
}

// Calendar is a feed of due dates: of the shop, one entry for each bike's next visit; of a bike, one for each
// task. It is the same as long as nothing in it changes.
func (s *Contact) Calendar(ctx context.Context, token string) (Feed, error) {
	tx := s.desk.Store.Read(ctx)
	l, err := tx.Link(ctx, people.Token(token).Hash())
	if record.IsNotFound(err) || err == nil && l.Kind == linkOwner {
		return Feed{}, record.NotFound("calendar", "link-not-found")
	}
	if err != nil {
		return Feed{}, err
	}
	row, err := tx.Shop(ctx)
	if err != nil {
		return Feed{}, err
	}
	clock, err := s.desk.Clock(ctx, tx)
	if err != nil {
		return Feed{}, err
	}
	if l.Kind == linkCalendarBike {
		return s.bikeCalendar(ctx, tx, row, clock, l)
	}
	within := calendarDays
	page, err := s.due.DueList(ctx, due.DueFilter{Within: &within, Limit: calendarBikes})
	if err != nil {
		return Feed{}, err
	}
	tags := make([]int, 0, len(page.Rows))
	for _, r := range page.Rows {
		n, err := record.ParseTag(r.Tag)
		if err != nil {
			return Feed{}, err
		}
		tags = append(tags, int(n))
	}
	written, err := tx.LastWritten(ctx, append(tags, 0))
	if err != nil {
		return Feed{}, err
	}
	var events []formats.CalendarEvent
	for i, r := range page.Rows {
		tasks, err := r.Listed()
		if err != nil {
			return Feed{}, err
		}
		what := make([]string, 0, len(tasks))
		for _, t := range tasks {
			what = append(what, due.TitleOf(t))
		}
		on, changed, err := dayOnCalendar(clock, *r.DueOn, written[tags[i]])
		if err != nil {
			return Feed{}, err
		}
		events = append(events, formats.CalendarEvent{UID: r.Tag + ".due@" + calendarHost, Day: on.Time(), Summary: fmt.Sprintf("%s %s", r.Tag, r.Customer.Name),
			Text: r.Bike + ": " + strings.Join(what, ", "), URL: s.base + "/bikes/" + r.Tag, Changed: changed})
	}
	return feedOf(row.Name+", due", events), nil
}

// calendarHost makes the entries' names ours among those of other calendars.
const calendarHost = "earnest-pony.invalid"

// dayOnCalendar is the day at which something due stands in a calendar: what is due already stays on the first day on
// which it was, and does not move every morning.
// changed is when that was settled: when its bike was last written of, or when it fell due.
func dayOnCalendar(clock record.Clock, due string, written time.Time) (day interval.Day, changed time.Time, err error) {
	day, err = interval.ParseDay(due)
	switch today := clock.Today(); {
	case day <= today:
		if fell := clock.Starts(day); fell.After(written) {
			return day, fell, err
		}
	case written.IsZero():
		return day, clock.DayStarts(), err
	}
	return day, written, err
}

func feedOf(name string, events []formats.CalendarEvent) Feed {
	f := Feed{Text: formats.Calendar(name, events)}
	for _, e := range events {
		if e.Changed.After(f.Changed) {
			f.Changed = e.Changed
		}
	}
	return f
}

func (s *Contact) bikeCalendar(ctx context.Context, tx store.Tx, row store.Shop, clock record.Clock, l store.Link) (Feed, error) {
	bike, err := tx.BikeByID(ctx, *l.BikeID)
	if err != nil {
		return Feed{}, err
	}
	what, err := s.due.DueNow(ctx, tx, bike.ID)
	if err != nil {
		return Feed{}, err
	}
	written, err := tx.LastWritten(ctx, []int{bike.TagNumber})
	if err != nil {
		return Feed{}, err
	}
	var events []formats.CalendarEvent
	for _, t := range what.Tasks {
		if t.DueOn == nil {
			continue
		}
		on, changed, err := dayOnCalendar(clock, *t.DueOn, written[bike.TagNumber])
		if err != nil {
			return Feed{}, err
		}
		events = append(events, formats.CalendarEvent{UID: record.TagOf(bike) + "." + t.Code + "@" + calendarHost, Day: on.Time(), Summary: record.BikeWords(bike) + ": " + due.TitleOf(t), Changed: changed})
	}
	return feedOf(record.BikeWords(bike)+", "+row.Name, events), nil
}
