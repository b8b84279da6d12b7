package rooms

import (
	"context"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// SayPens closes a place of a class for writing by hand, with all that lies in it, or opens it again: of a
// place that each student has, that of some rows, or of all where none is named. From when it is answered on
// nobody but staff writes in what was closed.
func (c *Rooms) SayPens(ctx context.Context, by, class, place string, rows []string, down bool) error {
	what := "place-opened"
	if down {
		what = "place-closed"
	}
	if len(rows) > 0 {
		what += "-for"
	}
	args := map[string]any{"things": len(rows)}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, what, args, class), nil, func(tx *store.Store) error {
		cl, err := tx.Class(ctx, class)
		if err != nil {
			return err
		}
		of, err := tx.Rows(ctx, class)
		if err != nil {
			return err
		}
		all, there := classes.IDs(of)
		if !classes.Among(rows, all) {
			return seam.ErrNotFound
		}
		next, err := cl.SayPens(place, rows, there, pens.Hand{Down: down, At: c.Now(), By: by})
		if err != nil {
			return err
		}
		if next.Pens[place].Same(cl.Pens[place]) {
			return store.ErrUnchanged
		}
		p, _ := cl.Plan.Place(place)
		args["name"] = p.Called(c.RoomNames())
		return tx.SavePens(ctx, class, next.Pens)
	}))
}
