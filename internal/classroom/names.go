package classroom

import (
	"context"

	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// names are what the things of a class's handouts are called, by the folder they lie in or
// are pointed to from: nobody finds two of one name in their satchel.
type names struct {
	made  func() []store.Called // what was made
	given []store.Called        // what is still to be made
	in    map[string][]store.Called
	asked map[string]bool // the folders asked for, where that is noted
}

// beside says what other handouts' things are called in a folder.
func (n *names) beside(handout string) func(packing.Key) []string {
	return func(folder packing.Key) []string {
		at := folder.String()
		if n.asked != nil {
			n.asked[at] = true
			return nil
		}
		if n.in == nil {
			n.in = map[string][]store.Called{}
			n.note(n.made()...)
			n.note(n.given...)
		}
		var out []string
		for _, x := range n.in[at] {
			if x.Handout != handout {
				out = append(out, x.Name)
			}
		}
		return out
	}
}

func (n *names) note(of ...store.Called) {
	for _, x := range of {
		n.in[x.Folder] = append(n.in[x.Folder], x)
	}
}

// give notes what a thing that isn't made yet is called, for the handouts that come after.
func (n *names) give(handout string, w packing.Wanted) {
	if w.Key.What.Slot == 0 && w.Key.What.Purpose == packing.Copy {
		return // that of a student who must be fixed first
	}
	of := []store.Called{{Handout: handout, Folder: w.Parent.String(), Name: w.Name}}
	for _, folder := range w.Pointers {
		of = append(of, store.Called{Handout: handout, Folder: folder.String(), Name: w.Name})
	}
	if n.in == nil {
		n.given = append(n.given, of...)
	} else {
		n.note(of...)
	}
}

// namesMade are the names of what was made, of all that was read; of what is in the bin none.
func (s *snapshot) namesMade() []store.Called {
	var out []store.Called
	for k, e := range s.entries {
		if k.What.Purpose != packing.Copy && k.What.Purpose != packing.HandoutFolder {
			continue
		}
		if place := s.state(e).Place; place == cupboard.InBin || place == cupboard.Gone {
			continue
		}
		out = append(out, store.Called{Handout: k.What.ID, Folder: e.Spot, Name: e.Name})
		for folder := range e.Pointers {
			if k.Whom.Row != "" {
				break // it lies among its handout's things, and meets no others
			}
			out = append(out, store.Called{Handout: k.What.ID, Folder: folder, Name: e.Name})
		}
	}
	return out
}

// readNames reads the names that those of one handout could meet: in the folders of what it
// is still to make or to rename, and of those alone.
func (s *snapshot) readNames(ctx context.Context, st *store.Store, handout string) error {
	h, ok := s.handout(handout)
	if !ok {
		return nil
	}
	s.names.asked = map[string]bool{}
	s.subject(h).Own(s.room)
	folders := make([]string, 0, len(s.names.asked))
	for at := range s.names.asked {
		folders = append(folders, at)
	}
	s.names.asked = nil
	var found []store.Called
	if len(folders) > 0 {
		var err error
		if found, err = st.NamesIn(ctx, s.ID, handout, folders); err != nil {
			return err
		}
	}
	s.names.made = func() []store.Called { return found }
	return nil
}
