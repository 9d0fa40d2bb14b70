package stock

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"github.com/google/uuid"

	"earnestpony/core/clean"
	"earnestpony/core/fluids"
	"earnestpony/core/lube"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// MaterialFacts is what is written down about a material.
type MaterialFacts = store.MaterialFacts

// ProductCard is what a product's label says.
type ProductCard = store.ProductCard

// Material is one product that steps use up.
type Material struct {
	ID      uuid.UUID     `json:"id"`
	Kind    string        `json:"kind"`
	Unit    string        `json:"unit"`
	Facts   MaterialFacts `json:"facts"`
	Low     bool          `json:"low"` // at or below its mark
	Version int           `json:"version"`
}

func newMaterial(m store.Material) Material {
	return Material{m.ID, m.Kind, clean.Material(m.Kind).Unit(), m.MaterialFacts, m.Quantity <= m.LowMark, m.Version}
}

// Materials returns what is kept, by kind and name.
func (s *Stock) Materials(ctx context.Context) ([]Material, error) {
	rows, err := s.desk.Store.Read(ctx).Materials(ctx)
	all := []Material{}
	for _, m := range rows {
		all = append(all, newMaterial(m))
	}
	return all, err
}

func checkMaterial(kind string, f *MaterialFacts) error {
	f.Name = record.CleanLine(f.Name)
	var wrong record.Faults
	fault := wrong.Under("facts")
	if f.Name == "" {
		fault("name", "missing", "The name is missing.")
	}
	if err := fluids.CheckSolvent(f.Name); err != nil && (kind == string(clean.Degreaser) || kind == string(clean.Solvent) || kind == string(clean.Alcohol)) {
		fault("name", "never-used", "%v.", err)
	}
	if f.Place = record.CleanLine(f.Place); len([]rune(f.Place)) > 80 {
		fault("place", "out-of-range", "Where it stands is said in 80 characters at most.")
	}
	if family, err := lube.ParseFamily(f.Family); f.Family != "" && (err != nil || kind != string(clean.ChainOil) || family.Coat() != clean.Oil) {
		fault("family", "unknown-value", "An oil is wet, dry or all-weather.")
	}
	const most = 1e6
	if !(f.Quantity >= 0 && f.Quantity <= most) {
		fault("quantity", "out-of-range", "There is some of it, or nothing.")
	}
	if !(f.LowMark >= 0 && f.LowMark <= most) {
		fault("low_mark", "out-of-range", "The low mark is an amount.")
	}
	if (f.PackSize == nil) != (f.PackCost == nil) {
		fault("pack_cost", "missing", "A price needs both: what a pack holds and what it costs.")
	}
	if f.PackSize != nil && !(*f.PackSize > 0 && *f.PackSize <= most) {
		fault("pack_size", "out-of-range", "A pack holds something.")
	}
	if f.PackCost != nil && (*f.PackCost < 0 || *f.PackCost > record.MaxPrice) {
		fault("pack_cost", "out-of-range", "This cannot be a price.")
	}
	c := f.Card
	if (c.TempLeast == nil) != (c.TempMost == nil) || c.TempLeast != nil && !(*c.TempLeast > 20 && *c.TempLeast < *c.TempMost && *c.TempMost <= 160) {
		fault("card.temp_most_c", "out-of-range", "A pot is held in a band, such as 93 to 149 °C; 160 °C is beyond any wax.")
	}
	if (c.DwellLeast == nil) != (c.DwellMost == nil) || c.DwellLeast != nil && (*c.DwellLeast < 0 || *c.DwellMost < 1 || *c.DwellLeast > *c.DwellMost || *c.DwellMost > 1440) {
		fault("card.dwell_most_min", "out-of-range", "A product stays on from so many minutes to so many.")
	}
	if (c.ProductParts == nil) != (c.WaterParts == nil) || c.ProductParts != nil && !(*c.ProductParts > 0 && *c.ProductParts <= 1000 && *c.WaterParts >= 0 && *c.WaterParts <= 1000) {
		fault("card.water_parts", "out-of-range", "A mixture is so many parts of product to so many of water.")
	}
	if err := wrong.Err(); err != nil {
		return err
	}
	return nil
}

// NewMaterialFacts is a material to be kept.
type NewMaterialFacts struct {
	Kind  string        `json:"kind"`
	Facts MaterialFacts `json:"facts"`
}

type materialBody struct {
	Material string        `json:"material"`
	Action   string        `json:"deed"`
	Facts    MaterialFacts `json:"facts"`
}

// AddMaterial starts to keep a material. What may never be used as a solvent is refused.
func (s *Stock) AddMaterial(ctx context.Context, who record.Actor, n NewMaterialFacts) (Material, error) {
	if !slices.Contains(clean.Materials(), clean.Material(n.Kind)) {
		return Material{}, record.InvalidInput(record.Field{Path: "kind", Code: "unknown-value", Message: "There is no such kind of material."})
	}
	if err := checkMaterial(n.Kind, &n.Facts); err != nil {
		return Material{}, err
	}
	if err := pricedBy(who, "facts.pack_cost", nil, n.Facts.PackCost); err != nil {
		return Material{}, err
	}
	m, err := record.Idempotent(ctx, s.desk, who, "add-material", n, func(ctx context.Context, tx store.Tx) (Material, error) {
		row := store.Material{ID: uuid.New(), Kind: n.Kind, MaterialFacts: n.Facts, CreatedAt: s.desk.Now()}
		if err := tx.AddMaterial(ctx, &row); err != nil {
			return Material{}, err
		}
		return newMaterial(row), s.desk.Append(ctx, tx, who, &store.Entry{Kind: record.KindMaterial}, materialBody{row.ID.String(), "added", n.Facts}, "")
	})
	return m, storesNameTaken(err, n.Facts.Name)
}

func storesNameTaken(err error, name string) error {
	if errors.Is(err, store.ErrTaken) {
		return &record.Problem{Kind: record.Conflict, Code: "name-taken", Message: fmt.Sprintf("There is already something called %s here.", name),
			Fields: []record.Field{{Path: "facts.name", Code: "taken", Message: "This name is in use."}}}
	}
	return err
}

// ChangeMaterial writes down what is known of a material over the version that the sender saw; retired, it is no longer kept.
func (s *Stock) ChangeMaterial(ctx context.Context, who record.Actor, id uuid.UUID, version int, f MaterialFacts, retired bool) (Material, error) {
	after, err := record.Revise(ctx, s.desk, who, record.Revision[store.Material, Material]{
		Operation: "change-material " + id.String(), Version: version, Yours: f, Request: []any{f, retired},
		Load: func(ctx context.Context, tx store.Tx) (store.Material, error) {
			row, err := tx.Material(ctx, id)
			if record.IsNotFound(err) {
				return row, record.NotFound("material", "material-not-found")
			}
			if err != nil {
				return row, err
			}
			return row, checkMaterial(row.Kind, &f)
		},
		Seen: func(row store.Material) int { return row.Version },
		Change: func(_ context.Context, _ store.Tx, row *store.Material) (*store.Entry, any, error) {
			if err := pricedBy(who, "facts.pack_cost", row.PackCost, f.PackCost); err != nil {
				return nil, nil, err
			}
			row.MaterialFacts = f
			became := "changed"
			if retired {
				now := s.desk.Now()
				row.RetiredAt, became = &now, "retired"
			}
			return &store.Entry{Kind: record.KindMaterial}, materialBody{id.String(), became, f}, nil
		},
		Save: func(ctx context.Context, tx store.Tx, row *store.Material) error { return tx.SaveMaterial(ctx, row) },
		View: func(_ context.Context, _ store.Tx, row store.Material) (Material, error) {
			return newMaterial(row), nil
		},
	})
	return after, storesNameTaken(err, f.Name)
}

// RanOut notes that a bottle is empty, whatever was counted of it: whoever holds it knows.
func (s *Stock) RanOut(ctx context.Context, who record.Actor, id uuid.UUID) (Material, error) {
	m, err := record.Idempotent(ctx, s.desk, who, "ran-out "+id.String(), nil, func(ctx context.Context, tx store.Tx) (Material, error) {
		row, err := tx.Material(ctx, id)
		if record.IsNotFound(err) || err == nil && row.RetiredAt != nil {
			return Material{}, record.NotFound("material", "material-not-found")
		}
		if err != nil || row.Quantity == 0 {
			return newMaterial(row), err
		}
		row.Quantity = 0
		if err := tx.SaveMaterial(ctx, &row); err != nil {
			return Material{}, err
		}
		return newMaterial(row), s.desk.Append(ctx, tx, who, &store.Entry{Kind: record.KindMaterial}, materialBody{id.String(), "ran-out", row.MaterialFacts}, "")
	})
	return m, record.SendAgain(err)
}

func init() { record.Holds[materialBody](nil, record.KindMaterial) }
