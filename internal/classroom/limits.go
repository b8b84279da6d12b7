package classroom

import (
	"context"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/store"
)

// How long what people type may be, in bytes; of codes and periods, in letters.
const (
	mostCode   = 12
	mostPeriod = 20
)

// How many of a thing there may be.
const (
	mostClasses   = 500  // that one account hangs up
	mostHandouts  = 1000 // of a class
	mostHeadings  = 100  // of a class
	mostTemplates = 2000 // of one account
)

// moreClasses refuses a class beyond those one account may hang up.
func moreClasses(ctx context.Context, tx *store.Store, owner string) error {
	n, err := tx.CountClasses(ctx, owner)
	if err == nil && n >= mostClasses {
		err = change.TooMany("class", "too-many-classes-mine", mostClasses)
	}
	return err
}
