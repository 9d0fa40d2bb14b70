package clean

import "slices"

// Block is what one person does in one go at one place: a stretch of a job's steps that is shown and ended together
// (handbook: stand).
type Block struct {
	Code    string // of its first step
	Title   string
	Phase   Phase
	Station Station
	Minutes Minutes // of hands
	Steps   []int   // places in the plan, in order
}

// smallBlock is under how many minutes a block at the stand takes in the next.
const smallBlock Minutes = 5

// phaseTitles are the phases in plain words.
var phaseTitles = map[Phase]string{
	Intake: "Look and set up", ChainOff: "Chain off", Apart: "Take it apart", Degrease: "Drivetrain on the bike", Washing: "Wash",
	ChainBath: "Clean the chain", Rebuild: "Clean and rebuild", Drying: "Dry", Lubricate: "Lube", Finish: "Final checks",
}

// Title is the phase in plain words.
func (p Phase) Title() string { return phaseTitles[p] }

// Blocks cuts steps in their order into blocks: longest runs of the same phase and station, ended by what starts a wait, wants
// something recorded or may send the job back. Then small ones at the stand take in the next whose warnings they have
// given. Who is at each step, where that is given, ends a block too.
func Blocks(steps []Planned, who ...string) []Block {
	var blocks []Block
	ended := []bool{} // for a reason of its own
	for i, s := range steps {
		last := len(blocks) - 1
		goesOn := last >= 0 && !ended[last] && blocks[last].Phase == s.Phase && blocks[last].Station == s.Station && samePerson(who, i)
		if !goesOn {
			blocks = append(blocks, Block{Code: s.Code, Title: s.Phase.Title(), Phase: s.Phase, Station: s.Station})
			ended = append(ended, false)
			last++
		}
		b := &blocks[last]
		b.Steps, b.Minutes = append(b.Steps, i), b.Minutes+s.Minutes
		ended[last] = endsBlock(steps, who, i)
	}
	merged := merge(steps, blocks, ended, who)
	for i := range merged {
		if b := &merged[i]; len(b.Steps) == 1 {
			b.Title = steps[b.Steps[0]].Title // it says more than its phase
		}
	}
	return merged
}

// samePerson reports whether a step is of the same person as the one before it.
func samePerson(who []string, i int) bool {
	return i >= len(who) || i == 0 || who[i] == who[i-1]
}

// endsBlock reports whether a step is the last of its block, whatever comes after.
func endsBlock(steps []Planned, who []string, i int) bool {
	s := steps[i]
	switch OpenedBy(s.Code) {
	case OpensReadings, OpensNewChain, OpensWaste:
		return true
	case OpensJoiningLink:
	}
	if s.Wait != nil && s.Wait.Least > 0 && !filled(steps, who, i) {
		return true
	}
	return s.Fail != "" && slices.ContainsFunc(SendBack(steps, s.Code), func(code string) bool { return code != s.Code })
}

// Filled are the codes of the steps of a block whose waits its own work fills: what they hold comes so late in it that they are
// over by then.
func Filled(steps []Planned, b Block, who ...string) []string {
	var codes []string
	for _, i := range b.Steps[:len(b.Steps)-1] {
		if w := steps[i].Wait; w != nil && w.Least > 0 && filled(steps, who, i) {
			codes = append(codes, steps[i].Code)
		}
	}
	return codes
}

// filled reports whether the wait that a step starts is over, by the minutes of the steps between, when the first step that it
// holds is come to, with nothing between that ends a block.
func filled(steps []Planned, who []string, i int) bool {
	var between Minutes
	for k := i + 1; k < len(steps); k++ {
		s := steps[k]
		if s.Phase != steps[i].Phase || s.Station != steps[i].Station || !samePerson(who, k) {
			return false
		}
		if slices.Contains(s.Waits, steps[i].Code) {
			return between >= steps[i].Wait.Least
		}
		if endsBlock(steps, who, k) {
			return false
		}
		between += s.Minutes
	}
	return false
}

// merge lets small blocks at the stand take in the next one, from left to right, and again with the result.
func merge(steps []Planned, blocks []Block, ended []bool, who []string) []Block {
	var merged []Block
	var over []bool
	longest := Minutes(0) // of what the last was made of: its title is theirs
	for i, b := range blocks {
		last := len(merged) - 1
		if last >= 0 && !over[last] && merged[last].Minutes < smallBlock && merged[last].Station == AtStand && b.Station == AtStand &&
			samePerson(who, b.Steps[0]) && warned(steps, merged[last], b) {
			into := &merged[last]
			if b.Minutes > longest {
				into.Title, into.Phase, longest = b.Title, b.Phase, b.Minutes
			}
			into.Steps, into.Minutes = append(into.Steps, b.Steps...), into.Minutes+b.Minutes
			over[last] = ended[i]
			continue
		}
		merged, over, longest = append(merged, b), append(over, ended[i]), b.Minutes
	}
	return merged
}

// warned reports whether every warning of a block was given by the one before it.
func warned(steps []Planned, before, b Block) bool {
	given := map[Caution]bool{}
	for _, i := range before.Steps {
		for _, c := range steps[i].Cautions {
			given[c] = true
		}
	}
	for _, i := range b.Steps {
		for _, c := range steps[i].Cautions {
			if !given[c] {
				return false
			}
		}
	}
	return true
}

// Shares divides the seconds that a block took over its steps, by their planned minutes, equally where none has any. The last
// takes what is left of rounding.
func Shares(seconds int, planned []Minutes) []int {
	shares := make([]int, len(planned))
	if len(planned) == 0 {
		return shares
	}
	var all Minutes
	for _, m := range planned {
		all += m
	}
	given := 0
	for i, m := range planned {
		switch {
		case i == len(planned)-1:
			shares[i] = seconds - given
		case all == 0:
			shares[i] = seconds / len(planned)
		default:
			shares[i] = seconds * int(m) / int(all)
		}
		given += shares[i]
	}
	return shares
}
