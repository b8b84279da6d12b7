package classroom

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// mostArranged things are moved or binned at once.
const mostArranged = 200

// An Inside is what lies in a thing: how many, whose and how recent.
type Inside struct {
	Folders, Files int
	Of             []InsideOf
	Newest         time.Time
	More           bool // there is more than was counted
}

// InsideOf is how many things belong to one person.
type InsideOf struct {
	Name   string
	Things int
}

// mostInside things are counted.
const mostInside = 5000

// Inside says what lies in a thing, at any depth, as far as an account sees it.
func (c *Things) Inside(ctx context.Context, account, id string) (Inside, error) {
	t, err := c.Look(ctx, account, id)
	if err != nil {
		return Inside{}, err
	}
	as, _, err := c.actor(ctx, account, t)
	if err != nil {
		return Inside{}, err
	}
	var out Inside
	of := map[string]int{}
	todo := []string{id}
	for n := 0; len(todo) > 0 && t.Kind == cupboard.Folder; {
		inside, err := c.cup.List(ctx, as, todo[0])
		if err != nil {
			return out, notFound(err)
		}
		todo = todo[1:]
		for _, x := range inside {
			if n++; n > mostInside {
				out.More = true
				todo = nil
				break
			}
			of[x.Owner]++
			if x.Kind == cupboard.Folder {
				out.Folders++
				todo = append(todo, x.ID)
			} else {
				out.Files++
			}
			if x.ChangedAt.After(out.Newest) {
				out.Newest = x.ChangedAt
			}
		}
	}
	book, err := c.book(ctx)
	for _, owner := range sortedKeys(of) {
		out.Of = append(out.Of, InsideOf{book.account(owner).Name(), of[owner]})
	}
	slices.SortStableFunc(out.Of, func(a, b InsideOf) int { return cmp.Compare(b.Things, a.Things) })
	return out, err
}

// actor is the account in whose name somebody names, moves or bins a thing: their
// own, or, for a teacher of the class whose it is, that of the class's owner. The
// entry is that of the ledger the thing belongs to, if any.
func (c *Things) actor(ctx context.Context, account string, t cupboard.Thing) (as string, home *store.Entry, err error) {
	e, ok, err := c.home(ctx, t)
	if err != nil || !ok {
		return account, nil, err
	}
	staff, err := c.Store.Staff(ctx, e.Key.Class)
	if err != nil {
		return account, nil, err
	}
	for _, m := range staff {
		if m.Account == account && m.Role != store.RoleAssistant {
			keeper, err := c.Store.Keeper(ctx, e.Key.Class)
			return keeper, &e, err
		}
	}
	return account, &e, nil
}

// asStudent is the class's owner where a student arranges a copy of their own
// within their own satchel, to being the folder it goes to; empty where that isn't so.
func (c *Things) asStudent(ctx context.Context, account string, t cupboard.Thing, e *store.Entry, to *cupboard.Thing) (string, error) {
	if e == nil || e.Thing != t.ID || e.Key.What.Purpose != packing.Copy || e.Key.Whom.Row == "" {
		return "", nil
	}
	rows, err := c.Store.RowsOf(ctx, account)
	if err != nil {
		return "", err
	}
	if !slices.ContainsFunc(rows, func(r store.Row) bool { return r.ID == e.Key.Whom.Row }) {
		return "", nil
	}
	if to != nil {
		satchel, err := c.Store.EntryByKey(ctx, packing.Key{Class: e.Key.Class, What: packing.What{Purpose: packing.Satchel}, Whom: e.Key.Whom})
		if err != nil {
			return "", notFound(err)
		}
		inside := to.ID == satchel.Thing || slices.ContainsFunc(to.Path, func(x cupboard.Crumb) bool { return x.ID == satchel.Thing })
		if !inside || to.Level < access.Edit {
			return "", nil
		}
	}
	return c.Store.Keeper(ctx, e.Key.Class)
}

// arranger is the account in whose name somebody names or moves a thing, or asks who is on it: as actor
// says, and for a student's own copy as asStudent says.
func (c *Things) arranger(ctx context.Context, account string, t cupboard.Thing, to *cupboard.Thing) (as string, home *store.Entry, err error) {
	as, home, err = c.actor(ctx, account, t)
	if err != nil || as != account {
		return as, home, err
	}
	student, err := c.asStudent(ctx, account, t, home, to)
	return cmp.Or(student, as), home, err
}

// Rename gives a thing another name, told apart from those beside it. The ending of
// a file stays.
func (c *Things) Rename(ctx context.Context, account, key, id, name string) error {
	t, err := c.Look(ctx, account, id)
	if err != nil {
		return err
	}
	if tidy(name) == "" {
		return &Invalid{"name", "missing", nil}
	}
	if len(name) > mostPlaceName {
		return tooLong("name", mostPlaceName)
	}
	as, _, err := c.arranger(ctx, account, t, nil)
	if err != nil {
		return err
	}
	ending := ""
	if t.Kind == cupboard.File {
		ending = naming.Ending(t.Name)
	}
	taken := map[string]bool{}
	if t.Parent != "" {
		beside, err := c.cup.List(ctx, as, t.Parent)
		if err != nil && notFound(err) != ErrNotFound {
			return err
		}
		for _, x := range beside {
			if x.ID != id {
				taken[naming.Fold(x.Name)] = true
			}
		}
	}
	if ending != "" && naming.Ending(name) == ending {
		name = name[:len(name)-len(ending)]
	}
	if err := c.cup.Rename(ctx, as, "rename/"+account+"/"+key, id, naming.Free(name, ending, taken)); err != nil {
		return notFound(err)
	}
	return c.lookAround(ctx, t)
}

// Move puts things into a folder, one after the other. Nothing loses its id or link;
// what the rules of the folder it lay in gave ends, what those of the new one give
// begins.
func (c *Things) Move(ctx context.Context, account, key string, ids []string, to string) error {
	if len(ids) > mostArranged {
		return tooMany("things", "too-many", mostArranged)
	}
	folder, err := c.Look(ctx, account, to)
	if err != nil {
		return err
	}
	if folder.Kind != cupboard.Folder {
		return &Invalid{"to", "base-not-folder", nil}
	}
	for _, id := range ids {
		t, err := c.Look(ctx, account, id)
		if err != nil {
			return err
		}
		as, e, err := c.arranger(ctx, account, t, &folder)
		if err != nil {
			return err
		}
		if e != nil && e.Thing == t.ID && e.Key.What.Purpose == packing.ClassFolder {
			return &Invalid{"things", "class-by-plan", nil}
		}
		if err := c.cup.Move(ctx, as, "move/"+account+"/"+key+"/"+id, id, to); err != nil {
			if errors.Is(err, cupboard.ErrInside) {
				return &Invalid{"to", "base-inside", nil}
			}
			return notFound(err)
		}
		if t.Path = append(slices.Clone(folder.Path), cupboard.Crumb{ID: folder.ID}); t.Parent != to {
			if err := c.lookAround(ctx, t); err != nil {
				return err
			}
		}
	}
	return nil
}

// Bin puts things into the bin, from which whoever owns them can bring them back for
// its term. inside is how much was looked at, of all of them together.
func (c *Things) Bin(ctx context.Context, account, key string, ids []string, inside int) error {
	if len(ids) > mostArranged {
		return tooMany("things", "too-many", mostArranged)
	}
	now := 0
	for _, id := range ids {
		in, err := c.Inside(ctx, account, id)
		if err != nil {
			return err
		}
		now += in.Folders + in.Files
	}
	if now != inside {
		return &Changed{Field: "list"}
	}
	for _, id := range ids {
		t, err := c.Look(ctx, account, id)
		if err != nil {
			return err
		}
		as, e, err := c.actor(ctx, account, t)
		if err != nil {
			return err
		}
		if e != nil && e.Thing == t.ID && e.Key.What.Purpose == packing.ClassFolder {
			return &Invalid{"things", "class-by-plan", nil}
		}
		if err := c.cup.Bin(ctx, as, "bin/"+account+"/"+key+"/"+id, id); err != nil {
			return notFound(err)
		}
		if err := c.lookAround(ctx, t); err != nil {
			return err
		}
	}
	return nil
}

// Binned are the things of an account that lie in the bin, the newest first.
func (c *Things) Binned(ctx context.Context, account string) ([]cupboard.Binned, error) {
	return c.cup.Binned(ctx, account)
}

// Restore brings a thing of an account back from the bin to where it lay, or, where
// that is no more, to the top of the account's own things.
func (c *Things) Restore(ctx context.Context, account, key, id string) error {
	if err := c.cup.Restore(ctx, account, "restore/"+account+"/"+key, id); err != nil {
		return notFound(err)
	}
	t, err := c.Look(ctx, account, id)
	if err != nil {
		return err
	}
	return c.lookAround(ctx, t)
}

// arranging says what an account may do with what lies in a folder.
func (c *Things) arranging(ctx context.Context, account string, t cupboard.Thing, inside []cupboard.Thing) (map[string]Arranging, error) {
	out := map[string]Arranging{}
	if len(inside) == 0 {
		return out, nil
	}
	as, e, err := c.actor(ctx, account, t)
	if err != nil {
		return nil, err
	}
	var mine []string // rows of the account
	var entries map[string]store.Entry
	if e != nil && as == account {
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
		case as != account, x.Level == access.Owner && x.Closed == nil:
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

// MoveEffects says what moving things into a folder would change about who reaches
// them. A thing that stands alone keeps its people wherever it lies.
func (c *Things) MoveEffects(ctx context.Context, account string, ids []string, to string) (Effects, error) {
	var out Effects
	folder, err := c.Look(ctx, account, to)
	if err != nil {
		return out, err
	}
	if folder.Kind != cupboard.Folder {
		return out, &Invalid{"to", "base-not-folder", nil}
	}
	there, err := c.peopleOn(ctx, account, folder)
	if err != nil {
		return out, err
	}
	gain, lose := map[string]bool{}, map[string]bool{}
	for i, id := range ids {
		if i == mostEffects {
			out.More = len(ids) - i
			break
		}
		t, err := c.Look(ctx, account, id)
		if err != nil {
			return out, err
		}
		as, _, err := c.actor(ctx, account, t)
		if err != nil {
			return out, err
		}
		states, err := c.cup.States(ctx, as, []string{id})
		if err != nil {
			return out, notFound(err)
		}
		st := states[id]
		if st.Rule.StandsAlone {
			continue
		}
		now, err := c.peopleOn(ctx, account, t)
		if err != nil {
			return out, err
		}
		for who := range now {
			if who != st.Owner && st.Rule.Grants[who] < access.Read && there[who] < access.Read {
				lose[who] = true
			}
		}
		for who, l := range there {
			if l >= access.Read && now[who] < access.Read {
				gain[who] = true
			}
		}
	}
	book, err := c.book(ctx)
	if err != nil {
		return out, err
	}
	named := func(of map[string]bool) (names []string) {
		for _, id := range sortedKeys(of) {
			names = append(names, book.account(id).Name())
		}
		slices.Sort(names)
		return names
	}
	out.Gain, out.Lose = named(gain), named(lose)
	return out, nil
}

// peopleOn are the levels everybody has on a thing, asked in the name of whoever may
// ask that; whoever may not learns nothing but about themselves.
func (c *Things) peopleOn(ctx context.Context, account string, t cupboard.Thing) (map[string]access.Level, error) {
	as, _, err := c.arranger(ctx, account, t, nil)
	if err != nil {
		return nil, err
	}
	people, err := c.cup.People(ctx, as, t.ID)
	if errors.Is(err, cupboard.ErrNoRight) {
		return map[string]access.Level{account: t.Level}, nil
	}
	if err != nil {
		return nil, notFound(err)
	}
	out := make(map[string]access.Level, len(people))
	for who, why := range people {
		out[who] = why.Level
	}
	return out, nil
}

// A Used is how much room somebody's satchel takes, in bytes, with all versions.
type Used struct {
	Row, Student string
	Bytes        int64
}

// weighedAtOnce satchels are weighed at the same time.
const weighedAtOnce = 6

// RoomUsed is how much room each student's satchel takes, and the whole class, where
// a content that is there many times counts once; the largest first.
func (c *Things) RoomUsed(ctx context.Context, class string) (all int64, each []Used, err error) {
	r, err := c.reading(ctx, class)
	if err != nil {
		return 0, nil, err
	}
	weigh := func(key packing.Key) (int64, error) {
		e := r.entries[key]
		if e == nil || r.state(e).Place != cupboard.Lies {
			return 0, nil
		}
		n, err := c.cup.Weight(ctx, r.Owner(), e.Thing)
		if notFound(err) == ErrNotFound {
			return 0, nil
		}
		return n, err
	}
	if all, err = weigh(r.room.Key(packing.ClassFolder)); err != nil {
		return 0, nil, err
	}
	each = make([]Used, len(r.Students))
	var some errgroup.Group
	some.SetLimit(weighedAtOnce)
	for i, st := range r.Students {
		some.Go(func() error {
			n, err := weigh(room.SatchelKey(class, st.ID))
			each[i] = Used{st.ID, st.SortName(), n}
			return err
		})
	}
	err = some.Wait()
	slices.SortStableFunc(each, func(a, b Used) int { return cmp.Compare(b.Bytes, a.Bytes) })
	return all, each, err
}
