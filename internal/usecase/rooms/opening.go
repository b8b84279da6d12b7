package rooms

import (
	"context"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// OpenLater has what is made in a class wait for a time on the school's clocks, or, where that is empty, for staff to say so.
// It is refused once any of its students has something there.
func (c *Rooms) OpenLater(ctx context.Context, by, class, at string) error {
	args := map[string]any{"at": at}
	return c.opening(ctx, by, class, "class-opens-later", args, func(tx *store.Store, cl classes.Class) (*classes.Opening, error) {
		rows, err := tx.Rows(ctx, class)
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			if r.Holding && !r.Gone && (cl.Opening == nil || cl.Opening.Waits(r.ID, c.Now()) != nil) {
				return nil, change.Refuse("at", "open-already")
			}
		}
		next, err := classes.CheckOpening(at, c.School().Zone.String(), c.Now())
		if err == nil && cl.Opening != nil {
			next.Rows = cl.Opening.Rows
		}
		return next, err
	})
}

// Open opens a class that waits to be: to some rows, to everybody where none is named. Access follows.
func (c *Rooms) Open(ctx context.Context, by, class string, rows []string) error {
	args := map[string]any{"things": len(rows)}
	return c.opening(ctx, by, class, "class-opened", args, func(tx *store.Store, cl classes.Class) (*classes.Opening, error) {
		of, err := tx.Rows(ctx, class)
		if err != nil {
			return nil, err
		}
		if all, _ := classes.IDs(of); !classes.Among(rows, all) {
			return nil, seam.ErrNotFound
		}
		if cl.Opening == nil {
			return nil, store.ErrUnchanged
		}
		return cl.Opening.LetIn(rows), nil
	})
}

func (c *Rooms) opening(ctx context.Context, by, class, what string, args map[string]any,
	next func(tx *store.Store, cl classes.Class) (*classes.Opening, error)) error {
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, what, args, class), nil, func(tx *store.Store) error {
		cl, err := tx.Class(ctx, class)
		if err != nil {
			return err
		}
		o, err := next(tx, cl)
		if err != nil {
			return err
		}
		return tx.SaveOpening(ctx, class, o)
	}))
}
