package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"io"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
)

// IsAway reports whether an error says that the database cannot be reached or does not answer in time, and
// nothing about what was asked of it. Whether a unit of work was kept is then not known.
func IsAway(err error) bool {
	if err == nil {
		return false
	}
	if refused, is := errors.AsType[*pgconn.PgError](err); is {
		// Its own words for: shutting down, starting, out of connections or memory, connection lost, cut short.
		return strings.HasPrefix(refused.Code, "57P") || strings.HasPrefix(refused.Code, "53") || strings.HasPrefix(refused.Code, "08") ||
			strings.HasPrefix(refused.Code, "58") || refused.Code == "57014" || refused.Code == "25P03"
	}
	if _, is := errors.AsType[*pgconn.ConnectError](err); is {
		return true
	}
	if _, is := errors.AsType[net.Error](err); is {
		return true
	}
	return errors.Is(err, context.DeadlineExceeded) || errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) || errors.Is(err, driver.ErrBadConn) ||
		errors.Is(err, net.ErrClosed) || errors.Is(err, sql.ErrConnDone) || strings.Contains(err.Error(), "conn closed") || strings.Contains(err.Error(), "closed pool") || strings.Contains(err.Error(), "database is closed")
}
