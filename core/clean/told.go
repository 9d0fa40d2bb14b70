package clean

// Told returns what a customer is told was done, in their words and in the order of the work, by the codes of the steps that
// were done: of what serves the same end only the furthest that went.
func Told(done func(code string) bool) []string {
	told := []string{}
	for _, lines := range customerLines {
		for _, l := range lines {
			if done(l.code) {
				told = append(told, l.says)
				break
			}
		}
	}
	return told
}

// customerLines are the lines of a customer's report: of each group the first whose step was done.
var customerLines = [][]struct{ code, says string }{
	{{"cleaner-on", "Washed by hand from the top down and dried."}, {"frame-wipe", "Frame wiped down."}},
	{
		{"tray-scrub", "Chain taken off and brushed clean in a tray."},
		{"jar-refresh", "Chain taken off, soaked and shaken until no more dirt came out of it."},
		{"bare-look", "Chain stripped to bare metal."},
		{"hot-water", "Chain taken off, its old wax washed out in hot water."},
		{"bath-soap", "Chain cleaned in a bath on the bike until a white rag stayed clean."},
		{"chain-brush-off", "Chain brushed and wiped with degreaser."},
		{"chain-wipe", "Chain wiped."},
	},
	{{"acid-bath", "Rust taken off the chain and neutralised."}},
	{
		{"crank-off", "Crank, chainrings, cassette and derailleur taken off, cleaned, checked and put back."},
		{"sprockets-on", "Cassette and jockey wheels taken off, cleaned and put back."},
		{"pulleys-scrape", "Cassette, jockey wheels and chainrings scraped and brushed."},
		{"sprockets-brush", "Sprockets and chainring brushed."},
	},
	{{"new-chain", "New chain fitted."}},
	{{"oil-wipe", "Every roller oiled, the outside wiped dry."}},
	{{"drip-two", "Two coats of drip wax."}, {"drip-one", "Drip wax on every roller."}},
	{{"wax-break", "Chain waxed in the pot; it is a little stiff for the first ride or two."}},
	{{"index", "Gears indexed."}},
	{{"brakes-test", "Both brakes tested."}},
	{{"motor-on", "Motor tried after its contacts were dry."}},
}

// LookedOver reports whether the bike was looked over by a step that was done, so that it can be said that nothing was found.
func LookedOver(done func(code string) bool) bool {
	return done("look-teeth") || done("look-wet") || done("final-look")
}

// Opens is what a step is recorded on beside its own button.
type Opens string

// What steps open.
const (
	OpensReadings    Opens = "readings"     // the bench
	OpensNewChain    Opens = "new-chain"    // the form of a replacement
	OpensJoiningLink Opens = "joining-link" // what closes the chain again
	OpensWaste       Opens = "waste"        // where it went
)

var opens = map[string]Opens{"read-wear": OpensReadings, "new-chain": OpensNewChain, "chain-on": OpensJoiningLink, "waste": OpensWaste}

// OpenedBy returns what the step of that code opens; empty for most.
func OpenedBy(code string) Opens { return opens[code] }
