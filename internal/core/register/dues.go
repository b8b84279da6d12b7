package register

import (
	"time"

	"jollysatchel/internal/core/handout"
)

// A Due is one handout with its due time, as a calendar has it.
type Due struct {
	Handout handout.Handout
	Class   string // its name
	Thing   string // the student's copy; empty: for staff
	At      time.Time
}

// Dues are the due times of what a student was given, each handout once, with the student's extra
// time.
func (h Home) Dues() (out []Due) {
	seen := map[string]bool{}
	for _, k := range h.Copies {
		if at, ok := k.Handout.DueFor(h.Row); ok && !seen[k.Handout.ID] {
			seen[k.Handout.ID] = true
			out = append(out, Due{k.Handout, h.Class.Name, k.Thing, at})
		}
	}
	return out
}

// DuesOf are the due times of a class's packed handouts.
func DuesOf(class string, handouts []handout.Handout) (out []Due) {
	for _, h := range handouts {
		if at, ok := h.DueAt(); ok && h.Packed() && h.Settings.Way != handout.NoticeName {
			out = append(out, Due{h, class, "", at})
		}
	}
	return out
}
