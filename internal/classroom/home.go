package classroom

import (
	"cmp"
	"context"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// A Home is one class as one of its students sees it, as it was last seen in the
// cupboard.
type Home struct {
	Class   store.Class
	Staff   []Member
	Satchel string // ids; empty: none yet
	Shelf   string
	Table   string
	Pockets []Pocket
	Added   int // things the student put into the satchel
	Copies  []StudentCopy
}

// A Pocket is a folder of a student's satchel.
type Pocket struct{ ID, Name string }

// A StudentCopy is one copy a student was given.
type StudentCopy struct {
	Thing   string
	Level   access.Level
	Handout store.Handout
	Work    store.Work
}

// Home returns the classes of an account and what the student has in each:
// nobody else's things are looked at.
func (c *Registers) Home(ctx context.Context, account string) ([]Home, error) {
	rows, err := c.Store.RowsOf(ctx, account)
	if err != nil {
		return nil, err
	}
	book, err := c.book(ctx)
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

func (c *Registers) homeIn(ctx context.Context, account string, row store.Row, book *bookIndex) (Home, error) {
	var h Home
	var err error
	if h.Class, err = c.Store.Class(ctx, row.ClassID); err != nil {
		return h, err
	}
	staff, err := c.Store.Staff(ctx, row.ClassID)
	if err != nil {
		return h, err
	}
	h.Staff = book.members(staff)
	ledger, err := c.Store.LedgerOf(ctx, row.ClassID, row.ID)
	if err != nil {
		return h, err
	}
	s := &snapshot{house: c.house, Class: Class{Class: h.Class, Staff: staff}, made: madeOf(ledger)}
	if s.seen, err = c.Store.ObservedOf(ctx, row.ClassID, row.ID); err != nil {
		return h, err
	}
	works, err := c.Store.WorksOf(ctx, row.ID)
	if err != nil {
		return h, err
	}
	handouts, err := c.Store.Handouts(ctx, row.ClassID)
	if err != nil {
		return h, err
	}
	byID := map[string]store.Handout{}
	for _, x := range handouts {
		byID[x.ID] = x
	}
	for i := range ledger {
		s.put(&h, &ledger[i], account, byID, works)
	}
	order := h.Class.Plan.Pockets
	at := func(p Pocket) int {
		return slices.IndexFunc(order, func(x room.Pocket) bool { return x.ID == s.byThing[p.ID].Key.What.ID })
	}
	slices.SortStableFunc(h.Pockets, func(a, b Pocket) int { return cmp.Compare(at(a), at(b)) })
	return h, nil
}

// put adds to a student's home what the student was given, as far as it can be
// read.
func (s *snapshot) put(h *Home, e *store.Entry, account string, handouts map[string]store.Handout, works map[string]store.Work) {
	st := s.state(e)
	level := s.level(e, account)
	if st.Place != cupboard.Lies || level < access.Read {
		return // made and not shared yet, or no longer there
	}
	switch e.Key.What.Purpose {
	case packing.Satchel:
		h.Satchel, h.Added = e.Thing, st.Inside
	case packing.Pocket:
		h.Pockets = append(h.Pockets, Pocket{e.Thing, st.Name})
	case packing.Shelf:
		h.Shelf = e.Thing
	case packing.Table:
		h.Table = e.Thing
	case packing.Copy:
		h.Copies = append(h.Copies, StudentCopy{e.Thing, level, handouts[e.Key.What.ID], works[e.Thing]})
	}
}

// level is what an account has on a thing by the rules that were last seen: of the
// thing, of the student's own folders it lies in, and of the class's.
func (s *snapshot) level(e *store.Entry, account string) access.Level {
	var chain []access.Thing
	for at := e; at != nil && len(chain) <= len(s.entries); {
		st := s.state(at)
		chain = append(chain, access.Thing{ID: at.Thing, Owner: st.Owner, Rule: st.Rule, Closed: st.Closed})
		if at.Key.What.Purpose == packing.ClassFolder {
			break
		}
		next := s.byThing[st.Parent]
		if next == nil && at.Key.Whom.Row != "" && at.Key.What.Purpose != packing.Satchel {
			next = s.satchel(at.Key.Whom.Row)
		}
		if next == nil {
			next = s.entries[packing.Key{Class: s.ID, What: packing.What{Purpose: packing.ClassFolder}}]
		}
		at = next
	}
	return access.Effective(account, chain, s.Now()).Level
}

func (s *snapshot) satchel(row string) *store.Entry {
	for k, e := range s.entries {
		if k.What.Purpose == packing.Satchel && k.Whom.Row == row {
			return e
		}
	}
	return nil
}
