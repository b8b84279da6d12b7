package classroom

import (
	"context"
	"time"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
)

// mostStood is how many times of packing are told of a handout.
const mostStood = 50

// stood is the class list as it stands now, with what becomes of each student.
func (s *Picture) Stood(id, by string, at time.Time, l packing.List) handout.Stood {
	out := handout.Stood{ID: id, At: at, By: by, Students: []handout.StoodStudent{}}
	said := map[string]packing.Outcome{}
	for _, o := range l.Outcomes() {
		said[o.Row] = o
	}
	for _, st := range s.Students {
		o, ok := said[st.ID]
		if !ok { // of a notice, no line is about who reads it
			o = packing.Outcome{Row: st.ID, Section: packing.AlreadyThere}
		}
		out.Students = append(out.Students, handout.StoodStudent{Outcome: o, Name: st.SortName()})
	}
	return out
}

// StoodTimes returns when a handout was packed, newest first.
func (c *Packing) StoodTimes(ctx context.Context, class, handout string) ([]handout.Stood, error) {
	return c.Store.StoodTimes(ctx, class, handout, mostStood)
}

// StoodList is the class list as it stood when a handout was packed.
func (c *Packing) StoodList(ctx context.Context, class, handout, id string) (handout.Stood, error) {
	st, err := c.Store.StoodList(ctx, class, handout, id)
	return st, notFound(err)
}
