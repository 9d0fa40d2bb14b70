package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// Recalls is how and when owners are told what is due.
type Recalls struct {
	ByItself  bool     `json:"by_itself"` // drafts are sent without a person
	From      string   `json:"from"`      // the first minute of the day at which an owner is told, 09:00
	Until     string   `json:"until"`
	Closed    []string `json:"closed"`     // weekdays: sunday
	ClosedOn  []string `json:"closed_on"`  // days: 2026-12-25
	EveryDays int      `json:"every_days"` // at most one for a bike in that time
	Text      string   `json:"text"`
}

// Message is something that an owner is told about a bike.
type Message struct {
	ID         uuid.UUID
	BikeID     uuid.UUID
	CustomerID uuid.UUID
	State      MessageState
	Way        string
	Address    string
	Body       string
	Codes      []string `gorm:"serializer:json"`
	CreatedAt  time.Time
	QueuedAt   *time.Time
	QueuedBy   *uuid.UUID
	Tries      int
	NextTryAt  *time.Time
	LastError  string
	EndedAt    *time.Time
	Moot       bool // withdrawn by itself: it had become pointless, as LastError says
	Version    int
}

// MessageView is a message as it is listed.
type MessageView struct {
	Message
	TagNumber int
	OwnerName string
	SentBy    *string
}

const selectMessages = `select m.*, b.tag_number, c.name owner_name, p.name sent_by
	from messages m join bikes b on b.id = m.bike_id join customers c on c.id = m.customer_id left join people p on p.id = m.queued_by `

// Messages returns a page of all messages, drafts before what became of others, each newest first, from the one past after;
// and how many there are, at most one more than [MostCounted].
func (t Tx) Messages(ctx context.Context, after *uuid.UUID, limit int) ([]MessageView, int, error) {
	db := t.db.WithContext(ctx)
	var total int
	if err := db.Raw(`select count(*) from (select from messages limit ?) counted`, MostCounted+1).Scan(&total).Error; err != nil {
		return nil, 0, translate(err, "count messages")
	}
	where, args := ``, map[string]any{"draft": MessageDraft, "limit": limit}
	if after != nil {
		where = `where (m.state = @draft, m.created_at, m.id) < (select state = @draft, created_at, id from messages where id = @after) `
		args["after"] = *after
	}
	var rows []MessageView
	err := db.Raw(selectMessages+where+`order by m.state = @draft desc, m.created_at desc, m.id desc limit @limit`, args).Scan(&rows).Error
	return rows, total, translate(err, "list messages")
}

// MessagesOf returns every message about a bike, newest first.
func (t Tx) MessagesOf(ctx context.Context, bike uuid.UUID) ([]MessageView, error) {
	var rows []MessageView
	err := t.db.WithContext(ctx).Raw(selectMessages+`where m.bike_id = ? order by m.created_at desc, m.id desc`, bike).Scan(&rows).Error
	return rows, translate(err, "list messages of a bike")
}

// MessagesTo returns what a customer was told or is to be told, the newest first.
func (t Tx) MessagesTo(ctx context.Context, customer uuid.UUID, limit int) ([]MessageView, error) {
	var rows []MessageView
	err := t.db.WithContext(ctx).Raw(selectMessages+`where m.customer_id = ? order by m.created_at desc, m.id desc limit ?`, customer, limit).Scan(&rows).Error
	return rows, translate(err, "list messages to customer %s", customer)
}

// Message returns one message.
func (t Tx) Message(ctx context.Context, id uuid.UUID) (MessageView, error) {
	var m MessageView
	err := t.db.WithContext(ctx).Raw(selectMessages+`where m.id = ?`, id).First(&m).Error
	return m, translate(err, "load message %s", id)
}

// AddMessage adds a draft; [ErrTaken] where the bike has one that is not sent yet.
func (t Tx) AddMessage(ctx context.Context, m *Message) error {
	m.Version = 1
	return translate(gorm.G[Message](t.db).Create(ctx, m), "add message")
}

// SaveMessage writes m if its version is still the one in the database, else [ErrStale].
func (t Tx) SaveMessage(ctx context.Context, m *Message) error {
	return saveVersioned(ctx, t, m, m.ID, &m.Version, []string{"id", "bike_id", "created_at"}, "save message %s", m.ID)
}

// ToRecall returns bikes that are due and whose owner may be told of it from a time before now on; whether the
// owner is told at all is for the caller to see.
func (t Tx) ToRecall(ctx context.Context, now time.Time, limit int) ([]uuid.UUID, error) {
	var ids []uuid.UUID
	err := t.db.WithContext(ctx).Raw(`select bike_id from bike_due where state >= 2 and recall_at <= ? and requested_rev = built_rev order by recall_at limit ?`, now, limit).Scan(&ids).Error
	return ids, translate(err, "list bikes to recall")
}

// RecallFrom sets from when on a bike's owner may be told again.
func (t Tx) RecallFrom(ctx context.Context, bike uuid.UUID, at time.Time) error {
	return translate(t.db.WithContext(ctx).Exec(`update bike_due set recall_at = ? where bike_id = ?`, at, bike).Error, "set when to tell of bike %s", bike)
}

// Unsent returns messages that nobody sent yet, those that go out by themselves among them.
func (t Tx) Unsent(ctx context.Context) ([]Message, error) {
	rows, err := gorm.G[Message](t.db).Where("state = 'draft' or state = 'queued' and queued_by is null and tries = 0").Order("created_at").Find(ctx)
	return rows, translate(err, "list messages that are not sent")
}

// LastTold is when a bike's owner was last told something, or something was drafted that somebody might send; nil when
// never.
func (t Tx) LastTold(ctx context.Context, bike uuid.UUID) (*time.Time, error) {
	var row struct{ At *time.Time }
	err := t.db.WithContext(ctx).Raw(`select max(created_at) at from messages where bike_id = ? and not moot`, bike).Scan(&row).Error
	return row.At, translate(err, "look when the owner of %s was told", bike)
}

// ClaimMessages takes messages whose time has come to be tried, so that no other process tries them until the
// lease is over.
func (t Tx) ClaimMessages(ctx context.Context, now, lease time.Time, limit int) ([]Message, error) {
	var rows []Message
	err := t.db.WithContext(ctx).Raw(`
		update messages set next_try_at = @lease, tries = tries + 1, version = version + 1
		where id in (select id from messages where state = 'queued' and next_try_at <= @now order by next_try_at limit @limit for update skip locked)
		returning *`, map[string]any{"now": now, "lease": lease, "limit": limit}).Scan(&rows).Error
	return rows, translate(err, "claim messages")
}

// WithdrawMessages takes back what a customer was not told yet.
func (t Tx) WithdrawMessages(ctx context.Context, customer uuid.UUID, at time.Time) error {
	err := t.db.WithContext(ctx).Exec(`update messages set state = 'withdrawn', next_try_at = null, ended_at = ?, version = version + 1
		where customer_id = ? and state in ('draft', 'queued')`, at, customer).Error
	return translate(err, "withdraw messages of %s", customer)
}

// CustomersAt returns the customers who are told at an address.
func (t Tx) CustomersAt(ctx context.Context, address string) ([]Customer, error) {
	var rows []Customer
	err := t.db.WithContext(ctx).Raw(`select * from customers where (phone = @at and contact_way = 'message' or lower(email) = lower(@at) and contact_way = 'mail')`,
		map[string]any{"at": address}).Scan(&rows).Error
	return rows, translate(err, "find who is told at an address")
}

// Received is a message as the simulated gateway saw it.
type Received struct {
	MessageID  uuid.UUID
	ReceivedAt time.Time
	Way        string
	Address    string
	Body       string
	Delivered  bool
	Number     int64 `gorm:"->"`
}

// TableName says whose memory it is.
func (Received) TableName() string { return "gateway_received" }

// AddReceived notes what the simulated gateway received.
func (t Tx) AddReceived(ctx context.Context, r *Received) error {
	return translate(gorm.G[Received](t.db).Create(ctx, r), "note what the gateway received")
}

// ReceivedList returns what the simulated gateway received, newest first.
func (t Tx) ReceivedList(ctx context.Context, limit int) ([]Received, error) {
	var rows []Received
	err := t.db.WithContext(ctx).Raw(`select * from gateway_received order by number desc limit ?`, limit).Scan(&rows).Error
	return rows, translate(err, "list what the gateway received")
}

// WasDelivered reports whether the simulated gateway delivered a message.
func (t Tx) WasDelivered(ctx context.Context, id uuid.UUID) (bool, error) {
	var row struct{ Yes bool }
	err := t.db.WithContext(ctx).Raw(`select exists (select from gateway_received where message_id = ? and delivered) yes`, id).Scan(&row).Error
	return row.Yes, translate(err, "look what the gateway delivered")
}
