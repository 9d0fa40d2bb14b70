package record

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"

	"earnestpony/core/interval"
	"earnestpony/internal/store"
)

// The kinds of ledger entry. They stand in the database and in passports: a name never changes.
const (
	KindBikeAdded    = "bike-added"
	KindBikeChanged  = "bike-changed"
	KindBikeArchived = "bike-archived"
	KindBikeRestored = "bike-restored"

	KindMeasurement = "measurement"
	KindOdometer    = "odometer"
	KindChainFitted = "chain-fitted"
	KindChainOpened = "chain-opened"
	KindPartFitted  = "part-fitted"
	KindReplacement = "replacement"
	KindRide        = "ride"
	KindTaskDone    = "task-done"
	KindBikeEvent   = "bike-event"
	KindStrikeOut   = "strike-out"

	KindJobArrived         = "job-arrived"
	KindJobChanged         = "job-changed"
	KindJobPlanned         = "job-planned"
	KindJobStep            = "job-step"
	KindJobFinding         = "job-finding"
	KindJobFindingResolved = "job-finding-resolved"
	KindJobNote            = "job-note"
	KindJobPhoto           = "job-photo"
	KindJobPart            = "job-part"
	KindJobHandedBack      = "job-handed-back"
	KindJobCancelled       = "job-cancelled"
	KindJobReopened        = "job-reopened"
	KindJobSignatureAsked  = "job-signature-asked"
	KindJobPaid            = "job-paid"
	KindCountersigned      = "countersigned"

	KindMessage        = "message"
	KindSecretLink     = "link"
	KindCustomerReport = "owner-report"
	KindPassport       = "passport"

	KindCustomerAdded    = "customer-added"
	KindCustomerChanged  = "customer-changed"
	KindCustomerArchived = "customer-archived"
	KindCustomerRestored = "customer-restored"
	KindCustomerMerged   = "customer-merged"

	KindInstrumentAdded    = "instrument-added"
	KindInstrumentChanged  = "instrument-changed"
	KindInstrumentRetired  = "instrument-retired"
	KindInstrumentRestored = "instrument-restored"
	KindZeroChecked        = "zero-checked"

	KindStockAdded    = "stock-added"
	KindStockChanged  = "stock-changed"
	KindStockRetired  = "stock-retired"
	KindStockRestored = "stock-restored"

	KindRulesChanged       = "rules-changed"
	KindPermissionsChanged = "permissions-changed"
	KindPersonAdded        = "person-added"
	KindPersonChanged      = "person-changed"
	KindDeviceChanged      = "device-changed"

	KindWait     = "wait"
	KindBath     = "bath"
	KindMaterial = "material"
	KindWaste    = "waste"
)

// entryKind is what holds for all entries of one kind.
type entryKind struct {
	// topic is what other screens are told of when one is written.
	topic topic
	// affectsDue says that what a bike needs may turn on it.
	affectsDue bool
	// voidable says that a wrong one is struck out. Other facts are changed where they stand.
	voidable bool
	// Travels says that it leaves with a bike's passport, and may come with one. The others are the shop's own
	// business, or its customers'.
	Travels bool
}

// entryKinds are all there are: a new kind is a row here, a row in the database's ledger_kinds, and a type for its
// body with [Holds].
var entryKinds = map[string]entryKind{
	KindBikeAdded:    {topic: TopicBike, affectsDue: true, Travels: true},
	KindBikeChanged:  {topic: TopicBike, affectsDue: true, Travels: true},
	KindBikeArchived: {topic: TopicBike, affectsDue: true, Travels: true},
	KindBikeRestored: {topic: TopicBike, affectsDue: true, Travels: true},

	KindMeasurement: {topic: TopicBike, affectsDue: true, voidable: true, Travels: true},
	KindOdometer:    {topic: TopicBike, affectsDue: true, voidable: true, Travels: true},
	KindChainFitted: {topic: TopicBike, affectsDue: true, voidable: true, Travels: true},
	KindChainOpened: {topic: TopicBike, affectsDue: true, voidable: true, Travels: true},
	KindPartFitted:  {topic: TopicBike, affectsDue: true, voidable: true, Travels: true},
	KindReplacement: {topic: TopicBike, affectsDue: true, voidable: true, Travels: true},
	KindRide:        {topic: TopicBike, affectsDue: true, voidable: true, Travels: true},
	KindTaskDone:    {topic: TopicBike, affectsDue: true, Travels: true},
	KindBikeEvent:   {topic: TopicBike, affectsDue: true, Travels: true},
	KindStrikeOut:   {topic: TopicBike, affectsDue: true, Travels: true},

	KindJobArrived:         {topic: TopicJob, affectsDue: true, Travels: true},
	KindJobChanged:         {topic: TopicJob, affectsDue: true, Travels: true},
	KindJobPlanned:         {topic: TopicJob, Travels: true},
	KindJobStep:            {topic: TopicJob, affectsDue: true, Travels: true},
	KindJobFinding:         {topic: TopicJob, Travels: true},
	KindJobFindingResolved: {topic: TopicJob, Travels: true},
	KindJobNote:            {topic: TopicJob, Travels: true},
	KindJobPhoto:           {topic: TopicJob, Travels: true},
	KindJobPart:            {topic: TopicJob, voidable: true, Travels: true},
	KindJobHandedBack:      {topic: TopicJob, affectsDue: true, Travels: true},
	KindJobCancelled:       {topic: TopicJob, affectsDue: true, Travels: true},
	KindJobReopened:        {topic: TopicJob, affectsDue: true, Travels: true},
	KindJobSignatureAsked:  {topic: TopicJob},
	KindJobPaid:            {topic: TopicJob},
	KindCountersigned:      {topic: TopicBike},

	KindMessage:        {topic: TopicMessage},
	KindSecretLink:     {topic: TopicBike, affectsDue: true},
	KindCustomerReport: {topic: TopicBike, affectsDue: true},
	KindPassport:       {topic: TopicBike, affectsDue: true},

	KindCustomerAdded:    {topic: topicCustomer},
	KindCustomerChanged:  {topic: topicCustomer},
	KindCustomerArchived: {topic: topicCustomer},
	KindCustomerRestored: {topic: topicCustomer},
	KindCustomerMerged:   {topic: topicCustomer},

	KindInstrumentAdded:    {topic: topicInstruments},
	KindInstrumentChanged:  {topic: topicInstruments},
	KindInstrumentRetired:  {topic: topicInstruments},
	KindInstrumentRestored: {topic: topicInstruments},
	KindZeroChecked:        {topic: topicInstruments},

	KindStockAdded:    {topic: topicStock},
	KindStockChanged:  {topic: topicStock},
	KindStockRetired:  {topic: topicStock},
	KindStockRestored: {topic: topicStock},

	KindRulesChanged:       {topic: TopicRules, affectsDue: true},
	KindPermissionsChanged: {topic: TopicRules},
	KindPersonAdded:        {topic: TopicRules},
	KindPersonChanged:      {topic: TopicRules},
	KindDeviceChanged:      {topic: TopicRules},

	KindWait:     {topic: TopicJob},
	KindBath:     {topic: topicStores},
	KindMaterial: {topic: topicStores},
	KindWaste:    {topic: topicStores},
}

// TrackKinds are the kinds of entry that a chain's wear is told from.
var TrackKinds = []string{KindMeasurement, KindOdometer, KindChainFitted, KindChainOpened, KindPartFitted, KindRide}

// bodies read a body of each kind and say what is wrong with it.
var bodies = map[string]func(json.RawMessage) error{}

// Holds says that entries of these kinds hold a T, and what a T may say; a nil check lets all of it. What is kept
// stays readable: a check refuses only what nothing can be made of. It is asked of every body that is written, of
// every one that comes in a passport, and of every entry before anything is made of it. Each room says it of its
// own kinds when the program starts.
func Holds[T any](check func(T) error, kinds ...string) {
	for _, kind := range kinds {
		if _, known := entryKinds[kind]; !known || bodies[kind] != nil {
			panic("no kind of entry, or said twice: " + kind)
		}
		bodies[kind] = func(raw json.RawMessage) error {
			var b T
			if err := json.Unmarshal(raw, &b); err != nil {
				var wrong *json.UnmarshalTypeError
				if errors.As(err, &wrong) && wrong.Field != "" {
					return fmt.Errorf("%s is of another kind", wrong.Field)
				}
				return errors.New("it is not such as this program keeps")
			}
			if check == nil {
				return nil
			}
			return check(b)
		}
	}
}

// Kinds are all kinds of entry, in order of name.
func Kinds() []string { return slices.Sorted(maps.Keys(entryKinds)) }

// KindsHeld are the kinds whose bodies the program can read, in order of name.
func KindsHeld() []string { return slices.Sorted(maps.Keys(bodies)) }

// KindOfEntry is what holds for all entries of a kind, and whether there is such a kind.
func KindOfEntry(kind string) (entryKind, bool) {
	k, known := entryKinds[kind]
	return k, known
}

// Readable says what is wrong with an entry's body; nil where something can be made of it.
func Readable(kind string, body json.RawMessage) error {
	read := bodies[kind]
	if read == nil {
		return fmt.Errorf("there is no kind of entry %q", kind)
	}
	if trimmed := bytes.TrimSpace(body); len(trimmed) == 0 || trimmed[0] != '{' {
		return errors.New("it says nothing")
	}
	return read(body)
}

// MayBeVoided reports whether an entry is of those that are voided: what was read or fitted, and whatever of a
// bike nobody can read.
func MayBeVoided(e store.EntryView) bool {
	if e.BikeID == nil || e.Kind == KindStrikeOut {
		return false
	}
	return entryKinds[e.Kind].voidable || Readable(e.Kind, e.Body) != nil
}

func init() {
	Holds[BikeBody](nil, KindBikeAdded, KindBikeChanged, KindBikeArchived, KindBikeRestored)
	Holds[CustomerBody](nil, KindCustomerAdded, KindCustomerChanged, KindCustomerArchived, KindCustomerRestored)
	Holds(checkOdometerBody, KindOdometer)
	Holds(checkChainBody, KindChainFitted)
	Holds(func(b OpenedBody) error { return checkLinkBody(b.Link) }, KindChainOpened)
	Holds(func(b PartBody) error {
		if !slices.Contains(SetOrder, b.Part) {
			return fmt.Errorf("%q is no part that is kept", b.Part)
		}
		return nil
	}, KindPartFitted)
	Holds(checkRideBody, KindRide)
	Holds(func(b TaskDoneBody) error {
		if !TaskCode.MatchString(b.Task) {
			return fmt.Errorf("%q is no task", b.Task)
		}
		return nil
	}, KindTaskDone)
	Holds(func(b EventBody) error {
		_, err := interval.ParseReported(b.Event)
		return err
	}, KindBikeEvent)
}
