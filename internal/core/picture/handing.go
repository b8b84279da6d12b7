package picture

import (
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
)

// A Handing is what of a student's is handed over to them, or why it isn't.
type Handing struct {
	Row, Student string
	Entry        *ledger.Entry   // nil: there is nothing
	Name         string          // what it is called
	Things       int             // the row's things in it, with itself
	Own          int             // things in it that the student made, which are theirs already
	Why          *packing.Reason // nil: it is handed over
}

// Handings are what handing over to students does, of some rows, all where none is named: with
// everything there is of each of them, or with the copies of one handout alone.
func (s *Picture) Handings(rows []string, handout string) []Handing {
	var out []Handing
	of := s.ByRow()
	for _, st := range s.Students {
		if len(rows) > 0 && !slices.Contains(rows, st.ID) {
			continue
		}
		mine := s.handed(of[st.ID], st.ID, handout)
		if len(mine) == 0 {
			mine = []*ledger.Entry{nil}
		}
		for _, e := range mine {
			h := Handing{Row: st.ID, Student: st.SortName(), Entry: e}
			switch {
			case e == nil:
				h.Why = &packing.Reason{Code: "nothing-to-hand-over"}
			case e.HandedTo != "":
				h.Why = &packing.Reason{Code: "handed-over-already"}
			case st.Account == "" || st.Problem != nil || st.Relink != "":
				h.Why = &packing.Reason{Code: "no-account-to-own"}
			case s.State(e).Place != ledger.Lies:
				h.Why = &packing.Reason{Code: "not-where-it-was"}
			}
			if e != nil {
				state := s.State(e)
				h.Name, h.Things, h.Own = state.Name, 1+len(s.inside(e, of[st.ID])), state.Inside
			}
			out = append(out, h)
		}
	}
	return out
}

// handed are the things of a row that are handed over each by itself, in order: what lies in the
// satchel goes with it.
func (s *Picture) handed(mine []*ledger.Entry, row, handout string) []*ledger.Entry {
	satchel := s.Entries[room.SatchelKey(s.ID, row)]
	var out []*ledger.Entry
	for _, e := range mine {
		if handout != "" && (e.Key.What.Purpose != packing.Copy || e.Key.What.ID != handout) {
			continue
		}
		if handout == "" && satchel != nil && e != satchel && s.Lying().Under(e, satchel) {
			continue
		}
		out = append(out, e)
	}
	slices.SortFunc(out, func(a, b *ledger.Entry) int {
		if (a == satchel) != (b == satchel) {
			if a == satchel {
				return -1
			}
			return 1
		}
		return a.MadeAt.Compare(b.MadeAt)
	})
	return out
}

// inside are those of a row's things, mine, that lie in a folder of it.
func (s *Picture) inside(e *ledger.Entry, mine []*ledger.Entry) (out []string) {
	if e.Key.What.Purpose == packing.Copy {
		return nil
	}
	where := s.Lying()
	for _, x := range mine {
		if x != e && x.HandedTo == "" && where.Under(x, e) {
			out = append(out, x.Thing)
		}
	}
	slices.Sort(out)
	return out
}

// HandingOver is the step that makes an account the owner of a thing with all that is in it, of a row's
// things, mine; off lets staff out of it.
func (s *Picture) HandingOver(e *ledger.Entry, mine []*ledger.Entry, to string, off bool) packing.Step {
	step := s.Discarding(e)
	step.Act, step.Change = packing.HandOver, &packing.Change{To: to, Inside: s.inside(e, mine)}
	if !off {
		return step
	}
	for _, m := range s.Room.Staff {
		if m.Account != to {
			step.Change.Off = append(step.Change.Off, m.Account)
		}
	}
	for _, thing := range step.Change.Inside { // what stands alone names them itself
		if x := s.ByThing[thing]; x != nil && s.State(x).Rule.StandsAlone {
			step.Change.Within = append(step.Change.Within, thing)
		}
	}
	step.Wanted.Rule.Grants = map[string]access.Level{}
	return step
}
