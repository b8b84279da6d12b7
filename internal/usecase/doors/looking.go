package doors

import (
	"context"
	"errors"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/usecase/seam"
)

// mostLevels of folders in folders are looked at.
const mostLevels = 40

// tries is how often a class is looked at again that changed meanwhile.
const tries = 3

// A look is a class and the cupboard in the same moment, as far as that can be.
type look struct {
	*picture.Picture
	book    *seam.Known
	world   doorcheck.World
	passing int
}

// told are reaches in names.
func (l *look) told(all []doorcheck.Reach) []doorcheck.Told {
	return l.world.Tell(all, picture.Called(l.Class, l.book.Called), l.Whose)
}

// look looks at the whole of a class's tree, a level at a time. What changes while it looks is
// looked at again, a few times.
func (c *Doors) look(ctx context.Context, class string) (*look, error) {
	for n := 1; ; n++ {
		before, err := c.Store.Revision(ctx, class)
		if err != nil {
			return nil, seam.NotFound(err)
		}
		l, err := c.lookOnce(ctx, class)
		if err != nil {
			return nil, err
		}
		after, err := c.Store.Revision(ctx, class)
		if err != nil || before == after || n == tries {
			return l, seam.NotFound(err)
		}
	}
}

func (c *Doors) lookOnce(ctx context.Context, class string) (*look, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	first, err := c.Picture(ctx, c.Store, book, class)
	if err != nil {
		return nil, seam.NotFound(err)
	}
	found, above, err := c.tree(ctx, first)
	if err != nil {
		return nil, err
	}
	// What was made meanwhile isn't found: what is under way is asked after it, and passed by.
	busy, err := c.Store.StepsUnderWay(ctx, class)
	if err != nil {
		return nil, err
	}
	s, err := c.Picture(ctx, c.Store, book, class)
	if err != nil {
		return nil, seam.NotFound(err)
	}
	l := &look{Picture: s, book: book, world: s.Doors(busy), passing: len(busy)}
	l.world.At, l.world.Above = c.Now(), above
	if l.world.Found, err = c.besides(ctx, s, l.world, found, busy); err != nil {
		return nil, err
	}
	return l, c.foreign(ctx, l, class)
}

// tree is what there is of a class in the cupboard, its own folder first, and what that lies in.
func (c *Doors) tree(ctx context.Context, s *picture.Picture) ([]doorcheck.Found, []access.Thing, error) {
	e := s.Entries[s.Room.Key(packing.ClassFolder)]
	if e == nil {
		return nil, nil, nil
	}
	owner := s.Owner()
	top, err := c.cup.Get(ctx, owner, e.Thing)
	if errors.Is(err, cupboard.ErrNotFound) {
		return nil, nil, nil // in the bin, gone, or out of reach: that is said of it
	}
	if err != nil {
		return nil, nil, err
	}
	ids := []string{e.Thing}
	for _, crumb := range slices.Backward(top.Path) {
		ids = append(ids, crumb.ID)
	}
	states, err := c.cup.States(ctx, owner, ids)
	if err != nil {
		return nil, nil, err
	}
	out := []doorcheck.Found{doorcheck.FoundOf(e.Thing, states[e.Thing], true)}
	var above []access.Thing
	for _, id := range ids[1:] {
		above = append(above, access.Thing{ID: id, Owner: states[id].Owner, Folder: true, Rule: states[id].Rule})
	}
	order := naming.NewOrder(c.School().Language)
	for level, n := []string{e.Thing}, 0; len(level) > 0 && n < mostLevels; n++ {
		held, err := c.cup.Held(ctx, owner, level)
		if err != nil {
			return nil, nil, err
		}
		order.Sort(len(held), func(i int) string { return held[i].Name }, func(i, j int) { held[i], held[j] = held[j], held[i] })
		level = nil
		for _, h := range held {
			if h.Kind == cupboard.Pointer {
				continue // it never gives access
			}
			out = append(out, doorcheck.Found{ID: h.ID, Name: h.Name, Parent: h.Parent, Folder: h.Kind == cupboard.Folder, Owner: h.Owner,
				Rule: h.Rule, Closed: h.Closed, Place: ledger.Lies})
			if h.Kind == cupboard.Folder {
				level = append(level, h.ID)
			}
		}
	}
	return out, above, nil
}

// besides adds what is wanted and doesn't lie in the class's tree, however it stands, and leaves out
// what a run is under way with. What was of the class and isn't wanted any more is others' to ask
// after, once it lies elsewhere.
func (c *Doors) besides(ctx context.Context, s *picture.Picture, w doorcheck.World, found []doorcheck.Found,
	busy map[packing.Key]bool) ([]doorcheck.Found, error) {
	there := map[string]bool{}
	for _, f := range found {
		there[f.ID] = true
	}
	var missed []string
	folder := map[string]bool{}
	for _, x := range w.Wanted {
		if !there[x.Thing] && !x.Former {
			missed, folder[x.Thing] = append(missed, x.Thing), x.Folder
		}
	}
	away := map[string]bool{} // handed over, and staff with no say in it: that is nobody's to check
	found = slices.DeleteFunc(found, func(f doorcheck.Found) bool {
		e := s.ByThing[f.ID]
		away[f.ID] = away[f.Parent] || e != nil && e.HandedOff
		return away[f.ID] || e != nil && busy[e.Key]
	})
	if len(missed) == 0 {
		return found, nil
	}
	states, err := c.cup.States(ctx, s.Owner(), missed)
	if err != nil {
		return nil, err
	}
	for _, id := range missed {
		st, told := states[id]
		if !told {
			st.Place = ledger.Unseen
		}
		found = append(found, doorcheck.FoundOf(id, st, folder[id]))
	}
	return found, nil
}

// foreign are things of another class's ledger that lie here: the copies in a satchel that came
// along, which its former staff go on reading.
func (c *Doors) foreign(ctx context.Context, l *look, class string) error {
	var ids []string
	for _, f := range l.world.Found {
		if l.ByThing[f.ID] == nil {
			ids = append(ids, f.ID)
		}
	}
	entries, err := c.Store.EntriesByThing(ctx, ids)
	if err != nil {
		return err
	}
	readers := map[string]map[string]access.Level{}
	for _, id := range ids {
		e, ok := entries[id]
		if !ok || e.Key.Class == class {
			continue
		}
		if readers[e.Key.Class] == nil {
			staff, err := c.Store.Staff(ctx, e.Key.Class)
			if err != nil {
				return err
			}
			readers[e.Key.Class] = map[string]access.Level{}
			for _, m := range staff {
				readers[e.Key.Class][m.Account] = access.Read
			}
		}
		l.world.Wanted = append(l.world.Wanted, doorcheck.Wanted{Thing: id, Owner: l.Owner(), May: readers[e.Key.Class], Former: true})
	}
	return nil
}
