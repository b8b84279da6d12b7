// Package tell tells people by post.
package tell

import (
	"cmp"
	"context"
	"errors"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/letters"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/mail"
	"jollysatchel/internal/usecase/seam"
)

// Telling tells people by post.
type Telling struct{ *seam.House }

// NewTelling returns the telling of a house.
func New(h *seam.House) *Telling { return &Telling{h} }

// PreviewMessage shows a message before it is sent.
func (c *Telling) PreviewMessage(ctx context.Context, class string, ask letters.Ask) (letters.Preview, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return letters.Preview{}, err
	}
	s, err := c.Picture(ctx, c.Store, book, class)
	if err != nil {
		return letters.Preview{}, seam.NotFound(err)
	}
	m, err := c.Letters(ctx, c.Store, s)
	if err != nil {
		return letters.Preview{}, err
	}
	t, rows, err := taleOf(m, ask)
	if err != nil {
		return letters.Preview{}, err
	}
	return m.Preview(t, rows, ask.Row), nil
}

func taleOf(m *letters.Book, ask letters.Ask) (letters.Tale, []string, error) {
	t, rows, err := m.Tale(ask)
	if errors.Is(err, letters.ErrNoHandout) {
		err = seam.ErrNotFound
	}
	return t, rows, err
}

// SendMessage sends what somebody wrote to some of a class, and returns how many messages
// that are.
func (c *Telling) SendMessage(ctx context.Context, by, class string, ask letters.Ask) (int, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return 0, err
	}
	n := 0
	args := map[string]any{"handout": ask.Handout, "rows": ask.Rows}
	err = c.Store.Change(ctx, c.Act(ctx, by, "message-sent", args, class), &n, func(tx *store.Store) error {
		s, err := c.Picture(ctx, tx, book, class)
		if err != nil {
			return err
		}
		m, err := c.Letters(ctx, tx, s)
		if err != nil {
			return err
		}
		ask.Kind = telling.Written
		if ask.Text == nil {
			return change.Refuse("text", "missing")
		}
		t, rows, err := taleOf(m, ask)
		if err != nil {
			return err
		}
		t.By, t.About = seam.Sender(book.Account(by)), "written/"+store.NewID()
		if s.Practice {
			return change.Refuse("rows", "practice-not-told")
		}
		of := m.Messages(t, rows)
		if len(of) == 0 {
			return change.Refuse("rows", "nobody-told")
		}
		if err := c.mayWrite(ctx, tx, by, len(of)); err != nil {
			return err
		}
		args["things"], args["title"] = len(of), t.Text.Subject
		n, err = c.Courier.Post(ctx, tx, of)
		return err
	})
	return n, seam.NotFound(err)
}

// mostMails are written by one person within a day, to however many.
const mostMails = 3000

// messagePage is how many messages are shown at once.
const messagePage = 50

// A Told is a message as its record shows it.
type Told struct {
	telling.Message
	By string // name of who sent it
}

// Messages returns a class's messages, the latest first, whether there are more, and how
// many there are by what happened to them.
func (c *Telling) Messages(ctx context.Context, class string, f mail.MessageFilter) ([]Told, bool, map[string]int, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return nil, false, nil, err
	}
	f.Text, f.Most = naming.Tidy(f.Text), messagePage+1
	found, err := c.Store.Messages(ctx, class, f)
	if err != nil {
		return nil, false, nil, err
	}
	more := len(found) > messagePage
	out := []Told{}
	for _, m := range found[:min(len(found), messagePage)] {
		out = append(out, Told{m, book.Account(m.SentBy).Name()})
	}
	counts, err := c.Store.CountMessages(ctx, class)
	return out, more, counts, err
}

// mayWrite refuses messages that are beyond a person's share of a day.
func (c *Telling) mayWrite(ctx context.Context, tx *store.Store, by string, more int) error {
	if more == 0 {
		return nil
	}
	sent, err := tx.CountWritten(ctx, by, c.Now().Add(-24*time.Hour))
	if err == nil && sent+more > mostMails {
		err = change.TooMany("rows", "too-many-mails", mostMails)
	}
	return err
}

// SendAgain sends messages of a class once more, to the address that each student has now:
// those that failed are tried again, those that were sent go as others of the same words.
// It returns how many go.
func (c *Telling) SendAgain(ctx context.Context, by, class string, ids []string) (int, error) {
	for _, id := range ids {
		if !store.ValidID(id) {
			return 0, seam.ErrNotFound
		}
	}
	book, err := c.Book(ctx)
	if err != nil {
		return 0, err
	}
	n := 0
	args := map[string]any{"things": len(ids)}
	err = c.Store.Change(ctx, c.Act(ctx, by, "messages-again", args, class), &n, func(tx *store.Store) error {
		found, err := tx.MessagesByID(ctx, class, ids)
		if err != nil {
			return err
		}
		if len(found) == 0 {
			return seam.ErrNotFound
		}
		cl, err := c.ReadClass(ctx, tx, book, class)
		if err != nil {
			return err
		}
		now := map[string]string{} // row → address
		for _, st := range cl.Students {
			if good, _ := telling.Addresses(st.Address); len(good) > 0 {
				now[st.ID] = good[0]
			}
		}
		retry, anew := telling.Again(found, now, by, c.Now(), store.NewID)
		if n = len(retry) + len(anew); n == 0 {
			return nil // they are under way
		}
		args["things"] = n
		if err := c.mayWrite(ctx, tx, by, telling.CountWritten(anew)); err != nil {
			return err
		}
		if err := tx.RetryMessages(ctx, retry, c.Now()); err != nil {
			return err
		}
		if _, err := c.Courier.Post(ctx, tx, anew); err != nil {
			return err
		}
		return c.Courier.Wake(ctx, tx)
	})
	return n, seam.NotFound(err)
}

// usualDigest is the time of day of digests where nothing else was said.
const usualDigest = "16:00"

// Wish is how somebody wants to be told.
func (c *Telling) Wish(ctx context.Context, account string) (telling.Wished, error) {
	found, err := c.Store.Wishes(ctx, []string{account})
	w := found[account]
	w.Account, w.At = account, cmp.Or(w.At, usualDigest)
	return w, err
}

// SetWish says how somebody wants to be told, of the next message on; what waits for a
// digest goes at once where there is to be none.
func (c *Telling) SetWish(ctx context.Context, account string, w telling.Wish, at string) error {
	if w != telling.Each && w != telling.Together && w != telling.Off {
		return change.Refuse("wish", "no-such-choice")
	}
	if t, err := time.Parse("15:04", at); err != nil || t.Format("15:04") != at {
		return change.Refuse("at", "not-a-time")
	}
	return c.Store.Change(ctx, c.Act(ctx, account, "wish-changed", map[string]string{"wish": string(w)}), nil, func(tx *store.Store) error {
		if err := tx.SaveWish(ctx, telling.Wished{Account: account, Wish: w, At: at}, c.Now()); err != nil {
			return err
		}
		return c.Courier.Wake(ctx, tx)
	})
}
