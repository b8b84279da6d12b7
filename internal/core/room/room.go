// Package room turns a class's room plan into the things wanted: the class
// folder, its places, and a satchel with its pockets for every student.
package room

import (
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
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
		Satchel: naming.Pattern{{Column: naming.Family}, {Text: ", "}, {Column: naming.Given}},
		Pockets: []Pocket{},
	}
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
// where the school book knows no account for the address; Problem says so.
type Student struct {
	Row     string
	Person  string
	Account string
	Problem *packing.Reason
	Added   int               // order in which the rows were added
	Packed  string            // name of the satchel as packed, if it is
	Values  map[string]string // columns for patterns
}

// A Class is what room and handout need to know of a class.
type Class struct {
	ID       string
	Folder   string // name of the class folder
	Owner    string // account of the owner teacher
	Staff    []Staff
	Names    Names
	Students []Student // in roster order, left ones not among them
}

// Keys of the class's places.
func (c Class) key(purpose ...string) packing.Key { return packing.MakeKey(c.ID, purpose, "", 1) }

// ClassKey returns the key of the class's own folder.
func ClassKey(class string) packing.Key {
	return packing.MakeKey(class, []string{"class"}, "", 1)
}

// DrawerKey returns the key of the class's drawer.
func DrawerKey(class string) packing.Key {
	return packing.MakeKey(class, []string{"place", "drawer"}, "", 1)
}

// SatchelKey returns the key of a person's satchel in a class.
func SatchelKey(class, person string) packing.Key {
	return packing.MakeKey(class, []string{"satchel"}, person, 1)
}

// PocketKey returns the key of a pocket in a person's satchel.
func PocketKey(class, person, pocket string) packing.Key {
	return packing.MakeKey(class, []string{"pocket", pocket}, person, 1)
}

// Wanted returns everything the plan asks for, parents before what lies in
// them. The class folder stands alone: staff are in its rule and students are
// not; all below is open to above. Students reach the shelf (read), the table
// (edit) and their own satchel (edit), and nothing else.
func Wanted(c Class, plan Plan) []packing.Wish {
	wishes := Places(c)
	names := SatchelNames(c, plan)
	for i, s := range c.Students {
		wishes = append(wishes, Satchel(c, plan, s, names[i])...)
	}
	return wishes
}

// Places returns the class folder and the places in it, without the satchels.
func Places(c Class) []packing.Wish {
	staff := map[string]access.Level{}
	for _, s := range c.Staff {
		if s.Account != c.Owner {
			staff[s.Account] = s.Level
		}
	}
	everyone := func(l access.Level) access.Rule {
		r := access.Rule{Grants: map[string]access.Level{}}
		for _, s := range c.Students {
			if s.Account != "" && s.Problem == nil {
				r.Grants[s.Account] = l
			}
		}
		return r
	}
	none := access.Rule{Grants: map[string]access.Level{}}
	class := c.key("class")
	place := func(word, name string, rule access.Rule) packing.Wish {
		return packing.Wish{Key: c.key("place", word), Kind: packing.Folder, Purpose: word, Name: name, Parent: class, Owner: c.Owner, Rule: rule}
	}
	return []packing.Wish{
		{Key: class, Kind: packing.Folder, Purpose: "class", Name: naming.Safe(c.Folder, ""), Owner: c.Owner, Rule: access.Rule{Grants: staff, StandsAlone: true}},
		place("shelf", c.Names.Shelf, everyone(access.Read)),
		place("table", c.Names.Table, everyone(access.Edit)),
		place("drawer", c.Names.Drawer, none),
		place("cloakroom", c.Names.Cloakroom, none),
	}
}

// Satchel returns a student's satchel and its pockets.
func Satchel(c Class, plan Plan, s Student, name naming.Name) []packing.Wish {
	rule := access.Rule{Grants: map[string]access.Level{}}
	if s.Account != "" {
		rule.Grants[s.Account] = access.Edit
	}
	key := SatchelKey(c.ID, s.Person)
	wishes := []packing.Wish{{
		Key: key, Kind: packing.Folder, Purpose: "satchel", Person: s.Person, Row: s.Row, Name: name.Name, Apart: name.By,
		Parent: c.key("place", "cloakroom"), Owner: c.Owner, Rule: rule, Problem: s.Problem,
	}}
	for _, p := range plan.Pockets {
		wishes = append(wishes, packing.Wish{
			Key: PocketKey(c.ID, s.Person, p.ID), Kind: packing.Folder, Purpose: "pocket", Person: s.Person, Row: s.Row,
			Name: naming.Safe(p.Name, ""), Parent: key, Owner: c.Owner, Rule: access.Rule{Grants: map[string]access.Level{}},
		})
	}
	return wishes
}

// SatchelNames returns the satchels' names in the order of the students.
func SatchelNames(c Class, plan Plan) []naming.Name {
	items := make([]naming.Item, len(c.Students))
	for i, s := range c.Students {
		items[i] = naming.Item{Values: s.Values, Added: s.Added, Packed: s.Packed}
	}
	return naming.TellApart(plan.Satchel, "", items, nil)
}
