package record

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"

	"earnestpony/internal/store"
)

// plain are letters that carry no separate accent to take off.
var plain = strings.NewReplacer("ß", "ss", "æ", "ae", "œ", "oe", "ø", "o", "ł", "l", "đ", "d", "ð", "d", "þ", "th", "ı", "i", "’", "'")

// Normalise writes text the way it is looked for: lower case, without accents.
func Normalise(s string) string {
	bare, _, err := transform.String(transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn)), norm.NFC), s)
	if err != nil { // only for text that is not text; then it is found as it was typed
		bare = s
	}
	return plain.Replace(strings.ToLower(bare))
}

// maxWords bounds the work of one search; nobody types more to find a bike.
const maxWords = 8

// SearchWords splits what was typed into words to be found, folded.
func SearchWords(q string) []string {
	words := strings.Fields(Normalise(q))
	return words[:min(len(words), maxWords)]
}

// CleanLine takes control characters and outer spaces off a line that was typed.
func CleanLine(s string) string {
	return strings.TrimSpace(strings.Map(func(r rune) rune {
		if unicode.IsControl(r) && r != '\n' {
			return -1
		}
		return r
	}, s))
}

func differing(a, b map[string]json.RawMessage) []string {
	names := map[string]bool{}
	for name := range a {
		names[name] = string(a[name]) != string(b[name])
	}
	for name := range b {
		names[name] = string(a[name]) != string(b[name])
	}
	maps.DeleteFunc(names, func(_ string, differs bool) bool { return !differs })
	return slices.Sorted(maps.Keys(names))
}

// Cut keeps an answer small whatever a cell holds; one that was cut is refused for its length.
func Cut(text string, most int) string {
	if len(text) <= most {
		return text
	}
	r := []rune(text)
	return string(r[:min(len(r), most)])
}

func IndexOf(list []string, s string) int {
	for i, v := range list {
		if v == s {
			return i
		}
	}
	return -1
}

// ChangedFields names the top-level JSON fields in which two values of one type differ.
func ChangedFields(before, after any) ([]string, error) {
	fields := func(v any) (m map[string]json.RawMessage, err error) {
		text, err := json.Marshal(v)
		if err != nil {
			return nil, err
		}
		return m, json.Unmarshal(text, &m)
	}
	a, err := fields(before)
	if err != nil {
		return nil, err
	}
	b, err := fields(after)
	if err != nil {
		return nil, err
	}
	return differing(a, b), nil
}

// NameOf is what an owner calls the bike: its make, or its tag.
func NameOf(b store.Bike) string {
	if b.Make+b.Model+b.Colour == "" {
		return TagOf(b)
	}
	return BikeWords(b)
}

func CodesOf[T ~string](codes []T) []string {
	list := make([]string, len(codes))
	for i, c := range codes {
		list[i] = string(c)
	}
	return list
}
