package classes

import "time"

// What can be decided about somebody's things.
const (
	Keep     = "keep"
	HandOver = "hand-over"
	Bin      = "bin"
	Along    = "along"   // the satchel of the former class comes along
	Anew     = "anew"    // it stays, and a new one is made
	Asked    = "asked"   // the former class was asked for it
	Refused  = "refused" // and said no
)

// A Decision about the things of a row.
type Decision struct {
	RowID    string    `db:"row_id"`
	Decision string    `db:"decision"`
	By       string    `db:"by"`
	At       time.Time `db:"at"`
}
