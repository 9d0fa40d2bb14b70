package shop

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"golang.org/x/crypto/argon2"

	"earnestpony/core/wear"
	"earnestpony/internal/store"
)

// Person works in the shop.
type Person struct {
	ID   uuid.UUID `json:"id"`
	Name string    `json:"name"`
	Role string    `json:"role"` // owner, mechanic, counter, apprentice
}

// SessionView is who is signed in on a device, and what the page needs to know of the shop.
type SessionView struct {
	Person Person `json:"person"`
	Device string `json:"device"`
	Shop   Shop   `json:"shop"`
}

// Shop is what every screen needs to know of the shop.
type Shop struct {
	Name         string        `json:"name"`
	LengthUnit   string        `json:"length_unit"`
	DistanceUnit string        `json:"distance_unit"`
	WearSchool   string        `json:"wear_school"`
	WearPlaces   int           `json:"wear_places"`
	Findings     []FindingKind `json:"findings"`
	// SimulatedTool says that a stand-in for a data caliper or gauge may be plugged in here.
	SimulatedTool bool `json:"simulated_tool,omitempty"`
}

// FindingKind is a finding that the rules know.
type FindingKind struct {
	Code   string `json:"code"`
	Forces string `json:"forces"` // the mildest verdict it leaves open; empty when it forces nothing
}

func newPerson(p store.Person) Person { return Person{ID: p.ID, Name: p.Name, Role: p.Role} }

// People returns who may sign in.
func (s *Service) People(ctx context.Context) ([]Person, error) {
	rows, err := s.store.Read().People(ctx)
	people := make([]Person, 0, len(rows))
	for _, p := range rows {
		people = append(people, newPerson(p))
	}
	return people, err
}

// The shape of a secret. The owner of the shop can do everything, so a PIN is not enough there.
const (
	minPIN, maxPIN   = 4, 8
	minOwnerPassword = 10
)

// checkSecret refuses secrets that are too easily tried.
func checkSecret(role, secret string) error {
	if role == "owner" {
		if len([]rune(secret)) < minOwnerPassword {
			return fmt.Errorf("the owner's password needs at least %d characters", minOwnerPassword)
		}
		return nil
	}
	if len(secret) < minPIN || len(secret) > maxPIN || strings.Trim(secret, "0123456789") != "" {
		return fmt.Errorf("a PIN has %d to %d digits", minPIN, maxPIN)
	}
	if strings.Trim(secret, secret[:1]) == "" || strings.Contains("01234567890", secret) || strings.Contains("09876543210", secret) {
		return errors.New("this PIN is the first that anybody would try: choose another")
	}
	return nil
}

// AddPerson adds somebody who works here. It is for the command line of the shop's machine.
func (s *Service) AddPerson(ctx context.Context, name, role, secret string) (Person, error) {
	name = tidy(name)
	if name == "" {
		return Person{}, invalid(Field{Path: "name", Code: "missing", Message: "The name is missing."})
	}
	if err := checkSecret(role, secret); err != nil {
		return Person{}, invalid(Field{Path: "pin", Code: "weak", Message: "Not this one: " + err.Error() + "."})
	}
	hash, err := hashSecret(secret)
	if err != nil {
		return Person{}, err
	}
	p := store.Person{ID: uuid.New(), Name: name, Role: role, SecretHash: hash, CreatedAt: s.now()}
	err = s.store.Write(ctx, func(tx store.Tx) error { return tx.AddPerson(ctx, &p) })
	if errors.Is(err, store.ErrTaken) {
		return Person{}, &Problem{Kind: Conflict, Code: "name-taken", Message: fmt.Sprintf("There is already somebody called %s here.", name)}
	}
	return newPerson(p), err
}

// How wrong PINs are slowed: a few slips are free, then each costs a wait that doubles, and from
// the fifth on the person is locked for minutes.
const (
	freeTries = 2
	lockAfter = 5
	firstWait = 2 * time.Second
	firstLock = 5 * time.Minute
	longest   = time.Hour
)

// waitAfter is how long no PIN is looked at after so many wrong ones in a row.
func waitAfter(wrong int) time.Duration {
	switch {
	case wrong <= freeTries:
		return 0
	case wrong < lockAfter:
		return firstWait << (wrong - freeTries - 1)
	default:
		return min(firstLock<<min(wrong-lockAfter, 10), longest)
	}
}

// Token is what the cookie of a session holds.
type Token string

func (t Token) hash() []byte {
	sum := sha256.Sum256([]byte(t))
	return sum[:]
}

// SignIn checks a person's PIN and opens a session on a device; the session that the device had
// before, if any, ends.
func (s *Service) SignIn(ctx context.Context, person uuid.UUID, pin, device string, before Token) (SessionView, Token, error) {
	who, err := s.checkPIN(ctx, person, pin)
	if err != nil {
		return SessionView{}, "", err
	}
	token := Token(rand.Text())
	if device = tidy(device); device == "" {
		device = "unnamed device"
	}
	err = s.store.Write(ctx, func(tx store.Tx) error {
		if before != "" {
			if err := tx.RemoveSession(ctx, before.hash()); err != nil {
				return err
			}
		}
		now := s.now()
		return tx.AddSession(ctx, &store.Session{TokenHash: token.hash(), PersonID: who.ID, Device: device, CreatedAt: now, LastSeenAt: now})
	})
	if err != nil {
		return SessionView{}, "", err
	}
	view, err := s.Session(ctx, Actor{Person: newPerson(who), Device: device})
	return view, token, err
}

// checkPIN says whose secret it is; wrong ones are counted and slowed.
func (s *Service) checkPIN(ctx context.Context, person uuid.UUID, pin string) (store.Person, error) {
	var who store.Person
	var refused *Problem
	// The outcome of a try is kept even when it was wrong, so a refusal is no error in here.
	err := s.store.Write(ctx, func(tx store.Tx) error {
		var err error
		who, err = tx.LockPerson(ctx, person)
		if notFound(err) {
			refused = wrongPIN()
			return nil
		}
		if err != nil {
			return err
		}
		now := s.now()
		if who.NextTryAt != nil && now.Before(*who.NextTryAt) {
			refused = locked(who.NextTryAt.Sub(now))
			return nil
		}
		if secretFits(who.SecretHash, pin) {
			return tx.SetTries(ctx, who.ID, 0, nil)
		}
		wrong := who.WrongTries + 1
		refused = wrongPIN()
		var next *time.Time
		if wait := waitAfter(wrong); wait > 0 {
			refused = locked(wait)
			at := now.Add(wait)
			next = &at
		}
		return tx.SetTries(ctx, who.ID, wrong, next)
	})
	if err != nil {
		return who, err
	}
	if refused != nil {
		return who, refused
	}
	return who, nil
}

func wrongPIN() *Problem {
	return &Problem{Kind: NotSignedIn, Code: "wrong-pin", Message: "That PIN is not right. Nothing was changed; try again."}
}

func locked(wait time.Duration) *Problem {
	left := fmt.Sprintf("%d seconds", int(wait.Round(time.Second)/time.Second))
	if wait >= 2*time.Minute {
		left = fmt.Sprintf("%d minutes", int((wait+time.Minute-1)/time.Minute))
	}
	return &Problem{Kind: TooSoon, Code: "too-many-tries", RetryAfter: wait,
		Message: fmt.Sprintf("Too many wrong PINs. Wait %s, then try again.", left)}
}

// SignOut ends a session.
func (s *Service) SignOut(ctx context.Context, t Token) error {
	return s.store.Read().RemoveSession(ctx, t.hash())
}

// Whose returns who is signed in with a token; the shop's idle time ends sessions.
func (s *Service) Whose(ctx context.Context, t Token) (Actor, error) {
	tx := s.store.Read()
	settings, err := tx.Shop(ctx)
	if err != nil {
		return Actor{}, err
	}
	now := s.now()
	idle := now.Add(-time.Duration(settings.SessionIdleMinutes) * time.Minute)
	p, device, err := tx.UseSession(ctx, t.hash(), idle, now)
	if notFound(err) {
		return Actor{}, &Problem{Kind: NotSignedIn, Code: "not-signed-in", Message: "Nobody is signed in here. Choose your name and type your PIN."}
	}
	return Actor{Person: newPerson(p), Device: device}, err
}

// Session returns what the page needs to know of who is signed in.
func (s *Service) Session(ctx context.Context, who Actor) (SessionView, error) {
	settings, err := s.store.Read().Shop(ctx)
	if err != nil {
		return SessionView{}, err
	}
	view := SessionView{Person: who.Person, Device: who.Device, Shop: Shop{
		Name: settings.Name, LengthUnit: settings.LengthUnit, DistanceUnit: settings.DistanceUnit, WearSchool: settings.WearSchool, WearPlaces: settings.WearPlaces,
	}}
	view.Shop.SimulatedTool = s.simulated != nil
	for _, f := range wear.Findings() {
		view.Shop.Findings = append(view.Shop.Findings, FindingKind{Code: string(f), Forces: f.Forces().String()})
	}
	return view, nil
}

// The cost of argon2id: 19 MiB and two passes, a common floor for secrets typed by people.
const (
	argonTime    = 2
	argonMemory  = 19 * 1024
	argonThreads = 1
	argonKey     = 32
)

// hashSecret returns the secret's argon2id hash with its salt and cost, so that the cost may rise
// later without locking anybody out.
func hashSecret(secret string) (string, error) {
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		return "", err
	}
	key := argon2.IDKey([]byte(secret), salt, argonTime, argonMemory, argonThreads, argonKey)
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, argonMemory, argonTime, argonThreads,
		base64.RawStdEncoding.EncodeToString(salt), base64.RawStdEncoding.EncodeToString(key)), nil
}

// secretFits reports whether the secret is the one that was hashed.
func secretFits(hash, secret string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false
	}
	var memory, passes uint32
	var threads uint8
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &memory, &passes, &threads); err != nil {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil {
		return false
	}
	got := argon2.IDKey([]byte(secret), salt, passes, memory, threads, uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1
}
