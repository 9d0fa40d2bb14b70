package e2e

import (
	"net/http"
	"testing"

	"github.com/chromedp/chromedp"
)

// A caked bike: the grades are chosen, the route stands beside the others with its cautions, and what was
// seen outlives a reload. A joining link on the shelf opens what was closed.
func TestHowABikeIsCleaned(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	tag := c.addBike("Ottoline Brack", twelveSpeed)
	mira := s.open(startBrowser(t), 768, 1024)
	mira.signIn("Mira Oxenholt", "2718")
	mira.visit("/bikes/" + tag)
	mira.press("Book in")
	mira.sees("main", "First, look.")
	mira.press("Sprocket teeth hidden")
	mira.press("Mud dried on")
	mira.sees("[data-testid=route]", "Clip-on cleaner")
	mira.sees("main", "a bath is the most until one is here")
	mira.sees("[data-testid=caution]", "never to drain or ground")
	mira.sees("[data-testid=wash]", "Hose")

	c.do("POST", "/stock", map[string]any{"kind": "joining-link", "facts": map[string]any{"name": "Twelve-speed links", "sprockets": 12, "quantity": 3, "low_mark": 1}}, "", http.StatusCreated, nil)
	mira.do(chromedp.Reload())
	mira.sees("[data-testid=route]", "Full strip-down")
	mira.sees("[data-testid=caution]", "a chain that opens throws the rider")
}
