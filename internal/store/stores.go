package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// ProductCard is what a product's label says, where it says something; it comes before the house's word.
type ProductCard struct {
	ProductParts *float64 `json:"product_parts,omitempty"`
	WaterParts   *float64 `json:"water_parts,omitempty"`
	DwellLeast   *int     `json:"dwell_least_min,omitempty"`
	DwellMost    *int     `json:"dwell_most_min,omitempty"`
	NoRinse      bool     `json:"no_rinse,omitempty"`
	LongSoak     bool     `json:"long_soak,omitempty"`
	PaintSafe    bool     `json:"paint_safe,omitempty"`
	AlloySafe    bool     `json:"alloy_safe,omitempty"`
	Flammable    bool     `json:"flammable,omitempty"`
	TempLeast    *float64 `json:"temp_least_c,omitempty"`
	TempMost     *float64 `json:"temp_most_c,omitempty"`
	MeltingC     *float64 `json:"melting_c,omitempty"`
	LeadDays     *int     `json:"lead_days,omitempty"`
}

// MaterialFacts is what is written down about a material. Quantities are in its kind's unit.
type MaterialFacts struct {
	Name     string      `json:"name"`
	Quantity float64     `json:"quantity"`
	LowMark  float64     `json:"low_mark"`
	PackSize *float64    `json:"pack_size,omitempty"`
	PackCost *int        `json:"pack_cost,omitempty"` // in minor units
	Family   string      `json:"family,omitempty"`    // of oil: wet-oil, dry-oil, all-weather; empty is not said
	Place    string      `json:"place,omitempty"`     // where it stands: shelf 2
	Card     ProductCard `json:"card" gorm:"serializer:json"`
}

// Material is one product that steps use up.
type Material struct {
	ID   uuid.UUID
	Kind string
	MaterialFacts
	RetiredAt *time.Time
	Version   int
	CreatedAt time.Time
}

// BathFacts is what is written down about a standing bath.
type BathFacts struct {
	Name      string   `json:"name"`
	Fluid     string   `json:"fluid"`
	Strength  *float64 `json:"strength,omitempty"` // percent of product
	VolumeML  float64  `json:"volume_ml"`          // of a wax pot, grams
	CleanOnly bool     `json:"clean_only"`
}

// Bath is one standing bath since it was filled.
type Bath struct {
	ID   uuid.UUID
	Kind string
	BathFacts
	FilledAt  time.Time
	Used      int
	Settled   int
	Settling  *time.Time
	Dirty     bool
	GramsOut  float64
	HeatingAt *time.Time
	RetiredAt *time.Time
	Version   int
	CreatedAt time.Time
}

// BathUse is one load.
type BathUse struct {
	BathID uuid.UUID
	JobID  *uuid.UUID
	Soil   int
	IsNew  bool
	UsedAt time.Time
	UsedBy uuid.UUID
}

// Waste is what was thrown away, properly.
type Waste struct {
	ID      uuid.UUID
	Kind    string
	Amount  float64 // litres, of rags kilograms
	JobID   *uuid.UUID
	Note    string
	NotedAt time.Time
	NotedBy uuid.UUID
}

// TableName is waste: it has no plural.
func (Waste) TableName() string { return "waste" }

// WasteView is an entry of the waste log with names.
type WasteView struct {
	Waste
	PersonName string
	TagNumber  int
}

// Materials returns what is kept, by kind and name.
func (t Tx) Materials(ctx context.Context) ([]Material, error) {
	found, err := gorm.G[Material](t.db).Where("retired_at is null").Order("kind, name").Find(ctx)
	return found, translate(err, "list materials")
}

// Material returns one.
func (t Tx) Material(ctx context.Context, id uuid.UUID) (Material, error) {
	m, err := gorm.G[Material](t.db).Where("id = ?", id).First(ctx)
	return m, translate(err, "load material %s", id)
}

// AddMaterial adds one; [ErrTaken] when the name is in use.
func (t Tx) AddMaterial(ctx context.Context, m *Material) error {
	m.Version = 1
	return translate(gorm.G[Material](t.db).Create(ctx, m), "add material %q", m.Name)
}

// SaveMaterial writes m if its version is still the one in the database, else [ErrStale].
func (t Tx) SaveMaterial(ctx context.Context, m *Material) error {
	return saveVersioned(ctx, t, m, m.ID, &m.Version, []string{"id", "kind", "created_at"}, "save material %q", m.Name)
}

// UseMaterial takes an amount of a material of a kind, of the bottle where one is named and kept, else of what there is the
// most of, and notes it for the job. What the shelf
// falls short of is not taken; where nothing of the kind is kept, nothing is noted.
func (t Tx) UseMaterial(ctx context.Context, kind string, bottle *uuid.UUID, amount float64, job uuid.UUID, step string, at time.Time) error {
	err := t.db.WithContext(ctx).Exec(`
		with one as (select id, quantity from materials where kind = ? and retired_at is null order by coalesce(id = ?, false) desc, quantity desc, id limit 1 for update),
		taken as (update materials m set quantity = greatest(m.quantity - ?::float8, 0), version = version + 1 from one where m.id = one.id returning m.id)
		insert into material_uses (material_id, job_id, step_code, amount, used_at) select id, ?, ?, ?, ? from taken`,
		kind, bottle, amount, job, step, amount, at).Error
	return translate(err, "use %s", kind)
}

// UnuseMaterials puts back on the shelf what a step used at a time.
func (t Tx) UnuseMaterials(ctx context.Context, job uuid.UUID, step string, at time.Time) error {
	err := t.db.WithContext(ctx).Exec(`
		with gone as (delete from material_uses where job_id = ? and step_code = ? and used_at = ? returning material_id, amount),
		back as (select material_id, sum(amount) amount from gone group by material_id)
		update materials m set quantity = m.quantity + back.amount, version = version + 1 from back where m.id = back.material_id`, job, step, at).Error
	return translate(err, "put back what %s used", step)
}

// MaterialUsed is how much of a material a job used.
type MaterialUsed struct {
	Kind   string
	Name   string
	Amount float64
}

// UsesOf sums what a job used of each material, by name.
func (t Tx) UsesOf(ctx context.Context, job uuid.UUID) ([]MaterialUsed, error) {
	var used []MaterialUsed
	err := t.db.WithContext(ctx).Raw(`select m.kind, m.name, sum(u.amount) amount from material_uses u join materials m on m.id = u.material_id
		where u.job_id = ? group by m.kind, m.name order by m.name`, job).Scan(&used).Error
	return used, translate(err, "list uses of job %s", job)
}

// Baths returns the standing baths, by name.
func (t Tx) Baths(ctx context.Context) ([]Bath, error) {
	found, err := gorm.G[Bath](t.db).Where("retired_at is null").Order("kind, name").Find(ctx)
	return found, translate(err, "list baths")
}

// LockBath returns a bath that nobody else changes until the unit of work ends.
func (t Tx) LockBath(ctx context.Context, id uuid.UUID) (Bath, error) {
	var b Bath
	err := t.db.WithContext(ctx).Raw(`select * from baths where id = ? and retired_at is null for update`, id).First(&b).Error
	return b, translate(err, "lock bath %s", id)
}

// AddBath adds one; [ErrTaken] when the name is in use.
func (t Tx) AddBath(ctx context.Context, b *Bath) error {
	b.Version = 1
	return translate(gorm.G[Bath](t.db).Create(ctx, b), "add bath %q", b.Name)
}

// SaveBath writes b.
func (t Tx) SaveBath(ctx context.Context, b *Bath) error {
	b.Version++
	result := t.db.WithContext(ctx).Model(&Bath{}).Where("id = ?", b.ID).Select("*").Omit("id", "kind", "created_at").Updates(b)
	return changed(result, "save bath %q", b.Name)
}

// AddBathUse notes a load.
func (t Tx) AddBathUse(ctx context.Context, u *BathUse) error {
	return translate(gorm.G[BathUse](t.db).Create(ctx, u), "note use of bath")
}

// AddWaste notes waste.
func (t Tx) AddWaste(ctx context.Context, w *Waste) error {
	return translate(gorm.G[Waste](t.db).Create(ctx, w), "note waste")
}

// WasteLog returns what was thrown away since, the newest first.
func (t Tx) WasteLog(ctx context.Context, since time.Time, limit int) ([]WasteView, error) {
	var log []WasteView
	err := t.db.WithContext(ctx).Raw(`select w.*, p.name person_name, coalesce(b.tag_number, 0) tag_number from waste w join people p on p.id = w.noted_by
		left join jobs j on j.id = w.job_id left join bikes b on b.id = j.bike_id where w.noted_at >= ? order by w.noted_at desc, w.id limit ?`, since, limit).Scan(&log).Error
	return log, translate(err, "list waste")
}
