package httpapi

import (
	"strconv"
	"strings"
	"time"

	"github.com/getkin/kin-openapi/routers"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"earnestpony/internal/shop/record"
)

// What comes with a write that a device kept until it could send it. The contract says which operations take it.
const (
	writtenBy   = "Written-By"
	happenedAt  = "Happened-At"
	clockBehind = "Clock-Behind"
	followsKey  = "Follows"
	lookedOver  = "Looked-Over"
)

// penCookie is where a browser keeps what lets it send for a person who wrote something there.
func penCookie(person uuid.UUID) string {
	return "pony_pen_" + strings.ReplaceAll(person.String(), "-", "")
}

// whoWrites is whoever is signed in or, for what a device kept, whoever wrote it there.
func (a *api) whoWrites(c *gin.Context) (record.Actor, error) {
	ctx, r := c.Request.Context(), c.Request
	who, err := a.Shop.Authenticate(ctx, tokenOf(r))
	author := r.Header.Get(writtenBy)
	if author == "" || err == nil && who.Person.ID.String() == author {
		return who, a.fromAfar(c, err)
	}
	if err != nil && r.Header.Get(happenedAt) == "" { // not kept: done now, by somebody who is not signed in any more
		return who, a.fromAfar(c, err)
	}
	id, bad := uuid.Parse(author)
	if bad != nil || !takesQueued(c) {
		return who, &record.Problem{Kind: record.Conflict, Code: "needs-connection", Message: "This is done by whoever is signed in, with a connection."}
	}
	pen := cookieOf(r, penCookie(id))
	who, err = a.Shop.Author(ctx, id, pen)
	return who, a.fromAfar(c, err)
}

// fromAfar tells a device that was signed out on another one so: what it keeps of the shop goes.
func (a *api) fromAfar(c *gin.Context, err error) error {
	p, refused := err.(*record.Problem) //nolint:errorlint // as it was made
	if !refused || p.Kind != record.NotSignedIn {
		return err
	}
	if forgets, failed := a.Shop.SignedOutFromAfar(c.Request.Context(), cookieOf(c.Request, deviceCookie)); failed != nil || !forgets {
		return err
	}
	c.Header("Signed-Out-From-Afar", "true")
	return err
}

// takesQueued reports whether the contract lets the operation that is asked for be done later than it happened.
func takesQueued(c *gin.Context) bool {
	route, found := c.Value(foundRoute).(*routers.Route)
	return found && route.Operation.Parameters.GetByInAndName("header", writtenBy) != nil
}

// queued reads what came with a write that a device kept.
func (a *api) queued(c *gin.Context) (q record.Queued, err error) {
	if !takesQueued(c) {
		return q, nil
	}
	wrong := func(name string) (record.Queued, error) {
		return record.Queued{}, record.InvalidInput(record.Field{Path: name, Code: "wrong-kind", Message: "What this device sends with it cannot be read."})
	}
	h, query := c.Request.Header, c.Request.URL.Query()
	if text := query.Get("id"); text != "" {
		if q.OwnID, err = uuid.Parse(text); err != nil || q.OwnID.Version() != 7 {
			return wrong("id")
		}
	}
	if q.MadeAs = strings.ToUpper(query.Get("made_as")); q.MadeAs != "" && !record.MadeTag.MatchString(q.MadeAs) {
		return wrong("made_as")
	}
	q.Follows = record.IdempotencyKey(h.Get(followsKey))
	at := h.Get(happenedAt)
	if at == "" {
		return q, nil
	}
	if q.HappenedAt, err = time.Parse(time.RFC3339Nano, at); err != nil {
		return wrong(happenedAt)
	}
	if text := h.Get(clockBehind); text != "" {
		ms, err := strconv.ParseInt(text, 10, 64)
		if err != nil {
			return wrong(clockBehind)
		}
		q.HappenedAt = q.HappenedAt.Add(time.Duration(ms) * time.Millisecond)
	}
	q.LookedOver = h.Get(lookedOver) == "true"
	return q, nil
}
