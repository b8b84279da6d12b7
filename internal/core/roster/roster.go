// Package roster reads a class list: a table of text cells goes in, columns
// with roles, students and findings come out. Every row ends as exactly one
// student, one finding that keeps it out, or one note that it is blank or
// hidden; nothing vanishes.
package roster

import (
	"slices"

	"jollysatchel/internal/core/record"
)

// A Row is one record of a table as a person sees it in a spreadsheet.
type Row struct {
	Line   int      `json:"line"` // place in the table, from 1, blank rows counted
	Cells  []string `json:"cells"`
	Hidden bool     `json:"hidden,omitempty"` // hidden in the spreadsheet
}

// A Table is the text of a class list, row by row. HiddenColumns are the places
// from 0 of columns hidden in the spreadsheet; they are read like the others.
type Table struct {
	Rows          []Row
	HiddenColumns []int
}

// A Role says what a column holds.
type Role string

// The roles a column can have. Extra columns are kept and usable everywhere;
// None is for a column without heading or values.
const (
	Given     Role = "given"
	Family    Role = "family"
	Full      Role = "full"
	Preferred Role = "preferred"
	Address   Role = "address"
	Number    Role = "number"
	Class     Role = "class"
	Period    Role = "period"
	Level     Role = "level"
	Team      Role = "team"
	Extra     Role = "extra"
	None      Role = "none"
)

// Field returns the field of a record that a column with the role fills; ok is
// false for those that fill none or several.
func (r Role) Field() (f record.Field, ok bool) {
	f = record.Field(r)
	return f, slices.Contains(record.Listed, f)
}

// Roles lists every role in the order a teacher is offered them.
var Roles = []Role{Given, Family, Full, Preferred, Address, Number, Class, Period, Level, Team, Extra, None}

// A Column is one column of the list as it was understood.
type Column struct {
	Heading    string  `json:"heading"`
	Role       Role    `json:"role"`
	Confidence float64 `json:"confidence"`       // 0 to 1; 1 where the teacher said so
	Hidden     bool    `json:"hidden,omitempty"` // hidden in the spreadsheet
	// Note is a code that says more: "school-year", a column of years or grades,
	// which is no level of a handout and kept as it is; "no-heading", one that is
	// called by its place; "no-room", one of more than are read.
	Note string `json:"note,omitempty"`
}

// A Student is one row of the list that can be accepted.
type Student struct {
	Row int `json:"row"`
	record.Record
}

// Severity of a finding. An error keeps its row out; a warning lets it in; a
// note tells of a row that was passed over.
type Severity string

// The severities.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
	Note    Severity = "note"
)

// A Finding is one thing worth knowing about one row. Column is the heading,
// or empty where the whole row is meant; Field is the column's place from 0,
// -1 for the whole row. Title, Message and Remedy are the English rendering of Code
// and Args.
type Finding struct {
	Row      int               `json:"row"`
	Column   string            `json:"column"`
	Field    int               `json:"field"`
	Severity Severity          `json:"severity"`
	Code     string            `json:"code"`
	Args     map[string]string `json:"args"`
	Title    string            `json:"title"`
	Message  string            `json:"message"`
	Remedy   string            `json:"remedy"`
}

// Counts add up: Students + Blank + Hidden + LeftOut = Rows.
type Counts struct {
	Rows     int `json:"rows"`     // records below the heading
	Students int `json:"students"` // accepted as they stand
	Blank    int `json:"blank"`
	Hidden   int `json:"hidden"`
	LeftOut  int `json:"left_out"` // kept out by any other finding
}

// A Result is what Read makes of a table. HeadingRow is the line of the
// heading row, 0 where there is none.
type Result struct {
	HeadingRow int       `json:"-"`
	Columns    []Column  `json:"columns"`
	Students   []Student `json:"students"`
	Findings   []Finding `json:"findings"`
	Counts     Counts    `json:"counts"`
}

// Errors counts the findings of severity Error.
func (r Result) Errors() int {
	n := 0
	for _, f := range r.Findings {
		if f.Severity == Error {
			n++
		}
	}
	return n
}

// Options steer Read. The zero value reads as well as the table alone allows.
type Options struct {
	Roles   map[int]Role // by column from 0: what the teacher said
	Heading *int         // line of the heading row as the teacher said; 0 for none
	// LeftOut are lines the teacher leaves out, or, where it says false, takes in
	// although they are hidden or look like a heading or a total.
	LeftOut map[int]bool
	// Same are lines whose address is the student's although the school book has
	// another name for it.
	Same   map[int]bool
	Domain string // the school's domain; empty: not checked
	// Class restricts the list to the rows of one class, compared without case;
	// empty: all.
	Class string
	// FamilyFirst says that a full name without a comma begins with the family
	// name, as in most of East Asia and in Hungary.
	FamilyFirst bool
	// Derive makes the addresses that are missing; empty: they stay missing.
	Derive AddressRule
	// Later takes rows without an address for students all the same: what is made for them waits for it.
	Later bool
	// MostWarnings bounds the warnings of one kind that are told, 0 for no bound: a
	// page shows the first.
	MostWarnings int
	// Known says what the school book has of an address, or of an empty one for a
	// student of that name. Nil: not checked.
	Known func(address string, of record.Record) Knowing
}

// A Knowing is what the school book has of an address: the account it belongs
// to, as far as that is told, or else the likely right one.
type Knowing struct {
	Known      bool
	Account    Account
	Suggestion string
}
