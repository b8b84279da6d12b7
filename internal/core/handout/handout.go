// Package handout turns a handout's settings into the copies wanted. Each way
// of handing out is a file of its own.
package handout

import (
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

// Reasons why a student gets no copy.
const (
	SitsOut     = string(choosing.SitsOut)
	Unticked    = string(choosing.Unticked)
	ByCondition = string(choosing.ByCondition)
)

// A Template is the document a handout gives.
type Template struct {
	Thing  string // id in the cupboard
	Ending string // of its file name, such as ".md"
	Lender string // account that may read it
}

// Settings describe one handout.
type Settings struct {
	ID       string
	Title    string
	Template Template
	Name     naming.Pattern
	Pocket   string // id of the pocket the copies lie in; empty: the satchel itself
	Level    access.Level
	Out      map[string]string // row → SitsOut, Unticked or ByCondition
	Packed   map[string]string // row → name the copy was packed with
	Values   record.Values     // the handout's own columns: title, date, term, year
}

// UsualName is the pattern every handout starts with.
func UsualName() naming.Pattern {
	return naming.Pattern{{Column: record.Period}, {Text: " "}, {Column: record.Family}, {Text: " – "}, {Column: record.Title}}
}

// FolderKey returns the key of the handout's own folder in the drawer.
func FolderKey(class, handout string) packing.Key {
	return packing.Key{Class: class, What: packing.What{Purpose: packing.HandoutFolder, ID: handout}}
}

// CopyKey returns the key of the copy of one of the handout's templates.
func CopyKey(class, handout string, slot int, whom packing.Whom) packing.Key {
	return packing.Key{Class: class, What: packing.What{Purpose: packing.Copy, ID: handout, Slot: slot}, Whom: whom}
}

// KeysOf returns the keys under which a student can have documents of a
// handout: what a cell of the Register is about.
func KeysOf(class, handout string, whom packing.Whom) []packing.Key {
	return []packing.Key{CopyKey(class, handout, 1, whom)}
}

// A Way is a way of handing out. Own is what it makes itself: of what Wanted says,
// all but the places and satchels of the room, which it needs.
type Way interface {
	room.Subject
	Own(room.Class) []packing.Wanted
}

// folders are the folder Drawer › Handouts, which all handouts share, and the
// handout's own in it, which holds a pointer to every copy.
func folders(c room.Class, s Settings) []packing.Wanted {
	none := access.Rule{Grants: map[string]access.Level{}}
	return []packing.Wanted{
		{Key: c.Key(packing.Handouts), Kind: packing.Folder, Name: c.Names.Handouts, Parent: c.Key(packing.Drawer), Owner: c.Owner, Rule: none},
		{Key: FolderKey(c.ID, s.ID), Kind: packing.Folder, Name: naming.Safe(s.Title, ""), Altered: naming.Altered(s.Title, ""), Parent: c.Key(packing.Handouts), Owner: c.Owner, Rule: none},
	}
}

// names are the copies' names in the order of the students.
func names(c room.Class, s Settings) []naming.Name {
	items := make([]naming.Item, len(c.Students))
	for i, st := range c.Students {
		items[i] = naming.Item{Values: record.With{Own: s.Values, Rest: st.Values}, Added: st.Added, Packed: s.Packed[st.Row]}
	}
	return naming.TellApart(s.Name, s.Template.Ending, items, nil)
}
