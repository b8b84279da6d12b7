package leave

import (
	"context"

	"jollysatchel/internal/core/leaving"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// Revoke takes a class's own places from anyone who left it, within the change in
// which they leave: the packer does it as soon as that stands. Satchels and copies
// stay as they are.
func (c *Leaving) Revoke(ctx context.Context, tx *store.Store, book *seam.Known, by, class string) error {
	steps, err := c.revoking(ctx, tx, book, class)
	if err != nil || len(steps) == 0 {
		return err
	}
	return c.packer.Enqueue(ctx, tx,
		ledger.Run{ID: store.NewID(), ClassID: class, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now()}, steps)
}

// revoking are the steps of Revoke; none where nobody is to be closed off.
func (c *Leaving) revoking(ctx context.Context, st *store.Store, book *seam.Known, class string) ([]packing.Step, error) {
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

// RevokeAll takes classes' own places from anyone who is neither of their staff nor in
// their lists any more, in whatever way that came about.
func (c *Leaving) RevokeAll(ctx context.Context) error {
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
		steps, err := c.revoking(ctx, c.Store, book, class)
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
			return c.Revoke(ctx, tx, book, owner, class)
		})
		if err != nil && seam.NotFound(err) != seam.ErrNotFound {
			return err
		}
	}
	return nil
}
