package people

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// State is whether somebody works here and is let in.
type State string

// The states.
const (
	Here   State = "here"
	Locked State = "locked" // signed in nowhere, and not let in until somebody says so
	Left   State = "left"   // does not work here any more; history keeps their name
)

// StaffMember is somebody who works here or did, as the shop's owner sees them.
type StaffMember struct {
	record.Person
	State   State     `json:"state"`
	Version int       `json:"version"`
	Since   time.Time `json:"since"`
	// LeftAt is when they left.
	LeftAt *time.Time `json:"left_at,omitempty"`
	// SignedIn is where they are signed in now, the device used last first.
	SignedIn []SignedInAt `json:"signed_in"`
}

// SignedInAt is a device that somebody is signed in on.
type SignedInAt struct {
	Device     string    `json:"device"`
	LastSeenAt time.Time `json:"last_seen_at"`
}

// StaffFacts is what is set of a person.
type StaffFacts struct {
	Name  string      `json:"name"`
	Role  record.Role `json:"role"`
	State State       `json:"state"`
}

// NewStaff is somebody who begins to work here.
type NewStaff struct {
	Name   string      `json:"name"`
	Role   record.Role `json:"role"`
	Secret string      `json:"secret"` // a PIN; of the shop's owner a password
}

// StaffChange is what is changed of a person.
type StaffChange struct {
	StaffFacts
	Version int    `json:"version"`
	Secret  string `json:"secret,omitempty"` // a new one; empty leaves it
}

// personBody is what the ledger keeps of a change of a person: never the secret.
type personBody struct {
	Person  uuid.UUID   `json:"person"`
	Changed []string    `json:"changed,omitempty"` // name, role, state, secret
	Before  *StaffFacts `json:"before,omitempty"`
	After   StaffFacts  `json:"after"`
}

func init() {
	record.Holds[personBody](nil, record.KindPersonAdded, record.KindPersonChanged)
	record.Holds[deviceBody](nil, record.KindDeviceChanged)
}

func factsOf(p store.Person) StaffFacts {
	f := StaffFacts{Name: p.Name, Role: record.Role(p.Role), State: Here}
	switch {
	case p.LeftAt != nil:
		f.State = Left
	case p.LockedAt != nil:
		f.State = Locked
	}
	return f
}

// Staff returns everybody who works here or did: those who do first, by name.
func (s *People) Staff(ctx context.Context) ([]StaffMember, error) {
	return staffOf(ctx, s.desk.Store.Read(ctx))
}

func staffOf(ctx context.Context, tx store.Tx) ([]StaffMember, error) {
	rows, err := tx.EverybodyEver(ctx)
	if err != nil {
		return nil, err
	}
	sessions, err := tx.Sessions(ctx)
	if err != nil {
		return nil, err
	}
	all := make([]StaffMember, 0, len(rows))
	for _, p := range rows {
		m := StaffMember{Person: record.NewPerson(p), State: factsOf(p).State, Version: p.Version, Since: p.CreatedAt, LeftAt: p.LeftAt, SignedIn: []SignedInAt{}}
		for _, in := range sessions {
			if in.PersonID == p.ID {
				m.SignedIn = append(m.SignedIn, SignedInAt{in.Device, in.LastSeenAt})
			}
		}
		all = append(all, m)
	}
	slices.SortStableFunc(all, func(a, b StaffMember) int {
		gone := func(m StaffMember) int {
			if m.State == Left {
				return 1
			}
			return 0
		}
		return cmp.Or(cmp.Compare(gone(a), gone(b)), cmp.Compare(a.Name, b.Name))
	})
	return all, nil
}

// check tidies facts in place and says what is wrong with them.
func (f *StaffFacts) check(wrong *record.Faults) {
	f.Name = record.CleanLine(f.Name)
	switch {
	case f.Name == "":
		wrong.Add("name", "missing", "The name is missing.")
	case len([]rune(f.Name)) > maxName:
		wrong.Add("name", "too-long", "A name has at most %d characters.", maxName)
	}
	if !slices.Contains(everybody, f.Role) {
		wrong.Add("role", "unknown-value", "This is no role: owner, mechanic, counter or apprentice.")
	}
	if f.State != Here && f.State != Locked && f.State != Left {
		wrong.Add("state", "unknown-value", "Somebody is here, locked out, or has left.")
	}
}

// maxName is how long a name may be that stands on screens and tickets.
const maxName = 80

func checkSecretInto(wrong *record.Faults, role record.Role, secret string) {
	if err := checkSecret(string(role), secret); err != nil {
		wrong.Add("secret", "weak", "Not this one: %v.", err)
	}
}

// CheckOwner says what is wrong with a name and a password for a shop's first owner.
func CheckOwner(name, secret string, fault func(name, code, format string, args ...any)) {
	var wrong record.Faults
	f := StaffFacts{name, record.RoleOwner, Here}
	f.check(&wrong)
	checkSecretInto(&wrong, record.RoleOwner, secret)
	for _, w := range wrong {
		fault(w.Path, w.Code, "%s", w.Message)
	}
}

// NewOwner is a shop's first owner, not entered yet: hashing takes a while, and no unit of work waits for it.
func (s *People) NewOwner(ctx context.Context, name, secret string) (store.Person, error) {
	if err := hashing.Acquire(ctx, 1); err != nil {
		return store.Person{}, err
	}
	defer hashing.Release(1)
	hash, err := hashSecret(secret, s.cost)
	return store.Person{ID: uuid.New(), Name: record.CleanLine(name), Role: string(record.RoleOwner), SecretHash: hash, Version: 1, CreatedAt: s.desk.Real()}, err
}

// Found enters a shop's first owner, by their own hand.
func (s *People) Found(ctx context.Context, tx store.Tx, p store.Person, device string) error {
	if err := addPerson(ctx, tx, &p); err != nil {
		return err
	}
	who := record.Actor{Person: record.NewPerson(p), Device: cmp.Or(device, "unnamed device")}
	return s.desk.Append(ctx, tx, who, &store.Entry{Kind: record.KindPersonAdded}, personBody{Person: p.ID, After: factsOf(p)}, "")
}

// AddStaff adds somebody who works here from now on.
func (s *People) AddStaff(ctx context.Context, who record.Actor, n NewStaff) (StaffMember, error) {
	facts := StaffFacts{n.Name, n.Role, Here}
	var wrong record.Faults
	facts.check(&wrong)
	checkSecretInto(&wrong, n.Role, n.Secret)
	if err := wrong.Err(); err != nil {
		return StaffMember{}, err
	}
	hash, err := hashSecret(n.Secret, s.cost)
	if err != nil {
		return StaffMember{}, err
	}
	m, err := record.Idempotent(ctx, s.desk, who, "add-person", facts, func(ctx context.Context, tx store.Tx) (StaffMember, error) {
		p := store.Person{ID: uuid.New(), Name: facts.Name, Role: string(facts.Role), SecretHash: hash, Version: 1, CreatedAt: s.desk.Real()}
		if err := addPerson(ctx, tx, &p); err != nil {
			return StaffMember{}, err
		}
		if err := s.desk.Append(ctx, tx, who, &store.Entry{Kind: record.KindPersonAdded}, personBody{Person: p.ID, After: facts}, ""); err != nil {
			return StaffMember{}, err
		}
		return memberOf(ctx, tx, p.ID)
	})
	if errors.Is(err, store.ErrTaken) {
		return m, nameTaken(facts.Name)
	}
	return m, err
}

func nameTaken(name string) error {
	return &record.Problem{Kind: record.Conflict, Code: "name-taken", Message: fmt.Sprintf("There is already somebody called %s here.", name)}
}

func memberOf(ctx context.Context, tx store.Tx, id uuid.UUID) (StaffMember, error) {
	all, err := staffOf(ctx, tx)
	if err != nil {
		return StaffMember{}, err
	}
	i := slices.IndexFunc(all, func(m StaffMember) bool { return m.ID == id })
	if i < 0 {
		return StaffMember{}, record.NotFound("person", "person-not-found")
	}
	return all[i], nil
}

// ChangeStaff changes somebody over the version that the sender saw: who is locked out or leaves is signed out everywhere at
// once, and so is whoever has another role or secret. There is always an owner of the shop who is let in.
func (s *People) ChangeStaff(ctx context.Context, who record.Actor, id uuid.UUID, c StaffChange) (StaffMember, error) {
	var wrong record.Faults
	c.check(&wrong)
	if c.Secret != "" {
		checkSecretInto(&wrong, c.Role, c.Secret)
	}
	if err := wrong.Err(); err != nil {
		return StaffMember{}, err
	}
	hash := ""
	if c.Secret != "" {
		var err error
		if hash, err = hashSecret(c.Secret, s.cost); err != nil {
			return StaffMember{}, err
		}
	}
	now := s.desk.Real()
	ends := false // whether they are signed out: somebody who only has another name goes on with what they are at
	m, err := record.Revise(ctx, s.desk, who, record.Revision[store.Person, StaffMember]{
		Operation: "change-person " + id.String(), Version: c.Version, Yours: c.StaffFacts,
		Load: func(ctx context.Context, tx store.Tx) (store.Person, error) {
			p, err := tx.PersonEver(ctx, id)
			if record.IsNotFound(err) {
				return p, record.NotFound("person", "person-not-found")
			}
			return p, err
		},
		Seen: func(p store.Person) int { return p.Version },
		Change: func(ctx context.Context, tx store.Tx, p *store.Person) (*store.Entry, any, error) {
			before := factsOf(*p)
			body := personBody{Person: id, Before: &before, After: c.StaffFacts}
			for _, f := range []struct {
				name string
				is   bool
			}{{"name", before.Name != c.Name}, {"role", before.Role != c.Role}, {"state", before.State != c.State}, {"secret", hash != ""}} {
				if f.is {
					body.Changed = append(body.Changed, f.name)
				}
			}
			if len(body.Changed) == 0 {
				return nil, nil, nil
			}
			if (before.Role == record.RoleOwner) != (c.Role == record.RoleOwner) && hash == "" {
				return nil, nil, record.InvalidInput(record.Field{Path: "secret", Code: "missing", Message: secretForRole(c.Role)})
			}
			if before.Role == record.RoleOwner && before.State == Here && (c.Role != record.RoleOwner || c.State != Here) {
				if err := anotherOwner(ctx, tx, id); err != nil {
					return nil, nil, err
				}
			}
			ends = before.Role != c.Role || c.State != Here || hash != ""
			p.Name, p.Role = c.Name, string(c.Role)
			if hash != "" {
				p.SecretHash, p.WrongTries, p.TriedAt = hash, 0, nil
			}
			if before.State != c.State {
				p.LeftAt, p.LockedAt = nil, nil
				switch c.State {
				case Left:
					p.LeftAt = &now
				case Locked:
					p.LockedAt = &now
				case Here:
					p.WrongTries, p.TriedAt = 0, nil
				}
			}
			return &store.Entry{Kind: record.KindPersonChanged}, body, nil
		},
		Save: func(ctx context.Context, tx store.Tx, p *store.Person) error {
			if err := tx.SavePerson(ctx, p); err != nil {
				return err
			}
			if record.Role(p.Role) == record.RoleOwner {
				if err := owned(ctx, tx); err != nil {
					return err
				}
			}
			if !ends {
				return nil
			}
			return tx.EndSessions(ctx, id, nil)
		},
		View: func(ctx context.Context, tx store.Tx, p store.Person) (StaffMember, error) {
			return memberOf(ctx, tx, p.ID)
		},
	})
	if errors.Is(err, store.ErrTaken) {
		return m, nameTaken(c.Name)
	}
	return m, err
}

func secretForRole(role record.Role) string {
	if role == record.RoleOwner {
		return fmt.Sprintf("The shop's owner signs in with a password of at least %d characters.", minOwnerPassword)
	}
	return fmt.Sprintf("With another role they sign in with a PIN of %d to %d digits.", minPIN, maxPIN)
}

// anotherOwner refuses where nobody else is an owner of the shop who is let in.
func anotherOwner(ctx context.Context, tx store.Tx, but uuid.UUID) error {
	people, err := tx.LockPeople(ctx) // two owners cannot send each other away at once
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(people, func(p store.Person) bool { return p.ID != but && record.Role(p.Role) == record.RoleOwner }) {
		return &record.Problem{Kind: record.Conflict, Code: "last-owner", Message: "Nobody else here is an owner of the shop: make somebody one first."}
	}
	return nil
}

// SetOwnSecret gives whoever is signed in another PIN or password, once they typed the present one. They stay signed in here, and
// are signed out everywhere else.
func (s *People) SetOwnSecret(ctx context.Context, who record.Actor, now, then string, from Attempt, session Token) error {
	var wrong record.Faults
	checkSecretInto(&wrong, who.Person.Role, then)
	if err := wrong.Err(); err != nil {
		return err
	}
	if _, err := s.CheckPIN(ctx, who.Person.ID, now, from); err != nil {
		if p, is := errors.AsType[*record.Problem](err); is && p.Code == "wrong-pin" { // they stay signed in all the same
			return record.InvalidInput(record.Field{Path: "now", Code: "wrong-pin", Message: p.Message})
		}
		return err
	}
	hash, err := hashSecret(then, s.cost)
	if err != nil {
		return err
	}
	return s.desk.Store.Write(ctx, func(ctx context.Context, tx store.Tx) error {
		p, err := tx.LockPerson(ctx, who.Person.ID)
		if err != nil {
			return err
		}
		p.SecretHash = hash
		if err := tx.SavePerson(ctx, &p); err != nil {
			return err
		}
		facts := factsOf(p)
		if err := s.desk.Append(ctx, tx, who, &store.Entry{Kind: record.KindPersonChanged}, personBody{Person: p.ID, Changed: []string{"secret"}, After: facts}, ""); err != nil {
			return err
		}
		return tx.EndSessions(ctx, p.ID, session.Hash())
	})
}

// DeviceView is one browser on which somebody signed in.
type DeviceView struct {
	ID         uuid.UUID `json:"id"`
	Name       string    `json:"name"`
	Since      time.Time `json:"since"`
	LastSeenAt time.Time `json:"last_seen_at"`
	SignedIn   string    `json:"signed_in,omitempty"` // who is, by name
	This       bool      `json:"this,omitempty"`      // it asked
}

// deviceBody is what the ledger keeps of a change of a device.
type deviceBody struct {
	Device    uuid.UUID `json:"device"`
	Before    string    `json:"before,omitempty"` // its name
	Name      string    `json:"name"`
	SignedOut string    `json:"signed_out,omitempty"` // who was, by name
	// Dropped is what it kept of somebody and was dropped unsent.
	Dropped   []string `json:"dropped,omitempty"`
	DroppedOf string   `json:"dropped_of,omitempty"`
}

// Devices returns the browsers on which somebody signed in, the one seen last first.
func (s *People) Devices(ctx context.Context, who record.Actor) ([]DeviceView, error) {
	return devicesOf(ctx, s.desk.Store.Read(ctx), who)
}

func devicesOf(ctx context.Context, tx store.Tx, who record.Actor) ([]DeviceView, error) {
	rows, err := tx.Devices(ctx)
	if err != nil {
		return nil, err
	}
	sessions, err := tx.Sessions(ctx)
	if err != nil {
		return nil, err
	}
	people, err := tx.EverybodyEver(ctx)
	if err != nil {
		return nil, err
	}
	all := make([]DeviceView, 0, len(rows))
	for _, d := range rows {
		v := DeviceView{ID: d.ID, Name: d.Name, Since: d.CreatedAt, LastSeenAt: d.LastSeenAt, This: d.ID == who.DeviceID}
		for _, in := range sessions {
			if in.DeviceID == nil || *in.DeviceID != d.ID {
				continue
			}
			if in.LastSeenAt.After(v.LastSeenAt) {
				v.LastSeenAt = in.LastSeenAt
			}
			if i := slices.IndexFunc(people, func(p store.Person) bool { return p.ID == in.PersonID }); i >= 0 && v.SignedIn == "" {
				v.SignedIn = people[i].Name
			}
		}
		all = append(all, v)
	}
	slices.SortStableFunc(all, func(a, b DeviceView) int { return b.LastSeenAt.Compare(a.LastSeenAt) })
	return all, nil
}

// NameDevice says what a device is called: where it stands.
func (s *People) NameDevice(ctx context.Context, who record.Actor, id uuid.UUID, name string) ([]DeviceView, error) {
	name = record.CleanLine(name)
	if name == "" || len([]rune(name)) > maxName {
		return nil, record.InvalidInput(record.Field{Path: "name", Code: "missing", Message: fmt.Sprintf("A device is called something, in at most %d characters.", maxName)})
	}
	return s.onDevice(ctx, who, "name-device", id, name, func(ctx context.Context, tx store.Tx, d store.Device) (deviceBody, error) {
		return deviceBody{Device: id, Before: d.Name, Name: name}, tx.NameDevice(ctx, id, name)
	})
}

// SignOutDevice ends the session on a device from afar, as where a tablet was lost.
func (s *People) SignOutDevice(ctx context.Context, who record.Actor, id uuid.UUID) ([]DeviceView, error) {
	return s.onDevice(ctx, who, "sign-out-device", id, "", func(ctx context.Context, tx store.Tx, d store.Device) (deviceBody, error) {
		all, err := devicesOf(ctx, tx, who)
		if err != nil {
			return deviceBody{}, err
		}
		i := slices.IndexFunc(all, func(v DeviceView) bool { return v.ID == id })
		return deviceBody{Device: id, Name: d.Name, SignedOut: all[i].SignedIn}, tx.EndSessionsOn(ctx, id)
	})
}

func (s *People) onDevice(ctx context.Context, who record.Actor, operation string, id uuid.UUID, request string, do func(context.Context, store.Tx, store.Device) (deviceBody, error)) ([]DeviceView, error) {
	return record.Idempotent(ctx, s.desk, who, operation+" "+id.String(), request, func(ctx context.Context, tx store.Tx) ([]DeviceView, error) {
		d, err := tx.Device(ctx, id)
		if record.IsNotFound(err) {
			return nil, record.NotFound("device", "device-not-found")
		}
		if err != nil {
			return nil, err
		}
		body, err := do(ctx, tx, d)
		if err != nil {
			return nil, err
		}
		if err := s.desk.Append(ctx, tx, who, &store.Entry{Kind: record.KindDeviceChanged}, body, ""); err != nil {
			return nil, err
		}
		return devicesOf(ctx, tx, who)
	})
}
