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

// An Opening is somebody who opened what they were given.
type Opening struct{ Thing, Account string }
