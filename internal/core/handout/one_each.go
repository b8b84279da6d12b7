package handout

import (
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
)

// OneEach is the way that gives every student a copy of their own, in their
// satchel or a pocket of it.
type OneEach struct {
	Plan room.Plan
	Settings
}

// Wanted implements room.Subject: the places and satchels the handout needs,
// its folder, and a copy for each student who is in, with a pointer in that
// folder. Everybody else is among the absent, with one reason. In + out = all.
func (h OneEach) Wanted(c room.Class) ([]packing.Wanted, []packing.Absent) {
	s, plan := h.Settings, h.Plan.Only(h.Pocket)
	wanted := folders(c, s)
	satchels, copies := plan.SatchelNames(c), names(c, s)
	var absent []packing.Absent
	for i, st := range c.Students {
		whom := packing.Whom{Row: st.Row}
		if why, out := s.Out[st.Row]; out {
			absent = append(absent, packing.Absent{Whom: whom, Name: copies[i].Name, Reason: packing.Reason{Code: why}})
			continue
		}
		wanted = append(wanted, plan.SatchelOf(c, st, satchels[i])...)
		parent := room.SatchelKey(c.ID, st.Row)
		if s.Pocket != "" {
			parent = room.PocketKey(c.ID, st.Row, s.Pocket)
		}
		wanted = append(wanted, packing.Wanted{
			Key: CopyKey(c.ID, s.ID, 1, whom), Kind: packing.File, Name: copies[i].Name, Apart: copies[i].By, Parent: parent, Owner: c.Owner, Rule: ownCopy(c, st, s.Level),
			Source: s.Template.Thing, Lender: s.Template.Lender, Pointers: []packing.Key{FolderKey(c.ID, s.ID)}, Problem: st.Problem,
		})
	}
	return wanted, absent
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
