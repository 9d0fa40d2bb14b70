package e2e

import (
	"context"
	"net"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// How the network between a device and the server is.
type lineState int

const (
	up      lineState = iota
	refuses           // nobody listens
	hangs             // what is sent goes nowhere, and nothing says so
	drops             // what is asked arrives, and its answer does not
)

// line is a network between a device and a server, which the test cuts.
type line struct {
	t       *testing.T
	ln      net.Listener
	to      string
	mu      sync.Mutex
	changed *sync.Cond
	is      lineState
	open    map[net.Conn]bool
}

// line leads to a server; its address stays the same whatever becomes of the network.
func (s *server) line() *line {
	s.t.Helper()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(s.t, err)
	l := &line{t: s.t, ln: ln, to: s.addr, open: map[net.Conn]bool{}}
	l.changed = sync.NewCond(&l.mu)
	s.t.Cleanup(func() {
		_ = ln.Close()
		l.set(refuses)
	})
	go func() {
		for {
			in, err := ln.Accept()
			if err != nil {
				return
			}
			go l.join(in)
		}
	}()
	return l
}

// server is the server as it is reached over the line.
func (l *line) server(s *server) *server {
	return &server{t: s.t, dsn: s.dsn, addr: l.ln.Addr().String(), process: s.process}
}

// set changes how the network is; what was open breaks off, but where it hangs.
func (l *line) set(to lineState) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.is = to
	if to != hangs {
		for c := range l.open {
			_ = c.Close()
		}
	}
	l.changed.Broadcast()
}

// now is how the network is; while it hangs, it is waited for.
func (l *line) now() lineState {
	l.mu.Lock()
	defer l.mu.Unlock()
	for l.is == hangs {
		l.changed.Wait()
	}
	return l.is
}

func (l *line) join(in net.Conn) {
	l.mu.Lock()
	l.open[in] = true
	l.mu.Unlock()
	end := func(c net.Conn) {
		_ = c.Close()
		l.mu.Lock()
		delete(l.open, c)
		l.mu.Unlock()
	}
	defer end(in)
	if l.now() == refuses {
		return
	}
	out, err := net.Dial("tcp", l.to)
	if err != nil {
		return
	}
	l.mu.Lock()
	l.open[out] = true
	l.mu.Unlock()
	defer end(out)
	done := make(chan struct{}, 2)
	carry := func(to, from net.Conn, answers bool) {
		defer func() { done <- struct{}{} }()
		bytes := make([]byte, 32<<10)
		for {
			n, err := from.Read(bytes)
			is := l.now()
			if n == 0 && err != nil || is == refuses || is == drops && answers {
				return
			}
			if _, err := to.Write(bytes[:n]); err != nil {
				return
			}
		}
	}
	go carry(out, in, false)
	go carry(in, out, true)
	<-done
}

// device is a browser with a profile that outlives it, as a tablet's does.
type device struct {
	t       *testing.T
	profile string
	path    string
	end     func()
	flags   []chromedp.ExecAllocatorOption
}

// newDevice is one on which nobody was before: the whole browser, as the small one installs nothing.
func newDevice(t *testing.T, flags ...chromedp.ExecAllocatorOption) *device {
	t.Helper()
	d := &device{t: t, profile: t.TempDir(), path: "/usr/bin/chromium", flags: flags}
	t.Cleanup(func() { d.close() })
	return d
}

// close ends the browser as a person does.
func (d *device) close() {
	if d.end != nil {
		d.end()
		d.end = nil
	}
}

// open starts the browser and shows a window; what the profile keeps is there.
func (d *device) open(s *server, width, height int64) *tab {
	d.t.Helper()
	d.close()
	opts := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(d.path), chromedp.UserDataDir(d.profile), chromedp.WindowSize(1280, 800),
		chromedp.NoSandbox, chromedp.DisableGPU,
		chromedp.Flag("headless", "new"), chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-domain-reliability", true), chromedp.Flag("disable-quic", true),
		chromedp.Flag("no-pings", true), chromedp.Flag("no-proxy-server", true), chromedp.Flag("hide-scrollbars", true), chromedp.Flag("force-prefers-reduced-motion", true),
		chromedp.Flag("disable-features", "Translate,OptimizationHints,MediaRouter,DialMediaRouteProvider,AutofillServerCommunication,CertificateTransparencyComponentUpdater"),
		chromedp.Flag("host-resolver-rules", "MAP * ~NOTFOUND, EXCLUDE 127.0.0.1"))
	allocator, stop := chromedp.NewExecAllocator(context.Background(), append(opts, d.flags...)...)
	ctx, _ := chromedp.NewContext(allocator)
	require.NoError(d.t, chromedp.Do(ctx), "start the browser")
	d.end = func() {
		bye, done := context.WithTimeout(ctx, patience)
		_ = chromedp.Cancel(bye) // waits until its profile is written
		done()
		stop()
	}
	b := &tab{t: d.t, ctx: ctx, s: s}
	b.watch(width, height)
	return b
}

// leavesFreely has the window say yes to whatever the browser asks of whoever leaves the page.
func (b *tab) leavesFreely() {
	b.t.Helper()
	b.asked = new(atomic.Int64)
	require.NoError(b.t, chromedp.Listen(b.ctx, func(event any) {
		if e, asks := event.(*page.EventJavascriptDialogOpening); asks {
			if e.Type == page.DialogTypeBeforeunload {
				b.asked.Add(1)
			}
			go func() {
				_, _ = chromedp.Call(b.ctx, page.HandleJavaScriptDialog, page.HandleJavaScriptDialogParams{Accept: true}) // it may have gone
			}()
		}
	}))
}
