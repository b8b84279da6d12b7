package picture

import (
	"slices"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
)

// A Mate is somebody of a student's class, let into their copies of a handout or not.
type Mate struct {
	Row, Name string
	In        bool
}

// MatesOf are those whom a student with a row could let into their copies of a handout.
func (s *Picture) MatesOf(h handout.Handout, row string) []Mate {
	if !h.PassedOn() {
		return nil
	}
	var out []Mate
	for _, st := range s.Students {
		if st.ID != row && st.Account != "" && st.Problem == nil {
			out = append(out, Mate{st.ID, st.CallName(), slices.Contains(s.LetIn[h.ID][row], st.ID)})
		}
	}
	order := naming.NewOrder(s.Language)
	order.Sort(len(out), func(i int) string { return out[i].Name }, func(i, j int) { out[i], out[j] = out[j], out[i] })
	return out
}

// passed are the accounts that students let into their copies of a handout, by row.
func (s *Picture) passed(h handout.Handout) map[string][]string {
	out, listed := map[string][]string{}, s.listed()
	for row, mates := range s.LetIn[h.ID] {
		for _, mate := range mates {
			if st := listed[mate]; st != nil && st.Account != "" && st.Problem == nil {
				out[row] = append(out[row], st.Account)
			}
		}
	}
	return out
}

// Reach are the steps that bring an account to what is wanted of a thing for it; where that
// isn't made yet they come to nothing, for making it does so.
func (s *Picture) Reach(w packing.Wanted, account string) []packing.Step {
	generation := 1
	if e := s.Entries[w.Key]; e != nil {
		generation = e.Generation
	}
	return packing.Reach(w, generation, account)
}
