package formats

import (
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/muktihari/fit/decoder"
	"github.com/muktihari/fit/profile/mesgdef"
	"github.com/muktihari/fit/profile/untyped/mesgnum"
)

// Ride is one ride as a file tells it.
type Ride struct {
	Start, End time.Time
	KM         float64
	Jumps      int // points that were dropped because nobody rides so fast
}

// FileError is what is wrong with a ride file, or with one line of it, in words for whoever sent it.
type FileError struct {
	Line    int // 0: the whole file
	Message string
}

func (e *FileError) Error() string {
	if e.Line > 0 {
		return fmt.Sprintf("line %d: %s", e.Line, e.Message)
	}
	return e.Message
}

func wrong(format string, args ...any) error {
	return &FileError{Message: fmt.Sprintf(format, args...)}
}

// ReadRides reads a GPX, FIT or CSV file, told apart by what is in it. What is wrong with single lines of a
// table comes beside the rides that are right.
func ReadRides(data []byte) (rides []Ride, faults []error) {
	var ride Ride
	var err error
	switch head := bytes.TrimSpace(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))); {
	case len(data) > 12 && string(data[8:12]) == ".FIT":
		ride, err = readFIT(data)
	case bytes.HasPrefix(head, []byte("<")):
		ride, err = readGPX(head)
	case len(head) == 0:
		err = wrong("The file is empty.")
	case bytes.IndexByte(head, 0) >= 0:
		err = wrong("This is no GPX, FIT or CSV file.")
	default:
		return readCSVRides(head)
	}
	if err != nil {
		return nil, []error{err}
	}
	return []Ride{ride}, nil
}

// point is where somebody was, when.
type point struct {
	Lat  float64   `xml:"lat,attr"`
	Lon  float64   `xml:"lon,attr"`
	Time time.Time `xml:"time"`
}

type gpx struct {
	XMLName xml.Name `xml:"gpx"`
	Tracks  []struct {
		Segments []struct {
			Points []point `xml:"trkpt"`
		} `xml:"trkseg"`
	} `xml:"trk"`
}

func readGPX(data []byte) (Ride, error) {
	var file gpx
	if err := xml.Unmarshal(data, &file); err != nil {
		if syntax, is := errors.AsType[*xml.SyntaxError](err); is {
			return Ride{}, &FileError{syntax.Line, "This is not whole XML: " + syntax.Msg + "."}
		}
		return Ride{}, wrong("This is no GPX file: %v.", err)
	}
	var segments [][]point
	for _, t := range file.Tracks {
		for _, s := range t.Segments {
			segments = append(segments, s.Points)
		}
	}
	return rideOf(segments)
}

// earthKM is the mean radius of the earth (handbook: intervals, Odometer).
const earthKM = 6371.0088

// fastest is the speed beyond which a step is a jump, km/h.
const fastest = 100

// rideOf sums the great-circle steps of tracks. A point that would have been reached faster than anybody
// rides is dropped; pauses, and the ways between segments, are kept as they are: a pause adds no distance.
func rideOf(segments [][]point) (Ride, error) {
	var r Ride
	points := 0
	for _, s := range segments {
		var last *point
		for i := range s {
			p := &s[i]
			if math.Abs(p.Lat) > 90 || math.Abs(p.Lon) > 180 || math.IsNaN(p.Lat+p.Lon) {
				return r, wrong("Point %d lies nowhere on earth: latitude %g, longitude %g.", points+1, p.Lat, p.Lon)
			}
			if p.Time.IsZero() {
				return r, wrong("Point %d has no time: a planned route, not a ride.", points+1)
			}
			points++
			if last != nil {
				step, took := distance(*last, *p), p.Time.Sub(last.Time).Hours()
				if took < 0 || step > fastest*max(took, 1.0/3600) {
					r.Jumps++
					continue
				}
				r.KM += step
			}
			if r.Start.IsZero() || p.Time.Before(r.Start) {
				r.Start = p.Time
			}
			if p.Time.After(r.End) {
				r.End = p.Time
			}
			last = p
		}
	}
	if points < 2 {
		return r, wrong("There is no track in it: %d points.", points)
	}
	return r, nil
}

// distance is the way between two points over the earth's surface, km.
func distance(a, b point) float64 {
	rad := func(deg float64) float64 { return deg * math.Pi / 180 }
	dLat, dLon := rad(b.Lat-a.Lat), rad(b.Lon-a.Lon)
	h := math.Pow(math.Sin(dLat/2), 2) + math.Cos(rad(a.Lat))*math.Cos(rad(b.Lat))*math.Pow(math.Sin(dLon/2), 2)
	return 2 * earthKM * math.Asin(math.Sqrt(min(h, 1)))
}

// readFIT reads a FIT activity: by its own distance where it has one, else by its points.
func readFIT(data []byte) (Ride, error) {
	var r Ride
	var points []point
	var total float64
	d := decoder.New(bytes.NewReader(data))
	for d.Next() {
		file, err := d.Decode()
		if err != nil {
			return r, wrong("This FIT file is damaged: %v.", err)
		}
		for i := range file.Messages {
			m := &file.Messages[i]
			switch m.Num {
			case mesgnum.Record:
				rec := mesgdef.NewRecord(m)
				if !rec.Timestamp.IsZero() {
					if r.Start.IsZero() {
						r.Start = rec.Timestamp
					}
					r.End = rec.Timestamp
				}
				if v := rec.DistanceScaled(); !math.IsNaN(v) {
					total = max(total, v/1000)
				}
				if lat, lon := rec.PositionLatDegrees(), rec.PositionLongDegrees(); !math.IsNaN(lat) && !math.IsNaN(lon) {
					points = append(points, point{lat, lon, rec.Timestamp})
				}
			case mesgnum.Session:
				s := mesgdef.NewSession(m)
				if v := s.TotalDistanceScaled(); !math.IsNaN(v) {
					total = max(total, v/1000)
				}
				if !s.StartTime.IsZero() && (r.Start.IsZero() || s.StartTime.Before(r.Start)) {
					r.Start = s.StartTime
				}
				if end := s.StartTime.Add(time.Duration(s.TotalElapsedTimeScaled() * float64(time.Second))); !math.IsNaN(s.TotalElapsedTimeScaled()) && end.After(r.End) {
					r.End = end
				}
			}
		}
	}
	if total == 0 {
		return rideOf([][]point{points})
	}
	if r.Start.IsZero() {
		return r, wrong("This FIT file says no time.")
	}
	r.KM, r.End = total, maxTime(r.Start, r.End)
	return r, nil
}

func maxTime(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

// rideColumns are those that a table of rides has; the last may be left out.
var rideColumns = []string{"started_at", "distance_km", "duration_min"}

// readCSVRides reads a table of rides (RFC 4180, with a header row).
func readCSVRides(data []byte) (rides []Ride, faults []error) {
	r := csv.NewReader(bytes.NewReader(data))
	r.FieldsPerRecord = -1
	header, err := r.Read()
	if err != nil {
		return nil, []error{wrong("This is no GPX, FIT or CSV file: %v.", err)}
	}
	at := map[string]int{}
	for i, name := range header {
		at[strings.ToLower(strings.TrimSpace(name))] = i
	}
	if !slices.ContainsFunc(rideColumns, func(name string) bool { _, there := at[name]; return there }) {
		return nil, []error{wrong("This is no GPX, FIT or CSV file of rides. A table of them has the columns %s.", strings.Join(rideColumns, ", "))}
	}
	for _, name := range rideColumns[:2] {
		if _, there := at[name]; !there {
			return nil, []error{wrong("A table of rides has the columns %s; %s is missing.", strings.Join(rideColumns, ", "), name)}
		}
	}
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			return rides, faults
		}
		line, _ := r.FieldPos(0)
		if err != nil {
			return rides, append(faults, &FileError{line, "This line cannot be read: " + err.Error() + "."})
		}
		ride, err := rideOfRow(row, at)
		if err != nil {
			faults = append(faults, &FileError{line, err.Error()})
			continue
		}
		rides = append(rides, ride)
	}
}

func rideOfRow(row []string, at map[string]int) (r Ride, err error) {
	cell := func(name string) string {
		if i, there := at[name]; there && i < len(row) {
			return strings.TrimSpace(row[i])
		}
		return ""
	}
	if r.Start, err = time.Parse(time.RFC3339, cell("started_at")); err != nil {
		if r.Start, err = time.ParseInLocation("2006-01-02 15:04", cell("started_at"), time.Local); err != nil {
			return r, fmt.Errorf("started_at %q is no time such as 2026-05-01 08:30", cell("started_at"))
		}
	}
	if r.KM, err = strconv.ParseFloat(cell("distance_km"), 64); err != nil || !(r.KM > 0 && r.KM < mostRideKM) {
		return r, fmt.Errorf("distance_km %q is no distance of a ride", cell("distance_km"))
	}
	r.End = r.Start
	if text := cell("duration_min"); text != "" {
		minutes, err := strconv.ParseFloat(text, 64)
		if err != nil || !(minutes >= 0 && minutes < 60*24*7) {
			return r, fmt.Errorf("duration_min %q is no duration of a ride", text)
		}
		r.End = r.Start.Add(time.Duration(minutes * float64(time.Minute)))
	}
	return r, nil
}

// mostRideKM is farther than anybody rides at a stretch.
const mostRideKM = 2000
