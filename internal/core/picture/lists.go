package picture

import (
	"slices"
	"time"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
)

// A Lacking is what a top-up would pack, and what waits besides.
type Lacking struct {
	Students int                // whom a top-up would serve
	Changes  int                // lines to change, which a top-up leaves alone
	Subjects []*handout.Handout // nil for the room
}

// RoomList is the packing list of the room, with what is to be changed about the
// copies of every packed handout: a student's new name or address concerns both.
// Of the rows that are linked again, everything is in it.
func (s *Picture) RoomList(relinked ...string) packing.List {
	wanted, of := s.everything()
	_, absent := s.Plan.Wanted(s.Room)
	l := packing.Compute(wanted, absent, s.Room.Links(), s.actual(wanted))
	l.Lines = slices.DeleteFunc(l.Lines, func(line packing.Line) bool {
		return of[line.Wanted.Key] != nil && line.Section != packing.ToChange &&
			(line.Section != packing.ToPack || !slices.Contains(relinked, line.Wanted.Key.Whom.Row))
	})
	return l
}

// Outstanding is what a top-up would pack, and of a room that isn't packed yet, all.
func (s *Picture) Outstanding() packing.List {
	if len(s.Students) == 0 {
		return packing.List{}
	}
	l, _ := s.ToDo(nil)
	l.Lines = slices.DeleteFunc(l.Lines, func(line packing.Line) bool { return line.Section != packing.ToPack })
	return l
}

// UnderWay are the keys of what is being packed now.
func (s *Picture) UnderWay() map[packing.Key]bool {
	out := map[packing.Key]bool{}
	for _, x := range s.Coming {
		if x.Gives && !x.Paused {
			out[x.Key] = true
		}
	}
	return out
}

// HandoutList is the packing list of a handout. Of the room's things it holds
// what is to be packed, not what is to be changed.
func (s *Picture) HandoutList(h handout.Handout) packing.List {
	wanted, absent := s.Way(h).Wanted(s.Room)
	l := packing.Compute(wanted, absent, nil, s.actual(wanted))
	l.Lines = slices.DeleteFunc(l.Lines, func(line packing.Line) bool {
		return line.Section == packing.ToChange && line.Wanted.Key.What.ID != h.ID
	})
	return l
}

// Lacking counts the lines a top-up would pack: things never made or unshared in
// the room and every handout that was packed.
func (s *Picture) Lacking(rows ...string) Lacking { return s.LackingBut(nil, rows...) }

// LackingBut is lacking without what is under way.
func (s *Picture) LackingBut(underWay map[packing.Key]bool, rows ...string) Lacking {
	var out Lacking
	if len(s.Students) == 0 || len(s.Entries) == 0 {
		return out // the room isn't packed yet: that is the first act, not a top-up
	}
	list, of := s.ToDo(rows)
	who, some := map[string]bool{}, map[*handout.Handout]bool{}
	for _, line := range list.Lines {
		key := line.Wanted.Key
		switch line.Section {
		case packing.ToChange:
			out.Changes++
		case packing.ToPack:
			if underWay[key] {
				continue
			}
			some[of[key]] = true
			if key.Whom.Row != "" {
				who[key.Whom.Row] = true
			}
		}
	}
	out.Students = len(who)
	if some[nil] {
		out.Subjects = append(out.Subjects, nil)
	}
	for i := range s.Handouts {
		if h := &s.Handouts[i]; some[h] {
			out.Subjects = append(out.Subjects, h)
		}
	}
	return out
}

// ToDo is what there is to pack and to change in the whole class. What is stuck
// stands on its line, to be fixed there, but for the rows that are asked for.
func (s *Picture) ToDo(rows []string) (packing.List, map[packing.Key]*handout.Handout) {
	wanted, of := s.everything()
	l := packing.Compute(wanted, nil, s.Room.Links(), s.actual(wanted))
	l.Lines = slices.DeleteFunc(l.Lines, func(line packing.Line) bool {
		key := line.Wanted.Key
		_, stuck := s.Stuck[key]
		stuck = stuck && !slices.Contains(rows, key.Whom.Row)
		return stuck || line.Section != packing.ToPack && line.Section != packing.ToChange
	})
	return l, of
}

// Missing is what a top-up packs, but for what is being packed already.
func (s *Picture) Missing() packing.List {
	if len(s.Entries) == 0 {
		return packing.List{} // the room isn't packed yet: that is the first act
	}
	l, underWay := s.Outstanding(), s.UnderWay()
	l.Lines = slices.DeleteFunc(l.Lines, func(line packing.Line) bool { return underWay[line.Wanted.Key] })
	return l
}

// A Following is what gives students what was made for them before they had an account: of the room, where it is of no
// handout.
type Following struct {
	Handout *handout.Handout
	Steps   []packing.Step
}

// Following is what follows now, the room first: nothing is made, and nobody gets what didn't wait for them.
func (s *Picture) Following() []Following {
	linked := map[string]bool{}
	for _, st := range s.Students {
		linked[st.ID] = st.Account != "" && st.Later() == nil && st.Problem == nil && st.Relink == ""
	}
	list, of := s.ToDo(nil)
	by := map[*handout.Handout]*Following{}
	out := []*Following{}
	for _, line := range list.Lines {
		k := line.Wanted.Key
		e := s.Entries[k]
		if line.Section != packing.ToPack || line.Step.Act == packing.Make || e == nil ||
			!slices.ContainsFunc(e.Waits, func(row string) bool { return linked[row] }) {
			continue
		}
		f := by[of[k]]
		if f == nil {
			f = &Following{Handout: of[k]}
			by[of[k]], out = f, append(out, f)
		}
		f.Steps = append(f.Steps, packing.Step{StepKey: line.Step, Wanted: line.Wanted, State: packing.Waiting})
	}
	all := make([]Following, len(out))
	for i, f := range out {
		all[i] = *f
	}
	return all
}

// Stood is the class list as it stands now, with what happens to each student.
func (s *Picture) Stood(id, by string, at time.Time, l packing.List) handout.Stood {
	out := handout.Stood{ID: id, At: at, By: by, Students: []handout.StoodStudent{}}
	said := map[string]packing.Outcome{}
	for _, o := range l.Outcomes() {
		said[o.Row] = o
	}
	for _, st := range s.Students {
		o, ok := said[st.ID]
		if !ok { // of a notice, no line is about who reads it
			o = packing.Outcome{Row: st.ID, Section: packing.AlreadyThere}
		}
		out.Students = append(out.Students, handout.StoodStudent{Outcome: o, Name: st.SortName()})
	}
	return out
}
