package clean

import "earnestpony/core/chain"

// Wash is one way to wash a bike.
type Wash uint8

// The washes.
const (
	DryWipe Wash = iota
	Bucket
	Hose
	Washer // low pressure, at a distance
	NoWash // the drivetrain alone
)

var washes = [...]string{"dry-wipe", "bucket", "hose", "low-pressure-washer", "none"}

func (w Wash) String() string { return washes[w] }

// ParseWash reads the name that [Wash.String] writes.
func ParseWash(s string) (Wash, error) { return parse[Wash](washes[:], s, "wash") }

// What the grades of a frame mean for washing it.
const (
	dust     Grade = 1 // the most that a cloth takes off without scratching
	driedMud Grade = 3 // loose grit is rinsed off before a brush touches it
)

// WashOption is one wash as it stands beside the others.
type WashOption struct {
	Wash     Wash
	Attended Minutes // of its steps
	Against  []Why
	Refused  bool
	Cautions []Caution
}

// wash recommends one, and says of every one what speaks against it.
func wash(b Bike, r Rules) (Wash, []WashOption) {
	best := Hose
	switch {
	case b.DrivetrainOnly, b.Express && !b.ChainGoes:
		best = NoWash
	case b.Frame == MaxGrade && b.Train.Motor == chain.NoMotor && b.SealsSound && r.Pressure == LowPressure:
		best = Washer
	case b.Frame <= dust:
		best = DryWipe
	case b.Frame < driedMud:
		best = Bucket
	}
	var all []WashOption
	for i := range washes {
		w := Wash(i)
		o := WashOption{Wash: w, Attended: washMinutes(w, r), Cautions: washCautions(b, w)}
		if (w == DryWipe || w == NoWash) && b.Frame > dust {
			o.Against = append(o.Against, WashTooLight)
		}
		if w == Washer && r.Pressure == NeverPressure {
			o.Refused = true
			o.Against = append(o.Against, NeverWasher)
		}
		if w == Washer && b.Train.Motor != chain.NoMotor {
			o.Against = append(o.Against, WasherMotor)
		}
		if w == Washer && !b.SealsSound {
			o.Against = append(o.Against, WasherSeals)
		}
		all = append(all, o)
	}
	return best, all
}

// washMinutes is what the steps of a wash take by hand.
func washMinutes(w Wash, r Rules) Minutes {
	of := map[string]bool{"dry-wipe": w == DryWipe, "wet-wash": w.wet(), "hose": w == Hose, "washer": w == Washer, "derailleur": true}
	var sum Minutes
	if w == NoWash {
		return 0
	}
	for _, s := range catalogue {
		if s.Phase == Washing && holds(s.When, of) {
			sum += s.on(of, r).Minutes
		}
	}
	return sum
}

func (w Wash) wet() bool { return w == Bucket || w == Hose || w == Washer }
