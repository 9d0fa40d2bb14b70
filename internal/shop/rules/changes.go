package rules

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// SettingChange is one change of how the shop works: of its rules, of who may do what, of a person or a device.
type SettingChange struct {
	Number int64     `json:"number"`
	At     time.Time `json:"at"` // when it was written
	Person string    `json:"person"`
	Device string    `json:"device"`
	Kind   string    `json:"kind"`
	// Of is the person or the device that was changed.
	Of     string       `json:"of,omitempty"`
	Fields []FieldMoved `json:"fields"`
}

// FieldMoved is one setting with what it was before and what it is since, as text; empty where it was not, or is not, set.
type FieldMoved struct {
	Path   string `json:"path"`         // within the rules; a permission, or what of a person
	Of     string `json:"of,omitempty"` // the person whose setting it is
	Before string `json:"before"`
	After  string `json:"after"`
}

// SettingChanges is a page of them, newest first.
type SettingChanges struct {
	Changes []SettingChange `json:"changes"`
	Next    int64           `json:"next,omitempty"` // give as before for the next page
}

var (
	rulesKinds = []string{record.KindRulesChanged, record.KindPermissionsChanged}
	staffKinds = []string{record.KindPersonAdded, record.KindPersonChanged, record.KindDeviceChanged}
)

// SettingChanges returns what was changed of the settings, newest first, from before the entry of that number; 0 starts at
// the newest. What was changed of people and devices is for whoever may see them.
func (s *Book) SettingChanges(ctx context.Context, who record.Actor, before int64, limit int) (SettingChanges, error) {
	page := SettingChanges{Changes: []SettingChange{}}
	kinds := slices.Clone(rulesKinds)
	if people.Has(people.Staff, who) {
		kinds = append(kinds, staffKinds...)
	}
	tx := s.desk.Store.Read(ctx)
	entries, err := tx.ShopEntries(ctx, kinds, before, limit+1)
	if err != nil {
		return page, err
	}
	if len(entries) > limit {
		entries = entries[:limit]
		page.Next = entries[limit-1].Number
	}
	everybody, err := tx.EverybodyEver(ctx)
	if err != nil {
		return page, err
	}
	names := map[string]string{}
	for _, p := range everybody {
		names[p.ID.String()] = p.Name
	}
	for _, e := range entries {
		c := SettingChange{Number: e.Number, At: e.WrittenAt, Person: e.PersonName, Device: e.Device, Kind: e.Kind}
		if err := record.Readable(e.Kind, e.Body); err != nil {
			return page, fmt.Errorf("entry %d of the ledger: %w", e.Number, err)
		}
		if e.Kind == record.KindRulesChanged {
			err = s.rulesMoved(ctx, tx, e, names, &c)
		} else {
			c.Of, c.Fields, err = moved(e, names)
		}
		if err != nil {
			return page, err
		}
		page.Changes = append(page.Changes, c)
	}
	return page, nil
}

// rulesMoved says what a change of the rules changed. An entry of an older version says not what was before: that is what the
// one before it left.
func (s *Book) rulesMoved(ctx context.Context, tx store.Tx, e store.EntryView, names map[string]string, c *SettingChange) error {
	var body struct {
		Rules, Before json.RawMessage
	}
	if err := json.Unmarshal(e.Body, &body); err != nil {
		return err
	}
	if body.Before == nil {
		last, err := tx.ShopEntries(ctx, []string{record.KindRulesChanged}, e.Number, 1)
		if err != nil {
			return err
		}
		if len(last) == 1 {
			var earlier struct{ Rules json.RawMessage }
			if err := json.Unmarshal(last[0].Body, &earlier); err != nil {
				return err
			}
			body.Before = earlier.Rules
		}
	}
	var err error
	c.Fields, err = differences(body.Before, body.Rules)
	for i := range c.Fields {
		f := &c.Fields[i]
		parts := strings.Split(f.Path, ".")
		for k, part := range parts {
			if _, is := uuid.Parse(part); is == nil {
				f.Of, parts[k] = cmp.Or(names[part], "somebody"), "*"
			}
		}
		f.Path = strings.Join(parts, ".")
	}
	return err
}

// moved says what a change of who may do what, of a person or of a device changed, and whose.
func moved(e store.EntryView, names map[string]string) (of string, fields []FieldMoved, err error) {
	switch e.Kind {
	case record.KindPermissionsChanged:
		var body struct{ Before, After []people.PermissionTick }
		if err := json.Unmarshal(e.Body, &body); err != nil {
			return "", nil, err
		}
		for i, now := range body.After {
			f := FieldMoved{Path: "permission." + string(now.Permission), After: roles(now.Roles)}
			if i < len(body.Before) {
				f.Before = roles(body.Before[i].Roles)
			}
			fields = append(fields, f)
		}
		return "", fields, nil
	case record.KindDeviceChanged:
		var body struct {
			Before, Name string
			SignedOut    string `json:"signed_out"`
			Dropped      []string
			DroppedOf    string `json:"dropped_of"`
		}
		if err := json.Unmarshal(e.Body, &body); err != nil {
			return "", nil, err
		}
		if body.SignedOut != "" {
			return body.Name, []FieldMoved{{Path: "device.signed_in", Before: body.SignedOut}}, nil
		}
		if body.DroppedOf != "" {
			return body.Name, []FieldMoved{{Path: "device.dropped", Before: body.DroppedOf + ": " + strings.Join(body.Dropped, ", ")}}, nil
		}
		return cmp.Or(body.Before, body.Name), []FieldMoved{{Path: "device.name", Before: body.Before, After: body.Name}}, nil
	}
	var body struct {
		Person  string
		Changed []string
		Before  *people.StaffFacts
		After   people.StaffFacts
	}
	if err := json.Unmarshal(e.Body, &body); err != nil {
		return "", nil, err
	}
	was := people.StaffFacts{}
	if body.Before != nil {
		was = *body.Before
	}
	for _, f := range []FieldMoved{{Path: "person.name", Before: was.Name, After: body.After.Name},
		{Path: "person.role", Before: string(was.Role), After: string(body.After.Role)}, {Path: "person.state", Before: string(was.State), After: string(body.After.State)}} {
		if f.Before != f.After {
			fields = append(fields, f)
		}
	}
	if slices.Contains(body.Changed, "secret") {
		fields = append(fields, FieldMoved{Path: "person.secret"})
	}
	return cmp.Or(was.Name, body.After.Name, names[body.Person]), fields, nil
}

func roles(all []record.Role) string {
	names := make([]string, 0, len(all))
	for _, r := range all {
		if r != record.RoleOwner {
			names = append(names, string(r))
		}
	}
	return strings.Join(names, ", ")
}

// differences are the settings in which two rules differ, in order of path.
func differences(before, after json.RawMessage) ([]FieldMoved, error) {
	was, is := map[string]string{}, map[string]string{}
	for raw, into := range map[*json.RawMessage]map[string]string{&before: was, &after: is} {
		if len(*raw) == 0 {
			continue
		}
		read := json.NewDecoder(bytes.NewReader(*raw))
		read.UseNumber()
		var v any
		if err := read.Decode(&v); err != nil {
			return nil, err
		}
		flatten("", v, into)
	}
	paths := map[string]bool{}
	for p := range was {
		paths[p] = true
	}
	for p := range is {
		paths[p] = true
	}
	all := []FieldMoved{}
	for _, p := range slices.Sorted(maps.Keys(paths)) {
		if was[p] != is[p] {
			all = append(all, FieldMoved{Path: p, Before: was[p], After: is[p]})
		}
	}
	return all, nil
}

// flatten writes each setting under its path: an object's fields by name, a list of things with a name of their own by that
// name, and any other list as one text.
func flatten(path string, v any, into map[string]string) {
	at := func(name string) string { return strings.TrimPrefix(path+"."+name, ".") }
	switch v := v.(type) {
	case map[string]any:
		for name, field := range v {
			flatten(at(name), field, into)
		}
	case []any:
		texts := make([]string, 0, len(v))
		for _, one := range v {
			fields, is := one.(map[string]any)
			if name := named(fields); is && name != "" {
				flatten(at(name), one, into)
				continue
			}
			if is {
				texts = append(texts, fmt.Sprintf("%v-%v", fields["from"], fields["until"]))
				continue
			}
			texts = append(texts, fmt.Sprint(one))
		}
		if len(texts) > 0 {
			into[path] = strings.Join(texts, ", ")
		}
	case nil:
	default:
		into[path] = fmt.Sprint(v)
	}
}

// named is the name by which a thing in a list is known.
func named(fields map[string]any) string {
	for _, key := range []string{"class", "code"} {
		if name, is := fields[key].(string); is {
			return name
		}
	}
	return ""
}
