package classroom

import (
	"context"
	"slices"
	"strings"
	"time"

	"jollysatchel/internal/schoolbook"
)

// SignIn returns the account whose password fits.
func (c *People) SignIn(ctx context.Context, address, password string) (schoolbook.Account, error) {
	return c.Book.SignIn(ctx, address, password)
}

// Accounts returns the accounts of those ids the school book knows.
func (c *People) Accounts(ctx context.Context, ids ...string) (map[string]schoolbook.Account, error) {
	book, err := c.book(ctx)
	if err != nil {
		return nil, err
	}
	out := make(map[string]schoolbook.Account, len(ids))
	for _, id := range ids {
		if i, ok := book.byID[id]; ok {
			out[id] = book.all[i]
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
func (c *People) Find(ctx context.Context, typed string, most int) ([]schoolbook.Account, error) {
	book, err := c.book(ctx)
	if err != nil {
		return nil, err
	}
	students := slices.DeleteFunc(slices.Clone(book.all), func(a schoolbook.Account) bool {
		return a.Role != schoolbook.Student || strings.HasPrefix(a.ID, PracticePrefix)
	})
	return schoolbook.Find(typed, students, most), nil
}

// DeviceFor is how long a device is known after somebody signed in from it.
const DeviceFor = 180 * 24 * time.Hour

// KnowsDevice reports whether whoever has an address signed in from a device.
func (c *People) KnowsDevice(ctx context.Context, device, address string) (bool, error) {
	book, err := c.book(ctx)
	if err != nil {
		return false, err
	}
	i, ok := book.byAddress[strings.ToLower(address)]
	if !ok {
		return false, nil
	}
	return c.Store.KnowsDevice(ctx, device, book.all[i].ID, c.Now().Add(-DeviceFor))
}

// KeepDevice remembers that an account signed in from a device.
func (c *People) KeepDevice(ctx context.Context, device, account string) error {
	return c.Store.KeepDevice(ctx, device, account, c.Now())
}

// AccountOf returns the account of an address, as the school book has it.
func (c *People) AccountOf(ctx context.Context, address string) (Account, bool, error) {
	book, err := c.book(ctx)
	if err != nil {
		return Account{}, false, err
	}
	a, ok := book.ByAddress(tidy(address))
	return book.account(a.ID), ok, nil
}

// CountAccounts is how many accounts the school book has.
func (c *People) CountAccounts(ctx context.Context) (int, error) {
	book, err := c.book(ctx)
	if err != nil {
		return 0, err
	}
	return len(book.all), nil
}
