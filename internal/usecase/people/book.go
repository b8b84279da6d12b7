package people

import (
	"context"
	"errors"
	"slices"
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

// A BookFilter says which accounts are looked for, by what they are sorted, down from the end, and how many
// are passed over.
type BookFilter struct {
	accounts.Filter
	By   accounts.Column
	Down bool
	From int
}

// A BookPage is a part of the school book.
type BookPage struct {
	Accounts []accounts.Account
	Classes  map[string][]string // what the classes are called that an account is in, as student or staff; to the office alone
	All      int                 // how many were found
	More     bool                // whether there are more after these
	New      int                 // how many of those found have neither a password nor a code
}

// BookPage returns accounts of the school book to somebody.
func (c *People) BookPage(ctx context.Context, by string, f BookFilter) (BookPage, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return BookPage{}, err
	}
	found := c.inBook(book, f)
	out := BookPage{All: len(found)}
	for _, a := range found {
		if a.Standing(c.Now()) == accounts.CantSignIn {
			out.New++
		}
	}
	from := min(f.From, len(found))
	out.Accounts = found[from:min(from+bookPage, len(found))]
	out.More = len(found) > from+len(out.Accounts)
	if book.Account(by).Role != accounts.Office {
		return out, nil
	}
	ids := make([]string, len(out.Accounts))
	for i, a := range out.Accounts {
		ids[i] = a.ID
	}
	out.Classes, err = c.Store.ClassesIn(ctx, ids)
	return out, err
}

// BookIDs returns the ids of what BookPage finds and isn't switched off, so many at most, and how many those are.
func (c *People) BookIDs(ctx context.Context, f BookFilter, most int) (ids []string, all int, err error) {
	book, err := c.Book(ctx)
	if err != nil {
		return nil, 0, err
	}
	found := c.inBook(book, f)
	for _, a := range found {
		if a.Off {
			continue
		}
		if all++; all <= most {
			ids = append(ids, a.ID)
		}
	}
	return ids, all, nil
}

func (c *People) inBook(book *seam.Known, f BookFilter) []accounts.Account {
	return slices.DeleteFunc(f.Of(c.sorted(book, f.By, f.Down), c.Now()), func(a accounts.Account) bool {
		return strings.HasPrefix(a.ID, seam.PracticePrefix)
	})
}

// sorted is the school book by a column, kept until the book is another.
func (c *People) sorted(book *seam.Known, by accounts.Column, down bool) []accounts.Account {
	if by == accounts.ByBook {
		return book.All
	}
	language := c.School().Language
	key := bookOrder{book.Revision, language, by, down}
	if kept, ok := c.orders.Get(key); ok {
		return kept
	}
	out := accounts.Sorted(book.All, by, down, naming.NewOrder(language))
	c.orders.Add(key, out)
	return out
}

// AddAccount enters an account and returns its id.
func (c *People) AddAccount(ctx context.Context, by string, ch accounts.Change) (string, error) {
	a := accounts.Account{ID: store.NewID(), Role: accounts.Student}
	if err := ch.Of(&a, accounts.Change{}); err != nil {
		return "", err
	}
	kept := a.ID
	err := c.Store.Change(ctx, c.Act(ctx, by, "account-added", accountArgs(a)), &kept, func(*store.Store) error {
		return seam.BookError(errors.Join(c.directory.Put(ctx, a), c.directory.Known(ctx, a.ID)))
	})
	return kept, err
}

// ChangeAccount changes an account as it is then. was holds, of what changes, what was
// looked at.
func (c *People) ChangeAccount(ctx context.Context, by, id string, ch, was accounts.Change) error {
	var before, now accounts.Account
	err := c.directory.Edit(ctx, id, func(a *accounts.Account) error {
		before = *a
		err := ch.Of(a, was)
		now = *a
		return err
	})
	if err != nil {
		return seam.BookError(err)
	}
	args := accountArgs(now)
	told := accounts.Told(before, now)
	args["things"], args["told"] = len(told), told
	return c.Store.Change(ctx, c.Act(ctx, by, "account-changed", args), nil, func(*store.Store) error {
		if len(told) == 0 {
			return store.ErrUnchanged
		}
		return nil
	})
}

func accountArgs(a accounts.Account) map[string]any {
	return map[string]any{"account": a.ID, "name": a.Name()}
}
