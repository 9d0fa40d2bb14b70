package record

import (
	"cmp"
	"regexp"
	"unicode/utf8"

	"earnestpony/core/chain"
	"earnestpony/core/forecast"
	"earnestpony/core/wear"
)

// Bounds holds single facts against what they may be. It is the one place for whatever comes from the page, in a
// table, with a passport or from the demo; that the contract says the same is tested.
type Bounds struct {
	Fault func(path, code, format string, args ...any) // takes what is wrong
}

// text tidies a text in place.
func (b Bounds) text(path string, text *string, most int) {
	*text = CleanLine(*text)
	if utf8.RuneCountInString(*text) > most {
		b.Fault(path, "too-long", "This is too long: at most %d characters.", most)
	}
}

func inRange[T cmp.Ordered](b Bounds, path string, value *T, low, high T) {
	if value != nil && !(*value >= low && *value <= high) {
		b.Fault(path, "out-of-range", "%v is outside %v to %v.", *value, low, high)
	}
}

// maxTeethListed is how many sizes a list of sprockets or chainrings may have.
const maxTeethListed = 14

func (b Bounds) teeth(path string, sizes []int) {
	if len(sizes) > maxTeethListed {
		b.Fault(path, "too-many", "Too many: at most %d.", maxTeethListed)
		return
	}
	for _, n := range sizes {
		inRange(b, path, &n, 8, 80)
	}
}

func CheckBikeBounds(f *BikeFacts, fault func(path, code, format string, args ...any)) {
	b := Bounds{fault}
	b.text("make", &f.Make, 80)
	b.text("model", &f.Model, 80)
	b.text("colour", &f.Colour, 80)
	b.text("frame_number", &f.FrameNumber, 60)
	b.text("limit_reason", &f.LimitReason, 300)
	b.text("needed_for", &f.NeededFor, 120)
	b.text("notes", &f.Notes, MaxText)
	b.oneOf("kind", f.Kind, bikeKinds)
	parsed(b, "drivetrain_kind", f.DrivetrainKind, chain.ParseDrivetrainKind)
	b.oneOf("brakes", f.Brakes, brakeKinds)
	parsed(b, "motor", f.Motor, chain.ParseMotor)
	b.oneOf("lubricant", f.Lubricant, lubricants)
	parsed(b, "care", f.Care, forecast.ParseCare)
	b.oneOf("limit_source", f.LimitSource, limitSources)
	parsed(b, "wear_school", f.WearSchool, wear.ParseSchool)
	inRange(b, "sprocket_count", f.SprocketCount, 1, 14)
	inRange(b, "capacity_teeth", f.CapacityTeeth, 1, 100)
	inRange(b, "chain_links", f.ChainLinks, 30, 300)
	inRange(b, "chainstay_mm", f.ChainstayMM, 200, 1500)
	inRange(b, "chainstay_growth_mm", f.ChainstayGrowthMM, 0, 60)
	inRange(b, "cage_mm", f.CageMM, 30, 150)
	inRange(b, "weekly_km", f.WeeklyKM, 0, 3000)
	inRange(b, "limit_pct", f.LimitPct, 0.1, 3)
	inRange(b, "together_pct", f.TogetherPct, 0.1, 3)
	b.teeth("sprocket_teeth", f.SprocketTeeth)
	b.teeth("ring_teeth", f.RingTeeth)
	if f.Mix != nil {
		for path, share := range map[string]float64{"fair": f.Mix.Fair, "dusty": f.Mix.Dusty, "wet": f.Mix.Wet, "mud": f.Mix.Mud, "salt": f.Mix.Salt} {
			inRange(b, "mix."+path, &share, 0, 1)
		}
	}
	if len(f.Tasks) > 100 {
		fault("tasks", "too-many", "Too many: at most 100.")
	}
	for code, t := range f.Tasks {
		if utf8.RuneCountInString(t.Reason) > 300 {
			fault("tasks."+Cut(code, 60)+".reason", "too-long", "This is too long: at most 300 characters.")
		}
	}
}

func (b Bounds) Customer(f *CustomerFacts) {
	b.text("name", &f.Name, 120)
	b.text("phone", &f.Phone, 40)
	b.text("email", &f.Email, 200)
	b.text("notes", &f.Notes, MaxText)
	b.oneOf("contact_way", f.ContactWay, contactWays)
	b.oneOf("consent_how", f.ConsentHow, consentWays)
	if !f.Consent {
		f.ConsentHow = ""
	}
}

// MaxLinks is more than any chain has, and keeps a slip from being taken for one.
const MaxLinks = 300

const MaxPrice = 100_000_000 // minor units

// MaxOdometer is more than any bike is ridden, km.
const MaxOdometer = 500_000

var TaskCode = regexp.MustCompile(`^[a-z][a-z0-9-]{1,39}$`)

var SetOrder = []string{"sprockets", "rings", "pulleys"}
