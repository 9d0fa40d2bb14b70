package contact

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/interval"
	"earnestpony/core/wear"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// The kinds of secret link.
const (
	linkOwner        = "owner"
	linkCalendarShop = "calendar-shop"
	linkCalendarBike = "calendar-bike"
)

// SetBaseURL says where browsers find the server, for links that leave the shop.
func (s *Contact) SetBaseURL(base string) { s.base = strings.TrimRight(base, "/") }

// secretLinkBody is what the ledger keeps of a link: never the token.
type secretLinkBody struct {
	Link   string `json:"link"` // kind
	Action string `json:"deed"` // given, withdrawn
	Name   string `json:"name,omitempty"`
}

// LiveLink is a link that opens something, as somebody in the shop sees it. Its address was shown once, when
// it was given.
type LiveLink struct {
	ID        uuid.UUID `json:"id"`
	Kind      string    `json:"kind"`
	Name      string    `json:"name"`
	CreatedAt time.Time `json:"created_at"`
}

// GivenLink is a link with its address, which nobody is shown again.
type GivenLink struct {
	LiveLink
	Path string `json:"path"` // on this server
	URL  string `json:"url"`
	Code string `json:"code"` // the address as a drawing for print, SVG; made at the edge
}

// NewSecretLink is a link to be given. Of the shop's calendar the tag is empty.
type NewSecretLink struct {
	Kind string `json:"kind"`
	Tag  string `json:"tag,omitempty"`
	Name string `json:"name,omitempty"` // what it is for
}

func newLiveLink(l store.Link) LiveLink { return LiveLink{l.ID, l.Kind, l.Name, l.CreatedAt} }

func (s *Contact) newGivenLink(l store.Link, token people.Token) GivenLink {
	path := "/o/" + string(token)
	if l.Kind != linkOwner {
		path = "/calendar/" + string(token) + ".ics"
	}
	return GivenLink{LiveLink: newLiveLink(l), Path: path, URL: s.base + path}
}

// newToken is 128 bits of chance: nobody guesses it.
func newToken() people.Token {
	var bits [16]byte
	_, _ = rand.Read(bits[:]) // never fails
	return people.Token(base64.RawURLEncoding.EncodeToString(bits[:]))
}

// maxSecretLinks is how many live links a bike may have, and the shop: more are forgotten ones.
const maxSecretLinks = 50

// giveLink mints a link. It ends none that was given before.
func (s *Contact) giveLink(ctx context.Context, tx store.Tx, who record.Actor, kind, name string, bike *store.Bike) (store.Link, people.Token, error) {
	var id *uuid.UUID
	if bike != nil {
		id = &bike.ID
	}
	live, err := tx.Links(ctx, id)
	if err != nil {
		return store.Link{}, "", err
	}
	if len(live) >= maxSecretLinks { // the oldest was for a message long read
		if err := tx.WithdrawLink(ctx, live[len(live)-1].ID, s.desk.Real()); err != nil {
			return store.Link{}, "", err
		}
	}
	token := newToken()
	l := store.Link{ID: uuid.New(), TokenHash: token.Hash(), Kind: kind, Name: name, BikeID: id, CreatedAt: s.desk.Real()}
	if err := tx.AddLink(ctx, &l); err != nil || bike == nil {
		return l, token, err
	}
	e := store.Entry{BikeID: id, Kind: record.KindSecretLink}
	return l, token, s.desk.Append(ctx, tx, who, &e, secretLinkBody{kind, "given", name}, record.TagOf(*bike))
}

// GiveLink gives a secret link and says its address, this once.
func (s *Contact) GiveLink(ctx context.Context, who record.Actor, n NewSecretLink) (GivenLink, error) {
	n.Name = record.CleanLine(n.Name)
	if n.Name == "" {
		n.Name = map[string]string{linkOwner: "Link", linkCalendarBike: "Calendar", linkCalendarShop: "Calendar"}[n.Kind]
	}
	var given GivenLink
	var minted people.Token
	id, err := record.Idempotent(ctx, s.desk, who, "give-link", n, func(ctx context.Context, tx store.Tx) (uuid.UUID, error) {
		bike, err := s.linked(ctx, tx, n.Kind, n.Tag)
		if err != nil {
			return uuid.Nil, err
		}
		l, token, err := s.giveLink(ctx, tx, who, n.Kind, n.Name, bike)
		given, minted = s.newGivenLink(l, token), token
		return l.ID, err
	})
	if err != nil || minted != "" {
		return given, err
	}
	// Sent again: the first answer with the address was lost, and nobody has it. The link gets another.
	err = s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		l, err := tx.LockLink(ctx, id)
		if err != nil {
			return err
		}
		token := newToken()
		given = s.newGivenLink(l, token)
		return tx.SetLinkToken(ctx, id, token.Hash())
	})
	return given, err
}

// Links returns the links of a bike that open something, or the shop's where the tag is empty.
func (s *Contact) Links(ctx context.Context, tagText string) ([]LiveLink, error) {
	tx := s.desk.Store.Read(ctx)
	var of *uuid.UUID
	if tagText != "" {
		bike, err := record.BikeByTag(ctx, tx, tagText)
		if err != nil {
			return nil, err
		}
		of = &bike.ID
	}
	links, err := tx.Links(ctx, of)
	all := []LiveLink{}
	for _, l := range links {
		all = append(all, newLiveLink(l))
	}
	return all, err
}

// WithdrawLink takes one link back: it opens nothing from then on.
func (s *Contact) WithdrawLink(ctx context.Context, who record.Actor, id uuid.UUID) error {
	return s.desk.Write(ctx, who, "withdraw-link", id, func(ctx context.Context, tx store.Tx) error {
		l, err := tx.LockLink(ctx, id)
		if record.IsNotFound(err) {
			return record.NotFound("link", "link-not-found")
		}
		if err != nil || l.WithdrawnAt != nil {
			return err
		}
		if err := tx.WithdrawLink(ctx, id, s.desk.Real()); err != nil || l.BikeID == nil {
			return err
		}
		bike, err := tx.BikeByID(ctx, *l.BikeID)
		if err != nil {
			return err
		}
		e := store.Entry{BikeID: l.BikeID, Kind: record.KindSecretLink}
		return s.desk.Append(ctx, tx, who, &e, secretLinkBody{l.Kind, "withdrawn", l.Name}, record.TagOf(bike))
	})
}

func (s *Contact) linked(ctx context.Context, tx store.Tx, kind, tagText string) (*store.Bike, error) {
	switch kind {
	case linkCalendarShop:
		return nil, nil
	case linkOwner, linkCalendarBike:
		bike, err := record.BikeInCare(ctx, tx, tagText)
		return &bike, err
	}
	return nil, record.NotFound("link", "link-not-found")
}

// OwnerPage is a bike as its owner sees it: nothing personal, for whoever has the link.
type OwnerPage struct {
	Shop       string            `json:"shop"`
	Day        string            `json:"day"`   // Today in the shop
	Until      time.Time         `json:"until"` // the end of that day
	Tag        string            `json:"tag"`
	Bike       string            `json:"bike"`
	Kind       string            `json:"kind,omitempty"`
	Motor      string            `json:"motor,omitempty"`
	Lubricant  string            `json:"lubricant,omitempty"`
	Units      string            `json:"distance_unit"`
	Locale     string            `json:"locale"`
	TimeZone   string            `json:"time_zone"`
	Now        time.Time         `json:"now"`
	Chain      *bikes.ChainState `json:"chain,omitempty"`
	LeftKM     *OwnerRange       `json:"left_km,omitempty"` // of the chain, in km of this bike's riding
	Measured   bool              `json:"measured"`
	Next       []OwnerTask       `json:"next"`
	Done       []OwnerJob        `json:"done"`
	InWorkshop bool              `json:"in_workshop"`
	Reportable []string          `json:"reportable"`
	Told       int               `json:"told"` // what the owner told that the shop has not answered
}

// OwnerRange is a range as it is told to an owner.
type OwnerRange struct {
	Low  float64 `json:"low"`
	Mid  float64 `json:"mid"`
	High float64 `json:"high"`
}

// OwnerTask is what comes next.
type OwnerTask struct {
	What  string  `json:"what"`
	State string  `json:"state"`
	DueOn *string `json:"due_on,omitempty"`
}

// OwnerJob is a visit as its owner sees it.
type OwnerJob struct {
	ClosedAt time.Time `json:"closed_at"`
	Route    string    `json:"route,omitempty"`
	Next     string    `json:"lubricant_next,omitempty"`
	Told     []string  `json:"told"` // what was done, in the customer's words
	Parts    []string  `json:"parts"`
}

// The most of each that an owner is shown.
const (
	ownerJobs  = 5
	ownerTasks = 6
	maxReports = 5 // reports of a bike that wait for the shop
)

func (s *Contact) byToken(ctx context.Context, tx store.Tx, token, kind string) (store.Bike, error) {
	l, err := tx.Link(ctx, people.Token(token).Hash())
	if record.IsNotFound(err) || err == nil && (l.Kind != kind || l.BikeID == nil) {
		return store.Bike{}, &record.Problem{Kind: record.Missing, Code: "link-not-found", Message: "This link opens nothing any longer. Ask the workshop for a new one."}
	}
	if err != nil {
		return store.Bike{}, err
	}
	return tx.BikeByID(ctx, *l.BikeID)
}

// OwnerPage opens a bike's page by its link.
func (s *Contact) OwnerPage(ctx context.Context, token string) (OwnerPage, error) {
	tx := s.desk.Store.Read(ctx)
	bike, err := s.byToken(ctx, tx, token, linkOwner)
	if err != nil {
		return OwnerPage{}, err
	}
	h, err := rules.LoadParsed(ctx, tx)
	if err != nil {
		return OwnerPage{}, err
	}
	row, err := tx.Shop(ctx)
	if err != nil {
		return OwnerPage{}, err
	}
	clock := s.desk.ClockIn(h.Zone)
	p := OwnerPage{Shop: row.Name, Day: clock.Today().String(), Until: clock.DayEnds(), Tag: record.TagOf(bike), Bike: record.BikeWords(bike), Kind: bike.Kind, Motor: bike.Motor, Lubricant: bike.Lubricant, Units: row.DistanceUnit,
		Locale: row.Locale, TimeZone: clock.Zone().String(), Now: clock.Now(),
		Next: []OwnerTask{}, Done: []OwnerJob{}, Reportable: record.CodesOf(interval.Reported())}
	shown, err := bikes.NewBikeRow(h, bike)
	if err != nil {
		return p, err
	}
	p.Chain = shown.Chain
	if p.Chain != nil && measure.Value(bike.Last.Unsigned) { // nobody tells a customer what a mechanic did not sign
		p.Chain.Verdict, p.Chain.State = wear.Unsure.String(), wear.Unsure.State().String()
	}
	track, err := s.bikes.WearTrack(ctx, p.Tag)
	if err != nil {
		return p, err
	}
	if f := track.Forecast; f != nil && track.HardPerKM > 0 {
		left := func(hard float64) float64 { return hard / track.HardPerKM }
		p.LeftKM, p.Measured = &OwnerRange{left(f.LeftHardKM.P10), left(f.LeftHardKM.P50), left(f.LeftHardKM.P90)}, f.Measured
	}
	what, err := s.due.DueNow(ctx, tx, bike.ID)
	if err != nil {
		return p, err
	}
	for _, t := range what.Tasks[:min(len(what.Tasks), ownerTasks)] {
		p.Next = append(p.Next, OwnerTask{due.TitleOf(t), t.State, t.DueOn})
	}
	if p.Done, p.InWorkshop, err = s.ownerJobs(ctx, tx, bike.ID); err != nil {
		return p, err
	}
	reports, err := tx.OpenReports(ctx, bike.ID)
	p.Told = len(reports)
	return p, err
}

func (s *Contact) ownerJobs(ctx context.Context, tx store.Tx, bike uuid.UUID) (done []OwnerJob, here bool, err error) {
	list, err := tx.JobsOf(ctx, bike, ownerJobs)
	if err != nil {
		return nil, false, err
	}
	done = []OwnerJob{}
	for _, j := range list {
		here = here || j.State == store.JobArrived || j.State == store.JobPlanned
		if j.State != store.JobHandedBack {
			continue
		}
		v := OwnerJob{ClosedAt: *j.ClosedAt, Parts: []string{}}
		if p := jobs.PlanOf(j); p != nil {
			v.Route, v.Next = p.Route, p.LubricantNext
		}
		steps, err := tx.Steps(ctx, j.ID)
		if err != nil {
			return nil, here, err
		}
		v.Told = clean.Told(func(code string) bool {
			return slices.ContainsFunc(steps, func(st store.JobStep) bool { return st.Code == code && st.State == store.StepDone })
		})
		entries, err := tx.LedgerOfJob(ctx, j.ID)
		if err != nil {
			return nil, here, err
		}
		parts, err := jobs.PartsOf(entries)
		if err != nil {
			return nil, here, err
		}
		for _, p := range parts {
			v.Parts = append(v.Parts, p.What)
		}
		done = append(done, v)
	}
	return done, here, nil
}

// OwnerReport is what an owner tells: the odometer, something that happened, or a few words.
type OwnerReport struct {
	KM    *float64 `json:"km,omitempty"`
	Event string   `json:"event,omitempty"`
	Note  string   `json:"note,omitempty"`
}

// OwnerReportRow is what an owner told, for the shop to decide on.
type OwnerReportRow struct {
	OwnerReport
	ID     uuid.UUID `json:"id"`
	ToldAt time.Time `json:"told_at"`
}

// maxTelling is how many characters an owner tells at once.
const maxTelling = 500

// Report keeps what an owner tells from their page until the shop decides on it.
// Sent again with the same key it is kept once.
func (s *Contact) Report(ctx context.Context, token string, key record.IdempotencyKey, r OwnerReport) error {
	r.Note = record.CleanLine(r.Note)
	var wrong record.Faults
	if r.KM != nil && !(*r.KM >= 0 && *r.KM <= record.MaxOdometer) {
		wrong.Add("km", "out-of-range", "An odometer shows 0 to %d km.", record.MaxOdometer)
	}
	if r.Event != "" {
		if _, err := interval.ParseReported(r.Event); err != nil {
			wrong.Add("event", "unknown-value", "%s", err.Error())
		}
	}
	if len([]rune(r.Note)) > maxTelling {
		wrong.Add("note", "out-of-range", "%d characters at most.", maxTelling)
	}
	if r.KM == nil && r.Event == "" && r.Note == "" {
		wrong.Add("note", "missing", "There is nothing to tell yet.")
	}
	if err := wrong.Err(); err != nil {
		return err
	}
	return s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		bike, err := s.byToken(ctx, tx, token, linkOwner)
		if err != nil {
			return err
		}
		open, err := tx.OpenReports(ctx, bike.ID)
		if err != nil {
			return err
		}
		if again, err := tx.ReportedWith(ctx, bike.ID, string(key)); err != nil || again {
			return err
		}
		if len(open) >= maxReports {
			return &record.Problem{Kind: record.TooSoon, Code: "told-enough", Message: "The workshop has not answered your last report yet. Call if it is urgent.", RetryAfter: time.Hour}
		}
		row := store.OwnerReport{ID: uuid.New(), BikeID: bike.ID, KM: r.KM, Event: r.Event, Note: r.Note, ToldAt: s.desk.Now(), State: store.ReportOpen, Key: string(key)}
		if err := tx.AddOwnerReport(ctx, &row); err != nil {
			return err
		}
		return tx.Notify(ctx, record.Changed(record.TopicBike, record.TagOf(bike)))
	})
}

// OwnerReports returns what the owner of a bike told that nobody decided on.
func (s *Contact) OwnerReports(ctx context.Context, tagText string) ([]OwnerReportRow, error) {
	tx := s.desk.Store.Read(ctx)
	bike, err := record.BikeByTag(ctx, tx, tagText)
	if err != nil {
		return nil, err
	}
	rows, err := tx.OpenReports(ctx, bike.ID)
	all := []OwnerReportRow{}
	for _, r := range rows {
		all = append(all, OwnerReportRow{OwnerReport{r.KM, r.Event, r.Note}, r.ID, r.ToldAt})
	}
	return all, err
}

// WaitingReport is what a customer told, with whose bike it is of.
type WaitingReport struct {
	OwnerReportRow
	Tag      string `json:"tag"`
	Bike     string `json:"bike"`
	Customer string `json:"customer"`
}

// maxWaiting is how many reports are listed; a shop with more has other worries.
const maxWaiting = 200

// WaitingReports returns what customers told that nobody decided on, of all bikes in care, oldest first.
func (s *Contact) WaitingReports(ctx context.Context) ([]WaitingReport, error) {
	rows, err := s.desk.Store.Read(ctx).WaitingReports(ctx, maxWaiting)
	all := []WaitingReport{}
	for _, r := range rows {
		all = append(all, WaitingReport{OwnerReportRow{OwnerReport{r.KM, r.Event, r.Note}, r.ID, r.ToldAt}, record.TagOf(store.Bike{TagNumber: r.TagNumber}),
			record.BikeWords(store.Bike{BikeFacts: record.BikeFacts{Make: r.Make, Model: r.Model, Colour: r.Colour}}), r.OwnerName})
	}
	return all, err
}

// DecideReport takes what an owner told into the record, or sets it aside.
func (s *Contact) DecideReport(ctx context.Context, who record.Actor, id uuid.UUID, confirm, newComputer bool) error {
	return s.desk.Write(ctx, who, "decide-report "+id.String(), []bool{confirm, newComputer}, func(ctx context.Context, tx store.Tx) error {
		r, err := tx.LockReport(ctx, id)
		if record.IsNotFound(err) {
			return record.NotFound("report", "report-not-found")
		}
		if err != nil {
			return err
		}
		if r.State != store.ReportOpen {
			return &record.Problem{Kind: record.Conflict, Code: "decided", Message: "Somebody decided on this already."}
		}
		bike, err := tx.BikeByID(ctx, r.BikeID)
		if err != nil {
			return err
		}
		state := store.ReportSetAside
		if confirm {
			state = store.ReportConfirmed
			if r.KM != nil {
				if _, err := s.measure.NoteOdometerTx(ctx, tx, who, bike, record.OdometerNote{KM: *r.KM, NewComputer: newComputer}, r.ToldAt); err != nil {
					return err
				}
			}
			if r.Event != "" {
				e := store.Entry{BikeID: &bike.ID, Kind: record.KindBikeEvent, HappenedAt: r.ToldAt}
				if err := s.desk.Append(ctx, tx, who, &e, record.EventBody{Event: r.Event, Report: &r.ID, Owner: true}, record.TagOf(bike)); err != nil {
					return err
				}
			}
		}
		if err := tx.DecideReport(ctx, id, who.Person.ID, state, s.desk.Now()); err != nil {
			return err
		}
		e := store.Entry{BikeID: &bike.ID, Kind: record.KindCustomerReport}
		return s.desk.Append(ctx, tx, who, &e, reportBody{State: state, KM: r.KM, Event: r.Event}, record.TagOf(bike))
	})
}

// reportBody is what the ledger keeps of a decision on what an owner told.
type reportBody struct {
	State store.ReportState `json:"state"`
	KM    *float64          `json:"told_km,omitempty"`
	Event string            `json:"event,omitempty"`
}

func init() {
	record.Holds[secretLinkBody](nil, record.KindSecretLink)
	record.Holds[reportBody](nil, record.KindCustomerReport)
}
