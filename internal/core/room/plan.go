package room

import (
	"slices"

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

// For says for whom a place is.
type For string

// A place is one folder for the whole class or for staff, or one for each team of
// a set or for each student, with a folder that holds those.
const (
	ForClass   For = "class"
	ForTeam    For = "team"
	ForStudent For = "student"
	ForStaff   For = "staff"
)

// The usual places' ids in a plan. Drawer and Cloakroom are needed: handouts
// are in the one, satchels in the other.
const (
	Shelf     = string(packing.Shelf)
	Table     = string(packing.Table)
	Drawer    = string(packing.Drawer)
	Cloakroom = string(packing.Cloakroom)
)

// A Place is one of the class's places.
type Place struct {
	ID     string       `json:"id"`             // Shelf, Table, Drawer, Cloakroom, or one's own
	Name   string       `json:"name,omitempty"` // empty: the school's word for a usual one
	For    For          `json:"for"`
	Level  string       `json:"level,omitempty"` // "read", "comment" or "edit"; none for staff
	HandIn bool         `json:"handIn,omitempty"`
	Set    record.Field `json:"set,omitempty"`   // column of the teams it is for
	Under  string       `json:"under,omitempty"` // id of the place it is in; empty: the class folder
}

// Usual reports one of the four places every class begins with.
func (p Place) Usual() bool {
	return p.ID == Shelf || p.ID == Table || p.ID == Drawer || p.ID == Cloakroom
}

// Needed reports a place that a plan can't be without.
func (p Place) Needed() bool { return p.ID == Drawer || p.ID == Cloakroom }

// Written reports a place that students write in.
func (p Place) Written() bool { return p.For != ForStaff && (p.level() >= access.Edit || p.HandIn) }

func (p Place) level() access.Level {
	l, _ := access.ParseLevel(p.Level)
	return l
}

// A Plan describes a class's places. What it says of days and terms is its own,
// the same for all that is in it.
type Plan struct {
	Satchel naming.Pattern   `json:"satchel"`          // names of the satchels
	Within  []naming.Pattern `json:"within,omitempty"` // levels between Cloakroom and satchels
	Pockets []Pocket         `json:"pockets"`
	Sorted  bool             `json:"sorted,omitempty"` // pockets by name rather than as they stand here
	Places  []Place          `json:"places,omitempty"` // in the teacher's order; none: the usual ones
	Name    string           `json:"name,omitempty"`   // of the class folder; empty: code and name
	Base    string           `json:"base,omitempty"`   // cupboard id of the folder the class's lies in; empty: the top
	Path    []naming.Pattern `json:"path,omitempty"`   // levels between that and the class folder
	Term    string           `json:"term,omitempty"`
	Day     string           `json:"day,omitempty"` // when it was first packed, as in ISO 8601
}

// UsualPlaces are the four every class begins with.
func UsualPlaces() []Place {
	return []Place{
		{ID: Shelf, For: ForClass, Level: access.Read.String()}, {ID: Table, For: ForClass, Level: access.Edit.String()},
		{ID: Drawer, For: ForStaff}, {ID: Cloakroom, For: ForStudent, Level: access.Edit.String()},
	}
}

// Usual is the plan every class starts with: good enough to accept as it is.
func Usual() Plan {
	return Plan{
		Satchel: naming.Pattern{{Column: record.Family}, {Text: ", "}, {Column: record.Given}},
		Pockets: []Pocket{},
	}
}

// AllPlaces returns the plan's places in its order, the usual ones where it says
// nothing.
func (p Plan) AllPlaces() []Place {
	if p.Places == nil {
		return UsualPlaces()
	}
	return p.Places
}

// Place returns a place by its id.
func (p Plan) Place(id string) (Place, bool) {
	all := p.AllPlaces()
	if i := slices.IndexFunc(all, func(x Place) bool { return x.ID == id }); i >= 0 {
		return all[i], true
	}
	return Place{}, false
}

// Pocket returns the pocket with an id.
func (p Plan) Pocket(id string) (Pocket, bool) {
	if i := slices.IndexFunc(p.Pockets, func(x Pocket) bool { return x.ID == id }); i >= 0 {
		return p.Pockets[i], true
	}
	return Pocket{}, false
}

// HasPocket reports whether things can be in a pocket; empty is the satchel itself.
func (p Plan) HasPocket(id string) bool {
	_, there := p.Pocket(id)
	return there || id == ""
}

// PocketOf is the id of the pocket of a name; empty for none.
func (p Plan) PocketOf(name string) string {
	if i := slices.IndexFunc(p.Pockets, func(x Pocket) bool { return naming.Fold(x.Name) == naming.Fold(name) }); i >= 0 {
		return p.Pockets[i].ID
	}
	return ""
}

// UsualPocket is where the copies of a new handout lie: where those of the class's latest do,
// while there is that pocket, and in the satchel itself at first.
func (p Plan) UsualPocket(latest string) string {
	if p.HasPocket(latest) {
		return latest
	}
	return ""
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

// InOrder returns the pockets in the order they are shown: as they are in the
// plan, or by name in a language's order.
func (p Plan) InOrder(language string) []Pocket {
	out := slices.Clone(p.Pockets)
	if p.Sorted {
		naming.NewOrder(language).Sort(len(out), func(i int) string { return out[i].Name }, func(i, j int) { out[i], out[j] = out[j], out[i] })
	}
	return out
}

// OfClass are the columns that can name the levels above a class's folder: they
// are the same for the whole class.
var OfClass = record.Vocabulary{record.SchoolYear, record.Term, record.Period, record.Code, record.ClassName, record.Year, record.Date}

// Called is what a place's folder is called in a class.
func (p Place) Called(n Names) string {
	if p.Name != "" {
		return naming.Safe(p.Name, "")
	}
	switch p.ID {
	case Shelf:
		return n.Shelf
	case Table:
		return n.Table
	case Drawer:
		return n.Drawer
	case Cloakroom:
		return n.Cloakroom
	}
	return naming.Nameless
}
