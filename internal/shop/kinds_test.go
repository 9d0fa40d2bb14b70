package shop

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"earnestpony/internal/shop/record"
)

// Every kind of entry has a body that is read, and each refuses one that is none.
func TestEveryKindOfEntryIsRead(t *testing.T) {
	t.Parallel()
	assert.Equal(t, record.Kinds(), record.KindsHeld())
	for _, kind := range record.Kinds() {
		for _, body := range []string{"", "null", "7", `"x"`, "[]", "{"} {
			assert.Error(t, record.Readable(kind, []byte(body)), "%s %s", kind, body)
		}
	}
}
