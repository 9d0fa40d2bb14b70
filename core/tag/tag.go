// Package tag makes and reads the number stamped on a customer bike's tag.
//
// A tag such as B-0186-G is a letter for the shop's own bikes, a running number, and a check
// letter. The check letter is there because tags are read off a swinging piece of metal and typed
// with gloves on: any single wrong digit, and any two digits swapped, gives another letter, so a
// mistyped tag is refused instead of opening somebody else's bike.
package tag

import (
	"errors"
	"fmt"
	"strconv"
	"strings"
)

// Number is the running number of a bike in its shop, from 1. Zero is "no tag".
type Number int

// MaxNumber is the largest number that a tag can carry.
const MaxNumber Number = 9_999_999

// letters are the check letters: the alphabet without I, O and Q, which are misread as digits.
// There are 23 of them because 23 is prime: see [Number.check].
const letters = "ABCDEFGHJKLMNPRSTUVWXYZ"

var (
	// ErrNotATag reports text that does not have the shape of a tag at all.
	ErrNotATag = errors.New("not a bike tag")
	// ErrMistyped reports a tag whose check letter does not belong to its number.
	ErrMistyped = errors.New("check letter does not fit")
)

// String writes the tag as it is stamped: B-0186-G. Numbers past 9999 simply grow longer.
func (n Number) String() string {
	return fmt.Sprintf("B-%04d-%c", int(n), n.check())
}

// check returns the check letter: the digits weighted by powers of two, from the right, modulo 23.
// A single wrong digit changes the sum by w·d with 0 < d < 10 and w a power of two, and a swap by
// (w₁ − w₂)·d; modulo the prime 23 neither is zero while the weights differ, which the powers of
// two do for the first eleven places. Tags have seven places at most.
func (n Number) check() byte {
	sum, weight := 0, 1
	for v := int(n); v > 0; v /= 10 {
		weight = weight * 2 % len(letters)
		sum += v % 10 * weight
	}
	return letters[sum%len(letters)]
}

// Parse reads a tag as a person or a scanner types it: case, spaces and dashes do not matter, and
// the leading B may be left out. It fails with [ErrNotATag] or [ErrMistyped].
func Parse(s string) (Number, error) {
	t := strings.ToUpper(strings.TrimSpace(s))
	t = strings.NewReplacer("-", "", " ", "", "–", "").Replace(t)
	t = strings.TrimPrefix(t, "B")
	if len(t) < 5 {
		return 0, fmt.Errorf("%q: %w: it looks like B-0186-G", s, ErrNotATag)
	}
	digits, letter := t[:len(t)-1], t[len(t)-1]
	v, err := strconv.ParseUint(digits, 10, 32)
	if err != nil || v == 0 || Number(v) > MaxNumber || !strings.ContainsRune(letters, rune(letter)) {
		return 0, fmt.Errorf("%q: %w: it looks like B-0186-G", s, ErrNotATag)
	}
	n := Number(v)
	if n.check() != letter {
		return 0, fmt.Errorf("%q: %w: read the number on the tag once more", s, ErrMistyped)
	}
	return n, nil
}
