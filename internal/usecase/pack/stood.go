package pack

import (
	"context"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/usecase/seam"
)

// mostStood is how many times of packing are told of a handout.
const mostStood = 50

// StoodTimes returns when a handout was packed, newest first.
func (c *Packing) StoodTimes(ctx context.Context, class, handout string) ([]handout.Stood, error) {
	return c.Store.StoodTimes(ctx, class, handout, mostStood)
}

// StoodList is the class list as it stood when a handout was packed.
func (c *Packing) StoodList(ctx context.Context, class, handout, id string) (handout.Stood, error) {
	st, err := c.Store.StoodList(ctx, class, handout, id)
	return st, seam.NotFound(err)
}
