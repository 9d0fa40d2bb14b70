package calc

import (
	"errors"
	"fmt"

	"earnestpony/core/fluids"
)

// The bounds of what may be mixed.
const (
	maxParts  = 1000
	maxVolume = 100_000 // mL
	minVolume = 1       // mL
)

// MixAnswer is what [Mix] answers: what to pour together, or to add when topping up.
type MixAnswer struct {
	ProductML   float64 `json:"product_ml"`
	WaterML     float64 `json:"water_ml"`
	StrengthPct float64 `json:"strength_pct"` // of the whole, then
}

type mixMode uint8

const (
	mixRatio mixMode = iota
	mixStrength
	mixTopUp
)

func parseMixMode(s string) (mixMode, error) {
	switch s {
	case "ratio":
		return mixRatio, nil
	case "strength":
		return mixStrength, nil
	case "top-up":
		return mixTopUp, nil
	}
	return 0, fmt.Errorf(`%q is no way to mix: one of ["ratio" "strength" "top-up"]`, s)
}

var mixFields = [...]string{"product_parts", "water_parts", "volume_ml", "strength_pct", "have_ml", "have_strength_pct", "want_ml", "want_strength_pct"}

// Mix says how much product and water; see the contract for its input.
func Mix(input []byte) (*MixAnswer, error) {
	var f faults
	in, ok := root(input, &f)
	if !ok {
		return nil, f.refusal()
	}
	mode := named(in, "mode", true, parseMixMode)
	if len(f.fields) > 0 {
		// Which fields are needed turns on the mode; those of no mode are wrong in any.
		for _, name := range mixFields {
			in.take(name)
		}
		in.done()
		return nil, f.refusal()
	}
	var mix func() (fluids.Addition, error)
	switch mode {
	case mixRatio:
		product, water := in.numberNeeded("product_parts", 0, maxParts), in.numberNeeded("water_parts", 0, maxParts)
		volume := fluids.ML(in.numberNeeded("volume_ml", minVolume, maxVolume))
		if len(f.fields) == 0 && product == 0 {
			f.add("product_parts", "out-of-range", "without product it is water: 1 part and more")
		}
		mix = func() (fluids.Addition, error) { return fluids.Ratio(product, water, volume), nil }
	case mixStrength:
		strength := fluids.Percent(in.numberNeeded("strength_pct", 0, 100))
		volume := fluids.ML(in.numberNeeded("volume_ml", minVolume, maxVolume))
		mix = func() (fluids.Addition, error) { return fluids.Strength(strength, volume), nil }
	case mixTopUp:
		have, at := fluids.ML(in.numberNeeded("have_ml", 0, maxVolume)), fluids.Percent(in.numberNeeded("have_strength_pct", 0, 100))
		want, to := fluids.ML(in.numberNeeded("want_ml", minVolume, maxVolume)), fluids.Percent(in.numberNeeded("want_strength_pct", 0, 100))
		mix = func() (fluids.Addition, error) { return fluids.TopUp(have, at, want, to) }
	}
	in.done()
	if err := f.refusal(); err != nil {
		return nil, err
	}
	m, err := mix()
	if reach, ok := errors.AsType[*fluids.ReachError](err); ok {
		f.add("want_strength_pct", "cannot-reach", "%v", reach)
		return nil, f.refusal()
	}
	if err != nil {
		return nil, err
	}
	return &MixAnswer{float64(m.Product), float64(m.Water), float64(m.Strength)}, nil
}
