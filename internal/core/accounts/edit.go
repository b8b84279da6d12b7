package accounts

import (
	"strconv"

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
// changes, what was looked at. What isn't changed may be longer than is allowed by now.
func (ch Change) Of(a *Account, was Change) error {
	role := string(a.Role)
	said, before := ch.texts(), was.texts()
	for i, x := range append(a.texts(), text{"role", &role, MostName}) {
		if said[i] == nil {
			continue
		}
		to := naming.Tidy(*said[i])
		if len(to) > x.most {
			return change.TooLong(x.field, x.most)
		}
		if err := change.Unless(before[i], x.field, *x.value, to); err != nil {
			return err
		}
		*x.value = to
	}
	a.Role = Role(role)
	if ch.Off != nil {
		a.Off = *ch.Off
	}
	return a.form()
}

// Told returns what differs between an account before and after a change, for the log.
func Told(before, after Account) []change.Told {
	return change.Differing([]change.Told{
		{What: "account-name", From: before.Name(), To: after.Name()},
		{What: "account-address", From: before.Address, To: after.Address},
		{What: "account-number", From: before.Number, To: after.Number},
		{What: "account-role", From: string(before.Role), To: string(after.Role)},
		{What: "account-off", From: strconv.FormatBool(before.Off), To: strconv.FormatBool(after.Off)},
	}...)
}

// A text is a field of an account, and how long it may be.
type text struct {
	field string
	value *string
	most  int
}

func (a *Account) texts() []text {
	return []text{{"given", &a.Given, MostName}, {"family", &a.Family, MostName},
		{"address", &a.Address, roster.MostAddress}, {"number", &a.Number, MostNumber}}
}

// texts are those that are said, as an account has them, and the role.
func (ch Change) texts() []*string {
	return []*string{ch.Given, ch.Family, ch.Address, ch.Number, (*string)(ch.Role)}
}

// Check says what is wrong with a new account.
func (a Account) Check() error {
	for _, x := range a.texts() {
		if len(*x.value) > x.most {
			return change.TooLong(x.field, x.most)
		}
	}
	return a.form()
}

// form says what an account lacks, or has that is none.
func (a Account) form() error {
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
