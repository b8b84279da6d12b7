package handouts

import (
	"context"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// Headings are what a class's handouts are under, in order.
func (c *Handouts) Headings(ctx context.Context, class string) ([]handout.Heading, error) {
	return c.Store.Headings(ctx, class)
}

// headings changes the headings of a class as they are then.
func (c *Handouts) headings(ctx context.Context, by, class, what string, args map[string]string,
	do func(now []handout.Heading) ([]handout.Heading, error)) error {
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, what, args, class), nil, func(tx *store.Store) error {
		now, err := tx.Headings(ctx, class)
		if err != nil {
			return err
		}
		to, err := do(slices.Clone(now))
		if err != nil {
			return err
		}
		if slices.Equal(now, to) {
			return store.ErrUnchanged
		}
		return tx.SaveHeadings(ctx, class, to)
	}))
}

func headingTitle(title string) (string, error) {
	title = naming.Tidy(title)
	if title == "" {
		return "", change.Refuse("title", "missing")
	}
	if len(title) > handout.MostTitle {
		return "", change.TooLong("title", handout.MostTitle)
	}
	return title, nil
}

// AddHeading puts a heading above the others.
func (c *Handouts) AddHeading(ctx context.Context, by, class, title string) (handout.Heading, error) {
	title, err := headingTitle(title)
	if err != nil {
		return handout.Heading{}, err
	}
	h := handout.Heading{ID: store.NewID(), Title: title}
	act := c.Act(ctx, by, "heading-added", map[string]string{"title": title}, class)
	err = c.Store.Change(ctx, act, &h, func(tx *store.Store) error {
		now, err := tx.Headings(ctx, class)
		if err != nil {
			return err
		}
		if len(now) >= mostHeadings {
			return change.TooMany("title", "too-many-headings", mostHeadings)
		}
		return tx.SaveHeadings(ctx, class, append([]handout.Heading{h}, now...))
	})
	return h, seam.NotFound(err)
}

// A HeadingChange is what of a heading is to be different; nil parts stay. Was is its
// title as it was looked at; Before the heading it is to be before, empty for the end.
type HeadingChange struct {
	Title, Was *string
	Folded     *bool
	Before     *string
}

// ChangeHeading renames, folds or moves a heading.
func (c *Handouts) ChangeHeading(ctx context.Context, by, class, id string, ch HeadingChange) error {
	title := ""
	if ch.Title != nil {
		var err error
		if title, err = headingTitle(*ch.Title); err != nil {
			return err
		}
	}
	return c.headings(ctx, by, class, "heading-changed", map[string]string{"heading": id, "title": title},
		func(now []handout.Heading) ([]handout.Heading, error) {
			at := slices.IndexFunc(now, func(h handout.Heading) bool { return h.ID == id })
			if at < 0 {
				return nil, seam.ErrNotFound
			}
			if ch.Title != nil {
				if err := change.Unless(ch.Was, "title", now[at].Title, title); err != nil {
					return nil, err
				}
				now[at].Title = title
			}
			if ch.Folded != nil {
				now[at].Folded = *ch.Folded
			}
			if ch.Before == nil {
				return now, nil
			}
			ids, of := make([]string, len(now)), map[string]handout.Heading{}
			for i, h := range now {
				ids[i], of[h.ID] = h.ID, h
			}
			for i, x := range handout.Moved(ids, id, *ch.Before) {
				now[i] = of[x]
			}
			return now, nil
		})
}

// RemoveHeading takes a heading away; what is under it is under none then.
func (c *Handouts) RemoveHeading(ctx context.Context, by, class, id string) error {
	return c.headings(ctx, by, class, "heading-removed", map[string]string{"heading": id},
		func(now []handout.Heading) ([]handout.Heading, error) {
			to := slices.DeleteFunc(slices.Clone(now), func(h handout.Heading) bool { return h.ID == id })
			if len(to) == len(now) {
				return nil, seam.ErrNotFound
			}
			return to, nil
		})
}

// PlaceHandout puts a handout under a heading, or none, before another there; at the
// end where none is said.
func (c *Handouts) PlaceHandout(ctx context.Context, by, class, id, heading, before string) error {
	act := c.Act(ctx, by, "handout-placed", map[string]string{"handout": id}, class)
	return seam.NotFound(c.Store.Change(ctx, act, nil, func(tx *store.Store) error {
		if heading != "" {
			all, err := tx.Headings(ctx, class)
			if err != nil {
				return err
			}
			if !slices.ContainsFunc(all, func(h handout.Heading) bool { return h.ID == heading }) {
				return change.Refuse("heading", "no-such-heading")
			}
		}
		all, err := tx.Handouts(ctx, class)
		if err != nil {
			return err
		}
		there := false
		var order []string
		for _, h := range slices.Backward(all) {
			there = there || h.ID == id
			if h.Heading == heading {
				order = append(order, h.ID)
			}
		}
		if !there {
			return seam.ErrNotFound
		}
		return tx.PlaceHandouts(ctx, class, heading, handout.Moved(order, id, before))
	}))
}
