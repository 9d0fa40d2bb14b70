// Package forecast says when a chain will reach its limit, when to look next, and what replacing it
// early or late costs.
//
// Distance is counted in hard kilometres ([HardKM]): a kilometre counts for more when it is harder on
// the chain. A chain wears slowly and evenly while its joints still roll, and faster once they slide
// ([Growth]). How fast is not known before it is measured: a [Prior] says what is to be expected of
// a chain that is cared for in some way, and each [Observation] narrows it down. [Look] puts both on a
// grid, so the same input always gives the same answer:
//
//	f, err := forecast.Look(forecast.Question{
//		Prior: forecast.Oil.Prior(), Limit: 0.5, Now: 1800,
//		Observations: []forecast.Observation{forecast.Read(1800, 0.15, 0.05)},
//	})
//	// f.Left holds the 10th, 50th and 90th percentile of what is left; f.NextCheck when to look again.
//
// The model and its numbers are those of the handbook's page on the forecast.
package forecast
