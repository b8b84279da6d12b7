package registers

import (
	"context"
	"errors"

	"golang.org/x/sync/errgroup"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/usecase/seam"
)

// Panel returns a student of a class with everything of theirs as it was last seen.
func (c *Registers) Panel(ctx context.Context, class, row string) (register.Panel, error) {
	r, err := c.Reading(ctx, class)
	if err != nil {
		return register.Panel{}, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return register.Panel{}, err
	}
	out, strayed, ok := r.Panel(r.Table(), row, r.Parents(), book.Called, c.Now())
	if !ok {
		return register.Panel{}, seam.ErrNotFound
	}
	return out, c.askedFor(ctx, r, out, strayed, book)
}

// askedAtOnce things are asked about at the same time.
const askedAtOnce = 6

// askedFor asks the cupboard where those of a panel's things lie, and who reaches them, that
// are in folders of people's own. Of what it can't say just now nothing is told.
func (c *Registers) askedFor(ctx context.Context, r *seam.Reading, of register.Panel, things []int, book *seam.Known) error {
	var all errgroup.Group
	all.SetLimit(askedAtOnce)
	for _, i := range things {
		all.Go(func() error {
			t := &of.Things[i]
			e := t.Cell.Entry
			x, err := c.cup.Get(ctx, r.Owner(), e.Thing)
			if err == nil {
				var people map[string]access.Reason
				if people, err = c.cup.People(ctx, r.Owner(), e.Thing); err == nil {
					t.Reach = r.Reaching(e, people, r.State(e).Rule.School, book.Called, of.Student)
					for _, crumb := range x.Path[min(1, len(x.Path)):] {
						t.Where = append(t.Where, crumb.Name)
					}
				}
			}
			if errors.Is(err, cupboard.ErrNotFound) || errors.Is(err, cupboard.ErrNoRight) || errors.Is(err, cupboard.ErrUnavailable) {
				return nil
			}
			return err
		})
	}
	return all.Wait()
}
