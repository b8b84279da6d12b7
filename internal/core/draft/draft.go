// Package draft is a list that was brought in for a class and not accepted yet: what is answered about
// it, how it is corrected, and what was read from it.
package draft

import (
	"time"

	"jollysatchel/internal/core/roster"
)

// A Draft is a list that was brought in and not accepted yet. Its id names this
// list and no other; its revision grows with every correction.
type Draft struct {
	ID        string
	ClassID   string
	Revision  int64
	Source    string
	Settings  Settings
	Sheets    []Sheet
	Ambiguous bool // the letters could be read in several ways, and the original is kept
	ChangedAt time.Time
}

// Settings are what was answered about a list. The last group is about the
// sheet that is looked at, and forgotten when another is turned to.
type Settings struct {
	FamilyFirst bool               `json:"family_first"`
	Derive      roster.AddressRule `json:"derive"`
	ByPeriod    bool               `json:"by_period"` // periods are classes of their own
	Without     bool               `json:"without"`   // accept without addresses
	Own         bool               `json:"own"`       // our own roster as it once stood: an empty cell means empty
	NoStaff     bool               `json:"no_staff"`  // the file's teachers aren't added to new classes
	Teachers    []Teacher          `json:"teachers,omitempty"`
	Encoding    string             `json:"encoding,omitempty"` // how the letters were read
	Encodings   []Reading          `json:"encodings,omitempty"`
	Sheet       string             `json:"sheet"` // the sheet that is looked at
	OfSheet     SheetAnswers       `json:"of_sheet"`
}

// SheetAnswers are what was answered about the sheet that is looked at.
type SheetAnswers struct {
	Roles   map[int]roster.Role `json:"roles,omitempty"`
	Heading *int                `json:"heading,omitempty"`
	LeftOut map[int]bool        `json:"left_out,omitempty"` // true: out; false: taken in although it looks like none
	Same    map[int]bool        `json:"same,omitempty"`     // lines whose address is theirs although the book has another name
	Said    map[int]string      `json:"said,omitempty"`     // line → row it is, "new" for nobody's
	Ticked  map[string]bool     `json:"ticked,omitempty"`   // lines of the comparison the teacher ticked or unticked
	Targets map[string]string   `json:"targets,omitempty"`  // part → class id, "new" or "out"
}

// A Reading is one way to read a text's letters, with a word as example and
// what it is in place of.
type Reading struct {
	Encoding string `json:"encoding"`
	Example  string `json:"example"`
	Instead  string `json:"instead"`
}

// A Teacher is one the file names for a class.
type Teacher struct {
	Class   string `json:"class"`
	Period  string `json:"period"`
	Name    string `json:"name"`
	Address string `json:"address"`
}

// A Sheet is a sheet of the file. Rows are given when a draft is put, and
// read by DraftRows.
type Sheet struct {
	Name          string
	Hidden        bool
	HiddenColumns []int
	Rows          []roster.Row
}

// A Cell is a corrected cell.
type Cell struct {
	Line  int    `db:"line"`
	Field int    `db:"field"`
	Value string `db:"value"`
}
