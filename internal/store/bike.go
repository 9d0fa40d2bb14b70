package store

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
)

// Mix is how the riding is shared between conditions; the shares add to 1.
type Mix struct {
	Fair  float64 `json:"fair"`
	Dusty float64 `json:"dusty"`
	Wet   float64 `json:"wet"`
	Mud   float64 `json:"mud"`
	Salt  float64 `json:"salt"`
}

// BikeFacts is what may be written down about a bike. What is not known is empty or nil.
type BikeFacts struct {
	Make              string   `json:"make,omitempty"`
	Model             string   `json:"model,omitempty"`
	Colour            string   `json:"colour,omitempty"`
	FrameNumber       string   `json:"frame_number,omitempty"`
	Kind              string   `json:"kind,omitempty"`
	DrivetrainKind    string   `json:"drivetrain_kind,omitempty"`
	SprocketCount     *int     `json:"sprocket_count,omitempty"`
	SprocketTeeth     []int    `json:"sprocket_teeth,omitempty" gorm:"serializer:json"` // smallest first
	RingTeeth         []int    `json:"ring_teeth,omitempty" gorm:"serializer:json"`     // smallest first
	ChainstayMM       *float64 `json:"chainstay_mm,omitempty"`
	ChainstayGrowthMM *float64 `json:"chainstay_growth_mm,omitempty"` // to its longest, with rear suspension
	CageMM            *float64 `json:"cage_mm,omitempty"`
	Clutch            *bool    `json:"clutch,omitempty"`
	CapacityTeeth     *int     `json:"capacity_teeth,omitempty"`
	ChainLinks        *int     `json:"chain_links,omitempty"`
	Brakes            string   `json:"brakes,omitempty"`
	Motor             string   `json:"motor,omitempty"`
	Lubricant         string   `json:"lubricant,omitempty"`
	Care              string   `json:"care,omitempty"`
	WeeklyKM          *float64 `json:"weekly_km,omitempty"`
	Mix               *Mix     `json:"mix,omitempty" gorm:"serializer:json"`
	LimitPct          *float64 `json:"limit_pct,omitempty"`
	TogetherPct       *float64 `json:"together_pct,omitempty"`
	LimitSource       string   `json:"limit_source,omitempty"`
	WearSchool        string   `json:"wear_school,omitempty"`  // in place of the house's
	LimitReason       string   `json:"limit_reason,omitempty"` // why it has limits or a school of its own
	Notes             string   `json:"notes,omitempty"`
	// Tasks are what it does otherwise than the shop; NeededOn the day on which its owner needs it ready.
	Tasks     map[string]TaskSetting `json:"tasks,omitempty" gorm:"serializer:json"`
	NeededOn  string                 `json:"needed_on,omitempty"`
	NeededFor string                 `json:"needed_for,omitempty"`
}

// Bike is a customer's bike.
type Bike struct {
	ID         uuid.UUID
	TagNumber  int
	CustomerID uuid.UUID
	BikeFacts
	Folded     string  // what finding looks in, besides the owner
	MadeAs     *string // the tag it went by on the device on which it was added, in capitals; nil where it got its own at once
	ArchivedAt *time.Time
	Version    int
	CreatedAt  time.Time

	OwnerName string     `gorm:"->"` // read only
	PhotoAt   *time.Time `gorm:"->"` // when its photo was taken; nil without one
	Last      LastWear   `gorm:"embedded;embeddedPrefix:last_"`
}

// LastWear is the last measurement of the chain now on that stands; nothing in it before the first. What
// was read before that chain was fitted is another chain's.
type LastWear struct {
	EntryID *uuid.UUID      `gorm:"->"`
	TakenAt *time.Time      `gorm:"->"`
	Body    json.RawMessage `gorm:"->;type:jsonb"` // of its entry
	// Unsigned says that it waits for a mechanic's signature; nil before the first.
	Unsigned *bool `gorm:"->"`
}

const selectBikes = `
	select b.*, c.name owner_name, ph.taken_at photo_at, m.entry_id last_entry_id, m.taken_at last_taken_at, m.unsigned last_unsigned, l.body last_body
	from bikes b join customers c on c.id = b.customer_id left join bike_photos ph on ph.bike_id = b.id
	left join lateral (select entry_id, taken_at, unsigned from measurements where bike_id = b.id and struck_by is null
		order by taken_at desc, entry_id desc limit 1) r on true
	left join lateral (select r.entry_id, r.taken_at, r.unsigned where not exists (select from ledger f where f.bike_id = b.id and f.kind = 'chain-fitted'
		and f.happened_at > r.taken_at and not exists (select from ledger s where s.strikes = f.id))) m on true
	left join ledger l on l.id = m.entry_id `

// NextTagNumber takes the next number for a tag. A number taken by a write that then failed is not
// given again: a gap is harmless, a second bike of the same number is not.
func (t Tx) NextTagNumber(ctx context.Context) (int, error) {
	var n int
	err := t.db.WithContext(ctx).Raw(`select nextval('bike_tag_number')`).Scan(&n).Error
	return n, translate(err, "take a tag number")
}

// AddBike adds a bike.
func (t Tx) AddBike(ctx context.Context, b *Bike) error {
	b.Version = 1
	return translate(gorm.G[Bike](t.db).Create(ctx, b), "add bike %d", b.TagNumber)
}

// BikeByTag returns the bike of a tag number.
func (t Tx) BikeByTag(ctx context.Context, number int) (Bike, error) {
	var b Bike
	err := t.db.WithContext(ctx).Raw(selectBikes+`where b.tag_number = ?`, number).First(&b).Error
	return b, translate(err, "load bike of tag %d", number)
}

// BikeMadeAs returns the bike that went by a tag of the device on which it was added.
func (t Tx) BikeMadeAs(ctx context.Context, made string) (Bike, error) {
	var b Bike
	err := t.db.WithContext(ctx).Raw(selectBikes+`where b.made_as = ?`, made).First(&b).Error
	return b, translate(err, "load bike made as %s", made)
}

// BikeByID returns the bike of an id.
func (t Tx) BikeByID(ctx context.Context, id uuid.UUID) (Bike, error) {
	var b Bike
	err := t.db.WithContext(ctx).Raw(selectBikes+`where b.id = ?`, id).First(&b).Error
	return b, translate(err, "load bike %s", id)
}

// BikesByID returns bikes by their ids.
func (t Tx) BikesByID(ctx context.Context, ids []uuid.UUID) (map[uuid.UUID]Bike, error) {
	var bikes []Bike
	err := t.db.WithContext(ctx).Raw(selectBikes+`where b.id in ?`, ids).Scan(&bikes).Error
	byID := map[uuid.UUID]Bike{}
	for _, b := range bikes {
		byID[b.ID] = b
	}
	return byID, translate(err, "load bikes")
}

// SaveBike writes b if its version is still the one in the database, else [ErrStale].
func (t Tx) SaveBike(ctx context.Context, b *Bike) error {
	return saveVersioned(ctx, t, b, b.ID, &b.Version, []string{"id", "tag_number", "created_at"}, "save bike %d", b.TagNumber)
}

// SetPhoto keeps a bike's photo in place of any it had.
func (t Tx) SetPhoto(ctx context.Context, bike uuid.UUID, jpeg []byte, takenAt time.Time) error {
	err := t.db.WithContext(ctx).Exec(`
		insert into bike_photos (bike_id, jpeg, taken_at) values (?, ?, ?)
		on conflict (bike_id) do update set jpeg = excluded.jpeg, taken_at = excluded.taken_at`, bike, jpeg, takenAt).Error
	return translate(err, "keep photo of bike %s", bike)
}

// RemovePhoto takes a bike's photo away, and reports whether there was one.
func (t Tx) RemovePhoto(ctx context.Context, bike uuid.UUID) (bool, error) {
	result := t.db.WithContext(ctx).Exec(`delete from bike_photos where bike_id = ?`, bike)
	return result.RowsAffected > 0, translate(result.Error, "remove photo of bike %s", bike)
}

// Photo returns a bike's photo.
func (t Tx) Photo(ctx context.Context, bike uuid.UUID) ([]byte, error) {
	var row struct{ JPEG []byte }
	err := t.db.WithContext(ctx).Raw(`select jpeg from bike_photos where bike_id = ?`, bike).First(&row).Error
	return row.JPEG, translate(err, "load photo of bike %s", bike)
}

// BikesOf returns a customer's bikes, current ones first.
func (t Tx) BikesOf(ctx context.Context, customer uuid.UUID) ([]Bike, error) {
	var bikes []Bike
	err := t.db.WithContext(ctx).Raw(selectBikes+`where b.customer_id = ? order by b.archived_at is not null, b.tag_number`, customer).Scan(&bikes).Error
	return bikes, translate(err, "list bikes of customer %s", customer)
}

// MeasuredBikes returns the bikes in care whose chain was measured, by tag number.
func (t Tx) MeasuredBikes(ctx context.Context) ([]Bike, error) {
	var bikes []Bike
	err := t.db.WithContext(ctx).Raw(selectBikes + `where b.archived_at is null and m.entry_id is not null order by b.tag_number`).Scan(&bikes).Error
	return bikes, translate(err, "list measured bikes")
}

// MostCounted is how far what was found is counted: nobody reads more, and counting all takes as long as all
// there is.
const MostCounted = 200

// FindBikes returns bikes by tag number in which, or in whose owner, every word is found, from the
// first number after `after`; and how many there are in all, counted no further than one beyond [MostCounted].
func (t Tx) FindBikes(ctx context.Context, words []string, archived bool, after, limit int) ([]Bike, int, error) {
	where, args := contains("b.search", words)
	where += ` and (b.archived_at is not null) = ?`
	args = append(args, archived)
	type numbered struct {
		ID        uuid.UUID
		TagNumber int
	}
	var found []numbered
	var bikes []Bike
	// Which index serves turns on the words, so each search is planned by its own.
	err := t.db.WithContext(ctx).Transaction(func(db *gorm.DB) error {
		if err := db.Exec(`set local plan_cache_mode = force_custom_plan`).Error; err != nil {
			return err
		}
		if err := db.Raw(`select b.id, b.tag_number from bikes b where `+where+` limit ?`, append(args, MostCounted+1)...).Scan(&found).Error; err != nil {
			return err
		}
		if len(found) > MostCounted { // many: they lie close together, and are gone through in their order
			return db.Raw(selectBikes+`where b.id in (select b.id from bikes b where `+where+` and b.tag_number > ? order by b.tag_number limit ?) order by b.tag_number`,
				append(args, after, limit)...).Scan(&bikes).Error
		}
		var page []uuid.UUID
		slices.SortFunc(found, func(a, b numbered) int { return cmp.Compare(a.TagNumber, b.TagNumber) })
		for _, f := range found {
			if f.TagNumber > after && len(page) < limit {
				page = append(page, f.ID)
			}
		}
		if len(page) == 0 {
			return nil
		}
		return db.Raw(selectBikes+`where b.id in ? order by b.tag_number`, page).Scan(&bikes).Error
	})
	return bikes, len(found), translate(err, "find bikes")
}

// contains is a condition that every word is in the column; always true for no words.
func contains(column string, words []string) (string, []any) {
	conditions, args := []string{"true"}, []any{}
	for _, w := range words {
		conditions = append(conditions, "("+column+`) like ? escape '\'`)
		args = append(args, "%"+likeEscape.Replace(w)+"%")
	}
	return strings.Join(conditions, " and "), args
}

var likeEscape = strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`)

// BikesAfter returns bikes by tag number, from the first after that one.
func (t Tx) BikesAfter(ctx context.Context, after, limit int) ([]Bike, error) {
	var bikes []Bike
	err := t.db.WithContext(ctx).Raw(selectBikes+`where b.tag_number > ? order by b.tag_number limit ?`, after, limit).Scan(&bikes).Error
	return bikes, translate(err, "list bikes")
}

// LockBike keeps others who lock it too from writing of a bike until the unit of work ends.
func (t Tx) LockBike(ctx context.Context, id uuid.UUID) error {
	return translate(t.db.WithContext(ctx).Exec(`select from bikes where id = ? for no key update`, id).Error, "lock bike %s", id)
}

// LastFacts returns the last entry that wrote a bike's facts down; nil where there is none.
func (t Tx) LastFacts(ctx context.Context, bike uuid.UUID) (*EntryView, error) {
	var entries []EntryView
	err := t.db.WithContext(ctx).Raw(selectEntries+`where l.bike_id = ? and l.kind in ('bike-added', 'bike-changed') and l.body->'facts' is not null order by l.number desc limit 1`, bike).Scan(&entries).Error
	if err != nil || len(entries) == 0 {
		return nil, translate(err, "load facts of bike %s", bike)
	}
	return &entries[0], nil
}

// MeasurementsNotInLedger counts a bike's measurements that are laid out otherwise than their entries say, and
// entries that are not laid out.
func (t Tx) MeasurementsNotInLedger(ctx context.Context, bike uuid.UUID) (int, error) {
	var n int
	err := t.db.WithContext(ctx).Raw(`
		select count(*) from (select * from ledger where bike_id = @bike and kind = 'measurement') l
		full join (select * from measurements where bike_id = @bike) m on m.entry_id = l.id
		left join ledger s on s.strikes = l.id
		where l.id is null or m.entry_id is null or m.taken_at <> l.happened_at or (m.struck_by is distinct from s.id)
			or (m.unsigned and (l.body->>'countersign' is distinct from 'true' or exists (select from ledger c where c.bike_id = @bike and c.kind = 'countersigned' and c.body->>'entry' = l.id::text)))
			or m.verdict <> l.body->'wear'->>'verdict' or m.elongation_pct is distinct from (l.body->'wear'->>'elongation_pct')::double precision`,
		map[string]any{"bike": bike}).Scan(&n).Error
	return n, translate(err, "hold measurements of bike %s against the ledger", bike)
}
