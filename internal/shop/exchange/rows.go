package exchange

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strconv"
	"strings"
	"time"

	"earnestpony/core/wear"
	"earnestpony/internal/formats"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// rowReader reads the cells of a row, and notes what is wrong at their columns.
type rowReader struct {
	tableRow
	faults []record.Field
}

func (r *rowReader) fault(column, code, format string, args ...any) {
	r.faults = append(r.faults, record.Field{Path: column, Code: code, Message: fmt.Sprintf(format, args...)})
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

// time reads a time or a day of the shop's; nil where the cell is empty, which is now.
func (r *rowReader) time(clock record.Clock, column string) *time.Time {
	text := r.tableRow[column]
	if text == "" {
		return nil
	}
	at, err := formats.ParseTime(text, clock.Zone(), time.RFC3339, "2006-01-02 15:04", time.DateOnly)
	if left, is := errors.AsType[*formats.ClockChange](err); is {
		r.fault(column, "clock-change", "%s", left)
		return nil
	}
	if err != nil {
		r.fault(column, "not-a-time", "%q is no day such as 2026-05-01 and no time such as 2026-05-01 08:30.", text)
		return nil
	}
	if wrong := record.CheckPast(column, at, clock.Now()); wrong != nil {
		r.faults = append(r.faults, *wrong)
	}
	return &at
}

// also notes what a check of the whole row found.
func (r *rowReader) also(err error) {
	if p, is := errors.AsType[*record.Problem](err); is {
		r.faults = append(r.faults, p.Fields...)
	}
}

func (r *rowReader) done() error {
	if len(r.faults) > 0 {
		return record.InvalidInput(r.faults...)
	}
	return nil
}

func customerRows(_ *Exchange, ctx context.Context, tx store.Tx, clock record.Clock, emit func(...string) error) error {
	return tx.EachCustomer(ctx, func(c store.Customer) error {
		consent := "no"
		if c.Consent {
			consent = "yes"
		}
		return emit(c.Name, c.Phone, c.Email, c.ContactWay, consent, c.Notes)
	})
}

func takeCustomer(s *Exchange, ctx context.Context, tx store.Tx, clock record.Clock, who record.Actor, row tableRow) (string, error) {
	r := rowReader{tableRow: row}
	f := record.CustomerFacts{Name: row["name"], Phone: row["phone"], Email: row["email"], ContactWay: row["contact_way"], Consent: r.yes("consent"), Notes: row["notes"]}
	r.also(bikes.CheckCustomer(&f))
	if err := r.done(); err != nil {
		return "", err
	}
	c, err := s.bikes.AddCustomerTx(ctx, tx, who, f)
	return "a new customer, " + c.Facts.Name, err
}

func bikeRows(_ *Exchange, ctx context.Context, tx store.Tx, clock record.Clock, emit func(...string) error) error {
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
			err := emit(record.TagOf(b), b.OwnerName, b.Make, b.Model, b.Colour, b.FrameNumber, b.Kind, b.DrivetrainKind, whole(b.SprocketCount), whole(b.ChainLinks), b.Brakes, b.Motor, b.Lubricant, decimal(b.WeeklyKM))
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

// digitsOf is how many digits of a percent a tool can tell: a caliper's hundredth of a millimetre over ten links is
// less than a hundredth of a percent, what others say is not.
func digitsOf(kind string) int {
	if kind == wear.CaliperInside.String() {
		return 3
	}
	return 2
}

// toDigits is a figure to so many digits; empty where there is none.
func toDigits(v *float64, digits int) string {
	if v == nil {
		return ""
	}
	text := strings.TrimRight(strings.TrimRight(strconv.FormatFloat(*v, 'f', digits, 64), "0"), ".")
	if text == "-0" {
		return "0"
	}
	return text
}

func takeBike(s *Exchange, ctx context.Context, tx store.Tx, clock record.Clock, who record.Actor, row tableRow) (string, error) {
	r := rowReader{tableRow: row}
	f := record.BikeFacts{Make: row["make"], Model: row["model"], Colour: row["colour"], FrameNumber: row["frame_number"], Kind: row["kind"], DrivetrainKind: row["drivetrain_kind"],
		SprocketCount: r.whole("sprocket_count"), ChainLinks: r.whole("chain_links"), Brakes: row["brakes"], Motor: row["motor"], Lubricant: row["lubricant"], WeeklyKM: r.number("weekly_km")}
	owners, err := tx.CustomersNamed(ctx, row["owner"])
	if err != nil {
		return "", err
	}
	switch {
	case len(owners) == 0:
		r.fault("owner", "customer-not-found", "No customer here is called %q: import the customers first.", row["owner"])
	case len(owners) > 1:
		r.fault("owner", "not-one", "%d customers are called %q.", len(owners), row["owner"])
	}
	r.also(bikes.CheckBike(&f))
	if err := r.done(); err != nil {
		return "", err
	}
	_, err = s.bikes.AddBikeTx(ctx, tx, who, bikes.NewBike{CustomerID: owners[0].ID, Facts: f})
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
			if err := record.Readable(e.Kind, e.Body); err != nil { // it is listed with what its bike needs
				slog.Warn("an entry cannot be read and is left out of a table", "entry", e.ID, "err", err)
				continue
			}
			if err := emit(record.TagOf(store.Bike{TagNumber: e.TagNumber}), e.EntryView); err != nil {
				return err
			}
		}
	}
}

func odometerRows(_ *Exchange, ctx context.Context, tx store.Tx, clock record.Clock, emit func(...string) error) error {
	return entryRows(ctx, tx, record.KindOdometer, func(tag string, e store.EntryView) error {
		n, _, err := measure.OdometerOf(e, nil)
		if err != nil {
			return err
		}
		fresh := "no"
		if n.NewComputer {
			fresh = "yes"
		}
		return emit(tag, clock.In(e.HappenedAt).Format(time.RFC3339), decimal(&n.KM), fresh)
	})
}

func takeOdometer(s *Exchange, ctx context.Context, tx store.Tx, clock record.Clock, who record.Actor, row tableRow) (string, error) {
	r := rowReader{tableRow: row}
	km, at, fresh := r.number("km"), r.time(clock, "read_at"), r.yes("new_computer")
	if row["km"] == "" {
		r.fault("km", "missing", "The odometer's reading is missing.")
	}
	if err := r.done(); err != nil {
		return "", err
	}
	bike, err := record.BikeInCare(ctx, tx, row["tag"])
	if err != nil {
		return "", err
	}
	when := s.desk.Now()
	if at != nil {
		when = store.Stamp(*at)
	}
	_, err = s.measure.NoteOdometerTx(ctx, tx, who, bike, record.OdometerNote{KM: *km, NewComputer: fresh}, when)
	return fmt.Sprintf("%s showed %g km on %s", record.TagOf(bike), *km, clock.In(when).Format(time.DateOnly)), err
}

func measurementRows(_ *Exchange, ctx context.Context, tx store.Tx, clock record.Clock, emit func(...string) error) error {
	return entryRows(ctx, tx, record.KindMeasurement, func(tag string, e store.EntryView) error {
		m, err := measure.MeasurementOf(e)
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
		pct := func(v *float64) string { return toDigits(v, digitsOf(m.Instrument.Kind)) }
		return emit(tag, clock.In(m.TakenAt).Format(time.RFC3339), m.Instrument.Name, places[0], places[1], places[2], links, pct(m.Wear.ElongationPct), pct(low), pct(high),
			pct(&m.Wear.LimitPct), m.Wear.Verdict, e.PersonName)
	})
}

func takeMeasurementRow(s *Exchange, ctx context.Context, tx store.Tx, clock record.Clock, who record.Actor, row tableRow) (string, error) {
	r := rowReader{tableRow: row}
	n := measure.NewMeasurement{Links: r.whole("links"), TakenAt: r.time(clock, "taken_at")}
	tools, err := tx.Instruments(ctx, false)
	if err != nil {
		return "", err
	}
	at := slices.IndexFunc(tools, func(t store.Instrument) bool { return strings.EqualFold(t.Name, row["instrument"]) })
	if at < 0 {
		r.fault("instrument", "unknown-value", "No tool in use is called %q.", row["instrument"])
	} else {
		n.InstrumentID = tools[at].ID
		if kind := tools[at].Kind; kind == wear.GaugeDropin.String() || kind == wear.PullOff.String() {
			r.fault("instrument", "unknown-value", "What %s says is not read in as a number.", tools[at].Name)
		}
	}
	for i := range 3 {
		if text := row[fmt.Sprintf("place_%d", i+1)]; text != "" {
			n.Entries = append(n.Entries, measure.BenchEntry{Place: i + 1, Text: text})
		}
	}
	if err := r.done(); err != nil {
		return "", err
	}
	m, err := s.measure.RecordMeasurementTx(ctx, tx, who, row["tag"], n, s.desk.Now())
	if err != nil {
		return "", err
	}
	return fmt.Sprintf("%s, %s", toDigits(m.Wear.ElongationPct, digitsOf(m.Instrument.Kind))+" %", m.Wear.Verdict), nil
}

func serviceRows(_ *Exchange, ctx context.Context, tx store.Tx, clock record.Clock, emit func(...string) error) error {
	return entryRows(ctx, tx, record.KindTaskDone, func(tag string, e store.EntryView) error {
		b, err := record.BodyOf[record.TaskDoneBody](e)
		if err != nil {
			return err
		}
		return emit(tag, clock.In(e.HappenedAt).Format(time.RFC3339), b.Task, b.Note, e.PersonName)
	})
}

func takeService(s *Exchange, ctx context.Context, tx store.Tx, clock record.Clock, who record.Actor, row tableRow) (string, error) {
	r := rowReader{tableRow: row}
	at := r.time(clock, "done_at")
	if err := r.done(); err != nil {
		return "", err
	}
	when := s.desk.Now()
	if at != nil {
		when = store.Stamp(*at)
	}
	if err := s.due.TaskDoneTx(ctx, tx, who, row["tag"], row["task"], row["note"], when); err != nil {
		return "", err
	}
	return fmt.Sprintf("%s on %s", row["task"], clock.In(when).Format(time.DateOnly)), nil
}
