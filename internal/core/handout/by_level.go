package handout

import (
	"strings"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
)

// Why somebody gets no document though they are in.
const (
	LevelNone     = "level-none"     // the row says no level
	LevelUnmapped = "level-unmapped" // no document is for that level
	TeamNone      = "team-none"      // the row is in no team
)

// ByLevel is the way that gives every student a copy of their own of the document
// that is for their level. Who has none, or one that no document is for, must be fixed.
type ByLevel struct {
	Plan room.Plan
	Settings
}

var _ Way = ByLevel{}

// Wanted implements room.Subject.
func (h ByLevel) Wanted(c room.Class) ([]packing.Wanted, []packing.Absent) {
	return wantedOf(h.Plan, c, h.Settings, h.Own(c))
}

// Own implements Way.
func (h ByLevel) Own(c room.Class) []packing.Wanted {
	wanted := folders(c, h.Settings)
	students := make([][]room.Student, len(h.Documents))
	for _, st := range h.in(c) {
		if i, why := h.documentOf(st); why != nil {
			wanted = append(wanted, h.without(c, st, why))
		} else {
			students[i] = append(students[i], st)
		}
	}
	var taken []string
	for i, d := range h.Documents {
		names := h.names(c, d, h.pattern(d, false), takers(students[i]), taken)
		for k, st := range students[i] {
			wanted = append(wanted, h.own(c, st, d, names[k]))
			taken = append(taken, names[k].Name)
		}
	}
	return wanted
}

// documentOf is the place of the document that is for a student's level.
func (h ByLevel) documentOf(st room.Student) (int, *packing.Reason) {
	if st.Problem != nil {
		return 0, st.Problem
	}
	level := strings.TrimSpace(st.Values.Get(h.By))
	if level == "" {
		return 0, &packing.Reason{Code: LevelNone, Args: map[string]string{"column": h.By.Label()}}
	}
	for i, d := range h.Documents {
		if d.For != "" && naming.Fold(d.For) == naming.Fold(level) {
			return i, nil
		}
	}
	return 0, &packing.Reason{Code: LevelUnmapped, Args: map[string]string{"level": level}}
}
