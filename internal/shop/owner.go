package shop

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/interval"
	"earnestpony/internal/store"
)

// The kinds of secret link.
const (
	linkOwner        = "owner"
	linkCalendarShop = "calendar-shop"
	linkCalendarBike = "calendar-bike"
)

// FoundAt says where browsers find the server, for links that leave the shop.
func (s *Service) FoundAt(base string) { s.base = strings.TrimRight(base, "/") }

// secretLinkBody is what the ledger keeps of a link: never the token.
type secretLinkBody struct {
	Link string `json:"link"` // kind
	Deed string `json:"deed"` // given, withdrawn
}

// SecretLink is a link as somebody in the shop sees it.
type SecretLink struct {
	Kind      string    `json:"kind"`
	Path      string    `json:"path"` // on this server
	URL       string    `json:"url"`
	CreatedAt time.Time `json:"created_at"`
}

func (s *Service) newSecretLink(l store.Link) SecretLink {
	path := "/o/" + l.Token
	if l.Kind != linkOwner {
		path = "/calendar/" + l.Token + ".ics"
	}
	return SecretLink{l.Kind, path, s.base + path, l.CreatedAt}
}

// newToken is 128 bits of chance: nobody guesses it.
func newToken() string {
	var bits [16]byte
	_, _ = rand.Read(bits[:]) // never fails
	return base64.RawURLEncoding.EncodeToString(bits[:])
}

// ownerLink is the address of a bike's page for its owner; given where there is none.
func (s *Service) ownerLink(ctx context.Context, tx store.Tx, bike store.Bike) (string, error) {
	l, err := s.linkOf(ctx, tx, linkOwner, &bike)
	return s.newSecretLink(l).URL, err
}

func (s *Service) linkOf(ctx context.Context, tx store.Tx, kind string, bike *store.Bike) (store.Link, error) {
	var id *uuid.UUID
	if bike != nil {
		id = &bike.ID
	}
	l, err := tx.LinkOf(ctx, kind, id)
	if !notFound(err) {
		return l, err
	}
	l = store.Link{Token: newToken(), Kind: kind, BikeID: id, CreatedAt: s.now()}
	return l, tx.AddLink(ctx, &l)
}

// Link returns a link, and gives one where there is none. Of the shop's calendar the tag is empty.
func (s *Service) Link(ctx context.Context, kind, tagText string) (SecretLink, error) {
	var out SecretLink
	err := s.store.Write(ctx, func(tx store.Tx) error {
		bike, err := s.linked(ctx, tx, kind, tagText)
		if err != nil {
			return err
		}
		l, err := s.linkOf(ctx, tx, kind, bike)
		out = s.newSecretLink(l)
		return err
	})
	return out, sendAgain(taken(err))
}

// taken words somebody else giving the same link at the same time: asked again, it is there.
func taken(err error) error {
	if err == store.ErrTaken {
		return store.ErrStale
	}
	return err
}

func (s *Service) linked(ctx context.Context, tx store.Tx, kind, tagText string) (*store.Bike, error) {
	switch kind {
	case linkCalendarShop:
		return nil, nil
	case linkOwner, linkCalendarBike:
		bike, err := bikeInCare(ctx, tx, tagText)
		return &bike, err
	}
	return nil, missing("link", "link-not-found")
}

// Reissue withdraws a link, and gives a new one in its place: the old one opens nothing from then on.
func (s *Service) Reissue(ctx context.Context, who Actor, kind, tagText string) (SecretLink, error) {
	var out SecretLink
	err := s.store.Write(ctx, func(tx store.Tx) error {
		bike, err := s.linked(ctx, tx, kind, tagText)
		if err != nil {
			return err
		}
		var id *uuid.UUID
		if bike != nil {
			id = &bike.ID
		}
		if _, err := tx.WithdrawLink(ctx, kind, id, s.now()); err != nil {
			return err
		}
		l, err := s.linkOf(ctx, tx, kind, bike)
		if err != nil {
			return err
		}
		out = s.newSecretLink(l)
		if bike == nil {
			return nil
		}
		e := store.Entry{BikeID: id, Kind: "link"}
		return s.append(ctx, tx, who, &e, secretLinkBody{kind, "reissued"}, Change{Topic: "bike", Tag: tagOf(*bike)})
	})
	return out, err
}

// OwnerPage is a bike as its owner sees it: nothing personal, for whoever has the link.
type OwnerPage struct {
	Shop       string      `json:"shop"`
	Tag        string      `json:"tag"`
	Bike       string      `json:"bike"`
	Kind       string      `json:"kind,omitempty"`
	Motor      string      `json:"motor,omitempty"`
	Lubricant  string      `json:"lubricant,omitempty"`
	Units      string      `json:"distance_unit"`
	Chain      *ChainState `json:"chain,omitempty"`
	LeftKM     *OwnerRange `json:"left_km,omitempty"` // of the chain, in km of this bike's riding
	Measured   bool        `json:"measured"`
	Next       []OwnerTask `json:"next"`
	Done       []OwnerJob  `json:"done"`
	InWorkshop bool        `json:"in_workshop"`
	Reportable []string    `json:"reportable"`
	Told       int         `json:"told"` // what the owner told that the shop has not answered
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
	Steps    []string  `json:"steps"` // codes of what was done
	Parts    []string  `json:"parts"`
}

// The most of each that an owner is shown.
const (
	ownerJobs  = 5
	ownerTasks = 6
	mostTelled = 5 // reports of a bike that wait for the shop
)

func (s *Service) byToken(ctx context.Context, tx store.Tx, token, kind string) (store.Bike, error) {
	l, err := tx.Link(ctx, token)
	if notFound(err) || err == nil && (l.Kind != kind || l.BikeID == nil) {
		return store.Bike{}, &Problem{Kind: Missing, Code: "link-not-found", Message: "This link opens nothing any longer. Ask the workshop for a new one."}
	}
	if err != nil {
		return store.Bike{}, err
	}
	return tx.BikeByID(ctx, *l.BikeID)
}

// OwnerPage opens a bike's page by its link.
func (s *Service) OwnerPage(ctx context.Context, token string) (OwnerPage, error) {
	tx := s.store.Read()
	bike, err := s.byToken(ctx, tx, token, linkOwner)
	if err != nil {
		return OwnerPage{}, err
	}
	h, err := loadHouse(ctx, tx)
	if err != nil {
		return OwnerPage{}, err
	}
	row, err := tx.Shop(ctx)
	if err != nil {
		return OwnerPage{}, err
	}
	p := OwnerPage{Shop: row.Name, Tag: tagOf(bike), Bike: bikeWords(bike), Kind: bike.Kind, Motor: bike.Motor, Lubricant: bike.Lubricant, Units: row.DistanceUnit,
		Next: []OwnerTask{}, Done: []OwnerJob{}, Reportable: codesOf(interval.Reported())}
	shown, err := h.newBikeRow(bike)
	if err != nil {
		return p, err
	}
	p.Chain = shown.Chain
	track, err := s.WearTrack(ctx, p.Tag)
	if err != nil {
		return p, err
	}
	if f := track.Forecast; f != nil && track.HardPerKM > 0 {
		left := func(hard float64) float64 { return hard / track.HardPerKM }
		p.LeftKM, p.Measured = &OwnerRange{left(f.LeftHardKM.P10), left(f.LeftHardKM.P50), left(f.LeftHardKM.P90)}, f.Measured
	}
	due, err := s.dueNow(ctx, bike.ID)
	if err != nil {
		return p, err
	}
	for _, t := range due.Tasks[:min(len(due.Tasks), ownerTasks)] {
		p.Next = append(p.Next, OwnerTask{titleOf(t), t.State, t.DueOn})
	}
	if p.Done, p.InWorkshop, err = s.ownerJobs(ctx, tx, bike.ID); err != nil {
		return p, err
	}
	reports, err := tx.OpenReports(ctx, bike.ID)
	p.Told = len(reports)
	return p, err
}

func (s *Service) ownerJobs(ctx context.Context, tx store.Tx, bike uuid.UUID) (done []OwnerJob, here bool, err error) {
	jobs, err := tx.JobsOf(ctx, bike, ownerJobs)
	if err != nil {
		return nil, false, err
	}
	done = []OwnerJob{}
	for _, j := range jobs {
		here = here || j.State == jobArrived || j.State == jobPlanned
		if j.State != jobHandedBack {
			continue
		}
		v := OwnerJob{ClosedAt: *j.ClosedAt, Steps: []string{}, Parts: []string{}}
		if p := planOf(j); p != nil {
			v.Route, v.Next = p.Route, p.LubricantNext
		}
		steps, err := tx.Steps(ctx, j.ID)
		if err != nil {
			return nil, here, err
		}
		for _, st := range steps {
			if st.State == "done" {
				v.Steps = append(v.Steps, st.Code)
			}
		}
		entries, err := tx.LedgerOfJob(ctx, j.ID)
		if err != nil {
			return nil, here, err
		}
		parts, err := partsOf(entries)
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

// longestTelling is how many characters an owner tells at once.
const longestTelling = 500

// Tell keeps what an owner tells from their page until the shop decides on it.
func (s *Service) Tell(ctx context.Context, token string, r OwnerReport) error {
	r.Note = tidy(r.Note)
	var wrong []Field
	if r.KM != nil && !(*r.KM >= 0 && *r.KM <= maxOdometer) {
		wrong = append(wrong, Field{Path: "km", Code: "out-of-range", Message: fmt.Sprintf("An odometer shows 0 to %d km.", maxOdometer)})
	}
	if r.Event != "" {
		if _, err := interval.ParseReported(r.Event); err != nil {
			wrong = append(wrong, Field{Path: "event", Code: "unknown-value", Message: err.Error()})
		}
	}
	if len([]rune(r.Note)) > longestTelling {
		wrong = append(wrong, Field{Path: "note", Code: "out-of-range", Message: fmt.Sprintf("%d characters at most.", longestTelling)})
	}
	if r.KM == nil && r.Event == "" && r.Note == "" {
		wrong = append(wrong, Field{Path: "note", Code: "missing", Message: "There is nothing to tell yet."})
	}
	if len(wrong) > 0 {
		return invalid(wrong...)
	}
	return s.store.Write(ctx, func(tx store.Tx) error {
		bike, err := s.byToken(ctx, tx, token, linkOwner)
		if err != nil {
			return err
		}
		open, err := tx.OpenReports(ctx, bike.ID)
		if err != nil {
			return err
		}
		if len(open) >= mostTelled {
			return &Problem{Kind: TooSoon, Code: "told-enough", Message: "The workshop has not answered what you told yet. Call it if it is urgent.", RetryAfter: time.Hour}
		}
		row := store.OwnerReport{ID: uuid.New(), BikeID: bike.ID, KM: r.KM, Event: r.Event, Note: r.Note, ToldAt: s.now(), State: "open"}
		if err := tx.AddOwnerReport(ctx, &row); err != nil {
			return err
		}
		return tx.Notify(ctx, fmt.Sprintf(`{"topic":"bike","tag":%q}`, tagOf(bike)))
	})
}

// OwnerReports returns what the owner of a bike told that nobody decided on.
func (s *Service) OwnerReports(ctx context.Context, tagText string) ([]OwnerReportRow, error) {
	tx := s.store.Read()
	bike, err := bikeByTag(ctx, tx, tagText)
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

// DecideReport takes what an owner told into the record, or sets it aside.
func (s *Service) DecideReport(ctx context.Context, who Actor, id uuid.UUID, confirm, newComputer bool) error {
	return s.store.Write(ctx, func(tx store.Tx) error {
		r, err := tx.LockReport(ctx, id)
		if notFound(err) {
			return missing("report", "report-not-found")
		}
		if err != nil {
			return err
		}
		if r.State != "open" {
			return &Problem{Kind: Conflict, Code: "decided", Message: "Somebody decided on this already."}
		}
		bike, err := tx.BikeByID(ctx, r.BikeID)
		if err != nil {
			return err
		}
		state := "set-aside"
		if confirm {
			state = "confirmed"
			if r.KM != nil {
				if _, err := s.noteOdometer(ctx, tx, who, bike, OdometerNote{KM: *r.KM, NewComputer: newComputer}, r.ToldAt); err != nil {
					return err
				}
			}
			if r.Event != "" {
				e := store.Entry{BikeID: &bike.ID, Kind: kindBikeEvent, HappenedAt: r.ToldAt}
				if err := s.append(ctx, tx, who, &e, eventBody{Event: r.Event, Note: r.Note, Owner: true}, Change{Topic: "bike", Tag: tagOf(bike)}); err != nil {
					return err
				}
			}
		}
		if err := tx.DecideReport(ctx, id, who.Person.ID, state, s.now()); err != nil {
			return err
		}
		e := store.Entry{BikeID: &bike.ID, Kind: "owner-report"}
		return s.append(ctx, tx, who, &e, reportBody{State: state, KM: r.KM, Event: r.Event}, Change{Topic: "bike", Tag: tagOf(bike)})
	})
}

// reportBody is what the ledger keeps of a decision on what an owner told.
type reportBody struct {
	State string   `json:"state"`
	KM    *float64 `json:"told_km,omitempty"`
	Event string   `json:"event,omitempty"`
}
