package demo

import (
	"earnestpony/internal/shop/record"
)

// owner is a customer of the demo shop with the bikes.
type owner struct {
	facts record.CustomerFacts
	bikes []bike
	left  bool // gave the bikes away and is archived
}

// bike is one bike of the demo and how it is ridden and kept.
type bike struct {
	facts record.BikeFacts
	lasts float64 // km to half a percent of wear, as this owner rides and cares
	tools []string
	since int    // days since it first came; 0 is from the beginning
	end   ending // how its history ends
}

// ending is what a bike's last days must show, so that the demo has every state in it.
type ending uint8

const (
	asItComes   ending = iota
	neverRead          // no measurement yet
	freshChain         // read just after a new chain
	unsureNow          // the last reading leaves the tool unable to tell
	nearLimit          // the last reading is just under the limit
	pastLimit          // the chain is to be replaced
	unsignedNow        // past it by an apprentice, for whom nobody signed yet
	wornSet            // the cassette is worn out with the chain
	struckOut          // the last reading was a slip and is struck out
	rideOn             // well within its limit: what is done to it now needs no new chain
	archivedNow        // sold, put away
)

// The tools that people reach for.
var (
	ruleAndGauge = []string{"Steel rule 300", "Dial gauge"}
	fine         = []string{"Caliper 2", "Dial gauge"}
	quick        = []string{"Drop-in pair", "Dial gauge"}
	hung         = []string{"Whole chain", "Dial gauge"}
)

func ptr[T any](v T) *T { return &v }

func mix(fair, dusty, wet, mud, salt float64) *record.Mix {
	return &record.Mix{Fair: fair, Dusty: dusty, Wet: wet, Mud: mud, Salt: salt}
}

// everySprocket is what lies between the smallest and the largest, by how many there are.
var everySprocket = map[[3]int][]int{
	{11, 42, 12}: {11, 13, 15, 17, 19, 21, 24, 27, 30, 34, 38, 42},
	{11, 42, 11}: {11, 13, 15, 17, 19, 21, 24, 28, 32, 37, 42},
	{11, 42, 10}: {11, 13, 15, 18, 21, 24, 28, 32, 37, 42},
	{10, 52, 12}: {10, 12, 14, 16, 18, 21, 24, 28, 33, 39, 45, 52},
	{11, 34, 11}: {11, 12, 13, 15, 17, 19, 21, 23, 26, 30, 34},
	{11, 34, 10}: {11, 13, 15, 17, 19, 21, 23, 26, 30, 34},
}

// geared returns the facts of a bike with a derailleur.
func geared(kind, mk, model, colour string, rings, sprockets []int, count, links int) record.BikeFacts {
	if all, known := everySprocket[[3]int{sprockets[0], sprockets[len(sprockets)-1], count}]; known {
		sprockets = all
	}
	cage := 75.0
	if sprockets[len(sprockets)-1] >= 42 {
		cage = 93
	}
	stay := map[string]float64{"road": 410, "gravel": 430, "everyday": 445, "trail": 440, "cargo": 470}[kind]
	return record.BikeFacts{Kind: kind, Make: mk, Model: model, Colour: colour, DrivetrainKind: "derailleur", RingTeeth: rings, SprocketTeeth: sprockets, ChainstayMM: &stay,
		SprocketCount: ptr(count), ChainLinks: ptr(links), CageMM: ptr(cage), Motor: "none", Brakes: "disc"}
}

func oneSprocket(kind, drivetrain, mk, model, colour string, ring, sprocket, links int) record.BikeFacts {
	return record.BikeFacts{Kind: kind, Make: mk, Model: model, Colour: colour, DrivetrainKind: drivetrain, RingTeeth: []int{ring}, SprocketTeeth: []int{sprocket},
		SprocketCount: ptr(1), ChainLinks: ptr(links), Motor: "none", Brakes: "rim"}
}

// with changes a copy of facts.
func with(f record.BikeFacts, change func(*record.BikeFacts)) record.BikeFacts {
	change(&f)
	return f
}

func rides(weekly float64, lubricant string, m *record.Mix) func(*record.BikeFacts) {
	return func(f *record.BikeFacts) { f.WeeklyKM, f.Lubricant, f.Mix = &weekly, lubricant, m }
}

func person(name, phone, way string, consent bool) record.CustomerFacts {
	return record.CustomerFacts{Name: name, Phone: phone, ContactWay: way, Consent: consent}
}

// owners is the scenario: who brings what to Tidewrack Lane.
func owners() []owner {
	ferry := rides(96, "drip-wax", mix(0.6, 0, 0.3, 0, 0.1))
	club := rides(140, "immersion-wax", mix(0.45, 0.3, 0.15, 0.1, 0))
	school := rides(38, "all-weather", mix(0.65, 0, 0.3, 0, 0.05))
	bread := rides(120, "wet-oil", mix(0.5, 0, 0.4, 0, 0.1))
	crew := rides(45, "wet-oil", mix(0.2, 0.2, 0.3, 0.3, 0))
	cargo := func(colour string) record.BikeFacts {
		f := with(geared("cargo", "Groynemark", "Haul", colour, []int{38}, []int{11, 13, 15, 18, 21, 24, 28, 32, 36}, 9, 126), bread)
		f.Notes = "Heavy: two people or the lift."
		return f
	}
	kids := func(colour string) record.BikeFacts {
		return with(oneSprocket("child-carrying", "hub-gear", "Withybed", "Carrier", colour, 38, 19, 118), school)
	}
	trail := func(colour string) record.BikeFacts {
		return with(geared("trail", "Skerrow", "Bight", colour, []int{32}, []int{10, 52}, 12, 118), func(f *record.BikeFacts) {
			crew(f)
			f.ChainstayMM, f.ChainstayGrowthMM, f.Clutch = ptr(440.0), ptr(8.0), ptr(true)
		})
	}
	gravel := func(model, colour string) record.BikeFacts {
		return with(geared("gravel", "Oxbarrow", model, colour, []int{40}, []int{11, 42}, 11, 114), club)
	}
	commuter := func(model, colour string, count int) record.BikeFacts {
		return with(geared("everyday", "Wharfinger", model, colour, []int{34, 50}, []int{11, 34}, count, 112), ferry)
	}
	bakery := person("Saltern Mouth Bakehouse (Wilmot Quill)", "0555 014 201", "message", true)
	bakery.Notes = "Four cargo bikes, out from five in the morning. Collect before noon."
	fleet := person("Harbour School, bike run (Ysolde Trant)", "0555 014 388", "mail", true)
	fleet.Email = "bikes@harbour-school.example"
	return []owner{
		{facts: bakery, bikes: []bike{
			{facts: cargo("flour white"), lasts: 3000, tools: quick, end: pastLimit},
			{facts: cargo("rye brown"), lasts: 2600, tools: ruleAndGauge},
			{facts: cargo("crust red"), lasts: 2900, tools: quick, end: wornSet},
			{facts: cargo("seed black"), lasts: 3300, tools: hung, end: freshChain},
		}},
		{facts: fleet, bikes: []bike{
			{facts: kids("kingfisher"), lasts: 2600, tools: ruleAndGauge},
			{facts: kids("kingfisher"), lasts: 2400, tools: quick},
			{facts: kids("gorse yellow"), lasts: 2800, tools: ruleAndGauge, end: nearLimit},
			{facts: kids("gorse yellow"), lasts: 2200, tools: hung},
			{facts: kids("thrift pink"), lasts: 2700, tools: quick, end: struckOut},
			{facts: kids("thrift pink"), lasts: 2500, tools: quick, since: 20, end: neverRead},
		}},
		{facts: person("Gannet Stack lighthouse, relief crew", "0555 014 730", "message", true), bikes: []bike{
			{facts: trail("storm grey"), lasts: 2600, tools: fine},
			{facts: trail("storm grey"), lasts: 1400, tools: fine, end: unsureNow},
			{facts: trail("signal red"), lasts: 1700, tools: ruleAndGauge},
			{facts: trail("signal red"), lasts: 1300, tools: quick, end: wornSet},
			{facts: trail("lamp yellow"), lasts: 3000, tools: fine},
		}},
		{facts: person("Ottoline Brack, shellfish courier", "0555 014 612", "message", true), bikes: []bike{
			{facts: with(geared("cargo", "Brinewell", "Coble", "oyster", []int{42}, []int{11, 42}, 10, 122), func(f *record.BikeFacts) {
				rides(210, "wet-oil", mix(0.45, 0, 0.45, 0.05, 0.05))(f)
				f.Motor, f.Notes = "mid", "Salt water in the box every day. Contacts dry before power."
			}), lasts: 1900, tools: fine, end: pastLimit},
		}},
		{facts: person("Imelda Harrowgate, night nurse", "0555 014 455", "none", false), bikes: []bike{
			{facts: with(oneSprocket("hub-gear", "hub-gear", "Quernstone", "Nightway", "midnight", 39, 18, 112), rides(70, "all-weather", mix(0.6, 0, 0.35, 0, 0.05))), lasts: 4200, tools: ruleAndGauge, end: rideOn},
		}},
		{facts: person("Jago Tidwell, messenger", "0555 014 909", "message", true), bikes: []bike{
			{facts: with(oneSprocket("fixed-gear", "single-speed", "Pellowe", "Thole", "raw steel", 46, 17, 98), func(f *record.BikeFacts) {
				rides(230, "dry-oil", mix(0.7, 0, 0.3, 0, 0))(f)
				f.WearSchool, f.LimitReason = "half", "no brake but the chain at the back: change early"
			}), lasts: 3600, tools: fine},
		}},
		{facts: person("Aldous Fenwick-Reyes", "0555 014 118", "message", true), bikes: []bike{
			{facts: with(geared("everyday", "Wharfinger", "Loper", "slate green", []int{40}, []int{11, 42}, 12, 114), ferry), lasts: 4200, tools: fine, end: unsureNow},
		}},
		{facts: person("Bryony Tallisker", "0555 014 119", "message", true), bikes: []bike{{facts: commuter("Loper", "chalk", 11), lasts: 4600, tools: ruleAndGauge, end: rideOn}}},
		{facts: person("Casimir Ogle", "0555 014 120", "", false), bikes: []bike{{facts: commuter("Loper", "tar black", 10), lasts: 2400, tools: quick, end: nearLimit}}},
		{facts: person("Délphine Arosteguy", "0555 014 121", "message", true), bikes: []bike{
			{facts: commuter("Lugger", "sea glass", 11), lasts: 5200, tools: fine, end: rideOn},
			{facts: commuter("Lugger", "sea glass, small frame", 11), lasts: 5600, tools: fine, since: 200, end: rideOn},
		}},
		{facts: person("Ewart Pimblett", "0555 014 122", "none", false), bikes: []bike{{facts: commuter("Lugger", "rope", 8), lasts: 1500, tools: ruleAndGauge, end: wornSet}}},
		{facts: person("Fenella Strakesby", "0555 014 123", "message", true), bikes: []bike{
			{facts: with(commuter("Hawser", "plum", 11), func(f *record.BikeFacts) {
				f.LimitPct, f.TogetherPct, f.LimitSource, f.LimitReason = ptr(0.8), ptr(1.1), "maker", "printed on the chain's card"
			}), lasts: 4800, tools: fine},
		}},
		{facts: person("Gideon Larkwhistle", "0555 014 124", "message", true), bikes: []bike{{facts: commuter("Hawser", "pewter", 9), lasts: 3900, tools: hung}}},
		{facts: person("Hesper Vanstone", "0555 014 125", "message", true), bikes: []bike{
			{facts: commuter("Loper", "brick", 11), lasts: 4400, tools: quick, end: struckOut},
			{facts: with(oneSprocket("everyday", "single-speed", "Pellowe", "Gunnel", "pale blue", 44, 18, 104), rides(25, "all-weather", nil)), lasts: 3800, tools: ruleAndGauge, since: 300},
		}},
		{facts: person("Ignatius Bellwether-Okonjo", "0555 014 126", "message", false), bikes: []bike{{facts: commuter("Loper", "bottle green", 11), lasts: 4000, tools: ruleAndGauge, since: 2, end: neverRead}}},
		{facts: person("Juniper Askwith (Low Tide gravel club)", "0555 014 540", "message", true), bikes: []bike{{facts: gravel("Shingle", "sand"), lasts: 7200, tools: fine, end: rideOn}}},
		{facts: person("Kester Nightingale-Obi (Low Tide gravel club)", "0555 014 541", "message", true), bikes: []bike{{facts: gravel("Shingle", "moss"), lasts: 8200, tools: fine, end: rideOn}}},
		{facts: person("Lavinia Stoat (Low Tide gravel club)", "0555 014 542", "message", true), bikes: []bike{{facts: gravel("Marram", "copper"), lasts: 6400, tools: hung, end: freshChain}}},
		{facts: person("Merrick Pasco-Lund (Low Tide gravel club)", "0555 014 543", "message", true), bikes: []bike{{facts: gravel("Marram", "ice"), lasts: 5800, tools: quick, end: rideOn}}},
		{facts: person("Nerys Copperthwaite (Low Tide gravel club)", "0555 014 544", "message", true), bikes: []bike{{facts: gravel("Shingle", "heather"), lasts: 9000, tools: fine}}},
		{facts: person("Osric Thimblethorpe (Low Tide gravel club)", "0555 014 545", "", false), bikes: []bike{{facts: gravel("Marram", "rust"), lasts: 3000, tools: ruleAndGauge, end: unsignedNow}}},
		{facts: person("Perpetua Winnow (Low Tide gravel club)", "0555 014 546", "message", true), bikes: []bike{{facts: with(gravel("Shingle", "bone"), func(f *record.BikeFacts) {
			f.LimitPct, f.TogetherPct, f.LimitSource, f.LimitReason = ptr(0.4), ptr(0.7), "bike", "expensive cassette, customer wants it to last"
		}), lasts: 7600, tools: fine, end: nearLimit}}},
		{facts: person("Quillon Dace", "0555 014 127", "", false), bikes: []bike{{facts: record.BikeFacts{Make: "unknown", Colour: "brown", Notes: "Found at the slipway, customer asks whether it is worth saving."}, lasts: 1200, tools: ruleAndGauge, since: 6, end: neverRead}}},
		{facts: person("Rosamund Pike-Hollow", "0555 014 128", "message", true), bikes: []bike{{facts: commuter("Lugger", "primrose", 10), lasts: 3500, tools: fine}}},
		{facts: person("Sefton Umberleigh", "0555 014 129", "none", false), bikes: []bike{{facts: commuter("Hawser", "navy", 9), lasts: 2800, tools: quick, end: archivedNow}}, left: true},
		{facts: person("Tamsin Overcliffe", "0555 014 130", "message", true), bikes: []bike{
			{facts: with(geared("road", "Pellowe", "Ketch", "ivory", []int{34, 50}, []int{11, 30}, 11, 110), rides(180, "immersion-wax", mix(0.85, 0, 0.15, 0, 0))), lasts: 11000, tools: fine},
		}},
		{facts: person("Ulric Featherstonehaugh-Mbeki of Upper Saltings", "0555 014 131", "message", true), bikes: []bike{
			{facts: with(geared("road", "Pellowe", "Ketch", "claret and cream, a headland painted on the head tube", []int{34, 50}, []int{11, 32}, 12, 112), rides(90, "drip-wax", mix(0.8, 0, 0.2, 0, 0))), lasts: 6000, tools: fine},
		}},
	}
}
