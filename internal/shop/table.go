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
	"time"

	"earnestpony/core/wear"
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

// cell readers note what is wrong at their column.
type rowReader struct {
	tableRow
	faults []Field
}

func (r *rowReader) fault(column, code, format string, args ...any) {
	r.faults = append(r.faults, Field{Path: column, Code: code, Message: fmt.Sprintf(format, args...)})
}

func (r *rowReader) number(column string) *float64 {
	text := r.tableRow[column]
	if text == "" {
		return nil
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		r.fault(column, "wrong-kind", "%q is not a number.", text)
		return nil
	}
	return &v
}

func (r *rowReader) whole(column string) *int {
	v := r.number(column)
	if v == nil {
		return nil
	}
	n := int(*v)
	if float64(n) != *v {
		r.fault(column, "not-whole", "%q is not a whole number.", r.tableRow[column])
		return nil
	}
	return &n
}

func (r *rowReader) yes(column string) bool {
	switch strings.ToLower(r.tableRow[column]) {
	case "", "no", "false", "0":
		return false
	case "yes", "true", "1":
		return true
	}
	r.fault(column, "wrong-kind", "%q is neither yes nor no.", r.tableRow[column])
	return false
}

// time reads a time or a day; nil where the cell is empty, which is now.
func (r *rowReader) time(s *Service, column string) *time.Time {
	text := r.tableRow[column]
	if text == "" {
		return nil
	}
	for _, layout := range []string{time.RFC3339, "2006-01-02 15:04", time.DateOnly} {
		if at, err := time.ParseInLocation(layout, text, time.Local); err == nil {
			if at.After(s.now().Add(clockSlack)) {
				r.fault(column, "in-the-future", "%s is still to come.", text)
			}
			return &at
		}
	}
	r.fault(column, "not-a-time", "%q is no day such as 2026-05-01 and no time such as 2026-05-01 08:30.", text)
	return nil
}

func (r *rowReader) done() error {
	if len(r.faults) > 0 {
		return invalid(r.faults...)
	}
	return nil
}

func customerRows(_ *Service, ctx context.Context, tx store.Tx, emit func(...string) error) error {
	return tx.EachCustomer(ctx, func(c store.Customer) error {
		consent := "no"
		if c.Consent {
			consent = "yes"
		}
		return emit(c.Name, c.Phone, c.Email, c.ContactWay, consent, c.Notes)
	})
}

func takeCustomer(s *Service, ctx context.Context, tx store.Tx, who Actor, row tableRow) (string, error) {
	r := rowReader{tableRow: row}
	f := CustomerFacts{Name: row["name"], Phone: row["phone"], Email: row["email"], ContactWay: row["contact_way"], Consent: r.yes("consent"), Notes: row["notes"]}
	if !slices.Contains([]string{"", "message", "mail", "none"}, f.ContactWay) {
		r.fault("contact_way", "unknown-value", "%q is no way to tell an owner: message, mail or none.", f.ContactWay)
	}
	if err := r.done(); err != nil {
		return "", err
	}
	if err := checkCustomer(&f); err != nil {
		return "", err
	}
	c, err := s.addCustomer(ctx, tx, who, f)
	return "a new owner, " + c.Facts.Name, err
}

func bikeRows(_ *Service, ctx context.Context, tx store.Tx, emit func(...string) error) error {
	whole := func(n *int) string {
		if n == nil {
			return ""
		}
		return strconv.Itoa(*n)
	}
	for after := 0; ; {
		bikes, err := tx.BikesAfter(ctx, after, verifyBatch)
		if err != nil || len(bikes) == 0 {
			return err
		}
		for _, b := range bikes {
			after = b.TagNumber
			err := emit(tagOf(b), b.OwnerName, b.Make, b.Model, b.Colour, b.FrameNumber, b.Kind, b.DrivetrainKind, whole(b.SprocketCount), whole(b.ChainLinks), b.Brakes, b.Motor, b.Lubricant, decimal(b.WeeklyKM))
			if err != nil {
				return err
			}
		}
	}
}

func decimal(v *float64) string {
	if v == nil {
		return ""
	}
	return strconv.FormatFloat(*v, 'f', -1, 64)
}

func takeBike(s *Service, ctx context.Context, tx store.Tx, who Actor, row tableRow) (string, error) {
	r := rowReader{tableRow: row}
	f := BikeFacts{Make: row["make"], Model: row["model"], Colour: row["colour"], FrameNumber: row["frame_number"], Kind: row["kind"], DrivetrainKind: row["drivetrain_kind"],
		SprocketCount: r.whole("sprocket_count"), ChainLinks: r.whole("chain_links"), Brakes: row["brakes"], Motor: row["motor"], Lubricant: row["lubricant"], WeeklyKM: r.number("weekly_km")}
	for column, one := range map[string]struct {
		value string
		of    []string
	}{
		"kind":            {f.Kind, []string{"", "everyday", "road", "gravel", "trail", "cargo", "child-carrying", "hub-gear", "fixed-gear"}},
		"drivetrain_kind": {f.DrivetrainKind, []string{"", "derailleur", "single-speed", "hub-gear"}},
		"brakes":          {f.Brakes, []string{"", "rim", "disc", "drum", "coaster"}},
		"motor":           {f.Motor, []string{"", "none", "hub", "mid"}},
		"lubricant":       {f.Lubricant, []string{"", "wet-oil", "dry-oil", "all-weather", "drip-wax", "immersion-wax", "factory-grease"}},
	} {
		if !slices.Contains(one.of, one.value) {
			r.fault(column, "unknown-value", "%q is none of %s.", one.value, strings.Join(one.of[1:], ", "))
		}
	}
	for column, bound := range map[string]struct {
		value  *int
		lo, hi int
	}{"sprocket_count": {f.SprocketCount, 1, 14}, "chain_links": {f.ChainLinks, 30, 300}} {
		if bound.value != nil && (*bound.value < bound.lo || *bound.value > bound.hi) {
			r.fault(column, "out-of-range", "%d to %d.", bound.lo, bound.hi)
		}
	}
	if f.WeeklyKM != nil && !(*f.WeeklyKM >= 0 && *f.WeeklyKM <= 3000) {
		r.fault("weekly_km", "out-of-range", "0 to 3000 km a week.")
	}
	owners, err := tx.CustomersNamed(ctx, row["owner"])
	if err != nil {
		return "", err
	}
	switch {
	case len(owners) == 0:
		r.fault("owner", "customer-not-found", "No owner here is called %q: read the owners in first.", row["owner"])
	case len(owners) > 1:
		r.fault("owner", "not-one", "%d owners are called %q.", len(owners), row["owner"])
	}
	if err := r.done(); err != nil {
		return "", err
	}
	if err := checkBike(&f); err != nil {
		return "", err
	}
	_, err = s.addBike(ctx, tx, who, NewBike{CustomerID: owners[0].ID, Facts: f})
	return "a new bike of " + owners[0].Name, err
}

// entryRows gives out entries of one kind, of all bikes.
func entryRows(ctx context.Context, tx store.Tx, kind string, emit func(tag string, e store.EntryView) error) error {
	for after := int64(0); ; {
		rows, err := tx.EntriesOfKind(ctx, kind, after, verifyBatch)
		if err != nil || len(rows) == 0 {
			return err
		}
		for _, e := range rows {
			after = e.Number
			if err := emit(tagOf(store.Bike{TagNumber: e.TagNumber}), e.EntryView); err != nil {
				return err
			}
		}
	}
}

func odometerRows(_ *Service, ctx context.Context, tx store.Tx, emit func(...string) error) error {
	return entryRows(ctx, tx, kindOdometer, func(tag string, e store.EntryView) error {
		n, _, err := odometerOf(e, nil)
		if err != nil {
			return err
		}
		fresh := "no"
		if n.NewComputer {
			fresh = "yes"
		}
		return emit(tag, e.HappenedAt.Format(time.RFC3339), decimal(&n.KM), fresh)
	})
}

func takeOdometer(s *Service, ctx context.Context, tx store.Tx, who Actor, row tableRow) (string, error) {
	r := rowReader{tableRow: row}
	km, at, fresh := r.number("km"), r.time(s, "read_at"), r.yes("new_computer")
	if row["km"] == "" {
		r.fault("km", "missing", "The odometer's reading is missing.")
	}
	if err := r.done(); err != nil {
		return "", err
	}
	bike, err := bikeInCare(ctx, tx, row["tag"])
	if err != nil {
		return "", err
	}
	when := s.now()
	if at != nil {
		when = store.Stamp(*at)
	}
	_, err = s.noteOdometer(ctx, tx, who, bike, OdometerNote{KM: *km, NewComputer: fresh}, when)
	return fmt.Sprintf("%s showed %g km on %s", tagOf(bike), *km, when.Format(time.DateOnly)), err
}

func measurementRows(_ *Service, ctx context.Context, tx store.Tx, emit func(...string) error) error {
	return entryRows(ctx, tx, kindMeasurement, func(tag string, e store.EntryView) error {
		m, err := newMeasurement(e)
		if err != nil {
			return err
		}
		places := [3]string{}
		for i, r := range m.Readings {
			if i < len(places) {
				places[i] = r.Text
			}
		}
		links := ""
		if m.Links > 0 {
			links = strconv.Itoa(m.Links)
		}
		var low, high *float64
		if v := m.Wear.Interval; v != nil {
			low, high = &v.LowPct, v.HighPct
		}
		return emit(tag, m.TakenAt.Format(time.RFC3339), m.Instrument.Name, places[0], places[1], places[2], links, decimal(m.Wear.ElongationPct), decimal(low), decimal(high),
			decimal(&m.Wear.LimitPct), m.Wear.Verdict, e.PersonName)
	})
}

func takeMeasurementRow(s *Service, ctx context.Context, tx store.Tx, who Actor, row tableRow) (string, error) {
	r := rowReader{tableRow: row}
	n := NewMeasurement{Links: r.whole("links"), TakenAt: r.time(s, "taken_at")}
	tools, err := tx.Instruments(ctx, false)
	if err != nil {
		return "", err
	}
	at := slices.IndexFunc(tools, func(t store.Instrument) bool { return strings.EqualFold(t.Name, row["instrument"]) })
	if at < 0 {
		r.fault("instrument", "unknown-value", "No tool on the bench is called %q.", row["instrument"])
	} else {
		n.InstrumentID = tools[at].ID
		if kind := tools[at].Kind; kind == wear.GaugeDropin.String() || kind == wear.PullOff.String() {
			r.fault("instrument", "unknown-value", "What %s says is not read in as a number.", tools[at].Name)
		}
	}
	for i := range 3 {
		if text := row[fmt.Sprintf("place_%d", i+1)]; text != "" {
			n.Entries = append(n.Entries, BenchEntry{Place: i + 1, Text: text})
		}
	}
	if err := r.done(); err != nil {
		return "", err
	}
	m, err := s.recordMeasurement(ctx, tx, who, row["tag"], n, s.now())
	if err != nil {
		return "", err
	}
	return fmt.Sprintf("%s, %s", decimal(m.Wear.ElongationPct)+" %", m.Wear.Verdict), nil
}

func serviceRows(_ *Service, ctx context.Context, tx store.Tx, emit func(...string) error) error {
	return entryRows(ctx, tx, kindTaskDone, func(tag string, e store.EntryView) error {
		b, err := bodyOf[taskDoneBody](e)
		if err != nil {
			return err
		}
		return emit(tag, e.HappenedAt.Format(time.RFC3339), b.Task, b.Note, e.PersonName)
	})
}

func takeService(s *Service, ctx context.Context, tx store.Tx, who Actor, row tableRow) (string, error) {
	r := rowReader{tableRow: row}
	at := r.time(s, "done_at")
	if err := r.done(); err != nil {
		return "", err
	}
	when := s.now()
	if at != nil {
		when = store.Stamp(*at)
	}
	if err := s.taskDone(ctx, tx, who, row["tag"], row["task"], row["note"], when); err != nil {
		return "", err
	}
	return fmt.Sprintf("%s on %s", row["task"], when.Format(time.DateOnly)), nil
}
