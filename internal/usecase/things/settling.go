package things

import (
	"context"
	"errors"
	"slices"

	"golang.org/x/sync/errgroup"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/usecase/seam"
)

// rowOf is the row of the student a thing of a class belongs to: whom it was packed
// for, in whose satchel it lies, or who put it where it is; empty: nobody's.
func rowOf(cl picture.Class, by acting, t cupboard.Thing) string {
	if row := by.home.Key.Whom.Row; row != "" {
		if _, ok := cl.Student(row); ok {
			return row
		}
		return ""
	}
	if i := slices.IndexFunc(cl.Students, func(s picture.Student) bool { return s.Account != "" && s.Account == t.Owner }); i >= 0 {
		return cl.Students[i].ID
	}
	return ""
}

// toSatchels sends each thing to its student's satchel.
func (c *Things) toSatchels(ctx context.Context, class string, of []room.Belonging) (to []room.Destination, rest []string, err error) {
	var keys []packing.Key
	for _, b := range of {
		if b.Row != "" {
			keys = append(keys, room.SatchelKey(class, b.Row))
		}
	}
	satchels, err := c.Store.EntriesByKey(ctx, keys)
	if err != nil {
		return nil, nil, err
	}
	at := map[string]int{}
	for _, b := range of {
		e, ok := satchels[room.SatchelKey(class, b.Row)]
		if b.Row == "" || !ok {
			rest = append(rest, b.Thing)
			continue
		}
		i, there := at[b.Row]
		if !there {
			i = len(to)
			at[b.Row], to = i, append(to, room.Destination{Link: e.Link})
		}
		to[i].Things = append(to[i].Things, b.Thing)
	}
	return to, rest, nil
}

// settle finds the folders that things are sent to: by their links, or by name in the
// folder that was chosen.
func (c *Things) settle(ctx context.Context, account string, ask Spreading, to []room.Destination, s *Spread) error {
	found := make([]cupboard.Thing, len(to))
	var some errgroup.Group
	some.SetLimit(lookedAtOnce)
	for i, d := range to {
		if d.Link == "" {
			continue
		}
		some.Go(func() error {
			t, err := c.cup.ByLink(ctx, account, d.Link)
			if err == nil {
				t, err = c.writable(ctx, account, s.keeper, t.ID)
			}
			var invalid *change.Invalid
			if err = seam.NotFound(err); errors.Is(err, seam.ErrNotFound) || errors.As(err, &invalid) {
				return nil
			}
			found[i] = t
			return err
		})
	}
	if err := some.Wait(); err != nil {
		return err
	}
	named := map[string]cupboard.Thing{}
	if ask.By != "" {
		in, err := c.writable(ctx, account, s.keeper, ask.To)
		if err != nil {
			return err
		}
		s.places[in.ID] = in
		there, err := c.cup.List(ctx, account, in.ID)
		if err != nil {
			return seam.NotFound(err)
		}
		named = foldersIn(in, there)
	}
	for i, d := range to {
		switch t := found[i]; {
		case d.Name != "":
			there := named[naming.Fold(d.Name)]
			s.places[there.ID] = there
			s.put(SpreadTo{there.ID, d.Name, d.Things})
		case t.ID != "":
			s.places[t.ID] = t
			s.put(SpreadTo{t.ID, t.Name, d.Things})
		default:
			for _, id := range d.Things {
				s.Stay = append(s.Stay, Stay{id, PlaceAway})
			}
		}
	}
	delete(s.places, "")
	return nil
}

// writable looks at a folder into which things can be put on an account's behalf, in
// the name of their keeper.
func (c *Things) writable(ctx context.Context, account, keeper, id string) (cupboard.Thing, error) {
	t, err := c.folder(ctx, account, id)
	if err != nil {
		return t, err
	}
	level := t.Level
	if keeper != account {
		k, err := c.Get(ctx, keeper, id)
		if err != nil && !errors.Is(err, seam.ErrNotFound) {
			return t, err
		}
		level = min(level, k.Level) // none of what isn't there
	}
	if level < access.Edit {
		return t, change.Refuse("to", "base-no-right", "name", t.Name)
	}
	return t, nil
}

// foldersIn are the folders among what is in a folder, by their folded names.
func foldersIn(in cupboard.Thing, there []cupboard.Thing) map[string]cupboard.Thing {
	out := map[string]cupboard.Thing{}
	for _, t := range there {
		if t.Kind == cupboard.Folder && t.Level >= access.Edit {
			t.Path = append(slices.Clone(in.Path), cupboard.Crumb{ID: in.ID, Name: in.Name})
			out[naming.Fold(t.Name)] = t
		}
	}
	return out
}

// makePlaces makes the folders that aren't there yet. Of two who spread into one folder
// at the same moment the second finds what the first has made.
func (c *Things) makePlaces(ctx context.Context, account, key, in string, s *Spread) error {
	if !slices.ContainsFunc(s.To, func(to SpreadTo) bool { return to.Folder == "" }) {
		return nil
	}
	return c.alone(ctx, in, func() error {
		there, err := c.cup.List(ctx, account, in)
		if err != nil {
			return seam.NotFound(err)
		}
		named := foldersIn(s.places[in], there)
		for i, to := range s.To {
			if to.Folder != "" {
				continue
			}
			t, ok := named[naming.Fold(to.Name)]
			if !ok {
				if t, err = c.makeFolder(ctx, account, key+"/"+naming.Fold(to.Name), in, to.Name, there); err != nil {
					return err
				}
				there = append(there, t)
			}
			s.To[i].Folder, s.places[t.ID] = t.ID, t
		}
		return nil
	})
}
