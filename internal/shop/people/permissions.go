package people

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"

	"earnestpony/internal/shop/record"
	"earnestpony/internal/store"
)

// Permission is a row of the shop's table of who may do what (handbook: records).
type Permission string

// The rows.
const (
	Look         Permission = "look"          // everything that is read, computed or tried without writing
	Own          Permission = "own"           // what somebody does about themselves
	Record       Permission = "record"        // readings, steps, parts, faults, baths, waste
	Note         Permission = "note"          // notes, photos, odometers, rides
	BookIn       Permission = "book-in"       // a bike comes in
	Book         Permission = "book"          // promises, customers, bikes, the day
	Void         Permission = "void"          // a wrong entry: whose, and how old, is asked where it is done
	Settings     Permission = "settings"      // of the shop, its prices and schools
	Tools        Permission = "tools"         // tools, minutes, materials
	Staff        Permission = "people"        // people, devices, this table
	Count        Permission = "count"         // what is in stock
	Tell         Permission = "tell"          // messages to customers
	Export       Permission = "export"        // everything at once, and erasing
	CustomerData Permission = "customer-data" // one customer's data, imports
	Passports    Permission = "passports"     // one bike's, in and out
	Links        Permission = "links"         // secret links of customers
	HandBack     Permission = "hand-back"     // of a bike that is ready
	Overrule     Permission = "overrule"      // another route than is recommended
	Release      Permission = "release"       // of a bike that leaves unridden with a fault its owner knows of
	Countersign  Permission = "countersign"   // what an apprentice did
)

// Row is who has a permission.
type Row struct {
	Permission Permission
	Roles      []record.Role // where the shop changed nothing; its owner has every one
	Fixed      bool          // the shop cannot change it
	Refusal    string        // said to whoever has it not
}

var (
	everybody = []record.Role{record.RoleOwner, record.RoleMechanic, record.RoleCounter, record.RoleApprentice}
	bench     = []record.Role{record.RoleOwner, record.RoleMechanic, record.RoleApprentice}
	desk      = []record.Role{record.RoleOwner, record.RoleMechanic, record.RoleCounter}
	mechanics = []record.Role{record.RoleOwner, record.RoleMechanic}
	counter   = []record.Role{record.RoleOwner, record.RoleCounter}
	owner     = []record.Role{record.RoleOwner}
)

// table are the rows, in the order in which they are read.
var table = []Row{
	{Look, everybody, true, "Everybody who works here may look."},
	{Own, everybody, true, "Everybody sees to this for themselves."},
	{Record, bench, false, "Work at the stand and its readings are a mechanic's or an apprentice's."},
	{Note, everybody, false, "Notes and photos are not yours to add here: ask the shop's owner."},
	{BookIn, everybody, false, "Bikes are booked in by somebody else here: ask the shop's owner."},
	{Book, desk, false, "Promises, customers and bikes are changed by the counter or a mechanic."},
	{Void, everybody, false, "A mechanic voids this."},
	{HandBack, bench, false, "A mechanic hands the bike back."},
	{Overrule, mechanics, false, "A mechanic decides on another way than the one that is recommended."},
	{Count, desk, false, "Stock is counted by the counter or a mechanic."},
	{Tools, mechanics, false, "A mechanic or the shop's owner sets this."},
	{Tell, desk, false, "Customers are contacted by the counter or a mechanic."},
	{Links, desk, false, "The counter or a mechanic gives links out."},
	{CustomerData, counter, false, "A customer's data and imports are for the counter and the shop's owner."},
	{Passports, mechanics, false, "A mechanic or the shop's owner takes bikes in from other shops, and gives them."},
	{Export, owner, false, "The shop's owner takes everything out, and erases."},
	{Settings, owner, false, "The shop's owner sets this."},
	{Staff, owner, true, "The shop's owner says who works here and who may do what."},
	{Release, mechanics, true, "A mechanic signs that the customer was told and the bike leaves unridden."},
	{Countersign, mechanics, true, "A mechanic signs for what an apprentice did."},
}

// operations are what each operation of the contract needs that somebody must be signed in for. One that has no row is
// nobody's: a test holds the table against the contract. It is asked in one place, before a use case begins.
var operations = map[string]Permission{
	"getSession": Look, "listBikes": Look, "getBike": Look, "getPhoto": Look, "getTagCode": Look, "listLedger": Look, "getWearTrack": Look,
	"getCosts": Look, "planReplacement": Look, "planCleaning": Look, "listBikeJobs": Look, "listJobs": Look, "getJob": Look, "getFloor": Look,
	"getDaySheet": Look, "tryFloor": Look, "offerPromise": Look, "wantedBy": Look, "getJobOptions": Look, "getJobPhoto": Look, "getJobWords": Look,
	"listWaits": Look, "listMaterials": Look, "listBaths": Look, "listWaste": Look, "sizeChain": Look, "listStock": Look, "listStockNeeds": Look,
	"listCustomers": Look, "getCustomerHistory": Look, "getCustomer": Look, "listInstruments": Look, "getInstrument": Look, "getRules": Look, "previewRules": Look,
	"learnedMinutes": Look, "previewDue": Look, "readBench": Look, "simulateReading": Look, "listDue": Look, "getBikeDue": Look,
	"listRideDrafts": Look, "listReports": Look, "listWaiting": Look, "listMessages": Look, "listReceived": Look, "listLinks": Look,
	"calcWear": Look, "calcForecast": Look, "calcCost": Look, "calcLength": Look, "calcGear": Look, "calcSingle": Look, "calcMix": Look,
	"listSettingChanges": Look, "calcLube": Look, "calcDue": Look, "calcDayPlan": Look, "calcRoute": Look, "streamEvents": Look, "getPermissions": Look,

	"setWay":       Own, // an apprentice's is a mechanic's to set
	"setOwnSecret": Own,
	"dropUnsent":   Own, // a colleague's is a mechanic's to drop

	"replaceChain": Record, "openChain": Record, "fitChain": Record, "recordMeasurement": Record, "doStep": Record, "doBlock": Record,
	"addFinding": Record, "resolveFinding": Record, "addJobPart": Record, "startWait": Record, "doWait": Record, "addBath": Record, "doBath": Record,
	"noteWaste": Record, "ranOut": Record, "readZero": Record, "checkZero": Record, "doTask": Record,

	"addNote": Note, "addJobPhoto": Note, "setPhoto": Note, "removePhoto": Note, "noteOdometer": Note, "reportEvent": Note,
	"importRides": Note, "answerRides": Note, "dropRides": Note,

	"openJob": BookIn, "changeIntake": BookIn, "planJob": BookIn,

	"addBike": Book, "changeBike": Book, "archiveBike": Book, "addCustomer": Book, "changeCustomer": Book, "archiveCustomer": Book, "mergeCustomers": Book,
	"promiseJob": Book, "cancelJob": Book, "reopenJob": Book, "keepStepFor": Book, "noteAbsence": Book, "dropAbsence": Book, "settlePayment": Book,

	"strikeOut": Void,
	"handBack":  HandBack, "askSignature": HandBack,
	"countersign": Countersign,

	"addStock": Count, "changeStock": Count, "retireStock": Count,
	"addInstrument": Tools, "changeInstrument": Tools, "retireInstrument": Tools, "addMaterial": Tools, "changeMaterial": Tools,
	"goThroughSetUp": Settings, "changeRules": Tools, // what of them is the owner's alone is asked where they are changed

	"draftRecall": Tell, "doMessage": Tell, "replyToMessage": Tell, "decideReport": Tell,
	"giveLink": Links, "withdrawLink": Links,
	"getCustomerData": CustomerData, "importTable": CustomerData,
	"takePassport": Passports, "getPassport": Passports,
	"exportTable": Export, "eraseCustomer": Export,

	"listStaff": Staff, "addPerson": Staff, "changePerson": Staff, "listDevices": Staff, "nameDevice": Staff, "signOutDevice": Staff,
	"changePermissions": Staff,
}

// Operations are what each operation of the contract needs.
func Operations() map[string]Permission { return operations }

func rowOf(p Permission) Row {
	i := slices.IndexFunc(table, func(r Row) bool { return r.Permission == p })
	if i < 0 {
		return Row{Refusal: "Nobody may do this."} // an operation without a row
	}
	return table[i]
}

// Has reports whether somebody has a permission.
func Has(p Permission, who record.Actor) bool {
	row := rowOf(p)
	if who.Person.Role == record.RoleOwner {
		return row.Permission == p
	}
	if ticks, changed := who.Ticks[string(p)]; changed && !row.Fixed {
		return slices.Contains(ticks, who.Person.Role)
	}
	return slices.Contains(row.Roles, who.Person.Role)
}

// Allow refuses who has not a permission, in words.
func Allow(p Permission, who record.Actor) error {
	if Has(p, who) {
		return nil
	}
	return &record.Problem{Kind: record.Forbidden, Code: "not-allowed", Message: rowOf(p).Refusal}
}

// May refuses who may not do an operation, in words.
func May(operation string, who record.Actor) error { return Allow(operations[operation], who) }

// Allowed are the operations that somebody may not do with what is said to them, and the permissions they have.
func Allowed(who record.Actor) (has []Permission, not map[string]string) {
	not = map[string]string{}
	for _, row := range table {
		if Has(row.Permission, who) {
			has = append(has, row.Permission)
		}
	}
	for operation, p := range operations {
		if !Has(p, who) {
			not[operation] = rowOf(p).Refusal
		}
	}
	return has, not
}

// PermissionRow is a row as the page shows it.
type PermissionRow struct {
	Permission Permission    `json:"permission"`
	Roles      []record.Role `json:"roles"`
	Usual      []record.Role `json:"usual"` // where the shop changed nothing
	Fixed      bool          `json:"fixed,omitempty"`
}

// Permissions is the shop's table of who may do what.
type Permissions struct {
	Rows    []PermissionRow `json:"rows"`
	Version int             `json:"version"` // 0 where the shop changed nothing yet
}

// PermissionTick is who has one permission from now on.
type PermissionTick struct {
	Permission Permission    `json:"permission"`
	Roles      []record.Role `json:"roles"` // the owner has it anyway
}

// ticksBody is what was sent of a change.
type ticksBody struct {
	Rows []PermissionTick `json:"rows"`
}

// permissionsBody is what the ledger keeps of a change of the table.
type permissionsBody struct {
	Before []PermissionTick `json:"before"` // of the rows that changed
	After  []PermissionTick `json:"after"`
}

func init() {
	record.Holds[permissionsBody](nil, record.KindPermissionsChanged)
}

// Permissions returns who may do what.
func (s *People) Permissions(ctx context.Context) (Permissions, error) {
	return permissionsOf(ctx, s.desk.Store.Read(ctx))
}

func permissionsOf(ctx context.Context, tx store.Tx) (Permissions, error) {
	ticks, version, err := loadTicks(ctx, tx)
	return newPermissions(ticks, version), err
}

func newPermissions(ticks record.Ticks, version int) Permissions {
	view := Permissions{Version: version}
	for _, row := range table {
		roles := row.Roles
		if changed, is := ticks[string(row.Permission)]; is && !row.Fixed {
			roles = append([]record.Role{record.RoleOwner}, changed...)
		}
		view.Rows = append(view.Rows, PermissionRow{row.Permission, roles, row.Roles, row.Fixed})
	}
	return view
}

// standIn is what mechanics may in a shop that has no owner yet: somebody must set things.
var standIn = record.Ticks{string(Settings): {record.RoleMechanic}, string(Export): {record.RoleMechanic}, string(CustomerData): {record.RoleMechanic, record.RoleCounter}}

// StandIn has mechanics stand in for the owner of a new shop until there is one.
func StandIn(ctx context.Context, tx store.Tx) error {
	text, err := json.Marshal(standIn)
	if err != nil {
		return err
	}
	return tx.SavePermissions(ctx, &store.Permissions{Ticks: text})
}

// owned has mechanics stand in no longer, where the table was not changed since.
func owned(ctx context.Context, tx store.Tx) error {
	ticks, version, err := loadTicks(ctx, tx)
	if err != nil || version != 1 || !reflect.DeepEqual(ticks, standIn) {
		return err
	}
	return tx.SavePermissions(ctx, &store.Permissions{Ticks: json.RawMessage("{}"), Version: version})
}

func loadTicks(ctx context.Context, tx store.Tx) (record.Ticks, int, error) {
	kept, err := tx.Permissions(ctx)
	if record.IsNotFound(err) {
		return nil, 0, nil
	}
	var ticks record.Ticks
	if err == nil {
		err = json.Unmarshal(kept.Ticks, &ticks)
	}
	return ticks, kept.Version, err
}

// ChangePermissions changes rows of the table over the version that the sender saw. An apprentice never has what a mechanic
// has not; what is fixed stays.
func (s *People) ChangePermissions(ctx context.Context, who record.Actor, version int, changes []PermissionTick) (Permissions, error) {
	changed, err := checkTicks(changes)
	if err != nil {
		return Permissions{}, err
	}
	type row struct {
		ticks   record.Ticks
		version int
	}
	return record.Revise(ctx, s.desk, who, record.Revision[row, Permissions]{
		Operation: "change-permissions", Version: version, Yours: ticksBody{changed},
		Load: func(ctx context.Context, tx store.Tx) (row, error) {
			ticks, version, err := loadTicks(ctx, tx)
			return row{ticks, version}, err
		},
		Seen: func(row row) int { return row.version },
		Change: func(_ context.Context, _ store.Tx, row *row) (*store.Entry, any, error) {
			before := newPermissions(row.ticks, 0)
			body := permissionsBody{}
			ticks := record.Ticks{}
			for p, roles := range row.ticks {
				ticks[p] = roles
			}
			for _, c := range changed {
				i := slices.IndexFunc(before.Rows, func(r PermissionRow) bool { return r.Permission == c.Permission })
				if was := before.Rows[i].Roles; !slices.Equal(was, append([]record.Role{record.RoleOwner}, c.Roles...)) {
					body.Before = append(body.Before, PermissionTick{c.Permission, was})
					body.After = append(body.After, PermissionTick{c.Permission, c.Roles})
					ticks[string(c.Permission)] = c.Roles
				}
			}
			if len(body.After) == 0 {
				return nil, nil, nil
			}
			row.ticks = ticks
			return &store.Entry{Kind: record.KindPermissionsChanged}, body, nil
		},
		Save: func(ctx context.Context, tx store.Tx, row *row) error {
			text, err := json.Marshal(row.ticks)
			if err != nil {
				return err
			}
			kept := store.Permissions{Ticks: text, Version: row.version}
			err = tx.SavePermissions(ctx, &kept)
			row.version = kept.Version
			return err
		},
		View: func(_ context.Context, _ store.Tx, row row) (Permissions, error) {
			return newPermissions(row.ticks, row.version), nil
		},
	})
}

// checkTicks tidies changes of the table and says what is wrong with them together.
func checkTicks(changes []PermissionTick) ([]PermissionTick, error) {
	var wrong record.Faults
	all := make([]PermissionTick, 0, len(changes))
	for i, c := range changes {
		at := fmt.Sprintf("rows[%d]", i)
		row := rowOf(c.Permission)
		switch {
		case row.Permission == "":
			wrong.Add(at+".permission", "unknown-value", "There is no such row in the table.")
			continue
		case row.Fixed:
			wrong.Add(at+".permission", "fixed", "This row is the same in every shop.")
		case slices.ContainsFunc(all, func(o PermissionTick) bool { return o.Permission == c.Permission }):
			wrong.Add(at+".permission", "twice", "This row is given twice.")
		case slices.Contains(c.Roles, record.RoleApprentice) && !slices.Contains(c.Roles, record.RoleMechanic):
			wrong.Add(at+".roles", "out-of-range", "An apprentice never may what a mechanic may not.")
		}
		roles := []record.Role{}
		for _, role := range everybody[1:] {
			if slices.Contains(c.Roles, role) {
				roles = append(roles, role)
			}
		}
		all = append(all, PermissionTick{c.Permission, roles})
	}
	slices.SortFunc(all, func(a, b PermissionTick) int { return cmp.Compare(a.Permission, b.Permission) })
	return all, wrong.Err()
}
