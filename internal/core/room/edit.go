package room

import (
	"errors"
	"fmt"
	"slices"
	"strconv"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
)

// MostName is how long the name of a class, and of its folder, may be, in bytes.
const MostName = 120

// Parts are values of the room plan; nil is one that nothing is said about.
type Parts struct {
	Satchel    *naming.Pattern   `json:"satchel,omitempty"`
	Within     *[]naming.Pattern `json:"within,omitempty"`
	Path       *[]naming.Pattern `json:"path,omitempty"`
	Name       *string           `json:"name,omitempty"`
	Term       *string           `json:"term,omitempty"`
	Base       *string           `json:"base,omitempty"`
	Sorted     *bool             `json:"sorted,omitempty"`
	KeepInStep *bool             `json:"keepInStep,omitempty"`
	School     *bool             `json:"school,omitempty"` // what is made is the school's, not the owner teacher's
}

// PlaceParts are values of a place; nil is one that nothing is said about.
type PlaceParts struct {
	Name   *string       `json:"name,omitempty"`
	For    *For          `json:"for,omitempty"`
	Level  *string       `json:"level,omitempty"`
	HandIn *bool         `json:"handIn,omitempty"`
	Set    *record.Field `json:"set,omitempty"`
	Under  *string       `json:"under,omitempty"`
	Usual  *string       `json:"usual,omitempty"` // of one that is added: the usual place that comes back
}

// A PocketName is another name for a pocket, and the one that was looked at.
type PocketName struct {
	ID, Name string
	Was      *string
}

// A PlaceChange is other values of a place, and those that were looked at.
type PlaceChange struct {
	ID      string
	To, Was PlaceParts
}

// A Change is what the teacher changes about the room plan. Was are the values
// that were looked at, of those that change. Orders are ids: those that are named
// come in that order, the others keep theirs behind them.
type Change struct {
	To, Was Parts
	Pockets struct {
		Add    []string // names
		Remove []string // ids
		Rename []PocketName
		Order  []string
	}
	Places struct {
		Add    []PlaceParts
		Remove []string // ids
		Change []PlaceChange
		Order  []string
	}
}

// Bounded refuses texts of a plan that are too long.
func (plan Plan) Bounded() error {
	for _, p := range append(append([]naming.Pattern{plan.Satchel}, plan.Within...), plan.Path...) {
		if err := p.Bounded("satchel"); err != nil {
			return err
		}
	}
	if len(plan.Name) > MostName {
		return change.TooLong("name", MostName)
	}
	if len(plan.Term) > naming.MostText {
		return change.TooLong("term", naming.MostText)
	}
	for _, p := range plan.Places {
		if len(p.Name) > naming.MostName {
			return change.TooLong("places", naming.MostName)
		}
	}
	for _, p := range plan.Pockets {
		if len(p.Name) > naming.MostName {
			return change.TooLong("pockets", naming.MostName)
		}
	}
	return nil
}

// same refuses a value that isn't what was looked at any more.
func same[T any](was, to *T, field string, now T, text func(T) string) error {
	if was == nil || to == nil {
		return nil
	}
	w := text(*was)
	return change.Unless(&w, field, text(now), text(*to))
}

func set[T any](into *T, to *T) {
	if to != nil {
		*into = *to
	}
}

func plainly[T ~string](v T) string { return string(v) }

func yesNo(v bool) string { return strconv.FormatBool(v) }

func levelsText(path []naming.Pattern) string { return fmt.Sprint(path) }

// Of is a plan with a change; newID names what is added. The error is a *change.Changed where
// what was looked at isn't so any more.
func (ch Change) Of(plan Plan, newID func() string) (Plan, error) {
	t, w := ch.To, ch.Was
	if t.Name != nil {
		name := naming.Tidy(*t.Name)
		t.Name = &name
	}
	if t.Term != nil {
		term := naming.Tidy(*t.Term)
		t.Term = &term
	}
	err := errors.Join(
		same(w.Satchel, t.Satchel, "name", plan.Satchel, naming.Pattern.String),
		same(w.Within, t.Within, "within", plan.Within, levelsText), same(w.Path, t.Path, "path", plan.Path, levelsText),
		same(w.Name, t.Name, "folder", plan.Name, plainly), same(w.Term, t.Term, "term", plan.Term, plainly),
		same(w.Base, t.Base, "base", plan.Base, plainly), same(w.Sorted, t.Sorted, "sorted", plan.Sorted, yesNo))
	if err != nil {
		return plan, err
	}
	set(&plan.Satchel, t.Satchel)
	set(&plan.Within, t.Within)
	set(&plan.Path, t.Path)
	set(&plan.Name, t.Name)
	set(&plan.Term, t.Term)
	set(&plan.Base, t.Base)
	set(&plan.Sorted, t.Sorted)
	if plan, err = ch.pockets(plan, newID); err != nil {
		return plan, err
	}
	return ch.places(plan, newID)
}

func (ch Change) pockets(plan Plan, newID func() string) (Plan, error) {
	plan.Pockets = slices.DeleteFunc(slices.Clone(plan.Pockets), func(p Pocket) bool { return slices.Contains(ch.Pockets.Remove, p.ID) })
	for _, r := range ch.Pockets.Rename {
		i := slices.IndexFunc(plan.Pockets, func(p Pocket) bool { return p.ID == r.ID })
		if i < 0 {
			return plan, &change.Changed{Field: "pockets"}
		}
		name := naming.Folder(r.Name)
		if err := change.Unless(r.Was, "pockets", plan.Pockets[i].Name, name); err != nil {
			return plan, err
		}
		plan.Pockets[i].Name = name
	}
	for _, name := range ch.Pockets.Add {
		plan.Pockets = append(plan.Pockets, Pocket{ID: newID(), Name: naming.Folder(name)})
	}
	plan.Pockets = inOrder(plan.Pockets, ch.Pockets.Order, func(p Pocket) string { return p.ID })
	return plan, nil
}

// inOrder puts what order names first, in its order.
func inOrder[T any](all []T, order []string, id func(T) string) []T {
	at := func(x T) int {
		if i := slices.Index(order, id(x)); i >= 0 {
			return i
		}
		return len(order)
	}
	out := slices.Clone(all)
	if len(order) > 0 {
		slices.SortStableFunc(out, func(a, b T) int { return at(a) - at(b) })
	}
	return out
}

func (ch Change) places(plan Plan, newID func() string) (Plan, error) {
	c := ch.Places
	if len(c.Add)+len(c.Remove)+len(c.Change)+len(c.Order) == 0 {
		return plan, nil
	}
	places := slices.Clone(plan.AllPlaces())
	for _, id := range c.Remove {
		i := slices.IndexFunc(places, func(p Place) bool { return p.ID == id })
		if i < 0 {
			continue // somebody else took it away
		}
		for k := range places { // what is in it comes to be where it lay
			if places[k].Under == id {
				places[k].Under = places[i].Under
			}
		}
		places = slices.Delete(places, i, i+1)
	}
	for _, x := range c.Change {
		i := slices.IndexFunc(places, func(p Place) bool { return p.ID == x.ID })
		if i < 0 {
			return plan, &change.Changed{Field: "places"}
		}
		p := &places[i]
		err := errors.Join(
			same(x.Was.Name, x.To.Name, "places", p.Name, plainly), same(x.Was.For, x.To.For, "places", p.For, plainly),
			same(x.Was.Level, x.To.Level, "places", p.Level, plainly),
			same(x.Was.HandIn, x.To.HandIn, "places", p.HandIn, yesNo), same(x.Was.Set, x.To.Set, "places", p.Set, plainly),
			same(x.Was.Under, x.To.Under, "places", p.Under, plainly))
		if err != nil {
			return plan, err
		}
		p.become(x.To)
	}
	for _, x := range c.Add {
		p := Place{ID: newID(), For: ForClass, Level: access.Read.String()}
		for _, usual := range UsualPlaces() {
			if x.Usual != nil && *x.Usual == usual.ID {
				p = usual
			}
		}
		p.become(x)
		places = append(places, p)
	}
	plan.Places = inOrder(places, c.Order, func(p Place) string { return p.ID })
	return plan, nil
}

// become gives a place other values. What goes with who it is for follows: staff
// have no level, handing in is editing, and only teams come of a column.
func (p *Place) become(to PlaceParts) {
	if to.Name != nil {
		p.Name = naming.Folder(*to.Name)
	}
	set(&p.For, to.For)
	set(&p.Level, to.Level)
	set(&p.HandIn, to.HandIn)
	set(&p.Set, to.Set)
	set(&p.Under, to.Under)
	switch {
	case p.For == ForStaff:
		p.Level = ""
	case p.Level == "":
		p.Level = access.Read.String()
	}
	if p.For != ForStudent {
		p.HandIn = false
	}
	if p.HandIn {
		p.Level = access.Edit.String()
	}
	if p.For != ForTeam {
		p.Set = ""
	} else if p.Set == "" {
		p.Set = record.Team
	}
}
