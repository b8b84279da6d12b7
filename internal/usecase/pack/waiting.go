package pack

import (
	"context"
	"slices"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// GiveWaiting gives students what was made for them before they had an account, or before their class opened, in a run with
// lines for the room and each handout, as soon as the school book knows them and the time has come.
func (c *Packing) GiveWaiting(ctx context.Context) error {
	due, err := c.Store.Waiting(ctx)
	if err != nil {
		return err
	}
	for _, cl := range due {
		tag, err := c.TagOf(ctx, cl.Revision)
		if err != nil {
			return err
		}
		if was, looked := c.waited.Load(cl.ID); looked && was == tag && (cl.Opening == nil || !cl.Opening.Passed(c.Now())) {
			continue
		}
		later, err := c.giveWaiting(ctx, cl)
		if err != nil && seam.NotFound(err) != seam.ErrNotFound {
			return err
		}
		if !later {
			c.waited.Store(cl.ID, tag)
		}
	}
	return nil
}

// giveWaiting is GiveWaiting of one class, by one program at a time; what a line is under way with comes later. The class is
// held only where there is anything to do.
func (c *Packing) giveWaiting(ctx context.Context, cl classes.Class) (later bool, err error) {
	class := cl.ID
	r, err := c.Reading(ctx, class)
	if err != nil || len(r.Following()) == 0 && (cl.Opening == nil || !cl.Opening.Passed(c.Now())) {
		return false, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return false, err
	}
	err = c.Store.Alone(ctx, "waiting/"+class, func() error {
		return c.Store.Tx(ctx, func(tx *store.Store) error {
			if err := tx.HoldClass(ctx, class); err != nil {
				return err
			}
			if err := c.openNow(ctx, tx, class); err != nil {
				return err
			}
			if err := seam.KeepLinks(ctx, tx, book, class); err != nil {
				return err
			}
			s, err := c.Picture(ctx, tx, book, class)
			if err != nil {
				return err
			}
			busy, err := tx.StepsUnderWay(ctx, class)
			if err != nil {
				return err
			}
			for _, f := range s.Following() {
				all := len(f.Steps)
				f.Steps = slices.DeleteFunc(f.Steps, func(st packing.Step) bool { return busy[st.Key] })
				later = later || len(f.Steps) < all
				if err := c.follow(ctx, tx, s, f); err != nil {
					return err
				}
			}
			return nil
		})
	})
	return later, err
}

// openNow opens a class whose time has come, for good: a clock that goes back closes nothing.
func (c *Packing) openNow(ctx context.Context, tx *store.Store, class string) error {
	cl, err := tx.Class(ctx, class)
	if err != nil || cl.Opening == nil || !cl.Opening.Passed(c.Now()) {
		return err
	}
	if err := tx.SaveOpening(ctx, class, nil); err != nil {
		return err
	}
	return tx.Touch(ctx, class)
}

// follow makes a run of what follows.
func (c *Packing) follow(ctx context.Context, tx *store.Store, s *picture.Picture, f picture.Following) error {
	if len(f.Steps) == 0 {
		return nil
	}
	run := ledger.Run{ID: store.NewID(), ClassID: s.ID, State: ledger.RunPacking, StartedBy: s.Staff[0].Account, StartedAt: c.Now()}
	if f.Handout != nil {
		run.HandoutID, run.Title = f.Handout.ID, f.Handout.Title
	}
	return c.packer.Enqueue(ctx, tx, run, f.Steps)
}
