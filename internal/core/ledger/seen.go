package ledger

import (
	"time"

	"jollysatchel/internal/core/access"
)

// A Place is where a thing is.
type Place string

// The places. In the bin a thing can be restored until its term is over. What is unseen can't
// be read by anyone who owns what was made in its class; that isn't gone.
const (
	Lies   Place = "lies" // where things are that nobody binned
	InBin  Place = "in-bin"
	Gone   Place = "gone"
	Unseen Place = "unseen"
)

// A Seen is how a thing was last seen to stand. Of one that is gone nothing else is known.
type Seen struct {
	Place     Place
	Name      string
	Parent    string
	Owner     string
	Rule      access.Rule  // its own
	Closed    *access.Mark // its own
	Version   int
	SHA       string
	ChangedAt time.Time
	ChangedBy string
	Inside    int       // things in a folder made by others than its owner, at any depth
	InsideAt  time.Time // newest change among them
	BinUntil  time.Time // of one in the bin: when it ends
}
