// Package fluids holds the arithmetic of what cleans and lubricates: mixing a product with water, and
// how long a standing bath serves before it is spent (handbook: fluids).
//
//	m := fluids.Ratio(2, 1, 500)
//	// m.Product ≈ 333 mL, m.Water ≈ 167 mL, m.Strength ≈ 66.7 %
//
// A product's own label comes before any figure here.
package fluids

import "fmt"

// ML is a volume in millilitres.
type ML float64

// Percent is the share of product in a mixture by volume, 0 (water) to 100 (neat).
type Percent float64

// Addition is what to pour together, or to add to what is there, and the strength of the whole then.
type Addition struct {
	Product, Water ML
	Strength       Percent
}

// Ratio mixes product to water as product:water to a volume of both. Parts are zero or more and not
// both zero; water of zero parts is the product neat.
func Ratio(product, water float64, volume ML) Addition {
	return Strength(Percent(100*product/(product+water)), volume)
}

// Strength mixes a volume of the strength.
func Strength(s Percent, volume ML) Addition {
	product := volume * ML(s) / 100
	return Addition{product, volume - product, s}
}

// ReachError is a mixture that pouring more into what is there cannot make.
type ReachError struct {
	Have, Want ML
	// Weakest and Strongest are what Want could become, with water alone and with product alone. Both
	// are zero when there is more than Want already.
	Weakest, Strongest Percent
}

func (e *ReachError) Error() string {
	if e.Have > e.Want {
		return fmt.Sprintf("there are %.0f mL already: take some out to end with %.0f mL", e.Have, e.Want)
	}
	return fmt.Sprintf("topped up to %.0f mL this can become %.1f %% with water alone to %.1f %% with product alone: take some out first",
		e.Want, e.Weakest, e.Strongest)
}

// TopUp says what to add to a mixture so that it becomes want of strength to. When neither product nor
// water can do that it returns a [*ReachError].
func TopUp(have ML, at Percent, want ML, to Percent) (Addition, error) {
	product := (want*ML(to) - have*ML(at)) / 100
	water := want - have - product
	// A millionth of the whole is a rounding of the arithmetic, not a fault of the question.
	grain := want / 1e6
	if product < -grain || water < -grain {
		e := &ReachError{Have: have, Want: want}
		if have <= want {
			holds := have * ML(at)
			e.Weakest, e.Strongest = Percent(holds/want), Percent((holds+100*(want-have))/want)
		}
		return Addition{}, e
	}
	return Addition{max(product, 0), max(water, 0), to}, nil
}
