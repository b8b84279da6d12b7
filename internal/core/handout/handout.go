// Package handout turns a handout's settings into the copies wanted. Each way
// of handing out is a file of its own.
package handout

import (
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/telling"
)

// Reasons why a student gets no copy.
const (
	SitsOut     = string(choosing.SitsOut)
	Unticked    = string(choosing.Unticked)
	ByCondition = string(choosing.ByCondition)
)

// A WayName names a way of handing out, as it is kept.
type WayName string

// The ways. One each is what a handout is where nothing else is said.
const (
	EachName   WayName = "one-each"
	LevelName  WayName = "by-level"
	TeamName   WayName = "per-team"
	ForAllName WayName = "one-for-all"
	NoticeName WayName = "notice"
)

// Tells is what people are told of, of what was said: where nothing was, a notice is told of,
// for it comes to no place that people look into, and what is in their satchels isn't.
func (w WayName) Tells(said telling.When) telling.When {
	switch {
	case said != telling.Usual:
		return said
	case w == NoticeName:
		return telling.First
	}
	return telling.Not
}

// MostDocuments is how many documents one handout gives.
const MostDocuments = 20

// A Document is one of those that a handout gives. Its slot is its own for ever: the
// keys of its copies have it.
type Document struct {
	Slot     int
	Thing    string         // id in the cupboard
	Lender   string         // account that may read it
	Original string         // what the file is called, without its ending
	Ending   string         // of its file name, such as ".md"
	Name     naming.Pattern // of its copies; empty: the handout's
	For      string         // the level it is for, where levels get their own
	// MediaType is the file's. Plain leaves the columns that it asks for as they stand.
	MediaType string
	Plain     bool
	// Only are the rows that it is for, beside what they have; none: everybody.
	Only []string
}

// isFor reports whether a row is among those that a document is for.
func (d Document) isFor(row string) bool { return len(d.Only) == 0 || slices.Contains(d.Only, row) }

// several reports whether a handout gives several documents to everybody.
func (s Settings) several() bool {
	n := 0
	for _, d := range s.Documents {
		if len(d.Only) == 0 {
			n++
		}
	}
	return n > 1
}

// Settings describe one handout.
type Settings struct {
	ID        string
	Title     string
	Documents []Document
	Name      naming.Pattern
	Pocket    string // id of the pocket the copies are in; empty: the satchel itself
	Level     access.Level
	By        record.Field           // the column that says a student's level
	Teams     record.Field           // the column whose teams get one each
	Out       map[string]string      // row → SitsOut, Unticked or ByCondition
	Packed    map[packing.Key]string // key of a copy → name it was packed with
	Values    record.Values          // the handout's own columns: title, date, term, year
	Known     record.Vocabulary      // the columns that documents can ask for
	// Classmates is what the others of the handout may do with a student's or a team's
	// copy; Mates says that it was ever more than nothing.
	Classmates access.Level
	Mates      bool
	// Passing is what those may do whom a student let into their own copy; Passed has
	// their accounts, by the student's row.
	Passing access.Level
	Passed  map[string][]string
	// Names and Pockets are those of single students' copies, by row, where they aren't the
	// handout's.
	Names     map[string]naming.Pattern
	Pockets   map[string]string
	Levels    map[string]access.Level // of single students, by row, where it isn't Level
	Unreached map[string]bool         // accounts that couldn't be given their own satchel
	// Beside are the names that other handouts' things have in a folder; nil: none.
	Beside func(folder packing.Key) []string
	mates  map[string]access.Level // their accounts
	// matesWait are the rows of those who reach each other's copies once they have an account.
	matesWait []string
}

// MostClassmates is how many students may reach each other's copies: each copy names
// them all.
const MostClassmates = 60

// LevelOf is what the student of a row may do with what they are given.
func (s Settings) LevelOf(row string) access.Level {
	if l, own := s.Levels[row]; own {
		return l
	}
	return s.Level
}

// classmates are the accounts of those who are in, with what they may do with each
// other's copies; none where there are too many.
func (s *Settings) classmates(c room.Class) map[string]access.Level {
	if s.mates != nil || s.Classmates == access.Nothing {
		return s.mates
	}
	s.mates = map[string]access.Level{}
	in := s.in(c)
	if len(in) <= MostClassmates {
		s.matesWait = room.Waiting(in)
	}
	for _, st := range in {
		if len(in) <= MostClassmates && st.Account != "" && st.Problem == nil && !s.Unreached[st.Account] {
			s.mates[st.Account] = s.Classmates
		}
	}
	return s.mates
}

// union are the rows of both, each once.
func union(a, b []string) []string {
	out := slices.Clone(a)
	for _, row := range b {
		if !slices.Contains(out, row) {
			out = append(out, row)
		}
	}
	return out
}

// withMates gives what classmates may to who has less.
func (s *Settings) withMates(c room.Class, r access.Rule) access.Rule {
	for account, l := range s.classmates(c) {
		r.Grants[account] = max(r.Grants[account], l)
	}
	return r
}

// withPassed gives those whom a student let into their copy what they may do there, and
// never more than the student may.
func (s *Settings) withPassed(row string, r access.Rule) access.Rule {
	for _, account := range s.Passed[row] {
		if !s.Unreached[account] {
			r.Grants[account] = max(r.Grants[account], min(s.Passing, s.LevelOf(row)))
		}
	}
	return r
}

// Known reports whether there is such a way.
func (w WayName) Known() bool {
	return w == EachName || w == LevelName || w == TeamName || w == ForAllName || w == NoticeName
}

// UsualNameOf is the pattern a handout of a way starts with.
func UsualNameOf(w WayName) naming.Pattern {
	switch w {
	case TeamName:
		return naming.Pattern{{Column: record.Team}, {Text: " – "}, {Column: record.Title}}
	case ForAllName:
		return naming.Pattern{{Column: record.Title}}
	}
	return UsualName()
}

// UsualName is the pattern every handout starts with.
func UsualName() naming.Pattern {
	return naming.Pattern{{Column: record.Period}, {Text: " "}, {Column: record.Family}, {Text: " – "}, {Column: record.Title}}
}

// FolderKey returns the key of the handout's own folder in the drawer.
func FolderKey(class, handout string) packing.Key {
	return packing.Key{Class: class, What: packing.What{Purpose: packing.HandoutFolder, ID: handout}}
}

// CopyKey returns the key of the copy of one of the handout's documents. Slot 0 is
// that of a student for whom there is none yet.
func CopyKey(class, handout string, slot int, whom packing.Whom) packing.Key {
	return packing.Key{Class: class, What: packing.What{Purpose: packing.Copy, ID: handout, Slot: slot}, Whom: whom}
}

// KeysOf returns the keys under which a student, of some teams, can have documents of
// a handout with some slots: what a cell of the Register is about.
func KeysOf(class, handout string, way WayName, slots []int, row string, teams []string) []packing.Key {
	var of []packing.Whom
	switch way {
	case TeamName:
		for _, team := range teams {
			of = append(of, packing.Whom{Team: team})
		}
	case ForAllName:
		of = append(of, packing.Whom{})
	default:
		of = append(of, packing.Whom{Row: row})
	}
	keys := make([]packing.Key, 0, len(slots)*len(of)+1)
	for _, slot := range slots {
		for _, whom := range of {
			keys = append(keys, CopyKey(class, handout, slot, whom))
		}
	}
	if way != EachName && way != "" {
		keys = append(keys, CopyKey(class, handout, 0, packing.Whom{Row: row}))
	}
	return keys
}
