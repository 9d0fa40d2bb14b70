package shop

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
	kindBikeAdded    = "bike-added"
	kindBikeChanged  = "bike-changed"
	kindBikeArchived = "bike-archived"
	kindBikeRestored = "bike-restored"

	kindMeasurement = "measurement"
	kindOdometer    = "odometer"
	kindChainFitted = "chain-fitted"
	kindChainOpened = "chain-opened"
	kindPartFitted  = "part-fitted"
	kindReplacement = "replacement"
	kindRide        = "ride"
	kindTaskDone    = "task-done"
	kindBikeEvent   = "bike-event"
	kindStrikeOut   = "strike-out"

	kindJobArrived         = "job-arrived"
	kindJobChanged         = "job-changed"
	kindJobPlanned         = "job-planned"
	kindJobStep            = "job-step"
	kindJobFinding         = "job-finding"
	kindJobFindingResolved = "job-finding-resolved"
	kindJobNote            = "job-note"
	kindJobPhoto           = "job-photo"
	kindJobPart            = "job-part"
	kindJobHandedBack      = "job-handed-back"
	kindJobCancelled       = "job-cancelled"
	kindJobReopened        = "job-reopened"

	kindMessage        = "message"
	kindSecretLink     = "link"
	kindCustomerReport = "owner-report"
	kindPassport       = "passport"

	kindCustomerAdded    = "customer-added"
	kindCustomerChanged  = "customer-changed"
	kindCustomerArchived = "customer-archived"
	kindCustomerRestored = "customer-restored"

	kindInstrumentAdded    = "instrument-added"
	kindInstrumentChanged  = "instrument-changed"
	kindInstrumentRetired  = "instrument-retired"
	kindInstrumentRestored = "instrument-restored"
	kindZeroChecked        = "zero-checked"

	kindStockAdded    = "stock-added"
	kindStockChanged  = "stock-changed"
	kindStockRetired  = "stock-retired"
	kindStockRestored = "stock-restored"

	kindRulesChanged = "rules-changed"
	kindWait         = "wait"
	kindBath         = "bath"
	kindMaterial     = "material"
	kindWaste        = "waste"
)

// entryKind is what holds for all entries of one kind.
type entryKind struct {
	// topic is what other screens are told of when one is written.
	topic topic
	// affectsDue says that what a bike needs may turn on it.
	affectsDue bool
	// voidable says that a wrong one is struck out. Other facts are changed where they stand.
	voidable bool
	// travels says that it leaves with a bike's passport, and may come with one. The others are the shop's own
	// business, or its customers'.
	travels bool
}

// entryKinds are all there are: a new kind is a row here, a row in the database's ledger_kinds, and a type for its
// body with [holds].
var entryKinds = map[string]entryKind{
	kindBikeAdded:    {topic: topicBike, affectsDue: true, travels: true},
	kindBikeChanged:  {topic: topicBike, affectsDue: true, travels: true},
	kindBikeArchived: {topic: topicBike, affectsDue: true, travels: true},
	kindBikeRestored: {topic: topicBike, affectsDue: true, travels: true},

	kindMeasurement: {topic: topicBike, affectsDue: true, voidable: true, travels: true},
	kindOdometer:    {topic: topicBike, affectsDue: true, voidable: true, travels: true},
	kindChainFitted: {topic: topicBike, affectsDue: true, voidable: true, travels: true},
	kindChainOpened: {topic: topicBike, affectsDue: true, voidable: true, travels: true},
	kindPartFitted:  {topic: topicBike, affectsDue: true, voidable: true, travels: true},
	kindReplacement: {topic: topicBike, affectsDue: true, voidable: true, travels: true},
	kindRide:        {topic: topicBike, affectsDue: true, voidable: true, travels: true},
	kindTaskDone:    {topic: topicBike, affectsDue: true, travels: true},
	kindBikeEvent:   {topic: topicBike, affectsDue: true, travels: true},
	kindStrikeOut:   {topic: topicBike, affectsDue: true, travels: true},

	kindJobArrived:         {topic: topicJob, affectsDue: true, travels: true},
	kindJobChanged:         {topic: topicJob, affectsDue: true, travels: true},
	kindJobPlanned:         {topic: topicJob, travels: true},
	kindJobStep:            {topic: topicJob, affectsDue: true, travels: true},
	kindJobFinding:         {topic: topicJob, travels: true},
	kindJobFindingResolved: {topic: topicJob, travels: true},
	kindJobNote:            {topic: topicJob, travels: true},
	kindJobPhoto:           {topic: topicJob, travels: true},
	kindJobPart:            {topic: topicJob, voidable: true, travels: true},
	kindJobHandedBack:      {topic: topicJob, affectsDue: true, travels: true},
	kindJobCancelled:       {topic: topicJob, affectsDue: true, travels: true},
	kindJobReopened:        {topic: topicJob, affectsDue: true, travels: true},

	kindMessage:        {topic: topicMessage},
	kindSecretLink:     {topic: topicBike, affectsDue: true},
	kindCustomerReport: {topic: topicBike, affectsDue: true},
	kindPassport:       {topic: topicBike, affectsDue: true},

	kindCustomerAdded:    {topic: topicCustomer},
	kindCustomerChanged:  {topic: topicCustomer},
	kindCustomerArchived: {topic: topicCustomer},
	kindCustomerRestored: {topic: topicCustomer},

	kindInstrumentAdded:    {topic: topicInstruments},
	kindInstrumentChanged:  {topic: topicInstruments},
	kindInstrumentRetired:  {topic: topicInstruments},
	kindInstrumentRestored: {topic: topicInstruments},
	kindZeroChecked:        {topic: topicInstruments},

	kindStockAdded:    {topic: topicStock},
	kindStockChanged:  {topic: topicStock},
	kindStockRetired:  {topic: topicStock},
	kindStockRestored: {topic: topicStock},

	kindRulesChanged: {topic: topicRules, affectsDue: true},
	kindWait:         {topic: topicJob},
	kindBath:         {topic: topicStores},
	kindMaterial:     {topic: topicStores},
	kindWaste:        {topic: topicStores},
}

// trackKinds are the kinds of entry that a chain's wear is told from.
var trackKinds = []string{kindMeasurement, kindOdometer, kindChainFitted, kindChainOpened, kindPartFitted, kindRide}

// bodies read a body of each kind and say what is wrong with it.
var bodies = map[string]func(json.RawMessage) error{}

// holds says that entries of these kinds hold a T, and what a T may say; a nil check lets all of it. What is kept
// stays readable: a check refuses only what nothing can be made of. It is asked of every body that is written, of
// every one that comes in a passport, and of every entry before anything is made of it. Each room says it of its
// own kinds when the program starts.
func holds[T any](check func(T) error, kinds ...string) {
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

// kinds are all kinds of entry, in order of name.
func kinds() []string { return slices.Sorted(maps.Keys(entryKinds)) }

// kindsHeld are the kinds whose bodies the program can read, in order of name.
func kindsHeld() []string { return slices.Sorted(maps.Keys(bodies)) }

// kindOfEntry is what holds for all entries of a kind, and whether there is such a kind.
func kindOfEntry(kind string) (entryKind, bool) {
	k, known := entryKinds[kind]
	return k, known
}

// readable says what is wrong with an entry's body; nil where something can be made of it.
func readable(kind string, body json.RawMessage) error {
	read := bodies[kind]
	if read == nil {
		return fmt.Errorf("there is no kind of entry %q", kind)
	}
	if trimmed := bytes.TrimSpace(body); len(trimmed) == 0 || trimmed[0] != '{' {
		return errors.New("it says nothing")
	}
	return read(body)
}

// mayBeVoided reports whether an entry is of those that are voided: what was read or fitted, and whatever of a
// bike nobody can read.
func mayBeVoided(e store.EntryView) bool {
	if e.BikeID == nil || e.Kind == kindStrikeOut {
		return false
	}
	return entryKinds[e.Kind].voidable || readable(e.Kind, e.Body) != nil
}

func init() {
	holds[bikeBody](nil, kindBikeAdded, kindBikeChanged, kindBikeArchived, kindBikeRestored)
	holds[customerBody](nil, kindCustomerAdded, kindCustomerChanged, kindCustomerArchived, kindCustomerRestored)
	holds(checkOdometerBody, kindOdometer)
	holds(checkChainBody, kindChainFitted)
	holds(func(b openedBody) error { return checkLinkBody(b.Link) }, kindChainOpened)
	holds(func(b partBody) error {
		if !slices.Contains(setOrder, b.Part) {
			return fmt.Errorf("%q is no part that is kept", b.Part)
		}
		return nil
	}, kindPartFitted)
	holds(checkRideBody, kindRide)
	holds(func(b taskDoneBody) error {
		if !taskCode.MatchString(b.Task) {
			return fmt.Errorf("%q is no task", b.Task)
		}
		return nil
	}, kindTaskDone)
	holds(func(b eventBody) error {
		_, err := interval.ParseReported(b.Event)
		return err
	}, kindBikeEvent)
}
