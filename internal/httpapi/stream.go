package httpapi

import (
	"context"
	"fmt"
	"io"
	"time"

	"earnestpony/internal/httpapi/apigen"
)

// usualHeartbeat keeps whatever stands between from closing a stream that has nothing to say.
const usualHeartbeat = 20 * time.Second

// StreamEvents tells the page what changes. The generated server flushes after each piece.
func (a *api) StreamEvents(ctx context.Context, _ apigen.StreamEventsRequestObject) (apigen.StreamEventsResponseObject, error) {
	token := tokenOf(request(ctx))
	heartbeat := a.Heartbeat
	if heartbeat == 0 {
		heartbeat = usualHeartbeat
	}
	reader, writer := io.Pipe()
	changes, end := a.Hub.Subscribe()
	go func() {
		defer end()
		defer func() { _ = writer.Close() }() // never fails
		tick := time.NewTicker(heartbeat)
		defer tick.Stop()
		_, err := io.WriteString(writer, "retry: 1000\nevent: ready\ndata: {}\n\n")
		for err == nil {
			select {
			case <-ctx.Done():
				return
			case change, open := <-changes:
				if !open {
					return
				}
				_, err = fmt.Fprintf(writer, "event: change\ndata: %s\n\n", change)
			case <-tick.C:
				if err := a.Shop.StillSignedIn(ctx, token); err != nil {
					return // the page asks again, and hears who may
				}
				_, err = io.WriteString(writer, ": still here\n\n")
			}
		}
	}()
	return apigen.StreamEvents200TexteventStreamResponse{Body: reader}, nil
}
