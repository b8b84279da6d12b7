package classroom

import (
	"context"
	"slices"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// A snapshot is everything packing lists and the Register of one class are made
// of, read by a fixed number of statements, with what was seen in the cupboard.
// What it says of itself is computed from that alone.
type snapshot struct {
	*Classroom
	Class
	room      room.Class
	entries   map[packing.Key]*store.Entry
	packed    map[string]map[string]string // handout → row → name its copy was packed with
	ended     map[packing.Key]int          // generation of what ended last
	handouts  []store.Handout
	templates map[string]store.Template
	stuck     map[packing.Key]store.Step
	seen      map[string]cupboard.State // by thing
	fresh     map[string]bool           // things made since the cupboard was asked: they lie where they were put
}

// snapshot reads a class from st, without the cupboard.
func (c *Classroom) snapshot(ctx context.Context, st *store.Store, book *bookIndex, class string) (*snapshot, error) {
	s := &snapshot{Classroom: c, entries: map[packing.Key]*store.Entry{}, packed: map[string]map[string]string{}, templates: map[string]store.Template{}}
	var err error
	if s.Class, err = c.class(ctx, st, book, class); err != nil {
		return nil, err
	}
	ledger, err := st.Ledger(ctx, class)
	if err != nil {
		return nil, err
	}
	satchels := map[string]string{}
	for i, e := range ledger {
		s.entries[e.Key] = &ledger[i]
		switch e.Key.What.Purpose {
		case packing.Satchel:
			satchels[e.Key.Whom.Row] = e.Name
		case packing.Copy:
			if s.packed[e.Key.What.ID] == nil {
				s.packed[e.Key.What.ID] = map[string]string{}
			}
			s.packed[e.Key.What.ID][e.Key.Whom.Row] = e.Name
		}
	}
	s.room = c.forRoom(s.Class, satchels)
	s.room.Satchels = s.Plan.V.SatchelNames(s.room)
	if s.ended, err = st.Generations(ctx, class); err != nil {
		return nil, err
	}
	if s.handouts, err = st.Handouts(ctx, class); err != nil {
		return nil, err
	}
	if s.stuck, err = st.StuckSteps(ctx, class); err != nil {
		return nil, err
	}
	templates, err := st.TemplatesOf(ctx, class)
	if err != nil {
		return nil, err
	}
	for _, t := range templates {
		s.templates[t.ID] = t
	}
	return s, nil
}

// observe asks the cupboard, once, how everything of the class's ledger stands.
func (s *snapshot) observe(ctx context.Context) error {
	if s.seen = map[string]cupboard.State{}; len(s.entries) == 0 {
		return nil
	}
	ids := make([]string, 0, len(s.entries))
	for _, e := range s.entries {
		ids = append(ids, e.Thing)
	}
	slices.Sort(ids)
	var err error
	s.seen, err = s.Cup.States(ctx, s.Owner(), ids)
	return err
}

// look reads a class and asks the cupboard how its things stand.
func (c *Classroom) look(ctx context.Context, class string) (*snapshot, error) {
	book, err := c.book(ctx)
	if err != nil {
		return nil, err
	}
	s, err := c.snapshot(ctx, c.Store, book, class)
	if err != nil {
		return nil, err
	}
	return s, s.observe(ctx)
}

func (s *snapshot) handout(id string) (store.Handout, bool) {
	if i := slices.IndexFunc(s.handouts, func(h store.Handout) bool { return h.ID == id }); i >= 0 {
		return s.handouts[i], true
	}
	return store.Handout{}, false
}

// subject is a handout as the core sees it.
func (s *snapshot) subject(h store.Handout) room.Subject {
	set := handout.Settings{ID: h.ID, Title: h.Title, Name: h.Settings.V.Name, Pocket: h.Settings.V.Pocket, Out: s.Out(h), Packed: s.packed[h.ID]}
	set.Level, _ = access.ParseLevel(h.Settings.V.Level)
	if t, ok := s.templates[h.TemplateID.String]; ok {
		set.Template = handout.Template{Thing: t.Thing, Ending: naming.Ending(t.Name), Lender: t.Account}
	}
	date := h.Settings.V.Date
	if date == "" {
		date = s.Now().In(s.School.Zone).Format(time.DateOnly)
	}
	set.Values = record.Values{record.Title: h.Title, record.Date: date, record.Year: date[:4]}
	return handout.OneEach{Plan: s.Plan.V, Settings: set}
}

// wanted is everything that is wanted in the class: of the room, and of every
// handout that was packed, and of the one given though it wasn't.
func (s *snapshot) wanted(h *store.Handout) map[packing.Key]packing.Wanted {
	out := map[packing.Key]packing.Wanted{}
	put := func(of room.Subject) {
		wanted, _ := of.Wanted(s.room)
		for _, w := range wanted {
			out[w.Key] = w
		}
	}
	for _, x := range s.handouts {
		if x.PackedAt.Valid || h != nil && h.ID == x.ID {
			put(s.subject(x))
		}
	}
	put(s.Plan.V)
	return out
}

// actual joins ledger and cupboard for what is wanted.
func (s *snapshot) actual(wanted []packing.Wanted) map[packing.Key]packing.Actual {
	out := make(map[packing.Key]packing.Actual, len(wanted))
	for _, w := range wanted {
		e := s.entries[w.Key]
		if e == nil {
			if g := s.ended[w.Key]; g > 0 {
				out[w.Key] = packing.Actual{Generation: g}
			}
			continue
		}
		a := packing.Actual{Thing: e.Thing, Generation: e.Generation, State: packing.Gone, Name: e.Name, LastName: e.Name, Granted: e.Granted, Pointed: map[packing.Key]bool{}}
		for _, folder := range w.Pointers {
			_, a.Pointed[folder] = e.Pointers[folder.String()]
		}
		if st, ok := s.seen[e.Thing]; ok {
			a.State, a.Name, a.Rule = packing.Here, st.Name, st.Rule
			if parent := s.entries[w.Parent]; parent != nil && st.Parent != parent.Thing && !s.fresh[e.Thing] {
				a.State = packing.Elsewhere
			}
			if !e.Shared() {
				a.State = packing.Unshared
			}
		}
		out[w.Key] = a
	}
	return out
}

// listOf is the packing list of a subject alone.
func (s *snapshot) listOf(of room.Subject, links []packing.Link) packing.List {
	wanted, absent := of.Wanted(s.room)
	return packing.Compute(wanted, absent, links, s.actual(wanted))
}

// roomList is the packing list of the room, with what is to be changed about the
// copies of every packed handout: a student's new name or address concerns both.
// Of the rows that are linked anew, everything is in it.
func (s *snapshot) roomList(relinked ...string) packing.List {
	l := s.listOf(s.Plan.V, s.room.Links())
	for _, h := range s.handouts {
		if !h.PackedAt.Valid {
			continue
		}
		for _, line := range s.listOf(s.subject(h), nil).Lines {
			mine := line.Wanted.Key.What.ID == h.ID
			if mine && (line.Section == packing.ToChange || line.Section == packing.ToPack && slices.Contains(relinked, line.Wanted.Key.Whom.Row)) {
				l.Lines = append(l.Lines, line)
			}
		}
	}
	return l
}

// handoutList is the packing list of a handout. Of the room's things it holds
// what is to be packed, not what is to be changed.
func (s *snapshot) handoutList(h store.Handout) packing.List {
	l := s.listOf(s.subject(h), nil)
	l.Lines = slices.DeleteFunc(l.Lines, func(line packing.Line) bool {
		return line.Section == packing.ToChange && line.Wanted.Key.What.ID != h.ID
	})
	return l
}

// A Lacking is what a top-up would pack, and what waits besides.
type Lacking struct {
	Students int              // whom a top-up would serve
	Changes  int              // lines to change, which a top-up leaves alone
	Subjects []*store.Handout // nil for the room
}

// lacking counts the lines a top-up would pack: things never made or unshared in
// the room and every handout that was packed.
func (s *snapshot) lacking() Lacking {
	var out Lacking
	if len(s.Students) == 0 || len(s.entries) == 0 {
		return out // the room isn't packed yet: that is the first act, not a top-up
	}
	who := map[string]bool{}
	consider := func(l packing.List, h *store.Handout) {
		some := false
		for _, line := range l.Lines {
			key := line.Wanted.Key
			if _, stuck := s.stuck[key]; stuck {
				continue // it stands on its line, to be fixed there
			}
			if line.Section == packing.ToChange && h == nil {
				out.Changes++
			}
			if line.Section == packing.ToPack {
				some = true
				if key.Whom.Row != "" {
					who[key.Whom.Row] = true
				}
			}
		}
		if some {
			out.Subjects = append(out.Subjects, h)
		}
	}
	consider(s.roomList(), nil)
	for i, h := range s.handouts {
		if h.PackedAt.Valid {
			consider(s.handoutList(h), &s.handouts[i])
		}
	}
	out.Students = len(who)
	return out
}
