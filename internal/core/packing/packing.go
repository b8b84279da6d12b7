// Package packing computes the packing list: what a run would do, line by
// line, from what is wanted and what is found. It does nothing itself.
package packing

import (
	"slices"
	"strconv"
	"strings"

	"jollysatchel/internal/core/access"
)

// A Key names a step for ever: class, purpose, for whom and a generation. It
// never holds a name, address, date or order, so it stays the same whatever
// those become, and the cupboard can tell a step done from a step to do.
type Key string

// MakeKey builds a step's key. purpose is made of a word and ids ("satchel",
// "pocket", pocket id; "copy", handout id, slot); whom is a person's or team's
// id, empty for the class. Generations count from 1; only Make anew raises it.
func MakeKey(class string, purpose []string, whom string, generation int) Key {
	if whom == "" {
		whom = "class"
	}
	return Key(class + "/" + strings.Join(purpose, ".") + "/" + whom + "/" + strconv.Itoa(generation))
}

// A Kind says what a wish makes.
type Kind string

// The kinds of things a run can make.
const (
	Folder Kind = "folder"
	Copy   Kind = "copy"
)

// A Wish is one thing wanted, with everything a run needs to make it. Wishes
// come from room and handout settings; a wish's parent stands before it.
type Wish struct {
	Key     Key         `json:"key"`
	Kind    Kind        `json:"kind"`
	Purpose string      `json:"purpose"` // class, shelf, table, drawer, cloakroom, satchel, pocket, handouts, handout, copy
	Person  string      `json:"person"`  // for whom; empty for the class's own places
	Row     string      `json:"row"`     // the roster row the wish comes from
	Name    string      `json:"name"`
	Parent  Key         `json:"parent"` // empty: at the top of the owner's things
	Owner   string      `json:"owner"`  // account
	Rule    access.Rule `json:"rule"`
	Source  string      `json:"source,omitempty"` // for a copy: id of the template in the cupboard
	Handout string      `json:"handout,omitempty"`
	Pointer Key         `json:"pointer,omitempty"` // folder that gets a pointer to the thing
	Apart   string      `json:"apart,omitempty"`   // rule by which an equal name was told apart
	Problem *Reason     `json:"problem,omitempty"` // what must be fixed before this can be packed
	Change  *Change     `json:"change,omitempty"`  // for a thing already made: what is changed about it
}

// A Change is what a teacher asked for or accepted about a thing already made.
type Change struct {
	Rename string   `json:"rename,omitempty"` // its new name
	From   string   `json:"from,omitempty"`   // its name until now
	Take   []string `json:"take,omitempty"`   // accounts whose access is taken away
}

// ChangeKey returns the key of the step that changes the thing made for k.
func ChangeKey(k Key) Key { return k + "#change" }

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
)

// A Found is what the ledger and the cupboard know of a key.
type Found struct {
	Thing   string                  `json:"thing"` // cupboard id
	State   State                   `json:"state"`
	Name    string                  `json:"name"`    // its present name
	Granted map[string]access.Level `json:"granted"` // the thing's own rule as it stands
	// What we did about it: the name we gave last, and whom we gave access.
	Given   string                  `json:"given"`
	Ours    map[string]access.Level `json:"ours"`
	Pointed bool                    `json:"pointed"` // the pointer wanted is there
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

// An Act is what packing a line does.
type Act string

// The acts. Share gives access to a thing already made; Point adds a pointer;
// Alter carries out the wish's Change.
const (
	Make  Act = "make"
	Share Act = "share"
	Point Act = "point"
	Alter Act = "alter"
	None  Act = ""
)

// A Line is one line of the packing list.
type Line struct {
	Section  Section  `json:"section"`
	Act      Act      `json:"act"`
	Wish     Wish     `json:"wish"`
	Thing    string   `json:"thing,omitempty"`
	Reason   *Reason  `json:"reason,omitempty"`
	Remedies []string `json:"remedies,omitempty"`
	// Ticked says, of a line to change, that it is meant to be packed unless the
	// teacher unticks it.
	Ticked bool `json:"ticked,omitempty"`
}

// An Absent is a student of the class for whom nothing is wanted, with the one
// reason why.
type Absent struct {
	Person string
	Row    string
	Name   string
	Reason Reason
}

// A List is a packing list in the order of its wishes, absentees last.
type List struct {
	Lines []Line `json:"lines"`
}

// Counts returns the number of lines of each section.
func (l List) Counts() map[Section]int {
	n := map[Section]int{}
	for _, line := range l.Lines {
		n[line.Section]++
	}
	return n
}

// Compute makes the packing list: wanted − found. The same arguments give the
// same list in the same order. A line to pack never removes, replaces or lowers
// anything; a line to change does what it says, and only when it is ticked.
func Compute(wanted []Wish, absent []Absent, found map[Key]Found) List {
	l := List{Lines: make([]Line, 0, len(wanted)+len(absent))}
	blocked := map[Key]bool{} // wishes that can't be packed in this list
	for _, w := range wanted {
		line := judge(w, found[w.Key])
		if w.Parent != "" && blocked[w.Parent] && line.Section == ToPack && line.Act == Make {
			line = Line{Section: NeedsFixing, Wish: w, Reason: &Reason{Code: "parent-needs-fixing"}}
		}
		if line.Section == NeedsFixing && found[w.Key].Thing == "" || found[w.Key].State == Gone || found[w.Key].State == InBin {
			blocked[w.Key] = true
		}
		l.Lines = append(l.Lines, line)
		if line, any := change(w, found[w.Key]); any {
			l.Lines = append(l.Lines, line)
		}
	}
	for _, a := range absent {
		reason := a.Reason
		l.Lines = append(l.Lines, Line{Section: LeftOut, Wish: Wish{Person: a.Person, Row: a.Row, Name: a.Name}, Reason: &reason})
	}
	return l
}

func judge(w Wish, f Found) Line {
	line := Line{Wish: w, Thing: f.Thing}
	switch f.State {
	case InBin:
		line.Section, line.Reason = NeedsFixing, &Reason{Code: "in-bin"}
		line.Remedies = []string{"bring-back", "make-anew", "leave-out"}
		return line
	case Gone:
		line.Section, line.Reason = NeedsFixing, &Reason{Code: "gone"}
		line.Remedies = []string{"make-anew", "leave-out"}
		return line
	}
	switch {
	case w.Problem != nil && (f.State == Missing || f.State == Unshared):
		line.Section, line.Reason = NeedsFixing, w.Problem
		line.Remedies = []string{"correct-address", "leave-out"}
	case f.State == Missing:
		line.Section, line.Act = ToPack, Make
	case f.State == Unshared || lacking(w.Rule.Grants, f.Granted):
		line.Section, line.Act = ToPack, Share
	case w.Pointer != "" && !f.Pointed:
		line.Section, line.Act = ToPack, Point
	default:
		line.Section = AlreadyThere
		if f.State == Elsewhere {
			line.Reason = &Reason{Code: "moved"}
		} else if f.Name != w.Name && f.Name != f.Given {
			line.Reason = &Reason{Code: "renamed", Args: map[string]string{"name": f.Name}}
		}
	}
	return line
}

// change returns the line for what should be different about a thing that is
// there: its name, where what it is named after has changed, and access we gave
// to accounts that should have none now. A name that people changed is left
// unticked, and so is what belongs to a student who must be fixed first.
func change(w Wish, f Found) (Line, bool) {
	if f.State != Here && f.State != Elsewhere && f.State != Unshared {
		return Line{}, false
	}
	c := Change{}
	line := Line{Section: ToChange, Act: Alter, Wish: w, Thing: f.Thing, Ticked: w.Problem == nil}
	if f.Given != "" && w.Name != f.Given && w.Name != f.Name {
		c.Rename, c.From = w.Name, f.Name
		line.Reason = &Reason{Code: "rename", Args: map[string]string{"from": f.Name, "to": w.Name}}
		line.Ticked = line.Ticked && f.Name == f.Given
	}
	for account := range f.Ours {
		if _, wanted := w.Rule.Grants[account]; !wanted && f.Granted[account] > access.Nothing {
			c.Take = append(c.Take, account)
		}
	}
	if len(c.Take) > 0 {
		slices.Sort(c.Take)
		args := map[string]string{"count": strconv.Itoa(len(c.Take))}
		code := "take-away"
		if c.Rename != "" {
			code = "rename-and-take-away"
			args["from"], args["to"] = f.Name, w.Name
		}
		line.Reason = &Reason{Code: code, Args: args}
	}
	if line.Reason == nil {
		return Line{}, false
	}
	line.Wish.Key, line.Wish.Change = ChangeKey(w.Key), &c
	return line, true
}

// lacking reports whether anybody has less than is wanted. More is not less:
// what staff gave besides stays.
func lacking(wanted, has map[string]access.Level) bool {
	for p, l := range wanted {
		if has[p] < l {
			return true
		}
	}
	return false
}
