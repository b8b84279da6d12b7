// Package picture is everything that packing lists, Register and acts of one class are worked out
// from, read at once, and what follows from it: plain values that nobody changes.
package picture

import (
	"cmp"
	"slices"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

// A Picture is everything packing lists and the Register of one class are made of, read by a
// fixed number of statements. What it says is computed from that alone.
type Picture struct {
	Class
	*Made
	Room      room.Class
	Handouts  []handout.Handout
	Headings  []handout.Heading
	Templates map[string]handout.Template
	Decisions map[string]classes.Decision    // by row
	LeaveAsIs map[packing.Key]bool           // left as it is on purpose, whatever became of it
	Known     record.Vocabulary              // the class's
	LetIn     map[string]map[string][]string // handout → row → rows of those let into their copies
	Coming    []ledger.Coming                // what runs are still to do; read before what was made, so that nothing is in neither
	packed    map[packing.Key]string         // copy, or handout's folder → the name it was packed with, or is to have
	repacked  bool                           // it has them for itself
	names     func() names                   // of what there is and what is coming
	Today     string                         // at the school, as in ISO 8601
	Language  string                         // the school's, in whose order names are listed
}

// Made is what was made in a class and how it was last seen. It changes with what
// the packer and the people in the cupboard do, and with nothing else.
type Made struct {
	Entries  map[packing.Key]*ledger.Entry
	ByThing  map[string]*ledger.Entry
	Satchels map[string]string      // row → name its satchel was packed with
	Packed   map[packing.Key]string // copy, or handout's folder → name it was packed with
	Ended    map[packing.Key]int    // generation of what ended last
	Stuck    map[packing.Key]ledger.Step
	Seen     map[string]ledger.Seen // what was last observed, by thing; the others stand as the ledger has them
}

// MadeOf makes entries of the ledger at hand.
func MadeOf(all []ledger.Entry) *Made {
	m := &Made{Entries: make(map[packing.Key]*ledger.Entry, len(all)), ByThing: make(map[string]*ledger.Entry, len(all)),
		Satchels: map[string]string{}, Packed: map[packing.Key]string{}}
	for i, e := range all {
		m.Entries[e.Key], m.ByThing[e.Thing] = &all[i], &all[i]
		if e.Key.What.Purpose == packing.Satchel {
			m.Satchels[e.Key.Whom.Row] = e.Name
		} else if e.Key.Handout() != "" {
			m.Packed[e.Key] = e.Name
		}
	}
	return m
}

// Handout returns the handout of an id.
func (s *Picture) Handout(id string) (handout.Handout, bool) {
	if i := slices.IndexFunc(s.Handouts, func(h handout.Handout) bool { return h.ID == id }); i >= 0 {
		return s.Handouts[i], true
	}
	return handout.Handout{}, false
}

// ByRow are the entries of the ledger by the row of the class list they are for.
func (s *Picture) ByRow() map[string][]*ledger.Entry {
	out := map[string][]*ledger.Entry{}
	for k, e := range s.Entries {
		out[k.Whom.Row] = append(out[k.Whom.Row], e)
	}
	return out
}

// Former are the accounts that rows' things were given to and that are no student's now.
func (s *Picture) Former(rows []string) map[string]bool {
	out, asked := map[string]bool{}, map[string]bool{}
	for _, row := range rows {
		asked[row] = true
	}
	for k, e := range s.Entries {
		if asked[k.Whom.Row] {
			for account := range e.Granted {
				out[account] = true
			}
		}
	}
	for _, st := range s.Students {
		delete(out, st.Account)
	}
	return out
}

// CameAlong has it asked whether the satchel of anyone who came from another class
// comes along, before a new one is made. What that class is called is said to nobody.
func (s *Picture) CameAlong(came func(row string) bool) {
	for i, x := range s.Room.Students {
		if !came(x.Row) || s.Entries[room.SatchelKey(s.ID, x.Row)] != nil || s.Decisions[x.Row].Decision == classes.Anew {
			continue
		}
		code := map[string]string{classes.Asked: packing.SatchelAsked, classes.Refused: packing.SatchelRefused,
			classes.Along: packing.SatchelComing}[s.Decisions[x.Row].Decision]
		s.Room.Students[i].Asked = &packing.Reason{Code: cmp.Or(code, packing.MovedHere)}
	}
}
