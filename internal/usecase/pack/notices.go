package pack

import (
	"context"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/letters"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// Post puts a notice up on the pages of all who are in. seen is the digest of the list
// that was looked at.
func (c *Packing) Post(ctx context.Context, by, class, id, seen string) (handout.Handout, error) {
	return c.post(ctx, by, class, id, seen, "")
}

// post is Post; with send, only while it is to go out then.
func (c *Packing) post(ctx context.Context, by, class, id, seen, send string) (handout.Handout, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return handout.Handout{}, err
	}
	act := c.Act(ctx, by, "notice-posted", map[string]string{"handout": id}, class)
	err = c.Store.Change(ctx, act, nil, func(tx *store.Store) error {
		return c.postNow(ctx, tx, book, by, class, id, seen, send)
	})
	if err != nil {
		return handout.Handout{}, seam.NotFound(err)
	}
	h, err := c.Store.Handout(ctx, class, id)
	return h, seam.NotFound(err)
}

// postNow is post with the class held.
func (c *Packing) postNow(ctx context.Context, tx *store.Store, book *seam.Known, by, class, id, seen, send string) error {
	s, err := c.Picture(ctx, tx, book, class)
	if err != nil {
		return err
	}
	h, ok := s.Handout(id)
	switch {
	case !ok:
		return seam.ErrNotFound
	case h.Settings.Way != handout.NoticeName:
		return change.Refuse("way", "no-notice")
	case send != "" && (h.Packed() || wall.Written(h.Send) != send):
		return errNotNow
	case h.Packed():
		return nil
	case naming.Tidy(h.Title) == "":
		return change.Refuse("title", "missing")
	case h.Settings.Instructions == "" && len(h.Settings.Links) == 0:
		return change.Refuse("instructions", "missing")
	case seen != "" && s.HandoutList(h).Digest() != seen:
		return &change.Changed{Field: "list"}
	case len(s.Out(h)) == len(s.Students):
		return change.Refuse("list", "nobody")
	}
	if err := tx.InsertStood(ctx, class, id, s.Stood(store.NewID(), by, c.Now(), s.HandoutList(h))); err != nil {
		return err
	}
	if h.Withdrawn() {
		err = tx.MarkBroughtBack(ctx, id)
	} else {
		err = tx.MarkPacked(ctx, id, c.Now())
	}
	if err != nil || h.Settings.Way.Tells(h.Settings.Tell) == telling.Not {
		return err
	}
	out := s.Out(h)
	var rows []string
	for _, st := range s.Students {
		if _, absent := out[st.ID]; !absent {
			rows = append(rows, st.ID)
		}
	}
	_, err = c.Tell(ctx, tx, s, letters.Tale{Kind: telling.Given, Handout: &h, Text: h.Mail(telling.Given),
		By: seam.Sender(book.Account(by)), About: "given/" + h.ID}, rows)
	return err
}

// TakeDown takes a notice off all pages; it can be put up again.
func (c *Packing) TakeDown(ctx context.Context, by, class, id string) (handout.Handout, error) {
	act := c.Act(ctx, by, "notice-taken-down", map[string]string{"handout": id}, class)
	err := c.Store.Change(ctx, act, nil, func(tx *store.Store) error {
		h, err := tx.Handout(ctx, class, id)
		if err != nil {
			return err
		}
		if h.Settings.Way != handout.NoticeName || !h.Packed() {
			return change.Refuse("way", "no-notice")
		}
		return tx.MarkWithdrawn(ctx, id, c.Now())
	})
	if err != nil {
		return handout.Handout{}, seam.NotFound(err)
	}
	h, err := c.Store.Handout(ctx, class, id)
	return h, seam.NotFound(err)
}
