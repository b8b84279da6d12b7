package doors

import (
	"context"

	"jollysatchel/internal/store/kept"
	"jollysatchel/internal/usecase/seam"
)

// A Checked is a check without what it found.
type Checked = kept.CheckedDoors

// A CheckedClass is a class with its newest check, if it was ever checked.
type CheckedClass struct {
	ID, Name string
	Last     Checked
}

// All are all classes of the school by name, each with its newest check.
func (c *Doors) All(ctx context.Context) ([]CheckedClass, error) {
	cs, err := c.Store.Classes(ctx, "")
	if err != nil {
		return nil, err
	}
	ids := make([]string, len(cs))
	for i, cl := range cs {
		ids[i] = cl.ID
	}
	newest, err := c.Store.NewestDoorChecks(ctx, ids)
	if err != nil {
		return nil, err
	}
	book, err := c.Book(ctx)
	out := make([]CheckedClass, len(cs))
	for i, cl := range cs {
		out[i] = CheckedClass{cl.ID, cl.Name, newest[cl.ID]}
		if by := out[i].Last.By; by != "" && err == nil {
			out[i].Last.By = book.Called(by)
		}
	}
	return out, err
}

// Export is the newest check of a class as a table.
func (c *Doors) Export(ctx context.Context, class string) ([][]string, error) {
	last, ok, err := c.Last(ctx, class)
	if err != nil {
		return nil, err
	}
	if !ok {
		return nil, seam.ErrNotFound
	}
	return last.Result.Table(c.Moment(last.At), last.Who), nil
}
