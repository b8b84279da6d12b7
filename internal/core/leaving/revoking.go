package leaving

import (
	"cmp"
	"maps"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
)

// Revoking are the steps that take the class's own places, and copies that aren't their own, from
// accounts that left it. Their own are decided with them.
func Revoking(s *picture.Picture, left map[string]bool) []packing.Step {
	steps := s.RoomList().Closing(left)
	taken := map[packing.StepKey]bool{}
	for _, step := range steps {
		taken[step.StepKey] = true
	}
	take := func(e *ledger.Entry, account string) {
		step := s.Discarding(e)
		step.Act, step.Account, step.Change = packing.Take, account, &packing.Change{}
		step.Wanted.Pointers = e.PointedFrom() // the others keep theirs
		if !taken[step.StepKey] {
			steps = append(steps, step)
		}
	}
	for _, e := range s.Unplanned() { // what the plan no longer has is closed, too
		for _, account := range slices.Sorted(maps.Keys(e.Granted)) {
			if e.Key.Whom.Row == "" && left[account] {
				take(e, account)
			}
		}
	}
	whose := owners(s)
	for _, e := range copiesOf(s, left) {
		for _, account := range slices.Sorted(maps.Keys(e.Granted)) {
			if left[account] && whose[e.Key.Whom.Row] != account && s.State(e).Rule.Grants[account] > access.Nothing {
				take(e, account)
			}
		}
	}
	return steps
}

// copiesOf are the copies that were given to some accounts and are there, or in the bin, from
// which they can come back.
func copiesOf(s *picture.Picture, accounts map[string]bool) []*ledger.Entry {
	var out []*ledger.Entry
	for _, e := range s.Entries {
		place := s.State(e).Place
		if e.Key.What.Purpose != packing.Copy || place != ledger.Lies && place != ledger.InBin {
			continue
		}
		for account := range e.Granted {
			if accounts[account] {
				out = append(out, e)
				break
			}
		}
	}
	slices.SortFunc(out, func(a, b *ledger.Entry) int { return cmp.Compare(a.Key.String(), b.Key.String()) })
	return out
}

// owners are the accounts of rows, also of those that left.
func owners(s *picture.Picture) map[string]string {
	out := map[string]string{}
	for _, st := range slices.Concat(s.Students, s.Left) {
		out[st.ID] = st.Account
	}
	return out
}
