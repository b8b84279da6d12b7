// Package register is how far each student has come with what they were given: the Register, one
// student's panel, and what needs attention.
package register

import (
	"time"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/progress"
)

// Facts are what the pages about a class are worked out from.
type Facts struct {
	*picture.Picture
	*Work
}

// A Work is what came of what was made.
type Work struct {
	Days   []time.Time // the last seven
	Works  map[string]ledger.Work
	Opened map[ledger.Opening]time.Time
	Words  map[string][]progress.Tally
	Shown  map[string]ledger.Snapshot // the newest state of a draft that was shown, by thing
}
