package httpapi

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"

	"earnestpony/internal/formats"
	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/live"
	"earnestpony/internal/shop"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
)

// Options is what a handler is built from.
type Options struct {
	Shop *shop.Service
	Hub  *live.Hub
	// Ready reports why the server cannot do its work, or nil.
	Ready func(context.Context) error
	// Page is the built page.
	Page fs.FS
	// PublicURL is where browsers find the server when something stands in front of it; https makes
	// cookies travel only over TLS. Nil: as the request says.
	PublicURL *url.URL
	// Secure says that browsers speak to this process itself over TLS, and Names are those of its certificate.
	Secure bool
	Names  []string
	// Heartbeat is how often a stream says that it is still there, and looks whether who reads it is
	// still signed in; 20 s where it is zero.
	Heartbeat time.Duration
}

// api implements the contract.
type api struct {
	Options
}

var _ apigen.StrictServerInterface = (*api)(nil)

// Names under which a request carries what was found out about it.
const (
	requestIDKey = "pony.request-id"
	needsPerson  = "pony.needs-person"
	operationID  = "pony.operation"
	wholeBody    = "pony.whole-body" // before it was cut to what a request may carry
)

type actorKey struct{}

// The cookies: of the session, and of the device, which outlives it.
const (
	cookieName   = "pony_session"
	deviceCookie = "pony_device"
	deviceKept   = 400 * 24 * time.Hour // as long as browsers keep any
)

// New returns the handler of everything: the contract, the page, and the two health addresses.
func New(o Options) (http.Handler, error) {
	gin.SetMode(gin.ReleaseMode)
	k, err := readContract()
	if err != nil {
		return nil, err
	}
	a := &api{o}
	r := gin.New()
	r.ContextWithFallback = true // strict handlers get *gin.Context as their context
	r.HandleMethodNotAllowed = true
	if err := r.SetTrustedProxies(nil); err != nil {
		return nil, err
	}
	crossOrigin := http.NewCrossOriginProtection()
	if o.PublicURL != nil {
		if err := crossOrigin.AddTrustedOrigin(o.PublicURL.Scheme + "://" + o.PublicURL.Host); err != nil {
			return nil, fmt.Errorf("public address: %w", err)
		}
	}
	r.Use(logged, guarded, a.headers, a.ourHost, func(c *gin.Context) {
		if err := crossOrigin.Check(c.Request); err != nil {
			refuse(c, http.StatusForbidden, "cross-origin", "Writes from other sites are refused.")
		}
	})
	r.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok\n") })
	r.GET("/readyz", deadlines(fastest), func(c *gin.Context) {
		if err := o.Ready(c.Request.Context()); err != nil {
			if c.Request.Context().Err() != nil && errors.Is(err, context.Canceled) { // whoever asked has gone
				c.Abort()
				return
			}
			slog.WarnContext(c.Request.Context(), "not ready", "err", err)
			c.String(http.StatusServiceUnavailable, "not ready\n")
			return
		}
		c.String(http.StatusOK, "ready\n")
	})
	strict := apigen.NewStrictHandlerWithOptions(a, []apigen.StrictMiddlewareFunc{sane}, apigen.StrictGinServerOptions{
		RequestErrorHandlerFunc: func(c *gin.Context, err error) {
			refuse(c, http.StatusBadRequest, "not-json", "What was sent cannot be read.")
		},
		HandlerErrorFunc: fail,
		ResponseErrorHandlerFunc: func(c *gin.Context, err error) {
			if !c.Writer.Written() { // to a stream whose reader left there is nothing to say
				fail(c, err)
			}
		},
	})
	apigen.RegisterHandlersWithOptions(r.Group(k.base, k.find, a.signedIn, k.check, inTurn, withETag), strict, apigen.GinServerOptions{
		ErrorHandler: func(c *gin.Context, err error, status int) {
			refuse(c, status, "invalid-input", "Something in this address is not right.")
		},
	})
	r.GET("/calendar/:file", deadlines(usual), a.calendar)
	r.HEAD("/calendar/:file", deadlines(usual), a.calendar)
	r.GET("/robots.txt", func(c *gin.Context) { c.String(http.StatusOK, "User-agent: *\nDisallow: /\n") })
	r.GET("/schemas/bike-passport.json", func(c *gin.Context) {
		c.Data(http.StatusOK, "application/schema+json", formats.PassportSchema)
	})
	r.NoMethod(func(c *gin.Context) {
		refuse(c, http.StatusMethodNotAllowed, "method-not-allowed", "This address does not take "+c.Request.Method+".")
	})
	r.NoRoute(deadlines(slow), page(o.Page))
	// The stream of notices is none of these: nothing may gather what it says.
	compressed, err := gzhttp.NewWrapper(gzhttp.ContentTypes([]string{"application/json", "application/problem+json", "application/schema+json", "text/csv", "text/calendar"}))
	if err != nil {
		return nil, fmt.Errorf("compression: %w", err)
	}
	return compressed(r), nil
}

func requestID(c *gin.Context) string { return c.GetString(requestIDKey) }

// logged gives each request an id and the log a line about it.
func logged(c *gin.Context) {
	began := time.Now()
	id := rand.Text()[:12]
	c.Set(requestIDKey, id)
	c.Header("X-Request-Id", id)
	c.Next()
	level := slog.LevelInfo
	if c.Writer.Status() >= http.StatusInternalServerError {
		level = slog.LevelError
	}
	slog.Log(c.Request.Context(), level, "request", "request_id", id, "method", c.Request.Method, "path", loggedPath(c),
		"status", c.Writer.Status(), "took_ms", float64(time.Since(began).Microseconds())/1000)
}

// loggedPath is the address that was asked for; a secret one without its secret.
func loggedPath(c *gin.Context) string {
	path := c.Request.URL.Path
	for _, secret := range []string{"/o/", "/calendar/", "/api/v1/owner-page/"} {
		if strings.HasPrefix(path, secret) {
			return secret + "…"
		}
	}
	return path
}

// guarded turns a panic into an answer that has an id which the log has too.
var guarded = gin.CustomRecoveryWithWriter(nil, func(c *gin.Context, panicked any) {
	slog.ErrorContext(c.Request.Context(), "panic", "panic", panicked, "request_id", requestID(c), "path", c.FullPath())
	refuse(c, http.StatusInternalServerError, "internal", "Something went wrong on our side. Nothing was saved; try again.")
})

// headers keeps the page to what ships with it, and answers to whom they are for.
func (a *api) headers(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("X-Robots-Tag", "noindex, nofollow")
	if a.PublicURL != nil && a.PublicURL.Scheme == "https" {
		h.Set("Strict-Transport-Security", "max-age=31536000")
	}
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store")
	}
	h.Set("Content-Security-Policy", "default-src 'self'; img-src 'self' data: blob:; frame-ancestors 'none'; base-uri 'self'; form-action 'self'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
}

// signedIn finds out who asks, and refuses where somebody must be signed in and nobody is, and who may not do this.
func (a *api) signedIn(c *gin.Context) {
	if !c.GetBool(needsPerson) {
		return
	}
	who, err := a.whoWrites(c)
	if err == nil {
		err = people.May(c.GetString(operationID), who)
	}
	var queued record.Queued
	if err == nil {
		queued, err = a.queued(c)
	}
	if err != nil {
		if c.Request.ContentLength != 0 { // the body is not waited for, and so cannot be passed over
			c.Header("Connection", "close")
		}
		fail(c, err)
		return
	}
	key, ok := keyOf(c.Request)
	if !ok {
		refuse(c, http.StatusBadRequest, "invalid-input", "The Idempotency-Key is 8 to 100 plain characters.")
		return
	}
	who.Key = key
	c.Request = c.Request.WithContext(record.WithQueued(context.WithValue(c.Request.Context(), actorKey{}, who), queued))
}

// actor returns who asks; only called where the contract asks for somebody signed in.
func actor(ctx context.Context) record.Actor {
	who, ok := ctx.Value(actorKey{}).(record.Actor)
	if !ok {
		panic("a handler that writes is not behind the sign-in")
	}
	return who
}

// keyOf is the key that the sender gave to a write; ok is false for one that cannot be kept.
func keyOf(r *http.Request) (key record.IdempotencyKey, ok bool) {
	text := r.Header.Get("Idempotency-Key")
	if text == "" {
		return "", true
	}
	plain := len(text) >= 8 && len(text) <= 100
	for _, b := range []byte(text) {
		plain = plain && b >= ' ' && b < 0x7f
	}
	return record.IdempotencyKey(text), plain
}

func tokenOf(r *http.Request) people.Token { return cookieOf(r, cookieName) }

func cookieOf(r *http.Request, name string) people.Token {
	cookie, err := r.Cookie(name)
	if errors.Is(err, http.ErrNoCookie) {
		return ""
	}
	return people.Token(cookie.Value)
}

// valueOr returns what v points at, or otherwise.
func valueOr[T any](v *T, otherwise T) T {
	if v == nil {
		return otherwise
	}
	return *v
}
