package tag_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"earnestpony/core/tag"
)

func TestParse(t *testing.T) {
	n := tag.Number(186)
	for _, typed := range []string{n.String(), "b-0186-" + n.String()[7:], "0186" + n.String()[7:], " B 0186 " + n.String()[7:] + " "} {
		got, err := tag.Parse(typed)
		require.NoError(t, err, typed)
		assert.Equal(t, n, got, typed)
	}
	for _, junk := range []string{"", "B", "B-186", "B-0000-A", "B-01x6-M", "B-0186-I", "Fenwick", "B-99999999-A"} {
		_, err := tag.Parse(junk)
		assert.ErrorIs(t, err, tag.ErrNotATag, junk)
	}
}

// A mistyped tag never opens another bike: one wrong digit or two swapped ones are always noticed.
func TestSlipsAreRefused(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		right := tag.Number(rapid.IntRange(1, int(tag.MaxNumber)).Draw(t, "number"))
		stamped := right.String()
		got, err := tag.Parse(stamped)
		require.NoError(t, err)
		require.Equal(t, right, got)

		digits := []byte(stamped[2 : len(stamped)-2])
		i := rapid.IntRange(0, len(digits)-1).Draw(t, "place")
		j := rapid.IntRange(0, len(digits)-1).Draw(t, "swapped with")
		if rapid.Bool().Draw(t, "swap") {
			digits[i], digits[j] = digits[j], digits[i]
		} else {
			digits[i] = byte('0' + rapid.IntRange(0, 9).Draw(t, "digit"))
		}
		slip := fmt.Sprintf("B-%s-%s", digits, stamped[len(stamped)-1:])
		if slip == stamped || strings.Trim(string(digits), "0") == "" {
			return
		}
		_, err = tag.Parse(slip)
		require.ErrorIs(t, err, tag.ErrMistyped, "%s typed as %s", stamped, slip)
	})
}

func ExampleNumber_String() {
	fmt.Println(tag.Number(7), tag.Number(186), tag.Number(12345))
	// Output: B-0007-R B-0186-G B-12345-Z
}
