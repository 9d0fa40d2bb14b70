package clean

import (
	"fmt"
	"slices"
	"strings"
)

// Phase is a stretch of the work. Phases say where a step belongs; what must come before what is said by
// the steps themselves and by the school of what is first.
type Phase string

// The phases, as a bike usually goes through them.
const (
	Intake    Phase = "intake"
	ChainOff  Phase = "chain-off"
	Apart     Phase = "apart"
	Degrease  Phase = "degrease" // on the bike: what splashes from here is washed off after
	Washing   Phase = "wash"
	ChainBath Phase = "chain-clean"
	Rebuild   Phase = "rebuild"
	Drying    Phase = "dry"
	Lubricate Phase = "lubricate"
	Finish    Phase = "finish"
)

var phases = []Phase{Intake, ChainOff, Apart, Degrease, Washing, ChainBath, Rebuild, Drying, Lubricate, Finish}

// Station is where a step is done, and what its wait keeps occupied.
type Station string

// The stations.
const (
	AtStand Station = "stand"
	InTub   Station = "tub"
	InTank  Station = "tank" // ultrasonic
	OnPot   Station = "pot"  // of wax
	OnRack  Station = "rack" // for drying
	InWash  Station = "parts-washer"
	InOil   Station = "oil-bath" // a heated lubricant bath
)

var stations = []Station{AtStand, InTub, InTank, OnPot, OnRack, InWash, InOil}

// Material is something that a step uses up.
type Material string

// The materials. Each is counted in its own [Unit].
const (
	Shampoo     Material = "shampoo"
	Degreaser   Material = "degreaser"
	Solvent     Material = "film-solvent"
	Alcohol     Material = "alcohol"
	CitricAcid  Material = "citric-acid"
	Bicarbonate Material = "bicarbonate"
	ChainOil    Material = "oil"
	WaxDrip     Material = "drip-wax"
	WaxSolid    Material = "immersion-wax"
	Displacer   Material = "displacing-spray"
	Grease      Material = "grease"
	Threadlock  Material = "threadlocker"
	Rags        Material = "rags"
	GlovePair   Material = "gloves"
	JoinLink    Material = "joining-link"
	Protectant  Material = "protectant"
)

var units = map[Material]string{Shampoo: "ml", Degreaser: "ml", Solvent: "ml", Alcohol: "ml", CitricAcid: "g", Bicarbonate: "g", ChainOil: "ml",
	WaxDrip: "ml", WaxSolid: "g", Displacer: "ml", Grease: "g", Threadlock: "ml", Rags: "piece", GlovePair: "piece", JoinLink: "piece", Protectant: "ml"}

// Materials lists them all, by name.
func Materials() []Material {
	all := make([]Material, 0, len(units))
	for m := range units {
		all = append(all, m)
	}
	slices.Sort(all)
	return all
}

// Unit is what a material is counted in: ml, g or piece.
func (m Material) Unit() string { return units[m] }

// Per says what an amount is of.
type Per uint8

// What an amount may be of.
const (
	Once    Per = iota
	PerLink     // of the chain
	Mixed       // of product with water, at the product's own rate
)

// Use is how much of a material a step takes.
type Use struct {
	Material Material
	Amount   float64 // in the material's unit
	Per      Per
}

// Wait is a time in which nobody's hands are needed. It runs from the end of its step.
type Wait struct {
	Code string
	// Least must pass before what follows; it may be zero. After Most it is too late: cleaner dries on,
	// bare steel rusts. Zero is no limit.
	Least, Most Minutes
	// Until are the steps that it holds, and that end it; none is all that come right after.
	Until []string
}

// Step is one thing to do, as the catalogue has it. A product's label, a part's marking and the maker's
// word come before any of it.
type Step struct {
	Code     string
	Phase    Phase
	Title    string
	Do, Why  string
	Minutes  Minutes // of hands; zero for what is done in passing
	Wait     *Wait
	Station  Station
	Tools    []string
	Uses     []Use
	Cautions []Caution
	// Done says, as the words of a button, what ends the step. Fail, where it can fail, says how that
	// looks, and sends the job back to the first step of Back that is part of it.
	Done, Fail string
	Back       []string
	Gate       bool   // the bike is not handed back before it
	Bath       string // the kind of standing bath that it puts a load into
	// SecondRound says when it may be done once more, taking its uses again. It is never done unless somebody says so; empty
	// where once is all.
	SecondRound string
	After       []string // codes; through what is not part of a job to what is
	When        string   // alternatives between "|", each of tags that must all hold, "!" for one that must not
	Or          []Variant
}

// Variant words a step otherwise where its tags hold. What it leaves empty stays.
type Variant struct {
	When    string
	Phase   Phase
	Title   string
	Do, Why string
	Minutes Minutes
	Wait    *Wait
	Uses    []Use
	Station Station
	Tools   []string
	Bath    string
	Done    string
	// NoWait takes the step's wait away.
	NoWait bool
	// Cautions come on top of the step's own.
	Cautions []Caution
}

// Validate checks the catalogue: every code once, every word it uses known, waits and amounts in bounds,
// and nothing that must come before itself. The program asks at its start.
func Validate() error { return validate(catalogue) }

func validate(steps []Step) error {
	at := map[string]int{}
	for i, s := range steps {
		if _, twice := at[s.Code]; twice || s.Code == "" {
			return fmt.Errorf("step %q: no code, or one that is used twice", s.Code)
		}
		at[s.Code] = i
	}
	for i, s := range steps {
		if err := s.check(at, i); err != nil {
			return fmt.Errorf("step %s: %w", s.Code, err)
		}
	}
	return nil
}

func (w *Wait) check(at map[string]int, place int) error {
	if w == nil {
		return nil
	}
	if slices.ContainsFunc(w.Until, func(code string) bool { after, known := at[code]; return !known || after <= place }) {
		return fmt.Errorf("wait %+v holds what does not come after", *w)
	}
	if w.Code == "" || w.Least < 0 || w.Least == 0 && w.Most == 0 || w.Most != 0 && w.Most < w.Least {
		return fmt.Errorf("wait %+v is none", *w)
	}
	return nil
}

func (s Step) check(at map[string]int, place int) error {
	if s.Title == "" || s.Do == "" || s.Why == "" || s.Done == "" {
		return fmt.Errorf("title, what to do, why and what ends it must all be said")
	}
	if !slices.Contains(phases, s.Phase) || !slices.Contains(stations, s.Station) {
		return fmt.Errorf("phase %q or station %q is not known", s.Phase, s.Station)
	}
	// What comes before stands before: so the list is one order in which the work can be done, and no
	// circle is possible.
	for _, codes := range [][]string{s.After, s.Back} {
		for _, code := range codes {
			if before, known := at[code]; !known || before > place || before == place && !slices.Contains(s.Back, code) {
				return fmt.Errorf("%q does not stand before it", code)
			}
		}
	}
	if (s.Fail == "") != (len(s.Back) == 0) {
		return fmt.Errorf("what can fail says where it goes back to")
	}
	waits := []*Wait{s.Wait}
	conditions := []string{s.When}
	uses, cautions := slices.Clone(s.Uses), slices.Clone(s.Cautions)
	for _, v := range s.Or {
		waits, conditions = append(waits, v.Wait), append(conditions, v.When)
		uses, cautions = append(uses, v.Uses...), append(cautions, v.Cautions...)
	}
	for _, w := range waits {
		if err := w.check(at, place); err != nil {
			return err
		}
	}
	for _, condition := range conditions {
		for _, tag := range strings.FieldsFunc(condition, func(r rune) bool { return r == ' ' || r == '|' || r == '!' }) {
			if !slices.Contains(tags, tag) {
				return fmt.Errorf("tag %q is not known", tag)
			}
		}
	}
	for _, u := range uses {
		if u.Material.Unit() == "" || u.Amount <= 0 {
			return fmt.Errorf("%v %q is no amount of a material", u.Amount, u.Material)
		}
	}
	for _, c := range cautions {
		if !slices.Contains(inOrder, c) {
			return fmt.Errorf("caution %q is not known", c)
		}
	}
	return nil
}

// literal is a tag that must hold, or must not.
type literal struct {
	tag string
	not bool
}

// parsed are the conditions of the catalogue, taken apart once: every plan asks them all.
var parsed = func() map[string][][]literal {
	all := map[string][][]literal{}
	for _, s := range catalogue {
		all[s.When] = parseCondition(s.When)
		for _, v := range s.Or {
			all[v.When] = parseCondition(v.When)
		}
	}
	return all
}()

func parseCondition(condition string) [][]literal {
	var alternatives [][]literal
	for _, text := range strings.Split(condition, "|") {
		var tags []literal
		for _, tag := range strings.Fields(text) {
			name, not := strings.CutPrefix(tag, "!")
			tags = append(tags, literal{name, not})
		}
		alternatives = append(alternatives, tags)
	}
	return alternatives
}

// holds reports whether a condition of the catalogue is met by what holds of a job. An empty one always is.
func holds(condition string, of map[string]bool) bool {
	return slices.ContainsFunc(parsed[condition], func(tags []literal) bool {
		return !slices.ContainsFunc(tags, func(l literal) bool { return of[l.tag] == l.not })
	})
}

// Catalogue lists every step there is. Nobody writes into it.
func Catalogue() []Step { return slices.Clone(catalogue) }

// Codes lists the codes of all steps, in the catalogue's order.
func Codes() []string {
	codes := make([]string, len(catalogue))
	for i, s := range catalogue {
		codes[i] = s.Code
	}
	return codes
}
