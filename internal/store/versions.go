//go:build !planted

package store

// versionsHeld says that a change is written only over the version that it was made from. It is so in every build
// but one that the torture test makes to be caught.
const versionsHeld = true
