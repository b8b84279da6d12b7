package ledger

import (
	"strings"
	"time"

	"jollysatchel/internal/core/change"
)

// A Snapshot is a kept state of a draft that was shown to staff; the draft goes on.
type Snapshot struct {
	ClassID   string
	HandoutID string
	Thing     string
	Version   int
	By        string // account; empty: taken at a set time
	At        time.Time
	Word      string
	Asked     bool      // whoever showed it asks to have it looked at
	SeenBy    string    // of staff, who looked at it first; empty: nobody did yet
	SeenAt    time.Time // when
}

// What snapshots keep to: so many of one draft, each with so many bytes of words.
const (
	MostSnapshots = 100
	MostWord      = 500
)

// ShownWord tidies what is said with a snapshot; the error is a *change.Invalid.
func ShownWord(word string) (string, error) {
	if word = strings.TrimSpace(word); len(word) > MostWord {
		return "", change.TooLong("word", MostWord)
	}
	return word, nil
}

// Since reports that a draft was written in after the state that was shown.
func (s Snapshot) Since(version int) bool { return version > s.Version }

// Seen reports that somebody of staff looked at it.
func (s Snapshot) Seen() bool { return !s.SeenAt.IsZero() }

// Waits reports that it waits to be looked at.
func (s Snapshot) Waits() bool { return s.Asked && !s.Seen() }
