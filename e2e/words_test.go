package e2e

import (
	"fmt"
	"os"
	"regexp"
	"slices"
	"strings"
	"sync"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// odd are words that a mechanic at the stand would ask about: the left column of docs/words.md.
var odd = regexp.MustCompile(strings.Join([]string{
	`[Ff]irst the cautions`, `^Seen$`, `^Findings?$`, `Leave it out`, `Not yet: first`, `At hand`, `\bround \d`, `Nothing waits`, `Waits running`,
	`waits by itself`, `[Hh]ands free`, `^Hands$`, `House rule`, `^Go on$`, `^Look$`, `In work`, `[Cc]ame in, not planned`, `Every check is made`, `min of hands`, `\bHands \d`,
	`can be begun`, `no time promised`, `[Tt]ake in\b`, `[Rr]ead the wear`, `not read yet`, `Ride on`, `Unsure`, `Chain and sprockets`, `sprockets too`,
	`Other schools`, `hard (km|mi)`, `Look again in`, `Play a joint`, `or otherwise here`, `Only what presses`, `Something happened`,
	`Soaking ride`, `Through water`, `Stood long`, `Blackens a finger`, `Grit is heard`, `Leave it$`, `Keep what was seen`, `Look anew`, `Goes on next`,
	`Nobody knows`, `^Wants`, `dripped`, `^Strip$`, `^Bare$`, `^Bath$`, `reckon`, `[Pp]lan anew`, `\banew\b`, `[Cc]omes back: the job`, `\b[Ll]edger`,
	`[Ss]truck`, `[Ss]trike`, `Gear to stand in`, `by the ear`, `Is it bare`, `Dry to the inside`, `Shed the water`, `braking faces`, `trace on the pivots`,
	`assisted turn`, `Ready the floor`, `clock of bare steel`, `[Oo]wner tells`, `^Told`, `into the record`, `Set it aside`, `It is a new computer`,
	`Nobody told`, `[Nn]ot to be told`, `\bmail\b`, `side by side: its`, `Grows under travel`, `Judged by`, `Lines of the shop`, `When it speaks`,
	`Round the largest two`, `It shall be`, `Keep it no longer`, `renew it`, `in its band`, `each 1000`, `Fluids at cost`,
	`\b[Oo]wners?\b`, `\b[Cc]hain ?bath`, `\brings?\b`, `\bRings?\b`, `\b[Pp]ulleys?\b`, `\b[Jj]oints?\b`, `\b[Ss]izer\b`, `\bStores\b`, `the Bench`, `the house\b`, `parts of one's own`,
}, "|"))

// plain are places where an odd word is right.
var plain = regexp.MustCompile(`[Ss]hop's owner|^Owner$|\{owner\}|, owner$|sprocket_count|^owner`)

// alsoEnglish are codes of the contract that are words, too.
var alsoEnglish = []string{"all-weather", "child-carrying", "fixed-gear", "hub-gear", "single-speed", "clean-only", "top-up"}

// codes are what the contract calls things, as far as no person would write so.
var codes = sync.OnceValue(func() *regexp.Regexp {
	contract, err := os.ReadFile("../api/openapi.yaml")
	if err != nil {
		panic(err)
	}
	var all []string
	for _, list := range regexp.MustCompile(`enum: \[([^\]]*)\]`).FindAllStringSubmatch(string(contract), -1) {
		for code := range strings.SplitSeq(list[1], ",") {
			code = strings.Trim(strings.TrimSpace(code), `"'`)
			if strings.Contains(code, "-") && !slices.Contains(alsoEnglish, code) && !slices.Contains(all, code) {
				all = append(all, code)
			}
		}
	}
	return regexp.MustCompile(`(^|[^\w-])(` + strings.Join(all, "|") + `|[a-z]+_[a-z_]+)($|[^\w-])`)
})

// says collects what a state says to anybody: its texts, titles, labels and hints.
const says = `(() => {
	const root = document.querySelector('dialog[open]') ?? document.body;
	const walker = document.createTreeWalker(root, NodeFilter.SHOW_TEXT);
	const all = new Set();
	while (walker.nextNode()) if (!['SCRIPT', 'STYLE'].includes(walker.currentNode.parentElement?.tagName)) all.add(walker.currentNode.data.trim());
	for (const e of root.querySelectorAll('[title], [aria-label], [placeholder], [alt]'))
		for (const name of ['title', 'aria-label', 'placeholder', 'alt']) if (e.hasAttribute(name)) all.add(e.getAttribute(name));
	return [...all].filter(Boolean);
})()`

// plainWords fails for every text of a state that holds a code or an odd word.
func (b *tab) plainWords(p pose) {
	b.t.Helper()
	for _, text := range get(b, chromedp.Evaluate[[]string](says)) {
		if p.columns && strings.Contains(text, "_") { // the columns of a table to fill in are named as they are
			continue
		}
		if found := codes().FindString(text); found != "" {
			assert.Fail(b.t, fmt.Sprintf("%s shows the code %q", p.name, found), text)
		}
		if found := odd.FindString(text); found != "" && !plain.MatchString(text) {
			assert.Fail(b.t, fmt.Sprintf("%s says %q", p.name, found), text)
		}
	}
}
