package forecast

import (
	"slices"
	"sort"
	"time"
)

// OdometerReading is what a bike's odometer showed at a time. A lower one than the last is a new
// computer or a slip: which of them somebody must say, so a slip never gets here.
type OdometerReading struct {
	At          time.Time
	KM          KM
	NewComputer bool // this one began again from nothing
	// PerKM is how many hard km a km of the segment that ends here counts for; 0 is as the bike is
	// usually ridden.
	PerKM float64
}

// HardKMPerDay is a riding rate. Zero is not known, or not ridden.
type HardKMPerDay float64

// Odometer counts the hard km of a bike between, before and after its readings. It is counted from the
// first reading; distances between two times are what it is for.
type Odometer struct {
	readings []OdometerReading
	hard     []HardKM // running sum at each reading
	stated   HardKMPerDay
}

// NewOdometer counts each segment between two readings by its own factor, or by perKM, that of how the
// bike is usually ridden.
// stated is the rate by the owner's own word, for where readings do not say.
func NewOdometer(readings []OdometerReading, perKM float64, stated HardKMPerDay) Odometer {
	o := Odometer{readings: slices.Clone(readings), stated: stated}
	slices.SortStableFunc(o.readings, func(a, b OdometerReading) int { return a.At.Compare(b.At) })
	var sum HardKM
	for i, r := range o.readings {
		if i > 0 {
			ridden := r.KM - o.readings[i-1].KM
			if r.NewComputer {
				ridden = r.KM
			}
			factor := perKM
			if r.PerKM > 0 {
				factor = r.PerKM
			}
			sum += HardKM(float64(max(ridden, 0)) * factor)
		}
		o.hard = append(o.hard, sum)
	}
	return o
}

// The history that a rate is taken from, and the least that says more than the owner's word.
const (
	rateWindow  = 90 * 24 * time.Hour
	leastWindow = 21 * 24 * time.Hour
)

// Rate returns the riding rate over the last 90 days before the last reading; the stated one with less
// than 21 days of readings (handbook: forecast, Riding rate).
func (o Odometer) Rate() HardKMPerDay {
	if len(o.readings) < 2 {
		return o.stated
	}
	first, last := o.readings[0].At, o.readings[len(o.readings)-1].At
	from := last.Add(-rateWindow)
	if first.After(from) {
		from = first
	}
	if last.Sub(from) < leastWindow {
		return o.stated
	}
	return HardKMPerDay(float64(o.hard[len(o.hard)-1]-o.between(from)) / days(last.Sub(from)))
}

func days(d time.Duration) float64 { return d.Hours() / 24 }

// At returns the count at a time: between two readings in a straight line, outside of them by the rate.
func (o Odometer) At(t time.Time) HardKM {
	rate := float64(o.Rate())
	if len(o.readings) == 0 { // only differences count, so any beginning will do
		return HardKM(rate * float64(t.Unix()) / (24 * 60 * 60))
	}
	first, last := o.readings[0], o.readings[len(o.readings)-1]
	switch {
	case t.Before(first.At):
		return o.hard[0] - HardKM(rate*days(first.At.Sub(t)))
	case t.After(last.At):
		return o.hard[len(o.hard)-1] + HardKM(rate*days(t.Sub(last.At)))
	}
	return o.between(t)
}

// between is [Odometer.At] from the first reading to the last.
func (o Odometer) between(t time.Time) HardKM {
	i := sort.Search(len(o.readings), func(i int) bool { return !o.readings[i].At.Before(t) })
	if i == 0 || o.readings[i].At.Equal(t) {
		return o.hard[i]
	}
	a, b := o.readings[i-1], o.readings[i]
	part := float64(t.Sub(a.At)) / float64(b.At.Sub(a.At))
	return o.hard[i-1] + HardKM(part*float64(o.hard[i]-o.hard[i-1]))
}

// Ridden counts the km that a bike was really ridden, as its owner reads them off it: each counts as one, however it
// was ridden.
type Ridden struct{ odometer Odometer }

// NewRidden counts from an odometer's readings; their factors are passed over. stated is the rate in km a day by the
// owner's own word, for where readings do not say.
func NewRidden(readings []OdometerReading, stated float64) Ridden {
	readings = slices.Clone(readings)
	for i := range readings {
		readings[i].PerKM = 1
	}
	return Ridden{NewOdometer(readings, 1, HardKMPerDay(stated))}
}

// At is the count at a time; distances between two times are what it is for.
func (r Ridden) At(t time.Time) KM { return KM(r.odometer.At(t)) }

// PerDay is the riding rate in km a day. Zero is not known, or not ridden.
func (r Ridden) PerDay() float64 { return float64(r.odometer.Rate()) }
