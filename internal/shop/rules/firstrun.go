package rules

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"golang.org/x/text/currency"

	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// A new shop is set up from the page: whoever knows the code that was printed where the program was started names the shop
// and becomes its owner. The rest of the set-up is the owner's, signed in, step by step and whenever they like. Once anybody
// works here the door is shut for ever.

// SetUpSteps are what the owner goes through after the shop has a name, in this order.
func SetUpSteps() []string {
	return []string{"schools", "people", "hours", "places", "tools", "prices"}
}

// triesOfACode is how often a code may be mistyped before it is worth nothing.
const triesOfACode = 3

// codeLetters are letters and digits that nobody takes for one another; five bits each.
const codeLetters = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"

// newCode is a code of eight letters in two groups, of about 40 bits.
func newCode() string {
	var code strings.Builder
	for code.Len() < 9 {
		if code.Len() == 4 {
			code.WriteByte('-')
			continue
		}
		b := make([]byte, 1)
		_, _ = rand.Read(b) // it never fails
		if i := int(b[0] & 31); i < len(codeLetters) {
			code.WriteByte(codeLetters[i])
		}
	}
	return code.String()
}

func hashCode(typed string) []byte {
	plain := strings.Map(func(r rune) rune {
		if r == '-' || r == ' ' {
			return -1
		}
		return r
	}, strings.ToUpper(typed))
	sum := sha256.Sum256([]byte(plain))
	return sum[:]
}

// TellCode says where a new code is printed: where the program was started, for nobody else to see.
func (s *Book) TellCode(tell func(code string)) { s.tellCode = tell }

// SetUpOpen reports whether the shop is still to be set up: nobody works here, and nobody ever did.
func (s *Book) SetUpOpen(ctx context.Context) (bool, error) {
	anybody, err := s.desk.Store.Read(ctx).AnybodyEver(ctx)
	return !anybody, err
}

// OfferSetUp makes a one-time code and tells it, where the shop is still to be set up. A code from before is worth nothing then.
func (s *Book) OfferSetUp(ctx context.Context) error {
	open, err := s.SetUpOpen(ctx)
	if err != nil || !open {
		return err
	}
	code := newCode()
	if err := s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		return tx.SaveSetUp(ctx, store.SetUp{CodeHash: hashCode(code)})
	}); err != nil {
		return err
	}
	s.tellCode(code)
	return nil
}

func setUpClosed() *record.Problem {
	return &record.Problem{Kind: record.Conflict, Code: "set-up-closed", Message: "This shop is set up already: sign in. A lost password is reset on the shop's machine with pony person."}
}

// TryCode refuses a code that is not the one that was printed, and counts it: the third wrong one makes a new one.
func (s *Book) TryCode(ctx context.Context, typed string) error {
	var refused *record.Problem
	var fresh string
	err := s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) (err error) {
		refused, fresh, err = tryCode(ctx, tx, typed)
		return err
	})
	if fresh != "" && err == nil {
		s.tellCode(fresh)
	}
	if err == nil && refused != nil {
		return refused
	}
	return err
}

// tryCode holds a code against the one that is kept. What comes of a wrong one is kept too, so a refusal is no error here.
func tryCode(ctx context.Context, tx store.Tx, typed string) (refused *record.Problem, fresh string, err error) {
	anybody, err := tx.AnybodyEver(ctx)
	if err != nil {
		return nil, "", err
	}
	row, err := tx.LockSetUp(ctx)
	if anybody || record.IsNotFound(err) {
		return setUpClosed(), "", nil
	}
	if err != nil {
		return nil, "", err
	}
	if subtle.ConstantTimeCompare(row.CodeHash, hashCode(typed)) == 1 {
		return nil, "", nil
	}
	wrong := func(message string) *record.Problem {
		return &record.Problem{Kind: record.Invalid, Code: "wrong-code", Message: message, Fields: []record.Field{{Path: "code", Code: "wrong-code", Message: message}}}
	}
	if row.Wrong++; row.Wrong >= triesOfACode {
		fresh = newCode()
		row = store.SetUp{CodeHash: hashCode(fresh)}
		refused = wrong("That was the third wrong code. A new one was printed where the program was started.")
	} else if left := triesOfACode - row.Wrong; left == 1 {
		refused = wrong("That is not the code. One more try, then a new one is printed.")
	} else {
		refused = wrong(fmt.Sprintf("That is not the code. %d more tries, then a new one is printed.", left))
	}
	return refused, fresh, tx.SaveSetUp(ctx, row)
}

// FirstShop is what a new shop is set up with from the page.
type FirstShop struct {
	Code         string `json:"code"`
	Name         string `json:"name"`
	TimeZone     string `json:"time_zone"`
	Locale       string `json:"locale"`
	Currency     string `json:"currency"`
	LengthUnit   string `json:"length_unit"`
	DistanceUnit string `json:"distance_unit"`
	Temperature  string `json:"temperature_unit"`
	Volume       string `json:"volume_unit"`
	Mass         string `json:"mass_unit"`
	Owner        struct {
		Name   string `json:"name"`
		Secret string `json:"secret"`
	} `json:"owner"`
	Device string `json:"device,omitempty"` // what the one it is set up on is called
}

// maxShopName is how long a shop's name may be that stands on tickets.
const maxShopName = 120

// check tidies a new shop in place and says what is wrong with it.
func (n *FirstShop) check(wrong *record.Faults) {
	n.Name = record.CleanLine(n.Name)
	switch {
	case n.Name == "":
		wrong.Add("name", "missing", "The shop's name is missing.")
	case len([]rune(n.Name)) > maxShopName:
		wrong.Add("name", "too-long", "The shop's name has at most %d characters.", maxShopName)
	}
	checkPlace(n.TimeZone, n.Locale, n.Currency, wrong.Add)
}

// BeginShop makes the shop and its owner, of a database where nobody works yet, for whoever knows the code.
func (s *Book) BeginShop(ctx context.Context, n FirstShop) (record.Person, error) {
	var wrong record.Faults
	n.check(&wrong)
	people.CheckOwner(n.Owner.Name, n.Owner.Secret, wrong.Under("owner"))
	if err := wrong.Err(); err != nil {
		return record.Person{}, err
	}
	if open, err := s.SetUpOpen(ctx); err != nil {
		return record.Person{}, err
	} else if !open {
		return record.Person{}, setUpClosed()
	}
	person, err := s.people.NewOwner(ctx, n.Owner.Name, n.Owner.Secret)
	if err != nil {
		return record.Person{}, err
	}
	var refused *record.Problem
	var fresh string
	err = s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		if refused, fresh, err = tryCode(ctx, tx, n.Code); err != nil || refused != nil {
			return err
		}
		row := freshShop(n.Name, n.TimeZone)
		row.Locale, row.Currency, row.LengthUnit, row.DistanceUnit = n.Locale, n.Currency, n.LengthUnit, n.DistanceUnit
		row.TemperatureUnit, row.VolumeUnit, row.MassUnit = n.Temperature, n.Volume, n.Mass
		row.SettingUp = SetUpSteps()
		prices, hour := StartingPrices(n.Currency)
		work := defaultWork()
		work.LabourHour = hour
		row.Work = &work
		if err := tx.ReplaceShop(ctx, &row); err != nil { // one that the command line made may have a name and tools already
			return err
		}
		if err := tx.SaveClassRules(ctx, prices); err != nil {
			return err
		}
		if err := tx.RemoveSetUp(ctx); err != nil {
			return err
		}
		return s.people.Found(ctx, tx, person, record.CleanLine(n.Device))
	})
	if fresh != "" && err == nil {
		s.tellCode(fresh)
	}
	if err == nil && refused != nil {
		return record.Person{}, refused
	}
	return record.NewPerson(person), err
}

// SetUpStepDone takes a step off what is left of the set-up, done or left for later, and says what is left.
func (s *Book) SetUpStepDone(ctx context.Context, who record.Actor, step string) ([]string, error) {
	if !slices.Contains(SetUpSteps(), step) {
		return nil, record.NotFound("step", "step-not-found")
	}
	return record.Idempotent(ctx, s.desk, who, "set-up-step", step, func(ctx context.Context, tx store.Tx) ([]string, error) {
		row, err := tx.Shop(ctx)
		if err != nil {
			return nil, err
		}
		left := append([]string{}, row.SettingUp...)
		i := slices.Index(left, step)
		if i < 0 {
			return left, nil
		}
		left = slices.Delete(left, i, i+1)
		return left, errors.Join(tx.SaveSettingUp(ctx, left), tx.Notify(ctx, record.Changed(record.TopicRules, "")))
	})
}

// startingPrices are a plausible start in euros: chain, cassette, chainrings, and the work on each.
var startingPrices = map[string][6]float64{
	"one-sprocket": {18, 19, 39, 12, 15, 18},
	"wide-chain":   {24, 42, 52, 12, 15, 24},
	"narrow-chain": {42, 115, 78, 14, 15, 24},
}

// startingHour is a plausible price of an hour's work in euros.
const startingHour = 48

// roughly is how many of a currency's units a euro's worth of work and parts costs, to one figure: for a start that somebody
// corrects, never for an exchange. Of a currency that is not here nothing is said.
var roughly = map[string]float64{"EUR": 1, "GBP": 1, "USD": 1, "CHF": 1.5, "CAD": 1.5, "AUD": 1.5, "NZD": 2, "DKK": 8, "SEK": 10, "NOK": 10, "PLN": 4, "CZK": 20, "ZAR": 15, "INR": 50, "BRL": 4, "JPY": 150}

// StartingPrices are prices that a new shop begins with, in the currency's minor units; nothing where none are plausible.
func StartingPrices(code string) (classes []ClassRule, hour int) {
	times, known := roughly[code]
	if !known {
		return nil, 0
	}
	unit, err := currency.ParseISO(code)
	if err != nil {
		return nil, 0
	}
	digits, _ := currency.Standard.Rounding(unit)
	minor := func(euros float64) int {
		whole := euros * times
		if times >= 5 {
			whole = math.Round(whole/5) * 5
		}
		return int(math.Round(whole) * math.Pow10(digits))
	}
	for _, c := range everyClass(nil) {
		var p [6]int
		for i, euros := range startingPrices[c.Class] {
			p[i] = minor(euros)
		}
		c.Chain, c.Sprockets, c.Rings, c.LabourChain, c.LabourSprockets, c.LabourRings = &p[0], &p[1], &p[2], &p[3], &p[4], &p[5]
		classes = append(classes, c)
	}
	return classes, minor(startingHour)
}
