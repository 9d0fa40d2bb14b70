package e2e

import (
	"fmt"
	"net/http"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// keys types on the keyboard alone, wherever the focus is. A key whose press is taken as a command types nothing, as on a
// real keyboard: the press carries its text, and no text follows it.
func (b *tab) keys(text string) {
	b.t.Helper()
	b.do(chromedp.KeyEvent(text, func(p *input.DispatchKeyEventParams) {
		switch p.Type {
		case input.DispatchKeyEventTypeChar:
			p.Type = input.DispatchKeyEventTypeKeyUp
		case input.DispatchKeyEventTypeKeyDown, input.DispatchKeyEventTypeRawKeyDown:
			p.Type = input.DispatchKeyEventTypeKeyDown
			if len(p.Key) == 1 {
				p.Text, p.UnmodifiedText = p.Key, p.Key
			} else if p.Key == "Enter" {
				p.Text, p.UnmodifiedText = "\r", "\r"
			}
		}
	}))
}

// onOrTo is [tab.tabTo] for what may have the focus already.
func (b *tab) onOrTo(text string) {
	b.t.Helper()
	if !get(b, chromedp.Evaluate[bool](fmt.Sprintf(`document.activeElement?.matches('button') && [document.activeElement?.getAttribute('aria-label'), document.activeElement?.innerText, document.activeElement?.dataset?.testid].join(' ').includes(%q) === true`, text))) {
		b.tabTo(text)
	}
}

// tabTo moves the focus with Tab until it is on what shows or is named a text, and says what it passed when it never is. What
// cannot be pressed while the last press is on its way is come to once it can.
func (b *tab) tabTo(text string) {
	b.t.Helper()
	var passed []string
	for began := time.Now(); time.Since(began) < patience; {
		b.keys("\t")
		here := get(b, chromedp.Evaluate[string](`(() => {
			const e = document.activeElement;
			return [e?.getAttribute('aria-label'), e?.labels?.[0]?.innerText, e?.innerText, e?.name, e?.dataset?.testid].filter(Boolean).join(' ').replace(/\s+/g, ' ');
		})()`))
		if found := get(b, chromedp.Evaluate[bool](fmt.Sprintf("%q.includes(%q)", here, text))); found {
			return
		}
		if !slices.Contains(passed, here) {
			passed = append(passed, here)
		}
	}
	require.Fail(b.t, "the keyboard does not come to "+text, "it passed %q", passed)
}

// With no mouse and no finger: somebody signs in, finds a bike, measures its chain at three places, records that, and voids it.
func TestMeasuredByKeyboardAlone(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	s.client().addBike("Ottoline Brack", twelveSpeed)
	b := s.open(startBrowser(t), 1280, 800)
	b.visit("/")
	b.sees("main", "Mira Oxenholt")
	b.tabTo("Mira Oxenholt")
	b.keys("\r")
	b.until("document.activeElement?.type === 'password'", "the field for the PIN to have the focus")
	b.keys("2718\r")
	b.sees("main", "No bike is in the workshop")
	b.keys("/")
	b.until("document.querySelector('dialog[open] input') === document.activeElement", "the field to find in")
	b.keys("brack")
	b.sees("dialog", "Ottoline Brack")
	b.keys("\r")
	b.sees("main", "This chain was not measured yet.")
	b.keys("m")
	for i, reading := range []string{"305.1", "305.2", "305.1"} {
		b.sees("main", fmt.Sprintf("Place %d of 3", i+1))
		b.until("document.activeElement?.name === 'reading'", "the field for the reading to have the focus")
		b.keys(reading + "\r")
	}
	b.until("![...document.querySelectorAll('main button')].find(b => b.innerText.includes('Record reading'))?.disabled", "a reading to record")
	b.keys("\r")
	b.sees("[data-testid=entry]", "0.1")
	b.tabTo("Steel rule, three places")
	b.keys("\r")
	b.tabTo("Void")
	b.keys("\r")
	b.until("document.querySelector('dialog[open]')?.contains(document.activeElement)", "the focus in the dialog")
	b.tabTo("What was wrong")
	b.keys("Rule slipped\r")
	b.leaves()
	b.sees("[data-struck=yes]", "voided: Rule slipped")
	b.until("document.activeElement !== document.body", "the focus where it was")
}

// By keyboard alone a bike is booked in, a route chosen, and three steps done; and a message goes to a customer.
func TestBookedInByKeyboardAlone(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	c := s.client()
	c.oneByOne()
	c.openAtAllHours()
	tag := c.addBike("Ottoline Brack", twelveSpeed)
	var page struct{ Customer struct{ ID string } }
	c.do("GET", "/bikes/"+tag, nil, "", http.StatusOK, &page)
	c.do("PUT", "/customers/"+page.Customer.ID, map[string]any{"version": 1,
		"facts": map[string]any{"name": "Ottoline Brack", "phone": "0555 014 118", "contact_way": "message", "consent": true}}, "", http.StatusOK, nil)
	c.do("POST", "/bikes/"+tag+"/measurements", map[string]any{"instrument_id": instrument(c, "gauge-percent"), "entries": []map[string]any{{"place": 1, "text": "0.2"}}}, "", http.StatusCreated, nil)
	c.do("POST", "/bikes/"+tag+"/events", map[string]any{"event": "soaked-ride"}, "", http.StatusCreated, nil)

	b := s.open(startBrowser(t), 1280, 800)
	b.signIn("Mira Oxenholt", "2718")
	b.visit("/due/messages")
	b.sees("[data-testid=draft]", "0555 014 118")
	b.tabTo("Send it")
	b.keys("\r")
	b.until(`document.querySelector('[data-testid=message]')?.dataset.state === 'delivered'`, "the message to be delivered")

	b.visit("/bikes/" + tag)
	b.sees("main", "Heavy rain ride")
	b.keys("c")
	b.sees("main", "First, look.")
	b.keys("t")
	b.until("document.activeElement?.closest('fieldset')?.innerText.includes('Drivetrain')", "the focus on what is not graded yet")
	b.tabTo("Grit heard")
	b.keys("\r")
	b.tabTo("Mud dried on")
	b.keys("\r")
	b.sees("[data-testid=route]", "Clip-on cleaner")
	b.keys("t")
	b.sees("main", "is recommended")
	b.tabTo("Plan clip-on cleaner")
	b.keys("\r")
	b.until("document.querySelector('dialog[open]')?.contains(document.activeElement)", "the focus in the dialog")
	b.tabTo("Plan it")
	b.keys("\r")
	b.sees("main", "Step 1 of")
	// Warnings first, then what begins or ends the step.
	const standing = `document.querySelector('main').innerText`
	for step := range 3 {
		b.until(fmt.Sprintf(`%s.includes('Step %d of')`, standing, step+1), "step %d", step+1)
		for get(b, chromedp.Evaluate[bool](fmt.Sprintf(`%s.includes('Step %d of')`, standing, step+1))) {
			before := get(b, chromedp.Evaluate[string](standing))
			next := "main-action"
			if get(b, chromedp.Evaluate[bool](`document.querySelector('[aria-label^="Got it: "]') !== null`)) {
				next = "Got it: "
			}
			b.tabTo(next)
			b.keys("\r")
			b.until(fmt.Sprintf(`%s !== %q`, standing, before), "what comes after %q", before)
		}
	}
}
