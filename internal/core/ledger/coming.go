package ledger

import "jollysatchel/internal/core/packing"

// A Called says what a handout's thing is called in a folder, where it is or is pointed to
// from. The folder is a key. Pointers to a student's own copy lie among its handout's things
// and meet no others.
type Called struct {
	Handout string `db:"handout_id"`
	Folder  string `db:"folder"`
	Name    string `db:"name"`
}

// A Coming is what a run is still to make, share, point to or rename, with the folders
// in which it is to lie or be pointed to from, as keys.
type Coming struct {
	Key    packing.Key
	Named  bool // it has its name from then on
	Gives  bool // it is made, shared or pointed to
	Paused bool
	Name   string
	Folder string
	Points []string
}

// A Given is what a run did to a copy for somebody.
type Given struct {
	Key     packing.Key
	Account string
	Renewed bool // what was there is another by now
}
