package handouts

import (
	"context"
	"time"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/letters"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// afterDue is how long it waits to be told that a handout is due at another time, which may
// be typed more than once.
const afterDue = 2 * time.Minute

// toldOfDue tells those who have a handout that it is due at another time, where its people
// are told of changes.
func (c *Handouts) toldOfDue(ctx context.Context, tx *store.Store, book *seam.Known, by string, before, h handout.Handout) error {
	if before.Due.Equal(h.Due) || !h.Packed() || h.Settings.Tell != telling.Changes {
		return nil
	}
	s, err := c.Picture(ctx, tx, book, h.ClassID)
	if err != nil {
		return err
	}
	keys := s.KeysOf(h)
	var rows []string
	for _, st := range s.Students {
		for _, k := range keys(st.ID) {
			if e := s.Entries[k]; e != nil && e.Shared() {
				rows = append(rows, st.ID)
				break
			}
		}
	}
	about := "due/" + h.ID + "/"
	if err := tx.DropMessages(ctx, h.ID, about); err != nil {
		return err
	}
	_, err = c.Tell(ctx, tx, s, letters.Tale{Kind: telling.Changed, Handout: &h, Text: h.Mail(telling.Changed),
		By: seam.Sender(book.Account(by)), About: about + store.NewID(), After: afterDue}, rows)
	return err
}
