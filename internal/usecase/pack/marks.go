package pack

import (
	"context"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// KeepMarks brings the cupboard's marks after what handouts say of when their copies close, by a run
// with lines for each class where something else was said to it. Nothing waits for that: what closes
// is refused by the program itself, and what opens is written in at once.
func (c *Packing) KeepMarks(ctx context.Context) error {
	due, err := c.Store.Closing(ctx)
	if err != nil {
		return err
	}
	for _, cl := range due {
		tag, err := c.TagOf(ctx, cl.Revision)
		if err != nil {
			return err
		}
		if was, looked := c.marked.Load(cl.ID); looked && was == tag {
			continue
		}
		waits, err := c.keepMarks(ctx, cl.ID)
		if err != nil && seam.NotFound(err) != seam.ErrNotFound {
			return err
		}
		if !waits {
			c.marked.Store(cl.ID, tag)
		}
	}
	return nil
}

// keepMarks makes a run of what there is to say about one class, by one program at a time; what a line is
// under way with waits for that.
func (c *Packing) keepMarks(ctx context.Context, class string) (waits bool, err error) {
	book, err := c.Book(ctx)
	if err != nil {
		return false, err
	}
	err = c.Store.Alone(ctx, "marks/"+class, func() error {
		return c.Store.Tx(ctx, func(tx *store.Store) error {
			if err := tx.HoldClass(ctx, class); err != nil {
				return err
			}
			busy, err := tx.StepsUnderWay(ctx, class)
			if err != nil {
				return err
			}
			refused, err := tx.StuckMarks(ctx, class)
			if err != nil {
				return err
			}
			s, err := c.Picture(ctx, tx, book, class)
			if err != nil {
				return err
			}
			var steps []packing.Step
			for _, st := range s.Marking() {
				mark, stuck := refused[st.Key]
				if waits = waits || busy[st.Key]; busy[st.Key] || stuck && access.SameMark(mark, st.Change.Mark) {
					continue // it is said once that is done; what was refused is tried again where its line is
				}
				steps = append(steps, st)
			}
			if len(steps) == 0 {
				return nil
			}
			return c.packer.Enqueue(ctx, tx, ledger.Run{ID: store.NewID(), ClassID: class, State: ledger.RunPacking, StartedBy: s.Owner(),
				StartedAt: c.Now(), Kind: ledger.MarkRun}, steps)
		})
	})
	return waits, err
}
