package things

import (
	"context"
	"errors"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/usecase/seam"
)

// Move puts things into a folder, one after the other. Nothing loses its id or link;
// what the rules of the folder it lay in gave ends, what those of the new one give
// begins.
func (c *Things) Move(ctx context.Context, account, key string, ids []string, to string) error {
	if len(ids) > mostArranged {
		return change.TooMany("things", "too-many", mostArranged)
	}
	folder, err := c.folder(ctx, account, to)
	if err != nil {
		return err
	}
	if err := c.roomIn(ctx, account, &folder); err != nil && !errors.Is(err, cupboard.ErrNoRight) { // which each is asked for
		return err
	}
	var all []acting
	for _, id := range ids {
		var by acting
		t, e := c.Get(ctx, account, id)
		if e == nil {
			by, e = c.arranger(ctx, account, t, &folder)
		}
		if e == nil {
			e = c.unshut(ctx, account, by.above)
		}
		if e == nil {
			e = c.move(ctx, by, "move/"+account+"/"+key, t, folder)
		}
		if e != nil { // what was moved until then is in the log
			err = e
			break
		}
		all = append(all, by)
	}
	return errors.Join(err, c.arranged(ctx, account, "things-moved", len(all), folder.Name, all...))
}

// move puts one thing into a folder, under a key of its own.
func (c *Things) move(ctx context.Context, by acting, key string, t, folder cupboard.Thing) error {
	if e := by.home; e != nil && e.Thing == t.ID && e.Key.What.Purpose == packing.ClassFolder {
		return change.Refuse("things", "class-by-plan")
	}
	if by.home != nil && !by.staff { // what is of a class stays within its staff's reach
		to, in, err := c.home(ctx, folder)
		if err != nil {
			return err
		}
		if !in || to.Key.Class != by.home.Key.Class {
			return change.Refuse("to", "stays-in-class")
		}
	}
	if folder.Level < access.Edit { // anyone who acts needs the right in both places, not whom they act for
		return cupboard.ErrNoRight
	}
	if err := c.cup.Move(ctx, by.as, key+"/"+t.ID, t.ID, folder.ID); err != nil {
		if errors.Is(err, cupboard.ErrInside) {
			return change.Refuse("to", "base-inside")
		}
		return seam.NotFound(err)
	}
	from := t.Parent
	if t.Path = append(slices.Clone(folder.Path), cupboard.Crumb{ID: folder.ID}); from != folder.ID {
		return c.lookAround(ctx, t)
	}
	return nil
}

// arranging says what an account may do with what is in a folder.
func (c *Things) arranging(ctx context.Context, account string, by acting, inside []cupboard.Thing) (map[string]Arranging, error) {
	out := map[string]Arranging{}
	if len(inside) == 0 {
		return out, nil
	}
	var mine []string // rows of the account
	var entries map[string]ledger.Entry
	if by.home != nil && !by.staff {
		rows, err := c.Store.RowsOf(ctx, account)
		if err != nil {
			return nil, err
		}
		ids := make([]string, len(inside))
		for i, x := range inside {
			ids[i] = x.ID
		}
		for _, r := range rows {
			mine = append(mine, r.ID)
		}
		if entries, err = c.Store.EntriesByThing(ctx, ids); err != nil {
			return nil, err
		}
	}
	for _, x := range inside {
		switch {
		case by.staff, x.Level == access.Owner && x.Closed == nil:
			out[x.ID] = ArrangeAll
		case entries[x.ID].Key.What.Purpose == packing.Copy && slices.Contains(mine, entries[x.ID].Key.Whom.Row):
			out[x.ID] = ArrangeOnly
		}
	}
	return out, nil
}

// Effects say who would reach things that are moved and doesn't now, or would no
// more, each by name; More counts things that weren't looked at.
type Effects struct {
	Gain, Lose []string
	More       int
}

// mostEffects things are looked at before they are moved.
const mostEffects = 20

// A moving is a thing that is to be put into a folder.
type moving struct{ thing, to cupboard.Thing }

// MoveEffects says what moving things into a folder would change about who reaches
// them.
func (c *Things) MoveEffects(ctx context.Context, account string, ids []string, to string) (Effects, error) {
	folder, err := c.folder(ctx, account, to)
	if err != nil {
		return Effects{}, err
	}
	moves := make([]moving, min(len(ids), mostEffects))
	for i := range moves {
		t, err := c.Get(ctx, account, ids[i])
		if err != nil {
			return Effects{}, err
		}
		moves[i] = moving{t, folder}
	}
	out, err := c.effects(ctx, account, moves)
	out.More = len(ids) - len(moves)
	return out, err
}

// effects looks at most at mostEffects things.
func (c *Things) effects(ctx context.Context, account string, moves []moving) (Effects, error) {
	var out Effects
	gain, lose, on := map[string]bool{}, map[string]bool{}, map[string]map[string]access.Level{}
	people := func(t cupboard.Thing) (map[string]access.Level, error) {
		if on[t.ID] == nil {
			var err error
			if on[t.ID], err = c.peopleOn(ctx, account, t); err != nil {
				return nil, err
			}
		}
		return on[t.ID], nil
	}
	for i, m := range moves {
		if i == mostEffects {
			out.More = len(moves) - i
			break
		}
		by, err := c.actor(ctx, account, m.thing)
		if err != nil {
			return out, err
		}
		states, err := c.cup.States(ctx, by.as, []string{m.thing.ID})
		if err != nil {
			return out, seam.NotFound(err)
		}
		there, err := people(m.to)
		if err != nil {
			return out, err
		}
		now, err := people(m.thing)
		if err != nil {
			return out, err
		}
		st := states[m.thing.ID]
		in, no := access.Moved(access.Thing{Owner: st.Owner, Rule: st.Rule}, now, there)
		for _, who := range in {
			gain[who] = true
		}
		for _, who := range no {
			lose[who] = true
		}
	}
	book, err := c.Book(ctx)
	if err != nil {
		return out, err
	}
	named := func(of map[string]bool) (names []string) {
		for who := range of {
			names = append(names, book.Account(who).Name())
		}
		slices.Sort(names)
		return names
	}
	out.Gain, out.Lose = named(gain), named(lose)
	return out, nil
}

// peopleOn are the levels everybody has on a thing, asked in the name of anyone who may
// ask that; anyone who may not learns nothing but about themselves.
func (c *Things) peopleOn(ctx context.Context, account string, t cupboard.Thing) (map[string]access.Level, error) {
	by, err := c.arranger(ctx, account, t, nil)
	if err != nil {
		return nil, err
	}
	people, err := c.cup.People(ctx, by.as, t.ID)
	if errors.Is(err, cupboard.ErrNoRight) {
		return map[string]access.Level{account: t.Level}, nil
	}
	if err != nil {
		return nil, seam.NotFound(err)
	}
	out := make(map[string]access.Level, len(people))
	for who, why := range people {
		out[who] = why.Level
	}
	return out, nil
}
