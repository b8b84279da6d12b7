package registers

import (
	"context"
	"slices"

	"jollysatchel/internal/core/classes"
	handouts "jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/usecase/seam"
)

// ClassWeeks are how a class came on.
type ClassWeeks struct {
	Class    string // its id
	Students int
	Weeks    []register.Week
}

// Weeks returns how a class came on over the last weeks with a handout, or with all of them for an empty one.
func (c *Registers) Weeks(ctx context.Context, class, handout string) (ClassWeeks, error) {
	tag, err := c.Tag(ctx, class)
	if err != nil {
		return ClassWeeks{}, err
	}
	key := weeksKey{class, handout}
	if w, ok := c.weeks.Get(key); ok && w.tag == tag {
		return w.ClassWeeks, nil
	}
	w, err, _ := c.flight.Do(class+handout+tag.String(), func() (any, error) { // others wait for it too
		out, err := c.weeksAt(context.WithoutCancel(ctx), class, handout, tag)
		if err == nil {
			c.weeks.Add(key, keptWeeks{tag, out})
		}
		return out, err
	})
	return w.(ClassWeeks), err
}

func (c *Registers) weeksAt(ctx context.Context, class, handout string, tag seam.Tag) (ClassWeeks, error) {
	r, err := c.ReadAt(ctx, class, tag)
	if err != nil {
		return ClassWeeks{}, err
	}
	if handout != "" && !slices.ContainsFunc(r.Handouts, func(h handouts.Handout) bool { return h.ID == handout }) {
		return ClassWeeks{}, seam.ErrNotFound
	}
	out := ClassWeeks{Class: class, Students: len(r.Students)}
	zone := c.School().Zone
	if starts := r.WeeksOf(handout, zone); len(starts) > 0 {
		words, err := c.Store.WorkDays(ctx, class, handout, starts[0])
		if err != nil {
			return ClassWeeks{}, err
		}
		out.Weeks = r.Weeks(r.Table(), handout, starts, words, zone)
	}
	return out, nil
}

// AllWeeks returns Weeks of every class on whose staff an account is. One that can't be read just now is
// left out.
func (c *Registers) AllWeeks(ctx context.Context, account string) ([]ClassWeeks, error) {
	cs, err := c.Store.Classes(ctx, account)
	if err != nil {
		return nil, err
	}
	found := make([]ClassWeeks, len(cs))
	err = c.each(ctx, cs, func(i int, cl classes.Class) (err error) {
		found[i], err = c.Weeks(ctx, cl.ID, "")
		return err
	})
	out := []ClassWeeks{}
	for _, w := range found {
		if w.Class != "" {
			out = append(out, w)
		}
	}
	return out, err
}
