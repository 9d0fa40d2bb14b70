package store

// The states that rows are in, as they stand in the database and in the contract. The migrations hold the same lists.

// JobState is how far a job is.
type JobState string

// The states of a job: the first two are open.
const (
	JobArrived    JobState = "arrived" // not planned yet
	JobPlanned    JobState = "planned"
	JobHandedBack JobState = "handed-back"
	JobCancelled  JobState = "cancelled"
)

// StepState is how far a step of a job is.
type StepState string

// The states of a step.
const (
	StepOpen    StepState = "open"
	StepBegun   StepState = "begun" // by somebody, who is at it
	StepDone    StepState = "done"
	StepSkipped StepState = "skipped" // with a reason
)

// Over reports whether nothing is left to do of a step.
func (s StepState) Over() bool { return s == StepDone || s == StepSkipped }

// MessageState is how far a message to a customer is.
type MessageState string

// The states of a message: the first two may still be sent, the others are the end.
const (
	MessageDraft      MessageState = "draft"
	MessageQueued     MessageState = "queued"
	MessageDelivered  MessageState = "delivered"
	MessageNotReached MessageState = "not-reached"
	MessageWithdrawn  MessageState = "withdrawn"
)

// ReportState is what became of what a customer reported.
type ReportState string

// The states of a report.
const (
	ReportOpen      ReportState = "open" // nobody decided
	ReportConfirmed ReportState = "confirmed"
	ReportSetAside  ReportState = "set-aside"
)
