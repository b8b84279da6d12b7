package handout

import (
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
)

// OneEach is the way that gives every student a copy of their own, in their
// satchel or a pocket of it.
type OneEach struct {
	Plan room.Plan
	Settings
}

var _ Way = OneEach{}

// Wanted implements room.Subject: the places and satchels the handout needs,
// its folder, and a copy for each student who is in, with a pointer in that
// folder. Everybody else is among the absent, with one reason. In + out = all.
func (h OneEach) Wanted(c room.Class) ([]packing.Wanted, []packing.Absent) {
	plan := h.Plan.Only(h.Pocket)
	wanted := make([]packing.Wanted, 0, 16+(2+len(plan.Pockets))*len(c.Students))
	wanted = append(append(wanted, plan.ClassPlaces(c)...), folders(c, h.Settings)...)
	levels := map[packing.Key]bool{}
	satchels, copies := plan.SatchelNames(c), names(c, h.Settings)
	var absent []packing.Absent
	for i, st := range c.Students {
		if why, out := h.Out[st.Row]; out {
			absent = append(absent, packing.Absent{Whom: packing.Whom{Row: st.Row}, Name: copies[i].Name, Reason: packing.Reason{Code: why}})
			continue
		}
		wanted = plan.SatchelOf(wanted, c, st, satchels[i], levels)
		wanted = append(wanted, h.copyFor(c, st, copies[i]))
	}
	return wanted, absent
}

// Own implements Way.
func (h OneEach) Own(c room.Class) []packing.Wanted {
	wanted := folders(c, h.Settings)
	for i, name := range names(c, h.Settings) {
		if _, out := h.Out[c.Students[i].Row]; !out {
			wanted = append(wanted, h.copyFor(c, c.Students[i], name))
		}
	}
	return wanted
}

func (h OneEach) copyFor(c room.Class, st room.Student, name naming.Name) packing.Wanted {
	parent := room.SatchelKey(c.ID, st.Row)
	if h.Pocket != "" {
		parent = room.PocketKey(c.ID, st.Row, h.Pocket)
	}
	return packing.Wanted{
		Key: CopyKey(c.ID, h.ID, 1, packing.Whom{Row: st.Row}), Kind: packing.File, Name: name.Name, Apart: name.By, Altered: name.Altered, Parent: parent, Owner: c.Owner, Rule: ownCopy(c, st, h.Level),
		Source: h.Template.Thing, Lender: h.Template.Lender, Pointers: []packing.Key{FolderKey(c.ID, h.ID)}, Problem: st.Problem,
	}
}

// ownCopy gives the student the level. A copy in the satchel is open to above,
// where the student can edit; one they can only read or comment must stand
// alone, so staff are named in it.
func ownCopy(c room.Class, st room.Student, level access.Level) access.Rule {
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
