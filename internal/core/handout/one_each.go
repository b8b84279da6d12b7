package handout

import (
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
)

// OneEach is the way that gives every student copies of their own, of each document
// one, in their satchel or a pocket of it.
type OneEach struct {
	Plan room.Plan
	Settings
}

var _ Way = OneEach{}

// Wanted implements room.Subject.
func (h OneEach) Wanted(c room.Class) ([]packing.Wanted, []packing.Absent) {
	return wantedOf(h.Plan, c, h.Settings, h.Own(c))
}

// Own implements Way. Names are told apart from those of anyone who is left out, too: who
// is taken in later changes no other's.
func (h OneEach) Own(c room.Class) []packing.Wanted {
	wanted := folders(c, h.Settings)
	var taken []string
	for i, d := range h.Documents {
		names := h.names(c, d, h.several() || len(d.Only) > 0, h.takers(c, c.Students), taken)
		for k, st := range c.Students {
			if _, out := h.Out[st.Row]; !out && d.isFor(st.Row) {
				wanted = append(wanted, h.own(c, st, d, names[k]))
			}
			if i+1 < len(h.Documents) {
				taken = append(taken, names[k].Name)
			}
		}
	}
	return wanted
}
