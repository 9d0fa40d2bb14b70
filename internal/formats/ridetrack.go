package formats

import (
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"math"
	"strconv"
	"strings"
	"time"

	"github.com/muktihari/fit/decoder"
	"github.com/muktihari/fit/profile/mesgdef"
	"github.com/muktihari/fit/profile/untyped/mesgnum"
	"golang.org/x/net/html/charset"
)

// xmlPoint is a track point as both formats write it, read leniently: a text that is no number or time is
// nothing that is known.
type gpxPoint struct {
	Lat  string `xml:"lat,attr"`
	Lon  string `xml:"lon,attr"`
	Time string `xml:"time"`
}

type gpx struct {
	Tracks []struct {
		Segments []struct {
			Points []gpxPoint `xml:"trkpt"`
		} `xml:"trkseg"`
	} `xml:"trk"`
}

type tcx struct {
	Activities []struct {
		Laps []struct {
			Meters string `xml:"DistanceMeters"`
			Tracks []struct {
				Points []struct {
					Time     string `xml:"Time"`
					Position *struct {
						Lat string `xml:"LatitudeDegrees"`
						Lon string `xml:"LongitudeDegrees"`
					} `xml:"Position"`
				} `xml:"Trackpoint"`
			} `xml:"Track"`
			Start   string `xml:"StartTime,attr"`
			Seconds string `xml:"TotalTimeSeconds"`
		} `xml:"Lap"`
	} `xml:"Activities>Activity"`
}

// readXML reads the formats that are XML, by the name of their outermost element.
func readXML(f *RideFile, data []byte) {
	// Go's reader takes UTF-8 alone; what was UTF-16 has been decoded by now, and says otherwise of itself.
	reader := func() *xml.Decoder {
		d := xml.NewDecoder(bytes.NewReader(data))
		d.CharsetReader = func(label string, in io.Reader) (io.Reader, error) {
			if strings.HasPrefix(strings.ToLower(label), "utf-16") {
				return in, nil
			}
			return charset.NewReaderLabel(label, in)
		}
		return d
	}
	root := ""
	for d := reader(); root == ""; {
		token, err := d.Token()
		if err != nil {
			f.fault(xmlFault(err))
			return
		}
		if start, is := token.(xml.StartElement); is {
			root = start.Name.Local
		}
	}
	switch root {
	case "gpx":
		var file gpx
		if err := reader().Decode(&file); err != nil {
			f.fault(xmlFault(err))
			return
		}
		readGPX(f, file)
	case "TrainingCenterDatabase":
		var file tcx
		if err := reader().Decode(&file); err != nil {
			f.fault(xmlFault(err))
			return
		}
		readTCX(f, file)
	case "kml":
		f.fault(wrong("This is KML, which says where and not when: export the ride as GPX, TCX or FIT."))
	default:
		f.fault(wrong("This is XML, but neither GPX nor TCX: its outermost element is %.60q.", root))
	}
}

// xmlFault says in our words what is wrong with XML.
func xmlFault(err error) error {
	if syntax, is := errors.AsType[*xml.SyntaxError](err); is {
		return &FileError{syntax.Line, "The file is damaged or cut short here: it is not whole XML."}
	}
	return wrong("The file cannot be read: it is not whole XML, or written in letters that are not known here.")
}

// timeOf reads a time as XML writes it; zero where it is none. One without a zone is in universal time, as both
// formats have it.
func timeOf(text string) time.Time {
	text = strings.TrimSpace(text)
	for _, layout := range []string{time.RFC3339Nano, "2006-01-02T15:04:05.999999999"} {
		if at, err := time.Parse(layout, text); err == nil {
			return at
		}
	}
	return time.Time{}
}

// degrees reads a number; NaN where it is none, which lies nowhere on earth.
func degrees(text string) float64 {
	v, err := strconv.ParseFloat(strings.TrimSpace(text), 64)
	if err != nil {
		return math.NaN()
	}
	return v
}

func readGPX(f *RideFile, file gpx) {
	var segments [][]point
	for _, t := range file.Tracks {
		for _, s := range t.Segments {
			points := make([]point, len(s.Points))
			for i, p := range s.Points {
				points[i] = point{degrees(p.Lat), degrees(p.Lon), timeOf(p.Time)}
			}
			segments = append(segments, points)
		}
	}
	f.add(rideOf(segments))
}

// readTCX reads activities: each by the distance that its laps say, else by its points.
func readTCX(f *RideFile, file tcx) {
	if len(file.Activities) == 0 {
		f.fault(wrong("There is no activity in this TCX file: a planned course, perhaps."))
	}
	for _, a := range file.Activities {
		var segments [][]point
		var r Ride
		for _, lap := range a.Laps {
			if m := degrees(lap.Meters); m > 0 {
				r.KM += m / 1000
			}
			if at := timeOf(lap.Start); !at.IsZero() {
				if r.Start.IsZero() || at.Before(r.Start) {
					r.Start = at
				}
				if s := degrees(lap.Seconds); s > 0 && s < 7*24*3600 {
					r.End = maxTime(r.End, at.Add(time.Duration(s*float64(time.Second))))
				}
			}
			for _, t := range lap.Tracks {
				var points []point
				for _, p := range t.Points {
					if p.Position != nil {
						points = append(points, point{degrees(p.Position.Lat), degrees(p.Position.Lon), timeOf(p.Time)})
					}
					if at := timeOf(p.Time); !at.IsZero() {
						r.End = maxTime(r.End, at)
					}
				}
				segments = append(segments, points)
			}
		}
		if r.KM > 0 && !r.Start.IsZero() {
			r.End = maxTime(r.Start, r.End)
			f.add(r, nil)
			continue
		}
		f.add(rideOf(segments))
	}
}

// readFIT reads FIT activities, of which one file may hold several: each by its own distance where it has one,
// else by its points.
func readFIT(f *RideFile, data []byte) {
	d := decoder.New(bytes.NewReader(data))
	for d.Next() {
		file, err := d.Decode()
		if err != nil {
			f.fault(wrong("This FIT file is damaged or cut short."))
			return
		}
		var r Ride
		var points []point
		var recorded, sessions float64
		for i := range file.Messages {
			m := &file.Messages[i]
			switch m.Num {
			case mesgnum.Record:
				rec := mesgdef.NewRecord(m)
				if !rec.Timestamp.IsZero() {
					if r.Start.IsZero() {
						r.Start = rec.Timestamp
					}
					r.End = maxTime(r.End, rec.Timestamp)
				}
				if v := rec.DistanceScaled(); !math.IsNaN(v) {
					recorded = max(recorded, v/1000)
				}
				if lat, lon := rec.PositionLatDegrees(), rec.PositionLongDegrees(); !math.IsNaN(lat) && !math.IsNaN(lon) {
					points = append(points, point{lat, lon, rec.Timestamp})
				}
			case mesgnum.Session:
				s := mesgdef.NewSession(m)
				if v := s.TotalDistanceScaled(); !math.IsNaN(v) {
					sessions += v / 1000
				}
				if !s.StartTime.IsZero() && (r.Start.IsZero() || s.StartTime.Before(r.Start)) {
					r.Start = s.StartTime
				}
				if took := s.TotalElapsedTimeScaled(); took > 0 && took < 7*24*3600 {
					r.End = maxTime(r.End, s.StartTime.Add(time.Duration(took*float64(time.Second))))
				}
			default: // of no use to a distance
			}
		}
		total := max(recorded, sessions)
		switch {
		case total == 0:
			f.add(rideOf([][]point{points}))
		case r.Start.IsZero():
			f.fault(wrong("This FIT file says no time."))
		default:
			r.KM, r.End = total, maxTime(r.Start, r.End)
			f.add(r, nil)
		}
	}
	if len(f.Rides) == 0 && f.Wrong == 0 {
		f.fault(wrong("This FIT file is damaged or cut short."))
	}
}

func maxTime(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}
