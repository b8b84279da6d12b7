// Package packing computes the packing list: what a run would do, line by
// line, from what is wanted and what there actually is. It does nothing itself.
package packing

import (
	"strings"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/record"
)

// A Kind says what is made.
type Kind string

// The kinds of things a run can make.
const (
	Folder Kind = "folder"
	File   Kind = "file"
)

// A Wanted is one thing wanted, with everything a run needs to make it. Wanted
// things come from room and handout settings; a parent is before what is in it
// in it.
type Wanted struct {
	Key      Key          `json:"key"`
	Kind     Kind         `json:"kind"`
	Name     string       `json:"name"`
	Apart    string       `json:"apart,omitempty"`   // rule by which an equal name was told apart
	Altered  string       `json:"altered,omitempty"` // what making the name safe did to it
	Parent   Key          `json:"parent"`            // no key: in Base
	Base     string       `json:"base,omitempty"`    // cupboard id of the folder it lies in; empty: at the top of the owner's things
	Path     []string     `json:"path,omitempty"`    // folders between Base and the thing, made where there are none
	Owner    string       `json:"owner"`             // account
	Rule     access.Rule  `json:"rule"`
	Source   string       `json:"source,omitempty"`   // for a file: id of the template in the cupboard
	Lender   string       `json:"lender,omitempty"`   // account that may read the source
	Pointers []Key        `json:"pointers,omitempty"` // folders that get a pointer to the thing
	Problem  *Reason      `json:"problem,omitempty"`  // what must be fixed before this can be packed
	Hold     *Reason      `json:"hold,omitempty"`     // why nothing is made or given for now; what is there stays
	Fill     *Fill        `json:"-"`                  // of a file whose columns are filled in
	Closed   *access.Mark `json:"closed,omitempty"`   // from when a copy is closed, and to whom not; nil: it stays open
	Mates    bool         `json:"mates,omitempty"`    // of somebody's copy: others of the class reach it, or did
	For      string       `json:"for,omitempty"`      // the account that such a copy is for
	Waits    []string     `json:"waits,omitempty"`    // rows that are to have access once they have an account
	Lacking  *Reason      `json:"lacking,omitempty"`  // of somebody's own: why they have no account yet
	Later    access.Level `json:"later,omitempty"`    // of such: what they are to have then
}

// A Fill says what is in the columns that a file asks for in square brackets.
type Fill struct {
	Ending    string // of the file
	MediaType string
	Values    record.Getter
	Known     func(record.Field) bool
}

// Spot is where a thing is to lie, in one text: the same spot is the same text.
func (w Wanted) Spot() string {
	if w.Parent != (Key{}) {
		return w.Parent.String()
	}
	return strings.Join(append([]string{"", w.Base}, w.Path...), "/")
}

// A Reason is a code with arguments; the words are the interface's.
type Reason struct {
	Code string            `json:"code"`
	Args map[string]string `json:"args,omitempty"`
}

// A State is how a thing of the ledger was found in the cupboard.
type State string

// The states a thing can be found in. Missing means never made.
const (
	Missing   State = ""
	Here      State = "here"
	Elsewhere State = "elsewhere"
	Unshared  State = "unshared"
	InBin     State = "in-bin"
	Gone      State = "gone"
	Unseen    State = "unseen" // it can't be read; that isn't gone
)

// An Actual is what ledger and cupboard know of a key.
type Actual struct {
	Thing      string // cupboard id
	Generation int    // of the thing made last; 0 where none was ever made
	State      State
	Name       string      // its present name
	Rule       access.Rule // the thing's own rule as it stands
	// What we did about it: the name we gave last, whom we gave which level, and
	// the folders in which we put pointers.
	LastName string
	Granted  map[string]access.Level
	Pointed  map[Key]bool
	Waits    []string // rows that it was made for, too, which had no account then
	// Spot is where we put it last, empty where that isn't known. Strayed says of
	// one that lies elsewhere that it isn't merely arranged among its student's things.
	Spot    string
	Strayed bool
	// LeaveAsIs says that the teacher was asked about what happened to it, and left it.
	LeaveAsIs bool
	// Handed is the account that it was handed over to; Off says that staff were let out of it then.
	Handed string
	Off    bool
	// NameTaken says of one in the bin that something beside it has its name by now.
	NameTaken bool
}

// A Section of the packing list.
type Section string

// The sections, in the order they are shown.
const (
	ToPack       Section = "to-pack"
	ToChange     Section = "to-change"
	AlreadyThere Section = "already-there"
	LeftOut      Section = "left-out"
	NeedsFixing  Section = "needs-fixing"
)

// Remedies for a line that needs fixing.
const (
	BringBack      = "bring-back"
	MakeAnew       = "make-anew"
	LeaveOut       = "leave-out"
	CorrectAddress = "correct-address"
	BringAlong     = "bring-along" // of somebody who came from another class
	MakeNew        = "make-new"
	TakeIn         = "take-in" // of what was left out
)

// Problems of a satchel whose student came from another class and has one there: nobody said
// yet what happens to it, the former class was asked for it, said no, or yes and it is on its way.
const (
	MovedHere      = "moved-here"
	SatchelAsked   = "satchel-asked"
	SatchelRefused = "satchel-refused"
	SatchelComing  = "satchel-coming"
)

// RelinkFirst is why a student whose address is another account's by now is given nothing more:
// first the teacher says whose the things are.
const RelinkFirst = "relink-first"

// Problems of a handout's that no address mends: a row says no level, or one that no
// document is for, or is in no team.
const (
	LevelNone     = "level-none"
	LevelUnmapped = "level-unmapped"
	TeamNone      = "team-none"
)

// remediesOf are the ways out of a problem.
func remediesOf(problem string) []string {
	switch problem {
	case MovedHere:
		return []string{BringAlong, MakeNew}
	case SatchelAsked, SatchelRefused, SatchelComing:
		return []string{MakeNew}
	case LevelNone, LevelUnmapped, TeamNone:
		return []string{LeaveOut}
	}
	return []string{CorrectAddress, LeaveOut}
}

// A Change is what a line to change does about a thing already made.
type Change struct {
	Rename string       `json:"rename,omitempty"` // its new name
	Move   bool         `json:"move,omitempty"`   // to where it is wanted
	From   string       `json:"from,omitempty"`   // its name, or the row's account, until now
	Level  access.Level `json:"level,omitempty"`  // what the step's account has from now on
	To     string       `json:"to,omitempty"`     // account the row is linked to, or that owns it, from now on
	Keeper string       `json:"keeper,omitempty"` // of a class's folder: who owns it then, empty for its owner teacher
	Ends   bool         `json:"ends,omitempty"`   // of what is binned: it isn't the class's any more
	Bring  *Bringing    `json:"bring,omitempty"`
	Inside []string     `json:"inside,omitempty"` // things of the same row's that are handed over with it
	Off    []string     `json:"off,omitempty"`    // staff who don't reach what is handed over any more
	Within []string     `json:"within,omitempty"` // of those, things in it whose own rule names them
	Thing  string       `json:"thing,omitempty"`  // in the cupboard, of what isn't the ledger's
	Mark   *access.Mark `json:"mark,omitempty"`   // it has from now on
	Alone  bool         `json:"alone,omitempty"`  // whether it stands alone from now on
	Base   int          `json:"base,omitempty"`   // version that was looked at, of what is renewed
	// Seen are the versions that were looked at of what is binned and of the files in it, by thing;
	// nil: whatever it is by then.
	Seen map[string]int `json:"seen,omitzero"`
}

// A Bringing fetches a satchel that was packed for somebody in another class.
type Bringing struct {
	Entry   string            `json:"entry"` // of the ledger
	Thing   string            `json:"thing"`
	Owner   string            `json:"owner"`   // of the former class
	Readers []string          `json:"readers"` // its staff, who keep reading its copies
	Copies  []string          `json:"copies"`  // those that are in the satchel
	Pockets map[string]string `json:"pockets"` // entry of a pocket → id of the pocket it is here; empty: none
}

// A Line is one line of the packing list.
type Line struct {
	Section  Section `json:"section"`
	Step     StepKey `json:"step"` // what is done, or would be once it is fixed; Act None: nothing
	Wanted   Wanted  `json:"wanted"`
	Change   *Change `json:"change,omitempty"`
	Thing    string  `json:"thing,omitempty"`
	Reason   *Reason `json:"reason,omitempty"`
	Remedies []string
	// Ticked says, of a line to change, that it is meant to be packed unless the
	// teacher unticks it.
	Ticked bool `json:"ticked,omitempty"`
}

// An Absent is a student of the class for whom nothing is wanted, with the one
// reason why.
type Absent struct {
	Whom   Whom
	Name   string
	Reason Reason
}

// A Link is a row whose address belongs to another account than the one that
// was given its things.
type Link struct {
	Key      Key // purpose Account
	Name     string
	From, To string // accounts
}

// A List is a packing list in the order of its wanted things, links first,
// absentees last.
type List struct {
	Lines []Line `json:"lines"`
}

// Concerned are the accounts whose access lines to change are about.
func (l List) Concerned() []string {
	var out []string
	for _, line := range l.Lines {
		if line.Change == nil {
			continue
		}
		out = append(out, line.Step.Account, line.Change.To)
		if line.Step.Act == Relink {
			out = append(out, line.Change.From)
		}
	}
	return out
}

// Counts returns the number of lines of each section.
func (l List) Counts() map[Section]int {
	n := map[Section]int{}
	for _, line := range l.Lines {
		n[line.Section]++
	}
	return n
}
