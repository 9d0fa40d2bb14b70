package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// undecided is what axe leaves to people: a rule, where, and what was decided on looking.
var undecided = []struct {
	rule  string
	where *regexp.Regexp
	why   string
}{
	{"color-contrast", regexp.MustCompile(`<text |<tspan`), "drawn text: the ink of tags and drawings on their ground is held to AA by the page's theme test"},
	{"color-contrast", regexp.MustCompile(`<select `), "the arrow is a gradient; the text stands on the panel's own colour"},
	{"color-contrast", regexp.MustCompile(`<kbd |>[^<]{1,2}<`), "one or two signs, in the ink of what they stand on"},
	{"color-contrast", regexp.MustCompile(`partially obscured|overlapped by another`), "runs on below the edge of a list or under the frame, in the same ink as what is seen"},
	{"color-contrast", regexp.MustCompile(`class="(stint|stay|flag)`), "the day's bars: white on each hue and ink on each hatching are held to AA by the theme test"},
	{"color-contrast", regexp.MustCompile(`no value; test`), "an empty field: typed text is in the page's ink"},
	{"hidden-content", regexp.MustCompile(`.`), "file fields that a button opens, and what another width shows: each width is looked at"},
	{"label-content-name-mismatch", regexp.MustCompile(`>[−+/⌫.,0-9]<`), "a sign for a button whose name says it in words"},
	{"target-size", regexp.MustCompile(`class="(stint|flag-grip)`), "the day's bars are as wide as their time; the list beside them does the same"},
	{"css-orientation-lock", regexp.MustCompile(`.`), "no style asks for an orientation"},
	{"p-as-heading", regexp.MustCompile(`.`), "a sentence in larger type that heads nothing"},
}

func decided(found string) bool {
	rule, where, _ := strings.Cut(found, " ")
	return slices.ContainsFunc(undecided, func(u struct {
		rule  string
		where *regexp.Regexp
		why   string
	}) bool {
		return u.rule == rule && u.where.MatchString(where)
	})
}

// axe looks at the page by rules and names what is wrong: rule, how bad, and where. Of a dialog it sees the dialog alone, as
// what is behind it was looked at by itself; of part of the rules, the screen without the frame.
func (b *tab) axe(rules string) []string {
	b.t.Helper()
	return get(b, chromedp.Evaluate[[]string](fmt.Sprintf(`(async () => {
		const all = axe.getRules(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']).map(r => r.ruleId);
		const values = all.filter(%s);
		const found = await axe.run({
			include: document.querySelector('dialog[open]') ? [['dialog[open]']] : values.length > 1 ? [['html']] : [['main']],
			exclude: values.includes('target-size') ? [['svg'], ['.stint'], ['.flag-grip']] : [['svg *']],
		}, { runOnly: { type: 'rule', values }, resultTypes: ['violations', 'incomplete'], elementRef: false, preload: false, iframes: false });
		const say = (kind, r) => r.nodes.slice(0, 3).map(n => kind + ' ' + r.id + ' (' + r.impact + '): ' + n.html.slice(0, 160) + ' — ' + n.any.concat(n.all, n.none).map(c => c.message).join('; ').slice(0, 200));
		return [...found.violations.flatMap(r => say('wrong', r)), ...found.incomplete.flatMap(r => say('undecided', r))];
	})()`, rules), chromedp.EvalAwaitPromise))
}

// fewRows leaves the first dozen of a long list, as those after it are built like them.
const fewRows = `(() => {
	for (const list of document.querySelectorAll('main ul, main ol, main tbody')) for (const row of [...list.children].slice(12)) row.hidden = true;
	return true;
})()`

// Every state of the page speaks plainly, fits its width, and has nothing wrong that axe knows of: its structure, its contrasts
// by day and by night, the size of what is pressed at three widths. In full, everything is looked at in every theme and width.
func TestEveryScreen(t *testing.T) {
	t.Parallel()
	script, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err)
	s := startDemo(t)
	full := os.Getenv("PONY_TEST_FULL") != ""
	only := os.Getenv("PONY_WALK")
	const windows = 3 // beside each other, as each waits most of the time
	for n := range windows {
		t.Run(fmt.Sprintf("window %d", n+1), func(t *testing.T) {
			t.Parallel()
			here := *s
			here.t = t
			browser := startBrowser(t)
			mira := here.open(browser, 1280, 800)
			mira.signIn("Mira Oxenholt", "2718")
			var owner *tab // where somebody else is offered less
			wide := map[*tab][]int64{mira: {1280, 768, 390}}
			for i, p := range walk {
				if i*windows/len(walk) != n || p.again && !full || only != "" && !strings.HasPrefix(p.name, only) {
					continue
				}
				b := mira
				if p.owner {
					if owner == nil {
						owner = here.open(browser, 1280, 800)
						owner.signIn("Wenna Sallow", "slack water at noon")
						wide[owner] = []int64{1280, 768, 390}
					}
					b = owner
				}
				widths := wide[b]
				b.reach(p)
				b.plainWords(p)
				if get(b, chromedp.Evaluate[bool](`globalThis.axe === undefined`)) {
					get(b, chromedp.Evaluate[bool](string(script)+`; true`))
				}
				if full {
					b.inEveryLook(p)
					continue
				}
				get(b, chromedp.Evaluate[bool](fewRows))
				b.dayAndNight(p)
				if get(b, chromedp.Evaluate[bool](`document.querySelector('dialog[open]') !== null`)) {
					b.fits(p, widths[0]) // where the screen before it was left, on a desk or on a phone
					continue
				}
				for i, width := range widths {
					if i > 0 { // it stands at the first
						b.resize(width, 800)
					}
					b.fits(p, width)
				}
				if slices.Contains(printed, p.name) {
					b.onPaper(p)
				}
				slices.Reverse(widths) // and stays at the last for the next pose
			}
		})
	}
}

// printed are the screens that people print.
var printed = []string{"today", "bike", "bike/cost", "bike/tag", "stock/waste", "job/report", "job/ticket"}

// pressedOnPaper names what only a screen can use: what is pressed, typed into, or hints at a key.
const pressedOnPaper = `[...document.querySelectorAll('.frame button, .frame a.btn, .frame kbd, .frame input')]
	.filter(e => e.checkVisibility() && e.getBoundingClientRect().height > 0 && !e.matches('.btn-ghost, .stint, .flag-grip, .tooltip, .tab-active, [type=checkbox]') && getComputedStyle(e).clip === 'auto' && !e.closest('.sr-only'))
	.map(e => e.outerHTML.slice(0, 120)).slice(0, 4).join('\n')`

// onPaper fails for what a printed screen shows that paper cannot use, and for what is wider than a sheet.
func (b *tab) onPaper(p pose) {
	b.t.Helper()
	media := func(name string) {
		_, err := chromedp.Call(b.ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Media: name})
		require.NoError(b.t, err)
	}
	b.resize(700, 990) // a sheet of A4 within its margins
	b.theme("night")
	get(b, chromedp.Evaluate[bool](`(dispatchEvent(new Event('beforeprint')), true)`))
	media("print")
	assert.Equal(b.t, "pony-day", get(b, chromedp.Evaluate[string](`document.documentElement.dataset.theme`)), "%s on paper", p.name)
	assert.Empty(b.t, get(b, chromedp.Evaluate[string](pressedOnPaper)), "%s on paper", p.name)
	b.until(`(`+tooWide+`) === ''`, "%s to fit a sheet", p.name) // what is drawn to the width is drawn anew
	if dir := os.Getenv("PONY_PAPER"); dir != "" {
		b.shot(filepath.Join(dir, strings.ReplaceAll(p.name, "/", "-")+".png"))
	}
	media("")
	get(b, chromedp.Evaluate[bool](`(dispatchEvent(new Event('afterprint')), true)`))
	b.theme("day")
}

// dayAndNight looks at everything by day, and by night at what turns on it.
func (b *tab) dayAndNight(p pose) {
	b.t.Helper()
	b.agrees(p, "by day", "id => true")
	b.theme("night")
	b.agrees(p, "by night", "id => id === 'color-contrast'")
	b.theme("day")
}

// inEveryLook looks at everything in every theme and width.
func (b *tab) inEveryLook(p pose) {
	b.t.Helper()
	for _, theme := range []string{"night", "day"} {
		b.theme(theme)
		for _, width := range []int64{1280, 768, 390} {
			b.resize(width, 800)
			b.agrees(p, fmt.Sprintf("by %s at %d px", theme, width), "id => true")
			b.fits(p, width)
		}
	}
}

func (b *tab) theme(name string) {
	b.t.Helper()
	get(b, chromedp.Evaluate[bool](fmt.Sprintf(`(document.documentElement.dataset.theme = 'pony-%s', true)`, name)))
}

// fits fails for what is wider than the screen, or too small for a finger.
func (b *tab) fits(p pose, width int64) {
	b.t.Helper()
	assert.Empty(b.t, get(b, chromedp.Evaluate[string](tooWide)), "%s at %d px is wider than its place", p.name, width)
	assert.Empty(b.t, get(b, chromedp.Evaluate[string](hardToUse)), "%s at %d px", p.name, width)
}

// agrees fails for everything that axe finds wrong, and for what it leaves undecided and nobody decided.
func (b *tab) agrees(p pose, how, rules string) {
	b.t.Helper()
	for _, found := range b.axe(rules) {
		if rest, open := strings.CutPrefix(found, "undecided "); open {
			if decided(rest) {
				continue
			}
		}
		assert.Fail(b.t, p.name+" "+how, found)
	}
}
