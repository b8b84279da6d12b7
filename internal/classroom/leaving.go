package classroom

import (
	"context"

	"jollysatchel/internal/core/leaving"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// closeOff takes a class's own places from whoever left it, within the change in
// which they leave: the packer does it as soon as that stands. Satchels and copies
// stay as they are.
func (c *Packing) closeOff(ctx context.Context, tx *store.Store, book *seam.Known, by, class string) error {
	steps, err := c.closing(ctx, tx, book, class)
	if err != nil || len(steps) == 0 {
		return err
	}
	return c.packer.Enqueue(ctx, tx, ledger.Run{ID: store.NewID(), ClassID: class, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now()}, steps)
}

// closing are the steps of closeOff; none where nobody is to be closed off.
func (c *Packing) closing(ctx context.Context, st *store.Store, book *seam.Known, class string) ([]packing.Step, error) {
	lingering, err := st.Lingering(ctx, class)
	if err != nil || len(lingering[class]) == 0 {
		return nil, err
	}
	left := map[string]bool{}
	for _, account := range lingering[class] {
		left[account] = true
	}
	s, err := c.Picture(ctx, st, book, class)
	if err != nil {
		return nil, err
	}
	return leaving.Revoking(s, left), nil
}

// RunEnded returns what is done within the transaction in which a run ends: what its class's
// changes left is put right, and whoever was given something is told.
func (c *Packing) RunEnded(ctx context.Context, run ledger.Run) (func(context.Context, *store.Store) error, error) {
	tell, err := c.runEnded(ctx, c.Store, run)
	if err != nil {
		return nil, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	return func(ctx context.Context, tx *store.Store) error {
		if err := c.settled(ctx, tx, book, run); err != nil || tell == nil {
			return err
		}
		return tell(ctx, tx)
	}, nil
}

// settled is done within the transaction that ends a run: what was made or given while its
// class changed is put right then. Whoever left is closed off, and copies of a handout that
// was withdrawn meanwhile follow the others into the bin, unless somebody wrote in them.
func (c *Packing) settled(ctx context.Context, tx *store.Store, book *seam.Known, run ledger.Run) error {
	if err := c.closeOff(ctx, tx, book, run.StartedBy, run.ClassID); err != nil || run.HandoutID == "" {
		return err
	}
	h, err := tx.Handout(ctx, run.ClassID, run.HandoutID)
	if err != nil || !h.Withdrawn() || run.Kind == ledger.DiscardRun {
		return seam.NotFound(err)
	}
	s, err := c.Picture(ctx, tx, book, run.ClassID)
	if err != nil {
		return err
	}
	works, err := tx.WorksFor(ctx, run.ClassID, run.HandoutID)
	if err != nil {
		return err
	}
	var steps []packing.Step
	for _, g := range s.CopiesOf(h.ID, works, func(e *ledger.Entry, _ ledger.Seen) bool { return e.RunID == run.ID }) {
		if !g.Begun {
			step := s.Discarding(s.Entries[g.Entry.Key])
			step.Change = &packing.Change{Seen: g.Seen()}
			steps = append(steps, step)
		}
	}
	if len(steps) == 0 {
		return nil
	}
	return c.packer.Enqueue(ctx, tx, ledger.Run{ID: store.NewID(), ClassID: run.ClassID, HandoutID: h.ID, Title: h.Title, State: ledger.RunPacking, StartedBy: run.StartedBy, StartedAt: c.Now(), Kind: ledger.DiscardRun}, steps)
}

// CloseOff takes classes' own places from whoever is neither of their staff nor in
// their lists any more, in whatever way that came about.
func (c *Packing) CloseOff(ctx context.Context) error {
	lingering, err := c.Store.Lingering(ctx, "")
	if err != nil {
		return err
	}
	if len(lingering) == 0 {
		return nil
	}
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	for class := range lingering {
		steps, err := c.closing(ctx, c.Store, book, class)
		if err != nil && seam.NotFound(err) != seam.ErrNotFound {
			return err
		}
		if len(steps) == 0 { // taken away by other hands: nothing changes, nobody is told
			continue
		}
		staff, err := c.Store.Staff(ctx, class)
		if err != nil {
			return err
		}
		owner := ""
		if len(staff) > 0 {
			owner = staff[0].Account
		}
		err = c.Store.Change(ctx, c.Act(ctx, owner, "closed-off", lingering[class], class), nil, func(tx *store.Store) error {
			return c.closeOff(ctx, tx, book, owner, class)
		})
		if err != nil && seam.NotFound(err) != seam.ErrNotFound {
			return err
		}
	}
	return nil
}
