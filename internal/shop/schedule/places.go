package schedule

import (
	"slices"

	"earnestpony/core/clean"
	"earnestpony/core/dayplan"
)

// What a job holds: its stand, the bike itself, tubs, tank, pot and racks.

// addStanding has the bike on a stand while it is worked on there, and off it through long waits. One person is at a
// bike at a time.
func (j *dayJob) addStanding() {
	bike := bikePlace + j.job.ID
	j.day.problem.Places = append(j.day.problem.Places, dayplan.Place{ID: bike, Count: 1, Only: true})
	starts := j.alone()
	var on []int // stints of one stay on a stand
	end := func() {
		if len(on) == 0 {
			return
		}
		first, last := on[0], on[len(on)-1]
		for _, n := range on {
			j.after(first, n)
			j.after(n, last)
		}
		j.job.Holds = append(j.job.Holds, dayplan.Hold{Place: string(clean.AtStand), From: j.id(first), To: j.id(last), Through: true})
		on = nil
	}
	for n := range j.all {
		if j.station(n) != clean.AtStand || j.job.Steps[n].Attended == 0 && j.all[n].begun != nil {
			continue
		}
		j.job.Holds = append(j.job.Holds, dayplan.Hold{Place: bike, From: j.id(n), To: j.id(n), Through: true})
		switch {
		case j.all[n].begun != nil:
			on = append([]int{n}, on...) // it is on a stand now, and the rest of the stay comes after
			continue
		case len(on) > 0 && starts[n]-starts[on[len(on)-1]]-int(j.job.Steps[on[len(on)-1]].Attended) >= longWait:
			end()
		}
		on = append(on, n)
	}
	end()
}

// alone is when each stint could start, in minutes from the job's first, if hands and places were always free.
func (j *dayJob) alone() []int {
	starts := make([]int, len(j.all))
	for n := range j.all { // what comes before stands before
		for _, lag := range j.job.Steps[n].After {
			for b := range n {
				if j.id(b) == lag.Step {
					starts[n] = max(starts[n], starts[b]+int(j.job.Steps[b].Attended+lag.Least))
				}
			}
		}
	}
	return starts
}

// bikePlace begins the name of the place that is a bike itself.
const bikePlace = "bike:"

// After has a stint come after an earlier one.
func (j *dayJob) after(first, then int) {
	if first == then || j.all[then].begun != nil || slices.ContainsFunc(j.job.Steps[then].After, func(l dayplan.Lag) bool { return l.Step == j.id(first) }) {
		return
	}
	j.job.Steps[then].After = append(j.job.Steps[then].After, dayplan.Lag{Step: j.id(first)})
}

// addSoaking has tubs, tank, pot and racks taken by what is done in them and by what waits in them: what stays in its place
// holds one unit of it throughout.
func (j *dayJob) addSoaking() {
	stays := map[int]bool{} // stints whose part was there before
	for n := range j.all {
		place := j.station(n)
		if place == clean.AtStand || stays[n] {
			continue
		}
		last, through := n, true
		for to := j.waitsFor(n); to > 0; to = j.waitsFor(to) {
			last, through = to, j.station(to) == place
			if !through {
				break
			}
			stays[to] = true
		}
		if last == n && j.all[n].begun != nil && j.job.Steps[n].Attended == 0 {
			continue
		}
		j.job.Holds = append(j.job.Holds, dayplan.Hold{Place: string(place), From: j.id(n), To: j.id(last), Through: through})
	}
}

// waitsFor is the first stint that ends a wait which another begins; 0 for none.
func (j *dayJob) waitsFor(n int) int {
	for k := n + 1; k < len(j.all); k++ {
		if slices.ContainsFunc(j.job.Steps[k].After, func(l dayplan.Lag) bool { return l.Step == j.id(n) && (l.Least > 0 || l.Most != nil) }) {
			return k
		}
	}
	return 0
}
