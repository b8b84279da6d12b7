// Package leaving is who loses what, and what happens to somebody's things, when they leave a
// class or come from another.
package leaving

import (
	"slices"
	"time"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
)

// A Leaver is somebody who left a class, with what there is of their things and what
// was decided about them.
type Leaver struct {
	Student  picture.Student
	Things   []ledger.Entry // the satchel first, then what doesn't lie in it
	Copies   int
	Begun    int       // of those, with work in them
	Own      int       // things the student put in
	Newest   time.Time // of those
	Owned    bool      // the satchel is the student's own already
	Binned   bool
	BinUntil time.Time
	Decision string // empty: asked for
	DecidedA time.Time
	Request  *Asking // somebody asks for the satchel
}

// An Asking is a teacher who asks for a satchel, and the class that it is for.
type Asking struct {
	Row       string // of the student in the class it is for: what an answer is about
	By, Class string
	At        time.Time
}

// BringBack takes the things of somebody who left out of the bin.
const BringBack = packing.BringBack

// Leavers are those who left and have things here, in the order of the class list.
func Leavers(s *picture.Picture, works map[string]ledger.Work) []Leaver {
	mine, out := s.ByRow(), []Leaver{}
	for _, st := range s.Left {
		if l, any := Of(s, st, mine[st.ID], works); any {
			out = append(out, l)
		}
	}
	return out
}

// Of says what there is of somebody who left, of the entries that are theirs; any
// reports that there is.
func Of(s *picture.Picture, st picture.Student, mine []*ledger.Entry, works map[string]ledger.Work) (l Leaver, any bool) {
	l = Leaver{Student: st}
	if d, ok := s.Decisions[st.ID]; ok && !d.At.Before(st.LeftAt) {
		l.Decision, l.DecidedA = d.Decision, d.At
	}
	satchel := s.Entries[room.SatchelKey(s.ID, st.ID)]
	slices.SortFunc(mine, func(a, b *ledger.Entry) int {
		if (a == satchel) != (b == satchel) {
			if a == satchel {
				return -1
			}
			return 1
		}
		return a.MadeAt.Compare(b.MadeAt)
	})
	for _, e := range mine {
		state := s.State(e)
		if state.Place != ledger.Lies && state.Place != ledger.InBin {
			continue
		}
		any = true
		if e.Key.What.Purpose == packing.Copy {
			l.Copies++
			if e.Begun(state.Version, works[e.Thing]) {
				l.Begun++
			}
		}
		if e == satchel {
			l.Own, l.Newest, l.Owned, l.Binned, l.BinUntil = state.Inside, state.InsideAt, state.Owner == st.Account,
				state.Place == ledger.InBin, state.BinUntil
		}
		if e == satchel || satchel == nil || !s.Lying().Under(e, satchel) {
			l.Things = append(l.Things, *e)
		}
	}
	return l, any
}

// Steps are what a decision about a leaver's things does; of one that keeps them, nothing.
func (l *Leaver) Steps(s *picture.Picture, decision string) []packing.Step {
	var steps []packing.Step
	mine := s.ByRow()[l.Student.ID]
	for i := range l.Things {
		step := s.Discarding(&l.Things[i])
		switch decision {
		case classes.Keep:
			continue
		case classes.HandOver:
			step = s.HandingOver(s.Entries[l.Things[i].Key], mine, l.Student.Account, false)
		case classes.Bin:
			if l.Things[i].HandedTo != "" {
				continue // it isn't the class's any more
			}
			step.Change = &packing.Change{}
		case BringBack:
			step.Act, step.Change = packing.Restore, &packing.Change{}
		}
		steps = append(steps, step)
	}
	return steps
}

// Bringing says what is to be done to fetch a satchel, by its entry and thing, from there, where
// its student has another row.
func Bringing(entry, thing, oldRow string, here, there *picture.Picture) *packing.Bringing {
	b := &packing.Bringing{Entry: entry, Thing: thing, Owner: there.Owner(), Readers: []string{}, Copies: []string{},
		Pockets: map[string]string{}}
	for _, m := range there.Staff {
		if !slices.ContainsFunc(here.Staff, func(x classes.Member) bool { return x.Account == m.Account }) {
			b.Readers = append(b.Readers, m.Account)
		}
	}
	for k, e := range there.Entries {
		if k.Whom.Row != oldRow {
			continue
		}
		switch k.What.Purpose {
		case packing.Copy:
			b.Copies = append(b.Copies, e.Thing)
		case packing.Pocket:
			b.Pockets[e.ID] = ""
			was := slices.IndexFunc(there.Plan.Pockets, func(p room.Pocket) bool { return p.ID == k.What.ID })
			for _, p := range here.Plan.Pockets {
				if was >= 0 && naming.Fold(p.Name) == naming.Fold(there.Plan.Pockets[was].Name) {
					b.Pockets[e.ID] = p.ID
				}
			}
		}
	}
	slices.Sort(b.Copies)
	return b
}
