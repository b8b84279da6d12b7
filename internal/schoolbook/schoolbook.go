// Package schoolbook is the school's directory of accounts as the application
// sees it.
package schoolbook

import (
	"context"
	"errors"
)

// A Role is what an account is at the school.
type Role string

// The roles.
const (
	Office  Role = "office"
	Staff   Role = "staff"
	Student Role = "student"
)

// An Account is a person's entry in the school book.
type Account struct {
	ID      string `db:"id"`
	Address string `db:"address"`
	Given   string `db:"given"`
	Family  string `db:"family"`
	Number  string `db:"number"`
	Role    Role   `db:"role"`
}

// Name is the account's name as it is spoken.
func (a Account) Name() string {
	if a.Given == "" || a.Family == "" {
		return a.Given + a.Family
	}
	return a.Given + " " + a.Family
}

// ErrRefused says that address and password don't fit; it says no more.
var ErrRefused = errors.New("schoolbook: address and password don't fit")

// A Book answers questions about accounts. Addresses compare without case.
type Book interface {
	// Revision returns a word that is another whenever anything in the book is.
	Revision(ctx context.Context) (string, error)
	// ByAddress returns the accounts of those addresses it knows, by lower-case address.
	ByAddress(ctx context.Context, addresses []string) (map[string]Account, error)
	// ByID returns the accounts of those ids it knows.
	ByID(ctx context.Context, ids []string) (map[string]Account, error)
	// All returns every account, students last, by family name.
	All(ctx context.Context) ([]Account, error)
	// SignIn returns the account whose password fits, or ErrRefused.
	SignIn(ctx context.Context, address, password string) (Account, error)
}
