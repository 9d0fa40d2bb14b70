package formats

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
)

// rideColumns are those that a table of rides has; the last may be left out.
var rideColumns = []string{"started_at", "distance_km", "duration_min"}

// readCSVRides reads a table of rides, with a header row.
func readCSVRides(f *RideFile, data []byte, answers RideAnswers) {
	t, err := ReadTable(data, answers.Encoding, MaxRides)
	if len(t.Header) == 0 && err != nil {
		f.fault(err)
		return
	}
	at := map[string]int{}
	for i, name := range t.Header {
		at[strings.ToLower(strings.TrimSpace(name))] = i
	}
	if !slices.ContainsFunc(rideColumns, func(name string) bool { _, there := at[name]; return there }) {
		f.fault(wrong("This is no GPX, TCX, FIT or CSV file of rides. A table of them has the columns %s.", strings.Join(rideColumns, ", ")))
		return
	}
	for _, name := range rideColumns[:2] {
		if _, there := at[name]; !there {
			f.fault(wrong("A table of rides has the columns %s; %s is missing.", strings.Join(rideColumns, ", "), name))
			return
		}
	}
	if err != nil { // of a line further down, or of their number
		f.fault(err)
	}
	if !t.Certain && t.Sample != "" {
		choices := slices.DeleteFunc(Encodings(), func(e string) bool { return e == t.Encoding })
		f.Doubts = append(f.Doubts, Doubt{Code: "encoding", Choices: append([]string{t.Encoding}, choices...), Sample: t.Sample})
	}
	dates := make([]string, len(t.Rows))
	for i, row := range t.Rows {
		dates[i] = cellOf(row.Cells, at, "started_at")
	}
	order, doubt := dateOrder(dates, answers.DateOrder)
	if doubt != nil {
		f.Doubts = append(f.Doubts, *doubt)
	}
	for i, row := range t.Rows {
		ride, err := rideOfRow(row.Cells, at, dates[i], order, cmp.Or(answers.Zone, time.UTC))
		if err != nil {
			f.fault(&FileError{row.Line, err.Error()})
			continue
		}
		before := f.Wrong
		f.add(ride, nil)
		if f.Wrong > before { // said of the ride: say where it stands
			if e, is := errors.AsType[*FileError](f.Faults[len(f.Faults)-1]); is && e.Line == 0 {
				e.Line = row.Line
			}
		}
	}
}

func cellOf(cells []string, at map[string]int, name string) string {
	if i, there := at[name]; there && i < len(cells) {
		return strings.TrimSpace(cells[i])
	}
	return ""
}

// The orders of day and month, where a date is written in figures alone.
const (
	DayFirst   = "day-first"
	MonthFirst = "month-first"
)

// dateOrder finds out in which order days and months stand in dates such as 3/4/2026. Dates with dots have the
// day first. It is a doubt where nothing in the whole file says so.
func dateOrder(dates []string, answered string) (string, *Doubt) {
	if answered == DayFirst || answered == MonthFirst {
		return answered, nil
	}
	sample := ""
	for _, d := range dates {
		first, second, is := slashed(d)
		switch {
		case !is:
		case first > 12:
			return DayFirst, nil
		case second > 12:
			return MonthFirst, nil
		case sample == "" && first != second:
			sample = d
		}
	}
	if sample == "" {
		return DayFirst, nil
	}
	return DayFirst, &Doubt{Code: "date-order", Choices: []string{DayFirst, MonthFirst}, Sample: sample}
}

// slashed reads the first two figures of a date with slashes or hyphens that does not begin with its year.
func slashed(date string) (first, second int, is bool) {
	parts := strings.FieldsFunc(date, func(r rune) bool { return r == '/' || r == '-' })
	if len(parts) < 3 || len(parts[0]) > 2 || strings.Contains(date, ".") && !strings.ContainsAny(date, "/-") {
		return 0, 0, false
	}
	first, err1 := strconv.Atoi(parts[0])
	second, err2 := strconv.Atoi(parts[1])
	return first, second, err1 == nil && err2 == nil
}

// localLayouts are the ways in which a time without a zone is written.
func localLayouts(order string) []string {
	days := []string{"2006-01-02", "2006/01/02", "2.1.2006", "2.1.06"}
	if order == MonthFirst {
		days = append(days, "1/2/2006", "1-2-2006", "1/2/06")
	} else {
		days = append(days, "2/1/2006", "2-1-2006", "2/1/06")
	}
	var all []string
	for _, day := range days {
		for _, clock := range []string{" 15:04:05", " 15:04", "T15:04:05", "T15:04", ", 15:04", " 3:04 PM", " 3:04:05 PM", ""} {
			all = append(all, day+clock)
		}
	}
	return all
}

func rideOfRow(cells []string, at map[string]int, started, order string, zone *time.Location) (r Ride, err error) {
	r.Start, err = ParseTime(started, zone, append([]string{time.RFC3339}, localLayouts(order)...)...)
	if change, is := errors.AsType[*ClockChange](err); is {
		return r, change
	}
	if err != nil {
		return r, fmt.Errorf("started_at %.60q is no time such as 2026-05-01 08:30 or 1.5.2026 8:30", started)
	}
	if r.KM, err = decimal(cellOf(cells, at, "distance_km")); err != nil || !(r.KM > 0 && r.KM < mostRideKM) {
		return r, fmt.Errorf("distance_km %.60q is no distance of a ride", cellOf(cells, at, "distance_km"))
	}
	r.End = r.Start
	if text := cellOf(cells, at, "duration_min"); text != "" {
		minutes, err := decimal(text)
		if err != nil || !(minutes >= 0 && minutes < 60*24*7) {
			return r, fmt.Errorf("duration_min %.60q is no duration of a ride", text)
		}
		r.End = r.Start.Add(time.Duration(minutes * float64(time.Minute)))
	}
	return r, nil
}

// decimal reads a number with a point or a comma.
func decimal(text string) (float64, error) {
	if !strings.Contains(text, ".") {
		text = strings.Replace(text, ",", ".", 1)
	}
	return strconv.ParseFloat(text, 64)
}
