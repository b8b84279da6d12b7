package registers

import (
	"context"

	"jollysatchel/internal/core/register"
	"jollysatchel/internal/usecase/seam"
)

// Register returns the Register of a class as it was last seen.
func (c *Registers) Register(ctx context.Context, class string) (register.Register, error) {
	r, err := c.Reading(ctx, class)
	if err != nil {
		return register.Register{}, err
	}
	return r.Table(), nil
}

// Tag returns the tag of a class's pages: while it is the same, so are they.
func (c *Registers) Tag(ctx context.Context, class string) (seam.Tag, error) {
	revision, err := c.Store.Revision(ctx, class)
	if err != nil {
		return seam.Tag{}, seam.NotFound(err)
	}
	return c.TagOf(ctx, revision)
}
