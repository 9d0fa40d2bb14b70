package people

import (
	"cmp"
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
	"golang.org/x/sync/semaphore"

	"earnestpony/core/wear"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// SessionView is who is signed in on a device, and what the page needs to know of the shop.
type SessionView struct {
	Person record.Person `json:"person"`
	Device string        `json:"device"`
	Now    time.Time     `json:"now"` // by the shop's clock
	// DemoTime says that the shop's clock runs apart from the world's.
	DemoTime bool `json:"demo_time,omitempty"`
	Shop     Shop `json:"shop"`
	// Has are the permissions of whoever is signed in; MayNot the operations of the contract that are refused them, with
	// what is said then: the page offers nobody what they may not do.
	Has    []Permission      `json:"has"`
	MayNot map[string]string `json:"may_not"`
}

// Shop is what every screen needs to know of the shop.
type Shop struct {
	Name         string        `json:"name"`
	LengthUnit   string        `json:"length_unit"`
	DistanceUnit string        `json:"distance_unit"`
	Temperature  string        `json:"temperature_unit"`
	Volume       string        `json:"volume_unit"`
	Mass         string        `json:"mass_unit"`
	TimeZone     string        `json:"time_zone"` // IANA
	Locale       string        `json:"locale"`
	Currency     string        `json:"currency"`
	SettingUp    []string      `json:"setting_up,omitempty"` // what of the set-up from the page is not gone through yet
	WearSchool   string        `json:"wear_school"`
	WearPlaces   int           `json:"wear_places"`
	Findings     []FindingKind `json:"findings"`
	// SimulatedTool says that a stand-in for a data caliper or gauge may be plugged in here.
	SimulatedTool bool `json:"simulated_tool,omitempty"`
	// SimulatedGateway says that messages go to a stand-in, to which the page may reply as a customer would.
	SimulatedGateway bool `json:"simulated_gateway,omitempty"`
}

// FindingKind is a finding that the rules know.
type FindingKind struct {
	Code   string `json:"code"`
	Forces string `json:"forces"` // the mildest verdict it leaves open; empty when it forces nothing
}

// ListPeople returns who may sign in.
func (s *People) ListPeople(ctx context.Context) ([]record.Person, error) {
	rows, err := s.desk.Store.Read(ctx).People(ctx)
	people := make([]record.Person, 0, len(rows))
	for _, p := range rows {
		people = append(people, record.NewPerson(p))
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
			return fmt.Errorf("a password of the shop's owner needs at least %d characters", minOwnerPassword)
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
func (s *People) AddPerson(ctx context.Context, name, role, secret string) (record.Person, error) {
	name = record.CleanLine(name)
	if name == "" {
		return record.Person{}, record.InvalidInput(record.Field{Path: "name", Code: "missing", Message: "The name is missing."})
	}
	if err := checkSecret(role, secret); err != nil {
		return record.Person{}, record.InvalidInput(record.Field{Path: "pin", Code: "weak", Message: "Not this one: " + err.Error() + "."})
	}
	hash, err := hashSecret(secret, s.cost)
	if err != nil {
		return record.Person{}, err
	}
	p := store.Person{ID: uuid.New(), Name: name, Role: role, SecretHash: hash, Version: 1, CreatedAt: s.desk.Real()}
	err = s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error { return addPerson(ctx, tx, &p) })
	if errors.Is(err, store.ErrTaken) {
		return record.Person{}, nameTaken(name)
	}
	return record.NewPerson(p), err
}

func addPerson(ctx context.Context, tx store.Tx, p *store.Person) error {
	if err := tx.AddPerson(ctx, p); err != nil || record.Role(p.Role) != record.RoleOwner {
		return err
	}
	return owned(ctx, tx)
}

// How wrong PINs are slowed: a few slips are free, then each costs a wait that doubles, and from
// the fifth on nothing is tried for minutes. One wrong PIN is forgotten with every quarter of an hour.
const (
	freeTries = 2
	lockAfter = 5
	firstWait = 2 * time.Second
	firstLock = 5 * time.Minute
	maxLock   = time.Hour
	forgotten = 15 * time.Minute
)

// waitAfter is how long no PIN is looked at after so many wrong ones in a row.
func waitAfter(wrong int) time.Duration {
	switch {
	case wrong <= freeTries:
		return 0
	case wrong < lockAfter:
		return firstWait << (wrong - freeTries - 1)
	default:
		return min(firstLock<<min(wrong-lockAfter, 10), maxLock)
	}
}

// left is how long to wait yet before another PIN is looked at, and how many of the wrong ones still count.
func left(t store.Tries, now time.Time) (wait time.Duration, counted int) {
	if t.At == nil {
		return 0, 0
	}
	since := now.Sub(*t.At)
	if wait = waitAfter(t.Wrong) - since; wait > 0 {
		return wait, t.Wrong
	}
	return 0, max(0, t.Wrong-int(since/forgotten))
}

// Token is what a cookie of ours holds: of a session, or of a device.
type Token string

func (t Token) Hash() []byte {
	sum := sha256.Sum256([]byte(t))
	return sum[:]
}

// Caller is the browser that somebody signs in with.
type Caller struct {
	Session Token  // that it has now; ends when somebody signs in
	Device  Token  // empty where nobody ever signed in
	Address string // where it calls from
	Name    string // what the device is called; as before where empty
	// Unsent are the people of whom the device keeps what it could not send yet.
	Unsent []uuid.UUID
}

// SignedIn is a session that was opened.
type SignedIn struct {
	View    SessionView
	Session Token
	Device  Token // empty where the browser has one already
	// Pen lets the device send what this person writes there, whoever is signed in when it is sent.
	Pen Token
}

// SignIn checks a person's PIN and opens a session on a device; the session that the device had
// before, if any, ends.
func (s *People) SignIn(ctx context.Context, person uuid.UUID, pin string, c Caller) (SignedIn, error) {
	device, err := s.deviceOf(ctx, c.Device)
	if err != nil {
		return SignedIn{}, err
	}
	who, err := s.CheckPIN(ctx, person, pin, Attempt{Device: device.ID, Address: c.Address})
	if err != nil {
		return SignedIn{}, err
	}
	in := SignedIn{Session: Token(rand.Text()), Pen: Token(rand.Text())}
	now := s.desk.Real()
	known := device.ID != uuid.Nil
	told := cmp.Or(record.CleanLine(c.Name), device.Told)
	name := cmp.Or(told, "unnamed device")
	if known && told == device.Told && device.Name != "" { // it may have been renamed from afar since
		name = device.Name
	}
	if !known {
		in.Device = Token(rand.Text())
		device = store.Device{ID: uuid.New(), TokenHash: in.Device.Hash(), Name: name, Told: told, CreatedAt: now, LastSeenAt: now}
	}
	err = s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		if c.Session != "" {
			if err := tx.RemoveSession(ctx, c.Session.Hash()); err != nil {
				return err
			}
		}
		if !known {
			if err := tx.AddDevice(ctx, &device); err != nil {
				return err
			}
		}
		if err := tx.SignedIn(ctx, device.ID, who.ID, now); err != nil {
			return err
		}
		if err := tx.SeenDevice(ctx, device.ID, name, told, now); err != nil {
			return err
		}
		if err := tx.EndPens(ctx, device.ID, c.Unsent); err != nil { // of whoever was there before
			return err
		}
		if err := tx.GivePen(ctx, device.ID, who.ID, in.Pen.Hash(), now); err != nil {
			return err
		}
		return tx.AddSession(ctx, &store.Session{TokenHash: in.Session.Hash(), PersonID: who.ID, DeviceID: &device.ID, Device: name, CreatedAt: now, LastSeenAt: now})
	})
	if err != nil {
		return SignedIn{}, err
	}
	by, err := s.Actor(ctx, record.NewPerson(who), name)
	if err != nil {
		return SignedIn{}, err
	}
	by.DeviceID = device.ID
	in.View, err = s.Session(ctx, by)
	return in, err
}

// deviceOf returns the device that keeps a token; a zero one where nobody ever signed in there.
func (s *People) deviceOf(ctx context.Context, t Token) (store.Device, error) {
	if t == "" {
		return store.Device{}, nil
	}
	d, err := s.desk.Store.Read(ctx).DeviceByToken(ctx, t.Hash())
	if record.IsNotFound(err) {
		return store.Device{}, nil
	}
	return d, err
}

// Attempt is where a PIN is typed.
type Attempt struct {
	Device  uuid.UUID // Nil: one on which nobody ever signed in
	Address string
}

// hashing bounds how many secrets are held against their hash at once: each takes 19 MiB and some time of a
// processor, and whoever is not signed in can ask for it.
var hashing = semaphore.NewWeighted(2)

// CheckPIN says whose secret it is; wrong ones are counted and slowed. On a device that signed the person in
// before they are counted by themselves, so that nobody elsewhere can lock it out; on others they count
// against the person and against where they come from.
func (s *People) CheckPIN(ctx context.Context, person uuid.UUID, pin string, from Attempt) (store.Person, error) {
	var who store.Person
	if err := hashing.Acquire(ctx, 1); err != nil {
		return who, err
	}
	defer hashing.Release(1)
	var refused *record.Problem
	// The outcome of a try is kept even when it was wrong, so a refusal is no error in here.
	err := s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		refused = nil
		now := s.desk.Real()
		var err error
		who, err = tx.Person(ctx, person)
		stranger := record.IsNotFound(err)
		if err != nil && !stranger {
			return err
		}
		if !stranger && from.Device != uuid.Nil {
			here, err := tx.LockTriesHere(ctx, from.Device, person)
			if err == nil {
				refused, here = try(here, who, pin, now)
				return tx.SetTriesHere(ctx, from.Device, person, here)
			}
			if !record.IsNotFound(err) {
				return err
			}
		}
		// By address first, then the person: everybody in this order, so that nobody waits in a circle.
		there, err := tx.LockTriesFrom(ctx, from.Address, now)
		if err != nil {
			return err
		}
		if stranger {
			refused, there = try(there, store.Person{}, pin, now)
			return tx.SetTriesFrom(ctx, from.Address, there)
		}
		if who, err = tx.LockPerson(ctx, person); err != nil {
			return err
		}
		theirs := store.Tries{Wrong: who.WrongTries, At: who.TriedAt}
		if wait, _ := left(there, now); wait > 0 {
			refused = locked(wait)
			return nil
		}
		if refused, theirs = try(theirs, who, pin, now); refused == nil {
			there = store.Tries{At: &now}
		} else if refused.Code == "wrong-pin" || theirs.At != nil && theirs.At.Equal(now) {
			_, counted := left(there, now)
			there = store.Tries{Wrong: counted + 1, At: &now}
		}
		if err := tx.SetTriesFrom(ctx, from.Address, there); err != nil {
			return err
		}
		return tx.SetTriesOf(ctx, person, theirs)
	})
	if err != nil {
		return who, err
	}
	if refused != nil {
		return who, refused
	}
	return who, nil
}

// try holds a secret against a person's, unless it is too soon, and says what is counted from then on.
func try(t store.Tries, who store.Person, pin string, now time.Time) (*record.Problem, store.Tries) {
	wait, counted := left(t, now)
	if wait > 0 {
		return locked(wait), t
	}
	if secretFits(who.SecretHash, pin) {
		return nil, store.Tries{}
	}
	t = store.Tries{Wrong: counted + 1, At: &now}
	if wait := waitAfter(t.Wrong); wait > 0 {
		return locked(wait), t
	}
	return wrongPIN(), t
}

func wrongPIN() *record.Problem {
	return &record.Problem{Kind: record.NotSignedIn, Code: "wrong-pin", Message: "That PIN is not right. Nothing was changed; try again."}
}

func locked(wait time.Duration) *record.Problem {
	left := fmt.Sprintf("%d seconds", int(wait.Round(time.Second)/time.Second))
	if wait >= 2*time.Minute {
		left = fmt.Sprintf("%d minutes", int((wait+time.Minute-1)/time.Minute))
	}
	return &record.Problem{Kind: record.TooSoon, Code: "too-many-tries", RetryAfter: wait,
		Message: fmt.Sprintf("Too many wrong PINs. Wait %s, then try again.", left)}
}

// SignOut ends a session. The device sends nothing more but for the people of whom it keeps something unsent.
func (s *People) SignOut(ctx context.Context, c Caller) error {
	device, err := s.deviceOf(ctx, c.Device)
	if err != nil {
		return err
	}
	return s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		if err := tx.RemoveSession(ctx, c.Session.Hash()); err != nil || device.ID == uuid.Nil {
			return err
		}
		return tx.EndPens(ctx, device.ID, c.Unsent)
	})
}

// Author returns who wrote what a device kept until it could send it: they signed in there with their PIN, and what they may
// do is as it is now.
func (s *People) Author(ctx context.Context, person uuid.UUID, pen Token) (record.Actor, error) {
	tx := s.desk.Store.Read(ctx)
	p, device, err := tx.PenOf(ctx, pen.Hash(), s.desk.Real().Add(-record.AnswersKept))
	if err == nil && p.ID != person || record.IsNotFound(err) {
		return record.Actor{}, &record.Problem{Kind: record.NotSignedIn, Code: "author-signed-out", Message: "This is sent once whoever wrote it signs in here."}
	}
	if err != nil {
		return record.Actor{}, err
	}
	who, err := actorOf(ctx, tx, record.NewPerson(p), device.Name)
	who.DeviceID = device.ID
	return who, err
}

// SignedOutFromAfar reports whether a device was signed out on another one and nobody signed in on it since.
func (s *People) SignedOutFromAfar(ctx context.Context, device Token) (bool, error) {
	d, err := s.deviceOf(ctx, device)
	return d.Forgets, err
}

// Dropped is what somebody drops that a device kept and never sent.
type Dropped struct {
	Of   uuid.UUID `json:"of"`   // who wrote it
	What []string  `json:"what"` // in the page's words
}

// DropUnsent notes that what a device kept was dropped and not sent: one's own, or, by a mechanic, a colleague's.
func (s *People) DropUnsent(ctx context.Context, who record.Actor, d Dropped) error {
	if d.Of != who.Person.ID && !Has(Countersign, who) {
		return &record.Problem{Kind: record.Forbidden, Code: "not-allowed", Message: "What a colleague wrote is dropped by a mechanic, or by themselves."}
	}
	return s.desk.Write(ctx, who, "drop-unsent", d, func(ctx context.Context, tx store.Tx) error {
		of, err := tx.PersonEver(ctx, d.Of)
		if record.IsNotFound(err) {
			return record.NotFound("person", "person-not-found")
		}
		if err != nil {
			return err
		}
		for i := range d.What {
			d.What[i] = record.CleanLine(d.What[i])
		}
		body := deviceBody{Device: who.DeviceID, Name: who.Device, Dropped: d.What, DroppedOf: of.Name}
		return s.desk.Append(ctx, tx, who, &store.Entry{Kind: record.KindDeviceChanged}, body, "")
	})
}

// Authenticate returns who is signed in with a token; the shop's idle time ends sessions.
func (s *People) Authenticate(ctx context.Context, t Token) (record.Actor, error) {
	nobody := &record.Problem{Kind: record.NotSignedIn, Code: "not-signed-in", Message: "Nobody is signed in here. Choose your name and type your PIN."}
	if t == "" {
		return record.Actor{}, nobody
	}
	tx := s.desk.Store.Read(ctx)
	settings, err := tx.Shop(ctx)
	if record.IsNotFound(err) { // a browser that knew another shop
		return record.Actor{}, nobody
	}
	if err != nil {
		return record.Actor{}, err
	}
	now := s.desk.Real()
	p, session, err := tx.UseSession(ctx, t.Hash(), now.Add(-idleOf(settings)), now)
	if record.IsNotFound(err) {
		return record.Actor{}, nobody
	}
	if err != nil {
		return record.Actor{}, err
	}
	who, err := actorOf(ctx, tx, record.NewPerson(p), session.Device)
	if session.DeviceID != nil {
		who.DeviceID = *session.DeviceID
	}
	return who, err
}

// Actor is somebody who does something on a device, with what they may.
func (s *People) Actor(ctx context.Context, p record.Person, device string) (record.Actor, error) {
	return actorOf(ctx, s.desk.Store.Read(ctx), p, device)
}

func actorOf(ctx context.Context, tx store.Tx, p record.Person, device string) (record.Actor, error) {
	ticks, _, err := loadTicks(ctx, tx)
	return record.Actor{Person: p, Device: device, Ticks: ticks}, err
}

// StillSignedIn reports as an error that a session has ended; unlike [Service.Authenticate] it does not keep it alive.
func (s *People) StillSignedIn(ctx context.Context, t Token) error {
	tx := s.desk.Store.Read(ctx)
	settings, err := tx.Shop(ctx)
	if err != nil {
		return err
	}
	now := s.desk.Real()
	_, _, err = tx.UseSession(ctx, t.Hash(), now.Add(-idleOf(settings)), time.Time{})
	return err
}

func idleOf(settings store.Shop) time.Duration {
	return time.Duration(settings.SessionIdleMinutes) * time.Minute
}

// ForgetSessions removes sessions that have ended by themselves.
func (s *People) ForgetSessions(ctx context.Context) error {
	tx := s.desk.Store.Read(ctx)
	settings, err := tx.Shop(ctx)
	if record.IsNotFound(err) {
		return nil
	}
	if err != nil {
		return err
	}
	return tx.ForgetSessions(ctx, s.desk.Real().Add(-max(idleOf(settings), 24*time.Hour)))
}

// Session returns what the page needs to know of who is signed in.
func (s *People) Session(ctx context.Context, who record.Actor) (SessionView, error) {
	settings, err := s.desk.Store.Read(ctx).Shop(ctx)
	if err != nil {
		return SessionView{}, err
	}
	view := SessionView{Person: who.Person, Device: who.Device, Now: s.desk.Now(), DemoTime: s.desk.DemoTime(), Shop: Shop{
		Name: settings.Name, LengthUnit: settings.LengthUnit, DistanceUnit: settings.DistanceUnit, Temperature: settings.TemperatureUnit, Volume: settings.VolumeUnit,
		Mass: settings.MassUnit, TimeZone: cmp.Or(settings.TimeZone, "UTC"), Locale: settings.Locale, Currency: settings.Currency, SettingUp: settings.SettingUp, WearSchool: settings.WearSchool, WearPlaces: settings.WearPlaces,
	}}
	view.Has, view.MayNot = Allowed(who)
	view.Shop.SimulatedTool, view.Shop.SimulatedGateway = s.SimulatedTool, s.SimulatedGateway
	for _, f := range wear.Findings() {
		view.Shop.Findings = append(view.Shop.Findings, FindingKind{Code: string(f), Forces: f.Forces().String()})
	}
	return view, nil
}

// hashCost is what argon2id costs: passes, and memory in KiB.
type hashCost struct{ time, memory uint32 }

// serving is a common floor for secrets typed by people.
var serving = hashCost{time: 2, memory: 19 * 1024}

const (
	argonThreads = 1
	argonKey     = 32
)

// hashSecret returns the secret's argon2id hash with its salt and cost, so that the cost may rise
// later without locking anybody out.
func hashSecret(secret string, cost hashCost) (string, error) {
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		return "", err
	}
	key := argon2.IDKey([]byte(secret), salt, cost.time, cost.memory, argonThreads, argonKey)
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, cost.memory, cost.time, argonThreads,
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
