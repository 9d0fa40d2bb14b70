package contact

import (
	"context"
	"regexp"
	"time"

	"github.com/google/uuid"

	"earnestpony/internal/outside"
	"earnestpony/internal/store"
)

// ReceivedMessage is a message as the simulated gateway saw it.
type ReceivedMessage struct {
	MessageID  uuid.UUID `json:"message_id"`
	ReceivedAt time.Time `json:"received_at"`
	Way        string    `json:"way"`
	Address    string    `json:"address"`
	Body       string    `json:"body"`
	Delivered  bool      `json:"delivered"`
}

// Received returns what the simulated gateway received, newest first.
func (s *Contact) Received(ctx context.Context) ([]ReceivedMessage, error) {
	rows, err := s.desk.Store.Read(ctx).ReceivedList(ctx, receivedShown)
	all := make([]ReceivedMessage, 0, len(rows))
	for _, r := range rows {
		all = append(all, ReceivedMessage{r.MessageID, r.ReceivedAt, r.Way, r.Address, r.Body, r.Delivered})
	}
	return all, err
}

// GatewayMemory is where a simulated gateway remembers what it received: beside the shop's own data, so that
// every process has the same.
func (s *Contact) GatewayMemory() outside.Memory { return gatewayMemory{s} }

type gatewayMemory struct{ *Contact }

// secretAddress is the address of a bike's page in the words of a message.
var secretAddress = regexp.MustCompile(`https?://\S+/o/[A-Za-z0-9_-]{22,}`)

func (g gatewayMemory) Delivered(ctx context.Context, id uuid.UUID) (bool, error) {
	return g.desk.Store.Read(ctx).WasDelivered(ctx, id)
}

func (g gatewayMemory) Keep(ctx context.Context, m outside.Message, delivered bool, at time.Time) error {
	body := m.Body
	if !g.replies { // nobody opens a message here: what would open a bike's page is not kept
		body = secretAddress.ReplaceAllString(body, linkPlace)
	}
	return g.desk.Store.Read(ctx).AddReceived(ctx, &store.Received{MessageID: m.ID, ReceivedAt: at, Way: m.Way, Address: m.Address, Body: body, Delivered: delivered})
}
