package pack

import (
	"context"
	"errors"
	"maps"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// PackTogether packs a handout in its class and others it is one with, all of it or
// nothing: parts says by class what of its list, and names all those that the account
// teaches. A notice is put up in them.
func (c *Packing) PackTogether(ctx context.Context, by, class, id string, parts map[string]Part) ([]ledger.Run, error) {
	partners, err := c.Store.Partners(ctx, class, id)
	if err != nil {
		return nil, err
	}
	if err := c.Observe(ctx, class, id); err != nil {
		return nil, err
	}
	for _, p := range partners {
		if _, meant := parts[p.ClassID]; meant {
			if err := c.Observe(ctx, p.ClassID, p.ID); err != nil {
				return nil, err
			}
		}
	}
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	runs := map[string]string{} // class → run
	args := map[string]any{"handout": id}
	err = c.Together(ctx, c.Act(ctx, by, "packed", args, class), &runs, id, true,
		func(tx *store.Store, h handout.Handout, others []handout.Handout) error {
			clear(runs)
			args["title"] = h.Title
			said := 0
			for _, x := range append([]handout.Handout{h}, others...) {
				part, meant := parts[x.ClassID]
				mine, err := seam.Teaches(ctx, tx, by, x.ClassID)
				switch {
				case err != nil:
					return err
				case !mine:
					continue
				case !meant:
					return &change.Changed{Field: "together"}
				}
				said++
				run := store.NewID()
				if err := c.packOne(ctx, tx, book, run, by, x, part); nothingToPack(err) {
					continue
				} else if err != nil {
					return err
				}
				runs[x.ClassID] = run
			}
			if said < len(parts) {
				return seam.ErrNotFound
			}
			if len(runs) == 0 {
				return change.Refuse("list", "nothing-to-pack")
			}
			return nil
		})
	if err != nil {
		return nil, seam.NotFound(err)
	}
	return c.runsOf(ctx, runs)
}

// runsOf are the runs of some classes; a notice has none.
func (c *Packing) runsOf(ctx context.Context, of map[string]string) ([]ledger.Run, error) {
	out := []ledger.Run{}
	for _, class := range slices.Sorted(maps.Keys(of)) {
		r, err := c.Store.Run(ctx, of[class])
		if err == nil {
			out = append(out, r)
		} else if !errors.Is(err, store.ErrNotFound) {
			return nil, err
		}
	}
	return out, nil
}

// packOne packs the handout of one class, or puts its notice up.
func (c *Packing) packOne(ctx context.Context, tx *store.Store, book *seam.Known, run, by string, h handout.Handout, part Part) error {
	if h.Settings.Way == handout.NoticeName {
		return c.postNow(ctx, tx, book, by, h.ClassID, h.ID, part.Seen, "")
	}
	return c.packNow(ctx, tx, book, run, by, h.ClassID, h.ID, part)
}

// nothingToPack reports that a list had nothing to do.
func nothingToPack(err error) bool {
	var invalid *change.Invalid
	return errors.As(err, &invalid) && (invalid.Code == "nothing-to-pack" || invalid.Code == "nobody")
}
