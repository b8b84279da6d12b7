// Package room turns a class's room plan into the things wanted: the class
// folder, its places, and a satchel with its pockets for every student.
package room

import (
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
)

// A Pocket is an inner folder that every satchel of the class has.
type Pocket struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// A Plan describes a class's places.
type Plan struct {
	Satchel naming.Pattern `json:"satchel"` // names of the satchels
	Pockets []Pocket       `json:"pockets"`
}

// Usual is the plan every class starts with: good enough to accept as it is.
func Usual() Plan {
	return Plan{
		Satchel: naming.Pattern{{Column: record.Family}, {Text: ", "}, {Column: record.Given}},
		Pockets: []Pocket{},
	}
}

// Only returns the plan with one of its pockets, or none where id is empty.
func (p Plan) Only(id string) Plan {
	var keep []Pocket
	for _, pocket := range p.Pockets {
		if pocket.ID == id {
			keep = append(keep, pocket)
		}
	}
	p.Pockets = keep
	return p
}

// Names of the class's own places, in the school's words.
type Names struct{ Shelf, Table, Drawer, Cloakroom, Handouts string }

// English is the set of names used where the school has said nothing else.
var English = Names{"Shelf", "Table", "Drawer", "Cloakroom", "Handouts"}

// Staff is a member of the class's staff.
type Staff struct {
	Account string
	Level   access.Level // teachers can edit, assistants can comment
}

// A Student is one row of the roster as the room needs it. Account is empty
// where the row is linked to none; Problem says why.
type Student struct {
	Row     string
	Account string
	Problem *packing.Reason
	Added   int           // order in which the rows were added
	Packed  string        // name of the satchel as packed, if it is
	Values  record.Getter // columns for patterns
	// Relink is the account the row's address belongs to, where that is another
	// than the one its things were given to.
	Relink string
	Name   string // as it is listed
}

// A Class is what room and handout need to know of a class.
type Class struct {
	ID       string
	Folder   string // name of the class folder
	Owner    string // account of the owner teacher
	Staff    []Staff
	Names    Names
	Students []Student // in roster order, left ones not among them
	// Satchels are the names of their satchels, where they were worked out before:
	// every handout needs them.
	Satchels []naming.Name
}

// A Subject is what a packing list is about: the room plan, or a handout of any
// way. Everything it asks for comes with what it lies in, parents first, and
// with everybody it is not for.
type Subject interface {
	Wanted(Class) ([]packing.Wanted, []packing.Absent)
}

// Key returns the key of one of the class's own places.
func (c Class) Key(p packing.Purpose) packing.Key {
	return packing.Key{Class: c.ID, What: packing.What{Purpose: p}}
}

// SatchelKey returns the key of a row's satchel in a class.
func SatchelKey(class, row string) packing.Key {
	return packing.Key{Class: class, What: packing.What{Purpose: packing.Satchel}, Whom: packing.Whom{Row: row}}
}

// PocketKey returns the key of a pocket in a row's satchel.
func PocketKey(class, row, pocket string) packing.Key {
	return packing.Key{Class: class, What: packing.What{Purpose: packing.Pocket, ID: pocket}, Whom: packing.Whom{Row: row}}
}

// Links are the rows whose address belongs to another account than the one that
// was given their things.
func (c Class) Links() []packing.Link {
	var out []packing.Link
	for _, s := range c.Students {
		if s.Relink != "" {
			key := packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Account}, Whom: packing.Whom{Row: s.Row}}
			out = append(out, packing.Link{Key: key, Name: s.Name, From: s.Account, To: s.Relink})
		}
	}
	return out
}

// Wanted implements Subject. The class folder stands alone: staff are in its
// rule and students are not; all below is open to above. Students reach the
// shelf (read), the table (edit) and their own satchel (edit), and nothing else.
func (p Plan) Wanted(c Class) ([]packing.Wanted, []packing.Absent) {
	wanted := Places(c)
	names := p.SatchelNames(c)
	for i, s := range c.Students {
		wanted = append(wanted, p.SatchelOf(c, s, names[i])...)
	}
	return wanted, nil
}

// Places returns the class folder and the places in it, without the satchels.
func Places(c Class) []packing.Wanted {
	staff := map[string]access.Level{}
	for _, s := range c.Staff {
		if s.Account != c.Owner {
			staff[s.Account] = s.Level
		}
	}
	everyone := func(l access.Level) access.Rule {
		r := access.Rule{Grants: map[string]access.Level{}}
		for _, s := range c.Students {
			if s.Account != "" { // with a problem, too: what was given stays
				r.Grants[s.Account] = l
			}
		}
		return r
	}
	none := access.Rule{Grants: map[string]access.Level{}}
	class := c.Key(packing.ClassFolder)
	place := func(p packing.Purpose, name string, rule access.Rule) packing.Wanted {
		return packing.Wanted{Key: c.Key(p), Kind: packing.Folder, Name: name, Parent: class, Owner: c.Owner, Rule: rule}
	}
	return []packing.Wanted{
		{Key: class, Kind: packing.Folder, Name: naming.Safe(c.Folder, ""), Owner: c.Owner, Rule: access.Rule{Grants: staff, StandsAlone: true}},
		place(packing.Shelf, c.Names.Shelf, everyone(access.Read)),
		place(packing.Table, c.Names.Table, everyone(access.Edit)),
		place(packing.Drawer, c.Names.Drawer, none),
		place(packing.Cloakroom, c.Names.Cloakroom, none),
	}
}

// SatchelOf returns a student's satchel and its pockets.
func (p Plan) SatchelOf(c Class, s Student, name naming.Name) []packing.Wanted {
	rule := access.Rule{Grants: map[string]access.Level{}}
	if s.Account != "" {
		rule.Grants[s.Account] = access.Edit
	}
	key := SatchelKey(c.ID, s.Row)
	wanted := []packing.Wanted{{
		Key: key, Kind: packing.Folder, Name: name.Name, Apart: name.By, Altered: name.Altered, Parent: c.Key(packing.Cloakroom), Owner: c.Owner, Rule: rule, Problem: s.Problem,
	}}
	for _, pocket := range p.Pockets {
		wanted = append(wanted, packing.Wanted{
			Key: PocketKey(c.ID, s.Row, pocket.ID), Kind: packing.Folder, Name: naming.Safe(pocket.Name, ""), Altered: naming.Altered(pocket.Name, ""), Parent: key, Owner: c.Owner,
			Rule: access.Rule{Grants: map[string]access.Level{}},
		})
	}
	return wanted
}

// SatchelNames returns the satchels' names in the order of the students.
func (p Plan) SatchelNames(c Class) []naming.Name {
	if len(c.Satchels) == len(c.Students) {
		return c.Satchels
	}
	items := make([]naming.Item, len(c.Students))
	for i, s := range c.Students {
		items[i] = naming.Item{Values: s.Values, Added: s.Added, Packed: s.Packed}
	}
	return naming.TellApart(p.Satchel, "", items, nil)
}
