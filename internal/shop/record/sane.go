package record

import (
	"fmt"
	"math"
	"reflect"
	"strings"
	"time"
	"unicode/utf8"
)

// What anything that comes in may be, whichever way it comes: from the page, by the contract, in a table, a
// passport, a ride file, or from the demo. Single fields are held closer where they are used.
const (
	MaxText   = 4000         // characters of one text
	maxNumber = 1e9          // either way; no measure, price or count of a workshop comes near
	maxItems  = 2000         // of one list
	maxDepth  = 24           // of things within things
	MaxFaults = 50           // that one answer names
	earliest  = "1990-01-01" // nothing that is kept here happened before
	latest    = "2100-01-01" // nothing is planned for later
)

var (
	earliestTime = mustDay(earliest)
	latestTime   = mustDay(latest)
)

func mustDay(day string) time.Time {
	t, err := time.Parse(time.DateOnly, day)
	if err != nil {
		panic(err)
	}
	return t
}

// Sane says what is wrong with the texts, numbers and times of a value, at their paths: text that is not
// UTF-8, holds a NUL or is too long, numbers that are none or beyond all measure, times outside of 1990 to
// 2100, lists without end. At most 50 faults are named.
func Sane(v any) []Field {
	w := saneWalk{}
	w.walk("", reflect.ValueOf(v), 0)
	return w.faults
}

type saneWalk struct{ faults []Field }

func (w *saneWalk) fault(path, code, format string, args ...any) {
	if len(w.faults) < MaxFaults {
		w.faults = append(w.faults, Field{Path: path, Code: code, Message: fmt.Sprintf(format, args...)})
	}
}

func (w *saneWalk) walk(path string, v reflect.Value, depth int) {
	if !v.IsValid() || len(w.faults) >= MaxFaults {
		return
	}
	if depth > maxDepth {
		w.fault(path, "too-deep", "This goes too deep.")
		return
	}
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		if !v.IsNil() {
			w.walk(path, v.Elem(), depth+1)
		}
	case reflect.String:
		w.text(path, v.String())
	case reflect.Float64, reflect.Float32:
		w.number(path, v.Float())
	case reflect.Int, reflect.Int8, reflect.Int16, reflect.Int32, reflect.Int64:
		w.number(path, float64(v.Int()))
	case reflect.Slice, reflect.Array:
		if v.Type().Elem().Kind() == reflect.Uint8 { // a file, an id, raw JSON: whoever reads it looks at it
			return
		}
		if v.Len() > maxItems {
			w.fault(path, "too-many", "Too many: at most %d.", maxItems)
			return
		}
		for i := range v.Len() {
			w.walk(fmt.Sprintf("%s[%d]", path, i), v.Index(i), depth+1)
		}
	case reflect.Map:
		if v.Len() > maxItems {
			w.fault(path, "too-many", "Too many: at most %d.", maxItems)
			return
		}
		for it := v.MapRange(); it.Next(); {
			key := fmt.Sprint(it.Key().Interface())
			w.text(path, key)
			w.walk(Joined(path, key), it.Value(), depth+1)
		}
	case reflect.Struct:
		if at, is := v.Interface().(time.Time); is {
			w.time(path, at)
			return
		}
		for i := range v.NumField() {
			f := v.Type().Field(i)
			if f.IsExported() {
				w.walk(Joined(path, nameOfField(f)), v.Field(i), depth+1)
			}
		}
	default: // true and false, and what holds no value of anybody's
	}
}

// nameOfField is what a field is called on the wire; empty for what stands in its parent's place.
func nameOfField(f reflect.StructField) string {
	for _, tag := range []string{"json", "form"} {
		if name, _, _ := strings.Cut(f.Tag.Get(tag), ","); name != "" && name != "-" {
			return name
		}
	}
	if f.Anonymous || f.Name == "Body" || f.Name == "Params" {
		return ""
	}
	return strings.ToLower(f.Name)
}

func Joined(path, name string) string {
	switch {
	case path == "":
		return name
	case name == "":
		return path
	}
	return path + "." + name
}

func (w *saneWalk) text(path, text string) {
	switch {
	case !utf8.ValidString(text) || strings.ContainsRune(text, 0):
		w.fault(path, "not-text", "There are characters in this that are no text.")
	case len(text) > MaxText && utf8.RuneCountInString(text) > MaxText:
		w.fault(path, "too-long", "This is too long: at most %d characters.", MaxText)
	}
}

func (w *saneWalk) number(path string, n float64) {
	if math.IsNaN(n) || math.Abs(n) > maxNumber {
		w.fault(path, "out-of-range", "This number is beyond all measure.")
	}
}

func (w *saneWalk) time(path string, at time.Time) {
	if !at.IsZero() && (at.Before(earliestTime) || at.After(latestTime)) || at.IsZero() && path != "" {
		w.fault(path, "out-of-range", "This date cannot be: %s.", at.Format("2 January 2006"))
	}
}

// CheckPast says what is wrong with when something is said to have happened; nothing where that can be.
func CheckPast(path string, at, now time.Time) *Field {
	switch {
	case at.Before(earliestTime):
		return &Field{Path: path, Code: "out-of-range", Message: fmt.Sprintf("%s is before anything that is kept here: check the year.", at.Format("2 January 2006"))}
	case at.After(now.Add(ClockSlack)):
		return &Field{Path: path, Code: "in-the-future", Message: "This is dated in the future. Check the clock of this device."}
	}
	return nil
}
