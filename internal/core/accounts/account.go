// Package accounts is who is known at the school: the school book's entries, and what may be said
// of them.
package accounts

import "time"

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
	Off     bool   `db:"off"`   // switched off: it signs in nowhere, and what it had stays
	Ready   bool   `db:"ready"` // it has a password
	// CodeUntil is when the code for its first sign-in ends; nil: it has none.
	CodeUntil *time.Time `db:"code_until"`
	CodeBy    string     `db:"code_by"` // the account that made it
}

// Name is the account's name as it is spoken.
func (a Account) Name() string {
	if a.Given == "" || a.Family == "" {
		return a.Given + a.Family
	}
	return a.Given + " " + a.Family
}
