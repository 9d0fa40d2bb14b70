// Package fitting holds the rules of putting a new chain on: what goes with it, what may close it, and
// what is checked before the bike leaves the stand (handbook: replace-and-size).
//
//	a := fitting.Advise(wear.Replace, fitting.TestFirst)
//	// a.RideTest: fit the chain, ride it under load, and keep the sprockets if nothing skips
package fitting

import (
	"fmt"

	"earnestpony/core/chain"
	"earnestpony/core/sizing"
	"earnestpony/core/wear"
)

// SprocketSchool is one way to decide about the sprockets when a chain has reached its limit. Zero is
// [TestFirst], the house default.
type SprocketSchool uint8

// The schools of sprockets.
const (
	TestFirst       SprocketSchool = iota // fit the chain, ride-test under load, keep the set if nothing skips
	TogetherAtLimit                       // always as a pair
)

var sprocketSchools = [...]string{"test-first", "together-at-limit"}

func (s SprocketSchool) String() string { return sprocketSchools[s] }

// ParseSprocketSchool reads the name that [SprocketSchool.String] writes.
func ParseSprocketSchool(s string) (SprocketSchool, error) {
	return parse[SprocketSchool](sprocketSchools[:], s, "school of sprockets")
}

// Advice is what a verdict asks for.
type Advice struct {
	Chain     bool // a new chain
	Sprockets bool // and sprockets with it
	RideTest  bool // of the old sprockets, under load
	Look      bool // at rings and pulleys: hooked or thin teeth, points
}

// Advise returns what goes together. A verdict that asks for no chain asks for nothing.
func Advise(v wear.Verdict, s SprocketSchool) Advice {
	switch {
	case v == wear.ReplaceTogether:
		return Advice{Chain: true, Sprockets: true, Look: true}
	case v == wear.Replace && s == TogetherAtLimit:
		return Advice{Chain: true, Sprockets: true}
	case v == wear.Replace:
		return Advice{Chain: true, RideTest: true}
	}
	return Advice{}
}

// LinkSchool is one way to treat a joining link that was opened. Zero is [NewEachTime], the house default.
type LinkSchool uint8

// The schools of joining links.
const (
	NewEachTime     LinkSchool = iota
	InspectAndReuse            // the maker's stated number of uses, while the pin seat shows no wear
)

var linkSchools = [...]string{"new-each-time", "inspect-and-reuse"}

func (s LinkSchool) String() string { return linkSchools[s] }

// ParseLinkSchool reads the name that [LinkSchool.String] writes.
func ParseLinkSchool(s string) (LinkSchool, error) {
	return parse[LinkSchool](linkSchools[:], s, "school of joining links")
}

// Link is a joining link as the record knows it.
type Link struct {
	Uses      int // how often it has closed a chain
	Stated    int // uses that its maker states; 0 where none is stated
	Sprockets int // side by side, that its width is for
}

// narrowLink is the number of sprockets from which on a link without a stated number serves once.
const narrowLink = 11

// Spent says why a joining link may not close a chain again. Zero is that it may.
type Spent uint8

// Why a link is spent.
const (
	NotSpent   Spent = iota
	SchoolSays       // the house takes a new one each time
	UsedUp           // it has served as often as its maker states, once where none is stated
	SeatWorn         // its pin seat shows wear, or it does not snap firmly
)

func (s Spent) String() string { return [...]string{"", "new-each-time", "used-up", "seat-worn"}[s] }

// MayClose says whether a link that was opened may close a chain again; sound is what the mechanic found:
// no wear at the pin seat, and it snaps firmly.
func (s LinkSchool) MayClose(l Link, sound bool) Spent {
	stated := l.Stated
	if stated == 0 && l.Sprockets >= narrowLink {
		stated = 1
	}
	switch {
	case s == NewEachTime:
		return SchoolSays
	case !sound:
		return SeatWorn
	case stated > 0 && l.Uses >= stated:
		return UsedUp
	}
	return NotSpent
}

// GreaseSchool is what is done with the grease that a new chain comes in. Zero is [ByLubricant].
type GreaseSchool uint8

// The schools of a new chain's grease.
const (
	ByLubricant GreaseSchool = iota // keep it inside for oil, strip for wax
	KeepInside                      // good grease inside, the sticky outside cleaned
	StripAll
)

var greaseSchools = [...]string{"by-lubricant", "keep-inside", "strip-all"}

func (s GreaseSchool) String() string { return greaseSchools[s] }

// ParseGreaseSchool reads the name that [GreaseSchool.String] writes.
func ParseGreaseSchool(s string) (GreaseSchool, error) {
	return parse[GreaseSchool](greaseSchools[:], s, "school of a new chain's grease")
}

// For returns what is done with a new chain's grease when it is to run on wax, or not. Wax needs bare
// metal, whatever the school.
func (s GreaseSchool) For(wax bool) GreaseSchool {
	if wax || s == StripAll {
		return StripAll
	}
	return KeepInside
}

// Misfit says what is wrong between a part and the sprockets it is to run on. Zero is nothing.
type Misfit uint8

// The misfits.
const (
	Matches      Misfit = iota
	ChainWidth          // a chain made for another number of sprockets: warned of
	LinkWidth           // a joining link of another width than its chain: refused, it opens under load
	OddLinks            // a chain that cannot be closed without a half-link
	HalfLinkHere        // a half-link on a derailleur
)

func (m Misfit) String() string {
	return [...]string{"", "chain-width", "link-width", "odd-count", "half-link-refused"}[m]
}

// Refused reports whether the misfit may not be fitted at all.
func (m Misfit) Refused() bool { return m > ChainWidth }

// Check holds a chain and its joint against a drivetrain. chainFor and linkFor are the numbers of
// sprockets that they are made for; 0 is not known, for a joint that is no joining link too.
func Check(d chain.Drivetrain, chainFor int, linkFor int, links chain.Links, halfLink bool) []Misfit {
	var found []Misfit
	if chainFor > 0 && chainFor != d.Sprockets {
		found = append(found, ChainWidth)
	}
	width := chainFor
	if width == 0 {
		width = d.Sprockets
	}
	if linkFor > 0 && linkFor != width {
		found = append(found, LinkWidth)
	}
	if links%2 == 1 && !halfLink {
		found = append(found, OddLinks)
	}
	if halfLink && d.Kind == chain.Derailleur {
		found = append(found, HalfLinkHere)
	}
	return found
}

// Step is something that is checked after joining; all of them close the job.
type Step string

// The checks, in the order in which they are made.
const (
	JointSeated  Step = "joint-seated"  // both sides level
	JointLoaded  Step = "joint-loaded"  // pulled tight: link on the top run, brake held, pedal pressed
	NoStiffLink  Step = "no-stiff-link" //
	Routing      Step = "routing"       // on both pulleys and inside the cage tab
	RunsFree     Step = "runs-free"     // by hand
	GearsIndexed Step = "gears-indexed" //
	TensionSet   Step = "tension-set"   // 8 to 12 mm of play at the tightest point of the turn
	AxleTight    Step = "axle-tight"    // after the wheel was moved
	BrakesTested Step = "brakes-tested" //
)

// Checks returns what must be checked after joining a chain on a drivetrain.
func Checks(d chain.Drivetrain, j sizing.Joint) []Step {
	steps := []Step{JointLoaded, NoStiffLink}
	if j == sizing.JoiningLink {
		steps = append([]Step{JointSeated}, steps...)
	}
	if d.Kind == chain.Derailleur {
		steps = append(steps, Routing, RunsFree, GearsIndexed)
	} else {
		steps = append(steps, TensionSet, AxleTight, RunsFree)
	}
	return append(steps, BrakesTested)
}

func parse[T ~uint8](names []string, s, what string) (T, error) {
	for i, n := range names {
		if n == s {
			return T(i), nil
		}
	}
	return 0, fmt.Errorf("%q is not a %s: one of %v", s, what, names)
}
