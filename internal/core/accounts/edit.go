package accounts

import (
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/roster"
)

// How long an account's fields may be, in bytes.
const (
	MostName   = 200
	MostNumber = 100
)

// A Change is what the office says about an account. Nil parts stay.
type Change struct {
	Given, Family, Address, Number *string
	Role                           *Role
	Off                            *bool
}

// Of puts a change into an account, or says what is wrong with it. was holds, of what
// changes, what was looked at.
func (ch Change) Of(a *Account, was Change) error {
	role := string(a.Role)
	for _, x := range []struct {
		field   string
		to, was *string
		now     *string
	}{
		{"given", ch.Given, was.Given, &a.Given}, {"family", ch.Family, was.Family, &a.Family}, {"address", ch.Address, was.Address, &a.Address}, {"number", ch.Number, was.Number, &a.Number},
		{"role", (*string)(ch.Role), (*string)(was.Role), &role},
	} {
		if x.to == nil {
			continue
		}
		to := naming.Tidy(*x.to)
		if err := change.Unless(x.was, x.field, *x.now, to); err != nil {
			return err
		}
		*x.now = to
	}
	a.Role = Role(role)
	if ch.Off != nil {
		a.Off = *ch.Off
	}
	return a.Check()
}

// Check says what is wrong with an account.
func (a Account) Check() error {
	for _, x := range []struct {
		field, value string
		most         int
	}{{"given", a.Given, MostName}, {"family", a.Family, MostName}, {"address", a.Address, roster.MostAddress}, {"number", a.Number, MostNumber}} {
		if len(x.value) > x.most {
			return change.TooLong(x.field, x.most)
		}
	}
	switch a.Role {
	case Office, Staff, Student:
	default:
		return change.Refuse("role", "no-such-role")
	}
	switch {
	case a.Name() == "":
		return change.Refuse("given", "missing")
	case a.Address == "":
		return change.Refuse("address", "missing")
	case roster.AddressForm(a.Address) != "":
		return change.Refuse("address", "no-address")
	}
	return nil
}
