package classroom

import (
	"context"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/store"
)

// A snapshot is everything packing lists and the Register of one class are made
// of, read by a fixed number of statements. What it says is computed from that
// alone.
type Picture struct {
	Class
	*Made
	Room      room.Class
	Handouts  []handout.Handout
	Headings  []handout.Heading
	Templates map[string]handout.Template
	Decisions map[string]classes.Decision    // by row
	LetBe     map[packing.Key]bool           // left as it is on purpose, whatever became of it
	Known     record.Vocabulary              // the class's
	LetIn     map[string]map[string][]string // handout → row → rows of those let into their copies
	Coming    []ledger.Coming                // what runs are still to do; read before what was made, so that nothing is in neither
	packed    map[packing.Key]string         // copy, or handout's folder → the name it was packed with, or is to have
	repacked  bool                           // it has them for itself
	names     func() names                   // of what there is and what is coming
	Today     string                         // at the school, as in ISO 8601
	Language  string                         // the school's, in whose order names are listed
}

// made is what was made in a class and how it was last seen. It changes with what
// the packer and the people in the cupboard do, and with nothing else.
type Made struct {
	Entries  map[packing.Key]*ledger.Entry
	ByThing  map[string]*ledger.Entry
	Satchels map[string]string      // row → name its satchel was packed with
	Packed   map[packing.Key]string // copy, or handout's folder → name it was packed with
	Ended    map[packing.Key]int    // generation of what ended last
	Stuck    map[packing.Key]ledger.Step
	Seen     map[string]ledger.Seen // what was last observed, by thing; the others stand as the ledger has them
}

// snapshot reads a class from st.
func (c *house) snapshot(ctx context.Context, st *store.Store, book *bookIndex, class string) (*Picture, error) {
	cl, err := c.class(ctx, st, book, class)
	if err != nil {
		return nil, err
	}
	coming, err := st.Coming(ctx, class)
	if err != nil {
		return nil, err
	}
	m, err := madeIn(ctx, st, class)
	if err != nil {
		return nil, err
	}
	return c.snapshotOf(ctx, st, cl, m, coming)
}

// snapshotFor reads of a class what the packing list of one handout is about: of what was made,
// the room's and the handout's own. So that costs no more with forty handouts than with four.
func (c *house) snapshotFor(ctx context.Context, st *store.Store, book *bookIndex, class, handout string) (*Picture, error) {
	if handout == "" {
		return c.snapshot(ctx, st, book, class)
	}
	cl, err := c.class(ctx, st, book, class)
	if err != nil {
		return nil, err
	}
	coming, err := st.Coming(ctx, class)
	if err != nil {
		return nil, err
	}
	entries, err := st.LedgerFor(ctx, class, handout)
	if err != nil {
		return nil, err
	}
	m := MadeOf(entries)
	if m.Seen, err = st.ObservedFor(ctx, class, handout); err != nil {
		return nil, err
	}
	if m.Ended, err = st.Generations(ctx, class); err != nil {
		return nil, err
	}
	s, err := c.snapshotOf(ctx, st, cl, m, coming)
	if err != nil {
		return nil, err
	}
	if h, ok := s.Handout(handout); ok {
		err = s.NameBeside(h, func(names []string) ([]ledger.Called, error) { return st.NamesLike(ctx, class, h.ID, names) })
	}
	return s, err
}

// snapshotOf is a class with what was made in it.
func (c *house) snapshotOf(ctx context.Context, st *store.Store, cl Class, m *Made, coming []ledger.Coming) (*Picture, error) {
	sets, err := st.TeamSets(ctx, cl.ID)
	if err != nil {
		return nil, err
	}
	cl.Plan.Day = or(cl.Plan.Day, c.today())
	s := &Picture{Today: c.today(), Language: c.School().Language, Class: cl, Made: m, Coming: coming, Room: cl.ForRoom(c.names(), sets, m.Satchels), Templates: map[string]handout.Template{}, Known: cl.Vocabulary()}
	s.Room.Satchels = s.Plan.SatchelNames(s.Room)
	if s.Handouts, err = st.Handouts(ctx, cl.ID); err != nil {
		return nil, err
	}
	let, err := st.LetIn(ctx, cl.ID)
	if err != nil {
		return nil, err
	}
	s.LetIn = map[string]map[string][]string{}
	for _, l := range let {
		if s.LetIn[l.Handout] == nil {
			s.LetIn[l.Handout] = map[string][]string{}
		}
		s.LetIn[l.Handout][l.Row] = append(s.LetIn[l.Handout][l.Row], l.Mate)
	}
	if s.Headings, err = st.Headings(ctx, cl.ID); err != nil {
		return nil, err
	}
	if s.LetBe, err = st.LetBe(ctx, cl.ID); err != nil {
		return nil, err
	}
	if s.Decisions, err = st.Decisions(ctx, cl.ID); err != nil {
		return nil, err
	}
	formers, err := st.Formers(ctx, cl.ID)
	if err != nil {
		return nil, err
	}
	s.CameAlong(func(row string) bool { _, came := formers[row]; return came })
	templates, err := st.TemplatesOf(ctx, cl.ID)
	for _, t := range templates {
		s.Templates[t.ID] = t
	}
	if err != nil {
		return nil, err
	}
	s.NameAll()
	return s, nil
}

// madeIn reads what was made in a class: outside of a transaction, which does one
// thing after the other, all of it at the same time.
func madeIn(ctx context.Context, st *store.Store, class string) (*Made, error) {
	var entries []ledger.Entry
	var rest Made
	var all errgroup.Group
	if st.SQLTx() != nil {
		all.SetLimit(1)
	}
	all.Go(func() (err error) { entries, err = st.Ledger(ctx, class); return })
	all.Go(func() (err error) { rest.Seen, err = st.Observed(ctx, class); return })
	all.Go(func() (err error) {
		if rest.Ended, err = st.Generations(ctx, class); err == nil {
			rest.Stuck, err = st.StuckSteps(ctx, class)
		}
		return
	})
	if err := all.Wait(); err != nil {
		return nil, err
	}
	m := MadeOf(entries)
	m.Seen, m.Ended, m.Stuck = rest.Seen, rest.Ended, rest.Stuck
	return m, nil
}

// madeOf makes entries of the ledger at hand.
func MadeOf(all []ledger.Entry) *Made {
	m := &Made{Entries: make(map[packing.Key]*ledger.Entry, len(all)), ByThing: make(map[string]*ledger.Entry, len(all)), Satchels: map[string]string{}, Packed: map[packing.Key]string{}}
	for i, e := range all {
		m.Entries[e.Key], m.ByThing[e.Thing] = &all[i], &all[i]
		if e.Key.What.Purpose == packing.Satchel {
			m.Satchels[e.Key.Whom.Row] = e.Name
		} else if e.Key.Handout() != "" {
			m.Packed[e.Key] = e.Name
		}
	}
	return m
}

// state is how what was made stands: as it was last observed, else as we left it. What is
// on its way to the bin or back is taken to be there.
func (s *Picture) State(e *ledger.Entry) ledger.Seen {
	st, ok := s.Seen[e.Thing]
	switch {
	case !ok:
		st = s.asLeft(e)
	case e.Bound == ledger.BoundBack && st.Place == ledger.InBin:
		st.Place = ledger.Lies
	}
	if e.Bound == ledger.BoundForBin && st.Place == ledger.Lies {
		st.Place = ledger.InBin
	}
	return st
}

// lying is where things were last seen to lie.
func (s *Picture) Lying() ledger.Where {
	return ledger.Where{Things: s.ByThing, Parent: func(e *ledger.Entry) string { return s.State(e).Parent }}
}

// asLeft is how a thing stands that wasn't looked at since we made it.
func (s *Picture) asLeft(e *ledger.Entry) ledger.Seen {
	return ledger.Seen{Place: ledger.Lies, Name: e.Name, Owner: s.Owner(), Rule: access.Rule{Grants: e.Granted, StandsAlone: e.Key.What.Purpose == packing.ClassFolder}, Version: 1}
}

func (s *Picture) Handout(id string) (handout.Handout, bool) {
	if i := slices.IndexFunc(s.Handouts, func(h handout.Handout) bool { return h.ID == id }); i >= 0 {
		return s.Handouts[i], true
	}
	return handout.Handout{}, false
}

// subject is a handout as the core sees it.
func (s *Picture) Way(h handout.Handout) handout.Way {
	return s.subjectBeside(h, func(folder packing.Key) []string { return s.names().but(h.ID, folder.String()) })
}

// subjectBeside is subject beside things of certain names in a folder.
func (s *Picture) subjectBeside(h handout.Handout, beside func(folder packing.Key) []string) handout.Way {
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
	if h.PassedOn() {
		set.Passing, _ = access.ParseLevel(h.Settings.Passing)
		set.Passed = s.passed(h)
	}
	if set.Mates = h.Settings.Classmates != "" || h.Settings.Passing != ""; set.Mates {
		set.Unreached = map[string]bool{}
		for _, st := range s.Students {
			e := s.Entries[room.SatchelKey(s.ID, st.ID)]
			set.Unreached[st.Account] = e != nil && e.Granted[st.Account] < access.Read
		}
	}
	set.By, set.Teams = h.Settings.By, h.Settings.Teams
	for _, d := range h.Settings.Documents {
		if t, ok := s.Templates[d.Template]; ok {
			set.Documents = append(set.Documents, handout.Document{Slot: d.Slot, Thing: t.Thing, Lender: t.Account, Original: t.Title(), Ending: naming.Ending(t.Name), Name: d.Name, For: d.For, MediaType: t.MediaType, Plain: d.Plain, Only: d.Only})
		}
	}
	set.Known, set.Beside = s.Known, beside
	set.Values = record.DayValues(or(h.Settings.Date, s.Today), s.Plan.Term)
	set.Values[record.Title] = h.Title
	return handout.Of(h.Settings.Way, s.Plan, set)
}

// cameAlong has it asked whether the satchel of whoever came from another class
// comes along, before a new one is made. What that class is called is said to nobody.
func (s *Picture) CameAlong(came func(row string) bool) {
	for i, x := range s.Room.Students {
		if !came(x.Row) || s.Entries[room.SatchelKey(s.ID, x.Row)] != nil || s.Decisions[x.Row].Decision == classes.Anew {
			continue
		}
		code := map[string]string{classes.Asked: packing.SatchelAsked, classes.Refused: packing.SatchelRefused, classes.Along: packing.SatchelComing}[s.Decisions[x.Row].Decision]
		s.Room.Students[i].Asked = &packing.Reason{Code: or(code, packing.MovedHere)}
	}
}

// today is this day at the school, as in ISO 8601.
func (c *house) today() string { return c.Now().In(c.School().Zone).Format(time.DateOnly) }

// everything is what is wanted in the class: of the room, and of every handout
// that was packed. of says which handout what is wanted is for; of the rest, it
// is the room.
func (s *Picture) everything() (wanted []packing.Wanted, of map[packing.Key]*handout.Handout) {
	wanted, _ = s.Plan.Wanted(s.Room)
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
		for _, w := range s.subjectBeside(h, beside).Own(s.Room) {
			if of[w.Key] == nil {
				of[w.Key] = &s.Handouts[i]
				wanted = append(wanted, w)
				if s.packed[w.Key] != w.Name {
					given.give(h.ID, w)
				}
			}
		}
	}
	return wanted, of
}

// wanted is everything that is wanted in the class, and of a handout that is given
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
		a := packing.Actual{Thing: e.Thing, Generation: e.Generation, State: stateIn(st, e.Shared()), Name: st.Name, Rule: st.Rule, LastName: e.Name, Granted: e.Granted, Pointed: map[packing.Key]bool{}, Spot: s.spot(e, st), LetBe: s.LetBe[w.Key], NameTaken: s.nameTaken(w.Key)}
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

// spot is where we put a thing last. Of one made before that was kept, it is taken
// to be where it lies; a class's folder lay at the top then.
func (s *Picture) spot(e *ledger.Entry, st ledger.Seen) string {
	if e.Spot != "" {
		return e.Spot
	}
	if e.Key.What.Purpose == packing.ClassFolder {
		return packing.Wanted{}.Spot()
	}
	if parent := s.ByThing[st.Parent]; parent != nil {
		return parent.Key.String()
	}
	return ""
}

// strayed reports a thing that lies where nobody meant it to. A copy in a folder
// that isn't the ledger's, or among other things of its student, was arranged.
func (s *Picture) strayed(w packing.Wanted, st ledger.Seen) bool {
	if w.Kind != packing.File {
		return true
	}
	in := s.ByThing[st.Parent]
	return in != nil && in.Key.Whom != w.Key.Whom
}

// putIn is the folder we put a thing into last, as far as that is known.
func (s *Picture) putIn(e *ledger.Entry, w packing.Wanted) (thing string, known bool) {
	if e.Spot != "" || e.PutIn != "" {
		return e.PutIn, true
	}
	parent := s.Entries[w.Parent]
	if parent == nil {
		return "", false
	}
	return parent.Thing, true
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

// roomList is the packing list of the room, with what is to be changed about the
// copies of every packed handout: a student's new name or address concerns both.
// Of the rows that are linked anew, everything is in it.
func (s *Picture) RoomList(relinked ...string) packing.List {
	wanted, of := s.everything()
	_, absent := s.Plan.Wanted(s.Room)
	l := packing.Compute(wanted, absent, s.Room.Links(), s.actual(wanted))
	l.Lines = slices.DeleteFunc(l.Lines, func(line packing.Line) bool {
		return of[line.Wanted.Key] != nil && line.Section != packing.ToChange && (line.Section != packing.ToPack || !slices.Contains(relinked, line.Wanted.Key.Whom.Row))
	})
	return l
}

// handoutList is the packing list of a handout. Of the room's things it holds
// what is to be packed, not what is to be changed.
func (s *Picture) HandoutList(h handout.Handout) packing.List {
	wanted, absent := s.Way(h).Wanted(s.Room)
	l := packing.Compute(wanted, absent, nil, s.actual(wanted))
	l.Lines = slices.DeleteFunc(l.Lines, func(line packing.Line) bool {
		return line.Section == packing.ToChange && line.Wanted.Key.What.ID != h.ID
	})
	return l
}

// A Lacking is what a top-up would pack, and what waits besides.
type Lacking struct {
	Students int                // whom a top-up would serve
	Changes  int                // lines to change, which a top-up leaves alone
	Subjects []*handout.Handout // nil for the room
}

// lacking counts the lines a top-up would pack: things never made or unshared in
// the room and every handout that was packed.
func (s *Picture) Lacking(rows ...string) Lacking { return s.LackingBut(nil, rows...) }

// lackingBut is lacking without what is under way.
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

// toDo is what there is to pack and to change in the whole class. What is stuck
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

// missing is what a top-up packs, but for what is being packed already.
func (s *Picture) Missing() packing.List {
	if len(s.Entries) == 0 {
		return packing.List{} // the room isn't packed yet: that is the first act
	}
	l, underWay := s.Outstanding(), s.UnderWay()
	l.Lines = slices.DeleteFunc(l.Lines, func(line packing.Line) bool { return underWay[line.Wanted.Key] })
	return l
}
