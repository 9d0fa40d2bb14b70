package jobs

import (
	"earnestpony/core/fault"
)

// JobWords are what owners say, and what may be found.
type JobWords struct {
	Complaints []ComplaintWords `json:"complaints"`
	Findings   []FindingWords   `json:"findings"`
}

// ComplaintWords is one thing that owners say.
type ComplaintWords struct {
	Code  string `json:"code"`
	Says  string `json:"says"`
	Check string `json:"check"`
}

// FindingWords is one thing that may be found. Fixed says that nobody may take it for less than it is.
type FindingWords struct {
	Code     string `json:"code"`
	Says     string `json:"says"`
	Severity string `json:"severity"`
	Fixed    bool   `json:"fixed"`
	// Withholds are the steps that are not done while it stops the bike.
	Withholds []string `json:"withholds"`
}

// JobWords lists what owners say and what may be found.
func (s *Jobs) JobWords() JobWords {
	var w JobWords
	for _, c := range fault.Complaints() {
		w.Complaints = append(w.Complaints, ComplaintWords{c.Code, c.Says, c.Check})
	}
	for _, f := range fault.Findings() {
		w.Findings = append(w.Findings, FindingWords{f.Code, f.Says, string(f.Severity), f.Fixed, fault.Withheld(f.Code)})
	}
	return w
}
