package ledger

// A Work is how far a copy has come.
type Work struct {
	Thing   string `db:"thing"`
	Version int    `db:"version"`
	Begun   bool   `db:"begun"`
	Added   int    `db:"added"`
	Removed int    `db:"removed"`
	// Uncounted says that the words of this version couldn't be counted.
	Uncounted bool `db:"uncounted"`
}

// Begun reports whether somebody has begun with what an entry gave: its text is another than
// was handed out (product.md, Progress). version is its newest, and work what was measured of
// it, maybe earlier: what was written since counts as begun, since nobody's work is taken unread.
func (e Entry) Begun(version int, work Work) bool {
	switch {
	case version <= max(1, e.Given):
		return false
	case work.Version < version:
		return true
	}
	return work.Begun
}

// An Opening is somebody who opened what they were given.
type Opening struct{ Thing, Account string }
