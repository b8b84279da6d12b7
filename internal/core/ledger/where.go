package ledger

import (
	"slices"

	"jollysatchel/internal/core/packing"
)

// Where says in which folders of a class things lie.
type Where struct {
	Things map[string]*Entry          // the class's, by thing
	Parent func(e *Entry) (id string) // the folder that a thing is in; empty: not known
}

// Above are the folders of the class that a thing is in, innermost first. known reports
// that they lead to the class's own folder: it is false where one isn't the class's, or where
// nobody knows.
func (w Where) Above(e *Entry) (folders []*Entry, known bool) {
	for e.Key.What.Purpose != packing.ClassFolder {
		if e = w.Things[w.Parent(e)]; e == nil || slices.Contains(folders, e) {
			return folders, false
		}
		folders = append(folders, e)
	}
	return folders, true
}

// Under reports that a thing is a folder of the class or is in it, at any depth. What wasn't
// seen since it was made, but for a place, and a copy that is in a folder of its student's
// own are taken to.
func (w Where) Under(e, folder *Entry) bool {
	in, known := w.Above(e)
	if e == folder || slices.Contains(in, folder) {
		return true
	}
	if known {
		return false
	}
	top := e
	if len(in) > 0 {
		top = in[len(in)-1]
	}
	if w.Parent(top) == "" {
		return top == e && e.Key.What.Purpose != packing.Place
	}
	return top.Key.What.Purpose == packing.Copy
}
