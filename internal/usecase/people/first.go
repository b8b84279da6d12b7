package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"strings"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/passwords"
	"jollysatchel/internal/core/school"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// FirstSignIn gives the account of an address a password where its code fits.
func (c *People) FirstSignIn(ctx context.Context, address, code, password string) (accounts.Account, error) {
	if err := weak(password, address); err != nil {
		return accounts.Account{}, err
	}
	return c.directory.UseCode(ctx, address, passwords.PlainCode(code), password, c.Now())
}

// ChangePassword gives an account another password where the one before fits.
func (c *People) ChangePassword(ctx context.Context, account, before, password string) error {
	found, err := c.SchoolBook.ByID(ctx, []string{account})
	if err != nil {
		return err
	}
	a := found[account]
	if err := weak(password, a.Name(), a.Address); err != nil {
		return err
	}
	err = c.directory.ChangePassword(ctx, account, before, password)
	if errors.Is(err, schoolbook.ErrRefused) {
		return change.Refuse("before", "password-wrong")
	}
	return err
}

// weak says why a password can't be one.
func weak(password string, own ...string) error {
	if code := passwords.Weak(password, own...); code != "" {
		return change.Refuse("password", code)
	}
	return nil
}

// FirstKey makes the secret that opens the first start, or mends the office account of an
// address, once and for an hour. Those before it open nothing any more.
func (c *People) FirstKey(ctx context.Context, address string) (string, error) {
	secret := rand.Text()
	return secret, c.Store.InsertFirstKey(ctx,
		store.FirstKey{Digest: digestOf(secret), Address: strings.ToLower(strings.TrimSpace(address)), Until: c.Now().Add(firstFor)})
}

func digestOf(secret string) []byte {
	h := sha256.Sum256([]byte(secret))
	return h[:]
}

// HasOffice reports whether anybody can sign in for the office.
func (c *People) HasOffice(ctx context.Context) (bool, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return false, err
	}
	for _, a := range book.All {
		if a.Role == accounts.Office && !a.Off && a.Ready {
			return true, nil
		}
	}
	return false, nil
}

// GetFirst returns what a secret opens: the address it is for, if any.
func (c *People) GetFirst(ctx context.Context, secret string) (address string, err error) {
	k, err := c.Store.FirstKey(ctx, digestOf(secret))
	if err != nil {
		return "", seam.NotFound(err)
	}
	if !c.Now().Before(k.Until) {
		return "", seam.ErrNotFound
	}
	return k.Address, nil
}

// A First is what is said at the first start: what the school is, and who its office is.
type First struct {
	School                           school.Change
	Given, Family, Address, Password string
}

// Begin begins a school, or mends its office account, where the secret opens it, which is
// spent then. It returns the office's account.
func (c *People) Begin(ctx context.Context, secret string, f First) (accounts.Account, error) {
	a := accounts.Account{ID: store.NewID(), Given: naming.Tidy(f.Given), Family: naming.Tidy(f.Family),
		Address: strings.TrimSpace(f.Address), Role: accounts.Office}
	if err := a.Check(); err != nil {
		return a, err
	}
	if err := weak(f.Password, a.Name(), a.Address); err != nil {
		return a, err
	}
	err := c.Store.Change(ctx, store.Act{By: a.ID, What: "school-begun", At: c.Now(),
		Args: map[string]string{"address": a.Address}}, nil, func(tx *store.Store) error {
		k, err := tx.FirstKey(ctx, digestOf(secret))
		if err != nil || !c.Now().Before(k.Until) {
			return seam.ErrNotFound
		}
		if k.Address != "" && !strings.EqualFold(k.Address, a.Address) {
			return change.Refuse("address", "another-address", "address", k.Address)
		}
		if _, err := c.sayIn(ctx, tx, f.School, school.Change{}); err != nil {
			return err
		}
		found, err := c.SchoolBook.ByAddress(ctx, []string{a.Address})
		if err != nil {
			return err
		}
		if before, there := found[strings.ToLower(a.Address)]; there {
			if before.Role != accounts.Office {
				return change.Refuse("address", "address-taken")
			}
			a.ID, a.Number = before.ID, before.Number
		}
		if err := c.directory.Put(ctx, a); err != nil { // switched on
			return seam.BookError(err)
		}
		if err := errors.Join(c.directory.Known(ctx, a.ID), c.directory.SetPassword(ctx, a.ID, f.Password)); err != nil {
			return err
		}
		return tx.SpendFirstKey(ctx, digestOf(secret))
	})
	if err != nil {
		return a, err
	}
	return a, c.Charter.Read(ctx)
}
