package clean

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Every step that a report or the stand knows by its code is one of the catalogue's, and a customer is told of what was done alone.
func TestWhatACustomerIsTold(t *testing.T) {
	of := func(codes ...string) func(string) bool {
		return func(code string) bool { return slices.Contains(codes, code) }
	}
	assert.Equal(t, []string{"Washed by hand from the top down and dried.", "Chain taken off, soaked and shaken until no more dirt came out of it.", "Every roller oiled, the outside wiped dry."},
		Told(of("oil-wipe", "frame-wipe", "cleaner-on", "jar-refresh")))
	assert.Empty(t, Told(of()))
	assert.True(t, LookedOver(of("look-wet")))
	assert.False(t, LookedOver(of("ride")))
	known := func(code string) bool {
		return slices.ContainsFunc(catalogue, func(s Step) bool { return s.Code == code })
	}
	for _, lines := range customerLines {
		for _, l := range lines {
			assert.True(t, known(l.code), l.code)
		}
	}
	for code := range opens {
		assert.True(t, known(code), code)
		assert.NotEmpty(t, OpenedBy(code))
	}
}
