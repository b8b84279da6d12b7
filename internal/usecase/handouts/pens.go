package handouts

import (
	"context"
	"maps"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// SayPens closes the copies of a class for writing by hand, or opens them again: those of some of its
// rows, of all where none is named. It is the class's own word: a handout that is for several classes
// is closed in this one. From when it is answered on nothing is written in what was closed.
func (c *Handouts) SayPens(ctx context.Context, by, class, id string, rows []string, down bool) error {
	what := "pens-up"
	if down {
		what = "pens-down"
	}
	if len(rows) > 0 {
		what += "-for"
	}
	args := map[string]any{"handout": id, "things": len(rows)}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, what, args, class), nil, func(tx *store.Store) error {
		h, err := tx.Handout(ctx, class, id)
		if err != nil {
			return err
		}
		if !h.Packed() {
			return change.Refuse("handout", "not-packed")
		}
		if h.Settings.Way == handout.NoticeName {
			return change.Refuse("handout", "not-of-a-notice")
		}
		of, err := tx.Rows(ctx, class)
		if err != nil {
			return err
		}
		all, there := classes.IDs(of)
		if !classes.Among(rows, all) {
			return seam.ErrNotFound
		}
		now := c.Now()
		next := h.Say(rows, there, pens.Hand{Down: down, At: now, By: by})
		if handout.Same(h, next) {
			return store.ErrUnchanged
		}
		args["title"] = h.Title
		if err := tx.SetPassed(ctx, now); err != nil {
			return err
		}
		return tx.SaveHandout(ctx, next)
	}))
}

// GiveExtra gives rows of a class extra time in all of its handouts, or takes it away where it is none.
func (c *Handouts) GiveExtra(ctx context.Context, by, class string, rows []string, x pens.Extra) error {
	what := "standing-extra"
	if x == (pens.Extra{}) {
		what = "standing-extra-taken"
	}
	args := map[string]any{}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, what, args, class), nil, func(tx *store.Store) error {
		cl, err := tx.Class(ctx, class)
		if err != nil {
			return err
		}
		there, err := tx.Rows(ctx, class)
		if err != nil {
			return err
		}
		if all, _ := classes.IDs(there); !classes.Among(rows, all) {
			return seam.ErrNotFound
		}
		next, err := cl.GiveExtra(rows, x)
		if err != nil {
			return err
		}
		if maps.Equal(next.Extra, cl.Extra) {
			return store.ErrUnchanged
		}
		var told []change.Told
		for _, r := range there {
			if was, is := cl.Extra[r.ID], next.Extra[r.ID]; was != is {
				told = append(told, change.Told{What: "extra-always", Whose: r.SortName(), From: was.String(), To: is.String()})
			}
		}
		args["told"], args["things"] = told[:min(change.MostTold, len(told))], len(told)
		return tx.SaveExtra(ctx, class, next.Extra)
	}))
}
