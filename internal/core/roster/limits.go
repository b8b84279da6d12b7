package roster

import "strings"

// What a list, a row or an edit may hold, wherever it comes from.
const (
	MaxStudents = 2000 // in one class
	MaxColumns  = 100  // of a list; of a row beside those with roles
	MaxFields   = 1000 // cells of a row of a file
	MaxValue    = 2000 // bytes of one value
	MaxHeading  = 200  // bytes of a column's heading; a list's longer one is cut
)

// Clip is what is shown of a value in a list: of one that is too long, its beginning.
func Clip(v string) string {
	if len(v) <= MaxValue {
		return v
	}
	return strings.ToValidUTF8(v[:MaxValue], "") + "…"
}
