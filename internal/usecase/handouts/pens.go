package handouts

import (
	"context"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
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
		there, err := tx.Rows(ctx, class)
		if err != nil {
			return err
		}
		var all []string
		for _, r := range there {
			if !r.Gone {
				all = append(all, r.ID)
			}
		}
		if i := slices.IndexFunc(rows, func(row string) bool {
			return !slices.ContainsFunc(there, func(r classes.Row) bool { return r.ID == row })
		}); i >= 0 {
			return seam.ErrNotFound
		}
		next := h.Say(rows, all, handout.Hand{Down: down, At: c.Now(), By: by})
		if handout.Same(h, next) {
			return store.ErrUnchanged
		}
		args["title"] = h.Title
		return tx.SaveHandout(ctx, next)
	}))
}
