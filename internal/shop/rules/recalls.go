package rules

import (
	"regexp"
	"slices"
	"strings"
	"time"

	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// Recalls is how and when owners are told what is due.
type Recalls = store.Recalls

// defaultRecalls is what holds where a shop set nothing (handbook: intervals, Recalls).
func defaultRecalls() Recalls {
	return Recalls{From: "09:00", Until: "18:00", Closed: []string{"sunday"}, ClosedOn: []string{}, EveryDays: 21,
		Text: "Hello {owner}, your bike {bike} is due at {shop}: {why}. {leave} Bring it in or answer when it suits you. Answer STOP to hear no more of this."}
}

// placeholders are what a template may leave open.
var placeholders = []string{"{owner}", "{bike}", "{tag}", "{why}", "{leave}", "{shop}", "{link}"}

var placeholder = regexp.MustCompile(`\{[^}]*\}`)

const MaxMessage = 1000

func checkRecalls(r *Recalls, fault func(name, code, format string, args ...any)) {
	if r.Closed == nil {
		r.Closed = []string{}
	}
	if r.ClosedOn == nil {
		r.ClosedOn = []string{}
	}
	for name, at := range map[string]string{"from": r.From, "until": r.Until} {
		if !record.ClockTime.MatchString(at) {
			fault(name, "not-a-time", "A time of day looks like 09:00.")
		}
	}
	if r.From >= r.Until {
		fault("until", "out-of-order", "Messages go out from an earlier to a later time of the same day.")
	}
	for _, day := range r.Closed {
		if !slices.Contains(record.Weekdays, day) {
			fault("closed", "unknown-value", "%q is no day of the week.", day)
		}
	}
	if len(r.Closed) > 6 {
		fault("closed", "out-of-range", "A shop that is always closed tells nobody.")
	}
	for _, day := range r.ClosedOn {
		if _, err := time.Parse(time.DateOnly, day); err != nil {
			fault("closed_on", "not-a-date", "%q is not a day written 2026-12-25.", day)
		}
	}
	if r.EveryDays < 1 || r.EveryDays > 365 {
		fault("every_days", "out-of-range", "At most one message for a bike in 1 to 365 days.")
	}
	r.Text = record.CleanLine(r.Text)
	if n := len([]rune(r.Text)); n < 10 || n > MaxMessage {
		fault("text", "out-of-range", "A message is 10 to %d characters.", MaxMessage)
	}
	for _, p := range placeholder.FindAllString(r.Text, -1) {
		if !slices.Contains(placeholders, p) {
			fault("text", "unknown-value", "%s stands for nothing: there are %s.", p, strings.Join(placeholders, ", "))
		}
	}
	if !strings.Contains(r.Text, "{why}") {
		fault("text", "missing", "Say why, with {why}.")
	}
}
