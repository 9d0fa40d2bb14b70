package record

import "slices"

// What may be chosen of a bike and a customer where the core has no name for it. What the core names is parsed there.
var (
	bikeKinds    = []string{everyday, road, gravel, trail, cargo, childCarrying, "hub-gear", fixedGear}
	brakeKinds   = []string{"rim", "disc", "drum", coaster}
	lubricants   = []string{"wet-oil", "dry-oil", "all-weather", dripWax, immersionWax, "factory-grease"}
	limitSources = []string{"bike", "maker"}
	contactWays  = []string{message, mail, "none"}
	consentWays  = []string{"in-person", "phone", "mail", "written"}
)

const (
	everyday      = "everyday"
	road          = "road"
	gravel        = "gravel"
	trail         = "trail"
	cargo         = "cargo"
	childCarrying = "child-carrying"
	fixedGear     = "fixed-gear"
	coaster       = "coaster"
	dripWax       = "drip-wax"
	immersionWax  = "immersion-wax"
	mail          = "mail"
	message       = "message"
)

// Carries reports whether a kind of bike carries cargo or children.
func Carries(bikeKind string) bool { return bikeKind == cargo || bikeKind == childCarrying }

// FixedGear reports whether the pedals of a kind of bike always turn with its wheel.
func FixedGear(bikeKind string) bool { return bikeKind == fixedGear }

// OffRoad reports whether a kind of bike is ridden where there is mud and dust.
func OffRoad(bikeKind string) bool { return bikeKind == trail || bikeKind == gravel }

// Coaster reports whether turning the pedals back brakes.
func Coaster(brakes string) bool { return brakes == coaster }

// Waxed reports whether a chain's lubricant is a wax.
func Waxed(lubricant string) bool { return lubricant == dripWax || lubricant == immersionWax }

// ByMail reports whether a customer is told by mail.
func ByMail(way string) bool { return way == mail }

// parsed holds a value against the core's parser of it.
func parsed[T any](b Bounds, path, value string, parse func(string) (T, error)) {
	if value == "" {
		return
	}
	if _, err := parse(value); err != nil {
		b.Fault(path, "unknown-value", "%.60q cannot be chosen here.", value)
	}
}

func (b Bounds) oneOf(path, value string, choices []string) {
	if value != "" && !slices.Contains(choices, value) {
		b.Fault(path, "unknown-value", "%.60q cannot be chosen here.", value)
	}
}

// Reachable reports whether a customer is told anything at all.
func Reachable(way string) bool { return way == mail || way == message }
