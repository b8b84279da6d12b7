package things

import (
	"context"
	"errors"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/document"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// draft is a copy of a handout, with who asks about it: a thing of the ledger that is a file.
func (c *Things) draft(ctx context.Context, account, id string) (cupboard.Thing, acting, error) {
	t, err := c.Get(ctx, account, id)
	if err != nil {
		return t, acting{}, err
	}
	by, err := c.actor(ctx, account, t)
	if err == nil && (by.home == nil || by.home.Thing != t.ID || by.home.Key.What.Purpose != packing.Copy) {
		err = seam.ErrNotFound
	}
	return t, by, err
}

// writes reports that a draft is an account's to write in, closed now or not.
func (by acting) writes(account string, t cupboard.Thing) bool {
	return by.staff || t.Level >= access.Edit || by.home.Granted[account] >= access.Edit
}

// Show keeps the present state of a draft as one that is to be looked at, with a word or without. The
// draft goes on; nothing changes its owner or place. Who may write in it may show it, closed or not.
func (c *Things) Show(ctx context.Context, account, id, word string) (ledger.Snapshot, error) {
	word, err := ledger.ShownWord(word)
	if err != nil {
		return ledger.Snapshot{}, err
	}
	t, by, err := c.draft(ctx, account, id)
	if err != nil {
		return ledger.Snapshot{}, err
	}
	if !by.writes(account, t) {
		return ledger.Snapshot{}, cupboard.ErrNoRight
	}
	e := by.home
	x := ledger.Snapshot{ClassID: e.Key.Class, HandoutID: e.Key.What.ID, Thing: t.ID, Version: t.Version, By: account, At: c.Now(), Word: word,
		Asked: !by.staff}
	act := c.Act(ctx, account, "shown", map[string]any{"thing": t.ID, "name": t.Name, "handout": e.Key.What.ID}, e.Key.Class)
	return x, seam.NotFound(c.Store.Change(ctx, act, nil, func(tx *store.Store) error {
		before, err := tx.SnapshotsOf(ctx, t.ID)
		if err != nil {
			return err
		}
		if len(before) >= ledger.MostSnapshots && before[0].Version != t.Version {
			return change.TooMany("word", "too-many-snapshots", ledger.MostSnapshots)
		}
		return tx.PutSnapshots(ctx, []ledger.Snapshot{x})
	}))
}

// A Shown is a draft with the states of it that were shown, newest first.
type Shown struct {
	Version int // the draft's newest
	All     []ledger.Snapshot
	Since   *int // words added since the newest of those; nil: not known
	May     bool // whoever asks may show it
}

// Shown tells staff, and who may read a draft, which states of it were shown, what was looked at, and
// how much was written since.
func (c *Things) Shown(ctx context.Context, account, id string) (Shown, error) {
	t, by, err := c.draft(ctx, account, id)
	if err != nil {
		return Shown{}, err
	}
	out := Shown{Version: t.Version, May: by.writes(account, t)}
	if !out.May {
		return out, nil // a classmate who reads it isn't told what is said with it
	}
	if out.All, err = c.Store.SnapshotsOf(ctx, id); err != nil || len(out.All) == 0 || !document.IsText(t.MediaType) {
		return out, err
	}
	none := 0
	if out.Since = &none; !out.All[0].Since(t.Version) {
		return out, nil
	}
	then, err := c.plain(ctx, account, id, out.All[0].Version)
	if err != nil {
		return out, err
	}
	now, err := c.plain(ctx, account, id, t.Version)
	if then == nil || now == nil || err != nil {
		out.Since = nil
		return out, err
	}
	added := progress.Compare(*then, *now).Added
	out.Since = &added
	return out, nil
}

// plain is a version's text as words; nil where they can't be counted.
func (c *Things) plain(ctx context.Context, account, id string, version int) (*string, error) {
	r, _, err := c.cup.Open(ctx, account, id, version)
	if err != nil {
		return nil, seam.NotFound(err)
	}
	defer r.Close()
	text, ok, err := document.ReadText(r)
	if err != nil || !ok {
		return nil, err
	}
	var words string
	gate.Aside(func() { words, err = document.Plain(text) })
	if errors.Is(err, document.ErrTangled) {
		return nil, nil
	}
	return &words, err
}

// LookedAt notes that an account looked at a version of a draft: of one that was shown, staff's first
// look is told to its writer.
func (c *Things) LookedAt(ctx context.Context, account, id string, version int) error {
	_, by, err := c.draft(ctx, account, id)
	if err != nil || !by.staff {
		return err
	}
	first, err := c.Store.SeeSnapshot(ctx, id, version, account, c.Now())
	if err != nil || !first {
		return err
	}
	return c.Store.Touch(ctx, by.home.Key.Class)
}

// ShowAll keeps the present state of everybody's copies of a handout, of some rows, of all where none is
// named. It returns how many were kept. by is empty where that is done at its time.
func (c *Things) ShowAll(ctx context.Context, by, class, handout string, rows []string) (int, error) {
	all, err := c.copiesNow(ctx, by, class, handout, rows)
	if err != nil {
		return 0, seam.NotFound(err)
	}
	if len(all) == 0 {
		return 0, change.Refuse("handout", "nothing-to-show")
	}
	act := c.Act(ctx, by, "shown-all", map[string]any{"handout": handout}, class)
	return len(all), seam.NotFound(c.Store.Change(ctx, act, nil, func(tx *store.Store) error { return tx.PutSnapshots(ctx, all) }))
}

// copiesNow are the copies of a handout that lie somewhere, as states that are kept.
func (c *Things) copiesNow(ctx context.Context, by, class, handout string, rows []string) ([]ledger.Snapshot, error) {
	h, err := c.Store.Handout(ctx, class, handout)
	if err != nil {
		return nil, err
	}
	if !h.Packed() {
		return nil, change.Refuse("handout", "not-packed")
	}
	entries, err := c.Store.LedgerFor(ctx, class, handout)
	if err != nil {
		return nil, err
	}
	var ids []string
	for _, e := range entries {
		if e.Key.What.Purpose == packing.Copy && (len(rows) == 0 || slices.Contains(rows, e.Key.Whom.Row)) {
			ids = append(ids, e.Thing)
		}
	}
	owner, err := c.Store.OwnerOfThings(ctx, class)
	if err != nil {
		return nil, err
	}
	states, err := c.cup.States(ctx, owner, ids)
	if err != nil {
		return nil, err
	}
	var all []ledger.Snapshot
	for _, id := range ids {
		if st := states[id]; st.Place == ledger.Lies {
			all = append(all, ledger.Snapshot{ClassID: class, HandoutID: handout, Thing: id, Version: st.Version, By: by, At: c.Now()})
		}
	}
	return all, nil
}

// ShowDue keeps everybody's copies of the handouts whose time for that has come.
func (c *Things) ShowDue(ctx context.Context) error {
	due, err := c.Store.HandoutsToShow(ctx)
	if err != nil {
		return err
	}
	for _, h := range due {
		at, err := wall.Parse(h.Settings.Show)
		if err != nil || wall.Moment(at, h.Zone).After(c.Now()) {
			continue
		}
		if err := c.showAtItsTime(ctx, h.ClassID, h.ID, h.Settings.Show); err != nil && ctx.Err() == nil {
			c.Log.Warn("copies aren't kept at their time", "handout", h.ID, "error", err)
		}
	}
	return ctx.Err()
}

func (c *Things) showAtItsTime(ctx context.Context, class, handout, at string) error {
	all, err := c.copiesNow(ctx, "", class, handout, nil)
	if err != nil {
		return err
	}
	act := store.Act{What: "shown-all", Classes: []string{class}, Args: map[string]any{"handout": handout}, At: c.Now()}
	return c.Store.Change(ctx, act, nil, func(tx *store.Store) error {
		h, err := tx.Handout(ctx, class, handout)
		if err != nil {
			return err
		}
		if h.Settings.Show != at { // another program was first, or it is to be later
			return store.ErrUnchanged
		}
		h.Settings.Show = ""
		if err := tx.SaveHandout(ctx, h); err != nil {
			return err
		}
		return tx.PutSnapshots(ctx, all)
	})
}
