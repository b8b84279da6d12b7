// Package ledger is what was made, by which run, and what happened to it: plain values.
package ledger

import (
	"maps"
	"slices"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/packing"
)

// An Entry of the ledger is one thing made: with id, link, what was granted,
// when and by which run.
type Entry struct {
	ID         string
	Key        packing.Key
	Generation int
	Thing      string
	Link       string
	Name       string                  // the one given last
	Spot       string                  // where we put it last; empty: not known
	PutIn      string                  // the folder that is, in the cupboard; empty: the top, or not known
	Granted    map[string]access.Level // whom we gave which level
	Waits      []string                // rows that it was made for, too, and that had no account then
	Served     []string                // rows for which it waits no more
	Unpointed  []string                // folders from which a step took its pointer away
	Pointers   map[string]string       // key of the folder → id of the pointer in it
	RunID      string
	GivenSHA   string    // SHA-256 of what its document was when a copy was given; empty where that isn't known
	Given      int       // version that holds it
	RenewedAt  time.Time // when it was given again; zero: never
	MadeAt     time.Time
	SharedAt   time.Time    // zero: not shared
	EndedAt    time.Time    // zero: open
	Mark       *access.Mark // that we put on it in the cupboard
	HandedTo   string       // the account that it was handed over to; empty: to none
	HandedOff  bool         // and staff were let out of it
	Bound      Bound        // where the last act wants it, until it is there
}

// A Bound is where the last act about a thing wants it, until it is there.
type Bound string

// The bounds; BoundNowhere is that it stays where it is.
const (
	BoundNowhere Bound = ""
	BoundForBin  Bound = "bin"
	BoundBack    Bound = "lies"
)

// BoundBy is what a line of a run wants of where its thing is; ok reports that it wants
// anything.
func BoundBy(act packing.Act) (b Bound, ok bool) {
	switch act {
	case packing.Discard:
		return BoundForBin, true
	case packing.Restore:
		return BoundBack, true
	}
	return BoundNowhere, false
}

// PointedFrom are the folders with a pointer to it.
func (e Entry) PointedFrom() []packing.Key {
	var out []packing.Key
	for _, at := range slices.Sorted(maps.Keys(e.Pointers)) {
		if k, err := packing.ParseKey(at); err == nil {
			out = append(out, k)
		}
	}
	return out
}

// Folders are where it is, and where it is pointed to from.
func (e Entry) Folders() []packing.Key {
	out := e.PointedFrom()
	if k, err := packing.ParseKey(e.Spot); err == nil {
		out = append(out, k)
	}
	return out
}

// Shared reports whether what was made was given to whom it is for.
func (e Entry) Shared() bool { return !e.SharedAt.IsZero() }
