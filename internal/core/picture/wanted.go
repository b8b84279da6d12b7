package picture

import (
	"cmp"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

// Way is a handout as the way in which it is given sees the class.
func (s *Picture) Way(h handout.Handout) handout.Way {
	return s.wayBeside(h, func(folder packing.Key) []string { return s.names().but(h.ID, folder.String()) })
}

// wayBeside is Way beside things of certain names in a folder.
func (s *Picture) wayBeside(h handout.Handout, beside func(folder packing.Key) []string) handout.Way {
	set := handout.Settings{ID: h.ID, Title: h.Title, Name: h.Settings.Name, Pocket: h.Settings.Pocket, Out: s.Out(h), Packed: s.packed}
	there := func(pocket string) string {
		if s.Plan.HasPocket(pocket) {
			return pocket
		}
		return "" // taken out of the plan since
	}
	set.Pocket, set.Names, set.Pockets = there(set.Pocket), h.Settings.Names, make(map[string]string, len(h.Settings.Pockets))
	for row, pocket := range h.Settings.Pockets {
		set.Pockets[row] = there(pocket)
	}
	set.Level, _ = access.ParseLevel(h.Settings.Level)
	set.Classmates, _ = access.ParseLevel(h.Settings.Classmates)
	set.Levels = make(map[string]access.Level, len(h.Settings.Levels))
	for row, l := range h.Settings.Levels {
		set.Levels[row], _ = access.ParseLevel(l)
	}
	if h.PassedOn() {
		set.Passing, _ = access.ParseLevel(h.Settings.Passing)
		set.Passed = s.passed(h)
	}
	if set.Mates = h.Settings.Classmates != "" || h.Settings.Passing != ""; set.Mates {
		set.Unreached = map[string]bool{}
		for _, st := range s.Students {
			e := s.Entries[room.SatchelKey(s.ID, st.ID)]
			set.Unreached[st.Account] = e != nil && e.Granted[st.Account] < access.Read && !slices.Contains(e.Waits, st.ID)
		}
	}
	set.By, set.Teams = h.Settings.By, h.Settings.Teams
	for _, d := range h.Settings.Documents {
		if t, ok := s.Templates[d.Template]; ok {
			set.Documents = append(set.Documents,
				handout.Document{Slot: d.Slot, Thing: t.Thing, Lender: t.Account, Original: t.Title(),
					Ending: naming.Ending(t.Name), Name: d.Name, For: d.For, MediaType: t.MediaType, Plain: d.Plain, Only: d.Only})
		}
	}
	set.Known, set.Beside = s.Known, beside
	set.Values = record.DayValues(cmp.Or(h.Settings.Date, s.Today), s.Plan.Term)
	set.Values[record.Title] = h.Title
	return handout.Of(h.Settings.Way, s.Plan, set)
}

// KeysOf says of each row under which keys its student can have something of a
// handout.
func (s *Picture) KeysOf(h handout.Handout) func(row string) []packing.Key {
	slots := make([]int, len(h.Settings.Documents))
	for i, d := range h.Settings.Documents {
		slots[i] = d.Slot
	}
	in := map[string][]string{} // row → teams
	if h.Settings.Way == handout.TeamName {
		for _, team := range s.Room.Teams[h.Settings.Teams] {
			for _, row := range team.Rows {
				in[row] = append(in[row], team.ID)
			}
		}
	}
	return func(row string) []packing.Key { return handout.KeysOf(s.ID, h.ID, h.Settings.Way, slots, row, in[row]) }
}

// everything is what is wanted in the class: of the room, and of every handout
// that was packed. of says which handout what is wanted is for; of the rest, it
// is the room.
func (s *Picture) everything() (wanted []packing.Wanted, of map[packing.Key]*handout.Handout) {
	wanted, _ = s.Plan.Wanted(s.Room)
	wanted = s.shut(wanted)
	of = map[packing.Key]*handout.Handout{}
	given := names{} // to what isn't made yet, or is to be renamed, by the handouts before
	for i, h := range s.Handouts {
		if !h.Packed() {
			continue
		}
		beside := func(folder packing.Key) []string {
			at := folder.String()
			return append(s.names().but(h.ID, at), given.but(h.ID, at)...)
		}
		for _, w := range s.marked(h, s.wayBeside(h, beside).Own(s.Room)) {
			if of[w.Key] == nil {
				of[w.Key] = &s.Handouts[i]
				wanted = append(wanted, w)
				if s.packed[w.Key] != w.Name {
					given.give(h.ID, w)
				}
			}
		}
	}
	for i, w := range wanted {
		if e := s.Entries[w.Key]; e != nil && e.HandedTo != "" { // what is its student's own doesn't close
			wanted[i].Closed = nil
		}
	}
	return wanted, of
}

// Wanted is everything that is wanted in the class, and of a handout that is given
// all it needs, though it wasn't packed.
func (s *Picture) Wanted(h *handout.Handout) map[packing.Key]packing.Wanted {
	out := map[packing.Key]packing.Wanted{}
	if h != nil {
		needs, _ := s.Way(*h).Wanted(s.Room)
		for _, w := range needs {
			out[w.Key] = w
		}
	}
	all, _ := s.everything()
	for _, w := range all {
		out[w.Key] = w
	}
	return out
}

// actual joins ledger and cupboard for what is wanted.
func (s *Picture) actual(wanted []packing.Wanted) map[packing.Key]packing.Actual {
	out := make(map[packing.Key]packing.Actual, len(wanted))
	for _, w := range wanted {
		e := s.Entries[w.Key]
		if e == nil {
			if g := s.Ended[w.Key]; g > 0 {
				out[w.Key] = packing.Actual{Generation: g}
			}
			continue
		}
		st := s.State(e)
		a := packing.Actual{Thing: e.Thing, Generation: e.Generation, State: stateIn(st, e.Shared()), Name: st.Name,
			Rule: st.Rule, LastName: e.Name, Granted: e.Granted, Pointed: map[packing.Key]bool{}, Spot: s.spot(e, st),
			Waits: e.Waits, LeaveAsIs: s.LeaveAsIs[w.Key], NameTaken: s.nameTaken(w.Key), Handed: e.HandedTo, Off: e.HandedOff}
		for _, folder := range w.Pointers {
			_, a.Pointed[folder] = e.Pointers[folder.String()]
		}
		_, seen := s.Seen[e.Thing]
		if in, known := s.putIn(e, w); a.State == packing.Here && seen && known && st.Parent != in {
			a.State, a.Strayed = packing.Elsewhere, s.strayed(w, st)
		}
		out[w.Key] = a
	}
	return out
}

// stateIn says what a packing list calls how a thing stands.
func stateIn(st ledger.Seen, shared bool) packing.State {
	switch {
	case st.Place == ledger.Gone:
		return packing.Gone
	case st.Place == ledger.InBin:
		return packing.InBin
	case st.Place == ledger.Unseen:
		return packing.Unseen
	case !shared:
		return packing.Unshared
	}
	return packing.Here
}
