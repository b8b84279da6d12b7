package people

import (
	"context"
	"errors"
	"strings"
	"time"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// How many accounts a page of the school book has, and for how long a code for the first
// sign-in, or the address of the first start, is good.
const (
	bookPage = 100
	codeFor  = 14 * 24 * time.Hour
	firstFor = time.Hour
)

// A BookFilter says which accounts are looked for: those whose names, address or number
// have a word that begins with each word of a text, of a role where one is said. From
// counts those passed over.
type BookFilter struct {
	Text string
	Role accounts.Role
	From int
}

// BookPage returns accounts of the school book, how many there are of them, and whether
// there are more than are returned.
func (c *People) BookPage(ctx context.Context, f BookFilter) (page []accounts.Account, all int, more bool, err error) {
	book, err := c.Book(ctx)
	if err != nil {
		return nil, 0, false, err
	}
	found := book.All
	if naming.Tidy(f.Text) != "" {
		found = accounts.Find(f.Text, book.All, len(book.All))
	}
	for _, a := range found {
		if f.Role != "" && a.Role != f.Role || strings.HasPrefix(a.ID, seam.PracticePrefix) {
			continue
		}
		if all++; all > f.From && len(page) < bookPage {
			page = append(page, a)
		}
	}
	return page, all, all > f.From+len(page), nil
}

// AddAccount enters an account and returns its id.
func (c *People) AddAccount(ctx context.Context, by string, ch accounts.Change) (string, error) {
	a := accounts.Account{ID: store.NewID(), Role: accounts.Student}
	if err := ch.Of(&a, accounts.Change{}); err != nil {
		return "", err
	}
	kept := a.ID
	err := c.Store.Change(ctx, c.Act(ctx, by, "account-kept", accountArgs(a)), &kept, func(*store.Store) error {
		return seam.BookError(errors.Join(c.directory.Put(ctx, a), c.directory.Known(ctx, a.ID)))
	})
	return kept, err
}

// ChangeAccount changes an account as it is then. was holds, of what changes, what was
// looked at.
func (c *People) ChangeAccount(ctx context.Context, by, id string, ch, was accounts.Change) error {
	var now accounts.Account
	err := c.directory.Edit(ctx, id, func(a *accounts.Account) error {
		err := ch.Of(a, was)
		now = *a
		return err
	})
	if err != nil {
		return seam.BookError(err)
	}
	return c.Store.Change(ctx, c.Act(ctx, by, "account-kept", accountArgs(now)), nil, func(*store.Store) error { return nil })
}

func accountArgs(a accounts.Account) map[string]string {
	return map[string]string{"account": a.ID, "name": a.Name()}
}
