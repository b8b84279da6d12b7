package ledger

import (
	"time"

	"jollysatchel/internal/core/packing"
)

// States of a run.
const (
	RunPacking = "packing"
	RunPaused  = "paused"
	RunStopped = "stopped"
	RunDone    = "done"
)

// What a run does.
const (
	PackRun    = "pack"
	DiscardRun = "discard" // does with what is there what somebody asked to: bins it, brings it back, hands it over
	MendRun    = "mend"    // puts right what a door check found
	MarkRun    = "mark"    // says to the cupboard from when copies are closed
)

// A Run carries one packing list out. Passed counts its lines that no longer
// followed from the class; Made those that made something, Shared those that gave
// somebody access. LeftOut are the students its list left out.
type Run struct {
	ID         string    `db:"id"`
	ClassID    string    `db:"class_id"`
	HandoutID  string    `db:"handout_id"` // empty: the room
	Title      string    `db:"title"`
	State      string    `db:"state"`
	StartedBy  string    `db:"started_by"`
	StartedAt  time.Time `db:"started_at"`
	FinishedAt time.Time `db:"-"` // zero: not yet
	Packed     int       `db:"packed"`
	Stuck      int       `db:"stuck"`
	Passed     int       `db:"passed"`
	Total      int       `db:"total"`
	Made       int       `db:"made"`
	Shared     int       `db:"shared"`
	Told       int       `db:"told"` // students whose own page has something new
	LeftOut    int       `db:"left_out"`
	Kind       string    `db:"kind"` // PackRun unless it says another
}

// Waiting is the number of lines that are neither packed nor stuck nor passed over.
func (r Run) Waiting() int { return r.Total - r.Packed - r.Stuck - r.Passed }

// A Step is one line of a run.
type Step struct {
	RunID string
	Seq   int
	packing.Step
	Tries  int
	Held   time.Time // since when its worker has it in hand, by the worker's own clock
	Asking int64     // taken before the cupboard was told of a change to something made before
}
