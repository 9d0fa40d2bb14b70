package bikes

import (
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/fitting"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// Parts is what is fitted to a bike beside the frame.
type Parts struct {
	Chains []ChainPart `json:"chains"` // in the order in which they first came on
	Link   *LinkPart   `json:"joining_link,omitempty"`
	Sets   []SetPart   `json:"sets"` // sprockets, rings and pulleys now on
}

// ChainPart is one chain; it may be taken off and put back.
type ChainPart struct {
	PartID    uuid.UUID `json:"part_id"`
	What      string    `json:"what,omitempty"`
	Links     int       `json:"links,omitempty"`
	Joint     string    `json:"joint,omitempty"`
	Sprockets int       `json:"sprockets,omitempty"`
	Direction string    `json:"direction,omitempty"`
	BoxLinks  int       `json:"box_links,omitempty"`
	State     string    `json:"state"` // on, kept, scrapped
	FittedAt  time.Time `json:"fitted_at"`
	Times     int       `json:"times"` // setState on
	HardKM    float64   `json:"hard_km"`
}

// LinkPart is the joining link that closes the chain now on.
type LinkPart struct {
	PartID     uuid.UUID `json:"part_id"`
	What       string    `json:"what,omitempty"`
	Sprockets  int       `json:"sprockets,omitempty"`
	StatedUses int       `json:"stated_uses,omitempty"`
	Uses       int       `json:"uses"`     // how often it closed a chain
	Openings   int       `json:"openings"` // and how often that was opened again
	// Spent says why the house would not close it again even if it is sound; empty when it may.
	Spent string `json:"spent,omitempty"`
}

// SetPart is a set of sprockets, the rings or the pulleys.
type SetPart struct {
	PartID   uuid.UUID `json:"part_id"`
	Part     string    `json:"part"`
	What     string    `json:"what,omitempty"`
	FittedAt time.Time `json:"fitted_at"`
	Chains   int       `json:"chains"` // that ran on it, the one now on among them
	HardKM   float64   `json:"hard_km"`
	// SinceCare says that nobody noted when it was fitted: what is counted is since the bike came into care.
	SinceCare bool `json:"since_care,omitempty"`
}

// Fitted gathers parts in the order of what happened.
type fitted struct {
	chains []ChainPart
	spans  []int // index of the part of each span of the track
	links  map[uuid.UUID]*LinkPart
	link   *LinkPart
	sets   []SetPart
	ran    map[uuid.UUID][]uuid.UUID // chains that ran on each set
}

func NewFitted() *fitted {
	return &fitted{links: map[uuid.UUID]*LinkPart{}, ran: map[uuid.UUID][]uuid.UUID{}}
}

// putOn puts a chain on and returns the index of its part.
func (f *fitted) putOn(e store.EntryView, b record.ChainBody) int {
	id := e.ID
	if b.PartID != nil {
		id = *b.PartID
	}
	if n := len(f.spans); n > 0 {
		before := &f.chains[f.spans[n-1]]
		before.State = "scrapped"
		if b.OldChain == "kept" {
			before.State = "kept"
		}
	}
	i := slices.IndexFunc(f.chains, func(c ChainPart) bool { return c.PartID == id })
	if i < 0 {
		i = len(f.chains)
		f.chains = append(f.chains, ChainPart{PartID: id, What: b.What, Links: b.Links, Joint: b.Joint, Sprockets: b.Sprockets,
			Direction: b.Direction, BoxLinks: b.BoxLinks, FittedAt: e.HappenedAt})
	}
	c := &f.chains[i]
	c.State = "on"
	c.Times++
	if b.Links > 0 {
		c.Links = b.Links
	}
	f.spans = append(f.spans, i)
	for _, set := range f.sets {
		f.runsOn(set.PartID, id)
	}
	f.closeWith(b.Link)
	return i
}

func (f *fitted) runsOn(set, chain uuid.UUID) {
	if !slices.Contains(f.ran[set], chain) {
		f.ran[set] = append(f.ran[set], chain)
	}
}

// closeWith closes the chain with a link; nil is a pin, or nobody noted it.
func (f *fitted) closeWith(b *record.LinkBody) {
	if b == nil {
		f.link = nil
		return
	}
	l := f.links[b.PartID]
	if l == nil {
		l = &LinkPart{PartID: b.PartID, What: b.What, Sprockets: b.Sprockets, StatedUses: b.StatedUses}
		f.links[b.PartID] = l
	}
	l.Uses++
	f.link = l
}

// open opens the chain and closes it again.
func (f *fitted) open(b record.OpenedBody) {
	if f.link != nil {
		f.link.Openings++
	}
	f.closeWith(b.Link)
}

// fitSet puts a set on in place of the one of its kind.
func (f *fitted) fitSet(e store.EntryView, b record.PartBody, hardKM float64) {
	f.sets = slices.DeleteFunc(f.sets, func(s SetPart) bool { return s.Part == b.Part })
	f.sets = append(f.sets, SetPart{PartID: b.PartID, Part: b.Part, What: b.What, FittedAt: e.HappenedAt, HardKM: -hardKM}) // until its end is known
	if n := len(f.spans); n > 0 {
		f.runsOn(b.PartID, f.chains[f.spans[n-1]].PartID)
	}
}

// view ends the story today.
func (f *fitted) view(bike store.Bike, nowHardKM float64, school fitting.LinkSchool) Parts {
	p := Parts{Chains: f.chains, Sets: f.sets}
	if p.Chains == nil {
		p.Chains = []ChainPart{}
	}
	for _, part := range []string{"sprockets", "rings"} {
		has := slices.ContainsFunc(p.Sets, func(s SetPart) bool { return s.Part == part })
		if has || len(f.chains) == 0 {
			continue
		}
		came := SetPart{PartID: bike.ID, Part: part, FittedAt: bike.CreatedAt, SinceCare: true}
		for _, c := range f.chains {
			came.HardKM += c.HardKM
			f.runsOn(bike.ID, c.PartID)
		}
		came.HardKM -= nowHardKM // the same sum is added below for all
		p.Sets = append(p.Sets, came)
	}
	if p.Sets == nil {
		p.Sets = []SetPart{}
	}
	slices.SortStableFunc(p.Sets, func(a, b SetPart) int {
		return slices.Index(record.SetOrder, a.Part) - slices.Index(record.SetOrder, b.Part)
	})
	for i := range p.Sets {
		p.Sets[i].HardKM += nowHardKM
		p.Sets[i].Chains = len(f.ran[p.Sets[i].PartID])
	}
	if f.link != nil {
		f.link.Spent = school.MayClose(fitting.Link{Uses: f.link.Uses, Stated: f.link.StatedUses, Sprockets: f.link.Sprockets}, true).String()
		p.Link = f.link
	}
	return p
}
