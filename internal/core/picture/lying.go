package picture

import (
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/core/room"
)

// Level is what an account has on a thing at a moment by the rules that were last seen: of the
// thing, of the student's own folders it is in, and of the class's. When a copy closes is its
// handout's to say.
func (s *Picture) Level(e *ledger.Entry, account string, now time.Time) access.Level {
	var chain []access.Thing
	for _, at := range s.within(e) {
		st := s.State(at)
		x := access.Thing{ID: at.Thing, Owner: st.Owner, Rule: st.Rule, Closed: st.Closed}
		if access.SameMark(st.Closed, at.Mark) { // ours, which follows what the handout says
			x.Closed = nil
		}
		chain = append(chain, x)
	}
	return access.Effective(account, chain, now).Level
}

// ShutWith is the hand by which a place is closed that a thing is or lies in, as was last seen; ok is false
// where none is.
func (s *Picture) ShutWith(e *ledger.Entry) (hand pens.Hand, ok bool) {
	for _, at := range s.within(e) {
		if hand, ok = s.Shut(at.Key); ok {
			break
		}
	}
	return hand, ok
}

// within are a thing and the folders of the class that it is in, innermost first.
func (s *Picture) within(e *ledger.Entry) []*ledger.Entry {
	where := ledger.Where{Things: s.ByThing, Parent: func(e *ledger.Entry) string {
		if parent := s.State(e).Parent; s.ByThing[parent] != nil {
			return parent
		}
		if e.Key.What.Purpose == packing.Copy || e.Key.What.Purpose == packing.Pocket {
			if satchel := s.Entries[room.SatchelKey(s.ID, e.Key.Whom.Row)]; satchel != nil {
				return satchel.Thing
			}
		}
		if class := s.Entries[packing.Key{Class: s.ID, What: packing.What{Purpose: packing.ClassFolder}}]; class != nil {
			return class.Thing
		}
		return ""
	}}
	above, _ := where.Above(e)
	return append([]*ledger.Entry{e}, above...)
}

// State is how what was made stands: as it was last observed, else as we left it. What is
// on its way to the bin or back is taken to be there.
func (s *Picture) State(e *ledger.Entry) ledger.Seen {
	st, ok := s.Seen[e.Thing]
	if ok = ok && !(e.HandedOff && st.Place == ledger.Unseen); !ok && e.HandedTo != "" { // it is as it was, out of sight
		st = s.asLeft(e)
		st.Owner = e.HandedTo
		return st
	}
	switch {
	case !ok:
		st = s.asLeft(e)
	case e.Bound == ledger.BoundBack && st.Place == ledger.InBin:
		st.Place = ledger.Lies
	}
	if e.Bound == ledger.BoundForBin && st.Place == ledger.Lies {
		st.Place = ledger.InBin
	}
	return st
}

// Lying is where things were last seen to lie.
func (s *Picture) Lying() ledger.Where {
	return ledger.Where{Things: s.ByThing, Parent: func(e *ledger.Entry) string { return s.State(e).Parent }}
}

// asLeft is how a thing stands that wasn't looked at since we made it.
func (s *Picture) asLeft(e *ledger.Entry) ledger.Seen {
	return ledger.Seen{Place: ledger.Lies, Name: e.Name, Owner: s.Owner(),
		Rule: access.Rule{Grants: e.Granted, StandsAlone: e.Key.What.Purpose == packing.ClassFolder}, Version: 1}
}

// spot is where we put a thing last. Of one made before that was kept, it is taken
// to be where it is; a class's folder lay at the top then.
func (s *Picture) spot(e *ledger.Entry, st ledger.Seen) string {
	if e.Spot != "" {
		return e.Spot
	}
	if e.Key.What.Purpose == packing.ClassFolder {
		return packing.Wanted{}.Spot()
	}
	if parent := s.ByThing[st.Parent]; parent != nil {
		return parent.Key.String()
	}
	return ""
}

// strayed reports a thing that is where nobody meant it to. A copy in a folder
// that isn't the ledger's, or among other things of its student, was arranged.
func (s *Picture) strayed(w packing.Wanted, st ledger.Seen) bool {
	if w.Kind != packing.File {
		return true
	}
	in := s.ByThing[st.Parent]
	return in != nil && in.Key.Whom != w.Key.Whom
}

// putIn is the folder we put a thing into last, as far as that is known.
func (s *Picture) putIn(e *ledger.Entry, w packing.Wanted) (thing string, known bool) {
	if e.Spot != "" || e.PutIn != "" {
		return e.PutIn, true
	}
	parent := s.Entries[w.Parent]
	if parent == nil {
		return "", false
	}
	return parent.Thing, true
}
