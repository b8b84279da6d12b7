package handouts

import (
	"context"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// UseAgain begins a handout in a class, the same or another that the account teaches,
// as an earlier one is: everything but its times and who was picked by hand. without
// says what can't come along, and is to be said again there.
func (c *Handouts) UseAgain(ctx context.Context, by, class, id, to string) (begun string, without []string, err error) {
	h, err := c.Store.Handout(ctx, class, id)
	if err != nil {
		return "", nil, seam.NotFound(err)
	}
	keeper, err := c.OwnerFor(ctx, by, to)
	if err == nil && keeper == "" {
		err = seam.ErrNotFound
	}
	if err != nil {
		return "", nil, seam.NotFound(err)
	}
	from, err := c.Store.Class(ctx, class)
	if err != nil {
		return "", nil, seam.NotFound(err)
	}
	book, err := c.Book(ctx)
	if err != nil {
		return "", nil, err
	}
	out := struct {
		ID      string
		Without []string
	}{ID: store.NewID()}
	act := c.Act(ctx, by, "handout-begun", map[string]string{"handout": out.ID, "title": h.Title, "like": id}, to)
	err = c.Store.Change(ctx, act, &out, func(tx *store.Store) error {
		cl, err := c.ReadClass(ctx, tx, book, to)
		if err != nil {
			return err
		}
		templates, err := seam.DocumentsFor(ctx, tx, h.Settings.Documents)
		if err != nil {
			return err
		}
		now := c.Now()
		next := handout.Handout{ID: out.ID, ClassID: to, Title: h.Title, Zone: c.School().Zone.String(), CreatedAt: now, ChangedAt: now}
		next.Settings, out.Without = h.Settings.Again(from.Plan, cl.Plan, cl.Vocabulary(), func(d handout.GivenDocument) bool {
			return templates[d.Template].Account == by && !templates[d.Template].Removed
		})
		if next.Settings.Way == handout.TeamName {
			if err := c.AddTeams(ctx, tx, cl, cl.Plan, next.Settings.Teams); err != nil {
				return err
			}
		}
		return begin(ctx, tx, next)
	})
	return out.ID, out.Without, seam.NotFound(err)
}

// begin keeps a handout that is new, where there is room for one more.
func begin(ctx context.Context, tx *store.Store, h handout.Handout) error {
	n, err := tx.CountHandouts(ctx, h.ClassID)
	if err != nil {
		return err
	}
	if n >= mostHandouts {
		return change.TooMany("handout", "too-many-handouts", mostHandouts)
	}
	return tx.SaveHandout(ctx, h)
}
