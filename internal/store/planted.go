//go:build planted

package store

// versionsHeld is false in a build that only the torture test makes: it plants a lost update, to see that the
// test would find one.
const versionsHeld = false
