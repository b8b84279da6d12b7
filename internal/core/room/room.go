// Package room turns a class's room plan into the things wanted: the class
// folder, its places, and a satchel with its pockets for every student.
package room

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"maps"
	"slices"
	"strings"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
)

// Names of the class's own places, in the school's words.
type Names struct{ Shelf, Table, Drawer, Cloakroom, Handouts string }

// English is the set of names used where the school has said nothing else.
var English = Names{"Shelf", "Table", "Drawer", "Cloakroom", "Handouts"}

// Staff is a member of the class's staff.
type Staff struct {
	Account string
	Level   access.Level // teachers can edit, assistants can comment
}

// A Student is one row of the roster as the room needs it. Account is empty where the row is linked to none: Problem
// says why nothing is made for them, Waits why what is made waits.
type Student struct {
	Row     string
	Account string
	Problem *packing.Reason
	Waits   *packing.Reason
	Asked   *packing.Reason // what is asked before a satchel is made
	Added   int             // order in which the rows were added
	Packed  string          // name of the satchel as packed, if it is
	Values  record.Getter   // columns for patterns
	// Relink is the account the row's address belongs to, where that is another
	// than the one its things were given to: until that is answered nothing more is given.
	Relink string
	Name   string // as it is listed
}

// A Team of a class: an id that stays whatever it is called, and its members.
type Team struct {
	ID   string
	Name string
	Rows []string
}

// A Class is what room and handout need to know of a class.
type Class struct {
	ID       string
	Folder   string // name of the class folder where the plan has none
	Owner    string // account of the owner teacher
	Staff    []Staff
	Names    Names
	Own      record.Values           // the class's own columns, for the path above it
	Students []Student               // in roster order, left ones not among them
	Teams    map[record.Field][]Team // by the column they come of, in the order they were made
	// Satchels are the names of their satchels, where they were worked out before:
	// every handout needs them.
	Satchels []naming.Name
}

// A Subject is what a packing list is about: the room plan, or a handout of any
// way. Everything it asks for comes with what it is in, parents first, and
// with everybody it is not for.
type Subject interface {
	Wanted(Class) ([]packing.Wanted, []packing.Absent)
}

// Key returns the key of one of the class's own places.
func (c Class) Key(p packing.Purpose) packing.Key {
	return packing.Key{Class: c.ID, What: packing.What{Purpose: p}}
}

// PlaceKey returns the key of a place of a plan: its folder for a whole class or
// for staff and the one that holds those for teams or students, or one of those.
func (c Class) PlaceKey(id string, whom packing.Whom) packing.Key {
	if (Place{ID: id}).Usual() {
		return c.Key(packing.Purpose(id))
	}
	return packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Place, ID: id}, Whom: whom}
}

// SatchelKey returns the key of a row's satchel in a class.
func SatchelKey(class, row string) packing.Key {
	return packing.Key{Class: class, What: packing.What{Purpose: packing.Satchel}, Whom: packing.Whom{Row: row}}
}

// PocketKey returns the key of a pocket in a row's satchel.
func PocketKey(class, row, pocket string) packing.Key {
	return packing.Key{Class: class, What: packing.What{Purpose: packing.Pocket, ID: pocket}, Whom: packing.Whom{Row: row}}
}

// Hold is why a student is given nothing more for now: the account that has their things is
// another than their address belongs to.
func (s Student) Hold() *packing.Reason {
	if s.Relink == "" {
		return nil
	}
	return &packing.Reason{Code: packing.RelinkFirst}
}

// Wait says of what is the student's own that it waits for their account, if it does, to give them a level then.
func (s Student) Wait(w *packing.Wanted, level access.Level) {
	if s.Waits != nil {
		w.Waits, w.Lacking, w.Later = []string{s.Row}, s.Waits, level
	}
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
// rule and students are not; all below is open to above. In the usual plan
// students reach the shelf (read), the table (edit) and their own satchel (edit),
// and nothing else. Absent are those that have no team in a set a place is for.
func (p Plan) Wanted(c Class) ([]packing.Wanted, []packing.Absent) {
	names := p.SatchelNames(c)
	wanted, absent := p.places(c, names, true)
	levels := map[packing.Key]bool{}
	for i, s := range c.Students {
		wanted = p.SatchelOf(wanted, c, s, names[i], levels)
	}
	return wanted, absent
}

// ClassPlaces returns the class folder and the folders in it that are the whole
// class's or staff's, and those that hold what teams and students have.
func (p Plan) ClassPlaces(c Class) []packing.Wanted {
	wanted, _ := p.places(c, nil, false)
	return wanted
}

func none() access.Rule { return access.Rule{Grants: map[string]access.Level{}} }

func (p Plan) places(c Class, names []naming.Name, all bool) ([]packing.Wanted, []packing.Absent) {
	rule := none()
	rule.StandsAlone = true
	for _, s := range c.Staff {
		if s.Account != c.Owner {
			rule.Grants[s.Account] = s.Level
		}
	}
	name := p.Name
	if name == "" {
		name = c.Folder
	}
	own := record.With{Own: record.DayValues(p.Day, p.Term), Rest: c.Own}
	b := builder{Class: c, names: names, all: all, plan: p, wanted: []packing.Wanted{{
		Key: c.Key(packing.ClassFolder), Kind: packing.Folder, Name: naming.Safe(name, ""),
		Altered: naming.Altered(name, ""), Owner: c.Owner, Rule: rule,
		Base: p.Base, Path: path(p.Path, own),
	}}}
	b.below("", c.Key(packing.ClassFolder))
	return b.wanted, b.absent
}

// path renders the levels of a path; one without any value is left out.
func path(levels []naming.Pattern, values record.Getter) []string {
	var out []string
	for _, level := range levels {
		if name := level.Render(values); name != "" {
			out = append(out, naming.Safe(name, ""))
		}
	}
	return out
}

// A builder makes the wanted things of a plan's places, parents first.
type builder struct {
	Class
	plan   Plan
	names  []naming.Name // of the satchels
	all    bool          // those of each team and student, too
	wanted []packing.Wanted
	absent []packing.Absent
}

// below adds the places that are in one, in the plan's order.
func (b *builder) below(id string, parent packing.Key) {
	for _, x := range b.plan.AllPlaces() {
		if x.Under != id {
			continue
		}
		key := b.PlaceKey(x.ID, packing.Whom{})
		rule := none()
		if x.For == ForClass {
			rule = b.everyone(x.level())
		}
		w := b.folder(key, x.Called(b.Names), parent, rule)
		if x.For == ForClass {
			w.Waits = Waiting(b.Students)
		}
		if b.all && x.ID != Cloakroom {
			switch x.For {
			case ForTeam:
				b.teams(x, key)
			case ForStudent:
				b.students(x, key)
			}
		}
		if x.For == ForClass || x.For == ForStaff {
			b.below(x.ID, key)
		}
	}
}

func (b *builder) folder(key packing.Key, name string, parent packing.Key, rule access.Rule) *packing.Wanted {
	b.wanted = append(b.wanted, packing.Wanted{Key: key, Kind: packing.Folder, Name: naming.Safe(name, ""),
		Altered: naming.Altered(name, ""), Parent: parent, Owner: b.Owner, Rule: rule})
	return &b.wanted[len(b.wanted)-1]
}

// Waiting are the rows among students whose access waits for an account.
func Waiting(of []Student) []string {
	var out []string
	for _, s := range of {
		if s.Waits != nil {
			out = append(out, s.Row)
		}
	}
	return out
}

// everyone gives a level to all students; those with a problem, too: what was
// given stays.
func (c Class) everyone(l access.Level) access.Rule {
	r := none()
	for _, s := range c.Students {
		if s.Account != "" {
			r.Grants[s.Account] = l
		}
	}
	return r
}

// teams adds a folder for each team with what is in it.
func (b *builder) teams(x Place, holder packing.Key) {
	listed := make(map[string]Student, len(b.Students))
	for _, s := range b.Students {
		listed[s.Row] = s
	}
	placed := map[string]bool{}
	taken := map[string]bool{}
	for _, team := range b.Teams[x.Set] {
		rule, members := none(), make([]Student, 0, len(team.Rows))
		for _, row := range team.Rows {
			placed[row] = true
			s, in := listed[row]
			if in {
				members = append(members, s)
			}
			if s.Account != "" {
				rule.Grants[s.Account] = x.level()
			}
		}
		name := naming.Free(team.Name, "", taken)
		taken[naming.Fold(name)] = true
		whom := packing.Whom{Team: team.ID}
		key := b.PlaceKey(x.ID, whom)
		w := b.folder(key, name, holder, rule)
		w.Waits = Waiting(members)
		b.inside(x.ID, key, whom, rule, w.Waits)
	}
	for _, s := range b.Students {
		if !placed[s.Row] {
			b.absent = append(b.absent, packing.Absent{Whom: packing.Whom{Row: s.Row}, Name: s.Name,
				Reason: packing.Reason{Code: "no-team", Args: map[string]string{"place": x.Called(b.Names)}}})
		}
	}
}

// students adds a folder for each student, called as their satchel is.
func (b *builder) students(x Place, holder packing.Key) {
	for i, s := range b.Students {
		rule := none()
		if s.Account != "" {
			rule.Grants[s.Account] = x.level()
		}
		whom := packing.Whom{Row: s.Row}
		key := b.PlaceKey(x.ID, whom)
		w := b.folder(key, b.names[i].Name, holder, rule)
		w.Apart, w.Altered, w.Problem, w.Hold = b.names[i].By, b.names[i].Altered, s.Problem, s.Hold()
		s.Wait(w, x.level())
		b.inside(x.ID, key, whom, rule, w.Waits)
	}
}

// inside adds what is in the folder of one team or student: places for the
// same, each with its own level.
func (b *builder) inside(id string, parent packing.Key, whom packing.Whom, above access.Rule, waits []string) {
	for _, x := range b.plan.AllPlaces() {
		if x.Under != id {
			continue
		}
		rule := access.Rule{Grants: maps.Clone(above.Grants)}
		for account := range rule.Grants {
			rule.Grants[account] = x.level()
		}
		key := b.PlaceKey(x.ID, whom)
		b.folder(key, x.Called(b.Names), parent, rule).Waits = waits
		b.inside(x.ID, key, whom, rule, waits)
	}
}

// SatchelOf adds a student's satchel and its pockets to wanted, after those levels
// above it that aren't among levels yet.
func (p Plan) SatchelOf(wanted []packing.Wanted, c Class, s Student, name naming.Name, levels map[packing.Key]bool) []packing.Wanted {
	parent := c.Key(packing.Cloakroom)
	var above []string
	if len(p.Within) > 0 {
		above = path(p.Within, record.With{Own: record.DayValues(p.Day, p.Term), Rest: s.Values})
	}
	for i, level := range above {
		key := c.levelKey(above[:i+1])
		if !levels[key] {
			levels[key] = true
			wanted = append(wanted, packing.Wanted{Key: key, Kind: packing.Folder, Name: level, Parent: parent, Owner: c.Owner, Rule: none()})
		}
		parent = key
	}
	rule := none()
	if s.Account != "" {
		rule.Grants[s.Account] = access.Edit
	}
	key := SatchelKey(c.ID, s.Row)
	wanted = append(wanted, packing.Wanted{
		Key: key, Kind: packing.Folder, Name: name.Name, Apart: name.By, Altered: name.Altered, Parent: parent,
		Owner: c.Owner, Rule: rule, Problem: cmp.Or(s.Problem, s.Asked), Hold: s.Hold(),
	})
	s.Wait(&wanted[len(wanted)-1], access.Edit)
	for _, pocket := range p.Pockets {
		wanted = append(wanted, packing.Wanted{
			Key: PocketKey(c.ID, s.Row, pocket.ID), Kind: packing.Folder, Name: naming.Safe(pocket.Name, ""),
			Altered: naming.Altered(pocket.Name, ""), Parent: key, Owner: c.Owner, Rule: none(),
		})
	}
	return wanted
}

// levelKey is the key of a level between Cloakroom and satchels. A level is what
// it says: students of another period are on another level, and it is made once
// for all that say the same.
func (c Class) levelKey(above []string) packing.Key {
	folded := slices.Clone(above)
	for i := range folded {
		folded[i] = naming.Fold(folded[i])
	}
	sum := sha256.Sum256([]byte(strings.Join(folded, "/")))
	return packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Level, ID: hex.EncodeToString(sum[:8])}}
}

// SatchelNames returns the satchels' names in the order of the students.
func (p Plan) SatchelNames(c Class) []naming.Name {
	if len(c.Satchels) == len(c.Students) {
		return c.Satchels
	}
	own := record.DayValues(p.Day, p.Term)
	items := make([]naming.Item, len(c.Students))
	for i, s := range c.Students {
		items[i] = naming.Item{Values: record.With{Own: own, Rest: s.Values}, Added: s.Added, Packed: s.Packed}
	}
	return naming.TellApart(p.Satchel, "", items, nil)
}
