package schedule

import (
	"cmp"
	"slices"
	"time"

	"earnestpony/internal/shop/record"
)

// Moved is a step that stands elsewhere on the wall than it did.
type Moved struct {
	Tag      string    `json:"tag"`
	Title    string    `json:"title"`
	From     time.Time `json:"from"`
	To       time.Time `json:"to"`
	ByBefore string    `json:"by_before,omitempty"` // where somebody else does it
	By       string    `json:"by,omitempty"`
}

// Because is something that happened since the wall was made, by which it moved.
type Because struct {
	What  string `json:"what"` // away, came, left, took-longer, sooner-done, began-late, not-begun, changed
	Tag   string `json:"tag,omitempty"`
	Title string `json:"title,omitempty"`
	Min   int    `json:"min,omitempty"`
}

// moved are the steps that stand elsewhere than they did, but for those that were begun.
func (d *floorDay) moved(before, after dayPlan) []Moved {
	was := map[[2]string]planStep{}
	for _, s := range before.Steps {
		was[[2]string{s.Job, s.Step}] = s
	}
	var all []Moved
	for _, s := range after.Steps {
		key := [2]string{s.Job, s.Step}
		b, there := was[key]
		st, is := d.stints[key]
		if !there || !is || st.begun != nil || b.Start.Equal(s.Start) && b.Person == s.Person {
			continue
		}
		m := Moved{Tag: record.TagOf(st.job.Bike), Title: st.title(), From: b.Start, To: s.Start}
		if b.Person != s.Person {
			m.ByBefore, m.By = d.people[b.Person].Name, d.people[s.Person].Name
		}
		all = append(all, m)
	}
	slices.SortStableFunc(all, func(a, b Moved) int { return a.To.Compare(b.To) })
	return all
}

// together is what moved in two plans, one after the other.
func together(first, then []Moved) []Moved {
	all := slices.Clone(then)
	for _, m := range first {
		i := slices.IndexFunc(all, func(x Moved) bool { return x.Tag == m.Tag && x.Title == m.Title && x.From.Equal(m.To) })
		if i < 0 {
			all = append(all, m)
			continue
		}
		all[i].From = m.From
		if m.ByBefore != "" {
			all[i].ByBefore = m.ByBefore
		}
	}
	slices.SortStableFunc(all, func(a, b Moved) int { return a.To.Compare(b.To) })
	return all
}

// because says what happened since the wall was made.
func (d *floorDay) because(before dayPlan) []Because {
	var all []Because
	known, here := map[string]bool{}, map[string]bool{}
	now := d.now
	for _, l := range d.layouts {
		here[l.Job.ID.String()] = true
	}
	gone := 0
	for _, s := range before.Steps {
		if !here[s.Job] && !known[s.Job] {
			gone++
		}
		known[s.Job] = true
		st, is := d.stints[[2]string{s.Job, s.Step}]
		if !is {
			continue
		}
		tag, late := record.TagOf(st.job.Bike), func(t time.Time) int { return int(t.Sub(s.Start) / time.Minute) }
		switch {
		case st.begun != nil && st.minutes > 0 && !now.Before(s.End):
			all = append(all, Because{"took-longer", tag, st.title(), int(now.Sub(s.End)/time.Minute) + 1})
		case st.begun != nil && st.minutes > 0 && late(*st.begun) > 1:
			all = append(all, Because{"began-late", tag, st.title(), late(*st.begun)})
		case st.begun == nil && late(now) >= 1:
			all = append(all, Because{"not-begun", tag, st.title(), late(now)})
		}
	}
	toDo := map[string]bool{}
	for key := range d.stints {
		toDo[key[0]] = true
	}
	for _, l := range d.layouts {
		if id := l.Job.ID.String(); toDo[id] && !known[id] { // with nothing left to do it is on no wall
			all = append(all, Because{What: "came", Tag: record.TagOf(l.Bike)})
		}
	}
	for _, a := range d.absences {
		if !slices.Contains(before.Away, a.ID.String()) {
			all = append(all, Because{What: "away", Title: d.people[a.PersonID.String()].Name})
		}
	}
	if gone > 0 {
		all = append(all, Because{What: "left", Min: gone})
	}
	if len(all) == 0 {
		all = append(all, Because{What: "changed"})
	}
	// What somebody did comes before what nobody did: that follows from it more often than not.
	slices.SortStableFunc(all, func(a, b Because) int {
		return cmp.Compare(slices.Index(becauses, a.What), slices.Index(becauses, b.What))
	})
	return all[:min(len(all), maxBecause)]
}

var becauses = []string{"away", "took-longer", "came", "left", "began-late", "not-begun", "changed"}

// maxBecause is how many reasons are named; nobody reads more.
const maxBecause = 4
