package contact

import (
	"context"
	"errors"
	"log/slog"
	"slices"

	"github.com/google/uuid"

	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// A message that nobody sent yet says what is due when it is read, not what was due when it was drafted. Somebody may
// have measured the chain meanwhile, washed the bike, or sold it.

// followDrafts brings what is not sent yet to what is due now.
func (s *Contact) followDrafts(ctx context.Context) error {
	tx := s.desk.Store.Read(ctx)
	unsent, err := tx.Unsent(ctx)
	if err != nil || len(unsent) == 0 {
		return err
	}
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return err
	}
	row, err := tx.Shop(ctx)
	if err != nil {
		return err
	}
	for _, m := range unsent {
		now, err := s.reworded(ctx, tx, h, row.Name, m)
		if err == nil && now != nil {
			err = s.follow(ctx, h, m.ID, true)
		}
		if ctx.Err() != nil || store.IsAway(err) {
			return err
		}
		if err != nil { // one bike's trouble; the message stays as it was drafted
			slog.Error("a draft does not follow what is due", "message", m.ID, "err", err)
		}
	}
	return nil
}

// follow brings one message that was not sent to what is due now. Where only its words are other ones, as the km since
// grow by the day, they are left alone unless words says so.
func (s *Contact) follow(ctx context.Context, h rules.ParsedRules, id uuid.UUID, words bool) error {
	err := s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		view, err := tx.Message(ctx, id)
		if err != nil {
			return err
		}
		row, err := tx.Shop(ctx)
		if err != nil {
			return err
		}
		now, err := s.reworded(ctx, tx, h, row.Name, view.Message)
		if err != nil || now == nil {
			return err
		}
		same := slices.Equal(now.Codes, view.Codes) && now.State == view.State && now.CustomerID == view.CustomerID && now.Address == view.Address
		if same && !words {
			return nil
		}
		if err := tx.SaveMessage(ctx, now); err != nil {
			return err
		}
		if same {
			return tx.Notify(ctx, record.Changed(record.TopicMessage, ""))
		}
		who, err := s.writer(ctx, tx)
		if err != nil || who == nil {
			return err
		}
		return s.noteMessage(ctx, tx, *who, *now, view.TagNumber)
	})
	if errors.Is(err, store.ErrStale) { // sent, or brought up to date by somebody else, meanwhile
		return nil
	}
	return err
}

// reworded is what a message that was not sent yet is now; nil where it is as it was, or was sent.
func (s *Contact) reworded(ctx context.Context, tx store.Tx, h rules.ParsedRules, shopName string, m store.Message) (*store.Message, error) {
	if m.State != store.MessageDraft && (m.State != store.MessageQueued || m.QueuedBy != nil || m.Tries > 0) {
		return nil, nil
	}
	bike, err := tx.BikeByID(ctx, m.BikeID)
	if err != nil {
		return nil, err
	}
	now, err := s.draft(ctx, tx, h, shopName, bike)
	if err != nil {
		return nil, err
	}
	if now == nil {
		over, err := s.overtaken(ctx, tx, m)
		why := "its customer is not to be contacted any more"
		if over {
			why = nothingDue
		}
		s.withdrawMoot(&m, why)
		return &m, err
	}
	if now.Body == m.Body && now.Address == m.Address && now.Way == m.Way && now.CustomerID == m.CustomerID && slices.Equal(now.Codes, m.Codes) {
		return nil, nil
	}
	m.CustomerID, m.Way, m.Address, m.Body, m.Codes = now.CustomerID, now.Way, now.Address, now.Body, now.Codes
	return &m, nil
}

const nothingDue = "nothing of it is due any more"

// withdrawMoot takes a message back that has become pointless, and says why.
func (s *Contact) withdrawMoot(m *store.Message, why string) {
	now := s.desk.Now()
	m.State, m.Moot, m.LastError, m.NextTryAt, m.EndedAt = store.MessageWithdrawn, true, why, nil, &now
}

// overtaken reports whether nothing that a message tells of is due any more. One that somebody worded otherwise stays
// as they wrote it as long as a part of it is.
func (s *Contact) overtaken(ctx context.Context, tx store.Tx, m store.Message) (bool, error) {
	what, err := s.due.DueNow(ctx, tx, m.BikeID)
	if err != nil || len(m.Codes) == 0 {
		return false, err
	}
	return !slices.ContainsFunc(what.Tasks, func(t due.DueTask) bool { return t.IsDue() && slices.Contains(m.Codes, t.Code) }), nil
}
