package shop

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Every kind of entry has a body that is read, and each refuses one that is none.
func TestEveryKindOfEntryIsRead(t *testing.T) {
	assert.Equal(t, kinds(), kindsHeld())
	for _, kind := range kinds() {
		for _, body := range []string{"", "null", "7", `"x"`, "[]", "{"} {
			assert.Error(t, readable(kind, []byte(body)), "%s %s", kind, body)
		}
	}
}
