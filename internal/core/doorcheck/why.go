package doorcheck

import (
	"cmp"
	"maps"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
)

// A Way is how somebody comes to reach a thing.
type Way string

// The ways.
const (
	Owns    Way = "owns"    // it is theirs
	Keeps   Way = "keeps"   // a folder it lies in is theirs
	Named   Way = "named"   // its own rule names them
	Through Way = "through" // the rule of a folder it lies in does
	AsStaff Way = "staff"   // that is the class's own folder, and they are staff
	LetIn   Way = "let-in"  // it is another's copy, and they were let in
	ByLink  Way = "link"    // everybody of the school does who has the link
)

// A Reach is what somebody may do with a thing now, and why.
type Reach struct {
	Who    string // none: everybody of the school
	Thing  string
	Level  access.Level
	Way    Way
	From   string // the folder that gives it
	Closed bool   // it would be more, were it not closed
	Should access.Level
}

// Who is everybody who reaches a thing, by account; what everybody of the school has by its link
// is last.
func (w World) Who(thing string) []Reach {
	at := w.work()
	f := at.found[thing]
	if f == nil || f.Place != ledger.Lies {
		return nil
	}
	return at.who(f)
}

// What is everything in the class's tree that somebody reaches, in the order in which it was found.
func (w World) What(who string) []Reach {
	at := w.work()
	var out []Reach
	for i := range w.Found {
		if f := &w.Found[i]; f.Place == ledger.Lies {
			if r := at.one(who, f, at.lies(f)); r.Level >= access.Read {
				out = append(out, r)
			}
		}
	}
	return out
}

func (w *worked) who(f *Found) []Reach {
	chain := w.lies(f)
	var out []Reach
	for _, p := range slices.Sorted(maps.Keys(access.People(chain, w.At))) {
		if r := w.one(p, f, chain); r.Way != ByLink {
			out = append(out, r)
		}
	}
	// Nobody is called so: what this one has, everybody has.
	if l := access.Effective("\x00", chain, w.At); l.Level >= access.Read {
		out = append(out, Reach{Thing: f.ID, Level: l.Level, Way: ByLink, From: l.From, Closed: l.Closed != ""})
	}
	return out
}

// one is what one person reaches of a thing that lies in a chain.
func (w *worked) one(p string, f *Found, chain []access.Thing) Reach {
	why := access.Effective(p, chain, w.At)
	r := Reach{Who: p, Thing: f.ID, Level: why.Level, From: why.From, Closed: why.Closed != "",
		Should: level(p, w.own(f), w.chain(w.in(f)))}
	x := w.wanted[f.ID]
	switch {
	case access.Named(p, chain) < why.Level && why.Closed == "":
		r.Way = ByLink
	case why.Owned:
		r.Way = Owns
		if why.From != f.ID {
			r.Way = Keeps
		}
	case why.From == w.Folder && slices.Contains(w.Staff, p), why.From == f.ID && slices.Contains(w.Staff, p):
		r.Way = AsStaff
	case why.From != f.ID:
		r.Way = Through
	case x != nil && x.For != "" && x.For != p:
		r.Way = LetIn
	default:
		r.Way = Named
	}
	return r
}

// Sorted puts what was found into the order of the tree: each folder before what is in it, the
// things of a folder by name.
func Sorted(found []Found, less func(a, b string) bool) []Found {
	in := map[string][]Found{}
	there := map[string]bool{}
	for _, f := range found {
		there[f.ID] = true
	}
	for _, f := range found {
		at := f.Parent
		if !there[at] {
			at = ""
		}
		in[at] = append(in[at], f)
	}
	var out []Found
	var walk func(at string, depth int)
	walk = func(at string, depth int) {
		slices.SortFunc(in[at], func(a, b Found) int {
			if a.Folder != b.Folder {
				if a.Folder {
					return -1
				}
				return 1
			}
			switch {
			case less(a.Name, b.Name):
				return -1
			case less(b.Name, a.Name):
				return 1
			}
			return cmp.Compare(a.ID, b.ID)
		})
		for _, f := range in[at] {
			out = append(out, f)
			if f.Folder && depth < most {
				walk(f.ID, depth+1)
			}
		}
	}
	walk("", 0)
	return out
}
