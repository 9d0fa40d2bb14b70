package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Two hundred things wait on a tablet, and the server is killed three times while they are sent: none is lost, none is done
// twice, and they come in order. `make torture` kills it fifty times.
func TestTortureOfADevice(t *testing.T) {
	t.Parallel()
	times, whole := tortures()
	many := 200
	if !whole {
		times = 3
	}
	s := startServer(t)
	c := s.client()
	_, id := bikeIn(c, "Ottoline Brack", "quick", nil)
	wire := s.line()
	b := wire.showsJob(s, id)
	wire.set(refuses)
	b.note("note 000")
	b.until(`document.querySelector('header [role=status]')?.textContent.startsWith('1 to send')`, "the first to wait")
	// The others as it was kept itself, each a moment later than the one before.
	b.toUnsent(fmt.Sprintf(`store => store.getAll().onsuccess = e => {
		const { order, ...first } = e.target.result[0];
		for (let i = 1; i < %d; i++) {
			const text = 'note ' + String(i).padStart(3, '0');
			store.add({ ...first, key: first.key + '-copy-' + i, body: JSON.stringify({ text }), words: 'Note: ' + text, at: first.at + i });
		}
	}`, many))
	wire.set(up)
	b.visit("/unsent")
	for kill := range times {
		least := (kill + 1) * many / (times + 2)
		require.Eventually(t, func() bool { return len(c.notesOf(id)) >= least }, patience, 100*time.Millisecond, "some to arrive")
		s.kill()
		s.start()
	}
	b.allSent()
	notes := c.notesOf(id)
	require.Len(t, notes, many)
	for i, text := range notes {
		assert.Equal(t, fmt.Sprintf("note %03d", i), text)
	}
	b.sees("main", "Everything is sent.")
}
