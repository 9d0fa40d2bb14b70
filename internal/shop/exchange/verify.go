package exchange

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"reflect"

	"earnestpony/core/interval"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// verifyBatch is how many bikes are held against the ledger in one go.
const verifyBatch = 500

// Verify holds what is kept beside the ledger against what the ledger alone says, and lists every difference:
// what each bike needs, its facts, and its measurements.
func (s *Exchange) Verify(ctx context.Context) ([]string, error) {
	tx := s.desk.Store.Read(ctx)
	h, shared, err := s.due.RulesForDue(ctx, tx)
	if err != nil {
		return nil, err
	}
	for {
		n, err := s.due.RefreshDue(ctx)
		if err != nil {
			return nil, err
		}
		if n == 0 {
			break
		}
	}
	var odd []string
	for after := 0; ; {
		bikes, err := tx.BikesAfter(ctx, after, verifyBatch)
		if err != nil || len(bikes) == 0 {
			return odd, err
		}
		for _, bike := range bikes {
			differences, err := s.verifyBike(ctx, tx, h, shared, bike)
			if err != nil {
				return odd, fmt.Errorf("%s: %w", record.TagOf(bike), err)
			}
			for _, d := range differences {
				odd = append(odd, record.TagOf(bike)+": "+d)
			}
			after = bike.TagNumber
		}
	}
}

func (s *Exchange) verifyBike(ctx context.Context, tx store.Tx, h rules.ParsedRules, shared int, bike store.Bike) (odd []string, err error) {
	kept, err := tx.DueOf(ctx, bike.ID)
	if err != nil {
		return nil, err
	}
	b, broken, err := s.due.DueStateOf(ctx, tx, h, bike)
	if err != nil {
		return nil, err
	}
	day := interval.DayOf(kept.Day)
	again, err := b.Row(bike.ID, kept.RequestedRev, day, h.Rules.Intervals.LookAhead, shared)
	if err != nil {
		return nil, err
	}
	if same, err := sameJSON(kept.Tasks, again.Tasks); err != nil {
		return nil, err
	} else if !same || !bytes.Equal(kept.Listed, again.Listed) || kept.State != again.State || kept.Code != again.Code {
		odd = append(odd, "what it needs is not what its ledger says")
	}
	for _, e := range broken {
		odd = append(odd, fmt.Sprintf("entry %s (%s) cannot be read: %s", e.ID, e.Kind, e.Says))
	}
	facts, err := tx.LastFacts(ctx, bike.ID)
	if err != nil {
		return nil, err
	}
	if facts != nil {
		body, err := record.BodyOf[record.BikeBody](*facts)
		if err != nil {
			return nil, err
		}
		if changed, err := record.ChangedFields(record.LedgerFacts(bike.BikeFacts), body.Facts); err != nil {
			return nil, err
		} else if body.Facts != nil && len(changed) > 0 {
			odd = append(odd, fmt.Sprintf("its facts are not what was written last: %v", changed))
		}
	}
	measured, err := tx.MeasurementsNotInLedger(ctx, bike.ID)
	if err != nil {
		return nil, err
	}
	if measured > 0 {
		odd = append(odd, fmt.Sprintf("%d measurements are kept otherwise than the ledger has them", measured))
	}
	return odd, nil
}

func sameJSON(a, b []byte) (bool, error) {
	var x, y any
	if err := json.Unmarshal(a, &x); err != nil {
		return false, err
	}
	err := json.Unmarshal(b, &y)
	return reflect.DeepEqual(x, y), err
}
