package pack

import (
	"context"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// FixLine corrects a stuck line's student, where an address is given, and packs
// that student's stuck lines of the run again.
func (c *Packing) FixLine(ctx context.Context, by, class, run string, seq int, address string) error {
	st, err := c.stuckLine(ctx, c.Store, class, run, seq)
	if err != nil {
		return err
	}
	if address != "" {
		if st.Key.Whom.Row == "" {
			return change.Refuse("address", "no-student")
		}
		if err := c.rosters.CorrectAddress(seam.Within(ctx, "address"), by, class, st.Key.Whom.Row, address); err != nil {
			return err
		}
	}
	r, err := c.Store.Run(ctx, run)
	if err != nil {
		return err
	}
	if err := c.Observe(ctx, class, r.HandoutID); err != nil {
		return err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	return c.Store.Change(ctx, c.Act(ctx, by, "line-fixed", map[string]any{"run": run, "line": seq}, class), nil, func(tx *store.Store) error {
		s, err := c.Picture(ctx, tx, book, class)
		if err != nil {
			return err
		}
		return c.reopen(ctx, tx, s, run, seq)
	})
}

// stuckLine returns a stuck line of a run of the class.
func (c *Packing) stuckLine(ctx context.Context, st *store.Store, class, run string, seq int) (ledger.Step, error) {
	if _, err := runOf(ctx, st, class, run); err != nil {
		return ledger.Step{}, err
	}
	all, err := st.Steps(ctx, run)
	if err != nil {
		return ledger.Step{}, err
	}
	i := slices.IndexFunc(all, func(s ledger.Step) bool { return s.Seq == seq })
	switch {
	case i < 0:
		return ledger.Step{}, seam.ErrNotFound
	case all[i].State != packing.Stuck:
		return ledger.Step{}, change.Refuse("line", "not-stuck")
	}
	return all[i], nil
}

// runOf returns a run of a class; one of another class isn't there.
func runOf(ctx context.Context, st *store.Store, class, run string) (ledger.Run, error) {
	r, err := st.Run(ctx, run)
	if err == nil && r.ClassID != class {
		err = seam.ErrNotFound
	}
	return r, seam.NotFound(err)
}

// reopen puts a stuck line and those of the same student back to waiting, as the
// list has them now; what still needs fixing says why.
func (c *Packing) reopen(ctx context.Context, tx *store.Store, s *picture.Picture, run string, seq int) error {
	st, err := c.stuckLine(ctx, tx, s.ID, run, seq)
	if err != nil {
		return err
	}
	r, err := tx.Run(ctx, run)
	if err != nil {
		return err
	}
	all, err := tx.Steps(ctx, run)
	if err != nil {
		return err
	}
	l := s.RoomList()
	if h, ok := s.Handout(r.HandoutID); ok {
		l = s.HandoutList(h)
	}
	now := map[packing.Key]packing.Step{}
	for _, step := range l.Steps(packing.Part{}) {
		now[step.Key] = step
	}
	for _, other := range all {
		mine := other.Seq == seq || other.Key.Whom != (packing.Whom{}) && other.Key.Whom == st.Key.Whom
		step, wanted := now[other.Key]
		switch {
		case other.State != packing.Stuck || !mine || !wanted:
			continue
		case step.State == packing.Stuck:
			err = tx.StickStep(ctx, run, other.Seq, *step.Reason)
		default:
			err = tx.ReopenStep(ctx, run, other.Seq, step)
		}
		if err != nil {
			return err
		}
	}
	return c.packer.Wake(ctx, tx, r)
}

// Pause and Resume and Stop steer a run.
func (c *Packing) Pause(ctx context.Context, by, class, run string) error {
	return c.steer(ctx, by, class, run, ledger.RunPaused, ledger.RunPacking)
}

// Resume carries a paused run on. Its lines are computed again before they are
// done.
func (c *Packing) Resume(ctx context.Context, by, class, run string) error {
	return c.steer(ctx, by, class, run, ledger.RunPacking, ledger.RunPaused)
}

// Stop ends a run; what was packed stays, the rest is for a later top-up.
func (c *Packing) Stop(ctx context.Context, by, class, run string) error {
	return c.steer(ctx, by, class, run, ledger.RunStopped, ledger.RunPacking, ledger.RunPaused)
}

func (c *Packing) steer(ctx context.Context, by, class, run, to string, from ...string) error {
	err := c.Store.Change(ctx, c.Act(ctx, by, "run-"+to, map[string]string{"run": run}, class), nil, func(tx *store.Store) error {
		r, err := runOf(ctx, tx, class, run)
		if err != nil {
			return err
		}
		if !slices.Contains(from, r.State) {
			return nil // it is already like that, or the run is over
		}
		if err := tx.SetRunState(ctx, r.ID, to, from...); err != nil {
			return err
		}
		if to == ledger.RunPacking {
			return c.packer.Wake(ctx, tx, r)
		}
		tell, err := c.runEnded(ctx, tx, r) // anyone who has theirs by now
		if err != nil || tell == nil {
			return err
		}
		return tell(ctx, tx)
	})
	return seam.NotFound(err)
}

// LeaveAsIs leaves what happened to a thing of the class as it is, so that no list asks
// about it again, or has it asked about again. key is as packing writes it.
func (c *Packing) LeaveAsIs(ctx context.Context, by, class, key string, be bool) error {
	k, err := packing.ParseKey(key)
	if err != nil || k.Class != class {
		return seam.ErrNotFound
	}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, "let-be", map[string]any{"key": key, "be": be}, class), nil,
		func(tx *store.Store) error {
			if _, err := tx.EntryByKey(ctx, k); err != nil {
				return err
			}
			return tx.SetLeft(ctx, class, k, be, by, c.Now())
		}))
}
