package bikes

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/chain"
	"earnestpony/core/tag"
	"earnestpony/core/wear"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// ChainState is what the last measurement that stands said of a bike's chain. A value or an
// interval is there, by the kind of tool.
type ChainState struct {
	Verdict       string    `json:"verdict"`
	State         string    `json:"state"`
	TakenAt       time.Time `json:"taken_at"`
	ElongationPct *float64  `json:"elongation_pct,omitempty"`
	SigmaPct      *float64  `json:"sigma_pct,omitempty"`
	LowPct        *float64  `json:"low_pct,omitempty"`
	HighPct       *float64  `json:"high_pct,omitempty"`
	LimitPct      float64   `json:"limit_pct"`
}

// BikeRow is a bike in a list.
type BikeRow struct {
	Tag           string             `json:"tag"`
	Customer      record.CustomerRef `json:"customer"`
	Make          string             `json:"make"`
	Model         string             `json:"model"`
	Colour        string             `json:"colour"`
	Kind          string             `json:"kind"`
	SprocketCount *int               `json:"sprocket_count,omitempty"`
	Archived      bool               `json:"archived"`
	Chain         *ChainState        `json:"chain,omitempty"` // nil before the first measurement
}

// BikePage is a page of a list of bikes.
type BikePage struct {
	Bikes []BikeRow `json:"bikes"`
	Total int       `json:"total"`          // how many match in all
	Next  string    `json:"next,omitempty"` // tag to go on after; empty on the last page
}

// Bike is a bike on its own page.
type Bike struct {
	Tag      string               `json:"tag"`
	Customer record.CustomerRef   `json:"customer"`
	Facts    record.BikeFacts     `json:"facts"`
	Archived bool                 `json:"archived"`
	Version  int                  `json:"version"`
	AddedAt  time.Time            `json:"added_at"`
	PhotoAt  *time.Time           `json:"photo_at,omitempty"` // when its photo was taken; nil without one
	Last     *measure.Measurement `json:"last,omitempty"`     // the last measurement that stands
}

func NewBikeRow(h rules.ParsedRules, b store.Bike) (BikeRow, error) {
	row := BikeRow{Tag: record.TagOf(b), Customer: record.CustomerRef{ID: b.CustomerID, Name: b.OwnerName}, Make: b.Make, Model: b.Model, Colour: b.Colour, Kind: b.Kind,
		SprocketCount: b.SprocketCount, Archived: b.ArchivedAt != nil}
	m, err := measure.LastReading(h, b)
	if m == nil || err != nil {
		return row, err
	}
	row.Chain = &ChainState{Verdict: m.Wear.Verdict, State: m.State, TakenAt: m.TakenAt, ElongationPct: m.Wear.ElongationPct,
		SigmaPct: m.Wear.SigmaPct, LimitPct: m.Wear.LimitPct}
	if v := m.Wear.Interval; v != nil {
		row.Chain.LowPct, row.Chain.HighPct = &v.LowPct, v.HighPct
	}
	return row, nil
}

func newBikeRows(h rules.ParsedRules, bikes []store.Bike) ([]BikeRow, error) {
	rows := make([]BikeRow, 0, len(bikes))
	for _, b := range bikes {
		row, err := NewBikeRow(h, b)
		if err != nil {
			return nil, err
		}
		rows = append(rows, row)
	}
	return rows, nil
}

// FindBikes returns bikes in which, or in whose owner, every word is found.
func (s *Bikes) FindBikes(ctx context.Context, q string, archived bool, after string, limit int) (BikePage, error) {
	from := tag.Number(0)
	if after != "" {
		var err error
		if from, err = record.ParseTag(after); err != nil {
			return BikePage{}, err
		}
	}
	tx := s.desk.Store.Read(ctx)
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return BikePage{}, err
	}
	rows, total, err := tx.FindBikes(ctx, record.SearchWords(q), archived, int(from), limit+1)
	if err != nil {
		return BikePage{}, err
	}
	page := BikePage{Total: total}
	if len(rows) > limit {
		rows = rows[:limit]
		page.Next = record.TagOf(rows[limit-1])
	}
	page.Bikes, err = newBikeRows(h, rows)
	return page, err
}

// Bike opens a bike by its tag.
func (s *Bikes) Bike(ctx context.Context, tagText string) (Bike, error) {
	tx := s.desk.Store.Read(ctx)
	row, err := record.BikeByTag(ctx, tx, tagText)
	if err != nil {
		return Bike{}, err
	}
	return newBike(ctx, tx, row)
}

func newBike(ctx context.Context, tx store.Tx, row store.Bike) (Bike, error) {
	b := Bike{Tag: record.TagOf(row), Customer: record.CustomerRef{ID: row.CustomerID, Name: row.OwnerName}, Facts: row.BikeFacts, Archived: row.ArchivedAt != nil,
		Version: row.Version, AddedAt: row.CreatedAt, PhotoAt: row.PhotoAt}
	if row.Last.EntryID != nil {
		e, err := tx.Entry(ctx, *row.Last.EntryID)
		if err != nil {
			return b, err
		}
		if b.Last, err = measure.MeasurementOf(e); err != nil {
			return b, err
		}
		h, err := rules.LoadParsed(ctx, tx)
		if err != nil {
			return b, err
		}
		if err := measure.Judge(h, row, b.Last); err != nil {
			return b, err
		}
	}
	return b, nil
}

// CheckBike tidies facts in place and says what is wrong with them together; single values out of
// range are refused by the contract and, last, by the database.
func CheckBike(f *record.BikeFacts) error {
	slices.Sort(f.SprocketTeeth)
	slices.Sort(f.RingTeeth)
	var fields record.Faults
	fault := fields.Under("facts")
	record.CheckBikeBounds(f, fault)
	if n := len(f.SprocketTeeth); n > 0 {
		switch {
		case f.SprocketCount == nil:
			f.SprocketCount = &n
		case *f.SprocketCount != n && n != 2:
			fault("sprocket_teeth", "count-differs", "%d sizes for %d sprockets: give all of them, or only the smallest and the largest.", n, *f.SprocketCount)
		}
	}
	if k := f.DrivetrainKind; f.SprocketCount != nil && *f.SprocketCount > 1 && (k == chain.SingleSpeed.String() || k == chain.HubGear.String()) {
		fault("sprocket_count", "one-sprocket", "A single-speed or hub gear has one sprocket, not %d.", *f.SprocketCount)
	}
	if f.ChainLinks != nil && *f.ChainLinks%2 == 1 && f.DrivetrainKind == chain.Derailleur.String() {
		fault("chain_links", "odd-count", "A derailleur chain has an even number of links. Count inner and outer links alike.")
	}
	if f.Mix != nil {
		if message := record.MixFault(*f.Mix); message != "" {
			fault("mix", "not-whole", "%s", message)
		}
	}
	checkLimits(f, fault)
	rules.CheckTasks(f, fault)
	if err := fields.Err(); err != nil {
		return err
	}
	return nil
}

// checkLimits holds what a bike has in place of the house rule against what may be.
func checkLimits(f *record.BikeFacts, fault func(path, code, format string, args ...any)) {
	switch {
	case f.LimitPct == nil && f.TogetherPct == nil:
		f.LimitSource = ""
	case f.LimitPct == nil:
		fault("limit_pct", "missing", "A limit of its own needs both lines: at which wear the chain is replaced, and at which the cassette goes with it.")
	case f.TogetherPct == nil:
		fault("together_pct", "missing", "A limit of its own needs both lines: at which wear the chain is replaced, and at which the cassette goes with it.")
	case *f.TogetherPct < *f.LimitPct:
		fault("together_pct", "out-of-range", "The cassette cannot be expected to go before the chain.")
	case f.LimitSource == "":
		fault("limit_source", "missing", "Say whose limit it is: the maker's, or the shop's for this bike.")
	}
	own := f.LimitSource == wear.FromBike.String() || f.WearSchool != ""
	switch {
	case own && f.LimitReason == "":
		fault("limit_reason", "missing", "Say why this bike has a rule of its own.")
	case !own && f.LimitSource == "":
		f.LimitReason = ""
	}
	// A chain that breaks under such a load throws the rider.
	strained := chain.Drivetrain{Carry: record.Carries(f.Kind)}
	strained.Kind, _ = chain.ParseDrivetrainKind(f.DrivetrainKind) // unknown until somebody says
	strained.Motor, _ = chain.ParseMotor(f.Motor)
	if f.SprocketCount != nil {
		strained.Sprockets = *f.SprocketCount
	}
	if f.WearSchool == wear.RunOut.String() && !wear.RunOut.Allows(strained) {
		fault("wear_school", "school-refused", "Running a chain out is refused for cargo, child-carrying and mid-motor bikes.")
	}
	if most := wear.MostAllowed(strained); f.LimitSource == wear.FromBike.String() && f.LimitPct != nil && chain.Percent(*f.LimitPct) > most {
		fault("limit_pct", "school-refused", "A chain on a cargo, child-carrying or mid-motor bike is not run past %g %%: only its maker may say otherwise.", float64(most))
	}
}

// NormaliseBike is what finding looks in; the tag is in it with its dashes and without.
func NormaliseBike(n tag.Number, made *string, f record.BikeFacts) string {
	stamped := n.String()
	all := []string{stamped, strings.ReplaceAll(stamped, "-", ""), f.Make, f.Model, f.Colour, f.FrameNumber}
	if made != nil {
		all = append(all, *made)
	}
	return record.Normalise(strings.Join(all, " "))
}

// NewBike is a bike to be added, of a customer who is here or of one who comes with it.
type NewBike struct {
	CustomerID uuid.UUID             `json:"customer_id"`
	Customer   *record.CustomerFacts `json:"customer,omitempty"` // a new customer, in place of CustomerID
	Facts      record.BikeFacts      `json:"facts"`
}

// check tidies what is to be written in place and says what is wrong with it.
func (n *NewBike) check() error {
	var fields record.Faults
	switch {
	case n.Customer != nil && n.CustomerID != uuid.Nil:
		fields.Add("customer", "twice", "The bike is either a customer's who is here, or a new one's.")
	case n.Customer != nil:
		fields = customerFaults(n.Customer, "customer")
	case n.CustomerID == uuid.Nil:
		fields.Add("customer_id", "missing", "Say whose bike it is.")
	}
	err := CheckBike(&n.Facts)
	if problem, is := errors.AsType[*record.Problem](err); is {
		fields = append(fields, problem.Fields...)
	} else if err != nil {
		return err
	}
	if err := fields.Err(); err != nil {
		return err
	}
	return nil
}

// owner is whose bike it will be: a customer who may be given one, or a new one, who is added.
func (n NewBike) owner(ctx context.Context, s *Bikes, tx store.Tx, who record.Actor) (record.CustomerRef, error) {
	if n.Customer == nil {
		return bikeOwner(ctx, tx, n.CustomerID)
	}
	c, err := s.AddCustomerTx(ctx, tx, who, *n.Customer)
	return record.CustomerRef{ID: c.ID, Name: c.Facts.Name}, err
}

// AddBike adds a customer's bike; it gets the next tag.
func (s *Bikes) AddBike(ctx context.Context, who record.Actor, n NewBike) (Bike, error) {
	if err := n.check(); err != nil {
		return Bike{}, err
	}
	return record.Idempotent(ctx, s.desk, who, "add-bike", n, func(ctx context.Context, tx store.Tx) (Bike, error) { return s.AddBikeTx(ctx, tx, who, n) })
}

func (s *Bikes) AddBikeTx(ctx context.Context, tx store.Tx, who record.Actor, n NewBike) (Bike, error) {
	owner, err := n.owner(ctx, s, tx, who)
	if err != nil {
		return Bike{}, err
	}
	id, err := record.NewID(ctx)
	if err != nil {
		return Bike{}, err
	}
	made := record.MadeAs(ctx)
	number, err := tx.NextTagNumber(ctx)
	if err != nil {
		return Bike{}, err
	}
	row := store.Bike{ID: id, TagNumber: number, CustomerID: owner.ID, OwnerName: owner.Name, BikeFacts: n.Facts, MadeAs: made,
		Folded: NormaliseBike(tag.Number(number), made, n.Facts), CreatedAt: s.desk.Moment(ctx)}
	if err := tx.AddBike(ctx, &row); err != nil {
		return Bike{}, err
	}
	e := store.Entry{BikeID: &id, Kind: record.KindBikeAdded}
	err = s.desk.Append(ctx, tx, who, &e, record.BikeBody{Facts: record.LedgerFacts(n.Facts), CustomerID: &owner.ID}, record.TagOf(row))
	if err != nil {
		return Bike{}, err
	}
	return newBike(ctx, tx, row)
}

// bikeOwner returns a customer who may be given a bike.
func bikeOwner(ctx context.Context, tx store.Tx, id uuid.UUID) (record.CustomerRef, error) {
	c, err := tx.Customer(ctx, id)
	switch {
	case record.IsNotFound(err):
		return record.CustomerRef{}, record.InvalidInput(record.Field{Path: "customer_id", Code: "customer-not-found", Message: "There is no such customer. Choose the customer again."})
	case err != nil:
		return record.CustomerRef{}, err
	case c.ArchivedAt != nil:
		return record.CustomerRef{}, record.InvalidInput(record.Field{Path: "customer_id", Code: "customer-archived", Message: "This customer is archived. Take them out of the archive first."})
	}
	return record.CustomerRef{ID: c.ID, Name: c.Name}, nil
}

// ChangeBike writes new facts over the version that the sender saw.
func (s *Bikes) ChangeBike(ctx context.Context, who record.Actor, tagText string, version int, n NewBike) (Bike, error) {
	if err := n.check(); err != nil {
		return Bike{}, err
	}
	return s.updateBike(ctx, who, tagText, version, n, func(ctx context.Context, tx store.Tx, row *store.Bike) (string, record.BikeBody, error) {
		changed, err := record.ChangedFields(row.BikeFacts, n.Facts)
		if err != nil {
			return "", record.BikeBody{}, err
		}
		body := record.BikeBody{Facts: record.LedgerFacts(n.Facts)}
		if row.CustomerID != n.CustomerID {
			owner, err := n.owner(ctx, s, tx, who)
			if err != nil {
				return "", record.BikeBody{}, err
			}
			row.CustomerID, row.OwnerName, body.CustomerID = owner.ID, owner.Name, &owner.ID
			changed = append(changed, "owner")
		}
		body.Changed = changed
		row.BikeFacts, row.Folded = n.Facts, NormaliseBike(tag.Number(row.TagNumber), row.MadeAs, n.Facts)
		return record.KindBikeChanged, body, nil
	})
}

// ArchiveBike puts a bike away, or takes it back out.
func (s *Bikes) ArchiveBike(ctx context.Context, who record.Actor, tagText string, version int, archived bool) (Bike, error) {
	return s.updateBike(ctx, who, tagText, version, nil, func(ctx context.Context, tx store.Tx, row *store.Bike) (string, record.BikeBody, error) {
		switch {
		case archived == (row.ArchivedAt != nil):
			return "", record.BikeBody{}, nil
		case archived:
			now := s.desk.Now()
			row.ArchivedAt = &now
			return record.KindBikeArchived, record.BikeBody{Changed: []string{"archived"}}, nil
		}
		if _, err := bikeOwner(ctx, tx, row.CustomerID); err != nil {
			return "", record.BikeBody{}, err
		}
		row.ArchivedAt = nil
		return record.KindBikeRestored, record.BikeBody{Changed: []string{"archived"}}, nil
	})
}

// updateBike lets change alter the row and writes it if nobody else did meanwhile. A body that
// names nothing changed means there is nothing to do.
func (s *Bikes) updateBike(ctx context.Context, who record.Actor, tagText string, version int, yours any,
	change func(context.Context, store.Tx, *store.Bike) (kind string, body record.BikeBody, err error),
) (Bike, error) {
	return record.Revise(ctx, s.desk, who, record.Revision[store.Bike, Bike]{
		Operation: "change-bike " + tagText, Version: version, Yours: yours, Tag: record.TagOf,
		Load: func(ctx context.Context, tx store.Tx) (store.Bike, error) { return record.BikeByTag(ctx, tx, tagText) },
		Seen: func(row store.Bike) int { return row.Version },
		Change: func(ctx context.Context, tx store.Tx, row *store.Bike) (*store.Entry, any, error) {
			kind, body, err := change(ctx, tx, row)
			if err != nil || len(body.Changed) == 0 {
				return nil, nil, err
			}
			e := &store.Entry{BikeID: &row.ID, Kind: kind}
			if kind == record.KindBikeArchived || body.CustomerID != nil { // links were given to whoever had it until now
				return e, body, tx.EndLinks(ctx, row.ID, s.desk.Now())
			}
			return e, body, nil
		},
		Save: func(ctx context.Context, tx store.Tx, row *store.Bike) error { return tx.SaveBike(ctx, row) },
		View: newBike,
	})
}
