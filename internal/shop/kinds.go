package shop

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"math"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/interval"
	"earnestpony/internal/store"
)

// entryKind is what one kind of ledger entry may hold. What is kept stays readable: a check refuses only what
// nothing can be made of.
type entryKind struct {
	// travels says that it leaves with a bike's passport, and may come with one. The others are the shop's own
	// business, or its customers'.
	travels bool
	// read decodes a body and says what is wrong with it. It is asked of every body that comes in a passport,
	// and of every entry before anything is made of it.
	read func(json.RawMessage) error
}

// entryKinds are all there are.
var entryKinds = map[string]entryKind{
	"bike-added":    {true, bodyAs[bikeBody]()},
	"bike-changed":  {true, bodyAs[bikeBody]()},
	"bike-archived": {true, bodyAs[bikeBody]()},
	"bike-restored": {true, bodyAs[bikeBody]()},

	kindMeasurement: {true, bodyAs(checkMeasurementBody)},
	kindOdometer:    {true, bodyAs(checkOdometerBody)},
	kindChainFitted: {true, bodyAs(checkChainBody)},
	kindChainOpened: {true, bodyAs(func(b openedBody) error { return checkLinkBody(b.Link) })},
	kindPartFitted: {true, bodyAs(func(b partBody) error {
		if !slices.Contains(setOrder, b.Part) {
			return fmt.Errorf("%q is no part that is kept", b.Part)
		}
		return nil
	})},
	kindReplacement: {true, bodyAs(func(b replacementBody) error { return within("links", float64(b.Links), 0, maxLinks) })},
	kindRide:        {true, bodyAs(checkRideBody)},
	kindTaskDone: {true, bodyAs(func(b taskDoneBody) error {
		if !taskCode.MatchString(b.Task) {
			return fmt.Errorf("%q is no task", b.Task)
		}
		return nil
	})},
	kindBikeEvent: {true, bodyAs(func(b eventBody) error {
		_, err := interval.ParseReported(b.Event)
		return err
	})},
	kindStrikeOut: {true, bodyAs[strikeBody]()},

	"job-arrived":          {true, bodyAs(checkJobBody)},
	"job-changed":          {true, bodyAs(checkJobBody)},
	"job-planned":          {true, bodyAs(checkJobBody)},
	"job-step":             {true, bodyAs(checkJobBody)},
	"job-finding":          {true, bodyAs(checkJobBody)},
	"job-finding-resolved": {true, bodyAs(checkJobBody)},
	"job-note":             {true, bodyAs(checkJobBody)},
	"job-photo":            {true, bodyAs(checkJobBody)},
	"job-handed-back":      {true, bodyAs(checkJobBody)},
	"job-cancelled":        {true, bodyAs(checkJobBody)},
	"job-reopened":         {true, bodyAs(checkJobBody)},
	kindJobPart:            {true, bodyAs(checkJobBody)},

	kindMessage:    {false, bodyAs[messageBody]()},
	"link":         {false, bodyAs[secretLinkBody]()},
	"owner-report": {false, bodyAs[reportBody]()},
	"passport":     {false, bodyAs[passportBody]()},

	"customer-added":    {false, bodyAs[customerBody]()},
	"customer-changed":  {false, bodyAs[customerBody]()},
	"customer-archived": {false, bodyAs[customerBody]()},
	"customer-restored": {false, bodyAs[customerBody]()},

	"instrument-added":    {false, bodyAs[instrumentBody]()},
	"instrument-changed":  {false, bodyAs[instrumentBody]()},
	"instrument-retired":  {false, bodyAs[instrumentBody]()},
	"instrument-restored": {false, bodyAs[instrumentBody]()},
	"zero-checked":        {false, bodyAs[zeroBody]()},

	"stock-added":    {false, bodyAs[stockBody]()},
	"stock-changed":  {false, bodyAs[stockBody]()},
	"stock-retired":  {false, bodyAs[stockBody]()},
	"stock-restored": {false, bodyAs[stockBody]()},

	"rules-changed": {false, bodyAs[rulesBody]()},
	"wait":          {false, bodyAs[waitBody]()},
	"bath":          {false, bodyAs[bathBody]()},
	"material":      {false, bodyAs[materialBody]()},
	"waste":         {false, bodyAs[wasteBody]()},
}

const kindStrikeOut = "strike-out"

// bodyAs reads a body as a T, and looks at it.
func bodyAs[T any](checks ...func(T) error) func(json.RawMessage) error {
	return func(raw json.RawMessage) error {
		var b T
		if err := json.Unmarshal(raw, &b); err != nil {
			var kind *json.UnmarshalTypeError
			if errors.As(err, &kind) && kind.Field != "" {
				return fmt.Errorf("%s is of another kind", kind.Field)
			}
			return errors.New("it is not such as this program keeps")
		}
		for _, check := range checks {
			if err := check(b); err != nil {
				return err
			}
		}
		return nil
	}
}

// readable says what is wrong with an entry's body; nil where something can be made of it.
func readable(kind string, body json.RawMessage) error {
	k, known := entryKinds[kind]
	if !known {
		return fmt.Errorf("there is no kind of entry %q", kind)
	}
	if trimmed := bytes.TrimSpace(body); len(trimmed) == 0 || trimmed[0] != '{' {
		return errors.New("it says nothing")
	}
	return k.read(body)
}

func within(what string, n, low, high float64) error {
	if math.IsNaN(n) || n < low || n > high {
		return fmt.Errorf("%s is %g: it is %g to %g", what, n, low, high)
	}
	return nil
}

func withinIf(what string, n *float64, low, high float64) error {
	if n == nil {
		return nil
	}
	return within(what, *n, low, high)
}

func checkMixBody(m *Mix) error {
	if m == nil {
		return nil
	}
	for _, share := range []float64{m.Fair, m.Dusty, m.Wet, m.Mud, m.Salt} {
		if err := within("a share of riding", share, 0, 1); err != nil {
			return err
		}
	}
	if says := mixFault(*m); says != "" {
		return errors.New(says)
	}
	return nil
}

func checkOdometerBody(n OdometerNote) error {
	return errors.Join(within("the distance", n.KM, 0, maxOdometer), checkMixBody(n.Mix))
}

// maxRide is more than anybody rides without a stop, km; of a ride that a day's file holds.
const maxRide = 2000

func checkRideBody(b rideBody) error {
	if b.StartedAt.Before(earliestTime) || b.StartedAt.After(latestTime) {
		return fmt.Errorf("it began in the year %d", b.StartedAt.Year())
	}
	return errors.Join(within("the distance", b.KM, 0, maxRide), withinIf("the rain", b.RainMM, 0, 2000), checkMixBody(b.Mix))
}

func checkChainBody(b chainBody) error {
	return errors.Join(within("links", float64(b.Links), 0, maxLinks), within("box_links", float64(b.BoxLinks), 0, maxLinks),
		within("sprockets", float64(b.Sprockets), 0, 20), withinIf("cage_mm", b.CageMM, 0, 1000), checkLinkBody(b.Link))
}

func checkLinkBody(b *linkBody) error {
	if b == nil {
		return nil
	}
	if b.PartID == uuid.Nil {
		return errors.New("a joining link without an id")
	}
	return errors.Join(within("sprockets", float64(b.Sprockets), 0, 20), within("stated_uses", float64(b.StatedUses), 0, 1000))
}

// BrokenEntry is an entry that nothing can be made of. It counts for nothing until it is voided.
type BrokenEntry struct {
	ID         uuid.UUID `json:"id"`
	Kind       string    `json:"kind"`
	HappenedAt time.Time `json:"happened_at"`
	By         string    `json:"by"`
	Says       string    `json:"says"` // what is wrong with it
}

// sound parts entries into those that something can be made of, and the others.
func sound(entries []store.EntryView) (whole []store.EntryView, broken []BrokenEntry) {
	whole = make([]store.EntryView, 0, len(entries))
	for _, e := range entries {
		err := readable(e.Kind, e.Body)
		if err == nil && e.HappenedAt.Before(earliestTime) {
			err = fmt.Errorf("it is said to have happened in the year %d", e.HappenedAt.Year())
		}
		if err == nil {
			whole = append(whole, e)
			continue
		}
		broken = append(broken, BrokenEntry{e.ID, e.Kind, e.HappenedAt, e.PersonName, err.Error()})
	}
	return whole, broken
}

// activeEntries are a bike's entries of these kinds that are not voided, as they happened, and those that
// cannot be read, which are passed over: one broken entry takes nothing else with it.
func activeEntries(ctx context.Context, tx store.Tx, bike uuid.UUID, kinds ...string) ([]store.EntryView, []BrokenEntry, error) {
	entries, err := tx.ActiveEntries(ctx, bike, kinds...)
	if err != nil {
		return nil, nil, err
	}
	whole, broken := sound(entries)
	for _, b := range broken {
		slog.Warn("an entry cannot be read and is passed over", "entry", b.ID, "kind", b.Kind, "bike", bike, "says", b.Says)
	}
	return whole, broken, nil
}

// The kinds of entry by which a task is done or falls due beside those that wear is told from.
const (
	kindTaskDone  = "task-done"
	kindBikeEvent = "bike-event"
)

// affectsDue reports whether what a bike needs may turn on an entry of that kind.
func affectsDue(kind string) bool {
	switch kind {
	case "job-note", "job-photo", "job-part", "job-finding", "job-finding-resolved", "job-planned", "message":
		return false
	}
	return true
}

const kindRide = "ride"

// mayBeVoided reports whether an entry is of those that are voided: what was read or fitted, and whatever of a
// bike nobody can read.
func mayBeVoided(e store.EntryView) bool {
	switch {
	case e.BikeID == nil || e.Kind == kindStrikeOut:
		return false
	case slices.Contains(trackKinds, e.Kind) || e.Kind == kindReplacement || e.Kind == kindJobPart:
		return true
	}
	return readable(e.Kind, e.Body) != nil
}

const kindMessage = "message"

const kindJobPart = "job-part"

const kindReplacement = "replacement"

// The kinds of entry that a chain's wear is told from.
const (
	kindMeasurement = "measurement"
	kindOdometer    = "odometer"
	kindChainFitted = "chain-fitted"
	kindChainOpened = "chain-opened"
	kindPartFitted  = "part-fitted"
)

// trackKinds are all of them.
var trackKinds = []string{kindMeasurement, kindOdometer, kindChainFitted, kindChainOpened, kindPartFitted, kindRide}
