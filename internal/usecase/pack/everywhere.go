package pack

import (
	"context"
	"errors"
	"slices"

	"golang.org/x/sync/errgroup"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/usecase/seam"
)

// A ClassList is what there is to pack in one class.
type ClassList struct {
	Class classes.Class
	List  packing.List
}

// classesAtOnce are read at the same time.
const classesAtOnce = 4

// Everywhere is the packing list of all classes an account teaches: what was never
// made or isn't shared, in the rooms, packed already or not, and in every handout
// that was packed. Classes in which nothing is to be packed are left out.
func (c *Packing) Everywhere(ctx context.Context, account string) ([]ClassList, error) {
	cs, err := c.Store.Taught(ctx, account)
	if err != nil {
		return nil, err
	}
	lists := make([]ClassList, len(cs))
	var all errgroup.Group
	all.SetLimit(classesAtOnce)
	for i, cl := range cs {
		all.Go(func() error {
			r, err := c.Reading(ctx, cl.ID)
			if err == nil {
				lists[i] = ClassList{cl, r.Outstanding()}
			}
			return err
		})
	}
	if err := all.Wait(); err != nil {
		return nil, err
	}
	return slices.DeleteFunc(lists, func(l ClassList) bool { return len(l.List.Lines) == 0 }), nil
}

// Somewhere is one class of those that are packed at once, with the digest of its
// list that was looked at.
type Somewhere struct{ Class, Seen string }

// PackEverywhere packs what is outstanding in several classes an account teaches. A
// class whose list does something else by now is left, and named.
func (c *Packing) PackEverywhere(ctx context.Context, by string, where []Somewhere) (changed []string, err error) {
	mine, err := c.Store.Taught(ctx, by)
	if err != nil {
		return nil, err
	}
	for _, w := range where {
		if !slices.ContainsFunc(mine, func(cl classes.Class) bool { return cl.ID == w.Class }) {
			return changed, seam.ErrNotFound
		}
	}
	for _, w := range where {
		err := c.packOutstanding(seam.Within(ctx, w.Class), by, w)
		var other *change.Changed
		if errors.As(err, &other) {
			changed = append(changed, w.Class)
			continue
		}
		if err != nil {
			return changed, err
		}
	}
	return changed, nil
}

func (c *Packing) packOutstanding(ctx context.Context, by string, w Somewhere) error {
	r, err := c.Reading(ctx, w.Class)
	if err != nil {
		return err
	}
	if w.Seen != r.Outstanding().Digest() {
		return &change.Changed{Field: "list"}
	}
	if len(r.Entries) > 0 {
		_, err = c.TopUp(ctx, by, w.Class, Part{Seen: w.Seen})
		return err
	}
	_, err = c.Pack(ctx, by, w.Class, "", Part{Seen: r.RoomList().Digest()})
	return err
}
