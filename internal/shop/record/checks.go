package record

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"math"
	"time"

	"github.com/google/uuid"

	"earnestpony/internal/store"
)

func Within(what string, n, low, high float64) error {
	if math.IsNaN(n) || n < low || n > high {
		return fmt.Errorf("%s is %g: it is %g to %g", what, n, low, high)
	}
	return nil
}

func WithinIf(what string, n *float64, low, high float64) error {
	if n == nil {
		return nil
	}
	return Within(what, *n, low, high)
}

func checkMixBody(m *Mix) error {
	if m == nil {
		return nil
	}
	for _, share := range []float64{m.Fair, m.Dusty, m.Wet, m.Mud, m.Salt} {
		if err := Within("a share of riding", share, 0, 1); err != nil {
			return err
		}
	}
	if says := MixFault(*m); says != "" {
		return errors.New(says)
	}
	return nil
}

func checkOdometerBody(n OdometerNote) error {
	return errors.Join(Within("the distance", n.KM, 0, MaxOdometer), checkMixBody(n.Mix))
}

// maxRide is more than anybody rides without a stop, km; of a ride that a day's file holds.
const maxRide = 2000

func checkRideBody(b RideBody) error {
	if b.StartedAt.Before(earliestTime) || b.StartedAt.After(latestTime) {
		return fmt.Errorf("it began in the year %d", b.StartedAt.Year())
	}
	return errors.Join(Within("the distance", b.KM, 0, maxRide), WithinIf("the rain", b.RainMM, 0, 2000), checkMixBody(b.Mix))
}

func checkChainBody(b ChainBody) error {
	return errors.Join(Within("links", float64(b.Links), 0, MaxLinks), Within("box_links", float64(b.BoxLinks), 0, MaxLinks),
		Within("sprockets", float64(b.Sprockets), 0, 20), WithinIf("cage_mm", b.CageMM, 0, 1000), checkLinkBody(b.Link))
}

func checkLinkBody(b *LinkBody) error {
	if b == nil {
		return nil
	}
	if b.PartID == uuid.Nil {
		return errors.New("a joining link without an id")
	}
	return errors.Join(Within("sprockets", float64(b.Sprockets), 0, 20), Within("stated_uses", float64(b.StatedUses), 0, 1000))
}

// BrokenEntry is an entry that nothing can be made of. It counts for nothing until it is voided.
type BrokenEntry struct {
	ID         uuid.UUID `json:"id"`
	Kind       string    `json:"kind"`
	HappenedAt time.Time `json:"happened_at"`
	By         string    `json:"by"`
	Says       string    `json:"says"` // what is wrong with it
}

// Sound parts entries into those that something can be made of, and the others.
func Sound(entries []store.EntryView) (whole []store.EntryView, broken []BrokenEntry) {
	whole = make([]store.EntryView, 0, len(entries))
	for _, e := range entries {
		err := Readable(e.Kind, e.Body)
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

// ActiveEntries are a bike's entries of these kinds that are not voided, as they happened, and those that
// cannot be read, which are passed over: one broken entry takes nothing else with it.
func ActiveEntries(ctx context.Context, tx store.Tx, bike uuid.UUID, kinds ...string) ([]store.EntryView, []BrokenEntry, error) {
	entries, err := tx.ActiveEntries(ctx, bike, kinds...)
	if err != nil {
		return nil, nil, err
	}
	whole, broken := Sound(entries)
	for _, b := range broken {
		slog.Warn("an entry cannot be read and is passed over", "entry", b.ID, "kind", b.Kind, "bike", bike, "says", b.Says)
	}
	return whole, broken, nil
}
