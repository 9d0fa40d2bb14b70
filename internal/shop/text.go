package shop

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"
)

// plain are letters that carry no separate accent to take off.
var plain = strings.NewReplacer("ß", "ss", "æ", "ae", "œ", "oe", "ø", "o", "ł", "l", "đ", "d", "ð", "d", "þ", "th", "ı", "i", "’", "'")

// normalise writes text the way it is looked for: lower case, without accents.
func normalise(s string) string {
	bare, _, err := transform.String(transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn)), norm.NFC), s)
	if err != nil { // only for text that is not text; then it is found as it was typed
		bare = s
	}
	return plain.Replace(strings.ToLower(bare))
}

// maxWords bounds the work of one search; nobody types more to find a bike.
const maxWords = 8

// searchWords splits what was typed into words to be found, folded.
func searchWords(q string) []string {
	words := strings.Fields(normalise(q))
	return words[:min(len(words), maxWords)]
}

// cleanLine takes control characters and outer spaces off a line that was typed.
func cleanLine(s string) string {
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
