package httpapi

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"
	"os"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"earnestpony/internal/calc"
	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/shop/record"
)

// statusOf is the status that each kind of problem is answered with.
var statusOf = map[record.Kind]int{
	record.Invalid:     http.StatusUnprocessableEntity,
	record.Missing:     http.StatusNotFound,
	record.Conflict:    http.StatusConflict,
	record.NotSignedIn: http.StatusUnauthorized,
	record.TooSoon:     http.StatusTooManyRequests,
	record.Forbidden:   http.StatusForbidden,
}

// fail answers with what is wrong: problems and refusals as they are worded, everything else as a
// bare 500 whose cause is in the log under the request's id.
func fail(c *gin.Context, err error) {
	var p *record.Problem
	var refused *calc.Refusal
	switch {
	case errors.As(err, &p):
		out := apigen.Problem{Status: statusOf[p.Kind], Code: p.Code, Title: p.Message}
		if len(p.Fields) > 0 {
			out.Fields = faults(p.Fields)
		}
		if p.RetryAfter > 0 {
			seconds := int((p.RetryAfter + time.Second - 1) / time.Second)
			out.RetryAfterSeconds = &seconds
			c.Header("Retry-After", strconv.Itoa(seconds))
		}
		if p.Theirs != nil {
			out.Theirs = &p.Theirs
			if p.Yours != nil {
				out.Yours = &p.Yours
			}
		}
		write(c, out)
	case errors.As(err, &refused):
		write(c, apigen.Problem{Status: http.StatusUnprocessableEntity, Code: "invalid-input", Title: "The input cannot be computed.", Fields: faults(refused.Fields)})
	case isTooLarge(err):
		refuseTooLarge(c)
	case errors.Is(c.Request.Context().Err(), context.Canceled):
		c.Abort() // whoever asked has gone
	case errors.Is(err, os.ErrDeadlineExceeded) && !record.DatabaseAway(err):
		refuseTooSlow(c)
	case record.DatabaseAway(err):
		slog.ErrorContext(c.Request.Context(), "the database cannot be reached", "err", err, "request_id", requestID(c))
		c.Header("Retry-After", "2")
		refuse(c, http.StatusServiceUnavailable, "database-away", "The shop's database cannot be reached; what you typed stays on this screen.")
	default:
		slog.ErrorContext(c.Request.Context(), "request failed", "err", err, "request_id", requestID(c))
		refuse(c, http.StatusInternalServerError, "internal", "Something went wrong on our side. Nothing was saved; try again.")
	}
}

// refuseTooSlow answers a request whose body did not come in time.
func refuseTooSlow(c *gin.Context) {
	c.Header("Connection", "close") // what is left of it must not be taken for the next request
	refuse(c, http.StatusRequestTimeout, "too-slow", "What was sent did not arrive in time. Send it again.")
}

// refuse answers with a problem of the web's own.
func refuse(c *gin.Context, status int, code, sentence string, fields ...record.Field) {
	p := apigen.Problem{Status: status, Code: code, Title: sentence}
	if len(fields) > 0 {
		p.Fields = faults(fields)
	}
	write(c, p)
}

func write(c *gin.Context, p apigen.Problem) {
	p.Type = "about:blank"
	id := requestID(c)
	p.RequestId = &id
	body, err := json.Marshal(p)
	if err != nil { // only for a version that cannot be written as JSON, and all of ours can
		slog.Error("write problem", "err", err)
	}
	c.Abort()
	c.Data(p.Status, "application/problem+json", body)
}

func faults(fields []record.Field) *[]apigen.FieldFault {
	fields = fields[:min(len(fields), maxFaults)]
	out := make([]apigen.FieldFault, len(fields))
	for i, f := range fields {
		out[i] = apigen.FieldFault{Path: f.Path, Code: f.Code, Message: f.Message}
	}
	return &out
}
