package rooms

import (
	"context"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/usecase/seam"
)

// A Chosen is a student of one of several classes, in or out.
type Chosen struct {
	choosing.Outcome
	Class   picture.Class
	Student picture.Student
}

// Choose says who is in, of one class or several of the account's, or any for no
// account. sitsOut are
// the rows that sit out what is chosen for.
func (c *Rooms) Choose(ctx context.Context, by string, cs, sitsOut []string, choice choosing.Choice) ([]Chosen, error) {
	if code, args := choice.Refused(); code != "" {
		return nil, &change.Invalid{Field: "choice", Code: code, Args: args}
	}
	mine, err := c.Store.Classes(ctx, by)
	if err != nil {
		return nil, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	whole := slices.DeleteFunc(slices.Clone(choice.Conditions), func(cond choosing.Condition) bool { return !cond.Whole() })
	choice.Conditions = whole
	exempt := make(map[string]bool, len(sitsOut))
	for _, row := range sitsOut {
		exempt[row] = true
	}
	out := []Chosen{}
	for _, id := range cs {
		if !slices.ContainsFunc(mine, func(cl classes.Class) bool { return cl.ID == id }) {
			return nil, seam.ErrNotFound
		}
		cl, err := c.ReadClass(ctx, c.Store, book, id)
		if err != nil {
			return nil, err
		}
		students := cl.Choosable()
		for i, s := range students {
			students[i].SitsOut = exempt[s.Row]
		}
		for i, o := range choosing.Choose(students, choice) {
			out = append(out, Chosen{o, cl, cl.Students[i]})
		}
	}
	return out, nil
}
