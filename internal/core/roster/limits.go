package roster

// What a list, a row or an edit may hold, wherever it comes from.
const (
	MaxStudents = 2000 // in one class
	MaxColumns  = 100  // of a list; of a row beside those with roles
	MaxValue    = 2000 // bytes of one value
	MaxHeading  = 200  // bytes of a column's heading; a list's longer one is cut
)
