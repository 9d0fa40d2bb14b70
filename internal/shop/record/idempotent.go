package record

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"

	"earnestpony/internal/store"
)

// IdempotencyKey is the key that a sender gave to a write, so that sending it twice does it once. It belongs
// to its author on that device. An empty key means the sender did not ask for that.
type IdempotencyKey string

// Idempotent runs do in one transaction, unless the same author did the same with this key on this device before:
// then its first answer is returned. A key used again for something else is refused.
//
// The operation's name is kept with the key, hashed with the request: it stays as it is for as long as answers
// are kept, whatever the functions around it are called, so that a write is known again after an upgrade.
func Idempotent[T any](ctx context.Context, s *Desk, who Actor, operation string, request any, do func(context.Context, store.Tx) (T, error)) (answer T, err error) {
	if who.Key == "" {
		err = s.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
			answer, err = do(ctx, tx)
			return err
		})
		return answer, named(ctx, err)
	}
	text, err := json.Marshal(request)
	if err != nil {
		return answer, fmt.Errorf("%s: %w", operation, err)
	}
	hash := sha256.Sum256(append([]byte(operation+"\x00"), text...))
	err = s.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		claim := store.IdempotentWrite{PersonID: who.Person.ID, DeviceID: who.DeviceID, Key: string(who.Key), RequestHash: hash[:], CreatedAt: s.Now()}
		before, err := tx.BeginWrite(ctx, claim)
		if err != nil {
			return err
		}
		if before != nil {
			if !bytes.Equal(before.RequestHash, hash[:]) {
				return &Problem{Kind: Invalid, Code: "idempotency-key-reused", Message: "This Idempotency-Key was used for something else already."}
			}
			return json.Unmarshal(before.Answer, &answer)
		}
		if err := s.tooOld(ctx); err != nil {
			return err
		}
		ctx, version, err := follow(ctx, tx, who.DeviceID)
		if err != nil {
			return err
		}
		if answer, err = do(ctx, tx); err != nil {
			return err
		}
		kept, err := json.Marshal(answer)
		if err != nil {
			return err
		}
		return tx.FinishWrite(ctx, claim, kept, version.left)
	})
	return answer, named(ctx, err)
}

// IdempotentInto is [Idempotent] for a use case that fills its answer as it goes.
func IdempotentInto[T any](ctx context.Context, s *Desk, who Actor, operation string, request any, answer *T, do func(context.Context, store.Tx) error) error {
	got, err := Idempotent(ctx, s, who, operation, request, func(ctx context.Context, tx store.Tx) (T, error) {
		err := do(ctx, tx)
		return *answer, err
	})
	if err == nil {
		*answer = got
	}
	return err
}

// Write is [Idempotent] for a use case that answers with what is there afterwards.
func (s *Desk) Write(ctx context.Context, who Actor, operation string, request any, do func(context.Context, store.Tx) error) error {
	var nothing struct{}
	return IdempotentInto(ctx, s, who, operation, request, &nothing, do)
}

// ChangeOf is what tells one change of a thing from another, for [Idempotent].
type ChangeOf struct {
	Version int `json:"version"`
	To      any `json:"to,omitempty"`
}

// FileOf stands for a file's content, for [Idempotent].
func FileOf(content []byte) any {
	sum := sha256.Sum256(content)
	return hex.EncodeToString(sum[:])
}

// ForgetOldAnswers removes first answers that nobody will ask for again.
func (s *Desk) ForgetOldAnswers(ctx context.Context) error {
	return s.Store.Read(ctx).ForgetWrites(ctx, s.Now().Add(-AnswersKept))
}
