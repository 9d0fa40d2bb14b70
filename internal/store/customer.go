package store

import (
	"context"
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
	Notes      string `json:"notes,omitempty"`
}

// Customer owns bikes.
type Customer struct {
	ID uuid.UUID
	CustomerFacts
	Folded     string // what finding looks in
	ArchivedAt *time.Time
	Version    int
	CreatedAt  time.Time

	Bikes int `gorm:"->"` // current bikes; read only
}

const selectCustomers = `select c.*, (select count(*) from bikes b where b.customer_id = c.id and b.archived_at is null) bikes from customers c `

// Customer returns one customer.
func (t Tx) Customer(ctx context.Context, id uuid.UUID) (Customer, error) {
	var c Customer
	err := t.db.WithContext(ctx).Raw(selectCustomers+`where c.id = ?`, id).First(&c).Error
	return c, translate(err, "load customer %s", id)
}

// FindCustomers returns customers by name in whom every word is found; all of them for no words.
func (t Tx) FindCustomers(ctx context.Context, words []string, archived bool, limit int) ([]Customer, error) {
	where, args := contains("c.folded", words)
	args = append(args, archived, limit)
	var found []Customer
	err := t.db.WithContext(ctx).Raw(selectCustomers+`where `+where+` and (c.archived_at is not null) = ? order by c.name, c.id limit ?`, args...).Scan(&found).Error
	return found, translate(err, "find customers")
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
	result := t.db.WithContext(ctx).Model(&Customer{}).Where("id = ? and version = ?", c.ID, seen).
		Select("*").Omit("id", "created_at").Updates(c)
	return changed(result, "save customer %s", c.ID)
}
