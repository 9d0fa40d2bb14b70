// Package shop holds the use cases: what a person in the shop can do, one method each. A method
// that writes does so in one transaction together with its ledger entry, and is the only place
// where stored facts and the rules of the core meet.
//
// Errors that a person can do something about are [Problem]s, worded for a mechanic. Everything
// else is trouble of our own, for the log.
package shop

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"earnestpony/internal/calc"
	"earnestpony/internal/outside"
	"earnestpony/internal/store"
)

// Service does the use cases on one database.
type Service struct {
	store     *store.Store
	now       func() time.Time
	simulated MeasuringTool          // nil: none is plugged in
	pots      PotProbe               // nil: none is plugged in
	gateway   outside.Gateway        // nil: nothing is sent
	replies   bool                   // the gateway is a stand-in that takes replies from the page
	weather   outside.WeatherHistory // nil: nobody knows the weather
	base      string                 // where browsers find the server
}

// New returns a service that asks now for the time.
func New(s *store.Store, now func() time.Time) *Service {
	return &Service{store: s, now: func() time.Time { return store.Stamp(now()) }}
}

// Actor is who does something, and on which device.
type Actor struct {
	Person   Person
	Device   string         // what the device is called
	DeviceID uuid.UUID      // Nil: signed in before devices were told apart
	Key      IdempotencyKey // of what is done now
}

// Kind groups problems by what can be done about them. Zero is [Invalid].
type Kind uint8

// The kinds of problem.
const (
	Invalid     Kind = iota // something entered is wrong
	Missing                 // there is no such thing
	Conflict                // it does not go with what is there now
	NotSignedIn             // nobody, or not this person
	TooSoon                 // try again after a while
	Forbidden               // not for this person to do
)

// Problem is an error that the person who caused it can act on.
type Problem struct {
	Kind       Kind
	Code       string // stable
	Message    string // a sentence that a mechanic understands
	Fields     []Field
	RetryAfter time.Duration
	Yours      any // the version sent, in a conflict
	Theirs     any // the version that is there now
}

// Field is one thing wrong with an input, at the path of the value that is wrong.
type Field = calc.Field

func (p *Problem) Error() string { return p.Code + ": " + p.Message }

func invalid(fields ...Field) *Problem {
	p := &Problem{Kind: Invalid, Code: "invalid-input", Message: "Something entered is not right.", Fields: fields}
	if len(fields) == 1 {
		p.Message = fields[0].Message
	}
	return p
}

func missing(what, code string) *Problem {
	return &Problem{Kind: Missing, Code: code, Message: "There is no such " + what + " here."}
}

// IdempotencyKey is the key that a sender gave to a write, so that sending it twice does it once. It belongs
// to its author on that device. An empty key means the sender did not ask for that.
type IdempotencyKey string

// answersKept is how long a write's first answer is kept: longer than any tablet stays away.
const answersKept = 14 * 24 * time.Hour

// idempotent runs do in one transaction, unless the same author did the same with this key on this device before:
// then its first answer is returned. A key used again for something else is refused.
//
// The operation's name is kept with the key, hashed with the request: it stays as it is for as long as answers
// are kept, whatever the functions around it are called, so that a write is known again after an upgrade.
func idempotent[T any](ctx context.Context, s *Service, who Actor, operation string, request any, do func(context.Context, store.Tx) (T, error)) (answer T, err error) {
	if who.Key == "" {
		err = s.store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
			answer, err = do(ctx, tx)
			return err
		})
		return answer, err
	}
	text, err := json.Marshal(request)
	if err != nil {
		return answer, fmt.Errorf("%s: %w", operation, err)
	}
	hash := sha256.Sum256(append([]byte(operation+"\x00"), text...))
	err = s.store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		claim := store.Deed{PersonID: who.Person.ID, DeviceID: who.DeviceID, Key: string(who.Key), RequestHash: hash[:], CreatedAt: s.now()}
		before, err := tx.BeginDeed(ctx, claim)
		if err != nil {
			return err
		}
		if before != nil {
			if !bytes.Equal(before.RequestHash, hash[:]) {
				return &Problem{Kind: Invalid, Code: "idempotency-key-reused", Message: "This Idempotency-Key was used for something else already."}
			}
			return json.Unmarshal(before.Answer, &answer)
		}
		if answer, err = do(ctx, tx); err != nil {
			return err
		}
		kept, err := json.Marshal(answer)
		if err != nil {
			return err
		}
		return tx.FinishDeed(ctx, claim, kept)
	})
	return answer, err
}

// idempotentInto is [idempotent] for a use case that fills its answer as it goes.
func idempotentInto[T any](ctx context.Context, s *Service, who Actor, operation string, request any, answer *T, do func(context.Context, store.Tx) error) error {
	got, err := idempotent(ctx, s, who, operation, request, func(ctx context.Context, tx store.Tx) (T, error) {
		err := do(ctx, tx)
		return *answer, err
	})
	if err == nil {
		*answer = got
	}
	return err
}

// write is [idempotent] for a use case that answers with what is there afterwards.
func (s *Service) write(ctx context.Context, who Actor, operation string, request any, do func(context.Context, store.Tx) error) error {
	var nothing struct{}
	return idempotentInto(ctx, s, who, operation, request, &nothing, do)
}

// changeOf is what tells one change of a thing from another, for [idempotent].
type changeOf struct {
	Version int `json:"version"`
	To      any `json:"to,omitempty"`
}

// fileOf stands for a file's content, for [idempotent].
func fileOf(content []byte) any {
	sum := sha256.Sum256(content)
	return hex.EncodeToString(sum[:])
}

// ForgetOldAnswers removes first answers that nobody will ask for again.
func (s *Service) ForgetOldAnswers(ctx context.Context) error {
	return s.store.Read(ctx).ForgetDeeds(ctx, s.now().Add(-answersKept))
}

// Change is what other screens are told when something was written: what it names is to be asked
// for again.
type Change struct {
	Topic string `json:"topic"` // bike, customer, instruments, rules, everything
	Tag   string `json:"tag,omitempty"`
}

// append writes a ledger entry about a bike or a customer and tells of it.
func (s *Service) append(ctx context.Context, tx store.Tx, who Actor, e *store.Entry, body any, c Change) error {
	if err := s.sign(who, e, body); err != nil {
		return err
	}
	notice, err := json.Marshal(c)
	if err != nil {
		return err
	}
	if e.BikeID != nil && affectsDue(e.Kind) {
		if err := tx.AskDue(ctx, *e.BikeID); err != nil {
			return err
		}
	}
	if e.Kind == "rules-changed" {
		if err := tx.AskDueOfAll(ctx); err != nil {
			return err
		}
	}
	return tx.Append(ctx, e, string(notice))
}

// written is an entry to be written, with its body.
type written struct {
	entry store.Entry
	body  any
}

// appendAll is [Service.append] for many entries about one bike at once: they are told of together.
func (s *Service) appendAll(ctx context.Context, tx store.Tx, who Actor, all []written, c Change) error {
	if len(all) == 0 {
		return nil
	}
	entries := make([]store.Entry, len(all))
	for i, w := range all {
		if err := s.sign(who, &w.entry, w.body); err != nil {
			return err
		}
		entries[i] = w.entry
	}
	notice, err := json.Marshal(c)
	if err != nil {
		return err
	}
	if err := tx.AskDue(ctx, *entries[0].BikeID); err != nil {
		return err
	}
	return tx.AppendAll(ctx, entries, string(notice))
}

// sign gives an entry its id, its author and its body.
func (s *Service) sign(who Actor, e *store.Entry, body any) error {
	id, err := uuid.NewV7()
	if err != nil {
		return err
	}
	e.ID, e.WrittenAt, e.PersonID, e.Device = id, s.now(), who.Person.ID, who.Device
	if e.HappenedAt.IsZero() {
		e.HappenedAt = e.WrittenAt
	}
	e.Body, err = json.Marshal(body)
	return err
}

// conflict is a change that came second: the person is shown both versions and chooses.
func conflict(yours, theirs any) *Problem {
	return &Problem{Kind: Conflict, Code: "changed-meanwhile", Message: "Somebody else changed this meanwhile. Look at both and choose.",
		Yours: yours, Theirs: theirs}
}

// DatabaseAway reports whether an error says that the database cannot be reached, and nothing about what was
// asked. Whether a write was kept is then not known: sent again with its key it is done once.
func DatabaseAway(err error) bool { return store.IsAway(err) }

func notFound(err error) bool { return errors.Is(err, store.ErrNotFound) }

// changedFields names the top-level JSON fields in which two values of one type differ.
func changedFields(before, after any) ([]string, error) {
	fields := func(v any) (m map[string]json.RawMessage, err error) {
		text, err := json.Marshal(v)
		if err != nil {
			return nil, err
		}
		return m, json.Unmarshal(text, &m)
	}
	a, err := fields(before)
	if err != nil {
		return nil, err
	}
	b, err := fields(after)
	if err != nil {
		return nil, err
	}
	return differing(a, b), nil
}
