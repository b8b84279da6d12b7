package handout

import (
	"strings"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
)

// ByLevel is the way that gives every student a copy of their own of the document, or
// of each of several, that is for their level. Who has none, or one that no document is for, must be fixed.
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
	of := map[string]int{} // documents of a level
	for _, d := range h.Documents {
		if len(d.Only) == 0 {
			of[naming.Fold(d.For)]++
		}
	}
	for _, st := range c.Students {
		if why := h.problemOf(st, of); why != nil {
			if _, out := h.Out[st.Row]; !out {
				wanted = append(wanted, h.without(c, st, why))
			}
			continue
		}
		for i, d := range h.Documents {
			if naming.Fold(d.For) == naming.Fold(h.levelOf(st)) && d.isFor(st.Row) {
				students[i] = append(students[i], st)
			}
		}
	}
	var taken []string
	for i, d := range h.Documents {
		names := h.names(c, d, of[naming.Fold(d.For)] > 1 || len(d.Only) > 0, h.takers(c, students[i]), taken)
		for k, st := range students[i] {
			if _, out := h.Out[st.Row]; !out {
				wanted = append(wanted, h.own(c, st, d, names[k]))
			}
			taken = append(taken, names[k].Name)
		}
	}
	return wanted
}

func (h ByLevel) levelOf(st room.Student) string { return strings.TrimSpace(st.Values.Get(h.By)) }

// problemOf is why a student gets no document, if that is so; of says for how many
// each level has.
func (h ByLevel) problemOf(st room.Student, of map[string]int) *packing.Reason {
	level := h.levelOf(st)
	switch {
	case st.Problem != nil:
		return st.Problem
	case level == "":
		return &packing.Reason{Code: packing.LevelNone, Args: map[string]string{"column": h.By.Label()}}
	case of[naming.Fold(level)] == 0:
		return &packing.Reason{Code: packing.LevelUnmapped, Args: map[string]string{"level": level}}
	}
	return nil
}
