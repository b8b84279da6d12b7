package leaving

import (
	"maps"
	"slices"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
)

// Revoking are the steps that take the class's own places, and what several reach, from those who left it.
func Revoking(s *picture.Picture, left map[string]bool) []packing.Step {
	steps := s.RoomList().Closing(left)
	for _, e := range s.Unplanned() { // what the plan no longer has is closed, too
		for _, account := range slices.Sorted(maps.Keys(e.Granted)) {
			if e.Key.Whom.Row != "" || !left[account] {
				continue
			}
			step := s.Discarding(e)
			step.Act, step.Account, step.Change = packing.Take, account, &packing.Change{}
			steps = append(steps, step)
		}
	}
	for _, e := range unlisted(s) {
		for _, account := range slices.Sorted(maps.Keys(e.Granted)) {
			if !left[account] || whose(s, e.Key.Whom.Row) == account { // one's own is decided with the leaver
				continue
			}
			step := s.Discarding(e)
			step.Act, step.Account, step.Change = packing.Take, account, &packing.Change{}
			step.Wanted.Pointers = e.PointedFrom() // the others keep theirs
			steps = append(steps, step)
		}
	}
	return steps
}

// whose is the account of a row, also of one that left.
func whose(s *picture.Picture, row string) string {
	for _, st := range append(slices.Clone(s.Students), s.Left...) {
		if st.ID == row {
			return st.Account
		}
	}
	return ""
}

// unlisted are copies that others than one student reach and no list is about any more: of
// several, where their handout was withdrawn; those that classmates reach also where whose
// they are left, or is left out now.
func unlisted(s *picture.Picture) []*ledger.Entry {
	var out []*ledger.Entry
	wanted := s.Wanted(nil)
	for k, e := range s.Entries {
		if k.What.Purpose != packing.Copy || s.State(e).Place != ledger.Lies {
			continue
		}
		h, ok := s.Handout(k.What.ID)
		_, listed := wanted[k]
		if ok && (k.Whom.Row == "" && h.Withdrawn() || k.Whom.Row != "" && (h.Settings.Classmates != "" || h.Settings.Passing != "") && !listed) {
			out = append(out, e)
		}
	}
	return out
}
