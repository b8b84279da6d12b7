package picture

import (
	"maps"
	"slices"
	"strings"
	"sync"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
)

// names are what things of handouts are called, by the folder they are in or are pointed to
// from: nobody finds two of one name in their satchel.
type names map[string][]ledger.Called

func (n names) note(handout, name string, folders ...string) {
	for _, at := range folders {
		n[at] = append(n[at], ledger.Called{Handout: handout, Folder: at, Name: name})
	}
}

// give notes what a thing that isn't made yet is to be called.
func (n names) give(handout string, w packing.Wanted) {
	if w.Problem != nil {
		return
	}
	n.note(handout, w.Name, w.Parent.String())
	for _, folder := range w.Pointers {
		n.note(handout, w.Name, folder.String())
	}
}

// but are the names in a folder of others than one handout.
func (n names) but(handout, folder string) []string {
	var out []string
	for _, x := range n[folder] {
		if x.Handout != handout {
			out = append(out, x.Name)
		}
	}
	return out
}

// namesThere are the names of what was made, of all that was read, and of what is coming; of
// what is in the bin none.
func (s *Picture) namesThere() names {
	n := names{}
	for k, e := range s.Entries {
		if k.Handout() == "" {
			continue
		}
		if place := s.State(e).Place; place == ledger.Gone || place == ledger.InBin && e.Bound != ledger.BoundForBin {
			continue // on its way there it may be kept
		}
		n.note(k.What.ID, e.Name, e.Spot)
		if k.Whom.Row == "" { // a student's own is pointed to among its handout's things, and meets no others
			n.note(k.What.ID, e.Name, slices.Collect(maps.Keys(e.Pointers))...)
		}
	}
	n.coming(s.Coming)
	return n
}

// coming notes what a run is still to make, or to rename.
func (n names) coming(of []ledger.Coming) {
	for _, x := range of {
		if x.Named && x.Key.Handout() != "" {
			n.note(x.Key.Handout(), x.Name, append(slices.Clone(x.Points), x.Folder)...)
		}
	}
}

// mostNumbered is up to which number a name is looked for at once, until one is free.
const mostNumbered = 8

// namesFor finds the names that those of one handout meet: of what it is still to make or to
// rename. It asks for these names, by like, and with a number where one is there already, not for all
// there are.
func (s *Picture) namesFor(h handout.Handout, like func([]string) ([]ledger.Called, error)) (names, error) {
	n, planned := names{}, names{}
	planned.coming(s.Coming)
	fresh := names{}
	asked := map[string]string{} // name → its ending
	for _, w := range s.wayBeside(h, func(packing.Key) []string { return nil }).Own(s.Room) {
		if w.Key.What.ID != h.ID {
			continue
		}
		if e := s.Entries[w.Key]; s.packed[w.Key] != w.Name || e != nil && s.State(e).Place == ledger.InBin {
			fresh.give(h.ID, w)
			asked[w.Name] = ""
			if w.Kind == packing.File {
				asked[w.Name] = naming.Ending(w.Name)
			}
		}
	}
	of := map[string]string{} // name, folded, with or without a number → the one it is of
	for name := range asked {
		of[naming.Fold(name)] = name
	}
	each := 1
	for from := 2; len(of) > 0 && from < 100; from += mostNumbered {
		found, err := like(slices.Collect(maps.Keys(of)))
		if err != nil {
			return nil, err
		}
		taken := map[string]int{} // how many of a name's are there, or will be
		for folder := range fresh {
			for _, x := range planned[folder] {
				if of[naming.Fold(x.Name)] != "" {
					found = append(found, x)
				}
			}
		}
		for _, x := range found {
			if len(fresh[x.Folder]) > 0 {
				n.note(x.Handout, x.Name, x.Folder)
				taken[of[naming.Fold(x.Name)]]++
			}
		}
		of = map[string]string{}
		for name, k := range taken {
			if k < each {
				continue // one of them is free
			}
			for k := from; k < from+mostNumbered; k++ {
				of[naming.Fold(naming.Numbered(name, asked[name], k))] = name
			}
		}
		each = mostNumbered
	}
	return n, nil
}

// nameAnew forgets what a handout's thing in the bin is called where a thing of another has
// taken its name meanwhile: it has another when it comes back.
func (s *Picture) nameAnew() {
	for k, name := range s.Made.Packed {
		e := s.Entries[k]
		if e == nil || s.State(e).Place != ledger.InBin {
			continue
		}
		for _, folder := range e.Folders() {
			if slices.ContainsFunc(s.names().but(k.What.ID, folder.String()), func(there string) bool {
				return naming.Fold(there) == naming.Fold(name)
			}) {
				s.repack()
				delete(s.packed, k)
				break
			}
		}
	}
}

// nameTaken reports whether a thing in the bin lost its name to another.
func (s *Picture) nameTaken(k packing.Key) bool {
	_, was := s.Made.Packed[k]
	_, has := s.packed[k]
	return was && !has
}

// BackAs is what a handout's copies in the bin that lost their names are called when they are
// back: as is wanted, or of anyone who isn't given one any more, with a number.
func (s *Picture) BackAs(h handout.Handout) map[packing.Key]string {
	out, given := map[packing.Key]string{}, names{}
	give := func(k packing.Key, name string) {
		out[k] = name
		for _, folder := range s.Entries[k].Folders() {
			given.note(h.ID, name, folder.String())
		}
	}
	for _, w := range s.Way(h).Own(s.Room) {
		if s.nameTaken(w.Key) && w.Problem == nil {
			give(w.Key, w.Name)
		}
	}
	for k, e := range s.Entries {
		if k.What.Purpose != packing.Copy || k.What.ID != h.ID || !s.nameTaken(k) || out[k] != "" {
			continue
		}
		taken := map[string]bool{}
		for _, folder := range e.Folders() {
			for _, x := range slices.Concat(s.names()[folder.String()], given[folder.String()]) {
				taken[naming.Fold(x.Name)] = true
			}
		}
		give(k, naming.Free(strings.TrimSuffix(e.Name, naming.Ending(e.Name)), naming.Ending(e.Name), taken))
	}
	return out
}

// NameAll works out what everything is called, once all is read.
func (s *Picture) NameAll() {
	s.packed = s.Made.Packed
	s.names = sync.OnceValue(s.namesThere)
	s.nameAnew()
	s.nameComing()
}

// NameBeside works out what the things of one handout are called, where of the others' names only
// those are known that like finds: some names, with or without a number.
func (s *Picture) NameBeside(h handout.Handout, like func([]string) ([]ledger.Called, error)) error {
	there, err := s.namesFor(h, like)
	if err != nil {
		return err
	}
	s.names = func() names { return there }
	s.nameAnew()
	return nil
}

// repack gives a picture names of its own, before one is changed: what was made is shared.
func (s *Picture) repack() {
	if !s.repacked {
		s.packed, s.repacked = maps.Clone(s.packed), true
	}
}

// nameComing takes what a run is still to make for packed as it is to be called: it has that
// name for everybody who asks, so it keeps it while it says what the values say.
func (s *Picture) nameComing() {
	for _, x := range s.Coming {
		if x.Named && s.Entries[x.Key] == nil && x.Key.Handout() != "" {
			s.repack()
			s.packed[x.Key] = x.Name
		}
	}
}
