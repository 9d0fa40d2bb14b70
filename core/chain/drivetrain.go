package chain

import "fmt"

// DrivetrainKind says how gears are changed, which decides how much wear the sprockets bear.
// The zero value is "not known".
type DrivetrainKind uint8

// The kinds of drivetrain.
const (
	KindUnknown DrivetrainKind = iota
	Derailleur
	SingleSpeed
	HubGear
)

var kindNames = [...]string{KindUnknown: "", Derailleur: "derailleur", SingleSpeed: "single-speed", HubGear: "hub-gear"}

func (k DrivetrainKind) String() string { return kindNames[k] }

// ParseDrivetrainKind reads the name that [DrivetrainKind.String] writes.
func ParseDrivetrainKind(s string) (DrivetrainKind, error) {
	return parseName[DrivetrainKind](kindNames[:], s, "drivetrain kind")
}

// Motor says what helps the rider. Only a mid motor pulls the chain. The zero value is "not known".
type Motor uint8

// The kinds of motor.
const (
	MotorUnknown Motor = iota
	NoMotor
	HubMotor
	MidMotor
)

var motorNames = [...]string{MotorUnknown: "", NoMotor: "none", HubMotor: "hub", MidMotor: "mid"}

func (m Motor) String() string { return motorNames[m] }

// ParseMotor reads the name that [Motor.String] writes.
func ParseMotor(s string) (Motor, error) { return parseName[Motor](motorNames[:], s, "motor") }

// MaxSprockets is the most sprockets side by side that this product knows of.
const MaxSprockets = 14

// Drivetrain is what the rules need to know of the bike a chain runs on.
type Drivetrain struct {
	Kind      DrivetrainKind
	Sprockets int // side by side on the rear wheel, 1 to MaxSprockets
	Motor     Motor
	// Carry reports whether the bike carries cargo or children: stricter limits, and a second
	// person signs the release (handbook: safety, carry).
	Carry bool
}

// Check refuses a drivetrain on which no rule can be applied.
func (d Drivetrain) Check() error {
	switch {
	case d.Kind == KindUnknown:
		return fmt.Errorf("the kind of drivetrain is not known: derailleur, single-speed or hub gear")
	case d.Sprockets < 1 || d.Sprockets > MaxSprockets:
		return fmt.Errorf("%d sprockets: a rear wheel has 1 to %d", d.Sprockets, MaxSprockets)
	case d.Motor == MotorUnknown:
		return fmt.Errorf("whether a motor pulls the chain is not known: none, hub or mid")
	}
	return nil
}

// parseName finds s among names, whose index 0 is the unnamed zero value.
func parseName[T ~uint8](names []string, s, what string) (T, error) {
	for i, n := range names {
		if i > 0 && n == s {
			return T(i), nil
		}
	}
	return 0, fmt.Errorf("%q is not a %s: one of %v", s, what, names[1:])
}

// Class groups drivetrains whose chains wear and cost alike. Zero is one sprocket.
type Class uint8

// The classes (handbook: wear, Limits).
const (
	OneSprocket Class = iota // single-speed and hub gear
	WideChain                // a derailleur of ten sprockets or fewer
	NarrowChain              // a derailleur of eleven and more: narrow chains, dear sprockets
	Classes                  // how many there are
)

// fewestNarrow is the fewest sprockets side by side that need a narrow chain.
const fewestNarrow = 11

func (c Class) String() string {
	return [Classes]string{"one-sprocket", "wide-chain", "narrow-chain"}[c]
}

// Class returns which class the drivetrain is of.
func (d Drivetrain) Class() Class {
	switch {
	case d.Kind != Derailleur:
		return OneSprocket
	case d.Sprockets >= fewestNarrow:
		return NarrowChain
	}
	return WideChain
}

// ParseClass reads the name that [Class.String] writes.
func ParseClass(s string) (Class, error) {
	for c := range Classes {
		if c.String() == s {
			return c, nil
		}
	}
	return 0, fmt.Errorf("%q is not a class of drivetrain: one-sprocket, wide-chain or narrow-chain", s)
}
