package classes

import (
	"maps"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/core/room"
)

// placeOf is the place of the class's plan that is closed where a thing is: of a place that each student or team
// has, theirs, and not the folder that holds those.
func (c Class) placeOf(k packing.Key) (p room.Place, ok bool) {
	id := string(k.What.Purpose)
	switch k.What.Purpose {
	case packing.Satchel:
		id = room.Cloakroom
	case packing.Place:
		id = k.What.ID
	case packing.Shelf, packing.Table:
	default:
		return p, false
	}
	p, ok = c.Plan.Place(id)
	return p, ok && (p.For == room.ForStudent) == (k.Whom.Row != "") && (p.For == room.ForTeam) == (k.Whom.Team != "")
}

// Shut reports whether a thing of the class is closed for writing by hand, with all that lies in it, and
// since when and by whom.
func (c Class) Shut(k packing.Key) (pens.Hand, bool) {
	p, ok := c.placeOf(k)
	if !ok {
		return pens.Hand{}, false
	}
	return c.Pens[p.ID].Down(k.Whom.Row)
}

// SayPens closes a place for writing by hand, or opens it again: of a place that each student has, that of
// some rows, or of all where none is named. there are the rows there are.
func (c Class) SayPens(place string, rows, there []string, hand pens.Hand) (Class, error) {
	p, ok := c.Plan.Place(place)
	switch {
	case !ok:
		return c, change.Refuse("place", "no-such-place")
	case !p.Written():
		return c, change.Refuse("place", "not-written-in")
	case len(rows) > 0 && p.For != room.ForStudent:
		return c, change.Refuse("rows", "not-of-students")
	}
	if c.Pens = maps.Clone(c.Pens); c.Pens == nil {
		c.Pens = map[string]pens.Said{}
	}
	c.Pens[p.ID] = c.Pens[p.ID].Say(rows, there, hand)
	return c, nil
}

// GiveExtra gives rows extra time in all handouts of the class, or takes it away where it is none.
func (c Class) GiveExtra(rows []string, x pens.Extra) (Class, error) {
	if err := x.Check(); err != nil {
		return c, err
	}
	if c.Extra = maps.Clone(c.Extra); c.Extra == nil {
		c.Extra = map[string]pens.Extra{}
	}
	for _, row := range rows {
		if delete(c.Extra, row); x != (pens.Extra{}) {
			c.Extra[row] = x
		}
	}
	return c, nil
}

// IDs are the ids of rows, of all of them and of those that haven't left.
func IDs(rows []Row) (all, there []string) {
	for _, r := range rows {
		if all = append(all, r.ID); !r.Gone {
			there = append(there, r.ID)
		}
	}
	return all, there
}

// Among reports whether some rows are all among those there are.
func Among(rows, all []string) bool {
	return !slices.ContainsFunc(rows, func(row string) bool { return !slices.Contains(all, row) })
}
