// Package schoolbook is the school's directory of accounts as the application
// sees it.
package schoolbook

import (
	"context"
	"errors"
	"fmt"
	"time"

	"jollysatchel/internal/core/accounts"
)

// ErrRefused says that address and password don't fit; it says no more.
var ErrRefused = errors.New("schoolbook: address and password don't fit")

// Errors of a Keeper.
var (
	ErrTaken  = errors.New("schoolbook: another account has this address")
	ErrNobody = errors.New("schoolbook: no such account")
	ErrMoved  = errors.New("schoolbook: it is another by now")
	ErrLast   = errors.New("schoolbook: nobody would be left in the office")
)

// A Keeper keeps accounts: what can be changed of a book. One of the office is always
// left that has a password and isn't switched off.
type Keeper interface {
	// Put enters an account, or brings the one with its id up to date.
	Put(ctx context.Context, a accounts.Account) error
	// Edit has do change an account as it is then, while nobody else changes the book.
	Edit(ctx context.Context, id string, do func(a *accounts.Account) error) error
	// PutAll does with many what Put does, all or none, where the book still is of a
	// revision; else it is ErrMoved.
	PutAll(ctx context.Context, revision string, accounts []accounts.Account) error
	// SetPassword gives an account a password, in the place of one and of a code.
	SetPassword(ctx context.Context, id, password string) error
	// ChangePassword does so where the one before fits, else it is ErrRefused.
	ChangePassword(ctx context.Context, id, before, password string) error
	// SetCodes gives accounts codes for their next sign-in, all of them or none.
	SetCodes(ctx context.Context, c Codes) error
	// UseCode gives the account of an address a password where its code fits, which is
	// spent then; else it is ErrRefused, in the time that a wrong password takes.
	UseCode(ctx context.Context, address, code, password string, now time.Time) (accounts.Account, error)
}

// Codes are codes for accounts' next sign-in, good once and until a moment.
type Codes struct {
	Of        map[string]string // by account
	By        string            // the account that makes them
	At, Until time.Time
	Away      bool // the passwords they have open nothing any more
	// Replace ends codes that are still good and that another made; else a *CodesGood tells
	// of them, and nothing is done.
	Replace bool
}

// CodesGood names accounts whose code is still good and was made by another.
type CodesGood struct{ Accounts []string }

func (e *CodesGood) Error() string {
	return fmt.Sprintf("schoolbook: %d codes that others made are still good", len(e.Accounts))
}

// A Book answers questions about accounts. Addresses compare without case.
type Book interface {
	// Revision returns a word that is another whenever anything in the book is.
	Revision(ctx context.Context) (string, error)
	// ByAddress returns the accounts of those addresses it knows, by lower-case address.
	ByAddress(ctx context.Context, addresses []string) (map[string]accounts.Account, error)
	// ByID returns the accounts of those ids it knows.
	ByID(ctx context.Context, ids []string) (map[string]accounts.Account, error)
	// All returns every account, students last, by family name.
	All(ctx context.Context) ([]accounts.Account, error)
	// SignIn returns the account whose password fits, or ErrRefused.
	SignIn(ctx context.Context, address, password string) (accounts.Account, error)
}
