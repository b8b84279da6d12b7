package pack

import (
	"context"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/kept"
	"jollysatchel/internal/usecase/seam"
)

// mostLetIn is how many classmates a student can let into their copies of a handout.
const mostLetIn = 30

// LetIn lets a classmate, by their row, into a student's own copies of a handout, or no
// more, where its teacher lets students do so. It is packed at once.
func (c *Packing) LetIn(ctx context.Context, account, handout, mate string, in bool) error {
	h, row, err := c.HandoutOf(ctx, account, handout)
	if err != nil {
		return err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	id := store.NewID()
	what := "let-in"
	if !in {
		what = "let-out"
	}
	args := map[string]any{"handout": handout, "mate": mate}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, account, what, args, h.ClassID), &id, func(tx *store.Store) error {
		s, err := c.Picture(ctx, tx, book, h.ClassID)
		if err != nil {
			return err
		}
		now, _ := s.Handout(handout)
		me, mine := s.Student(row)
		them, there := s.Student(mate)
		switch {
		case !mine || me.Account != account || !there || mate == row || them.Account == "":
			return seam.ErrNotFound
		case in && (!now.Packed() || !now.PassedOn()):
			return change.Refuse("mate", "not-passed-on")
		case in && len(s.LetIn[handout][row]) >= mostLetIn && !slices.Contains(s.LetIn[handout][row], mate):
			return change.TooMany("mate", "too-many-let-in", mostLetIn)
		}
		args["name"] = them.Name()
		if err := tx.SetLetIn(ctx, kept.LetIn{Handout: handout, Row: row, Mate: mate}, in, c.Now()); err != nil {
			return err
		}
		if s, err = c.Picture(ctx, tx, book, h.ClassID); err != nil {
			return err
		}
		var steps []packing.Step
		for _, w := range s.Way(now).Own(s.Room) {
			if k := w.Key; k.What.Purpose == packing.Copy && k.Whom.Row == row && w.Problem == nil {
				for _, step := range s.Reach(w, them.Account) {
					if (step.Act == packing.Share) == in {
						steps = append(steps, step)
					}
				}
			}
		}
		if len(steps) == 0 {
			return nil
		}
		run := ledger.Run{ID: id, ClassID: h.ClassID, HandoutID: handout, Title: h.Title, State: ledger.RunPacking,
			StartedBy: account, StartedAt: c.Now()}
		return c.packer.Enqueue(ctx, tx, run, steps)
	}))
}
