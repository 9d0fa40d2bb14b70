package schedule

import (
	"cmp"
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/wallclock"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/shop/stock"
	"earnestpony/internal/store"
)

// Sheet is what is to be had ready for a day, in order of time: the page for the evening before.
type Sheet struct {
	Day    string        `json:"day"` // 2026-12-01
	MadeAt time.Time     `json:"made_at"`
	People []SheetPerson `json:"people"`
	Jobs   []SheetJob    `json:"jobs"`
	Heats  []SheetHeat   `json:"heats"`  // pots and baths to switch on
	Fluids []SheetAmount `json:"fluids"` // of the whole day
	Order  []SheetOrder  `json:"order"`  // what is short for what is planned, the soonest first
}

// SheetPerson is somebody who is here on that day.
type SheetPerson struct {
	Name  string       `json:"name"`
	Hours []FloorHours `json:"hours"`
}

// SheetJob is a bike that is worked on that day, and what it needs.
type SheetJob struct {
	Job        uuid.UUID          `json:"job"`
	Tag        string             `json:"tag"`
	Bike       string             `json:"bike"`
	Customer   record.CustomerRef `json:"customer"`
	FirstAt    time.Time          `json:"first_at"` // when somebody begins on it
	By         string             `json:"by"`       // who
	PromisedAt *time.Time         `json:"promised_at,omitempty"`
	Guess      bool               `json:"guess,omitempty"` // it is not planned yet
	Tools      []string           `json:"tools"`
	Amounts    []SheetAmount      `json:"amounts"`
	Places     []string           `json:"places"` // beside the stand, in order
}

// SheetAmount is so much of a material.
type SheetAmount struct {
	Material string  `json:"material"` // a chain's with its width in Sprockets
	Amount   float64 `json:"amount"`
	Unit     string  `json:"unit"`
	// Sprockets are how many side by side a chain or joining link is for; zero for all else.
	Sprockets int `json:"sprockets,omitempty"`
}

// SheetHeat is a pot or bath that is switched on.
type SheetHeat struct {
	At    time.Time `json:"at"`
	Place string    `json:"place"` // pot, oil-bath
	Tag   string    `json:"tag"`
	Title string    `json:"title"`
}

// SheetOrder is what there is too little of, and by when it is needed.
type SheetOrder struct {
	SheetAmount
	Have     float64   `json:"have"`
	NeededAt time.Time `json:"needed_at"` // by the first bike for which it is not enough
	Tag      string    `json:"tag"`
}

// use is a material that a step takes.
type use struct {
	of  SheetAmount
	at  time.Time
	tag string
}

// materialChain is a new chain, beside the materials of the steps.
const materialChain = "chain"

// DaySheet is the sheet of a day, by the plan on the wall; the next day on which somebody works where none is named.
func (s *Schedule) DaySheet(ctx context.Context, day string) (Sheet, error) {
	d, hangs, err := s.floorNow(ctx)
	if err != nil {
		return Sheet{}, err
	}
	tx := s.desk.Store.Read(ctx)
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return Sheet{}, err
	}
	if day == "" {
		day = d.nextDay(h.Zone)
	}
	on, err := time.ParseInLocation(time.DateOnly, day, h.Zone)
	if err != nil {
		return Sheet{}, record.InvalidInput(record.Field{Path: "day", Code: "not-a-date", Message: "A day is written 2026-12-25."})
	}
	from := wallclock.DayStart(on, h.Zone)
	until := wallclock.DayStart(on.AddDate(0, 0, 1), h.Zone)
	v := Sheet{Day: day, MadeAt: hangs.madeAt, People: []SheetPerson{}, Jobs: []SheetJob{}, Heats: []SheetHeat{}, Fluids: []SheetAmount{}, Order: []SheetOrder{}}
	for _, p := range d.problem.People {
		one := SheetPerson{Name: d.people[p.ID].Name}
		for _, s := range p.Hours {
			if begins := d.time(s.From); !begins.Before(from) && begins.Before(until) {
				one.Hours = append(one.Hours, FloorHours{begins, d.time(s.To)})
			}
		}
		if len(one.Hours) > 0 {
			v.People = append(v.People, one)
		}
	}
	var uses []use
	byJob := map[string]int{}
	steps := slices.Clone(hangs.plan.Steps)
	slices.SortStableFunc(steps, func(a, b planStep) int { return a.Start.Compare(b.Start) })
	for _, st := range steps {
		one, is := d.stints[[2]string{st.Job, st.Step}]
		if !is || one.begun != nil && one.minutes == 0 {
			continue // only its wait runs
		}
		takes := d.takes(one, st.Start)
		uses = append(uses, takes...)
		if st.Start.Before(from) || !st.Start.Before(until) {
			continue
		}
		i, known := byJob[st.Job]
		if !known {
			i = len(v.Jobs)
			byJob[st.Job] = i
			v.Jobs = append(v.Jobs, d.sheetJob(one, st))
		}
		v.Jobs[i].take(one, takes)
		v.Heats = append(v.Heats, heats(one, st)...)
		for _, u := range takes {
			v.Fluids = sum(v.Fluids, u.of)
		}
	}
	if v.Order, err = s.short(ctx, tx, uses); err != nil {
		return Sheet{}, err
	}
	return v, nil
}

// nextDay is the next day after today on which somebody works; tomorrow where nobody does.
func (d *floorDay) nextDay(zone *time.Location) string {
	tomorrow := wallclock.DayStart(d.now.In(zone).AddDate(0, 0, 1), zone)
	next := time.Time{}
	for _, p := range d.problem.People {
		for _, h := range p.Hours {
			if begins := d.time(h.From); !begins.Before(tomorrow) && (next.IsZero() || begins.Before(next)) {
				next = begins
			}
		}
	}
	if next.IsZero() {
		next = tomorrow
	}
	return next.In(zone).Format(time.DateOnly)
}

func (d *floorDay) sheetJob(one stint, st planStep) SheetJob {
	l := one.job
	return SheetJob{Job: l.Job.ID, Tag: record.TagOf(l.Bike), Bike: record.BikeWords(l.Bike), Customer: record.CustomerRef{ID: l.Bike.CustomerID, Name: l.Bike.OwnerName},
		FirstAt: st.Start, By: d.people[st.Person].Name, PromisedAt: l.Job.PromisedAt, Guess: d.guessed[st.Job], Tools: []string{}, Amounts: []SheetAmount{}, Places: []string{}}
}

// take adds what a stint needs to what its bike does.
func (j *SheetJob) take(one stint, takes []use) {
	for _, i := range one.steps {
		spec := one.job.Specs[i]
		for _, tool := range spec.Tools {
			if !slices.Contains(j.Tools, tool) {
				j.Tools = append(j.Tools, tool)
			}
		}
		if spec.Station != string(clean.AtStand) && !slices.Contains(j.Places, spec.Station) {
			j.Places = append(j.Places, spec.Station)
		}
	}
	for _, u := range takes {
		j.Amounts = sum(j.Amounts, u.of)
	}
}

// takes is what the steps of a stint use up.
func (d *floorDay) takes(one stint, at time.Time) []use {
	var all []use
	l := one.job
	sprockets := 0
	if l.Bike.SprocketCount != nil {
		sprockets = *l.Bike.SprocketCount
	}
	add := func(a SheetAmount) {
		if a.Material == materialChain || a.Material == string(clean.JoinLink) {
			a.Sprockets = sprockets
		}
		all = append(all, use{a, at, record.TagOf(l.Bike)})
	}
	for _, i := range one.steps {
		if l.Specs[i].Code == string(clean.OpensNewChain) {
			add(SheetAmount{Material: materialChain, Amount: 1, Unit: "piece"})
		}
		for _, a := range l.Specs[i].Amounts {
			add(SheetAmount{Material: a.Material, Amount: a.Amount, Unit: a.Unit})
		}
	}
	return all
}

// heats are the pots and baths that a stint switches on.
func heats(one stint, st planStep) []SheetHeat {
	var all []SheetHeat
	for _, i := range one.steps {
		spec := one.job.Specs[i]
		if spec.Code == "wax-melt" || spec.Station == string(clean.InOil) {
			all = append(all, SheetHeat{st.Start, spec.Station, record.TagOf(one.job.Bike), spec.Title})
		}
	}
	return all
}

// sum adds an amount to others, to what there is of the same.
func sum(all []SheetAmount, a SheetAmount) []SheetAmount {
	i := slices.IndexFunc(all, func(x SheetAmount) bool {
		return x.Material == a.Material && x.Unit == a.Unit && x.Sprockets == a.Sprockets
	})
	if i < 0 {
		return append(all, a)
	}
	all[i].Amount += a.Amount
	return all
}

// short is what there is too little of for all that is planned, by what stands on the shelf now.
func (s *Schedule) short(ctx context.Context, tx store.Tx, uses []use) ([]SheetOrder, error) {
	items, err := tx.Stock(ctx, false)
	if err != nil {
		return nil, err
	}
	materials, err := tx.Materials(ctx)
	if err != nil {
		return nil, err
	}
	have := func(a SheetAmount) (sum float64, kept bool) {
		kinds := map[string]string{materialChain: stock.StockChain, string(clean.JoinLink): stock.StockLink}
		if kind, piece := kinds[a.Material]; piece {
			for _, i := range items {
				if i.Kind == kind && i.Sprockets == a.Sprockets {
					sum += float64(i.Quantity)
				}
			}
			return sum, a.Sprockets > 0
		}
		for _, m := range materials {
			if m.Kind == a.Material {
				sum, kept = sum+m.Quantity, true
			}
		}
		return sum, kept
	}
	all := []SheetOrder{}
	var need []SheetAmount
	for _, u := range uses {
		need = sum(need, u.of)
		same := func(x SheetAmount) bool {
			return x.Material == u.of.Material && x.Unit == u.of.Unit && x.Sprockets == u.of.Sprockets
		}
		total := need[slices.IndexFunc(need, same)]
		there, kept := have(u.of)
		if !kept || total.Amount <= there {
			continue
		}
		if i := slices.IndexFunc(all, func(o SheetOrder) bool { return same(o.SheetAmount) }); i >= 0 {
			all[i].Amount = total.Amount
			continue
		}
		all = append(all, SheetOrder{total, there, u.at, u.tag})
	}
	slices.SortStableFunc(all, func(a, b SheetOrder) int {
		return cmp.Or(a.NeededAt.Compare(b.NeededAt), cmp.Compare(a.Material, b.Material))
	})
	return all, nil
}
