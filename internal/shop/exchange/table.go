package exchange

import (
	"bytes"
	"cmp"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"earnestpony/core/forecast"
	"earnestpony/internal/formats"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// A table is what one CSV file holds (RFC 4180, UTF-8, a header row).
type table struct {
	columns []string
	// needed are columns that an import cannot do without; what is given out beyond the others is not read.
	needed []string
	rows   func(s *Exchange, ctx context.Context, tx store.Tx, clock record.Clock, emit func(...string) error) error
	take   func(s *Exchange, ctx context.Context, tx store.Tx, clock record.Clock, who record.Actor, r tableRow) (understood string, err error)
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
	Total   int        `json:"total"` // rows; of many only some are in Rows
	Wrong   int        `json:"wrong"` // rows with something wrong
	Written int        `json:"written"`
	// Encoding is how the file's text is written, as far as that can be told, and Separator what stands between
	// its cells: for a person to look at before anything is written.
	Encoding  string `json:"encoding"`
	Separator string `json:"separator"`
}

// TableRow is one line, and what was understood of it.
type TableRow struct {
	Line       int            `json:"line"`
	Cells      []string       `json:"cells"`
	Understood string         `json:"understood"`
	Faults     []record.Field `json:"faults"` // At the names of columns
}

// maxRows is how many lines a table may have to be read in at once.
const maxRows = 5000

// ExportTable gives a table out as CSV.
func (s *Exchange) ExportTable(ctx context.Context, name string) ([]byte, error) {
	t, known := tables[name]
	if !known {
		return nil, record.NotFound("table", "table-not-found")
	}
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	w.UseCRLF = true
	tx := s.desk.Store.Read(ctx)
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return nil, err
	}
	clock := s.desk.ClockIn(h.Zone)
	columns, distances := t.columns, []int(nil)
	if h.InMiles() {
		columns, distances = milesColumns(t.columns)
	}
	if err := w.Write(columns); err != nil {
		return nil, err
	}
	err = t.rows(s, ctx, tx, clock, func(cells ...string) error {
		for _, i := range distances {
			cells[i] = scaled(cells[i], 1/float64(forecast.Mile), 6)
		}
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
func (s *Exchange) ImportTable(ctx context.Context, who record.Actor, name string, data []byte, write bool) (TableRead, error) {
	t, known := tables[name]
	if !known {
		return TableRead{}, record.NotFound("table", "table-not-found")
	}
	read, err := readTable(t, data)
	if err != nil {
		return TableRead{}, err
	}
	if !write { // nothing is kept, so there is nothing to be done once
		who.Key = ""
	}
	err = record.IdempotentInto(ctx, s.desk, who, "import-table "+name, record.FileOf(data), &read, func(ctx context.Context, tx store.Tx) error {
		clock, err := s.desk.Clock(ctx, tx)
		if err != nil {
			return err
		}
		for i := range read.Rows {
			row := &read.Rows[i]
			if len(row.Faults) > 0 {
				read.Wrong++
				continue
			}
			err := tx.Try(ctx, func(tx store.Tx) (err error) {
				if wrong := record.Sane(map[string]string(row.by(read.Columns))); len(wrong) > 0 {
					return record.InvalidInput(wrong...)
				}
				row.Understood, err = t.take(s, ctx, tx, clock, who, row.by(read.Columns))
				return err
			})
			p, is := errors.AsType[*record.Problem](err)
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
	read.shorten()
	return read, err
}

// What an answer shows of a long table: its beginning, and the first rows that are wrong.
const (
	rowsShown  = 300
	wrongShown = 100
	cellShown  = 200 // characters
)

// shorten keeps an answer small, whatever was sent.
func (t *TableRead) shorten() {
	rows := t.Rows
	if len(rows) > rowsShown {
		rows = slices.Clone(rows[:rowsShown-wrongShown])
		for _, r := range t.Rows[rowsShown-wrongShown:] {
			if len(r.Faults) > 0 && len(rows) < rowsShown {
				rows = append(rows, r)
			}
		}
	}
	for i := range rows {
		rows[i].Faults = rows[i].Faults[:min(len(rows[i].Faults), record.MaxFaults)]
		rows[i].Cells = rows[i].Cells[:min(len(rows[i].Cells), 2*len(t.Columns))]
		for k, cell := range rows[i].Cells {
			rows[i].Cells[k] = record.Cut(cell, cellShown)
		}
	}
	t.Rows = rows
}

// rowFaults are the faults of a problem at the names of columns.
func rowFaults(p *record.Problem) []record.Field {
	if len(p.Fields) == 0 {
		return []record.Field{{Code: p.Code, Message: p.Message}}
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
			m[c] = record.CleanLine(strings.TrimPrefix(r.Cells[i], "'"))
		}
	}
	return m
}

func readTable(t table, data []byte) (TableRead, error) {
	read := TableRead{Rows: []TableRow{}}
	bad := func(format string, args ...any) error {
		return record.InvalidInput(record.Field{Path: "file", Code: "not-a-table", Message: fmt.Sprintf(format, args...)})
	}
	file, err := formats.ReadTable(data, "", maxRows)
	if err != nil {
		if f, is := errors.AsType[*formats.FileError](err); is {
			return read, record.InvalidInput(record.Field{Path: "file", Code: "not-a-table", Message: f.Error()})
		}
		return read, err
	}
	read.Encoding, read.Separator = file.Encoding, string(file.Separator)
	times := make([]float64, len(file.Header))
	for i, c := range file.Header {
		c, times[i] = ofColumn(strings.ToLower(strings.TrimSpace(c)))
		if !slices.Contains(t.columns, c) {
			return read, bad("There is no column %.60q here: there are %s.", c, strings.Join(t.columns, ", "))
		}
		if slices.Contains(read.Columns, c) {
			return read, bad("The column %s is there twice.", c)
		}
		read.Columns = append(read.Columns, c)
	}
	for _, c := range t.needed {
		if !slices.Contains(read.Columns, c) {
			return read, bad("The column %s is missing.", c)
		}
	}
	for _, line := range file.Rows {
		row := TableRow{Line: line.Line, Cells: line.Cells, Faults: []record.Field{}}
		if len(line.Cells) > len(read.Columns) {
			row.Faults = append(row.Faults, record.Field{Code: "too-many", Message: fmt.Sprintf("%d cells under %d columns.", len(line.Cells), len(read.Columns))})
		}
		for i, cell := range row.Cells {
			if i < len(times) {
				cell = scaled(cell, times[i], 3)
			}
			row.Cells[i] = record.Cut(cell, record.MaxText+1)
		}
		read.Rows = append(read.Rows, row)
	}
	read.Total = len(read.Rows)
	return read, nil
}
