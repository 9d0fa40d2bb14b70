package record

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"earnestpony/internal/store"
)

// Queued is what comes with a write that a device kept until it could send it, beside what it writes.
type Queued struct {
	// HappenedAt is when it was done, by the shop's clock; zero: now.
	HappenedAt time.Time
	// OwnID is what the device called the thing that it made, as it already goes by that id there; Nil: it did not.
	OwnID uuid.UUID
	// MadeAs is the tag that the device gave a bike until the shop gives it one; empty where it did not.
	MadeAs string
	// Follows is the key of the write before it that it is built on, of the same device; empty where it is built on none.
	Follows IdempotencyKey
	// LookedOver says that a person wants it sent, though it was kept for longer than first answers are.
	LookedOver bool
}

type queuedKey struct{}

// WithQueued carries what came with a write to where it is written.
func WithQueued(ctx context.Context, q Queued) context.Context {
	return context.WithValue(ctx, queuedKey{}, q)
}

func queuedIn(ctx context.Context) Queued {
	q, _ := ctx.Value(queuedKey{}).(Queued) // zero: sent as it was done
	return q
}

// Moment is when what is being written happened: now, or earlier where a device kept it until it could send it.
func (s *Desk) Moment(ctx context.Context) time.Time {
	now := s.Now()
	if at := queuedIn(ctx).HappenedAt; !at.IsZero() && at.Before(now) {
		return store.Stamp(at)
	}
	return now
}

// NewID is the id of what is being made: the device's own, or a new one.
func NewID(ctx context.Context) (uuid.UUID, error) {
	if id := queuedIn(ctx).OwnID; id != uuid.Nil {
		return id, nil
	}
	return uuid.NewV7()
}

// MadeAs is the tag that the device gave the bike which is being made; nil where it gave none.
func MadeAs(ctx context.Context) *string {
	if made := queuedIn(ctx).MadeAs; made != "" {
		return &made
	}
	return nil
}

// NameTaken says of something that a device named that it is here already, as when nobody knows its key any more.
func NameTaken() *Problem {
	return &Problem{Kind: Conflict, Code: "name-taken", Message: "This is here already: it arrived before. Look at the history, and drop it here if it is there."}
}

// named tells of a name that a device gave, and that is taken, what a person can do about it.
func named(ctx context.Context, err error) error {
	if q := queuedIn(ctx); (q.OwnID != uuid.Nil || q.MadeAs != "") && errors.Is(err, store.ErrTaken) {
		return NameTaken()
	}
	return err
}

// AnswersKept is how long a write's first answer is kept: longer than any tablet stays away. Older ones are not sent
// without a person's word, as nobody could tell whether they were done already.
const AnswersKept = 14 * 24 * time.Hour

// tooOld refuses a write that was kept for longer than its first answer would have been.
func (s *Desk) tooOld(ctx context.Context) error {
	q, now := queuedIn(ctx), s.Now()
	at := q.HappenedAt
	if at.IsZero() || q.LookedOver || now.Sub(at) <= AnswersKept {
		return nil
	}
	return &Problem{Kind: Conflict, Code: "kept-too-long",
		Message: fmt.Sprintf("This was written %d days ago, and nobody can tell any more whether it arrived then. Look at the history, and send it only if it is not there.", int(now.Sub(at).Hours()/24))}
}

// versionKey leads to the version that a write leaves its subject with, for those that follow it.
type versionKey struct{}

// Leaves notes the version with which the write under way leaves what it writes to.
func Leaves(ctx context.Context, version int) {
	if v, ok := ctx.Value(versionKey{}).(*versions); ok {
		v.left = version
	}
}

// Followed is the version with which the write that this one follows left its subject: what a device that saw no version
// of it, as it made the thing itself, goes on from. Zero where it follows none.
func Followed(ctx context.Context) int {
	if v, ok := ctx.Value(versionKey{}).(*versions); ok {
		return v.followed
	}
	return 0
}

type versions struct{ followed, left int }

// follow resolves the write that the one under way follows: it is there, or this one waits for it.
func follow(ctx context.Context, tx store.Tx, device uuid.UUID) (context.Context, *versions, error) {
	v := &versions{}
	ctx = context.WithValue(ctx, versionKey{}, v)
	key := queuedIn(ctx).Follows
	if key == "" {
		return ctx, v, nil
	}
	before, err := tx.WriteLeft(ctx, device, string(key))
	if IsNotFound(err) {
		return ctx, v, &Problem{Kind: Conflict, Code: "follows-nothing", Message: "What this is built on did not arrive. Look at both before it is sent."}
	}
	if before != nil {
		v.followed = *before
	}
	return ctx, v, err
}
