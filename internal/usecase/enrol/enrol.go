package enrol

import (
	"context"

	"jollysatchel/internal/gate"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// Leaving takes a class's places from anyone who leaves it.
type Leaving interface {
	// Revoke does it within the change in which they leave.
	Revoke(ctx context.Context, tx *store.Store, book *seam.Known, by, class string) error
}

// A roll is what classes, their lists and those that are brought in have in common.
type roll struct {
	*seam.House
	leaving Leaving
}

// Classes are added and deleted.
type Classes struct{ *roll }

// Lists are what is brought in for a class and not accepted yet.
type Lists struct {
	*roll
	directory seam.Directory
	turns     gate.Turns // of a person's
}

// Rosters are the rows of classes and their history.
type Rosters struct{ *roll }

// NewEnrol builds them of what they stand on.
func New(h *seam.House, directory seam.Directory, leaving Leaving) (*Classes, *Lists, *Rosters) {
	r := &roll{h, leaving}
	return &Classes{r}, &Lists{roll: r, directory: directory}, &Rosters{r}
}
