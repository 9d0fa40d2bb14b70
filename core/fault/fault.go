// Package fault leads from what an owner says to what it may be, the check that tells the causes apart,
// and the work it becomes; and it knows what is found on the way (handbook: faults).
package fault

import (
	"fmt"
	"slices"

	"earnestpony/core/clean"
)

// Complaint is what an owner says, with its causes likeliest first.
type Complaint struct {
	Code   string
	Says   string
	Check  string // what tells the causes apart
	Causes []Cause
	// Route is the lightest that reaches the likeliest cause; what the grade asks for may be more.
	Route clean.Route
}

// Cause is one of a complaint, and the work it leads to.
type Cause struct {
	Code, Says, Leads string
}

var complaints = []Complaint{
	{"squeaks", "It squeaks", "A drop of oil on one run: quieter?", []Cause{
		{"dry-joints", "Dry rollers", "Relubricate, or clean at its grade"},
		{"dry-pulleys", "Dry jockey wheels", "Clean and grease the jockey wheels"}}, clean.Wipe},
	{"gritty", "Gritty, grinding", "Flex it next to your ear; spin the jockey wheels.", []Cause{
		{"dirt-in-joints", "Dirt inside the rollers", "Soak"},
		{"dirt-came-back", "Dirt came back from jockey wheels, chainrings, cassette", "Soak, or full strip-down"},
		{"pulley-bearing", "Worn jockey wheel bearing", "New jockey wheels"}}, clean.Soak},
	{"black-again", "Black again right after cleaning", "White rag inside and outside.", []Cause{
		{"outside-only", "Only the outside was cleaned", "Soak"},
		{"too-much-lubricant", "Too much lubricant left outside", "Wipe it off, and show the customer how"},
		{"dried-film", "A dried polymer film", "Solvent made for it, then bare metal"}}, clean.Soak},
	{"creaks", "Creaks under load", "Load each in turn: splines, chainring bolts, crank.", []Cause{
		{"dry-interfaces", "Dry or dirty splines and contact faces", "Take that part off and clean it"},
		{"ring-bolts", "Loose chainring bolts", "Threadlocker and torque"},
		{"crank", "Crank", "Off, cleaned, on at its torque"}}, clean.Strip},
	{"skips", "Skips under load", "Which gear? Measure chain wear, turn it by hand.", []Cause{
		{"worn-sprocket", "Worn sprocket with a newer chain", "New cassette"},
		{"worn-chain", "Worn chain", "The verdict decides"},
		{"stiff-link", "Stiff link", "Work it free"},
		{"bent-tooth", "Bent tooth", "New sprocket"}}, clean.Wipe},
	{"shifts-badly", "Shifts badly", "Shift by hand in the stand.", []Cause{
		{"indexing", "Indexing", "Adjust"},
		{"side-slack", "A chain slack sideways", "The verdict decides"},
		{"dirty-cables", "Dirty cables", "Clean, a trace of oil"},
		{"bent-hanger", "Bent hanger", "Straighten or replace it"},
		{"worn-sprockets", "Worn cassette", "New cassette"}}, clean.Wipe},
	{"brakes", "Brake squeals or fades", "Look, smell: is the rotor clean?", []Cause{
		{"contamination", "Oil on rotor or pad", "Wipe at once, alcohol, then decide on the pads"},
		{"glazed-pads", "Glazed pads", "New pads"}}, clean.Wipe},
	{"drops-off", "Chain drops off", "Check chain length and the chainring's teeth.", []Cause{
		{"too-long", "Too long", "Resize it"},
		{"cage-weak", "Cage is weak", "Rear derailleur"},
		{"worn-ring", "Worn chainring", "New chainring"},
		{"limit-screws", "Limit screws", "Adjust"},
		{"slack-gear", "One gear too slack", "Resize, or keep out of it"}}, clean.Wipe},
	{"rust", "Rust", "Pitting, or only the surface?", []Cause{
		{"stored-wet", "Stored wet", "Rust steps by its grade"},
		{"wax-in-damp", "Wax in a damp place", "Another lubricant"}}, clean.Wipe},
}

// Complaints lists what owners say.
func Complaints() []Complaint { return slices.Clone(complaints) }

// Parse finds a complaint by its code.
func Parse(code string) (Complaint, error) {
	i := slices.IndexFunc(complaints, func(c Complaint) bool { return c.Code == code })
	if i < 0 {
		return Complaint{}, fmt.Errorf("%q is no complaint that is known", code)
	}
	return complaints[i], nil
}

// Least is the lightest route that reaches what the complaints are likeliest about.
func Least(codes []string) clean.Route {
	least := clean.Wipe
	for _, code := range codes {
		if c, err := Parse(code); err == nil {
			least = max(least, c.Route)
		}
	}
	return least
}

// Severity is what a finding asks for.
type Severity string

// The severities. Stop holds the hand-back until it is resolved, or until a mechanic signs that the owner
// was told and the bike leaves unridden.
const (
	Note Severity = "note"
	Soon Severity = "soon"
	Stop Severity = "stop"
)

// ParseSeverity reads one.
func ParseSeverity(s string) (Severity, error) {
	if !slices.Contains([]Severity{Note, Soon, Stop}, Severity(s)) {
		return "", fmt.Errorf("%q is no severity: note, soon or stop", s)
	}
	return Severity(s), nil
}

// Finding is something that may be found, and how it is taken unless somebody says otherwise.
type Finding struct {
	Code, Says string
	Severity   Severity
	// Fixed reports that nobody may take it for less than it is.
	Fixed bool
}

var findings = []Finding{
	{"frame-crack", "Frame or fork cracked or dented", Stop, true},
	{"rotor-or-rim-worn", "Rim or rotor below its mark", Stop, true},
	{"pads-worn", "Pads below their mark", Stop, true},
	{"brake-contaminated", "Contaminated brake", Stop, true},
	{"cable-frayed", "Cable frayed", Stop, true},
	{"motor-damage", "Motor or battery damaged: authorised service", Stop, true},
	{"headset-loose", "Loose headset", Stop, true},
	{"joint-not-seated", "Joining link lost or not seated", Stop, true},
	{"hanger-bent", "Hanger bent: limit screws checked before it leaves", Soon, false},
	{"bottom-bracket-play", "Play in the bottom bracket", Soon, false},
	{"freehub-play", "Play in the freehub", Soon, false},
	{"jockey-wheel-play", "Play in a jockey wheel", Note, false},
	{"bearing-rough", "Bearing rough", Soon, false},
	{"wheel-untrue", "Wheel out of true", Soon, false},
	{"spoke-loose", "Spoke loose", Soon, false},
	{"tyre-cut", "Tyre cut or worn", Soon, false},
	{"bolt-loose", "Loose bolt", Note, false},
	{"teeth-rounded", "Teeth worn a little", Note, false},
	{"teeth-pointed", "Teeth hooked, shark-fin or thinned: replace", Soon, false},
	{"stiff-link", "Stiff link", Note, false},
	{"other", "Something else", Note, false},
}

// Findings lists what may be found.
func Findings() []Finding { return slices.Clone(findings) }

// Says is a finding in words; the code itself where it is not known.
func Says(code string) string {
	for _, f := range findings {
		if f.Code == code {
			return f.Says
		}
	}
	return code
}

// Take settles how a finding is taken: by what was said of it, but what must hold a bike always does.
func Take(code string, said Severity) (Severity, error) {
	i := slices.IndexFunc(findings, func(f Finding) bool { return f.Code == code })
	if i < 0 {
		return "", fmt.Errorf("%q is no finding that is known", code)
	}
	if said == "" || findings[i].Fixed {
		return findings[i].Severity, nil
	}
	return said, nil
}

// ComebackDays is for how long after a hand-back a bike that comes again is a comeback.
const ComebackDays = 14

// loads are the steps that put a load on the bike: a chain pulled tight on the pedal, an assisted turn, a ride.
var loads = []string{"chain-on", "new-chain", "motor-on", "ride"}

// settles are the loading steps that settle a finding themselves.
var settles = map[string][]string{"joint-not-seated": {"chain-on", "new-chain"}}

// Withholds reports whether an open finding that stops a bike withholds a step: those that load the bike, until it is settled,
// but for those that settle it.
func Withholds(finding, step string) bool { return slices.Contains(Withheld(finding), step) }

// Withheld are the steps that an open finding which stops a bike withholds.
func Withheld(finding string) []string {
	return slices.DeleteFunc(slices.Clone(loads), func(step string) bool { return slices.Contains(settles[finding], step) })
}
