package picture

import (
	"cmp"
	"maps"
	"slices"
	"strconv"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
)

// Doors is what a door check of the class compares the cupboard with: what roster, plan, handouts
// and letting in want of what the ledger has, and of what nothing wants any more, that it is as it
// was given. busy are the keys that a run is under way with, of which nothing can be said now.
func (s *Picture) Doors(busy map[packing.Key]bool) (w doorcheck.World) {
	w = doorcheck.World{Owner: s.Owner(), People: map[string]bool{}}
	if e := s.Entries[s.Room.Key(packing.ClassFolder)]; e != nil {
		w.Folder = e.Thing
	}
	for _, m := range s.Room.Staff {
		if m.Account != w.Owner {
			w.Staff = append(w.Staff, m.Account)
		}
	}
	for _, st := range slices.Concat(s.Students, s.Left) {
		if st.Account != "" {
			w.People[st.Account] = true
		}
	}
	all, _ := s.everything()
	there := map[packing.Key]bool{}
	for _, x := range all {
		there[x.Key] = true
		if e := s.Entries[x.Key]; e != nil && !busy[x.Key] && !e.HandedOff {
			w.Wanted = append(w.Wanted, s.door(x))
		}
	}
	var former []packing.Key
	for k := range s.Entries {
		if !there[k] && !busy[k] && !s.Entries[k].HandedOff {
			former = append(former, k)
		}
	}
	slices.SortFunc(former, func(a, b packing.Key) int { return cmp.Compare(a.String(), b.String()) })
	for _, k := range former {
		w.Wanted = append(w.Wanted, s.formerDoor(k))
	}
	return w
}

// door is how something that is wanted should be.
func (s *Picture) door(x packing.Wanted) doorcheck.Wanted {
	e := s.Entries[x.Key]
	out := doorcheck.Wanted{Key: x.Key, Thing: e.Thing, Name: e.Name, Folder: x.Kind == packing.Folder, Owner: x.Owner, Rule: x.Rule,
		Left: s.LeaveAsIs[x.Key], For: x.For, Closed: x.Closed}
	if e.HandedTo != "" {
		out.Owner = e.HandedTo
	}
	out.In, _ = s.putIn(e, x)
	if x.Key.What.Purpose == packing.Copy && x.Key.Whom.Row != "" {
		out.FreeName = true
		if satchel := s.Entries[room.SatchelKey(s.ID, x.Key.Whom.Row)]; satchel != nil {
			out.Within = satchel.Thing
		}
	}
	if x.Problem != nil || x.Hold != nil {
		out.May = atMost(x.Rule.Grants, e.Granted)
	}
	return out
}

// formerDoor is how something should be that nothing asks for any more: as it was given.
func (s *Picture) formerDoor(k packing.Key) doorcheck.Wanted {
	e := s.Entries[k]
	out := doorcheck.Wanted{Key: k, Thing: e.Thing, Name: e.Name, Folder: k.What.Purpose != packing.Copy, Owner: s.Owner(),
		Rule: access.Rule{Grants: e.Granted, StandsAlone: k.What.Purpose == packing.ClassFolder}, Former: true, Closed: e.Mark}
	if e.HandedTo != "" {
		out.Owner = e.HandedTo
	}
	if k.What.Purpose == packing.Copy && s.State(e).Rule.StandsAlone { // as one does whose level was lowered, with the staff in its rule
		out.Rule.StandsAlone = !slices.ContainsFunc(s.Room.Staff, func(m room.Staff) bool {
			return m.Account != s.Owner() && e.Granted[m.Account] < access.Read
		})
	}
	return out
}

// atMost are the higher levels of two.
func atMost(a, b map[string]access.Level) map[string]access.Level {
	out := maps.Clone(a)
	if out == nil {
		out = map[string]access.Level{}
	}
	for p, l := range b {
		out[p] = max(out[p], l)
	}
	return out
}

// Mending are the steps that put differences right, each by itself. What was looked at is w.
func (s *Picture) Mending(w doorcheck.World, ds []doorcheck.Difference) []packing.Step {
	var out []packing.Step
	var part packing.Part
	all, _ := s.everything()
	wanted := packing.WorldOf(all)
	for _, d := range ds {
		m, ok := w.Mend(d)
		if !ok {
			continue
		}
		if m.Back {
			part.Back = append(part.Back, d.Key.String())
		} else if m.Anew {
			part.Anew = append(part.Anew, d.Key.String())
		}
		out = append(out, s.mending(wanted, d, m)...)
	}
	if len(part.Back)+len(part.Anew) == 0 {
		return out
	}
	chosen := map[string]bool{}
	for _, k := range slices.Concat(part.Back, part.Anew) {
		chosen[k] = true
	}
	list := packing.Compute(all, nil, nil, s.actual(all))
	for _, st := range list.Steps(part) { // with what lay in a folder that is made anew
		w, again := wanted[st.Key]
		if st.State == packing.Waiting && (chosen[st.Key.String()] || again && chosen[w.Parent.String()] && s.Entries[st.Key] != nil) {
			chosen[st.Key.String()] = true
			out = append(out, st)
		}
	}
	return out
}

// mending are the steps of one difference, but for what is brought back or made anew.
func (s *Picture) mending(wanted packing.World, d doorcheck.Difference, m doorcheck.Mend) []packing.Step {
	base := packing.Step{StepKey: packing.StepKey{Key: d.Key, Generation: 1}, Wanted: wanted[d.Key], State: packing.Waiting}
	e := s.Entries[d.Key]
	change := packing.Change{}
	switch {
	case e == nil: // of the ledger it isn't
		base.Key = packing.Key{Class: s.ID, What: packing.What{Purpose: packing.Added, ID: d.Thing}}
		base.Wanted = packing.Wanted{Key: base.Key, Kind: packing.File, Name: d.Name}
		change.Thing = d.Thing
	default:
		base.Generation = e.Generation
		if _, ok := wanted[d.Key]; !ok {
			base.Wanted = s.Discarding(e).Wanted
			base.Wanted.Rule.Grants = e.Granted
		}
	}
	var out []packing.Step
	add := func(act packing.Act, account string, set func(c *packing.Change)) {
		st, c := base, change
		st.Act, st.Account = act, account
		set(&c)
		st.Change = &c
		out = append(out, st)
	}
	for _, p := range slices.Sorted(maps.Keys(m.Levels)) {
		add(packing.SetLevel, p, func(c *packing.Change) { c.Level = m.Levels[p] })
	}
	switch {
	case m.Alone != nil:
		add(packing.SetAlone, "", func(c *packing.Change) { c.Alone = *m.Alone })
	case m.Shut:
		add(packing.ShutLink, "", func(*packing.Change) {})
	case m.Owner != "":
		add(packing.TakeBack, "", func(c *packing.Change) { c.From, c.To = d.Who[0], m.Owner })
	case m.Name != "":
		add(packing.Rename, "", func(c *packing.Change) { c.Rename, c.From = m.Name, d.Name })
	case m.Move:
		add(packing.Move, "", func(c *packing.Change) { c.Move = true })
	case m.Open:
		add(packing.Reopen, "", func(*packing.Change) {})
	case m.Mark != nil:
		add(packing.Close, "", func(c *packing.Change) { c.Mark = m.Mark })
	case m.Bin:
		add(packing.Discard, "", func(*packing.Change) {})
	}
	return out
}

// WhyDoors says how a difference comes about, as far as the ledger knows; called is what a folder is
// called.
func (s *Picture) WhyDoors(called func(thing string) string) func(d doorcheck.Difference) packing.Reason {
	return func(d doorcheck.Difference) packing.Reason {
		r := packing.Reason{Code: "door-" + string(d.Kind), Args: map[string]string{}}
		given := access.Nothing
		if e := s.Entries[d.Key]; e != nil && len(d.Who) > 0 {
			given = e.Granted[d.Who[0]]
		}
		switch d.Kind {
		case doorcheck.Missing:
			if r.Code = doorcheck.NeverShared; given > access.Nothing {
				r.Code = "door-taken-away"
			}
		case doorcheck.Extra, doorcheck.WrongLevel, doorcheck.WrongPerson:
			if r.Code = "door-by-hand"; given > access.Nothing && given == d.Is {
				r.Code = "door-given-before"
			}
		case doorcheck.LostToStaff:
			if len(d.Who) == 0 {
				r.Code = "door-unseen"
			}
		case doorcheck.Renamed:
			r.Args["name"] = d.Called
		case doorcheck.Moved:
			r.Args["folder"], r.Args["count"] = called(d.Lies), strconv.Itoa(len(d.Who))
			if called(d.Lies) == "" {
				r.Code = "door-outside"
			}
		}
		return r
	}
}

// Called says who an account is, as pages of the class call them: its students by their rows, others by
// the school book.
func Called(c Class, book func(account string) string) func(account string) doorcheck.Person {
	listed := map[string]Student{}
	for _, st := range slices.Concat(c.Left, c.Students) {
		listed[st.Account] = st
	}
	return func(account string) doorcheck.Person {
		if st, ok := listed[account]; ok && account != "" {
			return doorcheck.Person{Name: st.Name(), Row: st.ID}
		}
		return doorcheck.Person{Name: cmp.Or(book(account), account)}
	}
}

// Whose is the student that a thing was made for, as lists have it; empty of what is nobody's.
func (s *Picture) Whose(thing string) string {
	if e := s.ByThing[thing]; e != nil {
		return s.NameOf(e.Key.Whom.Row)
	}
	return ""
}
