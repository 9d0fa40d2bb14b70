package bikes

import (
	"context"
	"net/mail"
	"time"

	"github.com/google/uuid"

	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// Customer owns bikes.
type Customer struct {
	ID       uuid.UUID            `json:"id"`
	Facts    record.CustomerFacts `json:"facts"`
	Archived bool                 `json:"archived"`
	Version  int                  `json:"version"`
	Bikes    int                  `json:"bikes"` // current ones
	// Consented is when and to whom they agreed to be contacted; nil where nobody noted it.
	Consented  *Consented `json:"consented,omitempty"`
	MergedInto *uuid.UUID `json:"merged_into,omitempty"` // who they are, where they were entered twice
}

// Consented is when somebody agreed to be contacted, and who of the shop heard it.
type Consented struct {
	At time.Time `json:"at"`
	By string    `json:"by,omitempty"`
}

// CustomerWithBikes is a customer and all the bikes, current ones first.
type CustomerWithBikes struct {
	Customer Customer  `json:"customer"`
	Bikes    []BikeRow `json:"bikes"`
}

func NewCustomer(c store.Customer) Customer {
	v := Customer{ID: c.ID, Facts: c.CustomerFacts, Archived: c.ArchivedAt != nil, Version: c.Version, Bikes: c.Bikes, MergedInto: c.MergedInto}
	if c.ConsentAt != nil && c.Consent {
		v.Consented = &Consented{*c.ConsentAt, c.ConsentByName}
	}
	return v
}

// consented notes when and to whom a customer agreed to be contacted, where they do now and did not, or in another way.
func (s *Bikes) consented(who record.Actor, row *store.Customer, before record.CustomerFacts) {
	switch f := row.CustomerFacts; {
	case !f.Consent:
		row.ConsentAt, row.ConsentBy = nil, nil
	case !before.Consent || f.ConsentHow != before.ConsentHow:
		now := s.desk.Now()
		row.ConsentAt, row.ConsentBy, row.ConsentByName = &now, &who.Person.ID, who.Person.Name
	}
}

// CheckCustomer tidies facts in place and says what is wrong with them.
func CheckCustomer(f *record.CustomerFacts) error {
	return customerFaults(f, "facts").Err()
}

// customerFaults is CheckCustomer where the facts stand under another name.
func customerFaults(f *record.CustomerFacts, under string) (fields record.Faults) {
	fault := fields.Under(under)
	record.Bounds{Fault: fault}.Customer(f)
	if f.Name == "" {
		fault("name", "missing", "The name is missing.")
	}
	if f.Email != "" {
		if a, err := mail.ParseAddress(f.Email); err != nil || a.Address != f.Email {
			fault("email", "not-an-address", "This is not an email address: it looks like name@example.com.")
		}
	}
	if record.ByMail(f.ContactWay) && f.Email == "" {
		fault("email", "missing", "For contact by email an email address is needed.")
	}
	if f.ContactWay == "message" && f.Phone == "" {
		fault("phone", "missing", "For contact by message a phone number is needed.")
	}
	return fields
}

func NormaliseCustomer(f record.CustomerFacts) string {
	return record.Normalise(f.Name + " " + f.Phone + " " + f.Email)
}

// CustomerPage is a page of a list of customers.
type CustomerPage struct {
	Customers []Customer `json:"customers"`
	Total     int        `json:"total"` // in all; of many, one more than are counted
	Next      *uuid.UUID `json:"next,omitempty"`
}

// FindCustomers returns customers in whose name, phone or mail every word is found, page by page.
func (s *Bikes) FindCustomers(ctx context.Context, q string, archived bool, after *uuid.UUID, limit int) (CustomerPage, error) {
	rows, total, err := s.desk.Store.Read(ctx).FindCustomers(ctx, record.SearchWords(q), archived, after, limit+1)
	if err != nil {
		return CustomerPage{}, err
	}
	page := CustomerPage{Customers: make([]Customer, 0, len(rows)), Total: total}
	if len(rows) > limit {
		rows = rows[:limit]
		page.Next = &rows[limit-1].ID
	}
	for _, c := range rows {
		page.Customers = append(page.Customers, NewCustomer(c))
	}
	return page, nil
}

// Customer returns a customer and the bikes.
func (s *Bikes) Customer(ctx context.Context, id uuid.UUID) (CustomerWithBikes, error) {
	tx := s.desk.Store.Read(ctx)
	c, err := tx.Customer(ctx, id)
	if record.IsNotFound(err) {
		return CustomerWithBikes{}, record.NotFound("customer", "customer-not-found")
	}
	if err != nil {
		return CustomerWithBikes{}, err
	}
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return CustomerWithBikes{}, err
	}
	bikes, err := tx.BikesOf(ctx, id)
	if err != nil {
		return CustomerWithBikes{}, err
	}
	rows, err := newBikeRows(h, bikes)
	return CustomerWithBikes{Customer: NewCustomer(c), Bikes: rows}, err
}

// AddCustomer adds a customer.
func (s *Bikes) AddCustomer(ctx context.Context, who record.Actor, f record.CustomerFacts) (Customer, error) {
	if err := CheckCustomer(&f); err != nil {
		return Customer{}, err
	}
	return record.Idempotent(ctx, s.desk, who, "add-customer", f, func(ctx context.Context, tx store.Tx) (Customer, error) { return s.AddCustomerTx(ctx, tx, who, f) })
}

func (s *Bikes) AddCustomerTx(ctx context.Context, tx store.Tx, who record.Actor, f record.CustomerFacts) (Customer, error) {
	id, err := uuid.NewV7()
	if err != nil {
		return Customer{}, err
	}
	row := store.Customer{ID: id, CustomerFacts: f, Folded: NormaliseCustomer(f), CreatedAt: s.desk.Now()}
	s.consented(who, &row, record.CustomerFacts{})
	if err := tx.AddCustomer(ctx, &row); err != nil {
		return Customer{}, err
	}
	e := store.Entry{CustomerID: &id, Kind: record.KindCustomerAdded}
	return NewCustomer(row), s.desk.Append(ctx, tx, who, &e, record.CustomerBody{}, "")
}

// ChangeCustomer writes new facts over the version that the sender saw.
func (s *Bikes) ChangeCustomer(ctx context.Context, who record.Actor, id uuid.UUID, version int, f record.CustomerFacts) (Customer, error) {
	if err := CheckCustomer(&f); err != nil {
		return Customer{}, err
	}
	return s.updateCustomer(ctx, who, id, version, f, func(row *store.Customer) (string, []string, error) {
		before := row.CustomerFacts
		changed, err := record.ChangedFields(before, f)
		row.CustomerFacts, row.Folded = f, NormaliseCustomer(f)
		s.consented(who, row, before)
		return record.KindCustomerChanged, changed, err
	})
}

// ArchiveCustomer puts a customer who has no current bikes away, or takes one back out.
func (s *Bikes) ArchiveCustomer(ctx context.Context, who record.Actor, id uuid.UUID, version int, archived bool) (Customer, error) {
	return s.updateCustomer(ctx, who, id, version, nil, func(row *store.Customer) (string, []string, error) {
		if archived == (row.ArchivedAt != nil) {
			return "", nil, nil
		}
		if !archived {
			row.ArchivedAt = nil
			return record.KindCustomerRestored, []string{"archived"}, nil
		}
		if row.Bikes > 0 {
			return "", nil, &record.Problem{Kind: record.Conflict, Code: "has-bikes", Message: "This customer still has bikes here. Archive those or give them to somebody else first."}
		}
		now := s.desk.Now()
		row.ArchivedAt = &now
		return record.KindCustomerArchived, []string{"archived"}, nil
	})
}

// updateCustomer lets change alter the row and writes it if nobody else did meanwhile. change
// returns the kind of entry and the names of what it changed; none means there is nothing to do.
func (s *Bikes) updateCustomer(ctx context.Context, who record.Actor, id uuid.UUID, version int, yours any, change func(*store.Customer) (string, []string, error)) (Customer, error) {
	return record.Revise(ctx, s.desk, who, record.Revision[store.Customer, Customer]{
		Operation: "change-customer " + id.String(), Version: version, Yours: yours,
		Load: func(ctx context.Context, tx store.Tx) (store.Customer, error) {
			row, err := tx.Customer(ctx, id)
			if record.IsNotFound(err) {
				return row, record.NotFound("customer", "customer-not-found")
			}
			return row, err
		},
		Seen: func(row store.Customer) int { return row.Version },
		Change: func(_ context.Context, _ store.Tx, row *store.Customer) (*store.Entry, any, error) {
			kind, changed, err := change(row)
			if err != nil || len(changed) == 0 {
				return nil, nil, err
			}
			return &store.Entry{CustomerID: &id, Kind: kind}, record.CustomerBody{Changed: changed}, nil
		},
		Save: func(ctx context.Context, tx store.Tx, row *store.Customer) error { return tx.SaveCustomer(ctx, row) },
		View: func(_ context.Context, _ store.Tx, row store.Customer) (Customer, error) {
			return NewCustomer(row), nil
		},
	})
}
