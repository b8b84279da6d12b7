package registers

import (
	"context"

	"jollysatchel/internal/core/register"
	"jollysatchel/internal/usecase/seam"
)

// Dues are the due times of what an account was given, in all its classes.
func (c *Registers) Dues(ctx context.Context, account string) ([]register.Due, error) {
	homes, err := c.Home(ctx, account)
	var out []register.Due
	for _, h := range homes {
		out = append(out, h.Dues()...)
	}
	return out, err
}

// ClassDues are the due times of a class's packed handouts.
func (c *Registers) ClassDues(ctx context.Context, class string) ([]register.Due, error) {
	cl, err := c.Store.Class(ctx, class)
	if err != nil {
		return nil, seam.NotFound(err)
	}
	handouts, err := c.Store.Handouts(ctx, class)
	return register.DuesOf(cl.Name, handouts), err
}
