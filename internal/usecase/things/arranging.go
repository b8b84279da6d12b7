package things

import (
	"cmp"
	"context"
	"errors"
	"maps"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// mostArranged things are moved or binned at once.
const mostArranged = 200

// An Inside is what is in a thing: how many, whose and how recent.
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

// Inside says what is in a thing, at any depth, as far as an account sees it.
func (c *Things) Inside(ctx context.Context, account, id string) (Inside, error) {
	t, err := c.Get(ctx, account, id)
	if err != nil {
		return Inside{}, err
	}
	by, err := c.actor(ctx, account, t)
	if err != nil {
		return Inside{}, err
	}
	var out Inside
	of := map[string]int{}
	todo := []string{id}
	for n := 0; len(todo) > 0 && t.Kind == cupboard.Folder; {
		inside, err := c.cup.List(ctx, by.as, todo[0])
		if err != nil {
			return out, seam.NotFound(err)
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
	book, err := c.Book(ctx)
	for _, owner := range slices.Sorted(maps.Keys(of)) {
		out.Of = append(out.Of, InsideOf{book.Account(owner).Name(), of[owner]})
	}
	slices.SortStableFunc(out.Of, func(a, b InsideOf) int { return cmp.Compare(b.Things, a.Things) })
	return out, err
}

// acting is in whose name somebody names, moves or bins a thing: their own, or, for a
// teacher of the class whose it is, that of the class's owner.
type acting struct {
	as    string
	home  *ledger.Entry  // of the ledger, that the thing belongs to, if any
	staff bool           // it is done as a teacher of the class
	above []ledger.Entry // of the ledger, that the thing and the folders above it have, innermost first
}

func (c *Things) actor(ctx context.Context, account string, t cupboard.Thing) (acting, error) {
	above, err := c.above(ctx, t)
	if err != nil || len(above) == 0 {
		return acting{as: account}, err
	}
	keeper, err := c.OwnerFor(ctx, account, above[0].Key.Class)
	return acting{cmp.Or(keeper, account), &above[0], keeper != "", above}, err
}

// arranger is actor, and for a student's own copy, which is theirs to name and to
// move within their own satchel, the class's owner; to is the folder it goes to, if any.
func (c *Things) arranger(ctx context.Context, account string, t cupboard.Thing, to *cupboard.Thing) (acting, error) {
	by, err := c.actor(ctx, account, t)
	e := by.home
	if err != nil || by.staff || e == nil || e.Thing != t.ID || e.Key.What.Purpose != packing.Copy || e.Key.Whom.Row == "" {
		return by, err
	}
	rows, err := c.Store.RowsOf(ctx, account)
	if err != nil || !slices.ContainsFunc(rows, func(r classes.Row) bool { return r.ID == e.Key.Whom.Row }) {
		return by, err
	}
	if to != nil {
		satchel, err := c.Store.EntryByKey(ctx, room.SatchelKey(e.Key.Class, e.Key.Whom.Row))
		if err != nil {
			return by, seam.NotFound(err)
		}
		inside := to.ID == satchel.Thing || slices.ContainsFunc(to.Path, func(x cupboard.Crumb) bool { return x.ID == satchel.Thing })
		if !inside || to.Level < access.Edit {
			return by, nil
		}
	}
	by.as, err = c.Store.OwnerOfThings(ctx, e.Key.Class)
	return by, err
}

// Rename gives a thing another name, told apart from those beside it. The ending of
// a file stays.
func (c *Things) Rename(ctx context.Context, account, key, id, name string) error {
	t, err := c.Get(ctx, account, id)
	if err != nil {
		return err
	}
	if naming.Tidy(name) == "" {
		return change.Refuse("name", "missing")
	}
	if len(name) > naming.MostName {
		return change.TooLong("name", naming.MostName)
	}
	by, err := c.arranger(ctx, account, t, nil)
	if err == nil {
		err = c.open(ctx, account, by, t)
	}
	if err != nil {
		return err
	}
	ending := ""
	if t.Kind == cupboard.File {
		ending = naming.Ending(t.Name)
	}
	taken := map[string]bool{}
	if t.Parent != "" {
		beside, err := c.cup.List(ctx, by.as, t.Parent)
		if err != nil && seam.NotFound(err) != seam.ErrNotFound {
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
	name = naming.Free(name, ending, taken)
	if err := c.cup.Rename(ctx, by.as, "rename/"+account+"/"+key, id, name); err != nil {
		return seam.NotFound(err)
	}
	if err := c.arranged(ctx, account, "thing-named", 1, name, by); err != nil {
		return err
	}
	return c.lookAround(ctx, t)
}

// arranged notes what a teacher did by hand with things of a class, for its log.
func (c *Things) arranged(ctx context.Context, account, what string, n int, name string, by ...acting) error {
	var cs []string
	for _, a := range by {
		if a.staff && !slices.Contains(cs, a.home.Key.Class) {
			cs = append(cs, a.home.Key.Class)
		}
	}
	if len(cs) == 0 {
		return nil
	}
	act := c.Act(ctx, account, what, map[string]any{"things": n, "name": name}, cs...)
	return c.Store.Change(ctx, act, nil, func(*store.Store) error { return nil })
}

// Bin puts things into the bin, from which anyone who owns them can bring them back for
// its term. inside is how much was looked at, of all of them together.
func (c *Things) Bin(ctx context.Context, account, key string, ids []string, inside int) error {
	if len(ids) > mostArranged {
		return change.TooMany("things", "too-many", mostArranged)
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
		return &change.Changed{Field: "list"}
	}
	var all []acting
	for _, id := range ids {
		t, err := c.Get(ctx, account, id)
		if err != nil {
			return err
		}
		by, err := c.actor(ctx, account, t)
		if err != nil {
			return err
		}
		if e := by.home; e != nil && e.Thing == t.ID && e.Key.What.Purpose == packing.ClassFolder {
			return change.Refuse("things", "class-by-plan")
		}
		if err := c.unshut(ctx, account, by.above); err != nil {
			return err
		}
		var seen cupboard.Seen
		if t.Kind == cupboard.File {
			seen = cupboard.Seen{t.ID: t.Version}
		}
		err = c.cup.Bin(ctx, by.as, "bin/"+account+"/"+key+"/"+id, id, seen)
		if errors.As(err, new(*cupboard.Conflict)) {
			return &change.Changed{Field: "list"}
		}
		if err != nil {
			return seam.NotFound(err)
		}
		if err := c.Store.Unbind(ctx, []string{id}); err != nil { // whatever was to be done with it
			return err
		}
		if err := c.lookAround(ctx, t); err != nil {
			return err
		}
		all = append(all, by)
	}
	return c.arranged(ctx, account, "things-binned", len(ids)+now, "", all...)
}

// Binned are the things of an account that are in the bin, the newest first.
func (c *Things) Binned(ctx context.Context, account string) ([]cupboard.Binned, error) {
	return c.cup.Binned(ctx, account)
}

// Restore brings a thing of an account back from the bin to where it lay, or, where
// that no longer exists, to the top of the account's own things.
func (c *Things) Restore(ctx context.Context, account, key, id string) error {
	err := c.cup.Restore(ctx, account, "restore/"+account+"/"+key, id)
	if errors.Is(err, cupboard.ErrWaits) {
		return change.Refuse("thing", "waits-for-folder")
	}
	if err != nil {
		return seam.NotFound(err)
	}
	if err := c.Store.Unbind(ctx, []string{id}); err != nil { // whatever was to be done with it
		return err
	}
	t, err := c.Get(ctx, account, id)
	if err != nil {
		return err
	}
	return c.lookAround(ctx, t)
}

// folder looks at what things are to be put into.
func (c *Things) folder(ctx context.Context, account, id string) (cupboard.Thing, error) {
	t, err := c.Get(ctx, account, id)
	if err == nil && t.Kind != cupboard.Folder {
		err = change.Refuse("to", "base-not-folder")
	}
	return t, err
}

// A Used is how much room somebody's satchel takes, in bytes, with all versions.
type Used struct {
	Row, Student string
	Bytes        int64
}

// weighedAtOnce satchels are weighed at the same time.
const weighedAtOnce = 6

// Usage is how much room each student's satchel takes, and the whole class, where
// a content that is there many times counts once; the largest first.
func (c *Things) Usage(ctx context.Context, class string) (all int64, each []Used, err error) {
	r, err := c.Reading(ctx, class)
	if err != nil {
		return 0, nil, err
	}
	weigh := func(key packing.Key) (int64, error) {
		e := r.Entries[key]
		if e == nil || r.State(e).Place != ledger.Lies {
			return 0, nil
		}
		n, err := c.cup.Weight(ctx, r.Owner(), e.Thing)
		if seam.NotFound(err) == seam.ErrNotFound {
			return 0, nil
		}
		return n, err
	}
	if all, err = weigh(r.Room.Key(packing.ClassFolder)); err != nil {
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

// opens reports whether an account may open a thing to the school.
func (a acting) opens(account string, t cupboard.Thing) bool {
	return t.Kind == cupboard.File && a.staff && (t.Owner == a.as || t.Owner == account)
}
