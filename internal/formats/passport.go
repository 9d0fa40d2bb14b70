package formats

import (
	"bytes"
	_ "embed"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"
)

// PassportFormat names the format of a bike passport and its version.
const PassportFormat = "bike-passport-1"

// PassportSchema is the JSON Schema of a bike passport.
//
//go:embed passport.schema.json
var PassportSchema []byte

// Passport is everything about one bike. Fields that this program does not know are kept in More, of the
// passport and of its bike, and written again.
type Passport struct {
	MadeAt time.Time
	Shop   string
	Bike   PassportBike
	Ledger []PassportEntry
	More   map[string]json.RawMessage
}

// PassportBike is the bike itself.
type PassportBike struct {
	ID      uuid.UUID
	Tag     string
	AddedAt time.Time
	Facts   json.RawMessage
	Photo   []byte // JPEG; nil without one
	More    map[string]json.RawMessage
}

// PassportEntry is one fact that happened.
type PassportEntry struct {
	ID         uuid.UUID       `json:"id"`
	Kind       string          `json:"kind"`
	HappenedAt time.Time       `json:"happened_at"`
	WrittenAt  time.Time       `json:"written_at"`
	By         string          `json:"by"`
	Strikes    *uuid.UUID      `json:"strikes,omitempty"`
	Body       json.RawMessage `json:"body"`
}

// object writes fields that are known over those that were kept.
func object(more map[string]json.RawMessage, known map[string]any) ([]byte, error) {
	all := map[string]any{}
	for name, v := range more {
		all[name] = v
	}
	for name, v := range known {
		all[name] = v
	}
	return json.Marshal(all)
}

// WritePassport writes a passport as JSON.
func WritePassport(p Passport) ([]byte, error) {
	known := map[string]any{"id": p.Bike.ID, "tag": p.Bike.Tag, "added_at": p.Bike.AddedAt, "facts": p.Bike.Facts}
	if p.Bike.Photo != nil {
		known["photo"] = p.Bike.Photo
	}
	bike, err := object(p.Bike.More, known)
	if err != nil {
		return nil, err
	}
	text, err := object(p.More, map[string]any{"format": PassportFormat, "made_at": p.MadeAt, "shop": p.Shop, "bike": json.RawMessage(bike), "ledger": p.Ledger})
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = json.Indent(&out, text, "", " ")
	return out.Bytes(), err
}

// ReadPassport reads a passport. What is missing or of another kind is named.
func ReadPassport(text []byte) (p Passport, err error) {
	if err := json.Unmarshal(text, &p.More); err != nil || p.More == nil {
		return p, wrong("This is no passport of a bike: it cannot be read.")
	}
	var format string
	if err := take(p.More, "format", &format); err != nil || format != PassportFormat {
		return p, wrong("This is no bike passport: its format is %.60q and not %q.", format, PassportFormat)
	}
	for name, into := range map[string]any{"made_at": &p.MadeAt, "shop": &p.Shop, "bike": &p.Bike.More, "ledger": &p.Ledger} {
		if err := take(p.More, name, into); err != nil {
			return p, err
		}
	}
	for name, into := range map[string]any{"id": &p.Bike.ID, "added_at": &p.Bike.AddedAt, "facts": &p.Bike.Facts} {
		if err := take(p.Bike.More, name, into); err != nil {
			return p, wrong("bike.%s", err)
		}
	}
	for name, into := range map[string]any{"tag": &p.Bike.Tag, "photo": &p.Bike.Photo} {
		if _, there := p.Bike.More[name]; !there {
			continue
		}
		if err := take(p.Bike.More, name, into); err != nil {
			return p, wrong("bike.%s", err)
		}
	}
	for i, e := range p.Ledger {
		var body map[string]json.RawMessage
		if e.ID == uuid.Nil || e.Kind == "" || e.HappenedAt.IsZero() || e.WrittenAt.IsZero() || json.Unmarshal(e.Body, &body) != nil {
			return p, wrong("ledger[%d]: an entry has an id, a kind, when it happened and was written, and a body.", i)
		}
	}
	return p, nil
}

// take moves a field out of those that are left.
func take(fields map[string]json.RawMessage, name string, into any) error {
	raw, there := fields[name]
	if !there {
		return wrong("%s is missing.", name)
	}
	if err := json.Unmarshal(raw, into); err != nil {
		return wrong("%s is of another kind: %v.", name, err)
	}
	delete(fields, name)
	return nil
}

// Extras are the unknown fields of a passport, to be kept beside its bike.
func (p Passport) Extras() (json.RawMessage, error) {
	if len(p.More) == 0 && len(p.Bike.More) == 0 {
		return nil, nil
	}
	return json.Marshal(extras{p.More, p.Bike.More})
}

type extras struct {
	Passport map[string]json.RawMessage `json:"passport,omitempty"`
	Bike     map[string]json.RawMessage `json:"bike,omitempty"`
}

// SetExtras puts unknown fields that were kept back.
func (p *Passport) SetExtras(kept json.RawMessage) error {
	if kept == nil {
		return nil
	}
	var e extras
	if err := json.Unmarshal(kept, &e); err != nil {
		return fmt.Errorf("kept fields of a passport: %w", err)
	}
	p.More, p.Bike.More = e.Passport, e.Bike
	return nil
}
