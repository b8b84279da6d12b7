package picture

import (
	"cmp"
	"slices"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
)

// A BackLine is a thing a run made, and what keeps it from being taken back.
type BackLine struct {
	Entry  ledger.Entry
	Name   string
	Reason *packing.Reason // nil: it can be
}

// Backing is what taking a run back would put into the bin, and whether it can.
type Backing struct {
	Run   ledger.Run
	Lines []BackLine
	Held  int // lines that can't be taken back
}

// TakingBack are the things a run made that still are where they were put, parents
// first. One that was begun is held, and so is a folder in which something lies
// that others put there, that another run made, or that is held.
func (s *Picture) TakingBack(r ledger.Run, works map[string]ledger.Work) Backing {
	out := Backing{Run: r, Lines: []BackLine{}}
	where := s.Lying()
	stays := where.Stays(r.ID, func(e *ledger.Entry) ledger.Stands {
		st, w := s.State(e), works[e.Thing]
		others := st.Inside
		if e.HandedTo != "" { // it is another's, with what is in it
			others++
		}
		return ledger.Stands{Lies: st.Place == ledger.Lies, Begun: e.Begun(st.Version, w), Words: w.Added, Inside: others}
	})
	depth := map[packing.Key]int{}
	for _, e := range s.Entries {
		st := s.State(e)
		if e.RunID != r.ID || st.Place != ledger.Lies {
			continue
		}
		line := BackLine{Entry: *e, Name: st.Name}
		if why, held := stays[e]; held {
			line.Reason = &why
			out.Held++
		}
		above, _ := where.Above(e)
		depth[e.Key] = len(above)
		out.Lines = append(out.Lines, line)
	}
	slices.SortFunc(out.Lines, func(a, b BackLine) int {
		return cmp.Or(depth[a.Entry.Key]-depth[b.Entry.Key], cmp.Compare(a.Entry.Key.String(), b.Entry.Key.String()))
	})
	return out
}

// FilesIn are the versions of the copies that lie somewhere, by the copy and by each folder of
// the class that it is in.
func (s *Picture) FilesIn() map[string]map[string]int {
	out, where := map[string]map[string]int{}, s.Lying()
	for _, e := range s.Entries {
		st := s.State(e)
		if e.Key.What.Purpose != packing.Copy || st.Place != ledger.Lies {
			continue
		}
		above, _ := where.Above(e)
		for _, in := range append(above, e) {
			if out[in.Thing] == nil {
				out[in.Thing] = map[string]int{}
			}
			out[in.Thing][e.Thing] = max(st.Version, e.Given)
		}
	}
	return out
}
