// Package rules is what the shop decided for itself: its school of wear, intervals, prices, opening hours, places,
// reminders, and how work is done; as it is stored, parsed, filled up with defaults and checked.
//
// It promises that rules which are saved can be parsed, that each setting is checked in one place, and that nothing
// computes with a setting that was not. Whoever computes takes [ParsedRules].
//
//	parsed, err := rules.LoadParsed(ctx, tx)
//	ruling := parsed.Rule(&bike, rules.DrivetrainOf(&bike, nil)) // whose limits hold for this bike
package rules

import (
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
)

// Book is the shop's rule book.
type Book struct {
	desk     *record.Desk
	people   *people.People
	tellCode func(code string) // where the code of a new shop's set-up is printed
}

// New returns the shop's rule book.
func New(desk *record.Desk, p *people.People) *Book {
	return &Book{desk: desk, people: p, tellCode: func(string) {}}
}
