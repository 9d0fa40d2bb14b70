package due

import (
	"cmp"
	"context"
	"slices"

	"earnestpony/core/interval"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// StockNeed is what the chains of one width will ask of the shelf.
type StockNeed struct {
	Sprockets int        `json:"sprockets"`
	Chains    int        `json:"chains"` // on the shelf
	Links     int        `json:"links"`
	Short     int        `json:"short"` // chains that are missing
	Bikes     []BikeNeed `json:"bikes"` // the most pressing first
}

// BikeNeed is one bike that will need a chain.
type BikeNeed struct {
	Tag      string             `json:"tag"`
	Customer record.CustomerRef `json:"customer"`
	Days     *float64           `json:"days,omitempty"`  // until its chain is at its limit, as likely as not; nil when it is there already
	Order    string             `json:"order,omitempty"` // that its last reading asks for: now, or with the next one
}

// needDays is how far ahead the shelf is looked after.
const needDays = 30

// StockNeeds says which chains the verdicts and forecasts of the bikes in care will ask for within a month, by
// what is kept of what each bike needs.
func (s *Due) StockNeeds(ctx context.Context) ([]StockNeed, error) {
	if _, err := s.refreshDue(ctx, keepAtALook); err != nil {
		return nil, err
	}
	tx := s.desk.Store.Read(ctx)
	items, err := tx.Stock(ctx, false)
	if err != nil {
		return nil, err
	}
	clock, err := s.desk.Clock(ctx, tx)
	if err != nil {
		return nil, err
	}
	today := clock.Today()
	rows, err := tx.ChainNeeds(ctx, (today + needDays).Time())
	if err != nil {
		return nil, err
	}
	byWidth := map[int]*StockNeed{}
	for _, r := range rows {
		if byWidth[r.Sprockets] == nil {
			byWidth[r.Sprockets] = &StockNeed{Sprockets: r.Sprockets}
		}
		need := BikeNeed{Tag: record.TagOf(store.Bike{TagNumber: r.TagNumber}), Customer: record.CustomerRef{ID: r.CustomerID, Name: r.OwnerName}, Order: r.ChainOrder}
		if left := interval.DayOf(r.ChainOn) - today; left > 0 {
			days := float64(left)
			need.Days = &days
		}
		byWidth[r.Sprockets].Bikes = append(byWidth[r.Sprockets].Bikes, need)
	}
	needs := []StockNeed{}
	for width, n := range byWidth {
		for _, i := range items {
			if i.Sprockets == width && i.Kind == stock.StockChain {
				n.Chains += i.Quantity
			}
			if i.Sprockets == width && i.Kind == stock.StockLink {
				n.Links += i.Quantity
			}
		}
		n.Short = max(len(n.Bikes)-n.Chains, 0)
		needs = append(needs, *n)
	}
	slices.SortFunc(needs, func(a, b StockNeed) int { return cmp.Compare(b.Sprockets, a.Sprockets) })
	return needs, nil
}
