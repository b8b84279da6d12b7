// Package doorcheck compares who reaches what in a class's tree, as the cupboard has it, with who
// should: every difference is named, with who, what and why. The rules are those of product.md,
// Access; it knows nothing of how the cupboard enforces them.
package doorcheck

import (
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
)

// A Found is a folder or file as the cupboard has it now.
type Found struct {
	ID     string
	Name   string
	Parent string // the folder it lies in
	Folder bool
	Owner  string
	Rule   access.Rule
	Closed *access.Mark
	Place  ledger.Place
}

// FoundOf is a thing as the cupboard told how it stands.
func FoundOf(id string, st ledger.Seen, folder bool) Found {
	return Found{ID: id, Name: st.Name, Parent: st.Parent, Folder: folder, Owner: st.Owner, Rule: st.Rule, Closed: st.Closed, Place: st.Place}
}

// A Wanted is a thing of the ledger as it should be.
type Wanted struct {
	Key    packing.Key
	Thing  string
	Name   string
	Folder bool
	In     string // the folder it should lie in; empty: any
	Within string // a folder in which it may lie at any depth; empty: none
	// FreeName says that those it is for may call it what they like.
	FreeName bool
	For      string // of a copy: the account it is for
	Owner    string
	Rule     access.Rule
	// May is what people have at the most where that isn't what the rule gives: what they were
	// given before is no fault while they can't be given anything.
	May    map[string]access.Level
	Closed *access.Mark
	// Former says that nothing asks for it any more: it may lie where it does, be in the bin or gone.
	Former bool
	Left   bool // somebody left it where it is on purpose
}

// A World is all that a check of one class compares.
type World struct {
	Folder string         // the class's own
	Above  []access.Thing // what that lies in, outwards
	Owner  string         // of what is made in the class
	Staff  []string       // accounts beside that
	People map[string]bool
	Wanted []Wanted
	Found  []Found
	At     time.Time
}

// worked is a world with everything at hand.
type worked struct {
	World
	found  map[string]*Found
	wanted map[string]*Wanted
	should map[string][]access.Thing // by folder: it and what it should lie in, as they should be
	reach  map[string]map[string]bool
}

func (w World) work() *worked {
	out := &worked{World: w, found: make(map[string]*Found, len(w.Found)), wanted: make(map[string]*Wanted, len(w.Wanted)),
		should: map[string][]access.Thing{}, reach: map[string]map[string]bool{}}
	for i := range w.Found {
		out.found[w.Found[i].ID] = &w.Found[i]
	}
	for i := range w.Wanted {
		out.wanted[w.Wanted[i].Thing] = &w.Wanted[i]
	}
	return out
}

// is is a thing's own part in the rules, as it is.
func (f *Found) is() access.Thing {
	return access.Thing{ID: f.ID, Owner: f.Owner, Folder: f.Folder, Rule: f.Rule, Closed: f.Closed}
}

// own is a thing's own part in the rules, as it should be: of what people put in themselves, that
// it is theirs and open to above.
func (w *worked) own(f *Found) access.Thing {
	if x := w.wanted[f.ID]; x != nil {
		return access.Thing{ID: f.ID, Owner: x.Owner, Folder: x.Folder, Rule: x.Rule, Closed: x.Closed}
	}
	return access.Thing{ID: f.ID, Owner: f.Owner, Folder: f.Folder}
}

// in is the folder that a thing should lie in: the one it lies in, where that is as good.
func (w *worked) in(f *Found) string {
	if x := w.wanted[f.ID]; x != nil && !w.placed(f, x) {
		return x.In
	}
	return f.Parent
}

// placed reports that a thing lies where it may.
func (w *worked) placed(f *Found, x *Wanted) bool {
	if x.Former || x.Left || x.In == "" || f.Parent == x.In {
		return true
	}
	for at, n := w.found[f.Parent], 0; x.Within != "" && at != nil && n <= len(w.found); at, n = w.found[at.Parent], n+1 {
		if at.ID == x.Within {
			return true
		}
	}
	return false
}

// most is how deep folders in folders are followed; a circle, which no cupboard has, ends.
const most = 64

// chain is what a thing should lie in, from a folder outwards, each as it should be.
func (w *worked) chain(folder string) []access.Thing {
	if c, ok := w.should[folder]; ok {
		return c
	}
	var out []access.Thing
	for at, n := w.found[folder], 0; at != nil && n < most; at, n = w.found[w.in(at)], n+1 {
		out = append(out, w.own(at))
	}
	w.should[folder] = out
	return out
}

// lies is what a thing lies in now, outwards, with itself.
func (w *worked) lies(f *Found) []access.Thing {
	var out []access.Thing
	top := f
	for at, n := f, 0; at != nil && n < most; at, n = w.found[at.Parent], n+1 {
		out, top = append(out, at.is()), at
	}
	if top.ID == w.Folder {
		out = append(out, w.Above...)
	}
	return out
}
