package seam

import (
	"context"
	"errors"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/store"
)

// errMore says that a handout became one with that of another class meanwhile.
var errMore = errors.New("usecase: more classes are concerned")

// Together changes a handout of the act's class with those it is one with: do is run while
// all their classes are held. Where others aren't concerned they are left alone.
func (c *House) Together(ctx context.Context, act store.Act, result any, id string, concerned bool,
	do func(tx *store.Store, h handout.Handout, others []handout.Handout) error) error {
	class := act.Classes[0]
	for range 5 {
		var partners []handout.Partner
		var err error
		if concerned {
			if partners, err = c.Store.Partners(ctx, class, id); err != nil {
				return err
			}
		}
		act.Classes = []string{class}
		for _, p := range partners {
			act.Classes = append(act.Classes, p.ClassID)
		}
		err = c.Store.Change(ctx, act, result, func(tx *store.Store) error {
			h, err := tx.Handout(ctx, class, id)
			if err != nil {
				return err
			}
			if !concerned {
				return do(tx, h, nil)
			}
			others, err := tx.Together(ctx, h)
			if err != nil {
				return err
			}
			if slices.ContainsFunc(others, func(o handout.Handout) bool { return !slices.Contains(act.Classes, o.ClassID) }) {
				return errMore
			}
			return do(tx, h, others)
		})
		if !errors.Is(err, errMore) {
			return err
		}
	}
	return &change.Changed{Field: "together"}
}
