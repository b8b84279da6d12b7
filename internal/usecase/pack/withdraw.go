package pack

import (
	"cmp"
	"context"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// PreviewWithdraw says which copies withdrawing a handout would take.
func (c *Packing) PreviewWithdraw(ctx context.Context, class, handout string) (picture.Copies, error) {
	s, err := c.now(ctx, class, handout)
	if err != nil {
		return nil, err
	}
	if _, ok := s.Handout(handout); !ok {
		return nil, seam.ErrNotFound
	}
	works, err := c.Store.WorksFor(ctx, class, handout)
	return s.CopiesOf(handout, works, picture.AnyCopy), err
}

// HandedOver is how many copies of a handout are their students' own by now, with which withdrawing it
// or giving it again does nothing.
func (c *Packing) HandedOver(ctx context.Context, class, handout string) (int, error) {
	return c.Store.HandedOver(ctx, class, handout)
}

// Withdraw puts what a handout gave into the bin: the untouched copies that were
// looked at, and with begun the others too; those are kept differently, in the satchels
// they are in. It can come back whole for the bin's term.
func (c *Packing) Withdraw(ctx context.Context, by, class, handout string, begun bool, seen string) (ledger.Run, error) {
	if err := c.Observe(ctx, class, handout); err != nil {
		return ledger.Run{}, err
	}
	return c.discard(ctx, by, class, "handout-withdrawn", map[string]any{"handout": handout, "begun": begun},
		func(tx *store.Store, s *picture.Picture, run *ledger.Run) ([]packing.Step, error) {
			h, ok := s.Handout(handout)
			if !ok {
				return nil, seam.ErrNotFound
			}
			if !h.Packed() {
				return nil, change.Refuse("handout", "not-packed")
			}
			works, err := tx.WorksFor(ctx, class, handout)
			if err != nil {
				return nil, err
			}
			given := s.CopiesOf(handout, works, picture.AnyCopy)
			if given.Digest() != seen {
				return nil, &change.Changed{Field: "list"}
			}
			run.Title, run.HandoutID = h.Title, h.ID
			var steps []packing.Step
			for _, g := range given {
				if !g.Begun || begun {
					step := s.Discarding(s.Entries[g.Entry.Key])
					step.Change = &packing.Change{Seen: g.Seen()} // it stays the handout's
					steps = append(steps, step)
				}
			}
			if err := tx.MarkWithdrawn(ctx, handout, c.Now()); err != nil || len(steps) > 0 {
				return steps, err
			}
			return nil, errNothing
		})
}

// BringBack brings a withdrawn handout back, with everything of it that is in the bin.
// What has ended there is lines of its packing list then.
func (c *Packing) BringBack(ctx context.Context, by, class, handout string) error {
	if err := c.Observe(ctx, class, handout); err != nil {
		return err
	}
	_, err := c.discard(ctx, by, class, "handout-brought-back", map[string]any{"handout": handout},
		func(tx *store.Store, s *picture.Picture, run *ledger.Run) ([]packing.Step, error) {
			h, ok := s.Handout(handout)
			if !ok {
				return nil, seam.ErrNotFound
			}
			if h.WithdrawnAt.IsZero() {
				return nil, change.Refuse("handout", "not-withdrawn")
			}
			run.Title, run.HandoutID = h.Title, h.ID
			anew := s.BackAs(h)
			var steps []packing.Step
			for k, e := range s.Entries {
				if k.What.Purpose == packing.Copy && k.What.ID == handout && s.State(e).Place == ledger.InBin { // or on its way there
					step := s.Discarding(e)
					step.Act, step.Change = packing.Restore, &packing.Change{Rename: anew[k]}
					step.Wanted.Pointers = e.Folders()
					steps = append(steps, step)
				}
			}
			slices.SortFunc(steps, func(a, b packing.Step) int { return cmp.Compare(a.Key.String(), b.Key.String()) })
			if err := tx.MarkBroughtBack(ctx, handout); err != nil || len(steps) > 0 {
				return steps, err
			}
			return nil, errNothing
		})
	return err
}
