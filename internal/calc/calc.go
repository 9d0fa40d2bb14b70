// Package calc answers the computations that the product offers by name: the same JSON in and out
// for `pony calc NAME` and for POST /api/v1/calc/NAME, so that the core can be used and checked
// without the rest.
//
// It reads strictly. An input with unknown fields, fields of another kind, missing ones or values
// out of range is refused with a [Refusal] that lists every fault, and nothing is computed.
// Numbers in answers are not rounded, and neither NaN nor infinity appears in them.
package calc

import (
	"context"
	"fmt"
	"slices"
	"strings"
)

// byName holds every computation.
var byName = map[string]func(ctx context.Context, input []byte) (any, error){
	"cost":     func(_ context.Context, input []byte) (any, error) { return Cost(input) },
	"dayplan":  func(ctx context.Context, input []byte) (any, error) { return DayPlan(ctx, input) },
	"due":      func(_ context.Context, input []byte) (any, error) { return Due(input) },
	"forecast": func(_ context.Context, input []byte) (any, error) { return Forecast(input) },
	"gear":     func(_ context.Context, input []byte) (any, error) { return Gear(input) },
	"length":   func(_ context.Context, input []byte) (any, error) { return Length(input) },
	"lube":     func(_ context.Context, input []byte) (any, error) { return Lube(input) },
	"mix":      func(_ context.Context, input []byte) (any, error) { return Mix(input) },
	"route":    func(_ context.Context, input []byte) (any, error) { return Route(input) },
	"single":   func(_ context.Context, input []byte) (any, error) { return Single(input) },
	"wear":     func(_ context.Context, input []byte) (any, error) { return Wear(input) },
}

// Names lists the computations there are.
func Names() []string {
	names := make([]string, 0, len(byName))
	for name := range byName {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

// Run answers the computation of that name.
func Run(ctx context.Context, name string, input []byte) (any, error) {
	answer, ok := byName[name]
	if !ok {
		return nil, fmt.Errorf("there is no computation %q: one of %s", name, strings.Join(Names(), ", "))
	}
	return answer(ctx, input)
}
