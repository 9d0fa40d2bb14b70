package bikes

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/core/forecast"
	"earnestpony/core/interval"
	"earnestpony/internal/formats"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// RideFile is what became of one ride file. Where it has questions nothing of it is kept until they are
// answered: it waits as a draft.
type RideFile struct {
	Name       string         `json:"name"`
	Kept       []RideRow      `json:"kept"`
	Repeated   []RideRow      `json:"repeated"` // that were there already
	Left       []RideRow      `json:"left"`     // as somebody answered
	Wrong      []RideFault    `json:"wrong"`    // the first hundred
	WrongCount int            `json:"wrong_count"`
	Draft      *uuid.UUID     `json:"draft,omitempty"`
	Questions  []RideQuestion `json:"questions"`
}

// RideFault is what is wrong in a ride file.
type RideFault struct {
	Line    int    `json:"line,omitempty"` // 0: the whole file
	Message string `json:"message"`
}

// RideQuestion is what a person must say of a ride file before any of it is kept.
type RideQuestion struct {
	ID      string   `json:"id"`
	Code    string   `json:"code"`             // encoding, date-order, overlap
	Choices []string `json:"choices"`          // the likeliest first
	Sample  string   `json:"sample,omitempty"` // of the file, to choose by
	// Of rides that lie over each other in time: This is in the file; Other is too, or is kept already.
	This  *RideRow `json:"this,omitempty"`
	Other *RideRow `json:"other,omitempty"`
	Kept  bool     `json:"kept,omitempty"` // the other is on record
}

// What may be answered of two rides at one time.
const (
	rideBoth  = "both"  // they are two: a pause, a wrong clock
	rideThis  = "this"  // this in place of the other
	rideOther = "other" // this is left out
)

// RideDraft is a ride file that waits for answers.
type RideDraft struct {
	ID        uuid.UUID `json:"id"`
	Name      string    `json:"name"`
	CreatedAt time.Time `json:"created_at"`
}

// The rides that are one ride imported twice: the same start within a minute, the distance within a hundredth
// (handbook: intervals, Odometer).
const (
	sameStart = time.Minute
	sameShare = 0.01
)

const (
	maxRideQuestions = 100
	rideDraftsKept   = 14 * 24 * time.Hour
)

// ImportRides reads a ride file and keeps the rides that are right and new. What is wrong is named. Where
// something must be asked first, nothing is kept and the file waits as a draft.
func (s *Bikes) ImportRides(ctx context.Context, who record.Actor, tagText, name string, data []byte) (RideFile, error) {
	name = record.CleanLine(name)
	if r := []rune(name); len(r) > 120 {
		name = string(r[:120])
	}
	var out RideFile
	err := record.IdempotentInto(ctx, s.desk, who, "import-rides "+tagText, record.FileOf(data), &out, func(ctx context.Context, tx store.Tx) error {
		bike, err := lockedBike(ctx, tx, tagText)
		if err != nil {
			return err
		}
		plan, err := s.planRides(ctx, tx, bike, name, data, nil)
		if err != nil {
			return err
		}
		if out = plan.file; len(out.Questions) == 0 {
			return s.keepRides(ctx, tx, who, bike, plan)
		}
		draft := store.RideDraft{ID: uuid.New(), BikeID: bike.ID, PersonID: who.Person.ID, Name: name, Content: data, Answers: []byte("{}"), CreatedAt: s.desk.Now()}
		out.Draft = &draft.ID
		return tx.AddRideDraft(ctx, &draft)
	})
	return out, err
}

// RideDrafts returns the ride files of a bike that wait for answers, the newest first.
func (s *Bikes) RideDrafts(ctx context.Context, tagText string) ([]RideDraft, error) {
	tx := s.desk.Store.Read(ctx)
	bike, err := record.BikeByTag(ctx, tx, tagText)
	if err != nil {
		return nil, err
	}
	rows, err := tx.RideDrafts(ctx, bike.ID)
	all := []RideDraft{}
	for _, r := range rows {
		all = append(all, RideDraft{r.ID, r.Name, r.CreatedAt})
	}
	return all, err
}

// AnswerRides answers questions of a ride file, as many as somebody has answers to; none asks what is open. Once
// all are answered the rides are kept.
func (s *Bikes) AnswerRides(ctx context.Context, who record.Actor, id uuid.UUID, answers map[string]string) (RideFile, error) {
	var out RideFile
	err := record.IdempotentInto(ctx, s.desk, who, "answer-rides "+id.String(), answers, &out, func(ctx context.Context, tx store.Tx) error {
		draft, err := tx.LockRideDraft(ctx, id)
		if record.IsNotFound(err) {
			return record.NotFound("ride file waiting", "draft-not-found")
		}
		if err != nil {
			return err
		}
		if err := tx.LockBike(ctx, draft.BikeID); err != nil {
			return err
		}
		bike, err := tx.BikeByID(ctx, draft.BikeID)
		if err != nil {
			return err
		}
		given := map[string]string{}
		if err := json.Unmarshal(draft.Answers, &given); err != nil {
			return err
		}
		before, err := s.planRides(ctx, tx, bike, draft.Name, draft.Content, given)
		if err != nil {
			return err
		}
		var wrong record.Faults
		for question, answer := range answers {
			i := slices.IndexFunc(before.file.Questions, func(q RideQuestion) bool { return q.ID == question })
			if i < 0 || !slices.Contains(before.file.Questions[i].Choices, answer) {
				wrong.Add("answers."+question, "unknown-value", "This is no answer to a question that is open.")
				continue
			}
			given[question] = answer
		}
		if len(wrong) > 0 {
			return record.InvalidInput(wrong[:min(len(wrong), record.MaxFaults)]...)
		}
		plan, err := s.planRides(ctx, tx, bike, draft.Name, draft.Content, given)
		if err != nil {
			return err
		}
		if out = plan.file; len(out.Questions) > 0 {
			out.Draft = &id
			if draft.Answers, err = json.Marshal(given); err != nil {
				return err
			}
			return tx.SaveRideAnswers(ctx, id, draft.Answers)
		}
		if err := s.keepRides(ctx, tx, who, bike, plan); err != nil {
			return err
		}
		return tx.RemoveRideDraft(ctx, id)
	})
	return out, err
}

// DropRides throws a ride file away that waits for answers.
func (s *Bikes) DropRides(ctx context.Context, who record.Actor, id uuid.UUID) error {
	return s.desk.Write(ctx, who, "drop-rides", id, func(ctx context.Context, tx store.Tx) error { return tx.RemoveRideDraft(ctx, id) })
}

// ForgetRideDrafts throws away ride files that nobody came back to.
func (s *Bikes) ForgetRideDrafts(ctx context.Context) error {
	return s.desk.Store.Read(ctx).ForgetRideDrafts(ctx, s.desk.Now().Add(-rideDraftsKept))
}

// ridePlan is what is to be kept of a ride file, and which rides on record are voided for it.
type ridePlan struct {
	file  RideFile
	rides []plannedRide
	voids []keptRide
}

type plannedRide struct {
	body record.RideBody
	end  time.Time
	left bool
}

// keptRide is a ride on record.
type keptRide struct {
	entry uuid.UUID
	body  record.RideBody
	end   time.Time
}

// planRides reads a ride file by what was answered of it, and says what is open. It writes nothing.
func (s *Bikes) planRides(ctx context.Context, tx store.Tx, bike store.Bike, name string, data []byte, answers map[string]string) (ridePlan, error) {
	p := ridePlan{file: RideFile{Name: name, Kept: []RideRow{}, Repeated: []RideRow{}, Left: []RideRow{}, Wrong: []RideFault{}, Questions: []RideQuestion{}}}
	clock, err := s.desk.Clock(ctx, tx)
	if err != nil {
		return p, err
	}
	read := formats.ReadRides(data, formats.RideAnswers{Zone: clock.Zone(), Encoding: answers["encoding"], DateOrder: answers["date-order"]})
	for _, f := range read.Faults {
		fault := RideFault{Message: f.Error()}
		if e, is := errors.AsType[*formats.FileError](f); is {
			fault = RideFault{e.Line, e.Message}
		}
		p.file.Wrong = append(p.file.Wrong, fault)
	}
	p.file.WrongCount = read.Wrong
	for _, d := range read.Doubts { // what it says turns on them: the rest is asked when they are answered
		p.file.Questions = append(p.file.Questions, RideQuestion{ID: d.Code, Code: d.Code, Choices: d.Choices, Sample: d.Sample})
	}
	if len(p.file.Questions) > 0 {
		return p, nil
	}
	kept, err := s.keptRides(ctx, tx, bike)
	if err != nil {
		return p, err
	}
	latest := s.desk.Now().Add(record.ClockSlack)
	days := map[time.Time]rideDay{}
	for i, r := range read.Rides {
		if r.End.After(latest) {
			p.fault(RideFault{Message: fmt.Sprintf("Ride %d ends in the future.", i+1)})
			continue
		}
		ride := plannedRide{body: record.RideBody{KM: r.KM, StartedAt: store.Stamp(r.Start), Jumps: r.Jumps, File: name}, end: store.Stamp(r.End)}
		if kept.repeated(ride.body) || slices.ContainsFunc(p.rides, func(o plannedRide) bool { return sameRide(o.body, ride.body) }) {
			p.file.Repeated = append(p.file.Repeated, rowOf(ride.body))
			continue
		}
		if err := s.weatherOf(ctx, &ride.body, bike, days); err != nil {
			return p, err
		}
		p.rides = append(p.rides, ride)
	}
	slices.SortStableFunc(p.rides, func(a, b plannedRide) int { return a.body.StartedAt.Compare(b.body.StartedAt) })
	p.overlaps(kept, answers)
	for _, r := range p.rides {
		if r.left {
			p.file.Left = append(p.file.Left, rowOf(r.body))
		} else {
			p.file.Kept = append(p.file.Kept, rowOf(r.body))
		}
	}
	return p, nil
}

func (p *ridePlan) fault(f RideFault) {
	p.file.WrongCount++
	if len(p.file.Wrong) < maxRideQuestions {
		p.file.Wrong = append(p.file.Wrong, f)
	}
}

// overlaps asks about rides that lie over each other in time, or does as was answered. Nobody rides two bikes'
// worth of the same hour on one: part of a ride and then the whole, or one ride from two recorders.
func (p *ridePlan) overlaps(kept rideTimes, answers map[string]string) {
	ask := func(i int, id string, other record.RideBody, isKept bool) string {
		if answer, is := answers[id]; is {
			return answer
		}
		if len(p.file.Questions) < maxRideQuestions {
			this, that := rowOf(p.rides[i].body), rowOf(other)
			p.file.Questions = append(p.file.Questions, RideQuestion{ID: id, Code: "overlap", Choices: []string{rideOther, rideThis, rideBoth}, This: &this, Other: &that, Kept: isKept})
		}
		return ""
	}
	open := 0 // the rides of the file that may still be under way
	for i := range p.rides {
		r := &p.rides[i]
		for open < i && !until(p.rides[open].body, p.rides[open].end).After(r.body.StartedAt) {
			open++
		}
		for k := open; k < i && !r.left; k++ {
			o := &p.rides[k]
			if o.left || !over(o.body.StartedAt, until(o.body, o.end), r.body.StartedAt, until(r.body, r.end)) {
				continue
			}
			id := "overlap " + r.body.StartedAt.UTC().Format(time.RFC3339) + " " + o.body.StartedAt.UTC().Format(time.RFC3339)
			switch ask(i, id, o.body, false) {
			case rideThis:
				o.left = true
			case rideOther:
				r.left = true
			}
		}
		for _, had := range kept.during(r.body.StartedAt, until(r.body, r.end)) {
			if r.left {
				break
			}
			switch ask(i, "overlap "+r.body.StartedAt.UTC().Format(time.RFC3339)+" "+had.entry.String(), had.body, true) {
			case rideThis:
				if !slices.ContainsFunc(p.voids, func(v keptRide) bool { return v.entry == had.entry }) {
					p.voids = append(p.voids, had)
				}
			case rideOther:
				r.left = true
			}
		}
	}
}

// guessKMH is how fast a ride is thought to have been whose file says no duration.
const guessKMH = 20

// until is when a ride ended: as its file says, or as long as its distance takes.
func until(b record.RideBody, end time.Time) time.Time {
	if end.After(b.StartedAt) {
		return end
	}
	return b.StartedAt.Add(time.Duration(b.KM / guessKMH * float64(time.Hour)))
}

// over reports whether two stretches of time have some in common, more than the minute by which clocks differ.
func over(a0, a1, b0, b1 time.Time) bool {
	from, to := a0, a1
	if b0.After(from) {
		from = b0
	}
	if b1.Before(to) {
		to = b1
	}
	return to.Sub(from) > sameStart
}

// rideTimes are the rides on record, to be looked up by time.
type rideTimes struct {
	byDay map[int64][]keptRide // under each day on which one is under way
}

func dayNumber(t time.Time) int64 { return t.Unix() / (24 * 3600) }

func (t rideTimes) during(from, to time.Time) []keptRide {
	var all []keptRide
	for day := dayNumber(from); day <= dayNumber(to); day++ {
		for _, r := range t.byDay[day] {
			if over(r.body.StartedAt, until(r.body, r.end), from, to) && !slices.ContainsFunc(all, func(o keptRide) bool { return o.entry == r.entry }) {
				all = append(all, r)
			}
		}
	}
	return all
}

func (t rideTimes) repeated(b record.RideBody) bool {
	for day := dayNumber(b.StartedAt.Add(-sameStart)); day <= dayNumber(b.StartedAt.Add(sameStart)); day++ {
		if slices.ContainsFunc(t.byDay[day], func(r keptRide) bool { return sameRide(r.body, b) }) {
			return true
		}
	}
	return false
}

func sameRide(a, b record.RideBody) bool {
	return a.StartedAt.Sub(b.StartedAt).Abs() <= sameStart && math.Abs(a.KM-b.KM) <= sameShare*max(a.KM, b.KM)
}

func rowOf(b record.RideBody) RideRow { return RideRow{b.StartedAt, b.KM, b.Jumps, b.RainMM, b.Mix} }

func (s *Bikes) keptRides(ctx context.Context, tx store.Tx, bike store.Bike) (rideTimes, error) {
	t := rideTimes{map[int64][]keptRide{}}
	facts, _, err := record.ActiveEntries(ctx, tx, bike.ID, record.KindRide)
	if err != nil {
		return t, err
	}
	for _, e := range facts {
		b, err := record.BodyOf[record.RideBody](e)
		if err != nil {
			return t, err
		}
		for day := dayNumber(b.StartedAt); day <= dayNumber(until(b, e.HappenedAt)) && day <= dayNumber(b.StartedAt)+7; day++ {
			t.byDay[day] = append(t.byDay[day], keptRide{e.ID, b, e.HappenedAt})
		}
	}
	return t, nil
}

// keepRides writes what was planned, all at once.
func (s *Bikes) keepRides(ctx context.Context, tx store.Tx, who record.Actor, bike store.Bike, p ridePlan) error {
	var entries []record.Written
	for _, v := range p.voids {
		entries = append(entries, record.Written{Entry: store.Entry{BikeID: &bike.ID, Kind: record.KindStrikeOut, Strikes: &v.entry}, Body: strikeBody{"Another file has the same ride: " + p.file.Name}})
	}
	for _, r := range p.rides {
		if !r.left {
			entries = append(entries, record.Written{Entry: store.Entry{BikeID: &bike.ID, Kind: record.KindRide, HappenedAt: r.end}, Body: r.body})
		}
	}
	return s.desk.AppendAll(ctx, tx, who, entries, record.TagOf(bike))
}

// rideDay is what a day was like; known is false where nobody can say.
type rideDay struct {
	weather forecast.Weather
	known   bool
}

// weatherOf gives a ride the conditions of its day. Where nobody knows the weather it counts as the bike is
// usually ridden.
func (s *Bikes) weatherOf(ctx context.Context, b *record.RideBody, bike store.Bike, days map[time.Time]rideDay) error {
	if s.weather == nil {
		return nil
	}
	date := b.StartedAt.Truncate(24 * time.Hour)
	day, asked := days[date]
	if !asked {
		found, err := s.weather.Days(ctx, b.StartedAt, b.StartedAt)
		if err != nil {
			return err
		}
		if len(found) > 0 {
			day = rideDay{forecast.Weather{RainMM: found[0].RainMM, MinC: found[0].MinC}, true}
		}
		days[date] = day
	}
	if !day.known {
		return nil
	}
	offRoad := record.OffRoad(bike.Kind)
	m := day.weather.Mix(offRoad)
	b.Mix = &record.Mix{Fair: m[forecast.Fair], Dusty: m[forecast.Dusty], Wet: m[forecast.Wet], Mud: m[forecast.Mud], Salt: m[forecast.Salt]}
	rain := day.weather.RainMM
	b.RainMM = &rain
	if day.weather.Soaking() {
		b.Events = append(b.Events, string(interval.SoakedRide))
		if offRoad {
			b.Events = append(b.Events, string(interval.MudRide))
		}
	}
	return nil
}
