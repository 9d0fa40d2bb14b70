// Package rules is what the shop decided for itself: its school of wear, intervals, prices, opening hours, places,
// reminders, and how work is done; as it is stored, parsed, filled up with defaults and checked.
//
// It promises that rules which are saved can be parsed, that each setting is checked in one place, and that nothing
// computes with a setting that was not. Whoever computes takes [ParsedRules].
//
//	parsed, err := rules.LoadParsed(ctx, tx)
//	ruling := parsed.Rule(&bike, rules.DrivetrainOf(&bike, nil)) // whose limits hold for this bike
package rules

import "earnestpony/internal/shop/record"

// Book is the shop's rule book.
type Book struct{ desk *record.Desk }

// New returns the shop's rule book.
func New(desk *record.Desk) *Book { return &Book{desk} }
