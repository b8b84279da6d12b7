package register

import (
	"cmp"
	"slices"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
)

// A Home is one class as one of its students sees it, as it was last seen in the
// cupboard.
type Home struct {
	Class   classes.Class
	Row     string // the student's, of the class
	Left    bool   // the student is no longer in it
	Staff   []accounts.Member
	Satchel string // ids; empty: none yet
	Shelf   string
	Table   string
	Called  map[string]string           // what shelf and table are called, by id
	Shut    map[string]*handout.Closing // things that are closed by hand, or whose place is, by id
	Pockets []Pocket
	Places  []HomePlace // beside shelf, table and satchel
	Cue     room.Cue
	Added   int // things the student put into the satchel
	Copies  []StudentCopy
	Notices []handout.Handout // newest first
	Waits   *packing.Reason   // when the class opens to them; nil: it is open
	// Headings are what the handouts are under, in order.
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
	Renewed time.Time // when it was given again; zero: never
	Opened  bool      // by the student
	Level   access.Level
	Handout handout.Handout
	Work    ledger.Work
	Closing *handout.Closing // nil: it stays open
}

// Arrange puts places and pockets into the order of the class's plan.
func (h *Home) Arrange(s *picture.Picture, language string) {
	slices.SortStableFunc(h.Places, func(a, b HomePlace) int { return a.at - b.at })
	order := h.Class.Plan.InOrder(language)
	at := func(p Pocket) int {
		return slices.IndexFunc(order, func(x room.Pocket) bool { return x.ID == s.ByThing[p.ID].Key.What.ID })
	}
	slices.SortStableFunc(h.Pockets, func(a, b Pocket) int { return cmp.Compare(at(a), at(b)) })
}

// Put adds to a student's home what the student was given, as far as it can be
// read.
func (h *Home) Put(s *picture.Picture, e *ledger.Entry, account string, handouts map[string]handout.Handout,
	works map[string]ledger.Work, now time.Time) {
	st := s.State(e)
	level := s.Level(e, account, now)
	if st.Place != ledger.Lies || level < access.Read {
		return // made and not shared yet, or no longer there
	}
	var shut *handout.Closing
	if hand, down := s.ShutWith(e); down && !h.Left && e.HandedTo == "" {
		if shut = (&handout.Closing{At: hand.At, By: hand.By}); h.Shut == nil {
			h.Shut = map[string]*handout.Closing{}
		}
		h.Shut[e.Thing], level = shut, min(level, access.Read)
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
		x := StudentCopy{e.Key, e.Thing, st.Name, e.RenewedAt, false, level, handouts[e.Key.What.ID], w, nil}
		if closing, ok := x.Handout.Closes(cmp.Or(e.Key.Whom.Row, h.Row)); ok && !h.Left && e.HandedTo == "" {
			x.Closing = &closing
		}
		if shut != nil && (x.Closing == nil || !x.Closing.Closed(now)) {
			x.Closing = shut
		}
		if x.Closing != nil && level >= access.Edit && x.Closing.Closed(now) {
			x.Level = access.Read
		}
		h.Copies = append(h.Copies, x)
	}
}

func (h *Home) call(id, name string) {
	if h.Called == nil {
		h.Called = map[string]string{}
	}
	h.Called[id] = name
}

// putPlace adds a place of the class's own to a student's home, but for one that
// is in another the student reaches. The folder of a team or of a student's own
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
