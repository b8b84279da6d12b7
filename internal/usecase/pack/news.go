package pack

import (
	"context"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/letters"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// runEnded returns what is to be told of a run that has ended, or was stopped, within the
// transaction in which it does; nil for nothing. Anyone who was given a copy of its handout is
// told of the first and, where the handout says so, of those after it and of copies that
// were given again.
func (c *Packing) runEnded(ctx context.Context, st *store.Store, run ledger.Run) (func(context.Context, *store.Store) error, error) {
	if run.HandoutID == "" {
		return nil, nil
	}
	h, err := st.Handout(ctx, run.ClassID, run.HandoutID)
	if err != nil || h.Settings.Way.Tells(h.Settings.Tell) == telling.Not {
		return nil, seam.NotFound(err)
	}
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	return func(ctx context.Context, tx *store.Store) error {
		s, err := c.Picture(ctx, tx, book, run.ClassID)
		if err != nil {
			return err
		}
		h, ok := s.Handout(run.HandoutID)
		when := h.Settings.Way.Tells(h.Settings.Tell)
		if !ok || h.Withdrawn() || when == telling.Not {
			return nil
		}
		given, err := tx.GivenBy(ctx, run.ID)
		if err != nil {
			return err
		}
		told, err := tx.Told(ctx, h.ID)
		if err != nil {
			return err
		}
		first, later := letters.News(s.Students, given, told)
		by := seam.Sender(book.Account(run.StartedBy))
		if _, err := c.Tell(ctx, tx, s,
			letters.Tale{Kind: telling.Given, Handout: &h, Text: h.Mail(telling.Given), By: by, About: "given/" + h.ID}, first); err != nil {
			return err
		}
		if when != telling.Changes {
			return nil
		}
		_, err = c.Tell(ctx, tx, s, letters.Tale{Kind: telling.Changed, Handout: &h, Text: h.Mail(telling.Changed), By: by,
			About: "changed/" + run.ID}, later)
		return err
	}, nil
}

// RunEnded returns what is done within the transaction in which a run ends: what its class's
// changes left is put right, and anyone who was given something is told.
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
// class changed is put right then. Anyone who left is closed off, and copies of a handout that
// was withdrawn meanwhile follow the others into the bin, unless somebody wrote in them.
func (c *Packing) settled(ctx context.Context, tx *store.Store, book *seam.Known, run ledger.Run) error {
	if err := c.leaving.Revoke(ctx, tx, book, run.StartedBy, run.ClassID); err != nil || run.HandoutID == "" {
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
	return c.packer.Enqueue(ctx, tx,
		ledger.Run{ID: store.NewID(), ClassID: run.ClassID, HandoutID: h.ID, Title: h.Title, State: ledger.RunPacking,
			StartedBy: run.StartedBy, StartedAt: c.Now(), Kind: ledger.DiscardRun}, steps)
}
