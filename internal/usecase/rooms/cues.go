package rooms

import (
	"context"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// Cues are the cues of a class's students, by row.
func (c *Rooms) Cues(ctx context.Context, class string) (map[string]room.Cue, error) {
	return c.Store.Cues(ctx, class)
}

// SetCue gives a student a colour and a symbol, or takes them away.
func (c *Rooms) SetCue(ctx context.Context, by, class, row string, cue room.Cue) error {
	if !cue.Known() {
		return change.Refuse("cue", "not-one-of")
	}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, "cue-set", map[string]string{"row": row}, class), nil,
		func(tx *store.Store) error {
			return tx.SetCue(ctx, class, row, cue)
		}))
}

// DealCues gives every student of a class who has none a cue of their own.
func (c *Rooms) DealCues(ctx context.Context, by, class string) error {
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, "cues-dealt", map[string]string{}, class), nil, func(tx *store.Store) error {
		cl, err := c.ReadClass(ctx, tx, book, class)
		if err != nil {
			return err
		}
		set, err := tx.Cues(ctx, class)
		if err != nil {
			return err
		}
		var rows []string
		for _, st := range cl.Students {
			rows = append(rows, st.ID)
		}
		for row, cue := range room.Deal(rows, set) {
			if _, there := set[row]; there {
				continue
			}
			if err := tx.SetCue(ctx, class, row, cue); err != nil {
				return err
			}
		}
		return nil
	}))
}
