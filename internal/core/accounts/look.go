package accounts

import (
	"slices"
	"time"

	"jollysatchel/internal/core/naming"
)

// A Standing says whether an account can sign in, and how.
type Standing string

// The standings.
const (
	SwitchedOff Standing = "off"
	HasCode     Standing = "code"  // for the next sign-in
	HasPassword Standing = "ready" // and no code
	CantSignIn  Standing = "new"   // neither a password nor a code
)

// Standing says whether an account can sign in at a moment, and how.
func (a Account) Standing(now time.Time) Standing {
	switch {
	case a.Off:
		return SwitchedOff
	case a.CodeUntil != nil && a.CodeUntil.After(now):
		return HasCode
	case a.Ready:
		return HasPassword
	}
	return CantSignIn
}

// A Column of the school book that it can be sorted by.
type Column string

// The columns; the empty one is the school book's own order.
const (
	ByBook    Column = ""
	ByName    Column = "name"
	ByAddress Column = "address"
	ByNumber  Column = "number"
	ByRole    Column = "role"
)

// Sorted returns accounts by a column, those that are equal in it as they stood; empty ones come
// last, either way.
func Sorted(all []Account, by Column, down bool, order naming.Order) []Account {
	if by == ByBook {
		return all
	}
	keys := make(map[string][2]string, len(all))
	for _, a := range all {
		keys[a.ID] = a.keys(by)
	}
	out := slices.Clone(all)
	slices.SortStableFunc(out, func(a, b Account) int {
		ka, kb := keys[a.ID], keys[b.ID]
		for i := range ka {
			switch {
			case ka[i] == kb[i]:
				continue
			case (ka[i] == "") != (kb[i] == ""):
				return sign(kb[i] == "", false)
			}
			return sign(order.Less(ka[i], kb[i]), down)
		}
		return 0
	})
	return out
}

func sign(less, down bool) int {
	if less != down {
		return -1
	}
	return 1
}

func (a Account) keys(by Column) [2]string {
	switch by {
	case ByAddress:
		return [2]string{a.Address}
	case ByNumber:
		return [2]string{a.Number}
	case ByRole:
		return [2]string{string(a.Role)}
	}
	if a.Family == "" {
		return [2]string{a.Given, ""}
	}
	return [2]string{a.Family, a.Given}
}

// A Filter says which accounts are looked for: those whose names, address or number have a word that
// begins with each word of a text, of a role and of a standing where one is said.
type Filter struct {
	Text     string
	Role     Role
	Standing Standing
}

// Of are those of some accounts that are looked for, as they are at a moment, in their order.
func (f Filter) Of(all []Account, now time.Time) []Account {
	if naming.Tidy(f.Text) != "" {
		all = Find(f.Text, all, len(all))
	}
	found := []Account{}
	for _, a := range all {
		if (f.Role == "" || a.Role == f.Role) && (f.Standing == "" || a.Standing(now) == f.Standing) {
			found = append(found, a)
		}
	}
	return found
}
