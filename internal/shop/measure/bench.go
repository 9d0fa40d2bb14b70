package measure

import (
	"cmp"
	"context"
	"errors"
	"math"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/chain"
	"earnestpony/core/wear"
	"earnestpony/internal/calc"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// Mark is one mark of a drop-in gauge.
type Mark struct {
	MarkPct float64 `json:"mark_pct"`
	DropsIn bool    `json:"drops_in"`
}

// BenchEntry is what was typed or tapped for one place; an empty one is not read yet.
type BenchEntry struct {
	Place int    `json:"place"`
	Text  string `json:"text,omitempty"`
	Marks []Mark `json:"marks,omitempty"`
	Look  string `json:"look,omitempty"`
}

func (e BenchEntry) empty() bool {
	return record.CleanLine(e.Text) == "" && len(e.Marks) == 0 && e.Look == ""
}

// BenchQuestion is the state of the bench: everything typed so far.
type BenchQuestion struct {
	Tag          string            `json:"tag,omitempty"` // empty for a walk-in
	Drivetrain   *rules.Drivetrain `json:"drivetrain,omitempty"`
	InstrumentID uuid.UUID         `json:"instrument_id"`
	Links        *int              `json:"links,omitempty"`
	NewLength    string            `json:"new_length,omitempty"`
	Entries      []BenchEntry      `json:"entries"`
	Findings     []string          `json:"findings,omitempty"`
}

// Understood is what was made of one place.
type Understood struct {
	LengthMM      *float64 `json:"length_mm,omitempty"`
	PastMM        *float64 `json:"past_mm,omitempty"`
	ElongationPct *float64 `json:"elongation_pct,omitempty"` // After the zero offset
}

// EntryAnswer is what was understood of one place, or what is wrong with it.
type EntryAnswer struct {
	Place      int           `json:"place"`
	Understood *Understood   `json:"understood,omitempty"`
	Fault      *record.Field `json:"fault,omitempty"`
}

// Strip is a measurement laid along a ruler, in millimetres from the first pin.
type Strip struct {
	Links      int          `json:"links"`
	NewMM      float64      `json:"new_mm"`
	LimitMM    float64      `json:"limit_mm"`
	TogetherMM float64      `json:"together_mm"`
	MeanMM     *float64     `json:"mean_mm,omitempty"`
	ErrorMM    *float64     `json:"error_mm,omitempty"`
	LowMM      *float64     `json:"low_mm,omitempty"`
	HighMM     *float64     `json:"high_mm,omitempty"` // NotFound when the tool looked no further
	Places     []StripPlace `json:"places"`
}

// StripPlace is where the last pin lies at one place.
type StripPlace struct {
	Place int     `json:"place"`
	AtMM  float64 `json:"at_mm"`
}

// BenchAnswer is what the state of the bench says.
type BenchAnswer struct {
	Links          int              `json:"links,omitempty"`
	Drivetrain     rules.Drivetrain `json:"drivetrain"`
	Missing        []string         `json:"missing"` // what must be known before there can be a verdict
	Entries        []EntryAnswer    `json:"entries"`
	NewLengthFault *record.Field    `json:"new_length_fault,omitempty"`
	LinksFault     *record.Field    `json:"links_fault,omitempty"`
	LinksOnRecord  int              `json:"links_on_record,omitempty"` // between the end pins of the whole chain, where that is asked
	Wear           *calc.WearAnswer `json:"wear,omitempty"`
	Strip          *Strip           `json:"strip,omitempty"`
	ChainLinks     int              `json:"chain_links,omitempty"`
	GrowthMM       *float64         `json:"growth_mm,omitempty"`
	Recordable     bool             `json:"recordable"`
	// Settle says, where the verdict is unsure, which other tools of the shop would tell more: those that
	// would settle it first, then the finest; SettlePlaces how many places in all with this one, if that
	// many would do.
	Settle       []SettlingTool `json:"settle,omitempty"`
	SettlePlaces int            `json:"settle_places,omitempty"`
	// LeanDecides says that no tool of this shop could settle it at the house's number of places: where the verdict leans is
	// offered as the decision.
	LeanDecides bool `json:"lean_decides,omitempty"`
	// Bias says that this chain was read by a tool of the other sort: one of the two spreads the rollers
	// and reads high, and the other is to be trusted.
	Bias *Bias `json:"bias,omitempty"`
}

// Bias is the last reading of a chain by a tool of the other sort than the one in hand.
type Bias struct {
	Spreads       bool      `json:"spreads"` // the tool in hand does; otherwise the other did
	Instrument    string    `json:"instrument"`
	TakenAt       time.Time `json:"taken_at"`
	ElongationPct *float64  `json:"elongation_pct,omitempty"`
	LowPct        *float64  `json:"low_pct,omitempty"`
	HighPct       *float64  `json:"high_pct,omitempty"`
}

// SettlingTool is a tool of the shop that would tell more where a verdict is unsure.
type SettlingTool struct {
	InstrumentID uuid.UUID `json:"instrument_id"`
	Name         string    `json:"name"`
	Spreads      bool      `json:"spreads,omitempty"`
	SigmaPct     float64   `json:"sigma_pct"` // at the house's number of places
	Settles      bool      `json:"settles"`   // whether it would leave no doubt, should it read the same
}

// ReadBench says what the readings typed so far mean. It writes nothing.
func (s *Measure) ReadBench(ctx context.Context, q BenchQuestion) (BenchAnswer, error) {
	b, err := s.bench(ctx, s.desk.Store.Read(ctx), q)
	if err != nil {
		return BenchAnswer{}, err
	}
	return b.read(), nil
}

// bench is a question with everything that its answer hangs on.
type bench struct {
	BenchQuestion
	house  rules.ParsedRules
	tool   store.Instrument
	tools  []store.Instrument // all that are in use
	bike   *store.Bike        // nil for a walk-in
	before []store.EntryView  // measurements and chains fitted of the bike that stand, as they happened
}

func (s *Measure) bench(ctx context.Context, tx store.Tx, q BenchQuestion) (b bench, err error) {
	b.BenchQuestion = q
	if b.house, err = rules.LoadParsed(ctx, tx); err != nil {
		return b, err
	}
	if b.tools, err = tx.Instruments(ctx, false); err != nil {
		return b, err
	}
	inUse := slices.IndexFunc(b.tools, func(i store.Instrument) bool { return i.ID == q.InstrumentID })
	if inUse < 0 {
		return b, record.InvalidInput(record.Field{Path: "instrument_id", Code: "instrument-not-found", Message: "This tool is no longer in use. Choose another."})
	}
	b.tool = b.tools[inUse]
	if q.Tag != "" {
		bike, err := record.BikeByTag(ctx, tx, q.Tag)
		if err != nil {
			return b, err
		}
		b.bike = &bike
		if b.before, _, err = record.ActiveEntries(ctx, tx, bike.ID, record.KindMeasurement, record.KindChainFitted); err != nil {
			return b, err
		}
	}
	return b, nil
}

// read answers the question. Places with a fault are left out of the verdict, so that the others
// can be seen, but then nothing can be recorded.
func (b bench) read() BenchAnswer {
	kind := kindOf(b.tool)
	d := rules.DrivetrainOf(b.bike, b.Drivetrain)
	r := b.house.Rule(b.bike, d)
	a := BenchAnswer{Drivetrain: d, Missing: append([]string{}, r.Missing...), Entries: []EntryAnswer{}}
	known := len(r.Missing) == 0

	links := kind.DefaultLinks()
	if b.Links != nil && (links > 0 || kind == wear.WholeChain) {
		links = chain.Links(*b.Links)
		if links < 2 || links > record.MaxLinks {
			a.LinksFault = &record.Field{Path: "links", Code: "out-of-range", Message: "A reading spans 2 to 300 links."}
			return a
		}
	}
	a.Links = int(links)
	if kind == wear.WholeChain && b.bike != nil && b.bike.ChainLinks != nil {
		a.LinksOnRecord = *b.bike.ChainLinks - 1 // its joining link is off
	}
	if kind == wear.WholeChain && links == 0 {
		a.Missing = append(a.Missing, "links")
		return a
	}
	newLength, fault := b.newLength(kind, links)
	if fault != nil {
		a.NewLengthFault = fault
		return a
	}

	readings, at := b.readings(&a, kind, links, newLength)
	tool := wear.Instrument{Kind: kind, ZeroOffset: chain.Percent(b.tool.ZeroOffsetPct), Spreads: b.tool.Spreads}
	a.Bias = b.bias(tool)
	m, ok := b.measure(&a, tool, readings, at, findingsOf(b.Findings))
	if known {
		strip := newStrip(wear.EmptyStrip(r.Limits))
		a.Strip = &strip
	}
	if !ok {
		return a
	}
	for _, p := range m.Places() {
		e := float64(p.Elongation)
		for i := range a.Entries {
			if a.Entries[i].Place == p.Number && a.Entries[i].Understood != nil {
				a.Entries[i].Understood.ElongationPct = &e
			}
		}
	}
	if !known {
		return a
	}
	a.Wear = calc.NewWearAnswer(m, r.Drivetrain, r.School, r.Limits)
	strip := newStrip(wear.StripOf(m, r.Limits))
	a.Strip = &strip
	if est, ok := m.Estimate(); ok {
		if a.ChainLinks = b.chainLinks(kind, links); a.ChainLinks > 0 {
			growth := float64(est.Mean.Growth(chain.Links(a.ChainLinks)))
			a.GrowthMM = &growth
		}
	}
	if a.Wear.Verdict == wear.Unsure.String() {
		b.settle(&a, kind, m, r.Limits)
	}
	a.Recordable = true
	for _, e := range a.Entries {
		a.Recordable = a.Recordable && e.Fault == nil
	}
	return a
}

// bias finds the last reading of the chain now on by a tool of the other sort than the one in hand. It
// changes no number. A look touches no roller and reads nothing.
func (b bench) bias(tool wear.Instrument) *Bias {
	if tool.Kind == wear.PullOff {
		return nil
	}
	for _, e := range slices.Backward(b.before) {
		if e.Kind == record.KindChainFitted {
			return nil
		}
		m, err := MeasurementOf(e)
		if err != nil || m.Instrument.Kind == wear.PullOff.String() || m.Instrument.Counts() == tool.CountsRollers() {
			continue
		}
		out := &Bias{Spreads: tool.CountsRollers(), Instrument: m.Instrument.Name, TakenAt: m.TakenAt, ElongationPct: m.Wear.ElongationPct}
		if v := m.Wear.Interval; v != nil {
			out.LowPct, out.HighPct = &v.LowPct, v.HighPct
		}
		return out
	}
	return nil
}

// settle names what would tell more, were the chain as worn as it now seems; a tool that spreads rollers never before one that
// does not.
func (b bench) settle(a *BenchAnswer, kind wear.Kind, m wear.Measurement, l wear.Limits) {
	e, inHand := chain.Percent(0), chain.Percent(math.Inf(1)) // a tool that compares is coarser than any that measures
	if est, ok := m.Estimate(); ok {
		e, inHand = est.Mean, est.Sigma
		a.SettlePlaces = wear.PlacesToSettle(e, kind, len(m.Places()), l)
	} else if v, ok := m.Interval(); ok {
		e = v.Middle()
	}
	a.LeanDecides = true
	for _, tool := range b.tools {
		sigma, measures := wear.SigmaOf(kindOf(tool), b.house.Places)
		settles := measures && wear.Settles(e, sigma, l)
		a.LeanDecides = a.LeanDecides && !settles
		if tool.ID != b.tool.ID && (settles || (measures && sigma < inHand)) {
			spreads := wear.Instrument{Kind: kindOf(tool), Spreads: tool.Spreads}.CountsRollers()
			a.Settle = append(a.Settle, SettlingTool{tool.ID, tool.Name, spreads, float64(sigma), settles})
		}
	}
	last := func(is bool) int {
		if is {
			return 1
		}
		return 0
	}
	slices.SortStableFunc(a.Settle, func(x, y SettlingTool) int {
		return cmp.Or(cmp.Compare(last(x.Spreads), last(y.Spreads)), cmp.Compare(last(!x.Settles), last(!y.Settles)), cmp.Compare(x.SigmaPct, y.SigmaPct))
	})
}

// newLength reads what inside jaws say on a new chain, if anything was typed.
func (b bench) newLength(kind wear.Kind, links chain.Links) (chain.MM, *record.Field) {
	if kind != wear.CaliperInside || record.CleanLine(b.NewLength) == "" {
		return 0, nil
	}
	entry, err := wear.ParseEntry(kind, links, 0, b.house.Unit, b.NewLength)
	if err == nil {
		// Held against itself a new chain reads zero; what is wrong with it is wrong with the number.
		_, err = wear.NewMeasurement(wear.Instrument{Kind: kind}, []wear.Reading{wear.Inside(1, links, entry.Length, entry.Length)}, nil)
	}
	if err != nil {
		f := faultOf(err)
		f.Path = "new_length"
		return 0, &f
	}
	return entry.Length, nil
}

// readings makes readings of the entries that have something in them. at[i] is the index among the
// answer's entries of reading i.
func (b bench) readings(a *BenchAnswer, kind wear.Kind, links chain.Links, newLength chain.MM) (readings []wear.Reading, at []int) {
	for _, e := range b.Entries {
		answer := EntryAnswer{Place: e.Place}
		if e.empty() {
			a.Entries = append(a.Entries, answer)
			continue
		}
		reading, understood, err := readEntry(kind, links, newLength, b.house.Unit, e)
		if err != nil {
			f := faultOf(err)
			answer.Fault = &f
		} else {
			answer.Understood = &understood
			readings, at = append(readings, reading), append(at, len(a.Entries))
		}
		a.Entries = append(a.Entries, answer)
	}
	return readings, at
}

func readEntry(kind wear.Kind, links chain.Links, newLength chain.MM, unit wear.Unit, e BenchEntry) (wear.Reading, Understood, error) {
	switch kind {
	case wear.GaugeDropin:
		marks := make([]wear.Mark, len(e.Marks))
		for i, m := range e.Marks {
			marks[i] = wear.Mark{At: chain.Percent(m.MarkPct), DropsIn: m.DropsIn}
		}
		return wear.DropIn(e.Place, marks...), Understood{}, nil
	case wear.PullOff:
		look, err := wear.ParseLook(e.Look)
		if err != nil {
			return wear.Reading{}, Understood{}, wear.Fault{Field: "look", Code: "unknown", Message: err.Error()}
		}
		return wear.Looked(e.Place, look), Understood{}, nil
	default: // the others have nothing beside what they read
	}
	entry, err := wear.ParseEntry(kind, links, newLength, unit, e.Text)
	if err != nil {
		return wear.Reading{}, Understood{}, err
	}
	if kind == wear.GaugePercent {
		return wear.Percent(e.Place, entry.Pct), Understood{}, nil
	}
	length, past := float64(entry.Length), float64(entry.Past)
	understood := Understood{LengthMM: &length, PastMM: &past}
	if kind == wear.CaliperInside {
		return wear.Inside(e.Place, links, entry.Length, newLength), understood, nil
	}
	return wear.Length(e.Place, links, entry.Length), understood, nil
}

// measure makes a measurement of the readings that can stand, noting the faults of the others.
func (b bench) measure(a *BenchAnswer, tool wear.Instrument, readings []wear.Reading, at []int, findings []wear.Finding) (wear.Measurement, bool) {
	for len(readings) > 0 {
		m, err := wear.NewMeasurement(tool, readings, findings)
		if err == nil {
			return m, true
		}
		var faults wear.Faults
		if !errors.As(err, &faults) {
			return m, false
		}
		var keep []wear.Reading
		var keepAt []int
		for i, r := range readings {
			fault := faultOfReading(faults, i)
			if fault == nil {
				keep, keepAt = append(keep, r), append(keepAt, at[i])
				continue
			}
			entry := &a.Entries[at[i]]
			entry.Fault, entry.Understood = fault, nil
		}
		if len(keep) == len(readings) { // the fault is of the whole, and no reading's to mend
			return m, false
		}
		readings, at = keep, keepAt
	}
	return wear.Measurement{}, false
}

func faultOfReading(faults wear.Faults, i int) *record.Field {
	for _, f := range faults {
		if f.Reading == i {
			return &record.Field{Path: f.Field, Code: f.Code, Message: f.Message}
		}
	}
	return nil
}

// faultOf words an error of reading one entry.
func faultOf(err error) record.Field {
	var one wear.Fault
	var many wear.Faults
	switch {
	case errors.As(err, &one):
		return record.Field{Path: one.Field, Code: one.Code, Message: one.Message}
	case errors.As(err, &many):
		return record.Field{Path: many[0].Field, Code: many[0].Code, Message: many[0].Message}
	}
	return record.Field{Code: "invalid", Message: err.Error()}
}

// chainLinks is how many links the whole chain has: as on record, or as just counted.
func (b bench) chainLinks(kind wear.Kind, spanned chain.Links) int {
	switch {
	case b.bike != nil && b.bike.ChainLinks != nil:
		return *b.bike.ChainLinks
	case kind == wear.WholeChain:
		return int(spanned) + 1 // with the joining link off, one pitch less than the chain's links
	}
	return 0
}

func newStrip(s wear.Strip) Strip {
	out := Strip{Links: int(s.Links), NewMM: float64(s.New), LimitMM: float64(s.Limit), TogetherMM: float64(s.Together), Places: []StripPlace{}}
	if s.Mean != 0 {
		mean, e := float64(s.Mean), float64(s.Error)
		out.MeanMM, out.ErrorMM = &mean, &e
	}
	if s.Low != 0 {
		low := float64(s.Low)
		out.LowMM = &low
		if high := float64(s.High); !math.IsInf(high, 1) {
			out.HighMM = &high
		}
	}
	for _, p := range s.Places {
		out.Places = append(out.Places, StripPlace{p.Number, float64(p.At)})
	}
	return out
}
