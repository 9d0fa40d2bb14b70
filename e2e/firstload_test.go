package e2e

import (
	"fmt"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"testing"

	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// overWire counts what comes over it, in bytes as they are sent.
type overWire struct {
	sync.Mutex
	kind, path map[network.RequestID]string
	bytes      map[network.RequestID]float64
}

func (b *tab) overWire() *overWire {
	b.t.Helper()
	w := &overWire{kind: map[network.RequestID]string{}, path: map[network.RequestID]string{}, bytes: map[network.RequestID]float64{}}
	_, err := chromedp.Call(b.ctx, network.SetCacheDisabled, network.SetCacheDisabledParams{CacheDisabled: true})
	require.NoError(b.t, err)
	require.NoError(b.t, chromedp.Listen(b.ctx, func(event any) {
		w.Lock()
		defer w.Unlock()
		switch e := event.(type) {
		case *network.EventResponseReceived:
			u, _ := url.Parse(e.Response.URL)
			w.kind[e.RequestID], w.path[e.RequestID] = string(e.Type), u.Path
		case *network.EventLoadingFinished:
			w.bytes[e.RequestID] = e.EncodedDataLength
		}
	}))
	return w
}

func (w *overWire) sum(counts func(kind, path string) bool) (kB float64) {
	w.Lock()
	defer w.Unlock()
	for id, n := range w.bytes {
		if counts(w.kind[id], w.path[id]) {
			kB += n / 1000
		}
	}
	return kB
}

// The first load of a tablet that knows nothing yet, with every screen that it fetches meanwhile, and of a customer's
// phone, which fetches one page.
func TestFirstLoad(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	tag := c.addBike("Sunniva Dunnage", twelveSpeed)
	var link struct{ URL string }
	c.do("POST", "/links", map[string]any{"kind": "owner", "tag": tag}, "", 201, &link)
	all := func(string, string) bool { return true }
	script := func(kind, _ string) bool { return kind == "Script" }

	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	spare := func(saves bool) {
		_, err := chromedp.Call(b.ctx, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{
			Source: fmt.Sprintf("Object.defineProperty(navigator, 'connection', { value: { saveData: %t }, configurable: true })", saves)})
		require.NoError(t, err)
	}
	b.visit("/readyz") // and nothing of the first screen is still on its way
	w := b.overWire()
	spare(true) // the bike's page by itself
	b.visit("/bikes/" + tag)
	b.sees("main", "Parts fitted")
	b.until(`!document.querySelector('main').innerText.includes('Fetching')`, "all of the bike")
	first := w.sum(all)
	spare(false)
	b.visit("/bikes/" + tag)
	b.until(`performance.getEntriesByType('resource').some(e => e.name.includes('/SizerPlace')) && performance.getEntriesByType('resource').some(e => e.name.includes('/WastePlace'))`, "every screen to be fetched")
	t.Logf("a bike page: %.0f kB; with every screen %.0f kB", first, w.sum(all)-first)
	assert.Less(t, first, 300.0, "kB over the wire")

	phone := s.open(startBrowser(t), 390, 800)
	w = phone.overWire()
	u, err := url.Parse(link.URL)
	require.NoError(t, err)
	phone.visit(u.Path)
	phone.sees("main", "What comes next")
	scripts := w.sum(script)
	vendor := regexp.MustCompile(`/assets/(react|query|date)[^/]*\.js`)
	ours := w.sum(func(kind, path string) bool { return kind == "Script" && !vendor.MatchString(path) })
	t.Logf("a customer's page: %.0f kB, of which script %.0f kB, ours %.0f kB", w.sum(all), scripts, ours)
	assert.Less(t, scripts, 100.0, "kB of script")
	assert.Less(t, ours, 35.0, "kB of ours")
	assert.Zero(t, w.sum(func(_, path string) bool { return strings.Contains(path, "/App-") }), "nothing of the shop's")
}
