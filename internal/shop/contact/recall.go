package contact

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/wallclock"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// Message is something that an owner is told, or was to be told.
type Message struct {
	ID        uuid.UUID          `json:"id"`
	Tag       string             `json:"tag"`
	Customer  record.CustomerRef `json:"customer"`
	State     store.MessageState `json:"state"`
	Way       string             `json:"way"`
	Address   string             `json:"address"`
	Body      string             `json:"body"`
	Codes     []string           `json:"codes"`
	CreatedAt time.Time          `json:"created_at"`
	QueuedAt  *time.Time         `json:"queued_at,omitempty"`
	SentBy    string             `json:"sent_by,omitempty"` // empty: by itself
	Tries     int                `json:"tries"`
	NextTryAt *time.Time         `json:"next_try_at,omitempty"`
	LastError string             `json:"last_error,omitempty"`
	EndedAt   *time.Time         `json:"ended_at,omitempty"`
	Moot      bool               `json:"moot,omitempty"` // taken back by itself, never sent: LastError says why
	Version   int                `json:"version"`
}

func NewMessage(m store.MessageView) Message {
	v := Message{ID: m.ID, Tag: record.TagOf(store.Bike{TagNumber: m.TagNumber}), Customer: record.CustomerRef{ID: m.CustomerID, Name: m.OwnerName}, State: m.State, Way: m.Way, Address: m.Address,
		Body: m.Body, Codes: append([]string{}, m.Codes...), CreatedAt: m.CreatedAt, QueuedAt: m.QueuedAt, Tries: m.Tries, NextTryAt: m.NextTryAt,
		LastError: m.LastError, EndedAt: m.EndedAt, Moot: m.Moot, Version: m.Version}
	if m.SentBy != nil {
		v.SentBy = *m.SentBy
	}
	return v
}

// receivedShown is how many messages the simulated gateway shows.
const receivedShown = 200

// MessagePage is a page of the messages.
type MessagePage struct {
	Messages []Message  `json:"messages"`
	Total    int        `json:"total"` // in all; of many, one more than are counted
	Next     *uuid.UUID `json:"next,omitempty"`
}

// Messages returns a page of what customers are told: drafts that wait first, then the rest, each newest first. Drafts
// follow what is due before they are shown.
func (s *Contact) Messages(ctx context.Context, after *uuid.UUID, limit int) (MessagePage, error) {
	if err := s.followDrafts(ctx); err != nil {
		return MessagePage{}, err
	}
	rows, total, err := s.desk.Store.Read(ctx).Messages(ctx, after, limit+1)
	if err != nil {
		return MessagePage{}, err
	}
	page := MessagePage{Messages: make([]Message, 0, len(rows)), Total: total}
	if len(rows) > limit {
		rows = rows[:limit]
		page.Next = &rows[limit-1].ID
	}
	for _, m := range rows {
		page.Messages = append(page.Messages, NewMessage(m))
	}
	return page, nil
}

// messageBody is what the ledger keeps of a message: what it told of, never to whom or in which words.
type messageBody struct {
	Message string   `json:"message"`
	Became  string   `json:"became"` // draft, queued, delivered, not-reached, withdrawn, stopped
	Way     string   `json:"way,omitempty"`
	Codes   []string `json:"codes,omitempty"`
}

func (s *Contact) noteMessage(ctx context.Context, tx store.Tx, who record.Actor, m store.Message, tagNumber int) error {
	e := store.Entry{BikeID: &m.BikeID, Kind: record.KindMessage}
	return s.desk.Append(ctx, tx, who, &e, messageBody{m.ID.String(), string(m.State), m.Way, m.Codes}, record.TagOf(store.Bike{TagNumber: tagNumber}))
}

// maxTold is how many tasks one message tells of; more are nagging.
const maxTold = 4

// draft words what is due on a bike for its owner; nothing where nothing is, or the owner is not to be told.
func (s *Contact) draft(ctx context.Context, tx store.Tx, h rules.ParsedRules, shopName string, bike store.Bike) (*store.Message, error) {
	owner, err := tx.Customer(ctx, bike.CustomerID)
	if err != nil {
		return nil, err
	}
	if !owner.Consent || !record.Reachable(owner.ContactWay) || bike.ArchivedAt != nil {
		return nil, nil
	}
	what, err := s.due.DueNow(ctx, tx, bike.ID)
	if err != nil {
		return nil, err
	}
	m := store.Message{ID: uuid.New(), BikeID: bike.ID, CustomerID: owner.ID, State: store.MessageDraft, Way: owner.ContactWay, Address: owner.Phone, CreatedAt: s.desk.Now(), Codes: []string{}}
	if record.ByMail(m.Way) {
		m.Address = owner.Email
	}
	var told []due.DueTask
	for _, t := range what.Tasks {
		if t.IsDue() && !t.OnlyFollows && len(told) < maxTold {
			told, m.Codes = append(told, t), append(m.Codes, t.Code)
		}
	}
	if len(told) == 0 || m.Address == "" {
		return nil, nil
	}
	body := strings.NewReplacer("{owner}", owner.Name, "{bike}", record.NameOf(bike), "{tag}", record.TagOf(bike), "{why}", due.WhyDue(told, h),
		"{leave}", due.LeaveIt(h, told[0], bike), "{shop}", shopName).Replace(h.Rules.Recalls.Text)
	m.Body = record.CleanLine(strings.ReplaceAll(body, "  ", " ")) // what stands for nothing leaves its spaces
	return &m, nil
}

// DraftRecalls drafts messages for bikes that are due, by the shop's rules, and reports how many. Where the
// shop sends by itself they are queued at once.
func (s *Contact) DraftRecalls(ctx context.Context) (int, error) {
	tx := s.desk.Store.Read(ctx)
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		if record.IsNotFound(err) {
			return 0, nil
		}
		return 0, err
	}
	writer, err := s.writer(ctx, tx)
	if err != nil || writer == nil {
		return 0, err
	}
	if err := s.followDrafts(ctx); err != nil {
		return 0, err
	}
	// Each that is looked at is left alone for a while after, so this comes to its end.
	for drafted := 0; ; {
		ids, err := tx.ToRecall(ctx, s.desk.Now(), due.DueBatch)
		if err != nil || len(ids) == 0 {
			return drafted, err
		}
		for _, id := range ids {
			made, err := s.recall(ctx, *writer, h, id)
			if ctx.Err() != nil || store.IsAway(err) {
				return drafted, err
			}
			if err != nil { // the others are told all the same
				slog.Error("a customer cannot be told of a bike", "bike", id, "err", err)
				if err := tx.RecallFrom(ctx, id, s.desk.Now().Add(askAgain)); err != nil {
					return drafted, err
				}
			}
			if made {
				drafted++
			}
		}
	}
}

// askAgain is how long a bike is left whose owner is not to be told today, or that is in the workshop.
const askAgain = 24 * time.Hour

// recall drafts a message for a bike that is due, unless its owner was told lately or the bike is in the
// workshop, and settles when that is looked at again.
func (s *Contact) recall(ctx context.Context, who record.Actor, h rules.ParsedRules, id uuid.UUID) (made bool, err error) {
	tx := s.desk.Store.Read(ctx)
	next := s.desk.Now().Add(askAgain)
	last, err := tx.LastTold(ctx, id)
	if err != nil {
		return false, err
	}
	open, err := tx.JobsOf(ctx, id, 1)
	if err != nil {
		return false, err
	}
	inWork := len(open) > 0 && open[0].ClosedAt == nil
	switch again := h.Rules.Recalls.EveryDays; {
	case last != nil && s.desk.Now().Before(last.AddDate(0, 0, again)):
		next = last.AddDate(0, 0, again)
	case !inWork:
		m, err := s.draftFor(ctx, who, h, id, h.Rules.Recalls.ByItself, again)
		if err != nil && !errors.Is(err, store.ErrTaken) {
			return false, err
		}
		if made = err == nil && m != nil; made {
			next = s.desk.Now().AddDate(0, 0, again)
		}
	}
	return made, tx.RecallFrom(ctx, id, next)
}

// writer is in whose name the program writes: the shop's owner, or who comes next to that.
func (s *Contact) writer(ctx context.Context, tx store.Tx) (*record.Actor, error) {
	people, err := tx.People(ctx)
	if err != nil || len(people) == 0 {
		return nil, err
	}
	rank := []string{"owner", "mechanic", "counter", "apprentice"}
	first := slices.MinFunc(people, func(a, b store.Person) int {
		return cmp.Compare(slices.Index(rank, a.Role), slices.Index(rank, b.Role))
	})
	return &record.Actor{Person: record.NewPerson(first), Device: "by itself"}, nil
}

// draftFor drafts a message, unless its customer was told in the last quietDays; 0 drafts it whenever that was.
func (s *Contact) draftFor(ctx context.Context, who record.Actor, h rules.ParsedRules, id uuid.UUID, queue bool, quietDays int) (*store.Message, error) {
	var made *store.Message
	err := record.IdempotentInto(ctx, s.desk, who, "draft-recall "+id.String(), queue, &made, func(ctx context.Context, tx store.Tx) error {
		// Another process may have told of it since somebody looked, and its message be delivered by now.
		if err := tx.LockBike(ctx, id); err != nil {
			return err
		}
		if open, err := tx.UnsignedOf(ctx, id); err != nil || len(open) > 0 && quietDays > 0 {
			return err
		} else if len(open) > 0 {
			return measure.Unsigned()
		}
		last, err := tx.LastTold(ctx, id)
		if err != nil || quietDays > 0 && last != nil && s.desk.Now().Before(last.AddDate(0, 0, quietDays)) {
			return err
		}
		row, err := tx.Shop(ctx)
		if err != nil {
			return err
		}
		bike, err := tx.BikeByID(ctx, id)
		if err != nil {
			return err
		}
		m, err := s.draft(ctx, tx, h, row.Name, bike)
		if err != nil || m == nil {
			return err
		}
		if queue {
			s.enqueue(m, nil, h)
		}
		if err := tx.AddMessage(ctx, m); err != nil {
			return err
		}
		made = m
		return s.noteMessage(ctx, tx, who, *m, bike.TagNumber)
	})
	return made, err
}

// DraftRecall drafts a message for one bike now, whenever its owner was told last.
func (s *Contact) DraftRecall(ctx context.Context, who record.Actor, tagText string) (Message, error) {
	tx := s.desk.Store.Read(ctx)
	bike, err := record.BikeInCare(ctx, tx, tagText)
	if err != nil {
		return Message{}, err
	}
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return Message{}, err
	}
	m, err := s.draftFor(ctx, who, h, bike.ID, false, 0)
	switch {
	case errors.Is(err, store.ErrTaken):
		return Message{}, &record.Problem{Kind: record.Conflict, Code: "has-draft", Message: "There is a message about this bike already that is not delivered yet."}
	case err != nil:
		return Message{}, err
	case m == nil:
		return Message{}, &record.Problem{Kind: record.Conflict, Code: "not-told", Message: "Nothing is due on this bike, or its customer did not agree to be contacted, or has no address for it."}
	}
	row, err := tx.Message(ctx, m.ID)
	return NewMessage(row), err
}

// enqueue has a message sent as soon as owners are told anything.
func (s *Contact) enqueue(m *store.Message, by *uuid.UUID, h rules.ParsedRules) {
	now := s.desk.Now()
	at := nextOpen(now, h)
	m.State, m.QueuedAt, m.QueuedBy, m.NextTryAt = store.MessageQueued, &now, by, &at
}

// nextOpen is the first time from t on at which owners are told anything: not at night, not on closed days.
func nextOpen(t time.Time, h rules.ParsedRules) time.Time {
	r := h.Rules.Recalls
	day := wallclock.ReadingOf(t, h.Zone).Midnight()
	for range 400 {
		closed := slices.Contains(r.Closed, record.Weekdays[day.Weekday()]) || slices.Contains(r.ClosedOn, day.Date())
		from, until := day.At(rules.MinuteOf(r.From)).First(h.Zone), day.At(rules.MinuteOf(r.Until)).First(h.Zone)
		switch {
		case closed || !t.Before(until):
			day = day.AddDays(1)
		case t.Before(from):
			return store.Stamp(from)
		default:
			return store.Stamp(t)
		}
	}
	return t
}

// MessageAction is what somebody does about a message.
type MessageAction struct {
	Action  string `json:"action"` // send, withdraw, again
	Version int    `json:"version"`
	Body    string `json:"body,omitempty"` // in other words than the template's
}

// DoMessage sends a draft, takes one back, or tries again what did not reach its owner.
func (s *Contact) DoMessage(ctx context.Context, who record.Actor, id uuid.UUID, d MessageAction) (Message, error) {
	d.Body = record.CleanLine(d.Body)
	if n := len([]rune(d.Body)); n > rules.MaxMessage || n > 0 && n < 10 {
		return Message{}, record.InvalidInput(record.Field{Path: "body", Code: "out-of-range", Message: fmt.Sprintf("A message is 10 to %d characters.", rules.MaxMessage)})
	}
	if d.Action == "send" { // what is sent is what is due; where that changed meanwhile, both are shown
		h, err := rules.LoadParsed(ctx, s.desk.Store.Read(ctx))
		if err != nil {
			return Message{}, err
		}
		if err := s.follow(ctx, h, id, false); err != nil && !record.IsNotFound(err) {
			return Message{}, err
		}
	}
	err := s.desk.Write(ctx, who, "message "+id.String(), d, func(ctx context.Context, tx store.Tx) error {
		row, err := tx.Message(ctx, id)
		if record.IsNotFound(err) {
			return record.NotFound("message", "message-not-found")
		}
		if err != nil {
			return err
		}
		if row.Version != d.Version {
			return record.ChangedMeanwhile(d, NewMessage(row))
		}
		h, err := rules.LoadParsed(ctx, tx)
		if err != nil {
			return err
		}
		if err := s.change(ctx, tx, who, &row.Message, d, h); err != nil {
			return err
		}
		if err := tx.SaveMessage(ctx, &row.Message); err != nil {
			return err
		}
		return s.noteMessage(ctx, tx, who, row.Message, row.TagNumber)
	})
	if errors.Is(err, store.ErrTaken) {
		return Message{}, &record.Problem{Kind: record.Conflict, Code: "has-draft", Message: "There is a newer message about this bike that is not delivered yet."}
	}
	if err != nil {
		return Message{}, record.SendAgain(err)
	}
	row, err := s.desk.Store.Read(ctx).Message(ctx, id)
	return NewMessage(row), err
}

func (s *Contact) change(ctx context.Context, tx store.Tx, who record.Actor, m *store.Message, d MessageAction, h rules.ParsedRules) error {
	done := &record.Problem{Kind: record.Conflict, Code: "not-so-now", Message: "This message is not what it was: look at it again."}
	switch d.Action {
	case "send", "again":
		if d.Action == "send" && m.State != store.MessageDraft || d.Action == "again" && m.State != store.MessageNotReached {
			return done
		}
		owner, err := tx.Customer(ctx, m.CustomerID)
		if err != nil {
			return err
		}
		if !owner.Consent {
			return &record.Problem{Kind: record.Conflict, Code: "no-consent", Message: "The customer does not agree to be contacted."}
		}
		if d.Body != "" {
			m.Body = d.Body
		}
		m.Tries, m.LastError, m.EndedAt, m.Moot = 0, "", nil, false
		s.enqueue(m, &who.Person.ID, h)
	case "withdraw":
		if m.State != store.MessageDraft && m.State != store.MessageQueued {
			return done
		}
		now := s.desk.Now()
		m.State, m.NextTryAt, m.EndedAt = store.MessageWithdrawn, nil, &now
	default:
		return record.InvalidInput(record.Field{Path: "action", Code: "unknown-value", Message: "There is no such action."})
	}
	return nil
}

// retries are how long after each failed try a message is tried again (handbook: intervals, Recalls).
var retries = []time.Duration{time.Minute, 5 * time.Minute, 30 * time.Minute, 2 * time.Hour, 12 * time.Hour}

// Reply takes what somebody answered to a message: STOP takes its sender off.
func (s *Contact) Reply(ctx context.Context, who record.Actor, from, text string) (stopped int, err error) {
	if !s.replies {
		return 0, record.NotFound("simulated gateway", "no-simulated-gateway")
	}
	if !strings.EqualFold(strings.Trim(text, " .!\n"), "stop") {
		return 0, nil
	}
	err = record.IdempotentInto(ctx, s.desk, who, "reply "+from, text, &stopped, func(ctx context.Context, tx store.Tx) error {
		owners, err := tx.CustomersAt(ctx, record.CleanLine(from))
		if err != nil {
			return err
		}
		for _, owner := range owners {
			if err := tx.WithdrawMessages(ctx, owner.ID, s.desk.Now()); err != nil {
				return err
			}
			if !owner.Consent {
				continue
			}
			owner.Consent, owner.ConsentHow, owner.ConsentAt, owner.ConsentBy = false, "", nil, nil
			if err := tx.SaveCustomer(ctx, &owner); err != nil {
				return err
			}
			stopped++
			e := store.Entry{CustomerID: &owner.ID, Kind: record.KindCustomerChanged}
			if err := s.desk.Append(ctx, tx, who, &e, record.CustomerBody{Changed: []string{"consent"}}, ""); err != nil {
				return err
			}
		}
		return tx.Notify(ctx, record.Changed(record.TopicMessage, ""))
	})
	return stopped, record.SendAgain(err)
}

func init() {
	record.Holds[messageBody](nil, record.KindMessage)
}
