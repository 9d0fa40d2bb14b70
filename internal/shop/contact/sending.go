package contact

import (
	"context"
	"errors"
	"log/slog"
	"strings"
	"time"

	"earnestpony/internal/outside"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// PlugInGateway says what carries messages.
func (s *Contact) PlugInGateway(g outside.Gateway) { s.gateway = g }

// TakeReplies says that the gateway is a stand-in, to which the page may reply as a customer would.
func (s *Contact) TakeReplies() { s.replies = true }

// sendLease is how long a try may take before another process takes the message over.
const sendLease = 2 * time.Minute

// sendBatch is how many messages a process takes at once.
const sendBatch = 20

// SendMessages tries the messages whose time has come, and reports how many it took. Several processes may do
// so at once: a message is taken by one of them, and carries one number through all its tries.
func (s *Contact) SendMessages(ctx context.Context) (int, error) {
	if s.gateway == nil {
		return 0, nil
	}
	tx := s.desk.Store.Read(ctx)
	now := s.desk.Now()
	claimed, err := tx.ClaimMessages(ctx, now, now.Add(sendLease), sendBatch)
	if err != nil || len(claimed) == 0 {
		return 0, err
	}
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return 0, err
	}
	writer, err := s.writer(ctx, tx)
	if err != nil || writer == nil {
		return 0, err
	}
	for _, m := range claimed {
		if over, err := s.overtaken(ctx, tx, m); err != nil {
			return 0, err
		} else if over {
			s.withdrawMoot(&m, nothingDue)
			if err := s.keepTried(ctx, *writer, m); err != nil {
				return len(claimed), err
			}
			continue
		}
		body, err := s.withLink(ctx, *writer, m, h)
		if err != nil {
			return 0, err
		}
		sent := s.gateway.Send(ctx, outside.Message{ID: m.ID, Way: m.Way, Address: m.Address, Body: body})
		if err := s.tried(ctx, *writer, m, sent, h); err != nil {
			return len(claimed), err
		}
	}
	return len(claimed), nil
}

// linkPlace stands in a message where the address of the bike's page goes. It is filled when the message is
// sent: an address that opens something is kept nowhere.
const linkPlace = "{link}"

// withLink is a message's text with the address of the bike's page, given for this try. One that was given for
// a try before goes on opening the page: it may have arrived after all.
func (s *Contact) withLink(ctx context.Context, who record.Actor, m store.Message, h rules.ParsedRules) (string, error) {
	if !strings.Contains(m.Body, linkPlace) {
		return m.Body, nil
	}
	var given GivenLink
	err := s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		bike, err := tx.BikeByID(ctx, m.BikeID)
		if err != nil {
			return err
		}
		l, token, err := s.giveLink(ctx, tx, who, linkOwner, "Message of "+h.Day(m.CreatedAt), &bike)
		given = s.newGivenLink(l, token)
		return err
	})
	return strings.ReplaceAll(m.Body, linkPlace, given.URL), err
}

// tried writes what became of a try.
func (s *Contact) tried(ctx context.Context, who record.Actor, m store.Message, failed error, h rules.ParsedRules) error {
	now := s.desk.Now()
	if failed == nil {
		m.State, m.NextTryAt, m.EndedAt, m.LastError = store.MessageDelivered, nil, &now, ""
	} else {
		m.LastError = record.CleanLine(failed.Error())
		if m.Tries > len(retries) {
			m.State, m.NextTryAt, m.EndedAt = store.MessageNotReached, nil, &now
		} else {
			at := nextOpen(now.Add(retries[m.Tries-1]), h)
			m.NextTryAt = &at
		}
	}
	return s.keepTried(ctx, who, m)
}

// keepTried writes what became of a message that was taken to be sent.
func (s *Contact) keepTried(ctx context.Context, who record.Actor, m store.Message) error {
	err := s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		if err := tx.SaveMessage(ctx, &m); err != nil {
			return err
		}
		bike, err := tx.BikeByID(ctx, m.BikeID)
		if err != nil {
			return err
		}
		if m.State == store.MessageQueued {
			return tx.Notify(ctx, record.Changed(record.TopicMessage, ""))
		}
		return s.noteMessage(ctx, tx, who, m, bike.TagNumber)
	})
	if errors.Is(err, store.ErrStale) { // it was withdrawn while it was under way
		slog.Info("a message changed while it was sent", "message", m.ID)
		return nil
	}
	return err
}
