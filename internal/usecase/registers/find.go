package registers

import (
	"context"
	"slices"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/roster"
)

// A Found is a student of a class.
type Found struct {
	Class   classes.Class
	Student picture.Student
}

// FindStudents returns students of the classes on whose staff an account is in whose names or number every word of a
// text begins a word, by name, so many at most. A class that can't be read just now is left out.
func (c *Registers) FindStudents(ctx context.Context, account, text string, most int) ([]Found, error) {
	cs, err := c.Store.Classes(ctx, account)
	if err != nil {
		return nil, err
	}
	found := make([][]Found, len(cs))
	err = c.each(ctx, cs, func(i int, cl classes.Class) error {
		r, err := c.Reading(ctx, cl.ID)
		if err != nil {
			return err
		}
		begins := roster.Begins(text)
		for _, st := range r.Students {
			if begins(st.Name() + " " + st.CallName() + " " + st.Number) {
				found[i] = append(found[i], Found{cl, st})
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	out := slices.Concat(found...)
	naming.NewOrder(c.School().Language).Sort(len(out), func(i int) string { return out[i].Student.SortName() },
		func(i, j int) { out[i], out[j] = out[j], out[i] })
	return out[:min(most, len(out))], nil
}
