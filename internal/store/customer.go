package store

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// CustomerFacts is what may be written down about a customer.
type CustomerFacts struct {
	Name       string `json:"name"`
	Phone      string `json:"phone,omitempty"`
	Email      string `json:"email,omitempty"`
	ContactWay string `json:"contact_way,omitempty"` // message, mail, none; empty is not asked
	Consent    bool   `json:"consent,omitempty"`     // agreed to be told when something is due
	ConsentHow string `json:"consent_how,omitempty"` // in-person, phone, mail, written; empty where nobody noted it
	Notes      string `json:"notes,omitempty"`
}

// Customer owns bikes.
type Customer struct {
	ID uuid.UUID
	CustomerFacts
	Folded     string // what finding looks in
	ConsentAt  *time.Time
	ConsentBy  *uuid.UUID
	ArchivedAt *time.Time
	MergedInto *uuid.UUID // who they are, where they were entered twice
	Version    int
	CreatedAt  time.Time

	Bikes         int    `gorm:"->"` // current bikes; read only
	ConsentByName string `gorm:"->"`
}

const selectCustomers = `select c.*, (select count(*) from bikes b where b.customer_id = c.id and b.archived_at is null) bikes, coalesce(cp.name, '') consent_by_name
	from customers c left join people cp on cp.id = c.consent_by `

// Customer returns one customer.
func (t Tx) Customer(ctx context.Context, id uuid.UUID) (Customer, error) {
	var c Customer
	err := t.db.WithContext(ctx).Raw(selectCustomers+`where c.id = ?`, id).First(&c).Error
	return c, translate(err, "load customer %s", id)
}

// FindCustomers returns customers by name in whom every word is found, all of them for no words, after one of them where that
// is given; and how many there are in all, of more than [MostCounted] one more than that.
func (t Tx) FindCustomers(ctx context.Context, words []string, archived bool, after *uuid.UUID, limit int) ([]Customer, int, error) {
	where, args := contains("c.folded", words)
	where += ` and c.merged_into is null and (c.archived_at is not null) = ?`
	args = append(args, archived)
	db := t.db.WithContext(ctx)
	var total int
	if err := db.Raw(`select count(*) from (select from customers c where `+where+` limit ?) counted`, append(slices.Clone(args), MostCounted+1)...).Scan(&total).Error; err != nil {
		return nil, 0, translate(err, "count customers")
	}
	if after != nil {
		where += ` and (c.name, c.id) > (select name, id from customers where id = ?)`
		args = append(args, *after)
	}
	var found []Customer
	err := db.Raw(selectCustomers+`where `+where+` order by c.name, c.id limit ?`, append(args, limit)...).Scan(&found).Error
	return found, total, translate(err, "find customers")
}

// AddCustomer adds a customer.
func (t Tx) AddCustomer(ctx context.Context, c *Customer) error {
	c.Version = 1
	return translate(gorm.G[Customer](t.db).Create(ctx, c), "add customer")
}

// SaveCustomer writes c if its version is still the one in the database, else [ErrStale].
func (t Tx) SaveCustomer(ctx context.Context, c *Customer) error {
	seen := c.Version
	c.Version++
	result := t.db.WithContext(ctx).Model(&Customer{}).Where("id = ? and (version = ? or not ?)", c.ID, seen, versionsHeld).
		Select("*").Omit("id", "created_at").Updates(c)
	if err := changed(result, "save customer %s", c.ID); err != nil {
		return err
	}
	// Who agrees to be told now may be told now.
	err := t.db.WithContext(ctx).Exec(`update bike_due set recall_at = '1970-01-01' where bike_id in (select id from bikes where customer_id = ?)`, c.ID).Error
	return translate(err, "tell of the bikes of %s again", c.ID)
}

// MergeCustomers has everything that hangs on one customer hang on another, and returns the bikes that went over.
func (t Tx) MergeCustomers(ctx context.Context, into, from uuid.UUID) ([]Bike, error) {
	moved, err := t.BikesOf(ctx, from)
	if err != nil {
		return nil, err
	}
	for _, sql := range []string{`update bikes set customer_id = @into, version = version + 1 where customer_id = @from`,
		`update messages set customer_id = @into where customer_id = @from`, `update customers set merged_into = @into where merged_into = @from`} {
		if err := t.db.WithContext(ctx).Exec(sql, map[string]any{"into": into, "from": from}).Error; err != nil {
			return nil, translate(err, "merge customer %s into %s", from, into)
		}
	}
	return moved, nil
}

// EraseMerged erases what was kept of those who were merged into a customer.
func (t Tx) EraseMerged(ctx context.Context, into uuid.UUID, name string) error {
	err := t.db.WithContext(ctx).Exec(`update customers set name = @name, folded = '', phone = '', email = '', notes = '', contact_way = '', consent = false, consent_how = '', consent_at = null,
		version = version + 1 where merged_into = @into`, map[string]any{"into": into, "name": name}).Error
	return translate(err, "erase who was merged into %s", into)
}

// EraseWords erases what was said to an owner and by them, withdraws the links to their bikes, and removes the
// pictures of their bikes and jobs where photos is true.
func (t Tx) EraseWords(ctx context.Context, customer uuid.UUID, at time.Time, photos bool) error {
	statements := []string{
		`update messages set address = '', body = 'erased', state = case when state in ('draft', 'queued') then 'withdrawn' else state end,
			next_try_at = null, ended_at = coalesce(ended_at, @at), version = version + 1 where customer_id = @customer`,
		`delete from gateway_received where message_id in (select id from messages where customer_id = @customer)`,
		`update owner_reports set note = case when km is null and event = '' then 'erased' else '' end where bike_id in (select id from bikes where customer_id = @customer)`,
		`update links set withdrawn_at = @at where withdrawn_at is null and bike_id in (select id from bikes where customer_id = @customer)`,
		`update bikes set notes = '', version = version + 1 where customer_id = @customer and notes <> ''`,
		`update jobs set intake = intake - 'reports' - 'wants', version = version + 1 where bike_id in (select id from bikes where customer_id = @customer)`,
		`delete from idempotent_writes where answer::text like '%' || @customer || '%'`,
		`delete from ride_drafts where bike_id in (select id from bikes where customer_id = @customer)`,
	}
	if photos {
		statements = append(statements,
			`delete from bike_photos where bike_id in (select id from bikes where customer_id = @customer)`,
			`delete from job_photos where job_id in (select j.id from jobs j join bikes b on b.id = j.bike_id where b.customer_id = @customer)`)
	}
	for _, sql := range statements {
		if err := t.db.WithContext(ctx).Exec(sql, map[string]any{"customer": customer.String(), "at": at}).Error; err != nil {
			return translate(err, "erase what was said to and by %s", customer)
		}
	}
	return nil
}

// CustomersNamed returns the current customers of exactly that name.
func (t Tx) CustomersNamed(ctx context.Context, name string) ([]Customer, error) {
	var rows []Customer
	err := t.db.WithContext(ctx).Raw(`select * from customers where name = ? and archived_at is null limit 3`, name).Scan(&rows).Error
	return rows, translate(err, "find customers named %q", name)
}

// EachCustomer goes through all current customers by name.
func (t Tx) EachCustomer(ctx context.Context, do func(Customer) error) error {
	var rows []Customer
	err := t.db.WithContext(ctx).Raw(`select * from customers where archived_at is null order by name, id`).Scan(&rows).Error
	if err != nil {
		return translate(err, "list customers")
	}
	for _, c := range rows {
		if err := do(c); err != nil {
			return err
		}
	}
	return nil
}
