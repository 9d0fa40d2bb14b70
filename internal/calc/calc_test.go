package calc_test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/calc"
)

// near is how far an answer may be from a worked example's: a little over half a unit in the last
// decimal printed. (A forecast may differ by half a percent or two hard km, since a grid of another
// make would be as right; ours is the one the examples were made with.)
const near = 0.6e-6

// printed is the same for the answers that are printed to fewer decimals.
var printed = map[string]float64{"forecast": 0.6e-4, "length": 0.6e-4, "gear": 0.6e-3}

// The worked examples in testdata carry their answers; every field of each answer must agree.
func TestWorkedExamples(t *testing.T) {
	for _, name := range calc.Names() {
		raw, err := os.ReadFile("testdata/" + name + ".json")
		require.NoError(t, err)
		var cases []struct{ In, Out json.RawMessage }
		require.NoError(t, json.Unmarshal(raw, &cases))
		require.NotEmpty(t, cases)
		for i, c := range cases {
			got, err := calc.Run(t.Context(), name, c.In)
			var have, want map[string]any
			require.NoError(t, json.Unmarshal(c.Out, &want))
			if code, refused := want["error"]; refused {
				var refusal *calc.Refusal
				require.ErrorAs(t, err, &refusal, "%s %d: %s", name, i, c.In)
				require.Len(t, refusal.Fields, 1)
				assert.Equal(t, code, refusal.Fields[0].Code)
				continue
			}
			require.NoError(t, err, "%s %d: %s", name, i, c.In)
			text, err := json.Marshal(got)
			require.NoError(t, err)
			require.NoError(t, json.Unmarshal(text, &have))
			for field, value := range want {
				agrees(t, name, value, have[field], "%s %d: %s of %s", name, i, field, c.In)
			}
			if name != "wear" {
				continue
			}
			for _, field := range []string{"elongation_pct", "interval"} {
				assert.Equal(t, want[field] == nil, have[field] == nil, "%s %d: %s must be there just when it belongs", name, i, field)
			}
		}
	}
}

func agrees(t *testing.T, name string, want, have any, msg string, args ...any) {
	t.Helper()
	switch w := want.(type) {
	case float64:
		digits := near
		if fewer, ok := printed[name]; ok {
			digits = fewer
		}
		assert.InDelta(t, w, have, digits, append([]any{msg}, args...)...)
	case map[string]any:
		h, ok := have.(map[string]any)
		require.True(t, ok, append([]any{msg}, args...)...)
		for k := range w {
			agrees(t, name, w[k], h[k], msg, args...)
		}
	case []any:
		h, ok := have.([]any)
		require.True(t, ok && len(h) == len(w), append([]any{msg}, args...)...)
		for i := range w {
			agrees(t, name, w[i], h[i], msg, args...)
		}
	default:
		assert.Equal(t, want, have, append([]any{msg}, args...)...)
	}
}

const good = `{"drivetrain":{"kind":"derailleur","sprockets":12,"motor":"none","carry":false},"school":"protect",
	"instrument":{"kind":"ruler"},"readings":[{"place":1,"length_mm":306.4}]}`

func TestWearRefusals(t *testing.T) {
	for _, c := range []struct {
		name, in string
		want     []calc.Field // path and code only
	}{
		{"not JSON", `{`, []calc.Field{{Path: "", Code: "not-json"}}},
		{"not an object", `[]`, []calc.Field{{Path: "", Code: "not-json"}}},
		{"nothing given", `{}`, []calc.Field{{Path: "drivetrain", Code: "missing"}, {Path: "school", Code: "missing"},
			{Path: "instrument", Code: "missing"}, {Path: "readings", Code: "missing"}}},
		{"every fault at once", `{"drivetrain":{"kind":"shaft","sprockets":12.5,"motor":1,"carry":false},"school":"half","colour":"red",
			"instrument":{"kind":"ruler","zero_offset_pct":7},"readings":[{"place":9,"length_mm":"306","links":24,"percent":1}]}`,
			[]calc.Field{{Path: "drivetrain.kind", Code: "unknown-value"}, {Path: "drivetrain.sprockets", Code: "not-whole"},
				{Path: "drivetrain.motor", Code: "wrong-kind"}, {Path: "instrument.zero_offset_pct", Code: "out-of-range"},
				{Path: "readings[0].place", Code: "out-of-range"}, {Path: "readings[0].length_mm", Code: "wrong-kind"},
				{Path: "readings[0].percent", Code: "unknown-field"}, {Path: "colour", Code: "unknown-field"}}},
		{"impossible readings", `{"drivetrain":{"kind":"derailleur","sprockets":12,"motor":"none","carry":false},"school":"protect",
			"instrument":{"kind":"ruler"},"readings":[{"place":1,"length_mm":12.06},{"place":1,"length_mm":306.4}]}`,
			[]calc.Field{{Path: "readings[0].length_mm", Code: "inches-for-mm"}, {Path: "readings[1].place", Code: "place-twice"}}},
		{"marks out of order", `{"drivetrain":{"kind":"derailleur","sprockets":12,"motor":"none","carry":false},"school":"protect",
			"instrument":{"kind":"gauge-dropin"},"readings":[{"place":1,"marks":[{"mark_pct":0.5,"drops_in":false},{"mark_pct":0.75,"drops_in":true}]}]}`,
			[]calc.Field{{Path: "readings[0].marks", Code: "measure-again"}}},
		{"run out under a motor", `{"drivetrain":{"kind":"derailleur","sprockets":10,"motor":"mid","carry":false},"school":"run-out",
			"instrument":{"kind":"gauge-percent"},"readings":[{"place":1,"percent":0.4}]}`,
			[]calc.Field{{Path: "school", Code: "school-refused"}}},
		{"limits the wrong way round", `{"drivetrain":{"kind":"hub-gear","sprockets":1,"motor":"none","carry":false},"school":"half",
			"limits":{"limit_pct":0.8,"together_pct":0.5,"source":"school"},"instrument":{"kind":"gauge-percent"},"readings":[{"place":1,"percent":0.4}]}`,
			[]calc.Field{{Path: "limits.source", Code: "unknown-value"}, {Path: "limits.together_pct", Code: "out-of-range"}}},
		{"a whole chain of unknown count", `{"drivetrain":{"kind":"hub-gear","sprockets":1,"motor":"none","carry":false},"school":"half",
			"instrument":{"kind":"whole-chain"},"readings":[{"place":1,"length_mm":1400}]}`,
			[]calc.Field{{Path: "readings[0].links", Code: "missing"}}},
	} {
		_, err := calc.Run(t.Context(), "wear", []byte(c.in))
		var refusal *calc.Refusal
		require.ErrorAs(t, err, &refusal, c.name)
		var got []calc.Field
		for _, f := range refusal.Fields {
			assert.NotEmpty(t, f.Message, "%s: %s", c.name, f.Path)
			got = append(got, calc.Field{Path: f.Path, Code: f.Code})
		}
		assert.Equal(t, c.want, got, c.name)
	}
	_, err := calc.Run(t.Context(), "wear", []byte(good))
	require.NoError(t, err, "the input that the others were broken from")
	_, err = calc.Run(t.Context(), "horoscope", []byte(good))
	require.ErrorContains(t, err, "there is no computation")
}

func refusals(t *testing.T, name, input string) []string {
	t.Helper()
	_, err := calc.Run(t.Context(), name, []byte(input))
	var refusal *calc.Refusal
	require.ErrorAs(t, err, &refusal, input)
	var said []string
	for _, f := range refusal.Fields {
		said = append(said, f.Path+" "+f.Code)
	}
	return said
}

func TestForecastRefusals(t *testing.T) {
	assert.Equal(t, []string{"care missing", "limit_pct missing", "now_hard_km missing", "observations missing"}, refusals(t, "forecast", `{}`))
	assert.Equal(t, []string{"observations[1].hard_km beyond-now"}, refusals(t, "forecast",
		`{"care":"oil","limit_pct":0.5,"now_hard_km":900,"observations":[{"hard_km":900,"elongation_pct":0.1,"sigma_pct":0.05},{"hard_km":901,"elongation_pct":0.1,"sigma_pct":0.05}]}`))
	assert.Equal(t, []string{"care unknown-value", "limit_pct out-of-range", "observations[0].sigma_pct missing", "observations[1].edge_pct missing",
		"observations[1].high_pct out-of-range", "observations[2].elongation_pct unknown-field", "prior.sigma out-of-range", "mood unknown-field"}, refusals(t, "forecast",
		`{"care":"prayer","limit_pct":9,"now_hard_km":900,"mood":1,"prior":{"ln_k_median":8,"sigma":0},"observations":[{"hard_km":1,"elongation_pct":0.1},
		{"hard_km":1,"low_pct":0.5,"high_pct":0.25},{"hard_km":1,"low_pct":0,"high_pct":null,"edge_pct":0.04,"elongation_pct":0.2}]}`))

	// Without a rate above zero there are no days; without readings it is a guess.
	for _, rate := range []string{"", `,"hard_km_per_day":0`, `,"hard_km_per_day":-3`} {
		a, err := calc.Forecast([]byte(`{"care":"oil","limit_pct":0.5,"now_hard_km":0,"observations":[]` + rate + `}`))
		require.NoError(t, err)
		assert.Nil(t, a.LeftDays, rate)
		assert.False(t, a.Measured)
		assert.Len(t, a.Band, 49)
	}
}

func TestCostRefusals(t *testing.T) {
	assert.Equal(t, []string{"chain not-whole", "sprockets out-of-range", "labour_chain missing", "currency unknown-value", "strategies[0].life_hard_km out-of-order",
		"strategies[1].life_hard_km missing"}, refusals(t, "cost", `{"chain":35.5,"sprockets":-1,"rings":1,"labour_sprockets":1,"labour_rings":1,"currency":"euro",
		"strategies":[{"limit_pct":0.5,"life_hard_km":{"p10":900,"p50":800,"p90":1000}},{"limit_pct":0.75}]}`))
}

// A maker's limit wins over the school and is shown as such; the schools are still heard.
func TestMakersLimit(t *testing.T) {
	a, err := calc.Wear([]byte(`{"drivetrain":{"kind":"derailleur","sprockets":12,"motor":"none","carry":true},"school":"protect",
		"limits":{"limit_pct":0.8,"together_pct":1.1,"source":"maker"},"instrument":{"kind":"gauge-percent","spreads":true,"zero_checked_on":"2026-05-01"},
		"readings":[{"place":1,"percent":0.6}],"findings":["smells-of-fish"]}`))
	require.NoError(t, err)
	assert.Equal(t, "ok", a.Verdict)
	assert.InDelta(t, 0.8, a.LimitPct, 0)
	assert.Equal(t, "maker", a.Reasons[0].Source)
	assert.Equal(t, []calc.SchoolOpinion{{School: "half", Verdict: "replace"}, {School: "three-quarter", Verdict: "watch"}}, a.OtherSchools)
}

func TestSizingRefusals(t *testing.T) {
	assert.Equal(t, []string{"kind missing", "rings missing", "sprockets missing", "chainstay_mm missing", "growth_mm missing", "joint missing"}, refusals(t, "length", `{}`))
	const bike = `"rings":[50,34],"sprockets":[11,34],"growth_mm":0,`
	assert.Equal(t, []string{"rings out-of-range", "sprockets out-of-range", "chainstay_mm out-of-range", "old_links not-whole", "joint unknown-value", "overlap_links odd-count", "glue unknown-field"},
		refusals(t, "length", `{"kind":"derailleur","rings":[3],"sprockets":[11.5],"growth_mm":0,"chainstay_mm":4,"old_links":110.5,"joint":"glue","overlap_links":3,"glue":1}`))
	assert.Equal(t, []string{"chainstay_mm wheels-overlap"}, refusals(t, "length", `{"kind":"derailleur","rings":[80],"sprockets":[80],"growth_mm":0,"chainstay_mm":310,"joint":"joining-pin"}`))
	assert.Equal(t, []string{"half_link half-link-refused"}, refusals(t, "length", `{"kind":"derailleur",`+bike+`"chainstay_mm":410,"joint":"joining-link","half_link":true}`))

	assert.Equal(t, []string{"cage_mm pulleys-overlap"}, refusals(t, "gear", `{`+bike+`"chainstay_mm":410,"cage_mm":40,"links":110}`))
	assert.Equal(t, []string{"links missing", "draw.sprocket missing"}, refusals(t, "gear", `{`+bike+`"chainstay_mm":410,"cage_mm":75,"draw":{"ring":50}}`))
	a, err := calc.Gear([]byte(`{` + bike + `"chainstay_mm":410,"cage_mm":75,"links":106,"draw":{"ring":50,"sprocket":34}}`))
	require.NoError(t, err)
	assert.Equal(t, "tight", a.Gears[1].State)
	assert.InDelta(t, 85, a.Path.CageDeg, 0, "what does not fit is drawn with the cage at its end")
	assert.Len(t, a.Path.Wheels, 4)
	assert.Len(t, a.Path.Idle, 2, "the other ring, and the other sprocket")

	assert.Equal(t, []string{"ring missing", "sprocket missing", "limit_pct missing", "mode missing"}, refusals(t, "single", `{}`))
	assert.Equal(t, []string{"mode unknown-value"}, refusals(t, "single", `{"mode":"horizontal","ring":46,"sprocket":17,"limit_pct":0.5}`))
	assert.Equal(t, []string{"chainstay_max_mm out-of-order"}, refusals(t, "single", `{"mode":"slots","ring":46,"sprocket":17,"limit_pct":0.5,"chainstay_min_mm":420,"chainstay_max_mm":400}`))
	assert.Equal(t, []string{"chainstay_mm out-of-range"}, refusals(t, "single", `{"mode":"vertical","ring":46,"sprocket":17,"limit_pct":0.5,"chainstay_mm":4}`))
}

func TestMixRefusals(t *testing.T) {
	assert.Equal(t, []string{"mode missing", "colour unknown-field"}, refusals(t, "mix", `{"volume_ml":500,"colour":1}`))
	assert.Equal(t, []string{"mode unknown-value"}, refusals(t, "mix", `{"mode":"shaken","want_ml":5}`))
	assert.Equal(t, []string{"product_parts missing", "water_parts out-of-range", "volume_ml wrong-kind", "strength_pct unknown-field"},
		refusals(t, "mix", `{"mode":"ratio","water_parts":-1,"volume_ml":"a lot","strength_pct":10}`))
	assert.Equal(t, []string{"product_parts out-of-range"}, refusals(t, "mix", `{"mode":"ratio","product_parts":0,"water_parts":0,"volume_ml":500}`))
	assert.Equal(t, []string{"have_ml missing", "want_strength_pct out-of-range"},
		refusals(t, "mix", `{"mode":"top-up","have_strength_pct":10,"want_ml":500,"want_strength_pct":101}`))
	assert.Equal(t, []string{"want_strength_pct cannot-reach"},
		refusals(t, "mix", `{"mode":"top-up","have_ml":501,"have_strength_pct":10,"want_ml":500,"want_strength_pct":10}`))
}

func TestRouteRefusals(t *testing.T) {
	assert.Equal(t, []string{"frame_grade missing", "drivetrain_grade missing", "drivetrain missing", "brakes missing", "lubricant_on missing", "lubricant_next missing"},
		refusals(t, "route", `{}`))
	assert.Equal(t, []string{"frame_grade out-of-range", "drivetrain_grade not-whole", "brakes unknown-value", "lubricant_on unknown-value", "lubricant_next unknown-value",
		"rust unknown-value", "verdict unknown-value", "can_open wrong-kind", "pressure_school unknown-value", "mood unknown-field"},
		refusals(t, "route", `{"frame_grade":5,"drivetrain_grade":1.5,"drivetrain":{"kind":"derailleur","sprockets":11,"motor":"none","carry":false},"brakes":"feet",
		"lubricant_on":"butter","lubricant_next":"factory-grease","rust":"red","verdict":"guilty","can_open":"yes","pressure_school":"high","mood":1}`))
}
