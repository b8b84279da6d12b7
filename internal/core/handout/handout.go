// Package handout turns a handout's settings into the copies wanted.
package handout

import (
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
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
}

// Settings describe one handout of the way one each.
type Settings struct {
	ID       string
	Title    string
	Template Template
	Name     naming.Pattern
	Pocket   string // id of the pocket the copies lie in; empty: the satchel itself
	Level    access.Level
	Out      map[string]string // row → SitsOut, Unticked or ByCondition
	Packed   map[string]string // person → name the copy was packed with
	Values   map[string]string // the handout's own columns: title, date, term, year
}

// UsualName is the pattern every handout starts with.
func UsualName() naming.Pattern {
	return naming.Pattern{{Column: naming.Period}, {Text: " "}, {Column: naming.Family}, {Text: " – "}, {Column: naming.Title}}
}

// FolderKey returns the key of the handout's own folder in the drawer.
func FolderKey(class, handout string) packing.Key {
	return packing.MakeKey(class, []string{"handout", handout}, "", 1)
}

// CopyKey returns the key of a person's copy.
func CopyKey(class, handout, person string) packing.Key {
	return packing.MakeKey(class, []string{"copy", handout, "1"}, person, 1)
}

// Wanted returns everything the handout asks for: the places and satchels it
// needs, its folder Drawer › Handouts › Title, and a copy for each student who
// is in, with a pointer in that folder. Everybody else is among the absent,
// with one reason. In + out = all.
func Wanted(c room.Class, plan room.Plan, s Settings) ([]packing.Wish, []packing.Absent) {
	wishes := room.Places(c)
	none := access.Rule{Grants: map[string]access.Level{}}
	handouts := packing.MakeKey(c.ID, []string{"place", "handouts"}, "", 1)
	folder := FolderKey(c.ID, s.ID)
	wishes = append(wishes,
		packing.Wish{Key: handouts, Kind: packing.Folder, Purpose: "handouts", Name: c.Names.Handouts, Parent: room.DrawerKey(c.ID), Owner: c.Owner, Rule: none},
		packing.Wish{Key: folder, Kind: packing.Folder, Purpose: "handout", Name: naming.Safe(s.Title, ""), Parent: handouts, Owner: c.Owner, Rule: none, Handout: s.ID})
	satchels := room.SatchelNames(c, plan)
	names := copyNames(c, s)
	var absent []packing.Absent
	for i, st := range c.Students {
		if why, out := s.Out[st.Row]; out {
			absent = append(absent, packing.Absent{Person: st.Person, Row: st.Row, Name: names[i].Name, Reason: packing.Reason{Code: why}})
			continue
		}
		wishes = append(wishes, room.Satchel(c, onlyPocket(plan, s.Pocket), st, satchels[i])...)
		parent := room.SatchelKey(c.ID, st.Person)
		if s.Pocket != "" {
			parent = room.PocketKey(c.ID, st.Person, s.Pocket)
		}
		wishes = append(wishes, packing.Wish{
			Key: CopyKey(c.ID, s.ID, st.Person), Kind: packing.Copy, Purpose: "copy", Person: st.Person, Row: st.Row,
			Name: names[i].Name, Apart: names[i].By, Parent: parent, Owner: c.Owner, Rule: copyRule(c, st, s.Level),
			Source: s.Template.Thing, Handout: s.ID, Pointer: folder, Problem: st.Problem,
		})
	}
	return wishes, absent
}

// copyRule gives the student the level. A copy in the satchel is open to
// above, where the student can edit; one they can only read or comment must
// stand alone, so staff are named in it.
func copyRule(c room.Class, st room.Student, level access.Level) access.Rule {
	r := access.Rule{Grants: map[string]access.Level{}}
	if st.Account != "" {
		r.Grants[st.Account] = level
	}
	if level < access.Edit {
		r.StandsAlone = true
		for _, s := range c.Staff {
			if s.Account != c.Owner {
				r.Grants[s.Account] = s.Level
			}
		}
	}
	return r
}

func onlyPocket(plan room.Plan, id string) room.Plan {
	var keep []room.Pocket
	for _, p := range plan.Pockets {
		if p.ID == id {
			keep = append(keep, p)
		}
	}
	plan.Pockets = keep
	return plan
}

func copyNames(c room.Class, s Settings) []naming.Name {
	items := make([]naming.Item, len(c.Students))
	for i, st := range c.Students {
		v := make(map[string]string, len(st.Values)+len(s.Values))
		for k, x := range st.Values {
			v[k] = x
		}
		for k, x := range s.Values {
			v[k] = x
		}
		items[i] = naming.Item{Values: v, Added: st.Added, Packed: s.Packed[st.Person]}
	}
	return naming.TellApart(s.Name, s.Template.Ending, items, nil)
}
