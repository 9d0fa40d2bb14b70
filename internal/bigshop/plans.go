package bigshop

import (
	"cmp"
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
)

// Slow remembers the slowest call of each statement, as a tracer of the database's connections.
type Slow struct {
	mu   sync.Mutex
	most map[string]call
}

type call struct {
	sql  string
	args []any
	took time.Duration
}

type startedKey struct{}

type started struct {
	call
	at time.Time
}

// TraceQueryStart notes when a statement began.
func (*Slow) TraceQueryStart(ctx context.Context, _ *pgx.Conn, d pgx.TraceQueryStartData) context.Context {
	return context.WithValue(ctx, startedKey{}, started{call{sql: d.SQL, args: d.Args}, time.Now()})
}

// TraceQueryEnd notes how long it took.
func (s *Slow) TraceQueryEnd(ctx context.Context, _ *pgx.Conn, _ pgx.TraceQueryEndData) {
	b, is := ctx.Value(startedKey{}).(started)
	if !is {
		return
	}
	b.took = time.Since(b.at)
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.most == nil {
		s.most = map[string]call{}
	}
	if b.took > s.most[b.sql].took {
		s.most[b.sql] = b.call
	}
}

// Reset forgets what was seen so far.
func (s *Slow) Reset() {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.most = nil
}

var spaces = regexp.MustCompile(`\s+`)

// Plans asks the database how it answers the slowest reading statements.
func (s *Slow) Plans(ctx context.Context, db pool, count int) ([]string, error) {
	s.mu.Lock()
	var calls []call
	for _, c := range s.most {
		text := strings.ToLower(strings.TrimSpace(c.sql))
		if strings.HasPrefix(text, "select") && !strings.Contains(text, "pg_notify") && !strings.Contains(text, "for update") && !strings.Contains(text, "nextval") {
			calls = append(calls, c)
		}
	}
	s.mu.Unlock()
	slices.SortFunc(calls, func(a, b call) int { return cmp.Compare(b.took, a.took) })
	var plans []string
	for _, c := range calls[:min(count, len(calls))] {
		rows, err := db.Query(ctx, "explain (analyze, costs off, timing off, summary on) "+c.sql, c.args...)
		if err != nil {
			return nil, err
		}
		lines, err := pgx.CollectRows(rows, pgx.RowTo[string])
		if err != nil {
			continue // prepared for kinds of argument that EXPLAIN does not take
		}
		plans = append(plans, fmt.Sprintf("%s\n\nat the slowest %s\n\n%s", spaces.ReplaceAllString(c.sql, " "), c.took.Round(10*time.Microsecond), strings.Join(lines, "\n")))
	}
	return plans, nil
}
