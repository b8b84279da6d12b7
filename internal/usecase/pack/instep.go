package pack

import (
	"context"
	"slices"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/usecase/seam"
)

// KeepInStep tops up the classes whose teachers wished it: anyone who joined gets what
// was never made for them, and nothing else is done. A class in which something is
// being packed, or waits to be carried on, is left for the next time.
func (c *Packing) KeepInStep(ctx context.Context) error {
	cs, err := c.Store.InStep(ctx)
	if err != nil {
		return err
	}
	for _, cl := range cs {
		tag, err := c.TagOf(ctx, cl.Revision)
		if err != nil {
			return err
		}
		if was, looked := c.stepped.Load(cl.ID); looked && was == tag {
			continue
		}
		if err := c.keepInStep(ctx, cl); err != nil && seam.NotFound(err) != seam.ErrNotFound {
			return err
		}
		c.stepped.Store(cl.ID, tag)
	}
	return nil
}

// keepInStep tops one class up, by one program at a time.
func (c *Packing) keepInStep(ctx context.Context, cl classes.Class) error {
	r, err := c.Reading(ctx, cl.ID)
	if err != nil || len(r.Lacks().Subjects) == 0 {
		return err
	}
	return c.Store.Alone(ctx, "in-step/"+cl.ID, func() error {
		now, err := c.Store.InStep(ctx)
		if err != nil || !slices.ContainsFunc(now, func(x classes.Class) bool { return x.ID == cl.ID }) {
			return err // another program was first
		}
		staff, err := c.Store.Staff(ctx, cl.ID)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(staff, func(m classes.Member) bool { return m.Account == cl.KeepInStep && m.Role != classes.Assistant }) {
			return c.Store.SetKeepInStep(ctx, cl.ID, "") // who wished it no longer teaches here
		}
		_, err = c.TopUp(ctx, cl.KeepInStep, cl.ID, Part{})
		return err
	})
}
