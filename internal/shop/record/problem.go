package record

import (
	"errors"
	"time"

	"earnestpony/internal/calc"
	"earnestpony/internal/store"
)

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

func InvalidInput(fields ...Field) *Problem {
	p := &Problem{Kind: Invalid, Code: "invalid-input", Message: "Something entered is not right.", Fields: fields}
	if len(fields) == 1 {
		p.Message = fields[0].Message
	}
	return p
}

func NotFound(what, code string) *Problem {
	return &Problem{Kind: Missing, Code: code, Message: "There is no such " + what + " here."}
}

// ChangedMeanwhile is a change that came second: the person is shown both versions and chooses.
func ChangedMeanwhile(yours, theirs any) *Problem {
	return &Problem{Kind: Conflict, Code: "changed-meanwhile", Message: "Somebody else changed this meanwhile. Look at both and choose.",
		Yours: yours, Theirs: theirs}
}

// DatabaseAway reports whether an error says that the database cannot be reached, and nothing about what was
// asked. Whether a write was kept is then not known: sent again with its key it is done once.
func DatabaseAway(err error) bool { return store.IsAway(err) }

func IsNotFound(err error) bool { return errors.Is(err, store.ErrNotFound) }

// SendAgain words a change that came between reading and writing, where there is nothing to choose: the
// same write goes through when it is sent again.
func SendAgain(err error) error {
	if errors.Is(err, store.ErrStale) {
		return &Problem{Kind: Conflict, Code: "send-again", Message: "Somebody else changed something of this meanwhile. Nothing was noted; send it again."}
	}
	return err
}
