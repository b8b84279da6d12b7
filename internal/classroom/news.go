package classroom

import (
	"context"
	"time"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/letters"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// runEnded returns what is to be told of a run that has ended, or was stopped, within the
// transaction in which it does; nil for nothing. Whoever was given a copy of its handout is
// told of the first and, where the handout says so, of those after it and of copies that
// were given anew.
func (c *house) runEnded(ctx context.Context, st *store.Store, run ledger.Run) (func(context.Context, *store.Store) error, error) {
	if run.HandoutID == "" {
		return nil, nil
	}
	h, err := st.Handout(ctx, run.ClassID, run.HandoutID)
	if err != nil || h.Settings.Way.Tells(h.Settings.Tell) == telling.Not {
		return nil, seam.NotFound(err)
	}
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	return func(ctx context.Context, tx *store.Store) error {
		s, err := c.Picture(ctx, tx, book, run.ClassID)
		if err != nil {
			return err
		}
		h, ok := s.Handout(run.HandoutID)
		when := h.Settings.Way.Tells(h.Settings.Tell)
		if !ok || h.Withdrawn() || when == telling.Not {
			return nil
		}
		given, err := tx.GivenBy(ctx, run.ID)
		if err != nil {
			return err
		}
		told, err := tx.Told(ctx, h.ID)
		if err != nil {
			return err
		}
		first, later := letters.News(s.Students, given, told)
		by := seam.Sender(book.Account(run.StartedBy))
		if _, err := c.Tell(ctx, tx, s, letters.Tale{Kind: telling.Given, Handout: &h, Text: h.Mail(telling.Given), By: by, About: "given/" + h.ID}, first); err != nil {
			return err
		}
		if when != telling.Changes {
			return nil
		}
		_, err = c.Tell(ctx, tx, s, letters.Tale{Kind: telling.Changed, Handout: &h, Text: h.Mail(telling.Changed), By: by, About: "changed/" + run.ID}, later)
		return err
	}, nil
}

// afterDue is how long it waits to be told that a handout is due at another time, which may
// be typed more than once.
const afterDue = 2 * time.Minute

// toldOfDue tells those who have a handout that it is due at another time, where its people
// are told of changes.
func (c *house) toldOfDue(ctx context.Context, tx *store.Store, book *seam.Known, by string, before, h handout.Handout) error {
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
	_, err = c.Tell(ctx, tx, s, letters.Tale{Kind: telling.Changed, Handout: &h, Text: h.Mail(telling.Changed), By: seam.Sender(book.Account(by)), About: about + store.NewID(), After: afterDue}, rows)
	return err
}
