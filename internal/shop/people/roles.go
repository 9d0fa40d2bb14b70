package people

import (
	"slices"

	"earnestpony/internal/shop/record"
)

// Rule says who may do something, and what is said to whoever may not.
type Rule struct {
	Roles   []record.Role
	Refusal string
}

var (
	anybody = Rule{Roles: []record.Role{record.RoleOwner, record.RoleMechanic, record.RoleCounter, record.RoleApprentice}}
	setting = Rule{[]record.Role{record.RoleOwner, record.RoleMechanic}, "A mechanic or the shop's owner sets this."}
	stand   = Rule{[]record.Role{record.RoleOwner, record.RoleMechanic, record.RoleApprentice}, "Work at the stand is a mechanic's or an apprentice's."}
	links   = Rule{[]record.Role{record.RoleOwner, record.RoleMechanic, record.RoleCounter}, "The counter or a mechanic gives links out."}
	telling = Rule{[]record.Role{record.RoleOwner, record.RoleMechanic, record.RoleCounter}, "Customers are contacted by the counter or a mechanic."}
	release = Rule{[]record.Role{record.RoleOwner, record.RoleMechanic}, "A mechanic signs that the customer was told and the bike leaves unridden."}
)

// Release names, beside the operations of the contract, that a bike leaves unridden with a fault its owner knows of.
const Release = "release"

// operations are who may do what, by the operations of the contract that need somebody signed in. One that has no row is
// nobody's: a test holds the table against the contract. It is asked in one place, before a use case begins.
var operations = map[string]Rule{
	"getSession":         anybody,
	"setWay":             anybody, // an apprentice's is a mechanic's to set
	"listBikes":          anybody,
	"addBike":            anybody,
	"getBike":            anybody,
	"changeBike":         anybody,
	"archiveBike":        anybody,
	"getPhoto":           anybody,
	"setPhoto":           anybody,
	"removePhoto":        anybody,
	"getTagCode":         anybody,
	"listLedger":         anybody,
	"getWearTrack":       anybody,
	"getCosts":           anybody,
	"planReplacement":    anybody,
	"replaceChain":       anybody,
	"openChain":          anybody,
	"planCleaning":       anybody,
	"listBikeJobs":       anybody,
	"openJob":            anybody,
	"listJobs":           anybody,
	"getJob":             anybody,
	"promiseJob":         anybody,
	"keepStepFor":        anybody,
	"getFloor":           anybody,
	"getDaySheet":        anybody,
	"noteAbsence":        anybody,
	"dropAbsence":        anybody,
	"tryFloor":           anybody,
	"offerPromise":       anybody,
	"wantedBy":           anybody,
	"changeIntake":       anybody,
	"getJobOptions":      anybody,
	"planJob":            anybody,
	"doStep":             stand,
	"doBlock":            stand,
	"addFinding":         anybody,
	"resolveFinding":     anybody,
	"addNote":            anybody,
	"addJobPart":         anybody,
	"addJobPhoto":        anybody,
	"getJobPhoto":        anybody,
	"handBack":           {stand.Roles, "A mechanic hands the bike back."},
	"cancelJob":          anybody,
	"reopenJob":          anybody,
	"getJobWords":        anybody,
	"listWaits":          anybody,
	"startWait":          anybody,
	"doWait":             anybody,
	"listMaterials":      anybody,
	"addMaterial":        anybody,
	"changeMaterial":     anybody,
	"listBaths":          anybody,
	"addBath":            anybody,
	"doBath":             anybody,
	"listWaste":          anybody,
	"noteWaste":          anybody,
	"sizeChain":          anybody,
	"listStock":          anybody,
	"addStock":           anybody,
	"listStockNeeds":     anybody,
	"changeStock":        anybody,
	"retireStock":        anybody,
	"noteOdometer":       anybody,
	"fitChain":           anybody,
	"recordMeasurement":  anybody,
	"strikeOut":          anybody,
	"listCustomers":      anybody,
	"addCustomer":        anybody,
	"getCustomer":        anybody,
	"changeCustomer":     anybody,
	"archiveCustomer":    anybody,
	"listInstruments":    anybody,
	"addInstrument":      setting,
	"getInstrument":      anybody,
	"changeInstrument":   setting,
	"retireInstrument":   setting,
	"readZero":           anybody,
	"checkZero":          anybody,
	"getRules":           anybody,
	"changeRules":        setting,
	"previewRules":       anybody,
	"learnedMinutes":     anybody,
	"previewDue":         anybody,
	"simulateReading":    anybody,
	"readBench":          anybody,
	"listDue":            anybody,
	"getBikeDue":         anybody,
	"doTask":             anybody,
	"reportEvent":        anybody,
	"importRides":        anybody,
	"listRideDrafts":     anybody,
	"answerRides":        anybody,
	"dropRides":          anybody,
	"getPassport":        anybody,
	"takePassport":       anybody,
	"getCustomerData":    anybody,
	"eraseCustomer":      {links.Roles, "The counter or a mechanic erases an owner."},
	"exportTable":        anybody,
	"importTable":        anybody,
	"listReports":        anybody,
	"listWaitingReports": anybody,
	"decideReport":       anybody,
	"draftRecall":        telling,
	"listMessages":       anybody,
	"doMessage":          telling,
	"listReceived":       anybody,
	"replyToMessage":     telling,
	"listLinks":          anybody,
	"giveLink":           links,
	"withdrawLink":       links,
	"calcWear":           anybody,
	"calcForecast":       anybody,
	"calcCost":           anybody,
	"calcLength":         anybody,
	"calcGear":           anybody,
	"calcSingle":         anybody,
	"calcMix":            anybody,
	"calcLube":           anybody,
	"calcDue":            anybody,
	"calcDayPlan":        anybody,
	"calcRoute":          anybody,
	"streamEvents":       anybody,

	Release: release,
}

// May refuses who may not do an operation, in words.
func May(operation string, role record.Role) error {
	rule := operations[operation]
	if slices.Contains(rule.Roles, role) {
		return nil
	}
	return &record.Problem{Kind: record.Forbidden, Code: "not-allowed", Message: rule.Refusal}
}

// Operations are who may do what, by operation of the contract.
func Operations() map[string]Rule { return operations }
