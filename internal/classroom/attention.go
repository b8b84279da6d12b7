package classroom

import (
	"context"
	"strconv"

	"jollysatchel/internal/core/packing"
)

// A Note is something in a class that needs attention; Count is how many
// students or lines it concerns.
type Note struct {
	Reason packing.Reason
	Count  int
}

// A Tag is a class as it hangs on the rail. Troubled says that it can't be read
// just now; then its name alone is known.
type Tag struct {
	Class
	Notes    []Note
	Ready    bool // its room has been packed
	Troubled bool
}

// Tags are the classes on whose staff an account is, all of them for an empty
// one, with what needs attention there. One that can't be read takes nothing
// along.
func (c *Classroom) Tags(ctx context.Context, account string) ([]Tag, error) {
	classes, err := c.Store.Classes(ctx, account)
	if err != nil {
		return nil, err
	}
	out := make([]Tag, len(classes))
	for i, cl := range classes {
		s, err := c.look(ctx, cl.ID)
		if err != nil {
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			c.Log.Warn("a class can't be read", "class", cl.ID, "error", err)
			out[i] = Tag{Class: Class{Class: cl}, Troubled: true}
			continue
		}
		notes, ready := s.attention()
		out[i] = Tag{Class: s.Class, Notes: notes, Ready: ready}
	}
	return out, nil
}

// attention lists what needs attention in a class today, and whether its room
// has been packed.
func (s *snapshot) attention() (notes []Note, ready bool) {
	if len(s.entries) == 0 {
		return nil, false
	}
	add := func(code string, n int) {
		if n > 0 {
			notes = append(notes, Note{packing.Reason{Code: code, Args: map[string]string{"count": strconv.Itoa(n)}}, n})
		}
	}
	unknown := map[string]bool{}
	for _, st := range s.Students {
		if st.Problem != nil {
			unknown[st.ID] = true
		}
	}
	add("students-unknown", len(unknown))
	lines := map[string]bool{}
	for k := range s.stuck {
		if k.Whom.Row == "" || !unknown[k.Whom.Row] {
			lines[k.Whom.Row+string(k.What.Purpose)] = true
		}
	}
	add("lines-stuck", len(lines))
	l := s.lacking()
	add("students-missing", l.Students)
	add("changes-waiting", l.Changes)
	return notes, true
}
