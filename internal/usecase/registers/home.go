package registers

import (
	"cmp"
	"context"
	"slices"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/usecase/seam"
)

// A Home is one class as one of its students sees it, as it was last seen in the
// cupboard.
type Home struct {
	Class   classes.Class
	Staff   []seam.Member
	Satchel string // ids; empty: none yet
	Shelf   string
	Table   string
	Called  map[string]string // what shelf and table are called, by id
	Pockets []Pocket
	Places  []HomePlace // beside shelf, table and satchel
	Cue     room.Cue
	Added   int // things the student put into the satchel
	Copies  []StudentCopy
	Notices []handout.Handout // newest first
	// Headings are what the handouts stand under, in order.
	Headings []handout.Heading
}

// A Pocket is a folder of a student's satchel.
type Pocket struct{ ID, Name string }

// A HomePlace is a place of the class's own that the student reaches, in the room
// plan's order.
type HomePlace struct {
	ID, Name string
	Level    access.Level
	HandIn   bool
	Team     bool // it is the student's team's
	at       int  // in the plan
}

// A StudentCopy is one copy a student was given.
type StudentCopy struct {
	Key     packing.Key
	Thing   string
	Name    string    // what it is called
	Renewed time.Time // when it was given anew; zero: never
	Opened  bool      // by the student
	Level   access.Level
	Handout handout.Handout
	Work    ledger.Work
}

// Home returns the classes of an account and what the student has in each:
// nobody else's things are looked at.
func (c *Registers) Home(ctx context.Context, account string) ([]Home, error) {
	rows, err := c.Store.RowsOf(ctx, account)
	if err != nil {
		return nil, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	out := []Home{}
	for _, row := range rows {
		h, err := c.homeIn(ctx, account, row, book)
		if err != nil {
			return nil, err
		}
		if !row.Gone || h.Satchel != "" || len(h.Copies) > 0 {
			out = append(out, h)
		}
	}
	return out, nil
}

func (c *Registers) homeIn(ctx context.Context, account string, row classes.Row, book *seam.Known) (Home, error) {
	var h Home
	var err error
	if h.Class, err = c.Store.Class(ctx, row.ClassID); err != nil {
		return h, err
	}
	staff, err := c.Store.Staff(ctx, row.ClassID)
	if err != nil {
		return h, err
	}
	h.Staff = book.Members(staff)
	sets, err := c.Store.TeamSets(ctx, row.ClassID)
	if err != nil {
		return h, err
	}
	in := []string{}
	for _, set := range sets {
		if team, ok := set.Of(row.Record); ok {
			in = append(in, team.ID)
		}
	}
	entries, err := c.Store.LedgerOf(ctx, row.ClassID, row.ID, in)
	if err != nil {
		return h, err
	}
	s := &picture.Picture{Class: picture.Class{Class: h.Class, Staff: staff}, Made: picture.MadeOf(entries)}
	if s.Seen, err = c.Store.ObservedOf(ctx, row.ClassID, row.ID, in); err != nil {
		return h, err
	}
	cues, err := c.Store.Cues(ctx, row.ClassID)
	if err != nil {
		return h, err
	}
	h.Cue = cues[row.ID]
	works, err := c.Store.WorksOf(ctx, row.ClassID, row.ID, in)
	if err != nil {
		return h, err
	}
	handouts, err := c.Store.Handouts(ctx, row.ClassID)
	if err != nil {
		return h, err
	}
	byID := map[string]handout.Handout{}
	for _, x := range handouts {
		byID[x.ID] = x
	}
	if h.Headings, err = c.Store.Headings(ctx, row.ClassID); err != nil {
		return h, err
	}
	if !row.Gone {
		h.Notices = noticesFor(picture.Class{Class: h.Class, Students: []picture.Student{{Row: row}}}, handouts)
	}
	for i := range entries {
		h.put(s, &entries[i], account, byID, works, c.Now())
	}
	things := make([]string, len(h.Copies))
	for i, k := range h.Copies {
		things[i] = k.Thing
	}
	opened, err := c.Store.OpenedBy(ctx, account, things)
	if err != nil {
		return h, err
	}
	for i := range h.Copies {
		h.Copies[i].Opened = opened[h.Copies[i].Thing]
	}
	slices.SortStableFunc(h.Places, func(a, b HomePlace) int { return a.at - b.at })
	order := h.Class.Plan.InOrder(c.School().Language)
	at := func(p Pocket) int {
		return slices.IndexFunc(order, func(x room.Pocket) bool { return x.ID == s.ByThing[p.ID].Key.What.ID })
	}
	slices.SortStableFunc(h.Pockets, func(a, b Pocket) int { return cmp.Compare(at(a), at(b)) })
	return h, nil
}

// put adds to a student's home what the student was given, as far as it can be
// read.
func (h *Home) put(s *picture.Picture, e *ledger.Entry, account string, handouts map[string]handout.Handout, works map[string]ledger.Work, now time.Time) {
	st := s.State(e)
	level := s.Level(e, account, now)
	if st.Place != ledger.Lies || level < access.Read {
		return // made and not shared yet, or no longer there
	}
	switch e.Key.What.Purpose {
	case packing.Satchel:
		h.Satchel, h.Added = e.Thing, st.Inside
	case packing.Pocket:
		h.Pockets = append(h.Pockets, Pocket{e.Thing, st.Name})
	case packing.Shelf:
		h.Shelf = e.Thing
		h.call(e.Thing, st.Name)
	case packing.Table:
		h.Table = e.Thing
		h.call(e.Thing, st.Name)
	case packing.Place:
		h.putPlace(e, st.Name, level)
	case packing.Copy:
		w := works[e.Thing]
		w.Begun = e.Begun(st.Version, w)
		h.Copies = append(h.Copies, StudentCopy{e.Key, e.Thing, st.Name, e.RenewedAt, false, level, handouts[e.Key.What.ID], w})
	}
}

func (h *Home) call(id, name string) {
	if h.Called == nil {
		h.Called = map[string]string{}
	}
	h.Called[id] = name
}

// putPlace adds a place of the class's own to a student's home, but for one that
// lies in another the student reaches. The folder of a team or of a student's own
// is called as the place is.
func (h *Home) putPlace(e *ledger.Entry, name string, level access.Level) {
	places := h.Class.Plan.AllPlaces()
	i := slices.IndexFunc(places, func(p room.Place) bool { return p.ID == e.Key.What.ID })
	if i < 0 {
		i = len(places) // no longer in the plan, and still there
	} else if above, in := h.Class.Plan.Place(places[i].Under); in && above.For != room.ForStaff {
		return
	}
	p := HomePlace{ID: e.Thing, Name: name, Level: level, Team: e.Key.Whom.Team != "", at: i}
	if e.Key.Whom != (packing.Whom{}) && i < len(places) {
		p.Name, p.HandIn = places[i].Name, places[i].HandIn
		if p.Team {
			p.Name += " › " + name
		}
	}
	h.Places = append(h.Places, p)
}

// noticesFor are the notices that are up for a student of a class, newest first.
func noticesFor(cl picture.Class, all []handout.Handout) []handout.Handout {
	var out []handout.Handout
	for _, h := range all {
		if h.Settings.Way != handout.NoticeName || !h.Packed() || len(cl.Out(h)) > 0 {
			continue
		}
		out = append([]handout.Handout{h}, out...)
	}
	return out
}
