// Package people is who is known at the school: accounts and their ways in, what the office says of
// the school, and where somebody is signed in.
package people

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// People are the school's accounts.
type People struct {
	*seam.House
	directory seam.Directory
	orders    *lru.Cache[bookOrder, []accounts.Account]
}

// The school book is kept in so many orders.
const keptOrders = 8

type bookOrder struct {
	revision, language string
	by                 accounts.Column
	down               bool
}

// New returns those of a directory.
func New(h *seam.House, directory seam.Directory) *People {
	orders, _ := lru.New[bookOrder, []accounts.Account](keptOrders) // a size above zero is no error
	return &People{h, directory, orders}
}

// SignIn returns the account whose password fits.
func (c *People) SignIn(ctx context.Context, address, password string) (accounts.Account, error) {
	return c.SchoolBook.SignIn(ctx, address, password)
}

// Accounts returns the accounts of those ids the school book knows.
func (c *People) Accounts(ctx context.Context, ids ...string) (map[string]accounts.Account, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	out := make(map[string]accounts.Account, len(ids))
	for _, id := range ids {
		if a := book.Account(id); a.ID != "" && id != seam.SchoolAccount {
			out[id] = a
		}
	}
	return out, nil
}

// Names returns how accounts are called.
func (c *People) Names(ctx context.Context, ids ...string) (map[string]string, error) {
	found, err := c.Accounts(ctx, ids...)
	out := make(map[string]string, len(found))
	for id, a := range found {
		out[id] = a.Name()
	}
	return out, err
}

// Find returns the students of the school book that come nearest to what was
// typed, a few of them.
func (c *People) Find(ctx context.Context, typed string, most int) ([]accounts.Account, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	students := slices.DeleteFunc(slices.Clone(book.All), func(a accounts.Account) bool {
		return a.Role != accounts.Student || strings.HasPrefix(a.ID, seam.PracticePrefix)
	})
	return accounts.Find(typed, students, most), nil
}

// DeviceFor is how long a device is known after somebody signed in from it.
const DeviceFor = 180 * 24 * time.Hour

// KnowsDevice reports whether anyone who has an address signed in from a device.
func (c *People) KnowsDevice(ctx context.Context, device, address string) (bool, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return false, err
	}
	a := book.AccountAt(address)
	if a.ID == "" {
		return false, nil
	}
	return c.Store.KnowsDevice(ctx, device, a.ID, c.Now().Add(-DeviceFor))
}

// KeepDevice remembers that an account signed in from a device.
func (c *People) KeepDevice(ctx context.Context, device, account string) error {
	return c.Store.KeepDevice(ctx, device, account, c.Now())
}

// AccountOf returns the account of an address, as the school book has it.
func (c *People) AccountOf(ctx context.Context, address string) (accounts.Account, bool, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return accounts.Account{}, false, err
	}
	a, ok := book.ByAddress(naming.Tidy(address))
	return book.Account(a.ID), ok, nil
}

// CountAccounts is how many accounts the school book has.
func (c *People) CountAccounts(ctx context.Context) (int, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return 0, err
	}
	return len(book.All), nil
}

// SignInAs returns the account of somebody whom the school's own service vouches for, by
// their address. Who has none gets a student's, where the school makes them so and the
// address is of its domain.
func (c *People) SignInAs(ctx context.Context, address, given, family string) (accounts.Account, error) {
	nobody := change.Refuse("service", "service-nobody")
	a, there, err := c.AccountOf(ctx, address)
	switch {
	case err != nil:
		return accounts.Account{}, err
	case there && (a.Off || !roster.SameAddress(a.Address, address)): // letters that only look like its own
		return accounts.Account{}, nobody
	case there:
		return a, nil
	}
	school := c.School()
	if !school.Service.Make || school.Domain != "" && !roster.InDomain(address, school.Domain) {
		return accounts.Account{}, nobody
	}
	a = accounts.Account{ID: store.NewID(), Role: accounts.Student}
	if naming.Tidy(given+family) == "" {
		given, _, _ = strings.Cut(address, "@")
	}
	if err := (accounts.Change{Given: &given, Family: &family, Address: &address}).Of(&a, accounts.Change{}); err != nil {
		return accounts.Account{}, nobody
	}
	err = c.Store.Change(ctx, c.Act(ctx, a.ID, "account-by-service", accountArgs(a)), nil, func(*store.Store) error {
		return seam.BookError(errors.Join(c.directory.Put(ctx, a), c.directory.Known(ctx, a.ID)))
	})
	return a, err
}
