package handout

import (
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

// OneForAll is the way that gives all students one and the same document: nobody has
// a copy of their own. It is put into the handout's folder, so that the teacher's
// template stays as it is, and pointed to from each satchel.
type OneForAll struct {
	Plan room.Plan
	Settings
}

var _ Way = OneForAll{}

// Wanted implements room.Subject.
func (h OneForAll) Wanted(c room.Class) ([]packing.Wanted, []packing.Absent) {
	return wantedOf(h.Plan, c, h.Settings, h.Own(c))
}

// Own implements Way. A student's own columns say nothing in the document's name.
func (h OneForAll) Own(c room.Class) []packing.Wanted {
	wanted, students := folders(c, h.Settings), h.in(c)
	for _, st := range students {
		if st.Problem != nil {
			wanted = append(wanted, h.without(c, st, st.Problem))
		}
	}
	all := []taker{{packing.Whom{}, record.With{Own: record.Values{}, Rest: c.Own}, 0, h.homes(c, students...)}}
	var taken []string
	for _, d := range h.Documents {
		names := h.names(c, d, len(h.Documents) > 1, all, taken)
		wanted = append(wanted, h.shared(c, d, all[0], students, names[0]))
		taken = append(taken, names[0].Name)
	}
	return wanted
}
