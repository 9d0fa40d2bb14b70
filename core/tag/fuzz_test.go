package tag_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/core/tag"
)

// FuzzParse reads whatever is scanned or typed as a tag: one that is taken is written as it was stamped.
func FuzzParse(f *testing.F) {
	for _, text := range []string{"", "B-0001-C", "b0001c", "B-9999999-A", "B--1-C", "B-0001-\x00", "Ｂ-0001-C"} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		n, err := tag.Parse(text)
		if err != nil {
			return
		}
		again, err := tag.Parse(n.String())
		require.NoError(t, err, "%q", text)
		assert.Equal(t, n, again)
		assert.Positive(t, int(n))
	})
}
