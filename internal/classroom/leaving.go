package classroom

import (
	"context"
	"slices"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/store"
)

// closeOff takes a class's own places from whoever left it, within the change in
// which they leave: the packer does it as soon as that stands. Satchels and copies
// stay as they are.
func (c *Packing) closeOff(ctx context.Context, tx *store.Store, book *bookIndex, by, class string) error {
	steps, err := c.closing(ctx, tx, book, class)
	if err != nil || len(steps) == 0 {
		return err
	}
	return c.packer.Enqueue(ctx, tx, ledger.Run{ID: store.NewID(), ClassID: class, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now()}, steps)
}

// closing are the steps of closeOff; none where nobody is to be closed off.
func (c *Packing) closing(ctx context.Context, st *store.Store, book *bookIndex, class string) ([]packing.Step, error) {
	lingering, err := st.Lingering(ctx, class)
	if err != nil || len(lingering[class]) == 0 {
		return nil, err
	}
	left := map[string]bool{}
	for _, account := range lingering[class] {
		left[account] = true
	}
	s, err := c.picture(ctx, st, book, class)
	if err != nil {
		return nil, err
	}
	return closingSteps(s, left), nil
}

// closingSteps take the class's own places, and what several reach, from those who left it.
func closingSteps(s *picture.Picture, left map[string]bool) []packing.Step {
	steps := s.RoomList().Closing(left)
	for _, e := range s.Unplanned() { // what the plan no longer has is closed, too
		for _, account := range sortedKeys(e.Granted) {
			if e.Key.Whom.Row != "" || !left[account] {
				continue
			}
			step := s.Discarding(e)
			step.Act, step.Account, step.Change = packing.Take, account, &packing.Change{}
			steps = append(steps, step)
		}
	}
	for _, e := range unlisted(s) {
		for _, account := range sortedKeys(e.Granted) {
			if !left[account] || whose(s, e.Key.Whom.Row) == account { // one's own is decided with the leaver
				continue
			}
			step := s.Discarding(e)
			step.Act, step.Account, step.Change = packing.Take, account, &packing.Change{}
			step.Wanted.Pointers = e.PointedFrom() // the others keep theirs
			steps = append(steps, step)
		}
	}
	return steps
}

// RunEnded returns what is done within the transaction in which a run ends: what its class's
// changes left is put right, and whoever was given something is told.
func (c *Packing) RunEnded(ctx context.Context, run ledger.Run) (func(context.Context, *store.Store) error, error) {
	tell, err := c.runEnded(ctx, c.Store, run)
	if err != nil {
		return nil, err
	}
	book, err := c.book(ctx)
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
func (c *Packing) settled(ctx context.Context, tx *store.Store, book *bookIndex, run ledger.Run) error {
	if err := c.closeOff(ctx, tx, book, run.StartedBy, run.ClassID); err != nil || run.HandoutID == "" {
		return err
	}
	h, err := tx.Handout(ctx, run.ClassID, run.HandoutID)
	if err != nil || !h.Withdrawn() || run.Kind == ledger.DiscardRun {
		return notFound(err)
	}
	s, err := c.picture(ctx, tx, book, run.ClassID)
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

// whose is the account of a row, also of one that left.
func whose(s *picture.Picture, row string) string {
	for _, st := range append(slices.Clone(s.Students), s.Left...) {
		if st.ID == row {
			return st.Account
		}
	}
	return ""
}

// unlisted are copies that others than one student reach and no list is about any more: of
// several, where their handout was withdrawn; those that classmates reach also where whose
// they are left, or is left out now.
func unlisted(s *picture.Picture) []*ledger.Entry {
	var out []*ledger.Entry
	wanted := s.Wanted(nil)
	for k, e := range s.Entries {
		if k.What.Purpose != packing.Copy || s.State(e).Place != ledger.Lies {
			continue
		}
		h, ok := s.Handout(k.What.ID)
		_, listed := wanted[k]
		if ok && (k.Whom.Row == "" && h.Withdrawn() || k.Whom.Row != "" && (h.Settings.Classmates != "" || h.Settings.Passing != "") && !listed) {
			out = append(out, e)
		}
	}
	return out
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
	book, err := c.book(ctx)
	if err != nil {
		return err
	}
	for class := range lingering {
		steps, err := c.closing(ctx, c.Store, book, class)
		if err != nil && notFound(err) != ErrNotFound {
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
		err = c.Store.Change(ctx, c.act(ctx, owner, "closed-off", lingering[class], class), nil, func(tx *store.Store) error {
			return c.closeOff(ctx, tx, book, owner, class)
		})
		if err != nil && notFound(err) != ErrNotFound {
			return err
		}
	}
	return nil
}
