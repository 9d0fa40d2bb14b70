package bikes

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/chain"
	"earnestpony/core/fitting"
	"earnestpony/core/sizing"
	"earnestpony/core/wear"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// ReplacementPlan is what a new chain on a bike asks for.
type ReplacementPlan struct {
	Verdict    string            `json:"verdict,omitempty"` // of the last reading; empty before the first
	Advice     Advice            `json:"advice"`
	Sprockets  int               `json:"sprockets,omitempty"` // the width that chain and joining link must have; 0 is not known
	Grease     string            `json:"grease"`              // keep-inside or strip-all
	Chains     []stock.StockItem `json:"chains"`              // on the shelf, of that width
	Links      []stock.StockItem `json:"links"`
	Kept       []ChainPart       `json:"kept"` // chains of this bike that were taken off and kept
	OldLink    *LinkPart         `json:"old_link,omitempty"`
	LinkSchool string            `json:"link_school"`
	Missing    []string          `json:"missing"` // no-chain, no-joining-link: of that width on the shelf
	Derailleur bool              `json:"derailleur"`
	Checks     []string          `json:"checks"` // to be made with a joining link; a pin needs none that it is seated
	// Later are those of the checks, and the ride test, that steps of the bike's open job make anyway: they are not asked here.
	Later []string `json:"later"`
}

// madeLater are the steps of a job that make what is asked when a chain is fitted.
var madeLater = map[string]string{"index": string(fitting.GearsIndexed), "tension": string(fitting.TensionSet), "axles": string(fitting.AxleTight), "brakes-test": string(fitting.BrakesTested), "ride": rideTest}

const rideTest = "ride-test"

// laterOf is what the open job of a bike makes after its new chain is on.
func laterOf(ctx context.Context, tx store.Tx, bike uuid.UUID) ([]string, error) {
	open, err := tx.OpenStepsOf(ctx, bike)
	later := []string{}
	if err != nil || !slices.Contains(open, "new-chain") {
		return later, err
	}
	for _, code := range open {
		if check, makes := madeLater[code]; makes {
			later = append(later, check)
		}
	}
	return later, nil
}

// Advice is what goes together.
type Advice struct {
	Chain     bool `json:"chain"`
	Sprockets bool `json:"sprockets"`
	RideTest  bool `json:"ride_test"`
	Look      bool `json:"look"`
}

// PlanReplacement says what a new chain on a bike asks for. It writes nothing.
func (s *Bikes) PlanReplacement(ctx context.Context, tagText string) (ReplacementPlan, error) {
	return s.PlanReplacementTx(ctx, s.desk.Store.Read(ctx), tagText)
}

func (s *Bikes) PlanReplacementTx(ctx context.Context, tx store.Tx, tagText string) (ReplacementPlan, error) {
	t, facts, err := s.tracker(ctx, tx, tagText)
	if err != nil {
		return ReplacementPlan{}, err
	}
	w, err := t.Track(facts)
	if err != nil {
		return ReplacementPlan{}, err
	}
	items, err := stock.StockItems(ctx, tx, false)
	if err != nil {
		return ReplacementPlan{}, err
	}
	last, err := measure.LastReading(t.House, t.Bike)
	if err != nil {
		return ReplacementPlan{}, err
	}
	p := ReplacementPlan{Grease: t.House.Grease.For(record.Waxed(t.Bike.Lubricant)).String(), Chains: []stock.StockItem{}, Links: []stock.StockItem{}, Kept: []ChainPart{},
		OldLink: w.Parts.Link, LinkSchool: t.House.Link.String(), Missing: []string{}, Sprockets: t.Ruling.Drivetrain.Sprockets,
		Derailleur: t.Ruling.Drivetrain.Kind == chain.Derailleur}
	for _, step := range fitting.Checks(t.Ruling.Drivetrain, sizing.JoiningLink) {
		p.Checks = append(p.Checks, string(step))
	}
	if p.Later, err = laterOf(ctx, tx, t.Bike.ID); err != nil {
		return p, err
	}
	if last != nil {
		v, err := wear.ParseVerdict(last.Wear.Verdict)
		if err != nil {
			return p, err
		}
		p.Verdict, p.Advice = last.Wear.Verdict, Advice(fitting.Advise(v, t.House.Sprocket))
	}
	for _, c := range w.Parts.Chains {
		if c.State == "kept" {
			p.Kept = append(p.Kept, c)
		}
	}
	p.choose(items)
	return p, nil
}

// choose takes from the shelf what fits.
func (p *ReplacementPlan) choose(items []stock.StockItem) {
	chains, links := 0, 0
	for _, i := range items {
		if p.Sprockets != 0 && i.Facts.Sprockets != p.Sprockets {
			continue
		}
		if i.Kind == stock.StockChain {
			p.Chains = append(p.Chains, i)
			chains += i.Facts.Quantity
			if i.Facts.HasJoiningLink {
				links += i.Facts.Quantity
			}
		} else {
			p.Links = append(p.Links, i)
			links += i.Facts.Quantity
		}
	}
	if chains == 0 {
		p.Missing = append(p.Missing, "no-chain")
	}
	if links == 0 {
		p.Missing = append(p.Missing, "no-joining-link")
	}
}

// NewChain is the chain that is put on: one from the shelf, one that was kept, or one from elsewhere.
type NewChain struct {
	StockItemID *uuid.UUID `json:"stock_item_id,omitempty"`
	KeptPartID  *uuid.UUID `json:"kept_part_id,omitempty"`
	What        string     `json:"what,omitempty"`
	Sprockets   int        `json:"sprockets,omitempty"`
	Links       int        `json:"links"` // After cutting
	BoxLinks    int        `json:"box_links,omitempty"`
	Joint       string     `json:"joint"`
	HalfLink    bool       `json:"half_link,omitempty"`
	Direction   string     `json:"direction,omitempty"` // as marked: none noted when empty
}

// NewLink is the joining link that closes the chain: one from the shelf, the one of the box, the one that
// was there before, or one from elsewhere.
type NewLink struct {
	StockItemID *uuid.UUID `json:"stock_item_id,omitempty"`
	FromBox     bool       `json:"from_box,omitempty"`
	Reuse       bool       `json:"reuse,omitempty"`
	Sound       bool       `json:"sound,omitempty"` // looked at: no wear at the pin seat, and it snaps firmly
	What        string     `json:"what,omitempty"`
	Sprockets   int        `json:"sprockets,omitempty"`
	StatedUses  int        `json:"stated_uses,omitempty"`
}

// Replacement is a new chain put on, with all that went with it.
type Replacement struct {
	OdometerKM *float64 `json:"odometer_km,omitempty"`
	Chain      NewChain `json:"chain"`
	Link       *NewLink `json:"joining_link,omitempty"` // nil for a pin
	OldChain   string   `json:"old_chain"`              // kept or scrapped
	Grease     string   `json:"grease"`
	Sprockets  *string  `json:"sprockets,omitempty"` // what was fitted; nil when the old ones stay
	Rings      *string  `json:"rings,omitempty"`
	Pulleys    *string  `json:"pulleys,omitempty"`
	Checks     []string `json:"checks"`
	RideTest   string   `json:"ride_test,omitempty"` // no-skip or skips; empty when none was asked for
	Note       string   `json:"note,omitempty"`
}

// replacementBody is what the ledger keeps of the job as a whole.
type replacementBody struct {
	Advice    Advice   `json:"advice"`
	Verdict   string   `json:"verdict,omitempty"`
	ChainPart string   `json:"chain_part"` // id
	Links     int      `json:"links"`
	Parts     []string `json:"parts,omitempty"` // others that went with it
	Checks    []string `json:"checks"`
	RideTest  string   `json:"ride_test,omitempty"`
	Note      string   `json:"note,omitempty"`
}

// ReplaceChain notes a chain that was replaced. A joining link of another width, a spent one, a chain that
// cannot be closed and checks that are not made are refused, and nothing is noted.
func (s *Bikes) ReplaceChain(ctx context.Context, who record.Actor, tagText string, r Replacement) (measure.LedgerEntry, error) {
	for _, text := range []*string{&r.Note, &r.Chain.What, &r.Chain.Direction, r.Sprockets, r.Rings, r.Pulleys} {
		if text != nil {
			*text = record.CleanLine(*text)
		}
	}
	entry, err := record.Idempotent(ctx, s.desk, who, "replace-chain "+tagText, r, func(ctx context.Context, tx store.Tx) (measure.LedgerEntry, error) {
		bike, err := lockedBike(ctx, tx, tagText)
		if err != nil {
			return measure.LedgerEntry{}, err
		}
		j, err := s.replacement(ctx, tx, bike, r)
		if err != nil {
			return measure.LedgerEntry{}, err
		}
		if err := s.measure.SettleVerdicts(ctx, tx, who, bike); err != nil {
			return measure.LedgerEntry{}, err
		}
		if err := s.inHand.BillTaken(ctx, tx, who, bike, j.took); err != nil {
			return measure.LedgerEntry{}, err
		}
		return s.writeReplacement(ctx, tx, who, j)
	})
	return entry, record.SendAgain(err)
}

// fittingJob is a replacement that was checked.
type fittingJob struct {
	Replacement
	bike   store.Bike
	at     time.Time
	advice fitting.Advice
	last   *measure.Measurement
	later  []string // what the bike's open job makes anyway
	chain  record.ChainBody
	// boxHasLink says that the box which the chain came in has a joining link.
	boxHasLink bool
	took       []store.StockItem // off the shelf
}

// replacement checks what is to be noted, everything together.
func (s *Bikes) replacement(ctx context.Context, tx store.Tx, bike store.Bike, r Replacement) (fittingJob, error) {
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return fittingJob{}, err
	}
	t, facts, err := s.TrackerOf(ctx, tx, h, bike)
	if err != nil {
		return fittingJob{}, err
	}
	w, err := t.Track(facts)
	if err != nil {
		return fittingJob{}, err
	}
	j := fittingJob{Replacement: r, bike: bike, at: s.desk.Moment(ctx)}
	if j.last, err = measure.LastReading(h, bike); err != nil {
		return j, err
	}
	if j.later, err = laterOf(ctx, tx, bike.ID); err != nil {
		return j, err
	}
	if j.last != nil {
		v, err := wear.ParseVerdict(j.last.Wear.Verdict)
		if err != nil {
			return j, err
		}
		j.advice = fitting.Advise(v, h.Sprocket)
	}
	var fields record.Faults
	fault := fields.Add
	if err := j.takeChain(ctx, tx, w.Parts, fault); err != nil {
		return j, err
	}
	if err := j.takeLink(ctx, tx, h, w.Parts, fault); err != nil {
		return j, err
	}
	j.checkFit(t.Ruling.Drivetrain, fault)
	j.checkSteps(t.Ruling.Drivetrain, fault)
	if err := fields.Err(); err != nil {
		return j, err
	}
	return j, nil
}

type faulter = func(path, code, format string, args ...any)

// takeChain says which chain is put on.
func (j *fittingJob) takeChain(ctx context.Context, tx store.Tx, parts Parts, fault faulter) error {
	c := j.Chain
	j.chain = record.ChainBody{What: c.What, Sprockets: c.Sprockets, Links: c.Links, Joint: c.Joint, HalfLink: c.HalfLink, Direction: c.Direction,
		BoxLinks: c.BoxLinks, CageMM: j.bike.CageMM, Grease: j.Grease, OldChain: j.OldChain}
	if teeth := j.bike.SprocketTeeth; len(teeth) > 0 {
		j.chain.LargestSprocket = slices.Max(teeth)
	}
	id := uuid.New()
	j.chain.PartID = &id
	switch {
	case c.KeptPartID != nil:
		i := slices.IndexFunc(parts.Chains, func(p ChainPart) bool { return p.PartID == *c.KeptPartID && p.State == "kept" })
		if i < 0 {
			fault("chain.kept_part_id", "not-kept", "This chain is not among those kept for this bike.")
			return nil
		}
		kept := parts.Chains[i]
		j.chain.PartID, j.chain.What, j.chain.Sprockets, j.chain.BoxLinks = &kept.PartID, kept.What, kept.Sprockets, kept.BoxLinks
	case c.StockItemID != nil:
		item, err := stock.StockItemByID(ctx, tx, *c.StockItemID)
		if err != nil {
			return err
		}
		if item.Kind != stock.StockChain {
			fault("chain.stock_item_id", "wrong-kind", "%s is no chain.", item.Name)
		}
		j.chain.StockItemID, j.chain.What, j.chain.Sprockets = c.StockItemID, item.Name, item.Sprockets
		j.boxHasLink = item.HasJoiningLink
		if item.BoxLinks != nil {
			j.chain.BoxLinks = *item.BoxLinks
		}
		return j.take(ctx, tx, item, "chain.stock_item_id", fault)
	}
	return nil
}

// take takes one from the shelf.
func (j *fittingJob) take(ctx context.Context, tx store.Tx, item store.StockItem, path string, fault faulter) error {
	err := tx.TakeStock(ctx, item.ID, -1)
	if errors.Is(err, store.ErrStale) {
		fault(path, "none-left", "There is no %s left on the shelf. Count it, or take another.", item.Name)
		return nil
	}
	j.took = append(j.took, item)
	return err
}

// takeLink says which joining link closes the chain.
func (j *fittingJob) takeLink(ctx context.Context, tx store.Tx, h rules.ParsedRules, parts Parts, fault faulter) error {
	if j.Chain.Joint != sizing.JoiningLink.String() {
		if j.Link != nil {
			fault("joining_link", "not-for-this-joint", "A chain closed with a pin has no joining link.")
		}
		return nil
	}
	l := j.Link
	if l == nil {
		fault("joining_link", "missing", "Say which joining link closes it.")
		return nil
	}
	body := record.LinkBody{PartID: uuid.New(), What: record.CleanLine(l.What), Sprockets: l.Sprockets, StatedUses: l.StatedUses}
	switch {
	case l.Reuse:
		if parts.Link == nil {
			fault("joining_link.reuse", "missing", "No joining link of this bike is on record: take a new one.")
			return nil
		}
		body = record.LinkBody{PartID: parts.Link.PartID, What: parts.Link.What, Sprockets: parts.Link.Sprockets, StatedUses: parts.Link.StatedUses, Again: true}
		if spent := spentWords(h, *parts.Link, l.Sound); spent != "" {
			fault("joining_link.reuse", "link-spent", "%s", spent)
		}
	case l.FromBox && j.chain.StockItemID != nil && !j.boxHasLink:
		fault("joining_link.from_box", "missing", "The box of %s has no joining link.", j.chain.What)
	case l.FromBox:
		body.What, body.Sprockets = "from the chain's box", j.chain.Sprockets
	case l.StockItemID != nil:
		item, err := stock.StockItemByID(ctx, tx, *l.StockItemID)
		if err != nil {
			return err
		}
		if item.Kind != stock.StockLink {
			fault("joining_link.stock_item_id", "wrong-kind", "%s is no joining link.", item.Name)
		}
		body.What, body.Sprockets, body.StockItemID = item.Name, item.Sprockets, l.StockItemID
		if item.StatedUses != nil {
			body.StatedUses = *item.StatedUses
		}
		if err := j.take(ctx, tx, item, "joining_link.stock_item_id", fault); err != nil {
			return err
		}
	}
	j.chain.Link = &body
	return nil
}

// spentWords says why a link may not close a chain again; empty when it may.
func spentWords(h rules.ParsedRules, l LinkPart, sound bool) string {
	switch h.Link.MayClose(fitting.Link{Uses: l.Uses, Stated: l.StatedUses, Sprockets: l.Sprockets}, sound) {
	case fitting.SchoolSays:
		return "This shop fits a new joining link each time a chain is opened."
	case fitting.UsedUp:
		return fmt.Sprintf("This joining link has closed a chain %d times: it is spent. One that opens throws the rider.", l.Uses)
	case fitting.SeatWorn:
		return "A joining link with a worn pin seat, or one that does not snap firmly, is not closed again: one that opens throws the rider."
	default: // nothing says that it is spent
	}
	return ""
}

// checkFit holds chain and link against the drivetrain.
func (j *fittingJob) checkFit(d chain.Drivetrain, fault faulter) {
	if n := chain.Links(j.chain.Links); n < sizing.FewestLinks || n > sizing.MostLinks {
		fault("chain.links", "out-of-range", "A chain has %d to %d links.", sizing.FewestLinks, sizing.MostLinks)
		return
	}
	if box := j.chain.BoxLinks; box > 0 && j.chain.Links > box && j.Chain.KeptPartID == nil {
		fault("chain.links", "box-too-short", "%d links do not come out of a box of %d.", j.chain.Links, box)
	}
	if _, err := sizing.ParseJoint(j.Chain.Joint); err != nil {
		fault("chain.joint", "unknown-value", "Say how the chain is closed.")
	}
	if j.OldChain != "kept" && j.OldChain != "scrapped" {
		fault("old_chain", "missing", "Say what becomes of the old chain: kept to go on again, or scrapped.")
	}
	linkFor := 0
	if j.chain.Link != nil {
		linkFor = j.chain.Link.Sprockets
	}
	for _, m := range fitting.Check(d, j.chain.Sprockets, linkFor, chain.Links(j.chain.Links), j.chain.HalfLink) {
		switch m {
		case fitting.LinkWidth:
			width := j.chain.Sprockets
			if width == 0 {
				width = d.Sprockets
			}
			fault("joining_link.sprockets", m.String(), "A %d-speed joining link does not hold a %d-speed chain: it opens under load and throws the rider.", linkFor, width)
		case fitting.OddLinks:
			fault("chain.links", m.String(), "%d links cannot be closed: an even number, or a half-link on a bike without a derailleur.", j.chain.Links)
		case fitting.HalfLinkHere:
			fault("chain.half_link", m.String(), "A half-link catches in a derailleur.")
		default: // it fits, or the chain's width was refused above
		}
	}
}

// checkSteps holds the checks and the ride test against what this job asks for.
func (j *fittingJob) checkSteps(d chain.Drivetrain, fault faulter) {
	joint, _ := sizing.ParseJoint(j.Chain.Joint) // its fault is noted already
	var open []string
	for _, step := range fitting.Checks(d, joint) {
		if !slices.Contains(j.Checks, string(step)) && !slices.Contains(j.later, string(step)) {
			open = append(open, string(step))
		}
	}
	if len(open) > 0 {
		fault("checks", "checks-open", "Not checked yet: %s.", strings.Join(open, ", "))
	}
	switch {
	case j.RideTest == "skips" && j.Sprockets == nil:
		fault("ride_test", "sprockets-skip", "It skips under load: a cassette that throws the rider is replaced with the chain.")
	case j.advice.RideTest && j.Sprockets == nil && j.RideTest == "" && !slices.Contains(j.later, rideTest):
		fault("ride_test", "missing", "Ride-test the old cassette under load, and say whether it skips.")
	}
}

// writeReplacement writes the entries, and the bike's new count of links.
func (s *Bikes) writeReplacement(ctx context.Context, tx store.Tx, who record.Actor, j fittingJob) (measure.LedgerEntry, error) {
	entry := func(kind string, body any) (measure.LedgerEntry, error) {
		return s.measure.AppendEntry(ctx, tx, who, j.bike, store.Entry{BikeID: &j.bike.ID, Kind: kind, HappenedAt: j.at}, body)
	}
	if j.OdometerKM != nil {
		if _, err := s.measure.NoteOdometerTx(ctx, tx, who, j.bike, record.OdometerNote{KM: *j.OdometerKM}, j.at); err != nil {
			return measure.LedgerEntry{}, err
		}
	}
	body := replacementBody{Advice: Advice(j.advice), ChainPart: j.chain.PartID.String(), Links: j.chain.Links, Checks: j.Checks, RideTest: j.RideTest, Note: j.Note}
	if j.last != nil {
		body.Verdict = j.last.Wear.Verdict
	}
	// The chain first: it is the one that runs on what is fitted with it.
	if _, err := entry(record.KindChainFitted, j.chain); err != nil {
		return measure.LedgerEntry{}, err
	}
	for _, p := range []struct {
		part string
		what *string
	}{{"sprockets", j.Sprockets}, {"rings", j.Rings}, {"pulleys", j.Pulleys}} {
		if p.what == nil {
			continue
		}
		body.Parts = append(body.Parts, p.part)
		if _, err := entry(record.KindPartFitted, record.PartBody{PartID: uuid.New(), Part: p.part, What: *p.what}); err != nil {
			return measure.LedgerEntry{}, err
		}
	}
	if n := j.chain.Links; j.bike.ChainLinks == nil || *j.bike.ChainLinks != n {
		j.bike.ChainLinks = &n
		if err := tx.SaveBike(ctx, &j.bike); err != nil {
			return measure.LedgerEntry{}, err
		}
	}
	return entry(record.KindReplacement, body)
}

// CodeNoChain is the code of a refusal where no chain is on record as fitted.
const CodeNoChain = "no-chain"

// Opening is a chain that was opened and closed again, for cleaning say.
type Opening struct {
	Why  string   `json:"why,omitempty"`
	Link *NewLink `json:"joining_link,omitempty"` // that closed it again; nil for a pin
}

// OpenChain counts an opening of the chain now on, and what closed it again.
func (s *Bikes) OpenChain(ctx context.Context, who record.Actor, tagText string, o Opening) (measure.LedgerEntry, error) {
	o.Why = record.CleanLine(o.Why)
	return record.Idempotent(ctx, s.desk, who, "open-chain "+tagText, o, func(ctx context.Context, tx store.Tx) (measure.LedgerEntry, error) {
		bike, err := lockedBike(ctx, tx, tagText)
		if err != nil {
			return measure.LedgerEntry{}, err
		}
		return s.OpenChainTx(ctx, tx, who, bike, o)
	})
}

// OpenChainTx counts an opening. What was counted before decides whether a joining link may close it again, so
// nobody else writes of the bike meanwhile.
func (s *Bikes) OpenChainTx(ctx context.Context, tx store.Tx, who record.Actor, bike store.Bike, o Opening) (measure.LedgerEntry, error) {
	if err := tx.LockBike(ctx, bike.ID); err != nil {
		return measure.LedgerEntry{}, err
	}
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return measure.LedgerEntry{}, err
	}
	t, facts, err := s.TrackerOf(ctx, tx, h, bike)
	if err != nil {
		return measure.LedgerEntry{}, err
	}
	w, err := t.Track(facts)
	if err != nil {
		return measure.LedgerEntry{}, err
	}
	if len(w.Chains) == 0 {
		return measure.LedgerEntry{}, &record.Problem{Kind: record.Conflict, Code: CodeNoChain, Message: "No chain is on record as fitted: note that first."}
	}
	on := w.Parts.Chains[t.Fitted.spans[len(t.Fitted.spans)-1]]
	j := fittingJob{Replacement: Replacement{Link: o.Link}, bike: bike, chain: record.ChainBody{Sprockets: on.Sprockets, Links: on.Links}}
	if o.Link != nil {
		j.Chain.Joint = sizing.JoiningLink.String()
	}
	var fields record.Faults
	fault := fields.Add
	if err := j.takeLink(ctx, tx, h, w.Parts, fault); err != nil {
		return measure.LedgerEntry{}, err
	}
	if l := j.chain.Link; l != nil {
		width := cmp.Or(on.Sprockets, t.Ruling.Drivetrain.Sprockets)
		if l.Sprockets > 0 && width > 0 && l.Sprockets != width {
			fault("joining_link.sprockets", fitting.LinkWidth.String(), "A %d-speed joining link does not hold a %d-speed chain: it opens under load and throws the rider.", l.Sprockets, width)
		}
	}
	if err := fields.Err(); err != nil {
		return measure.LedgerEntry{}, err
	}
	if err := s.inHand.BillTaken(ctx, tx, who, bike, j.took); err != nil {
		return measure.LedgerEntry{}, err
	}
	return s.measure.AppendEntry(ctx, tx, who, bike, store.Entry{BikeID: &bike.ID, Kind: record.KindChainOpened, HappenedAt: s.desk.Moment(ctx)}, record.OpenedBody{Why: o.Why, Link: j.chain.Link})
}

func init() {
	record.Holds(func(b replacementBody) error { return record.Within("links", float64(b.Links), 0, record.MaxLinks) }, record.KindReplacement)
}
