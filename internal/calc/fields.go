package calc

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"
)

// Field is one thing wrong with an input, at the path of the value that is wrong:
// readings[0].length_mm.
type Field struct {
	Path    string `json:"path"`
	Code    string `json:"code"`
	Message string `json:"message"`
}

// Refusal is every fault of an input. Nothing was computed.
type Refusal struct {
	Fields []Field
}

func (r *Refusal) Error() string {
	said := make([]string, len(r.Fields))
	for i, f := range r.Fields {
		said[i] = f.Path + ": " + f.Message
	}
	return strings.Join(said, "; ")
}

// faults collects what is wrong, so that one answer lists everything.
type faults struct {
	fields []Field
}

// maxFaults is how many faults an answer names: an input can be wrong a hundred thousand times over.
const maxFaults = 50

func (f *faults) add(path, code, format string, args ...any) {
	if len(f.fields) >= maxFaults {
		return
	}
	f.fields = append(f.fields, Field{path, code, fmt.Sprintf(format, args...)})
}

func (f *faults) refusal() error {
	if len(f.fields) == 0 {
		return nil
	}
	return &Refusal{f.fields}
}

// object reads one JSON object strictly. Each getter notes a fault and returns a zero value when
// the field is missing or wrong; done notes the fields that nobody asked for.
type object struct {
	path   string
	fields map[string]json.RawMessage
	asked  []string
	faults *faults
}

// root reads input as an object; ok is false when it is none.
func root(input []byte, f *faults) (*object, bool) {
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(input, &fields); err != nil || fields == nil {
		f.add("", "not-json", "the input is not a JSON object")
		return nil, false
	}
	return &object{fields: fields, faults: f}, true
}

func (o *object) at(name string) string {
	if o.path == "" {
		return name
	}
	return o.path + "." + name
}

// take returns a field; null counts as not there.
func (o *object) take(name string) (json.RawMessage, bool) {
	o.asked = append(o.asked, name)
	raw, ok := o.fields[name]
	return raw, ok && string(raw) != "null"
}

func (o *object) has(name string) bool {
	raw, ok := o.fields[name]
	return ok && string(raw) != "null"
}

func (o *object) done() {
	var extra []string
	for name := range o.fields {
		if !slices.Contains(o.asked, name) {
			extra = append(extra, name)
		}
	}
	slices.Sort(extra) // a map has no order, an answer must
	for _, name := range extra {
		o.faults.add(o.at(name), "unknown-field", "there is no field of this name here")
	}
}

// need notes that a field is missing.
func (o *object) need(name string) {
	o.faults.add(o.at(name), "missing", "this field is needed")
}

// decode reads a field into dst; want names the kind in the message.
func decode[T any](o *object, name, want string) (v T, ok bool) {
	raw, there := o.take(name)
	if !there {
		return v, false
	}
	if err := json.Unmarshal(raw, &v); err != nil {
		o.faults.add(o.at(name), "wrong-kind", "this must be %s", want)
		return v, false
	}
	return v, true
}

// number reads a number from lo to hi. ok is false when it is missing or was refused.
func (o *object) number(name string, lo, hi float64) (v float64, ok bool) {
	v, ok = decode[float64](o, name, "a number")
	if ok && (math.IsNaN(v) || v < lo || v > hi) {
		o.faults.add(o.at(name), "out-of-range", "%g is outside %g to %g", v, lo, hi)
		return 0, false
	}
	return v, ok
}

func (o *object) numberNeeded(name string, lo, hi float64) float64 {
	if !o.has(name) {
		o.take(name)
		o.need(name)
		return 0
	}
	v, _ := o.number(name, lo, hi)
	return v
}

// whole reads a whole number from lo to hi.
func (o *object) whole(name string, lo, hi int) (v int, ok bool) {
	f, ok := o.number(name, float64(lo), float64(hi))
	if ok && f != math.Trunc(f) {
		o.faults.add(o.at(name), "not-whole", "%g is not a whole number", f)
		return 0, false
	}
	return int(f), ok
}

func (o *object) wholeNeeded(name string, lo, hi int) int {
	if !o.has(name) {
		o.take(name)
		o.need(name)
		return 0
	}
	v, _ := o.whole(name, lo, hi)
	return v
}

func (o *object) boolean(name string, otherwise bool) bool {
	if v, ok := decode[bool](o, name, "true or false"); ok {
		return v
	}
	return otherwise
}

// date reads a day written 2026-05-01.
func (o *object) date(name string) (day time.Time, ok bool) {
	s, ok := decode[string](o, name, "a date written 2026-05-01")
	if !ok {
		return day, false
	}
	day, err := time.Parse(time.DateOnly, s)
	if err != nil {
		o.faults.add(o.at(name), "not-a-date", "%q is not a date written 2026-05-01", s)
		return day, false
	}
	return day, true
}

// object reads a nested object.
func (o *object) object(name string) (*object, bool) {
	fields, ok := decode[map[string]json.RawMessage](o, name, "an object")
	if !ok {
		return nil, false
	}
	return &object{path: o.at(name), fields: fields, faults: o.faults}, true
}

// objects reads a list of objects with lo to hi entries.
func (o *object) objects(name string, lo, hi int) []*object {
	raws, ok := decode[[]json.RawMessage](o, name, "a list")
	if !ok {
		return nil
	}
	if len(raws) < lo || len(raws) > hi {
		o.faults.add(o.at(name), "out-of-range", "%d entries: there may be %d to %d", len(raws), lo, hi)
		return nil
	}
	list := make([]*object, 0, len(raws))
	for i, raw := range raws {
		path := fmt.Sprintf("%s[%d]", o.at(name), i)
		var fields map[string]json.RawMessage
		if err := json.Unmarshal(raw, &fields); err != nil || fields == nil {
			o.faults.add(path, "wrong-kind", "this must be an object")
			continue
		}
		list = append(list, &object{path: path, fields: fields, faults: o.faults})
	}
	return list
}

// named reads a text that parse understands. A missing one is a fault only when needed.
func named[T any](o *object, name string, needed bool, parse func(string) (T, error)) (v T) {
	if !o.has(name) {
		o.take(name)
		if needed {
			o.need(name)
		}
		return v
	}
	s, ok := decode[string](o, name, "text")
	if !ok {
		return v
	}
	v, err := parse(s)
	if err != nil {
		o.faults.add(o.at(name), "unknown-value", "%v", err)
	}
	return v
}
