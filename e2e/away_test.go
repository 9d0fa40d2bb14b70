package e2e

import (
	"io"
	"net"
	"net/url"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"earnestpony/internal/pgtest"
)

// wire is a way to the database that can be cut and mended.
type wire struct {
	listener net.Listener

	mu    sync.Mutex
	to    string
	cut   bool
	conns []net.Conn
}

// newWire returns a wire to a database and the address by which it is reached over it.
func newWire(t *testing.T, dsn string) (*wire, string) {
	t.Helper()
	u, err := url.Parse(dsn)
	require.NoError(t, err)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	w := &wire{listener: l, to: u.Host}
	u.Host = l.Addr().String()
	t.Cleanup(func() { _ = l.Close(); w.set(true) })
	go func() {
		for {
			in, err := l.Accept()
			if err != nil {
				return
			}
			w.join(in)
		}
	}()
	return w, u.String()
}

func (w *wire) join(in net.Conn) {
	w.mu.Lock()
	defer w.mu.Unlock()
	out, err := net.Dial("tcp", w.to)
	if w.cut || err != nil {
		_ = in.Close()
		if err == nil {
			_ = out.Close()
		}
		return
	}
	w.conns = append(w.conns, in, out)
	for _, pair := range [][2]net.Conn{{in, out}, {out, in}} {
		go func() {
			_, _ = io.Copy(pair[0], pair[1])
			_ = pair[0].Close()
		}()
	}
}

// lead has the wire lead to a database, wherever it led before.
func (w *wire) lead(dsn string) error {
	u, err := url.Parse(dsn)
	if err != nil {
		return err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	w.to = u.Host
	return nil
}

// set cuts the wire, with all that goes over it, or mends it.
func (w *wire) set(cut bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.cut = cut
	if cut {
		for _, c := range w.conns {
			_ = c.Close()
		}
		w.conns = nil
	}
}

// While the database cannot be reached the page says so, keeps what was typed, and sends it by itself once the
// database is back: once.
func TestTheDatabaseIsAway(t *testing.T) {
	t.Parallel()
	direct := pgtest.New(t)
	way, dsn := newWire(t, direct)
	s := &server{t: t, dsn: dsn, addr: "127.0.0.1:0"}
	s.pony("", "shop", "Tidewrack Lane Cycle Workshop")
	s.pony("2718\n", "person", "Mira Oxenholt")
	s.start()
	t.Cleanup(s.kill)
	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/customers")
	b.press("Add the first customer")
	b.fill("name", "Ignatius Bellwether-Okonjo")
	way.set(true)
	b.press("Add the customer")
	b.sees("body", "The shop's database cannot be reached; what you typed stays on this screen.")
	b.sees("[role=status]", "1 to send")
	b.until("document.querySelector('[name=name]').value === 'Ignatius Bellwether-Okonjo'", "what was typed")
	way.set(false)
	b.sees("main", "No bike of theirs is in care.")
	b.until("!document.body.innerText.includes('cannot be reached')", "the words to go")
	var found struct{ Total int }
	s.client().do("GET", "/customers", nil, "", 200, &found)
	require.Equal(t, 1, found.Total, "sent again and again, added once")
}
