package shop

import (
	"bytes"
	"cmp"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"earnestpony/internal/store"
)

// A table is what one CSV file holds (RFC 4180, UTF-8, a header row).
type table struct {
	columns []string
	// needed are columns that an import cannot do without; what is given out beyond the others is not read.
	needed []string
	rows   func(s *Service, ctx context.Context, tx store.Tx, emit func(...string) error) error
	take   func(s *Service, ctx context.Context, tx store.Tx, who Actor, r tableRow) (understood string, err error)
}

var tables = map[string]table{
	"customers":    {[]string{"name", "phone", "email", "contact_way", "consent", "notes"}, []string{"name"}, customerRows, takeCustomer},
	"bikes":        {[]string{"tag", "owner", "make", "model", "colour", "frame_number", "kind", "drivetrain_kind", "sprocket_count", "chain_links", "brakes", "motor", "lubricant", "weekly_km"}, []string{"owner"}, bikeRows, takeBike},
	"odometer":     {[]string{"tag", "read_at", "km", "new_computer"}, []string{"tag", "km"}, odometerRows, takeOdometer},
	"measurements": {[]string{"tag", "taken_at", "instrument", "place_1", "place_2", "place_3", "links", "elongation_pct", "low_pct", "high_pct", "limit_pct", "verdict", "by"}, []string{"tag", "instrument", "place_1"}, measurementRows, takeMeasurementRow},
	"services":     {[]string{"tag", "done_at", "task", "note", "by"}, []string{"tag", "task"}, serviceRows, takeService},
}

// tableRow is a line of a table by its columns.
type tableRow map[string]string

// TableRead is what was understood of a table.
type TableRead struct {
	Columns []string   `json:"columns"`
	Rows    []TableRow `json:"rows"`
	Wrong   int        `json:"wrong"` // rows with something wrong
	Written int        `json:"written"`
}

// TableRow is one line, and what was understood of it.
type TableRow struct {
	Line       int      `json:"line"`
	Cells      []string `json:"cells"`
	Understood string   `json:"understood"`
	Faults     []Field  `json:"faults"` // at the names of columns
}

// mostRows is how many lines a table may have to be read in at once.
const mostRows = 5000

// ExportTable gives a table out as CSV.
func (s *Service) ExportTable(ctx context.Context, name string) ([]byte, error) {
	t, known := tables[name]
	if !known {
		return nil, missing("table", "table-not-found")
	}
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	w.UseCRLF = true
	if err := w.Write(t.columns); err != nil {
		return nil, err
	}
	err := t.rows(s, ctx, s.store.Read(), func(cells ...string) error {
		for i, c := range cells {
			cells[i] = asText(c)
		}
		return w.Write(cells)
	})
	w.Flush()
	return out.Bytes(), cmp.Or(err, w.Error())
}

// asText keeps a table program from taking what somebody typed for a formula: RFC 4180 has no types.
func asText(cell string) string {
	if cell != "" && strings.ContainsRune("=+-@\t\r", rune(cell[0])) {
		if _, err := strconv.ParseFloat(cell, 64); err != nil {
			return "'" + cell
		}
	}
	return cell
}

// errUndo takes back what was only tried.
var errUndo = errors.New("only tried")

// ImportTable reads a table and says of each row what was understood and what is wrong. It writes all rows, or
// none: none where one is wrong, and none where it is only asked.
func (s *Service) ImportTable(ctx context.Context, who Actor, name string, data []byte, write bool) (TableRead, error) {
	t, known := tables[name]
	if !known {
		return TableRead{}, missing("table", "table-not-found")
	}
	read, err := readTable(t, data)
	if err != nil {
		return TableRead{}, err
	}
	err = s.store.Write(ctx, func(tx store.Tx) error {
		for i := range read.Rows {
			row := &read.Rows[i]
			err := tx.Try(ctx, func(tx store.Tx) (err error) {
				row.Understood, err = t.take(s, ctx, tx, who, row.by(read.Columns))
				return err
			})
			p, is := errors.AsType[*Problem](err)
			switch {
			case is:
				row.Faults = rowFaults(p)
				read.Wrong++
			case err != nil:
				return err
			}
		}
		if read.Wrong > 0 || !write {
			return errUndo
		}
		read.Written = len(read.Rows)
		return nil
	})
	if errors.Is(err, errUndo) {
		err = nil
	}
	return read, err
}

// rowFaults are the faults of a problem at the names of columns.
func rowFaults(p *Problem) []Field {
	if len(p.Fields) == 0 {
		return []Field{{Code: p.Code, Message: p.Message}}
	}
	fields := slices.Clone(p.Fields)
	for i := range fields {
		fields[i].Path = strings.TrimPrefix(fields[i].Path, "facts.")
	}
	return fields
}

func (r TableRow) by(columns []string) tableRow {
	m := tableRow{}
	for i, c := range columns {
		if i < len(r.Cells) {
			m[c] = tidy(strings.TrimPrefix(r.Cells[i], "'"))
		}
	}
	return m
}

func readTable(t table, data []byte) (TableRead, error) {
	read := TableRead{Rows: []TableRow{}}
	bad := func(format string, args ...any) error {
		return invalid(Field{Path: "file", Code: "not-a-table", Message: fmt.Sprintf(format, args...)})
	}
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))))
	r.FieldsPerRecord = -1
	header, err := r.Read()
	if err != nil {
		return read, bad("This is no table: it has no header row.")
	}
	for _, c := range header {
		c = strings.ToLower(strings.TrimSpace(c))
		if !slices.Contains(t.columns, c) {
			return read, bad("There is no column %q here: there are %s.", c, strings.Join(t.columns, ", "))
		}
		read.Columns = append(read.Columns, c)
	}
	for _, c := range t.needed {
		if !slices.Contains(read.Columns, c) {
			return read, bad("The column %s is missing.", c)
		}
	}
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			return read, nil
		}
		line, _ := r.FieldPos(0)
		if err != nil {
			return read, bad("Line %d cannot be read: %v.", line, err)
		}
		if len(read.Rows) == mostRows {
			return read, bad("A table is read in with %d lines at most: split it.", mostRows)
		}
		row := TableRow{Line: line, Cells: cells, Faults: []Field{}}
		read.Rows = append(read.Rows, row)
	}
}
