package formats

import (
	"bytes"
	"fmt"
	"math"
	"time"
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

// What one file may hold.
const (
	MaxRides  = 5000
	maxFaults = 100 // of single lines, that are named
)

// RideFile is what was read of a file.
type RideFile struct {
	Rides  []Ride
	Faults []error // [*FileError], the first hundred; Wrong counts all of them
	Wrong  int
	// Doubts are what the file does not say and a person must, before any of it can be taken.
	Doubts []Doubt
}

// Doubt is something that a file leaves open.
type Doubt struct {
	Code    string   // encoding, date-order
	Choices []string // the likeliest first
	Sample  string   // of the file, to choose by
}

// RideAnswers are how a file is to be read: in the zone of the shop, and by what a person said of its doubts; empty where
// nobody asked.
type RideAnswers struct {
	Zone      *time.Location // of times that say none
	Encoding  string
	DateOrder string // day-first, month-first
}

func (f *RideFile) fault(err error) {
	f.Wrong++
	if len(f.Faults) < maxFaults {
		f.Faults = append(f.Faults, err)
	}
}

// ReadRides reads a GPX, TCX, FIT or CSV file, told apart by what is in it. What is wrong with single lines of a
// table, or with one of several activities, comes beside the rides that are right. Each activity of a file is a
// ride.
func ReadRides(data []byte, answers RideAnswers) RideFile {
	var f RideFile
	if len(data) > 12 && string(data[8:12]) == ".FIT" {
		readFIT(&f, data)
		return f
	}
	head := bytes.TrimSpace(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")))
	if _, is := sixteen(data); is || bytes.HasPrefix(data, []byte("\xff\xfe")) || bytes.HasPrefix(data, []byte("\xfe\xff")) {
		text, _, _, err := decodeText(data, "")
		if err != nil {
			f.fault(notRides)
			return f
		}
		head = bytes.TrimSpace(text)
	}
	switch {
	case len(head) == 0:
		f.fault(wrong("The file is empty."))
	case head[0] == '<':
		readXML(&f, head)
	case bytes.IndexByte(head, 0) >= 0:
		f.fault(notRides)
	default:
		readCSVRides(&f, data, answers)
	}
	return f
}

var notRides = wrong("This is no GPX, TCX, FIT or CSV file.")

// add takes a ride, or what is wrong with it.
func (f *RideFile) add(r Ride, err error) {
	switch {
	case err != nil:
		f.fault(err)
	case len(f.Rides) == MaxRides:
		f.fault(wrong("A file has %d rides at most: split it.", MaxRides))
	case r.Start.Year() < 1990 || r.Start.Year() > 2100 || r.End.Year() > 2100:
		f.fault(wrong("The ride of %s cannot be of that year: its recorder's clock was not set.", r.Start.Format("2 January 2006")))
	case !(r.KM < mostRideKM):
		f.fault(wrong("The ride of %s is %.0f km: farther than anybody rides at a stretch.", r.Start.Format("2 January 2006"), r.KM))
	case !(r.KM >= leastRideKM):
		f.fault(wrong("The ride of %s does not move: its places are all one.", r.Start.Format("2 January 2006")))
	default:
		f.Rides = append(f.Rides, r)
	}
}

// Rides are between these, km.
const (
	leastRideKM = 0.05
	mostRideKM  = 2000
)

// point is where somebody was, when.
type point struct {
	Lat  float64
	Lon  float64
	Time time.Time
}

// earthKM is the mean radius of the earth (handbook: intervals, Odometer).
const earthKM = 6371.0088

// fastest is the speed beyond which a step is a jump, km/h.
const fastest = 100

// rideOf sums the great-circle steps of tracks. A point that would have been reached faster than anybody
// rides is dropped; so is the first, where what follows agrees with itself and not with it, and every point at
// latitude and longitude nought, which is where recorders are that do not know yet. Pauses, and the ways between
// segments, are kept as they are: a pause adds no distance.
func rideOf(segments [][]point) (Ride, error) {
	var r Ride
	points := 0
	for _, s := range segments {
		var last *point
		taken := 0 // of this segment
		var began time.Time
		for i := range s {
			p := &s[i]
			if !(math.Abs(p.Lat) <= 90 && math.Abs(p.Lon) <= 180) {
				return r, wrong("Point %d lies nowhere on earth: latitude %g, longitude %g.", points+1, p.Lat, p.Lon)
			}
			if p.Time.IsZero() {
				return r, wrong("Point %d has no time: a planned route, not a ride.", points+1)
			}
			points++
			if p.Lat == 0 && p.Lon == 0 {
				r.Jumps++
				continue
			}
			if last != nil {
				step, took := distance(*last, *p), p.Time.Sub(last.Time).Hours()
				switch {
				case took < 0 || step > fastest*max(took, 1.0/3600) && taken > 1:
					r.Jumps++
					continue
				case step > fastest*max(took, 1.0/3600): // the first fix is doubted like any other
					r.Jumps++
					taken, began = 0, p.Time
				default:
					r.KM += step
				}
			}
			if taken == 0 {
				began = p.Time
			}
			taken++
			last = p
		}
		if last == nil {
			continue
		}
		if r.Start.IsZero() || began.Before(r.Start) {
			r.Start = began
		}
		if last.Time.After(r.End) {
			r.End = last.Time
		}
	}
	if points < 2 || r.Start.IsZero() {
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
