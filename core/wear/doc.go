// Package wear turns readings of a chain into a verdict.
//
// A [Measurement] is one to eight readings round a chain, all with one [Instrument] and over the
// same number of links. Kinds of instrument that measure give an [Estimate]; kinds that only
// compare give an [Interval]. [Judge] holds either against the [Limits] of a [School], of the bike
// or of its maker, and answers with a [Verdict] and the reasons for it, as data:
//
//	m, err := wear.NewMeasurement(wear.Instrument{Kind: wear.Ruler},
//		[]wear.Reading{wear.Length(1, 24, 306.4)}, nil)
//	a := wear.Judge(m, limits)
//	// a.Verdict is Unsure: 0.525 % with an error of 0.116 % may lie on either side of 0.5 %.
//
// # Errors
//
// Whatever a person can get wrong comes back as [Faults]: every fault, each with the reading it
// is about, a stable code, and a sentence that says what is wrong and what to do.
//
// The rules and numbers are those of the handbook's page on wear.
package wear
