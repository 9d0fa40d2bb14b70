package e2e

import (
	"net/http"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// The shop's owner adds somebody on the page, who signs in elsewhere and is offered what they may do and nothing else; two
// change the same person and see both versions; what the owner ticks shows on the other device; and whoever is locked out is
// signed out at once.
func TestPeopleComeAndGoOnThePage(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	s.pony("sluice gate at half tide\n", "person", "--role", "owner", "Wenna Sallow")
	s.client().addBike("Ottoline Brack", twelveSpeed)
	browser := startBrowser(t)
	office := s.open(browser, 1280, 800)
	office.signIn("Wenna Sallow", "sluice gate at half tide")
	office.visit("/settings/people")
	office.press("Add a person")
	office.fill("name", "Odalys Finch")
	office.fill("secret", "1234")
	office.pressIn("dialog", "counter")
	office.pressIn("dialog form", "Add")
	office.sees("dialog", "the first that anybody would try")
	office.fill("secret", "7319")
	office.pressIn("dialog form", "Add")
	office.sees("[data-testid=member]", "Odalys Finch")

	desk := s.open(browser, 1280, 800)
	desk.signIn("Odalys Finch", "7319")
	offered := func(b *tab, css string) bool {
		return get(b, chromedp.Evaluate[bool](`document.querySelector('`+css+`') !== null`))
	}
	desk.visit("/customers")
	desk.sees("main", "Add a customer")
	desk.visit("/settings/tools")
	desk.sees("main", "Steel rule")
	assert.False(t, offered(desk, "main a[href=\"/settings/tools/new\"]"))
	assert.False(t, offered(desk, "a[href=\"/settings/people\"]"))
	desk.visit("/settings/people") // by its address
	desk.sees("main", "The shop's owner says who works here")

	// What the owner ticks is offered on the other device without a reload.
	desk.visit("/settings/tools")
	desk.sees("main", "Steel rule")
	office.visit("/settings/permissions")
	office.do(chromedp.WaitVisible(chromedp.CSS(`[aria-label="Tools and minutes: counter"]`)), chromedp.Click(chromedp.CSS(`[aria-label="Tools and minutes: counter"]`)))
	office.press("Save the change")
	desk.until(`document.querySelector('main a[href="/settings/tools/new"]') !== null`, "the way to add a tool")
	office.sees("[data-testid=permission]", "Not as usual here")

	// Another owner changes the same person meanwhile: both versions stand side by side, and one is kept.
	office.visit("/settings/people")
	office.until(`(() => { const e = document.querySelector('[aria-label="Change Odalys Finch"]'); e?.click(); return e !== null; })()`, "the person")
	office.fill("name", "Odalys Finch-Marsh")
	s.pony("", "person", "--change", "--role", "mechanic", "Odalys Finch")
	desk.sees("body", "Signed out meanwhile") // another role signs out at once
	office.pressIn("dialog form", "Save")
	office.sees("dialog", "Somebody else changed this meanwhile")
	office.pressIn("dialog", "Keep mine")
	office.sees("[data-testid=member]", "Odalys Finch-Marsh")

	desk.visit("/")
	desk.signIn("Odalys Finch-Marsh", "7319")
	s.pony("", "person", "--change", "--state", "locked", "Odalys Finch-Marsh")
	desk.sees("body", "Signed out meanwhile")
	var people []struct{ Name string }
	s.client().do("GET", "/people", nil, "", http.StatusOK, &people)
	for _, p := range people {
		assert.NotEqual(t, "Odalys Finch-Marsh", p.Name, "who is locked out cannot be chosen")
	}
	office.sees("main", "locked out")
}
